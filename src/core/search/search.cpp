// SPDX-License-Identifier: GPL-3.0-or-later
#include "search/search.hpp"

#include "search/shortlist.hpp"

#include "advice/advice.hpp"
#include "analysis/analysis.hpp"
#include "base/tolerance.hpp"
#include "charge/charge.hpp"
#include "parts/cellsize.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "protect/rebound.hpp"
#include "runtime/operatingsweep.hpp"
#include "runtime/runtime.hpp"
#include "search/chargerchoice.hpp"
#include "search/feasibility.hpp"
#include "text/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>
#include <set>

namespace sipper {
namespace {

constexpr std::size_t kBatch = 128;     ///< run before the front is looked at again
constexpr std::size_t kGroupBatch = 16; ///< of packs, filtered before what is left of them runs
constexpr int kShortRounds = 12;        ///< of looking for a short list with nothing to mend
constexpr double kLeastApart = 0.05;    ///< of the cut-off: closer, noise alone closes it again
constexpr double kLithiumApart = 0.2;   ///< V a cell, that a guard closes over its cut-off at least
constexpr std::size_t kTooShort = static_cast<std::size_t>(RejectReason::tooShort);
constexpr std::size_t kBeaten = static_cast<std::size_t>(RejectReason::dominated);

struct Ran {
    double hours = 0;
    double worst = 0;
};

Ran runOf(const Project& p) {
    StepControl quick;
    quick.record = false;
    const Runtime r = predictRuntime(p, typicalConditions(p), quick);
    Ran out;
    out.hours = r.hours ? r.hours->value() : 0;
    const Pack& pack = *p.pack();
    const double most = pack.parallel * orZero(pack.cell.maxDischarge);
    out.worst = most > 0 ? r.worstCurrent.value() / most : 0;
    return out;
}

/// Raises the reconnect voltage above the cells' rebound.
Project withGuardHysteresis(Project p) {
    for (Stage& stage : p.stages) {
        auto* guard = std::get_if<Guard>(&stage.part);
        if (!guard || !p.pack())
            continue;
        // The rebound alone: the run, and where the line stops first, name the mode that is held.
        StepControl quick;
        quick.record = false;
        const Runtime run = predictRuntime(p, typicalConditions(p), quick);
        OperatingSweep sweep = sweepOperation(p, typicalConditions(p));
        sweep.include(p, run);
        for (const GuardAnalysis& look :
             guardsOf(p, run, sweep.stop, serialFor, GuardDepth::hysteresis)) {
            const double distance = isRechargeableLithium(p.pack()->cell.chemistry)
                                        ? kLithiumApart * p.pack()->series
                                        : 0;
            // To the next hundredth of a volt upwards.
            const double over =
                std::max({look.minHysteresis, distance, kLeastApart * guard->cutoff.value()});
            guard->reconnect = Volts{std::ceil((guard->cutoff.value() + over) * 100 - 1e-6) / 100};
        }
        break;
    }
    return p;
}

Candidate::Advice adviceOf(const Project& p) {
    // Candidates are shared out among the threads, not the parts of one.
    const std::vector<Finding> findings = analyseQuick(p, {.bench = false}, {}, serialFor).findings;
    Candidate::Advice a;
    a.stop = countOf(findings, Severity::stop);
    a.care = countOf(findings, Severity::care);
    a.note = countOf(findings, Severity::note);
    for (const Severity severity : {Severity::stop, Severity::care})
        for (const Finding& f : findings)
            if (f.severity == severity && a.first.empty())
                a.first = f.title;
    return a;
}

/// All of the work of one search.
class Searcher {
  public:
    Searcher(const FeasibilityFilter& filter, const SearchOptions& ask, const std::stop_token& stop,
             const SearchProgress& progress, const ParallelFor& parallelFor)
        : m_filter(filter), m_ask(ask), m_stop(stop), m_progress(progress),
          m_parallelFor(parallelFor), m_order(filter.groups().size()) {
        std::iota(m_order.begin(), m_order.end(), std::size_t{0});
    }

