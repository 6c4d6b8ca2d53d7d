// SPDX-License-Identifier: GPL-3.0-or-later
#include "protect/protect.hpp"

#include "project/tree.hpp"

namespace sipper {

std::optional<ProtectionAnalysis> analyseProtection(const Project& project, const Runtime& runtime,
                                                    const ObservedCurrents& seen,
                                                    const std::stop_token& stop) {
    ProtectionAnalysis look;
    look.guards = guardsOf(project, runtime, seen.sweep ? seen.sweep->stop : std::nullopt);
    if (look.guards.empty() && project.pack() && !project.modes.empty()) {
        const std::size_t mode = modeIndex(project, runtime.ending.mode);
        look.pack = packCurve(project, mode == kNotFound ? project.baseMode() : mode);
    }
    if (stop.stop_requested())
        return std::nullopt;
    look.fuses = fuseWindows(project, seen);
    look.segments = wireSegmentsOf(project, seen);
    look.faults = faultsOf(project);
    if (stop.stop_requested())
        return std::nullopt;
    look.backfeeds = backfeedPaths(project);
    look.dividers = dividerPlaces(project);
    return look;
}

} // namespace sipper
