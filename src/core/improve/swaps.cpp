// SPDX-License-Identifier: GPL-3.0-or-later
#include "improve/swaps.hpp"

#include "base/tolerance.hpp"
#include "line/unloaded.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "parts/madeas.hpp"
#include "project/build.hpp"
#include "project/tree.hpp"
#include "quantity/write.hpp"
#include "runtime/externalload.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kSameCurrent = 0.05; ///< by which two light drivers may differ

/// Volts everywhere with nothing drawn: the pack full, or the source at its highest.
Flows unloaded(const Project& p) {
    if (p.pack())
        return unloadedAtFull(p);
    const auto sources = externalSources(p);
    return sources.empty() ? Flows{} : unloadedFrom(p, sources.front());
}

/// What the unloaded line already says against it; empty when nothing does.
std::string trouble(const Project& p, const Flows& idle) {
    const auto excesses = idleExcesses(p, idle);
    return excesses.empty() ? std::string()
                            : fmt::format("{} would see {}", nameAt(p, excesses.front().id),
                                          writeQuantity(excesses.front().sees, Unit::volt));
}

/// Why the part, in its place, can't be what it is to be; empty where it can.
std::string whyNotSet(const Project& with, const Stage& before, const Stage& stage) {
    if (regulatesCurrent(before.part) != regulatesCurrent(stage.part))
        return regulatesCurrent(stage.part)
                   ? "it holds a current, for strings of lights"
                   : "it holds volts, and strings of lights want a current";
    if (const auto amps = setCurrentOf(stage.part))
        if (const double old = orZero(setCurrentOf(before.part));
            std::abs(amps->value() - old) > kSameCurrent * old)
            return fmt::format("it pushes {}, these strings are to have {}",
                               writeQuantity(amps->value(), Unit::ampere),
                               writeQuantity(old, Unit::ampere));
    if (const auto* guard = std::get_if<Guard>(&stage.part))
        if (const Pack* pack = with.pack(); pack && !guardMadeFor(*guard, *pack))
            return "it is made for other cells";
    const auto range = setRangeOf(stage.part);
    const double set = setVoltsOf(stage.part);
    if (!range || set <= 0 || range->holds(set))
        return {};
    const bool cuts = std::holds_alternative<Guard>(stage.part);
    if (range->least == range->most)
        return fmt::format("it {} at {} alone", cuts ? "opens" : "comes",
                           writeQuantity(range->least, Unit::volt));
    return set < range->least ? fmt::format("its {} starts at {}", cuts ? "cut-off" : "output",
                                            writeQuantity(range->least, Unit::volt))
                              : fmt::format("its {} ends at {}", cuts ? "cut-off" : "output",
                                            writeQuantity(range->most, Unit::volt));
}

} // namespace

bool interchangeable(const Part& part, const Part& other) {
    return kindFacts(part).trade == kindFacts(other).trade;
}

Project withSwap(const Project& project, std::string_view id, const LibraryPart& part,
                 double series) {
    const Stage* before = project.stage(id);
    if (!before || !interchangeable(before->part, part.stage.part))
        return project;
    Project p = withPart(project, id, part.stage);
    Stage& stage = *p.stage(id);
    if (auto* pack = std::get_if<Pack>(&stage.part)) {
        // The pack stays what it is but for its cells; what was measured on the old ones is gone.
        const Pack& old = std::get<Pack>(before->part);
        Pack next = old;
        next.cell = pack->cell;
        next.measuredResistance.reset();
        next.weakestGroup.reset();
        next.health.reset();
        // A block comes whole: as many of them as come nearest.
        const Pack& whole = std::get<Pack>(part.stage.part);
        const double block = std::max(1.0, static_cast<double>(whole.series));
        const double wanted =
            series > 0 ? series : old.series * nominalOf(old.cell) / nominalOf(next.cell);
        next.series = block * std::max(1.0, std::round(wanted / block));
        if (whole.parallel > 1)
            next.parallel = whole.parallel;
        next.pieces.reset();
        if (whole.pieces)
            next.pieces = std::max(
                1.0, std::round(next.series * next.parallel / (whole.series * whole.parallel)) *
                         *whole.pieces);
        if (whole.cellMonitor)
            next.cellMonitor = whole.cellMonitor;
        stage.part = next;
    }
    if (auto* wire = std::get_if<Wire>(&stage.part))
        wire->length = std::get<Wire>(before->part).length;
    return p;
}

