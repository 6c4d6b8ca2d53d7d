// SPDX-License-Identifier: GPL-3.0-or-later
// The rebound of a cut-off against a fine-step integration of its own, and what must always hold.
#include "analysis/analysis.hpp"
#include "protect/text.hpp"
#include "support.hpp"

#include <random>

using namespace sipper;
using test::currentDraw;
using test::loadOf;
using test::stageOf;

namespace {

struct Cells {
    double series, parallel, capacity, full, empty, r0, r1, tau, c, rate;
};
struct Cut {
    double cutoff, reconnect, delay, amps, ohms;
};

/// Cells with a straight open-circuit line, a guard behind a resistance, one constant current.
Project guarded(const Cells& cells, const Cut& cut) {
    Project p = test::idealProject(3.7, cells.capacity);
    Pack& pack = test::packOf(p);
    pack.series = static_cast<int>(cells.series);
    pack.parallel = static_cast<int>(cells.parallel);
    pack.cell.openCircuit = {{0, cells.empty}, {1, cells.full}};
    pack.cell.resistance = Ohms{cells.r0};
    pack.cell.relaxation = Ohms{cells.r1};
    pack.cell.relaxationTime = Seconds{cells.tau};
    pack.cell.availableFraction = cells.c;
    pack.cell.wellRate = PerHour{cells.rate};
    pack.cell.chemistry = Chemistry::nickelCobalt;
    p.stages.push_back(stageOf("lead", Filter{Ohms{cut.ohms}}, "cells"));
    Guard guard;
    guard.cutoff = Volts{cut.cutoff};
    guard.reconnect = Volts{cut.reconnect};
    guard.delay = Seconds{cut.delay};
    p.stages.push_back(stageOf("guard", guard, "lead"));
    p.loads.push_back(loadOf("lamp", "guard", 0.1, 100));
    p.loads[0].draws = {currentDraw("on", cut.amps)};
    return p;
}

struct Walk {
    double cutHours = 0, settled = 0, off = -1, on = -1;
};

/// Plain small steps over the two wells and the relaxation pair: no formula of the core.
Walk walked(const Cells& k, const Cut& g) {
    double y1 = k.capacity * k.c;
    double y2 = k.capacity * (1 - k.c);
    double v1 = 0;
    const double flow = k.rate * k.c * (1 - k.c); // k of the wells
    const auto open = [&] { return k.empty + (k.full - k.empty) * y1 / (k.c * k.capacity); };
    const auto input = [&](double amps) {
        return k.series * (open() - v1 - amps / k.parallel * k.r0) - amps * g.ohms;
    };
    const auto step = [&](double amps, double s) {
        const double i = amps / k.parallel;
        const double h = k.c < 1 ? y2 / (1 - k.c) - y1 / k.c : 0;
        y1 += (-i + flow * h) * s / 3600;
        y2 -= flow * h * s / 3600;
        v1 += (i * k.r1 - v1) * s / k.tau;
    };
    Walk w;
    double low = 0;
    double t = 0;
    const auto untilCut = [&](double s) {
        const double start = t;
        for (low = 0; low < g.delay + s / 2; t += s) {
            low = input(g.amps) < g.cutoff ? low + s : 0;
            step(g.amps, s);
        }
        return t - start;
    };
    const double fine = 0.02;
    // Coarse far from the cut-off: the same equations.
    while (input(g.amps) > g.cutoff + 0.02 * k.series) {
        step(g.amps, 0.5);
        t += 0.5;
    }
    untilCut(fine);
    w.cutHours = t / 3600;
    w.settled = k.series * (k.empty + (k.full - k.empty) * (y1 + y2) / k.capacity);
    double climbed = 0;
    for (; climbed < 40 * 3600; climbed += climbed < 600 ? fine : 0.5) {
        if (input(0) >= g.reconnect) {
            w.off = climbed;
            break;
        }
        step(0, climbed < 600 ? fine : 0.5);
    }
    if (w.off >= 0)
        w.on = untilCut(fine);
    return w;
}

} // namespace

