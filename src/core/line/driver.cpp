// SPDX-License-Identifier: GPL-3.0-or-later
// A regulator that holds a current: what it gives to the light strings behind it (docs/model.md:
// Stages).
#include "line/network.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kEdgeOfRegime = 1e-10; ///< relative slack where two regimes meet
constexpr double kFallsDark = 0.02;     ///< of a string's volts, over which its current goes to 0
constexpr int kOwnLossRounds = 40;      ///< of the fixed loss in a buck that follows its input
constexpr double kFull = 1 - 1e-9;      ///< share of the set current that counts as all of it

bool inLine(TransferKind kind) {
    return kind == TransferKind::series || kind == TransferKind::fuse ||
           kind == TransferKind::guard;
}

} // namespace

Network::Strings Network::stringsBehind(const Children& c, const Demand& d) const {
    Strings all;
    for (const std::uint32_t i : c.loads)
        if (d.draws[i].kind == Demand::Kind::string) {
            all.any = true;
            all.amps += d.draws[i].value;
        }
    for (const std::uint32_t i : c.stages) {
        if (m_nodes[i].open || !inLine(m_nodes[i].kind))
            continue;
        const Strings behind = stringsBehind(m_nodes[i].children, d);
        all.any = all.any || behind.any;
        all.amps += behind.amps;
    }
    return all;
}

double Network::stringVolts(const Children& c, const Demand& d, double perAmp, bool lit) const {
    double most = 0;
    for (const std::uint32_t i : c.loads)
        if (d.draws[i].kind == Demand::Kind::string && (!lit || d.draws[i].value > 0))
            most = std::max(most, d.draws[i].from);
    for (const std::uint32_t i : c.stages) {
        const Node& n = m_nodes[i];
        if (n.open || !inLine(n.kind))
            continue;
        const Strings behind = stringsBehind(n.children, d);
        if (!behind.any || (lit && behind.amps == 0))
            continue;
        most = std::max(most, stringVolts(n.children, d, perAmp, lit) + n.drop +
                                  n.resistance * behind.amps * perAmp);
    }
    return most;
}

Demand::Drive Network::driveOf(const Node& n, const Demand& d) const {
    Demand::Drive drive;
    const Strings strings = stringsBehind(n.children, d);
    const double most = n.outputMax > 0 ? n.outputMax : n.set;
    if (!strings.any) { // nothing that sets its volts: it stands at its highest
        drive.volts = most;
        drive.amps = demandAt(n.children, d, most);
        return drive;
    }
    drive.strings = true;
    const bool lit = strings.amps > 0;
    const double perAmp = lit ? n.setAmps / strings.amps : 0;
    drive.volts = stringVolts(n.children, d, perAmp, lit);
    drive.reached = n.outputMax <= 0 || drive.volts <= n.outputMax * (1 + kEdgeOfRegime);
    if (!drive.reached)
        drive.volts = n.outputMax;
    if (!lit || !drive.reached)
        return drive;
    drive.share = std::min(1.0, strings.amps / n.setAmps);
    drive.wanted = strings.amps;
    const double others = demandAt(n.children, d, drive.volts); // a mistake, but it draws
    drive.amps = n.setAmps + others / drive.share;
    return drive;
}

double Network::followed(const Node& n, const Demand::Drive& drive, double e, double r) {
    const double a = drive.amps;
    const double slope = kFallsDark * drive.volts / a;
    switch (n.kind) {
    case TransferKind::linear: {
        const double ohms = slope + n.dropoutPerAmp;
        const double missing = drive.volts + n.dropout + n.dropoutPerAmp * a - e;
        return std::max(0.0, (a * ohms - missing) / (ohms + r * drive.share));
    }
    case TransferKind::buck: {
        const double ohms = slope + n.resistance;
        double own = 0;
        double x = 0;
        for (int round = 0; round < kOwnLossRounds; ++round) {
            const double missing = drive.volts + n.drop + n.resistance * a - n.duty * (e - r * own);
            const double next =
                std::max(0.0, (a * ohms - missing) / (ohms + n.duty * n.duty * r * drive.share));
            const double v = e - r * (n.duty * drive.share * next + own);
            const double scale =
                n.skipBelow > 0 ? std::min(1.0, next / n.skipBelow) : (next > 0 ? 1.0 : 0.0);
            const bool settled = std::abs(next - x) <= 1e-13 * a;
            x = next;
            if (!(v > 0) || (settled && round > 0) || r == 0)
                break;
            own = drive.share * (n.fixed / v + n.switching) * scale;
        }
        return x;
    }
    default: { // a boost whose string is under its input: nothing holds the current
        const double ohms = slope + n.resistance;
        return (a * slope + e - n.drop - drive.volts) / (ohms + r * drive.share);
    }
    }
}

