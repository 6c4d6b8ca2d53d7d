// SPDX-License-Identifier: GPL-3.0-or-later
// The JSON Schema (draft-07) of a project file: made from the field tables, shipped as a file, and
// used when a document is loaded.
#pragma once

#include "base/outcome.hpp"
#include "project/jsonfwd.hpp"

#include <optional>

namespace sipper {

/// The schema as the field tables give it. A test keeps data/schema/project.schema.json equal to
/// it.
[[nodiscard]] Json projectSchema();

/// Validates against the shipped file data/schema/project.schema.json. Nothing when the document
/// keeps it; otherwise code "schema" with the deepest place that breaks it. A schema that can't be
/// read is an error with the schema's own file name.
[[nodiscard]] std::optional<Error> validateProject(const Json& document);

} // namespace sipper
