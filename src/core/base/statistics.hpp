// SPDX-License-Identifier: GPL-3.0-or-later
// Sampling and order statistics.
#pragma once

#include <random>
#include <vector>

namespace sipper {

/// One input of a Latin hypercube (McKay, Beckman and Conover 1979): a value in [0, 1) for each
/// sample, in each of `count` equal strata exactly one, in random order.
[[nodiscard]] std::vector<double> latinHypercube(std::mt19937& random, std::size_t count);

/// The middle of a list, or half way between its two middle ones; 0 of an empty list.
[[nodiscard]] double median(std::vector<double> list);

/// The quantile of a sorted list, linear between order statistics (Hyndman and Fan 1996, type 7).
/// `share` from 0 to 1; the list must not be empty.
[[nodiscard]] double quantile(const std::vector<double>& sorted, double share);

} // namespace sipper
