// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/labelplacing.hpp"

#include <algorithm>
#include <cstddef>

namespace sipper::app {

std::vector<double> placeWithoutOverlap(const std::vector<double>& wanted,
                                        const std::vector<double>& heights, double top,
                                        double bottom) {
    const std::size_t n = wanted.size();
    if (n == 0)
        return {};
    // With offsets taken off, neighbours that keep clear are a rising sequence: isotonic
    // regression.
    std::vector<double> offset(n, heights[0] / 2);
    for (std::size_t i = 1; i < n; ++i)
        offset[i] = offset[i - 1] + (heights[i - 1] + heights[i]) / 2;
    struct Block {
        double sum;
        std::size_t count;
        [[nodiscard]] double mean() const { return sum / static_cast<double>(count); }
    };
    std::vector<Block> blocks;
    for (std::size_t i = 0; i < n; ++i) {
        blocks.push_back({wanted[i] - offset[i], 1});
        while (blocks.size() > 1 && blocks[blocks.size() - 2].mean() > blocks.back().mean()) {
            const Block last = blocks.back();
            blocks.pop_back();
            blocks.back().sum += last.sum;
            blocks.back().count += last.count;
        }
    }
    const double total = offset.back() + heights.back() / 2;
    const double most = std::max(top, bottom - total);
    std::vector<double> ys;
    for (const Block& b : blocks)
        for (std::size_t k = 0; k < b.count; ++k)
            ys.push_back(std::clamp(b.mean(), top, most) + offset[ys.size()]);
    return ys;
}

} // namespace sipper::app
