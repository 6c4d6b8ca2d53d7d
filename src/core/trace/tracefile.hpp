// SPDX-License-Identifier: GPL-3.0-or-later
// A measured current over time, from a CSV.
#pragma once

#include "base/outcome.hpp"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace sipper {

/// How a CSV is to be read. What is left out is found; what can't be found is asked for.
struct TraceFormat {
    std::optional<char> separator;
    std::optional<char> decimal;     ///< '.' or ','
    std::optional<bool> header;      ///< the first row names the columns
    std::optional<std::size_t> time; ///< column, from 0
    std::optional<std::size_t> current;
    std::optional<std::size_t> voltage;
    std::optional<double> timeScale;    ///< seconds for 1 in the file
    std::optional<double> currentScale; ///< amps for 1 in the file
    std::optional<double> voltageScale;
    std::vector<std::string> names; ///< of the columns, as far as the header tells
};

/// A row that could not be used, or stands out.
struct TraceRemark {
    std::size_t row; ///< in the file, from 1
    std::string what;
};

struct Trace {
    std::vector<double> seconds; ///< rising strictly, from 0
    std::vector<double> amps;
    std::vector<double> volts; ///< empty where the file has none
    TraceFormat format;        ///< as it was read
    std::size_t badRows = 0;
    std::size_t negative = 0;
    std::size_t outOfOrder = 0;
    std::vector<TraceRemark> remarks; ///< the first few of each sort
    [[nodiscard]] double span() const { return seconds.empty() ? 0 : seconds.back(); }
};

/// Finds separator, decimal mark, header, columns and units from the first rows. What stays unknown
/// is left out of the answer; `unknownOf` says it in words.
[[nodiscard]] TraceFormat guessFormat(std::string_view text, const TraceFormat& given = {});
/// `the unit of the current` …: what has to be asked; nothing when the format is whole.
[[nodiscard]] std::optional<std::string> unknownOf(const TraceFormat& format);
/// The first rows, cut by the format's separator.
[[nodiscard]] std::vector<std::vector<std::string>> firstRows(std::string_view text, char separator,
                                                              std::size_t count);

/// Reads a trace. Bad rows are counted and passed over; negative currents are kept; rows that go
/// back in time are passed over and counted. Errors: "trace_format" (something must be told),
/// "trace_empty".
[[nodiscard]] Outcome<Trace> readTrace(std::string_view text, const TraceFormat& given = {});

/// Seconds for a unit of time (`ms`), amps for a unit of current, volts for one of voltage.
[[nodiscard]] std::optional<double> timeUnit(std::string_view unit);
[[nodiscard]] std::optional<double> currentUnit(std::string_view unit);
[[nodiscard]] std::optional<double> voltageUnit(std::string_view unit);

} // namespace sipper
