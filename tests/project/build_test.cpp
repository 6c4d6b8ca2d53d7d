// SPDX-License-Identifier: GPL-3.0-or-later
// Building the line in place: whatever is done, what comes out is a valid tree.
#include "parts/fields.hpp"
#include "project/build.hpp"
#include "support.hpp"

#include <random>

using namespace sipper;
using namespace sipper::test;

namespace {

std::vector<std::string> wayTo(const Project& p, const std::string& load) {
    std::vector<std::string> way;
    std::string at = p.load(load)->fedBy;
    while (!at.empty()) {
        way.insert(way.begin(), at);
        const Stage* s = p.stage(at);
        at = s->fedBy.empty() ? "" : s->fedBy.front();
    }
    return way;
}

} // namespace

TEST_CASE("stages are put between, before and beside", "[build]") {
    const Project box = example("nest-box-listener");
    const auto fuse = [&](const char* near) { return freshStage(box, Kind::switchgear, near); };
    const std::string id = fuse("guard").id;
    const Project between = withStageBetween(box, fuse("guard"), "guard");
    for (const char* load : {"recorder", "logic", "eye"}) {
        const auto way = wayTo(between, load);
        const auto at = std::find(way.begin(), way.end(), id);
        REQUIRE(at != way.end());
        CHECK(*(at - 1) == "guard");
    }
    const Project before = withStageBefore(box, fuse("logic33"), "logic33");
    CHECK(before.stage("logic33")->fedBy.front() == id);
    CHECK(before.stage("boost5")->fedBy == box.stage("boost5")->fedBy);
    const Project atLoad = withStageBefore(box, fuse("recorder"), "recorder");
    CHECK(atLoad.load("recorder")->fedBy == id);
    const Project branch = withBranch(box, fuse("guard"), "guard");
    CHECK(branch.fedFrom(id).empty());
    CHECK(branch.fedFrom("guard").size() == box.fedFrom("guard").size() + 1);
    for (const Project& p : {between, before, atLoad, branch})
        CHECK_FALSE(checkProject(p));
    // Taking it out again gives what was there.
    CHECK(withoutStage(between, id) == box);
    CHECK(withoutStage(before, id) == box);
    CHECK(withoutStage(atLoad, id) == box);
}

TEST_CASE("stages trade places along an unbranched line, and say why when they can't", "[build]") {
    const Project box = example("nest-box-listener");
    const Project moved = withStageMoved(box, "lead5", -1);
    const auto way = wayTo(moved, "recorder");
    CHECK(*(std::find(way.begin(), way.end(), "lead5") + 1) == "boost5");
    CHECK_FALSE(checkProject(moved));
    CHECK(wayTo(withStageMoved(moved, "lead5", 1), "recorder") == wayTo(box, "recorder"));
    CHECK(*whyNotMove(box, "cells", 1) == "A source stays at the beginning.");
    CHECK(*whyNotMove(box, "lead5", 1) == "A load is the end of the line.");
    CHECK(*whyNotMove(box, "guard", 1) == "The line branches behind it.");
    CHECK(*whyNotMove(box, "boost5", -1) == "The line branches before it.");
    CHECK(withStageMoved(box, "cells", 1) == box);
    CHECK(*whyNotAfter(box, "recorder") == "A load is the end of the line.");
    CHECK_FALSE(whyNotAfter(box, "guard"));
    CHECK_THAT(*whyNotRemove(box, "cells"), Catch::Contains("the only source"));
}

TEST_CASE("another part keeps its place, its set-point and its thresholds", "[build]") {
    const Project box = example("nest-box-listener");
    Stage other = freshStage(box, Kind::buckBoost, "logic33");
    other.label = "Another";
    const Project swapped = withPart(box, "logic33", other);
    CHECK(kindName(swapped.stage("logic33")->part) == "buck_boost");
    CHECK(test::figureOf(swapped.stage("logic33")->part, "set_v") == Approx(3.3));
    CHECK(swapped.stage("logic33")->fedBy == box.stage("logic33")->fedBy);
    CHECK_FALSE(checkProject(swapped));
    const Project guard = withPart(box, "guard", freshStage(box, Kind::guard, "guard"));
    CHECK(test::figureOf(guard.stage("guard")->part, "cutoff_v") ==
          test::figureOf(box.stage("guard")->part, "cutoff_v"));
}

