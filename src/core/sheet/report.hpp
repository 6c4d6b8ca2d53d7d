// SPDX-License-Identifier: GPL-3.0-or-later
// The sheet as files: a page for browsers and phones, a list for spreadsheets, data for programs.
#pragma once

#include "project/jsonfwd.hpp"
#include "sheet/sheet.hpp"

namespace sipper {

/// One HTML file: prints well, reads on a phone, points to nothing outside itself.
[[nodiscard]] std::string htmlText(const Project& project, const Sheet& sheet);
/// The list to buy: UTF-8, a header, dots in decimals (RFC 4180).
[[nodiscard]] std::string csvText(const Sheet& sheet);
/// A field of a row of CSV, quoted where it must be (RFC 4180); `last` ends the row.
void appendCsvField(std::string& out, std::string_view text, bool last);
/// Everything on the sheet as data.
[[nodiscard]] Json sheetJson(const Sheet& sheet);

/// What a file name's ending asks for.
enum class ReportKind { html, csv, svg, json, pdf, png };
/// By the ending, in any case; nothing for another one.
[[nodiscard]] std::optional<ReportKind> reportKindOf(std::string_view path);
/// The text of all but PDF and PNG, which are painted.
[[nodiscard]] std::string reportText(ReportKind kind, const Project& project, const Sheet& sheet);

} // namespace sipper
