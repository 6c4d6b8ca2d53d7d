// SPDX-License-Identifier: GPL-3.0-or-later
// A regulator that holds a current: known answers by hand, its edges, and its energy.
#include "analysis/analysis.hpp"
#include "improve/swaps.hpp"
#include "line/operating.hpp"
#include "parts/figures.hpp"
#include "project/library.hpp"
#include "project/tree.hpp"
#include "runtime/runtime.hpp"
#include "search/search.hpp"
#include "support.hpp"

#include <cmath>
#include <random>

using namespace sipper;

namespace {

Switcher driverOf(Topology topology, double amps, double most) {
    Switcher w;
    w.topology = topology;
    w.set = Volts{10};
    w.regulates = Regulates::current;
    w.setAmps = Amps{amps};
    w.outputMax = Volts{most};
    w.quiescent = Amps{0.001};
    w.fixed = Watts{0.05};
    w.drop = Volts{0.15};
    w.resistance = Ohms{0.25};
    return w;
}

Load stringOf(const std::string& id, const std::string& feed, double amps, double volts) {
    Load l = test::loadOf(id, feed, volts * 0.8, volts * 1.3);
    l.window.nominal = Volts{volts * 1.05};
    Draw d;
    d.mode = "on";
    d.led = Amps{amps};
    d.ledVolts = Volts{volts};
    l.draws = {d};
    return l;
}

/// Cells of `volts` behind `ohms`, a driver, 0.2 ohm of lead, one string.
Project shelf(double volts, double ohms, const Part& driver, double amps, double stringVolts) {
    Project p = test::idealProject(volts, 5);
    std::get<Pack>(p.stages[0].part).cell.resistance = Ohms{ohms};
    p.stages.push_back(test::stageOf("driver", driver, "cells"));
    Filter lead;
    lead.resistance = Ohms{0.2};
    p.stages.push_back(test::stageOf("lead", lead, "driver"));
    p.loads = {stringOf("lamp", "lead", amps, stringVolts)};
    return p;
}

OperatingPoint shelfAt(const Project& p) {
    return operate(p, typicalConditions(p), 1, 0);
}

std::optional<Finding> spokenOf(const Project& p, const std::string& rule,
                                const std::string& subject) {
    for (const Finding& f : analyseQuick(p, {.bench = false}).findings)
        if (f.rule == rule && f.subject == subject)
            return f;
    return std::nullopt;
}

void balances(const Project& p, const OperatingPoint& point) {
    double lost = 0;
    for (std::size_t i = 1; i < p.stages.size(); ++i) {
        INFO(p.stages[i].id);
        CHECK(point.flows.stages[i].loss() > -1e-12);
        lost += point.flows.stages[i].loss();
    }
    double given = 0;
    for (const LoadFlow& l : point.flows.loads)
        given += l.v * l.i;
    CHECK(point.flows.sourceVolts * point.flows.sourceAmps ==
          Approx(lost + given).epsilon(1e-9).margin(1e-12));
}

} // namespace

TEST_CASE("a light driver gives its current at the volts of the string", "[line][driver]") {
    const Project p = shelf(14, 0, driverOf(Topology::buck, 0.7, 28), 0.7, 9);
    const OperatingPoint point = shelfAt(p);
    REQUIRE_FALSE(point.collapse);
    const StageFlow& driver = point.flows.stages[1];
    CHECK(driver.vOut == Approx(9 + 0.7 * 0.2));
    CHECK(driver.iOut == Approx(0.7));
    CHECK(point.flows.loads[0].v == Approx(9));
    CHECK(point.flows.loads[0].i == Approx(0.7));
    CHECK(point.inside[0]);
    // P_in = P_out + quiescent V + fixed + drop I + R I^2.
    const double watts = 9.14 * 0.7 + 0.001 * 14 + 0.05 + 0.15 * 0.7 + 0.25 * 0.49;
    CHECK(driver.vIn * driver.iIn == Approx(watts).epsilon(1e-12));
    balances(p, point);
}

