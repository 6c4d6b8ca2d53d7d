// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/operatingsweep.hpp"
#include "runtime/runtime.hpp"
#include "runtime/uncertainty.hpp"
#include "support.hpp"

using namespace sipper;
using namespace sipper::test;
using test::currentDraw;
using test::loadOf;
using test::packOf;
using test::powerDraw;
using test::stageOf;

namespace {

/// Everything that makes a run hard, in one project: cold, age, two slow wells, relaxation with a
/// long tail, bursts with and without energy, windows over midnight with modes within.
Project hardProject() {
    Project p = test::example("nest-box-listener");
    p.brief.ambient->typical = Celsius{-4};
    Pack& pack = packOf(p);
    pack.health = 0.85;
    pack.cell.availableFraction = 0.5;
    pack.cell.wellRate = PerHour{0.4};
    pack.cell.relaxation = Ohms{0.09};
    pack.cell.relaxationTime = Seconds{300};
    return p;
}

/// One-second steps, forward: shares the operating point with the model, but none of its stepping.
double plainHours(const Project& p, double seconds) {
    const Line line(p, typicalConditions(p));
    Wells wells = line.pack().level(1);
    LineSolution moment;
    for (double t = 0;; t += seconds) {
        line.solve(line.schedule().at(p.brief.startMinutes() + t / 60).setting, wells, moment);
        if (endingOf(p, line, moment, wells))
            return t / 3600;
        wells = line.pack().drained(
            wells, moment.meanAmps / line.pack().parallel + line.pack().selfAmps, seconds / 3600);
    }
}

} // namespace

TEST_CASE("an ideal cell at constant current runs capacity over current", "[runtime]") {
    Project p = test::idealProject(3.7, 2);
    packOf(p).series = 3;
    packOf(p).parallel = 2;
    p.loads.push_back(loadOf("load", "cells", 5, 15));
    p.loads[0].draws = {currentDraw("on", 0.25)};
    const Runtime r = predictRuntime(p);
    REQUIRE(r.hours);
    CHECK(r.hours->value() == Approx(16).epsilon(1e-7));
    CHECK(r.ending == Ending{"cells", "on", EndReason::empty, false});
    CHECK(r.ledger.nameplate == Approx(3 * 2 * 2 * 3.7));
    CHECK(r.ledger.loads.at("load") == Approx(16 * 0.25 * 11.1).epsilon(1e-7));
    CHECK(r.ledger.leftInPack == Approx(0).margin(1e-6));
    SECTION("from half full") {
        packOf(p).charge = 0.5;
        const Runtime half = predictRuntime(p);
        CHECK(half.hours->value() == Approx(8).epsilon(1e-7));
        CHECK(half.ledger.notCharged == Approx(half.ledger.nameplate / 2));
        CHECK(std::abs(half.ledger.imbalance()) < 1e-9);
    }
    SECTION("self-discharge adds to the drain") {
        packOf(p).cell.selfDischargeShare = 0.5;
        const double self = 2 * 0.5 / 730.5;
        CHECK(predictRuntime(p).hours->value() == Approx(2 / (0.125 + self)).epsilon(1e-7));
    }
    SECTION("a steady draw on two wells ends when the first is empty") {
        packOf(p).cell.availableFraction = 0.6;
        packOf(p).cell.wellRate = PerHour{0.7};
        // y1(t) = 0 solved by halving on the closed form.
        const PackModel model(packOf(p), Celsius{25});
        double low = 0;
        double high = 16;
        while (high - low > 1e-10)
            (model.drained(model.level(1), 0.125, (low + high) / 2).available > 0 ? low : high) =
                (low + high) / 2;
        const Runtime wells = predictRuntime(p);
        CHECK(wells.hours->value() == Approx(low).epsilon(1e-7));
        CHECK(wells.ledger.leftInPack > 0.01 * wells.ledger.nameplate);
        CHECK(std::abs(wells.ledger.imbalance()) < 1e-9);
    }
}

