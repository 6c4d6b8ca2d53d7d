// SPDX-License-Identifier: GPL-3.0-or-later
#include "search/branchandbound.hpp"

#include "parts/cellsize.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kFills = 0.8;    ///< of the room, by the cells as blocks
constexpr double kWorthPrice = 5; ///< of a supply besides one regulator, about
constexpr std::uint8_t kFirstRank =
    rankOf(RejectReason::neverAbove); ///< of a single part's reasons

void keepIfNear(std::vector<NearMiss>& list, NearMiss miss) {
    const auto at =
        std::upper_bound(list.begin(), list.end(), miss, [](const NearMiss& a, const NearMiss& b) {
            return std::tie(a.by, a.number) < std::tie(b.by, b.number);
        });
    if (at == list.end() && list.size() >= kNearest)
        return;
    list.insert(at, std::move(miss));
    if (list.size() > kNearest)
        list.pop_back();
}

/// Grams and price of the least and of the most of these.
void widen(std::array<double, 4>& between, const std::vector<const Stage*>& parts) {
    if (parts.empty())
        return;
    std::array<double, 4> of{1e300, 0, 1e300, 0};
    for (const Stage* stage : parts) {
        const double grams = orZero(stage->mass);
        const double price = stage->price.value_or(0);
        of = {std::min(of[0], grams), std::max(of[1], grams), std::min(of[2], price),
              std::max(of[3], price)};
    }
    for (std::size_t i = 0; i < of.size(); ++i)
        between[i] += of[i];
}

} // namespace

void keepNearest(std::vector<NearMiss>& misses) {
    std::stable_sort(misses.begin(), misses.end(), [](const NearMiss& a, const NearMiss& b) {
        return std::tie(a.by, a.number) < std::tie(b.by, b.number);
    });
    if (misses.size() > kNearest)
        misses.resize(kNearest);
}

void PackPass::add(PackPass&& other) {
    counts.tried += other.counts.tried;
    counts.toRun += other.counts.toRun;
    for (std::size_t k = 0; k < kRejectReasons; ++k) {
        counts.rejected[k] += other.counts.rejected[k];
        lettingIn[k] += other.lettingIn[k];
        std::move(other.misses[k].begin(), other.misses[k].end(), std::back_inserter(misses[k]));
        keepNearest(misses[k]);
    }
    survivors.insert(survivors.end(), other.survivors.begin(), other.survivors.end());
    nearShort.insert(nearShort.end(), other.nearShort.begin(), other.nearShort.end());
    full = full || other.full;
}

PackPass FeasibilityFilter::group(std::size_t index, Pass pass, const ParetoFront& front,
                                  std::size_t most) const {
    PackPass sum;
    BranchAndBound::Memo memo;
    const PackChoice& first = m_packs[m_groups[index].front()];
    memo.looks =
        looksOf(first.series * m_cells[first.cell].cutoff, first.series * m_cells[first.cell].full);
    for (const std::size_t pack : m_groups[index]) {
        sum.add(BranchAndBound(*this, pack, pass, front, most, memo).walk());
        if (sum.full)
            break;
    }
    return sum;
}

BranchAndBound::BranchAndBound(const FeasibilityFilter& filter, std::size_t index,
                               FeasibilityFilter::Pass pass, const ParetoFront& front,
                               std::size_t most, Memo& memo)
    : m_filter(filter), m_choice(filter.m_packs[index]), m_kind(filter.m_cells[m_choice.cell]),
      m_cell(std::get<Pack>(filter.m_cellParts[m_kind.part].stage.part).cell), m_pass(pass),
      m_front(front), m_most(most), m_memo(memo), m_first(index * filter.m_perPack),
      m_looks(memo.looks) {
    m_low = m_choice.series * m_kind.cutoff;
    m_high = m_choice.series * m_kind.full;
    const double cells = m_choice.series * m_choice.parallel;
    m_grams = filter.m_baseGrams + cells * orZero(m_cell.mass);
    m_price = filter.m_basePrice + cells * m_cell.price.value_or(0);
    m_fits = cellsFit();
    m_limits = filter.steps();
    m_parts.resize(filter.m_kept.rails.size());
    m_sets.resize(filter.m_kept.rails.size());
    if (filter.m_fuse)
        widen(m_between, filter.m_fuses);
    if (filter.m_guard)
        widen(m_between, filter.m_guards);
}

PackPass BranchAndBound::walk() {
    m_out.counts.tried = m_filter.m_perPack;
    if (refused())
        return std::move(m_out);
    for (const RailTopology& s : m_filter.m_structures) {
        structure(s);
        if (m_out.full)
            return std::move(m_out);
        m_offset += s.count;
    }
    if (m_pass == FeasibilityFilter::Pass::seeds)
        keepBest();
    std::stable_sort(m_out.survivors.begin(), m_out.survivors.end(),
                     [](const Survivor& a, const Survivor& b) { return a.number < b.number; });
    return std::move(m_out);
}

