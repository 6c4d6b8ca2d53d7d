// SPDX-License-Identifier: GPL-3.0-or-later
// What a supply in the cells' place is set to, and what it may not be.
#include "measure/labsupply.hpp"
#include "project/file.hpp"
#include "support.hpp"

#include <catch2/catch.hpp>

using namespace sipper;

TEST_CASE("a supply is set to the resting pack, and limits over what is drawn", "[bench]") {
    const Project p = test::reference("orrery-drive");
    const BenchAnalysis look = analyseBench(p);
    const auto supply = benchSupplyFor(p, look);
    REQUIRE(supply);
    double most = 0;
    for (const BenchCheck& c : look.checks) {
        if (c.kind == CheckKind::openCircuit && c.at == p.packStage()->id)
            CHECK(supply->volts == Approx(*c.expect).margin(0.005));
        if ((c.kind == CheckKind::idle || c.kind == CheckKind::draw) && c.at == p.packStage()->id)
            most = std::max(most, c.coverageHigh);
    }
    REQUIRE(most > 0);
    CHECK(supply->amps > most * 1.2);
    CHECK(supply->amps < most * 1.3 + 0.05);
    Project bare = p;
    bare.stages.clear();
    bare.loads.clear();
    CHECK_FALSE(benchSupplyFor(bare, analyseBench(bare)));
    CHECK_FALSE(firstDamagedBy(bare, 60));
}

TEST_CASE("what hangs on the cells is named where the volts would kill it", "[bench]") {
    Project p = test::example("nest-box-listener");
    // Through guard and leads, but not behind a regulator.
    const auto limitOf = [&](const char* id) {
        return active(p.stage(id)->part)->inputNeverAbove->value();
    };
    const double boost = limitOf("boost5");
    CHECK_FALSE(firstDamagedBy(p, boost));
    const auto killed = firstDamagedBy(p, boost + 0.1);
    REQUIRE(killed);
    CHECK(killed->limit <= boost + 1e-9);
    CHECK(killed->sees == Approx(boost + 0.1));
    // Its loads stand behind regulators: their own limits don't count for the pack's place.
    for (Stage& s : p.stages)
        if (ActivePart* a = active(s.part))
            a->inputNeverAbove.reset();
    CHECK_FALSE(firstDamagedBy(p, 59));
    // A load straight on the cells does.
    Load bell = p.loads.front();
    bell.id = "bell";
    bell.fedBy = p.packStage()->id;
    bell.window.neverAbove = Volts{6};
    p.loads.push_back(bell);
    REQUIRE(firstDamagedBy(p, 7));
    CHECK(firstDamagedBy(p, 7)->id == "bell");
}
