// SPDX-License-Identifier: GPL-3.0-or-later
#include "solar/look.hpp"

#include "parts/chemistry.hpp"
#include "parts/eseries.hpp"
#include "parts/figures.hpp"
#include "project/roles.hpp"
#include "project/tree.hpp"
#include "solar/simulation.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kBright = 0.9; ///< share of the days that are duller
constexpr double kLabLight = 1000;
constexpr double kLabAir = -5;      ///< air at which cells in full sun have 25 degC
constexpr double kSteeper = 15;     ///< degrees over the latitude, for winter
constexpr double kOffBy = 5;        ///< degrees that are worth a turn
constexpr double kSameVolts = 0.15; ///< share by which two panels' best volts may differ
constexpr double kHoldShare = 0.95; ///< of the best volts, at which a charger holds its input
constexpr int kNeedRounds = 7;
constexpr double kMostScale = 8; ///< of panel or pack that a need is looked for in
constexpr double kMostParallel = 6;

Panel& panelOfStage(Project& p, std::size_t at) {
    return std::get<Panel>(p.stages[at].part);
}

std::string idOf(const Project& p, const std::string& charger) {
    if (!charger.empty())
        return charger;
    const auto ids = sunChargersOf(p);
    return ids.empty() ? std::string() : ids.front();
}

std::optional<SolarYear> runOf(const Project& p, const Weather& weather, const std::string& charger,
                               SolarOptions ask, const std::stop_token& stop) {
    auto bench = SolarSimulation::of(p, weather, charger);
    if (!bench)
        return std::nullopt;
    ask.details = false;
    return bench.value()->run(ask, stop);
}

/// Panels of the library that work at this one's volts, by watts.
std::vector<Stage> panelsLike(const Panel& panel, const Library& library) {
    std::vector<Stage> like;
    for (const LibraryPart& part : library.parts)
        if (const auto* other = std::get_if<Panel>(&part.stage.part))
            if (std::abs(orZero(other->vmp) - orZero(panel.vmp)) <= kSameVolts * orZero(panel.vmp))
                like.push_back(part.stage);
    std::sort(like.begin(), like.end(), [](const Stage& a, const Stage& b) {
        return labelWatts(std::get<Panel>(a.part)) < labelWatts(std::get<Panel>(b.part));
    });
    return like;
}

/// Another panel in the same place: it stands as the old one did.
void putPanel(const Project& project, Stage& place, const Stage& panel) {
    const Panel old = std::get<Panel>(place.part);
    Panel next = std::get<Panel>(panel.part);
    next.tilt = old.tilt;
    next.azimuth = old.azimuth;
    next.fieldFactor = old.fieldFactor;
    next.countSeries = old.countSeries;
    Stage named = panel;
    named.part = next;
    named = placedInstead(project, place, std::move(named));
    place.part = next;
    place.label = named.label;
    place.make = named.make;
    place.price = panel.price;
    place.mass = panel.mass;
}

double priceOf(const Project& p) {
    double sum = 0;
    for (const Stage& s : p.stages) {
        if (const auto* pack = std::get_if<Pack>(&s.part))
            sum += pack->series * pack->parallel * pack->cell.price.value_or(0);
        sum += s.price.value_or(0);
    }
    return sum;
}

} // namespace

MppSnapshot mppAt(SolarSimulation& bench, std::size_t month, std::size_t hour) {
    SolarSimulation::Impl& b = bench.impl();
    MppSnapshot knee;
    knee.month = month;
    knee.hour = hour;
    std::vector<double> lights;
    double air = 0;
    for (std::size_t year = 0; year < b.weather.years(); ++year)
        for (std::size_t day = firstDayOf(month); day < firstDayOf(month + 1); ++day) {
            const std::size_t at = year * kHoursAYear + day * 24 + hour;
            lights.push_back(static_cast<double>(b.light[at * kSlotsAnHour + kSlotsAnHour / 2]));
            air += b.airAt(at);
        }
    knee.air = air / static_cast<double>(lights.size());
    const auto bright = lights.begin() + static_cast<std::ptrdiff_t>(
                                             kBright * static_cast<double>(lights.size() - 1));
    std::nth_element(lights.begin(), bright, lights.end());
    knee.light = *bright;
    knee.curve = b.way.curve(knee.light, knee.air);
    const auto& panel = std::get<Panel>(b.project.stages[b.panelAt].part);
    PanelPath label = b.way;
    label.parallel = panel.countParallel.value_or(1);
    knee.label = label.curve(kLabLight, kLabAir);
    const PackOverAir pack(b.pack, 1);
    const PackAt at = pack.at(knee.air);
    const PackModel& m = pack.model();
    SunNode node;
    node.e = m.restVolts(0.5);
    const double r0 =
        at.r0 * (m.resistanceByCharge.empty() ? 1 : factorAt(m.resistanceByCharge, 0.5));
    node.r = m.series / m.parallel * (r0 + at.r1) + m.connection;
    node.line = &b.charts.of(0, 0, r0, at.r1);
    node.leg = b.leg;
    const PanelCharger charger(b.charger, b.way, orZero(b.pack.cell.maxCharge) * m.parallel);
    knee.asked = charger.asks(node);
    knee.stand = charger.stand(knee.curve, knee.air, node, knee.asked);
    if (knee.curve.lit())
        knee.ampsAtMpp = charger.givesAtTop(knee.curve, node.e);
    return knee;
}

