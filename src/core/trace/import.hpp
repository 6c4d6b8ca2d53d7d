// SPDX-License-Identifier: GPL-3.0-or-later
// A cut trace as the modes and draws of a project.
#pragma once

#include "project/project.hpp"
#include "trace/segments.hpp"

namespace sipper {

enum class ImportMode {
    replace, ///< the modes of the project become those of the trace
    add      ///< the project's modes stay, those of the trace join them
};

struct TraceImport {
    ImportMode how = ImportMode::replace;
    std::string load;               ///< id of the load that was measured; empty: a new one
    bool asPower = false;           ///< watts where the trace has a voltage
    std::vector<std::string> names; ///< of the levels, rising; an empty one takes the proposal
};

/// Names for the levels, rising: the base mode's for the lowest, the name of a mode in which the
/// load draws about as much, or `At 120 mA`.
[[nodiscard]] std::vector<std::string>
proposedNames(const Project& project, const TraceSegments& cut, std::string_view load);

/// The project with the levels as modes and as draws of the load, basis measured. The lowest level
/// is the base mode; a level comes as long as it typically lasts, and as often as makes its share
/// of the time that of the trace, so that the mean current is kept. A level named like a mode is
/// that mode: its id, its daily windows and the other loads' draws in it stay. Replacing drops
/// the modes that no level is named like, and what was drawn in them.
[[nodiscard]] Project withTraceModes(Project project, const TraceSegments& cut,
                                     const TraceImport& take);

} // namespace sipper
