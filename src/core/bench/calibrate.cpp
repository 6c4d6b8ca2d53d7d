#include "bench/calibrate.hpp"

#include "bench/doubt.hpp"
#include "bench/fit.hpp"
#include "line/packmodel.hpp"
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
constexpr double kVoltLimit = 0.005; ///< V of the meter
constexpr double kCellSigma = 0.010; ///< V of a cell's model
constexpr double kOnPart = 0.02;     ///< of the largest amps
constexpr double kBinSpan = 0.2;     ///< of them, from which a bin holds two states
constexpr std::size_t kBins = 40;
constexpr double kLongestStep = 60; ///< s, where hours are predicted
constexpr double kMostPieces = 10000;
constexpr std::size_t kMostSteps = 3000000;
constexpr double kLastPart = 0.1; ///< of a log, which goes on past its end
constexpr double kMostHours = 20; ///< times the log
constexpr double kHourSecs = 3600;
constexpr double kAgeing = 1.5;

/// Root of three: a limit as a standard deviation.
double sigmaOfLimit(double limit) {
    return limit / std::sqrt(3.0);
}

/// The factor on the cells' resistance that is in force.
double factorInForce(const Pack& pack) {
    if (pack.resistanceFactor)
        return *pack.resistanceFactor;
    return pack.measuredResistance ? 1 : 1 + kAgeing * (1 - pack.health.value_or(1));
}

