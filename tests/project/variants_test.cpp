// SPDX-License-Identifier: GPL-3.0-or-later
// Several supplies in one document, and what tells them apart.
#include "project/differences.hpp"
#include "project/json.hpp"
#include "project/variants.hpp"
#include "project/writer.hpp"
#include "support.hpp"

using namespace sipper;
using namespace sipper::test;

namespace {

/// The nest box, a B with a higher cut-off and a C without its fuse's worth of cells.
Project threeWays() {
    Project p = example("nest-box-listener");
    Project b = p;
    std::get<Guard>(b.stage("guard")->part).cutoff = Volts{3.2};
    Project c = p;
    packOf(c).parallel = 5;
    c.loads[0].draws[0].current = Amps{0.0008};
    return withVariantAdded(withVariantAdded(p, b), c);
}

} // namespace

TEST_CASE("a variant is a supply of its own, and an edit of it leaves the others", "[variants]") {
    const Project document = threeWays();
    REQUIRE(variantCount(document) == 3);
    CHECK(variantName(document, 0) == "A");
    CHECK(variantName(document, 1) == "B");
    CHECK(variantName(document, 2) == "C");
    CHECK_FALSE(checkProject(document));
    Project top = example("nest-box-listener");
    CHECK(variantProject(document, 0) == top);
    CHECK(variantProject(document, 2).pack()->parallel == 5);
    CHECK(variantProject(document, 2).variants.empty());
    CHECK(variantProject(document, 7) == top); // past the last one: the top

    Project edited = variantProject(document, 1);
    std::get<Guard>(edited.stage("guard")->part).cutoff = Volts{3.3};
    edited.brief.targetRuntime = Hours{72};
    edited.name = "Listener";
    const Project after = withVariant(document, 1, edited);
    CHECK(std::get<Guard>(variantProject(after, 1).stage("guard")->part).cutoff == Volts{3.3});
    CHECK(after.stages == document.stages);
    CHECK(after.variants[1] == document.variants[1]);
    // The brief and the name are everyone's.
    for (std::size_t i = 0; i < 3; ++i) {
        CHECK(variantProject(after, i).brief.targetRuntime == Hours{72});
        CHECK(variantProject(after, i).name == "Listener");
    }
    // Nothing changed: the same document.
    for (std::size_t i = 0; i < 3; ++i)
        CHECK(withVariant(document, i, variantProject(document, i)) == document);
}

TEST_CASE("variants come, go and are named", "[variants]") {
    const Project document = threeWays();
    const Project without = withoutVariant(document, 0);
    CHECK(variantName(without, 0) == "B");
    CHECK(variantName(without, 1) == "C");
    CHECK(without.stages == document.variants[0].stages);
    // The next letter that is free.
    CHECK(variantName(withVariantAdded(without, without), 2) == "A");
    CHECK(withoutVariant(document, 2).variants.size() == 1);
    CHECK(withoutVariant(document, 9) == document);
    const Project alone = example("nest-box-listener");
    CHECK(withoutVariant(alone, 0) == alone);
    const Project named = withVariantNamed(document, 2, "Five cells");
    CHECK(variantName(named, 2) == "Five cells");
    CHECK_FALSE(checkProject(named));
    CHECK(checkProject(withVariantNamed(document, 2, "A"))->where == "/variants/1/name");
    CHECK(checkProject(withVariantNamed(document, 1, ""))->code == "missing");
    Project full = alone;
    for (int i = 0; i < 27; ++i)
        full = withVariantAdded(full, alone);
    CHECK_FALSE(checkProject(full));
    CHECK(variantName(full, 26) == "A2");
}

TEST_CASE("a file keeps its variants, and only what differs of them", "[variants]") {
    const Project document = threeWays();
    const std::string text = projectText(document);
    const auto again = loadProjectText(text);
    REQUIRE(again);
    CHECK(again.value().project == document);
    CHECK(projectText(again.value().project) == text);
    const Json saved = parseJson(text).value();
    CHECK_FALSE(saved["variants"][0].contains("loads"));
    CHECK_FALSE(saved["variants"][0].contains("modes"));
    CHECK(saved["variants"][1].contains("loads"));
    CHECK_FALSE(saved.contains("variant")); // A is A by itself

    struct Bad {
        const char* where;
        Json value;
        const char* code;
    };
    const std::vector<Bad> cases{
        {"/variants/0/name", "A", "double_id"},
        {"/variants/0/name", 7, "type"},
        {"/variants/1", 3, "type"},
        {"/variants/1/stages/1/fed_by", "nothing", "dangling_id"},
        {"/variants/0/stages/0/series", -1, "range"},
        {"/variants/1/loads", Json::object(), "type"},
    };
    for (const Bad& bad : cases) {
        Json broken = saved;
        broken[Json::json_pointer(bad.where)] = bad.value;
        INFO(bad.where);
        const auto read = loadProjectText(broken.dump());
        REQUIRE_FALSE(read);
        CHECK(read.error().code == bad.code);
        CHECK_THAT(read.error().where, Catch::StartsWith(bad.where));
    }
}

TEST_CASE("differences name what is not the same everywhere", "[variants]") {
    const Project document = threeWays();
    std::vector<Project> all;
    for (std::size_t i = 0; i < 3; ++i)
        all.push_back(variantProject(document, i));
    const auto found = differencesOf(all);
    const auto of = [&](const std::string& subject, const std::string& key) {
        for (const Difference& d : found)
            if (d.subject == subject && d.key == key)
                return d.values;
        return std::vector<std::string>{};
    };
    CHECK(of("guard", "cutoff_v") == std::vector<std::string>{"3.05 V", "3.2 V", "3.05 V"});
    CHECK(of("cells", "parallel") == std::vector<std::string>{"3", "3", "5"});
    const Load& changed = document.loads[0];
    const auto draws = of(changed.id, "draw." + changed.draws[0].mode);
    REQUIRE(draws.size() == 3);
    CHECK(draws[0] == draws[1]);
    CHECK(draws[2] == "800 µA");
    for (const Difference& d : found)
        CHECK((d.subject == "guard" || d.subject == "cells" || d.subject == changed.id));
    CHECK(differencesOf({all[0], all[0]}).empty());
    CHECK(differencesOf({}).empty());

    // A part that one lacks, a part of another kind, a mode that one lacks.
    Project other = all[0];
    other.stage("boost5")->part = partOfKind("buck_boost").value();
    std::erase_if(other.loads, [](const Load& l) { return l.id == "lamp"; });
    const std::string last = other.modes.back().id;
    other.modes.pop_back();
    const auto wide = differencesOf({all[0], other});
    int parts = 0;
    for (const Difference& d : wide)
        if (d.key.empty()) {
            ++parts;
            CHECK(d.values.size() == 2);
            if (d.subject == last)
                CHECK(d.values[1] == "–");
        }
    CHECK(parts >= 2);
    for (const Difference& d : wide)
        CHECK_FALSE((d.subject == "boost5" && d.key == "set_v"));
}
