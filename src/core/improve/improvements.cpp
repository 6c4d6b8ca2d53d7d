// SPDX-License-Identifier: GPL-3.0-or-later
#include "improve/improvements.hpp"

#include "line/unloaded.hpp"
#include "line/wiring.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "parts/madeas.hpp"
#include "parts/typical.hpp"
#include "project/edits.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kCutoffStep = 0.1;     ///< V a cell
constexpr double kWindowShorter = 0.25; ///< of a daily window
constexpr double kWorthNaming = 1e-4;   ///< of the runtime: a smaller change is none
constexpr std::size_t kPairsOf = 3;

struct Step {
    std::string subject;
    std::string name;
    ImprovementStep step;
    bool builds = true;
};

/// Does the unloaded, full line already break something that it did not break before?
bool harms(const Project& before, const Project& after) {
    // Nothing is set where it can't be set.
    for (const Stage& stage : after.stages)
        if (const auto range = setRangeOf(stage.part);
            range && !range->holds(setVoltsOf(stage.part)))
            if (const Stage* was = before.stage(stage.id);
                !was || setVoltsOf(was->part) != setVoltsOf(stage.part))
                return true;
    for (const Stage& stage : after.stages)
        if (const auto* guard = std::get_if<Guard>(&stage.part); guard && after.pack())
            if (!guardMadeFor(*guard, *after.pack()) &&
                (!before.pack() || guardMadeFor(*guard, *before.pack())))
                return true;
    return idleExcesses(after, unloadedAtFull(after)).size() >
           idleExcesses(before, unloadedAtFull(before)).size();
}

template <class P, class Figure, class Value>
ImprovementStep setFigure(const std::string& id, Figure P::*figure, Value value) {
    return [id, figure, value](Project& p) {
        if (Stage* s = p.stage(id))
            if (P* part = std::get_if<P>(&s->part))
                part->*figure = value;
    };
}

/// So many cells in series and parallel.
ImprovementStep counted(const std::string& id, double series, double parallel) {
    return [=](Project& p) {
        if (Stage* s = p.stage(id))
            if (Pack* pack = std::get_if<Pack>(&s->part))
                countCells(*pack, series, parallel);
    };
}

void packSteps(const Project& p, const Library& library, std::vector<Step>& out) {
    const Stage& stage = *p.packStage();
    const Pack& pack = *p.pack();
    // A block comes whole.
    const double block =
        pack.pieces ? std::max(1.0, std::round(pack.series * pack.parallel / *pack.pieces)) : 1;
    out.push_back(
        {stage.id, "one more in parallel", counted(stage.id, pack.series, pack.parallel + 1)});
    out.push_back(
        {stage.id, "one more in series", counted(stage.id, pack.series + block, pack.parallel)});
    // The next larger cell of the same size and chemistry.
    const LibraryPart* next = nullptr;
    for (const LibraryPart& part : library.parts)
        if (const auto* other = std::get_if<Pack>(&part.stage.part);
            other && other->cell.size == pack.cell.size &&
            other->cell.chemistry == pack.cell.chemistry &&
            other->cell.capacity > pack.cell.capacity * 1.02 &&
            (!next || other->cell.capacity < std::get<Pack>(next->stage.part).cell.capacity))
            next = &part;
    if (next)
        out.push_back(
            {stage.id,
             "cells of " + writeQuantity(std::get<Pack>(next->stage.part).cell.capacity.value(),
                                         Unit::ampereHour),
             [part = *next, id = stage.id](Project& q) {
                 q = withSwap(q, id, part, std::get<Pack>(q.stage(id)->part).series);
             }});
}

void stageSteps(const Project& p, const Library& library, std::vector<Step>& out) {
    const Network network(p, p.brief.air().usual());
    for (const std::size_t i : network.order()) {
        const Stage& stage = p.stages[i];
        const std::string name = nameOf(stage);
        if (const auto* guard = std::get_if<Guard>(&stage.part))
            out.push_back(
                {stage.id,
                 fmt::format("{} at {}", name,
                             writeQuantity(guard->cutoff.value() - kCutoffStep * p.pack()->series,
                                           Unit::volt)),
                 setFigure(stage.id, &Guard::cutoff,
                           guard->cutoff - Volts{kCutoffStep * p.pack()->series})});
        if (const auto* wire = std::get_if<Wire>(&stage.part))
            if (const auto next = thickerLead(areaOf(*wire), [](double) { return true; }))
                out.push_back(
                    {stage.id,
                     fmt::format("{} of {}", name, writeExact(*next, Unit::squareMillimetre)),
                     [id = stage.id, area = *next](Project& q) {
                         auto& w = std::get<Wire>(q.stage(id)->part);
                         w.awg.reset();
                         w.area = SquareMillimetres{area};
                     }});
        if (std::holds_alternative<Diode>(stage.part))
            out.push_back({stage.id, name + " as a FET", [id = stage.id](Project& q) {
                               q.stage(id)->part = IdealDiode{kTypicalFet};
                           }});
        if (!isRegulator(stage.part))
            continue;
        if (const Amps half{quiescentOf(stage.part) / 2}; half > Amps{0})
            out.push_back({stage.id, "half the own use of " + name,
                           std::holds_alternative<Linear>(stage.part)
                               ? setFigure(stage.id, &Linear::ground, half)
                               : setFigure(stage.id, &Switcher::quiescent, half),
                           false});
        for (const Swap& swap : suggestSwaps(p, library, stage.id)) {
            if (!swap.fits || swap.gainHours <= 0)
                break;
            out.push_back(
                {stage.id,
                 fmt::format("{} in place of {}", library.parts[swap.part].stage.label, name),
                 [part = library.parts[swap.part], id = stage.id](Project& q) {
                     q = withSwap(q, id, part);
                 }});
            break; // the best one is the improvement
        }
    }
}

