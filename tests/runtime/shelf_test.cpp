// SPDX-License-Identifier: GPL-3.0-or-later
// Unused and used up: months on the shelf, cycles by rule of thumb, and the charge in other units.
#include "runtime/shelf.hpp"

#include "parts/fields.hpp"
#include "runtime/energyequivalents.hpp"
#include "runtime/uncertainty.hpp"
#include "support.hpp"

using namespace sipper;
using namespace sipper::test;

namespace {

/// One cell of 2 Ah whose voltage is a straight line from 3 V to 4 V, a guard at 3.25 V that takes
/// 100 uA, and a switch behind it with a load.
Project lineProject() {
    Project p = idealProject(3.6, 2.0);
    Pack& pack = packOf(p);
    pack.cell.chemistry = Chemistry::nickelCobalt;
    pack.cell.openCircuit = {{0, 2.0}, {1, 4.0}};
    pack.cell.full = Volts{4.1};
    Guard guard;
    guard.cutoff = Volts{3.25};
    guard.quiescent = Amps{100e-6};
    p.stages.push_back(stageOf("guard", guard, "cells"));
    Switch off;
    off.leakage = Amps{50e-6};
    p.stages.push_back(stageOf("switch", off, "guard"));
    p.loads.push_back(loadOf("lamp", "switch", 2.0, 5.0));
    p.loads[0].draws.push_back(currentDraw("on", 0.2));
    return p;
}

} // namespace

TEST_CASE("a pack on the shelf goes as its idle current says", "[shelf]") {
    Project p = lineProject();
    CHECK(switchedOffAmps(p) == Approx(150e-6));
    auto shelf = shelfOf(p, 0.5);
    REQUIRE(shelf);
    CHECK(shelf->noStartMonths == Approx(1.0 / 150e-6 / kHoursPerMonth));
    CHECK(shelf->guard == "guard");
    // 3.25 V stand at 62.5 %; from there the guard's own use goes on down to 2.5 V, 25 %.
    CHECK(*shelf->cutoffMonths == Approx(0.75 / 150e-6 / kHoursPerMonth));
    CHECK(shelf->openAmps == Approx(150e-6)); // the guard's and what leaks past the switch
    CHECK(*shelf->damageMonths ==
          Approx(*shelf->cutoffMonths + 0.75 / shelf->openAmps / kHoursPerMonth).epsilon(1e-6));
    // Self-discharge comes on top: half of the charge a month, as a constant current.
    packOf(p).cell.selfDischargeShare = 0.5;
    const double own = 2.0 * 0.5 / kHoursPerMonth;
    CHECK(shelfOf(p, 0.5)->noStartMonths == Approx(1.0 / (150e-6 + own) / kHoursPerMonth));
    CHECK(shelfOf(p, 0.5)->selfAmps == Approx(own));
    // A cell that is used once is not ruined; one that nothing empties lies for ever.
    packOf(p).cell.chemistry = Chemistry::alkaline;
    CHECK_FALSE(shelfOf(p, 0.5)->damageMonths);
    Project quiet = idealProject(3.6, 2.0);
    CHECK(std::isinf(shelfOf(quiet, 0)->noStartMonths));
    CHECK(shelfOf(quiet, 0)->guard.empty());
    CHECK_FALSE(shelfOf(quiet, 0)->cutoffMonths);
}

TEST_CASE("cycles follow the rule of thumb", "[shelf]") {
    Pack pack = packOf(*std::make_unique<Project>(lineProject()));
    const auto at = [&](double depth, double top, double rate) {
        return *cycleLife(pack, depth, top, rate);
    };
    const CycleLife whole = at(1, 4.1, 0.2);
    CHECK(whole.low == 600);
    CHECK(whole.high == 1000);
    CHECK(at(0.5, 4.1, 0.5).low == Approx(600 * std::pow(2, 1.3)));
    CHECK(at(1, 4.2, 0.2).high == Approx(500));
    CHECK(at(1, 4.0, 0.2).high == 1000); // gentler than gentle gains nothing more by the rule
    CHECK(at(1, 4.1, 1.0).high == Approx(1000 * 2.0 / 3));
    CHECK(at(1, 4.1, 2.0).high == Approx(1000 * 4.0 / 9));
    CHECK(writeCycles({364.8, 1008, 1, 4.1, 0.2}) == "360 to 1000");
    CHECK_FALSE(cycleLife(pack, 0, 4.1, 0.2));
    pack.cell.chemistry = Chemistry::ironPhosphate;
    CHECK(at(1, 4.3, 0.2).low == 1500); // its top is not a 4.2 V cell's
    pack.cell.chemistry = Chemistry::alkaline;
    CHECK_FALSE(cycleLife(pack, 1, 1.6, 0.2));
    pack.cell.chemistry = Chemistry::other;
    CHECK_FALSE(cycleLife(pack, 1, 1.6, 0.2));
}

