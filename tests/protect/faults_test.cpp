// SPDX-License-Identifier: GPL-3.0-or-later
// Single faults against what a person works out by hand, topology by topology.
#include "protect/text.hpp"
#include "support.hpp"

using namespace sipper;
using test::currentDraw;
using test::loadOf;
using test::stageOf;

namespace {

/// Three 4.2 V cells, a 5 V buck for 24 V at most, a linear 3.3 V for 16 V at most behind it.
Project line() {
    Project p = test::idealProject(4.2, 2);
    test::packOf(p).series = 3;
    test::packOf(p).cell.resistance = Ohms{0.05};
    Switcher buck;
    buck.set = Volts{5};
    buck.inputNeverAbove = Volts{24};
    buck.setMax = Volts{11};
    p.stages.push_back(stageOf("buck", buck, "cells"));
    Linear linear;
    linear.set = Volts{3.3};
    linear.dropout = Volts{0.2};
    linear.inputNeverAbove = Volts{16};
    p.stages.push_back(stageOf("reg", linear, "buck"));
    p.loads.push_back(loadOf("motor", "buck", 4.5, 5.5));
    p.loads.push_back(loadOf("chip", "reg", 3, 3.6));
    p.loads[0].window.neverAbove = Volts{6};
    p.loads[1].window.neverAbove = Volts{4};
    for (Load& l : p.loads)
        l.draws = {currentDraw("on", 0.1)};
    return p;
}

std::vector<double> volts(const Project& p, const char* stage, FaultKind kind) {
    return faultOf(p, stage, kind).volts;
}
using List = std::vector<double>;

void near(const std::vector<double>& found, const std::vector<double>& expected) {
    REQUIRE(found.size() == expected.size());
    for (std::size_t i = 0; i < found.size(); ++i)
        CHECK(found[i] == Approx(expected[i]).margin(1e-6));
}

} // namespace

TEST_CASE("a chain of regulators, each part in turn", "[protect]") {
    const Project p = line();
    const FaultMatrix grid = faultsOf(p);
    near(grid.healthy, {5, 3.3});
    near(volts(p, "buck", FaultKind::failsShort), {12.6, 3.3});
    near(volts(p, "buck", FaultKind::failsOpen), {0, 0});
    near(volts(p, "buck", FaultKind::misSet), {11, 3.3});
    near(volts(p, "buck", FaultKind::reversed), {-12.6, -12.6});
    near(volts(p, "reg", FaultKind::failsShort), {5, 5});
    near(volts(p, "reg", FaultKind::reversed), {5, -5});
    near(volts(p, "reg", FaultKind::failsOpen), {5, 0});
    near(volts(p, "cells", FaultKind::reversed), {-12.6, -12.6});
    near(volts(p, "cells", FaultKind::failsOpen), {0, 0});
    near(volts(p, "cells", FaultKind::cellShort), {5, 3.3});
    const Fault f = faultOf(p, "buck", FaultKind::failsShort);
    CHECK(f.harmed == std::vector<bool>{true, false});
    CHECK(f.clearing == Clearing::nothing);
    CHECK(f.alsoFailed.empty());
    // Every part has its rows, every row its loads.
    for (const Fault& each : grid.parts) {
        CHECK(each.volts.size() == 2);
        CHECK(each.harmed.size() == 2);
        CHECK_FALSE(clearingText(p, each).empty());
    }
    CHECK(grid.parts.size() == 2 + 4 + 3);
}

TEST_CASE("what is thereby over its never-above counts as failed short too", "[protect]") {
    Project p = line();
    std::get<Linear>(p.stage("reg")->part).inputNeverAbove = Volts{12};
    const Fault f = faultOf(p, "buck", FaultKind::failsShort);
    near(f.volts, {12.6, 12.6});
    CHECK(f.alsoFailed == std::vector<std::string>{"reg"});
    CHECK(f.harmed == std::vector<bool>{true, true});
    // The end stop of 11 V stays under it.
    near(volts(p, "buck", FaultKind::misSet), {11, 3.3});
    std::get<Linear>(p.stage("reg")->part).inputNeverAbove = Volts{10};
    near(volts(p, "buck", FaultKind::misSet), {11, 11});
    // The end stop of an adjustable part may be its range.
    auto& buck = std::get<Switcher>(p.stage("buck")->part);
    buck.setMax.reset();
    buck.adjustMax = Volts{7};
    near(volts(p, "buck", FaultKind::misSet), {7, 3.3});
}

