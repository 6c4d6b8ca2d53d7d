// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/network.hpp"

#include "base/tolerance.hpp"
#include "line/fixedpoint.hpp"
#include "line/sources.hpp"
#include "line/tree.hpp"
#include "parts/figures.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace sipper {
namespace {

constexpr double kNone = std::numeric_limits<double>::quiet_NaN();
constexpr double kEdge = 1e-10;       ///< relative slack where two regimes meet
constexpr double kHintBelow = 0.9995; ///< how far under a hint the search begins
constexpr int kDropoutRounds = 40;    ///< of the fixed loss in a buck that follows its input

/// Smaller root j of (e - r j) j = p: the solution of the higher voltage.
double powerBehind(double p, double e, double r) {
    if (p == 0)
        return 0;
    if (e <= 0)
        return kNone;
    const double square = e * e - 4 * r * p;
    if (square < 0)
        return kNone;
    return 2 * p / (e + std::sqrt(square));
}

} // namespace

std::string_view stateName(StageState state) {
    static constexpr std::array<std::string_view, 9> names{
        "on",      "regulating", "dropping_out", "stepping_down", "stepping_up", "passing",
        "holding", "limiting",   "off"};
    return names[static_cast<std::size_t>(state)];
}

double Network::demandAt(const Children& c, const Demand& d, double v) const {
    return nested(c) ? Tree(*this, d).current(c, v, 0) : sum(c, d, v);
}

double Demand::Together::at(double v, const std::vector<Draw>& list) const {
    double sum = amps;
    if ((amps != 0 || watts != 0) && !(v > 0))
        return kNone;
    if (v > 0)
        sum += watts / v + siemens * v;
    for (const std::uint32_t i : lights)
        sum += v > list[i].from ? list[i].value * (v - list[i].from) : 0;
    return sum;
}

double Network::loadsAt(const Children& c, const Demand& d, double v) const {
    if (c.loads.size() >= kManyLoads)
        return d.together[c.place].at(v, d.draws);
    double amps = 0;
    for (const std::uint32_t i : c.loads)
        amps += loadCurrent(d.draws[i], v, 0);
    return amps;
}

double Network::loadCurrent(const Demand::Draw& draw, double e, double r) {
    switch (draw.kind) {
    case Demand::Kind::current:
        if (draw.value == 0)
            return 0;
        return e - r * draw.value > 0 ? draw.value : kNone;
    case Demand::Kind::power:
        return powerBehind(draw.value, e, r);
    case Demand::Kind::resistance:
        return e > 0 ? e / (r + draw.value) : 0;
    case Demand::Kind::light:
        return e > draw.from ? draw.value * (e - draw.from) / (1 + r * draw.value) : 0;
    case Demand::Kind::string: // its driver pushes it
        return 0;
    }
    return kNone;
}

double Network::sum(const Children& c, const Demand& d, double v) const {
    double amps = c.shunt * v + loadsAt(c, d, v);
    for (const std::uint32_t i : c.stages)
        amps += stageCurrent(m_nodes[i], i, d, v, 0);
    return amps;
}

double Network::branch(const Children& c, const Demand& d, double e, double r, double hint) const {
    if (r == 0)
        return sum(c, d, e);
    if (c.shunt == 0)
        return fork(c, d, e, r, hint);
    const double weaker = 1 + r * c.shunt; // with the shunt, the source is a weaker one (Thevenin)
    const double amps = fork(c, d, e / weaker, r / weaker, hint);
    return amps + c.shunt * (e - r * amps) / weaker;
}

double Network::fork(const Children& c, const Demand& d, double e, double r, double hint) const {
    // Constant currents only shift the voltage; what is left may be one thing, solved in closed
    // form.
    double constant = 0;
    std::size_t others = c.stages.size();
    std::size_t load = 0;
    if (c.loads.size() >= kManyLoads)
        return smallestFixedPoint([&](double i) { return sum(c, d, e - r * i); },
                                  std::max(0.0, hint), std::max(0.0, e / r), m_tolerance)
            .value_or(kNone);
    for (const std::uint32_t i : c.loads)
        if (d.draws[i].kind == Demand::Kind::current) {
            constant += d.draws[i].value;
        } else {
            ++others;
            load = i;
        }
    const double shifted = e - r * constant;
    if (others <= 1) {
        double amps = 0;
        if (others == 1)
            amps = c.stages.empty() ? loadCurrent(d.draws[load], shifted, r)
                                    : stageCurrent(m_nodes[c.stages[0]], c.stages[0], d, shifted, r,
                                                   hint - constant);
        if (constant > 0 && !(shifted - r * amps > 0))
            return kNone;
        return constant + amps;
    }
    const auto root = smallestFixedPoint([&](double i) { return sum(c, d, e - r * i); },
                                         std::max(0.0, hint), std::max(0.0, e / r), m_tolerance);
    return root.value_or(kNone);
}

