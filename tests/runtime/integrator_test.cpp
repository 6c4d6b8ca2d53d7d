// SPDX-License-Identifier: GPL-3.0-or-later
// The stepper under any current: closed forms, conservation, both directions, events.
#include "runtime/integrator.hpp"
#include "runtime/whatif.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

/// One cell with two wells, a slow resistance and a sloping curve.
Pack cellPack(double available = 0.6) {
    Pack pack;
    pack.cell.capacity = AmpHours{2};
    pack.cell.openCircuit = {{0, 3}, {1, 4}};
    pack.cell.resistance = Ohms{0.05};
    pack.cell.relaxation = Ohms{0.03};
    pack.cell.relaxationTime = Seconds{60};
    pack.cell.availableFraction = available;
    pack.cell.wellRate = PerHour{2};
    pack.connection = Ohms{0.01};
    return pack;
}

PackState levelAt(const PackModel& pack, double charge) {
    return {pack.level(charge), 0};
}

Integration constant(double amps, double hours) {
    Integration d;
    d.amps = [amps](const PackState&, double) { return amps; };
    d.until = hours;
    return d;
}

} // namespace

TEST_CASE("a constant current out and in ends where the closed form says", "[stepper]") {
    for (const double available : {1.0, 0.6})
        for (const double amps : {0.7, -0.4}) {
            const PackModel pack(cellPack(available), Celsius{25});
            const PackState start = levelAt(pack, 0.5);
            const DriveResult d = integrate(pack, start, constant(amps, 0.8));
            CHECK(d.end == IntegrationEnd::time);
            CHECK(d.hours == Approx(0.8));
            CHECK(d.ampHours == Approx(amps * 0.8));
            const Wells exact = pack.drained(start.wells, amps, 0.8);
            CHECK(d.state.wells.available == Approx(exact.available).epsilon(1e-9));
            CHECK(d.state.wells.bound == Approx(exact.bound).epsilon(1e-9));
            CHECK(d.state.rcVolts == Approx(amps * 0.03).epsilon(1e-6)); // 48 time constants
            const Stepper stepper(pack, {});
            const double open = pack.openCircuitAt(pack.height(d.state.wells));
            CHECK(stepper.volts(d.state, amps) ==
                  Approx(open - amps * (0.05 + 0.03 + 0.01)).epsilon(1e-9));
        }
}

TEST_CASE("what is charged in comes out again, and energy is the integral of volts", "[stepper]") {
    const PackModel pack(cellPack(), Celsius{25});
    const DriveResult in = integrate(pack, levelAt(pack, 0.2), constant(-0.5, 1.0));
    const DriveResult out = integrate(pack, in.state, constant(0.5, 1.0));
    CHECK(out.state.wells.total() == Approx(pack.level(0.2).total()).epsilon(1e-9));
    CHECK(in.wattHours < 0);
    CHECK(out.wattHours > 0);
    CHECK(-in.wattHours > out.wattHours); // the resistances keep the difference
    // Finer steps change next to nothing.
    StepControl fine;
    fine.maxChargeStep /= 8;
    fine.voltsPerCell /= 8;
    const DriveResult again = integrate(pack, levelAt(pack, 0.2), constant(-0.5, 1.0), fine);
    CHECK(again.wattHours == Approx(in.wattHours).epsilon(5e-4));
}