namespace {

/// One candidate after another against the project as it is.
class Solver {
  public:
    Solver(const Project& project, const Library& library, std::string_view id)
        : m_project(project), m_library(library), m_id(id), m_grams(project.massGrams()),
          m_price(project.totalPrice()) {
        m_coarse.record = false;
        if (project.pack())
            m_hours = predictRuntime(project, typicalConditions(project), m_coarse)
                          .hours.value_or(Hours{0})
                          .value();
    }

    [[nodiscard]] Swap solve(std::size_t part, double series) const {
        Swap swap;
        swap.part = part;
        const Project with = withSwap(m_project, m_id, m_library.parts[part], series);
        if (const auto* pack = std::get_if<Pack>(&with.stage(m_id)->part))
            swap.series = pack->series;
        swap.gramsMore = with.massGrams() - m_grams;
        swap.priceMore = with.totalPrice() - m_price;
        swap.why = whyNotSet(with, *m_project.stage(m_id), *with.stage(m_id));
        if (swap.why.empty())
            swap.why = trouble(with, unloaded(with));
        if (swap.why.empty() && with.pack())
            onCells(with, swap);
        else if (swap.why.empty())
            onExternalSource(with, swap);
        swap.fits = swap.why.empty() && !swap.ending;
        return swap;
    }

  private:
    void onCells(const Project& with, Swap& swap) const {
        const Runtime r = predictRuntime(with, typicalConditions(with), m_coarse);
        if (!r.hours)
            return;
        swap.hours = r.hours->value();
        swap.gainHours = *swap.hours - m_hours;
        if (*swap.hours <= 0)
            swap.ending = r.ending;
    }
    static void onExternalSource(const Project& with, Swap& swap) {
        for (const ExternalLoad& t : externalLoadsOf(with)) {
            swap.heatWatts = std::max(swap.heatWatts, t.heatWatts);
            if (t.collapses || t.trips)
                swap.why = nameOf(with.stages[t.source]) + " can't carry it";
            for (std::size_t l = 0; l < with.loads.size(); ++l)
                if (t.seen.firstUndervoltage[l].valid)
                    swap.why = nameOf(with.loads[l]) + " gets too little";
        }
    }

    const Project& m_project;
    const Library& m_library;
    std::string m_id;
    StepControl m_coarse = coarseSteps();
    double m_hours = 0;
    double m_grams;
    double m_price;
};

} // namespace

std::vector<Swap> suggestSwaps(const Project& project, const Library& library, std::string_view id,
                               const std::stop_token& stop,
                               const std::function<void(std::size_t, std::size_t)>& each) {
    std::vector<Swap> list;
    const Stage* stage = project.stage(id);
    if (!stage)
        return list;
    const Solver solver(project, library, id);
    std::vector<std::size_t> parts;
    for (std::size_t i = 0; i < library.parts.size(); ++i)
        if (interchangeable(stage->part, library.parts[i].stage.part))
            parts.push_back(i);
    for (const std::size_t i : parts) {
        if (stop.stop_requested())
            return {};
        Swap swap = solver.solve(i, 0);
        if (const auto* pack = std::get_if<Pack>(&stage->part);
            pack && pack->series != swap.series) {
            Swap asMany = solver.solve(i, pack->series);
            if (asMany.fits > swap.fits ||
                (asMany.fits == swap.fits && asMany.gainHours > swap.gainHours))
                swap = std::move(asMany);
        }
        list.push_back(std::move(swap));
        if (each)
            each(list.size(), parts.size());
    }
    std::stable_sort(list.begin(), list.end(), [](const Swap& a, const Swap& b) {
        return std::tuple(!a.fits, -a.gainHours, a.heatWatts, a.priceMore) <
               std::tuple(!b.fits, -b.gainHours, b.heatWatts, b.priceMore);
    });
    return list;
}

} // namespace sipper
