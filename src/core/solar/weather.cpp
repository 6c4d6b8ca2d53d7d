// SPDX-License-Identifier: GPL-3.0-or-later
#include "solar/weather.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <csv.h>
#include <fmt/format.h>
#include <fstream>
#include <sstream>

namespace sipper {
namespace {

constexpr std::array<std::size_t, 13> kFirstDays{0,   31,  59,  90,  120, 151, 181,
                                                 212, 243, 273, 304, 334, 365};
constexpr double kBrightest = 1500; ///< W/m2; more is no light on the level
constexpr double kColdestAir = -90; ///< degC that air has
constexpr double kWarmestAir = 70;
constexpr double kNoAir = 99.9; ///< in EPW: missing
constexpr double kNoLight = 9999;
constexpr std::size_t kEpwHeader = 8;
constexpr std::size_t kEpwAir = 6;
constexpr std::size_t kEpwLight = 13;

using Row = std::vector<std::string>;

struct WeatherRows {
    std::vector<Row> rows;
    Row row;
};

/// All rows, as libcsv reads them.
Outcome<std::vector<Row>> weatherRowsOf(std::string_view text, const std::string& name) {
    csv_parser parser;
    if (csv_init(&parser, CSV_APPEND_NULL) != 0)
        return Error{"weather", "", "no memory", "a reader", name};
    WeatherRows sink;
    const auto cell = [](void* data, size_t length, void* user) {
        static_cast<WeatherRows*>(user)->row.emplace_back(static_cast<const char*>(data), length);
    };
    const auto end = [](int, void* user) {
        auto* s = static_cast<WeatherRows*>(user);
        s->rows.push_back(std::move(s->row));
        s->row.clear();
    };
    const bool read = csv_parse(&parser, text.data(), text.size(), cell, end, &sink) == text.size();
    csv_fini(&parser, cell, end, &sink);
    csv_free(&parser);
    if (!read)
        return Error{"weather", fmt::format("row {}", sink.rows.size() + 1), "broken quotes",
                     "comma-separated values", name};
    return std::move(sink.rows);
}

std::string weatherRowName(std::size_t at) {
    return fmt::format("row {}", at + 1);
}

std::string weatherQuoted(const std::string& text) {
    constexpr std::size_t kShown = 40;
    return "\"" + text.substr(0, kShown) + "\"";
}

std::optional<double> weatherNumber(std::string_view text) {
    while (!text.empty() && text.front() == ' ')
        text.remove_prefix(1);
    while (!text.empty() && (text.back() == ' ' || text.back() == '\r'))
        text.remove_suffix(1);
    double value = 0;
    const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (code != std::errc{} || end != text.data() + text.size() || !std::isfinite(value))
        return std::nullopt;
    return value;
}

/// Month, day and hour of `YYYY-MM-DDTHH:00`, or with a space for the T.
struct Stamp {
    std::size_t month;
    std::size_t day;
    std::size_t hour;
};
std::optional<Stamp> stampOf(const std::string& text) {
    constexpr std::size_t kLength = 16;
    if (text.size() < kLength || text[4] != '-' || text[7] != '-' ||
        (text[10] != 'T' && text[10] != ' ') || text[13] != ':')
        return std::nullopt;
    const auto part = [&](std::size_t at, std::size_t length) {
        return weatherNumber(std::string_view(text).substr(at, length));
    };
    const auto month = part(5, 2);
    const auto day = part(8, 2);
    const auto hour = part(11, 2);
    const auto minute = part(14, 2);
    if (!part(0, 4) || !month || !day || !hour || !minute || *minute != 0 || *month < 1 ||
        *month > 12 || *day < 1 || *day > 31 || *hour < 0 || *hour > 23)
        return std::nullopt;
    return Stamp{static_cast<std::size_t>(*month), static_cast<std::size_t>(*day),
                 static_cast<std::size_t>(*hour)};
}

std::string stampText(std::size_t hour) {
    const std::size_t day = hour / 24;
    const std::size_t month = monthOf(day);
    return fmt::format("{:02}-{:02} {:02}:00", month + 1, day - firstDayOf(month) + 1, hour % 24);
}

bool isLeapDay(const Stamp& s) {
    return s.month == 2 && s.day == 29;
}

bool isHour(const Stamp& s, std::size_t hour) {
    const std::size_t month = monthOf(hour / 24);
    return s.month == month + 1 && s.day == hour / 24 - firstDayOf(month) + 1 &&
           s.hour == hour % 24;
}

/// Puts in the next hour, or says what is wrong with the row.
class Filler {
  public:
    Filler(Weather& weather, const std::string& name) : m_weather(weather), m_name(name) {}

