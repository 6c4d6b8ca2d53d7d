// SPDX-License-Identifier: GPL-3.0-or-later
#include "protect/rebound.hpp"

#include "protect/fixedmodeline.hpp"

#include "base/tolerance.hpp"
#include "line/operating.hpp"
#include "line/unloaded.hpp"
#include "parts/chemistry.hpp"
#include "parts/eseries.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/library.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kSecondsPerHour = 3600;
constexpr double kLevelled = 15;          ///< time constants after which a climb is over
constexpr double kLongestClimb = 30 * 24; ///< h
constexpr double kFirstMoment = 0.1;      ///< s, the first that a climb shows
constexpr int kMomentsPerDecade = 12;
constexpr int kOnwardPoints = 24;
constexpr int kCurvePoints = 80;
constexpr double kMarkSteps = 5;     ///< marks of a drain test over its last part
constexpr double kProofRate = 0.5;   ///< C, the hardest that a drain test draws
constexpr double kProofShare = 0.7;  ///< of what cells, guard and fuse allow
constexpr double kShowsShut = 0.1;   ///< V a cell under the cut-off: by then it must have opened
constexpr double kMinute = 1.0 / 60; ///< h
constexpr double kProofFrom = 0.2;   ///< charge of a shortened test

/// Hours after which nothing moves any more by itself.
double climbHours(const PackModel& pack) {
    double hours = kLevelled * pack.tau / kSecondsPerHour;
    if (pack.availableFraction < 1 && pack.wellRate > 0)
        hours = std::max(hours, kLevelled / pack.wellRate);
    return std::clamp(hours, 1 / 60.0, kLongestClimb);
}

/// The climb as if the guard stayed open.
std::vector<ReboundPoint> climbFrom(const FixedModeLine& held, const PackState& cut, double hours) {
    std::vector<ReboundPoint> climb{{0, held.input(cut, GuardState::open)}};
    PackState state = cut;
    double now = 0;
    const int moments = static_cast<int>(
        std::ceil(std::log10(hours * kSecondsPerHour / kFirstMoment) * kMomentsPerDecade));
    for (int k = 0; k <= moments; ++k) {
        const double at = std::min(
            hours, kFirstMoment * std::pow(10, k / double(kMomentsPerDecade)) / kSecondsPerHour);
        state = integrateFixed(held, state, at - now, GuardState::open).state;
        now = at;
        climb.push_back({at * kSecondsPerHour, held.input(state, GuardState::open)});
    }
    return climb;
}

/// V at the guard's input with the cells at rest at this charge and nothing drawn by the guard.
double settledAt(const Project& project, std::size_t guard, const FixedModeLine& held,
                 double charge, Celsius air) {
    Project still = project;
    auto& part = std::get<Guard>(still.stages[guard].part);
    part.quiescent.reset();
    part.upper.reset();
    Network network(still, air);
    network.setOpen(guard, true);
    Flows flows;
    network.solve(network.idle(), held.pack().restVolts(charge), 0, flows);
    return flows.stages[guard].vIn;
}

double reconnectOf(const Guard& guard) {
    return guard.reconnect ? std::max(guard.reconnect->value(), guard.cutoff.value())
                           : guard.cutoff.value();
}

void followOn(const FixedModeLine& held, const PackState& closing, Rebound& out) {
    out.sagVolts = held.input(closing, GuardState::closed);
    const auto next = untilCut(held, closing);
    if (!next)
        return;
    out.onSeconds = next->hours * kSecondsPerHour;
    PackState state = closing;
    double now = 0;
    out.reclosedCurve.push_back({out.offSeconds, out.sagVolts});
    for (int k = 1; k <= kOnwardPoints; ++k) {
        const double at = next->hours * k / kOnwardPoints;
        state = integrateFixed(held, state, at - now, GuardState::closed).state;
        now = at;
        out.reclosedCurve.push_back(
            {out.offSeconds + at * kSecondsPerHour, held.input(state, GuardState::closed)});
    }
}

std::vector<GuardPoint> curveOf(const FixedModeLine& held) {
    std::vector<GuardPoint> curve;
    for (int i = 0; i <= kCurvePoints; ++i)
        curve.push_back(held.at(1 - i / double(kCurvePoints)));
    return curve;
}

/// Air and age that a guard is looked at under, the usual first.
struct Season {
    bool cold;
    bool aged;
    const char* name;
};
constexpr std::array kSeasons{Season{false, false, "now"}, Season{false, true, "aged"},
                              Season{true, false, "cold"}, Season{true, true, "cold and aged"}};

