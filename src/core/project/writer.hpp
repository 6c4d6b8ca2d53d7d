// SPDX-License-Identifier: GPL-3.0-or-later
// From a project to JSON, in one order, so that a change of one value is a diff of one line.
#pragma once

#include "project/jsonfwd.hpp"
#include "project/project.hpp"

namespace sipper {

[[nodiscard]] Json writeProject(const Project& project);
[[nodiscard]] Json writeCell(const Cell& cell);
[[nodiscard]] Json writeStage(const Stage& stage);
/// The text of a project file: two blanks a level, a newline at the end.
[[nodiscard]] std::string projectText(const Project& project);

} // namespace sipper
