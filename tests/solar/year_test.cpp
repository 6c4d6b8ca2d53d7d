// SPDX-License-Identifier: GPL-3.0-or-later
// A year of sun: the reference cases, what is conserved, and what guards and flat packs do.
#include "project/tree.hpp"
#include "solar/map.hpp"
#include "solar/plan.hpp"
#include "solar/text.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

const std::vector<std::string> kCases{"toad-tunnel", "tram-clock", "reindeer-gate"};

double limitOf(const Json& tolerance, double expected) {
    return std::max(tolerance.value("abs", 0.0), tolerance.value("rel", 0.0) * std::abs(expected));
}

Weather weatherOf(const Json& expected) {
    auto w = loadWeather(test::file("reference/" + expected["weather"].get<std::string>()));
    if (!w)
        FAIL(w.error().message());
    return std::move(w).value();
}

/// Weather of one light at every noon hour between 9 and 15, and one air.
Weather plainWeather(double light, double air) {
    Weather w;
    w.latitude = 45;
    for (std::size_t hour = 0; hour < kHoursAYear; ++hour) {
        const bool day = hour % 24 >= 9 && hour % 24 < 15;
        w.ghi.push_back(day ? static_cast<float>(light) : 0.0F);
        w.air.push_back(static_cast<float>(air));
    }
    return w;
}

SolarYear yearOf(const Project& p, const Weather& w, const SolarOptions& ask = {}) {
    auto year = sunYear(p, w, ask);
    if (!year)
        FAIL(year.error().message());
    return std::move(year).value();
}

} // namespace

TEST_CASE("the sun's reference cases hold", "[sun][reference]") {
    for (const std::string& name : kCases) {
        INFO(name);
        const Json file = test::json(test::file("reference/" + name + ".sun.expected.json"));
        const Json& expect = file["expect"];
        const Json& tolerance = file["tolerance"];
        const Project p = test::reference(name);
        const Weather weather = weatherOf(file);
        auto bench = SolarSimulation::of(p, weather);
        REQUIRE(bench);
        const SolarYear y = *bench.value()->run({});
        const auto check = [&](const char* key, double value, const Json& of, const Json& by) {
            INFO(key << " " << value << " against " << of[key]);
            CHECK(std::abs(value - of[key].get<double>()) <=
                  limitOf(by[key], of[key].get<double>()));
        };
        check("unmet_h", y.all.lossOfLoadHours, expect, tolerance);
        check("longest_unmet_h", y.longestUnmet, expect, tolerance);
        check("longest_dark_h", y.longestDark, expect, tolerance);
        check("least_charge", y.all.leastCharge, expect, tolerance);
        check("panel_wh", y.all.panelWh, expect, tolerance);
        check("available_wh", y.all.availableWh, expect, tolerance);
        check("charged_wh", y.all.chargedWh, expect, tolerance);
        check("load_wh", y.all.loadWh, expect, tolerance);
        check("forbidden_charge_h", y.all.forbidden, expect, tolerance);
        CHECK(y.worstMonth + 1 == expect["worst_month"].get<std::size_t>());
        for (const Json& month : expect["months"]) {
            const SolarSums& s = y.months[month["month"].get<std::size_t>() - 1];
            check("panel_wh", s.panelWh, month, tolerance["months"]);
            check("load_wh", s.loadWh, month, tolerance["months"]);
            check("unmet_h", s.lossOfLoadHours, month, tolerance["months"]);
            check("least_charge", s.leastCharge, month, tolerance["months"]);
        }
        for (const Json& at : expect["charge_at"]) {
            const std::size_t hour = (at[0].get<std::size_t>() - 1) * 24 + at[1].get<std::size_t>();
            INFO(at);
            CHECK(std::abs(static_cast<double>(y.charge[hour]) - at[2].get<double>()) <=
                  tolerance["charge_at"]["abs"].get<double>());
        }
        const SunPlan plan = planOf(*bench.value());
        const Json& plans = expect["plan"];
        const Json& byPlan = tolerance["plan"];
        check("use_wh_day", plan.useWhDay, plans, byPlan);
        for (std::size_t m = 0; m < 12; ++m)
            CHECK(plan.sunHours[m] == Approx(plans["sun_hours"][m].get<double>()).epsilon(0.01));
        check("panel_with_margin_w", *plan.panelWithMarginW, plans, byPlan);
        check("set_current_a", *plan.setCurrent, plans, byPlan);
        check("autonomy_days", *plan.autonomyDays, plans, byPlan);
        if (plans.contains("program_ohm"))
            check("program_ohm", *plan.programOhm, plans, byPlan);
    }
}

