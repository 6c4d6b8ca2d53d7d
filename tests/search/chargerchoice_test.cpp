// SPDX-License-Identifier: GPL-3.0-or-later
// The charger that fits a pack, as the brief refills it.
#include "charge/charge.hpp"
#include "project/build.hpp"
#include "project/tree.hpp"
#include "protect/currents.hpp"
#include "runtime/runtime.hpp"
#include "search/chargerchoice.hpp"
#include "search/search.hpp"
#include "support.hpp"

#include <catch2/catch.hpp>

using namespace sipper;

namespace {

const Library& refillLibrary() {
    static const Library library = loadLibrary();
    return library;
}

Project packOfCells(const char* cell, double series, double parallel, const char* by) {
    Project p = test::example("nest-box-listener");
    p.stages.resize(1);
    p.loads.clear();
    auto& pack = std::get<Pack>(p.stages[0].part);
    const LibraryPart* part = refillLibrary().find(cell);
    REQUIRE(part);
    pack = std::get<Pack>(part->stage.part);
    pack.series = series;
    pack.parallel = parallel;
    p.brief.refilledBy = {by};
    return p;
}

} // namespace

TEST_CASE("a charger is taken by chemistry, volts and amps", "[search][refill]") {
    struct Case {
        const char* cell;
        double series;
        double parallel;
        const char* charger;
        bool fits;
    };
    const Case cases[]{
        {"nickel-cobalt-18650-3.0", 1, 1, "charger-one-cell-1a", true},
        {"nickel-cobalt-18650-3.0", 2, 1, "charger-one-cell-1a", false},
        {"nickel-cobalt-18650-3.0", 2, 1, "charger-two-cells-boost-1a", true},
        {"nickel-cobalt-18650-3.0", 3, 2, "charger-three-cells-buck-2a", true},
        {"nickel-cobalt-18650-3.0", 3, 2, "charger-cc-cv-buck-5a", true},
        {"iron-phosphate-26650-3.3", 1, 1, "charger-one-cell-1a", false},
        {"iron-phosphate-26650-3.3", 1, 1, "charger-iron-phosphate-one-cell-1a", true},
        {"nimh-aa-2.0", 4, 1, "charger-hydride-overnight", true},
        {"nimh-aa-2.0", 4, 1, "charger-one-cell-1a", false},
        {"nimh-d-8.0", 4, 1, "charger-hydride-overnight", false}, // 16 h at 0.2 A
        {"alkaline-aa-2.6", 1, 1, "charger-one-cell-1a", false},
        {"nickel-cobalt-18650-3.0", 1, 1, "charger-wall-dumb", false}};
    for (const Case& c : cases) {
        const Project p = packOfCells(c.cell, c.series, c.parallel, "adapter");
        const LibraryPart* part = refillLibrary().find(c.charger);
        REQUIRE(part);
        INFO(c.cell << " x " << c.series << ", " << c.charger);
        const auto fitted = chargerFitted(part->stage, *p.pack());
        CHECK(fitted.has_value() == c.fits);
        if (fitted && fitted->chargeVoltage)
            CHECK(fitted->chargeVoltage->value() ==
                  Approx(c.series * p.pack()->cell.full->value()).epsilon(0.03));
        // Never over what the cells take.
        if (fitted && fitted->chargeCurrent && p.pack()->cell.maxCharge)
            CHECK(fitted->chargeCurrent->value() <=
                  p.pack()->cell.maxCharge->value() * c.parallel * (1 + 1e-9));
    }
}

TEST_CASE("a refill is solved, and the project with it charges in those hours",
          "[search][refill]") {
    for (const char* by : {"socket", "adapter"})
        for (const double series : {1.0, 2.0, 3.0}) {
            if (by == std::string("socket") && series > 1)
                continue; // no boost of the library goes from 5 V to cells that may be at 5 V
            const Project p = packOfCells("nickel-cobalt-18650-3.0", series, 1, by);
            const auto refill = chooseCharger(p, {}, refillLibrary());
            INFO(by << ' ' << series);
            REQUIRE(refill);
            CHECK(refill->by == by);
            REQUIRE(refill->hours);
            const Project with = withRefill(p, *refill);
            CHECK_FALSE(checkSupply(with));
            const auto charge = chargeOf(with, refillAsk(with));
            REQUIRE(charge);
            REQUIRE(charge.value().hoursToFull);
            CHECK(*charge.value().hoursToFull == Approx(*refill->hours).epsilon(1e-6));
        }
    // What can't be charged, or asks for no refill, gets none.
    CHECK_FALSE(chooseCharger(packOfCells("alkaline-aa-2.6", 4, 1, "socket"), {}, refillLibrary()));
    CHECK_FALSE(
        chooseCharger(packOfCells("nickel-cobalt-18650-3.0", 1, 1, "swap"), {}, refillLibrary()));
}

