// SPDX-License-Identifier: GPL-3.0-or-later
#include "instruments/simulated.hpp"

#include "base/tolerance.hpp"
#include "line/operating.hpp"
#include "measure/uncertainty.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kIdleStep = 10;
constexpr double kLoadStep = 1;
constexpr double kHourOf = 3600;
constexpr int kLooks = 240; ///< between the set volts and none, where a limited supply may rest
constexpr int kRoundsTo = 50;

bool sameSetting(const SupplyState& a, const SupplyState& b) {
    return a.volts == b.volts && a.limit == b.limit && a.on == b.on && a.mode == b.mode;
}

} // namespace

Outcome<std::unique_ptr<SimulatedBench>> SimulatedBench::make(const Project& project,
                                                              const SimulatedOptions& ask) {
    const auto plugs = externalSources(project);
    if (!project.pack() && plugs.empty())
        return Error{"no_source", "/stages", "no pack and no source that can be plugged in",
                     "one to hang the load on", ""};
    const std::string source =
        project.pack() ? project.packStage()->id : project.stages[plugs.front()].id;
    if (!ask.at.empty() && ask.at != source) {
        const auto reached = downstreamStages(project, source);
        if (std::find(reached.begin(), reached.end(), stageIndex(project, ask.at)) == reached.end())
            return Error{"dangling_id", "--at", ask.at, "the id of a stage behind the source", ""};
    }
    return std::unique_ptr<SimulatedBench>(new SimulatedBench(project, source, ask));
}

SimulatedBench::SimulatedBench(const Project& project, std::string source,
                               const SimulatedOptions& ask)
    : m_drawn(project), m_faulty(project, ask.faults),
      m_project(m_faulty.project().stage(source) ? m_faulty.project() : project),
      m_ambient(ask.ambient), m_source(std::move(source)),
      m_at(ask.at == m_source ? std::string() : ask.at) {
    if (const Pack* pack = project.pack()) {
        m_model.emplace(*pack, ask.ambient);
        m_wells = m_model->level(std::clamp(ask.charge, 0.0, 1.0));
    }
    supply.mode = project.baseMode();
}

void SimulatedBench::advance(double seconds) {
    double left = std::max(0.0, seconds);
    while (left > 0) {
        const double dt = std::min(left, load.on ? kLoadStep : kIdleStep);
        step(dt);
        left -= dt;
        if (left < 1e-9)
            break;
    }
}

void SimulatedBench::step(double seconds) {
    m_clock += seconds;
    double sourceAmps = 0;
    if (const auto point = solveLoad(load.on)) {
        sourceAmps = point->sourceAmps;
        if (load.on) {
            const double hours = seconds / kHourOf;
            load.ah += point->load.amps * hours;
            load.wh += point->load.amps * point->load.volts * hours;
            load.seconds += seconds;
        }
    }
    if (m_model) {
        const double cell = sourceAmps / m_model->parallel;
        m_wells = m_model->drained(m_wells, cell + m_model->selfAmps, seconds / kHourOf);
        m_wells.available = std::max(0.0, m_wells.available);
        m_wells.bound = std::max(0.0, m_wells.bound);
        m_v1 = m_model->rcVoltsAfter(m_v1, cell, seconds);
    }
    if (!load.on)
        return;
    const auto after = solveLoad(true);
    const bool empty = m_model && m_wells.available <= 0;
    if (empty || !after || (load.cutoff > 0 && after->load.volts < load.cutoff)) {
        load.on = false;
        load.tripped = true;
    }
}

void SimulatedBench::switchLoad(bool on) {
    load.on = on;
    if (!on)
        return;
    load.tripped = false;
    m_opened.clear(); // what had opened is closed by hand
    const auto now = solveLoad(true);
    if (!now || (load.cutoff > 0 && now->load.volts < load.cutoff)) {
        load.on = false;
        load.tripped = true;
    }
}

void SimulatedBench::clearCounters() {
    load.ah = 0;
    load.wh = 0;
    load.seconds = 0;
}

std::optional<SimulatedBench::Point> SimulatedBench::solveLoad(bool on) {
    if (m_faulty.isUnpowered(m_at.empty() ? m_source : m_at))
        return on ? std::nullopt : std::optional(Point{});
    return m_at.empty() ? solveAtSource(on) : solveBehind(on);
}

TheveninSource SimulatedBench::thevenin() const {
    if (m_model)
        return m_model->source(std::clamp(m_model->height(m_wells), 0.0, 1.0), m_v1);
    const SourceModel source = sourceModel(m_drawn.stage(m_source)->part);
    return {source.volts, source.ohms};
}

std::optional<SimulatedBench::Point> SimulatedBench::solveAtSource(bool on) const {
    const auto [e, r] = thevenin();
    double amps = 0;
    if (on)
        switch (load.function) {
        case LoadFunction::current:
            amps = load.current;
            break;
        case LoadFunction::power: {
            const double inner = e * e - 4 * r * load.power;
            if (inner < 0)
                return std::nullopt;
            amps = 2 * load.power / (e + std::sqrt(inner));
            break;
        }
        case LoadFunction::resistance:
            amps = e / (r + load.resistance);
            break;
        }
    const double volts = e - amps * r;
    if (!std::isfinite(amps) || volts < 0 || (on && volts <= 0))
        return std::nullopt;
    if (!m_model) { // it gives up, or holds its current: the load can't be held
        const SourceModel source = sourceModel(m_drawn.stage(m_source)->part);
        if (source.limit > 0 && source.beyond && exceeds(amps, source.limit))
            return std::nullopt;
    }
    return Point{{volts, amps}, amps};
}

