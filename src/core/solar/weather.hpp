// SPDX-License-Identifier: GPL-3.0-or-later
// The light and the air that a panel sees, hour by hour: from a CSV, an EPW file, or a seeded
// stand-in for a climate.
#pragma once

#include "base/outcome.hpp"
#include "solar/sky.hpp"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace sipper {

/// Whole years of hours from 1 January, without 29 February.
struct Weather {
    std::vector<float> ghi;     ///< W/m2 on the level, the mean over the hour that begins
    std::vector<float> air;     ///< degC through that hour; empty where nothing is known
    double solarTimeOffset = 0; ///< h to add to the clock for solar time
    std::optional<double> latitude;
    std::string says; ///< what it is: a file's name, or the stand-in with its seed
    bool syntheticWeather = false;
    [[nodiscard]] std::size_t years() const { return ghi.size() / kHoursAYear; }
};

/// CSV with a header that names `time`, `ghi_w_m2` and perhaps `air_c`, in any order; then 8760
/// rows from 01-01 00:00 (docs/model.md: Sun: weather and light). The error names the row, counted
/// from 1 with the header.
[[nodiscard]] Outcome<Weather> readWeatherCsv(std::string_view text, const std::string& name);
/// EPW: 8 lines of header, then 8760 rows. What is marked as missing is refused with its row.
[[nodiscard]] Outcome<Weather> readEpw(std::string_view text, const std::string& name);
/// Either, by its first line.
[[nodiscard]] Outcome<Weather> loadWeather(const std::filesystem::path& path);

/// Monthly figures of a climate, of our own making: no place on earth.
struct Climate {
    std::string id;
    std::string label;
    std::string says;                        ///< one line
    double latitude = 0;                     ///< that its months were thought for
    std::array<double, 12> clearnessIndex{}; ///< mean over the days, 0 to 1
    std::array<double, 12> spread{};         ///< of the days' clearness
    double persistence = 0;                  ///< of a day's clearness on the next, 0 to 1
    std::array<double, 12> air{};            ///< mean degC
    std::array<double, 12> swing{};          ///< K from mean to the warmest hour
    double airSpread = 0;                    ///< K of the days' means
};

/// The climates that ship (data/climates), by file name.
[[nodiscard]] Outcome<std::vector<Climate>> loadClimates();
/// The one of this id; empty: the one whose latitude is nearest. An unknown id is an Error that
/// lists them. In the south its months are half a year off.
[[nodiscard]] Outcome<Climate> climateOf(const std::optional<std::string>& id, double latitude);

/// Years of invented weather: daily clearness as a first-order autoregressive series about the
/// climate's months, wavering by the hour, the air warmer on clear days. The same seed gives the
/// same weather anywhere.
[[nodiscard]] Weather syntheticWeather(const Climate& climate, double latitude, std::uint64_t seed,
                                       std::size_t years);

/// Month 0 to 11 of a day 0 to 364.
[[nodiscard]] std::size_t monthOf(std::size_t day);
/// First day, 0 to 364, of a month 0 to 11; 365 for month 12.
[[nodiscard]] std::size_t firstDayOf(std::size_t month);

} // namespace sipper