/// A knob with what it does to a project.
struct Lever {
    Knob knob;
    std::function<void(Project&, double factor)> turn; ///< empty for a nuisance
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

std::vector<Lever> packLevers(const Project& p) {
    const Pack& pack = *p.pack();
    const std::string id = p.packStage()->id;
    const bool salvaged = pack.origin == Origin::salvaged;
    const auto of = [id](Project& q) -> Pack& { return std::get<Pack>(q.stage(id)->part); };
    Lever health;
    health.knob = {"health",
                   salvaged                       ? kHealthSalvaged
                   : pack.origin == Origin::fresh ? kHealthNew
                                                  : kHealthLimit,
                   salvaged ? Basis::guess : Basis::dataSheet,
                   false,
                   false,
                   pack.health.value_or(1)};
    health.turn = [of](Project& q, double f) { of(q).health = of(q).health.value_or(1) * f; };
    Lever ohms;
    ohms.knob = {"resistance",
                 pack.measuredResistance ? kOhmMeasured
                 : salvaged              ? kOhmSalvaged
                                         : kOhmLimit,
                 pack.measuredResistance ? Basis::measured
                 : salvaged              ? Basis::guess
                                         : Basis::dataSheet,
                 false,
                 false,
                 factorInForce(pack)};
    ohms.turn = [of](Project& q, double f) {
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
        return kind == LossKind::quiescent && plain(linear->ground) > 0;
    const auto* s = std::get_if<Switcher>(&part);
    if (!s)
        return false;
    switch (kind) {
    case LossKind::quiescent:
        return plain(s->quiescent) > 0;
    case LossKind::fixed:
        return plain(s->fixed) > 0 || plain(s->switching) > 0;
    case LossKind::proportional:
        return plain(s->drop) > 0 || plain(s->resistance) > 0;
    }
    return false;
}

std::vector<Lever> lossLevers(const Project& p) {
    std::vector<Lever> list;
    for (const std::size_t i : outwards(p, p.packStage()->id)) {
        const Stage& stage = p.stages[i];
        const Basis basis = stage.basis.value_or(Basis::dataSheet);
        for (const auto& [name, kind] :
             {std::pair{"quiescent", LossKind::quiescent}, std::pair{"fixed", LossKind::fixed},
              std::pair{"proportional", LossKind::proportional}}) {
            if (!hasLoss(stage.part, kind))
                continue;
            Lever lever;
            lever.knob = {
                fmt::format("{}/{}", name, stage.id), limitOf(basis), basis, false, false, 1};
            lever.turn = [i, kind = kind](Project& q, double f) {
                turnLoss(q.stages[i].part, kind, f);
            };
            list.push_back(std::move(lever));
        }
    }
    return list;
}

std::vector<Lever> drawLevers(const Project& p) {
    std::vector<Lever> list;
    for (std::size_t l = 0; l < p.loads.size(); ++l)
        for (std::size_t d = 0; d < p.loads[l].draws.size(); ++d) {
            const Draw& draw = p.loads[l].draws[d];
            if (!drawsSomething(draw))
                continue;
            Lever lever;
            lever.knob = {fmt::format("draw/{}/{}", p.loads[l].id, draw.mode),
                          draw.spread(),
                          draw.basis.value_or(Basis::guess),
                          false,
                          false,
                          1};
            lever.turn = [l, d](Project& q, double f) { scaleDraw(q.loads[l].draws[d], f); };
            list.push_back(std::move(lever));
        }
    return list;
}

Lever nuisance(const std::string& id, double limit, Basis basis, bool additive, double before) {
    Lever lever;
    lever.knob = {id, limit, basis, true, additive, before};
    return lever;
}

std::vector<Knob> knobsOf(const std::vector<Lever>& levers) {
    std::vector<Knob> knobs;
    knobs.reserve(levers.size());
    for (const Lever& lever : levers)
        knobs.push_back(lever.knob);
    return knobs;
}

/// The project with every lever turned.
Project turned(const Project& p, const std::vector<Lever>& levers, const std::vector<double>& u) {
    Project out = p;
    for (std::size_t i = 0; i < levers.size(); ++i)
        if (levers[i].turn && u[i] != 0)
            levers[i].turn(out, std::exp(u[i]));
    return out;
}

/// Fills everything that follows from the fit, and the project with what moved.
void takeFit(Calibration& out, const Project& base, const Project& original,
             const std::vector<Lever>& levers, const KnobFit& fit) {
    out.chi2 = fit.chi2;
    out.observations = fit.observations;
    std::size_t moved = 0;
    for (std::size_t i = 0; i < levers.size(); ++i)
        moved += fit.in[i] && !levers[i].knob.nuisance ? 1 : 0;
    const auto freedom = static_cast<double>(fit.observations) - static_cast<double>(moved);
    out.reduced = fit.chi2 / std::max(1.0, freedom);
    const double wide = std::sqrt(std::max(1.0, out.reduced));
    for (std::size_t i = 0; i < levers.size(); ++i) {
        if (!fit.in[i])
            continue;
        const Knob& knob = levers[i].knob;
        Tuned t;
        t.id = knob.id;
        t.before = knob.before;
        t.after = knob.additive ? knob.before + fit.u[i] : knob.before * std::exp(fit.u[i]);
        t.sigma = fit.sigma[i] * wide * (knob.additive ? 1 : t.after);
        t.keeps = fit.keeps[i];
        t.basis = knob.basis;
        (knob.nuisance ? out.nuisance : out.parameters).push_back(std::move(t));
    }
    for (const auto& [i, why] : fit.out)
        out.leftAlone.emplace_back(levers[i].knob.id, why);
    // Only what moved is written: the rest of the project stays as it was.
    out.project = original;
    const Project after = turned(base, levers, fit.u);
    for (const Tuned& t : out.parameters) {
        const auto slash = t.id.find('/');
        const std::string what = t.id.substr(0, slash);
        if (what == "health" || what == "resistance") {
            Stage& stage = *out.project.stage(out.project.packStage()->id);
            auto& pack = std::get<Pack>(stage.part);
            const auto& now = std::get<Pack>(after.stage(stage.id)->part);
            // Health alone would move the resistance with it: the factor is written either way.
            pack.resistanceFactor = now.resistanceFactor;
            pack.health = now.health;
        } else if (what == "draw") {
            const std::string rest = t.id.substr(slash + 1);
            const auto second = rest.rfind('/');
            const std::size_t l = loadIndex(out.project, rest.substr(0, second));
            for (std::size_t d = 0; d < out.project.loads[l].draws.size(); ++d)
                if (out.project.loads[l].draws[d].mode == rest.substr(second + 1)) {
                    out.project.loads[l].draws[d] = after.loads[l].draws[d];
                    out.project.loads[l].draws[d].basis = Basis::measured;
                    out.project.loads[l].draws[d].tolerance.reset();
                }
        } else {
            const std::size_t i = stageIndex(out.project, t.id.substr(slash + 1));
            out.project.stages[i].part = after.stages[i].part;
            out.project.stages[i].basis = Basis::measured;
        }
    }
}

Error noPack() {
    return {"no_pack", "/stages", "no pack", "one to learn about", ""};
}

/// Hours of the project at the brief's usual temperature.
std::optional<double> hoursOf(const Project& p) {
    Stepping quick;
    quick.record = false;
    const Runtime r = predictRuntime(p, typicalConditions(p), quick);
    return r.hours ? std::optional(r.hours->value()) : std::nullopt;
}

/// One log against the pack's model, row by row.
class PackRun {
  public:
    PackRun(const DischargeLog& log, const DischargeRun& sums, const DischargeAsk& tester)
        : m_log(log), m_sums(sums) {
        double most = 0;
        for (const double a : log.amps)
            most = std::max(most, a);
        m_most = most;
        const double usual = usualStep(log.seconds);
        for (std::size_t i = 0; i < log.amps.size(); ++i) {
            const bool within = i >= sums.firstOn && i <= sums.lastOn;
            m_amps.push_back(log.amps[i] +
                             (within && log.volts[i] > 0 ? tester.ownWatts / log.volts[i] : 0));
            m_on.push_back(log.amps[i] > kOnPart * most);
            m_gap.push_back(i > 0 && log.seconds[i] - log.seconds[i - 1] > 5 * usual);
        }
        part();
    }

    [[nodiscard]] bool bridged() const { return m_sums.gapAh > 0; }
    /// Standard deviation over mean of the amps on.
    [[nodiscard]] double unrest() const { return unrestOf(false); }

    /// Mean residual of every part, over its sigma.
    void residuals(const PackModel& model, double start, double meter, double gapFactor,
                   std::vector<double>& out) const {
        std::vector<double> sums(m_count.size(), 0);
        Wells wells = model.level(start);
        double v1 = 0;
        for (std::size_t i = 0; i <= m_sums.lastOn; ++i) {
            if (i > 0)
                step(model, wells, v1, interval(i) * (m_gap[i] ? gapFactor : 1),
                     m_log.seconds[i] - m_log.seconds[i - 1]);
            if (m_part[i] < 0)
                continue;
            const double v = volts(model, wells, v1, m_amps[i]);
            sums[static_cast<std::size_t>(m_part[i])] += m_log.volts[i] - meter * v;
        }
        const double sigma = std::hypot(sigmaOfLimit(kVoltLimit), model.series * kCellSigma);
        for (std::size_t k = 0; k < sums.size(); ++k)
            out.push_back(sums[k] / static_cast<double>(m_count[k]) / sigma);
    }

    /// Hours that this pack would give as the log was drawn, down to `target` volts.
    [[nodiscard]] double hours(const PackModel& model, double start, double target) const {
        const bool byWatts = unrestOf(true) < unrestOf(false);
        const std::size_t a = m_sums.firstOn;
        const std::size_t b = m_sums.lastOn;
        if (b <= a)
            return 0;
        Wells wells = model.level(start);
        double v1 = 0;
        double t = 0;
        const double span = m_log.seconds[b] - m_log.seconds[a];
        const std::size_t tail = [&] {
            std::size_t i = b;
            while (i > a + 1 && m_log.seconds[b] - m_log.seconds[i - 1] <= kLastPart * span)
                --i;
            return std::max(i, a + 1);
        }();
        double before = volts(model, wells, v1, m_amps[a]);
        std::size_t i = a + 1;
        std::size_t steps = 0; // a log of nonsense must not run for ever
        while (t < kMostHours * std::max(span, 1.0) && steps < kMostSteps) {
            const double whole = m_log.seconds[i] - m_log.seconds[i - 1];
            const bool load = m_on[i];
            const double watts =
                (m_amps[i - 1] * m_log.volts[i - 1] + m_amps[i] * m_log.volts[i]) / 2;
            const auto pieces = static_cast<std::size_t>(
                std::clamp(std::ceil(whole / kLongestStep), 1.0, kMostPieces));
            const double dt = whole / static_cast<double>(pieces);
            steps += pieces;
            for (std::size_t k = 0; k < pieces; ++k) {
                const double amps = byWatts ? atWatts(model, wells, v1, watts) : interval(i);
                if (!std::isfinite(amps))
                    return t / kHourSecs;
                step(model, wells, v1, amps, dt);
                if (wells.atHand <= 0)
                    return (t + dt) / kHourSecs;
                const double now = volts(model, wells, v1, byWatts ? amps : m_amps[i]);
                if (load && now <= target) {
                    const double share = before > now ? (before - target) / (before - now) : 1;
                    return (t + std::clamp(share, 0.0, 1.0) * dt) / kHourSecs;
                }
                before = load ? now : before;
                t += dt;
            }
            i = i < b ? i + 1 : tail;
        }
        return t / kHourSecs;
    }
    [[nodiscard]] const DischargeRun& sums() const { return m_sums; }

  private:
    [[nodiscard]] double interval(std::size_t i) const {
        // A gap that is not bridged is taken as rest.
        if (m_gap[i] && !(m_on[i - 1] && m_on[i]))
            return 0;
        return (m_amps[i - 1] + m_amps[i]) / 2;
    }
    static void step(const PackModel& m, Wells& wells, double& v1, double amps, double seconds) {
        const double cell = amps / m.parallel;
        wells = m.drained(wells, cell, seconds / kHourSecs);
        const double settled = cell * m.relaxation;
        v1 = m.tau > 0 ? settled + (v1 - settled) * std::exp(-seconds / m.tau) : settled;
    }
    static double volts(const PackModel& m, const Wells& wells, double v1, double amps) {
        const double h = std::clamp(m.height(wells), 0.0, 1.0);
        return m.series * (m.openCircuitAt(h) - v1 - amps / m.parallel * m.resistanceAt(h)) -
               amps * m.connection;
    }
    static double atWatts(const PackModel& m, const Wells& wells, double v1, double watts) {
        const double h = std::clamp(m.height(wells), 0.0, 1.0);
        const double e = m.series * (m.openCircuitAt(h) - v1);
        const double r = m.series * m.resistanceAt(h) / m.parallel + m.connection;
        const double inner = e * e - 4 * r * watts;
        return r <= 0      ? watts / e
               : inner < 0 ? std::numeric_limits<double>::quiet_NaN()
                           : 2 * watts / (e + std::sqrt(inner));
    }
    [[nodiscard]] double unrestOf(bool watts) const {
        double sum = 0;
        double square = 0;
        double count = 0;
        for (std::size_t i = m_sums.firstOn; i <= m_sums.lastOn; ++i) {
            if (!m_on[i])
                continue;
            const double x = watts ? m_log.amps[i] * m_log.volts[i] : m_log.amps[i];
            sum += x;
            square += x * x;
            ++count;
        }
        if (count == 0 || sum <= 0)
            return 0;
        const double mean = sum / count;
        return std::sqrt(std::max(0.0, square / count - mean * mean)) / mean;
    }
    /// Rows on in forty bins of equal charge, a bin of two states parted between them.
    void part() {
        const std::size_t a = m_sums.firstOn;
        const std::size_t b = m_sums.lastOn;
        m_part.assign(m_amps.size(), -1);
        std::vector<double> drawn(m_amps.size(), 0);
        for (std::size_t i = a + 1; i <= b; ++i)
            drawn[i] = drawn[i - 1] + interval(i) * (m_log.seconds[i] - m_log.seconds[i - 1]);
        const double all = drawn[b];
        struct Bin {
            double low = std::numeric_limits<double>::infinity();
            double high = -std::numeric_limits<double>::infinity();
        };
        std::vector<Bin> bins(kBins);
        const auto binOf = [&](std::size_t i) {
            const double share = all > 0 ? drawn[i] / all : 0;
            return std::min(kBins - 1, static_cast<std::size_t>(share * kBins));
        };
        for (std::size_t i = a; i <= b; ++i)
            if (m_on[i]) {
                Bin& bin = bins[binOf(i)];
                bin.low = std::min(bin.low, m_amps[i]);
                bin.high = std::max(bin.high, m_amps[i]);
            }
        std::map<std::pair<std::size_t, bool>, int> numbers;
        for (std::size_t i = a; i <= b; ++i) {
            if (!m_on[i])
                continue;
            const Bin& bin = bins[binOf(i)];
            const bool two = bin.high - bin.low >= kBinSpan * m_most;
            const bool upper = two && m_amps[i] > (bin.low + bin.high) / 2;
            const auto [at, fresh] =
                numbers.try_emplace({binOf(i), upper}, static_cast<int>(m_count.size()));
            if (fresh)
                m_count.push_back(0);
            m_part[i] = at->second;
            ++m_count[static_cast<std::size_t>(at->second)];
        }
    }

    const DischargeLog& m_log;
    const DischargeRun& m_sums;
    double m_most = 0;
    std::vector<double> m_amps; ///< with the tester's own
    std::vector<char> m_on;
    std::vector<char> m_gap;
    std::vector<int> m_part; ///< of each row; -1: none
    std::vector<std::size_t> m_count;
};

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
                            const std::vector<DischargeRun>& sums, const CalibrateAsk& ask) {
    const Project base = written(original);
    std::vector<PackRun> runs;
    for (std::size_t i = 0; i < logs.size(); ++i)
        runs.emplace_back(logs[i], sums[i], ask.tester);
    std::vector<Lever> levers = packLevers(original);
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
                                      std::max(0.01, runs[i].unrest()), Basis::guess, true, 1));
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
    const KnobFit fit = fitKnobs(knobsOf(levers), residuals);
    Calibration out;
    takeFit(out, base, original, levers, fit);
    const PackModel before = modelOf(base);
    const PackModel after = modelOf(turned(base, levers, fit.u));
    for (const PackRun& run : runs) {
        const double target = ask.tester.cutVolts.value_or(run.sums().endVolts);
        out.runs.push_back({run.sums().file, run.hours(before, ask.from, target), run.sums().hours,
                            run.hours(after, ask.from, target)});
    }
    meansOf(out);
    return out;
}

