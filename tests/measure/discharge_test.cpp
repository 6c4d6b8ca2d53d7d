// SPDX-License-Identifier: GPL-3.0-or-later
// Logs of packs run down: the reference, sums by hand, and everything that goes wrong in a log.
#include "measure/discharge.hpp"
#include "measure/totals.hpp"
#include "support.hpp"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

using namespace sipper;

namespace {

DischargeLog read(const std::string& text) {
    auto log = readDischarge(text, "log.csv");
    if (!log)
        FAIL(log.error().message());
    return std::move(log).value();
}

DischargeLog readFileOf(const std::string& name) {
    const auto text = readFile(test::file("reference/" + name));
    REQUIRE(text);
    auto log = readDischarge(text.value(), name);
    REQUIRE(log);
    return std::move(log).value();
}

/// A load of 2 A on 4 V, off before and after, every 10 s: 360 rows on, an hour.
std::string plainLog(const char* header = "time (s),voltage (V),current (A)") {
    std::string out = std::string(header) + "\n";
    for (int i = 0; i <= 380; ++i) {
        const bool on = i >= 10 && i < 370;
        out += fmt::format("{},{},{}\n", i * 10, on ? 4.0 : 4.2, on ? 2.0 : 0.0);
    }
    return out;
}

} // namespace

TEST_CASE("the reference logs give the reference figures", "[bench][reference]") {
    const Json file = test::json(test::file("reference/paper-bellows.discharge.expected.json"));
    for (const Json& run : file["runs"]) {
        INFO(run["about"].get<std::string>());
        std::vector<DischargeLog> logs;
        DischargeOptions ask;
        const Json& args = run["args"];
        for (std::size_t i = 0; i < args.size(); ++i) {
            const std::string arg = args[i];
            if (arg == "--own-w")
                ask.ownWatts = std::stod(args[++i].get<std::string>());
            else if (arg == "--label-wh")
                ask.labelWh = std::stod(args[++i].get<std::string>());
            else if (arg == "--cut")
                ask.cutVolts = std::stod(args[++i].get<std::string>());
            else
                logs.push_back(readFileOf(arg));
        }
        const Discharges all = dischargesOf(logs, ask);
        const Json& expected = run["expect"];
        REQUIRE(all.runs.size() == expected["runs"].size());
        for (std::size_t i = 0; i < all.runs.size(); ++i) {
            const DischargeRun& r = all.runs[i];
            const Json& e = expected["runs"][i];
            INFO(r.file);
            CHECK(r.rows == e["rows"].get<std::size_t>());
            CHECK(r.badRows == e["bad_rows"].get<std::size_t>());
            CHECK(r.outOfOrder == e["out_of_order"].get<std::size_t>());
            CHECK(r.clockSetBack == e["clock_set_back"].get<std::size_t>());
            REQUIRE(r.gaps.size() == e["gaps"].size());
            for (std::size_t g = 0; g < r.gaps.size(); ++g) {
                CHECK(r.gaps[g].first == e["gaps"][g][0].get<double>());
                CHECK(r.gaps[g].second == e["gaps"][g][1].get<double>());
            }
            const auto near = [&](const char* key, double value, double relative = 1e-5) {
                INFO(key);
                CHECK(value == Approx(e[key].get<double>()).epsilon(relative).margin(1e-6));
            };
            near("ah", r.ah);
            near("wh", r.wh);
            near("own_ah", r.ownAh);
            near("own_wh", r.ownWh);
            near("gap_ah", r.gapAh);
            near("runtime_h", r.hours);
            near("mean_v", r.meanVolts);
            near("mean_a", r.meanAmps);
            near("mean_w", r.meanWatts);
            near("rest_v", *r.restVolts);
            near("start_v", r.startVolts);
            near("end_v", r.endVolts);
            near("ohm", *r.ohms);
            CHECK(r.ohmSteps == e["ohm_steps"].get<std::size_t>());
            near("recovery_v", *r.recoveryVolts);
            near("recovery_s", *r.recoverySeconds);
            near("warmest_c", *r.warmest);
            near("efficiency", *r.efficiency);
            CHECK(r.cut == (e["ended_by"] == "cut"));
        }
        REQUIRE(all.groups.size() == expected["groups"].size());
        for (std::size_t i = 0; i < all.groups.size(); ++i) {
            const DischargeGroup& g = all.groups[i];
            const Json& e = expected["groups"][i];
            CHECK(Json(g.runs) == e["runs"]);
            CHECK(g.meanWatts == Approx(e["mean_w"].get<double>()).epsilon(1e-5));
            CHECK(g.ah == Approx(e["ah"].get<double>()).epsilon(1e-5));
            CHECK(g.spread.has_value() == !e["spread"].is_null());
            if (g.spread)
                CHECK(*g.spread == Approx(e["spread"].get<double>()).epsilon(1e-4));
        }
        CHECK(*all.gapWh == Approx(expected["gap_wh"].get<double>()).epsilon(1e-4));
        CHECK(*all.gapShare == Approx(expected["gap_share"].get<double>()).epsilon(1e-4));
        CHECK(*all.peukert == Approx(expected["peukert"].get<double>()).epsilon(1e-4));
        CHECK(all.twoWell.has_value() == !expected["two_well"].is_null());
    }
}

