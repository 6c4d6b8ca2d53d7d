// SPDX-License-Identifier: GPL-3.0-or-later
// What the name of a cell's size says of its body.
#pragma once

#include "parts/cell.hpp"

#include <array>
#include <optional>
#include <string_view>

namespace sipper {

struct CellDimensions {
    double volume;               ///< m3
    double area;                 ///< m2, of the whole surface
    std::array<double, 3> block; ///< mm, of the box around it
};

/// Known names (`AA`, `AAA`, `C`, `D`, `9V`, `CR123A`, `1/2 AA`), five digits of a round cell
/// (`18650`: 18 mm by 65.0 mm), `CR2032` and its like (20 mm by 3.2 mm), and a flat one in tenths
/// and whole millimetres as pouches are named (`pouch 503450`: 5.0 by 34 by 50 mm). Nothing for
/// anything else.
[[nodiscard]] std::optional<CellDimensions> cellDimensions(std::string_view size);

/// The most that a cell of this size and chemistry has been made to hold, in Ah, from its volume
/// and the best energy density of its chemistry (rule of thumb, watt-hours a litre, with a tenth in
/// hand). Nothing where the size or the chemistry says nothing.
[[nodiscard]] std::optional<double> mostCapacity(const Cell& cell);

} // namespace sipper
