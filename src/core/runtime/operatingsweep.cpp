// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/operatingsweep.hpp"

#include "base/tolerance.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace sipper {
namespace {

constexpr int kNarrowRounds = 20; ///< to a millionth of the charge between two looks
constexpr int kRefineRounds = 12;

void keepMost(Occurrence& s, double value, double charge, std::size_t mode, bool burst) {
    if (!s.valid || value > s.value)
        s = {value, charge, mode, burst, true};
}
void keepLeast(Occurrence& s, double value, double charge, std::size_t mode, bool burst) {
    if (!s.valid || value < s.value)
        s = {value, charge, mode, burst, true};
}
/// The first time it is seen on the way down.
void keepFirst(Occurrence& s, double value, double charge, std::size_t mode, bool burst) {
    if (!s.valid)
        s = {value, charge, mode, burst, true};
}

/// What stops everything, whatever the loads make of it: a guard, an input minimum, a collapse.
std::optional<Ending> stopOf(const Project& p, const Line& line, const LineSolution& moment) {
    if (moment.collapsed)
        return Ending{p.stages[line.packIndex()].id, p.modes[moment.collapsedMode].id,
                      EndReason::collapse, moment.inBurst};
    for (const ModeSolution& m : moment.modes) {
        if (m.share <= 0)
            continue;
        for (const std::size_t i : line.network().order()) {
            if (opens(p.stages[i].part, m.steady.stages[i], m.seconds))
                return Ending{p.stages[i].id, p.modes[m.mode].id, EndReason::cutoff, false};
            if (m.hasBurst && opens(p.stages[i].part, m.burst.stages[i], m.burstSeconds))
                return Ending{p.stages[i].id, p.modes[m.mode].id, EndReason::cutoff, true};
        }
    }
    return std::nullopt;
}

} // namespace

/// The line over the charge: what was solved at one charge is kept, so that the next question about
/// it costs a look.
class OperatingSweeper {
  public:
    OperatingSweeper(const Project& project, const Conditions& conditions)
        : m_project(project), m_line(project, conditions),
          m_moments(m_line.schedule().settings.size()) {
        m_out.resize(project.stages.size(), project.loads.size());
        m_line.leaveOutEnergies();
    }

    OperatingSweep go() {
        double good = 1;
        for (int i = 0; i <= kSurveyPoints; ++i) {
            const double charge = 1 - static_cast<double>(i) / kSurveyPoints;
            if (const auto stop = solve(charge)) {
                m_out.stop = stop;
                m_out.neverRuns = i == 0;
                m_out.stopCharge = 1;
                if (!m_out.neverRuns)
                    narrow(good, charge);
                break;
            }
            lookAround(charge);
            good = charge;
            m_out.stopCharge = charge;
        }
        if (m_out.neverRuns)
            lookAround(1);
        for (std::size_t i = 0; i < m_out.firstUndervoltage.size(); ++i)
            refine(
                m_out.firstUndervoltage[i], [&](const Flows& f) { return leaves(f, i); },
                [&](const Flows& f) { return f.loads[i].v; });
        for (std::size_t i = 0; i < m_out.firstDropout.size(); ++i)
            refine(
                m_out.firstDropout[i],
                [&](const Flows& f) { return f.stages[i].state == StageState::droppingOut; },
                [&](const Flows& f) { return f.stages[i].vIn; });
        return std::move(m_out);
    }

