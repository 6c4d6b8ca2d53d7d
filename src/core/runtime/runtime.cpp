#include "runtime/runtime.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kBracket = 1e-9; ///< of the runtime: where an end is called found
constexpr int kBracketRounds = 60;
constexpr int kHalvings = 12;                 ///< of one step, for the voltage rule
constexpr std::size_t kMostSteps = 4'000'000; ///< more than a century of daily windows
constexpr double kStep = 1.5;                 ///< growth of the next step after an easy one

/// Powers at one moment, averaged over the modes of the stretch.
struct Powers {
    double cellAmps = 0;
    double terminal = 0;
    std::vector<double> stages;
    std::vector<double> loadModes; ///< load-major
    double fillVolts = 0;
};

/// Volts of every mode at the pack, to see how far a step moves them.
double largestMove(const Moment& a, const Moment& b) {
    double most = 0;
    for (std::size_t i = 0; i < a.modes.size(); ++i)
        if (a.modes[i].share > 0)
            most =
                std::max(most, std::abs(a.modes[i].plain.packVolts - b.modes[i].plain.packVolts));
    return most;
}

class Run {
  public:
    Run(const Project& project, const Conditions& conditions, const Stepping& stepping)
        : m_project(project), m_line(project, conditions), m_stepping(stepping),
          m_startCharge(conditions.charge.value_or(project.pack()->charge.value_or(1.0))),
          m_start(m_line.pack().level(m_startCharge)) {}

    Runtime go() {
        if (!m_line.drawsAnything()) {
            m_runtime.ending.reason = EndReason::never;
            closeLedger();
            return std::move(m_runtime);
        }
        m_wells = m_start;
        runOn();
        if (!m_done) { // a century has passed: nothing that matters draws
            m_runtime.ending.reason = EndReason::never;
        } else {
            m_runtime.hours = Hours{m_hours};
            if (m_hours > 0)
                m_runtime.meanPower = Watts{m_terminalWh / m_hours};
        }
        closeLedger();
        if (m_stepping.tail && m_done &&
            (m_runtime.ending.reason == EndReason::belowWindow ||
             m_runtime.ending.reason == EndReason::aboveWindow))
            runTail();
        return std::move(m_runtime);
    }

  private:
    void runOn() {
        const int start = m_project.brief.startMinutes();
        double minute = std::fmod(start + m_hours * 60, 1440.0);
        while (!m_done && m_steps < kMostSteps) {
            const Schedule::Now now = m_line.schedule().at(minute);
            stretch(now.setting, now.minutesLeft / 60);
            minute = std::fmod(start + m_hours * 60, 1440.0);
            if (!m_done && std::isfinite(now.minutesLeft))
                minute = std::round(minute) == 1440 ? 0 : std::round(minute);
        }
    }
    /// Goes on where a load left its window, into a curve of its own; the answer stays as it is.
    void runTail() {
        Runtime answer = std::move(m_runtime);
        m_runtime = {};
        m_windows = false;
        m_done = false;
        runOn();
        answer.tail = std::move(m_runtime.curve);
        m_runtime = std::move(answer);
    }
    /// Runs through one stretch of at most `left` hours, or to the end.
    void stretch(std::size_t setting, double left) {
        m_line.solve(setting, m_wells, m_now);
        if (stops(m_now, m_wells))
            return;
        take(m_now, m_before);
        record();
        const PackModel& pack = m_line.pack();
        const double selfAmps = pack.selfAmps;
        double limit = std::numeric_limits<double>::infinity();
        while (left > 0 && ++m_steps < kMostSteps) {
            const double drain = m_before.cellAmps + selfAmps;
            double step = std::min(left, limit);
            if (drain > 0)
                step = std::min(step, m_stepping.chargeShare * pack.usable / drain);
            if (!std::isfinite(step))
                return finishNever();
            Wells next;
            double amps = 0;
            double move = 0;
            for (int halving = 0; halving <= kHalvings; ++halving) {
                const double guess = m_now.meanAmps * 0.999;
                const Wells ahead = pack.drained(m_wells, drain, step);
                m_line.solve(setting, ahead, m_next, guess);
                amps = m_next.collapsed ? m_before.cellAmps
                                        : (m_before.cellAmps + m_next.meanAmps / pack.parallel) / 2;
                next = pack.drained(m_wells, amps + selfAmps, step);
                m_line.solve(setting, next, m_next, guess);
                move = m_next.collapsed ? 0 : largestMove(m_now, m_next) / pack.series;
                if (move <= m_stepping.voltsPerCell || halving == kHalvings)
                    break;
                step /= 2;
            }
            if (m_next.collapsed || endingOf(m_project, m_line, m_next, next, m_windows)) {
                bracket(setting, step, amps + selfAmps);
                return;
            }
            limit = move > m_stepping.voltsPerCell / 2 ? step : step * kStep * 2;
            advance(step, next);
            left = left - step <= 1e-12 * m_hours ? 0 : left - step;
        }
    }

