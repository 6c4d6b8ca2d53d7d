// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/integrator.hpp"

#include "base/tolerance.hpp"

namespace sipper {
namespace {

constexpr int kDriveRounds = 30; ///< of a step: to 1e-9 of it
constexpr double kFull = 1e-12;
constexpr int kMostTurns = 200; ///< met at their moment; more is chatter, and only stepped through
constexpr double kPastTurn = 0x1p-29; ///< of a step: past the bracket of a change of regime

class Integrator {
  public:
    Integrator(const PackModel& pack, const PackState& start, const Integration& drive,
               const StepControl& rule)
        : m_stepper(pack, rule), m_drive(drive) {
        m_stepper.setAcceptance(drive.acceptance);
        m_out.state = start;
    }

    DriveResult go() {
        auto amps = ask(m_out.state, 0);
        if (!amps)
            return ended(IntegrationEnd::noAnswer);
        note(*amps);
        for (; !m_drive.budget.spent(m_out.steps, m_out.hours); ++m_out.steps) {
            if (m_drive.event && m_drive.event(m_out.state, m_out.hours, *amps))
                return ended(IntegrationEnd::event);
            if (const auto edge = atAnEdge(*amps))
                return ended(*edge);
            if (!(m_out.hours < m_drive.until))
                return ended(IntegrationEnd::time);
            const int before = m_ahead = regime();
            const Step step = plan(*amps);
            if (!std::isfinite(step.hours))
                return ended(IntegrationEnd::time);
            const PackState next = stateAfter(step.hours, step.cellAmps, step.next);
            const auto there = ask(next, m_out.hours + step.hours);
            const bool late = m_ahead != before && regime() == before;
            const bool turned =
                there && m_turns < kMostTurns && (regime() != before || m_ahead != before);
            if (!turned && endOf(next, m_out.hours + step.hours, there))
                return endWithin(step, *amps);
            if (turned) {
                amps = turnWithin(step, *amps, before, late);
                if (!amps)
                    return ended(IntegrationEnd::noAnswer);
                continue;
            }
            advance(step.hours, step.cellAmps, next, *amps, *there);
            amps = there;
        }
        return ended(IntegrationEnd::stepLimit);
    }

