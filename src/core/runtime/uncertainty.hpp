// SPDX-License-Identifier: GPL-3.0-or-later
// How far the runtime may be off.
#pragma once

#include "base/parallelfor.hpp"
#include "runtime/runtime.hpp"

#include <stop_token>

namespace sipper {

/// Hours that one build in ten, one in two and nine in ten stay under.
struct RuntimeQuantiles {
    double p10 = 0;
    double p50 = 0;
    double p90 = 0;
};

/// One uncertain thing, moved to its two ends with everything else as usual.
struct Sensitivity {
    std::string about;
    double low = 0;  ///< hours at the end that shortens the run
    double high = 0; ///< hours at the end that lengthens it
};

/// Pack voltage that one build in ten stays under, and nine in ten, at one time. A build that has
/// ended counts with the voltage at which it ended.
struct VoltageQuantiles {
    double hours = 0;
    double low = 0;
    double high = 0;
};

struct RuntimeUncertainty {
    RuntimeQuantiles range;
    std::vector<VoltageQuantiles> band;     ///< from the start until nine builds in ten have ended
    std::vector<double> hours;              ///< of every build tried, ascending
    std::vector<Sensitivity> sensitivities; ///< widest first
};

/// A spread with two humps: some builds are caught by what others get past (a window, a night).
struct Bimodality {
    double low = 0;   ///< h, the median of those that end early
    double high = 0;  ///< h, of those that get past
    double share = 0; ///< of the builds that get past
};
/// Two humps where a gap in the hours is wider than a fifth of the median, the middle half of
/// either side is closer together than that, and a tenth of the builds or more lie on each side.
[[nodiscard]] std::optional<Bimodality> humpsOf(const RuntimeUncertainty& range);

inline constexpr int kSamples = 400;

/// Capacity, resistance, conversion losses, each load's draw and the ambient vary together inside
/// their tolerances: a Latin hypercube of `builds` runs with a fixed seed (McKay, Beckman and
/// Conover 1979), uniform inside a tolerance, triangular from the coldest over the typical to the
/// warmest air. Deterministic on any number of threads. Nothing when the typical run has no hours,
/// or when `stop` was asked for.
[[nodiscard]] std::optional<RuntimeUncertainty>
predictRange(const Project& project, const Runtime& typical, const std::stop_token& stop = {},
             int builds = kSamples, const ParallelFor& parallelFor = twoThreadFor);

} // namespace sipper
