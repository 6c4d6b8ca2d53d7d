// SPDX-License-Identifier: GPL-3.0-or-later
// Where a charger stands on a panel's curve, against a plain walk down that curve.
#include "charge/panelcharger.hpp"
#include "support.hpp"

#include <random>

using namespace sipper;

namespace {

const PanelShape kShape({21.8, 1.25, 17.8, 1.15, -0.072});

struct Walked {
    double x = 0;
    double amps = 0;
    bool any = false;
};

/// Comes down the curve from open circuit by small steps: stops at the first point that a floor
/// forbids to pass, or where what is asked for is had. Written from the design's words, with
/// nothing of the charger's own search.
Walked walk(const Charger& c, const PanelPath& way, const PanelCurve& curve, const SunNode& node,
            double asked) {
    constexpr int kSteps = 20000;
    const bool linear = c.topology == Topology::linear;
    const bool direct = c.topology == Topology::direct;
    const bool buck = c.topology == Topology::buck;
    const double own = direct ? 0 : orZero(c.quiescent) + (linear ? orZero(c.ground) : 0);
    const auto fixedAt = [&](double inductor) {
        const double skip = orZero(c.skipBelow);
        return skip > 0 && inductor < skip ? orZero(c.fixed) * inductor / skip : orZero(c.fixed);
    };
    const auto gives = [&](double volts, double amps) {
        if (linear || direct)
            return amps - own;
        const double in = amps - own;
        if (in <= 0)
            return 0.0;
        // Halve x until both sides balance.
        double low = 0;
        double high = 50;
        for (int i = 0; i < 60; ++i) {
            const double x = (low + high) / 2;
            const double v = node.volts(x);
            const bool down = buck || (c.topology == Topology::buckBoost && volts >= v);
            const double inductor = down ? x : in;
            const double needs = v * x + fixedAt(inductor) + orZero(c.drop) * inductor +
                                 orZero(c.resistance) * inductor * inductor;
            (needs < volts * in ? low : high) = x;
        }
        return low;
    };
    const double open = curve.volts(0) - way.drop;
    Walked w;
    if (open < orZero(c.inputMin) || open < orZero(c.startMin))
        return w;
    const double from = curve.volts(0);
    for (int i = 0; i <= kSteps; ++i) {
        const double panel = from * (1 - static_cast<double>(i) / kSteps);
        const double amps = curve.amps(panel);
        const double volts = panel - way.drop - amps * way.ohms;
        const double x = gives(volts, amps);
        const double v = node.volts(std::max(0.0, x));
        bool floor = false;
        if (c.tracking.value_or(false) && !linear && !direct)
            floor = floor || panel <= curve.mpp().first;
        if (c.inputHold)
            floor = floor || volts <= c.inputHold->value();
        if (c.inputLimit)
            floor = floor || amps >= c.inputLimit->value();
        if (linear)
            floor = floor || volts <= v + orZero(c.dropout);
        if (direct)
            floor = floor || volts <= v;
        if (buck)
            floor = floor ||
                    volts * c.maxDuty.value_or(1) - orZero(c.drop) - x * orZero(c.resistance) <= v;
        if (linear || direct || buck)
            floor = floor || volts <= orZero(c.inputMin);
        const bool had = x >= asked && (linear || direct || panel >= curve.mpp().first);
        if (floor || had) {
            w.any = x > 0 && (linear || direct || buck || volts >= orZero(c.inputMin));
            w.x = w.any ? std::min(x, had ? std::max(asked, 0.0) : x) : 0;
            w.amps = amps;
            return w;
        }
    }
    return w; // collapsed
}

} // namespace