  private:
    [[nodiscard]] const PackModel& pack() const { return m_stepper.pack(); }
    [[nodiscard]] std::optional<double> ask(const PackState& state, double hours) const {
        const auto amps = m_drive.amps(state, hours);
        return amps && std::isfinite(*amps) ? amps : std::nullopt;
    }
    [[nodiscard]] PackState stateAfter(double hours, double cellAmps, const Wells& wells) const {
        return {wells, m_stepper.rcVoltsAfter(m_out.state.rcVolts, cellAmps, hours)};
    }
    /// An empty first well ends what draws; full wells end what charges.
    [[nodiscard]] std::optional<IntegrationEnd> atAnEdge(double amps) const {
        if (amps > 0 && m_out.state.wells.available <= 0)
            return IntegrationEnd::empty;
        if (amps < 0 && pack().charge(m_out.state.wells) >= 1 - kFull)
            return IntegrationEnd::full;
        return std::nullopt;
    }
    [[nodiscard]] Step plan(double amps) {
        double left = m_drive.until - m_out.hours;
        if (m_drive.longest > 0)
            left = std::min(left, m_drive.longest);
        const double before = m_stepper.volts(m_out.state, amps);
        const double parallel = pack().parallel;
        double there = amps;
        const auto slowAfter = [&](double cellAmps, double hours) {
            return m_stepper.rcVoltsAfter(m_out.state.rcVolts, cellAmps, hours);
        };
        return m_stepper.next(
            m_out.state.wells, amps / parallel, left,
            [&](const Wells& wells, double hours) {
                there = ask({wells, slowAfter(amps / parallel, hours)}, m_out.hours + hours)
                            .value_or(amps);
                m_ahead = regime();
                return there / parallel;
            },
            [&](const Wells& wells, double hours) {
                const PackState next{wells, slowAfter((amps + there) / 2 / parallel, hours)};
                const double moved = std::abs(m_stepper.volts(next, there) - before);
                return std::max(moved / pack().series, asVolts(amps, there));
            });
    }
    /// The rule of amps, in the volts that the stepper's own rule goes by.
    [[nodiscard]] double asVolts(double before, double after) const {
        return m_drive.ampsShare > 0 && before != 0
                   ? m_stepper.rule().voltsPerCell * std::abs(after / before - 1) /
                         m_drive.ampsShare
                   : 0;
    }
    void advance(double hours, double cellAmps, const PackState& next, double before,
                 double after) {
        const double amps = cellAmps * pack().parallel;
        m_out.ampHours += amps * hours;
        m_out.wattHours +=
            (m_stepper.volts(m_out.state, before) * before + m_stepper.volts(next, after) * after) /
            2 * hours;
        m_out.hours += hours;
        m_out.state = next;
        note(after);
    }
    [[nodiscard]] int regime() const { return m_drive.regime ? m_drive.regime() : 0; }
    /// The regime changes within this step: up to there, and just past it. `late`: it does with the
    /// current of before, and no more with the step's mean, which would never get there.
    std::optional<double> turnWithin(const Step& step, double before, int regimeBefore, bool late) {
        ++m_turns;
        // The step's mean has the current of after the turn in it: once more with that of before.
        Step until = step;
        if (late)
            until.cellAmps = before / pack().parallel;
        double good = 0;
        double held = before;
        for (const bool again : {false, true}) {
            if (again)
                until.cellAmps = (before + held) / 2 / pack().parallel;
            good = bisect(0, until.hours, kDriveRounds, [&](double hours) {
                const auto amps = ask(stateWithin(until, hours), m_out.hours + hours);
                return amps && regime() == regimeBefore;
            });
            held = ask(stateWithin(until, good), m_out.hours + good).value_or(before);
        }
        // So near that rounding may leave it on this side: then further.
        double past = std::min(until.hours, good + until.hours * kPastTurn);
        while (past < until.hours) {
            const auto there = ask(stateWithin(until, past), m_out.hours + past);
            if (!there || regime() != regimeBefore)
                break;
            past = std::min(until.hours, good + 4 * (past - good));
        }
        const PackState last = stateWithin(until, good);
        const PackState next = stateWithin(until, past);
        advance(good, until.cellAmps, last, before, held);
        const auto amps = ask(next, m_out.hours + past - good);
        if (!amps)
            return std::nullopt;
        advance(past - good, until.cellAmps, next, held, *amps);
        return ask(m_out.state, m_out.hours); // who records may have switched something
    }
    [[nodiscard]] PackState stateWithin(const Step& step, double hours) const {
        return stateAfter(hours, step.cellAmps,
                          pack().drained(m_out.state.wells, m_stepper.drain(step.cellAmps), hours));
    }
    /// What ends it lies within this step: halved to it at the step's mean current.
    DriveResult endWithin(const Step& step, double before) {
        const auto at = [&](double hours) { return stateWithin(step, hours); };
        // Where rounding leaves every place within the step good, its end tells what it was.
        IntegrationEnd end =
            endAt(at(step.hours), m_out.hours + step.hours).value_or(IntegrationEnd::noAnswer);
        const double good = bisect(0, step.hours, kDriveRounds, [&](double hours) {
            const auto here = endAt(at(hours), m_out.hours + hours);
            end = here.value_or(end);
            return !here;
        });
        const PackState state = at(good);
        advance(good, step.cellAmps, state, before,
                ask(state, m_out.hours + good).value_or(before));
        return ended(end);
    }
    /// What ends it in this state, if anything.
    [[nodiscard]] std::optional<IntegrationEnd> endAt(const PackState& state, double hours) const {
        return endOf(state, hours, ask(state, hours));
    }
    /// The same with the amps that were just asked for there.
    [[nodiscard]] std::optional<IntegrationEnd> endOf(const PackState& state, double hours,
                                                      std::optional<double> amps) const {
        if (!amps)
            return IntegrationEnd::noAnswer;
        if (m_drive.event && m_drive.event(state, hours, *amps))
            return IntegrationEnd::event;
        if (*amps > 0 && state.wells.available <= 0)
            return IntegrationEnd::empty;
        if (*amps < 0 && pack().charge(state.wells) > 1)
            return IntegrationEnd::full;
        return std::nullopt;
    }
    void note(double amps) const {
        if (m_drive.record)
            m_drive.record(m_out.hours, m_out.state, amps, m_stepper.volts(m_out.state, amps));
    }
    DriveResult ended(IntegrationEnd end) {
        m_out.end = end;
        return m_out;
    }

    Stepper m_stepper;
    const Integration& m_drive;
    DriveResult m_out;
    int m_turns = 0;
    int m_ahead = 0; ///< the regime at a step's end, were the current to stay
};

} // namespace

DriveResult integrate(const PackModel& pack, const PackState& start, const Integration& drive,
                      const StepControl& rule) {
    return Integrator(pack, start, drive, rule).go();
}

} // namespace sipper
