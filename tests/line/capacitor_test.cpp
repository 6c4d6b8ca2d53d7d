// SPDX-License-Identifier: GPL-3.0-or-later
// Capacitors in bursts, light strings, motors' starts and loss that grows with the input: against
// small steps of the circuit and against closed forms worked out by hand.
#include "line/operating.hpp"
#include "support.hpp"

using namespace sipper;
using test::currentDraw;
using test::loadOf;
using test::powerDraw;
using test::stageOf;

namespace {

struct Circuit {
    double volts = 5; ///< of the source
    double ohms = 2;  ///< before the capacitor
    double farad = 1e-3;
    double esr = 0.1;
    double mode = 0.02; ///< A
    double burst = 0.5; ///< A
    double seconds = 2e-3;
    double limit = 0; ///< A of what feeds it; 0: none
};

/// Volts at the load as the burst ends, by small steps: a source behind ohms, or one that holds its
/// current.
double walked(const Circuit& c) {
    const int steps = 200000;
    const double h = c.seconds / steps;
    double stored = c.volts - c.ohms * c.mode; // settled in the mode
    double node = stored;
    for (int i = 0; i < steps; ++i) {
        // i_in = (V - node)/R, i_cap = burst - i_in, node = stored - esr i_cap.
        const double free = (stored - c.esr * (c.burst - c.volts / c.ohms)) / (1 + c.esr / c.ohms);
        double in = (c.volts - free) / c.ohms;
        node = free;
        if (c.limit > 0 && in > c.limit) {
            in = c.limit;
            node = stored - c.esr * (c.burst - in);
        }
        stored -= (c.burst - in) / c.farad * h;
    }
    return node;
}

Project bursting(const Circuit& c, Part feed) {
    Project p = test::idealProject(c.volts, 10);
    p.stages.push_back(stageOf("feed", std::move(feed), "cells"));
    p.stages.push_back(stageOf("lead", Filter{Ohms{c.ohms}}, "feed"));
    Capacitor store;
    store.farad = Farads{c.farad};
    store.esr = Ohms{c.esr};
    p.stages.push_back(stageOf("store", store, "lead"));
    p.loads.push_back(loadOf("radio", "store", 0.5, 9));
    p.loads[0].draws = {currentDraw("on", c.mode)};
    p.loads[0].draws[0].burst = Amps{c.burst};
    p.loads[0].draws[0].burstTime = Seconds{c.seconds};
    p.loads[0].draws[0].burstsPerSecond = PerSecond{2};
    return p;
}

const ModeSolution& momentOf(const Project& p, LineSolution& moment) {
    Line line(p, typicalConditions(p));
    line.solve(0, line.pack().level(1), moment);
    REQUIRE_FALSE(moment.collapsed);
    return moment.modes[0];
}

} // namespace

TEST_CASE("a capacitor carries a burst as the circuit does", "[capacitor]") {
    for (const double farad : {1e-4, 1e-3, 1e-2})
        for (const double esr : {0.02, 0.5}) {
            Circuit c;
            c.farad = farad;
            c.esr = esr;
            const Project p = bursting(c, Filter{Ohms{0}});
            LineSolution moment;
            const ModeSolution& m = momentOf(p, moment);
            INFO(farad << " F, " << esr << " ohm");
            CHECK(m.burst.loads[0].v == Approx(walked(c)).epsilon(1e-3));
            CHECK(m.steady.loads[0].v == Approx(c.volts - c.ohms * c.mode));
            // What was given comes back: on the mean the source gives what the load took.
            double charge = 0;
            double rest = 1;
            for (const auto& single : m.singles) {
                charge += single.share * single.flows.sourceAmps;
                rest -= single.share;
            }
            charge += rest * m.steady.sourceAmps;
            const double f = 2 * c.seconds;
            CHECK(charge == Approx(f * c.burst + (1 - f) * c.mode).epsilon(1e-9));
            CHECK(m.meanAmps == Approx(charge).epsilon(1e-9));
        }
    // Nothing before it: it has nothing to help against.
    Circuit stiff;
    stiff.ohms = 1e-12;
    const Project p = bursting(stiff, Filter{Ohms{0}});
    LineSolution moment;
    CHECK(momentOf(p, moment).burst.sourceAmps == Approx(stiff.burst));
}

TEST_CASE("at the limit of a regulator the capacitor gives the rest", "[capacitor]") {
    for (const double seconds : {5e-4, 2e-3, 1e-2}) {
        Circuit c;
        c.ohms = 0.4;
        c.esr = 0.05;
        c.farad = 4e-3;
        c.limit = 0.25;
        c.seconds = seconds;
        Linear feed;
        feed.set = Volts{c.volts};
        feed.outputLimit = Amps{c.limit};
        Project p = bursting(c, feed);
        test::packOf(p).cell.openCircuit = {{0, 8.0}, {1, 8.0}};
        LineSolution moment;
        const ModeSolution& m = momentOf(p, moment);
        INFO(seconds << " s");
        CHECK(m.burst.loads[0].v == Approx(walked(c)).epsilon(2e-3));
        const std::size_t feedAt = 1;
        CHECK(m.burst.stages[feedAt].iOut <= c.limit * (1 + 1e-9));
        // It ends nothing.
        const Runtime r = predictRuntime(p);
        CHECK(r.ending.reason != EndReason::limit);
        // Without the capacitor it does.
        Project bare = p;
        bare.stage("store")->part = Filter{Ohms{0}};
        CHECK(predictRuntime(bare).ending.reason == EndReason::limit);
    }
}

