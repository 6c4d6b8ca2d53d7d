// SPDX-License-Identifier: GPL-3.0-or-later
// Items that want to stand close together, moved apart.
#pragma once

#include <vector>

namespace sipper::app {

/// The least-moved places for items that want to stand at `wanted`, in order, each `heights` tall,
/// between top and bottom (pool adjacent violators).
[[nodiscard]] std::vector<double> placeWithoutOverlap(const std::vector<double>& wanted,
                                                      const std::vector<double>& heights,
                                                      double top, double bottom);

} // namespace sipper::app