TEST_CASE("a boost that fails short passes less, at its end stop more", "[protect]") {
    Project p = test::idealProject(4.2, 2);
    Switcher boost;
    boost.topology = Topology::boost;
    boost.set = Volts{9};
    boost.setMax = Volts{28};
    p.stages.push_back(stageOf("boost", boost, "cells"));
    p.loads.push_back(loadOf("lamp", "boost", 8, 10));
    p.loads[0].window.neverAbove = Volts{12};
    near(volts(p, "boost", FaultKind::failsShort), {4.2});
    near(volts(p, "boost", FaultKind::misSet), {28});
    CHECK(faultOf(p, "boost", FaultKind::misSet).harms());
    CHECK_FALSE(faultOf(p, "boost", FaultKind::failsShort).harms());
}

TEST_CASE("a charger that fails short lets the node see its source", "[protect]") {
    Project p = line();
    test::packOf(p).series = 1;
    std::get<Switcher>(p.stage("buck")->part).topology = Topology::buckBoost;
    std::get<Switcher>(p.stage("buck")->part).inputNeverAbove = Volts{6};
    Adapter adapter;
    adapter.set = Volts{9};
    adapter.tolerance = 0.05;
    p.stages.push_back(stageOf("brick", adapter, ""));
    p.stages.back().fedBy.clear();
    Charger charger;
    charger.charges = "cells";
    charger.topology = Topology::linear;
    charger.chargeVoltage = Volts{4.2};
    charger.setMax = Volts{5};
    p.stages.push_back(stageOf("charger", charger, "brick"));
    near(faultsOf(p).healthy, {5, 3.3});
    // 9.45 V at the node: the buck-boost is over its 6 V and passes it on.
    const Fault f = faultOf(p, "charger", FaultKind::failsShort);
    near(f.volts, {9.45, 3.3});
    CHECK(f.alsoFailed == std::vector<std::string>{"buck"});
    near(volts(p, "charger", FaultKind::failsOpen), {5, 3.3});
    near(volts(p, "charger", FaultKind::misSet), {5, 3.3}); // 5 V at the node
    near(volts(p, "brick", FaultKind::failsOpen), {5, 3.3});
    // A charger that its source kills is as good as short.
    std::get<Charger>(p.stage("charger")->part).inputNeverAbove = Volts{8};
    near(faultsOf(p).healthy, {9.45, 3.3});
}

TEST_CASE("branches, diodes and selectors keep a fault to their side", "[protect]") {
    Project p = line();
    p.stages.push_back(
        stageOf("plug", Wire{Metres{1}, SquareMillimetres{0.5}, {}, {}, {}}, "buck"));
    p.load("motor")->fedBy = "plug";
    near(volts(p, "plug", FaultKind::reversed), {-5, 3.3});
    near(volts(p, "plug", FaultKind::failsOpen), {0, 3.3});
    near(volts(p, "plug", FaultKind::failsShort), {5, 3.3});
    // A diode at the cells: the wrong way round is nothing.
    p.stages.push_back(stageOf("diode", Diode{Volts{0.4}, {}}, "cells"));
    p.stage("buck")->fedBy = {"diode"};
    const Fault blocked = faultOf(p, "cells", FaultKind::reversed);
    near(blocked.volts, {0, 0});
    CHECK(blocked.clearing == Clearing::blocked);
    CHECK(blocked.by == "diode");
    near(volts(p, "diode", FaultKind::reversed), {0, 0});
    // The way to the bucks costs the diode's drop, short of it not.
    near(volts(p, "buck", FaultKind::failsShort), {12.2, 3.3});
}