TEST_CASE("rebound: the fast part at once, the slow one with its time, the wells over hours",
          "[stepper]") {
    const PackModel pack(cellPack(), Celsius{25});
    const double amps = 1.2;
    const DriveResult cut = integrate(pack, levelAt(pack, 0.8), constant(amps, 0.3));
    const Stepper stepper(pack, {});
    const double under = stepper.volts(cut.state, amps);
    const double after = stepper.volts(cut.state, 0);
    CHECK(after - under == Approx(amps * (0.05 + 0.01)));
    std::vector<std::pair<double, double>> seen;
    Integration rest = constant(0, 6);
    rest.record = [&](double h, const PackState& s, double, double v) {
        seen.emplace_back(h, v);
        CHECK(s.rcVolts == Approx(cut.state.rcVolts * std::exp(-h * 60)).margin(1e-9));
    };
    const DriveResult rested = integrate(pack, cut.state, rest);
    CHECK(rested.end == IntegrationEnd::time);
    CHECK(rested.ampHours == 0);
    const double level = pack.openCircuitAt(pack.charge(cut.state.wells));
    CHECK(seen.back().second == Approx(level).epsilon(1e-4));
    for (std::size_t i = 1; i < seen.size(); ++i) {
        CHECK(seen[i].second >= seen[i - 1].second - 1e-12);
        CHECK(seen[i].second - seen[i - 1].second <= 0.005 * 1.05);
    }
    CHECK(rested.state.wells.total() == Approx(cut.state.wells.total()));
}

TEST_CASE("events are found where they are, and every end has its name", "[stepper]") {
    const PackModel pack(cellPack(1), Celsius{25});
    // A threshold: 2 Ah from 4 to 3 V in a straight line, 1 A.
    Integration d = constant(1, 10);
    const Stepper stepper(pack, {});
    d.event = [&](const PackState& s, double, double amps) { return stepper.volts(s, amps) < 3.3; };
    const DriveResult cut = integrate(pack, levelAt(pack, 1), d);
    CHECK(cut.end == IntegrationEnd::event);
    CHECK(cut.hours == Approx(2 * (4 - 3.3 - 0.09)).epsilon(1e-6));
    CHECK(integrate(pack, levelAt(pack, 1), constant(1, 10)).end == IntegrationEnd::empty);
    CHECK(integrate(pack, levelAt(pack, 1), constant(1, 10)).hours == Approx(2).epsilon(1e-6));
    const DriveResult full = integrate(pack, levelAt(pack, 0.5), constant(-1, 10));
    CHECK(full.end == IntegrationEnd::full);
    CHECK(full.hours == Approx(1).epsilon(1e-6));
    Integration none = constant(1, 1);
    none.amps = [&](const PackState& s, double) {
        return pack.charge(s.wells) > 0.9 ? std::optional(1.0) : std::nullopt;
    };
    const DriveResult lost = integrate(pack, levelAt(pack, 1), none);
    CHECK(lost.end == IntegrationEnd::noAnswer);
    CHECK(lost.hours == Approx(0.2).epsilon(1e-6));
    CHECK(integrate(pack, levelAt(pack, 0.5), none).end == IntegrationEnd::noAnswer);
    CHECK(integrate(pack, levelAt(pack, 0.5), none).hours == 0);
    Integration already = constant(1, 1);
    already.event = [](const PackState&, double, double) { return true; };
    CHECK(integrate(pack, levelAt(pack, 1), already).end == IntegrationEnd::event);
    CHECK(integrate(pack, levelAt(pack, 1), already).hours == 0);
}

TEST_CASE("a constant power and a clock drive it too", "[stepper]") {
    const PackModel pack(cellPack(1), Celsius{25});
    const Stepper stepper(pack, {});
    Integration d;
    d.until = 1;
    d.amps = [&](const PackState& s, double) -> std::optional<double> {
        // 2 W at the terminals: i (e - r i) = 2
        const double e = pack.openCircuitAt(pack.height(s.wells)) - s.rcVolts;
        const double root = e * e - 4 * 0.06 * 2;
        return root < 0 ? std::nullopt : std::optional(2 * 2 / (e + std::sqrt(root)));
    };
    const DriveResult watts = integrate(pack, levelAt(pack, 0.9), d);
    CHECK(watts.wattHours == Approx(2).epsilon(2e-4));
    // Sun for half an hour, then the load: the longest step keeps the clock.
    Integration clock;
    clock.until = 1;
    clock.longest = 1.0 / 60;
    clock.amps = [](const PackState&, double h) { return h < 0.5 ? -0.6 : 0.2; };
    const DriveResult day = integrate(pack, levelAt(pack, 0.5), clock);
    CHECK(day.ampHours == Approx(-0.3 + 0.1).margin(0.8 / 60 / 2 + 1e-9));
}

