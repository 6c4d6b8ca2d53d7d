// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/eseries.hpp"

#include <array>
#include <cmath>
#include <limits>

namespace sipper {
namespace {

constexpr double kMinOhms = 1;
constexpr double kMaxOhms = 1e7;
constexpr double kSeriesSlack = 1e-6;

} // namespace

std::vector<double> seriesValues(std::string_view series) {
    std::vector<double> all;
    for (double decade = kMinOhms; decade <= kMaxOhms * 1.0001; decade *= 10)
        for (const double value : seriesDecade(series))
            if (value * decade <= kMaxOhms * (1 + 1e-9))
                all.push_back(value * decade);
    return all;
}

std::span<const double> seriesDecade(std::string_view series) {
    static constexpr std::array e12{1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2};
    static constexpr std::array e24{1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0,
                                    3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1};
    static const std::vector<double> e96 = [] {
        std::vector<double> values;
        for (int i = 0; i < 96; ++i) // IEC 60063: three digits of 10^(i/96)
            values.push_back(std::round(std::pow(10.0, i / 96.0) * 100) / 100);
        return values;
    }();
    if (series == "E12")
        return e12;
    if (series == "E24")
        return e24;
    if (series == "E96")
        return e96;
    return {};
}

double seriesAtOrOver(std::string_view series, double ohms) {
    if (!(ohms > 0) || !std::isfinite(ohms))
        return std::numeric_limits<double>::quiet_NaN();
    const double decade = std::pow(10.0, std::floor(std::log10(ohms)));
    for (const double step : {0.1, 1.0, 10.0})
        for (const double value : seriesDecade(series))
            if (value * decade * step >= ohms * (1 - kSeriesSlack))
                return value * decade * step;
    return std::numeric_limits<double>::quiet_NaN();
}

} // namespace sipper
