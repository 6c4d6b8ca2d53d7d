// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/packmodel.hpp"

#include "parts/figures.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kAgeingSlope = 1.5; ///< rule of thumb: resistance grows by 1.5 x the capacity lost

} // namespace

PackModel::PackModel(const Pack& pack, Celsius ambient, PackScale scale) {
    const Cell& cell = pack.cell;
    const double t = ambient.value();
    const double health = pack.health.value_or(1.0);
    // A measured resistance stands for what age has done: it replaces R0 and the health factor.
    const double ageing = pack.resistanceFactor
                              ? *pack.resistanceFactor
                              : (pack.measuredResistance ? 1 : 1 + kAgeingSlope * (1 - health));
    const double warmth = factorAt(cell.resistanceByC, t) * scale.resistance;
    series = pack.series;
    parallel = pack.parallel;
    rated = cell.capacity.value();
    double group = rated * health * parallel;
    if (pack.weakestGroup)
        group = std::min(group, pack.weakestGroup->value());
    usable = group * factorAt(cell.capacityByC, t) * scale.capacity / parallel;
    resistance =
        warmth * ageing *
        (pack.measuredResistance ? pack.measuredResistance->value() : orZero(cell.resistance));
    relaxation = warmth * orZero(cell.relaxation) * ageing;
    // What a salvaged cell has lost, it has lost in both.
    if (pack.measuredResistance && pack.origin == Origin::salvaged && orZero(cell.resistance) > 0)
        relaxation *= pack.measuredResistance->value() / orZero(cell.resistance);
    tau = orZero(cell.relaxationTime);
    availableFraction = cell.availableFraction.value_or(1.0);
    wellRate = orZero(cell.wellRate);
    selfAmps = usable * cell.selfDischargeShare.value_or(0) / kHoursPerMonth;
    connection = orZero(pack.connection);
    maxDischarge = orZero(cell.maxDischarge);
    openCircuit = Curve(cell.openCircuit);
    resistanceByCharge = cell.resistanceByCharge;
}

Wells PackModel::level(double share) const {
    const double all = share * usable;
    return {all * availableFraction, all * (1 - availableFraction)};
}

Wells PackModel::drained(const Wells& w, double amps, double hours) const {
    const double before = w.total();
    const double after = before - amps * hours;
    if (availableFraction >= 1)
        return {after, 0};
    if (wellRate <= 0)
        return {w.available - amps * hours, w.bound};
    const double x = wellRate * hours;
    const double fade = std::exp(-x);
    const double gone = -std::expm1(-x); // 1 - e
    const double c = availableFraction;
    // (x - gone)/k' loses digits for small x; its series does not.
    const double lag = x < 1e-4 ? hours * x / 2 * (1 - x / 3) : (x - gone) / wellRate;
    const double atHand =
        w.available * fade + before * c * gone - amps * gone / wellRate - amps * c * lag;
    return {atHand, after - atHand};
}

} // namespace sipper