TEST_CASE("a plain log is summed as by hand", "[bench]") {
    DischargeOptions ask;
    ask.ownWatts = 0.4;
    ask.labelWh = 10;
    const DischargeRun r = sumUp(read(plainLog()), ask);
    // 359 steps of 10 s at 2 A and two halves beside them: 3600 s.
    CHECK(r.ah - r.ownAh == Approx(2.0));
    CHECK(r.wh - r.ownWh == Approx(2.0 * 4 * 3590 / 3600 + 8.0 * 10 / 3600));
    CHECK(r.hours == Approx(1.0));
    CHECK(r.ownWh == Approx(0.4));
    CHECK(*r.efficiency == Approx(r.wh / 10));
    CHECK(*r.restVolts == 4.2);
    CHECK(r.cut);
    CHECK(*r.ohms == Approx(0.1));
    CHECK(r.ohmSteps == 2);
    CHECK(*r.recoveryVolts == Approx(0.2));
    CHECK(*r.recoverySeconds == Approx(110));
    // Without what follows it is the log that ends, unless it was near the cut-off.
    std::string text = plainLog();
    text.resize(text.find("3700,"));
    CHECK_FALSE(sumUp(read(text)).cut);
    ask.cutVolts = 3.95;
    CHECK(sumUp(read(text), ask).cut);
}

TEST_CASE("watts, milliseconds, degrees Fahrenheit, commas and clocks are read", "[bench]") {
    const DischargeRun plain = sumUp(read(plainLog()));
    std::string watts = "Zeit (min);Spannung (mV);Leistung (W);Temp (°F);Capacity (mAh)\n";
    std::string clock = "timestamp,voltage (V),strom (mA)\n";
    for (int i = 0; i <= 380; ++i) {
        const bool on = i >= 10 && i < 370;
        std::string minutes = fmt::format("{:.8f}", i / 6.0);
        std::replace(minutes.begin(), minutes.end(), '.', ',');
        watts += fmt::format("{};{};{};77,0;{}\n", minutes, on ? 4000 : 4200, on ? 8 : 0, i);
        // Past midnight.
        const int second = 23 * 3600 + 1800 + i * 10;
        clock += fmt::format("{:02}:{:02}:{:02},{},{}\n", second / 3600 % 24, second / 60 % 60,
                             second % 60, on ? 4.0 : 4.2, on ? 2000 : 0);
    }
    const DischargeLog byWatts = read(watts);
    CHECK(*byWatts.warmest == Approx(25));
    CHECK(sumUp(byWatts).ah == Approx(plain.ah).epsilon(1e-6));
    CHECK(sumUp(read(clock)).ah == Approx(plain.ah));
    CHECK(sumUp(read(clock)).hours == Approx(1));
    for (const char* day : {"2031-10-26 ", "2031/10/26T", "26.10.2031 "}) {
        std::string dated = "time,voltage (V),current (A)\n";
        for (int i = 0; i < 20; ++i)
            dated += fmt::format("{}10:00:{:02},4,{}\n", day, i * 2, i > 3 ? 2 : 0);
        CHECK(read(dated).seconds.back() == Approx(38));
    }
    // What leaves is negative: turned round.
    std::string negative = plainLog();
    for (std::size_t at = 0; (at = negative.find(",2\n", at)) != std::string::npos;)
        negative.replace(at, 3, ",-2\n");
    CHECK(sumUp(read(negative)).ah == Approx(plain.ah));
}

