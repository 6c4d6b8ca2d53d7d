// SPDX-License-Identifier: GPL-3.0-or-later
// Windows derived from what a thing was made for.
#include "parts/chemistry.hpp"
#include "parts/madefor.hpp"
#include "support.hpp"

using namespace sipper;

TEST_CASE("a window follows from what the load was made for", "[madefor]") {
    struct Case {
        MadeForInput asked;
        double min, nominal, max, never;
        const char* says;
    };
    const auto c = GENERATE(
        Case{{MadeFor::regulatedAdapter, Volts{6}}, 5.7, 6, 6.3, 7.2, "a regulated 6.00 V adapter"},
        Case{{MadeFor::unregulatedAdapter, Volts{9}}, 8.1, 9, 13.5, 14.85, "13.5 V with nothing"},
        Case{{MadeFor::cells, Volts{0}, Chemistry::alkaline, 2},
             1.8,
             3,
             3.2,
             3.84,
             "2 alkaline cells in series, 1.60 V each"},
        Case{{MadeFor::cells, Volts{0}, Chemistry::nickelCobalt, 1},
             3,
             3.7,
             4.2,
             5.04,
             "1 lithium nickel cobalt cell in series"},
        Case{{MadeFor::socket}, 4.75, 5, 5.25, 5.5, "a 5 V socket"},
        Case{{MadeFor::vehicle}, 9, 12, 16, 18, "licensed people"},
        Case{{MadeFor::rail, Volts{3.3}}, 2.97, 3.3, 3.63, 3.8, "10 % either way"});
    const auto derived = windowFor(c.asked);
    REQUIRE(derived);
    const Window& w = derived.value().window;
    INFO(derived.value().assumed);
    CHECK(w.min.value() == Approx(c.min));
    CHECK(w.nominal->value() == Approx(c.nominal));
    CHECK(w.max.value() == Approx(c.max));
    CHECK(w.neverAbove->value() == Approx(c.never).margin(0.01));
    CHECK_THAT(derived.value().assumed, Catch::StartsWith("Assumed: ") && Catch::Contains(c.says));
}

TEST_CASE("what nothing follows from is refused", "[madefor]") {
    CHECK(windowFor({MadeFor::rail, Volts{0}}).error().expected == "from 0.5 to 400 V");
    CHECK(windowFor({MadeFor::cells, Volts{0}, Chemistry::alkaline, 0}).error().found == "0 cells");
    CHECK(windowFor({MadeFor::cells, Volts{0}, Chemistry::other, 1}).error().code == "range");
}

TEST_CASE("a chemistry's volts lie in order", "[madefor]") {
    for (const std::string_view name : namesOf<Chemistry>()) {
        const ChemistryVolts& v = voltsOf(*valueOf<Chemistry>(name));
        INFO(name);
        CHECK(v.fresh >= v.nominal);
        CHECK(v.nominal >= v.empty);
        if (v.squeeze > 0) {
            CHECK(v.squeeze < v.balanced);
            CHECK(v.balanced < v.gentle);
            CHECK(v.gentle < v.nominal);
        }
    }
}

TEST_CASE("a known run gives the draw, by watts or by amps", "[madefor]") {
    const auto draw = drawFromRun({AmpHours{1.2}, Volts{7.2}, Hours{3 + 11.0 / 60}});
    REQUIRE(draw);
    CHECK(draw.value().current.value() == Approx(1.2 / (3 + 11.0 / 60)));
    CHECK(draw.value().power.value() == Approx(8.64 / (3 + 11.0 / 60)));
    CHECK_THAT(draw.value().assumed, Catch::Contains("8.64 Wh, in 3 h 11"));
    Load load;
    load.draws.emplace_back().mode = "on";
    load.draws[0].resistance = Ohms{10};
    load.draws[0].burst = Amps{2};
    const Load watts = withKnownRun(load, "on", draw.value(), true);
    REQUIRE(watts.draws.size() == 1);
    CHECK(watts.draws[0].power->value() == Approx(8.64 / (3 + 11.0 / 60)));
    CHECK_FALSE(watts.draws[0].resistance);
    CHECK(watts.draws[0].burst->value() == 2);
    CHECK(watts.draws[0].relativeTolerance() == Approx(kKnownRunTolerance));
    const Load amps = withKnownRun(load, "play", draw.value(), false);
    REQUIRE(amps.draws.size() == 2);
    CHECK(amps.draws[1].current->value() == Approx(1.2 / (3 + 11.0 / 60)));
    for (const KnownRun& bad :
         {KnownRun{AmpHours{0}}, KnownRun{AmpHours{1}, Volts{-1}},
          KnownRun{AmpHours{1}, Volts{1}, Hours{0}}, KnownRun{AmpHours{std::nan("")}}})
        CHECK(drawFromRun(bad).error().code == "range");
}
