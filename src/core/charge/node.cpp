#include "charge/node.hpp"

#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "quantity/slack.hpp"

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
        if (guard && under(inputOf(i, startVolts), guard->cutoff.value())) {
            m_held.push_back(i);
            m_network.setOpen(i, true);
        }
        if (isRegulator(part) && inputMinOf(part) > 0)
            m_watched.push_back(i);
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
    if (m_network.empty())
        return 0;
    if (m_watched.empty()) {
        const double amps = m_network.current(m_demand, e, r);
        return std::isfinite(amps) ? amps : 0;
    }
    // From the pack outwards: what is under its minimum is off at this voltage.
    std::vector<std::size_t> opened;
    Demand demand = m_demand;
    double amps = 0;
    for (std::size_t round = 0; round <= m_watched.size(); ++round) {
        const bool solved = m_network.solve(demand, e, r, m_flows);
        amps = solved ? m_flows.sourceAmps : 0;
        const auto next = std::find_if(m_watched.begin(), m_watched.end(), [&](std::size_t i) {
            return solved && m_flows.stages[i].state != StageState::off &&
                   under(m_flows.stages[i].vIn, inputMinOf(m_project.stages[i].part));
        });
        if (next == m_watched.end())
            break;
        m_network.setOpen(*next, true);
        opened.push_back(*next);
        m_network.prepare(demand);
    }
    for (const std::size_t i : opened)
        m_network.setOpen(i, false);
    return amps;
}

NodePoint BatteryNode::at(double amps, double openCircuit, double ohms) const {
    // The charger's current through the pack's resistance lifts what the line is fed from.
    NodePoint point;
    point.loadAmps = load(openCircuit + ohms * amps, ohms);
    point.packAmps = amps - point.loadAmps;
    point.volts = openCircuit + ohms * point.packAmps;
    return point;
}

bool BatteryNode::flowsAt(double volts, Flows& flows) const {
    const double amps = load(volts, 0);
    if (!m_watched.empty()) {
        flows = m_flows;
        return std::isfinite(amps);
    }
    return m_network.solve(m_demand, volts, 0, flows);
}

bool BatteryNode::wouldClose(double volts) const {
    return std::any_of(m_held.begin(), m_held.end(), [&](std::size_t i) {
        const auto& guard = std::get<Guard>(m_project.stages[i].part);
        return inputOf(i, volts) >= guard.reconnect.value_or(guard.cutoff).value();
    });
}

void BatteryNode::close(double volts) {
    std::vector<std::size_t> closing;
    for (const std::size_t i : m_held) {
        const auto& guard = std::get<Guard>(m_project.stages[i].part);
        if (inputOf(i, volts) >= guard.reconnect.value_or(guard.cutoff).value())
            closing.push_back(i);
    }
    for (const std::size_t i : closing) {
        m_network.setOpen(i, false);
        std::erase(m_held, i);
    }
    m_network.prepare(m_demand);
}

} // namespace sipper
