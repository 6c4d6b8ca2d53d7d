// SPDX-License-Identifier: GPL-3.0-or-later
// Whether a part may stand on a rail, and what it takes there at least.
#include "search/feasibility.hpp"

#include "parts/figures.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace sipper {
namespace {

constexpr double kSag = 0.8; ///< of the lowest volts, at which a buck surely still regulates

} // namespace

FeasibilityFilter::RailOption FeasibilityFilter::directOption(const RailDemand& need, double low,
                                                              double high) {
    RailOption l;
    for (std::size_t m = 0; m < kSlots; ++m) {
        l.watts[m].fill(need.slots[m].straightWatts);
        l.amps[m] = need.slots[m].straight;
    }
    l.steady = need.steady;
    l.burst = need.burst;
    if (need.never > 0 && high > need.never + kComparisonSlack) {
        l.rank = rankOf(RejectReason::neverAbove);
        l.by = high - need.never;
    } else if (high > need.high + kComparisonSlack || low < need.low - kComparisonSlack) {
        l.rank = rankOf(RejectReason::noHeadroom);
        l.by = std::max(high - need.high, need.low - low);
    }
    return l;
}

FeasibilityFilter::RailOption
FeasibilityFilter::optionFor(const Stage& stage, const RailDemand& need, double set, double low,
                             double high, double moreSteady, double moreBurst) const {
    RailOption l;
    l.grams = orZero(stage.mass);
    l.price = stage.price.value_or(0);
    const double steady = need.steady + moreSteady;
    const double burst = std::max(need.burst, need.steady) + std::max(moreBurst, moreSteady);
    const ActivePart& a = *active(stage.part);
    const auto fall = [&l](RejectReason fell, double by) {
        const std::uint8_t rank = rankOf(fell);
        if (by > kComparisonSlack && rank < l.rank) {
            l.rank = rank;
            l.by = by;
        }
    };
    if (a.inputNeverAbove)
        fall(RejectReason::neverAbove, high - a.inputNeverAbove->value());
    if (a.inputMin)
        fall(RejectReason::noHeadroom, a.inputMin->value() - low);
    if (const auto* p = std::get_if<Linear>(&stage.part)) {
        const bool fet = p->dropoutKind == DropoutKind::fet && p->ratedCurrent;
        const double drop =
            fet ? orZero(p->dropout) * steady / p->ratedCurrent->value() : orZero(p->dropout);
        fall(RejectReason::noHeadroom, need.low - std::min(set, low - drop));
        if (p->ratedCurrent)
            fall(RejectReason::overCurrent, m_headroom * steady - p->ratedCurrent->value());
        if (p->outputLimit)
            fall(RejectReason::overCurrent,
                 std::max(burst, m_headroom * steady) - p->outputLimit->value());
        if (p->powerLimit)
            fall(RejectReason::overCurrent,
                 std::max(burst, m_headroom * steady) - p->powerLimit->value() / set);
        for (std::size_t m = 0; m < kSlots; ++m)
            l.amps[m] = need.slots[m].amps + orZero(p->ground);
        l.steady = steady + orZero(p->ground);
        l.burst = burst + orZero(p->ground);
        return l;
    }
    const auto& p = std::get<Switcher>(stage.part);
    const double drop = orZero(p.drop);
    const double ohms = orZero(p.resistance);
    // Current in the inductor at the lowest input, stepping up: the smaller root (docs/model.md:
    // Stages).
    const auto inductor = [&](double amps) {
        const double watts = set * amps + orZero(p.fixed);
        const double e = low - drop;
        const double inner = e * e - 4 * ohms * watts;
        if (e <= 0 || inner < 0)
            return std::numeric_limits<double>::infinity();
        return ohms > 0 ? 2 * watts / (e + std::sqrt(inner)) : watts / e;
    };
    const bool stepsUp =
        p.topology == Topology::boost || (p.topology == Topology::buckBoost && low < set);
    bool holds = true; ///< its set-point, whatever the cells sag to
    if (p.topology == Topology::buck) {
        const double duty = p.maxDuty.value_or(1);
        fall(RejectReason::noHeadroom, need.low - std::min(set, low * duty - drop - steady * ohms));
        holds = kSag * low * duty - drop - burst * ohms > set;
    }
    if (p.topology == Topology::boost && !p.holdsWhenAbove.value_or(false) && high - drop > set) {
        const double out = high - drop;
        if (need.never > 0)
            fall(RejectReason::neverAbove, out - need.never);
        fall(RejectReason::noHeadroom, out - need.high);
    }
    if (p.outputLimit)
        fall(RejectReason::overCurrent,
             std::max(burst, m_headroom * steady) - p.outputLimit->value());
    if (p.powerLimit)
        fall(RejectReason::overCurrent,
             std::max(burst, m_headroom * steady) - p.powerLimit->value() / set);
    const bool passes = p.topology == Topology::boost && low >= set;
    const double asked = std::max(burst, m_headroom * steady);
    const double most = stepsUp && !passes ? inductor(asked) : asked;
    if (p.switchLimit)
        fall(RejectReason::overCurrent, most - p.switchLimit->value());
    else if (!std::isfinite(most))
        fall(RejectReason::overCurrent, burst);
    if (need.minds)
        fall(RejectReason::noise, 1);
    const bool fixedLasts = p.topology != Topology::boost || high <= set;
    const double skip = orZero(p.skipBelow);
    for (std::size_t m = 0; m < kSlots; ++m) {
        const RailDemand::InSlot& slot = need.slots[m];
        // What steps up has its input's current in the inductor. Of modes that share a slot each
        // skips as far as it takes less than the one that takes most.
        const double times = p.topology != Topology::buck ? std::max(1.0, set / high) : 1;
        const double scale =
            slot.amps <= 0 ? 0 : slot.amps * times / std::max(slot.peak * times, skip);
        l.watts[m] = lossOf(stage, set, slot.amps, high, low);
        for (double& watts : l.watts[m])
            watts += (holds ? slot.watts : slot.least) + (fixedLasts ? orZero(p.fixed) * scale : 0);
        l.amps[m] = orZero(p.quiescent) + (fixedLasts ? orZero(p.switching) * scale : 0);
    }
    const double least = std::max(low, 1e-3);
    l.steady = stepsUp && !passes ? inductor(steady) : passes ? steady : set * steady / least;
    l.burst = stepsUp && !passes ? inductor(burst) : passes ? burst : set * burst / least;
    return l;
}

