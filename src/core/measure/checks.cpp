// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/checks.hpp"

#include "base/tolerance.hpp"
#include "charge/operating.hpp"
#include "line/packmodel.hpp"
#include "line/sources.hpp"
#include "measure/uncertainty.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace sipper {
namespace {

constexpr double kChargeDoubt = 0.05;
constexpr double kChargeAt = 0.3; ///< where a charger's current is read
constexpr double kVehicleBench = 13.8;
constexpr double kTwoSigma = 2;
constexpr int kHalvings = 60;
constexpr std::size_t kMovers = 3;

/// A project as it stands on the bench, asked for figures. Its modes are solved when the first is
/// asked for; that needs a pack.
class Probe {
  public:
    Probe(const TestSetup& bench, Celsius ambient) : m_bench(bench), m_ambient(ambient) {}

    /// Nothing on a collapse, and where the part is not there.
    std::optional<double> read(const BenchCheck& c) {
        const Project& p = m_bench.project;
        switch (c.kind) {
        case CheckKind::openCircuit:
            return openVolts(*p.stage(c.at));
        case CheckKind::setPoint:
            return setPoint(*p.stage(c.at));
        case CheckKind::currentLimit:
            return limitOfOutput(*p.stage(c.at));
        case CheckKind::idle:
        case CheckKind::draw:
        case CheckKind::sag:
        case CheckKind::warmest:
        case CheckKind::point:
            return flow(c);
        case CheckKind::cutoff:
            return std::get<Guard>(p.stage(c.at)->part).cutoff.value();
        case CheckKind::reconnect:
            return std::get<Guard>(p.stage(c.at)->part).reconnect->value();
        case CheckKind::chargeCurrent:
            return chargeAmps(c.at, c.light);
        case CheckKind::chargeEnd:
            return settings(std::get<Charger>(p.stage(c.at)->part)).endCurrent;
        }
        return std::nullopt;
    }
    const OperatingPoint& mode(std::size_t index) {
        if (m_modes.empty() && m_bench.project.pack()) {
            Line line(m_bench.project, conditions());
            m_modes = operateEach(m_bench.project, line, m_ambient, m_bench.charge);
        } else if (m_modes.empty()) { // on what is plugged in
            const Conditions c = plugged();
            for (std::size_t m = 0; m < m_bench.project.modes.size(); ++m)
                m_modes.push_back(operate(m_bench.project, c, m_bench.charge, m));
        }
        return m_modes[index];
    }

  private:
    [[nodiscard]] Conditions conditions() const {
        Conditions c;
        c.ambient = m_ambient;
        return c;
    }
    /// Without cells, what can be plugged in is.
    [[nodiscard]] Conditions plugged() const {
        Conditions c = conditions();
        if (!m_bench.project.pack())
            for (const std::size_t i : externalSources(m_bench.project))
                c.pluggedIn.push_back(m_bench.project.stages[i].id);
        return c;
    }
    [[nodiscard]] double openVolts(const Stage& stage) const {
        if (const auto* pack = std::get_if<Pack>(&stage.part)) {
            const PackModel model(*pack, m_ambient);
            return model.restVolts(m_bench.stated);
        }
        const auto factor = m_bench.volts.find(stage.id);
        const double f = factor == m_bench.volts.end() ? 1 : factor->second;
        if (std::holds_alternative<Vehicle>(stage.part))
            return kVehicleBench * f;
        const auto* adapter = std::get_if<Adapter>(&stage.part);
        if (adapter && adapter->noLoad)
            return adapter->noLoad->value();
        return sourceModel(stage.part).volts * f;
    }
    std::optional<double> setPoint(const Stage& stage) {
        if (const auto* charger = std::get_if<Charger>(&stage.part))
            return settings(*charger).volts;
        if (!m_unloaded) {
            Project bare = m_bench.project;
            bare.loads.clear();
            m_unloaded = operate(bare, plugged(), m_bench.charge, bare.baseMode());
        }
        if (m_unloaded->collapse)
            return std::nullopt;
        return m_unloaded->flows.stages[stageIndex(m_bench.project, stage.id)].vOut;
    }
    [[nodiscard]] std::optional<double> limitOfOutput(const Stage& stage) const {
        if (const auto* charger = std::get_if<Charger>(&stage.part)) {
            const auto factor = m_bench.limits.find(stage.id);
            return settings(*charger).current *
                   (factor == m_bench.limits.end() ? 1 : factor->second);
        }
        return limitsOf(stage.part).amps;
    }
    std::optional<double> flow(const BenchCheck& c) {
        const Project& p = m_bench.project;
        const OperatingPoint& point = mode(modeIndex(p, c.mode));
        if (point.collapse)
            return std::nullopt;
        if (const std::size_t l = loadIndex(p, c.at); l != kNotFound)
            return c.quantity == PointQuantity::i ? point.flows.loads[l].i : point.flows.loads[l].v;
        const std::size_t i = stageIndex(p, c.at);
        const StageFlow& f = point.flows.stages[i];
        switch (c.quantity) {
        case PointQuantity::vIn:
            return f.vIn;
        case PointQuantity::iIn:
            return f.iIn;
        case PointQuantity::vOut:
        case PointQuantity::v:
            return f.vOut;
        case PointQuantity::iOut:
        case PointQuantity::i:
            return f.iOut;
        case PointQuantity::partC:
            return point.partC[i];
        }
        return std::nullopt;
    }
    [[nodiscard]] ChargeSettings settings(const Charger& charger) const {
        const Stage* pack = m_bench.project.stage(charger.charges);
        return {charger, std::get<Pack>(pack->part)};
    }
    [[nodiscard]] std::optional<double> chargeAmps(const std::string& id,
                                                   std::optional<double> light) const {
        const Project& p = m_bench.project;
        Conditions c = conditions();
        const auto sources = sourcesOf(p, *p.stage(id));
        if (sources.empty())
            return std::nullopt;
        c.pluggedIn = {sources.front()};
        c.irradiance = light.value_or(0) * m_bench.light;
        const OperatingPoint point = operateWithChargers(p, c, kChargeAt, p.baseMode());
        if (point.collapse)
            return std::nullopt;
        return point.flows.stages[stageIndex(p, id)].iOut;
    }