/// What holds for the cells whatever stands behind them.
bool BranchAndBound::refused() {
    const Brief& brief = m_filter.m_kept.bare.brief;
    const auto all = [&](RejectReason fell, double by) {
        m_out.counts.rejected[rankOf(fell)] = m_filter.m_perPack;
        keepIfNear(m_out.misses[rankOf(fell)], {m_first, by, {}});
        return true;
    };
    if (brief.refilledBy && !brief.refilledBy->empty() && !canRecharge(m_cell) &&
        std::find(brief.refilledBy->begin(), brief.refilledBy->end(), "swap") ==
            brief.refilledBy->end())
        return all(RejectReason::notRefillable, 0);
    const Ambient air = brief.air();
    const double cold =
        std::max(m_cell.dischargeFrom ? m_cell.dischargeFrom->value() - air.coldest().value() : 0,
                 m_cell.dischargeTo ? air.warmest().value() - m_cell.dischargeTo->value() : 0);
    return cold > kComparisonSlack && all(RejectReason::cold, cold);
}

bool BranchAndBound::cellsFit() const {
    const Brief& brief = m_filter.m_kept.bare.brief;
    const auto body = brief.room ? cellDimensions(m_cell.size) : std::nullopt;
    if (!body)
        return true;
    const auto& room = *brief.room;
    const double longest = std::max({room[0], room[1], room[2]});
    const double block = body->block[0] * body->block[1] * body->block[2];
    return block * m_choice.series * m_choice.parallel <=
               kFills * room[0] * room[1] * room[2] + kComparisonSlack &&
           std::max({body->block[0], body->block[1], body->block[2]}) <= longest + kComparisonSlack;
}

void BranchAndBound::structure(const RailTopology& s) {
    m_structure = &s;
    const std::size_t rails = m_sets.size();
    m_base.assign(rails, 1);
    for (std::size_t r = rails; r-- > 1;)
        m_base[r - 1] = m_base[r] * m_filter.m_ways[r][s.ways[r]].parts.size();
    for (std::size_t r = 0; r < rails; ++r) {
        m_sets[r].clear();
        const auto& looks = m_looks[r][s.ways[r]];
        for (std::size_t i = 0; i < looks.size(); ++i)
            if (looks[i].rank > kLastRank)
                m_sets[r].push_back(static_cast<std::uint16_t>(i));
    }
    if (m_pass != FeasibilityFilter::Pass::seeds)
        countRanks();
    if (std::any_of(m_sets.begin(), m_sets.end(), [](const auto& set) { return set.empty(); }))
        return;
    if (m_pass == FeasibilityFilter::Pass::seeds)
        return seeds();
    if (m_pass == FeasibilityFilter::Pass::bound && s.count > 1)
        dropDominated();
    descend(0, m_offset);
}

/// How many combinations have their first reason at each rank of a single part, and who is near to
/// being let in.
void BranchAndBound::countRanks() {
    const RailTopology& s = *m_structure;
    const std::size_t rails = m_sets.size();
    const auto atLeast = [&](std::uint8_t rank) {
        std::uint64_t product = 1;
        for (std::size_t r = 0; r < rails; ++r) {
            std::uint64_t count = 0;
            for (const RailChoice& look : m_looks[r][s.ways[r]])
                count += look.rank >= rank ? 1 : 0;
            product *= count;
        }
        return product;
    };
    std::uint64_t left = s.count;
    for (std::uint8_t rank = kFirstRank; rank <= kLastRank; ++rank) {
        const std::uint64_t after = atLeast(static_cast<std::uint8_t>(rank + 1));
        m_out.counts.rejected[rank] += left - after;
        left = after;
    }
    for (std::size_t r = 0; r < rails; ++r) {
        std::uint64_t others = 1;
        std::uint64_t number = m_first + m_offset;
        for (std::size_t k = 0; k < rails; ++k)
            if (k != r) {
                others *= m_sets[k].size();
                number += m_sets[k].empty() ? 0 : m_sets[k].front() * m_base[k];
            }
        if (others == 0)
            continue;
        const auto& looks = m_looks[r][s.ways[r]];
        for (std::size_t i = 0; i < looks.size(); ++i) {
            if (looks[i].rank > kLastRank)
                continue;
            if (looks[i].by <= m_limits[looks[i].rank])
                m_out.lettingIn[looks[i].rank] += others;
            keepIfNear(m_out.misses[looks[i].rank], {number + i * m_base[r], looks[i].by, {}});
        }
    }
}

