// SPDX-License-Identifier: GPL-3.0-or-later
// Ways through the line.
#include "base/tolerance.hpp"
#include "project/tree.hpp"
#include "support.hpp"

using namespace sipper;

TEST_CASE("places in the lists, and names", "[tree]") {
    const Project p = test::example("nest-box-listener");
    for (std::size_t i = 0; i < p.stages.size(); ++i)
        CHECK(stageIndex(p, p.stages[i].id) == i);
    CHECK(stageIndex(p, "logic") == kNotFound);
    CHECK(p.loads[loadIndex(p, "logic")].id == "logic");
    CHECK(modeIndex(p, "nothing") == kNotFound);
    CHECK(p.stages[packIndex(p)].id == p.packStage()->id);
    CHECK(nameAt(p, "logic") == nameOf(*p.load("logic")));
    CHECK(nameAt(p, "who") == "who");
    CHECK(packIndex(Project{}) == kNotFound);
}

TEST_CASE("the way back ends at the source, the way out stops where it is told", "[tree]") {
    const Project p = test::example("nest-box-listener");
    for (const Load& load : p.loads) {
        const auto way = pathToSource(p, load.id);
        REQUIRE_FALSE(way.empty());
        CHECK(way.front()->id == load.fedBy);
        CHECK(isSource(way.back()->part));
        const auto all = downstreamIds(p, way.back()->id);
        for (const Stage* stage : way)
            CHECK(all.contains(stage->id));
    }
    CHECK(upstreamRegulator(p, "logic")->id == "logic33");
    CHECK(upstreamRegulator(p, "guard") == nullptr);
    for (const std::size_t i :
         downstreamStages(p, "cells", [](const Stage& s) { return !active(s.part); }))
        CHECK_FALSE(active(p.stages[i].part));
    CHECK(downstreamStages(p, "logic33").empty());
    CHECK(firstLoadBehind(p, "logic33")->id == "logic");
    CHECK(firstLoadBehind(p, "nobody")->id == p.loads.front().id);
    CHECK(firstLoadBehind(Project{}, "x") == nullptr);
}

TEST_CASE("limits: on the edge is inside, and halving finds the edge", "[tree]") {
    CHECK_FALSE(exceeds(5, 5));
    CHECK_FALSE(exceeds(5 * (1 + 1e-10), 5));
    CHECK(exceeds(5.001, 5));
    CHECK_FALSE(fallsBelow(5, 5));
    CHECK(fallsBelow(4.999, 5));
    CHECK_FALSE(overSet(7, 0));
    CHECK(overSet(7, 6));
    CHECK(bisect(0, 8, 50, [](double x) { return x * x < 2; }) == Approx(std::sqrt(2)));
    CHECK(bisect(8, 0, 50, [](double x) { return x * x > 2; }) == Approx(std::sqrt(2)));
    CHECK(bisect(1, 2, 0, [](double) { return true; }) == 1);
}
