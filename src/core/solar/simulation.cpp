// SPDX-License-Identifier: GPL-3.0-or-later
#include "solar/simulation.hpp"

#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kColdest = -95; ///< degC that the table of a pack begins with
constexpr double kWarmest = 75;
constexpr double kAirStep = 0.5;
constexpr double kNoTilt = 90; ///< steepest that a panel is put up by itself

Error wrong(const std::string& where, const std::string& found, const std::string& expected) {
    return Error{"sun", where, found, expected, ""};
}

} // namespace

double labelWatts(const Panel& p) {
    return orZero(p.vmp) * orZero(p.imp) * p.countSeries.value_or(1) * p.countParallel.value_or(1);
}

double nominalVolts(const Pack& pack) {
    return pack.series *
           (pack.cell.nominal ? pack.cell.nominal->value() : voltsOf(pack.cell.chemistry).nominal);
}

double labelWattHours(const Pack& pack) {
    return nominalVolts(pack) * pack.parallel * pack.cell.capacity.value();
}

PanelOrientation facingOf(const Panel& panel, double latitude) {
    const double upright = std::min(std::abs(latitude), kNoTilt);
    return {latitude, panel.tilt ? panel.tilt->value() : upright,
            panel.azimuth  ? panel.azimuth->value()
            : latitude < 0 ? 0.0
                           : 180.0};
}

PackOverAir::PackOverAir(const Pack& pack, double scale)
    : m_model(pack, Celsius{25}), m_parallel(m_model.parallel * scale),
      m_selfShare(pack.cell.selfDischargeShare.value_or(0) / kHoursPerMonth) {
    for (double air = kColdest; air <= kWarmest; air += kAirStep) {
        const PackModel model(pack, Celsius{air});
        m_steps.push_back({model.usable * m_parallel, model.resistance, model.relaxation});
    }
}

PackAt PackOverAir::at(double air) const {
    const double place =
        std::clamp((air - kColdest) / kAirStep, 0.0, static_cast<double>(m_steps.size()) - 1.001);
    const auto i = static_cast<std::size_t>(place);
    const double share = place - static_cast<double>(i);
    const PackAt& a = m_steps[i];
    const PackAt& b = m_steps[i + 1];
    return {a.ampHours + share * (b.ampHours - a.ampHours), a.r0 + share * (b.r0 - a.r0),
            a.r1 + share * (b.r1 - a.r1)};
}

SolarSimulation::Impl::Impl(const Project& p, const Weather& w, std::size_t charger_,
                            std::size_t panel, std::size_t pack_, const PanelPath& panelWay,
                            double latitudeDeg)
    : project(p), weather(w), chargerAt(charger_), panelAt(panel), packAt(pack_),
      charger(std::get<Charger>(p.stages[charger_].part)),
      pack(std::get<Pack>(p.stages[pack_].part)), way(panelWay), latitude(latitudeDeg),
      typicalAir(p.brief.air().usual().value()), chargeFrom(chargeFromOf(pack.cell)),
      leg(legOf(p, p.stages[charger_], p.brief.air().usual())), charts(p, p.brief.air().usual()) {
    if (pack.cell.chargeTo)
        chargeTo = pack.cell.chargeTo->value();
    makeDay();
    makeLight();
}

/// Hours of the day cut at slots and at the edges of the loads' windows.
void SolarSimulation::Impl::makeDay() {
    constexpr double kSlotMinutes = 10;
    const Schedule& schedule = charts.line().schedule();
    day.resize(24);
    for (std::size_t hour = 0; hour < day.size(); ++hour)
        for (std::size_t slot = 0; slot < kSlotsAnHour; ++slot) {
            double from = static_cast<double>(hour) * 60 + static_cast<double>(slot) * kSlotMinutes;
            const double to = from + kSlotMinutes;
            while (to - from > 1e-6) {
                const Schedule::Now now = schedule.at(from);
                const double end = std::min(to, from + now.minutesLeft);
                day[hour].push_back({(end - from) / 60, slot, now.setting, from});
                from = end;
            }
        }
}

