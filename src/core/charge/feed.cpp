// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/feed.hpp"

#include "base/tolerance.hpp"
#include "line/chargeleg.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr int kPoints = 128;         ///< of the table; errors far under 1e-6
constexpr int kEdgeRounds = 16;      ///< of the search for what the way carries at all
constexpr double kBeyondLimit = 1.5; ///< of the source's limit: as far as anybody asks
constexpr double kLargestAmps = 20;  ///< into a charger; a larger source is followed further
constexpr double kProbeVolts = 1000; ///< far over what any way drops

/// The project with the charger as a load, so that the line's own solver has the way to it. The
/// way is the first of its feeds that comes from the source.
Project asLoad(const Project& project, const Stage& charger, const std::string& source) {
    Project p = project;
    p.variants.clear();
    Load load;
    load.id = charger.id;
    for (const std::string& feed : charger.fedBy) {
        const auto back = pathToSource(project, feed);
        const std::string root = back.empty() ? feed : back.back()->id;
        if (root == source || downstreamIds(project, source).contains(feed)) {
            load.fedBy = feed;
            break;
        }
    }
    Draw draw;
    draw.mode = p.modes[p.baseMode()].id;
    draw.current = Amps{0};
    load.draws = {draw};
    std::set<std::string> gone;
    for (const Stage& s : project.stages)
        if (isCharger(s.part)) {
            gone.insert(s.id);
            for (const Stage* leg : chargeLeg(project, s.id))
                gone.insert(leg->id);
        }
    std::erase_if(p.stages, [&](const Stage& s) { return gone.contains(s.id); });
    p.loads.push_back(std::move(load));
    return p;
}

/// The source, and the pack that is charged.
std::vector<std::size_t> presentIn(const Project& p, std::size_t source, const std::string& pack) {
    return {source, stageIndex(p, pack)};
}

} // namespace

ChargerInput::ChargerInput(const Project& project, std::size_t charger, std::size_t source,
                           std::size_t mode, Celsius ambient, int alike)
    : m_project(asLoad(project, project.stages[charger], project.stages[source].id)),
      m_source(sourceModel(project.stages[source].part)),
      m_sourceIndex(stageIndex(m_project, project.stages[source].id)),
      m_asLoad(m_project.loads.size() - 1),
      m_network(
          m_project, ambient, {},
          {m_sourceIndex, presentIn(m_project, m_sourceIndex,
                                    std::get<Charger>(project.stages[charger].part).charges)}),
      m_demand(m_network.demand(mode, Network::kNoBurst)) {
    for (const Stage* s : pathToSource(m_project, m_project.loads[m_asLoad].id))
        m_regulated = m_regulated || isRegulator(s->part);
    if (m_source.ohms > 0 && !m_source.beyond)
        m_source.limit = 0; // a transformer or a pack sags further; it has nothing to let go with
    m_source.ohms *= alike; // all of them pull at once
    lookForPlainWay();
    if (!m_plain)
        tabulate();
    if (const auto idle = at(0)) {
        m_noLoad = idle->volts;
        m_others = idle->sourceAmps;
    }
    if (m_source.limit > 0)
        m_source.limit = m_others + std::max(0.0, m_source.limit - m_others) / alike;
    m_high = m_noLoad + m_source.high - m_source.volts;
}

/// Wires, diodes, fuses and closed switches only, and no load but the charger: closed form.
void ChargerInput::lookForPlainWay() {
    m_plain = true;
    for (std::size_t i = 0; i < m_project.loads.size(); ++i)
        if (i != m_asLoad && m_network.reachesLoad(i))
            m_plain = false;
    for (const std::size_t i : m_network.order()) {
        const Physics physics = physicsOf(m_project.stages[i].part, Celsius{25});
        m_plain =
            m_plain && (physics.kind == TransferKind::series || physics.kind == TransferKind::fuse);
    }
    if (!m_plain)
        return;
    // What 1 A and 2 A cost tells ohms and drops; the network itself says so.
    const auto lost = [&](double amps) {
        const bool solved = m_network.solve(demandOf(amps), kProbeVolts, 0, m_flows);
        return solved ? kProbeVolts - m_flows.loads[m_asLoad].v : std::nan("");
    };
    const double one = lost(1);
    const double two = lost(2);
    m_ohms = two - one;
    m_drops = one - m_ohms;
    m_plain = std::isfinite(one) && std::isfinite(two);
}

const Demand& ChargerInput::demandOf(double inputAmps) const {
    m_demand.draws[m_asLoad] = {Demand::Kind::current, inputAmps};
    if (m_regulated || !m_demand.together.empty()) // what it caches has the charger's in it
        m_network.prepare(m_demand);
    return m_demand;
}

bool ChargerInput::flowsAt(double inputAmps, Flows& flows) const {
    if (!m_network.solve(demandOf(inputAmps), m_source.volts, m_source.ohms, flows))
        return false;
    StageFlow& source = flows.stages[m_sourceIndex];
    source.vIn = source.vOut = flows.sourceVolts;
    source.iIn = source.iOut = flows.sourceAmps;
    return true;
}

std::optional<FeedPoint> ChargerInput::at(double inputAmps) const {
    if (m_plain) {
        const double terminals = m_source.volts - m_source.ohms * inputAmps;
        const double volts = terminals - m_drops - m_ohms * inputAmps;
        if (!(volts > 0))
            return std::nullopt;
        return FeedPoint{volts, terminals, inputAmps};
    }
    if (inputAmps < 0 || inputAmps > m_most)
        return std::nullopt;
    return FeedPoint{m_volts.at(inputAmps), m_terminals.at(inputAmps), m_amps.at(inputAmps)};
}

/// Loads and regulators on the way move smoothly with the charger's amps: a curve through enough
/// of them is as good as solving the line anew for every question.
void ChargerInput::tabulate() {
    const double bound = std::max(kLargestAmps, kBeyondLimit * m_source.limit);
    m_most = solved(bound) ? bound : bisect(0, bound, kEdgeRounds, [&](double amps) {
        return solved(amps).has_value();
    });
    Table volts;
    Table terminals;
    Table amps;
    for (int k = 0; k <= kPoints; ++k) {
        const double at = m_most * k / kPoints;
        const auto point = solved(at);
        if (!point)
            break;
        volts.emplace_back(at, point->volts);
        terminals.emplace_back(at, point->sourceVolts);
        amps.emplace_back(at, point->sourceAmps);
    }
    if (volts.size() < 2) { // it carries nothing at all
        m_most = -1;
        return;
    }
    m_most = volts.back().first;
    m_volts = Curve(volts);
    m_terminals = Curve(terminals);
    m_amps = Curve(amps);
}

std::optional<FeedPoint> ChargerInput::solved(double inputAmps) const {
    if (!flowsAt(inputAmps, m_flows))
        return std::nullopt;
    return FeedPoint{m_flows.loads[m_asLoad].v, m_flows.sourceVolts, m_flows.sourceAmps};
}

std::optional<FeedPoint> ChargerInput::inCurrentLimit(double inputVolts, double inputAmps) const {
    const auto full = at(inputAmps);
    if (!full)
        return std::nullopt;
    return FeedPoint{inputVolts, full->sourceVolts - (full->volts - inputVolts), full->sourceAmps};
}

} // namespace sipper
