// SPDX-License-Identifier: GPL-3.0-or-later
// Preferred values of resistors (IEC 60063).
#pragma once

#include <span>
#include <string_view>
#include <vector>

namespace sipper {

/// The value of a standard series (E12, E24, E96; IEC 60063) at or over `ohms`, with a part in a
/// million of slack.
[[nodiscard]] double seriesAtOrOver(std::string_view series, double ohms);
/// The values of one decade, 1 to under 10; empty for an unknown series.
[[nodiscard]] std::span<const double> seriesDecade(std::string_view series);
/// All values of the series from 1 ohm to 10 Mohm, rising.
[[nodiscard]] std::vector<double> seriesValues(std::string_view series);

} // namespace sipper