/// A part that is no better in anything than another that fits is beaten in every combination: it
/// is counted with the others, but not looked at.
void BranchAndBound::dropDominated() {
    std::uint64_t before = 1;
    std::uint64_t after = 1;
    for (std::size_t r = 0; r < m_sets.size(); ++r) {
        const std::size_t w = m_structure->ways[r];
        before *= m_sets[r].size();
        std::vector<std::uint16_t> keep;
        for (const std::uint16_t i : m_sets[r]) {
            const auto& better = m_filter.m_ways[r][w].better[i];
            if (m_looks[r][w][i].rank != kFine ||
                std::none_of(better.begin(), better.end(),
                             [&](std::uint16_t k) { return m_looks[r][w][k].rank == kFine; }))
                keep.push_back(i);
        }
        m_sets[r] = std::move(keep);
        after *= m_sets[r].size();
    }
    m_out.counts.rejected[rankOf(RejectReason::dominated)] += before - after;
}

/// Of what is run first, that which none of the others beats.
void BranchAndBound::keepBest() {
    std::vector<Survivor>& list = m_out.survivors;
    std::stable_sort(list.begin(), list.end(), [](const Survivor& a, const Survivor& b) {
        return std::tie(b.most, a.grams, a.price, a.number) <
               std::tie(a.most, b.grams, b.price, b.number);
    });
    ParetoFront front;
    std::erase_if(list, [&](const Survivor& s) {
        if (front.dominates(s.most, s.grams, s.price))
            return true;
        front.add(s.most, s.grams, s.price);
        return false;
    });
}

/// The parts that take least, cost least and weigh least, together, and what is best in between.
void BranchAndBound::seeds() {
    for (const int by : {0, 1, 2, 3}) {
        for (std::size_t r = 0; r < m_sets.size(); ++r) {
            const auto& looks = m_looks[r][m_structure->ways[r]];
            const auto figure = [&](std::uint16_t i) {
                const RailChoice& l = looks[i];
                double watts = 0;
                for (std::size_t m = 0; m < kSlots; ++m)
                    watts += m_filter.m_shares[m] *
                             (l.watts[m][kLevels / 2] + l.amps[m] * (m_low + m_high) / 2);
                return by == 0   ? watts
                       : by == 1 ? l.price
                       : by == 2 ? l.grams
                                 : watts * std::sqrt(l.price + kWorthPrice);
            };
            m_parts[r] = *std::min_element(m_sets[r].begin(), m_sets[r].end(),
                                           [&](std::uint16_t a, std::uint16_t b) {
                                               return std::pair(looks[a].rank != kFine, figure(a)) <
                                                      std::pair(looks[b].rank != kFine, figure(b));
                                           });
        }
        evaluateLeaf();
    }
}

/// `branch`: number of its parts that are settled, within a pack.
void BranchAndBound::descend(std::size_t depth, std::uint64_t branch) {
    if (m_out.full)
        return;
    if (depth == m_sets.size()) {
        for (std::size_t r = 0; r < m_sets.size(); ++r)
            m_parts[r] = m_sets[r].front();
        evaluateLeaf();
        return;
    }
    std::uint64_t count = 1;
    for (const auto& set : m_sets)
        count *= set.size();
    if (count > 1 && canPrune(branch * (m_sets.size() + 1) + depth, count))
        return;
    // The rail that feeds others has the highest volts: it is settled first.
    const std::size_t r = m_filter.m_fromLow[m_sets.size() - 1 - depth];
    const std::vector<std::uint16_t> open = m_sets[r];
    for (const std::uint16_t part : open) {
        m_sets[r].assign(1, part);
        descend(depth + 1, branch + part * m_base[r]);
    }
    m_sets[r] = open;
}

bool BranchAndBound::carried(double steady, double burst) const {
    return (!m_filter.m_fuse || m_filter.fuseFor(steady / kGuess, burst / kGuess, m_high)) &&
           (!m_filter.m_guard || m_filter.guardFor(burst / kGuess, m_low, m_high));
}

double BranchAndBound::overBy(double steady, double burst, bool carried) const {
    double over = carried ? 0 : 1;
    if (m_cell.maxDischarge)
        over = std::max(over, steady - m_choice.parallel * m_cell.maxDischarge->value());
    if (const auto most = m_cell.maxBurst ? m_cell.maxBurst : m_cell.maxDischarge)
        over = std::max(over, burst - m_choice.parallel * most->value());
    return over;
}

std::uint64_t BranchAndBound::numberOf() const {
    std::uint64_t number = m_first + m_offset;
    for (std::size_t r = 0; r < m_parts.size(); ++r)
        number += m_parts[r] * m_base[r];
    return number;
}