void useSteps(const Project& p, std::vector<Step>& out) {
    const std::size_t base = p.baseMode();
    for (std::size_t l = 0; l < p.loads.size(); ++l) {
        const Draw* draw = drawIn(p, p.loads[l], base);
        if (!draw || (draw->current && draw->current->value() <= 0))
            continue;
        out.push_back({p.loads[l].id,
                       fmt::format("half of what {} draws in “{}”", nameOf(p.loads[l]),
                                   nameOf(p.modes[base])),
                       [l, base](Project& q) {
                           Draw& d = ownDrawIn(q, q.loads[l], base);
                           if (d.current)
                               *d.current /= 2;
                           else if (d.power)
                               *d.power /= 2;
                           else if (d.led)
                               *d.led /= 2;
                           else if (d.resistance)
                               *d.resistance *= 2;
                       },
                       false});
    }
    for (std::size_t m = 0; m < p.modes.size(); ++m) {
        const Mode& mode = p.modes[m];
        if (mode.repeats())
            out.push_back({mode.id, fmt::format("“{}” half as often", nameOf(mode)),
                           [m](Project& q) { *q.modes[m].every *= 2; }, false});
        if (mode.isWindowed())
            out.push_back({mode.id, fmt::format("“{}” a quarter shorter", nameOf(mode)),
                           [m](Project& q) {
                               for (auto& [from, to] : q.modes[m].daily) {
                                   const double start = clockMinutes(from).value_or(0);
                                   double length = clockMinutes(to).value_or(0) - start;
                                   length += length <= 0 ? 1440 : 0;
                                   to = clockText(std::fmod(
                                       start + std::round(length * (1 - kWindowShorter)), 1440));
                               }
                           },
                           false});
    }
}

Improvement solved(const Project& project, Project with, double hoursNow) {
    StepControl quick;
    quick.record = false;
    const Runtime r = predictRuntime(with, typicalConditions(with), quick);
    Improvement lever;
    lever.hours = r.hours.value_or(Hours{0}).value();
    lever.gainHours = lever.hours - hoursNow;
    lever.gramsMore = with.massGrams() - project.massGrams();
    lever.priceMore = with.totalPrice() - project.totalPrice();
    lever.project = std::move(with);
    return lever;
}

double hoursOf(const Project& p) {
    StepControl quick;
    quick.record = false;
    return predictRuntime(p, typicalConditions(p), quick).hours.value_or(Hours{0}).value();
}

void sortByGain(std::vector<Improvement>& levers) {
    std::stable_sort(levers.begin(), levers.end(), [](const Improvement& a, const Improvement& b) {
        return a.gainHours > b.gainHours;
    });
}

} // namespace

std::vector<Improvement> improvementsOf(const Project& project, const Library& library,
                                        const std::stop_token& stop,
                                        const std::function<void(const Improvement&)>& each,
                                        ImprovementScope scope) {
    std::vector<Improvement> levers;
    if (!project.pack())
        return levers;
    const double now = hoursOf(project);
    if (now <= 0)
        return levers;
    std::vector<Step> candidates;
    packSteps(project, library, candidates);
    stageSteps(project, library, candidates);
    useSteps(project, candidates);
    if (scope == ImprovementScope::builds)
        std::erase_if(candidates, [](const Step& c) { return !c.builds; });
    for (const Step& c : candidates) {
        if (stop.stop_requested())
            return {};
        Project with = project;
        c.step(with);
        if (with == project || checkProject(with) || harms(project, with))
            continue;
        Improvement lever = solved(project, std::move(with), now);
        if (lever.gainHours <= kWorthNaming * now)
            continue;
        lever.subject = c.subject;
        lever.name = c.name;
        lever.step = c.step;
        lever.builds = c.builds;
        if (each)
            each(lever);
        levers.push_back(std::move(lever));
    }
    sortByGain(levers);
    return levers;
}

std::vector<Improvement> improvementPairs(const Project& project,
                                          const std::vector<Improvement>& levers) {
    std::vector<Improvement> pairs;
    if (levers.size() < 2)
        return pairs;
    const double now = hoursOf(project);
    const std::size_t count = std::min(kPairsOf, levers.size());
    for (std::size_t a = 0; a < count; ++a)
        for (std::size_t b = a + 1; b < count; ++b) {
            Project with = project;
            levers[a].step(with);
            levers[b].step(with);
            if (checkProject(with) || harms(project, with))
                continue;
            Improvement lever = solved(project, std::move(with), now);
            lever.name = levers[a].name + ", and " + levers[b].name;
            pairs.push_back(std::move(lever));
        }
    sortByGain(pairs);
    return pairs;
}

} // namespace sipper
