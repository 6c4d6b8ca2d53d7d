// SPDX-License-Identifier: GPL-3.0-or-later
// A panel at one moment, what would change its year, how much it takes, and the battery's divider.
#include "parts/eseries.hpp"
#include "project/tree.hpp"
#include "solar/look.hpp"
#include "solar/operating.hpp"
#include "solar/sensedivider.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

const Weather& mountain(const Project& p) {
    static const Weather weather = usualWeather(p, 1, 1).value();
    return weather;
}

double missedBy(const Project& p, const Weather& w, double panel = 1, double pack = 1) {
    auto bench = SolarSimulation::of(p, w);
    REQUIRE(bench);
    SolarOptions ask;
    ask.panelScale = panel;
    ask.packScale = pack;
    ask.details = false;
    return bench.value()->run(ask)->all.lossOfLoadHours;
}

} // namespace

TEST_CASE("in the light the line shows panel, way, charger and pack of one moment", "[sun]") {
    const Project p = test::example("ridge-weather-mast");
    Conditions c = typicalConditions(p);
    const auto at = [&](const OperatingPoint& o, const char* id) {
        return o.flows.stages[stageIndex(p, id)];
    };
    const OperatingPoint night = operateWithSun(p, c, 0.5, 0);
    CHECK(at(night, "panel").iOut == 0);
    c.irradiance = 800;
    const OperatingPoint lit = operateWithSun(p, c, 0.5, 0);
    const StageFlow panel = at(lit, "panel");
    const StageFlow lead = at(lit, "lead");
    const StageFlow topper = at(lit, "topper");
    const StageFlow cell = at(lit, "cell");
    CHECK(panel.vOut == Approx(lead.vIn));
    CHECK(lead.vOut == Approx(topper.vIn));
    CHECK(panel.iOut == Approx(topper.iIn));
    CHECK(topper.iOut < topper.iIn);
    // What comes in goes into the cells and the loads.
    CHECK(cell.iOut == Approx(-(topper.iOut - at(lit, "fuse").iIn)).epsilon(1e-6));
    CHECK(cell.iOut < 0);
    // More light, more current, up to where the panel's knee is left behind.
    c.irradiance = 400;
    CHECK(at(operateWithSun(p, c, 0.5, 0), "topper").iOut < topper.iOut);
    // A full pack takes next to nothing.
    c.irradiance = 800;
    CHECK(at(operateWithSun(p, c, 1, 0), "topper").iOut < 0.05 * topper.iOut + 0.01);
}

TEST_CASE("a panel's band runs from the first light to the coldest morning", "[sun]") {
    const Project p = test::example("ridge-weather-mast");
    const auto volts = panelVolts(p, *p.stage("panel"));
    REQUIRE(volts);
    const auto& panel = std::get<Panel>(p.stage("panel")->part);
    CHECK(volts->cold ==
          Approx(panel.openCircuit->value() + panel.perKelvin->value() * (-18 - 25)).epsilon(0.01));
    CHECK(volts->dawn < panel.vmp->value());
    CHECK(volts->dawn > 0.6 * panel.vmp->value());
    CHECK(panelBefore(p, *p.stage("lead")) == p.stage("panel"));
    CHECK_FALSE(panelBefore(p, *p.stage("topper")));
    CHECK_FALSE(panelBefore(p, *p.stage("fuse")));
    CHECK_FALSE(panelVolts(p, *p.stage("cell")));
}

TEST_CASE("each lever of the sun is the project that it says, run", "[sun]") {
    const Project p = test::example("ridge-weather-mast");
    const Weather& w = mountain(p);
    const auto levers = solarImprovements(p, w, "", 1, loadLibrary());
    REQUIRE(levers.size() >= 5);
    std::vector<std::string> names;
    for (const SolarImprovement& lever : levers) {
        names.push_back(lever.says);
        INFO(lever.says);
        CHECK(lever.lossOfLoadHours == Approx(missedBy(lever.project, w)));
        CHECK_FALSE(lever.project == p);
    }
    CHECK(std::is_sorted(levers.begin(), levers.end(), [](const auto& a, const auto& b) {
        return std::pair(a.lossOfLoadHours, -a.least) < std::pair(b.lossOfLoadHours, -b.least);
    }));
    for (const char* name : {"Panel 2 W, 6 V", "one more cell in parallel",
                             "the set current at the panel's knee", "a charger that tracks"}) {
        INFO(name);
        CHECK(std::find(names.begin(), names.end(), name) != names.end());
    }
    for (const SolarImprovement& lever : levers)
        if (lever.says == "Panel 2 W, 6 V") {
            const auto& panel = std::get<Panel>(lever.project.stage("panel")->part);
            CHECK(panel.tilt->value() == 65); // it stands as the old one did
            CHECK(lever.priceMore == Approx(1.6));
        }
}

