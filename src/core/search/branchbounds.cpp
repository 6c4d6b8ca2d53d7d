// SPDX-License-Identifier: GPL-3.0-or-later
// Bounds on what a branch of the search can still become.
#include "search/branchandbound.hpp"

#include "parts/cellsize.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kSunk = 0.4; ///< of the cut-off, to which cells may sink with nothing to stop them

} // namespace

BranchAndBound::BranchBounds BranchAndBound::branchBounds() const {
    BranchBounds span;
    struct Added {
        double steadyLow = 0;
        double steadyHigh = 0;
        double burstLow = 0;
        double burstHigh = 0;
    };
    std::array<Added, kMostRails> into{};
    const double step = (m_high - m_low) / kLevels;
    for (const std::size_t r : m_filter.m_fromLow) {
        const std::size_t w = m_structure->ways[r];
        const FeedOption& way = m_filter.m_ways[r][w];
        const bool behind = way.kind == FeedOption::Kind::behind;
        const double from = behind ? m_filter.m_kept.rails[way.rail].set : 0;
        const Added& added = into[r];
        SlotLevels watts;
        for (Levels& levels : watts)
            levels.fill(1e300);
        BranchBounds own;
        own.steadyLow = own.burstLow = own.gramsLow = own.priceLow = 1e300;
        bool fine = false;
        for (const std::uint16_t i : m_sets[r]) {
            const RailChoice& l = m_looks[r][w][i];
            for (std::size_t k = 0; k < kLevels; ++k) {
                // Without a guard cells sink under their cut-off.
                const bool last = k + 1 == kLevels && !m_filter.m_guard;
                const double volts = behind ? from
                                     : last ? kSunk * m_low
                                            : m_high - step * static_cast<double>(k + 1);
                for (std::size_t m = 0; m < kSlots; ++m)
                    watts[m][k] = std::min(watts[m][k], l.watts[m][k] + l.amps[m] * volts);
            }
            double steadyLow = l.steady;
            double steadyHigh = l.steady;
            double burstLow = l.burst;
            double burstHigh = l.burst;
            if (added.burstHigh > 0 || added.steadyHigh > 0) {
                const Stage& stage = m_filter.m_library.parts[way.parts[i]].stage;
                const auto whole = [&](double steady, double burst) {
                    return m_filter.optionFor(stage, m_filter.m_needs[r],
                                              m_filter.m_kept.rails[r].set, behind ? from : m_low,
                                              behind ? from : m_high, steady, burst);
                };
                const RailChoice high = whole(added.steadyHigh, added.burstHigh);
                span.someOver = span.someOver || high.rank <= kLastRank;
                steadyHigh = high.steady;
                burstHigh = high.burst;
                if (added.steadyLow == added.steadyHigh && added.burstLow == added.burstHigh) {
                    steadyLow = steadyHigh;
                    burstLow = burstHigh;
                } else {
                    const RailChoice low = whole(added.steadyLow, added.burstLow);
                    steadyLow = low.steady;
                    burstLow = low.burst;
                }
            }
            own.steadyLow = std::min(own.steadyLow, steadyLow);
            own.steadyHigh = std::max(own.steadyHigh, steadyHigh);
            own.burstLow = std::min(own.burstLow, burstLow);
            own.burstHigh = std::max(own.burstHigh, burstHigh);
            own.gramsLow = std::min(own.gramsLow, l.grams);
            own.gramsHigh = std::max(own.gramsHigh, l.grams);
            own.priceLow = std::min(own.priceLow, l.price);
            own.priceHigh = std::max(own.priceHigh, l.price);
            span.someNoise = span.someNoise || l.rank == rankOf(RejectReason::noise);
            fine = fine || l.rank == kFine;
        }
        span.allNoise = span.allNoise || !fine;
        span.gramsLow += own.gramsLow;
        span.gramsHigh += own.gramsHigh;
        span.priceLow += own.priceLow;
        span.priceHigh += own.priceHigh;
        // What goes through another regulator is at least as much at its input.
        for (std::size_t m = 0; m < kSlots; ++m)
            for (std::size_t k = 0; k < kLevels; ++k)
                span.watts[m][k] += watts[m][k];
        if (behind) {
            Added& to = into[way.rail];
            to.steadyLow += own.steadyLow;
            to.steadyHigh += own.steadyHigh;
            to.burstLow += own.burstLow;
            to.burstHigh += own.burstHigh;
        } else {
            span.steadyLow += own.steadyLow;
            span.steadyHigh += own.steadyHigh;
            span.burstLow += own.burstLow;
            span.burstHigh += own.burstHigh;
        }
    }
    span.gramsLow += m_between[0];
    span.gramsHigh += m_between[1];
    span.priceLow += m_between[2];
    span.priceHigh += m_between[3];
    span.carriedLow = carried(span.steadyLow, span.burstLow);
    span.carriedHigh = carried(span.steadyHigh, span.burstHigh);
    return span;
}

