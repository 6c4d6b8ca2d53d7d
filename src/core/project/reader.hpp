// SPDX-License-Identifier: GPL-3.0-or-later
// From JSON to a project: shape, types and ranges of every value, driven by the field tables.
#pragma once

#include "project/jsonfwd.hpp"
#include "project/project.hpp"

namespace sipper {

/// The one version of the format that this program writes.
inline constexpr int kFormatVersion = 1;

struct LoadedProject {
    Project project;
    int version = kFormatVersion; ///< of the file, before it was migrated
    std::vector<std::string>
        warnings; ///< keys that this program does not know, with their pointers
};

/// Reads a whole document and checks it. Errors carry the JSON pointer, what was found and what was
/// expected; codes: "not_sipper", "newer_version", "missing", "type", "range", "name", "id", and
/// those of `checkProject`.
[[nodiscard]] Outcome<LoadedProject> readProject(const Json& document);

/// Reads one cell (an object of the format's `cell`), with `at` as its pointer in messages.
[[nodiscard]] Outcome<Cell> readCell(const Json& value, const std::string& at);
/// Reads one stage object.
[[nodiscard]] Outcome<Stage> readStage(const Json& value, const std::string& at);

} // namespace sipper