    /// False when it was stopped.
    bool search(Search& out) {
        m_kept = &out.feasible;
        m_sifted.total = m_filter.tried();
        out.leastHours = m_filter.leastHours();
        out.lets = m_filter.steps();
        PackPass all = runPass(FeasibilityFilter::Pass::all);
        if (m_stop.stop_requested())
            return false;
        if (!all.full) {
            take(out, all);
            run(out, all.survivors, false);
        } else {
            // The best by their bounds run first; what they beat needs no run. The best of each
            // batch make the front harder to pass for the next, and for what is left at the end.
            m_sifted = {};
            m_sifted.total = m_filter.tried();
            std::vector<Survivor> first = runPass(FeasibilityFilter::Pass::seeds).survivors;
            bestGroupsFirst(first);
            run(out, frontByBound(std::move(first)), true);
            std::vector<Survivor> later;
            const PackPass pass = runPass(FeasibilityFilter::Pass::bound, [&](PackPass& batch) {
                run(out, frontByBound(batch.survivors), true);
                later.insert(later.end(), batch.survivors.begin(), batch.survivors.end());
                batch.survivors.clear();
            });
            runBest(out, std::move(later));
            take(out, pass);
            // What ran at the outset was counted then.
            for (const std::uint64_t number : pass.nearShort)
                out.counts.rejected[kTooShort] -= m_done.contains(number) ? 1 : 0;
            settleCounts(out);
        }
        std::stable_sort(
            out.feasible.begin(), out.feasible.end(),
            [](const Candidate& a, const Candidate& b) { return a.number < b.number; });
        return !m_stop.stop_requested();
    }

