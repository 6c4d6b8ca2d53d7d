// SPDX-License-Identifier: GPL-3.0-or-later
// Rules of thumb for leads and fuses.
#pragma once

#include "parts/stage.hpp"

#include <functional>
#include <optional>
#include <span>

namespace sipper {

/// Amps that a lead may carry, a conservative rule of thumb for open chassis wiring (docs/model.md:
/// Stages): 10 A/mm2 up to 1.5 mm2, then 2.5: 20, 4: 27, 6: 35, 10: 50 A, straight lines between;
/// thicker goes on at the last slope; halved in a bundle.
[[nodiscard]] double ampacity(double areaMm2, bool bundled);
[[nodiscard]] double ampacity(const Wire& wire);
[[nodiscard]] double areaOf(const Wire& wire); ///< mm2

/// Ohms that a part puts in the way: a source its own, a lead with its contacts, what only passes
/// its series resistance; 0 for what converts.
[[nodiscard]] double ohmsInTheWay(const Part& part, Celsius ambient);

/// The smallest usual cross-section (mm2) over `area` that is enough; nothing where none is.
[[nodiscard]] std::optional<double> thickerLead(double area,
                                                const std::function<bool(double)>& enough);

/// Standard fuse ratings in amps, rising: of glass IEC 60127, of blade ISO 8820, of resettable ones
/// what is usual; without a form all of glass and blade. The shipped library has each of them.
[[nodiscard]] std::span<const double> fuseRatings(std::optional<FuseForm> form = std::nullopt);

/// The smallest standard rating from `least` to `most`; nothing when there is none between.
[[nodiscard]] std::optional<double> chooseFuse(double least, double most,
                                               std::optional<FuseForm> form = std::nullopt);

/// Share of its rating that a fuse carries for good (docs/model.md: Protection).
inline constexpr double kFuseUse = 0.75;
/// Times its rating that a slow fuse carries for a burst (docs/model.md: Protection).
inline constexpr double kSlowBurst = 2;
/// What a fuse must stand: the larger of the greatest lasting current over 0.75, and the burst
/// peak, of which a slow fuse carries twice its rating (docs/model.md: Protection).
[[nodiscard]] double leastFuse(double lastingAmps, double burstAmps, FuseSpeed speed);

} // namespace sipper