TEST_CASE("chargers of every style stand where a walk down the curve ends", "[sun]") {
    std::mt19937 engine(11);
    const auto pick = [&](double low, double high) {
        return std::uniform_real_distribution<double>(low, high)(engine);
    };
    const auto maybe = [&](double chance) { return pick(0, 1) < chance; };
    std::map<std::string, int> seen;
    for (int round = 0; round < 600; ++round) {
        Charger c;
        const std::array kinds{Topology::linear, Topology::direct, Topology::buck, Topology::boost,
                               Topology::buckBoost};
        c.topology = kinds[static_cast<std::size_t>(round) % kinds.size()];
        const bool up = c.topology == Topology::boost;
        SunNode node;
        node.e = up ? pick(24, 29) : pick(9, 15);
        node.r = pick(0.02, 0.4);
        c.quiescent = Amps{pick(0, 0.01)};
        if (c.topology == Topology::linear) {
            c.ground = Amps{pick(0, 0.005)};
            c.dropout = Volts{pick(0, 1)};
        } else if (c.topology != Topology::direct) {
            c.fixed = Watts{pick(0, 0.3)};
            c.drop = Volts{pick(0, 0.4)};
            c.resistance = Ohms{pick(0, 0.3)};
            if (maybe(0.3))
                c.skipBelow = Amps{pick(0.05, 0.5)};
            if (c.topology == Topology::buck)
                c.maxDuty = pick(0.85, 1);
            if (maybe(0.3))
                c.tracking = true;
            if (maybe(0.4))
                c.inputHold = Volts{pick(12, 18)};
        }
        if (maybe(0.2))
            c.inputLimit = Amps{pick(0.1, 0.8)};
        if (maybe(0.5))
            c.inputMin = Volts{pick(5, 12)};
        const PanelPath way{kShape, 1, pick(0.5, 1.2), pick(0, 0.5), pick(0, 0.5)};
        const PanelCurve curve = way.curve(pick(20, 1000), pick(-10, 35));
        const double asked = pick(0.05, 2.5);
        const PanelCharger charger(c, way, 0);
        const PanelPoint s = charger.stand(curve, 20, node, {asked, SunLimit::cc});
        const Walked w = walk(c, way, curve, node, asked);
        INFO("round " << round << ", light " << curve.shortCircuit() << " A, asked " << asked);
        CHECK(s.amps == Approx(w.x).margin(2e-3 * curve.shortCircuit()));
        if (w.any && s.amps > 0)
            CHECK(s.panelAmps == Approx(w.amps).margin(2e-3 * curve.shortCircuit()));
        ++seen[std::string(sunLimitName(s.limit)) + (s.amps > 0 ? "" : " nothing")];
    }
    // The table has had them all.
    for (const char* name : {"cc", "source", "input_limit", "source nothing"}) {
        INFO(name);
        CHECK(seen[name] > 10);
    }
}

TEST_CASE("a linear charger that asks too much falls to the node, tracking does not", "[sun]") {
    Charger linear;
    linear.topology = Topology::linear;
    linear.chargeCurrent = Amps{2};
    const PanelPath way{kShape, 1, 1, 0, 0};
    SunNode node;
    node.e = 12;
    node.r = 0.1;
    const PanelCurve curve = way.curve(600, 20);
    const PanelCharger fallen(linear, way, 0);
    const PanelPoint low = fallen.stand(curve, 20, node, fallen.asks(node));
    CHECK(low.limit == SunLimit::source);
    CHECK(low.panelVolts == Approx(12 + low.amps * 0.1));
    Charger tracking;
    tracking.topology = Topology::buck;
    tracking.tracking = true;
    tracking.chargeCurrent = Amps{2};
    const PanelCharger clever(tracking, way, 0);
    const PanelPoint top = clever.stand(curve, 20, node, clever.asks(node));
    CHECK(top.panelVolts == Approx(curve.mpp().first));
    CHECK(top.amps > 1.2 * low.amps);
    // A boost without a floor on a panel that can't carry it has collapsed.
    Charger boost;
    boost.topology = Topology::boost;
    boost.chargeCurrent = Amps{5};
    SunNode high;
    high.e = 25;
    const PanelCharger gone(boost, way, 0);
    CHECK(gone.stand(curve, 20, high, {5, SunLimit::cc}).amps == 0);
    CHECK(gone.stand(curve, 20, high, {5, SunLimit::cc}).panelAmps == 0);
}

TEST_CASE("heat sends a charger back up the curve", "[sun]") {
    Charger c;
    c.topology = Topology::linear;
    c.chargeCurrent = Amps{0.8};
    c.foldBack = Celsius{80};
    c.thermal = KelvinPerWatt{30};
    const PanelPath way{kShape, 1, 1, 0, 0};
    SunNode node;
    node.e = 8;
    const PanelCharger charger(c, way, 0);
    const PanelCurve curve = way.curve(900, 30);
    const PanelPoint s = charger.stand(curve, 30, node, charger.asks(node));
    CHECK(s.limit == SunLimit::heat);
    CHECK(s.inputVolts * s.panelAmps - 8 * s.amps == Approx((80 - 30) / 30.0).epsilon(1e-4));
    CHECK(s.amps < 0.8);
}

TEST_CASE("what is asked for is the least of its limits", "[sun]") {
    Charger c;
    c.topology = Topology::buck;
    const PanelPath way{kShape, 1, 1, 0, 0};
    SunNode node;
    node.e = 10;
    node.r = 0.1;
    const auto asks = [&](double cell = 0) { return PanelCharger(c, way, cell).asks(node); };
    CHECK(std::isinf(asks().amps));
    c.programK = 1000;
    c.programOhm = Ohms{500};
    CHECK(asks().amps == Approx(2));
    c.outputLimit = Amps{1.5};
    CHECK(asks().limit == SunLimit::outputLimit);
    c.powerLimit = Watts{10};
    // x (10 + 0.1 x) = 10
    CHECK(asks().amps == Approx((-10 + std::sqrt(100 + 4 * 0.1 * 10)) / 0.2));
    CHECK(asks().limit == SunLimit::powerLimit);
    CHECK(asks(0.4).limit == SunLimit::cell);
    c.recoveryBelow = Volts{10.5};
    c.recoveryCurrent = Amps{0.1};
    CHECK(asks(0.4).limit == SunLimit::recovery);
    node.e = 10.5;
    CHECK(asks(0.4).limit == SunLimit::cell);
}