bool BranchAndBound::rejectBranch(RejectReason fell, std::uint64_t count, double least,
                                  double most) {
    const std::uint8_t rank = rankOf(fell);
    const bool near = least <= m_limits[rank];
    if (near && most > m_limits[rank])
        return false;
    const std::vector<NearMiss>& list = m_out.misses[rank];
    if (list.size() < kNearest || least < list.back().by)
        return false;
    m_out.counts.rejected[rank] += count;
    if (near)
        m_out.lettingIn[rank] += count;
    return true;
}

/// Does one reason hold for the whole branch?
bool BranchAndBound::canPrune(std::uint64_t branch, std::uint64_t count) {
    auto at = m_memo.spans.find(branch);
    if (at == m_memo.spans.end())
        at = m_memo.spans.emplace(branch, branchBounds()).first;
    const BranchBounds& span = at->second;
    const double overLow = overBy(span.steadyLow, span.burstLow, span.carriedLow);
    const double overHigh = std::max(span.someOver ? 1.0 : 0.0,
                                     overBy(span.steadyHigh, span.burstHigh, span.carriedHigh));
    if (overLow > kComparisonSlack)
        return rejectBranch(RejectReason::overCurrent, count, overLow, overHigh);
    if (overHigh > kComparisonSlack)
        return false;
    if (span.allNoise)
        return rejectBranch(RejectReason::noise, count, 0, 0);
    if (span.someNoise)
        return false;
    const double least = m_grams + span.gramsLow;
    const double most = m_grams + span.gramsHigh;
    const double cheapest = m_price + span.priceLow;
    const double dearest = m_price + span.priceHigh;
    if (m_filter.m_mostGrams > 0 && most > m_filter.m_mostGrams + kComparisonSlack)
        return least > m_filter.m_mostGrams + kComparisonSlack &&
               rejectBranch(RejectReason::tooHeavy, count, least - m_filter.m_mostGrams,
                            most - m_filter.m_mostGrams);
    if (m_filter.m_mostPrice > 0 && dearest > m_filter.m_mostPrice + kComparisonSlack)
        return cheapest > m_filter.m_mostPrice + kComparisonSlack &&
               rejectBranch(RejectReason::tooDear, count, cheapest - m_filter.m_mostPrice,
                            dearest - m_filter.m_mostPrice);
    if (!m_fits)
        return rejectBranch(RejectReason::tooLarge, count, 0, 0);
    const auto beaten = [&] {
        m_out.counts.rejected[rankOf(RejectReason::dominated)] += count;
        return true;
    };
    const double coarse = m_pass == FeasibilityFilter::Pass::bound
                              ? m_filter.hoursUpperBoundFast(m_kind, m_choice, span.watts, {})
                              : 0;
    if (coarse > 0 && coarse <= m_front.hoursLowerBound(least, cheapest))
        return beaten();
    const double best = m_filter.hoursUpperBound(m_kind, m_choice, span.watts, {});
    if (best < m_filter.m_least)
        return rejectBranch(RejectReason::tooShort, count, m_filter.m_least - best,
                            m_filter.m_least);
    return m_pass == FeasibilityFilter::Pass::bound &&
           (m_front.hoursLowerBound(least, cheapest) >= best ||
            m_front.dominates(best, least, cheapest)) &&
           beaten();
}

} // namespace sipper