TEST_CASE("bad rows, late rows, gaps and a clock set back are said, never fatal", "[bench]") {
    std::string text = "time (s),voltage (V),current (A),note\n";
    const auto row = [&](double t, double a) { text += fmt::format("{},4,{},x\n", t, a); };
    for (int i = 0; i < 50; ++i)
        row(i * 10, 2);
    text += "\n";             // blank: no row
    text += "500,four,2,x\n"; // no volts
    text += "500,-1,2,x\n";   // under 0
    text += "500,4,2e9,x\n";  // more than there is
    text += "500,4\n";        // cut off
    row(300, 2);              // late
    row(310, 2);              // late
    row(500, 2);
    for (int i = 0; i < 30; ++i) // the clock is set back by 400 s
        row(110 + i * 10, 2);
    row(110 + 29 * 10 + 600, 2); // a gap
    const DischargeLog log = read(text);
    CHECK(log.badRows == 4);
    CHECK(log.outOfOrder == 2);
    CHECK(log.clockSetBack == 1);
    CHECK(log.seconds.size() == 50 + 1 + 30 + 1);
    for (std::size_t i = 1; i < log.seconds.size(); ++i)
        CHECK(log.seconds[i] > log.seconds[i - 1]);
    const DischargeRun r = sumUp(log);
    REQUIRE(r.gaps.size() == 1);
    CHECK(r.gaps[0].second - r.gaps[0].first == Approx(600));
    CHECK(r.gapAh == Approx(2 * 600 / 3600.0));
    CHECK_FALSE(r.cut);
    // What cannot be read at all is an error with its reason.
    CHECK(readDischarge("", "a").error().code == "log_format");
    CHECK(readDischarge("1,2,3\n4,5,6\n", "a").error().code == "log_format");
    CHECK(readDischarge("time (s),current (A)\n1,2\n2,2\n", "a").error().code == "log_format");
    CHECK(readDischarge("time (s),voltage (V),current\n1,2,3\n2,2,3\n", "a").error().code ==
          "log_format");
    CHECK(readDischarge("time (s),voltage (V),current (A)\n1,2,3\n", "a").error().code ==
          "log_empty");
    CHECK(readDischarge(std::string("\0\xff\xfe,;\n\"\"\"", 8), "a").ok() == false);
}

TEST_CASE("two wells that are planted are found again", "[bench]") {
    const double capacity = 3;
    const double fraction = 0.6;
    const double rate = 1.2;
    std::vector<DischargeLog> logs;
    for (const double amps : {0.2, 0.6, 1.5, 3.0}) {
        const double ah = twoWellAh(capacity, fraction, rate, amps);
        DischargeLog log;
        const double hours = ah / amps;
        for (int i = 0; i <= 400; ++i) {
            log.seconds.push_back(hours * 3600 * i / 398);
            const bool on = i > 0 && i < 399;
            log.volts.push_back(3.7);
            log.amps.push_back(on ? amps : 0);
        }
        logs.push_back(std::move(log));
    }
    const Discharges all = dischargesOf(logs);
    REQUIRE(all.groups.size() == 4);
    REQUIRE(all.twoWell);
    CHECK(all.twoWell->capacityAh == Approx(capacity).epsilon(0.01));
    CHECK(all.twoWell->availableFraction == Approx(fraction).margin(0.01));
    CHECK(all.twoWell->wellRate == Approx(rate).epsilon(0.05));
    CHECK(all.peukert.value() > 1.02);
    // At no current to speak of everything comes.
    CHECK(twoWellAh(capacity, fraction, rate, 1e-4) == Approx(capacity).epsilon(1e-3));
    // Pulled at once, only what is at hand.
    CHECK(twoWellAh(capacity, fraction, rate, 1e4) == Approx(capacity * fraction).epsilon(1e-2));
    logs.pop_back();
    logs.pop_back();
    const Discharges few = dischargesOf(logs);
    CHECK_FALSE(few.twoWell);
    CHECK_FALSE(few.leftAlone.empty());
}

