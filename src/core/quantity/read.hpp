// SPDX-License-Identifier: GPL-3.0-or-later
// Reading what people type.
#pragma once

#include "base/outcome.hpp"
#include "quantity/units.hpp"

#include <string>
#include <string_view>

namespace sipper {

/// Reads a quantity as people write it: `3v3`, `4k7`, `2.2 mAh`, `150mA`, `0,35 mm2`, `22 AWG`,
/// `1h30`, `50F`, `10%`. A bare number takes the field's unit. The result is in the canonical unit
/// that `unit` names (fractions 0–1 for both `fraction` and `percent`). What can't be read without
/// guessing (`1,500`; a unit of another kind) is an error with code "quantity".
[[nodiscard]] Outcome<double> readQuantity(std::string_view text, Unit unit);

/// Cross-section of AWG `gauge`, from the diameter 0.127 mm x 92^((36-n)/39) (ASTM B258).
[[nodiscard]] SquareMillimetres areaOfAwg(double gauge);

/// What a field of this unit accepts, for messages and tooltips: `volts, such as 3.3 V or 3v3`.
[[nodiscard]] std::string expectedText(Unit unit);

} // namespace sipper
