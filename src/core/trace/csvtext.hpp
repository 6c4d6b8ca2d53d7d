// SPDX-License-Identifier: GPL-3.0-or-later
// What measured logs share as text: cells, units, and the rows as libcsv hands them out.
#pragma once

#include <csv.h>
#include <initializer_list>
#include <optional>
#include <string>
#include <string_view>

namespace sipper {

[[nodiscard]] std::string lowered(std::string_view text);
/// A number with this decimal mark, and nothing behind it; nothing else.
[[nodiscard]] std::optional<double> cellNumber(std::string_view text, char decimal);
/// `12:30:05.25`, perhaps behind a date and a blank or T: seconds of the day.
[[nodiscard]] std::optional<double> cellClock(std::string_view text);
/// The unit in a header cell: in brackets, or behind the last blank, slash or underscore.
[[nodiscard]] std::string cellUnit(std::string_view cell);
/// Does a header cell begin with one of the short words, or hold one of the long ones?
[[nodiscard]] bool cellNames(const std::string& cell, std::initializer_list<const char*> words);
/// The unit with its micro sign written `u`.
[[nodiscard]] std::string plainPrefix(std::string_view unit);
/// The factor of a prefix before a unit of one letter: `mA` is 0.001.
[[nodiscard]] std::optional<double> unitScale(std::string_view unit, char base);

/// Hands every field and row end to the functions, with `sink` as their data.
template <class Sink>
void parseCsv(std::string_view text, char separator, Sink& sink,
              void (*field)(void*, std::size_t, void*), void (*row)(int, void*)) {
    csv_parser parser;
    csv_init(&parser, CSV_APPEND_NULL);
    csv_set_delim(&parser, static_cast<unsigned char>(separator));
    csv_parse(&parser, text.data(), text.size(), field, row, &sink);
    csv_fini(&parser, field, row, &sink);
    csv_free(&parser);
}

} // namespace sipper
