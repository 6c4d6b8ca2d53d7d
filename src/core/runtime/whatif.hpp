// SPDX-License-Identifier: GPL-3.0-or-later
// The same supply in other air and at another age.
#pragma once

#include "base/parallelfor.hpp"
#include "runtime/runtime.hpp"

#include <array>
#include <stop_token>

namespace sipper {

/// Degrees Celsius at which a run is shown side by side.
inline constexpr std::array kFiveAirs{-10.0, 0.0, 10.0, 25.0, 40.0};

struct WhatIf {
    double airC = 25;
    double health = 1;
    std::optional<Runtime> other; ///< at that air and age; nothing where it is as planned
    std::vector<Runtime> five;    ///< at `kFiveAirs`, as old as planned; empty unless asked for
};

/// Nothing when `stop` was asked for. Needs a pack.
[[nodiscard]] std::optional<WhatIf> whatIf(const Project& project, double airC, double health,
                                           bool five, const std::stop_token& stop = {},
                                           const ParallelFor& parallelFor = serialFor);

} // namespace sipper
