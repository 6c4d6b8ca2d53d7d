// SPDX-License-Identifier: GPL-3.0-or-later
// What each sum is asked for, with an example.
#include "calculators/calculators.hpp"

#include "line/panelcurve.hpp"
#include "parts/eseries.hpp"
#include "quantity/read.hpp"
#include "quantity/write.hpp"
#include "solar/solarposition.hpp"

#include <algorithm>
#include <array>
#include <cassert>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <optional>
#include <set>

namespace sipper {
namespace {

constexpr double kTiny = 1e-9;

} // namespace

std::span<const Calculator> allCalculators() {
    static const std::vector<Calculator> sums{
        {"bank",
         "Power bank",
         "What a bank's cell milliamp-hours are worth at its socket.",
         {{"advertised", "Advertised", Unit::ampereHour, "10 Ah", kTiny},
          {"cell_v", "At cell volts", Unit::volt, "3.7 V", kTiny},
          {"socket_v", "Socket", Unit::volt, "5 V", kTiny},
          {"efficiency", "Efficiency", Unit::fraction, "0.88", kTiny, 1},
          {"device", "Device's battery", Unit::ampereHour, "3 Ah", kTiny},
          {"device_v", "Its volts", Unit::volt, "", kTiny}}},
        {"pack",
         "Pack",
         "Volts, charge, energy and current of cells in series and parallel.",
         {{"cell_v", "Cell", Unit::volt, "3.6 V", kTiny},
          {"cell_ah", "Cell", Unit::ampereHour, "3 Ah", kTiny},
          {"series", "In series", Unit::count, "4", 1},
          {"parallel", "In parallel", Unit::count, "2", 1},
          {"c_rate", "Rate, per hour", Unit::none, "2", kTiny}}},
        {"charger",
         "Charger limits",
         "Watts, output amps, input amps: which bites first.",
         {{"watts", "Watts into the pack", Unit::watt, "60 W", kTiny},
          {"output_a", "Output limit", Unit::ampere, "5 A", kTiny},
          {"input_a", "Input limit", Unit::ampere, "4 A", kTiny},
          {"supply_v", "Supply", Unit::volt, "12 V", kTiny},
          {"pack_v", "Pack", Unit::volt, "14.8 V", kTiny},
          {"efficiency", "Efficiency", Unit::fraction, "0.85", kTiny, 1}}},
        {"wire",
         "Lead",
         "Resistance, drop and loss of a lead, both conductors.",
         {{"length", "Length", Unit::metre, "3 m", 0},
          {"area", "Cross-section", Unit::squareMillimetre, "", kTiny},
          {"awg", "or gauge", Unit::none, "", -3, 50},
          {"current", "Current", Unit::ampere, "2 A", 0},
          {"temp", "Copper", Unit::celsius, "20 °C", -200, 400}}},
        {"divider",
         "Divider",
         "Two resistors of a series for a set-point.",
         {{"v_ref", "Reference", Unit::volt, "1.25 V", kTiny},
          {"target", "Target", Unit::volt, "5 V", kTiny},
          {"series", "Series", Unit::none, "E24"},
          {"total_min", "Together at least", Unit::ohm, "10k", 0},
          {"total_max", "At most", Unit::ohm, "100k", kTiny}}},
        {"linear",
         "Linear regulator",
         "What it burns, and how warm it gets.",
         {{"v_in", "Input", Unit::volt, "9 V", kTiny},
          {"v_out", "Output", Unit::volt, "5 V", 0},
          {"current", "Current", Unit::ampere, "250 mA", 0},
          {"theta", "K/W to the air", Unit::kelvinPerWatt, "50", 0},
          {"ambient", "Air", Unit::celsius, "25 °C", -273}}},
        {"panel",
         "Solar panel",
         "Current at a voltage, and the best point, from the label.",
         {{"voc", "Open circuit", Unit::volt, "21.6 V", kTiny},
          {"isc", "Short circuit", Unit::ampere, "1.2 A", kTiny},
          {"vmp", "Best voltage", Unit::volt, "17.6 V", kTiny},
          {"imp", "Best current", Unit::ampere, "1.14 A", kTiny},
          {"light", "Light, W/m²", Unit::none, "1000", 0},
          {"cell_c", "Cell", Unit::celsius, "25 °C", -273},
          {"beta", "Volts per kelvin", Unit::voltPerKelvin, "-0.07"},
          {"v", "At", Unit::volt, "12 V", 0}}},
        {"sky",
         "Sun and clear sky",
         "How high the sun stands, and what a clear sky gives on the level; solar time.",
         {{"latitude", "Latitude", Unit::degree, "52", -90, 90},
          {"day", "Day of the year", Unit::count, "172", 1, 366},
          {"hour", "Hour", Unit::none, "12", 0, 24}}},
        {"life",
         "Capacity over current",
         "The rule of thumb: no cut-off, no cold, no sag. From a known run what it draws.",
         {{"capacity", "Capacity", Unit::ampereHour, "2.2 Ah", 0},
          {"current", "Current", Unit::ampere, "18 mA", kTiny},
          {"volts", "Volts", Unit::volt, "", kTiny},
          {"energy", "Energy", Unit::wattHour, "", 0},
          {"power", "Power", Unit::watt, "", kTiny},
          {"hours", "Ran for", Unit::hour, "", kTiny}}},
        {"led",
         "Resistor for an indicator",
         "The series resistor of a light-emitting diode.",
         {{"supply", "Supply", Unit::volt, "5 V", kTiny},
          {"forward", "Forward", Unit::volt, "2 V", 0},
          {"current", "Current", Unit::ampere, "20 mA", kTiny}}}};
    return sums;
}

} // namespace sipper
