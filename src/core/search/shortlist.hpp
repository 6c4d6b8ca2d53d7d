// SPDX-License-Identifier: GPL-3.0-or-later
// Which of what was kept is worth a look.
#pragma once

#include "search/search.hpp"

namespace sipper {

/// Those that no other beats or equals, the lightest first; of equals the first.
[[nodiscard]] std::vector<std::size_t> paretoFrontOf(const std::vector<Candidate>& kept);

/// Five of the Pareto front, each as far as can be from those before it, other kinds of cells
/// first. What runs many times as long as it has to is no help, where there are enough that don't.
/// `asked`: the hours that it has to run.
[[nodiscard]] std::vector<std::size_t> shortListOf(const std::vector<Candidate>& kept,
                                                   const std::vector<std::size_t>& whole,
                                                   double asked);

} // namespace sipper