Network::Driven Network::drivenFrom(const Node& n, const Demand::Drive& drive, double e, double r) {
    Driven at;
    at.state = n.kind == TransferKind::linear ? StageState::regulating : StageState::steppingDown;
    at.volts = drive.volts;
    at.input = n.quiescent;
    if (drive.amps == 0)
        return at;
    if (!std::isfinite(drive.amps)) {
        at.input = drive.amps;
        return at;
    }
    const double a = drive.amps;
    const double rest = e - r * n.quiescent;
    const double slow = r * drive.share; // the source sees the mean
    Physics held = n;
    held.set = drive.volts;
    at.output = at.inductor = a;
    const auto gives = [&](double input) { at.input = drive.share * input + n.quiescent; };
    const auto follow = [&](double x) {
        at.output = at.inductor = x;
        at.volts = drive.volts - kFallsDark * drive.volts * (1 - x / a);
        at.state = StageState::droppingOut;
    };
    switch (n.kind) {
    case TransferKind::linear:
        if (rest - slow * a - n.dropout - n.dropoutPerAmp * a < drive.volts * (1 - kEdgeOfRegime))
            follow(followed(n, drive, rest, r));
        gives(at.output);
        break;
    case TransferKind::buck: {
        const double j = stepDown(held, a, rest, slow);
        if ((rest - slow * j) * n.duty - n.drop - a * n.resistance >=
            drive.volts * (1 - kEdgeOfRegime)) {
            gives(j);
            break;
        }
        const double x = followed(n, drive, rest, r);
        follow(x);
        const double scale = n.skipBelow > 0 ? std::min(1.0, x / n.skipBelow) : (x > 0 ? 1 : 0);
        // V j = duty V x + fixed + switching V, V = rest - slow j.
        const double fixedAmps = n.duty * x + n.switching * scale;
        const double left = rest - slow * fixedAmps;
        const double square = left * left - 4 * slow * n.fixed * scale;
        if (x > 0)
            gives(fixedAmps + (left > 0 && square >= 0
                                   ? 2 * n.fixed * scale / (left + std::sqrt(square))
                                   : std::numeric_limits<double>::quiet_NaN()));
        break;
    }
    case TransferKind::boost:
        if (n.holds && rest - slow * a - n.drop - a * n.resistance > drive.volts) {
            at.state = StageState::holding;
            gives(a);
            break;
        }
        if (!n.holds)
            if (const double x = followed(n, drive, rest, r); x > a) {
                follow(x);
                at.state = StageState::passing;
                gives(x);
                break;
            }
        at.inductor = stepUp(held, a, rest, slow);
        at.state = StageState::steppingUp;
        gives(at.inductor);
        break;
    default: { // a buck-boost
        const double down = stepDown(held, a, rest, slow);
        if (rest - slow * down >= drive.volts) {
            gives(down);
            break;
        }
        at.inductor = stepUp(held, a, rest, slow);
        at.state = StageState::steppingUp;
        gives(at.inductor);
    }
    }
    return at;
}

double Network::driverEdge(const Node& n, const Demand::Drive& drive) {
    const double at = drive.volts * (1 - kEdgeOfRegime);
    return n.kind == TransferKind::linear ? at + n.dropout + n.dropoutPerAmp * drive.amps
                                          : (at + n.drop + n.resistance * drive.amps) / n.duty;
}

void Network::flowStrings(const Children& c, const Demand& d, double v, const Lit& lit,
                          Flows& flows) const {
    for (const std::uint32_t i : c.loads) {
        LoadFlow& load = flows.loads[i];
        load = {};
        load.v = std::max(0.0, v);
        if (d.draws[i].kind != Demand::Kind::string) {
            load.i = loadCurrent(d.draws[i], v, 0);
            continue;
        }
        load.i = d.draws[i].value * lit.share;
        load.starved = lit.starved;
        if (d.draws[i].value == 0 && !lit.starved)
            load.v = std::min(load.v, d.draws[i].from);
    }
    for (const std::uint32_t i : c.stages) {
        const Node& n = m_nodes[i];
        const Strings behind = stringsBehind(n.children, d);
        if (n.open || !inLine(n.kind) || !behind.any) {
            flowStage(n, i, d, v, std::numeric_limits<double>::quiet_NaN(), flows, nullptr);
            continue;
        }
        StageFlow& f = flows.stages[i];
        f = {};
        f.vIn = std::max(0.0, v);
        const double others = stageCurrent(n, i, d, v, 0) - n.quiescent;
        f.iOut = behind.amps * lit.share + others;
        f.iIn = f.iOut + n.quiescent;
        f.vOut = std::max(0.0, v - n.drop - n.resistance * (behind.amps * lit.onPerAmp + others));
        f.state = StageState::on;
        flowStrings(n.children, d, f.vOut, lit, flows);
    }
}

void Network::flowDriver(const Node& n, std::size_t index, const Demand& d, double v,
                         Flows& flows) const {
    StageFlow& f = flows.stages[index];
    const Demand::Drive& drive = d.drives[index];
    const Driven at = drivenFrom(n, drive, v, 0);
    f.iIn = at.input + n.shunt * v;
    f.vOut = std::max(0.0, at.volts);
    f.inductor = at.inductor;
    f.state = at.state;
    const double share = drive.amps > 0 ? at.output / drive.amps : 1;
    f.iOut = at.output * drive.share;
    Lit lit;
    lit.starved = !drive.reached || share < kFull;
    if (!drive.reached)
        lit.share = 0;
    if (drive.wanted > 0) {
        const double mean = std::min(drive.wanted, n.setAmps) * share;
        lit.share = drive.reached ? mean / drive.wanted : 0;
        lit.onPerAmp = n.setAmps * share / drive.wanted;
    }
    flowStrings(n.children, d, f.vOut, lit, flows);
}

} // namespace sipper
