// SPDX-License-Identifier: GPL-3.0-or-later
// Every kind there is: fresh, round trip, solve, word. A kind that is forgotten fails here by name.
#include "analysis/analysis.hpp"
#include "line/physics.hpp"
#include "line/sources.hpp"
#include "project/build.hpp"
#include "project/json.hpp"
#include "project/library.hpp"
#include "project/reader.hpp"
#include "project/writer.hpp"
#include "support.hpp"

#include <set>

using namespace sipper;

namespace {

/// The nest box with a fresh stage of this kind where the kind belongs.
Project withKind(const KindFacts& row) {
    Project p = test::example("nest-box-listener");
    Stage fresh = freshStage(p, row.kind, "boost5");
    if (auto* pack = std::get_if<Pack>(&fresh.part))
        pack->cell = p.pack()->cell;
    if (auto* charger = std::get_if<Charger>(&fresh.part)) {
        charger->charges = p.packStage()->id;
        charger->topology = Topology::linear;
        charger->chargeVoltage = Volts{4.2};
        return withBranch(withSource(p, freshStage(p, Kind::usb, "boost5")), fresh, "usb");
    }
    if (row.source)
        return withSource(p, fresh);
    return withStageBetween(p, fresh, "boost5");
}

} // namespace

TEST_CASE("the table has each kind once, and names that are told apart", "[kinds]") {
    std::set<std::string_view> names;
    std::set<std::string_view> words;
    for (const KindFacts& row : kinds()) {
        INFO(row.name);
        CHECK(names.insert(row.name).second);
        CHECK(words.insert(row.words).second);
        CHECK_FALSE(row.heading.empty());
        CHECK_FALSE(row.choice.empty());
        CHECK(kindNamed(row.name) == row.kind);
        CHECK(&factsOf(row.kind) == &row);
        CHECK((row.offer == Offer::source) <= row.source);
        CHECK(row.source == (row.losses == LossRule::none));
        CHECK_FALSE(nameOf(row.section).empty());
    }
    CHECK(kinds().size() == 22);
    CHECK_FALSE(kindNamed("wyre"));
    CHECK_FALSE(partOfKind(""));
    CHECK_THAT(kindNames(), Catch::StartsWith("pack, adapter") && Catch::EndsWith("charger"));
}

TEST_CASE("every kind: fresh, in the line, saved and read, solved and said", "[kinds]") {
    for (const KindFacts& row : kinds()) {
        INFO(row.name);
        const Part fresh = row.fresh();
        CHECK(kindOf(fresh) == row.kind);
        CHECK(kindOf(emptyPart(row.kind)) == row.kind);
        CHECK(isSource(fresh) == row.source);
        CHECK(isRegulator(fresh) == row.setPoint);
        CHECK(setPointOf(fresh).has_value() == (row.setPoint || row.kind == Kind::adapter));
        CHECK((active(fresh) != nullptr) == (row.setPoint || row.kind == Kind::charger));
        CHECK(kindText(fresh) == row.words);

        const Project p = withKind(row);
        REQUIRE_FALSE(checkProject(p));
        const std::string text = projectText(p);
        const auto read = loadProjectText(text);
        REQUIRE(read);
        CHECK(read.value().project == p);
        CHECK(projectText(read.value().project) == text);

        const Physics n = physicsOf(fresh, Celsius{20});
        CHECK(std::isfinite(n.resistance));
        CHECK((n.set > 0) == (row.setPoint && orZero(setPointOf(fresh)) > 0));
        if (row.source)
            CHECK(std::isfinite(sourceModel(fresh).volts));
        else
            CHECK(sourceModel(fresh).volts == 0);
        const QuickAnalysis quick = analyseQuick(p);
        CHECK(quick.runtime.hours);
        CHECK(std::abs(quick.runtime.ledger.imbalance()) < 1e-3);
    }
}

TEST_CASE("what a part is known by: volts and amps of every part of the library", "[kinds]") {
    int volts = 0;
    for (const LibraryPart& part : loadLibrary().parts) {
        INFO(part.name);
        const auto v = labelVolts(part.stage.part);
        const auto a = labelAmps(part.stage.part);
        CHECK((!v || *v > 0));
        CHECK((!a || *a > 0));
        volts += v.has_value();
        const LossTerms terms = lossTermsOf(part.stage.part);
        if (kindFacts(part.stage.part).losses == LossRule::converter)
            CHECK(terms.fixed + terms.drop + terms.resistance + terms.quiescent > 0);
        else
            CHECK(terms.quiescent == 0);
        const SeriesTerms in = seriesTermsOf(part.stage.part);
        CHECK(in.drop >= 0);
        CHECK(in.resistance >= 0);
    }
    CHECK(volts > 100);
}

TEST_CASE("figures by type answer what the field tables have", "[kinds]") {
    const Project box = test::example("nest-box-listener");
    const Part& boost = box.stage("boost5")->part;
    CHECK(quiescentOf(boost) == test::figureOf(boost, "quiescent_a"));
    CHECK(orZero(setPointOf(boost)) == test::figureOf(boost, "set_v"));
    CHECK(inputMinOf(boost) == test::figureOf(boost, "input_min_v"));
    CHECK(limitsOf(boost).inductor == test::figureOf(boost, "switch_limit_a"));
    CHECK(thetaOf(boost) == test::figureOf(boost, "thermal_c_per_w"));
    Part blown = boost;
    active(blown)->fan = true;
    CHECK(thetaOf(blown) == Approx(0.45 * thetaOf(boost)));
    CHECK(neverAboveOf(box.stage("guard")->part) == 0);
    Part wire = Wire{};
    CHECK_FALSE(setPointTo(wire, Volts{5}));
    CHECK_FALSE(setValue(wire, "set_v", 5.0));
    CHECK(setPointTo(blown, Volts{6}));
    CHECK(orZero(setPointOf(blown)) == 6);
}

TEST_CASE("a capacitor on the line leaks always and survives no more than its rating", "[kinds]") {
    Project p = test::idealProject(5, 1);
    Capacitor c;
    c.farad = Farads{1e-3};
    c.leakage = Amps{0.001};
    c.ratedVoltage = Volts{4};
    p.stages.push_back(test::stageOf("store", c, "cells"));
    p.loads.push_back(test::loadOf("lamp", "store", 1, 6));
    p.loads[0].draws = {test::currentDraw("on", 0.009)};
    CHECK(predictRuntime(p).hours->value() == Approx(100).epsilon(1e-4));
    const QuickAnalysis quick = analyseQuick(p);
    const auto speaks =
        std::find_if(quick.findings.begin(), quick.findings.end(), [](const Finding& f) {
            return f.rule == "never_above" && f.subject == "store";
        });
    REQUIRE(speaks != quick.findings.end());
    CHECK(severityName(speaks->severity) == "stop");
}
