#include "line/operating.hpp"

#include "parts/fields.hpp"

#include <algorithm>

namespace sipper {
namespace {

constexpr double kSlack = 1e-9;     ///< relative: exactly on the edge is inside
constexpr double kFanFactor = 0.45; ///< rule of thumb: what is left of theta with air blown over it

const ModeMoment* find(const Moment& moment, std::size_t mode) {
    const auto at = std::find_if(moment.modes.begin(), moment.modes.end(),
                                 [&](const ModeMoment& m) { return m.mode == mode; });
    return at == moment.modes.end() ? nullptr : &*at;
}

} // namespace

bool opens(const Part& part, const StageFlow& flow, double seconds) {
    if (const auto* guard = std::get_if<Guard>(&part))
        return flow.vIn < guard->cutoff.value() * (1 - kSlack) &&
               seconds >= guard->delay.value_or(Seconds{0}).value();
    const std::optional<Volts>* least = nullptr;
    if (const auto* linear = std::get_if<Linear>(&part))
        least = &linear->inputMin;
    else if (const auto* switcher = std::get_if<Switcher>(&part))
        least = &switcher->inputMin;
    return least && *least && flow.vIn < (*least)->value() * (1 - kSlack);
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
    for (std::size_t i = 0; i < project.stages.size(); ++i) {
        StageFlow& f = point.flows.stages[i];
        if (f.state != StageState::off && line.network().overLimit(i, f, false))
            f.state = StageState::limiting;
        const Part& part = project.stages[i].part;
        const FieldValue fan = valueOf(part, "fan");
        const bool blown = std::get_if<bool>(&fan) && std::get<bool>(fan);
        point.partC.push_back(ambient.value() + std::max(0.0, f.loss()) *
                                                    figureOf(part, "thermal_c_per_w") *
                                                    (blown ? kFanFactor : 1.0));
    }
    for (std::size_t i = 0; i < project.loads.size(); ++i) {
        const double v = point.flows.loads[i].v;
        const Window& w = project.loads[i].window;
        point.inside.push_back(v >= w.min.value() * (1 - kSlack) &&
                               v <= w.max.value() * (1 + kSlack));
    }
    return point;
}

OperatingPoint operate(const Project& project, const Conditions& conditions, double charge,
                       std::size_t mode) {
    Line line(project, conditions);
    return operate(project, line, conditions.ambient, charge, mode);
}

} // namespace sipper
