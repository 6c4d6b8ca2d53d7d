#include "line/operating.hpp"

#include "line/sources.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "quantity/slack.hpp"

#include <algorithm>
#include <limits>

namespace sipper {
namespace {

const ModeMoment* find(const Moment& moment, std::size_t mode) {
    const auto at = std::find_if(moment.modes.begin(), moment.modes.end(),
                                 [&](const ModeMoment& m) { return m.mode == mode; });
    return at == moment.modes.end() ? nullptr : &*at;
}

/// Limits, temperatures and windows of what has been solved.
void judge(const Project& project, const Network& network, Celsius ambient, OperatingPoint& point) {
    for (std::size_t i = 0; i < project.stages.size(); ++i) {
        StageFlow& f = point.flows.stages[i];
        if (f.state != StageState::off && network.overLimit(i, f, false))
            f.state = StageState::limiting;
        point.partC.push_back(partTemperature(project.stages[i].part, f.loss(), ambient.value()));
    }
    for (std::size_t i = 0; i < project.loads.size(); ++i) {
        const double v = point.flows.loads[i].v;
        const Window& w = project.loads[i].window;
        point.inside.push_back(!under(v, w.min.value()) && !over(v, w.max.value()));
    }
}

} // namespace

double partTemperature(const Part& part, double lossWatts, double ambient) {
    return ambient + std::max(0.0, lossWatts) * thetaOf(part);
}

bool opens(const Part& part, const StageFlow& flow, double seconds) {
    if (const auto* guard = std::get_if<Guard>(&part))
        return under(flow.vIn, guard->cutoff.value()) && seconds >= plain(guard->delay);
    return isRegulator(part) && under(flow.vIn, inputMinOf(part));
}

OperatingPoint operate(const Project& project, Line& line, Celsius ambient, double charge,
                       std::size_t mode) {
    OperatingPoint point;
    const std::size_t setting = line.schedule().settingOf(project, mode);
    const Wells wells = line.pack().level(charge);
    std::vector<std::size_t> opened;
    Moment moment;
    const ModeMoment* here = nullptr;
    for (std::size_t round = 0; round <= project.stages.size(); ++round) {
        line.solve(setting, wells, moment);
        here = moment.collapsed ? nullptr : find(moment, mode);
        if (!here)
            break;
        const auto& order = line.network().order();
        const auto next = std::find_if(order.begin(), order.end(), [&](std::size_t i) {
            const StageFlow& f = here->plain.stages[i];
            return f.state != StageState::off && opens(project.stages[i].part, f, here->seconds);
        });
        if (next == order.end())
            break;
        line.setOpen(*next, true);
        opened.push_back(*next);
    }
    for (const std::size_t i : opened)
        line.setOpen(i, false);
    if (!here) {
        point.collapse = true;
        return point;
    }
    point.flows = here->plain;
    judge(project, line.network(), ambient, point);
    return point;
}

OperatingPoint operate(const Project& project, const Conditions& conditions, double charge,
                       std::size_t mode) {
    OperatingPoint point;
    std::vector<std::size_t> present;
    if (project.pack()) {
        Line line(project, conditions);
        point = operate(project, line, conditions.ambient, charge, mode);
        present.push_back(packIndex(project));
    } else {
        point.flows.stages.resize(project.stages.size());
        point.flows.loads.resize(project.loads.size());
        point.partC.assign(project.stages.size(), conditions.ambient.value());
        point.inside.assign(project.loads.size(), false);
    }
    const std::size_t others = present.size();
    for (const std::string& id : conditions.present)
        if (const std::size_t at = stageIndex(project, id); at != kNowhere)
            present.push_back(at);
    point.present = present;
    if (others == present.size() || point.collapse)
        return point;
    const Schedule schedule(project);
    double seconds = std::numeric_limits<double>::infinity();
    for (const Share& share : schedule.settings[schedule.settingOf(project, mode)].shares)
        if (share.mode == mode)
            seconds = share.seconds;
    for (std::size_t k = others; k < present.size(); ++k) {
        SourceLine line(project, present[k], present, conditions.ambient);
        SourceLine::Answer answer =
            line.solve(mode, Network::kNoBurst, line.model().volts, seconds);
        OperatingPoint own;
        own.flows = std::move(answer.flows);
        judge(project, line.network(), conditions.ambient, own);
        for (std::size_t i = 0; i < project.stages.size(); ++i)
            if (i == present[k] || line.network().reachesStage(i)) {
                point.flows.stages[i] = own.flows.stages[i];
                point.partC[i] = own.partC[i];
            }
        for (std::size_t i = 0; i < project.loads.size(); ++i)
            if (line.network().reachesLoad(i)) {
                point.flows.loads[i] = own.flows.loads[i];
                point.inside[i] = own.inside[i];
            }
    }
    return point;
}

} // namespace sipper
