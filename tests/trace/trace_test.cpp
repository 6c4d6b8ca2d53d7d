// SPDX-License-Identifier: GPL-3.0-or-later
// Reading measured traces and cutting them into modes, against traces whose truth is known.
#include "project/edits.hpp"
#include "support.hpp"
#include "trace/import.hpp"

#include "../../tools/tracemaker.hpp"

#include <fmt/format.h>

using namespace sipper;

namespace {

std::string csvOf(const tracemaker::Recipe& r) {
    std::string text = "time (s),current (mA)\n";
    tracemaker::make(
        r, [&](double t, double amps) { text += fmt::format("{:.4f},{:.6g}\n", t, amps * 1e3); });
    return text;
}

const TraceMode& nearest(const TraceSegments& cut, double amps) {
    return *std::min_element(cut.modes.begin(), cut.modes.end(),
                             [&](const TraceMode& a, const TraceMode& b) {
                                 return std::abs(std::log(std::max(1e-12, a.amps) / amps)) <
                                        std::abs(std::log(std::max(1e-12, b.amps) / amps));
                             });
}

} // namespace

TEST_CASE("the cut finds levels, durations and repetition, with noise too", "[trace]") {
    const double noise = GENERATE(0.0, 0.02, 0.10);
    INFO("noise " << noise);
    SECTION("the vent opener") {
        const auto trace = readTrace(csvOf(tracemaker::ventMotor(noise)));
        REQUIRE(trace);
        const TraceSegments cut = segmentTrace(trace.value());
        REQUIRE(cut.modes.size() == 3);
        struct Truth {
            double amps, lasts, every;
        };
        for (const Truth& truth : {Truth{0.045, 1.2, 30}, Truth{1.35, 22, 900}}) {
            const TraceMode& mode = nearest(cut, truth.amps);
            INFO(truth.amps << " A: found " << mode.amps << ", " << mode.typicalSeconds << " s");
            CHECK(mode.amps == Approx(truth.amps).epsilon(0.03));
            CHECK(mode.typicalSeconds == Approx(truth.lasts).epsilon(0.05));
            CHECK(mode.spread == Approx(truth.amps * noise).margin(truth.amps * 0.01));
        }
        CHECK(nearest(cut, 1.35).everySeconds == Approx(900).epsilon(0.05));
        CHECK(nearest(cut, 0.0021).amps == Approx(0.0021).epsilon(0.03));
        double share = 0;
        double charge = 0;
        for (const TraceMode& mode : cut.modes) {
            share += mode.share;
            charge += mode.chargeShare;
            CHECK(mode.peak >= mode.amps * (1 - 1e-9));
        }
        CHECK(share == Approx(1));
        CHECK(charge == Approx(1));
        CHECK(cut.sleepCharge == cut.modes[0].chargeShare);
    }
    SECTION("three far levels") {
        tracemaker::Recipe r{4e-6, {{0.018, 10, 0.5, 3}, {0.15, 10, 0.3, 6}}, 200, 0.002, noise, 3};
        const auto trace = readTrace(csvOf(r));
        REQUIRE(trace);
        const TraceSegments cut = segmentTrace(trace.value());
        REQUIRE(cut.modes.size() == 3);
        CHECK(cut.modes[0].amps == Approx(4e-6).epsilon(0.03));
        CHECK(cut.modes[1].amps == Approx(0.018).epsilon(0.03));
        CHECK(cut.modes[1].typicalSeconds == Approx(0.5).epsilon(0.05));
        CHECK(cut.modes[1].everySeconds == Approx(10).epsilon(0.02));
        CHECK(cut.modes[2].typicalSeconds == Approx(0.3).epsilon(0.05));
    }
}

TEST_CASE("the shipped traces are the generator's, and short writes become bursts", "[trace]") {
    const auto folder = std::filesystem::path(SIPPER_SOURCE) / "data/traces";
    const auto night = readTrace(readFile(folder / "listener-night.csv").value());
    REQUIRE(night);
    const TraceSegments cut = segmentTrace(night.value());
    REQUIRE(cut.modes.size() >= 3);
    const TraceMode& listening = nearest(cut, 0.12);
    CHECK(listening.amps == Approx(0.12).epsilon(0.03));
    CHECK(listening.typicalSeconds == Approx(4).epsilon(0.05));
    CHECK(listening.everySeconds == Approx(60).epsilon(0.05));
    CHECK(listening.burstAmps == Approx(0.31).epsilon(0.03));
    CHECK(listening.burstSeconds == Approx(0.02).margin(0.011));
    CHECK(nearest(cut, 0.238).typicalSeconds == Approx(90).epsilon(0.05));
    const auto vent = readTrace(readFile(folder / "vent-motor.csv").value());
    REQUIRE(vent);
    CHECK(vent.value().format.separator == ';');
    CHECK(vent.value().format.decimal == ',');
    CHECK(nearest(segmentTrace(vent.value()), 1.35).amps == Approx(1.35).epsilon(0.03));
}