TEST_CASE("a cut-off's climb, reconnect and period are those of small steps", "[protect]") {
    std::mt19937 dice(7);
    const auto between = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(dice);
    };
    int chattering = 0;
    const int cases = test::kSanitized ? 4 : 24;
    for (int n = 0; n < cases; ++n) {
        Cells k{std::floor(between(1, 5)),
                std::floor(between(1, 4)),
                between(0.3, 2),
                4.2,
                2.9,
                between(0.02, 0.1),
                between(0.01, 0.08),
                between(10, 90),
                between(0.5, 0.95),
                between(0.3, 6)};
        Cut g{k.series * between(3.0, 3.3), 0, n % 3 == 0 ? 0 : between(0.05, 2),
              k.capacity * k.parallel * between(0.4, 1.5), between(0, 0.05)};
        g.reconnect = g.cutoff + k.series * between(0.01, 0.35);
        const Project p = guarded(k, g);
        const Rebound r = reboundOf(p, 2, 0, typicalConditions(p));
        const Walk w = walked(k, g);
        INFO(n << ": series " << k.series << ", " << g.amps << " A, off " << w.off << " s");
        REQUIRE(r.acts);
        CHECK(r.cutHours == Approx(w.cutHours).epsilon(2e-3));
        CHECK(r.settledVolts == Approx(w.settled).epsilon(5e-4));
        CHECK(r.chatters == (w.off >= 0));
        if (w.off < 0)
            continue;
        ++chattering;
        CHECK(r.offSeconds == Approx(w.off).epsilon(0.01).margin(0.05));
        CHECK(r.onSeconds == Approx(w.on).epsilon(0.01).margin(0.05));
    }
    CHECK(chattering > (test::kSanitized ? 0 : 5));
}

TEST_CASE("what a rebound is made of", "[protect]") {
    const Cells k{2, 1, 1, 4.2, 3.0, 0.1, 0.05, 40, 0.8, 2};
    const Cut g{6.2, 7.9, 0, 1, 0};
    const Project p = guarded(k, g);
    const Rebound r = reboundOf(p, 2, 0, typicalConditions(p));
    REQUIRE(r.acts);
    CHECK_FALSE(r.chatters);
    // `i R0` at once, then v1, then the wells: the climb rises, to where it settles.
    CHECK(r.cutVolts == Approx(6.2).epsilon(1e-6));
    CHECK(r.atOnceVolts - r.cutVolts == Approx(2 * 1 * 0.1).epsilon(1e-3));
    for (std::size_t i = 1; i < r.openCurve.size(); ++i) {
        CHECK(r.openCurve[i].seconds > r.openCurve[i - 1].seconds);
        CHECK(r.openCurve[i].volts >= r.openCurve[i - 1].volts - 1e-9);
    }
    CHECK(r.openCurve.back().volts == Approx(r.settledVolts).epsilon(1e-4));

    // Without relaxation and with one well, only `i R0` comes back: nothing climbs after that.
    Cells plain = k;
    plain.r1 = 0;
    plain.c = 1;
    const Project q = guarded(plain, g);
    const Rebound s = reboundOf(q, 2, 0, typicalConditions(q));
    CHECK(s.atOnceVolts == Approx(s.settledVolts).epsilon(1e-9));

    // Reconnect under what comes back at once: it closes in no time, and the delay is the period.
    Cut fast = g;
    fast.reconnect = 6.3;
    fast.delay = 0.5;
    const Project c = guarded(plain, fast);
    const Rebound t = reboundOf(c, 2, 0, typicalConditions(c));
    CHECK(t.chatters);
    CHECK(t.period() == Approx(0.5).epsilon(0.02));
    CHECK(t.sagVolts < 6.2);
}

TEST_CASE("the least difference covers cold and aged cells", "[protect]") {
    Cells k{2, 1, 1, 4.2, 3.0, 0.1, 0.05, 40, 0.8, 2};
    Project p = guarded(k, {6.2, 7.0, 0.1, 1, 0});
    p.brief.ambient = Ambient{Celsius{-10}, Celsius{25}, Celsius{30}, {}};
    test::packOf(p).cell.resistanceByC = {{-10, 2.5}, {25, 1}};
    const auto looks = guardsOf(p, predictRuntime(p), std::nullopt);
    REQUIRE(looks.size() == 1);
    const GuardAnalysis& g = looks[0];
    CHECK(g.endsRun);
    CHECK(g.leastWhen == "cold and aged");
    CHECK(g.minHysteresis > g.usual.settledVolts - g.cutoff);
    // Each case by itself is not more than the largest.
    double most = 0;
    for (const double air : {25.0, -10.0})
        for (const double health : {1.0, 0.8}) {
            Conditions c = typicalConditions(p);
            c.ambient = Celsius{air};
            c.health = health;
            most = std::max(most, reboundOf(p, 2, 0, c).settledVolts - 6.2);
        }
    CHECK(g.minHysteresis == Approx(most).epsilon(1e-12));
}

