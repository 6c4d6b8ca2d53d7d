// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/operating.hpp"

#include "base/tolerance.hpp"
#include "line/sources.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <limits>

namespace sipper {
namespace {

const ModeSolution* find(const LineSolution& moment, std::size_t mode) {
    const auto at = std::find_if(moment.modes.begin(), moment.modes.end(),
                                 [&](const ModeSolution& m) { return m.mode == mode; });
    return at == moment.modes.end() ? nullptr : &*at;
}

/// Watts that every stage and the pack lose at one moment.
double lostIn(const Flows& f, std::size_t pack, double openCircuit) {
    double watts = (openCircuit - f.sourceVolts) * f.sourceAmps;
    for (std::size_t i = 0; i < f.stages.size(); ++i)
        if (i != pack)
            watts += f.stages[i].loss();
    return watts;
}

/// Kelvin that a closed box adds to the air around its parts: its own figure times what is lost in
/// it on the mean of the stretch, bursts with it (docs/model.md: Stages).
double boxKelvin(const Project& p, const Line& line, const LineSolution& moment) {
    if (!p.brief.box)
        return 0;
    const auto lost = [&](const Flows& f) {
        return lostIn(f, line.packIndex(), moment.openCircuit);
    };
    double watts = 0;
    for (const ModeSolution& m : moment.modes) {
        if (m.share <= 0)
            continue;
        const double plain = lost(m.steady);
        double mean = plain;
        for (const ModeSolution::Single& burst : m.singles)
            mean += burst.share * (lost(burst.flows) - plain);
        watts += m.share * mean;
    }
    return p.brief.box->value() * watts;
}

/// The same from another source.
double boxKelvin(const Project& p, SourceLine& line, const ModeMix& setting) {
    if (!p.brief.box)
        return 0;
    double watts = 0;
    for (const Share& share : setting.shares) {
        const auto lost = [&](std::size_t burst) {
            const SourceLine::Answer a =
                line.solve(share.mode, burst, line.model().volts, share.seconds);
            return a.collapsed ? 0.0 : lostIn(a.flows, kNotFound, a.flows.sourceVolts);
        };
        const double plain = lost(Network::kNoBurst);
        double mean = plain;
        for (std::size_t i = 0; i < p.loads.size(); ++i)
            if (line.network().hasBurst(share.mode, i))
                mean += line.network().burstShare(share.mode, i) * (lost(i) - plain);
        watts += share.share * mean;
    }
    return p.brief.box->value() * watts;
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
        point.inside.push_back(!underWindow(point.flows.loads[i], w) && !exceeds(v, w.max.value()));
    }
}

} // namespace

double partTemperature(const Part& part, double lossWatts, double ambient) {
    return ambient + std::max(0.0, lossWatts) * thetaOf(part);
}

double opensUnder(const Part& part, double seconds) {
    if (const auto* guard = std::get_if<Guard>(&part))
        return seconds >= orZero(guard->delay) ? guard->cutoff.value() : 0;
    return isRegulator(part) ? inputMinOf(part) : 0;
}

bool opens(const Part& part, const StageFlow& flow, double seconds) {
    return fallsBelow(flow.vIn, opensUnder(part, seconds));
}

namespace {

/// The first stage on the way outwards that this mode opens; kNotFound where none does.
std::size_t opening(const Project& project, const Line& line, const ModeSolution& here) {
    const auto& order = line.network().order();
    const auto next = std::find_if(order.begin(), order.end(), [&](std::size_t i) {
        const StageFlow& f = here.steady.stages[i];
        return f.state != StageState::off && opens(project.stages[i].part, f, here.seconds);
    });
    return next == order.end() ? kNotFound : *next;
}

OperatingPoint pointOf(const Project& project, const Line& line, Celsius ambient,
                       const LineSolution& moment, const ModeSolution& here) {
    OperatingPoint point;
    point.flows = here.steady;
    judge(project, line.network(), Celsius{ambient.value() + boxKelvin(project, line, moment)},
          point);
    return point;
}

} // namespace

OperatingPoint operate(const Project& project, Line& line, Celsius ambient, double charge,
                       std::size_t mode) {
    const std::size_t setting = line.schedule().settingOf(project, mode);
    const Wells wells = line.pack().level(charge);
    std::vector<std::size_t> opened;
    LineSolution moment;
    const ModeSolution* here = nullptr;
    for (std::size_t round = 0; round <= project.stages.size(); ++round) {
        line.solve(setting, wells, moment);
        here = moment.collapsed ? nullptr : find(moment, mode);
        const std::size_t next = here ? opening(project, line, *here) : kNotFound;
        if (next == kNotFound)
            break;
        line.setOpen(next, true);
        opened.push_back(next);
    }
    for (const std::size_t i : opened)
        line.setOpen(i, false);
    if (here)
        return pointOf(project, line, ambient, moment, *here);
    OperatingPoint point;
    point.collapse = true;
    return point;
}

std::vector<OperatingPoint> operateEach(const Project& project, Line& line, Celsius ambient,
                                        double charge) {
    std::vector<OperatingPoint> points;
    std::vector<std::optional<LineSolution>> moments(line.schedule().settings.size());
    for (std::size_t mode = 0; mode < project.modes.size(); ++mode) {
        const std::size_t setting = line.schedule().settingOf(project, mode);
        auto& moment = moments[setting];
        if (!moment)
            line.solve(setting, line.pack().level(charge), moment.emplace());
        const ModeSolution* here = moment->collapsed ? nullptr : find(*moment, mode);
        points.push_back(here && opening(project, line, *here) == kNotFound
                             ? pointOf(project, line, ambient, *moment, *here)
                             : operate(project, line, ambient, charge, mode));
    }
    return points;
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
    for (const std::string& id : conditions.pluggedIn)
        if (const std::size_t at = stageIndex(project, id); at != kNotFound)
            present.push_back(at);
    point.pluggedIn = present;
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
        const double box =
            boxKelvin(project, line, schedule.settings[schedule.settingOf(project, mode)]);
        judge(project, line.network(), Celsius{conditions.ambient.value() + box}, own);
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
