// SPDX-License-Identifier: GPL-3.0-or-later
// What parts can be set to and what they are made for.
#include "advice/advice.hpp"
#include "analysis/analysis.hpp"
#include "improve/swaps.hpp"
#include "line/wiring.hpp"
#include "parts/madeas.hpp"
#include "project/build.hpp"
#include "project/library.hpp"
#include "project/variants.hpp"
#include "project/writer.hpp"
#include "request/supplyrequest.hpp"
#include "sheet/sheet.hpp"
#include "support.hpp"
#include "text/text.hpp"

using namespace sipper;

namespace {

const Library& parts() {
    static const Library library = loadLibrary();
    return library;
}
Stage shippedAs(const std::string& name, const std::string& id, const std::string& fedBy) {
    for (const LibraryPart& part : parts().parts)
        if (part.name == name) {
            Stage s = part.stage;
            s.id = id;
            s.fedBy = {fedBy};
            return s;
        }
    FAIL(name);
    return {};
}
std::optional<Finding> spoken(const Project& p, const std::string& rule) {
    for (const Finding& f : analyseQuick(p, {.bench = false}).findings)
        if (f.rule == rule)
            return f;
    return std::nullopt;
}
/// Two lithium cells, a guard and a buck of 3.3 V.
Project twoCells(const std::string& guard) {
    Project p = test::example("nest-box-listener");
    std::get<Pack>(p.stage("cells")->part).series = 2;
    Stage fresh = shippedAs(guard, "guard", "cells");
    fresh.fedBy = p.stage("guard")->fedBy;
    *p.stage("guard") = fresh;
    return p;
}

} // namespace

TEST_CASE("every shipped regulator and guard says what it can be set to", "[madeas]") {
    for (const LibraryPart& part : parts().parts) {
        INFO(part.name);
        const bool says = std::holds_alternative<Guard>(part.stage.part) ||
                          (isRegulator(part.stage.part) && !regulatesCurrent(part.stage.part));
        if (!says)
            continue;
        const auto range = setRangeOf(part.stage.part);
        REQUIRE(range);
        CHECK(range->holds(setVoltsOf(part.stage.part)));
        if (const auto* guard = std::get_if<Guard>(&part.stage.part))
            CHECK((guard->adjustable.value_or(false) || range->least == range->most));
    }
}

TEST_CASE("each standard fuse rating is on the shelf in its form", "[madeas]") {
    for (const FuseForm form : {FuseForm::glass, FuseForm::blade, FuseForm::resettable})
        for (const double rating : fuseRatings(form)) {
            INFO(nameOf(form) << " " << rating);
            CHECK(
                std::any_of(parts().parts.begin(), parts().parts.end(), [&](const LibraryPart& p) {
                    const auto* fuse = std::get_if<Fuse>(&p.stage.part);
                    return fuse && fuse->rating.value() == Approx(rating) &&
                           (fuse->form == form || (!fuse->form && form == FuseForm::glass));
                }));
        }
}

TEST_CASE("a part outside of what it can be set to stops, and one that can is the cure",
          "[madeas]") {
    Project p = test::example("nest-box-listener");
    CHECK_FALSE(spoken(p, "set_out_of_range"));
    Stage fixed = shippedAs("linear-250ma-low-draw", "logic33", "guard");
    fixed.fedBy = p.stage("logic33")->fedBy;
    *p.stage("logic33") = fixed;
    CHECK_FALSE(spoken(p, "set_out_of_range"));
    std::get<Linear>(p.stage("logic33")->part).set = Volts{2.5};
    const auto f = spoken(p, "set_out_of_range");
    REQUIRE(f);
    CHECK(f->severity == Severity::stop);
    CHECK(f->numbers.at("set_v") == Approx(2.5));
    CHECK(f->numbers.at("least_v") == Approx(3.3));
    CHECK_THAT(f->says, Catch::Contains("for 3.30 V alone"));
    REQUIRE(f->fix);
    const Project cured = f->fix->apply(p);
    CHECK_FALSE(spoken(cured, "set_out_of_range"));
    CHECK(std::get<Linear>(cured.stage("logic33")->part).set.value() == Approx(2.5));
}