TEST_CASE("what gives up before a guard is named", "[protect]") {
    Cells k{2, 1, 1, 4.2, 3.0, 0.1, 0.05, 40, 0.8, 2};
    Project p = guarded(k, {6.2, 7.0, 0.1, 1, 0});
    Switcher buck;
    buck.set = Volts{3.3};
    buck.inputMin = Volts{6.8};
    p.stages.push_back(stageOf("buck", buck, "guard"));
    p.loads[0].fedBy = "buck";
    const auto looks = guardsOf(p, predictRuntime(p), std::nullopt);
    REQUIRE(looks.size() == 1);
    CHECK_FALSE(looks[0].usual.acts);
    CHECK(looks[0].usual.before == "buck");
    CHECK(guardVerdict(p, looks[0]).word == "never acts");
    // A load that cannot be met: the cells themselves.
    Project weak = guarded({1, 1, 1, 4.2, 3.0, 2.0, 0.05, 40, 0.8, 2}, {0.5, 0.9, 0.1, 1.5, 0});
    weak.loads[0].draws = {test::powerDraw("on", 1.5)}; // under 3.4 V there is no answer
    const Rebound r = reboundOf(weak, 2, 0, typicalConditions(weak));
    CHECK_FALSE(r.acts);
    CHECK(r.before == "cells");
}

TEST_CASE("after the cut: drain, ruin, and a charger that finds the pack or not", "[protect]") {
    Cells k{1, 1, 2, 4.2, 2.0, 0.05, 0.02, 40, 1, 0};
    Project p = guarded(k, {3.0, 3.6, 0, 0.2, 0});
    std::get<Guard>(p.stage("guard")->part).quiescent = Amps{1e-3};
    test::packOf(p).cell.rechargeable = true;
    p.stages.push_back(stageOf("socket", Usb{Amps{1}}, ""));
    p.stages.back().fedBy.clear();
    Charger charger;
    charger.charges = "cells";
    charger.topology = Topology::linear;
    charger.chargeVoltage = Volts{4.2};
    charger.recoveryBelow = Volts{2.8};
    charger.recoveryCurrent = Amps{0.05};
    p.stages.push_back(stageOf("charger", charger, "socket"));
    const auto look = [&] { return guardsOf(p, predictRuntime(p), std::nullopt).at(0); };
    GuardAnalysis g = look();
    // From the rest at the cut to 2.5 V a cell, along the straight line, at 1 mA.
    const double rest = 2.0 + 2.2 * g.usual.cutCharge;
    CHECK(g.openAmps == Approx(1e-3));
    CHECK(*g.ruinMonths == Approx((rest - 2.5) / 2.2 * 2 / 1e-3 / 730.5).epsilon(1e-3));
    REQUIRE(g.chargers.size() == 1);
    CHECK(g.chargers[0].finds);
    CHECK_FALSE(g.chargers[0].recovers);
    CHECK_FALSE(g.chargers[0].undetectedAfter); // it trickles more than is drawn
    // Nothing to recover with: the pack is lost once it rests under the threshold.
    std::get<Charger>(p.stage("charger")->part).recoveryCurrent.reset();
    g = look();
    CHECK(g.chargers[0].finds);
    REQUIRE(g.chargers[0].undetectedAfter);
    CHECK(*g.chargers[0].undetectedAfter ==
          Approx((rest - 2.8) / 2.2 * 2 / 1e-3 / 730.5).epsilon(1e-3));
    std::get<Charger>(p.stage("charger")->part).recoveryBelow = Volts{3.4};
    CHECK_FALSE(look().chargers[0].finds);
}

TEST_CASE("a drain test takes as long as a run into its resistor", "[protect]") {
    const Project p = test::example("stage-theremin");
    const QuickAnalysis q = analyseQuick(p);
    REQUIRE(q.protect);
    REQUIRE(q.protect->guards.size() == 1);
    const GuardAnalysis& g = q.protect->guards[0];
    REQUIRE(g.proof);
    const DrainTest& proof = *g.proof;
    // The same resistor as a load of the project: the ordinary run says the same.
    Project bench = p;
    bench.loads = {loadOf("test", g.id, 0, 1000)};
    bench.loads[0].critical = false;
    Draw draw;
    draw.mode = bench.modes[bench.baseMode()].id;
    draw.resistance = Ohms{proof.ohms};
    bench.loads[0].draws = {draw};
    const Runtime r = predictRuntime(bench);
    REQUIRE(r.hours);
    CHECK(r.ending.at == g.id);
    CHECK(proof.hours == Approx(r.hours->value()).epsilon(2e-3));
    CHECK(proof.fromFifthHours < proof.hours);
    CHECK(proof.amps * proof.amps * proof.ohms == Approx(proof.watts));
    REQUIRE(proof.marks.size() >= 2);
    for (std::size_t i = 1; i < proof.marks.size(); ++i) {
        CHECK(proof.marks[i].volts < proof.marks[i - 1].volts);
        CHECK(proof.marks[i].hours > proof.marks[i - 1].hours);
    }
    CHECK(proof.marks.back().volts == g.cutoff);
    CHECK(proof.atOnceVolts <= proof.minuteVolts);
    CHECK(proof.minuteVolts <= proof.settledVolts + 1e-6);
    CHECK_THAT(proofText(g, proof), Catch::Contains("bench supply"));
}