TEST_CASE("every end is found, named and placed", "[runtime]") {
    Project p = test::idealProject(0, 1);
    packOf(p).cell.openCircuit = {{0, 3}, {1, 4}};
    packOf(p).cell.resistance = Ohms{0.1};
    p.modes.push_back({});
    p.modes[1].id = "send";
    p.modes[1].duration = Seconds{2};
    p.modes[1].every = Seconds{20};
    Guard guard;
    guard.cutoff = Volts{3.2};
    p.stages.push_back(stageOf("guard", guard, "cells"));
    p.loads.push_back(loadOf("load", "guard", 1, 5));
    p.loads[0].draws = {currentDraw("on", 0.1), currentDraw("send", 0.5)};
    const auto guardPart = [&]() -> Guard& { return std::get<Guard>(p.stages[1].part); };
    const auto end = [&] { return predictRuntime(p).ending; };

    SECTION("cutoff in the mode that sags most") {
        CHECK(end() == Ending{"guard", "send", EndReason::cutoff, false});
    }
    SECTION("a sag shorter than the delay does not count") {
        guardPart().delay = Seconds{2.5};
        CHECK(end() == Ending{"guard", "on", EndReason::cutoff, false});
    }
    SECTION("a sag as long as the delay counts") {
        guardPart().delay = Seconds{2};
        CHECK(end().mode == "send");
    }
    SECTION("a burst at least as long as the delay counts") {
        guardPart().delay = Seconds{0.01};
        p.loads[0].draws[0].burst = Amps{2};
        p.loads[0].draws[0].burstTime = Seconds{0.01};
        CHECK(end() == Ending{"guard", "on", EndReason::cutoff, true});
        guardPart().delay = Seconds{0.011};
        CHECK(end().mode == "send");
    }
    SECTION("a load leaves its window; one that is not critical may") {
        p.loads[0].window.min = Volts{3.5};
        CHECK(end() == Ending{"load", "send", EndReason::belowWindow, false});
        p.loads[0].critical = false;
        CHECK(end().reason == EndReason::cutoff);
    }
    SECTION("too much at the start: it never runs") {
        p.loads[0].window.max = Volts{3.9};
        const Runtime r = predictRuntime(p);
        CHECK(r.hours->value() == 0);
        CHECK(r.ending == Ending{"load", "on", EndReason::aboveWindow, false});
        CHECK(r.ledger.leftInPack == Approx(r.ledger.nameplate));
        CHECK(std::abs(r.ledger.imbalance()) < 1e-12);
    }
    SECTION("a guard trips, a burst is enough") {
        guardPart().maxCurrent = Amps{0.6};
        p.loads[0].draws[0].burst = Amps{0.61};
        p.loads[0].draws[0].burstTime = Seconds{0.001};
        CHECK(end() == Ending{"guard", "on", EndReason::limit, true});
    }
    SECTION("a fuse bears bursts but not modes over its rating") {
        Fuse fuse;
        fuse.rating = Amps{0.55};
        p.stages[1] = stageOf("guard", fuse, "cells");
        p.loads[0].draws[0].burst = Amps{0.9};
        p.loads[0].draws[0].burstTime = Seconds{0.001};
        CHECK(end().reason == EndReason::empty);
        p.loads[0].draws[1].current = Amps{0.56};
        CHECK(end() == Ending{"guard", "send", EndReason::limit, false});
    }
    SECTION("a boost's switch limit falls with its input") {
        Switcher boost;
        boost.topology = Topology::boost;
        boost.set = Volts{5};
        boost.switchLimit = Amps{0.72};
        p.stages[1] = stageOf("guard", boost, "cells");
        p.loads[0].draws = {currentDraw("on", 0.1), currentDraw("send", 0.5)};
        p.loads[0].window.max = Volts{5.5};
        CHECK(end() == Ending{"guard", "send", EndReason::limit, false});
    }
    SECTION("a regulator under its input minimum is a cut-off") {
        Switcher boost;
        boost.topology = Topology::boost;
        boost.set = Volts{5};
        boost.inputMin = Volts{3.3};
        p.stages[1] = stageOf("guard", boost, "cells");
        p.loads[0].window.max = Volts{5.5};
        CHECK(end() == Ending{"guard", "send", EndReason::cutoff, false});
    }
    SECTION("the line collapses") {
        packOf(p).cell.resistance = Ohms{2};
        guardPart().cutoff = Volts{0};
        p.loads[0].window.min = Volts{0};
        p.loads[0].draws = {powerDraw("on", 0.1), powerDraw("send", 1.6)};
        CHECK(end() == Ending{"cells", "send", EndReason::collapse, false});
    }
    SECTION("nothing draws") {
        p.loads[0].draws.clear();
        const Runtime r = predictRuntime(p);
        CHECK_FALSE(r.hours);
        CHECK(r.ending.reason == EndReason::never);
    }
    SECTION("no pack") {
        p.stages[0] = Stage{};
        p.stages[0].id = "cells";
        p.stages[0].part = Adapter{};
        CHECK(end().reason == EndReason::mains);
    }
}