    ChargeInterval interval(const OperatingSweep& known, const FlowPredicate& holds) {
        ChargeInterval out;
        const double low = known.neverRuns ? 1 : known.stopCharge;
        const auto at = [&](double charge) {
            solve(charge);
            std::optional<Occurrence> found;
            visit([&](const Flows& f, std::size_t mode, bool burst) {
                if (!found && holds(f, mode, burst))
                    found = Occurrence{0, charge, mode, burst, true};
            });
            return found;
        };
        double first = -1;
        double last = -1;
        double clearAbove = 1;
        double clearBelow = low;
        for (int i = 0; i <= kSurveyPoints; ++i) {
            const double charge = 1 - (1 - low) * i / kSurveyPoints;
            if (const auto found = at(charge)) {
                if (first < 0) {
                    first = charge;
                    out.first = *found;
                }
                last = charge;
                clearBelow = charge;
            } else if (first < 0) {
                clearAbove = charge;
            } else if (clearBelow == last) {
                clearBelow = charge;
            }
        }
        if (first < 0)
            return out;
        if (clearAbove > first) {
            static_cast<void>(bisect(clearAbove, first, kRefineRounds, [&](double charge) {
                const auto found = at(charge);
                if (found)
                    out.first = *found;
                return !found;
            }));
        }
        if (clearBelow < last)
            last = bisect(last, clearBelow, kRefineRounds,
                          [&](double charge) { return at(charge).has_value(); });
        out.share = out.first.charge - last;
        return out;
    }

  private:
    /// Every mode and burst at one charge.
    struct There {
        struct One {
            std::size_t mode;
            bool burst;
            Flows flows;
        };
        std::vector<One> all;
        std::optional<Ending> stop;
    };
    /// Solves every setting at this charge; what stops everything there, if anything does.
    std::optional<Ending> solve(double charge) {
        const auto [at, fresh] = m_solved.try_emplace(charge);
        m_now = &at->second;
        if (!fresh)
            return m_now->stop;
        for (std::size_t s = 0; s < m_moments.size(); ++s) {
            m_line.solve(s, m_line.pack().level(charge), m_moments[s]);
            if (!m_now->stop)
                m_now->stop = stopOf(m_project, m_line, m_moments[s]);
            if (m_moments[s].collapsed)
                continue;
            for (const ModeSolution& m : m_moments[s].modes) {
                if (m.share <= 0)
                    continue;
                m_now->all.push_back({m.mode, false, m.steady});
                if (m.hasBurst)
                    m_now->all.push_back({m.mode, true, m.burst});
            }
        }
        return m_now->stop;
    }
    void narrow(double good, double bad) {
        m_out.stopCharge = bisect(good, bad, kNarrowRounds, [&](double charge) {
            const auto stop = solve(charge);
            if (stop)
                m_out.stop = stop;
            return !stop;
        });
        solve(m_out.stopCharge);
        lookAround(m_out.stopCharge);
    }
    /// Where between two looks a first sighting really is: halved on the charge, then read there.
    template <class Predicate, class Value>
    void refine(Occurrence& first, Predicate seen, Value read) {
        if (!first.valid || first.charge >= 1)
            return;
        const double clear = std::min(1.0, first.charge + 1.0 / kSurveyPoints);
        static_cast<void>(bisect(clear, first.charge, kRefineRounds, [&](double charge) {
            solve(charge);
            bool found = false;
            visit([&](const Flows& f, std::size_t mode, bool burst) {
                if (found || !seen(f))
                    return;
                found = true;
                first.charge = charge;
                first.mode = mode;
                first.inBurst = burst;
            });
            return !found;
        }));
        solve(first.charge);
        visit([&](const Flows& f, std::size_t mode, bool burst) {
            if (mode == first.mode && burst == first.inBurst)
                first.value = read(f);
        });
    }
    template <class F>
    void visit(F each) {
        for (const There::One& one : m_now->all)
            each(one.flows, one.mode, one.burst);
    }
    void lookAround(double charge) {
        visit([&](const Flows& f, std::size_t mode, bool burst) { look(f, charge, mode, burst); });
    }
    [[nodiscard]] bool leaves(const Flows& f, std::size_t load) const {
        return m_line.network().reachesLoad(load) &&
               underWindow(f.loads[load], m_project.loads[load].window);
    }
    void look(const Flows& f, double charge, std::size_t mode, bool burst) {
        m_out.stageIn[m_line.packIndex()].include(f.sourceVolts);
        m_out.stageOut[m_line.packIndex()].include(f.sourceVolts);
        m_out.take(m_project, m_line.network(), f, {charge, mode, burst},
                   OperatingSweep::Keep::first);
    }

