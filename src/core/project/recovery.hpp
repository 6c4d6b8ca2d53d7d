// SPDX-License-Identifier: GPL-3.0-or-later
// What was not saved when a program ended: the whole document beside the file that it belongs to.
#pragma once

#include "project/project.hpp"

#include <cstdint>
#include <filesystem>
#include <vector>

namespace sipper {

/// A stamp by which a file on disk is known to be the one that was read or written last.
struct FileStamp {
    std::int64_t nanoseconds = 0; ///< since 1970 of its last change; 0: there is no such file
    std::uintmax_t bytes = 0;
    bool operator==(const FileStamp&) const = default;
};
[[nodiscard]] FileStamp stampOf(const std::filesystem::path& path);

struct Recovery {
    std::string path;   ///< of the project's file; empty for one that never had any
    FileStamp stamp;    ///< of that file when it was last read or written
    std::string origin; ///< `recipe, not saved`, where there is no file
    std::string when;   ///< local time of the last edit in it, `2031-04-02 12:15:07`
    int edits = 0;      ///< since the last save
    std::size_t variant = 0;
    Project document;
    std::vector<std::string> lost; ///< JSON pointers of what could not be read and is left out
};

/// One JSON object, `"format": "sipper-recovery"`, around the document as its own file has it.
[[nodiscard]] std::string recoveryText(const Recovery& recovery);
/// Read and checked as a project is; code "not_recovery" for another file.
[[nodiscard]] Outcome<Recovery> readRecovery(std::string_view text);
/// What can be read of one that `readRecovery` refuses: the parts that it stumbles over are left
/// out, one after the other, and named in `lost`. An Error where too little is left to be a
/// project.
[[nodiscard]] Outcome<Recovery> rescueRecovery(std::string_view text);

} // namespace sipper
