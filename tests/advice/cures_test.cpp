// SPDX-License-Identifier: GPL-3.0-or-later
// Every cure that is offered anywhere in what ships is taken: its rule is silent, nothing else
// breaks, and the hours it names are those of a run.
#include "advised.hpp"
#include "project/variants.hpp"

namespace sipper {
namespace {

bool same(const Finding& a, const Finding& b) {
    return a.rule == b.rule && a.subject == b.subject;
}

std::vector<Finding> lookedAt(const Project& p) {
    const Runtime r = predictRuntime(p);
    const std::optional<RuntimeUncertainty> none;
    const RuleAnalyses looked = analyseForRules(p, r);
    return advise(ruleInput(p, r, none, looked));
}

} // namespace

TEST_CASE("every cure of every example and variant is taken", "[advice]") {
    int taken = 0;
    int weighed = 0;
    std::size_t number = 0;
    for (const auto& entry : std::filesystem::directory_iterator(
             std::filesystem::path(SIPPER_SOURCE) / "data/examples")) {
        const Project document = test::load(entry.path());
        if (test::kSanitized && number++ % 4 != 0)
            continue;
        for (std::size_t v = 0; v < variantCount(document); ++v) {
            const Project p = variantProject(document, v);
            const Runtime before = predictRuntime(p);
            std::vector<Finding> findings = lookedAt(p);
            const std::vector<Finding> all = findings;
            evaluateFixes(p, before, findings);
            for (const Finding& f : findings) {
                if (!f.fix)
                    continue;
                INFO(entry.path().filename().string()
                     << " " << v << ": " << f.rule << " of " << f.subject << ", " << f.fix->label);
                ++taken;
                const Project cured = f.fix->apply(p);
                REQUIRE_FALSE(checkProject(cured));
                for (const Finding& then : lookedAt(cured)) {
                    const bool itself = same(then, f);
                    // What is only worth hours may go on being worth more of them.
                    if (itself && !f.fix->forHours)
                        CHECK(then.says == std::string());
                    if (then.severity == Severity::stop) {
                        INFO(then.rule << " of " << then.subject << ": " << then.says);
                        CHECK_FALSE(itself);
                        CHECK(std::any_of(all.begin(), all.end(),
                                          [&](const Finding& old) { return same(old, then); }));
                    }
                }
                if (!f.gainHours)
                    continue;
                ++weighed;
                const Runtime after = predictRuntime(cured);
                REQUIRE(after.hours);
                CHECK(*f.gainHours ==
                      Approx(after.hours->value() - before.hours->value()).margin(1e-6));
            }
        }
    }
    CHECK(taken >= (test::kSanitized ? 3 : 20));
    CHECK(weighed > 0);
}

TEST_CASE("short of the target the best cure for its weight and price comes first", "[advice]") {
    const auto cureOf = [](const Project& p) {
        std::vector<Finding> findings = lookedAt(p);
        evaluateFixes(p, predictRuntime(p), findings);
        for (const Finding& f : findings)
            if (f.rule == "short_of_target")
                return f.fix ? f.fix->label : std::string("none");
        return std::string("silent");
    };
    // A thin lead ends the run: a thicker one costs next to nothing, and this
    // one is as thick as the load behind it needs anyway.
    CHECK(cureOf(test::example("lake-parade-lantern")) == "Use 0.75 mm²");
    // Where nothing but cells helps, cells.
    Project p = test::idealProject(3.6, 1);
    test::packOf(p).cell.mass = Grams{45};
    p.loads.push_back(test::loadOf("device", "cells", 1, 5));
    p.loads[0].draws.push_back(test::currentDraw("on", 0.5));
    p.brief.targetRuntime = Hours{3};
    CHECK(cureOf(p) == "One more in parallel");
    // Another use of the thing is no cure.
    CHECK_THAT(cureOf(test::example("nest-box-listener")), !Catch::Contains("shorter"));
}

TEST_CASE("a lead has one size, whatever is wrong with it", "[advice]") {
    Project p = test::example("nest-box-listener");
    std::string lead;
    for (Stage& stage : p.stages)
        if (auto* wire = std::get_if<Wire>(&stage.part); wire && lead.empty()) {
            wire->awg.reset();
            wire->area = SquareMillimetres{0.02};
            wire->length = Metres{6};
            lead = stage.id;
        }
    REQUIRE_FALSE(lead.empty());
    double area = 0;
    int named = 0;
    for (const Finding& f : lookedAt(p))
        if (f.lead == lead) {
            ++named;
            INFO(f.rule);
            if (area > 0)
                CHECK(f.numbers.at("area_mm2") == area);
            area = f.numbers.at("area_mm2");
        }
    CHECK(named >= 2);
    Project thick = p;
    std::get<Wire>(thick.stage(lead)->part).area = SquareMillimetres{area};
    for (const Finding& f : lookedAt(thick))
        CHECK(f.lead != lead);
}

TEST_CASE("a sliver of the charge is worth weighing, not stopping for", "[advice]") {
    // Constant current from one cell of 4 to 3 V: where a window is left is a matter of a ruler.
    Project p = test::idealProject(4, 2);
    p.loads.push_back(test::loadOf("load", "cells", 3, 5));
    p.loads[0].draws.push_back(test::currentDraw("on", 0.05));
    auto& cell = std::get<Pack>(p.stages[0].part).cell;
    cell.chemistry = Chemistry::nickelCobalt;
    cell.openCircuit = {{0, 3}, {1, 4}};
    const auto share = [&](double min, Severity severity) {
        p.loads[0].window.min = Volts{min};
        const auto findings = lookedAt(p);
        const Finding* f = test::find(findings, "window_low");
        REQUIRE(f);
        CHECK(f->numbers.at("charge_share") == Approx(min - 3).margin(1e-3));
        CHECK(f->numbers.at("sees_v") == Approx(3).margin(1e-3));
        CHECK(f->numbers.at("limit_v") == min);
        CHECK(severityName(f->severity) == severityName(severity));
    };
    share(3.01, Severity::care);
    share(3.05, Severity::stop);
    // Cells that are thrown away with it: a tenth.
    cell.chemistry = Chemistry::manganeseDioxide;
    share(3.05, Severity::care);
    share(3.15, Severity::stop);
}

TEST_CASE("an input capacitor carries a burst without resistance", "[advice]") {
    Project p = test::idealProject(4, 2);
    p.loads.push_back(test::loadOf("load", "cells", 3.5, 5));
    p.loads[0].draws.push_back(test::currentDraw("on", 0.01));
    auto& pack = std::get<Pack>(p.stages[0].part);
    pack.cell.resistance = Ohms{2};
    Draw& draw = p.loads[0].draws[0];
    draw.burst = Amps{0.5};
    draw.burstTime = Seconds{0.01};
    draw.burstsPerSecond = PerSecond{0.1};
    const auto speaks = [&] {
        const auto findings = lookedAt(p);
        const Finding* f = test::find(findings, "burst_reset");
        return f ? f->numbers.at("sees_v") : 0;
    };
    // 4 V less about an ampere-ohm.
    CHECK(speaks() == Approx(3).margin(0.1));
    p.loads[0].inputCap = Farads{0.001}; // 5 mC of the burst are more than it has to give
    CHECK(speaks() > 3);
    p.loads[0].inputCap = Farads{0.1};
    CHECK(speaks() == 0);
}

} // namespace sipper
