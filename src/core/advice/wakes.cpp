// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about what goes to sleep, what does not start, what has to come back between bursts, and
// the cells' own temperatures.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "base/tolerance.hpp"
#include "line/sources.hpp"
#include "line/wiring.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/build.hpp"
#include "protect/rebound.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kHalfCharge = 0.5;    ///< where a mode's draw is looked at
constexpr double kUsualWait = 10;      ///< s, until a part sleeps that does not say
constexpr double kRestsUnder = 0.10;   ///< of the charge
constexpr double kSettles = 3;         ///< time constants
constexpr double kHighOhms = 1;        ///< of a cell, from which a capacitor carries bursts
constexpr double kCapacitorEsr = 0.05; ///< ohm of the capacitor that is proposed
constexpr std::array kFarads{1e-5,   2.2e-5, 4.7e-5, 1e-4,   2.2e-4, 4.7e-4, 1e-3, 2.2e-3,
                             4.7e-3, 1e-2,   2.2e-2, 4.7e-2, 0.1,    0.22,   0.47, 1.0};

struct Sleep {
    double below = 0; ///< A; 0: it stays awake
    double after = kUsualWait;
};
Sleep sleepOf(const Part& part) {
    Sleep s;
    s.below = sleepsBelowOf(part);
    std::visit(
        [&]<class P>(const P& p) {
            if constexpr (requires { p.sleepsAfter; })
                s.after = p.sleepsAfter ? p.sleepsAfter->value() : kUsualWait;
        },
        part);
    return s;
}

/// How long a mode lasts without a break: a repeating one its duration, the base or a window until
/// the first of what interrupts it comes.
double lastsFor(const Project& p, const Mode& mode) {
    if (mode.repeats())
        return mode.duration->value();
    double least = std::numeric_limits<double>::infinity();
    for (const Mode& other : p.modes)
        if (other.repeats() && (other.within.empty() || other.within == mode.id))
            least = std::min(least, other.every->value() - other.duration->value());
    return least;
}

/// The longest that bursts of this mode behind a stage leave it alone, if each reaches `amps`
/// there.
double betweenBursts(const Project& p, const std::string& stage, const Mode& mode, double amps) {
    const std::set<std::string> down = downstreamIds(p, stage);
    double gap = std::numeric_limits<double>::infinity();
    for (const Load& load : p.loads) {
        if (!down.contains(load.fedBy))
            continue;
        for (const Draw& d : load.draws)
            if (d.mode == mode.id && d.burst && d.burstsPerSecond &&
                d.burstsPerSecond->value() > 0 && !fallsBelow(d.burst->value(), amps))
                gap = std::min(gap, 1 / d.burstsPerSecond->value());
    }
    return gap;
}

/// A out of a stage in a mode: on the cells, or plugged into its own source.
double outOf(const Project& p, std::size_t stage, std::size_t mode) {
    if (isExternalSource(p.stages[stage].part)) {
        std::vector<std::size_t> present{stage};
        if (p.pack())
            present.push_back(packIndex(p));
        SourceLine line(p, stage, present, p.brief.air().usual());
        return line.solve(mode, Network::kNoBurst, line.model().volts, 1).asked;
    }
    const OperatingPoint point = operate(p, typicalConditions(p), kHalfCharge, mode);
    return point.collapse || point.flows.stages.empty() ? 0 : point.flows.stages[stage].iOut;
}

} // namespace

void goesToSleep(const RuleInput& s, std::vector<Finding>& out) {
    const Project& p = s.project;
    for (std::size_t i = 0; i < p.stages.size(); ++i) {
        const Stage& stage = p.stages[i];
        const Sleep sleep = sleepOf(stage.part);
        const std::set<std::string> down = downstreamIds(p, stage.id);
        const bool feeds = std::any_of(p.loads.begin(), p.loads.end(),
                                       [&](const Load& l) { return down.contains(l.fedBy); });
        if (sleep.below <= 0 || !feeds)
            continue;
        for (std::size_t m = 0; m < p.modes.size(); ++m) {
            const double draws = outOf(p, i, m);
            const double lasts = std::min(lastsFor(p, p.modes[m]),
                                          betweenBursts(p, stage.id, p.modes[m], sleep.below));
            if (!fallsBelow(draws, sleep.below) || lasts <= sleep.after)
                continue;
            Finding f = finding(
                "goes_to_sleep", Severity::stop, stage.id, nameOf(stage) + " goes to sleep",
                fmt::format("In mode “{}” {} are drawn of it, under the {} that keep it awake, for "
                            "{}: after {} it switches off, and what hangs on it is off until "
                            "someone wakes it.",
                            nameOf(p.modes[m]), amps(draws), amps(sleep.below),
                            std::isfinite(lasts) ? writeQuantity(lasts, Unit::second)
                                                 : "as long as it lasts",
                            writeQuantity(sleep.after, Unit::second)),
                {{"draws_a", draws}, {"sleeps_below_a", sleep.below}});
            if (std::isfinite(lasts))
                f.numbers["lasts_s"] = lasts;
            out.push_back(std::move(f));
            break;
        }
    }
}

