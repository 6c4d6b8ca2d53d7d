// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/tree.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kNoAnswer = std::numeric_limits<double>::quiet_NaN();
constexpr double kAtEdge = 1e-10;   ///< relative slack where two regimes meet, as in the network
constexpr double kOverSet = 1e-6;   ///< by which one that dropped out may seem over its set-point
constexpr double kReached = 1e-12;  ///< of an edge: a shortened step ends on it
constexpr double kStill = 1e-10;    ///< relative move after which the next is under rounding
constexpr double kSlopeStep = 1e-7; ///< of the volts, for a slope by difference
constexpr int kNewtonRounds = 120;  ///< at a double root each step halves the distance

} // namespace

double Network::Tree::current(const Children& c, double e, double r) {
    m_at.assign(m_network.m_nodes.size(), {});
    do {
        const double amps = attempt(c, e, r);
        if (std::isfinite(amps) && consistent())
            return amps;
    } while (forceNext());
    return kNoAnswer;
}

/// From nothing drawn down to the answer.
double Network::Tree::attempt(const Children& c, double e, double r) {
    for (At& at : m_at) {
        const bool forced = at.forced;
        at = {};
        at.forced = forced;
    }
    double v = e;
    for (int round = 0; round < kNewtonRounds; ++round) {
        m_gone = false;
        const Slope takes = demandOf(c, v);
        const double bend = 1 + takes.perVolt * r;
        if (m_gone || !std::isfinite(takes.amps) || !(bend > 0))
            return kNoAnswer;
        const double amps = (takes.amps + takes.perVolt * (e - v)) / bend;
        const double full = e - r * amps;
        propose(c, v, full);
        const double share = shareTo(c, v, full);
        const double next = v + share * (full - v);
        const double moved =
            std::max(take(c, share), std::abs(next - v) / std::max(std::abs(v), kAtEdge));
        v = next;
        if (!turn(c, v) && share >= 1 && moved <= kStill)
            return amps;
    }
    return kNoAnswer;
}

Network::Tree::Slope Network::Tree::gone() {
    m_gone = true;
    return {};
}

Network::Tree::Slope Network::Tree::loadsAt(const Children& c, double v) {
    Slope sum{c.shunt * v, c.shunt};
    const auto lit = [&](const Demand::Draw& draw) { return v > draw.from ? draw.value : 0; };
    if (c.loads.size() >= kManyLoads) {
        const Demand::Together& all = m_demand.together[c.place];
        const double amps = all.at(v, m_demand.draws);
        if (!std::isfinite(amps))
            return gone();
        sum.amps += amps;
        if (v > 0)
            sum.perVolt += all.siemens - all.watts / (v * v);
        for (const std::uint32_t i : all.lights)
            sum.perVolt += lit(m_demand.draws[i]);
        return sum;
    }
    for (const std::uint32_t i : c.loads) {
        const Demand::Draw& draw = m_demand.draws[i];
        const double amps = loadCurrent(draw, v, 0);
        if (!std::isfinite(amps))
            return gone();
        sum.amps += amps;
        switch (draw.kind) {
        case Demand::Kind::current:
            break;
        case Demand::Kind::power:
            sum.perVolt -= amps == 0 ? 0 : amps / v;
            break;
        case Demand::Kind::resistance:
            sum.perVolt += v > 0 ? 1 / draw.value : 0;
            break;
        case Demand::Kind::light:
            sum.perVolt += lit(draw);
            break;
        case Demand::Kind::string:
            break;
        }
    }
    return sum;
}

Network::Tree::Slope Network::Tree::demandOf(const Children& c, double v) {
    Slope sum = loadsAt(c, v);
    if (m_gone)
        return {};
    for (const std::uint32_t i : c.stages) {
        At& at = m_at[i];
        at.visited = true;
        at.u = v;
        at.in = stageAt(i, v);
        if (m_gone)
            return {};
        sum.amps += at.in.amps;
        sum.perVolt += at.in.perVolt;
    }
    return sum;
}

Network::Tree::Slope Network::Tree::stageAt(std::size_t index, double u) {
    const Node& n = m_network.m_nodes[index];
    At& at = m_at[index];
    at.held = false;
    at.coupled = false;
    if (n.open)
        return n.kind == TransferKind::guard ? Slope{openCurrent(n, u, 0), u > 0 ? n.shunt : 0}
                                             : Slope{};
    Slope in;
    if (n.setAmps > 0) {
        in = driverAt(index, u);
        return {in.amps + n.shunt * u, in.perVolt + n.shunt};
    }
    switch (n.kind) {
    case TransferKind::series:
    case TransferKind::fuse:
    case TransferKind::guard:
        in = seriesAt(index, u);
        break;
    case TransferKind::linear:
        in = linearAt(index, u);
        break;
    case TransferKind::buck:
        in = buckAt(index, u);
        break;
    case TransferKind::boost:
        in = boostAt(index, u);
        break;
    case TransferKind::buckBoost:
        in = buckBoostAt(index, u);
        break;
    }
    return {in.amps + n.shunt * u, in.perVolt + n.shunt};
}

