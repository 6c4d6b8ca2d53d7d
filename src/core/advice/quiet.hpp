// SPDX-License-Identifier: GPL-3.0-or-later
// The schools of feeding what dislikes switching noise, each as a project.
#pragma once

#include "project/project.hpp"

namespace sipper {

struct NoiseRemedy {
    std::string name; ///< `a filter`, `a linear regulator after it`, `the cells direct`
    Project project;
};

/// A small filter for what dislikes switching noise, as a stage with an id free in `project`: a
/// choke and a capacitor, 0.2 ohm.
[[nodiscard]] Stage noiseFilter(const Project& project, const Load& load);

/// What could be done for a load that hangs on a switching regulator: a filter; a linear regulator
/// after it, with the switching one raised by the drop-out; a linear one in its place, where the
/// cells are high enough; the cells direct, where the load accepts them. Empty where nothing
/// switches before the load.
[[nodiscard]] std::vector<NoiseRemedy> quietWays(const Project& project, std::string_view load);

} // namespace sipper
