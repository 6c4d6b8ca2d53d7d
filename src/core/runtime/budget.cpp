#include "runtime/budget.hpp"

namespace sipper {
namespace {

constexpr double kHoursPerDay = 24;

} // namespace

Budget budgetOf(const Project& project) {
    Budget budget;
    budget.modes.resize(project.modes.size());
    budget.loadWhPerDay.assign(project.loads.size(), 0);
    budget.loadShare.assign(project.loads.size(), 0);
    budget.loadModeWhPerDay.assign(project.loads.size(),
                                   std::vector<double>(project.modes.size(), 0));
    if (!project.pack())
        return budget;
    const Line line(project, typicalConditions(project));
    std::vector<double> hours(line.schedule().settings.size(), 0);
    for (const Span& span : line.schedule().day)
        hours[span.setting] += (span.to - span.from) / 60;
    Moment moment;
    for (std::size_t s = 0; s < hours.size(); ++s) {
        if (hours[s] <= 0)
            continue;
        line.solve(s, line.pack().level(kBudgetCharge), moment);
        if (moment.collapsed) {
            budget.collapsed.push_back(moment.collapsedMode);
            continue;
        }
        for (const ModeMoment& m : moment.modes) {
            ModeBudget& mode = budget.modes[m.mode];
            const double modeHours = hours[s] * m.share;
            mode.secondsPerDay += modeHours * 3600;
            if (m.share <= 0)
                continue;
            const auto add = [&](const Flows& f, double part) {
                mode.ahPerDay += f.packAmps * part * modeHours;
                mode.whPerDay += f.packAmps * f.packVolts * part * modeHours;
                for (std::size_t i = 0; i < project.loads.size(); ++i)
                    budget.loadModeWhPerDay[i][m.mode] +=
                        f.loads[i].v * f.loads[i].i * part * modeHours;
            };
            double plain = 1;
            for (const auto& single : m.singles) {
                plain -= single.share;
                add(single.flows, single.share);
            }
            add(m.plain, plain);
            if (m.hasBurst)
                mode.burstAmps = std::max(mode.burstAmps, m.burst.packAmps);
        }
    }
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