TEST_CASE("what the panel gives is found again, and smaller steps change nothing", "[sun]") {
    for (const std::string& name : kCases) {
        if (test::kSanitized && name != kCases.front())
            continue;
        INFO(name);
        const Json file = test::json(test::file("reference/" + name + ".sun.expected.json"));
        const Project p = test::reference(name);
        const Weather weather = weatherOf(file);
        const SolarYear whole = yearOf(p, weather);
        CHECK(std::abs(whole.ledger.imbalance(whole.all.panelWh)) < 1e-9);
        double lost = whole.all.panelWh + whole.all.lostFull + whole.all.lostOffMpp +
                      whole.all.lostTemperature + whole.all.lostLimit;
        CHECK(lost == Approx(whole.all.availableWh));
        double loads = 0;
        for (const auto& [id, wh] : whole.ledger.loads)
            loads += wh;
        CHECK(loads == Approx(whole.all.loadWh));
        double months = 0;
        for (const SolarSums& s : whole.months)
            months += s.panelWh;
        CHECK(months == Approx(whole.all.panelWh));
        SolarOptions half;
        half.stepShare = 0.5;
        const SolarYear fine = yearOf(p, weather, half);
        CHECK(fine.all.panelWh == Approx(whole.all.panelWh).epsilon(0.003));
        CHECK(fine.all.loadWh == Approx(whole.all.loadWh).epsilon(0.003));
        CHECK(fine.all.lossOfLoadHours == Approx(whole.all.lossOfLoadHours).margin(2));
        // The same bench gives the same again, and two years are twice one where it has settled.
        auto bench = SolarSimulation::of(p, weather);
        REQUIRE(bench);
        const SolarYear first = *bench.value()->run({});
        const SolarYear second = *bench.value()->run({});
        CHECK(first.all == second.all);
        CHECK(first.all == whole.all);
    }
}

TEST_CASE("a pack in the dark lasts its capacity over its draw", "[sun]") {
    Project p = test::reference("toad-tunnel");
    auto bench = SolarSimulation::of(p, plainWeather(0, 10));
    REQUIRE(bench);
    const Weather none = plainWeather(0, 10);
    const SolarYear y = yearOf(p, none);
    CHECK(y.all.panelWh == 0);
    CHECK(y.all.availableWh == 0);
    CHECK(y.longestDark == Approx(8760));
    REQUIRE(y.firstLossOfLoad);
    const Weather same = plainWeather(0, 10);
    auto dark = SolarSimulation::of(p, same);
    REQUIRE(dark);
    CHECK(*autonomyHours(*dark.value(), 1e5) == Approx(*y.firstLossOfLoad).margin(1));
    // From then on everything is off.
    CHECK(y.all.lossOfLoadHours == Approx(8760 - *y.firstLossOfLoad).margin(1));
    CHECK(y.longestUnmet == Approx(y.all.lossOfLoadHours));
}

TEST_CASE("a guard that has opened in the dark comes back at its reconnect in the light", "[sun]") {
    Project p = test::reference("toad-tunnel");
    // Dark for the first month of the run, then bright.
    Weather w = plainWeather(600, 15);
    const std::size_t start = 171 * 24;
    for (std::size_t hour = start; hour < start + 40 * 24; ++hour)
        w.ghi[hour] = 0;
    const SolarYear y = yearOf(p, w);
    REQUIRE(y.firstLossOfLoad);
    CHECK(*y.firstLossOfLoad < 30 * 24);
    CHECK(y.all.lossOfLoadHours == Approx(y.longestUnmet)); // once
    CHECK(y.all.lossOfLoadHours < 25 * 24);
    // A reconnect that the pack never reaches keeps it off for good.
    std::get<Guard>(p.stage("guard")->part).reconnect = Volts{5};
    const SolarYear off = yearOf(p, w);
    CHECK(off.all.lossOfLoadHours == Approx(8760 - *off.firstLossOfLoad).margin(1));
}

