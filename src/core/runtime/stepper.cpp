#include "runtime/stepper.hpp"

#include "quantity/slack.hpp"

namespace sipper {
namespace {

constexpr int kBracketRounds = 30;            ///< of a step: to 1e-9 of it
constexpr std::size_t kMostSteps = 4'000'000; ///< more than a century of days
constexpr double kFull = 1e-12;

class Driver {
  public:
    Driver(const PackModel& pack, const PackState& start, const Drive& drive, const Stepping& rule)
        : m_stepper(pack, rule), m_drive(drive) {
        m_out.state = start;
    }

    Driven go() {
        auto amps = ask(m_out.state, 0);
        if (!amps)
            return ended(DriveEnd::noAnswer);
        note(*amps);
        for (std::size_t steps = 0; steps < kMostSteps; ++steps) {
            if (m_drive.happened && m_drive.happened(m_out.state, m_out.hours, *amps))
                return ended(DriveEnd::happened);
            if (const auto edge = atAnEdge(*amps))
                return ended(*edge);
            if (!(m_out.hours < m_drive.until))
                return ended(DriveEnd::time);
            const Step step = plan(*amps);
            if (!std::isfinite(step.hours))
                return ended(DriveEnd::time);
            const PackState next = stateAfter(step.hours, step.cellAmps, step.next);
            const auto there = ask(next, m_out.hours + step.hours);
            if (!there || happens(next, step.hours, *there))
                return endWithin(step, *amps);
            advance(step.hours, step.cellAmps, next, *amps, *there);
            amps = there;
        }
        return ended(DriveEnd::gaveUp);
    }

  private:
    [[nodiscard]] const PackModel& pack() const { return m_stepper.pack(); }
    [[nodiscard]] std::optional<double> ask(const PackState& state, double hours) const {
        const auto amps = m_drive.amps(state, hours);
        return amps && std::isfinite(*amps) ? amps : std::nullopt;
    }
    [[nodiscard]] PackState stateAfter(double hours, double cellAmps, const Wells& wells) const {
        return {wells, m_stepper.slowAfter(m_out.state.slow, cellAmps, hours)};
    }
    /// An empty first well ends what draws; full wells end what charges.
    [[nodiscard]] std::optional<DriveEnd> atAnEdge(double amps) const {
        if (amps > 0 && m_out.state.wells.atHand <= 0)
            return DriveEnd::empty;
        if (amps < 0 && pack().charge(m_out.state.wells) >= 1 - kFull)
            return DriveEnd::full;
        return std::nullopt;
    }
    [[nodiscard]] bool happens(const PackState& next, double hours, double amps) const {
        return (m_drive.happened && m_drive.happened(next, m_out.hours + hours, amps)) ||
               (amps > 0 && next.wells.atHand <= 0) || (amps < 0 && pack().charge(next.wells) > 1);
    }
    [[nodiscard]] Step plan(double amps) const {
        double left = m_drive.until - m_out.hours;
        if (m_drive.longest > 0)
            left = std::min(left, m_drive.longest);
        const double before = m_stepper.volts(m_out.state, amps);
        const double parallel = pack().parallel;
        double there = amps;
        const auto slowAfter = [&](double cellAmps, double hours) {
            return m_stepper.slowAfter(m_out.state.slow, cellAmps, hours);
        };
        return m_stepper.next(
            m_out.state.wells, amps / parallel, left,
            [&](const Wells& wells, double hours) {
                there = ask({wells, slowAfter(amps / parallel, hours)}, m_out.hours + hours)
                            .value_or(amps);
                return there / parallel;
            },
            [&](const Wells& wells, double hours) {
                const PackState next{wells, slowAfter((amps + there) / 2 / parallel, hours)};
                return std::abs(m_stepper.volts(next, there) - before) / pack().series;
            });
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
    /// What ends it lies within this step: halved to it at the step's mean current.
    Driven endWithin(const Step& step, double before) {
        DriveEnd end = DriveEnd::noAnswer;
        const auto at = [&](double hours) {
            return stateAfter(
                hours, step.cellAmps,
                pack().drained(m_out.state.wells, step.cellAmps + pack().selfAmps, hours));
        };
        const double good = lastGood(0, step.hours, kBracketRounds, [&](double hours) {
            const PackState state = at(hours);
            const auto amps = ask(state, m_out.hours + hours);
            if (!amps)
                end = DriveEnd::noAnswer;
            else if (m_drive.happened && m_drive.happened(state, m_out.hours + hours, *amps))
                end = DriveEnd::happened;
            else if (*amps > 0 && state.wells.atHand <= 0)
                end = DriveEnd::empty;
            else if (*amps < 0 && pack().charge(state.wells) > 1)
                end = DriveEnd::full;
            else
                return true;
            return false;
        });
        const PackState state = at(good);
        advance(good, step.cellAmps, state, before,
                ask(state, m_out.hours + good).value_or(before));
        if (end == DriveEnd::noAnswer && m_drive.happened &&
            m_drive.happened(at(step.hours), m_out.hours - good + step.hours, before))
            end = DriveEnd::happened;
        return ended(end);
    }
    void note(double amps) const {
        if (m_drive.record)
            m_drive.record(m_out.hours, m_out.state, amps, m_stepper.volts(m_out.state, amps));
    }
    Driven ended(DriveEnd end) {
        m_out.end = end;
        return m_out;
    }

    Stepper m_stepper;
    const Drive& m_drive;
    Driven m_out;
};

} // namespace

Driven drive(const PackModel& pack, const PackState& start, const Drive& drive,
             const Stepping& rule) {
    return Driver(pack, start, drive, rule).go();
}

} // namespace sipper
