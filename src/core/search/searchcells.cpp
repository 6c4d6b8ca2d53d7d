// SPDX-License-Identifier: GPL-3.0-or-later
// Cells and packs of a search.
#include "search/feasibility.hpp"

#include "line/curve.hpp"
#include "line/line.hpp"
#include "line/schedule.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "parts/madeas.hpp"
#include "search/chargerchoice.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace sipper {
namespace {

constexpr double kMostParallel = 6;
constexpr double kMostPackVolts = 60; ///< where no input says less: extra-low voltage
constexpr double kMostSeries = 40;
constexpr std::size_t kCurveSteps = 24;

} // namespace

void FeasibilityFilter::readCells(const SearchOptions& ask) {
    std::vector<std::size_t> counts;
    if (!ask.hand.empty()) {
        // Lots of one size and chemistry, without what is to be thrown away.
        std::vector<bool> taken(ask.hand.size(), false);
        for (std::size_t i = 0; i < ask.hand.size(); ++i) {
            if (taken[i])
                continue;
            std::vector<std::vector<std::size_t>> lot(1);
            for (std::size_t j = i; j < ask.hand.size(); ++j)
                if (ask.hand[j].size == ask.hand[i].size &&
                    ask.hand[j].chemistry == ask.hand[i].chemistry) {
                    taken[j] = true;
                    if (ask.hand[j].ah && judge(ask.hand[j], m_library).discardReasons.empty())
                        lot[0].push_back(j);
                }
            const LibraryPart* type = typeOf(ask.hand[i], m_library);
            if (lot[0].empty() || !type)
                continue;
            CellMatch match;
            match.groups = lot;
            LibraryPart part = *type;
            Pack pack = packOf(ask.hand, match, *type);
            pack.series = 1;
            pack.parallel = 1;
            pack.weakestGroup.reset();
            part.stage.part = pack;
            part.own = true;
            m_cellParts.push_back(std::move(part));
            counts.push_back(lot[0].size());
        }
    } else {
        for (const LibraryPart& part : m_library.parts) {
            const auto* pack = std::get_if<Pack>(&part.stage.part);
            if (!pack)
                continue;
            const bool wanted = ask.cells.empty() ||
                                std::any_of(ask.cells.begin(), ask.cells.end(), [&](const auto& c) {
                                    return c == part.name || c == pack->cell.id;
                                });
            if (!wanted)
                continue;
            m_cellParts.push_back(part);
            counts.push_back(0);
        }
    }
    const CellCare care = m_kept.care.value_or(CellCare::balanced);
    for (std::size_t i = 0; i < m_cellParts.size(); ++i) {
        const Pack& pack = std::get<Pack>(m_cellParts[i].stage.part);
        const Cell& cell = pack.cell;
        CellKind k;
        k.part = i;
        k.block = std::max(1.0, pack.series);
        k.most = counts[i];
        const PackModel model(pack, m_ambient);
        k.full = std::max(orZero(cell.full), model.openCircuitAt(1));
        const double school = policyCutoff(cell.chemistry, care);
        k.cutoff = school > 0 ? school : cell.empty ? cell.empty->value() : model.openCircuitAt(0);
        double usable = model.usable;
        if (m_kept.bare.brief.box) {
            // A closed box warms the cells: by no more than their best.
            double best = factorAt(cell.capacityByC, m_ambient.value());
            for (const auto& [c, factor] : cell.capacityByC)
                best = std::max(best, factor);
            usable *= best / std::max(1e-9, factorAt(cell.capacityByC, m_ambient.value()));
        }
        k.ah = usable;
        k.self = model.selfAmps;
        // In a closed box it may be any warmth: no ohms are sure.
        const bool warm = m_kept.bare.brief.box.has_value();
        for (std::size_t m = 0; m < kSlots && !warm; ++m)
            k.slow[m] =
                m_seconds[m] > 0 ? model.relaxation * rcSettlingAfter(m_seconds[m], model.tau) : 0;
        for (std::size_t s = 0; s < kCurveSteps; ++s) {
            const double upper = 1 - static_cast<double>(s) / kCurveSteps;
            double ohms = warm ? 0 : model.resistanceAt(upper);
            for (const auto& [charge, factor] : model.resistanceByCharge)
                if (charge < upper)
                    ohms = std::min(ohms, model.resistance * factor);
            k.steps.push_back({model.openCircuitAt(upper), usable / kCurveSteps, ohms});
            k.ohms = s == 0 ? ohms : std::min(k.ohms, ohms);
            const double down = (k.full - k.steps.back().volts) / std::max(1e-9, k.full - k.cutoff);
            if (down <= 1 || !m_guard)
                k.levelAh[std::min(static_cast<std::size_t>(std::max(0.0, down) * kLevels),
                                   kLevels - 1)] += k.steps.back().ah;
        }
        m_cells.push_back(std::move(k));
        m_models.push_back(model);
    }
    m_near.reserve(m_models.size());
    for (const PackModel& model : m_models)
        m_near.emplace_back(model, m_schedule, m_segments);
}

