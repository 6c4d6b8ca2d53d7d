// SPDX-License-Identifier: GPL-3.0-or-later
// Lists that the bench keeps with a project under `x-` keys.
#pragma once

#include "project/jsonfwd.hpp"
#include "project/project.hpp"

namespace sipper {

/// The objects of a kept list; empty where there is none, or none that reads.
[[nodiscard]] std::vector<Json> extraList(const Project& project, std::string_view key);
/// The project with the list in place of the one that was kept; an empty one takes the key out.
[[nodiscard]] Project withExtraList(const Project& project, std::string_view key, const Json& list);

/// A key of an entry as text or as a figure; empty, nothing, where it is anything else.
[[nodiscard]] std::string keptText(const Json& entry, const char* key);
[[nodiscard]] std::optional<double> keptFigure(const Json& entry, const char* key);

} // namespace sipper
