// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/uncertainty.hpp"

#include "base/statistics.hpp"

#include <algorithm>
#include <cmath>
#include <random>

namespace sipper {
namespace {

constexpr double kCapacityTolerance = 0.05;   ///< of the label, new cells
constexpr double kResistanceTolerance = 0.25; ///< data sheet against cell in hand
constexpr double kKnownCapacity = 0.02;       ///< of cells that were measured
constexpr double kKnownResistance = 0.05;
constexpr std::uint32_t kSeed = 20117;
constexpr std::size_t kBandSteps = 160; ///< a few pixels each

/// One thing that varies: how a place between its ends (0–1) changes the conditions.
struct UncertainInput {
    std::string about;
    std::function<void(Conditions&, double)> set;
};

/// Inverse of the triangular distribution.
double triangular(double u, double low, double peak, double high) {
    if (high <= low)
        return peak;
    const double split = (peak - low) / (high - low);
    return u < split ? low + std::sqrt(u * (high - low) * (peak - low))
                     : high - std::sqrt((1 - u) * (high - low) * (high - peak));
}

std::vector<UncertainInput> axesOf(const Project& p) {
    std::vector<UncertainInput> axes;
    const auto about = [](double u, double tolerance) { return 1 + (2 * u - 1) * tolerance; };
    // What was measured is known better: cells by their stage's basis, losses by each part's.
    const bool known = p.packStage()->basis == Basis::measured;
    const double capacity = known ? kKnownCapacity : kCapacityTolerance;
    const double resistance =
        known || p.pack()->measuredResistance ? kKnownResistance : kResistanceTolerance;
    axes.push_back({"capacity of the cells", [about, capacity](Conditions& c, double u) {
                        c.pack.capacity = about(u, capacity);
                    }});
    axes.push_back({"resistance of the cells", [about, resistance](Conditions& c, double u) {
                        c.pack.resistance = about(1 - u, resistance);
                    }});
    std::vector<double> losses;
    losses.reserve(p.stages.size());
    for (const Stage& stage : p.stages)
        losses.push_back(toleranceOfBasis(stage.basis.value_or(Basis::dataSheet)));
    axes.push_back({"losses in the regulators", [about, losses](Conditions& c, double u) {
                        c.line.losses.clear();
                        for (const double limit : losses)
                            c.line.losses.push_back(about(1 - u, limit));
                    }});
    for (std::size_t i = 0; i < p.loads.size(); ++i) {
        double spread = 0;
        for (const Draw& d : p.loads[i].draws)
            if (d.current.value_or(Amps{1}).value() > 0)
                spread = std::max(spread, d.relativeTolerance());
        if (spread > 0)
            axes.push_back({"draw of " + nameOf(p.loads[i]),
                            [about, spread, i, count = p.loads.size()](Conditions& c, double u) {
                                if (c.line.draws.empty())
                                    c.line.draws.assign(count, 1.0);
                                c.line.draws[i] = std::max(0.05, about(1 - u, spread));
                            }});
    }
    const Ambient air = p.brief.air();
    axes.push_back({"ambient temperature", [air](Conditions& c, double u) {
                        c.ambient = Celsius{triangular(u, air.coldest().value(),
                                                       air.usual().value(), air.warmest().value())};
                    }});
    return axes;
}

/// Volts of a curve at a time, by straight lines; past its end the last.
double voltsAt(const std::vector<CurvePoint>& curve, double hours) {
    const auto after = std::lower_bound(curve.begin(), curve.end(), hours,
                                        [](const CurvePoint& c, double h) { return c.hours < h; });
    if (after == curve.end())
        return curve.back().packVolts;
    if (after == curve.begin() || after->hours <= hours)
        return after->packVolts;
    const CurvePoint& a = *(after - 1);
    return a.packVolts +
           (after->packVolts - a.packVolts) * (hours - a.hours) / (after->hours - a.hours);
}

std::vector<VoltageQuantiles> bandOf(const std::vector<std::vector<CurvePoint>>& curves,
                                     double until) {
    std::vector<VoltageQuantiles> band;
    std::vector<double> volts;
    for (std::size_t k = 0; k <= kBandSteps; ++k) {
        const double hours = until * static_cast<double>(k) / kBandSteps;
        volts.clear();
        for (const auto& curve : curves)
            if (!curve.empty())
                volts.push_back(voltsAt(curve, hours));
        if (volts.empty())
            return {};
        std::sort(volts.begin(), volts.end());
        band.push_back({hours, quantile(volts, 0.1), quantile(volts, 0.9)});
    }
    return band;
}

} // namespace

std::optional<RuntimeUncertainty> predictRange(const Project& project, const Runtime& typical,
                                               const std::stop_token& stop, int builds,
                                               const ParallelFor& parallelFor) {
    if (!typical.hours || !project.pack())
        return std::nullopt;
    const double middle = typical.hours->value();
    StepControl coarse = coarseSteps();
    coarse.energies = false;
    coarse.budget.stop = stop;
    const Conditions usual = typicalConditions(project);
    const std::vector<UncertainInput> axes = axesOf(project);
    const auto count = static_cast<std::size_t>(std::max(1, builds));

    // The hypercube: on every axis each build has a stratum of its own.
    std::mt19937 random(kSeed);
    std::vector<Conditions> tries(count, usual);
    for (const UncertainInput& axis : axes) {
        const std::vector<double> values = latinHypercube(random, count);
        for (std::size_t i = 0; i < count; ++i)
            axis.set(tries[i], values[i]);
    }
    for (const UncertainInput& axis : axes)
        for (const double end : {0.0, 1.0}) {
            Conditions c = usual;
            axis.set(c, end);
            tries.push_back(c);
        }

    std::vector<double> hours(tries.size());
    std::vector<std::vector<CurvePoint>> curves(count);
    parallelFor(tries.size(), [&](std::size_t i) {
        if (stop.stop_requested())
            return;
        Runtime r = predictRuntime(project, tries[i], coarse);
        hours[i] = r.hours ? r.hours->value() : middle;
        if (i < count)
            curves[i] = std::move(r.curve);
    });
    if (stop.stop_requested())
        return std::nullopt;

    RuntimeUncertainty result;
    for (std::size_t i = 0; i < axes.size(); ++i) {
        const double a = hours[count + 2 * i];
        const double b = hours[count + 2 * i + 1];
        result.sensitivities.push_back(
            {axes[i].about, std::min({a, b, middle}), std::max({a, b, middle})});
    }
    std::stable_sort(
        result.sensitivities.begin(), result.sensitivities.end(),
        [](const Sensitivity& a, const Sensitivity& b) { return a.high - a.low > b.high - b.low; });
    hours.resize(count);
    std::sort(hours.begin(), hours.end());
    result.range = {quantile(hours, 0.1), quantile(hours, 0.5), quantile(hours, 0.9)};
    result.band = bandOf(curves, result.range.p90);
    result.hours = std::move(hours);
    return result;
}

std::optional<Bimodality> humpsOf(const RuntimeUncertainty& r) {
    constexpr double kWide = 0.2;    ///< of the median: a gap that is one
    constexpr double kEach = 0.1;    ///< of the builds, on each side
    constexpr double kSpreads = 0.7; ///< of the gap that a side's middle half may spread
    const std::size_t n = r.hours.size();
    if (n < 20)
        return std::nullopt;
    const auto least = static_cast<std::size_t>(kEach * static_cast<double>(n));
    std::size_t cut = 0;
    double widest = 0;
    for (std::size_t i = least; i + least <= n; ++i)
        if (i > 0 && r.hours[i] - r.hours[i - 1] > widest) {
            widest = r.hours[i] - r.hours[i - 1];
            cut = i;
        }
    const auto at = [&](std::size_t from, std::size_t to, double share) {
        return r.hours[from + static_cast<std::size_t>(share * static_cast<double>(to - from - 1))];
    };
    if (cut == 0 || widest < kWide * r.range.p50 ||
        at(0, cut, 0.75) - at(0, cut, 0.25) > kSpreads * widest ||
        at(cut, n, 0.75) - at(cut, n, 0.25) > kSpreads * widest)
        return std::nullopt;
    return Bimodality{at(0, cut, 0.5), at(cut, n, 0.5),
                      static_cast<double>(n - cut) / static_cast<double>(n)};
}

} // namespace sipper
