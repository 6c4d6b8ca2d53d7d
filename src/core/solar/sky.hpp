// SPDX-License-Identifier: GPL-3.0-or-later
// Where the sun stands, what a clear sky gives, and what of the light on the level falls on a
// panel.
#pragma once

#include "solar/solarposition.hpp"

#include <array>
#include <cstddef>
#include <vector>

namespace sipper {

inline constexpr std::size_t kDaysAYear = 365;
inline constexpr std::size_t kHoursAYear = 8760;
inline constexpr std::size_t kSlotsAnHour = 6; ///< of 10 min; the light is constant over each
inline constexpr double kSolarConstant = 1367; ///< W/m2
inline constexpr double kAlbedo = 0.2;         ///< share of the light that the ground throws back

/// Share of the light on the level that comes from the whole sky, at an hour's clearness 0 to 1
/// (Erbs, Klein and Duffie 1982).
[[nodiscard]] double diffuseFraction(double clearness);

/// How a panel stands. Degrees; azimuth clockwise from north.
struct PanelOrientation {
    double latitude = 0;
    double tilt = 0;
    double azimuth = 180;
};

/// Light on a panel through one hour, slot by slot, W/m2. `hour` counts from 0 on 1 January;
/// `ghi` is the mean light on the level over it; `solarTimeOffset` hours are added to the clock
/// for solar time. Beam, diffuse and ground after Liu and Jordan (1960), see
/// (docs/model.md: Sun: weather and light).
class PlaneOfArray {
  public:
    PlaneOfArray(const PanelOrientation& facing, double clockShift);

    [[nodiscard]] std::array<double, kSlotsAnHour> through(std::size_t hour, double ghi) const;
    /// Light on the panel at one moment of a sky whose light on the level is known, all of the hour
    /// taken as that moment: for a noon reading.
    [[nodiscard]] double at(int day, double solarHour, double ghi) const;

  private:
    struct Sun {
        double sine;   ///< of the elevation
        double facing; ///< cosine of the angle to the panel's normal
    };
    [[nodiscard]] Sun sunAt(double declinationSine, double declinationCosine, double sine,
                            double cosine) const;
    [[nodiscard]] double onPanel(double beam, double diffuse, double ghi, const Sun& sun) const;

    double m_latSine;
    double m_latCosine;
    std::array<double, 3> m_normal;                  ///< east, north, up
    double m_sees;                                   ///< share of the sky that the panel sees
    double m_ground;                                 ///< share of the ground's light
    std::vector<std::array<double, 2>> m_hourAngles; ///< sine and cosine, by slot of the day
    std::vector<std::array<double, 2>> m_days;       ///< declination's, by day
};

} // namespace sipper