TEST_CASE("several ends at one moment: reasons, then modes, then places in order", "[runtime]") {
    Project p = test::idealProject(0, 1);
    packOf(p).cell.openCircuit = {{0, 3}, {1, 4}};
    Guard guard;
    guard.cutoff = Volts{3.2};
    p.stages.push_back(stageOf("inner", guard, "cells"));
    p.stages.push_back(stageOf("outer", guard, "inner"));
    p.loads.push_back(loadOf("load", "outer", 3.2, 5));
    p.loads[0].draws = {currentDraw("on", 0.1)};
    CHECK(predictRuntime(p).ending.at == "inner");
    std::swap(p.stages[1], p.stages[2]); // the order in the file does not matter, the place does
    CHECK(predictRuntime(p).ending == Ending{"inner", "on", EndReason::cutoff, false});
}

TEST_CASE("hard runs agree with a plain one-second loop", "[runtime]") {
    Project p = hardProject();
    SECTION("as it is") {}
    SECTION("near collapse") {
        packOf(p).parallel = 1;
        packOf(p).cell.resistance = Ohms{0.6};
        std::get<Guard>(p.stage("guard")->part).cutoff = Volts{0.5};
        for (const char* id : {"boost5", "boost12"})
            std::get<Switcher>(p.stage(id)->part).inputMin.reset();
        p.load("logic")->critical = false;
    }
    SECTION("a delay that lets the lamp's sag through") {
        std::get<Guard>(p.stage("guard")->part).delay = Seconds{20};
        p.load("logic")->critical = false;
    }
    SECTION("starts inside a window") {
        p.brief.startTime = "23:30";
    }
    const Runtime r = predictRuntime(p);
    REQUIRE(r.hours);
    const double plain = plainHours(p, 1);
    INFO(r.hours->value() << " h, " << reasonName(r.ending.reason) << " at " << r.ending.at);
    CHECK(r.hours->value() == Approx(plain).epsilon(5e-4).margin(2.0 / 3600));
    CHECK(std::abs(r.ledger.imbalance()) < 1e-3);
}

TEST_CASE("halving the step moves the runtime by less than 0.05 %", "[runtime]") {
    for (const Project& p :
         {hardProject(), test::reference("street-choir"), test::reference("meadow-node"),
          test::reference("kiln-probe"), test::example("lake-parade-lantern")}) {
        StepControl half;
        half.maxChargeStep /= 2;
        half.voltsPerCell /= 2;
        const double usual = predictRuntime(p).hours->value();
        CHECK(predictRuntime(p, typicalConditions(p), half).hours->value() ==
              Approx(usual).epsilon(5e-4));
    }
}

