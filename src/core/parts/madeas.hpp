// SPDX-License-Identifier: GPL-3.0-or-later
// What a part can be set to, and what a guard is made for: what limits proposals, and no solve.
#pragma once

#include "parts/stage.hpp"

#include <optional>

namespace sipper {

/// Volts between which a part can be set: set-point, cut-off, charge or adapter voltage.
struct SetRange {
    double least = 0;
    double most = 0;
    [[nodiscard]] bool holds(double volts) const;
};
/// Nothing where the part states none. One that is not adjustable is for what it states alone.
[[nodiscard]] std::optional<SetRange> setRangeOf(const Part& part);

/// The volts that the range is of: 0 where it has none.
[[nodiscard]] double setVoltsOf(const Part& part);

/// Does it hold the current of light strings in place of volts?
[[nodiscard]] bool regulatesCurrent(const Part& part);

/// Is the guard made for this pack: its chemistry, its cells in series, its volts when full? What
/// it does not state does not count.
[[nodiscard]] bool guardMadeFor(const Guard& guard, const Pack& pack);

/// Volts of a full pack, as the cell states them, else fresh by its chemistry.
[[nodiscard]] double fullPackVolts(const Pack& pack);

} // namespace sipper
