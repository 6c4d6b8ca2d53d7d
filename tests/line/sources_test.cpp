// SPDX-License-Identifier: GPL-3.0-or-later
// Sources besides the pack: what they offer, what happens beyond their limit, and who leads.
#include "line/sources.hpp"
#include "project/build.hpp"
#include "runtime/externalload.hpp"
#include "support.hpp"

using namespace sipper;
using namespace sipper::test;

namespace {

Stage sourceStage(const char* id, Part part) {
    Stage s;
    s.id = id;
    s.part = std::move(part);
    return s;
}

/// A source and one resistive, one constant-current or one constant-power load on it.
Project on(Part source, Draw draw) {
    Project p = idealProject(3.7, 1);
    p.stages.clear();
    p.stages.push_back(sourceStage("source", std::move(source)));
    p.loads.push_back(loadOf("load", "source", 1, 30));
    p.loads[0].draws = {std::move(draw)};
    return p;
}

Draw ohms(double r) {
    Draw d;
    d.mode = "on";
    d.resistance = Ohms{r};
    return d;
}

OperatingPoint at(const Project& p) {
    Conditions c = typicalConditions(p);
    for (const std::size_t i : externalSources(p))
        c.pluggedIn.push_back(p.stages[i].id);
    return operate(p, c, 1, 0);
}

} // namespace

TEST_CASE("a source offers what its kind says", "[sources]") {
    Adapter regulated;
    regulated.set = Volts{12};
    regulated.tolerance = 0.1;
    regulated.limit = Amps{2};
    const SourceModel a = sourceModel(regulated);
    CHECK(a.low == Approx(10.8));
    CHECK(a.high == Approx(13.2));
    CHECK(a.limit == 2);
    Adapter heavy;
    heavy.rated = Volts{9};
    heavy.ratedCurrent = Amps{0.5};
    const SourceModel u = sourceModel(heavy);
    CHECK(u.volts == Approx(13.5));
    CHECK(u.ohms == Approx(9));
    // V0 - i (V0 - V_rated) / I_rated gives the label's volts at the label's current.
    CHECK(u.volts - u.ohms * 0.5 == Approx(9));
    heavy.noLoad = Volts{12};
    CHECK(sourceModel(heavy).ohms == Approx(6));
    CHECK(sourceModel(Usb{}).limit == 0.5);
    CHECK(sourceModel(Usb{Amps{3}}).limit == 3);
    CHECK(sourceModel(Vehicle{}).high == 16);
    CHECK(sourceModel(Guard{}).volts == 0);
    CHECK_THAT(socketText(Usb{Amps{3}}), Catch::StartsWith("10k pull-up to 5 V"));
    CHECK_THAT(socketText(Usb{Amps{1.5}}), Catch::StartsWith("22k") && Catch::Contains("5.1k"));
    CHECK_THAT(socketText(Usb{}), Catch::StartsWith("56k"));
    CHECK_THAT(socketText(Usb{Amps{2.1}}), Catch::Contains("no class"));
}

TEST_CASE("beyond its limit an adapter does what is stated", "[sources]") {
    Adapter a;
    a.set = Volts{10};
    a.limit = Amps{1};
    a.beyondLimit = BeyondLimit::hold;
    // 5 ohm on 10 V wants 2 A; held at 1 A that is 5 V.
    OperatingPoint point = at(on(a, ohms(5)));
    CHECK(point.flows.loads[0].v == Approx(5).epsilon(1e-6));
    CHECK(point.flows.loads[0].i == Approx(1).epsilon(1e-6));
    CHECK(point.flows.stages[0].state == StageState::limiting);
    for (const BeyondLimit beyond : {BeyondLimit::hiccup, BeyondLimit::fold, BeyondLimit::latch}) {
        a.beyondLimit = beyond;
        point = at(on(a, ohms(5)));
        CHECK(point.flows.loads[0].v == 0);
        CHECK_FALSE(point.inside[0]);
        CHECK(point.flows.stages[0].state == StageState::limiting);
    }
    a.beyondLimit.reset(); // nothing is known: what is asked for is shown, and that it is too much
    point = at(on(a, ohms(5)));
    CHECK(point.flows.loads[0].v == Approx(10));
    CHECK(point.flows.stages[0].state == StageState::limiting);
    // A constant power asks for more as the voltage sinks: held, it does not come up.
    a.beyondLimit = BeyondLimit::hold;
    CHECK(at(on(a, powerDraw("on", 20))).flows.loads[0].v == 0);
    point = at(on(a, powerDraw("on", 8)));
    CHECK(point.flows.loads[0].i == Approx(0.8));
    CHECK(point.flows.stages[0].state == StageState::on);
}