Conditions conditionsOf(const Project& project, const Season& season) {
    Conditions c = typicalConditions(project);
    if (season.cold)
        c.ambient = project.brief.air().coldest();
    if (season.aged)
        c.health = kAgedHealth;
    return c;
}

/// The mode that ended a run by this guard, under these conditions; else the one given.
std::size_t endingMode(const Project& project, std::size_t guard, const Conditions& conditions,
                       std::size_t other) {
    StepControl whole;
    whole.record = false;
    const Runtime run = predictRuntime(project, conditions, whole);
    if (run.ending.at != project.stages[guard].id || run.ending.reason != EndReason::cutoff)
        return other;
    const std::size_t mode = modeIndex(project, run.ending.mode);
    return mode == kNotFound ? other : mode;
}

void lookAfter(const Project& project, std::size_t guard, GuardAnalysis& look) {
    const Pack& pack = *project.pack();
    const PackModel model(pack, project.brief.air().usual());
    Network network(project, project.brief.air().usual());
    network.setOpen(guard, true);
    const double rest = model.restVolts(look.usual.cutCharge);
    look.openAmps = network.current(network.idle(), rest, 0);
    const double self = model.selfAmps * model.parallel;
    look.openShare = look.openAmps > 0 ? look.openAmps / (look.openAmps + self) : 0;
    const double drain = look.openAmps + self;
    const auto months = [&](double volts) -> std::optional<double> {
        const double to = chargeAtRest(model, volts);
        if (drain <= 0 || to >= look.usual.cutCharge)
            return drain <= 0 ? std::nullopt : std::optional(0.0);
        return (look.usual.cutCharge - to) * model.usable * model.parallel / drain / kHoursPerMonth;
    };
    if (const double floor = damageVolts(pack); floor > 0)
        look.ruinMonths = months(floor);
    for (const Stage& stage : project.stages) {
        const auto* charger = std::get_if<Charger>(&stage.part);
        if (!charger || charger->charges != project.packStage()->id)
            continue;
        ChargerRestart found;
        found.charger = stage.id;
        found.restVolts = rest;
        found.threshold = orZero(charger->recoveryBelow);
        const bool canRecover = orZero(charger->recoveryCurrent) > look.openAmps;
        found.recovers = fallsBelow(rest, found.threshold);
        found.finds = !found.recovers || canRecover;
        if (found.threshold > 0 && !canRecover)
            found.undetectedAfter = months(found.threshold);
        look.chargers.push_back(found);
    }
}

/// Ohms of a drain test: as hard as the device, at most half a capacity an hour, inside what cells,
/// guard and fuses allow; the next E12 value up.
double proofOhms(const Project& project, std::size_t guard, double deviceAmps) {
    const Pack& pack = *project.pack();
    const double capacity = pack.parallel * pack.cell.capacity.value();
    double most = kProofRate * capacity;
    if (pack.cell.maxDischarge)
        most = std::min(most, kProofShare * pack.cell.maxDischarge->value() * pack.parallel);
    std::vector<const Stage*> way = pathToSource(project, project.stages[guard].id);
    way.push_back(&project.stages[guard]);
    for (const Stage* stage : way) {
        if (const auto* fuse = std::get_if<Fuse>(&stage->part))
            most = std::min(most, kProofShare * fuse->rating.value());
        if (const auto* g = std::get_if<Guard>(&stage->part); g && g->maxCurrent)
            most = std::min(most, kProofShare * g->maxCurrent->value());
    }
    const double amps = deviceAmps > 0 ? std::min(most, std::max(deviceAmps, most / 4)) : most;
    const double wanted = fullVolts(pack) / amps;
    for (double decade = 0.01; decade < 1e7; decade *= 10)
        for (const double value : seriesDecade("E12"))
            if (value * decade >= wanted * (1 - 1e-9))
                return value * decade;
    return wanted;
}

/// The project with nothing but a resistor on the guard's output.
Project onTheBench(const Project& project, std::size_t guard, double ohms) {
    Project bench = project;
    const std::set<std::string> gone = downstreamIds(project, project.stages[guard].id);
    std::erase_if(bench.stages, [&](const Stage& s) {
        return s.id != project.stages[guard].id && gone.contains(s.id);
    });
    Load load;
    load.id = freeId(bench, "drain-test");
    load.fedBy = project.stages[guard].id;
    load.critical = false;
    load.window = {Volts{0}, {}, Volts{1000}, {}, {}};
    Draw draw;
    Mode mode;
    mode.id = "drain-test";
    mode.base = true;
    draw.mode = mode.id;
    draw.resistance = Ohms{ohms};
    load.draws = {draw};
    bench.modes = {mode};
    bench.loads = {load};
    bench.brief.startTime.reset();
    return bench;
}