void SolarSimulation::Impl::makeLight() {
    const PlaneOfArray sky(facingOf(std::get<Panel>(project.stages[panelAt].part), latitude),
                           weather.solarTimeOffset);
    light.reserve(weather.ghi.size() * kSlotsAnHour);
    for (std::size_t hour = 0; hour < weather.ghi.size(); ++hour)
        for (const double g :
             sky.through(hour % kHoursAYear, static_cast<double>(weather.ghi[hour])))
            light.push_back(static_cast<float>(g));
}

SolarSimulation::SolarSimulation(std::unique_ptr<Impl> impl) : m_impl(std::move(impl)) {}
SolarSimulation::~SolarSimulation() = default;

std::vector<std::string> sunChargersOf(const Project& project) {
    std::vector<std::string> ids;
    for (const Stage& s : project.stages)
        if (isCharger(s.part) && !wayToPanel(project, s).empty())
            ids.push_back(s.id);
    return ids;
}

bool byTheSun(const Project& project) {
    const auto& ways = project.brief.refilledBy;
    return ways && std::find(ways->begin(), ways->end(), "sun") != ways->end() &&
           !sunChargersOf(project).empty();
}

std::optional<double> latitudeOf(const Project& project, const Weather& weather) {
    if (project.brief.latitude)
        return project.brief.latitude->value();
    return weather.syntheticWeather ? std::nullopt : weather.latitude;
}

Outcome<Weather> usualWeather(const Project& project, std::uint64_t seed, std::size_t years) {
    if (!project.brief.latitude)
        return wrong("/brief/latitude_deg", "nothing", "where it is, in degrees north");
    const double latitude = project.brief.latitude->value();
    const auto climate = climateOf(project.brief.climate, latitude);
    if (!climate)
        return climate.error();
    return syntheticWeather(climate.value(), latitude, seed, std::max<std::size_t>(1, years));
}

Outcome<std::unique_ptr<SolarSimulation>>
SolarSimulation::of(const Project& p, const Weather& weather, const std::string& charger) {
    const auto ids = sunChargersOf(p);
    if (ids.empty())
        return wrong("/stages", "no charger that a panel feeds", "a panel and a charger on it");
    const std::string id = charger.empty() ? ids.front() : charger;
    const Stage* stage = p.stage(id);
    if (!stage || !isCharger(stage->part))
        return wrong("charger", "\"" + id + "\"", "a charger that a panel feeds");
    const auto found = panelOf(p, *stage);
    if (!found)
        return found.error();
    const auto& part = std::get<Charger>(stage->part);
    const std::size_t packAt = stageIndex(p, part.charges);
    const auto* pack = packAt == kNotFound ? nullptr : std::get_if<Pack>(&p.stages[packAt].part);
    if (!pack || packAt != packIndex(p))
        return wrong("charger", "\"" + id + "\" charges \"" + part.charges + "\"",
                     "the pack that the loads hang on");
    if (!canRecharge(pack->cell))
        return wrong(fmt::format("/stages/{}/cell", packAt), "cells that are used once",
                     "cells that can be recharged");
    const double empty = pack->series * (pack->cell.empty ? pack->cell.empty->value()
                                                          : voltsOf(pack->cell.chemistry).empty);
    const double open = found.value().way.series * found.value().way.shape.label.openCircuit;
    if (part.topology == Topology::boost && open >= empty)
        return wrong(fmt::format("/stages/{}", stageIndex(p, id)),
                     fmt::format("a boost on a panel of {:g} V", open),
                     fmt::format("under the pack's {:g} V when empty", empty));
    const auto latitude = latitudeOf(p, weather);
    if (!latitude)
        return wrong("/brief/latitude_deg", "nothing", "where it is, in degrees north");
    if (weather.ghi.empty())
        return wrong("weather", "no hours", "a year of them");
    return std::unique_ptr<SolarSimulation>(new SolarSimulation(std::make_unique<Impl>(
        p, weather, stageIndex(p, id), found.value().at, packAt, found.value().way, *latitude)));
}

} // namespace sipper