Network::Tree::Slope Network::Tree::follow(std::size_t index, double u, double gain, double drop,
                                           double ohms) {
    At& at = m_at[index];
    at.coupled = true;
    at.gain = gain;
    at.drop = drop;
    at.ohms = ohms;
    const double unloaded = gain * u - drop;
    if (!at.begun) {
        at.begun = true;
        at.volts = unloaded;
    }
    if (ohms == 0)
        at.volts = unloaded;
    const Slope takes = demandOf(m_network.m_nodes[index].children, at.volts);
    const double bend = 1 + takes.perVolt * ohms;
    if (m_gone || !(bend > 0))
        return gone();
    at.out = {(takes.amps + takes.perVolt * (unloaded - at.volts)) / bend,
              takes.perVolt * gain / bend};
    return at.out;
}

Network::Tree::Slope Network::Tree::seriesAt(std::size_t index, double u) {
    const Node& n = m_network.m_nodes[index];
    if (!m_demand.assists.empty() && n.reservoir) {
        const Demand::CapacitorSupport& a = m_demand.assists[index];
        if (a.fixed)
            return {a.input, 0};
        const Slope out = follow(index, u, 1, 0, 0);
        return {n.quiescent + a.k * a.modeOut + a.more + (1 - a.k) * out.amps,
                (1 - a.k) * out.perVolt};
    }
    const Slope out = follow(index, u, 1, n.drop, n.resistance);
    return {out.amps + n.quiescent, out.perVolt};
}

/// A current regulator: nothing behind it moves its input but the input's own volts.
Network::Tree::Slope Network::Tree::driverAt(std::size_t index, double u) {
    const Node& n = m_network.m_nodes[index];
    const Demand::Drive& drive = m_demand.drives[index];
    const double amps = drivenFrom(n, drive, u, 0).input;
    if (!std::isfinite(amps))
        return gone();
    At& at = m_at[index];
    at.left = at.left || at.forced || !(u >= edgeOf(index));
    at.held = !at.left && drive.amps > 0 &&
              (n.kind == TransferKind::linear || n.kind == TransferKind::buck);
    const double step = kSlopeStep * u;
    const double lower = drivenFrom(n, drive, u - step, 0).input;
    return {amps, std::isfinite(lower) && step > 0 ? (amps - lower) / step : 0};
}

double Network::Tree::edgeOf(std::size_t index) const {
    const Node& n = m_network.m_nodes[index];
    if (n.setAmps > 0)
        return driverEdge(n, m_demand.drives[index]);
    const double set = m_demand.atSetPoint[index];
    if (!std::isfinite(set))
        return std::numeric_limits<double>::infinity();
    return n.kind == TransferKind::linear
               ? (n.set + n.dropout) * (1 - kAtEdge) + set * n.dropoutPerAmp
               : (n.set * (1 - kAtEdge) + n.drop + set * n.resistance) / n.duty;
}

Network::Tree::Slope Network::Tree::linearAt(std::size_t index, double u) {
    const Node& n = m_network.m_nodes[index];
    At& at = m_at[index];
    at.left = at.left || at.forced || !(u >= edgeOf(index));
    if (!at.left) {
        at.held = true;
        return {m_demand.atSetPoint[index] + n.quiescent, 0};
    }
    const Slope out = follow(index, u, 1, n.dropout, n.dropoutPerAmp);
    return {out.amps + n.quiescent, out.perVolt};
}

Network::Tree::Slope Network::Tree::stepDownAt(const Node& n, double set, double u) const {
    const double amps = stepDown(n, set, u, 0);
    const double scale = n.skipBelow > 0 ? std::min(1.0, set / n.skipBelow) : 1.0;
    return {amps + n.quiescent, -(amps - n.switching * scale) / u};
}

Network::Tree::Slope Network::Tree::buckAt(std::size_t index, double u) {
    const Node& n = m_network.m_nodes[index];
    At& at = m_at[index];
    at.left = at.left || at.forced || !(u >= edgeOf(index));
    if (!at.left) {
        at.held = true;
        const double set = m_demand.atSetPoint[index];
        return set == 0 ? Slope{n.quiescent, 0} : stepDownAt(n, set, u);
    }
    const Slope out = follow(index, u, n.duty, n.drop, n.resistance);
    if (m_gone)
        return {};
    if (!(u > 0))
        return out.amps == 0 ? Slope{n.quiescent, 0} : gone();
    const double full = n.fixed / u + n.switching;
    const bool skips = n.skipBelow > 0 && out.amps < n.skipBelow;
    const double scale = skips ? out.amps / n.skipBelow : out.amps > 0 ? 1 : 0;
    const double share = n.duty + (skips ? full / n.skipBelow : 0);
    return {n.duty * out.amps + full * scale + n.quiescent,
            share * out.perVolt - n.fixed / (u * u) * scale};
}

