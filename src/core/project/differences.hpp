// SPDX-License-Identifier: GPL-3.0-or-later
// What tells the supplies of a document apart, in words.
#pragma once

#include "project/project.hpp"

namespace sipper {

/// One thing that is not the same everywhere.
struct Difference {
    std::string subject;             ///< id of the stage, load or mode
    std::string where;               ///< its name
    std::string key;                 ///< of the field; empty for the thing itself
    std::string what;                ///< the field's label
    std::vector<std::string> values; ///< for each project, `–` where it has no such thing
};

/// Stages, modes, draws and windows, in the order of the first project that has them. Of a thing
/// that some lack, or that is of another kind in some, only the thing itself is named.
[[nodiscard]] std::vector<Difference> differencesOf(const std::vector<Project>& projects);

} // namespace sipper