TEST_CASE("frost: a thermistor keeps the charge out, without one it is counted", "[sun]") {
    Project p = test::reference("toad-tunnel");
    const Weather frost = plainWeather(600, -5);
    auto& charger = std::get<Charger>(p.stage("topper")->part);
    const SolarYear kept = yearOf(p, frost);
    CHECK(kept.all.chargedWh == 0);
    CHECK(kept.all.forbidden == 0);
    CHECK(kept.all.lostTemperature > 0.9 * kept.all.availableWh);
    charger.thermistor = false;
    const SolarYear charged = yearOf(p, frost);
    CHECK(charged.all.chargedWh > 0);
    CHECK(charged.all.forbidden > 100);
    CHECK(charged.all.lostTemperature == 0);
}

TEST_CASE("a flat pack at dawn comes back only when charging has raised it", "[sun]") {
    Project p = test::reference("toad-tunnel");
    std::get<Pack>(p.stage("cell")->part).charge = 0.0;
    const SolarYear y = yearOf(p, plainWeather(600, 15));
    CHECK(*y.firstLossOfLoad == 0);
    CHECK(y.all.lossOfLoadHours > 9);
    CHECK(y.all.lossOfLoadHours < 40);
    CHECK(y.all.leastCharge == 0);
}

TEST_CASE("sun is refused where it can't be", "[sun]") {
    const Weather w = plainWeather(500, 15);
    const auto refused = [&](const char* says, const std::function<void(Project&)>& bend) {
        Project p = test::reference("toad-tunnel");
        bend(p);
        INFO(says);
        const auto bench = SolarSimulation::of(p, w);
        REQUIRE_FALSE(bench);
        CHECK_THAT(bench.error().message(), Catch::Contains(says));
    };
    refused("no charger that a panel feeds",
            [](Project& p) { p.stage("panel")->part = Usb{Amps{1}}; });
    refused("used once", [](Project& p) {
        auto& cell = std::get<Pack>(p.stage("cell")->part).cell;
        cell.rechargeable = false;
    });
    refused("voc_v",
            [](Project& p) { std::get<Panel>(p.stage("panel")->part).openCircuit.reset(); });
    refused("less than isc_a",
            [](Project& p) { std::get<Panel>(p.stage("panel")->part).imp = Amps{0.42}; });
    refused("a boost on a panel of 6.6 V", [](Project& p) {
        std::get<Charger>(p.stage("topper")->part).topology = Topology::boost;
    });
    Project lost = test::reference("toad-tunnel");
    lost.brief.latitude.reset();
    Weather nowhere = w;
    nowhere.latitude.reset();
    const auto bench = SolarSimulation::of(lost, nowhere);
    REQUIRE_FALSE(bench);
    CHECK_THAT(bench.error().message(), Catch::Contains("latitude_deg"));
    CHECK(SolarSimulation::of(lost, w)); // an EPW file knows
    CHECK_FALSE(SolarSimulation::of(test::reference("toad-tunnel"), w, "nosuch"));
}

