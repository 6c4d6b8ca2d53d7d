// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about regulators that leave their set-point.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "parts/figures.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

/// V at a linear regulator's or a buck's input that it takes to hold `set` at this output.
double needsAtItsInput(const Stage& stage, double set, double amps) {
    if (const auto* linear = std::get_if<Linear>(&stage.part)) {
        const double rated = orZero(linear->ratedCurrent);
        const bool fet = linear->dropoutKind == DropoutKind::fet && rated > 0;
        return set + orZero(linear->dropout) * (fet ? amps / rated : 1);
    }
    if (const auto* s = std::get_if<Switcher>(&stage.part); s && s->topology == Topology::buck)
        return (set + orZero(s->drop) + orZero(s->resistance) * amps) / s->maxDuty.value_or(1.0);
    return 0;
}

bool feeds(const Project& p, const Stage& stage, const Load& load) {
    const auto way = pathToSource(p, load.id);
    return std::find(way.begin(), way.end(), &stage) != way.end();
}

} // namespace

void dropOut(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sweep)
        return;
    const OperatingSweep& survey = *s.sweep;
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        const Occurrence& drop = survey.firstDropout[i];
        if (!drop.valid)
            continue;
        // What counts is where a load behind it goes without; without one, where the set-point is
        // lost.
        double lost = 0;
        std::string starved;
        for (std::size_t k = 0; k < s.project.loads.size(); ++k) {
            const Occurrence& leaves = survey.firstUndervoltage[k];
            if (leaves.valid && feeds(s.project, stage, s.project.loads[k]) &&
                leaves.charge - survey.stopCharge > lost) {
                lost = leaves.charge - survey.stopCharge;
                starved = nameOf(s.project.loads[k]);
            }
        }
        const double below = drop.charge - survey.stopCharge;
        if (below < 1e-6 && starved.empty())
            continue;
        const auto pushes = setCurrentOf(stage.part);
        const double set = pushes ? survey.stageOut[i].high : orZero(setPointOf(stage.part));
        Finding f;
        f.rule = "drop_out";
        f.subject = stage.id;
        f.severity = starved.empty() || lost < kSliver ? Severity::care : Severity::stop;
        f.title = starved.empty()
                      ? nameOf(stage) + (pushes ? " loses its current" : " loses its set-point")
                      : starved + " browns out early";
        f.says = fmt::format(
            "Below {} at its input {} has no room left for {}. {}", volts(drop.value),
            nameOf(stage), volts(set) + (pushes ? " of its strings" : ""),
            starved.empty()
                ? fmt::format("Over the last {} of the charge its output sinks with the "
                              "input; the loads behind it still bear that.",
                              writeShare(below))
                : fmt::format("{} of the charge stays out of reach of {}.", writeShare(lost),
                              starved));
        f.numbers = {{"input_v", drop.value},
                     {"drops_at_charge", drop.charge},
                     {"stop_at_charge", survey.stopCharge},
                     {"charge_lost", starved.empty() ? below : lost}};
        const double needs =
            needsAtItsInput(stage, set, pushes ? pushes->value() : survey.maxOut[i].value);
        if (needs > 0)
            f.numbers["needs_v"] = needs;
        if (const double full = fullVolts(*s.project.pack()); needs > full)
            f.says += fmt::format(" At its worst draw it needs {}; full cells give {}.",
                                  volts(needs), volts(full));
        f.fix = switcherFix(s, stage, dropOut);
        if (f.fix)
            f.fix->forHours = true;
        out.push_back(std::move(f));
    }
}

void passesThrough(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sweep)
        return;
    const Flows idle = unloadedAtFull(s.project);
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        const auto* boost = std::get_if<Switcher>(&stage.part);
        if (!boost || boost->topology != Topology::boost || boost->holdsWhenAbove.value_or(false))
            continue;
        const double in = std::max(idle.stages[i].vIn, s.sweep->stageIn[i].high);
        const bool pushes = setCurrentOf(stage.part).has_value();
        const double set = pushes ? s.sweep->stageOut[i].low : boost->set.value();
        if (pushes ? !s.sweep->passesAt[i].valid : in <= set)
            continue;
        Finding f;
        f.rule = "passes_through";
        f.severity = Severity::stop;
        f.subject = stage.id;
        f.title = nameOf(stage) + " lets its input through";
        f.says =
            pushes ? fmt::format("With full cells its input reaches {}, over the {} of its "
                                 "strings: a boost can't step down, so nothing holds their "
                                 "current.",
                                 volts(in), volts(set))
                   : fmt::format(
                         "With full cells its input reaches {}, over the set-point of {}: a boost "
                         "can't step down, so what hangs on it sees about {}.",
                         volts(in), volts(set),
                         volts(std::max(set, in - boost->drop.value_or(Volts{0}).value())));
        f.numbers = {{"input_v", in}, {"set_v", set}};
        f.fix = switcherFix(s, stage, passesThrough);
        out.push_back(std::move(f));
    }
}

} // namespace sipper::rules
