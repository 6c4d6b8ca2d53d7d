// SPDX-License-Identifier: GPL-3.0-or-later
#include "solar/sky.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace sipper {
namespace {

constexpr double kRad = std::numbers::pi / 180;
constexpr double kLowSun = 0.05; ///< sine under which the beam is capped, 2.9 degrees

double extraterrestrial(int day) {
    return kSolarConstant * (1 + 0.033 * std::cos(kRad * 360 * day / 365.0));
}

} // namespace

double diffuseFraction(double kt) {
    if (kt <= 0.22)
        return 1 - 0.09 * kt;
    if (kt <= 0.80)
        return 0.9511 + kt * (-0.1604 + kt * (4.388 + kt * (-16.638 + kt * 12.336)));
    return 0.165;
}

PlaneOfArray::PlaneOfArray(const PanelOrientation& f, double clockShift)
    : m_latSine(std::sin(kRad * f.latitude)), m_latCosine(std::cos(kRad * f.latitude)),
      m_normal{std::sin(kRad * f.tilt) * std::sin(kRad * f.azimuth),
               std::sin(kRad * f.tilt) * std::cos(kRad * f.azimuth), std::cos(kRad * f.tilt)},
      m_sees((1 + std::cos(kRad * f.tilt)) / 2),
      m_ground(kAlbedo * (1 - std::cos(kRad * f.tilt)) / 2) {
    const std::size_t slots = 24 * kSlotsAnHour;
    for (std::size_t k = 0; k < slots; ++k) {
        const double hour =
            (static_cast<double>(k) + 0.5) / static_cast<double>(kSlotsAnHour) + clockShift;
        const double angle = kRad * 15 * (hour - 12);
        m_hourAngles.push_back({std::sin(angle), std::cos(angle)});
    }
    for (std::size_t day = 1; day <= kDaysAYear; ++day) {
        const double declination = declinationOf(static_cast<int>(day));
        m_days.push_back({std::sin(declination), std::cos(declination)});
    }
}

PlaneOfArray::Sun PlaneOfArray::sunAt(double decSine, double decCosine, double sine,
                                      double cosine) const {
    const double up = m_latSine * decSine + m_latCosine * decCosine * cosine;
    const double north = m_latCosine * decSine - m_latSine * decCosine * cosine;
    const double east = -decCosine * sine;
    return {up, m_normal[0] * east + m_normal[1] * north + m_normal[2] * up};
}

double PlaneOfArray::onPanel(double beam, double diffuse, double ghi, const Sun& sun) const {
    return (sun.sine > 0 ? beam * std::max(0.0, sun.facing) : 0) + diffuse * m_sees +
           m_ground * ghi;
}

std::array<double, kSlotsAnHour> PlaneOfArray::through(std::size_t hour, double ghi) const {
    std::array<double, kSlotsAnHour> light{};
    if (ghi <= 0)
        return light;
    const std::size_t day = hour / 24;
    const std::size_t first = hour % 24 * kSlotsAnHour;
    std::array<Sun, kSlotsAnHour> suns{};
    double mean = 0;
    for (std::size_t j = 0; j < kSlotsAnHour; ++j) {
        const auto& [sine, cosine] = m_hourAngles[first + j];
        suns[j] = sunAt(m_days[day][0], m_days[day][1], sine, cosine);
        suns[j].sine = std::max(0.0, suns[j].sine);
        mean += suns[j].sine / static_cast<double>(kSlotsAnHour);
    }
    if (mean <= 0) { // twilight: all of it from the whole sky
        light.fill(onPanel(0, ghi, ghi, {0, 0}));
        return light;
    }
    const double clearness =
        std::min(1.0, ghi / (extraterrestrial(static_cast<int>(day) + 1) * mean));
    const double beam = (1 - diffuseFraction(clearness)) * ghi / std::max(mean, kLowSun);
    for (std::size_t j = 0; j < kSlotsAnHour; ++j) {
        const double here = ghi * suns[j].sine / mean;
        light[j] = onPanel(beam, here - beam * suns[j].sine, here, suns[j]);
    }
    return light;
}

double PlaneOfArray::at(int day, double solarHour, double ghi) const {
    const double angle = kRad * 15 * (solarHour - 12);
    const double declination = declinationOf(day);
    const Sun sun =
        sunAt(std::sin(declination), std::cos(declination), std::sin(angle), std::cos(angle));
    if (ghi <= 0 || sun.sine <= 0)
        return ghi > 0 ? onPanel(0, ghi, ghi, {0, 0}) : 0;
    const double clearness = std::min(1.0, ghi / (extraterrestrial(day) * sun.sine));
    const double beam = (1 - diffuseFraction(clearness)) * ghi / std::max(sun.sine, kLowSun);
    return onPanel(beam, ghi - beam * sun.sine, ghi, sun);
}

} // namespace sipper