double Network::stepDown(const Physics& n, double out, double e, double r) {
    const double scale = n.skipBelow > 0 ? std::min(1.0, out / n.skipBelow) : 1.0;
    const double p = n.set * out + n.fixed * scale + n.drop * out + n.resistance * out * out;
    // What grows with the input's volts is a constant current there.
    const double own = n.switching * scale;
    return own + powerBehind(p, e - r * own, r);
}

/// Smaller root j of V j = P + (fixed + switching V) s(j) + drop j + R j^2, V = e - r j, s(j) =
/// min(1, j / skipBelow).
double Network::stepUp(const Physics& n, double out, double e, double r) {
    const double p = n.set * out;
    const double bend = r + n.resistance;
    if (n.skipBelow > 0) {
        const double own = n.switching / n.skipBelow;
        const double j =
            powerBehind(p, e - n.drop - n.fixed / n.skipBelow - own * e, bend - own * r);
        if (j <= n.skipBelow)
            return j;
    }
    const double j = powerBehind(p + n.fixed + n.switching * e, e - n.drop + n.switching * r, bend);
    return n.skipBelow > 0 && j < n.skipBelow * (1 - kEdge) ? kNone : j;
}

double Network::linearCurrent(const Node& n, double set, const Demand& d, double e,
                              double r) const {
    const double room = n.set + n.dropout;
    if (std::isfinite(set) &&
        e - r * (set + n.quiescent) - set * n.dropoutPerAmp >= room * (1 - kEdge))
        return set + n.quiescent;
    const double below = e - r * n.quiescent - n.dropout;
    const double out = branch(n.children, d, below, r + n.dropoutPerAmp);
    if (!(below - (r + n.dropoutPerAmp) * out <= n.set * (1 + kEdge)))
        return kNone;
    return out + n.quiescent;
}

double Network::buckCurrent(const Node& n, double set, const Demand& d, double e, double r) const {
    const double rest = e - r * n.quiescent;
    if (set == 0 && rest * n.duty - n.drop >= n.set * (1 - kEdge))
        return n.quiescent;
    if (set > 0) {
        const double j = stepDown(n, set, rest, r);
        if ((rest - r * j) * n.duty - n.drop - set * n.resistance >= n.set * (1 - kEdge))
            return j + n.quiescent;
    }
    // It follows its input: a divider by `duty` with the fixed loss as a current at the input.
    double fixed = 0;
    double out = 0;
    for (int round = 0; round < kDropoutRounds; ++round) {
        const double e2 = n.duty * (rest - r * fixed) - n.drop;
        const double r2 = n.duty * n.duty * r + n.resistance;
        out = branch(n.children, d, e2, r2);
        const double v = rest - r * (n.duty * out + fixed);
        if (!(v > 0))
            return out == 0 ? n.quiescent : kNone;
        const double scale =
            n.skipBelow > 0 ? std::min(1.0, out / n.skipBelow) : (out > 0 ? 1.0 : 0.0);
        const double next = (n.fixed / v + n.switching) * scale;
        const bool settled = std::abs(next - fixed) <= 1e-13 * (next + out);
        fixed = next;
        if (settled || r == 0)
            break;
    }
    if (!(n.duty * (rest - r * (n.duty * out + fixed)) - n.drop - n.resistance * out <=
          n.set * (1 + 1e-6)))
        return kNone;
    return n.duty * out + fixed + n.quiescent;
}

double Network::boostCurrent(const Node& n, double set, const Demand& d, double e, double r) const {
    const double rest = e - r * n.quiescent;
    if (n.holds) {
        if (rest - r * set - n.drop - set * n.resistance > n.set)
            return set + n.quiescent;
    } else if (rest - n.drop > n.set) {
        const double e2 = rest - n.drop;
        const double out = branch(n.children, d, e2, r + n.resistance);
        if (e2 - (r + n.resistance) * out > n.set)
            return out + n.quiescent;
    }
    if (set == 0)
        return n.quiescent;
    return stepUp(n, set, rest, r) + n.quiescent;
}

double Network::buckBoostCurrent(const Node& n, double set, double e, double r) {
    const double rest = e - r * n.quiescent;
    if (set == 0)
        return n.quiescent;
    const double down = stepDown(n, set, rest, r);
    if (rest - r * down >= n.set)
        return down + n.quiescent;
    return stepUp(n, set, rest, r) + n.quiescent;
}

