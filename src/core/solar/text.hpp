// SPDX-License-Identifier: GPL-3.0-or-later
// The sentences about a panel's year.
#pragma once

#include "solar/map.hpp"
#include "solar/plan.hpp"

#include <string>

namespace sipper {

/// `January`, by 0 to 11.
[[nodiscard]] std::string monthName(std::size_t month);
/// `nothing missed`, `46 h missed a year`.
[[nodiscard]] std::string missedText(const SolarYear& year);
/// `46 h missed in the year, 44 of them in January. The panel gives 1.6 times the need in December,
/// 6 times in June.`
[[nodiscard]] std::string sunHeadline(const SolarYear& year);
/// How many times what the loads and losses take the panel could give in a month.
[[nodiscard]] double timesTheNeed(const SolarYear& year, std::size_t month);
/// Why the rule of thumb differs from the year.
[[nodiscard]] std::string ruleText(const SolarYear& year, const SunPlan& plan);

/// The whole answer on a terminal.
[[nodiscard]] std::string sunText(const SolarYear& year, const SunPlan& plan,
                                  const Weather& weather);
[[nodiscard]] std::string sunMapText(const SizingMap& map);

} // namespace sipper