TEST_CASE("a table of totals gives what a row leaves out", "[bench]") {
    const auto table = readTotals("power (W);mean V;duration (h)\n"
                                  "4,2;7,0;3,0\n"
                                  "8,4;;1,4\n"
                                  ";;\n"
                                  "2;;\n",
                                  "t.csv", {0.1, 20.0, {}});
    REQUIRE(table);
    const auto& runs = table.value().runs;
    REQUIRE(runs.size() == 2);
    CHECK(runs[0].wh == Approx(12.6 + 0.3)); // with the tester's own
    CHECK(runs[0].ah == Approx(1.8 + 0.3 / 7));
    CHECK(runs[0].meanWatts == Approx(4.3));
    CHECK(*runs[0].efficiency == Approx(12.9 / 20));
    CHECK(runs[0].fromTotals);
    CHECK(runs[1].wh == Approx(8.5 * 1.4));
    CHECK(runs[1].ah == 0); // no volts: not to be had
    REQUIRE(table.value().leftAlone.size() == 1);
    CHECK(table.value().leftAlone[0].what == "t.csv row 5");
}

TEST_CASE("totals: clocks, prefixes and a row that contradicts itself", "[bench]") {
    const auto table = readTotals("duration,Wh,mAh,volts\n"
                                  "3:11,13.4,1861,7.2\n"
                                  "0:51:30,13.4,2400,7.2\n",
                                  "t.csv");
    REQUIRE(table);
    const auto& runs = table.value().runs;
    REQUIRE(runs.size() == 2);
    CHECK(runs[0].hours == Approx(3 + 11.0 / 60));
    CHECK(runs[0].meanAmps == Approx(1.861 / (3 + 11.0 / 60)));
    CHECK(runs[1].hours == Approx(51.5 / 60));
    REQUIRE(table.value().leftAlone.size() == 1);
    CHECK_THAT(table.value().leftAlone[0].why, Catch::Contains("22 % off"));
    // What contradicts itself is shown and feeds nothing.
    CHECK(dischargesOf(table.value()).groups.size() == 1);
    CHECK(readTotals("watts,note\n1,2\n", "t").error().code == "log_format");
    CHECK(readTotals("watts,volts\n-1,2\n", "t").error().code == "log_empty");
    CHECK(readTotals("watts,time\n1,2\n", "t").error().code == "log_empty");
}

TEST_CASE("rates from totals give the exponent, and a table is no log", "[bench]") {
    std::string text = "current (A),capacity (Ah),voltage (V)\n";
    for (const double amps : {0.2, 1.0, 2.0})
        text += fmt::format("{},{},3.6\n", amps, 2.0 * std::pow(amps, -0.1));
    const auto table = readTotals(text, "t.csv");
    REQUIRE(table);
    const Discharges all = dischargesOf(table.value());
    REQUIRE(all.peukert);
    CHECK(*all.peukert == Approx(1.1).epsilon(1e-3));
    CHECK(all.runs[0].hours == Approx(10 * std::pow(0.2, -0.1)));
    const std::string runs = "power (W),volts (V),time (h),energy (Wh)\n4,7.2,3,12\n8,7,1.4,11.2\n"
                             "2,7.3,6.1,12.2\n";
    const auto refused = readDischarge(runs, "t.csv");
    REQUIRE_FALSE(refused);
    CHECK(refused.error().code == "log_totals");
    CHECK_THAT(refused.error().message(), Catch::Contains("--totals"));
    // Without a column of time at all, too.
    CHECK(readDischarge(text, "t.csv").error().code == "log_totals");
}
