// SPDX-License-Identifier: GPL-3.0-or-later
// Readings of the bench: kept as they are, refused where they can't be.
#include "project/json.hpp"
#include "project/reader.hpp"
#include "project/variants.hpp"
#include "project/writer.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

Json withReadings(const Json& readings) {
    Json document = test::json(test::file("reference/street-choir.sipper"));
    document["readings"] = readings;
    return document;
}

const Json kGood = Json::parse(R"([
  {"id": "r1", "checks": "open_circuit", "at": "cells", "value_v": 18.2, "when": "2031-04-02T09:00",
   "meter": "bench meter", "x-place": [1, 2.5]},
  {"id": "r2", "checks": "idle", "at": "cells", "value_a": -0.0022},
  {"id": "r3", "checks": "idle", "at": "cells", "mode": "loud", "value_a": 0.0115,
   "accuracy": 0.01, "note": "range put right", "supersedes": "r2"},
  {"id": "r4", "checks": "point", "at": "amplifier", "quantity": "v", "value_v": 12.1},
  {"id": "r5", "checks": "warmest", "at": "buck", "value_c": 41}
])");

} // namespace

TEST_CASE("readings are read, kept and written as they were", "[readings]") {
    const auto read = readProject(withReadings(kGood));
    REQUIRE(read);
    const auto& list = read.value().project.readings.all();
    REQUIRE(list.size() == 5);
    CHECK(list[0].checks == CheckKind::openCircuit);
    CHECK(list[0].value() == 18.2);
    CHECK(list[1].value() == -0.0022);
    CHECK(list[2].supersedes == "r2");
    CHECK(list[3].quantity == PointQuantity::v);
    CHECK(list[4].value() == 41);
    const Json again = writeProject(read.value().project)["readings"];
    CHECK(nlohmann::json(again) == nlohmann::json(kGood));
    // Copies share the list; another one is another list.
    const Project copy = read.value().project;
    CHECK(&copy.readings.all() == &list);
    Reading more = list[0];
    more.id = "r6";
    const Readings longer = copy.readings.with(more);
    CHECK(longer.all().size() == 6);
    CHECK(copy.readings.all().size() == 5);
    CHECK_FALSE(longer == copy.readings);
    CHECK(Readings(list) == copy.readings);
    CHECK(Readings().all().empty());
}

TEST_CASE("the shipped orrery's readings hold, and each bad reading says where", "[readings]") {
    struct Case {
        const char* pointer;
        Json value;
        const char* where;
        const char* code;
    };
    const std::vector<Case> cases{
        {"/0/checks", "smell", "/readings/0/checks", "name"},
        {"/0/at", "nowhere", "/readings/0/at", "dangling_id"},
        {"/2/mode", "dance", "/readings/2/mode", "dangling_id"},
        {"/2/supersedes", "r4", "/readings/2/supersedes", "dangling_id"},
        {"/2/supersedes", "r3", "/readings/2/supersedes", "dangling_id"},
        {"/4/id", "r1", "/readings/4/id", "double_id"},
        {"/3/quantity", nullptr, "/readings/3/quantity", "missing"},
        {"/0/value_a", 1, "/readings/0/value_a", "reading"},
        {"/0/value_v", nullptr, "/readings/0/value_v", "missing"},
        {"/1/value_a", "few", "/readings/1/value_a", "type"},
        {"/2/accuracy", 1.5, "/readings/2/accuracy", "range"},
        {"/0/id", "A b", "/readings/0/id", "id"},
    };
    for (const Case& c : cases) {
        INFO(c.pointer << " " << c.value.dump());
        Json bad = kGood;
        const Json::json_pointer at(c.pointer);
        if (c.value.is_null())
            bad[at.parent_pointer()].erase(at.back());
        else
            bad[at] = c.value;
        const auto read = readProject(withReadings(bad));
        REQUIRE_FALSE(read);
        CHECK(read.error().where == c.where);
        CHECK(read.error().code == c.code);
    }
    // A value too many is named before the one that is missing.
    Json swapped = kGood;
    swapped[0].erase("value_v");
    swapped[0]["value_c"] = 20;
    CHECK(readProject(withReadings(swapped)).error().where == "/readings/0/value_c");
    CHECK_FALSE(readProject(withReadings(5)));
}

TEST_CASE("a part that has been measured can't be taken out under its readings", "[readings]") {
    Project p = readProject(withReadings(kGood)).value().project;
    CHECK_FALSE(checkReadings(p));
    std::erase_if(p.stages, [](const Stage& s) { return s.id == "buck"; });
    REQUIRE(checkReadings(p));
    CHECK(checkReadings(p)->where == "/readings/4/at");
    // Another variant that still has it is enough: readings are everyone's.
    const Project whole = readProject(withReadings(kGood)).value().project;
    const Project both = withVariant(withVariantAdded(whole, whole), 1, p);
    CHECK_FALSE(checkReadings(both));
}
