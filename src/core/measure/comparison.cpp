// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/comparison.hpp"

#include "base/statistics.hpp"
#include "line/operating.hpp"
#include "measure/uncertainty.hpp"
#include "parts/chemistry.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "runtime/runtime.hpp"

#include <algorithm>
#include <cmath>
#include <random>

namespace sipper {
namespace {

constexpr double kStart = 0.01; ///< of charge
constexpr std::size_t kTimes = 160;
constexpr std::size_t kMostPoints = 800;
constexpr std::uint32_t kBuildSeed = 40961;
constexpr std::size_t kStageLooks = 60;

/// One build: the project bent within its limits, and the charge that it begins with.
struct SampledBuild {
    Project project;
    double start = 1;
};

/// Builds in a hypercube: on every axis each has a stratum of its own.
std::vector<SampledBuild> buildsOf(const Project& p, const CalibrateOptions& ask, bool losses) {
    const PackLimits limits = packLimits(*p.pack());
    const auto count = static_cast<std::size_t>(kComparedBuilds);
    std::vector<SampledBuild> builds(count, {p, ask.from});
    std::mt19937 random(kBuildSeed);
    const auto axis = [&](const std::function<void(SampledBuild&, double)>& bend) {
        const std::vector<double> values = latinHypercube(random, count);
        for (std::size_t i = 0; i < count; ++i)
            bend(builds[i], 2 * values[i] - 1);
    };
    const std::string id = p.packStage()->id;
    const auto packOf = [&id](SampledBuild& b) -> Pack& {
        return std::get<Pack>(b.project.stage(id)->part);
    };
    // The resistance is written out first: health moves the capacity alone.
    for (SampledBuild& b : builds)
        b.project = withCalibration(b.project, {{.id = "resistance"}});
    axis([&](SampledBuild& b, double end) {
        Pack& pack = packOf(b);
        pack.health = pack.health.value_or(1) * (1 + end * limits.health);
    });
    axis([&](SampledBuild& b, double end) {
        Pack& pack = packOf(b);
        pack.resistanceFactor = pack.resistanceFactor.value_or(1) * (1 + end * limits.resistance);
    });
    axis([&](SampledBuild& b, double end) { b.start = std::min(1.0, ask.from + end * kStart); });
    if (losses)
        for (std::size_t i = 0; i < p.stages.size(); ++i)
            if (isRegulator(p.stages[i].part))
                axis([&](SampledBuild& b, double end) {
                    Stage& s = b.project.stages[i];
                    scaleLosses(s.part,
                                1 + end * toleranceOfBasis(s.basis.value_or(Basis::dataSheet)));
                });
    return builds;
}

double quantileOf(std::vector<double>& list, double share) {
    std::sort(list.begin(), list.end());
    return quantile(list, share);
}

/// Volts of a curve at a time by straight lines; nothing past its end.
std::optional<double> voltsIn(const std::vector<RunPoint>& curve, double hours) {
    if (curve.empty() || hours > curve.back().hours)
        return std::nullopt;
    const auto after = std::lower_bound(curve.begin(), curve.end(), hours,
                                        [](const RunPoint& c, double h) { return c.hours < h; });
    if (after == curve.begin())
        return after->volts;
    const RunPoint& a = *(after - 1);
    const double wide = after->hours - a.hours;
    return wide > 0 ? a.volts + (after->volts - a.volts) * (hours - a.hours) / wide : after->volts;
}

/// At most so many points, the last among them.
std::vector<RunPoint> thinned(const std::vector<RunPoint>& curve) {
    const std::size_t step = curve.size() / kMostPoints + 1;
    if (step == 1)
        return curve;
    std::vector<RunPoint> out;
    for (std::size_t i = 0; i < curve.size(); i += step)
        out.push_back(curve[i]);
    if (out.back().hours != curve.back().hours)
        out.push_back(curve.back());
    return out;
}

/// One run of a project: hours, and the volts on the way.
struct Replay {
    double hours = 0;
    std::vector<RunPoint> curve;
};
/// How a log runs on a project; `curve` false: the hours will do.
using Runner = std::function<Replay(const Project&, double start, bool curve)>;

void fillBand(RunComparison& out, const std::vector<Replay>& builds, double floor) {
    std::vector<double> ends;
    ends.reserve(builds.size());
    for (const Replay& r : builds)
        ends.push_back(r.hours);
    out.lowHours = quantileOf(ends, 0.1);
    out.highHours = quantileOf(ends, 0.9);
    std::vector<double> volts;
    for (std::size_t k = 0; k <= kTimes; ++k) {
        const double at = out.highHours * static_cast<double>(k) / kTimes;
        volts.clear();
        for (const Replay& r : builds)
            volts.push_back(voltsIn(r.curve, at).value_or(floor));
        out.band.push_back({at, quantileOf(volts, 0.1), quantileOf(volts, 0.9)});
    }
}

RunComparison compareOne(const Project& project, const LogReplay& run, const CalibrateOptions& ask,
                         const Calibration* learned, bool losses, const Runner& runner,
                         const std::stop_token& stop) {
    RunComparison out;
    const DischargeRun& sums = run.sums();
    out.file = sums.file;
    out.measured = thinned(run.measured());
    out.measuredHours = sums.hours;
    const Pack& pack = *project.pack();
    out.reckonedHours =
        sums.meanAmps > 0 ? pack.cell.capacity.value() * pack.parallel / sums.meanAmps : 0;
    Replay predicted = runner(project, ask.from, true);
    out.predictedHours = predicted.hours;
    out.predicted = thinned(predicted.curve);
    const double floor = predicted.curve.empty() ? 0 : predicted.curve.back().volts;
    const std::vector<SampledBuild> bent = buildsOf(project, ask, losses);
    std::vector<Replay> builds(bent.size());
    for (std::size_t i = 0; i < bent.size(); ++i) {
        if (stop.stop_requested())
            return out;
        builds[i] = runner(bent[i].project, bent[i].start, !losses);
        if (!losses)
            continue;
        // Behind a stage the volts are the prediction's, stretched.
        for (const RunPoint& p : predicted.curve)
            builds[i].curve.push_back({p.hours * builds[i].hours / predicted.hours, p.volts});
    }
    fillBand(out, builds, floor);
    for (const RunPoint& p : out.measured)
        if (const auto v = voltsIn(predicted.curve, p.hours))
            out.residual.push_back({p.hours, p.volts - *v});
    if (!learned || learned->parameters.empty())
        return out;
    double before = predicted.hours;
    for (std::size_t k = 1; k <= learned->parameters.size(); ++k) {
        const std::vector<CalibratedParameter> some(learned->parameters.begin(),
                                                    learned->parameters.begin() +
                                                        static_cast<std::ptrdiff_t>(k));
        const bool all = k == learned->parameters.size();
        Replay r = runner(withCalibration(project, some), ask.from, all);
        out.attribution.emplace_back(some.back().id, r.hours - before);
        before = r.hours;
        if (all) {
            out.calibratedHours = r.hours;
            out.calibrated = thinned(r.curve);
        }
    }
    return out;
}

/// Volts behind a stage along a run.
std::vector<RunPoint> stageCurve(const Project& p, std::size_t at, const Conditions& conditions,
                                 const Runtime& run) {
    std::vector<RunPoint> curve;
    const std::size_t step = run.curve.size() / kStageLooks + 1;
    for (std::size_t i = 0; i < run.curve.size(); i += step) {
        const OperatingPoint point = operate(p, conditions, run.curve[i].height, 0);
        if (!point.collapse)
            curve.push_back({run.curve[i].hours, point.flows.stages[at].vOut});
    }
    if (!curve.empty() && run.hours)
        curve.push_back({run.hours->value(), curve.back().volts});
    return curve;
}

} // namespace

Outcome<std::vector<RunComparison>>
compareRuns(const Project& project, const std::vector<DischargeLog>& logs,
            const CalibrateOptions& ask, const Calibration* learned, const std::stop_token& stop) {
    if (!project.pack())
        return Error{"no_pack", "/stages", "no pack", "one to compare with", ""};
    const bool behind = !ask.at.empty() && ask.at != project.packStage()->id;
    const std::size_t at = behind ? stageIndex(project, ask.at) : packIndex(project);
    if (at == kNotFound)
        return Error{"dangling_id", "--at", ask.at, "the id of a stage behind the pack", ""};
    Conditions conditions;
    conditions.ambient = ask.ambient;
    std::vector<RunComparison> list;
    for (const DischargeLog& log : logs) {
        const DischargeRun sums = sumUp(log, ask.tester);
        if (!(sums.ah > 0) || !(sums.hours > 0))
            return Error{"no_runs", log.file, "no row with the load on", "a discharge", log.file};
        const LogReplay run(log, sums, ask.tester);
        const double target = ask.tester.cutVolts.value_or(sums.endVolts);
        Runner runner = [&](const Project& p, double start, bool curve) {
            Replay r;
            r.hours = run.hours(PackModel(*p.pack(), ask.ambient), start, target,
                                curve ? &r.curve : nullptr);
            return r;
        };
        if (behind)
            runner = [&](const Project& p, double start, bool curve) {
                CalibrateOptions from = ask;
                from.from = start;
                const Project q = testerAt(p, ask.at, sums.meanWatts, from);
                StepControl stepping;
                stepping.record = curve;
                const Runtime r = predictRuntime(q, conditions, stepping);
                Replay out;
                out.hours = r.hours ? std::max(r.hours->value(), 1e-6) : 1e-6;
                if (curve)
                    out.curve = stageCurve(q, at, conditions, r);
                return out;
            };
        list.push_back(compareOne(project, run, ask, learned, behind, runner, stop));
        if (stop.stop_requested())
            return Error{"stopped", "", "", "", ""};
    }
    return list;
}

std::vector<DeliveredShare> givesOf(const Project& project, const CalibrateOptions& ask,
                                    double labelWh, double fromWatts, double toWatts,
                                    std::size_t count) {
    std::vector<DeliveredShare> list;
    if (!project.pack() || labelWh <= 0 || fromWatts <= 0 || count < 2)
        return list;
    const std::string at = ask.at.empty() ? project.packStage()->id : ask.at;
    Conditions conditions;
    conditions.ambient = ask.ambient;
    StepControl quick;
    quick.record = false;
    for (std::size_t i = 0; i < count; ++i) {
        const double watts =
            fromWatts * std::pow(toWatts / fromWatts, static_cast<double>(i) / double(count - 1));
        const Runtime r = predictRuntime(testerAt(project, at, watts, ask), conditions, quick);
        if (r.hours)
            list.push_back({watts, watts * r.hours->value() / labelWh});
    }
    return list;
}

double labelWhOf(const Pack& pack) {
    return pack.series * pack.parallel * pack.cell.capacity.value() * nominalOf(pack.cell);
}

Evidence restsOn(const Project& project) {
    Evidence sum;
    const auto count = [&sum](bool measured) {
        ++sum.all;
        sum.measured += measured ? 1 : 0;
    };
    for (const Stage& stage : project.stages)
        if (std::holds_alternative<Pack>(stage.part) || isRegulator(stage.part))
            count(stage.basis == Basis::measured);
    for (const Load& load : project.loads)
        for (const Draw& draw : load.draws)
            if (drawsSomething(draw))
                count(draw.basis == Basis::measured);
    return sum;
}

} // namespace sipper
