// SPDX-License-Identifier: GPL-3.0-or-later
// Several supplies side by side.
#pragma once

#include "advice/advice.hpp"
#include "project/differences.hpp"

namespace sipper {

/// What one supply comes to: the figures by which people choose.
struct EvaluatedVariant {
    std::string name; ///< of the variant
    Project project;
    Runtime runtime;
    std::optional<RuntimeQuantiles> range;
    double grams = 0;
    double price = 0;
    double deliveredShare = 0; ///< of the nameplate, to the loads
    double allowedAmps = 0;    ///< of the pack, by its cells' label; 0 where not known
    std::string hottest;       ///< id of the stage that gets warmest; may be empty
    double hottestC = 0;       ///< in the warmest air
    std::vector<ExternalLoad> externalLoads;
    std::vector<Finding> findings;
    [[nodiscard]] int count(Severity severity) const;
};

/// Runtime, range, heat and advice of one supply. Nothing when `stop` was asked for.
[[nodiscard]] std::optional<EvaluatedVariant>
evaluateVariant(const Project& project, const std::stop_token& stop = {}, int builds = kSamples,
                const ParallelFor& parallelFor = twoThreadFor);

struct Comparison {
    std::vector<EvaluatedVariant> variants;
    std::vector<Difference> differences;
};

/// The variants of these numbers; all of them where `numbers` is empty. Nothing when `stop` was
/// asked for.
[[nodiscard]] std::optional<Comparison>
compareVariants(const Project& document, std::vector<std::size_t> numbers = {},
                const std::stop_token& stop = {}, const ParallelFor& parallelFor = twoThreadFor);

} // namespace sipper
