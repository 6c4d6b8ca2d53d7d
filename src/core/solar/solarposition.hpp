// SPDX-License-Identifier: GPL-3.0-or-later
// How high the sun stands, and what a clear sky gives.
#pragma once

namespace sipper {

/// Sun's declination in radians on day 1 to 365 (Cooper 1969).
[[nodiscard]] double declinationOf(double day);
/// Sine of the sun's elevation at a latitude in degrees; `hour` is solar time, 12 at its highest.
[[nodiscard]] double sinElevation(double latitude, double day, double hour);
/// W/m2 of a clear sky on the level; 0 under the horizon (Haurwitz 1945).
[[nodiscard]] double clearSkyGhi(double sine);

/// Hours from sunrise to sunset (declination after Cooper 1969), day of the year 1–365.
[[nodiscard]] double dayLength(double latitudeDegrees, int day);

} // namespace sipper