    const TestSetup& m_bench;
    Celsius m_ambient;
    std::vector<OperatingPoint> m_modes;
    std::optional<OperatingPoint> m_unloaded;
};

/// The checks of a project, in bench order, without figures.
class Order {
  public:
    Order(const Project& project, Probe& probe) : m_project(project) {
        if (project.packStage())
            m_pack = project.packStage()->id;
        else if (const auto mains = externalSources(project); !mains.empty())
            m_pack = project.stages[mains.front()].id;
        for (const std::size_t i : downstreamStages(project, m_pack))
            m_behind.push_back(i);
        if (!m_pack.empty())
            m_worst = worstMode(probe);
    }

    std::vector<BenchCheck> list(Probe& probe) {
        for (const Stage& stage : m_project.stages)
            if (isSource(stage.part) && !std::holds_alternative<Panel>(stage.part) &&
                (!std::holds_alternative<Pack>(stage.part) || stage.id == m_pack))
                add(CheckKind::openCircuit, stage.id, PointQuantity::vOut);
        set();
        if (!m_pack.empty()) {
            draws();
            thresholds();
            warmest(probe);
        }
        for (const Stage* charger : chargers()) {
            add(CheckKind::chargeCurrent, charger->id, PointQuantity::iOut);
            if (const auto sources = sourcesOf(m_project, *charger);
                !sources.empty() &&
                std::holds_alternative<Panel>(m_project.stage(sources.front())->part))
                m_list.back().light = kUsualLight;
            if (stopsAtCurrent(std::get<Charger>(charger->part)))
                add(CheckKind::chargeEnd, charger->id, PointQuantity::iOut);
        }
        points();
        return std::move(m_list);
    }

