// SPDX-License-Identifier: GPL-3.0-or-later
// A draw that makes a mode take a wanted current from the cells.
#pragma once

#include "runtime/budget.hpp"

namespace sipper {

/// The load that draws most in the mode by the budget; the first one where none draws.
[[nodiscard]] std::size_t greatestLoad(const Budget& budget, std::size_t mode);

/// The project with the load's draw in the mode, current, power or resistance as it was, such that
/// the mode takes `wanted` from the cells (a day's budget, bursts included), to three digits. Where
/// the others take more than that already, the draw is 0; where the supply can't carry it, the most
/// that it can. Basis: guess, for a hand moved it. Unchanged without a pack.
[[nodiscard]] Project withModeCurrent(const Project& project, std::size_t load, std::size_t mode,
                                      Amps wanted);

} // namespace sipper
