// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/cellsize.hpp"

#include "parts/chemistry.hpp"

#include <algorithm>
#include <array>
#include <numbers>
#include <string>

namespace sipper {
namespace {

constexpr double kInHand = 1.1;

CellDimensions round(double diameterMm, double lengthMm) {
    const double r = diameterMm / 2000;
    const double l = lengthMm / 1000;
    return {std::numbers::pi * r * r * l,
            2 * std::numbers::pi * r * (r + l),
            {diameterMm, diameterMm, lengthMm}};
}
CellDimensions box(double a, double b, double c) {
    return {a * b * c * 1e-9, 2 * (a * b + b * c + a * c) * 1e-6, {a, b, c}};
}

struct Named {
    std::string_view name;
    CellDimensions body;
};

/// Watt-hours a litre: the best that has been made.
double density(Chemistry c) {
    switch (c) {
    case Chemistry::nickelCobalt:
        return 760;
    case Chemistry::cobalt:
        return 700;
    case Chemistry::manganese:
        return 520;
    case Chemistry::ironPhosphate:
        return 380;
    case Chemistry::titanate:
        return 200;
    case Chemistry::nickelMetalHydride:
        return 440;
    case Chemistry::nickelCadmium:
        return 180;
    case Chemistry::leadAcid:
        return 110;
    case Chemistry::alkaline:
        return 560;
    case Chemistry::zincCarbon:
        return 240;
    case Chemistry::ironDisulphide:
        return 650;
    case Chemistry::manganeseDioxide:
        return 900;
    case Chemistry::thionylChloride:
        return 1300;
    case Chemistry::other:
        return 0;
    }
    return 0;
}

std::optional<int> digits(std::string_view text) {
    if (text.empty() || text.size() > 7 ||
        !std::all_of(text.begin(), text.end(), [](char c) { return c >= '0' && c <= '9'; }))
        return std::nullopt;
    return std::stoi(std::string(text));
}

/// A body with no thickness is none.
std::optional<CellDimensions> solid(const CellDimensions& body) {
    return body.volume > 0 ? std::optional(body) : std::nullopt;
}

} // namespace

std::optional<CellDimensions> cellDimensions(std::string_view size) {
    static const std::array known{
        Named{"AA", round(14.5, 50.5)},     Named{"AAA", round(10.5, 44.5)},
        Named{"C", round(26.2, 50)},        Named{"D", round(34.2, 61.5)},
        Named{"9V", box(26.5, 17.5, 48.5)}, Named{"CR123A", round(17, 34.5)},
        Named{"1/2 AA", round(14.5, 25)},   Named{"CR2", round(15.6, 27)}};
    const auto found =
        std::find_if(known.begin(), known.end(), [&](const Named& n) { return n.name == size; });
    if (found != known.end())
        return found->body;
    if (size.starts_with("CR")) {
        const auto n = digits(size.substr(2));
        if (!n || size.size() != 6)
            return std::nullopt;
        return solid(round(*n / 100, *n % 100 / 10.0));
    }
    if (size.starts_with("pouch ")) {
        const auto n = digits(size.substr(6));
        if (!n || size.size() < 12)
            return std::nullopt;
        // Six digits, or seven where the thickness takes three: tenths of a millimetre first.
        return solid(box(*n / 10000 / 10.0, *n / 100 % 100, *n % 100));
    }
    const auto n = digits(size);
    if (!n || size.size() != 5)
        return std::nullopt;
    return solid(round(*n / 1000, *n % 1000 / 10.0));
}

std::optional<double> mostCapacity(const Cell& cell) {
    const auto body = cellDimensions(cell.size);
    const double wattHours = density(cell.chemistry);
    const double nominal = nominalOf(cell);
    if (!body || wattHours <= 0 || nominal <= 0)
        return std::nullopt;
    return body->volume * 1000 * wattHours * kInHand / nominal;
}

} // namespace sipper