/// What a guard that has opened goes on drawing: its own use, and its divider.
double Network::openCurrent(const Node& n, double e, double r) {
    return n.quiescent + n.shunt * std::max(0.0, e - r * n.quiescent) / (1 + r * n.shunt);
}

double Network::stageCurrent(const Node& n, std::size_t index, const Demand& d, double e, double r,
                             double hint) const {
    if (n.open)
        return n.kind == TransferKind::guard ? openCurrent(n, e, r) : 0;
    if (n.shunt > 0) {
        const double weaker = 1 + r * n.shunt;
        const double amps = through(n, index, d, e / weaker, r / weaker, hint);
        return amps + n.shunt * (e - r * amps) / weaker;
    }
    return through(n, index, d, e, r, hint);
}

double Network::through(const Node& n, std::size_t index, const Demand& d, double e, double r,
                        double hint) const {
    if (n.setAmps > 0)
        return drivenFrom(n, d.drives[index], e, r).input;
    switch (n.kind) {
    case TransferKind::series:
    case TransferKind::fuse:
    case TransferKind::guard:
        if (!d.assists.empty() && m_nodes[index].reservoir) {
            const Demand::CapacitorSupport& a = d.assists[index];
            if (a.fixed)
                return a.input;
            const double own = n.quiescent + a.k * a.modeOut + a.more;
            const double rest = 1 - a.k;
            return own + rest * branch(n.children, d, e - r * own, r * rest);
        }
        return branch(n.children, d, e - r * n.quiescent - n.drop, r + n.resistance,
                      hint - n.quiescent) +
               n.quiescent;
    case TransferKind::linear:
        return linearCurrent(n, d.atSetPoint[index], d, e, r);
    case TransferKind::buck:
        return buckCurrent(n, d.atSetPoint[index], d, e, r);
    case TransferKind::boost:
        return boostCurrent(n, d.atSetPoint[index], d, e, r);
    case TransferKind::buckBoost:
        return buckBoostCurrent(n, d.atSetPoint[index], e, r);
    }
    return kNone;
}

void Network::darken(const Children& c, Flows& flows) const {
    for (const std::uint32_t i : c.loads)
        flows.loads[i] = {};
    for (const std::uint32_t i : c.stages) {
        flows.stages[i] = {};
        darken(m_nodes[i].children, flows);
    }
}

void Network::flow(const Children& c, const Demand& d, double v, double through, Flows& flows,
                   const Tree* tree) const {
    for (const std::uint32_t i : c.loads) {
        LoadFlow& load = flows.loads[i];
        load.v = std::max(0.0, v);
        load.i = loadCurrent(d.draws[i], v, 0);
    }
    // One stage alone takes all that comes; else each is asked.
    const bool alone = c.loads.empty() && c.stages.size() == 1;
    for (const std::uint32_t i : c.stages)
        flowStage(m_nodes[i], i, d, v,
                  tree    ? tree->inputAmps(i)
                  : alone ? through
                          : kNone,
                  flows, tree);
}