std::optional<SolarAnalysis> analyseSolar(const Project& p, const std::stop_token& stop) {
    if (sunChargersOf(p).empty())
        return std::nullopt;
    auto weather = usualWeather(p, 1, kSunYears);
    if (!weather)
        return std::nullopt;
    SolarAnalysis look;
    look.weather = std::make_shared<const Weather>(std::move(weather).value());
    auto bench = SolarSimulation::of(p, *look.weather);
    if (!bench)
        return std::nullopt;
    SolarOptions ask;
    ask.years = kSunYears;
    auto year = bench.value()->run(ask, stop);
    if (!year)
        return std::nullopt;
    look.year = std::move(*year);
    look.plan = planOf(*bench.value());
    const auto& months = look.year.months;
    const auto worst =
        std::max_element(months.begin(), months.end(),
                         [](const auto& a, const auto& b) { return a.lostOffMpp < b.lostOffMpp; });
    const auto month = look.year.all.lossOfLoadHours > 0
                           ? look.year.worstMonth
                           : static_cast<std::size_t>(worst - months.begin());
    look.noon = mppAt(*bench.value(), month, 12);
    return look;
}

KneeSetting mppSetting(const Charger& c, double amps) {
    if (!c.programK || amps <= 0)
        return {amps, std::nullopt};
    const double ohms = seriesAtOrOver("E24", *c.programK / amps);
    return {*c.programK / ohms, ohms};
}

Project withKneeCurrent(const Project& project, const std::string& charger, double amps) {
    Project p = project;
    Stage* stage = p.stage(charger);
    if (!stage || amps <= 0)
        return p;
    auto& c = std::get<Charger>(stage->part);
    const KneeSetting set = mppSetting(c, amps);
    c.chargeCurrent = Amps{set.amps};
    if (set.ohms)
        c.programOhm = Ohms{*set.ohms};
    return p;
}

std::vector<std::pair<std::string, Project>> panelSizes(const Project& project,
                                                        const Library& library,
                                                        const std::string& charger,
                                                        std::size_t count) {
    std::vector<std::pair<std::string, Project>> sizes;
    const Stage* stage = project.stage(charger);
    const auto found = stage ? panelOf(project, *stage) : Error{};
    if (!found)
        return sizes;
    const std::size_t at = found.value().at;
    const auto& panel = std::get<Panel>(project.stages[at].part);
    for (const Stage& other : panelsLike(panel, library)) {
        if (sizes.size() >= count ||
            labelWatts(std::get<Panel>(other.part)) <= 1.05 * labelWatts(panel))
            continue;
        Project p = project;
        p.variants.clear();
        putPanel(p, p.stages[at], other);
        panelOfStage(p, at).countParallel.reset();
        sizes.emplace_back(other.label, std::move(p));
    }
    if (sizes.empty()) {
        Project p = project;
        p.variants.clear();
        panelOfStage(p, at).countParallel = 2 * panel.countParallel.value_or(1);
        sizes.emplace_back("two such panels", std::move(p));
    }
    return sizes;
}

