// SPDX-License-Identifier: GPL-3.0-or-later
// Reading a log of a discharge.
#include "measure/discharge.hpp"
#include "measure/totals.hpp"

#include "trace/csvtext.hpp"
#include "trace/tracefile.hpp"

#include <algorithm>
#include <charconv>
#include <chrono>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kTooMuch = 1e9;       ///< V or A that no log has
constexpr double kHalfDay = 12 * 3600; ///< s: a clock that falls by more has passed midnight
constexpr double kDay = 24 * 3600;
constexpr double kFewFalls = 0.2;    ///< of the rows of a log, that may go back in time
constexpr std::size_t kSetBack = 10; ///< rows on end after which the clock was set back

enum class Column { time, temperature, amps, volts, watts, none };

bool isDegrees(const std::string& unit) {
    const std::string low = lowered(unit);
    return low == "°c" || low == "c" || low == "°f" || low == "f" || low == "degc" || low == "degf";
}

/// Amp-hours and watt-hours are sums of the tester's own: not what is looked for.
bool isSum(const std::string& name, const std::string& unit) {
    const std::string low = lowered(name);
    const std::string u = lowered(plainPrefix(unit));
    if (u == "ah" || u == "mah" || u == "wh" || u == "mwh" || u == "kwh")
        return true;
    return low.find("hour") != std::string::npos &&
           (low.find("amp") != std::string::npos || low.find("watt") != std::string::npos);
}

bool matches(Column column, const std::string& name, const std::string& unit) {
    switch (column) {
    case Column::time:
        return cellNames(name, {"time", "zeit", "temps", "seconds", "t", "timestamp"}) ||
               timeUnit(unit).has_value();
    case Column::temperature:
        return isDegrees(unit) || cellNames(name, {"temp", "t"});
    case Column::amps:
        return cellNames(name, {"current", "curr", "strom", "courant", "ampere", "amps", "i"}) ||
               unitScale(unit, 'A').has_value();
    case Column::volts:
        return cellNames(name, {"volt", "spannung", "tension", "u", "v"}) ||
               unitScale(unit, 'V').has_value();
    case Column::watts:
        return cellNames(name, {"power", "watt", "leistung", "puissance", "p", "w"}) ||
               unitScale(unit, 'W').has_value();
    case Column::none:
        break;
    }
    return false;
}

struct LogFormat {
    char separator = ',';
    char decimal = '.';
    std::vector<Column> columns;
    double timeScale = 1;
    double ampScale = 1;
    double voltScale = 1;
    double wattScale = 1;
    bool fahrenheit = false;
    bool byAmps = false;
};

Error noFormat(const std::string& file, const std::string& found, const std::string& expected) {
    return {"log_format", "row 1", found, expected, file};
}

Error isTable(const std::string& file, const std::string& found) {
    return {"log_totals", "row 1", found,
            "a log, its times rising; for a table with a run a row there is discharge --totals",
            file};
}

/// Days since the epoch of a date at the beginning of a cell, with what stands behind it.
std::optional<double> dateDays(std::string_view& text) {
    if (text.size() < 10)
        return std::nullopt;
    const auto part = [&](std::size_t from, std::size_t count) {
        int value = -1;
        const auto [end, code] =
            std::from_chars(text.data() + from, text.data() + from + count, value);
        return code == std::errc{} && end == text.data() + from + count ? value : -1;
    };
    int year = -1;
    int month = -1;
    int day = -1;
    if ((text[4] == '-' && text[7] == '-') || (text[4] == '/' && text[7] == '/')) {
        year = part(0, 4);
        month = part(5, 2);
        day = part(8, 2);
    } else if (text[2] == '.' && text[5] == '.') {
        day = part(0, 2);
        month = part(3, 2);
        year = part(6, 4);
    }
    const std::chrono::year_month_day date{std::chrono::year{year},
                                           std::chrono::month{static_cast<unsigned>(month)},
                                           std::chrono::day{static_cast<unsigned>(day)}};
    if (year < 0 || month < 0 || day < 0 || !date.ok())
        return std::nullopt;
    text.remove_prefix(10);
    while (!text.empty() && (text.front() == ' ' || text.front() == 'T'))
        text.remove_prefix(1);
    return static_cast<double>(std::chrono::sys_days(date).time_since_epoch().count());
}

/// A time of a row: a plain number, or a clock with or without a date.
struct RowTime {
    double seconds = 0;
    bool clock = false; ///< of the day alone
};
std::optional<RowTime> rowTime(std::string_view text, const LogFormat& f) {
    while (!text.empty() && text.front() == ' ')
        text.remove_prefix(1);
    if (const auto plain = cellNumber(text, f.decimal))
        return RowTime{*plain * f.timeScale, false};
    const auto days = dateDays(text);
    const auto clock = cellClock(text);
    if (!clock)
        return std::nullopt;
    return RowTime{days.value_or(0) * kDay + *clock, !days};
}

