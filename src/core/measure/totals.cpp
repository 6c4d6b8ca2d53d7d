// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/totals.hpp"

#include "trace/csvtext.hpp"
#include "trace/tracefile.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kContradicts = 0.05; ///< of a figure, over which two ways to it disagree
constexpr double kMinute = 60;
constexpr double kHourSeconds = 3600;
constexpr double kLargest = 1e9; ///< of any figure

/// The figures of a row, in the order of `Row`.
enum Figure : std::size_t {
    totalWatts,
    totalVolts,
    totalAmps,
    totalHours,
    totalWattHours,
    totalAmpHours,
    kFigures
};
using Row = std::array<std::optional<double>, kFigures>;
constexpr std::array<std::string_view, kFigures> kNames{"watts",    "volts",      "amps",
                                                        "duration", "watt-hours", "amp-hours"};

/// `product` is `a` times `b`.
struct Product {
    Figure product, a, b;
};
constexpr std::array kProducts{Product{totalWatts, totalVolts, totalAmps},
                               Product{totalWattHours, totalWatts, totalHours},
                               Product{totalAmpHours, totalAmps, totalHours},
                               Product{totalWattHours, totalVolts, totalAmpHours}};

struct TotalsColumn {
    std::optional<Figure> figure;
    double scale = 1; ///< 0: no unit is stated, only a clock can be read
};

/// `mWh` with the base `W`: 0.001; nothing where it is no such unit.
std::optional<double> hourScale(std::string_view unit, char base) {
    const std::string text = lowered(unit);
    return text.size() >= 2 && text.back() == 'h'
               ? unitScale(text.substr(0, text.size() - 1),
                           static_cast<char>(std::tolower(static_cast<unsigned char>(base))))
               : std::nullopt;
}

using TextRows = std::vector<std::vector<std::string>>;
TextRows allRows(std::string_view text, char separator) {
    struct Sink {
        TextRows rows;
        std::vector<std::string> row;
    } sink;
    parseCsv(
        text, separator, sink,
        [](void* cell, std::size_t size, void* data) {
            static_cast<Sink*>(data)->row.emplace_back(static_cast<const char*>(cell), size);
        },
        [](int, void* data) {
            auto* s = static_cast<Sink*>(data);
            s->rows.push_back(std::move(s->row));
            s->row.clear();
        });
    return std::move(sink.rows);
}

TotalsColumn columnOf(const std::string& cell) {
    const std::string bracket = cellUnit(cell);
    const std::string unit = plainPrefix(bracket.empty() ? cell : bracket);
    if (const auto scale = hourScale(unit, 'W'))
        return {totalWattHours, *scale};
    if (const auto scale = hourScale(unit, 'A'))
        return {totalAmpHours, *scale};
    if (const auto scale = unitScale(unit, 'W'))
        return {totalWatts, *scale};
    if (const auto scale = unitScale(unit, 'V'))
        return {totalVolts, *scale};
    if (const auto scale = unitScale(unit, 'A'))
        return {totalAmps, *scale};
    if (const auto seconds = timeUnit(unit))
        return {totalHours, *seconds / kHourSeconds};
    const std::string low = lowered(cell);
    const auto holds = [&](const char* word) { return low.find(word) != std::string::npos; };
    if (holds("hour") && holds("watt"))
        return {totalWattHours, 1};
    if (holds("hour") && holds("amp"))
        return {totalAmpHours, 1};
    if (cellNames(cell, {"hours"}))
        return {totalHours, 1};
    if (cellNames(cell, {"duration", "runtime", "time"}))
        return {totalHours, 0};
    if (cellNames(cell, {"watts", "power"}))
        return {totalWatts, 1};
    if (cellNames(cell, {"volts", "voltage"}))
        return {totalVolts, 1};
    if (cellNames(cell, {"amps", "ampere"}))
        return {totalAmps, 1};
    return {};
}

/// Seconds of `3:11` (hours and minutes) or `3:11:20`.
std::optional<double> clockSeconds(std::string_view text) {
    double seconds = 0;
    double unit = kHourSeconds;
    std::size_t parts = 0;
    while (!text.empty() && parts < 3) {
        const auto cut = text.find(':');
        const auto value = cellNumber(text.substr(0, cut), '.');
        if (!value || *value < 0 || (parts > 0 && *value >= kMinute))
            return std::nullopt;
        seconds += *value * unit;
        unit /= kMinute;
        ++parts;
        text = cut == std::string_view::npos ? std::string_view() : text.substr(cut + 1);
    }
    return parts >= 2 && text.empty() ? std::optional(seconds) : std::nullopt;
}