TEST_CASE("a board for one cell on two stops, and a board for two is the cure", "[madeas]") {
    const Project p = twoCells("guard-one-cell-board");
    const auto f = spoken(p, "guard_not_made_for");
    REQUIRE(f);
    CHECK(f->severity == Severity::stop);
    CHECK(f->numbers.at("series") == 2);
    CHECK(f->numbers.at("most") == 1);
    CHECK_FALSE(spoken(twoCells("guard-two-cells-8a"), "guard_not_made_for"));
    Guard guard = std::get<Guard>(shippedAs("guard-two-cells-8a", "g", "x").part);
    Pack pack = std::get<Pack>(p.stage("cells")->part);
    CHECK(guardMadeFor(guard, pack));
    pack.cell.chemistry = Chemistry::alkaline;
    CHECK_FALSE(guardMadeFor(guard, pack));
    guard.madeFor.reset();
    CHECK(guardMadeFor(guard, pack));
    guard.inputNeverAbove = Volts{5};
    CHECK_FALSE(guardMadeFor(guard, pack));
}

TEST_CASE("a light driver on what needs volts stops", "[madeas]") {
    Project p = test::example("lake-parade-lantern");
    const auto buck = std::find_if(p.stages.begin(), p.stages.end(), [](const Stage& s) {
        return std::holds_alternative<Switcher>(s.part);
    });
    REQUIRE(buck != p.stages.end());
    Stage driver = shippedAs("buck-light-700ma", buck->id, "x");
    driver.fedBy = buck->fedBy;
    *buck = driver;
    for (Load& load : p.loads)
        for (Draw& d : load.draws)
            if (d.led) {
                d.current = d.led;
                d.led.reset();
                d.ledVolts.reset();
            }
    const auto f = spoken(p, "current_driver_on_volts");
    REQUIRE(f);
    CHECK(f->severity == Severity::stop);
    CHECK(f->numbers.at("set_a") == Approx(0.7));
}

TEST_CASE("swaps say what can't be set and what is for other cells", "[madeas]") {
    const Project p = twoCells("guard-two-cells-8a");
    for (const Swap& swap : suggestSwaps(p, parts(), "guard")) {
        const auto& guard = std::get<Guard>(parts().parts[swap.part].stage.part);
        INFO(parts().parts[swap.part].name);
        if (swap.fits)
            CHECK(guardMadeFor(guard, *p.pack()));
    }
    for (const Swap& swap : suggestSwaps(p, parts(), "logic33"))
        if (swap.fits) {
            const Part& part = parts().parts[swap.part].stage.part;
            INFO(parts().parts[swap.part].name);
            CHECK_FALSE(regulatesCurrent(part));
            CHECK(setRangeOf(part)->holds(3.3));
        }
}

TEST_CASE("what a wish proposes can be set and built as it stands", "[madeas][wish]") {
    struct Need {
        double volts;
        double amps;
        double hours;
    };
    for (const Need& need : {Need{5, 0.3, 6}, Need{12, 1, 4}, Need{24, 0.5, 2},
                             Need{3.3, 0.02, 500}, Need{9, 0.2, 8}, Need{1.8, 0.005, 900}}) {
        SupplyRequest wish;
        wish.needs = {RequestedRail{need.volts, need.amps}};
        wish.hours = need.hours;
        const auto granted = proposeSupplies(wish, parts(), {});
        REQUIRE(granted);
        INFO(granted.value().says);
        REQUIRE(granted.value().variants > 0);
        for (std::size_t v = 0; v < granted.value().variants; ++v) {
            const Project p = variantProject(granted.value().document, v);
            for (const Stage& stage : p.stages) {
                INFO(stage.id << " " << stage.label);
                if (const auto range = setRangeOf(stage.part))
                    CHECK(range->holds(setVoltsOf(stage.part)));
                CHECK_FALSE(regulatesCurrent(stage.part));
                if (const auto* guard = std::get_if<Guard>(&stage.part)) {
                    CHECK(guardMadeFor(*guard, *p.pack()));
                    CHECK(guard->reconnect->value() > guard->cutoff.value());
                }
            }
            CHECK(countOf(analyseQuick(p, {.bench = false}).findings, Severity::stop) == 0);
        }
    }
    SupplyRequest wish;
    wish.needs = {RequestedRail{12, 0, 20}};
    wish.hours = 3;
    wish.rechargeable = true;
    const auto granted = proposeSupplies(wish, parts(), {});
    REQUIRE(granted);
    for (std::size_t v = 0; v < granted.value().variants; ++v)
        CHECK(canRecharge(variantProject(granted.value().document, v).pack()->cell));
}

