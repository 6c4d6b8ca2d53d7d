// SPDX-License-Identifier: GPL-3.0-or-later
#include "solar/solarposition.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace sipper {
namespace {

constexpr double kDegree = std::numbers::pi / 180;

} // namespace

double declinationOf(double day) {
    return kDegree * 23.45 * std::sin(kDegree * 360.0 * (284 + day) / 365.0);
}

double sinElevation(double latitude, double day, double hour) {
    const double declination = declinationOf(day);
    return std::sin(kDegree * latitude) * std::sin(declination) +
           std::cos(kDegree * latitude) * std::cos(declination) *
               std::cos(kDegree * 15 * (hour - 12));
}

double clearSkyGhi(double sine) {
    return sine > 0 ? 1098 * sine * std::exp(-0.059 / sine) : 0;
}

double dayLength(double latitudeDegrees, int day) {
    const double x = -std::tan(latitudeDegrees * kDegree) * std::tan(declinationOf(day));
    return 2.0 / 15.0 * std::acos(std::clamp(x, -1.0, 1.0)) / kDegree;
}

} // namespace sipper