void neverStarts(const RuleInput& s, std::vector<Finding>& out) {
    const Project& p = s.project;
    if (!p.pack())
        return;
    const PackModel model(*p.pack(), p.brief.air().usual());
    const Network network(p, p.brief.air().usual());
    const auto sees = [&](std::size_t stage, double packVolts) {
        Flows flows;
        network.solve(network.idle(), packVolts, 0, flows);
        return flows.stages[stage].vIn;
    };
    for (std::size_t i = 0; i < p.stages.size(); ++i) {
        const Stage& stage = p.stages[i];
        const double needs = startMinOf(stage.part);
        if (!isRegulator(stage.part) || needs <= 0 || !network.reachesStage(i))
            continue;
        double worst = sees(i, model.restVolts(1));
        std::string where = "with full cells";
        for (const Stage* before : pathToSource(p, stage.id))
            if (const auto* guard = std::get_if<Guard>(&before->part); guard && guard->reconnect) {
                const double back = std::max(guard->reconnect->value(), guard->cutoff.value());
                if (back < worst) {
                    worst = back;
                    where = "as " + nameOf(*before) + " closes again";
                }
            }
        if (fallsBelow(worst, needs)) {
            out.push_back(finding("never_starts", Severity::stop, stage.id,
                                  nameOf(stage) + " does not start",
                                  fmt::format("It needs {} to start, and sees {} {}.", volts(needs),
                                              voltsBeside(worst, needs), where),
                                  {{"sees_v", worst}, {"start_min_v", needs}}));
            continue;
        }
        const double from = s.sweep ? s.sweep->stopCharge : 0;
        const double drop = model.restVolts(1) - sees(i, model.restVolts(1));
        const double charge = chargeAtRest(model, needs + drop);
        if (charge - from > kRestsUnder)
            out.push_back(finding(
                "never_starts", Severity::care, stage.id, nameOf(stage) + " may not start again",
                fmt::format("It needs {} to start; under {} of the charge the resting cells give "
                            "less, though it runs down to {}.",
                            volts(needs), writeShare(charge), writeShare(from)),
                {{"sees_v", needs}, {"start_min_v", needs}, {"charge", charge}}));
    }
}

void capacitorRefill(const RuleInput& s, std::vector<Finding>& out) {
    const Project& p = s.project;
    for (const Stage& stage : p.stages) {
        const auto* capacitor = std::get_if<Capacitor>(&stage.part);
        if (!capacitor)
            continue;
        // Back to the last regulator, or through the source.
        double ohms = orZero(capacitor->esr);
        for (const Stage* before : pathToSource(p, stage.id)) {
            if (isRegulator(before->part))
                break;
            ohms += ohmsInTheWay(before->part, p.brief.air().usual());
        }
        const double takes = kSettles * ohms * capacitor->farad.value();
        const std::set<std::string> down = downstreamIds(p, stage.id);
        double every = std::numeric_limits<double>::infinity();
        for (const Load& load : p.loads)
            for (const Draw& d : load.draws)
                if (down.contains(load.fedBy) && d.hasBurst() && d.burstsPerSecond &&
                    d.burstsPerSecond->value() > 0)
                    every = std::min(every, 1 / d.burstsPerSecond->value());
        if (!exceeds(takes, every))
            continue;
        out.push_back(finding(
            "capacitor_refill", Severity::care, stage.id, nameOf(stage) + " does not come back",
            fmt::format("It takes {} to come back after a burst, and one comes every {}: a smaller "
                        "one, less resistance before it, or bursts further apart.",
                        writeQuantity(takes, Unit::second), writeQuantity(every, Unit::second)),
            {{"takes_s", takes}, {"every_s", every}}));
    }
}