TEST_CASE("separators, decimal marks, headers and units are found", "[trace]") {
    struct Case {
        const char* text;
        double seconds;
        double amps;
    };
    const auto c =
        GENERATE(Case{"time_s,current_a\n0,0.5\n1,0.25\n", 1, 0.25},
                 Case{"Time (ms);Current (mA)\n0;500\n10;250\n", 0.01, 0.25},
                 Case{"t [s];I [mA]\n0,0;1,5\n0,5;250,0\n", 0.5, 0.25},
                 Case{"Zeit/s\tStrom/uA\n0\t1\n2\t250000\n", 2, 0.25},
                 Case{"current mA,time us\n5,0\n250,1000\n", 0.001, 0.25},
                 Case{"\xef\xbb\xbftime (s),voltage (V),current (A)\r\n0,3.7,0.1\r\n3,3.6,0.25\r\n",
                      3, 0.25},
                 Case{"\"time (s)\",\"current (mA)\"\n\"0\",\"1\"\n\"1\",\"250\"\n", 1, 0.25},
                 Case{"timestamp,I (mA)\n2026-01-02 10:00:00.000,1\n2026-01-02 10:00:00.500,250\n",
                      0.5, 0.25},
                 Case{"time (s)|current (mA)\n0|1e0\n1|2.5e2\n", 1, 0.25});
    INFO(c.text);
    const auto trace = readTrace(c.text);
    REQUIRE(trace);
    CHECK(trace.value().seconds.back() == Approx(c.seconds));
    CHECK(trace.value().amps.back() == Approx(c.amps));
}

TEST_CASE("what can't be told is asked for, and can be told", "[trace]") {
    const std::string bare = "0,12\n1,15\n2,11\n3,14\n";
    CHECK_THAT(readTrace(bare).error().message(),
               Catch::Contains("the unit of the time in column 1"));
    TraceFormat told;
    told.timeScale = 1;
    CHECK_THAT(readTrace(bare, told).error().message(),
               Catch::Contains("the unit of the current in column 2"));
    told.currentScale = 1e-3;
    REQUIRE(readTrace(bare, told));
    CHECK(readTrace(bare, told).value().amps[1] == Approx(0.015));
    CHECK_THAT(readTrace("a,b,c\n1,2,3\n2,3,4\n").error().message(),
               Catch::Contains("which column is the time"));
    CHECK_THAT(readTrace("time,current\n0,1\n1,2\n").error().message(),
               Catch::Contains("column 1 (\"time\")"));
    CHECK(readTrace("").error().code.starts_with("trace_"));
    CHECK_THAT(readTrace("time (s),current (A)\nx,y\n").error().message(),
               Catch::Contains("usable rows"));
}

TEST_CASE("bad rows are counted and shown, never fatal", "[trace]") {
    const auto trace =
        readTrace("time (s),current (mA)\n0,1\n1,n/a\n\n2,-3\n1.5,4\n2,4\n3\n4,9\n5,1,2,3\n");
    REQUIRE(trace);
    const Trace& t = trace.value();
    CHECK(t.badRows == 2);
    CHECK(t.negative == 1);
    CHECK(t.outOfOrder == 2);
    CHECK(t.seconds == std::vector<double>{0, 2, 4, 5});
    REQUIRE(t.remarks.size() == 5);
    CHECK(t.remarks[0].row == 3);
    CHECK(t.remarks[0].what == "no current");
    CHECK_NOTHROW(segmentTrace(t));
}

