// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/budget.hpp"

#include "line/sources.hpp"

#include <algorithm>

namespace sipper {
namespace {

constexpr double kHoursPerDay = 24;

/// Adds one way of being in a mode for some hours.
void add(Budget& budget, std::size_t mode, const Flows& f, double hours) {
    ModeBudget& m = budget.modes[mode];
    m.ahPerDay += f.sourceAmps * hours;
    m.whPerDay += f.sourceAmps * f.sourceVolts * hours;
    for (std::size_t i = 0; i < f.loads.size(); ++i)
        budget.loadModeWhPerDay[i][mode] += f.loads[i].v * f.loads[i].i * hours;
}

/// Without cells: what the first of the other sources gives at its typical voltage.
void fromSource(const Project& project, Budget& budget) {
    const auto sources = externalSources(project);
    if (sources.empty())
        return;
    SourceLine line(project, sources.front(), {sources.front()}, project.brief.air().usual());
    const double volts = line.model().volts;
    const Schedule schedule(project);
    const std::vector<double> hours = schedule.hoursBySetting();
    for (std::size_t s = 0; s < hours.size(); ++s)
        for (const Share& share : schedule.settings[s].shares) {
            const double modeHours = hours[s] * share.share;
            budget.modes[share.mode].secondsPerDay += modeHours * 3600;
            if (modeHours <= 0)
                continue;
            const auto plain = line.solve(share.mode, Network::kNoBurst, volts, share.seconds);
            if (plain.collapsed) {
                budget.collapsed.push_back(share.mode);
                continue;
            }
            double rest = 1;
            bool bursts = false;
            for (std::size_t l = 0; l < project.loads.size(); ++l) {
                if (!line.network().hasBurst(share.mode, l))
                    continue;
                bursts = true;
                const double part = line.network().burstShare(share.mode, l);
                if (part <= 0)
                    continue;
                rest -= part;
                add(budget, share.mode, line.solve(share.mode, l, volts, share.seconds).flows,
                    part * modeHours);
            }
            add(budget, share.mode, plain.flows, rest * modeHours);
            if (bursts)
                budget.modes[share.mode].burstAmps =
                    line.solve(share.mode, Network::kAllBursts, volts, share.seconds)
                        .flows.sourceAmps;
        }
}

void fromCells(const Project& project, Budget& budget) {
    const Line line(project, typicalConditions(project));
    const std::vector<double> hours = line.schedule().hoursBySetting();
    LineSolution moment;
    for (std::size_t s = 0; s < hours.size(); ++s) {
        if (hours[s] <= 0)
            continue;
        line.solve(s, line.pack().level(kBudgetCharge), moment);
        if (moment.collapsed) {
            budget.collapsed.push_back(moment.collapsedMode);
            continue;
        }
        for (const ModeSolution& m : moment.modes) {
            const double modeHours = hours[s] * m.share;
            budget.modes[m.mode].secondsPerDay += modeHours * 3600;
            if (m.share <= 0)
                continue;
            double plain = 1;
            for (const auto& single : m.singles) {
                plain -= single.share;
                add(budget, m.mode, single.flows, single.share * modeHours);
            }
            add(budget, m.mode, m.steady, plain * modeHours);
            if (m.hasBurst)
                budget.modes[m.mode].burstAmps =
                    std::max(budget.modes[m.mode].burstAmps, m.burst.sourceAmps);
        }
    }
}

} // namespace

Budget budgetOf(const Project& project) {
    Budget budget;
    budget.modes.resize(project.modes.size());
    budget.loadWhPerDay.assign(project.loads.size(), 0);
    budget.loadShare.assign(project.loads.size(), 0);
    budget.loadModeWhPerDay.assign(project.loads.size(),
                                   std::vector<double>(project.modes.size(), 0));
    project.pack() ? fromCells(project, budget) : fromSource(project, budget);
    for (ModeBudget& m : budget.modes) {
        budget.ahPerDay += m.ahPerDay;
        budget.whPerDay += m.whPerDay;
        if (m.secondsPerDay > 0) {
            m.packAmps = m.ahPerDay / m.secondsPerDay * 3600;
            m.packWatts = m.whPerDay / m.secondsPerDay * 3600;
        }
    }
    budget.meanAmps = budget.ahPerDay / kHoursPerDay;
    budget.meanWatts = budget.whPerDay / kHoursPerDay;
    double delivered = 0;
    for (std::size_t i = 0; i < project.loads.size(); ++i) {
        for (const double wh : budget.loadModeWhPerDay[i])
            budget.loadWhPerDay[i] += wh;
        delivered += budget.loadWhPerDay[i];
    }
    for (ModeBudget& m : budget.modes)
        m.shareOfCharge = budget.ahPerDay > 0 ? m.ahPerDay / budget.ahPerDay : 0;
    for (std::size_t i = 0; i < project.loads.size(); ++i)
        budget.loadShare[i] = delivered > 0 ? budget.loadWhPerDay[i] / delivered : 0;
    return budget;
}

} // namespace sipper