Levels FeasibilityFilter::lossOf(const Stage& stage, double set, double amps, double high,
                                 double low) {
    const auto& p = std::get<Switcher>(stage.part);
    const double drop = orZero(p.drop) * amps;
    const double ohms = orZero(p.resistance) * amps * amps;
    Levels out{};
    for (std::size_t k = 0; k < kLevels; ++k) {
        const double volts = std::max(1e-3, high - (high - low) * static_cast<double>(k) / kLevels);
        const double times = p.topology != Topology::buck ? std::max(1.0, set / volts) : 1;
        out[k] = drop * times + ohms * times * times;
    }
    return out;
}

bool FeasibilityFilter::weaklyDominates(const Stage& a, const Stage& b, bool across) {
    if (a.part.index() != b.part.index() || orZero(a.mass) > orZero(b.mass) ||
        a.price.value_or(0) > b.price.value_or(0))
        return false;
    const ActivePart& x = *active(a.part);
    const ActivePart& y = *active(b.part);
    const auto most = [](const auto& figure) {
        return figure ? figure->value() : std::numeric_limits<double>::infinity();
    };
    if (orZero(x.inputMin) > orZero(y.inputMin) || orZero(x.startMin) > orZero(y.startMin) ||
        x.upper || y.upper)
        return false;
    if (const auto* p = std::get_if<Linear>(&a.part)) {
        const auto& q = std::get<Linear>(b.part);
        const auto slope = [](const Linear& l) {
            return l.dropoutKind == DropoutKind::fet && l.ratedCurrent
                       ? orZero(l.dropout) / l.ratedCurrent->value()
                       : -1;
        };
        const bool alike = (slope(*p) < 0) == (slope(q) < 0);
        const double one = slope(*p) < 0 ? orZero(p->dropout) : slope(*p);
        const double two = slope(q) < 0 ? orZero(q.dropout) : slope(q);
        return alike && (across ? one == two : one <= two) &&
               orZero(p->ground) <= orZero(q.ground) &&
               most(p->outputLimit) >= most(q.outputLimit) &&
               most(p->powerLimit) >= most(q.powerLimit);
    }
    const auto& p = std::get<Switcher>(a.part);
    const auto& q = std::get<Switcher>(b.part);
    const double dutyP = p.maxDuty.value_or(1);
    const double dutyQ = q.maxDuty.value_or(1);
    // What hangs on the line by ohms takes more where a part lets more volts through.
    if (across && p.topology != Topology::buckBoost &&
        (dutyP != dutyQ || orZero(p.drop) != orZero(q.drop) ||
         orZero(p.resistance) != orZero(q.resistance)))
        return false;
    return p.topology == q.topology && orZero(p.quiescent) <= orZero(q.quiescent) &&
           orZero(p.fixed) <= orZero(q.fixed) && orZero(p.switching) <= orZero(q.switching) &&
           orZero(p.drop) <= orZero(q.drop) && orZero(p.resistance) <= orZero(q.resistance) &&
           orZero(p.skipBelow) >= orZero(q.skipBelow) && dutyP >= dutyQ &&
           p.holdsWhenAbove.value_or(false) == q.holdsWhenAbove.value_or(false) &&
           most(p.switchLimit) >= most(q.switchLimit) &&
           most(p.outputLimit) >= most(q.outputLimit) && most(p.powerLimit) >= most(q.powerLimit);
}

} // namespace sipper
