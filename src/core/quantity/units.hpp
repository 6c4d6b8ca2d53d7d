// SPDX-License-Identifier: GPL-3.0-or-later
// Strong units: a wrong unit does not compile. Plain doubles (SI) are used only inside a numerical
// kernel and are unwrapped at its door with `.value()` or `si()`.
#pragma once

// Only the families that Sipper speaks; the rest of the header would be compiled for nothing.
#define DISABLE_PREDEFINED_UNITS
#define ENABLE_PREDEFINED_LENGTH_UNITS
#define ENABLE_PREDEFINED_MASS_UNITS
#define ENABLE_PREDEFINED_TIME_UNITS
#define ENABLE_PREDEFINED_TEMPERATURE_UNITS
#define ENABLE_PREDEFINED_CURRENT_UNITS
#define ENABLE_PREDEFINED_VOLTAGE_UNITS
#define ENABLE_PREDEFINED_IMPEDANCE_UNITS
#define ENABLE_PREDEFINED_POWER_UNITS
#define ENABLE_PREDEFINED_ENERGY_UNITS
#define ENABLE_PREDEFINED_CHARGE_UNITS
#define ENABLE_PREDEFINED_CAPACITANCE_UNITS
#define ENABLE_PREDEFINED_ANGLE_UNITS
#include <units.h>

namespace sipper {

using Volts = units::voltage::volt_t;
using Amps = units::current::ampere_t;
using Ohms = units::impedance::ohm_t;
using Watts = units::power::watt_t;
using WattHours = units::energy::watt_hour_t;
using AmpHours = units::charge::ampere_hour_t;
using Seconds = units::time::second_t;
using Hours = units::time::hour_t;
using Celsius = units::temperature::celsius_t;
using Metres = units::length::meter_t;
using SquareMillimetres = units::unit_t<units::squared<units::length::millimeters>>;
using Grams = units::mass::gram_t;
using Farads = units::capacitance::farad_t;
using Degrees = units::angle::degree_t;
using PerHour = units::unit_t<units::inverse<units::time::hours>>;
using PerSecond = units::unit_t<units::inverse<units::time::seconds>>;
using KelvinPerWatt = units::unit_t<
    units::compound_unit<units::temperature::kelvin, units::inverse<units::power::watts>>>;
using VoltsPerKelvin = units::unit_t<
    units::compound_unit<units::voltage::volts, units::inverse<units::temperature::kelvin>>>;

/// The unit in which a figure is kept in a file, typed bare and shown. `fraction` is typed and
/// stored as 0–1; `percent` is stored as 0–1 and typed and shown in per cent.
enum class Unit {
    none,
    count,
    volt,
    ampere,
    ohm,
    watt,
    wattHour,
    ampereHour,
    second,
    hour,
    celsius,
    metre,
    squareMillimetre,
    gram,
    farad,
    degree,
    perHour,
    perSecond,
    kelvinPerWatt,
    voltPerKelvin,
    fraction,
    percent,
    money,
};

template <class T>
inline constexpr Unit unitOf = Unit::none;
template <>
inline constexpr Unit unitOf<Volts> = Unit::volt;
template <>
inline constexpr Unit unitOf<Amps> = Unit::ampere;
template <>
inline constexpr Unit unitOf<Ohms> = Unit::ohm;
template <>
inline constexpr Unit unitOf<Watts> = Unit::watt;
template <>
inline constexpr Unit unitOf<WattHours> = Unit::wattHour;
template <>
inline constexpr Unit unitOf<AmpHours> = Unit::ampereHour;
template <>
inline constexpr Unit unitOf<Seconds> = Unit::second;
template <>
inline constexpr Unit unitOf<Hours> = Unit::hour;
template <>
inline constexpr Unit unitOf<Celsius> = Unit::celsius;
template <>
inline constexpr Unit unitOf<Metres> = Unit::metre;
template <>
inline constexpr Unit unitOf<SquareMillimetres> = Unit::squareMillimetre;
template <>
inline constexpr Unit unitOf<Grams> = Unit::gram;
template <>
inline constexpr Unit unitOf<Farads> = Unit::farad;
template <>
inline constexpr Unit unitOf<Degrees> = Unit::degree;
template <>
inline constexpr Unit unitOf<PerHour> = Unit::perHour;
template <>
inline constexpr Unit unitOf<PerSecond> = Unit::perSecond;
template <>
inline constexpr Unit unitOf<KelvinPerWatt> = Unit::kelvinPerWatt;
template <>
inline constexpr Unit unitOf<VoltsPerKelvin> = Unit::voltPerKelvin;

} // namespace sipper