  private:
    void add(CheckKind kind, const std::string& at, PointQuantity quantity,
             const std::string& mode = {}) {
        BenchCheck c;
        c.kind = kind;
        c.at = at;
        c.quantity = quantity;
        c.mode = mode;
        m_list.push_back(std::move(c));
    }
    [[nodiscard]] std::vector<const Stage*> chargers() const {
        std::vector<const Stage*> list;
        for (const Stage& stage : m_project.stages)
            if (const auto* charger = std::get_if<Charger>(&stage.part);
                charger && m_project.stage(charger->charges) &&
                std::holds_alternative<Pack>(m_project.stage(charger->charges)->part))
                list.push_back(&stage);
        return list;
    }
    /// Regulators that the cells feed, from the source outwards.
    [[nodiscard]] std::vector<const Stage*> regulators() const {
        std::vector<const Stage*> list;
        for (const std::size_t i : m_behind)
            if (isRegulator(m_project.stages[i].part))
                list.push_back(&m_project.stages[i]);
        return list;
    }
    void set() {
        for (const Stage* stage : regulators())
            if (!setCurrentOf(stage->part)) // a light driver has no volts of its own
                add(CheckKind::setPoint, stage->id, PointQuantity::vOut);
        for (const Stage* charger : chargers())
            if (const auto& part = std::get<Charger>(charger->part);
                part.chargeVoltage && part.adjustable.value_or(false)) // others wait for cells
                add(CheckKind::setPoint, charger->id, PointQuantity::vOut);
        for (const Stage* stage : regulators())
            if (active(stage->part)->adjustable.value_or(false) && limitsOf(stage->part).amps > 0)
                add(CheckKind::currentLimit, stage->id, PointQuantity::iOut);
        for (const Stage* charger : chargers())
            if (limitsCurrent(*charger))
                add(CheckKind::currentLimit, charger->id, PointQuantity::iOut);
    }
    /// Is it set to a current at all? A dumb charger is a diode and a resistor.
    [[nodiscard]] bool limitsCurrent(const Stage& stage) const {
        const auto& part = std::get<Charger>(stage.part);
        const Stage* pack = m_project.stage(part.charges);
        return part.topology != Topology::direct &&
               ChargeSettings(part, std::get<Pack>(pack->part)).current > 0;
    }
    /// Does the current into the pack end the charge? A bare module holds its volts for ever.
    static bool stopsAtCurrent(const Charger& part) {
        const bool rule = endsByCurrent(part) || part.endsBy == ChargeEnd::threeStage;
        const bool stated =
            part.endCurrent ? part.endCurrent->value() > 0 : !part.adjustable.value_or(false);
        return rule && stated && part.topology != Topology::direct;
    }
    void draws() {
        const std::size_t base = m_project.baseMode();
        add(CheckKind::idle, m_pack, PointQuantity::iOut, m_project.modes[base].id);
        for (std::size_t m = 0; m < m_project.modes.size(); ++m)
            if (m != base)
                add(CheckKind::draw, m_pack, PointQuantity::iOut, m_project.modes[m].id);
        const std::string& worst = m_project.modes[m_worst].id;
        add(CheckKind::sag, m_pack, PointQuantity::vOut, worst);
        std::vector<std::string> feeders{m_pack};
        for (const std::size_t i : m_behind)
            if (m_project.stages[i].id != m_pack)
                feeders.push_back(m_project.stages[i].id);
        for (const std::string& feeder : feeders)
            for (const Load& load : m_project.loads)
                if (load.fedBy == feeder)
                    add(CheckKind::sag, load.id, PointQuantity::v, worst);
    }
    void thresholds() {
        for (const std::size_t i : m_behind)
            if (const auto* guard = std::get_if<Guard>(&m_project.stages[i].part)) {
                add(CheckKind::cutoff, m_project.stages[i].id, PointQuantity::vIn);
                if (guard->reconnect)
                    add(CheckKind::reconnect, m_project.stages[i].id, PointQuantity::vIn);
            }
    }
    void warmest(Probe& probe) {
        const OperatingPoint& point = probe.mode(m_worst);
        const Stage* most = nullptr;
        double c = 0;
        for (const std::size_t i : m_behind) {
            if (thetaOf(m_project.stages[i].part) <= 0)
                continue;
            const double here = point.collapse ? 0 : point.partC[i];
            if (!most || here > c) {
                most = &m_project.stages[i];
                c = here;
            }
        }
        if (most)
            add(CheckKind::warmest, most->id, PointQuantity::partC, m_project.modes[m_worst].id);
    }
    void points() {
        std::set<std::string> there;
        for (const Reading* r : activeReadings(m_project)) {
            if (r->checks != CheckKind::point || !r->quantity)
                continue;
            const bool ofLoad =
                *r->quantity == PointQuantity::v || *r->quantity == PointQuantity::i;
            const bool load = m_project.load(r->at) != nullptr;
            if (ofLoad != load || (!load && !m_project.stage(r->at)) || m_pack.empty())
                continue;
            BenchCheck c;
            c.at = r->at;
            c.quantity = *r->quantity;
            c.mode = r->mode.empty() ? m_project.modes[m_project.baseMode()].id : r->mode;
            if (m_project.mode(c.mode) && there.insert(c.id()).second)
                m_list.push_back(std::move(c));
        }
    }
    [[nodiscard]] std::size_t worstMode(Probe& probe) const {
        std::size_t worst = 0;
        double most = -1;
        for (std::size_t m = 0; m < m_project.modes.size(); ++m) {
            const OperatingPoint& point = probe.mode(m);
            const double amps = point.collapse
                                    ? std::numeric_limits<double>::infinity()
                                    : point.flows.stages[stageIndex(m_project, m_pack)].iOut;
            if (amps > most) {
                most = amps;
                worst = m;
            }
        }
        return worst;
    }

