// SPDX-License-Identifier: GPL-3.0-or-later
// Runs over their prediction; the logbook; pins nobody knows; with and without.
#include "measure/comparison.hpp"
#include "measure/logbook.hpp"
#include "measure/pairs.hpp"
#include "measure/pins.hpp"
#include "measure/text.hpp"
#include "project/file.hpp"
#include "project/writer.hpp"
#include "runtime/uncertainty.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

Project bellows() {
    return test::reference("paper-bellows");
}

std::vector<DischargeLog> bellowsLogs() {
    std::vector<DischargeLog> logs;
    for (const char* n : {"1", "2", "3"}) {
        const std::string name = std::string("paper-bellows-") + n + ".csv";
        const auto text = readFile(test::file("reference/" + name));
        REQUIRE(text);
        auto log = readDischarge(text.value(), name);
        REQUIRE(log);
        logs.push_back(log.value());
    }
    return logs;
}

} // namespace

TEST_CASE("a run stands over its prediction, and what was learned explains it", "[bench]") {
    const Project p = bellows();
    const auto logs = bellowsLogs();
    CalibrateOptions ask;
    const auto learned = calibrateByDischarge(p, logs, ask);
    REQUIRE(learned);
    const auto compared = compareRuns(p, logs, ask, &learned.value());
    REQUIRE(compared);
    REQUIRE(compared.value().size() == logs.size());
    for (std::size_t i = 0; i < logs.size(); ++i) {
        const RunComparison& c = compared.value()[i];
        INFO(c.file);
        const CalibratedRun& run = learned.value().runs[i];
        // The same hours as the calibration has, by construction and by figure.
        CHECK(c.measuredHours == run.measured);
        CHECK(c.predictedHours == Approx(run.predicted).epsilon(1e-9));
        REQUIRE(c.calibratedHours);
        CHECK(*c.calibratedHours == Approx(run.calibrated).epsilon(1e-6));
        // The shares add up to the whole.
        double sum = 0;
        for (const auto& [id, hours] : c.attribution)
            sum += hours;
        CHECK(sum == Approx(*c.calibratedHours - c.predictedHours).margin(1e-9));
        CHECK(c.lowHours < c.predictedHours);
        CHECK(c.predictedHours < c.highHours);
        REQUIRE(c.band.size() > 100);
        for (std::size_t k = 0; k < c.band.size(); ++k)
            CHECK(c.band[k].low <= c.band[k].high);
        // At its start the band holds the prediction.
        CHECK(c.band[10].low < c.predicted.front().volts);
        // After learning, within three percent.
        CHECK(*c.calibratedHours == Approx(c.measuredHours).epsilon(0.03));
        CHECK(c.reckonedHours > 0);
        CHECK_THAT(becauseText(p, c), Catch::Contains("h") || Catch::Contains("min"));
    }
    // Learned and taken over, it predicts what was measured.
    const auto again = compareRuns(learned.value().project, logs, ask, nullptr);
    REQUIRE(again);
    for (const RunComparison& c : again.value()) {
        CHECK(c.inside());
        CHECK(c.attribution.empty());
        CHECK(c.measuredHours == Approx(c.predictedHours).epsilon(0.03));
    }
}

TEST_CASE("a run behind a regulator is compared by its hours", "[bench]") {
    const Project p = bellows();
    std::string at;
    for (const Stage& s : p.stages)
        if (std::holds_alternative<Switcher>(s.part) || std::holds_alternative<Linear>(s.part))
            at = s.id;
    if (at.empty())
        at = "orrery";
    const Project q = at == "orrery" ? test::reference("orrery-drive") : p;
    if (at == "orrery")
        for (const Stage& s : q.stages)
            if (std::holds_alternative<Switcher>(s.part))
                at = s.id;
    CalibrateOptions ask;
    ask.at = at;
    // A log of two watts for as long as the model says, a tenth short.
    StepControl quick;
    Conditions bench;
    bench.ambient = Celsius{20};
    const Runtime r = predictRuntime(testerAt(q, at, 2, ask), bench, quick);
    REQUIRE(r.hours);
    DischargeLog log;
    log.file = "made.csv";
    const double end = r.hours->value() * 0.9 * 3600;
    for (double t = 0; t <= end; t += end / 400) {
        log.seconds.push_back(t);
        log.volts.push_back(5);
        log.amps.push_back(0.4);
    }
    const auto compared = compareRuns(q, {log}, ask, nullptr);
    REQUIRE(compared);
    const RunComparison& c = compared.value()[0];
    CHECK(c.predictedHours == Approx(r.hours->value()).epsilon(1e-6));
    CHECK(c.measuredHours == Approx(0.9 * r.hours->value()).epsilon(0.01));
    CHECK(c.lowHours < c.highHours);
    CHECK(c.predicted.size() > 10);
}

