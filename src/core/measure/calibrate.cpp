// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/calibrate.hpp"

#include "line/packmodel.hpp"
#include "measure/fit.hpp"
#include "measure/logreplay.hpp"
#include "measure/uncertainty.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "runtime/runtime.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kHealthLimit = 0.10;
constexpr double kHealthNew = 0.05;
constexpr double kHealthSalvaged = 0.30;
constexpr double kOhmLimit = 0.25;
constexpr double kOhmSalvaged = 0.50;
constexpr double kOhmMeasured = 0.05;
constexpr double kMeterOfVolts = 0.005;
constexpr double kMeterOfHours = 0.02;
constexpr double kStartLimit = 0.01;
constexpr double kLeastCharge = 0.002;
constexpr double kRunSigma = 0.01;
constexpr double kAgeing = 1.5;

/// The factor on the cells' resistance that is in force.
double factorInForce(const Pack& pack) {
    if (pack.resistanceFactor)
        return *pack.resistanceFactor;
    return pack.measuredResistance ? 1 : 1 + kAgeing * (1 - pack.health.value_or(1));
}

/// A parameter with what it does to a project.
struct TunableParameter {
    FitParameter fit;
    std::function<void(Project&, double factor)> apply; ///< empty for a nuisance
};

/// The project with its resistance factor written out, so that health moves the capacity alone.
Project written(const Project& p) {
    Project out = p;
    auto& pack = std::get<Pack>(out.stage(out.packStage()->id)->part);
    pack.resistanceFactor = factorInForce(pack);
    if (!pack.health)
        pack.health = 1;
    return out;
}

std::vector<TunableParameter> packParameters(const Project& p) {
    const Pack& pack = *p.pack();
    const std::string id = p.packStage()->id;
    const bool salvaged = pack.origin == Origin::salvaged;
    const auto of = [id](Project& q) -> Pack& { return std::get<Pack>(q.stage(id)->part); };
    TunableParameter health;
    const PackLimits limits = packLimits(pack);
    health.fit = {"health", limits.health, salvaged ? Basis::guess : Basis::dataSheet,
                  false,    false,         pack.health.value_or(1)};
    health.apply = [of](Project& q, double f) { of(q).health = of(q).health.value_or(1) * f; };
    TunableParameter ohms;
    ohms.fit = {"resistance",
                limits.resistance,
                pack.measuredResistance ? Basis::measured
                : salvaged              ? Basis::guess
                                        : Basis::dataSheet,
                false,
                false,
                factorInForce(pack)};
    ohms.apply = [of](Project& q, double f) {
        of(q).resistanceFactor = of(q).resistanceFactor.value_or(1) * f;
    };
    return {health, ohms};
}

template <class Quantity>
void times(std::optional<Quantity>& figure, double f) {
    if (figure)
        *figure = *figure * f;
}

enum class LossKind { quiescent, fixed, proportional };

void turnLoss(Part& part, LossKind kind, double f) {
    std::visit(
        [&]<class P>(P& q) {
            if constexpr (std::is_same_v<P, Linear>) {
                if (kind == LossKind::quiescent)
                    times(q.ground, f);
            } else if constexpr (std::is_same_v<P, Switcher>) {
                if (kind == LossKind::quiescent)
                    times(q.quiescent, f);
                if (kind == LossKind::fixed) {
                    times(q.fixed, f);
                    times(q.switching, f);
                }
                if (kind == LossKind::proportional) {
                    times(q.drop, f);
                    times(q.resistance, f);
                }
            }
        },
        part);
}

/// Is there anything of this kind to scale?
bool hasLoss(const Part& part, LossKind kind) {
    if (const auto* linear = std::get_if<Linear>(&part))
        return kind == LossKind::quiescent && orZero(linear->ground) > 0;
    const auto* s = std::get_if<Switcher>(&part);
    if (!s)
        return false;
    switch (kind) {
    case LossKind::quiescent:
        return orZero(s->quiescent) > 0;
    case LossKind::fixed:
        return orZero(s->fixed) > 0 || orZero(s->switching) > 0;
    case LossKind::proportional:
        return orZero(s->drop) > 0 || orZero(s->resistance) > 0;
    }
    return false;
}

std::vector<TunableParameter> lossParameters(const Project& p) {
    std::vector<TunableParameter> list;
    for (const std::size_t i : downstreamStages(p, p.packStage()->id)) {
        const Stage& stage = p.stages[i];
        const Basis basis = stage.basis.value_or(Basis::dataSheet);
        for (const auto& [name, kind] :
             {std::pair{"quiescent", LossKind::quiescent}, std::pair{"fixed", LossKind::fixed},
              std::pair{"proportional", LossKind::proportional}}) {
            if (!hasLoss(stage.part, kind))
                continue;
            TunableParameter lever;
            lever.fit = {fmt::format("{}/{}", name, stage.id),
                         toleranceOfBasis(basis),
                         basis,
                         false,
                         false,
                         1};
            lever.apply = [i, kind = kind](Project& q, double f) {
                turnLoss(q.stages[i].part, kind, f);
            };
            list.push_back(std::move(lever));
        }
    }
    return list;
}