TEST_CASE("a second source joins at a select; a source goes with what only it feeds", "[build]") {
    Project p = example("nest-box-listener");
    Stage socket = freshStage(p, Kind::usb, "boost5");
    p = withSource(p, socket);
    p = withSelect(p, "boost5", socket.id);
    REQUIRE_FALSE(checkProject(p));
    const std::string select = p.stage("boost5")->fedBy.front();
    CHECK(p.stage(select)->fedBy == std::vector<std::string>{socket.id, "guard"});
    const Project without = withoutStage(p, socket.id);
    CHECK_FALSE(checkProject(without));
    CHECK(without.stage(select)->fedBy == std::vector<std::string>{"guard"});
    const Project bare = withoutStage(p, "cells");
    CHECK_FALSE(checkProject(bare));
    CHECK(bare.load("recorder"));
    CHECK_FALSE(bare.load("logic"));
}

TEST_CASE("a select that can't be is declined with nothing left hanging", "[build]") {
    const Project p = example("nest-box-listener");
    struct Row {
        const char* before;
        const char* first;
    };
    for (const Row& r : {Row{"boost5", "nosuch"}, Row{"nosuch", "guard"}, Row{"cells", "guard"},
                         Row{"boost5", "guard"}, Row{"", ""}}) {
        INFO(r.before << " from " << r.first);
        CHECK(withSelect(p, r.before, r.first) == p);
    }
    Project loose = p; // a load that hangs on nothing
    loose.loads.front().fedBy.clear();
    CHECK(withSelect(loose, loose.loads.front().id, "guard") == loose);
}

TEST_CASE("any thousand edits leave a valid document", "[build]") {
    std::mt19937 random(11);
    const auto pick = [&](std::size_t n) {
        return std::uniform_int_distribution<std::size_t>(0, n - 1)(random);
    };
    std::vector<Kind> inLine;
    for (const KindFacts& row : kinds())
        if (row.offer == Offer::inLine)
            inLine.push_back(row.kind);
    Project p = example("nest-box-listener");
    for (int i = 0; i < 1000; ++i) {
        const std::string at = p.stages[pick(p.stages.size())].id;
        const std::string load = p.loads.empty() ? std::string() : p.loads[pick(p.loads.size())].id;
        Stage fresh = freshStage(p, inLine[pick(inLine.size())], at);
        switch (pick(8)) {
        case 0:
            if (!whyNotAfter(p, at))
                p = withStageBetween(p, fresh, at);
            break;
        case 1:
            p = withStageBefore(p, fresh, pick(2) ? at : load);
            break;
        case 2:
            if (!whyNotAfter(p, at) && p.stages.size() < 25)
                p = withBranch(p, fresh, at);
            break;
        case 3:
        case 4:
            if (!whyNotRemove(p, at) && !isSource(p.stage(at)->part))
                p = withoutStage(p, at);
            break;
        case 5:
            p = withStageMoved(p, at, pick(2) ? 1 : -1);
            break;
        case 6: {
            const std::string what = pick(2) || load.empty() ? at : load;
            const auto feeds = possibleFeeds(p, what);
            if (!feeds.empty())
                p = withFeed(p, what, feeds[pick(feeds.size())]);
            break;
        }
        case 7:
            if (!isSource(p.stage(at)->part))
                p = withPart(p, at, fresh);
            break;
        }
        const auto trouble = checkProject(p);
        INFO("edit " << i);
        if (trouble)
            FAIL(trouble->message());
    }
}
