// SPDX-License-Identifier: GPL-3.0-or-later
// What stands between a charger and the pack that it charges.
#pragma once

#include "project/tree.hpp"

namespace sipper {

/// The leg as one part: volts lost on it are `drop + ohms x amps`.
struct ChargeLeg {
    double ohms = 0;
    double drop = 0;
    bool sensed = false; ///< the charger holds its volts at the pack, not at its own output
    [[nodiscard]] double volts(double amps) const { return amps > 0 ? drop + ohms * amps : 0; }
    /// The part of it that stands inside the volts which the charger holds.
    [[nodiscard]] double inside(double amps) const { return sensed ? 0 : volts(amps); }
    [[nodiscard]] bool any() const { return ohms > 0 || drop > 0; }
};
/// Of one stage of a leg; `sensed` is left false. Leads are taken at `ambient`.
[[nodiscard]] ChargeLeg legPartOf(const Stage& stage, Celsius ambient);
[[nodiscard]] ChargeLeg legOf(const Project& project, const Stage& charger, Celsius ambient);

} // namespace sipper