TEST_CASE("the tail goes on where a load dropped out, as if no load had a window", "[runtime]") {
    Project p = test::example("nest-box-listener");
    StepControl whole;
    whole.tail = true;
    const Runtime r = predictRuntime(p, typicalConditions(p), whole);
    CHECK(r.hours->value() == predictRuntime(p).hours->value());
    CHECK(r.ledger.leftInPack == predictRuntime(p).ledger.leftInPack);
    REQUIRE(r.tail.size() > 10);
    CHECK(r.tail.front().hours == Approx(r.hours->value()));
    for (Load& load : p.loads)
        load.critical = false;
    const Runtime lenient = predictRuntime(p);
    CHECK(lenient.ending.at == "guard");
    CHECK(r.tail.back().hours == Approx(lenient.hours->value()).epsilon(1e-5));
}

TEST_CASE("windows run in clock time, over midnight and from the start time", "[schedule]") {
    Project p = test::example("nest-box-listener");
    const Schedule s(p);
    REQUIRE(s.settings.size() == 2);
    CHECK(s.at(18 * 60).setting == 0);
    CHECK(s.at(18 * 60).minutesLeft == Approx(180));
    CHECK(s.at(21 * 60).setting == 1);
    CHECK(s.at(23 * 60).minutesLeft == Approx(120)); // on into the next day
    CHECK(s.at(30).setting == 1);
    CHECK(s.at(60).setting == 0);
    double sum = 0;
    for (const Share& share : s.settings[1].shares)
        sum += share.share;
    CHECK(sum == Approx(1));
    CHECK(p.modes[s.settings[1].filler().mode].id == "lamp");
    CHECK(s.settings[1].filler().seconds == Approx(4 * 3600));
    CHECK(s.settings[0].shares.size() == 2); // asleep and listening; the blink is within the lamp
    CHECK(s.settings[1].shares.size() == 3);
}

TEST_CASE("the range is deterministic, ordered and holds the typical run", "[range]") {
    const Project p = test::reference("stall-lantern");
    const Runtime r = predictRuntime(p);
    const auto a = predictRange(p, r);
    const auto b = predictRange(p, r);
    REQUIRE(a);
    CHECK(a->hours == b->hours);
    CHECK(a->hours.size() == 400);
    CHECK(a->range.p10 < a->range.p50);
    CHECK(a->range.p50 < a->range.p90);
    CHECK(a->range.p10 < r.hours->value());
    CHECK(a->range.p90 > r.hours->value());
    CHECK(a->sensitivities.front().about == "draw of Lamp");
    std::stop_source stop;
    stop.request_stop();
    CHECK_FALSE(predictRange(p, r, stop.get_token()));
}

TEST_CASE("the survey sees every voltage down to the stop", "[survey]") {
    const Project p = test::example("nest-box-listener");
    const OperatingSweep s = sweepOperation(p, typicalConditions(p));
    REQUIRE(s.stop);
    CHECK(s.stop->at == "guard");
    CHECK(s.stopCharge > 0.005);
    CHECK(s.stopCharge < 0.06);
    const auto stage = [&](const char* id) {
        return static_cast<std::size_t>(p.stage(id) - p.stages.data());
    };
    CHECK(s.stageOut[stage("cells")].high > 4.1);
    CHECK(s.stageOut[stage("boost5")].low == Approx(5.05));
    CHECK(s.firstDropout[stage("logic33")].valid);
    CHECK_FALSE(s.firstDropout[stage("boost5")].valid);
    // Where it drops out, the operating point says so too, and not just above.
    const Occurrence& drop = s.firstDropout[stage("logic33")];
    const auto at = [&](double charge) {
        return operate(p, typicalConditions(p), charge, drop.mode)
            .flows.stages[stage("logic33")]
            .state;
    };
    CHECK(at(drop.charge - 1e-4) == StageState::droppingOut);
    CHECK(at(drop.charge + 1e-3) == StageState::regulating);
}

