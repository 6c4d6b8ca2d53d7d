// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about the voltage that a load sees.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "base/tolerance.hpp"
#include "line/wiring.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kLeadShare = 0.03;    ///< of the voltage that a lead may take, the usual rule
constexpr double kPrimarySliver = 0.1; ///< the sliver where cells are thrown away with it

/// A lead on the way that takes more than its share, in the smallest cross-section with which the
/// load is no longer short.
struct LeadFix {
    std::string lead;
    double area = 0;
    Fix cure;
};
std::optional<LeadFix> leadFix(const RuleInput& s, const Load& load, RuleFunction rule) {
    const Project& p = s.project;
    for (const Stage* stage : pathToSource(p, load.id)) {
        const Wire* wire = std::get_if<Wire>(&stage->part);
        if (!wire)
            continue;
        const double current = s.sweep->maxOut[stageIndex(p, stage->id)].value;
        const double allowed = load.window.middle().value() * kLeadShare;
        if (wireOhms(*wire, p.brief.air().usual()) * current <= allowed)
            continue;
        if (const auto area = thickerLead(areaOf(*wire), [&](double a) {
                return isSilentOn(s, areaFix(*stage, a).apply(p), rule, load.id);
            }))
            return LeadFix{stage->id, *area, areaFix(*stage, *area)};
    }
    return std::nullopt;
}

/// A thicker lead where one takes more than its share; else a higher set-point before the load, by
/// what is missing, where its window has that room.
void raise(const RuleInput& s, std::size_t load, double missing, RuleFunction rule, Finding& f) {
    const Project& p = s.project;
    const Load& l = p.loads[load];
    if (!s.seekFixes)
        return;
    if (auto thick = leadFix(s, l, rule)) {
        f.fix = std::move(thick->cure);
        f.lead = thick->lead;
        f.numbers["area_mm2"] = thick->area;
        return;
    }
    const Stage* regulator = upstreamRegulator(p, l.id);
    if (!regulator || s.sweep->loads[load].high + missing > l.window.max.value() ||
        s.sweep->firstDropout[stageIndex(p, regulator->id)].valid)
        return;
    const double step = std::max(0.05, std::ceil((missing + 0.01) * 20) / 20);
    Fix cure = setPointFix(*regulator, orZero(setPointOf(regulator->part)) + step);
    if (isSilentOn(s, cure.apply(p), rule, l.id))
        f.fix = std::move(cure);
}

/// Share of all hours that a load's window takes off the run, or that it spends under it.
double hoursShare(const RuleInput& s, std::size_t load) {
    StepControl quick;
    quick.record = false;
    const auto hours = [&](bool critical) {
        Project p = s.project;
        p.loads[load].critical = critical;
        return predictRuntime(p, typicalConditions(p), quick).hours;
    };
    const auto short_ = hours(true);
    const auto whole = hours(false);
    if (!short_ || !whole || whole->value() <= 0)
        return 1;
    return std::max(0.0, 1 - short_->value() / whole->value());
}

/// As grave as what is lost: a sliver is worth weighing only.
Severity gravity(const RuleInput& s, std::size_t load, double chargeShare) {
    const Pack* pack = s.project.pack();
    const bool primary = pack && !canRecharge(pack->cell);
    const double sliver = primary ? kPrimarySliver : kSliver;
    if (chargeShare >= sliver)
        return Severity::stop;
    return hoursShare(s, load) < sliver ? Severity::care : Severity::stop;
}

/// Share of the run's hours in which a load is over its window: until the charge that it takes has
/// been drawn.
double hoursAbove(const RuleInput& s, double chargeShare) {
    if (!s.runtime.hours || s.runtime.hours->value() <= 0 || s.runtime.curve.empty())
        return chargeShare;
    const double from = s.runtime.curve.front().charge - chargeShare;
    const auto past = std::find_if(s.runtime.curve.begin(), s.runtime.curve.end(),
                                   [&](const CurvePoint& c) { return c.charge < from; });
    return past == s.runtime.curve.end() ? 1.0 : past->hours / s.runtime.hours->value();
}

bool dropsOnTheWay(const Project& p, const OperatingSweep& survey, const std::string& id) {
    for (const Stage* stage : pathToSource(p, id))
        if (survey.firstDropout[stageIndex(p, stage->id)].valid)
            return true;
    return false;
}

} // namespace

