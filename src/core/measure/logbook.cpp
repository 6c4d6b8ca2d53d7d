// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/logbook.hpp"

#include "measure/text.hpp"
#include "project/extralist.hpp"
#include "project/json.hpp"
#include "project/tree.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <charconv>
#include <chrono>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr const char* kBookKey = "x-logbook";
constexpr double kFortnight = 14;
constexpr double kUsedUp = 0.8;
constexpr double kMostYears = 30; ///< further than a straight line says anything

Trend trendOf(std::vector<TrendPoint> points) {
    Trend t;
    std::stable_sort(points.begin(), points.end(),
                     [](const TrendPoint& a, const TrendPoint& b) { return a.day < b.day; });
    t.points = std::move(points);
    if (t.points.empty())
        return t;
    const auto count = static_cast<double>(t.points.size());
    double day = 0;
    double value = 0;
    for (const TrendPoint& p : t.points) {
        day += p.day / count;
        value += p.value / count;
    }
    double across = 0;
    double along = 0;
    for (const TrendPoint& p : t.points) {
        across += (p.day - day) * (p.value - value);
        along += (p.day - day) * (p.day - day);
    }
    t.line = t.points.back().day - t.points.front().day >= kFortnight;
    t.perDay = t.line ? across / along : 0;
    t.atFirst = value + t.perDay * (t.points.front().day - day);
    return t;
}

LogLine lineOf(const Project& p, const LogEntry& e) {
    LogLine line;
    line.when = e.when;
    if (e.what == "run") {
        line.title = e.at.empty() || (p.packStage() && e.at == p.packStage()->id)
                         ? "Run down, " + e.file
                         : fmt::format("Run down behind {}, {}", nameAt(p, e.at), e.file);
        if (e.hours && e.ah && e.wh)
            line.figure = fmt::format("{}, {}, {}", writeHours(*e.hours),
                                      writeQuantity(*e.ah, Unit::ampereHour),
                                      writeQuantity(*e.wh, Unit::wattHour));
        return line;
    }
    line.title = "Learned from what was measured";
    if (e.health)
        line.figure = "holds " + writeShare(*e.health);
    if (e.resistanceFactor)
        line.figure += fmt::format("{}resistance {}", line.figure.empty() ? "" : ", ",
                                   writeShare(*e.resistanceFactor));
    return line;
}

} // namespace

std::vector<LogEntry> logEntries(const Project& project) {
    std::vector<LogEntry> list;
    for (const Json& json : extraList(project, kBookKey)) {
        LogEntry e;
        e.when = keptText(json, "when");
        e.what = keptText(json, "what");
        e.file = keptText(json, "file");
        e.at = keptText(json, "at");
        e.hours = keptFigure(json, "hours");
        e.ah = keptFigure(json, "ah");
        e.wh = keptFigure(json, "wh");
        e.meanWatts = keptFigure(json, "mean_w");
        e.ohms = keptFigure(json, "ohm");
        e.health = keptFigure(json, "health");
        e.resistanceFactor = keptFigure(json, "resistance_factor");
        if (e.what == "run" || e.what == "calibration")
            list.push_back(std::move(e));
    }
    return list;
}

Project withLogEntry(const Project& project, const LogEntry& e) {
    Json book = extraList(project, kBookKey);
    Json json = Json::object();
    for (const auto& [key, text] : {std::pair{"when", e.when}, std::pair{"what", e.what},
                                    std::pair{"file", e.file}, std::pair{"at", e.at}})
        if (!text.empty())
            json[key] = text;
    for (const auto& [key, figure] :
         {std::pair{"hours", e.hours}, std::pair{"ah", e.ah}, std::pair{"wh", e.wh},
          std::pair{"mean_w", e.meanWatts}, std::pair{"ohm", e.ohms}, std::pair{"health", e.health},
          std::pair{"resistance_factor", e.resistanceFactor}})
        if (figure)
            json[key] = number(*figure);
    book.push_back(std::move(json));
    return withExtraList(project, kBookKey, book);
}

