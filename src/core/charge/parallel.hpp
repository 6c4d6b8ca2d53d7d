// SPDX-License-Identifier: GPL-3.0-or-later
// Several packs: joined side by side, or filled from each other.
#pragma once

#include <cstddef>
#include <string>
#include <vector>

namespace sipper {

/// A pack as it lies on the bench, with its lead.
struct TheveninPack {
    double volts = 0;     ///< at rest
    double ohms = 0;      ///< of the pack and its lead, over 0
    double most = 0;      ///< A that its cells take; 0: not known
    double wattHours = 0; ///< nameplate; 0: not known
};

struct Joined {
    double volts = 0;         ///< where they meet at once
    std::vector<double> amps; ///< into each, negative out of it
    double mostInto = 0;
    bool refused = false;           ///< over what some cells or the leads take
    std::string why;                ///< in words, where refused
    std::vector<std::size_t> order; ///< lowest first: which to charge before joining
    double mayDiffer = 0;           ///< V between highest and lowest at which it would not be
};

/// Two to ten packs of equal cell count joined in parallel: each current by Ohm's law to the volts
/// where they meet, `V = sum(V_k/R_k) / sum(1/R_k)` (Millman 1940). `leadAmps`: what the leads
/// carry; 0: not known. Fewer than two packs answer nothing.
[[nodiscard]] Joined joinPacks(const std::vector<TheveninPack>& packs, double leadAmps);

/// How often a big pack fills a small one: by watt-hours, with what the big one's converter and the
/// small one's charger lose (efficiencies 0 to 1).
[[nodiscard]] double fillsFrom(double bigWh, double outEfficiency, double smallWh,
                               double inEfficiency);

} // namespace sipper