TEST_CASE("a charger's leg on a big pack gets a lead and a fuse by its own check",
          "[madeas][sheet]") {
    Project p = test::example("greenhouse-vent-opener");
    p = withoutStage(p, "charge-fuse");
    for (Stage& stage : p.stages) {
        if (auto* pack = std::get_if<Pack>(&stage.part)) {
            pack->cell.resistance = Ohms{0.001};
            pack->connection = Ohms{0.001};
        }
        if (auto* charger = std::get_if<Charger>(&stage.part))
            charger->chargeCurrent = Amps{5};
    }
    const QuickAnalysis q = analyseQuick(p);
    int legs = 0;
    for (const SheetWire& w : wiresFor(p, q, {})) {
        INFO(w.id << " " << w.remark);
        CHECK(wireFault(w).empty());
        const Stage* stage = p.stage(w.id);
        if (!stage || !std::holds_alternative<Charger>(stage->part) ||
            w.to != nameOf(*p.packStage()))
            continue;
        ++legs;
        CHECK(w.amps >= 5);
        CHECK(w.fuseProposed);
        CHECK(w.fuseAmps * 0.75 >= w.amps * 0.999);
        CHECK(ampacity(w.areaMm2, false) >= w.fuseAmps);
        CHECK(w.shortAmps > w.fuseAmps);
    }
    CHECK(legs > 0);
    SheetWire thin;
    thin.areaMm2 = 0.14;
    thin.amps = 5;
    CHECK_THAT(wireFault(thin), Catch::Contains("it carries 1.40 A"));
    thin.amps = 1;
    thin.fuseAmps = 3;
    CHECK_THAT(wireFault(thin), Catch::Contains("lets more pass"));
    thin.fuseAmps = 1;
    thin.shortAmps = 0.5;
    CHECK_THAT(wireFault(thin), Catch::Contains("never opens"));
}

TEST_CASE("names in a part's list are read, kept and refused", "[madeas][project]") {
    Project p = twoCells("guard-two-cells-8a");
    const std::string text = projectText(p);
    CHECK_THAT(text, Catch::Contains("\"made_for\""));
    auto back = loadProjectText(text);
    REQUIRE(back);
    CHECK(std::get<Guard>(back.value().project.stage("guard")->part).madeFor ==
          std::get<Guard>(p.stage("guard")->part).madeFor);
    CHECK(projectText(back.value().project) == text);
    Json document = Json::parse(text);
    for (Json& stage : document["stages"])
        if (stage["id"] == "guard")
            stage["made_for"] = {"lithium-cobalt", "cheese"};
    const auto refused = loadProjectText(document.dump());
    REQUIRE_FALSE(refused);
    CHECK_THAT(refused.error().where, Catch::EndsWith("/made_for/1"));
}

TEST_CASE("what would not open again is not saved, and the old file stays", "[madeas][project]") {
    const test::Folder folder;
    Project p = test::example("greenhouse-vent-opener");
    REQUIRE_FALSE(saveProject(folder.file("a.sipper"), p));
    for (Stage& stage : p.stages)
        if (auto* panel = std::get_if<Panel>(&stage.part))
            panel->countParallel = 2.2449;
    const auto trouble = saveProject(folder.file("a.sipper"), p);
    REQUIRE(trouble);
    CHECK(trouble->code == "unsaved");
    CHECK_THAT(trouble->message(),
               Catch::Contains("count_parallel") && Catch::Contains("the file is as it was"));
    CHECK(loadProject(folder.file("a.sipper")));
}
