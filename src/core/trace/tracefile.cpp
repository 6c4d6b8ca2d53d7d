// SPDX-License-Identifier: GPL-3.0-or-later
#include "trace/tracefile.hpp"

#include "trace/csvtext.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr std::size_t kSampleBytes = 16384; ///< looked at to find the format
constexpr std::size_t kSampleRows = 40;
constexpr std::size_t kMostRemarks = 5; ///< of each sort
constexpr std::array kSeparators{',', ';', '\t', '|', ' '};

using Rows = std::vector<std::vector<std::string>>;

struct RowSink {
    Rows rows;
    std::vector<std::string> row;
    std::size_t most;
};

void findColumns(TraceFormat& f, const Rows& rows, std::size_t first) {
    const std::size_t columns = rows[first].size();
    if (f.header.value_or(false))
        for (std::size_t i = 0; i < rows[0].size(); ++i) {
            const std::string& cell = rows[0][i];
            const std::string unit = cellUnit(cell);
            if (!f.time &&
                (cellNames(cell, {"time", "zeit", "temps", "seconds", "t", "timestamp"}) ||
                 (timeUnit(unit) && unit != "A")))
                f.time = i;
            else if (!f.current && (cellNames(cell, {"current", "curr", "strom", "courant",
                                                     "ampere", "amps", "i"}) ||
                                    currentUnit(unit)))
                f.current = i;
            else if (!f.voltage && (cellNames(cell, {"volt", "spannung", "tension", "u", "v"}) ||
                                    voltageUnit(unit)))
                f.voltage = i;
        }
    if (columns == 2 && !f.header.value_or(false) && !f.time && !f.current) {
        // Two bare columns: the one that rises is time, when only one does.
        std::array<bool, 2> rises{true, true};
        for (std::size_t r = first + 1; r < rows.size(); ++r)
            for (std::size_t c = 0; c < 2; ++c) {
                const auto a = cellNumber(rows[r - 1].size() > c ? rows[r - 1][c] : "",
                                          f.decimal.value_or('.'));
                const auto b =
                    cellNumber(rows[r].size() > c ? rows[r][c] : "", f.decimal.value_or('.'));
                rises[c] = rises[c] && a && b && *b > *a;
            }
        if (rises[0] != rises[1]) {
            f.time = rises[0] ? 0 : 1;
            f.current = rises[0] ? 1 : 0;
        }
    }
    if (columns == 2 && f.time && !f.current)
        f.current = 1 - *f.time;
    if (columns == 2 && f.current && !f.time)
        f.time = 1 - *f.current;
}

void findUnits(TraceFormat& f, const Rows& rows, std::size_t first) {
    const auto unitOfColumn = [&](std::optional<std::size_t> column) {
        return column && f.header.value_or(false) && *column < rows[0].size()
                   ? cellUnit(rows[0][*column])
                   : std::string();
    };
    if (!f.timeScale)
        f.timeScale = timeUnit(unitOfColumn(f.time));
    if (!f.timeScale && f.time && *f.time < rows[first].size() && cellClock(rows[first][*f.time]))
        f.timeScale = 1;
    if (!f.currentScale)
        f.currentScale = currentUnit(unitOfColumn(f.current));
    if (!f.voltageScale)
        f.voltageScale = voltageUnit(unitOfColumn(f.voltage));
}

/// Collects the numbers of one file as libcsv hands out its fields.
class Collector {
  public:
    Collector(const TraceFormat& format, std::size_t rowsHint) : m_format(format) {
        m_trace.seconds.reserve(rowsHint);
        m_trace.amps.reserve(rowsHint);
        if (format.voltage)
            m_trace.volts.reserve(rowsHint);
    }
    void field(std::string_view text) {
        if (m_column == *m_format.time) {
            m_time = cellNumber(text, *m_format.decimal);
            if (!m_time)
                m_time = cellClock(text);
        } else if (m_column == *m_format.current) {
            m_current = cellNumber(text, *m_format.decimal);
        } else if (m_format.voltage && m_column == *m_format.voltage) {
            m_voltage = cellNumber(text, *m_format.decimal);
        }
        ++m_column;
    }
    void row() {
        ++m_row;
        const bool header = m_row == 1 && m_format.header.value_or(false);
        const bool whole = m_time && m_current && (!m_format.voltage || m_voltage);
        if (!header && !whole) {
            remark(m_trace.badRows, !m_time ? "no time" : !m_current ? "no current" : "no voltage");
        } else if (!header) {
            take();
        }
        m_column = 0;
        m_time.reset();
        m_current.reset();
        m_voltage.reset();
    }
    Trace finish() {
        m_trace.format = m_format;
        return std::move(m_trace);
    }

  private:
    void take() {
        const double t = *m_time * *m_format.timeScale;
        if (m_trace.seconds.empty())
            m_start = t;
        const double since = t - m_start;
        if (!m_trace.seconds.empty() && since <= m_trace.seconds.back()) {
            remark(m_trace.outOfOrder, "time does not go on");
            return;
        }
        const double amps = *m_current * *m_format.currentScale;
        if (amps < 0)
            remark(m_trace.negative, "negative current");
        m_trace.seconds.push_back(since);
        m_trace.amps.push_back(amps);
        if (m_format.voltage)
            m_trace.volts.push_back(*m_voltage * m_format.voltageScale.value_or(1));
    }
    void remark(std::size_t& count, const char* what) {
        if (count++ < kMostRemarks)
            m_trace.remarks.push_back({m_row, what});
    }