std::vector<TunableParameter> drawParameters(const Project& p) {
    std::vector<TunableParameter> list;
    for (std::size_t l = 0; l < p.loads.size(); ++l)
        for (std::size_t d = 0; d < p.loads[l].draws.size(); ++d) {
            const Draw& draw = p.loads[l].draws[d];
            if (!drawsSomething(draw))
                continue;
            TunableParameter lever;
            lever.fit = {fmt::format("draw/{}/{}", p.loads[l].id, draw.mode),
                         draw.relativeTolerance(),
                         draw.basis.value_or(Basis::guess),
                         false,
                         false,
                         1};
            lever.apply = [l, d](Project& q, double f) { scaleDraw(q.loads[l].draws[d], f); };
            list.push_back(std::move(lever));
        }
    return list;
}

TunableParameter nuisance(const std::string& id, double limit, Basis basis, bool additive,
                          double before) {
    TunableParameter lever;
    lever.fit = {id, limit, basis, true, additive, before};
    return lever;
}

std::vector<FitParameter> fitParametersOf(const std::vector<TunableParameter>& levers) {
    std::vector<FitParameter> knobs;
    knobs.reserve(levers.size());
    for (const TunableParameter& lever : levers)
        knobs.push_back(lever.fit);
    return knobs;
}

/// The project with every lever turned.
Project turned(const Project& p, const std::vector<TunableParameter>& levers,
               const std::vector<double>& u) {
    Project out = p;
    for (std::size_t i = 0; i < levers.size(); ++i)
        if (levers[i].apply && u[i] != 0)
            levers[i].apply(out, std::exp(u[i]));
    return out;
}

/// Fills everything that follows from the fit, and the project with what moved.
void takeFit(Calibration& out, const Project& original, const std::vector<TunableParameter>& levers,
             const FitResult& fit) {
    out.chi2 = fit.chi2;
    out.observations = fit.observations;
    std::size_t moved = 0;
    for (std::size_t i = 0; i < levers.size(); ++i)
        moved += fit.in[i] && !levers[i].fit.nuisance ? 1 : 0;
    const auto freedom = static_cast<double>(fit.observations) - static_cast<double>(moved);
    out.reduced = fit.chi2 / std::max(1.0, freedom);
    const double wide = std::sqrt(std::max(1.0, out.reduced));
    for (std::size_t i = 0; i < levers.size(); ++i) {
        if (!fit.in[i])
            continue;
        const FitParameter& knob = levers[i].fit;
        CalibratedParameter t;
        t.id = knob.id;
        t.before = knob.before;
        t.after = knob.additive ? knob.before + fit.u[i] : knob.before * std::exp(fit.u[i]);
        t.sigma = fit.sigma[i] * wide * (knob.additive ? 1 : t.after);
        t.keeps = fit.sigmaRatio[i];
        t.basis = knob.basis;
        (knob.nuisance ? out.nuisance : out.parameters).push_back(std::move(t));
    }
    for (const auto& [i, why] : fit.out)
        out.notFitted.emplace_back(levers[i].fit.id, why);
    out.project = withCalibration(original, out.parameters);
}

Error noPack() {
    return {"no_pack", "/stages", "no pack", "one to learn about", ""};
}

/// Hours of the project at the brief's usual temperature.
std::optional<double> hoursOf(const Project& p) {
    StepControl quick;
    quick.record = false;
    const Runtime r = predictRuntime(p, typicalConditions(p), quick);
    return r.hours ? std::optional(r.hours->value()) : std::nullopt;
}

void meansOf(Calibration& out) {
    if (out.runs.empty())
        return;
    const auto count = static_cast<double>(out.runs.size());
    double predicted = 0;
    double measured = 0;
    double calibrated = 0;
    for (const CalibratedRun& run : out.runs) {
        predicted += run.predicted / count;
        measured += run.measured / count;
        calibrated += run.calibrated / count;
    }
    out.predicted = predicted;
    out.measured = measured;
    out.calibrated = calibrated;
}