TEST_CASE("an unregulated adapter sags along its line, and no further than it can", "[sources]") {
    Adapter heavy;
    heavy.rated = Volts{9};
    heavy.ratedCurrent = Amps{0.5};
    CHECK(at(on(heavy, currentDraw("on", 0.25))).flows.loads[0].v == Approx(11.25));
    CHECK(at(on(heavy, ohms(18))).flows.loads[0].v == Approx(9));
    // Most power of 13.5 V behind 9 ohm is V0^2 / 4R = 5.06 W.
    CHECK(at(on(heavy, powerDraw("on", 5.2))).flows.loads[0].v == 0);
}

TEST_CASE("the first live feed leads, and the pack alone where nothing is plugged in",
          "[sources]") {
    Project p = idealProject(4, 1);
    p.stages.push_back(sourceStage("wall", Adapter{Volts{6}, {}, {}, {}, {}, {}, {}}));
    p.stages.push_back(sourceStage("socket", Usb{Amps{3}}));
    Select select;
    select.drop = Volts{0.2};
    Stage either = stageOf("either", select, "wall");
    either.fedBy = {"wall", "socket", "cells"};
    either.feedsListed = true;
    p.stages.push_back(either);
    p.loads.push_back(loadOf("load", "either", 3, 7));
    p.loads[0].draws = {currentDraw("on", 0.1)};
    REQUIRE_FALSE(checkProject(p));
    const auto voltsWith = [&](std::vector<std::string> present) {
        Conditions c = typicalConditions(p);
        c.pluggedIn = std::move(present);
        return operate(p, c, 0.5, 0).flows.loads[0].v;
    };
    CHECK(voltsWith({}) == Approx(3.8));
    CHECK(voltsWith({"socket"}) == Approx(4.8));
    CHECK(voltsWith({"socket", "wall"}) == Approx(5.8));
    // The cells rest while something else leads.
    Conditions c = typicalConditions(p);
    c.pluggedIn = {"wall"};
    CHECK(operate(p, c, 0.5, 0).flows.sourceAmps == 0);
    // And the runtime is on the cells, the others unplugged.
    CHECK(predictRuntime(p).hours->value() == Approx(10).epsilon(1e-3));
}

TEST_CASE("a tether's verdict: worst draw, watts, heat, margin", "[sources]") {
    Adapter a;
    a.set = Volts{12};
    a.limit = Amps{1};
    a.tolerance = 0.05;
    Project p = on(a, currentDraw("on", 0.2));
    p.modes.push_back({});
    p.modes[1].id = "more";
    p.modes[1].duration = Seconds{1};
    p.modes[1].every = Seconds{4};
    p.loads[0].draws.push_back(currentDraw("more", 0.4));
    p.loads[0].draws[1].burst = Amps{0.8};
    p.loads[0].draws[1].burstTime = Seconds{0.01};
    Linear linear;
    linear.set = Volts{5};
    linear.thermal = KelvinPerWatt{10};
    p = withStageBefore(p, stageOf("reg", linear, ""), "load");
    REQUIRE_FALSE(checkProject(p));
    const auto externalLoads = externalLoadsOf(p);
    REQUIRE(externalLoads.size() == 1);
    const ExternalLoad& t = externalLoads[0];
    CHECK(t.worst.value == Approx(0.8));
    CHECK(t.worst.inBurst);
    CHECK(t.worstWatts == Approx(9.6));
    CHECK(t.margin() == Approx(1.25));
    CHECK(t.meanWatts == Approx(12 * 0.25)); // a quarter of the time 0.4 A, else 0.2 A
    CHECK(t.heatWatts == Approx((12.6 - 5) * 0.4));
    CHECK(t.hottestC == Approx(25 + 10 * (12.6 - 5) * 0.4));
    CHECK_FALSE(t.trips);
    CHECK(t.seen.stageIn[1].low == Approx(11.4));
    CHECK(externalLoadsOf(idealProject(3, 1)).empty());
}
