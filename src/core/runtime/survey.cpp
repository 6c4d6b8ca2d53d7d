#include "runtime/survey.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kSlack = 1e-9;

void keepMost(Sighting& s, double value, double charge, std::size_t mode, bool burst) {
    if (!s.seen || value > s.value)
        s = {value, charge, mode, burst, true};
}
void keepLeast(Sighting& s, double value, double charge, std::size_t mode, bool burst) {
    if (!s.seen || value < s.value)
        s = {value, charge, mode, burst, true};
}
/// The first time it is seen on the way down.
void keepFirst(Sighting& s, double value, double charge, std::size_t mode, bool burst) {
    if (!s.seen)
        s = {value, charge, mode, burst, true};
}

/// What stops everything, whatever the loads make of it: a guard, an input minimum, a collapse.
std::optional<Ending> stopOf(const Project& p, const Line& line, const Moment& moment) {
    if (moment.collapsed)
        return Ending{p.stages[line.packIndex()].id, p.modes[moment.collapsedMode].id,
                      EndReason::collapse, moment.inBurst};
    for (const ModeMoment& m : moment.modes) {
        if (m.share <= 0)
            continue;
        for (const std::size_t i : line.network().order()) {
            if (opens(p.stages[i].part, m.plain.stages[i], m.seconds))
                return Ending{p.stages[i].id, p.modes[m.mode].id, EndReason::cutoff, false};
            if (m.hasBurst && opens(p.stages[i].part, m.burst.stages[i], m.burstSeconds))
                return Ending{p.stages[i].id, p.modes[m.mode].id, EndReason::cutoff, true};
        }
    }
    return std::nullopt;
}

class Surveyor {
  public:
    Surveyor(const Project& project, const Conditions& conditions)
        : m_project(project), m_line(project, conditions) {
        const std::size_t stages = project.stages.size();
        const std::size_t loads = project.loads.size();
        m_out.stageIn.resize(stages);
        m_out.stageOut.resize(stages);
        m_out.dropsAt.resize(stages);
        m_out.passesAt.resize(stages);
        m_out.mostOut.resize(stages);
        m_out.mostInductor.resize(stages);
        m_out.loads.resize(loads);
        m_out.loadLow.resize(loads);
        m_out.loadBurst.resize(loads);
        m_out.loadHigh.resize(loads);
        m_out.leavesAt.resize(loads);
    }

    Survey go() {
        double good = 1;
        for (int i = 0; i <= kSurveyPoints; ++i) {
            const double charge = 1 - static_cast<double>(i) / kSurveyPoints;
            if (const auto stop = stopAt(charge)) {
                m_out.stop = stop;
                m_out.neverRuns = i == 0;
                narrow(good, charge);
                break;
            }
            lookAt(charge);
            good = charge;
            m_out.stopCharge = charge;
        }
        if (m_out.neverRuns)
            lookAt(1);
        for (Sighting& s : m_out.leavesAt)
            refine(s, m_out.leavesAt);
        for (Sighting& s : m_out.dropsAt)
            refine(s, m_out.dropsAt);
        return std::move(m_out);
    }

  private:
    std::optional<Ending> stopAt(double charge) {
        for (std::size_t s = 0; s < m_line.schedule().settings.size(); ++s) {
            m_line.solve(s, m_line.pack().level(charge), m_moment);
            if (auto stop = stopOf(m_project, m_line, m_moment))
                return stop;
        }
        return std::nullopt;
    }
    void narrow(double good, double bad) {
        if (m_out.neverRuns) {
            m_out.stopCharge = 1;
            return;
        }
        for (int round = 0; round < 24; ++round) {
            const double middle = (good + bad) / 2;
            if (auto stop = stopAt(middle)) {
                bad = middle;
                m_out.stop = stop;
            } else {
                good = middle;
            }
        }
        m_out.stopCharge = good;
        lookAt(good);
    }
    /// Where between two looks a first sighting really is: halved on the charge.
    void refine(Sighting& first, std::vector<Sighting>& list) {
        if (!first.seen || first.charge >= 1)
            return;
        const auto index = static_cast<std::size_t>(&first - list.data());
        double clear = std::min(1.0, first.charge + 1.0 / kSurveyPoints);
        const Survey kept = m_out;
        Sighting found = first;
        for (int round = 0; round < 14; ++round) {
            const double middle = (clear + found.charge) / 2;
            first.seen = false;
            lookAt(middle);
            if (list[index].seen)
                found = list[index];
            else
                clear = middle;
        }
        m_out = kept;
        list[index] = found;
    }
    void lookAt(double charge) {
        for (std::size_t s = 0; s < m_line.schedule().settings.size(); ++s) {
            m_line.solve(s, m_line.pack().level(charge), m_moment);
            if (m_moment.collapsed)
                continue;
            for (const ModeMoment& m : m_moment.modes) {
                if (m.share <= 0)
                    continue;
                look(m.plain, charge, m.mode, false);
                if (m.hasBurst)
                    look(m.burst, charge, m.mode, true);
            }
        }
    }
    void look(const Flows& f, double charge, std::size_t mode, bool burst) {
        keepMost(m_out.mostPack, f.packAmps, charge, mode, burst);
        m_out.stageIn[m_line.packIndex()].include(f.packVolts);
        m_out.stageOut[m_line.packIndex()].include(f.packVolts);
        for (const std::size_t i : m_line.network().order()) {
            const StageFlow& stage = f.stages[i];
            m_out.stageIn[i].include(stage.vIn);
            m_out.stageOut[i].include(stage.vOut);
            keepMost(m_out.mostOut[i], stage.iOut, charge, mode, burst);
            keepMost(m_out.mostInductor[i], stage.inductor, charge, mode, burst);
            if (stage.state == StageState::droppingOut)
                keepFirst(m_out.dropsAt[i], stage.vIn, charge, mode, burst);
            if (stage.state == StageState::passing)
                keepMost(m_out.passesAt[i], stage.vOut, charge, mode, burst);
        }
        for (std::size_t i = 0; i < m_project.loads.size(); ++i) {
            if (!m_line.network().reachesLoad(i))
                continue;
            const double v = f.loads[i].v;
            m_out.loads[i].include(v);
            keepMost(m_out.loadHigh[i], v, charge, mode, burst);
            keepLeast(burst ? m_out.loadBurst[i] : m_out.loadLow[i], v, charge, mode, burst);
            if (v < m_project.loads[i].window.min.value() * (1 - kSlack))
                keepFirst(m_out.leavesAt[i], v, charge, mode, burst);
        }
    }

    const Project& m_project;
    Line m_line;
    Moment m_moment;
    Survey m_out;
};

} // namespace

Survey survey(const Project& project, const Conditions& conditions) {
    return Surveyor(project, conditions).go();
}

} // namespace sipper