namespace {

/// A light string whose driver can't push its current, at volts that its window would bear.
void starvedString(const RuleInput& s, std::size_t i, std::vector<Finding>& out) {
    const Load& load = s.project.loads[i];
    const Stage* driver = upstreamRegulator(s.project, load.id);
    const Occurrence& from = s.sweep->firstUndervoltage[i];
    if (!from.valid || !driver || !setCurrentOf(driver->part))
        return;
    const std::size_t at = stageIndex(s.project, driver->id);
    const bool cut = s.sweep->firstDropout[at].valid;
    const ChargeInterval spell =
        s.intervalOf([&](const Flows& f, std::size_t, bool) { return f.loads[i].starved; });
    const double most = orZero(active(driver->part)->outputMax);
    double needs = 0;
    for (const Draw& d : load.draws)
        needs = std::max(needs, orZero(d.ledVolts));
    Finding f = finding(
        "window_low", cut ? Severity::note : gravity(s, i, spell.share), load.id,
        nameOf(load) + " does not get its current",
        most > 0 && needs > most
            ? fmt::format("It is lit from {} on; {} gives {} at most.", volts(needs),
                          nameOf(*driver), volts(most))
            : fmt::format("{} can't push {} through it from {} down.", nameOf(*driver),
                          amps(setCurrentOf(driver->part)->value()),
                          from.charge >= 1 ? "full cells"
                                           : writeShare(from.charge) + " of the charge"),
        {{"sees_v", from.value}, {"charge_share", spell.share}, {"from_charge", from.charge}});
    if (most > 0 && needs > most)
        f.numbers["limit_v"] = most;
    out.push_back(std::move(f));
}

} // namespace

void windowLow(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sweep)
        return;
    for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
        const Load& load = s.project.loads[i];
        const double min = load.window.min.value();
        const bool steady = s.sweep->loadLow[i].valid && fallsBelow(s.sweep->loadLow[i].value, min);
        const bool inBurst = !steady && !load.resets() && s.sweep->loadBurst[i].valid &&
                             fallsBelow(s.sweep->loadBurst[i].value, min);
        if (!steady && !inBurst) {
            starvedString(s, i, out);
            continue;
        }
        const Occurrence& low = steady ? s.sweep->loadLow[i] : s.sweep->loadBurst[i];
        const ChargeInterval spell = s.intervalOf([&](const Flows& f, std::size_t, bool burst) {
            return burst == inBurst && fallsBelow(f.loads[i].v, min);
        });
        const bool cut = dropsOnTheWay(s.project, *s.sweep, load.id);
        Finding f;
        f.rule = "window_low";
        // Where a regulator's drop-out is the cause, that finding speaks and this one stands under
        // it.
        f.severity = cut ? Severity::note : inBurst ? Severity::care : gravity(s, i, spell.share);
        f.subject = load.id;
        f.title = nameOf(load) + (inBurst ? " gets too little in bursts" : " gets too little");
        f.says = fmt::format("It sees {} {} and needs {}; it is short from {} down.",
                             voltsBeside(low.value, min), momentText(s.project, low), volts(min),
                             spell.first.charge >= 1
                                 ? "full cells"
                                 : writeShare(spell.first.charge) + " of the charge");
        f.numbers = {
            {"v", low.value}, {"sees_v", low.value},         {"min_v", min},
            {"limit_v", min}, {"charge_share", spell.share}, {"from_charge", spell.first.charge}};
        if (!cut)
            raise(s, i, min - low.value, windowLow, f);
        out.push_back(std::move(f));
    }
}

void burstReset(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sweep)
        return;
    for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
        const Load& load = s.project.loads[i];
        const double min = load.window.min.value();
        const auto resets = [&](const OperatingSweep& seen) {
            return seen.loadBurst[i].valid && fallsBelow(seen.loadBurst[i].value, min);
        };
        if (!load.resets() || !resets(*s.sweep))
            continue;
        // Its own input capacitor carries a part of the burst.
        const Project held = withInputCapacitor(s.project, load);
        std::optional<OperatingSweep> resurveyed;
        if (load.inputCap)
            resurveyed = sweepOperation(held, typicalConditions(held));
        const OperatingSweep& seen = resurveyed ? *resurveyed : *s.sweep;
        const auto short_ = [&](bool inBurst) -> FlowPredicate {
            return [=](const Flows& f, std::size_t, bool burst) {
                return burst == inBurst && fallsBelow(f.loads[i].v, min);
            };
        };
        std::optional<ChargeIntervals> own;
        if (resurveyed)
            own.emplace(held, *resurveyed);
        const auto spellIn = [&](bool inBurst) {
            return own ? own->of(short_(inBurst)) : s.intervalOf(short_(inBurst));
        };
        const ChargeInterval spell = spellIn(true);
        const ChargeInterval alone = spellIn(false);
        // Where its mode alone is short too, that is said elsewhere.
        const double share = spell.share - alone.share;
        if (share <= kSliver)
            continue;
        const Occurrence& burst = seen.loadBurst[i];
        Finding f;
        f.rule = "burst_reset";
        f.severity = Severity::stop;
        f.subject = load.id;
        f.title = "A burst resets " + nameOf(load);
        f.says = fmt::format("{} a burst {} resets it: it goes down to {} and "
                             "needs {}. A thicker lead, a capacitor at the load or cells of lower "
                             "resistance hold it up.",
                             spell.first.charge >= 1
                                 ? "From full on"
                                 : "From " + writeShare(spell.first.charge) + " of the charge down",
                             fmt::format("in mode “{}”", nameOf(s.project.modes[spell.first.mode])),
                             voltsBeside(burst.value, min), volts(min));
        f.numbers = {{"v", burst.value},      {"sees_v", burst.value},
                     {"min_v", min},          {"limit_v", min},
                     {"charge_share", share}, {"at_charge", spell.first.charge}};
        const Pack* pack = s.project.pack();
        if (s.seekFixes && pack && wantsCapacitor(*pack)) {
            double farad = 0;
            f.fix = capacitorFix(
                s.project, load.id,
                [&](const Project& with) { return isSilentOn(s, with, burstReset, load.id); },
                farad);
            if (f.fix)
                f.numbers["farad"] = farad;
        }
        if (!f.fix)
            raise(s, i, min - burst.value, burstReset, f);
        out.push_back(std::move(f));
    }
}

