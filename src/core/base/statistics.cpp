// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/statistics.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>

namespace sipper {

std::vector<double> latinHypercube(std::mt19937& random, std::size_t count) {
    constexpr double kRandomRange = 4294967296.0;
    std::vector<std::size_t> strata(count);
    for (std::size_t i = 0; i < count; ++i)
        strata[i] = i;
    for (std::size_t i = count; i > 1; --i)
        std::swap(strata[i - 1], strata[random() % i]);
    std::vector<double> values(count);
    for (std::size_t i = 0; i < count; ++i) {
        const double inside = (static_cast<double>(random()) + 0.5) / kRandomRange;
        values[i] = (static_cast<double>(strata[i]) + inside) / static_cast<double>(count);
    }
    return values;
}

double median(std::vector<double> list) {
    if (list.empty())
        return 0;
    std::sort(list.begin(), list.end());
    const std::size_t half = list.size() / 2;
    return list.size() % 2 == 1 ? list[half] : (list[half - 1] + list[half]) / 2;
}

double quantile(const std::vector<double>& sorted, double share) {
    assert(!sorted.empty());
    const double at = share * static_cast<double>(sorted.size() - 1);
    const auto below = static_cast<std::size_t>(at);
    const std::size_t above = std::min(below + 1, sorted.size() - 1);
    return sorted[below] + (at - std::floor(at)) * (sorted[above] - sorted[below]);
}

} // namespace sipper
