// SPDX-License-Identifier: GPL-3.0-or-later
// Quick sums against independently computed results, and what they refuse.
#include "calculators/calculators.hpp"
#include "parts/eseries.hpp"
#include "quantity/read.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

std::map<std::string, std::string> argumentsOf(const Json& args) {
    std::map<std::string, std::string> out;
    for (const auto& [key, value] : args.items())
        out[key] = value.is_string() ? value.get<std::string>() : value.dump();
    return out;
}

std::map<std::string, std::string> examplesOf(const Calculator& sum) {
    std::map<std::string, std::string> out;
    for (const CalculatorField& f : sum.fields)
        if (!f.example.empty())
            out[std::string(f.key)] = std::string(f.example);
    if (sum.name == "wire")
        out["area"] = "0.75 mm2";
    return out;
}

} // namespace

TEST_CASE("the reference sums come out", "[sums]") {
    const Json cases = test::json(test::file("reference/sums.json"));
    REQUIRE(cases.size() > 10);
    for (const Json& c : cases) {
        INFO(c.dump());
        const auto answer = runCalculator(c["sum"].get<std::string>(), argumentsOf(c["args"]));
        REQUIRE(answer);
        for (const auto& [key, expected] : c["expect"].items()) {
            const auto at =
                std::find_if(answer.value().begin(), answer.value().end(),
                             [&, k = key](const CalculatorResult& r) { return r.key == k; });
            REQUIRE(at != answer.value().end());
            if (expected.is_string())
                CHECK(std::get<std::string>(at->value) == expected.get<std::string>());
            else if (c["sum"] == "divider" && (key == "upper_ohm" || key == "lower_ohm"))
                continue; // of pairs with equal error any is right: the ratio is checked by gives_v
            else
                CHECK(std::get<double>(at->value) ==
                      Approx(expected.get<double>()).epsilon(1e-6).margin(1e-9));
        }
    }
}

TEST_CASE("every sum works as it stands and shows its formula", "[sums]") {
    for (const Calculator& sum : allCalculators()) {
        INFO(sum.name);
        const auto answer = runCalculator(sum.name, examplesOf(sum));
        if (!answer)
            FAIL(answer.error().message());
        for (const CalculatorResult& r : answer.value()) {
            CHECK_FALSE(r.label.empty());
            CHECK_FALSE(r.formula.empty());
        }
        // Each field is needed, and what can't be read is refused with its name.
        for (const CalculatorField& f : sum.fields) {
            if (f.example.empty() || f.key == "series")
                continue;
            auto arguments = examplesOf(sum);
            arguments.erase(std::string(f.key));
            CHECK(runCalculator(sum.name, arguments).error().where == f.key);
            arguments[std::string(f.key)] = "1,500";
            CHECK(runCalculator(sum.name, arguments).error().code == "quantity");
        }
    }
}

TEST_CASE("a divider's pair is the best there is, ties to the larger total", "[sums]") {
    const auto pairOf = [](const std::map<std::string, std::string>& a) {
        const auto r = runCalculator("divider", a);
        REQUIRE(r);
        return std::pair(std::get<double>(r.value()[0].value),
                         std::get<double>(r.value()[1].value));
    };
    // Twice the reference: any equal pair is exact, the largest wins.
    CHECK(pairOf({{"v_ref", "1.25"},
                  {"target", "2.5"},
                  {"series", "E12"},
                  {"total_min", "1k"},
                  {"total_max", "100k"}}) == std::pair(47000.0, 47000.0));
    // Against trying every pair.
    const double ref = 0.8;
    const double target = 3.3;
    double best = 1e9;
    for (double decade = 1; decade < 2e6; decade *= 10)
        for (const double low : seriesDecade("E24"))
            for (double other = 1; other < 2e6; other *= 10)
                for (const double up : seriesDecade("E24")) {
                    const double total = low * decade + up * other;
                    if (total >= 20e3 && total <= 200e3)
                        best = std::min(best,
                                        std::abs(ref * (1 + up * other / (low * decade)) - target));
                }
    const auto [up, low] = pairOf({{"v_ref", "0.8"},
                                   {"target", "3v3"},
                                   {"series", "E24"},
                                   {"total_min", "20k"},
                                   {"total_max", "200k"}});
    CHECK(std::abs(ref * (1 + up / low) - target) == Approx(best).margin(1e-12));
    CHECK(runCalculator("divider", {{"v_ref", "1.25"},
                                    {"target", "1"},
                                    {"series", "E24"},
                                    {"total_min", "1k"},
                                    {"total_max", "2k"}})
              .error()
              .code == "unmet");
    CHECK(runCalculator("divider", {{"v_ref", "1.25"},
                                    {"target", "5"},
                                    {"series", "E13"},
                                    {"total_min", "1k"},
                                    {"total_max", "2k"}})
              .error()
              .expected == "E12, E24 or E96");
}