TEST_CASE("the least panel and the least pack miss nothing, a little less of them does", "[sun]") {
    Project p = test::example("ridge-weather-mast");
    const Weather& w = mountain(p);
    const MinimumSizing need = sunNeed(p, w, "", 1, loadLibrary());
    REQUIRE(need.panelW);
    const double panel = *need.panelW / (6 * 0.1667);
    CHECK(missedBy(p, w, panel) == 0);
    CHECK(missedBy(p, w, panel * 0.97) > 0);
    REQUIRE(need.packWh);
    const double pack = *need.packWh / (3.0 * 3.6);
    CHECK(missedBy(p, w, 1, pack) == 0);
    CHECK(missedBy(p, w, 1, pack * 0.97) > 0);
    REQUIRE(need.cheapest);
    CHECK(missedBy(need.cheapest->project, w) == 0);
}

TEST_CASE("the knee of a bright noon is the curve's own", "[sun]") {
    const Project p = test::example("ridge-weather-mast");
    const Weather& w = mountain(p);
    auto bench = SolarSimulation::of(p, w);
    REQUIRE(bench);
    const MppSnapshot june = mppAt(*bench.value(), 5, 12);
    const MppSnapshot december = mppAt(*bench.value(), 11, 12);
    const MppSnapshot dawn = mppAt(*bench.value(), 11, 6);
    CHECK(june.light > 500);
    CHECK(dawn.light < 50);
    CHECK(december.air < june.air);
    CHECK(june.asked.amps == Approx(0.5));
    CHECK(june.stand.limit == SunLimit::source);
    CHECK(june.watts() < 0.9 * june.topWatts());
    CHECK(june.ampsAtMpp < june.asked.amps);
    CHECK(june.curve.amps(june.stand.panelVolts) == Approx(june.stand.panelAmps));
    const Project set = withKneeCurrent(p, "topper", june.ampsAtMpp);
    const auto& topper = std::get<Charger>(set.stage("topper")->part);
    CHECK(topper.programOhm->value() == seriesAtOrOver("E24", 1000 / june.ampsAtMpp));
    CHECK(topper.chargeCurrent->value() == Approx(1000 / topper.programOhm->value()));
    CHECK(topper.chargeCurrent->value() <= june.ampsAtMpp);
    auto after = SolarSimulation::of(set, w);
    REQUIRE(after);
    const MppSnapshot held = mppAt(*after.value(), 5, 12);
    CHECK(held.stand.limit == SunLimit::cc); // it gets what it asks for, right of the knee
    CHECK(held.stand.panelVolts >= held.curve.mpp().first);
    const auto tracking = withTracking(p, "topper");
    REQUIRE(tracking);
    CHECK(missedBy(*tracking, w) <= missedBy(p, w));
}

TEST_CASE("the divider puts the full pack under the full scale", "[sun]") {
    const Project p = test::example("ridge-weather-mast");
    const auto w = watchOf(p);
    REQUIRE(w);
    const double share = w->lower / (w->lower + w->upper);
    CHECK(4.2 * share <= 2.5);
    CHECK(4.2 * share > 2.2);
    CHECK(w->amps == Approx(4.2 / (w->lower + w->upper)));
    CHECK(w->amps < 4e-6);
    CHECK(w->countsFull == Approx(4.2 * share / 2.5 * 4095).margin(1));
    CHECK(w->countsEmpty < w->slowCounts);
    CHECK(w->slowCounts < w->countsFull);
    CHECK_FALSE(w->mode.empty());
    CHECK(w->savesWhDay > 0);
    CHECK(w->slow.mode(w->mode)->every->value() == Approx(w->every));
    // A pack that is lower than the scale needs none.
    SenseDividerOptions wide;
    wide.fullScale = 5;
    CHECK(watchOf(p, wide)->upper == 0);
    wide.fullScale = 0;
    CHECK_FALSE(watchOf(p, wide));
}
