// SPDX-License-Identifier: GPL-3.0-or-later
// All that is known of a project's protection, in one look.
#pragma once

#include "protect/backfeed.hpp"
#include "protect/currents.hpp"
#include "protect/dividers.hpp"
#include "protect/faults.hpp"
#include "protect/rebound.hpp"

#include <stop_token>

namespace sipper {

struct ProtectionAnalysis {
    std::vector<GuardAnalysis> guards;
    std::vector<GuardPoint> pack; ///< at the pack, where there is no guard
    std::vector<FuseWindow> fuses;
    std::vector<WireSegment> segments;
    FaultMatrix faults;
    std::vector<BackfeedPath> backfeeds;
    std::vector<DividerPlace> dividers;
};
/// Everything of this folder for one project; nothing when `stop` was asked for. `seen` without
/// a sweep: no cells. `pieces` shares out what does not wait for each other.
[[nodiscard]] std::optional<ProtectionAnalysis>
analyseProtection(const Project& project, const Runtime& runtime, const ObservedCurrents& seen,
                  const std::stop_token& stop = {}, const ParallelFor& pieces = serialFor);

} // namespace sipper
