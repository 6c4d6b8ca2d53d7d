// SPDX-License-Identifier: GPL-3.0-or-later
// Project files on disk.
#pragma once

#include "project/reader.hpp"

#include <filesystem>

namespace sipper {

/// Loads, validates against the shipped schema and checks a project. Every error names the file.
/// Codes besides those of `readProject`: "unreadable", "too_large", "schema".
[[nodiscard]] Outcome<LoadedProject> loadProject(const std::filesystem::path& path);

/// The same from a text already in hand.
[[nodiscard]] Outcome<LoadedProject> loadProjectText(std::string_view text);

/// The bytes of a file of at most 64 MiB.
[[nodiscard]] Outcome<std::string> readFile(const std::filesystem::path& path);

/// Writes by temporary file, flush and rename: the old file is whole until the new one is. Returns
/// nothing on success; on failure code "unwritable", the old file as it was.
[[nodiscard]] std::optional<Error> writeFile(const std::filesystem::path& path,
                                             std::string_view text);

/// As `writeFile`, after what is to be written has been read back and found to open again: code
/// "unsaved" where it would not, and nothing is touched. `keepOld`: what is there is of an older
/// version of the format and is kept beside it as `.bak`.
[[nodiscard]] std::optional<Error> saveProject(const std::filesystem::path& path,
                                               const Project& project, bool keepOld = false);

/// The folder of the shipped data (schema, examples, cells): the environment's SIPPER_DATA, the
/// folder beside an installed program, or the source tree's.
[[nodiscard]] std::filesystem::path dataFolder();

} // namespace sipper
