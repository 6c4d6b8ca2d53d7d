// SPDX-License-Identifier: GPL-3.0-or-later
// The energy budget of an average day: what each load and mode draws, and what that asks of the
// cells.
#pragma once

#include "line/line.hpp"

namespace sipper {

/// One mode over a day.
struct ModeBudget {
    double secondsPerDay = 0;
    double packAmps = 0; ///< while in the mode, bursts' energy included
    double packWatts = 0;
    double burstAmps = 0; ///< at the pack with all bursts together; 0 when there are none
    double ahPerDay = 0;  ///< at the pack
    double whPerDay = 0;
    double shareOfCharge = 0; ///< of the pack's charge, 0–1
};

/// A day at half charge, wells level, typical air; without a pack, from the first of the other
/// sources at its typical voltage. Modes in which the supply collapses count as nothing and are
/// named.
struct Budget {
    double meanAmps = 0; ///< at the pack
    double meanWatts = 0;
    double ahPerDay = 0;
    double whPerDay = 0;
    std::vector<ModeBudget> modes;                     ///< in the project's order
    std::vector<double> loadWhPerDay;                  ///< delivered to each load
    std::vector<double> loadShare;                     ///< of what is delivered, 0–1
    std::vector<std::vector<double>> loadModeWhPerDay; ///< by load, by mode
    std::vector<std::size_t> collapsed;                ///< modes
};

inline constexpr double kBudgetCharge = 0.5;

[[nodiscard]] Budget budgetOf(const Project& project);

} // namespace sipper