TEST_CASE("a source beside the cells: its own faults are looked at from it", "[protect]") {
    Project p = line();
    Adapter adapter;
    adapter.set = Volts{12};
    adapter.tolerance = 0;
    p.stages.push_back(stageOf("brick", adapter, ""));
    p.stages.back().fedBy.clear();
    Select select;
    Stage either = stageOf("either", select, "brick");
    either.fedBy = {"brick", "cells"};
    either.feedsListed = true;
    p.stages.push_back(either);
    p.stage("buck")->fedBy = {"either"};
    near(volts(p, "either", FaultKind::failsShort), {5, 3.3});
    near(volts(p, "brick", FaultKind::failsOpen), {5, 3.3}); // the cells are there
    near(volts(p, "brick", FaultKind::reversed), {0, 0});    // the selector blocks it
    const FaultMatrix grid = faultsOf(p);
    REQUIRE_FALSE(grid.systemFaults.empty());
    CHECK(grid.systemFaults.back().kind == FaultKind::twoSources);
    near(grid.systemFaults.back().volts, {5, 3.3});
    // No cells at all: from the adapter.
    Project mains = p;
    mains.stages.erase(mains.stages.begin());
    mains.stage("either")->fedBy = {"brick"};
    near(volts(mains, "buck", FaultKind::failsShort), {12, 3.3});
}

TEST_CASE("crowbar, clamp and reversal guard are added and really solved", "[protect]") {
    const Project p = line();
    const Fault f = faultOf(p, "buck", FaultKind::failsShort);
    const auto cures = faultMitigations(p, f, 0);
    REQUIRE(cures.size() == 2);
    for (const FaultMitigation& cure : cures) {
        INFO(cure.label);
        CHECK_FALSE(checkProject(cure.project));
        CHECK(cure.clears);
        CHECK(cure.after.volts[0] == 0);
        CHECK(cure.after.volts[1] == 0); // the fuse at the cells takes all with it
        CHECK_FALSE(cure.after.by.empty());
        // The healthy line works as before.
        near(faultsOf(cure.project).healthy, {5, 3.3});
    }
    CHECK(cures[0].after.clearing == Clearing::crowbarFuse);
    // Trip between window and never-above.
    for (const Stage& s : cures[0].project.stages)
        if (const auto* crowbar = std::get_if<Crowbar>(&s.part)) {
            CHECK(crowbar->trips.value() > 5.5);
            CHECK(crowbar->trips.value() < 6);
        }
    // Without a fuse a crowbar holds the line down until it burns.
    Project bare = cures[0].project;
    for (Stage& s : bare.stages)
        if (std::holds_alternative<Fuse>(s.part))
            s.part = Filter{};
    const Fault burns = faultOf(bare, "buck", FaultKind::failsShort);
    CHECK(burns.clearing == Clearing::crowbarBurns);
    CHECK(burns.volts[0] == Approx(1));
    CHECK(burns.amps > 10);
    // Behind a living regulator its limit is what holds.
    const Fault limited = faultOf(bare, "buck", FaultKind::misSet);
    CHECK(limited.clearing == Clearing::crowbarLimit);
    CHECK(limited.by == "buck");
    // The wrong way round.
    const Fault turned = faultOf(p, "cells", FaultKind::reversed);
    const auto ways = faultMitigations(p, turned, 1);
    REQUIRE(ways.size() == 2);
    for (const FaultMitigation& cure : ways) {
        CHECK(cure.clears);
        CHECK(cure.after.clearing == Clearing::blocked);
    }
    // A load that is not harmed needs none.
    CHECK(faultMitigations(p, f, 1).empty());
}

TEST_CASE("a clamp too small for what comes burns", "[protect]") {
    Project p = line();
    Clamp clamp;
    clamp.holds = Volts{5.8};
    clamp.maxPower = Watts{0.5};
    p.stages.push_back(stageOf("clamp", clamp, "buck"));
    p.load("motor")->fedBy = "clamp";
    Fault f = faultOf(p, "buck", FaultKind::failsShort);
    CHECK(f.clearing == Clearing::clampBurns);
    CHECK(f.harmed[0]);
    // Behind enough ohms it stays inside its half watt.
    p.stages.push_back(stageOf("choke", Filter{Ohms{100}}, "buck"));
    p.stage("clamp")->fedBy = {"choke"};
    f = faultOf(p, "buck", FaultKind::failsShort);
    CHECK(f.clearing == Clearing::clampHolds);
    CHECK(f.volts[0] == Approx(5.8));
    CHECK(f.amps == Approx(6.8 / 100.0).epsilon(0.01));
    CHECK_FALSE(f.harms());
}
