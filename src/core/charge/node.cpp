// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/node.hpp"

#include "base/tolerance.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {

BatteryNode::BatteryNode(const Project& project, std::size_t pack, std::size_t source,
                         std::size_t mode, Celsius ambient, double startVolts)
    : m_project(project), m_network(project, ambient, {}, {pack, {source, pack}}),
      m_demand(m_network.demand(mode, Network::kNoBurst)) {
    for (const std::size_t i : m_network.order()) {
        const Part& part = project.stages[i].part;
        const auto* guard = std::get_if<Guard>(&part);
        if (guard)
            m_guards.push_back(i);
        if (guard && fallsBelow(inputOf(i, startVolts), guard->cutoff.value())) {
            m_held.push_back(i);
            m_network.setOpen(i, true);
        }
        if (isRegulator(part) && inputMinOf(part) > 0)
            m_watched.push_back({i, inputMinOf(part)});
    }
    m_network.prepare(m_demand);
}

/// Volts before a stage with the node at `volts`, whatever flows.
double BatteryNode::inputOf(std::size_t stage, double volts) const {
    if (!m_network.solve(m_demand, volts, 0, m_flows))
        return volts;
    const double v = m_flows.stages[stage].vIn;
    return v > 0 ? v : volts;
}

double BatteryNode::load(double e, double r) const {
    m_off.clear();
    m_collapsed = false;
    if (m_network.empty())
        return 0;
    double amps = 0;
    if (m_watched.empty()) {
        amps = m_network.current(m_demand, e, r);
        m_collapsed = !std::isfinite(amps);
        return m_collapsed ? 0 : amps;
    }
    // From the pack outwards: what is under its minimum is off at this voltage.
    std::optional<Demand> less;
    for (std::size_t round = 0; round <= m_watched.size(); ++round) {
        const bool solved = m_network.solve(less ? *less : m_demand, e, r, m_flows);
        amps = solved ? m_flows.sourceAmps : 0;
        m_collapsed = !solved;
        const auto next = std::find_if(m_watched.begin(), m_watched.end(), [&](const Watched& w) {
            const StageFlow& f = m_flows.stages[w.stage];
            return solved && f.state != StageState::off && fallsBelow(f.vIn, w.inputMin);
        });
        if (next == m_watched.end())
            break;
        m_network.setOpen(next->stage, true);
        m_off.push_back(next->stage);
        if (!less)
            less = m_demand;
        m_network.prepare(*less);
    }
    for (const std::size_t i : m_off)
        m_network.setOpen(i, false);
    return amps;
}

NodePoint BatteryNode::at(double amps, double openCircuit, double ohms) const {
    // The charger's current through the pack's resistance lifts what the line is fed from.
    NodePoint point;
    point.loadAmps = load(openCircuit + ohms * amps, ohms);
    point.off = m_off;
    point.collapsed = m_collapsed;
    point.packAmps = amps - point.loadAmps;
    point.volts = openCircuit + ohms * point.packAmps;
    return point;
}

bool BatteryNode::flowsAt(const NodePoint& at, Flows& flows) const {
    if (at.collapsed) {
        flows = {};
        flows.stages.resize(m_project.stages.size());
        flows.loads.resize(m_project.loads.size());
        return true;
    }
    if (at.off.empty())
        return m_network.solve(m_demand, at.volts, 0, flows);
    Demand demand = m_demand;
    for (const std::size_t i : at.off)
        m_network.setOpen(i, true);
    m_network.prepare(demand);
    const bool solved = m_network.solve(demand, at.volts, 0, flows);
    for (const std::size_t i : at.off)
        m_network.setOpen(i, false);
    return solved;
}

bool BatteryNode::isHeld(std::size_t guard) const {
    return std::find(m_held.begin(), m_held.end(), guard) != m_held.end();
}

bool BatteryNode::closes(std::size_t i, const NodePoint& point, const PackDrive& from) const {
    const auto& guard = std::get<Guard>(m_project.stages[i].part);
    if (inputOf(i, point.volts) < guard.reconnect.value_or(guard.cutoff).value())
        return false;
    m_network.setOpen(i, false);
    m_network.prepare(m_demand);
    const NodePoint loaded = at(from.amps, from.openCircuit, from.ohms);
    const bool stays =
        !loaded.collapsed && !fallsBelow(inputOf(i, loaded.volts), guard.cutoff.value());
    m_network.setOpen(i, true);
    m_network.prepare(m_demand);
    return stays;
}

bool BatteryNode::switches(std::size_t i, const NodePoint& point, const PackDrive& from) const {
    if (isHeld(i))
        return closes(i, point, from);
    return !point.collapsed && fallsBelow(inputOf(i, point.volts),
                                          std::get<Guard>(m_project.stages[i].part).cutoff.value());
}

bool BatteryNode::wouldSwitch(const NodePoint& point, const PackDrive& from) const {
    return std::any_of(m_guards.begin(), m_guards.end(),
                       [&](std::size_t i) { return switches(i, point, from); });
}

bool BatteryNode::switchAt(const NodePoint& point, const PackDrive& from) {
    std::vector<std::size_t> switching;
    for (const std::size_t i : m_guards)
        if (switches(i, point, from))
            switching.push_back(i);
    for (const std::size_t i : switching) {
        const bool held = isHeld(i);
        m_network.setOpen(i, !held);
        if (held)
            std::erase(m_held, i);
        else
            m_held.push_back(i);
    }
    m_network.prepare(m_demand);
    return !switching.empty();
}

void BatteryNode::switchOff() {
    for (std::size_t i = 0; i < m_project.loads.size(); ++i) {
        const auto way = pathToSource(m_project, m_project.loads[i].id);
        const auto first = std::find_if(way.rbegin(), way.rend(), [](const Stage* s) {
            return std::holds_alternative<Switch>(s->part);
        });
        if (first == way.rend())
            m_demand.draws[i] = {};
        else if (const std::size_t at = stageIndex(m_project, (*first)->id);
                 m_network.reachesStage(at))
            m_network.setOpen(at, true);
    }
    m_network.prepare(m_demand);
}

} // namespace sipper
