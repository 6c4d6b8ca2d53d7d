// SPDX-License-Identifier: GPL-3.0-or-later
// What can be said of a panel without any run: use, sun, the rule of thumb, the current to set.
#pragma once

#include "solar/solar.hpp"

namespace sipper {

/// Design: run and answer, `plan`.
struct SunPlan {
    double useWhDay = 0; ///< from the pack at half charge and typical air, nothing coming in
    double useWhYear = 0;
    std::array<double, 12> sunHours{}; ///< kWh/m2 a day on the panel, by month
    std::size_t worstSunMonth = 0;     ///< 0 to 11
    double panelW = 0;                 ///< by the labels of all panels
    double ruleWhDay = 0; ///< 0.6 of the panel's watts times the worst month's sun-hours
    std::optional<double> panelNeededW;     ///< by that rule; nothing without sun
    std::optional<double> panelWithMarginW; ///< times the brief's headroom
    std::optional<double>
        setCurrent; ///< A into the nominal pack with the panel at its top in full sun
    std::optional<double> programOhm;   ///< next of E24 that sets no more than that
    std::optional<double> autonomyDays; ///< from full without light; nothing over three years
};

[[nodiscard]] SunPlan planOf(SolarSimulation& bench);

/// Factor on a panel's current from a reading of the short-circuit current at solar `hour` on `day`
/// (1 to 365) under a clear sky: `I / (count_parallel Isc G/1000)`, G on the panel from Haurwitz's
/// sky. Nothing where no light falls on it then, or without label or latitude.
[[nodiscard]] std::optional<double> fieldFactorFrom(const Panel& panel, double latitude, int day,
                                                    double hour, double shortCircuitAmps);
/// The same from watts at the best working point.
[[nodiscard]] std::optional<double> fieldFactorFromWatts(const Panel& panel, double latitude,
                                                         int day, double hour, double air,
                                                         double watts);

} // namespace sipper
