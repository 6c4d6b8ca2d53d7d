// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about what the loads draw, and how well that is known.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "parts/figures.hpp"
#include "project/edits.hpp"
#include "runtime/budget.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kGuessedShare = 0.25; ///< of the energy carried by guesses
constexpr double kOwnShare = 0.10;     ///< of the energy taken by quiescent draw
constexpr double kSleepShare = 0.20;   ///< of a load's energy taken while it sleeps
constexpr double kSleepCurrent = 0.1;  ///< of its largest draw: a base draw under it is sleep
constexpr double kRunaway = 1.5;       ///< draw at the stop over the draw at full

/// What the parts of the line draw for themselves.
void ownOfStages(const RuleInput& s, std::vector<Finding>& out) {
    const double hours = s.runtime.hours->value();
    const double energy = s.runtime.meanPower.value() * hours;
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        const double amps = quiescentOf(stage.part);
        const VoltageRange& in = s.sweep->stageIn[i];
        if (amps <= 0 || !in.valid || energy <= 0)
            continue;
        const double wh = amps * (in.low + in.high) / 2 * hours;
        if (wh <= kOwnShare * energy)
            continue;
        Finding f;
        f.rule = "own_use";
        f.severity = Severity::care;
        f.subject = stage.id;
        f.title = fmt::format("{} keeps {} for itself", nameOf(stage), writeShare(wh / energy));
        f.says = fmt::format("It draws {} all the time: over the run {} of {}. A part that draws "
                             "less, or a switch before it, "
                             "gives that back.",
                             writeQuantity(amps, Unit::ampere), writeQuantity(wh, Unit::wattHour),
                             writeQuantity(energy, Unit::wattHour));
        f.numbers = {{"a", amps}, {"wh", wh}, {"share", wh / energy}};
        out.push_back(std::move(f));
    }
}

/// What the loads draw while they sleep.
void sleepOfLoads(const RuleInput& s, std::vector<Finding>& out) {
    const std::size_t baseIndex = s.project.baseMode();
    const std::string& base = s.project.modes[baseIndex].id;
    const Budget budget = budgetOf(s.project);
    for (std::size_t i = 0; i < s.project.loads.size() && s.project.modes.size() > 1; ++i) {
        const Load& load = s.project.loads[i];
        const Draw* asleep = drawIn(s.project, load, baseIndex);
        double most = 0;
        for (const Draw& d : load.draws)
            most = std::max(most, d.current.value_or(Amps{0}).value());
        if (!asleep || !asleep->current || asleep->current->value() <= 0 ||
            asleep->current->value() > kSleepCurrent * most)
            continue;
        const double wh = budget.loadModeWhPerDay[i][baseIndex];
        if (wh <= kSleepShare * budget.whPerDay)
            continue;
        Finding f;
        f.rule = "own_use";
        f.severity = Severity::care;
        f.subject = load.id;
        f.title = fmt::format("{} sleeps away {}", nameOf(load), writeShare(wh / budget.whPerDay));
        f.says = fmt::format("{} in mode “{}” sounds small; over a day it is {} of {}.",
                             writeQuantity(asleep->current->value(), Unit::ampere),
                             nameOf(s.project.modes[baseIndex]), writeQuantity(wh, Unit::wattHour),
                             writeQuantity(budget.whPerDay, Unit::wattHour));
        f.numbers = {{"a", asleep->current->value()}, {"wh", wh}, {"share", wh / budget.whPerDay}};
        f.fix = editFix("Try half of it", fmt::format("halve the sleep of {}", nameOf(load)),
                        [id = load.id, base](const Project& project) {
                            Project next = project;
                            if (Load* l = next.load(id))
                                for (Draw& d : l->draws)
                                    if (d.mode == base && d.current)
                                        d.current = *d.current / 2;
                            return next;
                        });
        f.fix->forHours = true;
        out.push_back(std::move(f));
    }
}

} // namespace

void guessed(const RuleInput& s, std::vector<Finding>& out) {
    double all = 0;
    double carried = 0;
    std::vector<std::pair<double, std::string>>
        guesses; // hours the range would shrink by, or share; name
    for (const Load& load : s.project.loads) {
        double mine = 0;
        for (std::size_t m = 0; m < s.project.modes.size(); ++m) {
            const auto at = s.runtime.ledger.loadModes.find(load.id);
            if (at == s.runtime.ledger.loadModes.end())
                continue;
            const double wh = at->second.at(s.project.modes[m].id);
            all += wh;
            const Draw* draw = drawIn(s.project, load, m);
            if (draw && draw->basis == Basis::guess)
                mine += wh;
        }
        carried += mine;
        if (mine <= 0)
            continue;
        double shrink = 0;
        if (s.range)
            for (const Sensitivity& spread : s.range->sensitivities)
                if (spread.about == "draw of " + nameOf(load))
                    shrink = spread.high - spread.low;
        guesses.emplace_back(shrink > 0 ? shrink : mine * 1e-9, nameOf(load));
    }
    if (all <= 0 || carried <= kGuessedShare * all)
        return;
    std::sort(guesses.begin(), guesses.end(), std::greater<>());
    Finding f;
    f.rule = "guessed";
    f.severity = Severity::care;
    f.subject = "project";
    f.title = fmt::format("Guesses carry {}", writeShare(carried / all));
    f.says =
        fmt::format("{} of the energy goes to draws that are guesses. Measure {} first{}.",
                    writeShare(carried / all), guesses.front().second,
                    guesses.front().first > 0.01 ? fmt::format(": it alone moves the runtime by {}",
                                                               writeHours(guesses.front().first))
                                                 : "");
    for (std::size_t i = 1; i < std::min<std::size_t>(3, guesses.size()); ++i)
        f.says += fmt::format(" Then {}.", guesses[i].second);
    f.numbers = {{"share", carried / all}, {"hours", guesses.front().first}};
    out.push_back(std::move(f));
}

void ownUse(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sweep || !s.runtime.hours || s.runtime.hours->value() <= 0)
        return;
    ownOfStages(s, out);
    sleepOfLoads(s, out);
}

void constantPowerRunaway(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sweep || !s.sweep->maxPack.valid || s.sweep->maxPack.inBurst)
        return;
    const Occurrence& worst = s.sweep->maxPack;
    const OperatingPoint full = operate(s.project, typicalConditions(s.project), 1, worst.mode);
    if (full.collapse || full.flows.sourceAmps <= 0 ||
        worst.value <= kRunaway * full.flows.sourceAmps)
        return;
    Finding f;
    f.rule = "constant_power_runaway";
    f.severity = Severity::note;
    f.subject = s.project.packStage()->id;
    f.title = "The draw grows as the cells sink";
    f.says = fmt::format("In mode “{}” the cells give {} when full and {} at {} of the charge: "
                         "regulators take more current from a "
                         "lower voltage. Judge cells, fuse and leads by the end.",
                         nameOf(s.project.modes[worst.mode]), amps(full.flows.sourceAmps),
                         amps(worst.value), writeShare(worst.charge));
    f.numbers = {{"full_a", full.flows.sourceAmps}, {"worst_a", worst.value}};
    out.push_back(std::move(f));
}

} // namespace sipper::rules
