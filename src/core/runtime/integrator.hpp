// SPDX-License-Identifier: GPL-3.0-or-later
// Steps a pack's state through time under any current, out of it or into it: what a
// discharge, a charge, a day of sun and a rebound all stand on.
#pragma once

#include "base/workbudget.hpp"
#include "line/packmodel.hpp"
#include "runtime/runtime.hpp"

#include <algorithm>
#include <cmath>
#include <functional>

namespace sipper {

/// One step: how long, at which mean current of one cell, and where it leads.
struct Step {
    double hours = 0;
    double cellAmps = 0; ///< signed: charging is negative; self-discharge not in it
    Wells next;
};

/// The rule of steps: no more than a share of the charge, halved until a cell's voltage moves
/// little. Wells and relaxation move in closed form (docs/model.md: Cells and packs), so a step's
/// only error is that the current is taken as constant.
class Stepper {
  public:
    Stepper(const PackModel& pack, const StepControl& rule) : m_pack(pack), m_rule(rule) {}

    [[nodiscard]] const PackModel& pack() const { return m_pack; }
    [[nodiscard]] const StepControl& rule() const { return m_rule; }
    /// Of what a charge pushes into a cell only this share stays in its wells; the rest is heat.
    void setAcceptance(double share) { m_acceptance = share; }
    /// Amps that leave the wells of a cell at this current, self-discharge included.
    [[nodiscard]] double drain(double cellAmps) const {
        return (cellAmps < 0 ? cellAmps * m_acceptance : cellAmps) + m_pack.selfAmps;
    }

    /// Volts at the pack's terminals while it gives `packAmps` (negative: takes).
    [[nodiscard]] double volts(const PackState& state, double packAmps) const {
        return m_pack.volts(m_pack.height(state.wells), state.rcVolts, packAmps);
    }
    /// v1 after `hours` at a constant current of one cell.
    [[nodiscard]] double rcVoltsAfter(double slow, double cellAmps, double hours) const {
        return m_pack.rcVoltsAfter(slow, cellAmps, hours * 3600);
    }

    /// The next step of at most `left` hours from `now`, with `before` amps of one cell flowing.
    /// `ahead(wells, hours)` answers the amps after that time, `move(wells, hours)` how far a
    /// cell's voltage has moved by then, in volts. A step of infinite length means that nothing
    /// flows and nothing ever will.
    template <class Ahead, class Move>
    [[nodiscard]] Step next(const Wells& now, double before, double left, Ahead&& ahead,
                            Move&& move) const {
        const double leaves = drain(before);
        Step step;
        step.hours = left;
        if (leaves != 0)
            step.hours = std::min(left, m_rule.maxChargeStep * m_pack.usable / std::abs(leaves));
        if (!std::isfinite(step.hours))
            return step;
        for (int halving = 0; halving <= kHalvings; ++halving) {
            const double there = ahead(m_pack.drained(now, leaves, step.hours), step.hours);
            step.cellAmps = (before + there) / 2;
            step.next = m_pack.drained(now, drain(step.cellAmps), step.hours);
            const double moved = move(step.next, step.hours);
            if (moved <= m_rule.voltsPerCell || halving == kHalvings)
                break;
            step.hours *= std::clamp(0.9 * m_rule.voltsPerCell / moved, 0.25, 0.9);
        }
        return step;
    }

    static constexpr int kHalvings = 12; ///< of one step, for the voltage rule

  private:
    const PackModel& m_pack;
    StepControl m_rule;
    double m_acceptance = 1;
};

/// The current as a function of the pack's state, evaluated in every step, so that a source, a load
/// and a guard in front of it may do what they like.
struct Integration {
    /// Amps out of the pack at its node, negative into it; nothing where the line has no answer.
    std::function<std::optional<double>(const PackState&, double hours)> amps;
    /// Has what is waited for happened by now? May be left out.
    std::function<bool(const PackState&, double hours, double amps)> event;
    /// What `amps` was last decided by. Where that changes within a step, the step ends there, so
    /// that a jump of the current is met at its moment. May be left out.
    std::function<int()> regime;
    /// Hears of the start and of every step's end. May be left out.
    std::function<void(double hours, const PackState&, double amps, double volts)> record;
    double until = 0; ///< hours
    /// The longest step in hours, where a source or a clock changes by itself; 0: no such limit.
    double longest = 0;
    /// Share by which the current may move in a step, where the volts tell nothing (they are held);
    /// 0: no such rule.
    double ampsShare = 0;
    /// Share of a charging current that stays in the wells.
    double acceptance = 1;
    WorkBudget budget = {};
};

enum class IntegrationEnd { event, time, empty, full, noAnswer, stepLimit };

struct DriveResult {
    IntegrationEnd end = IntegrationEnd::time;
    double hours = 0;
    std::size_t steps = 0;
    PackState state;
    double ampHours = 0; ///< out of the pack's node, negative into it
    double wattHours = 0;
};

/// Drives a pack from a state until something happens, the time is over, or a well is empty or
/// both are full, or the budget is used up (`stepLimit`). The moment of what happens is halved to
/// 1e-9 of its step.
[[nodiscard]] DriveResult integrate(const PackModel& pack, const PackState& start,
                                    const Integration& drive, const StepControl& rule = {});

} // namespace sipper