Outcome<LogFormat> formatOf(std::string_view text, const std::string& file) {
    const TraceFormat guess = guessFormat(text);
    LogFormat f;
    f.separator = guess.separator.value_or(',');
    f.decimal = guess.decimal.value_or('.');
    const auto rows = firstRows(text, f.separator, 2);
    if (rows.empty() || !guess.header.value_or(false))
        return noFormat(file, "no header", "a header such as \"time (s),voltage (V),current (A)\"");
    std::vector<Column> open{Column::time, Column::temperature, Column::amps, Column::volts,
                             Column::watts};
    std::optional<double> time;
    std::optional<double> amps;
    std::optional<double> watts;
    for (const std::string& name : rows[0]) {
        const std::string unit = cellUnit(name);
        Column is = Column::none;
        if (!isSum(name, unit))
            for (const Column column : open)
                if ((!isDegrees(unit) || column == Column::temperature) &&
                    matches(column, name, unit)) {
                    is = column;
                    break;
                }
        f.columns.push_back(is);
        std::erase(open, is);
        const auto known = [&](Column column) { return is == column; };
        if (known(Column::time))
            time = timeUnit(unit);
        else if (known(Column::amps))
            amps = unitScale(unit, 'A');
        else if (known(Column::volts))
            f.voltScale = unitScale(unit, 'V').value_or(1);
        else if (known(Column::watts))
            watts = unitScale(unit, 'W');
        else if (known(Column::temperature))
            f.fahrenheit = lowered(unit).back() == 'f';
    }
    const auto has = [&](Column column) {
        return std::find(f.columns.begin(), f.columns.end(), column) != f.columns.end();
    };
    if (!has(Column::time) || !has(Column::volts) || (!has(Column::amps) && !has(Column::watts)))
        return noFormat(file,
                        std::string("no column of ") + (!has(Column::time)    ? "time"
                                                        : !has(Column::volts) ? "volts"
                                                                              : "amps or watts"),
                        "a header such as \"time (s),voltage (V),current (A)\"");
    f.byAmps = has(Column::amps);
    if (!time) {
        // A clock needs no unit.
        const auto at = static_cast<std::size_t>(
            std::find(f.columns.begin(), f.columns.end(), Column::time) - f.columns.begin());
        std::string_view cell;
        if (rows.size() > 1 && at < rows[1].size())
            cell = rows[1][at];
        static_cast<void>(dateDays(cell));
        if (cellClock(cell))
            time = 1;
    }
    if (!time)
        return noFormat(file, "no unit of time", "such as \"time (s)\"");
    if (f.byAmps ? !amps : !watts)
        return noFormat(file, f.byAmps ? "no unit of amps" : "no unit of watts",
                        f.byAmps ? "such as \"current (A)\"" : "such as \"power (W)\"");
    f.timeScale = *time;
    f.ampScale = amps.value_or(1);
    f.wattScale = watts.value_or(1);
    return f;
}

/// Takes rows in: counts the bad ones, waits with those that go back in time.
class LogRows {
  public:
    explicit LogRows(const LogFormat& format) : m_format(format) {}

    void field(std::string_view text) {
        const Column is =
            m_column < m_format.columns.size() ? m_format.columns[m_column] : Column::none;
        ++m_column;
        switch (is) {
        case Column::time:
            m_time = rowTime(text, m_format);
            break;
        case Column::volts:
            m_volts = cellNumber(text, m_format.decimal);
            break;
        case Column::amps:
            m_amps = cellNumber(text, m_format.decimal);
            break;
        case Column::watts:
            m_watts = cellNumber(text, m_format.decimal);
            break;
        case Column::temperature:
            m_degrees = cellNumber(text, m_format.decimal);
            break;
        case Column::none:
            break;
        }
        m_blank = m_blank && text.find_first_not_of(" \t\r") == std::string_view::npos;
    }
    void row() {
        if (m_header)
            m_header = false;
        else if (!m_blank || m_column > 1)
            take();
        m_column = 0;
        m_blank = true;
        m_time.reset();
        m_volts.reset();
        m_amps.reset();
        m_watts.reset();
        m_degrees.reset();
    }
    /// Rows whose time is not after that of the row before: of a log a few, of a table of runs
    /// many.
    [[nodiscard]] bool rises() const { return m_falls <= kFewFalls * m_rows; }
    DischargeLog finish(const std::string& file) {
        m_log.outOfOrder += m_late.size();
        m_log.file = file;
        turn();
        return std::move(m_log);
    }