  private:
    /// `then`: what to do with each batch, of which the survivors are left out of the sum.
    PackPass runPass(FeasibilityFilter::Pass kind,
                     const std::function<void(PackPass&)>& then = {}) {
        PackPass sum;
        const std::size_t count = m_filter.groups().size();
        for (std::size_t from = 0; from < count; from += kGroupBatch) {
            m_front.buildIndex();
            const std::size_t many = std::min(kGroupBatch, count - from);
            std::vector<PackPass> passes(many);
            m_parallelFor(many, [&](std::size_t i) {
                if (!m_stop.stop_requested())
                    passes[i] = m_filter.group(m_order[from + i], kind, m_front, m_ask.runAll);
            });
            if (m_stop.stop_requested())
                return sum;
            PackPass batch;
            for (PackPass& pass : passes)
                batch.add(std::move(pass));
            if (kind != FeasibilityFilter::Pass::seeds) {
                m_sifted.tried += batch.counts.tried;
                m_sifted.toRun += batch.counts.toRun;
            }
            if (then)
                then(batch);
            sum.add(std::move(batch));
            // More than are run one by one: this pass is given up.
            sum.full = sum.full || (kind == FeasibilityFilter::Pass::all &&
                                    sum.survivors.size() > m_ask.runAll);
            if (sum.full)
                return sum;
            tell();
        }
        return sum;
    }
    void tell() const {
        if (m_progress)
            m_progress(m_sifted, *m_kept);
    }
    static void take(Search& out, const PackPass& pass) {
        const std::uint64_t ran = out.counts.ran;
        out.counts = pass.counts;
        out.counts.ran = ran;
        out.counts.kept = out.feasible.size();
        out.nearest = pass.misses;
        out.lettingIn = pass.lettingIn;
    }
    static double merit(const Survivor& v) {
        return v.most / std::sqrt(std::max(v.grams, 0.1) * std::max(v.price, 0.01));
    }
    /// The groups of packs in which the most for its weight and price is to be expected.
    void bestGroupsFirst(const std::vector<Survivor>& list) {
        std::vector<std::size_t> groupOf(m_filter.packs().size());
        for (std::size_t g = 0; g < m_filter.groups().size(); ++g)
            for (const std::size_t pack : m_filter.groups()[g])
                groupOf[pack] = g;
        std::vector<double> best(m_order.size(), 0);
        for (const Survivor& s : list) {
            double& of = best[groupOf[m_filter.placeOf(s.number).pack]];
            of = std::max(of, merit(s));
        }
        std::stable_sort(m_order.begin(), m_order.end(),
                         [&](std::size_t a, std::size_t b) { return best[a] > best[b]; });
    }
    /// Those that give most for what they weigh and cost first: they beat the most of the others.
    void runBest(Search& out, std::vector<Survivor> list) {
        std::stable_sort(list.begin(), list.end(), [&](const Survivor& x, const Survivor& y) {
            return std::pair(-merit(x), x.number) < std::pair(-merit(y), y.number);
        });
        run(out, list, true);
    }
    static std::vector<Survivor> frontByBound(std::vector<Survivor> list) {
        std::stable_sort(list.begin(), list.end(), [](const Survivor& a, const Survivor& b) {
            return std::tie(b.most, a.grams, a.price, a.number) <
                   std::tie(a.most, b.grams, b.price, b.number);
        });
        ParetoFront front;
        std::vector<Survivor> out;
        for (const Survivor& s : list)
            if (!front.dominates(s.most, s.grams, s.price)) {
                front.add(s.most, s.grams, s.price);
                out.push_back(s);
            }
        return out;
    }
    void run(Search& out, const std::vector<Survivor>& list, bool prune) {
        std::size_t at = 0;
        while (at < list.size() && !m_stop.stop_requested()) {
            std::vector<const Survivor*> batch;
            for (; at < list.size() && batch.size() < kBatch; ++at) {
                const Survivor& s = list[at];
                if (!prune ||
                    !(m_done.contains(s.number) || m_front.dominates(s.most, s.grams, s.price)))
                    batch.push_back(&s);
            }
            std::vector<Ran> ran(batch.size());
            std::vector<std::pair<double, double>> weighs(batch.size());
            m_parallelFor(batch.size(), [&](std::size_t i) {
                if (m_stop.stop_requested())
                    return;
                const Project p = m_filter.projectOf(m_filter.placeOf(batch[i]->number));
                weighs[i] = {p.massGrams(), p.totalPrice()};
                ran[i] = runOf(p);
            });
            if (m_stop.stop_requested())
                break;
            for (std::size_t i = 0; i < batch.size(); ++i) {
                m_done.insert(batch[i]->number);
                ++out.counts.ran;
                if (ran[i].hours <= 0 || ran[i].hours < m_filter.leastHours()) {
                    ++m_short;
                    continue;
                }
                Candidate c = m_filter.described(batch[i]->number);
                c.hours = ran[i].hours;
                c.worstShare = ran[i].worst;
                c.grams = weighs[i].first;
                c.price = weighs[i].second;
                m_front.add(c.hours, c.grams, c.price);
                out.feasible.push_back(std::move(c));
            }
            m_sifted.ran = out.counts.ran;
            m_sifted.kept = out.feasible.size();
            tell();
        }
        out.counts.kept = out.feasible.size();
        if (!prune)
            out.counts.rejected[kTooShort] += m_short;
    }
    /// What was neither run nor rejected by the filter counts as dominated. A search that was
    /// stopped may have run what the filter never came to.
    void settleCounts(Search& out) const {
        SearchCounts& n = out.counts;
        n.kept = out.feasible.size();
        n.rejected[kBeaten] = 0;
        n.rejected[kTooShort] += m_short;
        std::uint64_t told = n.kept;
        for (const std::uint64_t fell : n.rejected)
            told += fell;
        n.rejected[kBeaten] = n.tried - std::min(n.tried, told);
    }