    /// The end lies within this step: halve until it is known to a billionth of the runtime.
    void bracket(std::size_t setting, double step, double drain) {
        double good = 0;
        double bad = step;
        const auto at = [&](double hours) { return m_line.pack().drained(m_wells, drain, hours); };
        for (int round = 0;
             round < kBracketRounds && bad - good > kBracket * (m_hours + good) * 0.01; ++round) {
            const double middle = (good + bad) / 2;
            const Wells wells = at(middle);
            m_line.solve(setting, wells, m_next);
            (m_next.collapsed || endingOf(m_project, m_line, m_next, wells, m_windows) ? bad
                                                                                       : good) =
                middle;
        }
        if (good > 0) {
            m_line.solve(setting, at(good), m_next);
            advance(good, at(good));
        }
        const Wells wells = at(bad - good);
        m_line.solve(setting, wells, m_next);
        if (!stops(m_next, wells)) { // rounding: the end is where it was seen
            m_line.solve(setting, at((bad - good) * 2), m_next);
            stops(m_next, at((bad - good) * 2));
        }
        m_done = true;
    }

    void advance(double step, const Wells& next) {
        take(m_next, m_after);
        book(step, m_line.pack().charge(m_wells), m_line.pack().charge(next));
        m_hours += step;
        m_wells = next;
        std::swap(m_now, m_next);
        std::swap(m_before, m_after);
        record();
    }

    bool stops(const Moment& moment, const Wells& wells) {
        const auto ending = endingOf(m_project, m_line, moment, wells, m_windows);
        if (!ending)
            return false;
        m_runtime.ending = *ending;
        m_done = true;
        if (!moment.collapsed)
            noteWorst(moment);
        return true;
    }

    void finishNever() {
        m_runtime.ending.reason = EndReason::never;
        m_steps = kMostSteps;
    }

    /// Averages a moment and keeps the worst current seen.
    void take(const Moment& moment, Powers& p) {
        const std::size_t modes = m_project.modes.size();
        p.cellAmps = moment.meanAmps / m_line.pack().parallel;
        p.terminal = 0;
        p.stages.assign(m_project.stages.size(), 0);
        p.loadModes.assign(m_project.loads.size() * modes, 0);
        for (const ModeMoment& m : moment.modes) {
            if (m.fills)
                p.fillVolts = m.plain.packVolts;
            if (m.share <= 0)
                continue;
            double plain = 1;
            for (const auto& single : m.singles)
                plain -= single.share;
            weigh(m.plain, m.share * plain, m.mode, p);
            for (const auto& single : m.singles)
                weigh(single.flows, m.share * single.share, m.mode, p);
        }
        noteWorst(moment);
    }
    void weigh(const Flows& f, double share, std::size_t mode, Powers& p) const {
        p.terminal += share * f.packVolts * f.packAmps;
        for (const std::size_t i : m_line.network().order())
            p.stages[i] += share * f.stages[i].loss();
        for (std::size_t i = 0; i < f.loads.size(); ++i)
            p.loadModes[i * m_project.modes.size() + mode] += share * f.loads[i].v * f.loads[i].i;
    }
    void noteWorst(const Moment& moment) {
        for (const ModeMoment& m : moment.modes) {
            if (m.share <= 0)
                continue;
            const double amps =
                std::max(m.plain.packAmps, m.hasBurst ? m.burst.packAmps : m.plain.packAmps);
            if (amps > m_runtime.worstCurrent.value()) {
                m_runtime.worstCurrent = Amps{amps};
                m_runtime.worstMode = m_project.modes[m.mode].id;
            }
        }
    }