TEST_CASE("every field of the map is what a run of that pair gives", "[sun]") {
    const Project p = test::reference("toad-tunnel");
    const Weather weather =
        weatherOf(test::json(test::file("reference/toad-tunnel.sun.expected.json")));
    std::size_t heard = 0;
    if (test::kSanitized)
        return; // some 200 years; one map that is stopped runs there too
    const auto map =
        sunMapOf(p, weather, "", {1, {1}}, twoThreadFor, [&](const SizingMap&) { ++heard; });
    REQUIRE(map);
    const SizingMap& m = *map.value();
    CHECK(heard > 50);
    CHECK(m.share == 1);
    CHECK(m.panelW[SizingMap::kOwn] == Approx(5.5 * 0.39));
    CHECK(m.packWh[SizingMap::kOwn] == Approx(2.9 * 3.6));
    CHECK(m.panelW[18] == Approx(2 * m.panelW[12]));
    auto bench = SolarSimulation::of(p, weather);
    REQUIRE(bench);
    for (std::size_t panel = 0; panel < SizingMap::kSide; panel += 3)
        for (std::size_t pack = panel % 5; pack < SizingMap::kSide; pack += 5) {
            SolarOptions ask;
            ask.panelScale = SizingMap::scaleOf(panel);
            ask.packScale = SizingMap::scaleOf(pack);
            ask.details = false;
            const double missed = bench.value()->run(ask)->all.lossOfLoadHours;
            INFO(panel << " " << pack << " " << missed);
            CHECK(m.at(panel, pack).known);
            CHECK(std::abs(m.at(panel, pack).lossOfLoadHours - missed) <=
                  std::max(5.0, 0.03 * missed));
        }
    // The line of nothing missed is exact: the pack under it misses something.
    const auto& line = m.least.at(1);
    for (std::size_t panel = 0; panel < SizingMap::kSide; panel += 2) {
        const auto missed = [&](std::size_t pack) {
            SolarOptions ask;
            ask.panelScale = SizingMap::scaleOf(panel);
            ask.packScale = SizingMap::scaleOf(pack);
            ask.details = false;
            return bench.value()->run(ask)->all.lossOfLoadHours;
        };
        INFO("panel " << panel);
        if (line[panel])
            CHECK(missed(*line[panel]) == 0);
        if (!line[panel] || *line[panel] > 0)
            CHECK(missed(line[panel].value_or(SizingMap::kSide) - 1) > 0);
    }
}

TEST_CASE("a map that is stopped says nothing", "[sun]") {
    const Project p = test::reference("toad-tunnel");
    const Weather w = plainWeather(400, 10);
    std::stop_source stop;
    const auto map = sunMapOf(
        p, w, "", {}, serialFor, [&](const SizingMap&) { stop.request_stop(); }, stop.get_token());
    REQUIRE(map);
    CHECK_FALSE(map.value());
}

TEST_CASE("a noon reading sets the field factor", "[sun]") {
    Panel panel;
    panel.openCircuit = Volts{6.6};
    panel.shortCircuit = Amps{0.4};
    panel.vmp = Volts{5.5};
    panel.imp = Amps{0.36};
    panel.tilt = Degrees{0};
    // Level under a clear sky: all of Haurwitz's light.
    const double light = clearSkyGhi(sinElevation(50, 172, 12));
    CHECK(*fieldFactorFrom(panel, 50, 172, 12, 0.4 * light / 1000) == Approx(1));
    CHECK(*fieldFactorFrom(panel, 50, 172, 12, 0.3 * light / 1000) == Approx(0.75));
    panel.countParallel = 2;
    CHECK(*fieldFactorFrom(panel, 50, 172, 12, 0.4 * light / 1000) == Approx(0.5));
    CHECK_FALSE(fieldFactorFrom(panel, 50, 172, 0, 0.1));
    CHECK_FALSE(fieldFactorFrom(panel, 50, 172, 12, 0));
    const PanelPath way{PanelShape({6.6, 0.4, 5.5, 0.36, 0}), 1, 2, 0, 0};
    const double watts = way.curve(light, 20).mpp().second;
    CHECK(*fieldFactorFromWatts(panel, 50, 172, 12, 20, 0.8 * watts) == Approx(0.8));
}

TEST_CASE("the year is said in words", "[sun]") {
    const Project p = test::reference("tram-clock");
    const Json file = test::json(test::file("reference/tram-clock.sun.expected.json"));
    const Weather weather = weatherOf(file);
    auto bench = SolarSimulation::of(p, weather);
    REQUIRE(bench);
    const SolarYear y = *bench.value()->run({});
    CHECK_THAT(sunHeadline(y), Catch::StartsWith("6 d 15 h missed in the year, all in January.") &&
                                   Catch::Contains("the need in"));
    const SunPlan plan = planOf(*bench.value());
    CHECK_THAT(ruleText(y, plan), Catch::Contains("0.6 x 20.5 W x 0.62 sun-hours in December") &&
                                      Catch::Contains("dull days come in a row"));
}
