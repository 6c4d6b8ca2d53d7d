// SPDX-License-Identifier: GPL-3.0-or-later
// One pipeline: what the window, the comparison and the command line show is the same.
#include "analysis/analysis.hpp"
#include "compare/compare.hpp"
#include "project/tree.hpp"
#include "runtime/regulatorcurves.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

std::vector<Project> examples() {
    std::vector<Project> list;
    for (const char* folder : {"examples", "recipes"})
        for (const auto& entry : std::filesystem::directory_iterator(
                 std::filesystem::path(SIPPER_SOURCE) / "data" / folder))
            list.push_back(test::load(entry.path()));
    return list;
}

} // namespace

TEST_CASE("quick and deep hold together for every example and recipe", "[solved]") {
    for (const Project& p : examples()) {
        INFO(p.name);
        const QuickAnalysis q = analyseQuick(p);
        CHECK(q.sweep.has_value() == (p.pack() != nullptr));
        CHECK(q.discharge.size() == q.runtime.curve.size() + q.runtime.tail.size());
        CHECK(q.equivalents.has_value() == (q.runtime.hours && p.pack()));
        DeepOptions shallow;
        shallow.gains = shallow.consequences = shallow.cutoffPolicies = false;
        shallow.builds = 20;
        const auto deep = analyseDeep(p, q, {}, shallow, serialFor);
        REQUIRE(deep);
        CHECK(deep->range.has_value() == q.runtime.hours.has_value());
        // Without the range fewer rules can speak, never others.
        for (const Finding& f : q.findings)
            if (f.rule != "short_of_target")
                CHECK(std::any_of(
                    deep->findings.begin(), deep->findings.end(),
                    [&](const Finding& d) { return d.rule == f.rule && d.subject == f.subject; }));
        CHECK(deep->consequences.empty());
        CHECK(deep->cutoffPolicies.empty());
    }
}

TEST_CASE("what was asked to stop gives nothing, on any parallelFor the same", "[solved]") {
    const Project p = test::example("nest-box-listener");
    const QuickAnalysis q = analyseQuick(p);
    std::stop_source stop;
    stop.request_stop();
    CHECK_FALSE(analyseDeep(p, q, stop.get_token()));
    DeepOptions depth;
    depth.builds = 60;
    const auto one = analyseDeep(p, q, {}, depth, serialFor);
    const auto two = analyseDeep(p, q, {}, depth, twoThreadFor);
    REQUIRE(one);
    CHECK(one->range->hours == two->range->hours);
    CHECK(one->cutoffPolicies.size() == 3);
    CHECK_FALSE(one->consequences.empty());
    CHECK(std::any_of(one->findings.begin(), one->findings.end(),
                      [](const Finding& f) { return f.gainHours.has_value(); }));
}

TEST_CASE("a comparison weighs what the pipeline gives", "[solved]") {
    const Project p = test::example("model-ferry-winch");
    const auto w = evaluateVariant(p, {}, 40);
    REQUIRE(w);
    const QuickAnalysis q = analyseQuick(p);
    CHECK(w->runtime.hours->value() == q.runtime.hours->value());
    CHECK(w->deliveredShare == q.equivalents->share());
    CHECK(w->grams == p.massGrams());
    DeepOptions depth;
    depth.builds = 40;
    depth.gains = depth.consequences = depth.cutoffPolicies = false;
    CHECK(w->findings.size() == analyseDeep(p, q, {}, depth)->findings.size());
}

TEST_CASE("a regulator's curves agree with the part by itself and with the line", "[solved]") {
    const Project p = test::example("nest-box-listener");
    const QuickAnalysis q = analyseQuick(p);
    CurvesAt at{q.sweep, q.externalLoads, {}, 0.6};
    const auto c = regulatorCurves(p, "boost5", at);
    REQUIRE(c);
    REQUIRE(c->inputs.size() == 3);
    CHECK(c->efficiency.size() == 3);
    CHECK(c->heat.size() == 2);
    CHECK(c->working.size() >= 2);
    const Stage& boost = *p.stage("boost5");
    for (std::size_t i = 0; i < c->efficiency[1].x.size(); i += 10)
        CHECK(c->efficiency[1].y[i] ==
              partAt(boost, c->inputs[1], c->efficiency[1].x[i]).efficiency());
    for (const auto& point : c->working) {
        const OperatingPoint now = operate(p, typicalConditions(p), 0.6, point.mode);
        CHECK(now.flows.stages[stageIndex(p, "boost5")].iOut == Approx(point.amps));
        CHECK(point.amps > 0);
        CHECK((point.efficiency > 0.2 && point.efficiency < 1));
    }
    CHECK(std::is_sorted(c->reach.x.begin(), c->reach.x.end()));
    CHECK(*c->worst == q.sweep->maxOut[stageIndex(p, "boost5")].value);
    CHECK_FALSE(regulatorCurves(p, "guard", at));
    CHECK_FALSE(regulatorCurves(p, "none", at));
    std::stop_source stop;
    stop.request_stop();
    CHECK_FALSE(regulatorCurves(p, "boost5", at, stop.get_token()));
}