TEST_CASE("of two capacitors in a row the nearest the load helps", "[capacitor]") {
    const Circuit c;
    Project p = bursting(c, Filter{Ohms{0}});
    LineSolution one;
    const double alone = momentOf(p, one).burst.loads[0].v;
    Capacitor big;
    big.farad = Farads{1};
    big.leakage = Amps{0};
    p.stage("feed")->part = big;
    LineSolution two;
    CHECK(momentOf(p, two).burst.loads[0].v == Approx(alone).epsilon(1e-12));
    // A regulator between: each is its own.
    Linear linear;
    linear.set = Volts{4};
    p.stage("lead")->part = linear;
    p.load("radio")->window.min = Volts{1};
    LineSolution apart;
    CHECK(momentOf(p, apart).burst.loads[0].v == Approx(4));
}

TEST_CASE("a light string is dark under its volts and straight over them", "[light]") {
    Project p = test::idealProject(12, 10);
    p.stages.push_back(stageOf("lead", Filter{Ohms{1}}, "cells"));
    p.loads.push_back(loadOf("string", "lead", 6, 14));
    p.loads[0].window.nominal = Volts{12};
    Draw light;
    light.mode = "on";
    light.led = Amps{0.5};
    light.ledVolts = Volts{8};
    p.loads[0].draws = {light};
    const auto at = [&](double volts) {
        test::packOf(p).cell.openCircuit = {{0, volts}, {1, volts}};
        return operate(p, typicalConditions(p), 1, 0).flows.loads[0];
    };
    // i = 0.5 (v - 8)/4 and v = 12 - i.
    CHECK(at(12).i == Approx(0.5 * 4 / (4 + 0.5)).epsilon(1e-9));
    CHECK(at(7.5).i == 0);
    CHECK(at(7.5).v == Approx(7.5));
    CHECK(at(14).i > at(12).i);
    // A motor's start by its winding.
    light = currentDraw("on", 0.1);
    light.burstOhms = Ohms{3};
    light.burstTime = Seconds{0.1};
    p.loads[0].draws = {light};
    test::packOf(p).cell.openCircuit = {{0, 12}, {1, 12}};
    LineSolution moment;
    CHECK(momentOf(p, moment).burst.loads[0].i == Approx(12.0 / 4));
    // Files: led_a wants led_v, under the nominal; one burst or the other.
    Project bad = p;
    bad.loads[0].draws[0].burstOhms.reset();
    bad.loads[0].draws[0].burstTime.reset();
    bad.loads[0].draws[0].current.reset();
    bad.loads[0].draws[0].led = Amps{0.1};
    bad.loads[0].draws[0].ledVolts = Volts{12};
    REQUIRE(checkProject(bad));
    CHECK_THAT(checkProject(bad)->message(), Catch::Contains("led_v"));
}

TEST_CASE("loss that grows with the input is that many watts a volt", "[switching]") {
    for (const Topology topology : {Topology::buck, Topology::boost, Topology::buckBoost})
        for (const double volts : {3.0, 4.0, 9.0, 14.0}) {
            const double set = topology == Topology::buck ? 2 : 12;
            if (topology == Topology::boost && volts > set)
                continue;
            Project p = test::idealProject(volts, 10);
            p.stages.push_back(stageOf("lead", Filter{Ohms{0.05}}, "cells"));
            Switcher s;
            s.topology = topology;
            s.set = Volts{set};
            s.fixed = Watts{0.02};
            s.switching = 0.004;
            s.drop = Volts{0.05};
            s.resistance = Ohms{0.04};
            s.quiescent = Amps{1e-4};
            p.stages.push_back(stageOf("part", s, "lead"));
            p.loads.push_back(loadOf("load", "part", 1, 20));
            for (const double skip : {0.0, 2.0}) {
                auto& part = std::get<Switcher>(p.stage("part")->part);
                part.skipBelow = skip > 0 ? std::optional(Amps{skip}) : std::nullopt;
                p.loads[0].draws = {currentDraw("on", 0.2)};
                const StageFlow f = operate(p, typicalConditions(p), 1, 0).flows.stages[2];
                const bool up = f.vIn < set;
                const double j = up ? f.iIn - 1e-4 : 0.2;
                const double scale = skip > 0 ? std::min(1.0, j / skip) : 1;
                INFO(nameOf(topology) << " " << volts << " V, skipping " << skip);
                CHECK(f.loss() == Approx(1e-4 * f.vIn + (0.02 + 0.004 * f.vIn) * scale + 0.05 * j +
                                         0.04 * j * j)
                                      .epsilon(1e-9));
            }
        }
}
