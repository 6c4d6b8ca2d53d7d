// SPDX-License-Identifier: GPL-3.0-or-later
// What a project has been through: readings, runs and calibrations in time, and what they say of
// the pack's age.
#pragma once

#include "measure/comparison.hpp"

namespace sipper {

/// A run or a calibration, kept with the project (`x-logbook`); what is unknown stays out.
struct LogEntry {
    std::string when; ///< `2031-04-02T12:15`
    std::string what; ///< `run` or `calibration`
    std::string file; ///< of a run, base name
    std::string at;   ///< id of the stage that was drawn from; the pack
    std::optional<double> hours;
    std::optional<double> ah;
    std::optional<double> wh;
    std::optional<double> meanWatts;
    std::optional<double> ohms;   ///< of the pack, from steps
    std::optional<double> health; ///< as learned
    std::optional<double> resistanceFactor;
};

/// The kept entries in file order; what does not read as one is passed over.
[[nodiscard]] std::vector<LogEntry> logEntries(const Project& project);
/// The project with one more entry at the end.
[[nodiscard]] Project withLogEntry(const Project& project, const LogEntry& entry);
[[nodiscard]] LogEntry entryOfRun(const DischargeRun& run, const std::string& at,
                                  const std::string& when);
/// What a calibration left in the project.
[[nodiscard]] LogEntry entryOfCalibration(const Project& after, const std::string& when);

/// One line of the book.
struct LogLine {
    std::string when;
    std::string title;
    std::string figure;
    bool superseded = false;
};
/// Readings, runs and calibrations, the latest first; what has no time comes last.
[[nodiscard]] std::vector<LogLine> logbookOf(const Project& project);

/// Days since 1970-01-01 of `2031-04-02` or `2031-04-02T12:15`; nothing for anything else.
[[nodiscard]] std::optional<double> dayOf(std::string_view when);
/// The date of a day, `2031-04-02`.
[[nodiscard]] std::string dateText(double day);

struct TrendPoint {
    double day = 0;
    double value = 0;
};
/// A straight line by least squares.
struct Trend {
    std::vector<TrendPoint> points;
    bool line = false;  ///< two days at least, a fortnight apart
    double atFirst = 0; ///< the line's value at the first point's day
    double perDay = 0;  ///< its slope
    [[nodiscard]] double at(double day) const {
        return atFirst + perDay * (day - (points.empty() ? day : points.front().day));
    }
};
struct PackAge {
    Trend capacity;   ///< share of the label, 0-1, of runs at the pack that ended by a cut
    Trend resistance; ///< ohms of the pack
    std::optional<double> underFourFifths; ///< day on which the line falls under 0.8
};
[[nodiscard]] PackAge packAge(const Project& project);

} // namespace sipper
