// SPDX-License-Identifier: GPL-3.0-or-later
// The same thing read several times on the cells and on the new supply: is there a difference that
// this meter can see?
#pragma once

#include "project/project.hpp"

#include <optional>
#include <vector>

namespace sipper {

/// Readings of one thing, in its unit; kept with the project (`x-pairs`).
struct ReadingPair {
    std::string what;
    std::string unit; ///< as typed: `V`, `mV`, `dB`
    std::vector<double> cells;
    std::vector<double> supply;
    double resolution = 0; ///< the meter's last digit, in the unit
    bool operator==(const ReadingPair&) const = default;
};

struct PairVerdict {
    double cells = 0; ///< means
    double supply = 0;
    double difference = 0; ///< supply less cells
    double seen = 0;       ///< from here on the meter can tell: two standard deviations
    bool differs = false;
    bool enough = false; ///< two readings a side at least
    std::string says;
};

/// The difference of the means against twice its standard deviation: the spread of either side over
/// its count (Welch), and the last digit twice as a rectangle (JCGM 100:2008, 4.3.7).
[[nodiscard]] PairVerdict judge(const ReadingPair& pair);

[[nodiscard]] std::vector<ReadingPair> pairsOf(const Project& project);
[[nodiscard]] Project withPairs(const Project& project, const std::vector<ReadingPair>& pairs);

/// Figures as people type several: `3.31 3.32; 3.30`. What is no figure is named in the error.
[[nodiscard]] Outcome<std::vector<double>> figuresIn(std::string_view text);

} // namespace sipper