std::optional<DrainTest> proofOf(const Project& project, std::size_t guard, double deviceAmps) {
    DrainTest proof;
    proof.ohms = proofOhms(project, guard, deviceAmps);
    const Project bench = onTheBench(project, guard, proof.ohms);
    const std::size_t at = stageIndex(bench, project.stages[guard].id);
    const auto& part = std::get<Guard>(bench.stages[at].part);
    const FixedModeLine held(bench, at, 0, typicalConditions(bench));
    const PackState full{held.pack().level(1), 0};
    const auto cut = untilCut(held, full);
    if (!cut)
        return std::nullopt;
    proof.hours = cut->hours;
    const double first = held.input(full, GuardState::closed);
    proof.amps = first / proof.ohms;
    proof.watts = first * proof.amps;
    if (const auto fifth = untilCut(held, {held.pack().level(kProofFrom), 0}))
        proof.fromFifthHours = fifth->hours;
    // Marks where the meter falls through whole steps on the way down.
    const double cutoff = part.cutoff.value();
    const double step = (first - cutoff) / kMarkSteps;
    PackState state = full;
    double now = 0;
    for (int k = 1; k < kMarkSteps && step > 0; ++k) {
        const double volts = std::round((first - k * step) * 100) / 100;
        const DriveResult to =
            integrateFixed(held, state, kLongestDrain, GuardState::closed, [&](const PackState& s) {
                return held.input(s, GuardState::closed) <= volts;
            });
        if (to.end != IntegrationEnd::event || volts <= cutoff)
            break;
        now += to.hours;
        state = to.state;
        proof.marks.push_back({volts, now});
    }
    proof.marks.push_back({cutoff, proof.hours});
    proof.mustOpenBy = cutoff - kShowsShut * project.pack()->series;
    proof.atOnceVolts = held.input(cut->state, GuardState::open);
    proof.minuteVolts = held.input(
        integrateFixed(held, cut->state, kMinute, GuardState::open).state, GuardState::open);
    proof.settledVolts =
        settledAt(bench, at, held, held.pack().charge(cut->state.wells), bench.brief.air().usual());
    return proof;
}

/// Up to where the cells settle, and the state at the cut; nothing to climb from where the guard is
/// not reached.
std::pair<Rebound, std::optional<PackState>> cutOf(const Project& project, std::size_t guard,
                                                   const FixedModeLine& held, Celsius air) {
    Rebound out;
    const PackState full{held.pack().level(1), 0};
    std::size_t first = guard; // what the last look that ended it was put down to
    const DriveResult cut =
        integrateFixed(held, full, kLongestDrain, GuardState::closed, [&](const PackState& s) {
            const bool low = held.low(s);
            const std::size_t opens = low ? guard : held.opensFirst(s);
            if (low || opens != guard)
                first = opens;
            return low || opens != guard;
        });
    if (cut.end != IntegrationEnd::event || first != guard) {
        out.before = project.stages[first == guard ? packIndex(project) : first].id;
        return {out, std::nullopt};
    }
    const auto opened = untilCut(held, cut.state);
    if (!opened)
        return {out, std::nullopt};
    out.acts = true;
    out.cutHours = cut.hours + opened->hours;
    out.cutCharge = held.pack().charge(opened->state.wells);
    out.cutVolts = held.input(opened->state, GuardState::closed);
    out.atOnceVolts = held.input(opened->state, GuardState::open);
    out.settledVolts = settledAt(project, guard, held, out.cutCharge, air);
    return {out, opened->state};
}

