// SPDX-License-Identifier: GPL-3.0-or-later
// Strict JSON: one document, no key twice, bounded depth, errors that say where.
#pragma once

#include "base/outcome.hpp"
#include "project/jsonfwd.hpp"

#include <nlohmann/json.hpp>
#include <string_view>

namespace sipper {

/// Parses one UTF-8 JSON document. Refused with code "not_json", "duplicate_key" or "too_deep";
/// `where` holds the pointer of the innermost open value, and for a syntax error line and column.
[[nodiscard]] Outcome<Json> parseJson(std::string_view text);

/// A JSON value in a few words, on one line: `"abc"`, `3.5`, `a list of 4`, `nothing`.
[[nodiscard]] std::string foundText(const Json& value);

/// A figure as JSON: whole numbers without a decimal point, so that files stay tidy.
[[nodiscard]] Json number(double value);

/// One step of a JSON pointer, escaped (RFC 6901).
[[nodiscard]] std::string pointerStep(std::string_view key);

} // namespace sipper
