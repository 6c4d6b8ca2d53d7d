// SPDX-License-Identifier: GPL-3.0-or-later
#include "protect/protect.hpp"

#include "project/tree.hpp"

namespace sipper {

std::optional<ProtectionAnalysis> analyseProtection(const Project& project, const Runtime& runtime,
                                                    const ObservedCurrents& seen,
                                                    const std::stop_token& stop,
                                                    const ParallelFor& pieces) {
    ProtectionAnalysis look;
    look.guards = guardsOf(project, runtime, seen.sweep ? seen.sweep->stop : std::nullopt, pieces);
    if (look.guards.empty() && project.pack() && !project.modes.empty()) {
        const std::size_t mode = modeIndex(project, runtime.ending.mode);
        look.pack = packCurve(project, mode == kNotFound ? project.baseMode() : mode);
    }
    if (stop.stop_requested())
        return std::nullopt;
    pieces(4, [&](std::size_t piece) {
        if (stop.stop_requested())
            return;
        if (piece == 0) {
            look.faults = faultsOf(project);
        } else if (piece == 1) {
            look.backfeeds = backfeedPaths(project);
            look.dividers = dividerPlaces(project);
        } else if (piece == 2) {
            look.segments = wireSegmentsOf(project, seen);
        } else {
            look.fuses = fuseWindows(project, seen);
        }
    });
    return stop.stop_requested() ? std::nullopt : std::optional(std::move(look));
}

} // namespace sipper
