// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/checks.hpp"

#include "base/tolerance.hpp"
#include "charge/operating.hpp"
#include "line/packmodel.hpp"
#include "line/sources.hpp"
#include "measure/benchprobe.hpp"
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
constexpr double kTwoSigma = 2;
constexpr int kHalvings = 60;
constexpr std::size_t kMovers = 3;

/// The checks of a project, in bench order, without figures.
class Order {
  public:
    Order(const Project& project, BenchProbe& probe) : m_project(project) {
        if (project.packStage())
            m_pack = project.packStage()->id;
        else if (const auto mains = externalSources(project); !mains.empty())
            m_pack = project.stages[mains.front()].id;
        for (const std::size_t i : downstreamStages(project, m_pack))
            m_behind.push_back(i);
        if (!m_pack.empty())
            m_worst = worstMode(probe);
    }

    std::vector<BenchCheck> list(BenchProbe& probe) {
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
    void warmest(BenchProbe& probe) {
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
    [[nodiscard]] std::size_t worstMode(BenchProbe& probe) const {
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
    BenchProbe probe(here, ambient);
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

namespace {

/// How full the pack is said to be, and is by its resting volts, with what that leaves open.
struct BenchCharge {
    double statedLow = 1;
    double statedHigh = 1;
};
BenchCharge chargeOnBench(const Project& project, const BenchOptions& ask,
                          const std::vector<const Reading*>& standing, const std::string& base,
                          TestSetup& here, BenchAnalysis& look) {
    BenchCharge stated;
    if (const Pack* pack = project.pack()) {
        here.stated = std::clamp(ask.charge.value_or(pack->charge.value_or(1)), 0.0, 1.0);
        stated.statedLow = std::max(0.0, here.stated - kChargeDoubt);
        stated.statedHigh = std::min(1.0, here.stated + kChargeDoubt);
        here.charge = here.stated;
        look.chargeLow = stated.statedLow;
        look.chargeHigh = stated.statedHigh;
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
    return stated;
}

/// How far the checks' figures move up and down, as sums of squares of what each doubt does.
struct BenchSpread {
    std::vector<double> up;
    std::vector<double> down;
};
BenchSpread spreadOf(const std::vector<UncertaintySource>& doubts, const TestSetup& here,
                     Celsius ambient, std::vector<BenchCheck>& checks) {
    BenchSpread spread{std::vector<double>(checks.size(), 0),
                       std::vector<double>(checks.size(), 0)};
    for (const UncertaintySource& doubt : doubts) {
        std::vector<double> rise(checks.size(), 0);
        std::vector<double> fall(checks.size(), 0);
        for (const double end : {-1.0, 1.0}) {
            // The rest as usual: the pack as full as it has been read.
            TestSetup bent = here;
            bent.stated = here.charge;
            doubt.perturb(bent, end);
            BenchProbe there(bent, ambient);
            for (std::size_t i = 0; i < checks.size(); ++i) {
                if (!checks[i].expect)
                    continue;
                const auto then = there.read(checks[i]);
                if (!then)
                    continue;
                const double moved = *then - *checks[i].expect;
                rise[i] = std::max(rise[i], moved);
                fall[i] = std::max(fall[i], -moved);
            }
        }
        for (std::size_t i = 0; i < checks.size(); ++i) {
            spread.up[i] += rise[i] * rise[i];
            spread.down[i] += fall[i] * fall[i];
            if (rise[i] > 0 || fall[i] > 0)
                checks[i].contributions.push_back({doubt.id, -fall[i], rise[i]});
        }
    }
    for (BenchCheck& c : checks) {
        std::stable_sort(c.contributions.begin(), c.contributions.end(),
                         [](const BenchCheck::Contribution& a, const BenchCheck::Contribution& b) {
                             return std::max(-a.down, a.up) > std::max(-b.down, b.up);
                         });
        if (c.contributions.size() > kMovers)
            c.contributions.resize(kMovers);
    }
    return spread;
}

/// The band around a check's figure, and what its reading makes of it.
void judge(const Project& project, const Reading* counts, double up, double down, BenchCheck& c) {
    const double m =
        meterLimit(*c.expect, unitOfCheck(c), counts ? counts->accuracy : std::optional<double>());
    c.coverageHigh = *c.expect + kTwoSigma * std::sqrt((up + m * m) / 3);
    c.coverageLow = *c.expect - kTwoSigma * std::sqrt((down + m * m) / 3);
    if (unitOfCheck(c) == Unit::ampere)
        c.coverageLow = std::max(0.0, c.coverageLow);
    if (!counts)
        return;
    c.reading = counts->id;
    c.value = counts->value();
    const bool reversed = *c.value < 0 && project.packStage() && c.at == project.packStage()->id;
    c.verdict = !reversed && *c.value >= c.coverageLow && *c.value <= c.coverageHigh
                    ? CheckVerdict::inside
                    : CheckVerdict::outside;
}

} // namespace

BenchAnalysis analyseBench(const Project& project, const BenchOptions& ask) {
    BenchAnalysis look;
    const std::vector<const Reading*> standing = activeReadings(project);
    for (const Reading& r : project.readings.all())
        if (std::find(standing.begin(), standing.end(), &r) == standing.end())
            look.superseded.push_back(r.id);
    const std::string base = project.modes.empty() ? "" : project.modes[project.baseMode()].id;
    TestSetup here;
    here.project = project;
    const BenchCharge stated = chargeOnBench(project, ask, standing, base, here, look);
    BenchProbe probe(here, ask.ambient);
    look.checks = Order(project, probe).list(probe);
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
                          b.stated = end < 0 ? stated.statedLow : stated.statedHigh;
                      }});
    const BenchSpread spread = spreadOf(doubts, here, ask.ambient, look.checks);
    std::set<const Reading*> matched;
    for (std::size_t i = 0; i < look.checks.size(); ++i) {
        BenchCheck& c = look.checks[i];
        for (const Reading* r : standing)
            if (isOf(*r, c, base))
                matched.insert(r);
        if (c.expect)
            judge(project, effectiveReading(standing, c, base), spread.up[i], spread.down[i], c);
    }
    for (const Reading* r : standing)
        if (!matched.contains(r))
            look.unmatched.push_back(r->id);
    return look;
}

} // namespace sipper