std::optional<SimulatedBench::Point> SimulatedBench::solveBehind(bool on) {
    Draw draw;
    if (!on)
        draw.current = Amps{0};
    else
        switch (load.function) {
        case LoadFunction::current:
            draw.current = Amps{load.current};
            break;
        case LoadFunction::power:
            draw.power = Watts{load.power};
            break;
        case LoadFunction::resistance:
            draw.resistance = Ohms{load.resistance};
            break;
        }
    const Project tested = withTester(m_project, m_at, draw);
    const auto point = m_model ? solveBehindPack(tested) : solveBehindPlug(tested);
    if (on && point && point->load.volts <= 0)
        return std::nullopt;
    return point;
}

std::optional<SimulatedBench::Point> SimulatedBench::solveBehindPlug(const Project& tested) const {
    const std::size_t source = stageIndex(tested, m_source);
    SourceLine line(tested, source, {source}, m_ambient);
    const SourceLine::Answer a = line.solve(0, Network::kNoBurst, line.model().volts,
                                            std::numeric_limits<double>::infinity());
    if (a.collapsed)
        return std::nullopt;
    return Point{{a.flows.loads[0].v, a.flows.loads[0].i}, a.flows.sourceAmps};
}

std::optional<SimulatedBench::Point> SimulatedBench::solveBehindPack(const Project& tested) {
    Conditions conditions;
    conditions.ambient = m_ambient;
    Line line(tested, conditions);
    for (const std::size_t i : m_opened)
        line.setOpen(i, true);
    const double h = std::clamp(m_model->height(m_wells), 0.0, 1.0);
    LineSolution moment;
    for (std::size_t round = 0; round <= tested.stages.size(); ++round) {
        line.solveAtNodeVolts(0, m_model->openCircuitAt(h) - m_v1, m_model->resistanceAt(h), 0,
                              moment);
        if (moment.collapsed || moment.modes.empty())
            return std::nullopt;
        const Flows& f = moment.modes[0].steady;
        const auto& order = line.network().order();
        const auto next = std::find_if(order.begin(), order.end(), [&](std::size_t i) {
            return f.stages[i].state != StageState::off &&
                   opens(tested.stages[i].part, f.stages[i],
                         std::numeric_limits<double>::infinity());
        });
        if (next == order.end())
            break;
        line.setOpen(*next, true);
        m_opened.push_back(*next);
    }
    const Flows& f = moment.modes[0].steady;
    return Point{{f.loads[0].v, f.loads[0].i}, f.sourceAmps};
}

double SimulatedBench::probed(const ProbePlace& place, PointQuantity quantity) const {
    BenchCheck c;
    c.kind = place.check.value_or(CheckKind::point);
    c.at = place.at;
    c.mode = m_drawn.modes[place.mode].id;
    c.quantity = quantity;
    const bool ofLoad = m_drawn.load(place.at) != nullptr;
    const bool amps = quantity == PointQuantity::iOut;
    if (quantity != PointQuantity::partC) {
        if (ofLoad)
            c.quantity = amps ? PointQuantity::i : PointQuantity::v;
        else if (place.input)
            c.quantity = amps ? PointQuantity::iIn : PointQuantity::vIn;
    } else if (ofLoad) {
        return m_ambient.value();
    }
    if (c.kind == CheckKind::chargeCurrent)
        for (const BenchCheck& known : analyseBench(m_drawn).checks)
            if (known.kind == c.kind && known.at == c.at)
                c.light = known.light;
    return m_faulty.read(c, charge(), m_ambient).value_or(0);
}

Terminals SimulatedBench::atLoad() {
    const auto point = solveLoad(load.on);
    return point ? point->load : Terminals{};
}

Terminals SimulatedBench::supplyAt(double volts) const {
    if (volts <= 0)
        return {};
    Project p = m_project;
    Adapter adapter;
    adapter.set = Volts{volts};
    p.stage(m_source)->part = adapter;
    // A charger has nothing to charge then.
    std::erase_if(p.stages, [](const Stage& s) { return isCharger(s.part); });
    const std::size_t source = stageIndex(p, m_source);
    SourceLine line(p, source, {source}, m_ambient);
    const SourceLine::Answer a =
        line.solve(supply.mode, Network::kNoBurst, volts, std::numeric_limits<double>::infinity());
    return a.collapsed ? Terminals{volts, std::numeric_limits<double>::infinity()}
                       : Terminals{volts, a.flows.sourceAmps};
}

void SimulatedBench::solveSupply() {
    if (m_supplySolved && sameSetting(*m_supplySolved, supply))
        return;
    m_supplySolved = supply;
    m_supply = {};
    m_supplyMode = SupplyMode::off;
    if (!supply.on)
        return;
    m_supply = supplyAt(supply.volts);
    m_supplyMode = SupplyMode::voltage;
    if (m_supply.amps <= supply.limit)
        return;
    m_supplyMode = SupplyMode::current;
    // Down from the set volts to where the line takes just so much.
    double high = supply.volts;
    for (int i = 1; i <= kLooks; ++i) {
        double low = supply.volts * (1 - static_cast<double>(i) / kLooks);
        if (supplyAt(low).amps > supply.limit) {
            high = low;
            continue;
        }
        for (int round = 0; round < kRoundsTo; ++round) {
            const double middle = (low + high) / 2;
            (supplyAt(middle).amps > supply.limit ? high : low) = middle;
        }
        const Terminals rests = supplyAt(low);
        // Where it jumps over the limit, it does not rest.
        if (rests.amps > 0.99 * supply.limit) {
            m_supply = {rests.volts, supply.limit};
            return;
        }
        high = low;
    }
    m_supply = {};
}

Terminals SimulatedBench::atSupply() {
    solveSupply();
    return m_supply;
}

SupplyMode SimulatedBench::supplyMode() {
    solveSupply();
    return m_supplyMode;
}

} // namespace sipper
