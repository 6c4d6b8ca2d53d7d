// SPDX-License-Identifier: GPL-3.0-or-later
// Parts are named for their place; what they are stays with them.
#include "improve/swaps.hpp"
#include "parts/chemistry.hpp"
#include "project/build.hpp"
#include "project/library.hpp"
#include "project/reader.hpp"
#include "project/roles.hpp"
#include "project/variants.hpp"
#include "project/writer.hpp"
#include "request/supplyrequest.hpp"
#include "support.hpp"

using namespace sipper;

TEST_CASE("a fresh part is named for its place, numbered where there are two", "[roles]") {
    Project p = test::example("nest-box-listener");
    std::erase_if(p.stages, [](const Stage& s) { return std::holds_alternative<Fuse>(s.part); });
    const Stage fuse = freshStage(p, Kind::fuse, "cells");
    CHECK(fuse.label == "Fuse");
    p = withStageBetween(p, fuse, "cells");
    const Stage other = freshStage(p, Kind::fuse, "cells");
    CHECK(other.label == "Fuse 2");
    CHECK(namedByRole(other));
    // A number beside volts would read as volts.
    Stage boost = freshStage(p, Kind::boost, "lamp");
    static_cast<void>(setPointTo(boost.part, Volts{12}));
    p.stages.push_back(boost);
    p.stages.back().label = "Boost 12";
    boost.id = "another";
    CHECK(roleName(p, boost) == "Boost 12 (2)");
    boost.label = "Boost 12 (2)";
    CHECK(namedByRole(boost));
    boost.label = "Boost 12 V rail";
    CHECK_FALSE(namedByRole(boost));
}

TEST_CASE("every kind has a role of its own words", "[roles]") {
    const Project p = test::example("nest-box-listener");
    for (const KindFacts& row : kinds()) {
        Stage stage;
        stage.id = "x";
        stage.part = row.fresh();
        INFO(row.name);
        CHECK_FALSE(roleName(p, stage).empty());
        CHECK(roleName(p, stage).size() < 16);
    }
}

TEST_CASE("a swap keeps the role's name, and what somebody called it", "[roles]") {
    const Library library = loadLibrary();
    Project p = test::example("nest-box-listener");
    REQUIRE(p.stage("boost12"));
    p.stage("boost12")->label = "Boost 12";
    const LibraryPart* part = library.find("boost-4a-module");
    REQUIRE(part);
    Project swapped = withSwap(p, "boost12", *part);
    CHECK(swapped.stage("boost12")->label == "Boost 12");
    CHECK(swapped.stage("boost12")->make == part->stage.label);
    CHECK(makeOf(*swapped.stage("boost12")) == part->stage.label);
    // Another kind in its place is named for what it does there.
    const LibraryPart* both = library.find("buck-boost-wide");
    REQUIRE(both);
    swapped = withSwap(swapped, "boost12", *both);
    CHECK(swapped.stage("boost12")->label == "Rail 12");
    p.stage("boost12")->label = "For the lamp";
    CHECK(withSwap(p, "boost12", *both).stage("boost12")->label == "For the lamp");
}

TEST_CASE("a role follows its volts; a name that was given stays", "[roles]") {
    Project before = test::example("nest-box-listener");
    before.stage("boost12")->label = "Boost 12";
    Project after = before;
    static_cast<void>(setPointTo(after.stage("boost12")->part, Volts{9}));
    CHECK(withRolesFollowing(before, after).stage("boost12")->label == "Boost 9");
    before.stage("boost12")->label = after.stage("boost12")->label = "Lamp rail";
    CHECK(withRolesFollowing(before, after).stage("boost12")->label == "Lamp rail");
    // Who renames it in the same edit is right.
    after.stage("boost12")->label = "Mine";
    CHECK(withRolesFollowing(before, after).stage("boost12")->label == "Mine");
}

TEST_CASE("the make is kept in the file", "[roles]") {
    Project p = test::example("nest-box-listener");
    p.stage("boost12")->make = "Boost module";
    const auto back = readProject(writeProject(p));
    REQUIRE(back);
    CHECK(back.value().project == p);
}

TEST_CASE("a supply that was wished for is named for its need, its parts for their places",
          "[roles][request]") {
    SupplyRequest wish;
    wish.needs = {{3.3, 0.08}, {12, 0.3}};
    wish.hours = 6;
    const auto base = projectOf(wish);
    REQUIRE(base);
    CHECK(base.value().name == "12 V and 3.3 V, 6 h");
    CHECK(partFileName(base.value().name) == "12-v-and-3.3-v-6-h");
    wish.needs = {{5, 0.2}};
    wish.from = RequestedSource::vehicle;
    wish.setting = Setting::vehicle;
    const auto got = proposeSupplies(wish, loadLibrary(), {});
    REQUIRE(got);
    REQUIRE(got.value().variants > 0);
    CHECK(got.value().document.name == "5 V, from a vehicle");
    for (const Stage& stage : got.value().document.stages) {
        INFO(stage.label);
        CHECK(namedByRole(stage));
        CHECK_FALSE(makeOf(stage).empty());
    }
    // A line a variant.
    const std::string& says = got.value().says;
    CHECK(std::count(says.begin(), says.end(), '\n') + 1 ==
          static_cast<std::ptrdiff_t>(got.value().variants));
}

TEST_CASE("each variant of a wish is the best of them in what its name says", "[roles][request]") {
    const Library library = loadLibrary();
    for (const auto& [volts, from] : {std::pair{9.0, RequestedSource::adapter},
                                      {5.0, RequestedSource::vehicle},
                                      {5.0, RequestedSource::cells}}) {
        SupplyRequest wish;
        wish.needs = {{volts, 0.3}};
        wish.from = from;
        wish.setting = from == RequestedSource::cells ? Setting::portable : Setting::desk;
        const auto got = proposeSupplies(wish, library, {});
        REQUIRE(got);
        const Project& document = got.value().document;
        REQUIRE(got.value().variants > 0);
        std::set<std::string> names;
        double lightest = 1e9;
        double cheapest = 1e9;
        for (std::size_t i = 0; i < got.value().variants; ++i) {
            lightest = std::min(lightest, variantProject(document, i).massGrams());
            cheapest = std::min(cheapest, variantProject(document, i).totalPrice());
        }
        for (std::size_t i = 0; i < got.value().variants; ++i) {
            const std::string name = variantName(document, i);
            INFO(name << " of " << document.name);
            CHECK(names.insert(name).second);
            if (name == "Lightest")
                CHECK(variantProject(document, i).massGrams() == Approx(lightest));
            if (name == "Cheapest")
                CHECK(variantProject(document, i).totalPrice() == Approx(cheapest));
            // What can be charged comes with what charges it.
            const Project supply = variantProject(document, i);
            if (const Pack* pack = supply.pack(); pack && canRecharge(pack->cell))
                CHECK(std::any_of(supply.stages.begin(), supply.stages.end(),
                                  [](const Stage& s) { return isCharger(s.part); }));
        }
    }
}