void windowHigh(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sweep)
        return;
    const Flows idle = unloadedAtFull(s.project);
    for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
        const Load& load = s.project.loads[i];
        const double max = load.window.max.value();
        const double seen =
            std::max(s.sweep->loadHigh[i].value, idle.loads.empty() ? 0 : idle.loads[i].v);
        if (!exceeds(seen, max))
            continue;
        const ChargeInterval spell = s.intervalOf(
            [&](const Flows& f, std::size_t, bool) { return exceeds(f.loads[i].v, max); });
        Finding f;
        f.rule = "window_high";
        f.severity = spell.share < kSliver && hoursAbove(s, spell.share) < kSliver ? Severity::care
                                                                                   : Severity::stop;
        f.subject = load.id;
        f.title = nameOf(load) + " gets too much";
        f.says = fmt::format(
            "It sees up to {} with full cells and takes {} at most{}.", volts(seen), volts(max),
            spell.valid() && spell.share < 1
                ? fmt::format(", over the first {} of the charge", writeShare(spell.share))
                : "");
        f.numbers = {{"v", seen},
                     {"sees_v", seen},
                     {"max_v", max},
                     {"limit_v", max},
                     {"charge_share", spell.share}};
        if (const Stage* regulator = upstreamRegulator(s.project, load.id)) {
            const double set = orZero(setPointOf(regulator->part));
            const double wanted = std::min(set, load.window.middle().value());
            if (seen <= set * 1.001 && wanted < set)
                f.fix = setPointFix(*regulator, wanted);
        }
        out.push_back(std::move(f));
    }
}

void neverAbove(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sweep)
        return;
    const Flows idle = unloadedAtFull(s.project);
    const auto say = [&](const std::string& id, const std::string& name, double seen,
                         double limit) {
        Finding f;
        f.rule = "never_above";
        f.severity = Severity::stop;
        f.subject = id;
        f.title = name + " would be damaged";
        f.says =
            fmt::format("With full cells and nothing drawn it sees {}; it survives {} at most.",
                        voltsBeside(seen, limit), volts(limit));
        f.numbers = {{"v", seen}, {"sees_v", seen}, {"never_above_v", limit}, {"limit_v", limit}};
        out.push_back(std::move(f));
    };
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const double limit = neverAboveOf(s.project.stages[i].part);
        const double seen = std::max(idle.stages[i].vIn, s.sweep->stageIn[i].high);
        if (limit > 0 && exceeds(seen, limit))
            say(s.project.stages[i].id, nameOf(s.project.stages[i]), seen, limit);
    }
    for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
        const auto limit = s.project.loads[i].window.neverAbove;
        const double seen = std::max(idle.loads[i].v, s.sweep->loadHigh[i].value);
        if (limit && exceeds(seen, limit->value()))
            say(s.project.loads[i].id, nameOf(s.project.loads[i]), seen, limit->value());
    }
}

/// A gauge that was made for cells sees volts that do not move.
void gaugeBlind(const RuleInput& s, std::vector<Finding>& out) {
    for (const Load& load : s.project.loads) {
        if (!load.gauge.value_or(false))
            continue;
        const Stage* regulator = upstreamRegulator(s.project, load.id);
        const auto way = pathToSource(s.project, load.id);
        const bool mains = !way.empty() && isExternalSource(way.back()->part);
        if (!regulator && !mains)
            continue;
        const double held = regulator ? orZero(setPointOf(regulator->part)) : 0;
        out.push_back(finding(
            "gauge_blind", Severity::note, load.id, nameOf(load) + " will show full until it stops",
            fmt::format("It tells the charge of its own cells by their volts, and {} gives it {} "
                        "whatever is left: its gauge stands still, and then it is off.",
                        regulator ? nameOf(*regulator) : nameOf(*way.back()),
                        held > 0 ? volts(held) : std::string("steady volts")),
            {{"set_v", held}}));
    }
}

} // namespace sipper::rules
