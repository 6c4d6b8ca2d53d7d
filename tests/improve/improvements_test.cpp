// SPDX-License-Identifier: GPL-3.0-or-later
// Levers are solved projects, and the envelope's terms add up.
#include "improve/improvements.hpp"
#include "runtime/handestimate.hpp"
#include "support.hpp"

#include <numeric>

using namespace sipper;
using namespace sipper::test;

TEST_CASE("levers are really solved, ranked, and leave the project valid", "[levers]") {
    const Library library = loadLibrary();
    const Project box = example("nest-box-listener");
    std::size_t heard = 0;
    const auto levers = improvementsOf(box, library, {}, [&](const Improvement&) { ++heard; });
    CHECK(heard == levers.size());
    REQUIRE(levers.size() >= 6);
    const double now = predictRuntime(box).hours->value();
    double before = 1e9;
    for (const Improvement& lever : levers) {
        INFO(lever.name);
        CHECK_FALSE(checkProject(lever.project));
        CHECK(lever.gainHours <= before);
        before = lever.gainHours;
        CHECK(lever.hours == Approx(predictRuntime(lever.project).hours->value()).epsilon(1e-3));
        CHECK(lever.gainHours == Approx(lever.hours - now).margin(0.02));
    }
    const auto parallel = std::find_if(levers.begin(), levers.end(), [](const Improvement& l) {
        return l.name == "one more in parallel";
    });
    REQUIRE(parallel != levers.end());
    CHECK(parallel->gramsMore == Approx(47));
    CHECK(parallel->priceMore == Approx(4.5));
    const auto pairs = improvementPairs(box, levers);
    REQUIRE_FALSE(pairs.empty());
    CHECK(pairs.front().gainHours > 0);
    std::stop_source stop;
    stop.request_stop();
    CHECK(improvementsOf(box, library, stop.get_token()).empty());
    Project bare = box;
    bare.stages.clear();
    bare.loads.clear();
    CHECK(improvementsOf(bare, library).empty());
}

TEST_CASE("what a rule of thumb says, less its terms, is the run", "[envelope]") {
    const auto check = [](const Project& p) {
        const Runtime r = predictRuntime(p);
        const auto list = handEstimates(p, r, budgetOf(p));
        REQUIRE(list.size() == 3);
        for (const HandEstimate& e : list) {
            INFO(e.rule << ": " << e.formula);
            double left = e.hours;
            for (const EnvelopeTerm& t : e.terms)
                left -= t.hours;
            CHECK(left == Approx(r.hours->value()).epsilon(1e-3));
            CHECK(e.hours > 0);
        }
        CHECK(list[2].hours == Approx(list[1].hours * kFlatEfficiency));
    };
    for (const char* name : {"nest-box-listener", "lake-parade-lantern", "stage-theremin",
                             "darkroom-timer", "greenhouse-vent-opener", "model-ferry-winch"}) {
        INFO(name);
        check(example(name));
    }
    for (const char* name : {"meadow-node", "stall-lantern", "street-choir", "kiln-probe"}) {
        INFO(name);
        check(reference(name));
    }
    // A flat cell into a constant current without any loss: the rule is right, no term is left.
    Project p = idealProject(3.7, 2);
    p.loads.push_back(loadOf("load", "cells", 1, 5));
    p.loads[0].draws = {currentDraw("on", 0.1)};
    const Runtime r = predictRuntime(p);
    const auto list = handEstimates(p, r, budgetOf(p));
    CHECK(list[0].hours == Approx(20));
    for (const EnvelopeTerm& t : list[0].terms)
        CHECK(std::abs(t.hours) < 0.01);
    CHECK(handEstimates(p, Runtime{}, budgetOf(p)).empty());
}