Outcome<Calibration> atPack(const Project& original, const std::vector<DischargeLog>& logs,
                            const std::vector<DischargeRun>& sums, const CalibrateOptions& ask) {
    const Project base = written(original);
    std::vector<LogReplay> runs;
    for (std::size_t i = 0; i < logs.size(); ++i)
        runs.emplace_back(logs[i], sums[i], ask.tester);
    std::vector<TunableParameter> levers = packParameters(original);
    const std::size_t meter = levers.size();
    levers.push_back(nuisance("meter", kMeterOfVolts, Basis::dataSheet, false, 1));
    std::vector<std::size_t> starts;
    std::vector<std::optional<std::size_t>> gaps;
    for (std::size_t i = 0; i < runs.size(); ++i) {
        starts.push_back(levers.size());
        levers.push_back(
            nuisance(fmt::format("start/{}", i + 1), kStartLimit, Basis::guess, true, ask.from));
        gaps.emplace_back();
        if (runs[i].bridged()) {
            gaps.back() = levers.size();
            levers.push_back(nuisance(fmt::format("gap/{}", i + 1),
                                      std::max(0.01, runs[i].currentVariation()), Basis::guess,
                                      true, 1));
        }
    }
    const auto modelOf = [&](const Project& p) { return PackModel(*p.pack(), ask.ambient); };
    const Residuals residuals = [&](const std::vector<double>& u) {
        const PackModel model = modelOf(turned(base, levers, u));
        std::vector<double> out;
        for (std::size_t i = 0; i < runs.size(); ++i)
            runs[i].residuals(model, ask.from + u[starts[i]], std::exp(u[meter]),
                              gaps[i] ? 1 + u[*gaps[i]] : 1, out);
        return out;
    };
    const FitResult fit = fitParameters(fitParametersOf(levers), residuals);
    Calibration out;
    takeFit(out, original, levers, fit);
    const PackModel before = modelOf(base);
    const PackModel after = modelOf(turned(base, levers, fit.u));
    for (const LogReplay& run : runs) {
        const double target = ask.tester.cutVolts.value_or(run.sums().endVolts);
        out.runs.push_back({run.sums().file, run.hours(before, ask.from, target), run.sums().hours,
                            run.hours(after, ask.from, target)});
    }
    meansOf(out);
    return out;
}

Outcome<Calibration> atStage(const Project& original, const std::vector<DischargeRun>& sums,
                             const CalibrateOptions& ask) {
    const Project base = written(original);
    std::vector<TunableParameter> levers = packParameters(original);
    for (TunableParameter& lever : lossParameters(original))
        levers.push_back(std::move(lever));
    const std::size_t meter = levers.size();
    levers.push_back(nuisance("meter", kMeterOfHours, Basis::dataSheet, false, 1));
    Conditions conditions;
    conditions.ambient = ask.ambient;
    StepControl quick;
    quick.record = false;
    const auto hours = [&](const Project& p, const DischargeRun& run) {
        const Project q = testerAt(p, ask.at, run.meanWatts, ask);
        const Runtime r = predictRuntime(q, conditions, quick);
        return r.hours ? std::max(r.hours->value(), 1e-6) : 1e-6;
    };
    const Residuals residuals = [&](const std::vector<double>& u) {
        const Project p = turned(base, levers, u);
        std::vector<double> out;
        out.reserve(sums.size());
        for (const DischargeRun& run : sums)
            out.push_back((std::log(run.hours) + u[meter] - std::log(hours(p, run))) / kRunSigma);
        return out;
    };
    const FitResult fit = fitParameters(fitParametersOf(levers), residuals);
    Calibration out;
    takeFit(out, original, levers, fit);
    const Project after = turned(base, levers, fit.u);
    for (const DischargeRun& run : sums)
        out.runs.push_back({run.file, hours(base, run), run.hours, hours(after, run)});
    meansOf(out);
    return out;
}

} // namespace

PackLimits packLimits(const Pack& pack) {
    const bool salvaged = pack.origin == Origin::salvaged;
    return {salvaged                       ? kHealthSalvaged
            : pack.origin == Origin::fresh ? kHealthNew
                                           : kHealthLimit,
            pack.measuredResistance ? kOhmMeasured
            : salvaged              ? kOhmSalvaged
                                    : kOhmLimit};
}

Project withCalibration(const Project& project, const std::vector<CalibratedParameter>& learned) {
    Project out = project;
    for (const CalibratedParameter& t : learned) {
        const auto slash = t.id.find('/');
        const std::string what = t.id.substr(0, slash);
        const double factor = t.after / t.before;
        if (what == "health" || what == "resistance") {
            Stage& stage = *out.stage(out.packStage()->id);
            auto& pack = std::get<Pack>(stage.part);
            // Health alone would move the resistance with it: the factor is written either way.
            if (!pack.resistanceFactor)
                pack.resistanceFactor = factorInForce(pack);
            if (!pack.health)
                pack.health = 1;
            if (what == "health")
                pack.health = *pack.health * factor;
            else
                pack.resistanceFactor = *pack.resistanceFactor * factor;
            stage.basis = Basis::measured;
        } else if (what == "draw") {
            const std::string rest = t.id.substr(slash + 1);
            const auto second = rest.rfind('/');
            for (Draw& draw : out.loads[loadIndex(out, rest.substr(0, second))].draws)
                if (draw.mode == rest.substr(second + 1)) {
                    scaleDraw(draw, factor);
                    draw.basis = Basis::measured;
                    draw.tolerance.reset();
                }
        } else {
            Stage& stage = out.stages[stageIndex(out, t.id.substr(slash + 1))];
            turnLoss(stage.part,
                     what == "quiescent" ? LossKind::quiescent
                     : what == "fixed"   ? LossKind::fixed
                                         : LossKind::proportional,
                     factor);
            stage.basis = Basis::measured;
        }
    }
    return out;
}