/// Works out what follows from the rest; the worst disagreement of two ways to one figure.
struct Worked {
    double off = 0; ///< relative
    std::string_view figure;
};
Worked workOut(Row& row) {
    for (bool more = true; more;) {
        more = false;
        for (const Product& p : kProducts) {
            const bool a = row[p.a] && *row[p.a] > 0;
            const bool b = row[p.b] && *row[p.b] > 0;
            if (!row[p.product] && a && b)
                row[p.product] = *row[p.a] * *row[p.b];
            else if (row[p.product] && a && !row[p.b])
                row[p.b] = *row[p.product] / *row[p.a];
            else if (row[p.product] && b && !row[p.a])
                row[p.a] = *row[p.product] / *row[p.b];
            else
                continue;
            more = true;
        }
    }
    Worked worst;
    for (const Product& p : kProducts)
        if (row[p.product] && row[p.a] && row[p.b]) {
            const double by = *row[p.a] * *row[p.b];
            const double off = std::abs(by - *row[p.product]) / std::max(by, *row[p.product]);
            if (off > worst.off)
                worst = {off, kNames[p.product]};
        }
    return worst;
}

DischargeRun runOf(const Row& row, const std::string& file, const DischargeOptions& ask) {
    DischargeRun r;
    r.file = file;
    r.fromTotals = true;
    r.cut = true;
    r.hours = row[totalHours].value_or(0);
    r.meanVolts = row[totalVolts].value_or(0);
    r.ownWh = ask.ownWatts * r.hours;
    r.ownAh = r.meanVolts > 0 ? r.ownWh / r.meanVolts : 0;
    r.wh = row[totalWattHours] ? *row[totalWattHours] + r.ownWh : 0;
    r.ah = row[totalAmpHours] ? *row[totalAmpHours] + r.ownAh : 0;
    r.meanWatts = r.hours > 0 && r.wh > 0 ? r.wh / r.hours : row[totalWatts].value_or(0);
    r.meanAmps = r.hours > 0 && r.ah > 0 ? r.ah / r.hours : row[totalAmps].value_or(0);
    if (ask.labelWh && *ask.labelWh > 0 && r.wh > 0)
        r.efficiency = r.wh / *ask.labelWh;
    return r;
}

} // namespace

bool namesTotals(std::string_view text) {
    const TraceFormat guess = guessFormat(text);
    for (const auto& row : firstRows(text, guess.separator.value_or(','), 1))
        for (const std::string& cell : row) {
            const auto figure = columnOf(cell).figure;
            if (figure == totalWattHours || figure == totalAmpHours)
                return true;
        }
    return false;
}

Outcome<DischargeTable> readTotals(std::string_view text, const std::string& file,
                                   const DischargeOptions& ask) {
    constexpr const char* kExpected =
        "a header with at least two of watts, volts, amps, duration, Wh and Ah, such as \"power "
        "(W),duration (h)\"";
    if (text.starts_with("\xef\xbb\xbf"))
        text.remove_prefix(3);
    const TraceFormat guess = guessFormat(text);
    const char decimal = guess.decimal.value_or('.');
    const auto rows = allRows(text, guess.separator.value_or(','));
    if (rows.empty())
        return Error{"log_format", "row 1", "no header", kExpected, file};
    std::vector<TotalsColumn> columns;
    Row seen;
    for (const std::string& cell : rows[0]) {
        TotalsColumn column = columnOf(cell);
        if (column.figure && seen[*column.figure])
            column.figure.reset(); // the first of a kind counts
        if (column.figure)
            seen[*column.figure] = 1;
        columns.push_back(column);
    }
    if (std::count_if(seen.begin(), seen.end(), [](const auto& s) { return s.has_value(); }) < 2)
        return Error{"log_format", "row 1", "fewer than two such columns", kExpected, file};
    DischargeTable table;
    for (std::size_t i = 1; i < rows.size(); ++i) {
        Row row;
        std::size_t stated = 0;
        bool blank = true;
        std::string bad;
        for (std::size_t c = 0; c < std::min(rows[i].size(), columns.size()); ++c) {
            const std::string& cell = rows[i][c];
            const bool empty = cell.find_first_not_of(" \t\r") == std::string::npos;
            blank = blank && empty;
            if (empty || !columns[c].figure)
                continue;
            auto value = cellNumber(cell, decimal);
            if (value && columns[c].scale <= 0) {
                bad = "its duration has no unit, such as \"duration (h)\"";
                continue;
            }
            if (value)
                *value *= columns[c].scale;
            else if (const auto clock = clockSeconds(cell);
                     clock && columns[c].figure == totalHours)
                value = *clock / kHourSeconds;
            if (!value || *value <= 0 || *value >= kLargest) {
                bad = fmt::format("\"{}\" is no {} over 0", cell, kNames[*columns[c].figure]);
                continue;
            }
            row[*columns[c].figure] = *value;
            ++stated;
        }
        if (blank)
            continue;
        const std::string where = fmt::format("{} row {}", file, i + 1);
        if (!bad.empty() || stated < 2) {
            table.leftAlone.push_back({where, bad.empty() ? "fewer than two figures" : bad, true});
            continue;
        }
        const Worked worked = workOut(row);
        table.runs.push_back(runOf(row, file, ask));
        if (worked.off > kContradicts) {
            table.runs.back().contradicts = true;
            table.leftAlone.push_back({where,
                                       fmt::format("contradicts itself: its {} are {:.0f} % off "
                                                   "what the rest of the row gives",
                                                   worked.figure, worked.off * 100),
                                       true});
        }
    }
    if (table.runs.empty())
        return Error{"log_empty", "row 2", "no usable row", "at least one run with two figures",
                     file};
    return table;
}

} // namespace sipper
