// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/regulatorcurves.hpp"

#include "line/operating.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr int kPoints = 60;         ///< of a curve
constexpr double kLeastAmps = 1e-4; ///< where the current axis may start
constexpr double kBeyond = 1.15;    ///< of the most that it gives, to the right
constexpr double kMostReach = 50;   ///< A up to which its reach is looked for

/// Where every mode works, as far as the line has an answer.
std::vector<RegulatorCurves::Working> workingPoints(const Project& p, std::size_t index,
                                                    const CurvesAt& at) {
    std::vector<RegulatorCurves::Working> points;
    Conditions conditions = typicalConditions(p);
    conditions.pluggedIn = at.present;
    for (std::size_t m = 0; m < p.modes.size(); ++m) {
        const OperatingPoint point = operate(p, conditions, at.charge, m);
        if (point.collapse || point.flows.stages.size() <= index)
            continue;
        const StageFlow& f = point.flows.stages[index];
        if (f.iOut > 0 && f.vIn * f.iIn > 0)
            points.push_back({m, f.iOut, f.vOut * f.iOut / (f.vIn * f.iIn)});
    }
    return points;
}

XY efficiencyAt(const Stage& stage, double volts, double least, double most) {
    XY curve;
    for (int i = 0; i <= kPoints; ++i) {
        const double amps = least * std::pow(most / least, static_cast<double>(i) / kPoints);
        const PartPoint point = partAt(stage, volts, amps);
        if (!point.works || point.flow.vOut <= 0)
            continue;
        curve.x.push_back(amps);
        curve.y.push_back(point.efficiency());
    }
    return curve;
}

XY heatAt(const Stage& stage, double volts, double most, double air) {
    XY curve;
    for (int i = 0; i <= kPoints; ++i) {
        const double amps = most * i / kPoints;
        const PartPoint point = partAt(stage, volts, amps);
        if (!point.works)
            continue;
        curve.x.push_back(amps);
        curve.y.push_back(partTemperature(stage.part, point.flow.loss(), air));
    }
    return curve;
}

XY reachOf(const Stage& stage, double low, double high, const std::stop_token& stop) {
    XY curve;
    const double from = low * 0.85; // a little beyond what occurs, so that the edge is seen
    const double to = high * 1.1 + 0.05;
    for (int i = 0; i <= kPoints / 2 && !stop.stop_requested(); ++i) {
        curve.x.push_back(from + (to - from) * i / (kPoints / 2));
        curve.y.push_back(mostOutput(stage, curve.x.back(), kMostReach));
    }
    return curve;
}

} // namespace

VoltageRange inputsOf(const std::optional<OperatingSweep>& survey,
                      std::span<const ExternalLoad> externalLoads, std::size_t stage) {
    VoltageRange b;
    const auto take = [&](const OperatingSweep& s) {
        if (!s.stageIn[stage].valid)
            return;
        b.include(s.stageIn[stage].low);
        b.include(s.stageIn[stage].high);
    };
    if (survey)
        take(*survey);
    for (const ExternalLoad& t : externalLoads)
        take(t.seen);
    return b;
}

std::optional<RegulatorCurves> regulatorCurves(const Project& p, const std::string& id,
                                               const CurvesAt& at, const std::stop_token& stop) {
    const Stage* stage = p.stage(id);
    if (!stage || !isRegulator(stage->part))
        return std::nullopt;
    const std::size_t index = stageIndex(p, id);
    RegulatorCurves c;
    const VoltageRange in = inputsOf(at.sweep, at.externalLoads, index);
    c.lowVolts = in.valid ? std::max(0.1, in.low) : orZero(setPointOf(stage->part));
    c.highVolts = in.valid ? std::max(c.lowVolts, in.high) : c.lowVolts;
    c.inputs = {c.lowVolts};
    if (c.highVolts > c.lowVolts * 1.02)
        c.inputs = {c.lowVolts, (c.lowVolts + c.highVolts) / 2, c.highVolts};
    const auto take = [&](const OperatingSweep& s) {
        if (s.maxOut[index].valid)
            c.worst = std::max(c.worst.value_or(0), s.maxOut[index].value);
    };
    if (at.sweep)
        take(*at.sweep);
    for (const ExternalLoad& t : at.externalLoads)
        take(t.seen);
    const double worst = c.worst.value_or(0);
    c.mostAmps = std::max(
        kLeastAmps * 100,
        kBeyond * std::max(worst, mostOutput(*stage, c.highVolts, std::max(1.0, worst * 20))));
    c.working = workingPoints(p, index, at);
    c.leastAmps = c.mostAmps / 1000;
    for (const auto& point : c.working)
        c.leastAmps = std::min(c.leastAmps, point.amps / 2);
    c.leastAmps = std::max(kLeastAmps / 100, c.leastAmps);
    const double air = p.brief.air().warmest().value();
    for (const double volts : c.inputs) {
        if (stop.stop_requested())
            return std::nullopt;
        c.efficiency.push_back(efficiencyAt(*stage, volts, c.leastAmps, c.mostAmps));
        if (volts != c.inputs.front() && volts != c.inputs.back())
            continue;
        c.heat.push_back(heatAt(*stage, volts, c.mostAmps, air));
        c.coolUpTo.push_back(coolUpTo(*stage, volts, Celsius{air}, c.mostAmps));
    }
    c.reach = reachOf(*stage, c.lowVolts, c.highVolts, stop);
    return stop.stop_requested() ? std::nullopt : std::optional(std::move(c));
}

} // namespace sipper
