// SPDX-License-Identifier: GPL-3.0-or-later
// A panel looked at for advice and for the window: its usual year, its curve at one moment, what
// would change the year, and how much panel and pack it takes.
#pragma once

#include "project/library.hpp"
#include "solar/plan.hpp"

namespace sipper {

inline constexpr std::size_t kSunYears = 10; ///< of weather that a verdict is made for

/// A panel's curve on a bright day of a month at one hour, and where the charger puts it, with the
/// pack at half charge.
struct MppSnapshot {
    std::size_t month = 0; ///< 0 to 11
    std::size_t hour = 12; ///< of the clock
    double light = 0;      ///< W/m2 on the panel: nine days in ten are duller
    double air = 0;        ///< degC, the mean of that hour
    PanelCurve curve;
    PanelCurve label; ///< the same panels in laboratory light, field factor 1
    ChargerDemand asked;
    PanelPoint stand;
    double ampsAtMpp = 0; ///< A into the pack with the panel at its top
    [[nodiscard]] double watts() const { return stand.panelVolts * stand.panelAmps; }
    [[nodiscard]] double topWatts() const { return curve.mpp().second; }
};
[[nodiscard]] MppSnapshot mppAt(SolarSimulation& bench, std::size_t month, std::size_t hour);

/// What advice and verdict look at: ten years of the stand-in for the brief's climate.
struct SolarAnalysis {
    std::shared_ptr<const Weather> weather;
    SolarYear year;
    SunPlan plan;
    MppSnapshot noon; ///< of the month in which the charger leaves most at the maximum power point
};
/// Nothing without a panel that charges a pack, or where that can't be run.
[[nodiscard]] std::optional<SolarAnalysis> analyseSolar(const Project& project,
                                                        const std::stop_token& stop = {});

/// One change, really run.
struct SolarImprovement {
    std::string says; ///< `panel 30° steeper`
    Project project;
    double lossOfLoadHours = 0; ///< h over all years
    double least = 0;           ///< charge
    double priceMore = 0;
};
/// Tilt and azimuth, panel and pack up one, half the draws, the charger at the maximum power point,
/// holding it or tracking it; what misses least first, then what keeps most charge.
[[nodiscard]] std::vector<SolarImprovement>
solarImprovements(const Project& project, const Weather& weather, const std::string& charger,
                  std::size_t years, const Library& library, const std::stop_token& stop = {});

/// What a charger would be set to so that it asks for no more than `amps`: by the next resistor of
/// E24 where it has one.
struct KneeSetting {
    double amps = 0;
    std::optional<double> ohms;
};
[[nodiscard]] KneeSetting mppSetting(const Charger& charger, double amps);
/// The project with that charger set so.
[[nodiscard]] Project withKneeCurrent(const Project& project, const std::string& charger,
                                      double amps);
/// The project with each of the next larger panels of the library in place, up to `count`, by what
/// they are called; with two of its own where the library has none.
[[nodiscard]] std::vector<std::pair<std::string, Project>> panelSizes(const Project& project,
                                                                      const Library& library,
                                                                      const std::string& charger,
                                                                      std::size_t count);
/// The project with a charger that tracks in this one's place; empty where there is nothing better.
[[nodiscard]] std::optional<Project> withTracking(const Project& project,
                                                  const std::string& charger);

/// What misses nothing in so many years.
struct MinimumSizing {
    std::optional<double> panelW; ///< least of this panel's kind with this pack
    std::optional<double> packWh; ///< least of these cells with this panel
    struct Pair {
        std::string panel; ///< of the library
        double parallel = 1;
        double price = 0;
        Project project;
    };
    std::optional<Pair> cheapest; ///< panel of the library and cells in parallel
};
[[nodiscard]] MinimumSizing sunNeed(const Project& project, const Weather& weather,
                                    const std::string& charger, std::size_t years,
                                    const Library& library, const std::stop_token& stop = {});

} // namespace sipper
