// SPDX-License-Identifier: GPL-3.0-or-later
// The near run against the real one, and what a line's table says of parts that are known.
#include "search/approxrun.hpp"

#include "runtime/runtime.hpp"
#include "search/feasibility.hpp"
#include "support.hpp"

#include <random>

using namespace sipper;

namespace {

double nearOf(const Project& p) {
    const Conditions c = typicalConditions(p);
    const Schedule schedule(p);
    const std::vector<DaySegment> day = dayOf(p, schedule);
    const Pack& pack = *p.pack();
    const PackModel model(pack, c.ambient);
    const ApproxCell cell(model, schedule, day);
    const LineTable line(p, schedule, c.ambient, pack.series * model.openCircuitAt(0),
                         pack.series * model.openCircuitAt(1));
    return approxHours(line, cell, day, pack.series, pack.parallel);
}

/// 6 V of cells on a linear regulator of 3.3 V that drops 0.4 V and takes 1 mA; 50 mA behind it.
Project linearLine(double ground) {
    Project p = test::example("moth-counter");
    p.stages.clear();
    p.loads.resize(1);
    p.modes.resize(1);
    p.modes[0] = {};
    p.modes[0].id = "on";
    Pack pack;
    pack.series = 4;
    pack.cell.capacity = AmpHours{2};
    pack.cell.openCircuit = {{0, 1.0}, {1, 1.5}};
    Stage cells;
    cells.id = "cells";
    cells.part = pack;
    Linear linear;
    linear.set = Volts{3.3};
    linear.dropout = Volts{0.4};
    linear.dropoutKind = DropoutKind::bipolar;
    linear.ground = Amps{ground};
    Stage regulator;
    regulator.id = "regulator";
    regulator.part = linear;
    regulator.fedBy = {"cells"};
    p.stages = {cells, regulator};
    Load& load = p.loads[0];
    load.fedBy = "regulator";
    load.critical = true;
    load.window.min = Volts{3.0};
    load.window.max = Volts{3.6};
    load.window.neverAbove.reset();
    Draw draw;
    draw.mode = "on";
    draw.current = Amps{0.05};
    load.draws = {draw};
    return p;
}

LineTable tableOf(const Project& p) {
    return {p, Schedule(p), Celsius{25}, 4.0, 6.0};
}

} // namespace

TEST_CASE("a table of a linear line takes what the load takes and ends where that is left",
          "[search][near]") {
    const LineTable table = tableOf(linearLine(0.001));
    REQUIRE(table.demands() == 1);
    for (const double volts : {5.9, 5.0, 4.2}) {
        const LineTable::Case stiff = table.at(0, volts, 0, 0);
        CHECK_FALSE(stiff.ended);
        CHECK(stiff.amps == Approx(0.051).epsilon(0.001));
        CHECK(stiff.amps <= 0.051);
        // Behind an ohm it takes the same, from 51 mV less.
        const LineTable::Case behind = table.at(0, volts, 1, 0);
        CHECK(behind.volts == Approx(volts - 0.051).epsilon(1e-4));
    }
    // 3.0 V at the load and 0.4 V over the regulator.
    CHECK_FALSE(table.at(0, 3.41, 0, 0).ended);
    CHECK(table.at(0, 3.39, 0, 0).ended);
    CHECK(table.at(0, 3.45, 1, 0).ended == (3.45 - 0.051 < 3.4 * (1 - 3e-4)));
    CHECK(table.at(0, 3.5, 8, 0).ended);
}

TEST_CASE("what takes surely less is told from what takes as much", "[search][near]") {
    const LineTable more = tableOf(linearLine(0.002));
    const LineTable less = tableOf(linearLine(0.001));
    CHECK(less.dominates(more));
    CHECK_FALSE(more.dominates(less));
    CHECK_FALSE(less.dominates(less));
}

TEST_CASE("the near run of every example is hardly under the real one, and seldom far over",
          "[search][near]") {
    std::size_t looked = 0;
    std::size_t close = 0;
    std::vector<std::filesystem::path> files;
    for (const char* folder : {"examples", "recipes"})
        for (const auto& entry : std::filesystem::directory_iterator(
                 std::filesystem::path(SIPPER_SOURCE) / "data" / folder))
            if (entry.path().extension() == ".sipper")
                files.push_back(entry.path());
    for (const auto& file : files) {
        const Project p = test::load(file);
        if (!p.pack() || std::any_of(p.stages.begin(), p.stages.end(), [](const Stage& s) {
                return std::holds_alternative<Capacitor>(s.part);
            }))
            continue;
        const Runtime run = predictRuntime(p);
        if (!run.hours || run.hours->value() > 1e4)
            continue;
        const double near = nearOf(p);
        INFO(file.stem() << ": " << near << " h near, " << run.hours->value() << " h run");
        CHECK(near >= run.hours->value() * (1 - kNearShare));
        close += near <= run.hours->value() * 1.01 + 1e-9 ? 1 : 0;
        ++looked;
    }
    CHECK(looked >= 10);
    CHECK(close * 5 >= looked * 4);
}

TEST_CASE("a front laid out never says more than its points", "[search][near]") {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> of(0, 1);
    ParetoFront front;
    CHECK(front.hoursLowerBound(100, 10) == 0);
    std::vector<std::array<double, 3>> points;
    for (int i = 0; i < 200; ++i) {
        const std::array<double, 3> point{1 + 500 * of(random), std::exp(3 + 6 * of(random)),
                                          std::exp(1 + 4 * of(random))};
        points.push_back(point);
        front.add(point[0], point[1], point[2]);
    }
    front.buildIndex();
    std::size_t told = 0;
    for (int i = 0; i < 2000; ++i) {
        const double grams = std::exp(2 + 8 * of(random));
        const double price = std::exp(6 * of(random));
        double best = 0;
        for (const auto& [hours, g, money] : points)
            if (g <= grams && money <= price)
                best = std::max(best, hours);
        const double least = front.hoursLowerBound(grams, price);
        CHECK(least <= best);
        told += least > 0.9 * best && best > 0 ? 1 : 0;
    }
    CHECK(told > 1000);
    // On a point itself, and a hair under it.
    for (const auto& [hours, g, money] : points) {
        CHECK((front.hoursLowerBound(g, money) <= hours ||
               front.dominates(front.hoursLowerBound(g, money), g, money)));
        CHECK((front.hoursLowerBound(g * 0.999, money) == 0 ||
               front.dominates(front.hoursLowerBound(g * 0.999, money), g * 0.999, money)));
    }
}
