// SPDX-License-Identifier: GPL-3.0-or-later
// A charge beside others: the limit lifted, other sources, rates, and power paths.
#include "charge/choices.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

/// sluice-lamp with its lamp lit, which keeps the charger from ending.
ChargeOptions lit(const Project& p) {
    ChargeOptions ask;
    ask.from = 0.5;
    for (std::size_t i = 0; i < p.modes.size(); ++i)
        if (p.modes[i].id == "lit")
            ask.mode = i;
    return ask;
}

} // namespace

TEST_CASE("what comes after the limit that holds a charge back is really solved", "[charge]") {
    const Project p = test::reference("sluice-lamp");
    const ChargeRun c = chargeOf(p, {}).value();
    const auto lift = liftOf(p, {}, c);
    REQUIRE(lift);
    CHECK(limitName(lift->relaxed) == "source");
    REQUIRE(lift->next);
    CHECK(limitName(*lift->next) == "cc");
    CHECK(lift->saved > 3);
    ChargeOptions without;
    without.lifted = {ChargeLimit::source};
    CHECK(*lift->hours == Approx(*chargeOf(p, without).value().hoursToFull));
}

TEST_CASE("other sources answer as the project with them does", "[charge]") {
    const Project p = test::reference("sluice-lamp");
    Stage strong = test::stageOf("s", Usb{Amps{1.5}}, "");
    Stage high =
        test::stageOf("h", Adapter{Volts{12}, 0.05, Amps{2}, BeyondLimit::hiccup, {}, {}, {}}, "");
    Stage low =
        test::stageOf("l", Adapter{Volts{4}, 0.05, Amps{2}, BeyondLimit::hiccup, {}, {}, {}}, "");
    const auto choices = otherSources(p, {}, {strong, high, low});
    REQUIRE(choices.size() == 4);
    CHECK(choices[0].yours);
    REQUIRE(choices[1].hours);
    CHECK(*choices[1].hours < 0.7 * *choices[0].hours);
    CHECK(*choices[1].hours == Approx(*chargeOf(choices[1].project, {}).value().hoursToFull));
    REQUIRE(choices[2].hours); // nothing says that 12 V harm the input
    CHECK(choices[2].heldBy == ChargeLimit::heat);
    CHECK(choices[3].never == ChargeFailure::wrongTopology);
    Project guarded = p;
    std::get<Charger>(guarded.stage("topper")->part).inputNeverAbove = Volts{8};
    const auto bucked = otherSources(guarded, {}, {high});
    REQUIRE(bucked.size() == 2);
    CHECK(bucked[1].says == "h through a buck");
    CHECK(bucked[1].hours);
}

TEST_CASE("a third of the cycles goes with each doubling above half C", "[charge]") {
    CHECK(lifeAtRate(0.3) == 1);
    CHECK(lifeAtRate(0.5) == 1);
    CHECK(lifeAtRate(1) == Approx(2.0 / 3));
    CHECK(lifeAtRate(2) == Approx(4.0 / 9));
    const auto rates = rateAlternatives(test::reference("sluice-lamp"), {});
    REQUIRE(rates.size() == 3);
    CHECK(*rates[0].hours > *rates[1].hours);
    // 1.45 A a cell of 2.9 Ah: half C is the limit
    CHECK(*rates[1].hours == Approx(*rates[2].hours));
    CHECK(rates[2].lifeFactor == 1);
}

TEST_CASE("a power path cures both traps", "[charge]") {
    Project p = test::reference("sluice-lamp");
    CHECK_FALSE(hasPowerPath(p, "topper"));
    CHECK(chargeOf(p, lit(p)).value().failure == ChargeFailure::endTrap);
    std::get<Usb>(p.stage("socket")->part).advertises = Amps{3};
    const Project path = withPowerPath(p, "topper", Volts{0}, Ohms{0.03});
    CHECK(hasPowerPath(path, "topper"));
    CHECK_FALSE(chargeOf(path, lit(path)).value().failure);
    // The lamp itself then sees the socket: 5 V, over its 4.2 V.
    CHECK(path.load("lamp")->fedBy == "path");
    CHECK(path.stage("path")->fedBy == std::vector<std::string>{"lead", "cells"});

    // A lamp that eats the recovery current of a flat pack.
    Project flat = p;
    ChargeOptions ask = lit(flat);
    ask.from = 0.0;
    CHECK(chargeOf(flat, ask).value().failure == ChargeFailure::recoveryTrap);
    CHECK_FALSE(chargeOf(withPowerPath(flat, "topper", Volts{0}, Ohms{0.03}), ask).value().failure);
}