    [[nodiscard]] Error wrong(std::size_t row, const std::string& found,
                              const std::string& expected) const {
        return Error{"weather", weatherRowName(row), found, expected, m_name};
    }
    std::optional<Error> light(std::size_t row, const std::string& text,
                               std::optional<double> missing) {
        const auto value = weatherNumber(text);
        if (!value || (missing && *value >= *missing))
            return wrong(row, value ? "missing light, " + text : weatherQuoted(text),
                         "light in W/m2");
        if (*value > kBrightest)
            return wrong(row, text + " W/m2", fmt::format("light up to {:g} W/m2", kBrightest));
        m_weather.ghi.push_back(static_cast<float>(std::max(0.0, *value)));
        return std::nullopt;
    }
    std::optional<Error> air(std::size_t row, const std::string& text,
                             std::optional<double> missing) {
        const auto value = weatherNumber(text);
        if (!value || (missing && *value >= *missing))
            return wrong(row, value ? "missing air, " + text : weatherQuoted(text), "air in degC");
        if (*value < kColdestAir || *value > kWarmestAir)
            return wrong(row, text + " degC",
                         fmt::format("air from {:g} to {:g} degC", kColdestAir, kWarmestAir));
        m_weather.air.push_back(static_cast<float>(*value));
        return std::nullopt;
    }

