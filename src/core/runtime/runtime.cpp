// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/runtime.hpp"

#include "runtime/integrator.hpp"
#include "runtime/lineinterpolant.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kBracket = 1e-10; ///< of a step: where an end is called found
constexpr int kBracketRounds = 60;
constexpr double kFineTolerance = 1e-5; ///< of a run whose answer is shown
constexpr double kMeanShare = 3e-4; ///< of a coarser run's tolerance, for a stretch's mean current
constexpr double kForkShare = 3e-5; ///< the same for the current of a fork

class DischargeSimulation {
  public:
    DischargeSimulation(const Project& project, const Conditions& conditions,
                        const StepControl& stepping)
        : m_project(project), m_line(project, conditions), m_stepping(stepping),
          m_stepper(m_line.pack(), stepping),
          m_startCharge(conditions.charge.value_or(project.pack()->charge.value_or(1.0))),
          m_start(m_line.pack().level(m_startCharge)) {
        if (!stepping.energies)
            m_line.leaveOutEnergies();
    }

    Runtime go() {
        if (!m_line.drawsAnything()) {
            m_runtime.ending.reason = EndReason::never;
            closeLedger();
            return std::move(m_runtime);
        }
        m_wells = m_start;
        openCharts();
        runOn();
        bookCharts();
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
    /// Heights that a run has passed in one go.
    struct HeightInterval {
        double low = 2;
        double high = -1;
    };
    /// Where it has been in one setting: a span for every time that it was the one. Between two of
    /// them the pack sank under another setting's draw, and nothing of this one flowed.
    using Visited = std::vector<HeightInterval>;

    void openCharts() {
        m_charts.clear();
        for (std::size_t i = 0; i < m_line.schedule().settings.size(); ++i)
            m_charts.emplace_back(m_project, m_line, i, m_windows, m_stepping.tolerance);
        if (m_stepping.tolerance > kFineTolerance)
            m_line.setTolerance(m_stepping.tolerance * kMeanShare,
                                m_stepping.tolerance * kForkShare);
        m_visited.assign(m_charts.size(), {});
    }
    void runOn() {
        const int start = m_project.brief.startMinutes();
        double minute = std::fmod(start + m_hours * 60, 1440.0);
        while (!m_done && !m_over) {
            const Schedule::Now now = m_line.schedule().at(minute);
            interval(now.setting, now.minutesLeft / 60);
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
        m_over = false;
        openCharts();
        runOn();
        answer.tail = std::move(m_runtime.curve);
        m_runtime = std::move(answer);
    }

    /// Runs through one stretch of at most `left` hours, or to the end. Each step takes the mean of
    /// the currents at its two ends.
    void interval(std::size_t setting, double left) {
        LineInterpolant& chart = m_charts[setting];
        const PackModel& pack = m_line.pack();
        double height = pack.height(m_wells);
        enter(setting, height);
        const LineInterpolant::Piece* here = &chart.at(height);
        if (here->ended())
            return end(setting, *here, height);
        record(chart, *here, height);
        while (left > 0 && !m_over) {
            if ((m_over = m_stepping.budget.spent(++m_steps, m_hours)))
                break;
            const double before = chart.cellAmps(*here, height);
            double reached = 0;
            const Step step = m_stepper.next(
                m_wells, before, left,
                [&](const Wells& ahead, double) {
                    return ampsTowards(chart, height, pack.height(ahead), before);
                },
                [&](const Wells& next, double) {
                    reached = pack.height(next);
                    return std::abs(reached - height) *
                           std::max(here->steep, chart.at(reached).steep) / pack.series;
                });
            if (!std::isfinite(step.hours))
                return finishNever();
            if (const LineInterpolant::Piece* stop = chart.firstEnd(height, reached))
                return endAt(setting, height, *stop, before, step.hours);
            const LineInterpolant::Piece& there = chart.at(reached);
            if (there.ended())
                return endAt(setting, height, there, before, step.hours);
            advance(chart, chart.at(height), height, there, reached, step.next, step.hours);
            height = reached;
            here = &chart.at(height);
            visit(setting, height);
            left = left - step.hours <= 1e-12 * m_hours ? 0 : left - step.hours;
        }
    }

    /// The current at a height ahead; at the last good one where the run ends before it.
    static double ampsTowards(LineInterpolant& chart, double from, double to, double before) {
        if (const LineInterpolant::Piece* stop = chart.firstEnd(from, to)) {
            const double edge = to < from ? stop->high : stop->low;
            const LineInterpolant::Piece& last =
                chart.at(std::nextafter(edge, to < from ? 1.0 : 0.0));
            return last.ended() ? before : chart.cellAmps(last, edge);
        }
        const LineInterpolant::Piece& piece = chart.at(to);
        return piece.ended() ? before : chart.cellAmps(piece, to);
    }

    /// The end lies within this step, at the edge of `stop`.
    void endAt(std::size_t setting, double height, const LineInterpolant::Piece& found,
               double before, double step) {
        const LineInterpolant::Piece stop = found; // the interpolant goes on growing
        LineInterpolant& chart = m_charts[setting];
        const PackModel& pack = m_line.pack();
        const bool downwards = stop.high <= height;
        const double edge = downwards ? stop.high : stop.low;
        const LineInterpolant::Piece last = chart.at(std::nextafter(edge, downwards ? 1.0 : 0.0));
        const double atEdge = last.ended() ? before : chart.cellAmps(last, edge);
        const double drain = (before + atEdge) / 2 + pack.selfAmps;
        const auto stillGood = [&](double hours) {
            const double h = pack.height(pack.drained(m_wells, drain, hours));
            return downwards ? h > edge : h < edge;
        };
        double good = 0;
        double bad = step;
        for (int i = 0; i < Stepper::kHalvings && stillGood(bad);
             ++i) // the mean current moved a little
            bad *= 2;
        for (int round = 0; round < kBracketRounds && bad - good > kBracket * step; ++round) {
            const double middle = (good + bad) / 2;
            (stillGood(middle) ? good : bad) = middle;
        }
        const LineInterpolant::Piece here = chart.at(height);
        if (good > 0 && !last.ended() && !here.ended())
            advance(chart, here, height, last, edge, pack.drained(m_wells, drain, good), good);
        visit(setting, edge);
        end(setting, stop, stop.seen);
    }

    /// Solves what is there at this height, and ends. Where it can't be seen again, as at a
    /// collapse that hangs by a hair, what the interpolant has seen holds.
    void end(std::size_t setting, const LineInterpolant::Piece& piece, double height) {
        const Wells wells = m_line.pack().level(std::clamp(height, 0.0, 1.0));
        m_line.solve(setting, wells, m_moment);
        const auto ending = endingOf(m_project, m_line, m_moment, wells, m_windows);
        m_runtime.ending = ending ? *ending : *piece.ending;
        m_done = true;
        if (m_moment.collapsed)
            return;
        for (const ModeSolution& m : m_moment.modes)
            if (m.share > 0)
                noteWorst(std::max(m.steady.sourceAmps,
                                   m.hasBurst ? m.burst.sourceAmps : m.steady.sourceAmps),
                          m.mode);
    }

    void enter(std::size_t setting, double height) {
        m_visited[setting].push_back({height, height});
    }
    /// The spans of a setting, rising, with none that overlap.
    static Visited tidied(Visited spans) {
        std::sort(spans.begin(), spans.end(),
                  [](const HeightInterval& a, const HeightInterval& b) { return a.low < b.low; });
        Visited out;
        for (const HeightInterval& span : spans)
            if (!out.empty() && span.low <= out.back().high)
                out.back().high = std::max(out.back().high, span.high);
            else
                out.push_back(span);
        return out;
    }
    static bool within(const Visited& spans, double height) {
        const auto after =
            std::upper_bound(spans.begin(), spans.end(), height,
                             [](double h, const HeightInterval& span) { return h < span.low; });
        return after != spans.begin() && height <= std::prev(after)->high;
    }
    void visit(std::size_t setting, double height) {
        HeightInterval& span = m_visited[setting].back();
        span.low = std::min(span.low, height);
        span.high = std::max(span.high, height);
    }

    void advance(LineInterpolant& chart, const LineInterpolant::Piece& here, double height,
                 const LineInterpolant::Piece& there, double reached, const Wells& next,
                 double step) {
        chart.spend(here, height, step / 2);
        chart.spend(there, reached, step / 2);
        bookCells(step, m_line.pack().charge(m_wells), m_line.pack().charge(next));
        m_hours += step;
        m_wells = next;
        record(chart, there, reached);
    }

    void finishNever() {
        m_runtime.ending.reason = EndReason::never;
        m_over = true;
    }

    void noteWorst(double amps, std::size_t mode) {
        if (amps > m_runtime.worstCurrent.value()) {
            m_runtime.worstCurrent = Amps{amps};
            m_runtime.worstMode = m_project.modes[mode].id;
        }
    }

    /// The open-circuit energy of one step, exactly; what the terminals got of it comes off later.
    void bookCells(double hours, double chargeBefore, double chargeAfter) {
        const PackModel& pack = m_line.pack();
        const double cells = pack.series * pack.parallel;
        const double drawn = (chargeBefore - chargeAfter) * pack.usable; // Ah of one cell
        const double volts = chargeBefore > chargeAfter
                                 ? pack.openCircuit.integral(chargeAfter, chargeBefore) /
                                       (chargeBefore - chargeAfter)
                                 : pack.openCircuit.at(chargeBefore);
        const double self = pack.selfAmps * hours;
        m_runtime.ledger.selfDischarge += cells * volts * self;
        m_runtime.ledger.packLoss += cells * volts * (drawn - self);
    }

    /// Powers by the time spent at each height, and the worst current of where the run has been.
    void bookCharts() {
        const std::size_t modes = m_project.modes.size();
        m_stageWh.assign(m_project.stages.size(), 0);
        m_loadWh.assign(m_project.loads.size() * modes, 0);
        for (std::size_t s = 0; s < m_charts.size(); ++s) {
            const Visited been = tidied(m_visited[s]);
            for (const LineInterpolant::Node& n : m_charts[s].nodes()) {
                if (!n.ended() && within(been, n.height))
                    noteWorst(n.worst, n.worstMode);
                if (n.hours == 0)
                    continue;
                m_terminalWh += n.hours * n.terminal;
                for (std::size_t i = 0; i < n.stages.size(); ++i)
                    m_stageWh[i] += n.hours * n.stages[i];
                for (std::size_t i = 0; i < n.loadModes.size(); ++i)
                    m_loadWh[i] += n.hours * n.loadModes[i];
            }
            noteEnds(m_charts[s], been);
        }
        m_runtime.ledger.packLoss -= m_terminalWh;
    }
    /// The highest and the lowest place at which something flowed, solved: between nodes a span may
    /// begin or end anywhere.
    void noteEnds(LineInterpolant& chart, const Visited& been) {
        const auto noted = [&](double height) {
            const LineInterpolant::Node n = chart.solved(height);
            if (!n.ended())
                noteWorst(n.worst, n.worstMode);
            return !n.ended();
        };
        for (auto span = been.rbegin(); span != been.rend() && !noted(span->high); ++span) {
        }
        for (auto span = been.begin(); span != been.end() && !noted(span->low); ++span) {
        }
    }

    void record(const LineInterpolant& chart, const LineInterpolant::Piece& piece, double height) {
        if (!m_stepping.record)
            return;
        const PackModel& pack = m_line.pack();
        m_runtime.curve.push_back(
            {m_hours, pack.charge(m_wells), chart.fillVolts(piece, height), height});
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
    StepControl m_stepping;
    Stepper m_stepper;
    double m_startCharge;
    Wells m_start;
    Wells m_wells;
    double m_hours = 0;
    double m_terminalWh = 0;
    std::size_t m_steps = 0;
    bool m_over = false; ///< nothing flows any more, or the budget is used up
    bool m_done = false;
    bool m_windows = true;                 ///< loads' windows count
    std::vector<LineInterpolant> m_charts; ///< one for each setting
    std::vector<Visited> m_visited;
    LineSolution m_moment;
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

StepControl coarseSteps() {
    StepControl coarse;
    coarse.maxChargeStep = 0.02;
    coarse.voltsPerCell = 0.02;
    coarse.tolerance = 3e-4;
    return coarse;
}

Runtime predictRuntime(const Project& project, const Conditions& conditions,
                       const StepControl& stepping) {
    if (!project.pack()) {
        Runtime mains;
        mains.ending.reason = EndReason::mains;
        return mains;
    }
    return DischargeSimulation(project, conditions, stepping).go();
}

Runtime predictRuntime(const Project& project) {
    return predictRuntime(project, typicalConditions(project));
}

double enclosureRise(const Project& p, const Runtime& r) {
    if (!p.brief.box || !r.hours || r.hours->value() <= 0)
        return 0;
    double lost = r.ledger.packLoss;
    for (const auto& [id, wh] : r.ledger.stages)
        lost += wh;
    return p.brief.box->value() * lost / r.hours->value();
}

} // namespace sipper