TEST_CASE("a steady trace has one level; levels may be set by hand", "[trace]") {
    const auto steady = readTrace(csvOf({0.01, {}, 10, 0.01, 0.01, 5}));
    REQUIRE(steady);
    CHECK(findLevels(steady.value()).size() == 1);
    const auto vent = readTrace(csvOf(tracemaker::ventMotor(0.1)));
    const TraceSegments two = segmentTrace(vent.value(), {0.002, 1.3});
    REQUIRE(two.modes.size() == 2);
    CHECK(two.meanAmps == Approx(segmentTrace(vent.value()).meanAmps));
}

TEST_CASE("with a voltage every level has its power", "[trace]") {
    std::string text = "time (s),current (mA),voltage (V)\n";
    tracemaker::make({0.001, {{0.1, 10, 2, 3}}, 100, 0.01, 0, 1}, [&](double t, double amps) {
        text += fmt::format("{:.4f},{:.6g},{:.4f}\n", t, amps * 1e3, amps > 0.05 ? 3.6 : 4.0);
    });
    const auto trace = readTrace(text);
    REQUIRE(trace);
    const TraceSegments cut = segmentTrace(trace.value());
    REQUIRE(cut.modes.size() == 2);
    CHECK(cut.modes[0].watts == Approx(0.004));
    CHECK(cut.modes[1].watts == Approx(0.36));
}

TEST_CASE("levels are merged and split", "[trace]") {
    const auto trace = readTrace(csvOf(tracemaker::ventMotor(0.02)));
    REQUIRE(trace);
    const TraceSegments three = segmentTrace(trace.value());
    REQUIRE(three.modes.size() == 3);
    const auto two = mergedLevels(three, 1);
    REQUIRE(two.size() == 2);
    CHECK(two[0] > three.modes[0].level);
    CHECK(two[0] < three.modes[1].level);
    CHECK(two[1] == three.modes[2].level);
    CHECK(mergedLevels(three, 0).size() == 3); // nothing under the lowest
    const TraceSegments coarse = segmentTrace(trace.value(), {0.0021, 0.3});
    const auto split = splitLevels(trace.value(), coarse, 1);
    REQUIRE(split.size() == 3);
    CHECK(split[1] == Approx(0.045).epsilon(0.03));
    CHECK(split[2] == Approx(1.35).epsilon(0.03));
    const auto steady = readTrace("time (s),current (A)\n0,1\n1,1\n2,1\n");
    CHECK(splitLevels(steady.value(), segmentTrace(steady.value()), 0).size() == 1);
}

TEST_CASE("columns keep every extreme and meet the edges", "[trace]") {
    tracemaker::Recipe r{0.001, {{0.5, 1000, 0.001, 61.5}}, 100, 0.001, 0.05, 9};
    const auto trace = readTrace(csvOf(r));
    REQUIRE(trace);
    const Trace& t = trace.value();
    const auto columns = traceColumns(t, 0, t.span(), 500);
    CHECK(columns.size() <= 501);
    double high = 0;
    double low = 1;
    for (const TraceColumn& c : columns) {
        high = std::max(high, c.high);
        low = std::min(low, c.low);
    }
    CHECK(high == *std::max_element(t.amps.begin(), t.amps.end()));
    CHECK(low == *std::min_element(t.amps.begin(), t.amps.end()));
    const auto part = traceColumns(t, 50, 51, 100);
    CHECK(part.front().seconds < 50);
    CHECK(part.back().seconds >= 51 - 0.01);
    CHECK(traceColumns(t, 5, 5, 100).empty());
    CHECK(traceColumns(Trace{}, 0, 1, 100).empty());
    // Few samples are drawn as they are.
    const auto few = traceColumns(t, 50, 50.01, 1000);
    for (const TraceColumn& c : few)
        CHECK(c.low == c.high);
}

namespace {

/// Mean current of a load over the modes' shares, bursts included.
double meanAmps(const Project& p, const Load& load) {
    double rest = 1;
    double mean = 0;
    const auto ampsOf = [](const Draw& d) {
        const double burst = d.burst && d.burstTime && d.burstsPerSecond
                                 ? d.burstsPerSecond->value() * d.burstTime->value()
                                 : 0;
        return d.current->value() * (1 - burst) + (burst > 0 ? d.burst->value() * burst : 0);
    };
    const Draw* base = nullptr;
    for (const Draw& d : load.draws) {
        const Mode& m = *p.mode(d.mode);
        if (m.isBase()) {
            base = &d;
            continue;
        }
        const double share = m.duration->value() / m.every->value();
        rest -= share;
        mean += share * ampsOf(d);
    }
    return mean + rest * ampsOf(*base);
}

} // namespace

