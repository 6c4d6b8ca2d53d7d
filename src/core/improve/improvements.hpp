// SPDX-License-Identifier: GPL-3.0-or-later
// What would change the runtime most: every adjustable thing moved by one natural step.
#pragma once

#include "improve/swaps.hpp"

namespace sipper {

/// A step as an edit of the project that it was found for.
using ImprovementStep = std::function<void(Project&)>;

struct Improvement {
    std::string subject;  ///< id of the stage, load or mode
    std::string name;     ///< of the edit: `one more in parallel`
    bool builds = true;   ///< another part or setting; false: another use, or a part that is wished
    ImprovementStep step; ///< empty for a pair
    Project project;      ///< with the step taken
    double hours = 0;
    double gainHours = 0;
    double gramsMore = 0;
    double priceMore = 0;
};

/// Which of them: all, or only other parts and settings, not another use.
enum class ImprovementScope { all, builds };

/// All improvements, really solved, by hours gained: a cell more in parallel, in series, the next
/// larger cell of its size; the cut-off 0.1 V a cell down; the base draw of a load halved; a
/// repeating mode half as often; a daily window a quarter shorter; a regulator's own use halved,
/// and the library's best in its place; a lead one size thicker; a diode as a FET. What would break
/// a window or a part's limit is left out. `each` hears of every one as it is solved. Empty when
/// asked to stop.
[[nodiscard]] std::vector<Improvement>
improvementsOf(const Project& project, const Library& library, const std::stop_token& stop = {},
               const std::function<void(const Improvement&)>& each = {},
               ImprovementScope scope = ImprovementScope::all);

/// The pairs of the best three, both steps taken, by hours gained.
[[nodiscard]] std::vector<Improvement> improvementPairs(const Project& project,
                                                        const std::vector<Improvement>& levers);

} // namespace sipper
