// SPDX-License-Identifier: GPL-3.0-or-later
// What tells two supplies apart, field by field.
#include "project/differences.hpp"
#include "support.hpp"

using namespace sipper;
using namespace sipper::test;

TEST_CASE("each change of one thing is one difference, named and written", "[variants]") {
    struct Case {
        const char* subject;
        const char* key;
        std::function<void(Project&)> change;
        const char* before;
        const char* after;
    };
    const Project base = example("nest-box-listener");
    const auto mode = [](Project& p, const char* id) -> Mode& {
        return *std::find_if(p.modes.begin(), p.modes.end(),
                             [&](const Mode& m) { return m.id == id; });
    };
    const std::vector<Case> cases{
        {"guard", "cutoff_v",
         [](Project& p) { std::get<Guard>(p.stage("guard")->part).cutoff = Volts{3.2}; }, "3.05 V",
         "3.2 V"},
        {"cells", "parallel", [](Project& p) { packOf(p).parallel = 4; }, "3", "4"},
        {"cells", "health", [](Project& p) { packOf(p).health = 0.8; }, "1", "0.8"},
        {"cells", "cell", [](Project& p) { packOf(p).cell.label = "Another cell"; },
         "Lithium nickel-cobalt 18650, 3.0 Ah", "Another cell"},
        {"boost5", "set_v",
         [](Project& p) { std::get<Switcher>(p.stage("boost5")->part).set = Volts{5.2}; }, "5.05 V",
         "5.2 V"},
        {"recorder", "fed_by", [](Project& p) { p.load("recorder")->fedBy = "boost5"; }, "lead5",
         "boost5"},
        {"recorder", "min_v", [](Project& p) { p.load("recorder")->window.min = Volts{4.5}; },
         "4.75 V", "4.5 V"},
        {"listen", "every_s", [&](Project& p) { mode(p, "listen").every = Seconds{30}; }, "60 s",
         "30 s"},
        {"lamp", "daily",
         [&](Project& p) {
             mode(p, "lamp").daily = {{"20:00", "22:00"}};
         },
         "21:00–01:00", "20:00–22:00"},
    };
    for (const Case& c : cases) {
        Project other = base;
        c.change(other);
        REQUIRE_FALSE(checkProject(other));
        INFO(c.subject << " " << c.key);
        const auto found = differencesOf({base, other});
        const auto at = std::find_if(found.begin(), found.end(), [&](const Difference& d) {
            return d.subject == c.subject && d.key == c.key;
        });
        REQUIRE(at != found.end());
        CHECK(at->values == std::vector<std::string>{c.before, c.after});
        CHECK_FALSE(at->what.empty());
        CHECK_FALSE(at->where.empty());
        for (const Difference& d : found)
            CHECK(d.subject == c.subject);
    }
}

TEST_CASE("a thing that one lacks is named once, whichever way round", "[variants]") {
    const Project base = example("nest-box-listener");
    Project other = base;
    std::erase_if(other.loads, [](const Load& l) { return l.id == "recorder"; });
    for (const auto& [first, second] : {std::pair{base, other}, std::pair{other, base}}) {
        const auto found = differencesOf({first, second});
        REQUIRE(found.size() == 1);
        CHECK(found[0].subject == "recorder");
        CHECK(found[0].key.empty());
        CHECK(std::count(found[0].values.begin(), found[0].values.end(), "–") == 1);
    }
    // Of three, the one in the middle lacks it.
    const auto three = differencesOf({base, other, base});
    REQUIRE(three.size() == 1);
    CHECK(three[0].values[1] == "–");
    CHECK(three[0].values[0] == three[0].values[2]);
}