    const Project& m_project;
    std::string m_pack;                ///< the cells, or without any what is plugged in
    std::vector<std::size_t> m_behind; ///< stages that the cells feed
    std::size_t m_worst = 0;
    std::vector<BenchCheck> m_list;
};

bool isOf(const Reading& r, const BenchCheck& c, const std::string& base) {
    if (r.checks != c.kind || r.at != c.at)
        return false;
    if (c.kind == CheckKind::point && r.quantity != c.quantity)
        return false;
    if (c.mode.empty())
        return true;
    if (r.mode.empty())
        return (c.kind == CheckKind::idle || c.kind == CheckKind::point) && c.mode == base;
    return r.mode == c.mode;
}

/// The reading of a check that counts: the latest, of equal ones the last in the file.
const Reading* effectiveReading(const std::vector<const Reading*>& standing, const BenchCheck& c,
                                const std::string& base) {
    const Reading* last = nullptr;
    for (const Reading* r : standing)
        if (isOf(*r, c, base) && (!last || r->when >= last->when))
            last = r;
    return last;
}

Unit unitOfCheck(const BenchCheck& c) {
    return unitRead(c.kind, c.quantity);
}

} // namespace

std::string_view verdictName(CheckVerdict verdict) {
    static constexpr std::array<std::string_view, 3> names{"untested", "inside", "outside"};
    return names[static_cast<std::size_t>(verdict)];
}

std::string BenchCheck::id() const {
    std::string out = fmt::format("{}/{}", nameOf(kind), at);
    if (kind == CheckKind::point)
        out += fmt::format("/{}", nameOf(quantity));
    return mode.empty() ? out : out + "/" + mode;
}

int BenchAnalysis::count(CheckVerdict verdict) const {
    return static_cast<int>(std::count_if(
        checks.begin(), checks.end(), [&](const BenchCheck& c) { return c.verdict == verdict; }));
}

std::vector<std::optional<double>> readAt(const Project& project, double charge, Celsius ambient,
                                          const std::vector<BenchCheck>& checks) {
    TestSetup here;
    here.project = project;
    here.stated = here.charge = charge;
    Probe probe(here, ambient);
    std::vector<std::optional<double>> out;
    out.reserve(checks.size());
    for (const BenchCheck& c : checks)
        out.push_back(probe.read(c));
    return out;
}

double meterLimit(double figure, Unit unit, std::optional<double> accuracy) {
    switch (unit) {
    case Unit::volt:
        return accuracy.value_or(0.005) * std::abs(figure) + 0.005;
    case Unit::ampere:
        return accuracy.value_or(0.015) * std::abs(figure) + 2e-6;
    default:
        return accuracy.value_or(0) * std::abs(figure) + 2;
    }
}

double leastChargeAt(const Pack& pack, double volts) {
    const PackModel model(pack, Celsius{20});
    const auto open = [&](double charge) { return model.restVolts(charge); };
    if (volts > open(1))
        return 1;
    if (volts <= open(0))
        return 0;
    return bisect(1, 0, kHalvings, [&](double charge) { return open(charge) >= volts; });
}

std::vector<const Reading*> activeReadings(const Project& project) {
    std::set<std::string> gone;
    for (const Reading& r : project.readings.all())
        if (!r.supersedes.empty())
            gone.insert(r.supersedes);
    std::vector<const Reading*> list;
    for (const Reading& r : project.readings.all())
        if (!gone.contains(r.id))
            list.push_back(&r);
    return list;
}