TEST_CASE("under its set current a string is lit a share of the time", "[line][driver]") {
    const Project p = shelf(14, 0, driverOf(Topology::buck, 0.7, 28), 0.175, 9);
    const OperatingPoint point = shelfAt(p);
    const StageFlow& driver = point.flows.stages[1];
    CHECK(driver.iOut == Approx(0.175));
    CHECK(driver.inductor == Approx(0.7)); // while it is on
    CHECK(point.flows.loads[0].i == Approx(0.175));
    const double on = 9.14 * 0.7 + 0.05 + 0.15 * 0.7 + 0.25 * 0.49;
    CHECK(driver.vIn * driver.iIn == Approx(0.25 * on + 0.014).epsilon(1e-12));
    balances(p, point);
    // More than its current it does not give.
    const Project more = shelf(14, 0, driverOf(Topology::buck, 0.7, 28), 1.4, 9);
    CHECK(shelfAt(more).flows.loads[0].i == Approx(0.7));
    balances(more, shelfAt(more));
}

TEST_CASE("two strings share a driver's current as they ask", "[line][driver]") {
    Project p = shelf(14, 0.1, driverOf(Topology::buck, 0.6, 28), 0.2, 9);
    p.loads.push_back(stringOf("other", "lead", 0.1, 9));
    const OperatingPoint point = shelfAt(p);
    CHECK(point.flows.loads[0].i == Approx(0.2));
    CHECK(point.flows.loads[1].i == Approx(0.1));
    CHECK(point.flows.stages[1].vOut == Approx(9 + 0.6 * 0.2));
    balances(p, point);
}

TEST_CASE("a driver without headroom starves its string", "[line][driver]") {
    // Needed: 9.14 + 0.15 + 0.25 x 0.7 = 9.465 V at its input.
    for (const double volts : {9.47, 9.46, 9.4, 9.2, 9.0, 6.0}) {
        const Project p = shelf(volts, 0, driverOf(Topology::buck, 0.7, 28), 0.7, 9);
        const OperatingPoint point = shelfAt(p);
        INFO(volts);
        REQUIRE_FALSE(point.collapse);
        CHECK(point.inside[0] == (volts > 9.465));
        CHECK(point.flows.loads[0].i <= 0.7 + 1e-12);
        if (volts <= 9.0)
            CHECK(point.flows.loads[0].i == Approx(0).margin(0.05));
        balances(p, point);
    }
    // Behind a resistance too: the mean current pulls the input down to where it is starved.
    const Project p = shelf(10.2, 1.4, driverOf(Topology::buck, 0.7, 28), 0.7, 9);
    const OperatingPoint point = shelfAt(p);
    REQUIRE_FALSE(point.collapse);
    CHECK_FALSE(point.inside[0]);
    CHECK(point.flows.loads[0].i > 0.2);
    balances(p, point);
}

TEST_CASE("what a driver can't reach stays dark, and ends the run", "[line][driver]") {
    const Project p = shelf(14, 0.1, driverOf(Topology::buck, 0.7, 8.5), 0.7, 9);
    const OperatingPoint point = shelfAt(p);
    CHECK_FALSE(point.inside[0]);
    CHECK(point.flows.loads[0].i == 0);
    CHECK(point.flows.stages[1].vOut == Approx(8.5));
    const Runtime run = predictRuntime(p, typicalConditions(p));
    CHECK(run.hours.value_or(Hours{1}).value() == 0);
    CHECK(run.ending.reason == EndReason::belowWindow);
    const auto f = spokenOf(p, "window_low", "lamp");
    REQUIRE(f);
    CHECK(f->severity == Severity::stop);
    CHECK(f->numbers.at("limit_v") == 8.5);
}

TEST_CASE("a boost's string has to be above its input", "[line][driver]") {
    const Project fits = shelf(7, 0.05, driverOf(Topology::boost, 0.3, 24), 0.3, 9);
    const OperatingPoint point = shelfAt(fits);
    CHECK(point.flows.stages[1].state == StageState::steppingUp);
    CHECK(point.inside[0]);
    balances(fits, point);
    const Project under = shelf(10, 0.05, driverOf(Topology::boost, 0.3, 24), 0.3, 9);
    const OperatingPoint passing = shelfAt(under);
    CHECK(passing.flows.stages[1].state == StageState::passing);
    CHECK(passing.flows.loads[0].i > 0.3); // nothing holds it
    balances(under, passing);
    CHECK(spokenOf(under, "passes_through", "driver"));
    CHECK_FALSE(spokenOf(fits, "passes_through", "driver"));
}

