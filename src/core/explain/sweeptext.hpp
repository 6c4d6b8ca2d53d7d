// SPDX-License-Identifier: GPL-3.0-or-later
// A sweep as files and terminals have it.
#pragma once

#include "explain/sweep.hpp"
#include "sheet/drawing.hpp"

namespace sipper {

/// A row a point: `x`, the end, and the figures that were worked out.
[[nodiscard]] std::string sweepCsv(const Sweep& sweep, const std::set<SweepKey>& keys);
/// Hours over the field, its present value and the breaks as upright lines. `logarithmic`: the axis
/// of the field.
[[nodiscard]] Drawing sweepDrawing(const Sweep& sweep, bool logarithmic);
/// `end at 187 mA: Guard opens, then Logic gets too little`.
[[nodiscard]] std::string breakText(const FieldPlace& field, const SweepBreak& one);
/// One figure of a point; nothing where there is none.
[[nodiscard]] std::optional<double> figureOf(const SweepPoint& point, SweepKey key);

} // namespace sipper
