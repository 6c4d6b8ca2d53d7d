// SPDX-License-Identifier: GPL-3.0-or-later
// The capacitors of a network: which of them help in bursts, and what they give and take back.
#include "line/network.hpp"
#include "parts/figures.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace sipper {

namespace {

constexpr double kHeldSlack = 1e-10; ///< relative slack under a set-point that is held
constexpr int kLimitRounds = 40;     ///< of the volts that a capacitor at a limit falls

bool regulates(TransferKind way) {
    return way == TransferKind::linear || way == TransferKind::buck || way == TransferKind::boost ||
           way == TransferKind::buckBoost;
}

} // namespace

/// Which capacitors help, and what stands before each (docs/model.md: Stages).
void Network::findReservoirs(const Project& project) {
    const auto isCapacitor = [&](std::size_t i) {
        return std::holds_alternative<Capacitor>(project.stages[i].part);
    };
    // Nearest the load first: one that stands behind another makes that one leak only.
    std::vector<char> shadowed(m_nodes.size(), 0);
    for (auto at = m_order.rbegin(); at != m_order.rend(); ++at) {
        if (!isCapacitor(*at))
            continue;
        for (std::size_t up = m_nodes[*at].parent; up != m_pack && !regulates(m_nodes[up].kind);
             up = m_nodes[up].parent)
            shadowed[up] = 1;
        if (shadowed[*at])
            continue;
        const auto& part = std::get<Capacitor>(project.stages[*at].part);
        Reservoir c{*at, part.farad.value(), orZero(part.esr), 0, false, kNoBurst, {}};
        bool alone = true;
        std::size_t up = m_nodes[*at].parent;
        for (; up != m_pack && !regulates(m_nodes[up].kind); up = m_nodes[up].parent) {
            c.ohms += m_nodes[up].resistance;
            alone = alone &&
                    m_nodes[up].children.stages.size() + m_nodes[up].children.loads.size() == 1;
        }
        c.fromRoot = up == m_pack;
        if (!c.fromRoot && alone &&
            m_nodes[up].children.stages.size() + m_nodes[up].children.loads.size() == 1)
            c.regulator = up;
        c.behind.assign(m_loadCount, 0);
        std::vector<std::size_t> open{*at};
        while (!open.empty()) {
            const Children& children = m_nodes[open.back()].children;
            open.pop_back();
            for (const std::uint32_t l : children.loads)
                c.behind[l] = 1;
            for (const std::uint32_t child : children.stages)
                open.push_back(child);
        }
        m_nodes[*at].reservoir = true;
        m_capacitors.push_back(std::move(c));
    }
}

double Network::longestBurst(const Reservoir& c, std::size_t mode, std::size_t burst) const {
    double seconds = 0;
    for (std::size_t l = 0; l < m_loadCount; ++l)
        if (c.behind[l] && hasBurst(mode, l) && (burst == kAllBursts || burst == l))
            seconds = std::max(seconds, burstSeconds(mode, l));
    return seconds;
}

Demand Network::assisted(const Demand& demand, const Flows& plain, std::size_t mode,
                         std::size_t burst, double rootOhms, bool energy) const {
    Demand d = demand;
    d.assists.assign(m_nodes.size(), {});
    for (const Reservoir& c : m_capacitors) {
        const double seconds = longestBurst(c, mode, burst);
        const double before = c.ohms + (c.fromRoot ? rootOhms : 0);
        if (seconds <= 0 || before <= 0)
            continue;
        const double u = seconds / ((before + c.esr) * c.farad);
        const double share = energy ? -std::expm1(-u) / u : std::exp(-u);
        d.assists[c.stage].k = before / (before + c.esr) * share;
        d.assists[c.stage].modeOut = plain.stages[c.stage].iOut;
    }
    prepare(d);
    return d;
}

/// Amps at its set-point that a regulator's tightest limit leaves (docs/model.md: Stages).
double Network::limitAmps(const Node& n, const StageFlow& f) const {
    double amps = std::numeric_limits<double>::infinity();
    if (n.outputLimit > 0)
        amps = std::min(amps, n.outputLimit);
    if (n.powerLimit > 0)
        amps = std::min(amps, n.powerLimit / n.set);
    if (n.switchLimit > 0) {
        const double x = n.switchLimit;
        const bool up =
            n.kind == TransferKind::boost || (n.kind == TransferKind::buckBoost && f.vIn < n.set);
        const double scale = n.skipBelow > 0 ? std::min(1.0, x / n.skipBelow) : 1.0;
        const double lost =
            (n.fixed + n.switching * f.vIn) * scale + n.drop * x + n.resistance * x * x;
        amps = std::min(amps, up ? (f.vIn * x - lost) / n.set : x);
    }
    return amps;
}

bool Network::limitAssisted(Demand& d, const Flows& plain, const Flows& burst, std::size_t mode,
                            std::size_t which, double rootOhms, AtLimit at) const {
    bool any = false;
    for (const Reservoir& c : m_capacitors) {
        const bool held =
            at == AtLimit::assume ||
            (at == AtLimit::held && d.assists.size() > c.stage && d.assists[c.stage].fixed);
        if (c.regulator == kNoBurst ||
            !(held || overLimit(c.regulator, burst.stages[c.regulator], true)))
            continue;
        const StageFlow& reg = plain.stages[c.regulator];
        const StageFlow& cap = plain.stages[c.stage];
        const double spare = limitAmps(m_nodes[c.regulator], burst.stages[c.regulator]) - reg.iOut;
        const double seconds = longestBurst(c, mode, which);
        const double before = c.ohms + (c.fromRoot ? rootOhms : 0);
        if (!(spare > 0) || seconds <= 0 || reg.vOut < m_nodes[c.regulator].set * (1 - kHeldSlack))
            continue;
        double lower = before * spare; // V under the mode's, at the burst's own volts
        for (int round = 0; round < kLimitRounds; ++round) {
            const double amps = demandAt(m_nodes[c.stage].children, d, cap.vOut - lower) - cap.iOut;
            const double rest = amps - spare;
            if (!(rest > 0))
                break;
            const double tau = (before + c.esr) * c.farad;
            const double first =
                before > 0
                    ? std::max(0.0, tau * std::log(before * amps / ((before + c.esr) * rest)))
                    : 0.0;
            const double next = std::max(before * spare, c.esr * rest) +
                                rest * std::max(0.0, seconds - first) / c.farad;
            const bool settled = std::abs(next - lower) <= 1e-12 * (1 + next);
            lower = next;
            if (settled)
                break;
        }
        Demand::CapacitorSupport& a = d.assists[c.stage];
        a = {};
        a.fixed = true;
        a.input = cap.iIn + spare;
        a.extra = lower - before * spare;
        any = true;
    }
    if (any)
        prepare(d);
    return any;
}

void Network::addGiven(const Flows& flows, double share, std::vector<double>& given) const {
    given.resize(m_nodes.size(), 0);
    for (const Reservoir& c : m_capacitors) {
        const StageFlow& f = flows.stages[c.stage];
        given[c.stage] += share * (f.iOut + m_nodes[c.stage].quiescent - f.iIn);
    }
}

Demand Network::refilling(const Demand& demand, const std::vector<double>& amps) const {
    Demand d = demand;
    d.assists.assign(m_nodes.size(), {});
    for (const Reservoir& c : m_capacitors)
        d.assists[c.stage].more = amps[c.stage];
    prepare(d);
    return d;
}

} // namespace sipper