TEST_CASE("the three ways to run meanwhile stand side by side", "[charge]") {
    Project p = test::reference("sluice-lamp");
    std::get<Usb>(p.stage("socket")->part).advertises = Amps{3};
    const auto paths = powerPaths(p, lit(p));
    REQUIRE(paths.size() == 3);
    CHECK(paths[0].never == ChargeFailure::endTrap);
    CHECK(paths[0].fromFlat == ChargeFailure::recoveryTrap);
    CHECK_FALSE(paths[1].never);
    CHECK_FALSE(paths[2].fromFlat);
    // A diode costs usable charge, a FET does not.
    REQUIRE((paths[0].runsFor && paths[1].runsFor && paths[2].runsFor));
    CHECK(*paths[1].runsFor < 0.99 * *paths[0].runsFor);
    CHECK(*paths[2].runsFor == Approx(*paths[0].runsFor).epsilon(0.01));
    CHECK(paths[0].cyclesAtTop > 0);
    CHECK(paths[1].cyclesAtTop == 0);
}

TEST_CASE("chargers on one supply share what it gives", "[charge]") {
    Project p = test::reference("sluice-lamp");
    std::get<Usb>(p.stage("socket")->part).advertises = Amps{3};
    const auto shared = sharedSupply(p, {}, 4);
    REQUIRE(shared.size() == 4);
    CHECK(shared[0].yours);
    CHECK(*shared[0].hours == Approx(*chargeOf(p, {}).value().hoursToFull));
    for (std::size_t i = 1; i < shared.size(); ++i)
        if (shared[i].hours && shared[i - 1].hours)
            CHECK(*shared[i].hours >= *shared[i - 1].hours);
    // Three on 3 A are each as one on a socket of 1 A: the same figures.
    ChargeOptions three;
    three.alike = 3;
    Project one = p;
    one.stage("socket")->part = Adapter{Volts{5}, 0.05, Amps{1}, BeyondLimit::hiccup, {}, {}, {}};
    const ChargeRun a = chargeOf(p, three).value();
    const ChargeRun b = chargeOf(one, {}).value();
    CHECK(a.hoursToFull.has_value() == b.hoursToFull.has_value());
    CHECK(a.failure == b.failure);
    if (a.hoursToFull && b.hoursToFull)
        CHECK(*a.hoursToFull == Approx(*b.hoursToFull));
    // A transformer sags under all of them: three times its ohms for each.
    Project sag = p;
    sag.stage("socket")->part = Adapter{{}, {}, {}, {}, Volts{9}, Volts{6}, Amps{2}};
    Project thrice = p;
    thrice.stage("socket")->part = Adapter{{}, {}, {}, {}, Volts{9}, Volts{6}, Amps{2.0 / 3}};
    CHECK(*chargeOf(sag, three).value().hoursToFull ==
          Approx(*chargeOf(thrice, {}).value().hoursToFull));
    three.alike = 0;
    CHECK_FALSE(chargeOf(p, three));
}

TEST_CASE("a socket that is not plugged sees the pack only through a path that does not block",
          "[charge]") {
    const Project p = test::reference("sluice-lamp");
    CHECK(backfeedVolts(p, "topper", "socket") == 0);
    Project path = withPowerPath(p, "topper", Volts{0.35}, Ohms{0.05});
    CHECK(backfeedVolts(path, "topper", "socket") == 0);
    for (Stage& s : path.stages)
        if (auto* select = std::get_if<Select>(&s.part))
            select->blocksBack = false;
    CHECK(backfeedVolts(path, "topper", "socket") == Approx(4.2 - 0.35));
}
