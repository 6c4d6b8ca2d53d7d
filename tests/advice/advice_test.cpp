// SPDX-License-Identifier: GPL-3.0-or-later
// Every rule speaks once and keeps silent once; cures do what they say.
#include "advised.hpp"

using namespace sipper;
using namespace sipper::test;

TEST_CASE("on the mended nest box every rule is silent", "[advice]") {
    for (const Finding& f : findingsOf(quietProject()))
        FAIL(f.rule << ": " << f.says);
}

TEST_CASE("each rule speaks of its case", "[advice]") {
    const std::vector<Case> cases{
        {"drop_out", "logic33", "has no room left for 3.30 V", Severity::stop,
         [](Project& p) { p = test::example("nest-box-listener"); }},
        {"passes_through", "boost5", "over the set-point of 3.30 V", Severity::stop,
         [](Project& p) { switcher(p, "boost5").set = Volts{3.3}; }},
        {"window_low", "recorder", "needs 4.75 V", Severity::stop,
         [](Project& p) { switcher(p, "boost5").set = Volts{4.6}; }},
        {"window_high", "recorder", "takes 5.25 V at most", Severity::stop,
         [](Project& p) { switcher(p, "boost5").set = Volts{5.5}; }},
        {"never_above", "recorder", "it survives 5.90 V at most", Severity::stop,
         [](Project& p) { switcher(p, "boost5").set = Volts{6.2}; }},
        {"never_above", "boost5", "it survives 4.00 V at most", Severity::stop,
         [](Project& p) { switcher(p, "boost5").inputNeverAbove = Volts{4}; }},
        {"over_current", "cells", "1 in parallel may give 600 mA", Severity::stop,
         [](Project& p) {
             test::packOf(p).cell.maxDischarge = Amps{0.6};
             test::packOf(p).parallel = 1;
         }},
        {"output_limit_at_low_input", "boost12", "Its switch carries 500 mA", Severity::stop,
         [](Project& p) { switcher(p, "boost12").switchLimit = Amps{0.5}; }},
        {"over_current", "guard", "it trips at 700 mA", Severity::stop,
         [](Project& p) { std::get<Guard>(p.stage("guard")->part).maxCurrent = Amps{0.7}; }},
        {"no_guard", "cells", "can drain them under 2.50 V a cell", Severity::stop,
         [](Project& p) {
             p.stage("guard")->part = Filter{};
             for (const char* id : {"boost5", "boost12"})
                 switcher(p, id).inputMin.reset();
             switcher(p, "logic33").inputMin.reset();
         }},
        {"burst_reset", "recorder", "a burst in mode “Listening” resets it", Severity::stop,
         [](Project& p) {
             std::get<Wire>(p.stage("lead5")->part).length = Metres{15};
             p.load("recorder")->draws[1].current = Amps{0.02};
             p.load("recorder")->draws[2].current = Amps{0.02};
         }},
        {"guessed", "project", "Measure Infra-red lamp first", Severity::care,
         [](Project& p) {
             for (Draw& draw : p.load("eye")->draws)
                 draw.basis = Basis::guess;
         }},
        {"own_use", "boost12", "draws 40.0 mA all the time", Severity::care,
         [](Project& p) { switcher(p, "boost12").quiescent = Amps{0.04}; }},
        {"own_use", "recorder", "sounds small", Severity::care,
         [](Project& p) {
             p.load("recorder")->draws[0].current = Amps{0.011};
             p.load("recorder")->draws[2].current = Amps{0.02};
             for (Draw& draw : p.load("eye")->draws)
                 if (draw.mode != "rest")
                     draw.current = Amps{0.02};
         }},
        {"constant_power_runaway", "cells", "when full and", Severity::note,
         [](Project& p) {
             p = test::reference("stall-lantern");
             std::get<Guard>(p.stage("guard")->part).cutoff = Volts{2.4};
             switcher(p, "boost").inputMin.reset();
             test::packOf(p).cell.resistance = Ohms{0.4};
             p.brief.targetRuntime = Hours{1};
         }},
        {"short_of_target", "project", "are missing", Severity::care,
         [](Project& p) { p.brief.targetRuntime = Hours{400}; }},
        {"short_of_target", "project", "one build in ten", Severity::care,
         [](Project& p) { p.brief.targetRuntime = predictRuntime(p).hours.value() * 0.995; }},
    };
    runCases(cases, quietProject);
}

TEST_CASE("holding boosts, protected cells and primary cells are left alone", "[advice]") {
    Project p = quietProject();
    switcher(p, "boost5").set = Volts{3.9};
    switcher(p, "boost5").holdsWhenAbove = true;
    CHECK_FALSE(find(findingsOf(p), "passes_through"));
    p = quietProject();
    p.stage("guard")->part = Filter{};
    test::packOf(p).cell.protectedCell = true;
    CHECK_FALSE(find(findingsOf(p), "no_guard"));
    test::packOf(p).cell.protectedCell.reset();
    test::packOf(p).cell.chemistry = Chemistry::alkaline;
    CHECK_FALSE(find(findingsOf(p), "no_guard"));
}

TEST_CASE("the cause speaks and what follows from it stands under it", "[advice]") {
    const auto findings = findingsOf(test::example("nest-box-listener"));
    CHECK(find(findings, "drop_out")->severity == Severity::stop);
    CHECK(find(findings, "window_low", "logic")->severity == Severity::note);
    CHECK(find(findings, "drop_out")->gainHours.value() > 10);
}

TEST_CASE("a project without cells gets no advice about cells", "[advice]") {
    Project p = test::idealProject(3, 1);
    p.stages[0].part = Adapter{};
    CHECK(findingsOf(p).empty());
}

TEST_CASE("the examples have the one thing wrong that they are made for", "[advice]") {
    CHECK(find(findingsOf(test::example("nest-box-listener")), "drop_out", "logic33"));
    const auto lantern = findingsOf(test::example("lake-parade-lantern"));
    const Finding* f = find(lantern, "window_low", "stern");
    REQUIRE(f);
    const Project cured = f->fix->apply(test::example("lake-parade-lantern"));
    for (const Finding& left : findingsOf(cured))
        CHECK(severityName(left.severity) != "stop");
}

TEST_CASE("every recipe loads, runs or is tethered, and has nothing to mend", "[recipes]") {
    int count = 0;
    for (const auto& entry : std::filesystem::directory_iterator(
             std::filesystem::path(SIPPER_SOURCE) / "data/recipes")) {
        INFO(entry.path().filename().string());
        ++count;
        const Project p = test::load(entry.path());
        CHECK_FALSE(p.notes.empty());
        CHECK_FALSE(p.loads.empty());
        const Runtime r = predictRuntime(p);
        if (p.pack()) {
            REQUIRE(r.hours);
            CHECK(r.hours->value() > p.brief.targetRuntime->value());
        } else {
            CHECK(r.ending.reason == EndReason::mains);
        }
        for (const Finding& f : findingsOf(p)) {
            INFO(f.rule << ": " << f.says);
            CHECK(severityName(f.severity) != "stop");
        }
    }
    CHECK(count == 17);
}