  private:
    struct Row {
        double t;
        double v;
        double a;
    };
    void take() {
        const auto& drawn = m_format.byAmps ? m_amps : m_watts;
        if (!m_time || !m_volts || !drawn) {
            ++m_log.badRows;
            return;
        }
        const double v = *m_volts * m_format.voltScale;
        const double scaled = *drawn * (m_format.byAmps ? m_format.ampScale : m_format.wattScale);
        const double a = m_format.byAmps ? scaled : scaled == 0 ? 0 : scaled / v;
        if (!(v >= 0) || !(v < kTooMuch) || !(std::abs(a) < kTooMuch)) {
            ++m_log.badRows;
            return;
        }
        double t = m_time->seconds;
        if (m_time->clock) {
            if (m_clock && *m_clock - t > kHalfDay)
                m_midnights += kDay;
            m_clock = t;
            t += m_midnights;
        }
        if (m_degrees) {
            const double c = m_format.fahrenheit ? (*m_degrees - 32) / 1.8 : *m_degrees;
            m_log.warmest = std::max(m_log.warmest.value_or(c), c);
        }
        ++m_rows;
        m_falls += m_rows > 1 && t <= m_before ? 1 : 0;
        m_before = t;
        place({t + m_shift, v, a});
    }
    void place(const Row& row) {
        if (m_log.seconds.empty())
            m_start = row.t;
        const double since = row.t - m_start;
        if (m_log.seconds.empty() || since > m_log.seconds.back()) {
            m_log.outOfOrder += m_late.size();
            m_late.clear();
            keep({since, row.v, row.a});
            return;
        }
        // Late. Ten on end, each after the one before, and the clock was set back.
        if (!m_late.empty() && since <= m_late.back().t) {
            m_log.outOfOrder += m_late.size();
            m_late.clear();
        }
        m_late.push_back({since, row.v, row.a});
        if (m_late.size() < kSetBack)
            return;
        ++m_log.clockSetBack;
        const double move = m_log.seconds.back() + usualStep(m_log.seconds) - m_late.front().t;
        m_shift += move;
        for (const Row& late : m_late)
            keep({late.t + move, late.v, late.a});
        m_late.clear();
    }
    void keep(const Row& row) {
        m_log.seconds.push_back(row.t);
        m_log.volts.push_back(row.v);
        m_log.amps.push_back(row.a);
    }
    /// A tester that counts what leaves as negative is turned round.
    void turn() {
        double net = 0;
        for (std::size_t i = 1; i < m_log.seconds.size(); ++i)
            net +=
                (m_log.amps[i - 1] + m_log.amps[i]) / 2 * (m_log.seconds[i] - m_log.seconds[i - 1]);
        if (net < 0)
            for (double& a : m_log.amps)
                a = -a;
    }

    const LogFormat& m_format;
    DischargeLog m_log;
    std::vector<Row> m_late;
    double m_start = 0;
    double m_shift = 0;
    double m_midnights = 0;
    double m_before = 0; ///< time of the row before
    double m_rows = 0;
    double m_falls = 0;
    std::optional<double> m_clock;
    bool m_header = true;
    bool m_blank = true;
    std::size_t m_column = 0;
    std::optional<RowTime> m_time;
    std::optional<double> m_volts;
    std::optional<double> m_amps;
    std::optional<double> m_watts;
    std::optional<double> m_degrees;
};

} // namespace

Outcome<DischargeLog> readDischarge(std::string_view text, const std::string& file) {
    if (text.starts_with("\xef\xbb\xbf"))
        text.remove_prefix(3);
    const auto format = formatOf(text, file);
    if (!format)
        return namesTotals(text) && readTotals(text, file) ? isTable(file, format.error().found)
                                                           : format.error();
    LogRows rows(format.value());
    parseCsv(
        text, format.value().separator, rows,
        [](void* cell, std::size_t size, void* data) {
            static_cast<LogRows*>(data)->field({static_cast<const char*>(cell), size});
        },
        [](int, void* data) { static_cast<LogRows*>(data)->row(); });
    if (!rows.rises() && namesTotals(text))
        return isTable(file, "times that do not rise beside an energy or a capacity");
    DischargeLog log = rows.finish(file);
    if (log.seconds.size() < 2)
        return Error{"log_empty", "row 2", fmt::format("{} usable rows", log.seconds.size()),
                     "at least two rows of time, volts and amps", file};
    return log;
}

} // namespace sipper
