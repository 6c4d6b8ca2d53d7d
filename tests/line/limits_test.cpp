// SPDX-License-Identifier: GPL-3.0-or-later
// What a stage may carry, which feed leads and what draws: by tables.
#include "line/line.hpp"
#include "line/network.hpp"
#include "line/sources.hpp"
#include "line/wiring.hpp"
#include "project/build.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

/// The nest box with limits that can be told apart.
Project limited() {
    Project p = test::example("nest-box-listener");
    std::get<Guard>(p.stage("guard")->part).maxCurrent = Amps{2};
    std::get<Fuse>(p.stage("fuse")->part).rating = Amps{1};
    auto& boost = std::get<Switcher>(p.stage("boost5")->part);
    boost.outputLimit = Amps{0.6};
    boost.powerLimit = Watts{2.5};
    boost.switchLimit = Amps{1.5};
    auto& linear = std::get<Linear>(p.stage("logic33")->part);
    linear.outputLimit = Amps{0.25};
    linear.powerLimit.reset();
    return p;
}

} // namespace

TEST_CASE("a stage is over its limit past it and past it alone", "[limits]") {
    struct Row {
        const char* stage;
        double volts, amps, inductor;
        bool inBurst, over;
    };
    const Row rows[] = {
        {"guard", 3.7, 1.99, 0, false, false},    {"guard", 3.7, 2.01, 0, false, true},
        {"guard", 3.7, 2.01, 0, true, true}, // a guard trips on a burst too
        {"fuse", 3.7, 0.99, 0, false, false},     {"fuse", 3.7, 1.01, 0, false, true},
        {"fuse", 3.7, 1.9, 0, true, false}, // a fuse rides a burst out
        {"boost5", 4.0, 0.59, 1.0, false, false}, {"boost5", 4.0, 0.61, 1.0, false, true},
        {"boost5", 5.0, 0.49, 1.0, false, false}, {"boost5", 5.0, 0.51, 1.0, false, true}, // 2.55 W
        {"boost5", 5.0, 0.3, 1.49, false, false}, {"boost5", 5.0, 0.3, 1.51, false, true},
        {"logic33", 3.3, 0.25, 0, false, false},  {"logic33", 3.3, 0.26, 0, false, true},
        {"lead5", 5.0, 30, 0, false, false}, // a lead is judged by its wiring rule, not here
        {"cells", 4.2, 30, 0, false, false},
    };
    const Project p = limited();
    const Network network(p, Celsius{20});
    for (const Row& r : rows) {
        INFO(r.stage << " at " << r.volts << " V, " << r.amps << " A, " << r.inductor << " A"
                     << (r.inBurst ? ", in a burst" : ""));
        const auto at = static_cast<std::size_t>(p.stage(r.stage) - p.stages.data());
        StageFlow f;
        f.vOut = r.volts;
        f.iOut = r.amps;
        f.inductor = r.inductor;
        CHECK(network.overLimit(at, f, r.inBurst) == r.over);
    }
}

TEST_CASE("a limit that is not given limits nothing", "[limits]") {
    Project p = limited();
    std::get<Guard>(p.stage("guard")->part).maxCurrent.reset();
    auto& boost = std::get<Switcher>(p.stage("boost5")->part);
    boost.outputLimit.reset();
    boost.powerLimit.reset();
    boost.switchLimit.reset();
    const Network network(p, Celsius{20});
    StageFlow f;
    f.vOut = 5;
    f.iOut = 50;
    f.inductor = 90;
    for (const char* id : {"guard", "boost5"})
        CHECK_FALSE(
            network.overLimit(static_cast<std::size_t>(p.stage(id) - p.stages.data()), f, false));
}

TEST_CASE("the next thicker lead that is enough", "[limits]") {
    struct Row {
        double area, needed;
        std::optional<double> chosen;
    };
    const Row rows[] = {
        {0.14, 0, 0.25},  {0.14, 0.3, 0.35}, {0.2, 0.2, 0.25},         {0.5, 0, 0.75},
        {0.5, 0.76, 1.0}, {2.5, 9, 10},      {10, 0, std::nullopt},    {0.1, 0, 0.14},
        {6, 6, 10},       {0.14, 10, 10},    {0.14, 11, std::nullopt},
    };
    for (const Row& r : rows) {
        INFO(r.area << " mm2, enough from " << r.needed);
        const auto chosen = thickerLead(r.area, [&](double a) { return a >= r.needed; });
        CHECK(chosen == r.chosen);
        if (chosen)
            CHECK(*chosen > r.area);
    }
}

TEST_CASE("the first live feed of a list leads", "[limits]") {
    Project p = test::example("nest-box-listener");
    const Stage socket = freshStage(p, Kind::usb, "boost5");
    p = withSelect(withSource(p, socket), "boost5", socket.id);
    const auto at = [&](std::string_view id) {
        return static_cast<std::size_t>(p.stage(id) - p.stages.data());
    };
    const std::size_t select = at(p.stage("boost5")->fedBy.front());
    const std::size_t cells = at("cells");
    const std::size_t usb = at(socket.id);
    struct Row {
        std::vector<std::size_t> present;
        std::size_t leads;
    };
    for (const Row& r : {Row{{cells, usb}, usb}, Row{{usb}, usb}, Row{{cells}, at("guard")},
                         Row{{}, static_cast<std::size_t>(-1)}}) {
        const auto feeds = leadingFeeds(p, r.present);
        INFO(r.present.size() << " present");
        REQUIRE(feeds.size() == p.stages.size());
        CHECK(feeds[select] == r.leads);
        CHECK(feeds[cells] == static_cast<std::size_t>(-1)); // a source has no feed
    }
}

TEST_CASE("a line draws as soon as anything on it does", "[limits]") {
    const auto draws = [](const Project& p) { return Line(p, Conditions{}).drawsAnything(); };
    CHECK(draws(test::example("nest-box-listener")));
    Project idle = test::idealProject(3, 1);
    CHECK_FALSE(draws(idle)); // no loads at all
    idle.loads.push_back(test::loadOf("lamp", "cells", 1, 5));
    CHECK_FALSE(draws(idle));
    Draw draw;
    draw.mode = idle.modes.front().id;
    draw.current = Amps{0};
    idle.loads.front().draws = {draw};
    CHECK_FALSE(draws(idle));
    idle.loads.front().draws.front().current = Amps{1e-6};
    CHECK(draws(idle));
    idle.loads.front().draws.clear();
    // Its own use is a draw too.
    Stage guard = freshStage(idle, Kind::guard, idle.loads.front().id);
    std::get<Guard>(guard.part).quiescent = Amps{5e-6};
    CHECK(draws(withStageBefore(idle, guard, idle.loads.front().id)));
    std::get<Guard>(guard.part).quiescent.reset();
    CHECK_FALSE(draws(withStageBefore(idle, guard, idle.loads.front().id)));
}
