// SPDX-License-Identifier: GPL-3.0-or-later
#include "quantity/read.hpp"
#include "quantity/unittable.hpp"
#include "quantity/write.hpp"

#include <catch2/catch.hpp>

using namespace sipper;

TEST_CASE("people's ways of writing a quantity are read", "[quantity]") {
    struct Case {
        const char* text;
        Unit unit;
        double value;
    };
    const auto c = GENERATE(
        Case{"3v3", Unit::volt, 3.3}, Case{"3V3", Unit::volt, 3.3}, Case{"5", Unit::volt, 5},
        Case{" 150 mV ", Unit::volt, 0.15}, Case{"12,5 V", Unit::volt, 12.5},
        Case{"4k7", Unit::ohm, 4700}, Case{"2R2", Unit::ohm, 2.2},
        Case{"45 mohm", Unit::ohm, 0.045}, Case{"1M", Unit::ohm, 1e6},
        Case{"4k7 ohm", Unit::ohm, 4700}, Case{"10Ω", Unit::ohm, 10},
        Case{"150mA", Unit::ampere, 0.15}, Case{"38 µA", Unit::ampere, 38e-6},
        Case{"38uA", Unit::ampere, 38e-6}, Case{"3m8", Unit::ampere, 3.8e-3},
        Case{"2e-5", Unit::ampere, 2e-5}, Case{"2.2 mAh", Unit::ampereHour, 2.2e-3},
        Case{"2200mAh", Unit::ampereHour, 2.2}, Case{"0,35 mm2", Unit::squareMillimetre, 0.35},
        Case{"0.35 mm²", Unit::squareMillimetre, 0.35},
        Case{"22 AWG", Unit::squareMillimetre, 0.32552},
        Case{"AWG 22", Unit::squareMillimetre, 0.32552}, Case{"1h30", Unit::hour, 1.5},
        Case{"1h30", Unit::second, 5400}, Case{"4 h 50", Unit::hour, 4 + 50.0 / 60},
        Case{"2 d 13 h", Unit::hour, 61}, Case{"90 min", Unit::hour, 1.5},
        Case{"20 ms", Unit::second, 0.02}, Case{"50F", Unit::celsius, 10},
        Case{"-5 °C", Unit::celsius, -5}, Case{"−5", Unit::celsius, -5},
        Case{"10%", Unit::fraction, 0.1}, Case{"0.1", Unit::fraction, 0.1},
        Case{"80 %", Unit::percent, 0.8}, Case{"80", Unit::percent, 0.8},
        Case{"0.6 W", Unit::watt, 0.6}, Case{"3", Unit::count, 3}, Case{"1.500", Unit::volt, 1.5},
        Case{"0,500", Unit::volt, 0.5}, Case{"1500", Unit::volt, 1500});
    INFO(c.text);
    const auto read = readQuantity(c.text, c.unit);
    REQUIRE(read);
    CHECK(read.value() == Approx(c.value).epsilon(1e-4));
}

TEST_CASE("what can't be read without guessing is refused with what was expected", "[quantity]") {
    struct Case {
        const char* text;
        Unit unit;
        const char* expected;
    };
    const auto c = GENERATE(
        Case{"", Unit::volt, "volts"}, Case{"abc", Unit::volt, "volts"},
        Case{"3 A", Unit::volt, "volts"}, Case{"1,500", Unit::ampereHour, "decimal or thousands"},
        Case{"1.500,0", Unit::volt, "decimal"}, Case{"3.3.3", Unit::volt, "volts"},
        Case{"--3", Unit::volt, "volts"}, Case{"1e999", Unit::volt, "volts"},
        Case{"nan", Unit::volt, "volts"}, Case{"inf", Unit::ampere, "current"},
        Case{"5 V 3", Unit::volt, "volts"}, Case{"2.5", Unit::count, "whole number"},
        Case{"22 AWG", Unit::ohm, "resistance"},
        Case{"99 AWG", Unit::squareMillimetre, "cross-section"}, Case{"1h30", Unit::volt, "volts"},
        Case{"10 mm", Unit::volt, "volts"}, Case{"5x", Unit::second, "time"},
        Case{"warm", Unit::celsius, "temperature"}, Case{"4 mAh", Unit::ampere, "current"},
        Case{"3v", Unit::ampere, "current"});
    INFO(c.text);
    const auto read = readQuantity(c.text, c.unit);
    REQUIRE_FALSE(read);
    CHECK(read.error().code == "quantity");
    CHECK_THAT(read.error().message(), Catch::Contains(c.expected));
}