void Network::flowStage(const Node& n, std::size_t index, const Demand& d, double v, double in,
                        Flows& flows, const Tree* tree) const {
    StageFlow& f = flows.stages[index];
    f = {};
    f.vIn = std::max(0.0, v);
    if (n.open) {
        f.iIn = n.kind == TransferKind::guard ? openCurrent(n, f.vIn, 0) : 0;
        darken(n.children, flows);
        return;
    }
    if (!(f.vIn > 0)) { // nothing comes in: nothing stands behind it, whatever it is set to
        darken(n.children, flows);
        return;
    }
    if (n.setAmps > 0) {
        flowDriver(n, index, d, f.vIn, flows);
        return;
    }
    f.iIn = std::isfinite(in) ? in : stageCurrent(n, index, d, v, 0);
    f.iOut = f.iIn - n.quiescent - n.shunt * f.vIn;
    const double set = d.atSetPoint[index];
    switch (n.kind) {
    case TransferKind::series:
    case TransferKind::fuse:
    case TransferKind::guard:
        if (!d.assists.empty() && n.reservoir) {
            const Demand::CapacitorSupport& a = d.assists[index];
            f.iOut = (f.iOut - a.k * a.modeOut - a.more) / (1 - a.k);
            f.vOut = v - a.extra;
            f.state = StageState::on;
            if (a.fixed)
                f.iOut = demandAt(n.children, d, f.vOut);
            break;
        }
        f.vOut = v - n.drop - n.resistance * f.iOut;
        f.state = StageState::on;
        break;
    case TransferKind::linear:
        f.vOut = v - n.dropout - n.dropoutPerAmp * f.iOut;
        f.state = StageState::droppingOut;
        if (f.vOut >= n.set * (1 - kEdge)) {
            f.vOut = n.set;
            f.state = StageState::regulating;
        }
        break;
    case TransferKind::buck:
        f.iOut = f.inductor = set;
        f.state = StageState::steppingDown;
        f.vOut = n.set;
        if (!(v * n.duty - n.drop - set * n.resistance >= n.set * (1 - kEdge))) {
            f.iOut = f.inductor = tree ? tree->outputAmps(index)
                                       : branch(n.children, d, v * n.duty - n.drop, n.resistance);
            f.vOut = v * n.duty - n.drop - n.resistance * f.iOut;
            f.state = StageState::droppingOut;
        }
        break;
    case TransferKind::boost:
    case TransferKind::buckBoost: {
        const double through = f.iOut;
        f.inductor = through;
        f.iOut = set;
        f.vOut = n.set;
        f.state = StageState::steppingUp;
        if (n.kind == TransferKind::buckBoost) {
            if (v >= n.set) {
                f.inductor = set;
                f.state = StageState::steppingDown;
            }
        } else if (n.holds && v - n.drop - set * n.resistance > n.set) {
            f.inductor = set;
            f.state = StageState::holding;
        } else if (!n.holds && v - n.drop - through * n.resistance > n.set) {
            f.iOut = through;
            f.vOut = v - n.drop - through * n.resistance;
            f.state = StageState::passing;
        }
        break;
    }
    }
    f.vOut = std::max(0.0, f.vOut);
    const double all = f.iOut;
    f.iOut -= n.children.shunt * f.vOut; // a divider's share is the part's own loss
    if (tree && !tree->reaches(index)) {
        // Its output is held, so what hangs there was not part of the tree: a tree of its own.
        Tree behind(*this, d);
        if (nested(n.children))
            behind.current(n.children, f.vOut, 0);
        flow(n.children, d, f.vOut, f.iOut, flows, nested(n.children) ? &behind : nullptr);
        return;
    }
    flow(n.children, d, f.vOut, tree ? all : f.iOut, flows, tree);
}

double Network::current(const Demand& d, double e, double r, double hint) const {
    if (nested(m_root))
        return Tree(*this, d).current(m_root, e, r);
    return branch(m_root, d, e, r, hint * kHintBelow);
}

bool Network::solve(const Demand& d, double e, double r, Flows& flows, double hint) const {
    flows.stages.resize(m_nodes.size());
    flows.loads.resize(m_loadCount);
    if (!nested(m_root)) {
        const double amps = branch(m_root, d, e, r, hint * kHintBelow);
        if (std::isfinite(amps))
            fill(d, e, r, amps, flows);
        return std::isfinite(amps);
    }
    Tree tree(*this, d);
    const double amps = tree.current(m_root, e, r);
    if (!std::isfinite(amps))
        return false;
    flows.sourceAmps = amps;
    flows.sourceVolts = e - r * amps;
    flow(m_root, d, flows.sourceVolts, amps, flows, &tree);
    return true;
}

void Network::fill(const Demand& d, double e, double r, double amps, Flows& flows) const {
    if (nested(m_root)) { // the tree has every node's volts in it, and is solved again
        solve(d, e, r, flows);
        return;
    }
    flows.stages.resize(m_nodes.size());
    flows.loads.resize(m_loadCount);
    flows.sourceAmps = amps;
    flows.sourceVolts = e - r * amps;
    flow(m_root, d, flows.sourceVolts, amps, flows, nullptr);
}

bool underWindow(const LoadFlow& load, const Window& window) {
    return load.starved || fallsBelow(load.v, window.min.value());
}

bool Network::overLimit(std::size_t stage, const StageFlow& f, bool inBurst) const {
    const Node& n = m_nodes[stage];
    if (n.kind == TransferKind::guard)
        return overSet(f.iOut, n.trip);
    if (n.kind == TransferKind::fuse)
        return !inBurst && overSet(f.iOut, n.trip);
    return overSet(f.iOut, n.outputLimit) || overSet(f.vOut * f.iOut, n.powerLimit) ||
           overSet(f.inductor, n.switchLimit);
}

double Network::roomToLimit(std::size_t stage, const StageFlow& f, bool inBurst) const {
    const Node& n = m_nodes[stage];
    double least = std::numeric_limits<double>::infinity();
    const auto look = [&](double value, double limit) {
        if (limit > 0)
            least = std::min(least, 1 - value / limit);
    };
    if (n.kind == TransferKind::guard || n.kind == TransferKind::fuse) {
        if (n.kind == TransferKind::guard || !inBurst)
            look(f.iOut, n.trip);
        return least;
    }
    look(f.iOut, n.outputLimit);
    look(f.vOut * f.iOut, n.powerLimit);
    look(f.inductor, n.switchLimit);
    return least;
}

} // namespace sipper