TEST_CASE("sums refuse what has no answer", "[sums]") {
    CHECK_THAT(runCalculator("flux", {}).error().message(), Catch::Contains("one of bank, pack"));
    CHECK(runCalculator("life", {{"capacity", "1"}, {"current", "0"}}).error().expected ==
          "more than 0");
    CHECK(runCalculator("life", {{"capacity", "1"}, {"current", "1"}, {"x", "1"}}).error().where ==
          "x");
    CHECK(runCalculator("led", {{"supply", "2"}, {"forward", "3"}, {"current", "1mA"}})
              .error()
              .code == "unmet");
    CHECK_THAT(runCalculator("wire", {{"length", "1"}, {"current", "1"}, {"temp", "20"}})
                   .error()
                   .message(),
               Catch::Contains("exactly one of area and awg"));
    CHECK(runCalculator("panel", {{"voc", "5"},
                                  {"isc", "1"},
                                  {"vmp", "6"},
                                  {"imp", "0.9"},
                                  {"light", "1"},
                                  {"cell_c", "25"},
                                  {"beta", "0"},
                                  {"v", "1"}})
              .error()
              .code == "unmet");
    CHECK(seriesAtOrOver("E12", 150) == 150);
    CHECK(seriesAtOrOver("E12", 825) == Approx(1000));
    CHECK(seriesDecade("E96").size() == 96);
}

TEST_CASE("a known run tells the draw, by amps and by watts", "[sums]") {
    const auto value = [](const std::map<std::string, std::string>& given, const char* key) {
        const auto answer = runCalculator("life", given);
        if (!answer)
            FAIL(answer.error().message());
        for (const CalculatorResult& r : answer.value())
            if (r.key == key)
                return std::get<double>(r.value);
        FAIL("no " << key);
        return 0.0;
    };
    const std::map<std::string, std::string> run{
        {"capacity", "1.2 Ah"}, {"volts", "7.2 V"}, {"hours", "3 h 11"}};
    CHECK(value(run, "a") == Approx(1.2 / (3 + 11.0 / 60)));
    CHECK(value(run, "w") == Approx(8.64 / (3 + 11.0 / 60)));
    CHECK(value(run, "wh") == Approx(8.64));
    CHECK(value({{"energy", "8.64"}, {"power", "2.16"}}, "h") == Approx(4));
    CHECK(value({{"power", "2 W"}, {"hours", "5"}}, "wh") == Approx(10));
    CHECK(value({{"capacity", "2"}, {"volts", "12"}, {"power", "6"}}, "h") == Approx(4));
    CHECK(value({{"current", "0.5"}, {"hours", "4"}}, "ah") == Approx(2));
    // Too little, and too much that disagrees.
    CHECK(runCalculator("life", {{"capacity", "2"}, {"volts", "3"}}).error().code == "sum");
    CHECK(runCalculator("life", {}).error().code == "sum");
    CHECK(
        runCalculator("life", {{"capacity", "2"}, {"current", "1"}, {"hours", "5"}}).error().code ==
        "unmet");
}

TEST_CASE("refills are counted by watt-hours too", "[sums]") {
    std::map<std::string, std::string> bank{{"advertised", "10"}, {"cell_v", "3.7"},
                                            {"socket_v", "5"},    {"efficiency", "0.88"},
                                            {"device", "3"},      {"device_v", "3.85"}};
    const auto refills = [&] {
        return std::get<double>(runCalculator("bank", bank).value().back().value);
    };
    CHECK(refills() == Approx(10 * 3.7 * 0.88 / (3 * 3.85)));
    bank.erase("device_v"); // as the bank's own
    CHECK(refills() == Approx(10 * 0.88 / 3));
}
