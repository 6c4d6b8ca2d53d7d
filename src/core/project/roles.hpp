// SPDX-License-Identifier: GPL-3.0-or-later
// What a part is called for its place on the line, beside what it is: "Boost 12", "Rail 3.3",
// "Cells", "Fuse", "Guard". The name of the library stays with it as its make.
#pragma once

#include "project/project.hpp"

namespace sipper {

/// The name for the stage's place, numbered where another stage of the project bears it: `Boost
/// 12`, `Fuse 2`. The stage itself, by its id, does not count.
[[nodiscard]] std::string roleName(const Project& project, const Stage& stage);

/// Is the stage's name one that `roleName` gives, numbered or not?
[[nodiscard]] bool namedByRole(const Stage& stage);

/// A part of the library as it stands in the project: named for its place.
[[nodiscard]] Stage placedPart(const Project& project, Stage part);

/// The part in the place of `old`: a name that somebody gave stays, one of a role is that of the
/// new part's.
[[nodiscard]] Stage placedInstead(const Project& project, const Stage& old, Stage part);

/// `after` with the names of roles that an edit has made wrong, such as a boost of 12 V set to 9 V,
/// made right again. What somebody named stays.
[[nodiscard]] Project withRolesFollowing(const Project& before, Project after);

/// What the part is: a pack's cell, else its make; empty where nobody has said.
[[nodiscard]] std::string makeOf(const Stage& stage);

} // namespace sipper