std::optional<Project> withTracking(const Project& project, const std::string& charger) {
    const Stage* stage = project.stage(charger);
    const auto found = stage ? panelOf(project, *stage) : Error{};
    if (!found)
        return std::nullopt;
    const auto& old = std::get<Charger>(stage->part);
    const auto* pack = std::get_if<Pack>(&project.stage(old.charges)->part);
    if (!pack || old.tracking.value_or(false))
        return std::nullopt;
    const double best = found.value().way.series * found.value().way.shape.label.vmp;
    const double full = orZero(old.chargeVoltage) > 0
                            ? old.chargeVoltage->value()
                            : pack->series * voltsOf(pack->cell.chemistry).fresh;
    if (best < full * 1.1) // a buck could not reach it
        return std::nullopt;
    Project p = project;
    auto& c = std::get<Charger>(p.stage(charger)->part);
    const bool large = labelWatts(std::get<Panel>(project.stages[found.value().at].part)) > 10;
    if (c.topology != Topology::buck) {
        // The losses of a small module, or of a controller.
        c.topology = Topology::buck;
        c.quiescent = Amps{large ? 0.006 : 0.0015};
        c.fixed = Watts{large ? 0.2 : 0.02};
        c.drop = Volts{large ? 0.15 : 0.1};
        c.resistance = Ohms{large ? 0.05 : 0.12};
        c.skipBelow = Amps{large ? 0.3 : 0.1};
        c.maxDuty = 0.96;
        c.ground.reset();
        c.dropout.reset();
        c.inputMin = Volts{std::max(4.0, full + 0.5)};
    }
    c.inputHold.reset();
    c.tracking = true;
    if (const double cells = orZero(pack->cell.maxCharge) * pack->parallel; cells > 0)
        c.chargeCurrent = Amps{cells};
    c.programOhm.reset();
    return p;
}

std::vector<SolarImprovement> solarImprovements(const Project& project, const Weather& weather,
                                                const std::string& charger, std::size_t years,
                                                const Library& library,
                                                const std::stop_token& stop) {
    std::vector<SolarImprovement> levers;
    const std::string id = idOf(project, charger);
    auto bench = SolarSimulation::of(project, weather, id);
    if (!bench)
        return levers;
    const SolarSimulation::Impl& b = bench.value()->impl();
    const auto& panel = std::get<Panel>(project.stages[b.panelAt].part);
    const PanelOrientation facing = facingOf(panel, b.latitude);
    const double before = priceOf(project);
    const auto add = [&](const std::string& says, const std::function<void(Project&)>& step) {
        if (stop.stop_requested())
            return;
        SolarImprovement lever;
        lever.says = says;
        lever.project = project;
        lever.project.variants.clear();
        step(lever.project);
        if (lever.project == project)
            return;
        SolarOptions ask;
        ask.years = years;
        const auto year = runOf(lever.project, weather, id, ask, stop);
        if (!year)
            return;
        lever.lossOfLoadHours = year->all.lossOfLoadHours;
        lever.least = year->all.leastCharge;
        lever.priceMore = priceOf(lever.project) - before;
        levers.push_back(std::move(lever));
    };
    const double steep = std::min(90.0, std::abs(b.latitude) + kSteeper);
    if (std::abs(steep - facing.tilt) > kOffBy)
        add(fmt::format("tilt {:.0f}° in place of {:.0f}°", steep, facing.tilt),
            [&](Project& p) { panelOfStage(p, b.panelAt).tilt = Degrees{steep}; });
    const double best = b.latitude < 0 ? 0 : 180;
    if (std::abs(std::remainder(facing.azimuth - best, 360)) > kOffBy)
        add(b.latitude < 0 ? "face it north" : "face it south",
            [&](Project& p) { panelOfStage(p, b.panelAt).azimuth = Degrees{best}; });
    const auto like = panelsLike(panel, library);
    const auto larger = std::find_if(like.begin(), like.end(), [&](const Stage& s) {
        return labelWatts(std::get<Panel>(s.part)) > 1.05 * labelWatts(panel);
    });
    if (larger != like.end())
        add(larger->label, [&](Project& p) {
            putPanel(p, p.stages[b.panelAt], *larger);
            panelOfStage(p, b.panelAt).countParallel.reset();
        });
    else
        add("one more panel beside it", [&](Project& p) {
            auto& count = panelOfStage(p, b.panelAt).countParallel;
            count = count.value_or(1) + 1;
        });
    add("one more cell in parallel",
        [&](Project& p) { ++std::get<Pack>(p.stages[b.packAt].part).parallel; });
    add("half of what everything draws", [&](Project& p) {
        for (Load& load : p.loads)
            for (Draw& draw : load.draws) {
                if (draw.current)
                    draw.current = Amps{draw.current->value() / 2};
                if (draw.led)
                    draw.led = Amps{draw.led->value() / 2};
                if (draw.power)
                    draw.power = Watts{draw.power->value() / 2};
                if (draw.resistance)
                    draw.resistance = Ohms{draw.resistance->value() * 2};
            }
    });
    if (b.charger.topology == Topology::linear) {
        // What stays at the maximum power point on a bright noon of the poorest month.
        const SunPlan plan = planOf(*bench.value());
        const double amps = mppAt(*bench.value(), plan.worstSunMonth, 12).ampsAtMpp;
        add("the set current at the panel's knee",
            [&](Project& p) { p = withKneeCurrent(p, id, amps); });
    }
    if (!b.charger.inputHold && b.charger.topology != Topology::direct)
        add("a charger that holds its input", [&](Project& p) {
            auto& c = std::get<Charger>(p.stage(id)->part);
            c.inputHold = Volts{kHoldShare * b.way.series * b.way.shape.label.vmp - b.way.drop};
        });
    if (const auto tracking = withTracking(project, id))
        add("a charger that tracks", [&](Project& p) { p = *tracking; });
    std::stable_sort(
        levers.begin(), levers.end(), [](const SolarImprovement& a, const SolarImprovement& c) {
            return std::pair(a.lossOfLoadHours, -a.least) < std::pair(c.lossOfLoadHours, -c.least);
        });
    return levers;
}

