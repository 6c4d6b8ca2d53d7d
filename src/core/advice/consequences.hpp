// SPDX-License-Identifier: GPL-3.0-or-later
// What follows from each answer of the brief, worked out from the project.
#pragma once

#include "advice/advice.hpp"

namespace sipper {

struct Consequence {
    std::string about; ///< key of the answer: setting, target_runtime_h, ambient_c, …
    std::string title;
    std::string says;
};

/// One for each answer that has a consequence in this project. Runs the project at the coldest and
/// warmest air and at each school's cut-off, so it belongs into the background. Stops early when
/// asked.
[[nodiscard]] std::vector<Consequence>
consequencesOf(const Project& project, const Runtime& runtime,
               const std::optional<RuntimeUncertainty>& range, const std::stop_token& stop = {});

} // namespace sipper