TEST_CASE("levels of one name stay levels of their own", "[trace]") {
    const auto trace = readTrace(csvOf(tracemaker::listenerNight()));
    REQUIRE(trace);
    const TraceSegments cut = segmentTrace(trace.value());
    REQUIRE(cut.modes.size() >= 3);
    const Project before = test::example("nest-box-listener");
    const std::string base = nameOf(before.modes[before.baseMode()]);
    struct Row {
        std::vector<std::string> asked;
        std::vector<std::string> got;
    };
    for (const Row& r : {Row{{"Asleep", "Busy", "Busy"}, {"Asleep", "Busy", "Busy 2"}},
                         Row{{"One", "One", "One"}, {"One", "One 2", "One 3"}},
                         Row{{base, base, "Lamp"}, {base, base + " 2", "Lamp"}},
                         Row{{"", "Busy 2", "Busy"}, {base, "Busy 2", "Busy"}}}) {
        INFO(r.asked[0] << ", " << r.asked[1] << ", " << r.asked[2]);
        const Project after =
            withTraceModes(before, cut, {ImportMode::replace, "recorder", false, r.asked});
        CHECK_FALSE(checkProject(after));
        const Load& load = *after.load("recorder");
        CHECK(load.draws.size() == cut.modes.size());
        for (std::size_t i = 0; i < r.got.size(); ++i) {
            const auto mode = std::find_if(after.modes.begin(), after.modes.end(),
                                           [&](const Mode& m) { return nameOf(m) == r.got[i]; });
            REQUIRE(mode != after.modes.end());
            const Draw* draw =
                drawIn(after, load, static_cast<std::size_t>(mode - after.modes.begin()));
            REQUIRE(draw);
            CHECK(draw->current->value() == Approx(cut.modes[i].amps).epsilon(0.01));
        }
    }
}

TEST_CASE("modes of a trace keep its mean current, basis measured", "[trace]") {
    const auto trace = readTrace(csvOf(tracemaker::listenerNight()));
    REQUIRE(trace);
    const TraceSegments cut = segmentTrace(trace.value());
    const Project before = test::example("nest-box-listener");
    SECTION("in place of what was there") {
        const Project after =
            withTraceModes(before, cut, {ImportMode::replace, "recorder", false, {}});
        CHECK_FALSE(checkProject(after));
        const Load& load = *after.load("recorder");
        CHECK(load.draws.size() == cut.modes.size());
        for (const Draw& d : load.draws)
            CHECK(d.basis == Basis::measured);
        // Listening keeps its id and the other loads' draws in it; the name comes from the draw.
        REQUIRE(after.mode("listen"));
        CHECK(after.mode("listen")->duration->value() == Approx(4).epsilon(0.05));
        CHECK(after.load("logic")->draws.size() >= 2);
        CHECK_FALSE(after.mode("blink"));
        for (const Load& l : after.loads)
            for (const Draw& d : l.draws)
                CHECK(after.mode(d.mode));
    }
    SECTION("the mean is the trace's") {
        Project p = before;
        for (const char* gone : {"lamp", "blink"})
            p = withoutMode(p, gone);
        const Project after = withTraceModes(
            p, cut, {ImportMode::replace, "recorder", false, {"Asleep", "Listening", "Lamp lit"}});
        CHECK_FALSE(checkProject(after));
        CHECK(meanAmps(after, *after.load("recorder")) == Approx(cut.meanAmps).epsilon(0.003));
    }
    SECTION("beside what was there, as a new load") {
        const Project after = withTraceModes(before, cut, {ImportMode::add, "", false, {}});
        CHECK_FALSE(checkProject(after));
        CHECK(after.loads.size() == before.loads.size() + 1);
        CHECK(after.loads.back().label == "Measured load");
        CHECK(after.mode("blink"));
        CHECK(after.mode("lamp")->daily == before.mode("lamp")->daily);
        for (std::size_t i = 0; i < before.loads.size(); ++i)
            CHECK(after.loads[i] == before.loads[i]);
    }
    SECTION("nothing to hang it on: unchanged") {
        const Project empty = test::idealProject(3, 1);
        Project bare = empty;
        bare.stages.clear();
        CHECK(withTraceModes(bare, cut, {ImportMode::add, "", false, {}}) == bare);
    }
}