TEST_CASE("what was measured narrows the range", "[bench][range]") {
    Project p = bellows();
    const auto wide = predictRange(p, predictRuntime(p));
    const Evidence before = restsOn(p);
    p.stage(p.packStage()->id)->basis = Basis::measured;
    const auto narrow = predictRange(p, predictRuntime(p));
    REQUIRE(wide);
    REQUIRE(narrow);
    CHECK(narrow->range.p90 - narrow->range.p10 < wide->range.p90 - wide->range.p10);
    CHECK(restsOn(p).measured == before.measured + 1);
    CHECK(restsOn(p).all == before.all);
    // A data sheet is what was taken for granted: saying so changes nothing.
    Project said = bellows();
    for (Stage& s : said.stages)
        s.basis = Basis::dataSheet;
    const auto same = predictRange(said, predictRuntime(said));
    CHECK(same->range.p10 == wide->range.p10);
    for (Stage& s : said.stages)
        s.basis = Basis::guess;
    const auto loose = predictRange(said, predictRuntime(said));
    CHECK(loose->range.p90 - loose->range.p10 >= wide->range.p90 - wide->range.p10);
}

TEST_CASE("the model's curve of what a label gives falls with the watts", "[bench]") {
    const Project p = bellows();
    const double label = labelWhOf(*p.pack());
    const auto gives = givesOf(p, {}, label, 4, 30, 6);
    REQUIRE(gives.size() == 6);
    CHECK(gives.front().watts == Approx(4));
    CHECK(gives.back().watts == Approx(30));
    for (std::size_t i = 1; i < gives.size(); ++i)
        CHECK(gives[i].share < gives[i - 1].share);
    CHECK(gives.front().share < 1.1);
}

TEST_CASE("the logbook keeps runs and calibrations with the project", "[bench][logbook]") {
    Project p = bellows();
    const DischargeRun run = sumUp(bellowsLogs()[0]);
    REQUIRE(run.cut);
    p = withLogEntry(p, entryOfRun(run, {}, "2031-04-02T12:15"));
    p.stage(p.packStage()->id)->part = [&] {
        Pack pack = *p.pack();
        pack.health = 0.9;
        return pack;
    }();
    p = withLogEntry(p, entryOfCalibration(p, "2031-04-02T13:00"));
    // Saved and read again.
    const auto read = readProject(writeProject(p));
    REQUIRE(read);
    const auto entries = logEntries(read.value().project);
    REQUIRE(entries.size() == 2);
    CHECK(entries[0].ah == Approx(run.ah));
    CHECK(entries[1].health == 0.9);
    const auto lines = logbookOf(read.value().project);
    REQUIRE(lines.size() == 2 + p.readings.all().size());
    CHECK(lines[0].when == "2031-04-02T13:00");
    CHECK_THAT(lines[0].figure, Catch::Contains("90 %"));
    // Nonsense in the key is passed over, and not lost by reading it.
    p.extras = {{"x-logbook", "[3, {\"what\": \"run\"}, {\"what\": 5}]"}};
    CHECK(logEntries(p).size() == 1);
    p.extras = {{"x-logbook", "\"no list\""}};
    CHECK(logEntries(p).empty());
}

TEST_CASE("a pack's line says when it will be under four fifths", "[bench][logbook]") {
    Project p = bellows();
    const double label = p.pack()->parallel * p.pack()->cell.capacity.value();
    const auto entry = [&](const char* when, double share) {
        LogEntry e;
        e.when = when;
        e.what = "run";
        e.ah = share * label;
        e.ohms = 0.1;
        p = withLogEntry(p, e);
    };
    entry("2031-01-01", 1.0);
    CHECK_FALSE(packAge(p).capacity.line);
    entry("2032-01-01", 0.95);
    const PackAge age = packAge(p);
    REQUIRE(age.capacity.line);
    REQUIRE(age.underFourFifths);
    // 5 % in 365 days: four years to 80 %.
    CHECK(*age.underFourFifths == Approx(*dayOf("2031-01-01") + 4 * 365));
    CHECK(dateText(*age.underFourFifths + 0.01) == "2034-12-31");
    CHECK(age.resistance.points.size() == 2);
    CHECK(age.capacity.at(*dayOf("2032-01-01")) == Approx(0.95));
    CHECK_FALSE(dayOf("2031-02-30"));
    CHECK_FALSE(dayOf("soon"));
    CHECK(*dayOf("1970-01-02T12:00") == 1.5);
}

