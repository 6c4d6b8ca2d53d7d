// SPDX-License-Identifier: GPL-3.0-or-later
// Over random figures of every unit: what is written is read back, what is strange is refused.
#include "quantity/read.hpp"
#include "quantity/unittable.hpp"
#include "quantity/write.hpp"
#include "support.hpp"

#include <random>

using namespace sipper;

namespace {

std::vector<Unit> allUnits() {
    std::vector<Unit> list;
    for (int i = 0; i <= static_cast<int>(Unit::money); ++i)
        list.push_back(static_cast<Unit>(i));
    return list;
}

} // namespace

TEST_CASE("a figure that is edited comes back to twelve digits, whatever its size and unit",
          "[quantity]") {
    std::mt19937 random(11);
    const auto unit01 = [&] { return static_cast<double>(random()) / 4294967296.0; };
    for (const Unit unit : allUnits()) {
        const UnitFacts& facts = factsOf(unit);
        INFO(facts.expected);
        for (int i = 0; i < 200; ++i) {
            double value = std::pow(10, 12 * unit01() - 6);
            value = std::clamp(value, std::max(facts.least, 1e-9), std::min(facts.most, 1e9));
            if (i % 2 == 0) // what people have: few digits
                value = std::stod(fmt::format("{:.3g}", value));
            if (unit == Unit::count)
                value = std::round(value);
            const std::string text = writeExact(value, unit);
            const auto back = readQuantity(text, unit);
            INFO(text);
            REQUIRE(back);
            CHECK(back.value() == Approx(value).epsilon(6e-12));
        }
    }
}

TEST_CASE("a figure that is shown is right within its three digits", "[quantity]") {
    std::mt19937 random(12);
    const auto unit01 = [&] { return static_cast<double>(random()) / 4294967296.0; };
    for (const Unit unit : {Unit::volt, Unit::ampere, Unit::watt, Unit::ohm, Unit::ampereHour,
                            Unit::wattHour, Unit::farad}) {
        for (int i = 0; i < 300; ++i) {
            const double value = std::pow(10, 10 * unit01() - 5);
            const std::string text = writeQuantity(value, unit);
            const auto back = readQuantity(text, unit);
            INFO(value << " as " << text);
            REQUIRE(back);
            CHECK(back.value() == Approx(value).epsilon(0.0051));
            CHECK(writeQuantity(-value, unit).front() == '-');
        }
        CHECK(writeQuantity(std::numeric_limits<double>::quiet_NaN(), unit) == "–");
        CHECK(writeQuantity(std::numeric_limits<double>::infinity(), unit) == "–");
    }
}

TEST_CASE("hours grow in words as they grow", "[quantity]") {
    double last = 0;
    for (double hours = 1.0 / 3600; hours < 9 * 8766; hours *= 1.07) {
        const std::string text = writeHours(hours);
        INFO(hours << " as " << text);
        CHECK_FALSE(text.empty());
        // Read back by hand: the first number and its word.
        const double number = std::stod(text);
        double scale = 1;
        if (text.find("years") != std::string::npos)
            scale = 8766;
        else if (text.find(" d") != std::string::npos)
            scale = 24;
        else if (text.find("min") != std::string::npos)
            scale = 1.0 / 60;
        else if (text.find(" s") != std::string::npos)
            scale = 1.0 / 3600;
        // The first number is rounded, or has the rest in the next one.
        CHECK(number * scale <= hours + 0.51 * scale);
        CHECK(number * scale >= hours - 1.01 * scale);
        CHECK(hours >= last);
        last = hours;
    }
}

TEST_CASE("any text is read or refused with what was expected, and nothing else happens",
          "[quantity]") {
    std::mt19937 random(13);
    const std::string letters = "0123456789.,-+eE kmuµMGnVAWhsΩ%°C:/'\"\\x\t";
    std::size_t refused = 0;
    for (int i = 0; i < 20000; ++i) {
        std::string text;
        for (std::size_t n = random() % 9; n > 0; --n)
            text += letters[random() % letters.size()];
        const Unit unit = allUnits()[random() % allUnits().size()];
        const auto read = readQuantity(text, unit);
        if (read) {
            INFO(text);
            CHECK(std::isfinite(read.value()));
            continue;
        }
        ++refused;
        CHECK(read.error().code == "quantity");
        CHECK_FALSE(read.error().expected.empty());
    }
    CHECK(refused > 1000);
}

TEST_CASE("a gauge is its diameter's area, and each three gauges halve it", "[quantity]") {
    for (double gauge = 0; gauge <= 40; ++gauge) {
        const double diameter = 0.127 * std::pow(92, (36 - gauge) / 39);
        CHECK(areaOfAwg(gauge).value() ==
              Approx(3.14159265358979 / 4 * diameter * diameter).epsilon(1e-9));
        if (gauge >= 3)
            CHECK(areaOfAwg(gauge - 3).value() / areaOfAwg(gauge).value() ==
                  Approx(2).epsilon(0.01));
    }
    CHECK(readQuantity("22 AWG", Unit::squareMillimetre).value() == Approx(areaOfAwg(22).value()));
}

TEST_CASE("a share is written in whole per cents, and small ones in tenths", "[quantity]") {
    CHECK(writeShare(1) == "100 %");
    CHECK(writeShare(0) == "0 %");
    CHECK(writeShare(0.09) == "9 %");
    CHECK(writeShare(0.004) == "0.4 %");
}