TEST_CASE("a pack that recovers past a window ends there, on its way up", "[runtime]") {
    Project p = idealProject(3.5, 2.0);
    Pack& pack = packOf(p);
    pack.cell.openCircuit = {{0, 3.0}, {1, 4.0}};
    pack.cell.availableFraction = 0.5;
    pack.cell.wellRate = PerHour{2};
    pack.cell.resistance = Ohms{0.5};
    Mode heavy;
    heavy.id = "heavy";
    heavy.daily = {{"10:00", "10:30"}};
    p.modes.push_back(heavy);
    p.brief.startTime = "10:00";
    p.loads.push_back(loadOf("load", "cells", 2, 5));
    p.loads[0].draws = {currentDraw("on", 0.001), currentDraw("heavy", 1.0)};
    const PackModel model(pack, Celsius{25});
    const Wells after = model.drained(model.level(1), 1.0, 0.5);
    const double closes = model.height(after);
    const double most = 3 + closes + 0.05; // a little over what it rests at when the window closes
    p.loads[0].window.max = Volts{most};
    const auto rests = [&](double hours) {
        return 3 + model.height(model.drained(after, 0.001, hours)) - 0.001 * 0.5;
    };
    double low = 0;
    double high = 1;
    REQUIRE(rests(high) > most);
    for (int i = 0; i < 60; ++i)
        (rests((low + high) / 2) < most ? low : high) = (low + high) / 2;
    const Runtime r = predictRuntime(p);
    REQUIRE(r.hours);
    CHECK(r.hours->value() == Approx(0.5 + low).epsilon(1e-6));
    CHECK(r.ending.reason == EndReason::aboveWindow);
    CHECK(r.ending.at == "load");
    CHECK(r.ending.mode == "on");
    CHECK(r.worstCurrent.value() == Approx(1.0));
    CHECK(std::abs(r.ledger.imbalance()) < 1e-6);
}

TEST_CASE("closer charts and finer steps change nothing that is shown", "[runtime]") {
    for (const char* name : {"nest-box-listener", "lake-parade-lantern", "darkroom-timer",
                             "greenhouse-vent-opener", "model-ferry-winch", "stage-theremin"}) {
        const Project p = example(name);
        StepControl fine;
        fine.tolerance = 1e-7;
        fine.maxChargeStep = 0.001;
        fine.voltsPerCell = 0.001;
        const Runtime usual = predictRuntime(p);
        const Runtime finer = predictRuntime(p, typicalConditions(p), fine);
        INFO(name);
        CHECK(usual.hours->value() == Approx(finer.hours->value()).epsilon(2e-5));
        CHECK(usual.ending == finer.ending);
        CHECK(usual.worstMode == finer.worstMode);
        CHECK(usual.worstCurrent.value() == Approx(finer.worstCurrent.value()).epsilon(1e-4));
        CHECK(std::abs(usual.ledger.imbalance()) < 1e-6);
        for (const auto& [id, wh] : usual.ledger.stages)
            CHECK(wh == Approx(finer.ledger.stages.at(id)).margin(1e-5 * usual.ledger.nameplate));
        for (const auto& [id, wh] : usual.ledger.loads)
            CHECK(wh == Approx(finer.ledger.loads.at(id)).margin(1e-5 * usual.ledger.nameplate));
        // Curves lie on each other.
        for (std::size_t i = 0; i < usual.curve.size(); i += 17) {
            const CurvePoint& c = usual.curve[i];
            const auto at =
                std::lower_bound(finer.curve.begin(), finer.curve.end(), c.hours,
                                 [](const CurvePoint& x, double hours) { return x.hours < hours; });
            if (at != finer.curve.end() && at->hours - c.hours < 1e-3 * finer.hours->value())
                CHECK(at->charge == Approx(c.charge).margin(2e-3));
        }
    }
}