    const TraceFormat& m_format;
    Trace m_trace;
    std::size_t m_row = 0;
    std::size_t m_column = 0;
    double m_start = 0;
    std::optional<double> m_time;
    std::optional<double> m_current;
    std::optional<double> m_voltage;
};

} // namespace

std::optional<double> timeUnit(std::string_view unit) {
    const std::string text = lowered(plainPrefix(unit));
    if (text == "s" || text == "sec" || text == "second" || text == "seconds")
        return 1;
    if (text == "ms" || text == "msec")
        return 1e-3;
    if (text == "us" || text == "usec")
        return 1e-6;
    if (text == "ns")
        return 1e-9;
    if (text == "min" || text == "minutes")
        return 60;
    if (text == "h" || text == "hours")
        return 3600;
    return std::nullopt;
}
std::optional<double> currentUnit(std::string_view unit) {
    return unitScale(unit, 'A');
}
std::optional<double> voltageUnit(std::string_view unit) {
    return unitScale(unit, 'V');
}

std::vector<std::vector<std::string>> firstRows(std::string_view text, char separator,
                                                std::size_t count) {
    RowSink sink{{}, {}, count};
    std::string_view sample = text.substr(0, kSampleBytes);
    if (sample.size() < text.size()) // not a row cut in half
        sample =
            sample.substr(0, sample.rfind('\n') == std::string_view::npos ? sample.size()
                                                                          : sample.rfind('\n') + 1);
    parseCsv(
        sample, separator, sink,
        [](void* cell, std::size_t size, void* data) {
            static_cast<RowSink*>(data)->row.emplace_back(static_cast<const char*>(cell), size);
        },
        [](int, void* data) {
            auto* s = static_cast<RowSink*>(data);
            if (s->rows.size() < s->most)
                s->rows.push_back(std::move(s->row));
            s->row.clear();
        });
    return std::move(sink.rows);
}

TraceFormat guessFormat(std::string_view text, const TraceFormat& given) {
    TraceFormat f = given;
    if (text.starts_with("\xef\xbb\xbf"))
        text.remove_prefix(3);
    // The separator that gives the most rows of the same, largest number of readable columns.
    double best = -1;
    char separator = f.separator.value_or(',');
    char decimal = f.decimal.value_or('.');
    for (const char s : kSeparators) {
        if (f.separator && *f.separator != s)
            continue;
        const Rows rows = firstRows(text, s, kSampleRows);
        for (const char d : {'.', ','}) {
            if ((f.decimal && *f.decimal != d) || (s == ',' && d == ','))
                continue;
            double score = 0;
            for (std::size_t r = 1; r < rows.size(); ++r) {
                std::size_t numbers = 0;
                for (const std::string& cell : rows[r])
                    numbers += cellNumber(cell, d) || cellClock(cell);
                if (numbers >= 2)
                    score += 1 + (d == '.' ? 0.01 : 0) + (numbers == rows[r].size() ? 0.5 : 0);
            }
            if (score > best) {
                best = score;
                separator = s;
                decimal = d;
            }
        }
    }
    f.separator = separator;
    f.decimal = decimal;
    const Rows rows = firstRows(text, separator, kSampleRows);
    if (rows.empty())
        return f;
    if (!f.header) {
        std::size_t numbers = 0;
        for (const std::string& cell : rows[0])
            numbers += cellNumber(cell, decimal) || cellClock(cell);
        f.header = numbers < 2;
    }
    if (*f.header)
        f.names = rows[0];
    const std::size_t first = *f.header && rows.size() > 1 ? 1 : 0;
    findColumns(f, rows, first);
    findUnits(f, rows, first);
    return f;
}

std::optional<std::string> unknownOf(const TraceFormat& f) {
    const auto named = [&](std::size_t column) {
        return column < f.names.size()
                   ? fmt::format("column {} (\"{}\")", column + 1, f.names[column])
                   : fmt::format("column {}", column + 1);
    };
    if (!f.time)
        return "which column is the time";
    if (!f.current)
        return "which column is the current";
    if (!f.timeScale)
        return "the unit of the time in " + named(*f.time);
    if (!f.currentScale)
        return "the unit of the current in " + named(*f.current);
    return std::nullopt;
}

Outcome<Trace> readTrace(std::string_view text, const TraceFormat& given) {
    if (text.starts_with("\xef\xbb\xbf"))
        text.remove_prefix(3);
    const TraceFormat format = guessFormat(text, given);
    if (const auto unknown = unknownOf(format))
        return Error{"trace_format", "row 1", "nothing that tells " + *unknown,
                     "a header such as \"time (s), current (mA)\", or to be told", ""};
    Collector collector(format, text.size() / 12);
    parseCsv(
        text, *format.separator, collector,
        [](void* cell, std::size_t size, void* data) {
            static_cast<Collector*>(data)->field({static_cast<const char*>(cell), size});
        },
        [](int, void* data) { static_cast<Collector*>(data)->row(); });
    Trace trace = collector.finish();
    if (trace.seconds.size() < 2)
        return Error{"trace_empty",
                     trace.remarks.empty() ? "row 1" : fmt::format("row {}", trace.remarks[0].row),
                     fmt::format("{} usable rows", trace.seconds.size()),
                     "at least two rows of time and current", ""};
    return trace;
}

} // namespace sipper
