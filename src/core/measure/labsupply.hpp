// SPDX-License-Identifier: GPL-3.0-or-later
// A bench supply in the cells' place: what to set before it is switched on, and what the line would
// not survive.
#pragma once

#include "line/unloaded.hpp"
#include "measure/checks.hpp"

namespace sipper {

/// V and A that a supply is set to before the line hangs on it.
struct LabSupplySetting {
    double volts = 0; ///< of the resting pack as the checks take it
    double amps = 0;  ///< a quarter over the most that any check expects of it, 50 mA at the least
};

/// What stands in for the pack; nothing without a pack, or where nothing is expected of it.
[[nodiscard]] std::optional<LabSupplySetting> benchSupplyFor(const Project& project,
                                                             const BenchAnalysis& look);

/// The first of what hangs on the cells, with no regulator between, that so many volts would kill:
/// its never-above is passed. Nothing where all bear them, or where no limit is said.
[[nodiscard]] std::optional<Excess> firstDamagedBy(const Project& project, double volts);

} // namespace sipper