    const Project& m_project;
    Line m_line;
    std::vector<LineSolution>
        m_moments;                    ///< one a setting, so that each starts near its last answer
    std::map<double, There> m_solved; ///< by charge
    There* m_now = nullptr;
    OperatingSweep m_out;
};

void OperatingSweep::resize(std::size_t stages, std::size_t loadCount) {
    stageIn.resize(stages);
    stageOut.resize(stages);
    firstDropout.resize(stages);
    passesAt.resize(stages);
    maxOut.resize(stages);
    maxIn.resize(stages);
    maxLoad.resize(loadCount);
    maxInductor.resize(stages);
    maxLoss.resize(stages);
    atMaxLoss.resize(stages);
    maxWatts.resize(stages);
    loads.resize(loadCount);
    loadLow.resize(loadCount);
    loadBurst.resize(loadCount);
    loadHigh.resize(loadCount);
    firstUndervoltage.resize(loadCount);
}

void OperatingSweep::take(const Project& project, const Network& network, const Flows& f,
                          const At& at, Keep keep) {
    const auto take = [&](Occurrence& s, double value) {
        if (keep == Keep::first)
            keepFirst(s, value, at.charge, at.mode, at.inBurst);
        else
            keepLeast(s, value, at.charge, at.mode, at.inBurst);
    };
    keepMost(maxPack, f.sourceAmps, at.charge, at.mode, at.inBurst);
    for (const std::size_t i : network.order()) {
        const StageFlow& stage = f.stages[i];
        takeStage(i, stage, at.charge, at.mode, at.inBurst);
        if (stage.state == StageState::droppingOut)
            take(firstDropout[i], stage.vIn);
        if (stage.state == StageState::passing)
            keepMost(passesAt[i], stage.vOut, at.charge, at.mode, at.inBurst);
    }
    for (std::size_t i = 0; i < project.loads.size(); ++i) {
        if (!network.reachesLoad(i))
            continue;
        const double v = f.loads[i].v;
        loads[i].include(v);
        keepMost(maxLoad[i], f.loads[i].i, at.charge, at.mode, at.inBurst);
        keepMost(loadHigh[i], v, at.charge, at.mode, at.inBurst);
        keepLeast(at.inBurst ? loadBurst[i] : loadLow[i], v, at.charge, at.mode, at.inBurst);
        if (underWindow(f.loads[i], project.loads[i].window))
            take(firstUndervoltage[i], v);
    }
}

void OperatingSweep::include(const Project& project, const Runtime& run) {
    if (maxPack.valid && run.worstCurrent.value() > maxPack.value) {
        maxPack.value = run.worstCurrent.value();
        maxPack.charge = stopCharge;
        maxPack.mode = modeIndex(project, run.worstMode);
    }
}

void OperatingSweep::takeStage(std::size_t i, const StageFlow& flow, double charge,
                               std::size_t mode, bool burst) {
    stageIn[i].include(flow.vIn);
    stageOut[i].include(flow.vOut);
    keepMost(maxOut[i], flow.iOut, charge, mode, burst);
    keepMost(maxIn[i], flow.iIn, charge, mode, burst);
    keepMost(maxInductor[i], flow.inductor, charge, mode, burst);
    keepMost(maxWatts[i], flow.vOut * flow.iOut, charge, mode, burst);
    // A burst is too short to warm a part.
    if (!burst && (!maxLoss[i].valid || flow.loss() > maxLoss[i].value)) {
        maxLoss[i] = {flow.loss(), charge, mode, false, true};
        atMaxLoss[i] = flow;
    }
}

OperatingSweep sweepOperation(const Project& project, const Conditions& conditions) {
    return OperatingSweeper(project, conditions).go();
}

ChargeIntervals::ChargeIntervals(const Project& project, const OperatingSweep& known)
    : m_sweeper(std::make_unique<OperatingSweeper>(project, typicalConditions(project))),
      m_known(known) {}
ChargeIntervals::~ChargeIntervals() = default;

ChargeInterval ChargeIntervals::of(const FlowPredicate& holds) const {
    const std::lock_guard lock(m_asking);
    return m_sweeper->interval(m_known, holds);
}

} // namespace sipper
