// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/load.hpp"

#include <cmath>
#include <fmt/format.h>

namespace sipper {

std::optional<int> clockMinutes(std::string_view text) {
    if (text.size() != 5 || text[2] != ':')
        return std::nullopt;
    for (const std::size_t i : {0U, 1U, 3U, 4U})
        if (text[i] < '0' || text[i] > '9')
            return std::nullopt;
    const int hours = (text[0] - '0') * 10 + text[1] - '0';
    const int minutes = (text[3] - '0') * 10 + text[4] - '0';
    if (hours > 24 || minutes > 59 || (hours == 24 && minutes > 0))
        return std::nullopt;
    return hours * 60 + minutes;
}

std::string clockText(double minutes) {
    const int whole = static_cast<int>(std::lround(std::fmod(minutes, 1440.0)));
    const int day = ((whole % 1440) + 1440) % 1440;
    return fmt::format("{:02}:{:02}", day / 60, day % 60);
}

double toleranceOfBasis(Basis basis) {
    switch (basis) {
    case Basis::measured:
        return 0.05;
    case Basis::dataSheet:
        return 0.15;
    case Basis::guess:
        break;
    }
    return 0.40;
}

double Draw::relativeTolerance() const {
    return tolerance ? *tolerance : toleranceOfBasis(basis.value_or(Basis::guess));
}

std::string nameOf(const Load& load) {
    return load.label.empty() ? load.id : load.label;
}
std::string nameOf(const Mode& mode) {
    return mode.label.empty() ? mode.id : mode.label;
}

} // namespace sipper
