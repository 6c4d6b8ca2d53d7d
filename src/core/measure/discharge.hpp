// SPDX-License-Identifier: GPL-3.0-or-later
// Logs of packs run down: what they gave, at what rate, and what that says of the cells
// (docs/model.md: Bench: discharge logs).
#pragma once

#include "base/outcome.hpp"

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace sipper {

/// One log as it was read: SI, seconds from its first usable row.
struct DischargeLog {
    std::string file; ///< base name
    std::vector<double> seconds;
    std::vector<double> volts;
    std::vector<double> amps;
    std::size_t badRows = 0;
    std::size_t outOfOrder = 0;
    std::size_t clockSetBack = 0;
    std::optional<double> warmest; ///< degC
};

/// Reads a log: a header that names time, volts, and amps or watts; temperature where there is one.
/// Bad rows are counted and passed over. Errors: "log_format", "log_empty"; "log_totals" for a
/// table of runs (an energy or a capacity beside times that do not rise).
[[nodiscard]] Outcome<DischargeLog> readDischarge(std::string_view text, const std::string& file);

/// What is known of the tester and the pack.
struct DischargeOptions {
    double ownWatts = 0; ///< that the tester takes besides what it shows
    std::optional<double> labelWh;
    std::optional<double> cutVolts;
};

/// What one log gave. Amp- and watt-hours hold the tester's own.
struct DischargeRun {
    std::string file;
    /// A row of a table: no log was kept, and a figure that does not follow from the row is 0.
    bool fromTotals = false;
    std::size_t rows = 0;
    std::size_t badRows = 0;
    std::size_t outOfOrder = 0;
    std::size_t clockSetBack = 0;
    std::vector<std::pair<double, double>> gaps; ///< s
    std::size_t firstOn = 0;                     ///< row a
    std::size_t lastOn = 0;                      ///< row b
    double ah = 0;
    double wh = 0;
    double ownAh = 0;
    double ownWh = 0;
    double gapAh = 0;
    double hours = 0;
    double meanVolts = 0;
    double meanAmps = 0;
    double meanWatts = 0;
    double startVolts = 0;
    double endVolts = 0;
    std::optional<double> restVolts;
    bool cut = false;         ///< it was ended, by the tester or a guard; else the log ends first
    bool contradicts = false; ///< a row of totals whose figures do not agree: no fit rests on it
    std::optional<double> ohms;
    std::size_t ohmSteps = 0;
    std::optional<double> recoveryVolts;
    std::optional<double> recoverySeconds;
    std::optional<double> warmest;
    std::optional<double> efficiency; ///< of the label
};

/// What no fit rests on: a row of a table, or a fit that was not made.
struct LeftAlone {
    std::string what;
    std::string why;
    bool row = false;
};

/// Runs by their totals (`totals.hpp`).
struct DischargeTable {
    std::vector<DischargeRun> runs;
    std::vector<LeftAlone> leftAlone; ///< its rows
};

struct DischargeGroup {
    std::vector<std::size_t> runs;
    double meanWatts = 0;
    double meanAmps = 0;
    double ah = 0;
    double wh = 0;
    std::optional<double> efficiency;
    std::optional<double> spread; ///< of Wh, over the mean; nothing for a single one
};

/// Two wells fitted to groups of different rates (kinetic battery model).
struct TwoWellFit {
    double capacityAh = 0;
    double availableFraction = 0;
    double wellRate = 0; ///< per hour
    double sigmaFraction = 0;
    double sigmaLnRate = 0;
};

struct Discharges {
    std::vector<DischargeRun> runs;
    std::vector<DischargeGroup> groups; ///< by watts, rising
    std::optional<double> gapWh;        ///< most less least
    std::optional<double> gapShare;
    std::optional<double> peukert;
    std::optional<TwoWellFit> twoWell;
    std::vector<LeftAlone> leftAlone;
    /// Does it count in groups and fits?
    [[nodiscard]] static bool counts(const DischargeRun& run) {
        return run.cut && !run.contradicts;
    }
};

[[nodiscard]] DischargeRun sumUp(const DischargeLog& log, const DischargeOptions& ask = {});
[[nodiscard]] Discharges dischargesOf(const std::vector<DischargeLog>& logs,
                                      const DischargeOptions& ask = {});
[[nodiscard]] Discharges dischargesOf(const DischargeTable& table);

/// Ah that two wells of `capacity` give at a constant current until the first is empty (Manwell and
/// McGowan 1993). Amps over 0.
[[nodiscard]] double twoWellAh(double capacity, double fraction, double rate, double amps);
/// Seconds between rows, the middle one of all; 0 under two rows.
[[nodiscard]] double usualStep(const std::vector<double>& seconds);

} // namespace sipper