MinimumSizing sunNeed(const Project& project, const Weather& weather, const std::string& charger,
                      std::size_t years, const Library& library, const std::stop_token& stop) {
    MinimumSizing need;
    const std::string id = idOf(project, charger);
    auto bench = SolarSimulation::of(project, weather, id);
    if (!bench)
        return need;
    const SolarSimulation::Impl& b = bench.value()->impl();
    SolarOptions ask;
    ask.years = years;
    ask.details = false;
    ask.untilUnmet = true;
    const auto misses = [&](double panel, double pack) {
        ask.panelScale = panel;
        ask.packScale = pack;
        const auto year = bench.value()->run(ask, stop);
        return !year || year->firstLossOfLoad.has_value();
    };
    /// The least scale, found by halving on a log axis, with which nothing is missed.
    const auto least = [&](const std::function<bool(double)>& bad) -> std::optional<double> {
        double high = 1;
        while (bad(high)) {
            high *= 2;
            if (high > kMostScale || stop.stop_requested())
                return std::nullopt;
        }
        double low = high / 2;
        while (!bad(low)) {
            high = low;
            low /= 2;
            if (low < 1 / kMostScale || stop.stop_requested())
                return high;
        }
        for (int round = 0; round < kNeedRounds && !stop.stop_requested(); ++round) {
            const double middle = std::sqrt(low * high);
            (bad(middle) ? low : high) = middle;
        }
        return high;
    };
    const auto& panel = std::get<Panel>(project.stages[b.panelAt].part);
    if (const auto scale = least([&](double s) { return misses(s, 1); }))
        need.panelW = *scale * labelWatts(panel);
    if (const auto scale = least([&](double s) { return misses(1, s); })) {
        need.packWh = *scale * labelWattHours(b.pack);
    }
    // Panels of the library by cells in parallel, the cheapest that misses nothing.
    std::vector<MinimumSizing::Pair> pairs;
    for (const Stage& other : panelsLike(panel, library))
        for (double parallel = 1; parallel <= kMostParallel; ++parallel) {
            MinimumSizing::Pair pair;
            pair.panel = other.label;
            pair.parallel = parallel;
            pair.project = project;
            pair.project.variants.clear();
            putPanel(pair.project, pair.project.stages[b.panelAt], other);
            panelOfStage(pair.project, b.panelAt).countParallel.reset();
            auto& cells = std::get<Pack>(pair.project.stages[b.packAt].part);
            countCells(cells, cells.series, parallel);
            pair.price = priceOf(pair.project) - priceOf(project);
            pairs.push_back(std::move(pair));
        }
    std::sort(pairs.begin(), pairs.end(),
              [](const auto& a, const auto& c) { return a.price < c.price; });
    for (MinimumSizing::Pair& pair : pairs) {
        if (stop.stop_requested())
            break;
        SolarOptions whole;
        whole.years = years;
        whole.untilUnmet = true;
        const auto year = runOf(pair.project, weather, id, whole, stop);
        if (year && !year->firstLossOfLoad) {
            need.cheapest = std::move(pair);
            break;
        }
    }
    return need;
}

} // namespace sipper