void FeasibilityFilter::readStructures() {
    std::vector<std::size_t> ways(m_kept.rails.size(), 0);
    const auto build = [&](const auto& self, std::size_t r) -> void {
        if (r == m_kept.rails.size()) {
            RailTopology s;
            s.ways = ways;
            s.count = 1;
            for (std::size_t k = 0; k < ways.size(); ++k) {
                const FeedOption& way = m_ways[k][ways[k]];
                s.count *= way.parts.size();
                // Behind a rail that has no regulator there is nothing to hang on.
                if (way.kind == FeedOption::Kind::behind &&
                    m_ways[way.rail][ways[way.rail]].kind == FeedOption::Kind::cells)
                    return;
            }
            if (s.count > 0)
                m_structures.push_back(std::move(s));
            return;
        }
        for (ways[r] = 0; ways[r] < m_ways[r].size(); ++ways[r])
            self(self, r + 1);
    };
    build(build, 0);
    for (const RailTopology& s : m_structures)
        m_perPack += s.count;
    m_behind.resize(m_kept.rails.size());
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r)
        for (const FeedOption& way : m_ways[r]) {
            std::vector<RailOption> looks;
            if (way.kind == FeedOption::Kind::behind)
                for (const std::size_t i : way.parts) {
                    const double from = m_kept.rails[way.rail].set;
                    looks.push_back(optionFor(m_library.parts[i].stage, m_needs[r],
                                              m_kept.rails[r].set, from, from));
                }
            m_behind[r].push_back(std::move(looks));
        }
}

void FeasibilityFilter::readPacks() {
    double most = 0;
    bool any = false;
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r) {
        for (const std::size_t i : m_ways[r][1].parts)
            if (const ActivePart* a = active(m_library.parts[i].stage.part);
                a && a->inputNeverAbove) {
                most = std::max(most, a->inputNeverAbove->value());
                any = true;
            }
        const double straight = m_needs[r].never > 0 ? m_needs[r].never : m_needs[r].high;
        if (std::isfinite(straight))
            most = std::max(most, straight);
    }
    if (!any)
        most = kMostPackVolts;
    const auto& ways = m_kept.bare.brief.refilledBy;
    const auto chargeable = [&](const Pack& unit, double series, double parallel) {
        if (!m_charged || !ways || ways->empty())
            return true;
        Pack pack = unit;
        countCells(pack, series, parallel);
        return std::any_of(ways->begin(), ways->end(),
                           [&](const std::string& by) { return canRefill(pack, by, m_library); });
    };
    std::map<std::array<double, 3>, std::size_t> groups;
    for (std::size_t c = 0; c < m_cells.size(); ++c) {
        const CellKind& k = m_cells[c];
        const Pack& unit = std::get<Pack>(m_cellParts[k.part].stage.part);
        for (double s = k.block; s <= kMostSeries && s * k.full <= most + kComparisonSlack;
             s += k.block)
            for (double p = 1; p <= kMostParallel; ++p) {
                const double parallel = p * std::max(1.0, unit.parallel);
                if (k.most > 0 && s * parallel > static_cast<double>(k.most))
                    break;
                if (!chargeable(unit, s, parallel))
                    continue;
                const auto [at, fresh] = groups.try_emplace({s, k.cutoff, k.full}, m_groups.size());
                if (fresh)
                    m_groups.emplace_back();
                m_groups[at->second].push_back(m_packs.size());
                m_packs.push_back({c, s, parallel});
            }
    }
}

} // namespace sipper