/// From u j = p + (fixed + switching u) s(j) + drop j + R j^2 by its differential.
Network::Tree::Slope Network::Tree::stepUpAt(const Node& n, double set, double u) {
    const double j = stepUp(n, set, u, 0);
    if (!std::isfinite(j))
        return gone();
    const bool skips = n.skipBelow > 0 && j < n.skipBelow;
    const double scale = skips ? j / n.skipBelow : 1;
    const double bend =
        u - n.drop - 2 * n.resistance * j - (skips ? (n.fixed + n.switching * u) / n.skipBelow : 0);
    return {j + n.quiescent, bend > 0 ? -(j - n.switching * scale) / bend : 0};
}

Network::Tree::Slope Network::Tree::boostAt(std::size_t index, double u) {
    const Node& n = m_network.m_nodes[index];
    At& at = m_at[index];
    const double set = m_demand.atSetPoint[index];
    if (n.holds) {
        at.left = at.left || !(u - n.drop - set * n.resistance > n.set);
        if (!at.left)
            return {set + n.quiescent, 0};
    } else {
        at.left = at.left || !(u - n.drop > n.set);
        if (!at.left) {
            const Slope out = follow(index, u, 1, n.drop, n.resistance);
            return {out.amps + n.quiescent, out.perVolt};
        }
    }
    return set == 0 ? Slope{n.quiescent, 0} : stepUpAt(n, set, u);
}

Network::Tree::Slope Network::Tree::buckBoostAt(std::size_t index, double u) {
    const Node& n = m_network.m_nodes[index];
    const double set = m_demand.atSetPoint[index];
    if (set == 0)
        return {n.quiescent, 0};
    At& at = m_at[index];
    at.left = at.left || !(u >= n.set);
    return at.left ? stepUpAt(n, set, u) : stepDownAt(n, set, u);
}

void Network::Tree::propose(const Children& c, double u, double next) {
    for (const std::uint32_t i : c.stages) {
        At& at = m_at[i];
        at.input = at.in.amps + at.in.perVolt * (next - u);
        if (!at.coupled)
            continue;
        at.output = at.out.amps + at.out.perVolt * (next - u);
        at.next = at.gain * next - at.drop - at.ohms * at.output;
        propose(m_network.m_nodes[i].children, at.volts, at.next);
    }
}

/// The share of the step at which the first regulator comes to its edge.
double Network::Tree::shareTo(const Children& c, double u, double next) const {
    double share = 1;
    for (const std::uint32_t i : c.stages) {
        const At& at = m_at[i];
        if (at.held && next < u)
            if (const double edge = edgeOf(i); next < edge)
                share = std::min(share, std::max(0.0, (u - edge) / (u - next)));
        if (at.coupled)
            share = std::min(share, shareTo(m_network.m_nodes[i].children, at.volts, at.next));
    }
    return share;
}

double Network::Tree::take(const Children& c, double share) {
    double most = 0;
    for (const std::uint32_t i : c.stages) {
        At& at = m_at[i];
        if (!at.coupled)
            continue;
        const double next = at.volts + share * (at.next - at.volts);
        most = std::max({most, std::abs(next - at.volts) / std::max(std::abs(at.volts), kAtEdge),
                         take(m_network.m_nodes[i].children, share)});
        at.volts = next;
    }
    return most;
}

/// What has come to its edge has lost it for good: the answer lies under it.
bool Network::Tree::turn(const Children& c, double u) {
    bool turned = false;
    for (const std::uint32_t i : c.stages) {
        const Node& n = m_network.m_nodes[i];
        At& at = m_at[i];
        const bool passing = at.coupled && n.kind == TransferKind::boost && !(at.volts > n.set);
        const bool lost = at.held && u <= edgeOf(i) * (1 + kReached);
        if (passing || lost) {
            at.left = true;
            at.begun = false;
            turned = true;
        } else if (at.coupled) {
            turned = turn(n.children, at.volts) || turned;
        }
    }
    return turned;
}

bool Network::Tree::consistent() const {
    for (std::size_t i = 0; i < m_at.size(); ++i) {
        const Node& n = m_network.m_nodes[i];
        if (m_at[i].visited && m_at[i].coupled &&
            (n.kind == TransferKind::linear || n.kind == TransferKind::buck) &&
            !(m_at[i].volts <= n.set * (1 + kOverSet)))
            return false;
    }
    return true;
}

/// With every set-point held there is no answer: the regulator nearest its edge may be dropping
/// out, which takes less of its input. False where none is left.
bool Network::Tree::forceNext() {
    At* nearest = nullptr;
    double least = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < m_at.size(); ++i)
        if (At& at = m_at[i]; at.visited && at.held && at.u / edgeOf(i) < least) {
            least = at.u / edgeOf(i);
            nearest = &at;
        }
    if (!nearest)
        return false;
    nearest->forced = true;
    return true;
}

} // namespace sipper