BenchAnalysis analyseBench(const Project& project, const BenchOptions& ask) {
    BenchAnalysis look;
    const std::vector<const Reading*> standing = activeReadings(project);
    for (const Reading& r : project.readings.all())
        if (std::find(standing.begin(), standing.end(), &r) == standing.end())
            look.superseded.push_back(r.id);
    const std::string base = project.modes.empty() ? "" : project.modes[project.baseMode()].id;

    TestSetup here;
    here.project = project;
    double statedLow = 1;
    double statedHigh = 1;
    if (const Pack* pack = project.pack()) {
        here.stated = std::clamp(ask.charge.value_or(pack->charge.value_or(1)), 0.0, 1.0);
        statedLow = std::max(0.0, here.stated - kChargeDoubt);
        statedHigh = std::min(1.0, here.stated + kChargeDoubt);
        here.charge = here.stated;
        look.chargeLow = statedLow;
        look.chargeHigh = statedHigh;
        BenchCheck rests;
        rests.kind = CheckKind::openCircuit;
        rests.at = project.packStage()->id;
        const Reading* read = effectiveReading(standing, rests, base);
        const PackModel model(*pack, ask.ambient);
        if (read && read->value() >= model.restVolts(0)) {
            const double v = read->value();
            const double m = meterLimit(v, Unit::volt, read->accuracy);
            here.charge = leastChargeAt(*pack, v);
            look.chargeLow =
                std::max({0.0, here.charge - kChargeDoubt, leastChargeAt(*pack, v - m)});
            look.chargeHigh =
                std::min({1.0, here.charge + kChargeDoubt, leastChargeAt(*pack, v + m)});
        }
    }
    look.charge = here.charge;

    Probe probe(here, ask.ambient);
    look.checks = Order(project, probe).list(probe);
    std::vector<double> up(look.checks.size(), 0);
    std::vector<double> down(look.checks.size(), 0);
    for (BenchCheck& c : look.checks) {
        // A charge by the sun is judged in the light that there was.
        if (const Reading* read = c.light ? effectiveReading(standing, c, base) : nullptr;
            read && read->light)
            c.light = read->light;
        c.expect = probe.read(c);
    }

    std::vector<UncertaintySource> doubts = uncertaintySourcesOf(project);
    doubts.push_back({"charge", [&](TestSetup& b, double end) {
                          b.charge = end < 0 ? look.chargeLow : look.chargeHigh;
                          b.stated = end < 0 ? statedLow : statedHigh;
                      }});
    for (const UncertaintySource& doubt : doubts) {
        std::vector<double> rise(look.checks.size(), 0);
        std::vector<double> fall(look.checks.size(), 0);
        for (const double end : {-1.0, 1.0}) {
            // The rest as usual: the pack as full as it has been read.
            TestSetup bent = here;
            bent.stated = here.charge;
            doubt.perturb(bent, end);
            Probe there(bent, ask.ambient);
            for (std::size_t i = 0; i < look.checks.size(); ++i) {
                if (!look.checks[i].expect)
                    continue;
                const auto then = there.read(look.checks[i]);
                if (!then)
                    continue;
                const double moved = *then - *look.checks[i].expect;
                rise[i] = std::max(rise[i], moved);
                fall[i] = std::max(fall[i], -moved);
            }
        }
        for (std::size_t i = 0; i < look.checks.size(); ++i) {
            up[i] += rise[i] * rise[i];
            down[i] += fall[i] * fall[i];
            if (rise[i] > 0 || fall[i] > 0)
                look.checks[i].contributions.push_back({doubt.id, -fall[i], rise[i]});
        }
    }
    for (BenchCheck& c : look.checks) {
        std::stable_sort(c.contributions.begin(), c.contributions.end(),
                         [](const BenchCheck::Contribution& a, const BenchCheck::Contribution& b) {
                             return std::max(-a.down, a.up) > std::max(-b.down, b.up);
                         });
        if (c.contributions.size() > kMovers)
            c.contributions.resize(kMovers);
    }

    std::set<const Reading*> matched;
    for (std::size_t i = 0; i < look.checks.size(); ++i) {
        BenchCheck& c = look.checks[i];
        for (const Reading* r : standing)
            if (isOf(*r, c, base))
                matched.insert(r);
        if (!c.expect)
            continue;
        const Reading* counts = effectiveReading(standing, c, base);
        const double m = meterLimit(*c.expect, unitOfCheck(c),
                                    counts ? counts->accuracy : std::optional<double>());
        c.coverageHigh = *c.expect + kTwoSigma * std::sqrt((up[i] + m * m) / 3);
        c.coverageLow = *c.expect - kTwoSigma * std::sqrt((down[i] + m * m) / 3);
        if (unitOfCheck(c) == Unit::ampere)
            c.coverageLow = std::max(0.0, c.coverageLow);
        if (!counts)
            continue;
        c.reading = counts->id;
        c.value = counts->value();
        const bool reversed =
            *c.value < 0 && project.packStage() && c.at == project.packStage()->id;
        c.verdict = !reversed && *c.value >= c.coverageLow && *c.value <= c.coverageHigh
                        ? CheckVerdict::inside
                        : CheckVerdict::outside;
    }
    for (const Reading* r : standing)
        if (!matched.contains(r))
            look.unmatched.push_back(r->id);
    return look;
}

} // namespace sipper
