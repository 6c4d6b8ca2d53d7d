// SPDX-License-Identifier: GPL-3.0-or-later
// What people reckon by hand, and why it differs from the run.
#pragma once

#include "runtime/budget.hpp"
#include "runtime/runtime.hpp"

namespace sipper {

struct EnvelopeTerm {
    std::string
        key; ///< cold_and_age, left_in_pack, pack_loss, self_discharge, the id of a stage, …
    std::string words; ///< `cut-off: charge left in the cells`
    double hours = 0;  ///< what it takes from the rule's figure; negative where it gives
};

/// One rule of thumb: its figure less all its terms is the run's.
struct HandEstimate {
    std::string rule;    ///< capacity_over_current, energy_over_power, moved_capacity
    std::string formula; ///< with the numbers in it
    double hours = 0;
    std::vector<EnvelopeTerm> terms;
};

inline constexpr double kFlatEfficiency = 0.9; ///< of the third rule, one for everything

/// Rated capacity over mean current; rated watt-hours over the loads' watts; rated capacity moved
/// from cell voltage to output voltage, times a flat 0.9, over the output current. Empty where the
/// run has no hours.
[[nodiscard]] std::vector<HandEstimate> handEstimates(const Project& project,
                                                      const Runtime& runtime, const Budget& budget);

} // namespace sipper