Project testerAt(const Project& project, const std::string& at, double watts,
                 const CalibrateOptions& ask) {
    Draw draw;
    draw.power = Watts{watts};
    Project out = withTester(project, at, draw);
    out.loads[0].critical = true;
    out.loads[0].window.min = Volts{ask.tester.cutVolts.value_or(0)};
    std::get<Pack>(out.stage(out.packStage()->id)->part).charge = ask.from;
    return out;
}

Outcome<Calibration> calibrateByReadings(const Project& original, const BenchOptions& ask) {
    if (!original.pack())
        return noPack();
    Project base = written(original);
    const BenchAnalysis look = analyseBench(original, ask);
    std::vector<BenchCheck> seen;
    std::vector<double> sigmas;
    for (const BenchCheck& c : look.checks) {
        if (!c.value)
            continue;
        if (c.kind == CheckKind::setPoint && isRegulator(base.stage(c.at)->part))
            static_cast<void>(setPointTo(base.stage(c.at)->part, Volts{*c.value}));
        const bool tells = c.kind == CheckKind::idle || c.kind == CheckKind::draw ||
                           c.kind == CheckKind::sag ||
                           (c.kind == CheckKind::point && c.quantity != PointQuantity::partC);
        if (!tells || !c.expect)
            continue;
        std::optional<double> accuracy;
        for (const Reading& r : original.readings.all())
            if (r.id == c.reading)
                accuracy = r.accuracy;
        seen.push_back(c);
        sigmas.push_back(
            standardUncertainty(meterLimit(*c.value, unitRead(c.kind, c.quantity), accuracy)));
    }
    if (seen.empty())
        return Error{"no_readings", "/readings", "none of idle, draw, sag or point",
                     "at least one that counts", ""};
    std::vector<TunableParameter> levers = packParameters(original);
    for (auto* more : {lossParameters, drawParameters})
        for (TunableParameter& lever : more(original))
            levers.push_back(std::move(lever));
    const std::size_t charge = levers.size();
    levers.push_back(nuisance("charge",
                              std::max(kLeastCharge, (look.chargeHigh - look.chargeLow) / 2),
                              Basis::guess, true, look.charge));
    const Residuals residuals = [&](const std::vector<double>& u) {
        const Project p = turned(base, levers, u);
        const double at = std::clamp(look.charge + u[charge], 0.0, 1.0);
        const auto model = readAt(p, at, ask.ambient, seen);
        std::vector<double> out;
        for (std::size_t i = 0; i < seen.size(); ++i)
            out.push_back((*seen[i].value - model[i].value_or(0)) / sigmas[i]);
        return out;
    };
    const FitResult fit = fitParameters(fitParametersOf(levers), residuals);
    Calibration out;
    takeFit(out, original, levers, fit);
    // A set-point that was read is known.
    for (const BenchCheck& c : look.checks)
        if (c.value && c.kind == CheckKind::setPoint && isRegulator(original.stage(c.at)->part))
            static_cast<void>(setPointTo(out.project.stage(c.at)->part, Volts{*c.value}));
    out.predicted = hoursOf(original);
    out.calibrated = hoursOf(turned(base, levers, fit.u));
    return out;
}

Outcome<Calibration> calibrateByDischarge(const Project& project,
                                          const std::vector<DischargeLog>& logs,
                                          const CalibrateOptions& ask) {
    if (!project.pack())
        return noPack();
    std::vector<DischargeRun> sums;
    for (const DischargeLog& log : logs) {
        sums.push_back(sumUp(log, ask.tester));
        if (!(sums.back().ah > 0) || !(sums.back().hours > 0))
            return Error{"no_runs", log.file, "no row with the load on", "a discharge", log.file};
    }
    if (ask.at.empty() || ask.at == project.packStage()->id)
        return atPack(project, logs, sums, ask);
    const auto reached = downstreamStages(project, project.packStage()->id);
    const std::size_t at = stageIndex(project, ask.at);
    if (std::find(reached.begin(), reached.end(), at) == reached.end())
        return Error{"dangling_id", "--at", ask.at, "the id of a stage behind the pack", ""};
    return atStage(project, sums, ask);
}

} // namespace sipper