TEST_CASE("what needs volts gets a driver's highest", "[line][driver]") {
    Project p = shelf(14, 0.1, driverOf(Topology::buck, 0.7, 13), 0.7, 9);
    Load l = test::loadOf("logic", "lead", 4, 6);
    l.draws = {test::powerDraw("on", 1)};
    p.loads = {l};
    const OperatingPoint point = shelfAt(p);
    CHECK(point.flows.stages[1].vOut == Approx(13));
    CHECK_FALSE(point.inside[0]);
}

TEST_CASE("with nothing drawn a string keeps its own volts", "[line][driver]") {
    const Project p = shelf(14, 0, driverOf(Topology::buck, 0.7, 28), 0.7, 9);
    const Network network(p, Celsius{25});
    Flows flows;
    REQUIRE(network.solve(network.idle(), 16, 0, flows));
    CHECK(flows.loads[0].v == Approx(9));
    CHECK(flows.sourceAmps == Approx(0.001));
    Project bare = p;
    bare.loads.clear();
    const Network open(bare, Celsius{25});
    REQUIRE(open.solve(open.idle(), 16, 0, flows));
    CHECK(flows.stages[1].vOut == Approx(28));
}

TEST_CASE("drivers between forks behind forks balance", "[line][driver]") {
    std::mt19937 random(5);
    const auto share = [&](double a, double b) {
        return a + (b - a) * static_cast<double>(random() % 1000) / 1000.0;
    };
    int whole = 0;
    for (int round = 0; round < 200; ++round) {
        Project p = test::idealProject(share(9, 16), 5);
        std::get<Pack>(p.stages[0].part).cell.resistance = Ohms{share(0.02, 0.5)};
        for (const char* id : {"a", "b", "c"}) {
            Filter lead;
            lead.resistance = Ohms{share(0.02, 0.4)};
            p.stages.push_back(
                test::stageOf(id, lead, id[0] == 'a' ? "cells" : std::string(1, id[0] - 1)));
            const std::string drives = std::string("d") + id;
            const auto kind = static_cast<Topology>(static_cast<int>(Topology::buck) +
                                                    static_cast<int>(random() % 3));
            p.stages.push_back(test::stageOf(drives, driverOf(kind, share(0.1, 0.7), 40), id));
            p.loads.push_back(stringOf(drives + "-lamp", drives, share(0.05, 0.7),
                                       kind == Topology::buck    ? share(4, 12)
                                       : kind == Topology::boost ? share(16, 30)
                                                                 : share(6, 24)));
            Load l = test::loadOf(std::string(id) + "-load", id, 1, 20);
            l.draws = {test::powerDraw("on", share(0.1, 1))};
            p.loads.push_back(l);
        }
        const OperatingPoint point = shelfAt(p);
        if (point.collapse)
            continue;
        ++whole;
        INFO("round " << round);
        balances(p, point);
    }
    CHECK(whole > 150);
}

TEST_CASE("a driver needs its current, and swaps with its like", "[line][driver]") {
    Project p = shelf(14, 0, driverOf(Topology::buck, 0.7, 28), 0.7, 9);
    std::get<Switcher>(p.stages[1].part).setAmps.reset();
    const auto refused = checkProject(p);
    REQUIRE(refused);
    CHECK(refused->where == "/stages/1/set_a");
    p = shelf(14, 0, driverOf(Topology::buck, 0.7, 28), 0.7, 9);
    const Library library = loadLibrary();
    int fit = 0;
    for (const Swap& swap : suggestSwaps(p, library, "driver"))
        if (swap.fits) {
            ++fit;
            CHECK(orZero(setCurrentOf(library.parts[swap.part].stage.part)) == Approx(0.7));
        }
    CHECK(fit > 0);
}

TEST_CASE("the finder leaves strings on a driver to their driver", "[line][driver][search]") {
    const Project p = shelf(14, 0, driverOf(Topology::buck, 0.7, 28), 0.7, 9);
    const auto found = findSupplies(p, loadLibrary(), {});
    REQUIRE_FALSE(found);
    CHECK(found.error().code == "light_driver");
    CHECK(found.error().where == "/loads/0/fed_by");
}