    /// Books the energy of one step: powers by the trapezoid, the open-circuit energy exactly.
    void book(double hours, double chargeBefore, double chargeAfter) {
        const auto mean = [hours](double a, double b) { return (a + b) / 2 * hours; };
        const PackModel& pack = m_line.pack();
        const double terminal = mean(m_before.terminal, m_after.terminal);
        m_terminalWh += terminal;
        const double cells = pack.series * pack.parallel;
        const double drawn = (chargeBefore - chargeAfter) * pack.usable; // Ah of one cell
        const double volts = chargeBefore > chargeAfter
                                 ? pack.openCircuit.integral(chargeAfter, chargeBefore) /
                                       (chargeBefore - chargeAfter)
                                 : pack.openCircuit.at(chargeBefore);
        const double self = pack.selfAmps * hours;
        m_runtime.ledger.selfDischarge += cells * volts * self;
        m_runtime.ledger.packLoss += cells * volts * (drawn - self) - terminal;
        if (m_stageWh.empty()) {
            m_stageWh.assign(m_before.stages.size(), 0);
            m_loadWh.assign(m_before.loadModes.size(), 0);
        }
        for (std::size_t i = 0; i < m_stageWh.size(); ++i)
            m_stageWh[i] += mean(m_before.stages[i], m_after.stages[i]);
        for (std::size_t i = 0; i < m_loadWh.size(); ++i)
            m_loadWh[i] += mean(m_before.loadModes[i], m_after.loadModes[i]);
    }

    void record() {
        if (!m_stepping.record)
            return;
        const PackModel& pack = m_line.pack();
        m_runtime.curve.push_back(
            {m_hours, pack.charge(m_wells), m_before.fillVolts, pack.height(m_wells)});
    }

    void closeLedger() {
        Ledger& ledger = m_runtime.ledger;
        const PackModel& pack = m_line.pack();
        const double cells = pack.series * pack.parallel;
        const double meanVolts = pack.openCircuit.integral(0, 1);
        const double now = m_hours > 0 ? pack.charge(m_wells) : m_startCharge;
        ledger.nameplate = cells * pack.rated * meanVolts;
        ledger.coldAndAge = cells * (pack.rated - pack.usable) * meanVolts;
        ledger.notCharged = cells * pack.usable * pack.openCircuit.integral(m_startCharge, 1);
        ledger.leftInPack = cells * pack.usable * pack.openCircuit.integral(0, now);
        // What the pack does not feed has its entry too: nothing.
        for (std::size_t i = 0; i < m_project.stages.size(); ++i)
            if (i != m_line.packIndex())
                ledger.stages[m_project.stages[i].id] = m_stageWh.empty() ? 0 : m_stageWh[i];
        const std::size_t modes = m_project.modes.size();
        for (std::size_t i = 0; i < m_project.loads.size(); ++i) {
            double sum = 0;
            for (std::size_t m = 0; m < modes; ++m) {
                const double wh = m_loadWh.empty() ? 0 : m_loadWh[i * modes + m];
                ledger.loadModes[m_project.loads[i].id][m_project.modes[m].id] = wh;
                sum += wh;
            }
            ledger.loads[m_project.loads[i].id] = sum;
        }
    }

    const Project& m_project;
    Line m_line;
    Stepping m_stepping;
    double m_startCharge;
    Wells m_start;
    Wells m_wells;
    double m_hours = 0;
    double m_terminalWh = 0;
    std::size_t m_steps = 0;
    bool m_done = false;
    bool m_windows = true; ///< loads' windows count
    Moment m_now;
    Moment m_next;
    Powers m_before;
    Powers m_after;
    std::vector<double> m_stageWh;
    std::vector<double> m_loadWh;
    Runtime m_runtime;
};

} // namespace

double Ledger::imbalance() const {
    double sum = coldAndAge + notCharged + leftInPack + packLoss + selfDischarge;
    for (const auto& [id, wh] : stages)
        sum += wh;
    for (const auto& [id, wh] : loads)
        sum += wh;
    return nameplate != 0 ? (nameplate - sum) / nameplate : 0;
}

Runtime predictRuntime(const Project& project, const Conditions& conditions,
                       const Stepping& stepping) {
    if (!project.pack()) {
        Runtime mains;
        mains.ending.reason = EndReason::mains;
        return mains;
    }
    return Run(project, conditions, stepping).go();
}

Runtime predictRuntime(const Project& project) {
    return predictRuntime(project, typicalConditions(project));
}

} // namespace sipper