/// The project with one mode and one load that takes these watts behind a stage.
Project drawnFrom(const Project& p, const std::string& at, double watts, const CalibrateAsk& ask) {
    Project out = p;
    out.modes.resize(1);
    out.modes[0] = {};
    out.modes[0].id = "run";
    out.modes[0].base = true;
    Load load;
    load.id = "tester";
    while (out.stage(load.id))
        load.id += "-";
    load.fedBy = at;
    load.critical = true;
    load.window.min = Volts{ask.tester.cutVolts.value_or(0)};
    load.window.max = Volts{1e6};
    Draw draw;
    draw.mode = "run";
    draw.power = Watts{watts};
    load.draws = {draw};
    out.loads = {load};
    std::get<Pack>(out.stage(out.packStage()->id)->part).charge = ask.from;
    return out;
}

Outcome<Calibration> atStage(const Project& original, const std::vector<DischargeRun>& sums,
                             const CalibrateAsk& ask) {
    const Project base = written(original);
    std::vector<Lever> levers = packLevers(original);
    for (Lever& lever : lossLevers(original))
        levers.push_back(std::move(lever));
    const std::size_t meter = levers.size();
    levers.push_back(nuisance("meter", kMeterOfHours, Basis::dataSheet, false, 1));
    Conditions conditions;
    conditions.ambient = ask.ambient;
    Stepping quick;
    quick.record = false;
    const auto hours = [&](const Project& p, const DischargeRun& run) {
        const Project q = drawnFrom(p, ask.at, run.meanWatts, ask);
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
    const KnobFit fit = fitKnobs(knobsOf(levers), residuals);
    Calibration out;
    takeFit(out, base, original, levers, fit);
    const Project after = turned(base, levers, fit.u);
    for (const DischargeRun& run : sums)
        out.runs.push_back({run.file, hours(base, run), run.hours, hours(after, run)});
    meansOf(out);
    return out;
}

} // namespace

Outcome<Calibration> calibrateByReadings(const Project& original, const BenchAsk& ask) {
    if (!original.pack())
        return noPack();
    Project base = written(original);
    const BenchLook look = lookAtBench(original, ask);
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
            sigmaOfLimit(meterLimit(*c.value, unitRead(c.kind, c.quantity), accuracy)));
    }
    if (seen.empty())
        return Error{"no_readings", "/readings", "none of idle, draw, sag or point",
                     "at least one that counts", ""};
    std::vector<Lever> levers = packLevers(original);
    for (auto* more : {lossLevers, drawLevers})
        for (Lever& lever : more(original))
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
    const KnobFit fit = fitKnobs(knobsOf(levers), residuals);
    Calibration out;
    takeFit(out, base, original, levers, fit);
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
                                          const CalibrateAsk& ask) {
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
    const auto reached = outwards(project, project.packStage()->id);
    const std::size_t at = stageIndex(project, ask.at);
    if (std::find(reached.begin(), reached.end(), at) == reached.end())
        return Error{"dangling_id", "--at", ask.at, "the id of a stage behind the pack", ""};
    return atStage(project, sums, ask);
}

} // namespace sipper