TEST_CASE("a run's cycles take depth, top and rate from it, and deeper schools wear sooner",
          "[shelf]") {
    Project p = lineProject();
    const Runtime r = predictRuntime(p);
    const auto life = cycleLife(p, r);
    REQUIRE(life);
    CHECK(life->depth == Approx(1 - r.curve.back().charge));
    CHECK(life->topVolts == Approx(4.1));
    CHECK(life->rate == Approx(0.2 / 2.0).epsilon(1e-3));
    Charger charger;
    charger.charges = "cells";
    charger.chargeVoltage = Volts{4.2};
    charger.chargeCurrent = Amps{4.0};
    Adapter adapter;
    adapter.set = Volts{5};
    Stage source = stageOf("adapter", adapter, "");
    source.fedBy.clear();
    p.stages.push_back(source);
    p.stages.push_back(stageOf("charger", charger, "adapter"));
    REQUIRE_FALSE(checkProject(p));
    CHECK(cycleLife(p, r)->topVolts == Approx(4.2));
    CHECK(cycleLife(p, r)->rate == Approx(2));

    const auto schools = policyLives(lineProject());
    REQUIRE(schools.size() == 3);
    for (std::size_t i = 1; i < 3; ++i) {
        CHECK(schools[i].cutoff > schools[i - 1].cutoff);
        CHECK(schools[i].hours < schools[i - 1].hours);
        CHECK(schools[i].life.low > schools[i - 1].life.low);
    }
    CHECK(policyLives(idealProject(3.6, 2)).empty());
}

TEST_CASE("the charge in other units adds up", "[worth]") {
    for (const char* name : {"nest-box-listener", "lake-parade-lantern"}) {
        const Project p = example(name);
        const Runtime r = predictRuntime(p);
        const auto worth = energyEquivalentsOf(p, r);
        REQUIRE(worth);
        CHECK(worth->ratedAh * worth->ratedVolts == Approx(r.ledger.nameplate));
        double sum = 0;
        for (const EnergyEquivalents::AtLoad& load : worth->loads) {
            sum += load.wh;
            CHECK(load.ah * load.volts == Approx(load.wh));
        }
        CHECK(sum == Approx(worth->deliveredWh));
        CHECK(worth->share() < 1);
        CHECK(worth->ahAt(5) == Approx(worth->deliveredWh / 5));
        // 10 Wh fill a battery of 2 Ah at 2.5 V twice.
        EnergyEquivalents ten = *worth;
        ten.deliveredWh = 10;
        CHECK(ten.refills(2, 2.5) == Approx(2));
    }
    CHECK_FALSE(energyEquivalentsOf(Project{}, Runtime{}));
}

TEST_CASE("the band holds eight builds in ten", "[range]") {
    const Project p = example("nest-box-listener");
    const Runtime r = predictRuntime(p);
    const auto range = predictRange(p, r);
    REQUIRE(range);
    REQUIRE(range->band.size() > 50);
    CHECK(range->band.front().hours == 0);
    CHECK(range->band.back().hours == Approx(range->range.p90));
    std::size_t inside = 0;
    std::size_t seen = 0;
    for (const VoltageQuantiles& b : range->band) {
        CHECK(b.low <= b.high);
        for (std::size_t i = 1; i < r.curve.size(); ++i)
            if (r.curve[i - 1].hours < b.hours && b.hours <= r.curve[i].hours) {
                ++seen;
                inside +=
                    r.curve[i].packVolts > b.low - 0.02 && r.curve[i].packVolts < b.high + 0.02;
                break;
            }
    }
    REQUIRE(seen > 50);
    CHECK(inside > seen * 9 / 10); // the typical build is one of them
    // One build is its own band.
    const auto one = predictRange(p, r, {}, 1);
    for (const VoltageQuantiles& b : one->band)
        CHECK(b.low == b.high);
    // The same again, to the last bit.
    const auto again = predictRange(p, r);
    CHECK(again->hours == range->hours);
    for (std::size_t i = 0; i < range->band.size(); ++i)
        CHECK(again->band[i].low == range->band[i].low);
}