TEST_CASE("the sun's charger comes with a panel that the use asks for", "[search][refill]") {
    Project p = test::example("ridge-weather-mast");
    p.brief.refilledBy = {"sun"};
    Project bare = p;
    for (const std::string& charger : chargersOf(p)) // with its leg
        bare = withoutStage(bare, charger);
    std::erase_if(bare.stages,
                  [](const Stage& s) { return std::holds_alternative<Panel>(s.part); });
    for (Stage& s : bare.stages)
        if (std::holds_alternative<Pack>(s.part))
            s.fedBy.clear();
    const auto refill = chooseCharger(bare, {}, refillLibrary());
    REQUIRE(refill);
    CHECK(refill->by == "sun");
    CHECK(std::holds_alternative<Panel>(refill->source.part));
    CHECK(std::get<Charger>(refill->charger.part).dark);
    CHECK_FALSE(refill->hours);
    CHECK_FALSE(checkSupply(withRefill(bare, *refill)));
}

TEST_CASE("candidates of a brief that is refilled carry their charger", "[search][refill]") {
    Project p = test::example("nest-box-listener");
    p.loads.resize(1);
    p.brief.refilledBy = {"socket"};
    p.brief.targetRuntime = Hours{4};
    SearchOptions ask;
    ask.cells = {"nickel-cobalt-18650-3.0"};
    const auto found = findSupplies(p, refillLibrary(), ask);
    REQUIRE(found);
    REQUIRE_FALSE(found.value().paretoFront.empty());
    std::size_t with = 0;
    for (const Candidate& c : found.value().feasible)
        with += c.refill ? 1 : 0;
    CHECK(with > 0);
    for (const std::size_t e : found.value().paretoFront) {
        const Candidate& c = found.value().feasible[e];
        const auto taken = takeCandidate(p, refillLibrary(), ask, c.number, true);
        REQUIRE(taken);
        CHECK_FALSE(checkSupply(taken.value()));
        CHECK(chargersOf(taken.value()).size() == (c.refill ? 1U : 0U));
        // Its hours are those of the cells, with or without it.
        CHECK(predictRuntime(taken.value()).hours->value() == c.hours);
        if (!c.refill)
            continue;
        REQUIRE(c.refill->hours);
        Project off = taken.value();
        off.loads.clear();
        std::erase_if(off.stages, [&](const Stage& s) {
            return !std::holds_alternative<Pack>(s.part) && !std::holds_alternative<Usb>(s.part) &&
                   !std::holds_alternative<Charger>(s.part) && !chargerBefore(taken.value(), s.id);
        });
        // Its leg has the fuse that the cells want before them, and the figures count it.
        CHECK(legFuse(off, chargersOf(off).front()));
        const auto charge = chargeOf(off, refillAsk(off));
        REQUIRE(charge);
        CHECK(*charge.value().hoursToFull == Approx(*c.refill->hours).epsilon(1e-6));
    }
}

TEST_CASE("what could fill a pack is solved on it, the best of each source on top",
          "[search][refill]") {
    const Project p = packOfCells("nickel-cobalt-18650-3.0", 1, 2, "swap");
    const std::vector<FillChoice> list = fillChoices(p, refillLibrary());
    REQUIRE(list.size() > 4);
    std::set<std::string> seen;
    bool second = false; // a source stands twice: the heads are over
    for (const FillChoice& f : list) {
        if (!seen.insert(f.choice.by).second)
            second = true;
        else
            CHECK_FALSE(second);
        INFO(f.choice.part << " from " << nameOf(f.choice.source));
        const Project with = withRefill(p, f.choice);
        REQUIRE(with.stages.size() > p.stages.size());
        for (const Stage& stage : with.stages)
            if (!p.stage(stage.id))
                CHECK_FALSE(stage.label == stage.make); // named for its place
        if (!f.choice.hours)
            continue;
        ChargeOptions ask;
        ask.charger = chargersOf(with).front();
        const auto charge = chargeOf(with, ask);
        REQUIRE(charge);
        REQUIRE(charge.value().hoursToFull);
        CHECK(*charge.value().hoursToFull == Approx(*f.choice.hours).epsilon(1e-6));
    }
    CHECK(seen == std::set<std::string>{"socket", "adapter", "vehicle", "sun"});
    // Nothing fills what is thrown away.
    CHECK(fillChoices(packOfCells("alkaline-aa-2.6", 4, 1, "swap"), refillLibrary()).empty());
    std::stop_source stop;
    stop.request_stop();
    CHECK(fillChoices(p, refillLibrary(), stop.get_token()).empty());
}

TEST_CASE("a brief that says nothing is filled from a socket, one that swaps is not",
          "[search][refill]") {
    Project p = packOfCells("nickel-cobalt-18650-3.0", 1, 1, "swap");
    CHECK_FALSE(chooseCharger(p, {}, refillLibrary()));
    CHECK(refillWays(p).empty());
    p.brief.refilledBy.reset();
    const auto choice = chooseCharger(p, {}, refillLibrary());
    REQUIRE(choice);
    CHECK(choice->by == "socket");
    REQUIRE(choice->hours);
    const Project with = withRefill(p, *choice);
    const Stage* charger = with.stage(chargersOf(with).front());
    CHECK(charger->label == "Charger");
    CHECK_FALSE(charger->make.empty());
}
