// SPDX-License-Identifier: GPL-3.0-or-later
// The rules about panels: each speaks once and is silent on the base that the case bends.
#include "advised.hpp"
#include "analysis/analysis.hpp"
#include "solar/look.hpp"

using namespace sipper;
using namespace sipper::test;

namespace {

/// Two watts on one cell in a mild place: more than enough, held at its knee.
Project sunny() {
    Project p = test::example("ridge-weather-mast");
    p.brief.climate = "mediterranean";
    p.brief.latitude = Degrees{40};
    p.brief.ambient->low = Celsius{2};
    auto& c = std::get<Charger>(p.stage("topper")->part);
    c.chargeCurrent = Amps{0.1};
    return p;
}
Charger& sunCharger(Project& p) {
    return std::get<Charger>(p.stage("topper")->part);
}
/// Findings with the years run.
std::vector<Finding> advised(const Project& p) {
    DeepOptions depth;
    depth.builds = 8;
    depth.consequences = depth.cutoffPolicies = false;
    return analyseDeep(p, analyseQuick(p), {}, depth)->findings;
}

constexpr std::array kSunRules{"panel_knee",    "panel_cold_voltage", "panel_small",
                               "dark_run",      "frost_locks",        "backfeed",
                               "recovery_trap", "freezing_charge",    "short_of_target"};

} // namespace

TEST_CASE("with sun enough every rule of the sun is silent", "[advice][sun]") {
    const auto findings = advised(sunny());
    for (const char* rule : kSunRules) {
        INFO(rule);
        const Finding* f = find(findings, rule);
        if (f)
            INFO(f->says);
        CHECK_FALSE(f);
    }
}

TEST_CASE("each rule of the sun speaks", "[advice][sun]") {
    struct SunCase {
        const char* rule;
        const char* subject;
        Severity severity;
        const char* says;
        std::function<void(Project&)> bend;
        const char* cure; ///< begins so; empty: none
    };
    const std::vector<SunCase> table{
        {"panel_knee", "topper", Severity::care, "falls to",
         [](Project& p) { sunCharger(p).chargeCurrent = Amps{0.5}; }, "Set 1"},
        {"panel_cold_voltage", "topper", Severity::stop, "survives 7.00 V",
         [](Project& p) { sunCharger(p).inputNeverAbove = Volts{7}; }, ""},
        {"panel_small", "panel", Severity::care, "go unmet",
         [](Project& p) {
             auto& panel = std::get<Panel>(p.stage("panel")->part);
             panel.shortCircuit = Amps{0.06};
             panel.imp = Amps{0.055};
         },
         "Use Panel"},
        {"dark_run", "cell", Severity::care, "full cells last",
         [](Project& p) {
             auto& pack = std::get<Pack>(p.stage("cell")->part);
             pack.cell.capacity = AmpHours{0.06};
         },
         ""},
        {"frost_locks", "topper", Severity::note, "must not be charged",
         [](Project& p) {
             p.brief.climate = "subarctic";
             p.brief.latitude = Degrees{60};
             auto& pack = std::get<Pack>(p.stage("cell")->part);
             pack.cell.chargeFrom = Celsius{0};
             pack.parallel = 12;
             auto& panel = std::get<Panel>(p.stage("panel")->part);
             panel.countParallel = 4;
         },
         ""},
        {"backfeed", "topper", Severity::stop, "in the dark the pack drives",
         [](Project& p) {
             sunCharger(p).topology = Topology::direct;
             sunCharger(p).drop.reset();
         },
         "Add a diode"},
        {"recovery_trap", "topper", Severity::stop, "nothing is left for the cells",
         [](Project& p) {
             sunCharger(p).recoveryCurrent = Amps{0.001};
             std::get<Guard>(p.stage("guard")->part).cutoff = Volts{2.4};
         },
         ""},
    };
    for (const SunCase& c : table) {
        INFO(c.rule);
        Project p = sunny();
        c.bend(p);
        const auto findings = advised(p);
        const Finding* f = find(findings, c.rule);
        REQUIRE(f);
        CHECK(f->subject == c.subject);
        CHECK(f->severity == c.severity);
        CHECK_THAT(f->says, Catch::Contains(c.says));
        if (!*c.cure)
            continue;
        REQUIRE(f->fix);
        CHECK_THAT(f->fix->label, Catch::StartsWith(c.cure));
        // The cure mends it.
        const auto after = advised(f->fix->apply(p));
        const Finding* left = find(after, c.rule);
        CHECK((!left || left->subject != c.subject));
    }
}