TEST_CASE("pins of a pack tell what they are", "[bench][pins]") {
    PinSurvey s;
    s.connector = "grey plug";
    s.against = "3";
    s.series = 4;
    s.chemistry = Chemistry::nickelCobalt;
    s.pins = {{"1", 16.2, {}}, {"2", 16.2, {}}, {"4", 0.0, 0.3}, {"5", 0.0, 10000},
              {"6", 8.1, {}},  {"7", 0.01, {}}, {"8", 2.6, {}}};
    const PinAnalysis look = analysePins(s);
    const auto role = [&](const char* id) {
        for (const PinFound& f : look.pins)
            if (f.id == id)
                return f.role;
        return PinRole::unknown;
    };
    CHECK(role("3") == PinRole::minus);
    CHECK(role("4") == PinRole::minus);
    CHECK(role("1") == PinRole::plus);
    CHECK(role("2") == PinRole::plus);
    CHECK(role("5") == PinRole::senseResistor);
    CHECK(role("6") == PinRole::tap);
    CHECK(role("7") == PinRole::nothing);
    CHECK(role("8") == PinRole::unknown);
    CHECK(look.joined == std::vector<std::vector<std::string>>{{"3", "4"}, {"1", "2"}});
    CHECK(*look.volts == Approx(16.2));
    CHECK(look.inWindow);
    // The black lead on the plus instead: the same pack.
    PinSurvey turned = s;
    turned.against = "1";
    turned.pins = {{"2", 0.0, 0.1}, {"3", -16.2, {}}, {"6", -8.1, {}}};
    const PinAnalysis other = analysePins(turned);
    CHECK(other.pins[0].role == PinRole::plus);
    CHECK(other.pins[1].role == PinRole::plus);
    CHECK(other.pins[2].role == PinRole::minus);
    CHECK(other.pins[3].role == PinRole::tap);
    CHECK(other.pins[3].cells == 2);
    // Dark packs are not guessed at.
    PinSurvey dark = s;
    dark.pins = {{"1", 0.0, {}}, {"2", 0.0, 10000}};
    CHECK_FALSE(analysePins(dark).volts);
    // Kept with the project.
    const Project p = withPinSurveys(bellows(), {s, turned});
    const auto read = readProject(writeProject(p));
    REQUIRE(read);
    CHECK(pinSurveysOf(read.value().project) == std::vector<PinSurvey>{s, turned});
    CHECK(withPinSurveys(p, {}).extras == bellows().extras);
}

TEST_CASE("a difference counts only where the meter can see it", "[bench][pairs]") {
    ReadingPair pair{"noise floor", "dB", {12.1, 12.4, 11.9, 12.2}, {12.3, 12.0, 12.5, 12.1}, 0.1};
    PairVerdict v = judge(pair);
    CHECK_FALSE(v.differs);
    CHECK_THAT(v.says, Catch::Contains("No difference that this meter can see"));
    // Variances 0.04333 and 0.04917 over four each, the last digit twice 0.05^2/3.
    CHECK(v.seen == Approx(2 * std::sqrt(0.043333333 / 4 + 0.049166667 / 4 + 2 * 0.0025 / 3)));
    pair.supply = {14.3, 14.0, 14.5, 14.1};
    v = judge(pair);
    CHECK(v.differs);
    CHECK(v.difference == Approx(2.075));
    pair.supply = {14};
    CHECK_FALSE(judge(pair).enough);
    CHECK_FALSE(judge(pair).differs);
    const Project p = withPairs(bellows(), {pair});
    CHECK(pairsOf(p) == std::vector<ReadingPair>{pair});
    // What is kept may have been written by anyone: nothing of it throws.
    Project odd = bellows();
    odd.extras = {{"x-pairs", R"([{"what": 5, "unit": [], "cells": ["a", 1], "resolution": "x"}])"},
                  {"x-pins", R"([{"connector": 1, "series": "4", "pins": [3, {"id": 7}]}])"},
                  {"x-logbook", R"([{"what": "run", "when": 4, "ah": "much"}])"}};
    REQUIRE(pairsOf(odd).size() == 1);
    CHECK(pairsOf(odd)[0].cells == std::vector<double>{1});
    REQUIRE(pinSurveysOf(odd).size() == 1);
    CHECK(pinSurveysOf(odd)[0].pins.size() == 1);
    CHECK_FALSE(logEntries(odd).at(0).ah);
    CHECK(figuresIn(" 3.31 3,32;3 ").value() == std::vector<double>{3.31, 3.32, 3});
    CHECK(figuresIn("3.3 loud").error().found == "\"loud\"");
    CHECK(figuresIn("").value().empty());
}
