// SPDX-License-Identifier: GPL-3.0-or-later
// Several packs, and the bench order of a charger.
#include "charge/commissioning.hpp"
#include "charge/parallel.hpp"
#include "support.hpp"

#include <numeric>

using namespace sipper;

TEST_CASE("packs joined in parallel meet where no charge is lost", "[charge]") {
    // Two of 0.1 ohm, 0.4 V apart: 2 A from one into the other, at the middle.
    const Joined two = joinPacks({{4.1, 0.1, 3}, {3.7, 0.1, 3}}, 0);
    CHECK(two.volts == Approx(3.9));
    CHECK(two.amps[0] == Approx(-2));
    CHECK(two.amps[1] == Approx(2));
    CHECK_FALSE(two.refused);
    CHECK(two.order == std::vector<std::size_t>{1, 0});
    std::vector<TheveninPack> many;
    for (int i = 0; i < 10; ++i)
        many.push_back({3.5 + 0.05 * i, 0.05 + 0.01 * i, 0});
    const Joined ten = joinPacks(many, 0);
    CHECK(std::abs(std::accumulate(ten.amps.begin(), ten.amps.end(), 0.0)) < 1e-9);
    for (std::size_t i = 0; i < many.size(); ++i)
        CHECK(many[i].volts + ten.amps[i] * many[i].ohms == Approx(ten.volts));
    CHECK(joinPacks({{4, 0.1, 0}}, 0).amps.empty());
}

TEST_CASE("what the cells or the leads can't take is refused, with how near is near enough",
          "[charge]") {
    const Joined cells = joinPacks({{4.1, 0.1, 1.5}, {3.7, 0.1, 1.5}}, 0);
    CHECK(cells.refused);
    CHECK_THAT(cells.why, Catch::Contains("2.00 A would rush into pack 2") &&
                              Catch::Contains("cells take 1.50 A"));
    CHECK(cells.mayDiffer == Approx(0.3)); // 1.5 A over twice 0.1 ohm
    CHECK_FALSE(joinPacks({{4.1, 0.1, 1.5}, {3.81, 0.1, 1.5}}, 0).refused);
    const Joined leads = joinPacks({{4.1, 0.1, 9}, {3.7, 0.1, 9}}, 1);
    CHECK(leads.refused);
    CHECK_THAT(leads.why, Catch::Contains("out of pack 1") && Catch::Contains("lead carries"));
    CHECK(leads.mayDiffer == Approx(0.2));
}

TEST_CASE("a big pack fills a small one by watt-hours", "[charge]") {
    CHECK(fillsFrom(100, 0.9, 15, 0.8) == Approx(4.8));
    CHECK(fillsFrom(100, 0.9, 0, 0.8) == 0);
}

TEST_CASE("an adjustable converter is set with nothing connected and its current down",
          "[charge]") {
    const Project p = test::example("hedge-lantern");
    const auto steps = setupSteps(p, "topper");
    const auto place = [&](const char* what) {
        const auto at = std::find_if(steps.begin(), steps.end(),
                                     [&](const SetupStep& s) { return s.what.starts_with(what); });
        INFO(what);
        REQUIRE(at != steps.end());
        return at - steps.begin();
    };
    CHECK(place("Source alone") == 0);
    CHECK(place("Turn the voltage") < place("Set the end voltage"));
    CHECK(place("Set the end voltage") < place("Turn the current"));
    CHECK(place("Turn the current") < place("Connect the pack"));
    CHECK(place("Connect the pack") < place("Raise the current"));
    CHECK(place("Raise the current") < place("Feel the heat"));
    CHECK(steps[static_cast<std::size_t>(place("Set the end voltage"))].to == "16.8 V");
    CHECK(steps[static_cast<std::size_t>(place("Raise the current"))].to == "2.50 A");
    CHECK_THAT(steps[0].why, Catch::Contains("35.0 V"));
    CHECK_THAT(converterCaution(p, "topper"),
               Catch::Contains("no safety device") && Catch::Contains("own monitoring"));
    for (const SetupStep& step : steps) {
        CHECK_FALSE(step.where.empty());
        CHECK_FALSE(step.why.empty());
    }
}

TEST_CASE("a ready-made charger is programmed by its resistor and waits for a pack", "[charge]") {
    const Project p = test::example("moth-counter");
    const auto steps = setupSteps(p, "topper");
    REQUIRE(steps.size() >= 5);
    CHECK_THAT(steps[1].what, Catch::Contains("programming resistor"));
    CHECK_THAT(steps[1].why, Catch::Contains("1.20 A"));
    CHECK_THAT(steps[2].why, Catch::Contains("senses a pack"));
    CHECK(converterCaution(p, "topper").empty());
    CHECK(setupSteps(p, "nothing").empty());
    const TheveninPack pack = benchPackOf(p, "topper");
    CHECK(pack.most == Approx(3));
    CHECK(pack.ohms > 0.02);
}