void cellTemperature(const RuleInput& s, std::vector<Finding>& out) {
    const Project& p = s.project;
    if (!p.pack())
        return;
    const Cell& cell = p.pack()->cell;
    // In a closed box: what is lost inside warms it, on the mean of the run.
    const double box = enclosureRise(p, s.runtime);
    const auto say = [&](double air, double limit, bool cold) {
        out.push_back(finding(
            "cell_temperature", Severity::stop, p.packStage()->id,
            cold ? "Too cold for these cells" : "Too hot for these cells",
            fmt::format("They see {}{}, and may be used from {} to {}: other cells, or {}.",
                        writeQuantity(air, Unit::celsius),
                        box > 0 && !cold ? ", the box's own warmth in it" : "",
                        cell.dischargeFrom
                            ? writeQuantity(cell.dischargeFrom->value(), Unit::celsius)
                            : "what is not stated",
                        cell.dischargeTo ? writeQuantity(cell.dischargeTo->value(), Unit::celsius)
                                         : "what is not stated",
                        cold ? "keep the cold off them" : "shade and air"),
            {{"air_c", air}, {"limit_c", limit}}));
    };
    const double low = p.brief.air().coldest().value();
    const double high = p.brief.air().warmest().value() + box;
    if (cell.dischargeFrom && fallsBelow(low, cell.dischargeFrom->value()))
        say(low, cell.dischargeFrom->value(), true);
    else if (cell.dischargeTo && exceeds(high, cell.dischargeTo->value()))
        say(high, cell.dischargeTo->value(), false);
}

void salvagedParallel(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.project.pack())
        return;
    const Pack& pack = *s.project.pack();
    if (pack.origin != Origin::salvaged || pack.parallel < 2)
        return;
    out.push_back(finding(
        "salvaged_parallel", Severity::care, s.project.packStage()->id,
        "Salvaged cells side by side",
        fmt::format("{:.0f} salvaged cells in parallel: one that has gone bad is fed by all the "
                    "others. Measure each, bring them to the same volts before joining, and give "
                    "each a fuse of its own.",
                    pack.parallel),
        {{"parallel", pack.parallel}}));
}

bool wantsCapacitor(const Pack& pack) {
    return pack.cell.chemistry == Chemistry::thionylChloride ||
           orZero(pack.cell.resistance) > kHighOhms;
}

const Load* burstingLoad(const Project& p) {
    const Load* most = nullptr;
    double amps = 0;
    for (const Load& load : p.loads)
        for (const Draw& d : load.draws)
            if (d.burst && d.burst->value() > amps) {
                amps = d.burst->value();
                most = &load;
            }
    return most;
}

Project withInputCapacitor(const Project& project, const Load& load) {
    if (!load.inputCap)
        return project;
    Stage store = freshStage(project, Kind::capacitor, load.fedBy);
    Capacitor part;
    part.farad = *load.inputCap;
    store.part = part;
    return withStageBefore(project, store, load.id);
}

std::optional<Fix> capacitorFix(const Project& project, const std::string& load,
                                const std::function<bool(const Project&)>& quiet, double& farad) {
    const Load* at = project.load(load);
    if (!at)
        return std::nullopt;
    for (const double size : kFarads) {
        Stage store = freshStage(project, Kind::capacitor, at->fedBy);
        auto& part = std::get<Capacitor>(store.part);
        part.farad = Farads{size};
        part.esr = Ohms{kCapacitorEsr};
        part.leakage = Amps{size * 1e-3};
        part.ratedVoltage = Volts{std::max(6.3, std::ceil(at->window.max.value() * 1.5))};
        const std::string text = writeExact(size, Unit::farad);
        const auto apply = [store, load](const Project& p) {
            return withStageBefore(p, store, load);
        };
        if (!quiet(apply(project)))
            continue;
        farad = size;
        return editFix("Capacitor " + text, "add a capacitor of " + text, apply);
    }
    return std::nullopt;
}

} // namespace sipper::rules