TEST_CASE("self-discharge drains the wells, not the terminals", "[stepper]") {
    Pack leaky = cellPack(1);
    leaky.cell.selfDischargeShare = 0.5;
    const PackModel pack(leaky, Celsius{25});
    const DriveResult d =
        integrate(pack, levelAt(pack, 1), constant(0, 73.05)); // a tenth of a month
    CHECK(d.ampHours == 0);
    CHECK(pack.charge(d.state.wells) == Approx(0.95).epsilon(1e-6));
}

TEST_CASE("other air and age are runs of the same project", "[whatif]") {
    const Project p = test::example("nest-box-listener");
    const auto cold = whatIf(p, -10, 0.8, true);
    REQUIRE(cold);
    REQUIRE(cold->other);
    Conditions c = typicalConditions(p);
    c.ambient = Celsius{-10};
    c.health = 0.8;
    CHECK(cold->other->hours->value() == predictRuntime(p, c).hours->value());
    REQUIRE(cold->five.size() == kFiveAirs.size());
    c.health.reset();
    for (std::size_t i = 0; i < kFiveAirs.size(); ++i) {
        c.ambient = Celsius{kFiveAirs[i]};
        CHECK(cold->five[i].hours->value() == predictRuntime(p, c).hours->value());
    }
    const auto shared = whatIf(p, -10, 0.8, true, {}, twoThreadFor);
    CHECK(shared->five[4].hours->value() == cold->five[4].hours->value());
    const auto same = whatIf(p, p.brief.air().usual().value(), 1, false);
    CHECK_FALSE(same->other);
    CHECK(same->five.empty());
    std::stop_source stop;
    stop.request_stop();
    CHECK_FALSE(whatIf(p, 0, 1, true, stop.get_token()));
}

TEST_CASE("the worst draw is one that flowed: not under a setting that was not the one",
          "[runtime]") {
    // A lamp in the evening on cells of much resistance: when its window opens for the second time
    // they can't carry it any more. Just over that height it would have drawn half as much again as
    // it ever did.
    Project p = test::idealProject(3.7, 2);
    p.modes.push_back({});
    p.modes[1].id = "lamp";
    p.modes[1].daily = {{"21:00", "22:00"}};
    p.brief.startTime = "20:00";
    Pack& pack = test::packOf(p);
    pack.cell.openCircuit = {{0, 3}, {1, 4}};
    pack.cell.resistance = Ohms{2};
    Load lamp = test::loadOf("lamp", "cells", 0, 5);
    lamp.draws = {test::powerDraw("on", 0.14), test::powerDraw("lamp", 1.5)};
    p.loads = {lamp};
    const Runtime r = predictRuntime(p);
    REQUIRE(r.hours);
    REQUIRE(r.ending.mode == "lamp");
    REQUIRE(r.ending.reason == EndReason::collapse);
    CHECK(r.hours->value() == Approx(25));
    // By small steps: the largest current that ever flowed, the ending state's with it.
    Line line(p, typicalConditions(p));
    double most = 0;
    LineSolution moment;
    for (const CurvePoint& point : r.curve) {
        const double minute = std::fmod(20 * 60 + point.hours * 60, 1440);
        line.solve(line.schedule().at(minute).setting, line.pack().level(point.height), moment);
        if (moment.collapsed)
            continue;
        for (const ModeSolution& m : moment.modes)
            if (m.share > 0)
                most = std::max(most, m.steady.sourceAmps);
    }
    // The window closes between two points of the curve.
    CHECK(r.worstCurrent.value() >= most);
    CHECK(r.worstCurrent.value() < most * 1.005);
    CHECK(r.worstCurrent.value() < 0.65);
}