    const FeasibilityFilter& m_filter;
    const SearchOptions& m_ask;
    const std::stop_token& m_stop;
    const SearchProgress& m_progress;
    const ParallelFor& m_parallelFor;
    SearchCounts m_sifted; ///< so far, for who waits
    const std::vector<Candidate>* m_kept = nullptr;
    std::vector<std::size_t> m_order; ///< of the groups
    std::set<std::uint64_t> m_done;
    ParetoFront m_front;
    std::uint64_t m_short = 0;
};

/// The open project, measured the same way.
std::optional<Candidate> yoursOf(const Project& p) {
    if (!p.pack())
        return std::nullopt;
    Candidate c;
    const Pack& pack = *p.pack();
    const Ran ran = runOf(p);
    c.hours = ran.hours;
    c.worstShare = ran.worst;
    c.grams = p.massGrams();
    c.price = p.totalPrice();
    c.cell = pack.cell.id;
    c.chemistry = pack.cell.chemistry;
    c.series = pack.series;
    c.parallel = pack.parallel;
    c.pieces = piecesOf(pack);
    if (const auto body = cellDimensions(pack.cell.size))
        c.millilitres =
            body->block[0] * body->block[1] * body->block[2] * pack.series * pack.parallel / 1000;
    c.says = nameOf(*p.packStage());
    for (const Rail& rail : keptOf(p).rails) {
        Candidate::OnRail on;
        for (const std::size_t l : rail.loads)
            on.loads.push_back(p.loads[l].id);
        const Stage* stage = rail.regulated ? p.stage(rail.id) : nullptr;
        on.kind = stage ? std::string(kindName(stage->part)) : "cells";
        if (stage)
            c.says += ", " + nameOf(*stage);
        c.rails.push_back(std::move(on));
    }
    c.advice = adviceOf(p);
    return c;
}

Candidate::Refilled refilledBy(const ChargerChoice& refill) {
    return {refill.by,    refill.part,  nameOf(refill.charger),
            refill.hours, refill.grams, refill.price};
}

/// Of the open project: by its own charger, as it stands.
std::optional<Candidate::Refilled> refilledOf(const Project& p, const Library& library) {
    const std::vector<std::string> chargers = chargersOf(p);
    const Stage* stage = chargers.empty() ? nullptr : p.stage(chargers.front());
    if (!stage)
        return {};
    Candidate::Refilled r;
    const std::vector<std::string> sources = chargeSources(p, stage->id);
    if (const Stage* source = sources.empty() ? nullptr : p.stage(sources.front()))
        r.by = std::holds_alternative<Usb>(source->part)       ? "socket"
               : std::holds_alternative<Adapter>(source->part) ? "adapter"
               : std::holds_alternative<Panel>(source->part)   ? "sun"
                                                               : "vehicle";
    for (const LibraryPart& part : library.parts)
        if (part.stage.part == stage->part)
            r.part = part.name;
    r.says = nameOf(*stage);
    r.grams = orZero(stage->mass);
    r.price = stage->price.value_or(0);
    if (r.by == "sun")
        return r;
    Project off = p;
    off.loads.clear();
    ChargeOptions ask;
    ask.charger = stage->id;
    ask.ledger = false;
    if (const auto charge = chargeOf(off, ask))
        r.hours = charge.value().hoursToFull;
    return r;
}

/// The same pack is refilled the same way: each is looked at once.
void refill(Search& out, const FeasibilityFilter& filter, const Project& project,
            const Library& library, const ParallelFor& parallelFor, const std::stop_token& stop) {
    if (refillWays(project).empty())
        return;
    const std::vector<Stage> sources = keptOf(project).sources;
    std::map<std::size_t, std::vector<std::size_t>> byPack;
    // Where the brief says nothing, the packs that matter alone.
    const auto& by = project.brief.refilledBy;
    std::set<std::size_t> wanted;
    if (!by || by->empty())
        for (const std::size_t i : out.paretoFront)
            wanted.insert(filter.placeOf(out.feasible[i].number).pack);
    for (std::size_t i = 0; i < out.feasible.size(); ++i) {
        const std::size_t pack = filter.placeOf(out.feasible[i].number).pack;
        if (wanted.empty() || wanted.contains(pack))
            byPack[pack].push_back(i);
    }
    std::vector<const std::vector<std::size_t>*> packs;
    packs.reserve(byPack.size());
    for (const auto& [pack, list] : byPack)
        packs.push_back(&list);
    std::vector<std::optional<Candidate::Refilled>> ways(packs.size());
    parallelFor(packs.size(), [&](std::size_t i) {
        if (stop.stop_requested())
            return;
        const Project p = filter.projectOf(filter.placeOf(out.feasible[packs[i]->front()].number));
        if (const auto found = chooseCharger(p, sources, library))
            ways[i] = refilledBy(*found);
    });
    for (std::size_t i = 0; i < packs.size(); ++i)
        for (const std::size_t c : *packs[i])
            out.feasible[c].refill = ways[i];
}

Outcome<FeasibilityFilter> filterOf(const Project& project, const Library& library,
                                    const SearchOptions& ask) {
    if (project.loads.empty())
        return Error{"no_loads", "/loads", "no load", "one at least to find a supply for", ""};
    for (const std::string& name : ask.cells)
        if (std::none_of(library.parts.begin(), library.parts.end(), [&](const LibraryPart& part) {
                const auto* pack = std::get_if<Pack>(&part.stage.part);
                return pack && (part.name == name || pack->cell.id == name);
            }))
            return Error{"no_cells", "--cells", '"' + name + '"',
                         "a cell of the library, or a CSV or JSON of cells to hand", ""};
    // A rail holds volts; strings on a light driver want its current, which no candidate has.
    for (std::size_t i = 0; i < project.loads.size(); ++i)
        if (const Stage* driver = upstreamRegulator(project, project.loads[i].id);
            driver && setCurrentOf(driver->part))
            return Error{"light_driver", fmt::format("/loads/{}/fed_by", i),
                         '"' + project.loads[i].id + "\" behind the light driver \"" + driver->id +
                             '"',
                         "loads that want volts: a supply for strings is chosen on the line, by "
                         "swapping the driver",
                         ""};
    if (keptOf(project).rails.size() > kMostRails)
        return Error{"too_many_rails", "/loads", "more than six regulated voltages", "six at most",
                     ""};
    FeasibilityFilter filter(project, library, ask);
    if (!filter.draws())
        return Error{"no_loads", "/loads", "loads that draw nothing", "one that draws something",
                     ""};
    return filter;
}

} // namespace

double gramsWithRefill(const Candidate& c) {
    return c.grams + (c.refill ? c.refill->grams : 0);
}

double priceWithRefill(const Candidate& c) {
    return c.price + (c.refill ? c.refill->price : 0);
}

Outcome<Search> findSupplies(const Project& project, const Library& library,
                             const SearchOptions& ask, const std::stop_token& stop,
                             const SearchProgress& progress, const ParallelFor& parallelFor) {
    const auto filter = filterOf(project, library, ask);
    if (!filter)
        return filter.error();
    Search out;
    Searcher searcher(filter.value(), ask, stop, progress, parallelFor);
    out.stopped = !searcher.search(out);
    out.paretoFront = paretoFrontOf(out.feasible);
    const auto advised = [&](const std::vector<std::size_t>& list) {
        parallelFor(list.size(), [&](std::size_t i) {
            Candidate& c = out.feasible[list[i]];
            if (!c.advice && !stop.stop_requested())
                c.advice = adviceOf(withGuardHysteresis(
                    filter.value().projectOf(filter.value().placeOf(c.number))));
        });
    };
    if (ask.adviseWholeFront)
        advised(out.paretoFront);
    refill(out, filter.value(), project, library, parallelFor, stop);
    // What has something to mend, or nothing to fill it as the brief asks, makes room for the next
    // one, as long as there is one.
    const auto& by = project.brief.refilledBy;
    const bool filled = by && !by->empty() && !refillWays(project).empty();
    const auto mends = [&](std::size_t i) {
        const Candidate& c = out.feasible[i];
        return (c.advice && c.advice->stop) || (filled && !c.refill);
    };
    for (int round = 0; round < kShortRounds; ++round) {
        std::vector<std::size_t> open = out.paretoFront;
        std::erase_if(open, mends);
        out.shortList =
            shortListOf(out.feasible, open.empty() ? out.paretoFront : open, out.leastHours);
        advised(out.shortList);
        if (open.empty() || stop.stop_requested() ||
            std::none_of(out.shortList.begin(), out.shortList.end(), mends))
            break;
    }
    if (!std::all_of(out.shortList.begin(), out.shortList.end(), mends))
        std::erase_if(out.shortList, mends);
    for (auto& list : out.nearest)
        for (NearMiss& miss : list)
            miss.says = filter.value().described(miss.number).says;
    if (auto yours = yoursOf(project)) {
        yours->refill = refilledOf(project, library);
        out.yours = std::move(*yours);
        out.hasYours = true;
    }
    return out;
}

Outcome<Project> takeCandidate(const Project& project, const Library& library,
                               const SearchOptions& ask, std::uint64_t number, bool charger) {
    const auto filter = filterOf(project, library, ask);
    if (!filter)
        return filter.error();
    if (number >= filter.value().tried())
        return Error{"no_candidate", "--take", std::to_string(number),
                     "a number under " + std::to_string(filter.value().tried()), ""};
    Project taken = withGuardHysteresis(filter.value().projectOf(filter.value().placeOf(number)));
    const auto refill =
        charger ? chooseCharger(taken, keptOf(project).sources, library) : std::nullopt;
    if (refill)
        return withRefill(std::move(taken), *refill);
    return taken;
}

} // namespace sipper
