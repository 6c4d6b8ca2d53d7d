// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/edits.hpp"
#include "support.hpp"

using namespace sipper;

TEST_CASE("a draw is typed as current, power or resistance", "[edits]") {
    struct Case {
        const char* text;
        const char* written;
    };
    const auto c = GENERATE(Case{"3m8", "3.8 mA"}, Case{"120 mA", "120 mA"},
                            Case{"0.6 W", "600 mW"}, Case{"47 ohm", "47 Ω"}, Case{"0", "0 A"},
                            Case{"0,35", "350 mA"}, Case{"20mA over 2.8", "20 mA over 2.8 V"});
    Draw draw;
    draw.power = Watts{1};
    draw.burst = Amps{1};
    INFO(c.text);
    CHECK_FALSE(setDraw(draw, c.text));
    CHECK(drawText(draw) == c.written);
    CHECK((draw.current ? 1 : 0) + (draw.power ? 1 : 0) + (draw.resistance ? 1 : 0) +
              (draw.led ? 1 : 0) ==
          1);
    CHECK(draw.burst);
    const Draw before = draw;
    for (const char* bad : {"", "much", "-3 mA", "0 ohm", "5 V"}) {
        CHECK(setDraw(draw, bad));
        CHECK(draw == before);
    }
}

TEST_CASE("loads and modes are added, moved and taken out, and the project stays whole",
          "[edits]") {
    Project p = test::example("nest-box-listener");
    Project more = withNewMode(withNewLoad(p));
    CHECK(more.loads.size() == 4);
    CHECK(more.modes.size() == 5);
    CHECK_FALSE(checkProject(more));
    CHECK(more.loads.back().fedBy == p.loads.back().fedBy);
    CHECK_FALSE(checkProject(withNewLoad(more))); // ids stay apart
    CHECK(withoutLoad(withoutMode(more, "mode1"), "load") == p);
    const Project dark = withoutMode(p, "lamp"); // the blink lives within it
    CHECK(dark.modes.size() == 2);
    CHECK_FALSE(checkProject(dark));
    CHECK(withoutMode(p, "rest") == p);
    const Project moved = withLoadMoved(p, "logic", -2);
    CHECK(moved.loads[0].id == "logic");
    CHECK(moved.loads[2].id == "recorder");
    CHECK(withLoadMoved(moved, "logic", 99).loads[2].id == "logic");
    CHECK(withModeMoved(p, "rest", 1).modes[1].id == "rest");
    // A mode without a draw of its own gets one from the base draw when it is edited.
    Load& eye = *p.load("eye");
    ownDrawIn(p, eye, 1).current = Amps{0.1};
    CHECK(eye.draws.size() == 4);
    CHECK_FALSE(checkProject(p));
}

TEST_CASE("daily windows are typed and written", "[edits]") {
    const auto w = readWindows("21:00-01:00, 6-7:30");
    REQUIRE(w);
    Mode mode;
    mode.daily = w.value();
    CHECK(windowsText(mode) == "21:00–01:00, 06:00–07:30");
    CHECK(readWindows(windowsText(mode)).value() == w.value());
    for (const char* bad : {"", "21:00", "25:00-26:00", "9:00-9:00", "evening", "21:00-22:00,"})
        CHECK_FALSE(readWindows(bad));
}
