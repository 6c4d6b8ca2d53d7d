// SPDX-License-Identifier: GPL-3.0-or-later
#include "quantity/unittable.hpp"

#include <array>

namespace sipper {
namespace {

constexpr std::array kVolt{Spelling{"v", 1, true}, Spelling{"volt", 1, true},
                           Spelling{"volts", 1, true}};
constexpr std::array kAmpere{Spelling{"a", 1, true}, Spelling{"amp", 1, true},
                             Spelling{"amps", 1, true}};
constexpr std::array kOhm{Spelling{"ohm", 1, true}, Spelling{"ohms", 1, true},
                          Spelling{"r", 1, true}};
constexpr std::array kWatt{Spelling{"w", 1, true}, Spelling{"watt", 1, true},
                           Spelling{"watts", 1, true}};
constexpr std::array kWattHour{Spelling{"wh", 1, true}, Spelling{"j", 1.0 / 3600, true}};
constexpr std::array kAmpereHour{Spelling{"ah", 1, true}, Spelling{"c", 1.0 / 3600, true},
                                 Spelling{"as", 1.0 / 3600, true}};
constexpr std::array kSecond{Spelling{"s", 1, true}, Spelling{"sec", 1},     Spelling{"min", 60},
                             Spelling{"h", 3600},    Spelling{"hr", 3600},   Spelling{"d", 86400},
                             Spelling{"day", 86400}, Spelling{"days", 86400}};
constexpr std::array kMetre{Spelling{"m", 1},    Spelling{"mm", 1e-3},   Spelling{"cm", 1e-2},
                            Spelling{"km", 1e3}, Spelling{"in", 0.0254}, Spelling{"ft", 0.3048}};
constexpr std::array kArea{Spelling{"mm2", 1}, Spelling{"cm2", 100}, Spelling{"m2", 1e6}};
constexpr std::array kGram{Spelling{"g", 1}, Spelling{"kg", 1e3}, Spelling{"mg", 1e-3}};
constexpr std::array kFarad{Spelling{"f", 1, true}};
constexpr std::array kDegree{Spelling{"deg", 1}};
constexpr std::array kPerHour{Spelling{"/h", 1}, Spelling{"/s", 3600}, Spelling{"/min", 60}};
constexpr std::array kPerSecondUnits{Spelling{"/s", 1}, Spelling{"hz", 1, true},
                                     Spelling{"/min", 1.0 / 60}, Spelling{"/h", 1.0 / 3600}};
constexpr std::array kKelvinPerWatt{Spelling{"k/w", 1}, Spelling{"c/w", 1}, Spelling{"degc/w", 1}};
constexpr std::array kVoltPerKelvin{Spelling{"v/k", 1, true}, Spelling{"v/c", 1, true},
                                    Spelling{"v/degc", 1, true}};
constexpr std::array kPercent{Spelling{"%", 1}};

constexpr std::array kTable{
    UnitFacts{Unit::none, "", "a number", {}, false, false, -1e9, 1e9},
    UnitFacts{Unit::count, "", "a whole number", {}, false, false, 1, 1000},
    UnitFacts{Unit::volt, "V", "volts, such as 3.3 V, 3v3 or 150 mV", kVolt, true, true, 0, 1000},
    UnitFacts{Unit::ampere, "A", "a current, such as 1.5 A, 150mA or 38 uA", kAmpere, true, true, 0,
              1000},
    UnitFacts{Unit::ohm, "Ω", "a resistance, such as 4k7, 45 mohm or 2R2", kOhm, true, true, 0,
              1e9},
    UnitFacts{Unit::watt, "W", "a power, such as 0.6 W or 250 mW", kWatt, true, true, 0, 1e6},
    UnitFacts{Unit::wattHour, "Wh", "an energy, such as 11 Wh", kWattHour, true, true, 0, 1e6},
    UnitFacts{Unit::ampereHour, "Ah", "a charge, such as 3 Ah or 2200 mAh", kAmpereHour, true, true,
              0, 1e5, true},
    UnitFacts{Unit::second, "s", "a time, such as 4 s, 20 ms or 1 min", kSecond, true, false, 0,
              1e8},
    UnitFacts{Unit::hour, "h", "a time, such as 48 h, 1h30 or 2 d", kSecond, false, false, 0, 1e6},
    UnitFacts{
        Unit::celsius, "°C", "a temperature, such as -5 C or 50F", {}, false, false, -273.15, 1000},
    UnitFacts{Unit::metre, "m", "a length, such as 1.2 m or 30 cm", kMetre, false, false, 0, 1e4},
    UnitFacts{Unit::squareMillimetre, "mm²", "a cross-section, such as 0.35 mm2 or 22 AWG", kArea,
              false, false, 0, 1000, true},
    UnitFacts{Unit::gram, "g", "a mass, such as 47 g", kGram, false, false, 0, 1e6},
    UnitFacts{Unit::farad, "F", "a capacitance, such as 470 uF", kFarad, true, true, 0, 1e4},
    UnitFacts{Unit::degree, "°", "an angle in degrees", kDegree, false, false, -360, 360},
    UnitFacts{Unit::perHour, "/h", "a rate, such as 6 /h", kPerHour, false, false, 0, 1e6},
    UnitFacts{Unit::perSecond, "/s", "a rate, such as 0.5 /s", kPerSecondUnits, false, false, 0,
              1e6},
    UnitFacts{Unit::kelvinPerWatt, "K/W", "a thermal resistance, such as 60 K/W", kKelvinPerWatt,
              false, false, 0, 1e4},
    UnitFacts{Unit::voltPerKelvin, "V/K", "a temperature coefficient, such as -2 mV/K",
              kVoltPerKelvin, true, false, -10, 10},
    UnitFacts{Unit::fraction, "", "a share from 0 to 1, or per cent such as 10%", kPercent, false,
              false, 0, 1},
    UnitFacts{Unit::percent, "%", "per cent, such as 80 %", kPercent, false, false, 0, 1},
    UnitFacts{Unit::money, "", "a price", {}, false, false, 0, 1e7},
};

constexpr bool inOrder() {
    for (std::size_t i = 0; i < kTable.size(); ++i)
        if (kTable[i].unit != static_cast<Unit>(i))
            return false;
    return kTable.back().unit == Unit::money;
}
static_assert(inOrder(), "one row a unit, in the order of Unit");

} // namespace

const UnitFacts& factsOf(Unit unit) {
    return kTable[static_cast<std::size_t>(unit)];
}

} // namespace sipper