  private:
    Weather& m_weather;
    const std::string& m_name;
};

Error tooFew(std::size_t found, const std::string& name) {
    return Error{"weather", "", fmt::format("{} hours", found),
                 fmt::format("{} hours; the next is {}", kHoursAYear, stampText(found)), name};
}

} // namespace

std::size_t monthOf(std::size_t day) {
    const auto after = std::upper_bound(kFirstDays.begin(), kFirstDays.end(), day);
    return static_cast<std::size_t>(after - kFirstDays.begin()) - 1;
}

std::size_t firstDayOf(std::size_t month) {
    return kFirstDays.at(month);
}

Outcome<Weather> readWeatherCsv(std::string_view text, const std::string& name) {
    auto read = weatherRowsOf(text, name);
    if (!read)
        return read.error();
    const std::vector<Row>& rows = read.value();
    if (rows.empty())
        return Error{"weather", "row 1", "nothing", "a header with time and ghi_w_m2", name};
    const auto column = [&](std::string_view wanted) -> std::optional<std::size_t> {
        for (std::size_t i = 0; i < rows[0].size(); ++i) {
            std::string_view cell = rows[0][i];
            if (cell.starts_with("\xef\xbb\xbf"))
                cell.remove_prefix(3);
            if (cell == wanted)
                return i;
        }
        return std::nullopt;
    };
    const auto time = column("time");
    const auto light = column("ghi_w_m2");
    const auto air = column("air_c");
    Weather weather;
    weather.says = std::filesystem::path(name).filename().string();
    Filler fill(weather, name);
    if (!time || !light)
        return fill.wrong(0, rows[0].empty() ? "nothing" : weatherQuoted(rows[0][0]),
                          "a header with time and ghi_w_m2");
    for (std::size_t i = 1; i < rows.size(); ++i) {
        const Row& row = rows[i];
        const auto cell = [&](std::size_t at) { return at < row.size() ? row[at] : std::string(); };
        const auto stamp = stampOf(cell(*time));
        const std::size_t next = weather.ghi.size();
        if (!stamp)
            return fill.wrong(i, weatherQuoted(cell(*time)), "a time such as 2001-01-01T00:00");
        if (isLeapDay(*stamp))
            continue;
        if (next == kHoursAYear)
            return fill.wrong(i, weatherQuoted(cell(*time)),
                              fmt::format("no more than {} hours", kHoursAYear));
        if (!isHour(*stamp, next))
            return fill.wrong(i, weatherQuoted(cell(*time)), stampText(next));
        if (auto error = fill.light(i, cell(*light), std::nullopt))
            return *error;
        if (air)
            if (auto error = fill.air(i, cell(*air), std::nullopt))
                return *error;
    }
    if (weather.ghi.size() != kHoursAYear)
        return tooFew(weather.ghi.size(), name);
    return weather;
}

Outcome<Weather> readEpw(std::string_view text, const std::string& name) {
    auto read = weatherRowsOf(text, name);
    if (!read)
        return read.error();
    const std::vector<Row>& rows = read.value();
    Weather weather;
    weather.says = std::filesystem::path(name).filename().string();
    Filler fill(weather, name);
    if (rows.size() <= kEpwHeader || rows[0].size() < 9 || rows[0][0] != "LOCATION")
        return fill.wrong(0,
                          rows.empty() || rows[0].empty() ? "nothing" : weatherQuoted(rows[0][0]),
                          "an EPW file: LOCATION and 7 more lines of header");
    std::array<double, 3> place{}; // latitude, longitude, zone
    for (std::size_t k = 0; k < place.size(); ++k) {
        const auto value = weatherNumber(rows[0][6 + k]);
        if (!value)
            return fill.wrong(0, weatherQuoted(rows[0][6 + k]),
                              "latitude, longitude and zone in fields 7 to 9");
        place[k] = *value;
    }
    weather.latitude = place[0];
    weather.solarTimeOffset = place[1] / 15 - place[2];
    for (std::size_t i = kEpwHeader; i < rows.size(); ++i) {
        const Row& row = rows[i];
        if (row.size() <= kEpwLight)
            return fill.wrong(i, fmt::format("{} fields", row.size()), "an hour of EPW");
        const auto month = weatherNumber(row[1]);
        const auto day = weatherNumber(row[2]);
        const auto hour = weatherNumber(row[3]); // ends then
        if (!month || !day || !hour || *hour < 1 || *hour > 24 || *month < 1 || *day < 1)
            return fill.wrong(i, weatherQuoted(row[1] + "," + row[2] + "," + row[3]),
                              "month, day and hour 1 to 24");
        const Stamp stamp{static_cast<std::size_t>(*month), static_cast<std::size_t>(*day),
                          static_cast<std::size_t>(*hour) - 1};
        if (isLeapDay(stamp))
            continue;
        const std::size_t next = weather.ghi.size();
        if (next == kHoursAYear)
            return fill.wrong(i, "another hour", fmt::format("no more than {}", kHoursAYear));
        if (!isHour(stamp, next))
            return fill.wrong(i, weatherQuoted(row[1] + "," + row[2] + "," + row[3]),
                              stampText(next) + " (its hour is the one that ends)");
        if (auto error = fill.light(i, row[kEpwLight], kNoLight))
            return *error;
        if (auto error = fill.air(i, row[kEpwAir], kNoAir))
            return *error;
    }
    if (weather.ghi.size() != kHoursAYear)
        return tooFew(weather.ghi.size(), name);
    return weather;
}

Outcome<Weather> loadWeather(const std::filesystem::path& path) {
    std::ifstream in(path, std::ios::binary);
    if (!in || std::filesystem::is_directory(path))
        return Error{"weather", "", "nothing that can be read", "a CSV or EPW file", path.string()};
    std::stringstream text;
    text << in.rdbuf();
    const std::string all = text.str();
    return all.starts_with("LOCATION") ? readEpw(all, path.string())
                                       : readWeatherCsv(all, path.string());
}

} // namespace sipper
