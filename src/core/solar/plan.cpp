// SPDX-License-Identifier: GPL-3.0-or-later
#include "solar/plan.hpp"

#include "base/tolerance.hpp"
#include "parts/chemistry.hpp"
#include "parts/eseries.hpp"
#include "parts/figures.hpp"
#include "solar/simulation.hpp"

#include <algorithm>
#include <numeric>

namespace sipper {
namespace {

constexpr double kRuleShare = 0.6;    ///< of a panel's watts that people count on
constexpr double kHalf = 0.5;         ///< charge at which use is told
constexpr double kHeadroom = 1.5;     ///< where the brief says nothing
constexpr double kFullSun = 1000;     ///< W/m2
constexpr double kLongest = 3 * 8760; ///< h; what lasts longer needs no panel
constexpr double kDaysAYearWh = 365;

double useADay(SolarSimulation::Impl& b) {
    const PackOverAir pack(b.pack, 1);
    const PackModel& m = pack.model();
    const PackAt at = pack.at(b.typicalAir);
    const double r0 =
        at.r0 * (m.resistanceByCharge.empty() ? 1 : factorAt(m.resistanceByCharge, kHalf));
    const double ohms = m.series / m.parallel * (r0 + at.r1) + m.connection;
    const double dark = orZero(b.charger.dark);
    const double push = m.restVolts(kHalf) - dark * ohms;
    const auto hours = b.charts.line().schedule().hoursBySetting();
    double wattHours = 0;
    for (std::size_t s = 0; s < hours.size(); ++s) {
        if (hours[s] <= 0)
            continue;
        const auto reading = b.charts.of(s, 0, r0, at.r1).at(push);
        wattHours += hours[s] * (reading.watts() + dark * (push - reading.amps() * ohms));
    }
    return wattHours;
}

std::array<double, 12> sunHoursOf(const SolarSimulation::Impl& b) {
    std::array<double, 12> sums{};
    const std::size_t years = b.weather.years();
    for (std::size_t slot = 0; slot < b.light.size(); ++slot)
        sums[monthOf(slot / kSlotsAnHour % kHoursAYear / 24)] += static_cast<double>(b.light[slot]);
    for (std::size_t month = 0; month < sums.size(); ++month) {
        const double days =
            static_cast<double>((firstDayOf(month + 1) - firstDayOf(month)) * years);
        sums[month] /= 1000 * days * static_cast<double>(kSlotsAnHour);
    }
    return sums;
}

/// W/m2 on a panel under a clear sky.
double clearLight(const Panel& panel, double latitude, int day, double hour) {
    return PlaneOfArray(facingOf(panel, latitude), 0)
        .at(day, hour, clearSkyGhi(sinElevation(latitude, day, hour)));
}

} // namespace

SunPlan planOf(SolarSimulation& bench) {
    SolarSimulation::Impl& b = bench.impl();
    SunPlan plan;
    plan.useWhDay = useADay(b);
    plan.useWhYear = plan.useWhDay * kDaysAYearWh;
    plan.sunHours = sunHoursOf(b);
    plan.worstSunMonth = static_cast<std::size_t>(
        std::min_element(plan.sunHours.begin(), plan.sunHours.end()) - plan.sunHours.begin());
    const double worst = plan.sunHours[plan.worstSunMonth];
    const auto& panel = std::get<Panel>(b.project.stages[b.panelAt].part);
    plan.panelW = labelWatts(panel);
    plan.ruleWhDay = kRuleShare * plan.panelW * worst;
    if (worst > 0) {
        plan.panelNeededW = plan.useWhDay / (kRuleShare * worst);
        plan.panelWithMarginW = *plan.panelNeededW * b.project.brief.headroom.value_or(kHeadroom);
    }
    if (b.charger.topology != Topology::direct) {
        const PanelCharger charger(b.charger, b.way, 0);
        const double amps =
            charger.givesAtTop(b.way.curve(kFullSun, b.typicalAir), nominalVolts(b.pack));
        if (amps > 0) {
            plan.setCurrent = amps;
            if (b.charger.programK)
                plan.programOhm = seriesAtOrOver("E24", *b.charger.programK / amps);
        }
    }
    if (const auto hours = autonomyHours(bench, kLongest))
        plan.autonomyDays = *hours / 24;
    return plan;
}

std::optional<double> fieldFactorFrom(const Panel& panel, double latitude, int day, double hour,
                                      double amps) {
    const auto label = labelOf(panel, "panel");
    if (!label || amps <= 0)
        return std::nullopt;
    const double light = clearLight(panel, latitude, day, hour);
    const double full =
        panel.countParallel.value_or(1) * label.value().shortCircuit * light / kFullSun;
    return full > 0 ? std::optional(amps / full) : std::nullopt;
}

std::optional<double> fieldFactorFromWatts(const Panel& panel, double latitude, int day,
                                           double hour, double air, double watts) {
    const auto label = labelOf(panel, "panel");
    if (!label || watts <= 0)
        return std::nullopt;
    const double light = clearLight(panel, latitude, day, hour);
    PanelPath way{PanelShape(label.value()), panel.countSeries.value_or(1), 1, 0, 0};
    const double whole =
        panel.countParallel.value_or(1) * way.curve(light, air).mpp().second; // amps scale watts
    return whole > 0 ? std::optional(watts / whole) : std::nullopt;
}

} // namespace sipper