GuardAnalysis guardLook(const Project& project, std::size_t guard, const Runtime& runtime,
                        const std::optional<Ending>& stop, const ParallelFor& pieces,
                        GuardDepth depth) {
    const Stage& stage = project.stages[guard];
    const auto& part = std::get<Guard>(stage.part);
    GuardAnalysis look;
    look.id = stage.id;
    look.cutoff = part.cutoff.value();
    look.reconnect = reconnectOf(part);
    look.reaches = reachedVolts(project);
    look.latches = exceeds(look.reconnect, look.reaches);
    const Pack& pack = *project.pack();
    look.hysteresisTooSmall =
        isRechargeableLithium(pack.cell.chemistry) &&
        fallsBelow(look.reconnect - look.cutoff, kNarrowPerCell * pack.series);
    look.endsRun = runtime.ending.at == stage.id && runtime.ending.reason == EndReason::cutoff &&
                   runtime.hours;
    if (!look.endsRun)
        look.stopsFirst = runtime.ending.at;
    const bool stops = stop && stop->at == stage.id && stop->reason == EndReason::cutoff;
    look.mode = look.endsRun ? runtime.ending.mode : stops ? stop->mode : runtime.ending.mode;
    if (project.modes.empty())
        return look;
    const std::size_t named = modeIndex(project, look.mode);
    const std::size_t mode = named == kNotFound ? project.baseMode() : named;
    look.mode = project.modes[mode].id;
    std::array<Rebound, kSeasons.size()> cuts;
    pieces(kSeasons.size(), [&](std::size_t i) {
        const Conditions c = conditionsOf(project, kSeasons[i]);
        if (i == 0 && depth == GuardDepth::hysteresis) {
            cuts[0] =
                cutOf(project, guard, FixedModeLine(project, guard, mode, c), c.ambient).first;
            return;
        }
        if (i == 0) {
            look.curve = curveOf(FixedModeLine(project, guard, mode, c));
            cuts[0] = reboundOf(project, guard, mode, c);
            return;
        }
        const FixedModeLine held(project, guard, endingMode(project, guard, c, mode), c);
        cuts[i] = cutOf(project, guard, held, c.ambient).first;
    });
    look.usual = cuts[0];
    double most = -std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < cuts.size(); ++i) {
        if (!cuts[i].acts || cuts[i].settledVolts - look.cutoff <= most)
            continue;
        most = cuts[i].settledVolts - look.cutoff;
        look.leastWhen = kSeasons[i].name;
    }
    look.minHysteresis = std::isfinite(most) ? most : 0;
    if (!look.usual.acts || depth == GuardDepth::hysteresis)
        return look;
    lookAfter(project, guard, look);
    const double device = look.usual.cutHours > 0
                              ? (1 - look.usual.cutCharge) * pack.parallel *
                                    pack.cell.capacity.value() / look.usual.cutHours
                              : 0;
    look.proof = proofOf(project, guard, device);
    return look;
}

} // namespace

Rebound reboundOf(const Project& project, std::size_t guard, std::size_t mode,
                  const Conditions& conditions) {
    const FixedModeLine held(project, guard, mode, conditions);
    auto [out, cut] = cutOf(project, guard, held, conditions.ambient);
    if (!cut)
        return out;
    const double hours = climbHours(held.pack());
    out.openCurve = climbFrom(held, *cut, hours);
    const double reconnect = reconnectOf(std::get<Guard>(project.stages[guard].part));
    const DriveResult up =
        integrateFixed(held, *cut, hours, GuardState::open, [&](const PackState& s) {
            return held.input(s, GuardState::open) >= reconnect;
        });
    out.chatters = up.end == IntegrationEnd::event;
    if (out.chatters) {
        out.offSeconds = up.hours * kSecondsPerHour;
        followOn(held, up.state, out);
    }
    return out;
}

std::vector<GuardPoint> packCurve(const Project& project, std::size_t mode) {
    return curveOf(FixedModeLine(project, kNotFound, mode, typicalConditions(project)));
}

std::vector<std::size_t> guardPlaces(const Project& p) {
    std::vector<std::size_t> list;
    if (!p.packStage())
        return list;
    const Network network(p, p.brief.air().usual());
    for (const std::size_t i : network.order())
        if (std::holds_alternative<Guard>(p.stages[i].part))
            list.push_back(i);
    return list;
}

double reachedVolts(const Project& p) {
    double reaches = fullVolts(*p.pack());
    for (const Stage& stage : p.stages)
        if (const auto* charger = std::get_if<Charger>(&stage.part);
            charger && charger->chargeVoltage && charger->charges == p.packStage()->id)
            reaches = std::min(reaches, charger->chargeVoltage->value());
    return reaches;
}

std::vector<GuardAnalysis> guardsOf(const Project& project, const Runtime& runtime,
                                    const std::optional<Ending>& stop, const ParallelFor& pieces,
                                    GuardDepth depth) {
    std::vector<GuardAnalysis> looks;
    for (const std::size_t guard : guardPlaces(project))
        looks.push_back(guardLook(project, guard, runtime, stop, pieces, depth));
    return looks;
}

} // namespace sipper