LogEntry entryOfRun(const DischargeRun& run, const std::string& at, const std::string& when) {
    LogEntry e;
    e.when = when;
    e.what = "run";
    e.file = run.file;
    e.at = at;
    e.hours = run.hours;
    e.ah = run.cut ? std::optional(run.ah) : std::nullopt;
    e.wh = run.cut ? std::optional(run.wh) : std::nullopt;
    e.meanWatts = run.meanWatts;
    e.ohms = run.ohms;
    return e;
}

LogEntry entryOfCalibration(const Project& after, const std::string& when) {
    LogEntry e;
    e.when = when;
    e.what = "calibration";
    if (const Pack* pack = after.pack()) {
        e.health = pack->health;
        e.resistanceFactor = pack->resistanceFactor;
    }
    return e;
}

std::vector<LogLine> logbookOf(const Project& project) {
    std::vector<LogLine> lines;
    for (const LogEntry& e : logEntries(project))
        lines.push_back(lineOf(project, e));
    for (const Reading& r : project.readings.all()) {
        BenchCheck c;
        c.kind = r.checks;
        c.at = r.at;
        c.mode = r.mode;
        c.quantity = r.quantity.value_or(PointQuantity::vOut);
        LogLine line;
        line.when = r.when;
        line.title = checkTitle(project, c);
        line.figure = readingFigure(c, r.value());
        for (const Reading& later : project.readings.all())
            line.superseded = line.superseded || later.supersedes == r.id;
        lines.push_back(std::move(line));
    }
    std::stable_sort(lines.begin(), lines.end(),
                     [](const LogLine& a, const LogLine& b) { return a.when > b.when; });
    return lines;
}

std::optional<double> dayOf(std::string_view when) {
    const auto part = [&](std::size_t at, std::size_t count) -> std::optional<int> {
        int value = 0;
        if (at + count > when.size())
            return std::nullopt;
        const char* end = when.data() + at + count;
        const auto [stop, code] = std::from_chars(when.data() + at, end, value);
        return code == std::errc{} && stop == end ? std::optional(value) : std::nullopt;
    };
    const auto year = part(0, 4);
    const auto month = part(5, 2);
    const auto day = part(8, 2);
    if (!year || !month || !day || when[4] != '-' || when[7] != '-')
        return std::nullopt;
    const std::chrono::year_month_day date{std::chrono::year{*year},
                                           std::chrono::month{static_cast<unsigned>(*month)},
                                           std::chrono::day{static_cast<unsigned>(*day)}};
    if (!date.ok())
        return std::nullopt;
    auto days = static_cast<double>(std::chrono::sys_days{date}.time_since_epoch().count());
    if (when.size() >= 16 && when[10] == 'T')
        if (const auto hour = part(11, 2))
            if (const auto minute = part(14, 2))
                days += (*hour + *minute / 60.0) / 24;
    return days;
}

std::string dateText(double day) {
    const std::chrono::year_month_day date{
        std::chrono::sys_days{std::chrono::days{static_cast<int>(std::floor(day))}}};
    return fmt::format("{:04}-{:02}-{:02}", static_cast<int>(date.year()),
                       static_cast<unsigned>(date.month()), static_cast<unsigned>(date.day()));
}

PackAge packAge(const Project& project) {
    PackAge age;
    const Pack* pack = project.pack();
    if (!pack)
        return age;
    const double label = pack->parallel * pack->cell.capacity.value();
    std::vector<TrendPoint> held;
    std::vector<TrendPoint> ohms;
    for (const LogEntry& e : logEntries(project)) {
        const auto day = dayOf(e.when);
        const bool atPack = e.at.empty() || e.at == project.packStage()->id;
        if (!day || e.what != "run" || !atPack)
            continue;
        if (e.ah && label > 0)
            held.push_back({*day, *e.ah / label});
        if (e.ohms)
            ohms.push_back({*day, *e.ohms});
    }
    age.capacity = trendOf(std::move(held));
    age.resistance = trendOf(std::move(ohms));
    const Trend& t = age.capacity;
    if (t.line && t.perDay < 0) {
        const double day = t.points.front().day + (kUsedUp - t.atFirst) / t.perDay;
        if (day - t.points.back().day < kMostYears * 365.25)
            age.underFourFifths = day;
    }
    return age;
}

} // namespace sipper