void BranchAndBound::reject(RejectReason fell, double by, std::uint64_t number) {
    const std::uint8_t rank = rankOf(fell);
    ++m_out.counts.rejected[rank];
    if (by <= m_limits[rank])
        ++m_out.lettingIn[rank];
    keepIfNear(m_out.misses[rank], {number, by, {}});
}

const BranchAndBound::Memo::Leaf& BranchAndBound::leafOf(std::uint64_t line) {
    const auto [at, fresh] = m_memo.leaves.try_emplace(line);
    Memo::Leaf& leaf = at->second;
    if (!fresh)
        return leaf;
    FeasibilityFilter::Chosen looks{};
    for (std::size_t r = 0; r < m_parts.size(); ++r) {
        looks[r] = &m_looks[r][m_structure->ways[r]][m_parts[r]];
        leaf.noise = leaf.noise || looks[r]->rank == rankOf(RejectReason::noise);
    }
    leaf.guarded = m_filter.guarded(*m_structure, looks, m_parts, m_low, m_high);
    leaf.carried = carried(leaf.guarded.sum.steady, leaf.guarded.sum.burst);
    return leaf;
}

bool BranchAndBound::lineDominated(std::uint64_t number) {
    Memo::Leaf& leaf = m_memo.leaves.at(number - m_first);
    if (leaf.line || leaf.beaten)
        return leaf.beaten;
    leaf.line = m_filter.lineOf(number);
    const FeasibilityFilter::RailTotals& c = leaf.guarded.sum;
    // Whatever lets this one in lets the other in too.
    leaf.beaten = std::any_of(m_memo.best.begin(), m_memo.best.end(), [&](const auto* other) {
        const FeasibilityFilter::RailTotals& o = other->guarded.sum;
        return o.grams <= c.grams && o.price <= c.price && o.steady <= c.steady &&
               o.burst <= c.burst && other->line->dominates(*leaf.line);
    });
    if (leaf.beaten)
        leaf.line.reset();
    else
        m_memo.best.push_back(&leaf);
    return leaf.beaten;
}

/// One candidate, exactly.
void BranchAndBound::evaluateLeaf() {
    const std::uint64_t number = numberOf();
    const Memo::Leaf& leaf = leafOf(number - m_first);
    const FeasibilityFilter::RailTotals& c = leaf.guarded.sum;
    const double over = std::max(c.over ? 1.0 : 0.0, overBy(c.steady, c.burst, leaf.carried));
    const double grams = m_grams + c.grams;
    const double price = m_price + c.price;
    if (over > kComparisonSlack)
        return reject(RejectReason::overCurrent, over, number);
    if (leaf.noise)
        return reject(RejectReason::noise, 0, number);
    if (m_filter.m_mostGrams > 0 && grams > m_filter.m_mostGrams + kComparisonSlack)
        return reject(RejectReason::tooHeavy, grams - m_filter.m_mostGrams, number);
    if (m_filter.m_mostPrice > 0 && price > m_filter.m_mostPrice + kComparisonSlack)
        return reject(RejectReason::tooDear, price - m_filter.m_mostPrice, number);
    if (!m_fits)
        return reject(RejectReason::tooLarge, 0, number);
    const auto beaten = [&] { ++m_out.counts.rejected[rankOf(RejectReason::dominated)]; };
    const bool bounds = m_pass == FeasibilityFilter::Pass::bound;
    if (bounds && (leaf.beaten || m_filter.hoursUpperBoundFast(m_kind, m_choice, c.watts, c.amps,
                                                               leaf.guarded.ohms) <=
                                      m_front.hoursLowerBound(grams, price)))
        return beaten();
    double most = m_filter.hoursUpperBound(m_kind, m_choice, c.watts, c.amps, leaf.guarded.ohms);
    if (most < m_filter.m_least)
        return reject(RejectReason::tooShort, m_filter.m_least - most, number);
    if (bounds) {
        // The closer look takes longer: only where the quick bounds do not tell.
        if (m_front.hoursLowerBound(grams, price) >= most ||
            m_front.dominates(most, grams, price) || lineDominated(number))
            return beaten();
        most = std::min(most, m_filter.hoursNear(m_choice, *leaf.line));
        if (most <= 0 || most < m_filter.m_least) {
            ++m_out.counts.rejected[rankOf(RejectReason::tooShort)];
            m_out.nearShort.push_back(number);
            return;
        }
        if (m_front.hoursLowerBound(grams, price) >= most || m_front.dominates(most, grams, price))
            return beaten();
    }
    const Survivor survivor{number, most, grams, price};
    ++m_out.counts.toRun;
    m_out.survivors.push_back(survivor);
    m_out.full = m_pass == FeasibilityFilter::Pass::all && m_out.survivors.size() > m_most;
}

} // namespace sipper