TEST_CASE("quantities are written in one style and read back", "[quantity]") {
    CHECK(writeQuantity(3.284, Unit::ampereHour) == "3.28 Ah");
    CHECK(writeQuantity(0.15, Unit::ampere) == "150 mA");
    CHECK(writeQuantity(2e-5, Unit::ampere) == "20.0 µA");
    CHECK(writeQuantity(0.9999, Unit::volt) == "1.00 V");
    CHECK(writeQuantity(4700, Unit::ohm) == "4.70 kΩ");
    CHECK(writeQuantity(1234, Unit::gram) == "1.23 kg");
    CHECK(writeHours(61.2) == "61 h");
    CHECK(writeHours(4 + 50.0 / 60) == "4 h 50");
    CHECK(writeHours(123) == "5 d 3 h");
    CHECK(writeHours(240) == "10 d");
    CHECK(writeShare(0.09) == "9 %");
    CHECK(writeQuantity(std::nan(""), Unit::volt) == "–");
    for (const double value : {3.05, 0.00002, 0.0123456, 12.15, 1e-9, 47000.0})
        for (const Unit unit : {Unit::volt, Unit::ampere, Unit::ohm}) {
            const auto back = readQuantity(writeExact(value, unit), unit);
            REQUIRE(back);
            CHECK(back.value() == Approx(value).epsilon(1e-12));
        }
}

TEST_CASE("every unit of the table is typed in each of its spellings and read back", "[quantity]") {
    for (int i = 0; i <= static_cast<int>(Unit::money); ++i) {
        const auto unit = static_cast<Unit>(i);
        const UnitFacts& facts = factsOf(unit);
        INFO("unit " << i << ", " << facts.expected);
        CHECK(facts.unit == unit);
        CHECK_FALSE(facts.expected.empty());
        CHECK(facts.least < facts.most);
        CHECK((!facts.prefixed || !facts.spellings.empty()));
        const auto plain = readQuantity("6", unit);
        REQUIRE(plain);
        CHECK(plain.value() == (unit == Unit::percent ? 0.06 : 6)); // kept as a share
        // A time's factor is to seconds; hours are kept as hours.
        const double kept = unit == Unit::hour ? 3600.0 : 1.0;
        for (const Spelling& s : facts.spellings) {
            INFO(s.text);
            const auto read = readQuantity("6 " + std::string(s.text), unit);
            REQUIRE(read);
            CHECK(read.value() ==
                  Approx(s.text == "%" ? 0.06 : 6 * s.factor / kept).epsilon(1e-12));
            if (!s.prefixed)
                continue;
            const auto milli = readQuantity("6 m" + std::string(s.text), unit);
            REQUIRE(milli);
            CHECK(milli.value() == Approx(6e-3 * s.factor / kept).epsilon(1e-12));
        }
        for (const double value : {1.0, 4.7, 12.15, 300.0}) {
            if (unit == Unit::count && value != std::floor(value))
                continue; // whole numbers only
            INFO(value << " is written " << writeExact(value, unit));
            const auto back = readQuantity(writeExact(value, unit), unit);
            REQUIRE(back);
            CHECK(back.value() == Approx(value).epsilon(1e-12));
        }
    }
}
