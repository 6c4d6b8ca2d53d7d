// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/converter.hpp"

#include "parts/figures.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr int kSkipRounds = 40; ///< of the fixed loss that depends on the current it makes

} // namespace

ConverterModel::ConverterModel(const Charger& c)
    : topology(c.topology.value_or(Topology::linear)),
      quiescent(topology == Topology::linear ? std::max(orZero(c.ground), orZero(c.quiescent))
                                             : orZero(c.quiescent)),
      fixed(orZero(c.fixed)), switching(orZero(c.switching)), drop(orZero(c.drop)),
      resistance(orZero(c.resistance)), skipBelow(orZero(c.skipBelow)),
      duty(c.maxDuty.value_or(1.0)), theta(thetaOf(Part(c))) {
    if (c.dropoutKind == DropoutKind::fet && orZero(c.ratedCurrent) > 0)
        dropoutPerAmp = orZero(c.dropout) / c.ratedCurrent->value();
    else
        dropout = orZero(c.dropout);
}

double ConverterModel::fixedAt(double inductorAmps, double vIn) const {
    const double all = fixed + switching * vIn;
    return skipBelow > 0 && inductorAmps < skipBelow ? all * inductorAmps / skipBelow : all;
}

std::optional<double> ConverterModel::inputAmps(double vIn, double v, double amps) const {
    const bool down = topology == Topology::buck || (topology == Topology::buckBoost && vIn >= v);
    if (topology == Topology::linear)
        return amps + quiescent;
    if (topology == Topology::direct)
        return amps;
    if (amps <= 0)
        return quiescent;
    if (down)
        return (v * amps + fixedAt(amps, vIn) + drop * amps + resistance * amps * amps) / vIn +
               quiescent;
    // Stepping up: the smaller root of V I_L = P + fixed + drop I_L + R I_L^2.
    const double room = vIn - drop;
    double inductor = 0;
    double losses = fixed + switching * vIn;
    for (int round = 0; round < kSkipRounds; ++round) {
        const double power = v * amps + losses;
        const double square = room * room - 4 * resistance * power;
        if (room <= 0 || square < 0)
            return std::nullopt;
        const double next = 2 * power / (room + std::sqrt(square));
        const bool settled = std::abs(next - inductor) <= 1e-13 * next;
        inductor = next;
        losses = fixedAt(inductor, vIn);
        if (settled || skipBelow <= 0)
            break;
    }
    return inductor + quiescent;
}

double ConverterModel::outputAmps(double vIn, double most, double v) const {
    const double in = most - quiescent;
    if (topology == Topology::linear || topology == Topology::direct)
        return topology == Topology::linear ? in : most;
    if (in <= 0 || vIn <= 0)
        return 0;
    const bool down = topology == Topology::buck || (topology == Topology::buckBoost && vIn >= v);
    if (!down)
        return std::max(0.0, (vIn * in - fixedAt(in, vIn) - drop * in - resistance * in * in) / v);
    const double lost = fixed + switching * vIn;
    // Stepping down: R x^2 + (V + drop) x = V_in I - fixed. Where pulses are skipped the fixed
    // loss goes with x and joins the second term.
    const auto root = [&](double perAmp, double power) {
        return power > 0
                   ? 2 * power / (perAmp + std::sqrt(perAmp * perAmp + 4 * resistance * power))
                   : 0.0;
    };
    if (skipBelow > 0)
        if (const double x = root(v + drop + lost / skipBelow, vIn * in); x < skipBelow)
            return x;
    return root(v + drop, vIn * in - lost);
}

double ConverterModel::leastInput(double v, double amps) const {
    switch (topology) {
    case Topology::linear:
        return v + dropout + dropoutPerAmp * amps;
    case Topology::buck:
        return (v + drop + resistance * amps) / duty;
    case Topology::direct:
        return v + drop + resistance * amps;
    case Topology::boost:
    case Topology::buckBoost:
        break;
    }
    return 0;
}

std::optional<double> ConverterModel::ampsAtInputLimit(double most, double v) const {
    if (topology == Topology::linear)
        return std::max(0.0, most - quiescent);
    if (topology != Topology::buck)
        return std::nullopt;
    // Out of duty: I_in = duty i + fixed / V_in + own (docs/model.md: Stages).
    double amps = most / duty;
    for (int round = 0; round < kSkipRounds; ++round)
        amps = std::max(
            0.0,
            (most - quiescent - fixedAt(amps, leastInput(v, amps)) / leastInput(v, amps)) / duty);
    return amps;
}

} // namespace sipper
