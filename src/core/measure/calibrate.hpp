// SPDX-License-Identifier: GPL-3.0-or-later
// What measurements teach the model: factors on what is uncertain, no more of them than the data
// tell apart (docs/model.md: Bench: calibration).
#pragma once

#include "measure/checks.hpp"
#include "measure/discharge.hpp"

#include <functional>

namespace sipper {

/// A factor that may move, or a nuisance that may explain a part without being learned.
struct CalibratedParameter {
    std::string id; ///< `health`, `fixed/rail5`, `draw/motor/turn`, `start/2`
    double before = 1;
    double after = 1;
    double sigma = 0; ///< of `after`
    double keeps = 1; ///< of its sigma before anything was measured, 0-1
    Basis basis = Basis::dataSheet;
};

struct CalibratedRun {
    std::string file;
    double predicted = 0; ///< hours, as the project stands
    double measured = 0;
    double calibrated = 0;
};

struct Calibration {
    std::vector<CalibratedParameter> parameters;
    std::vector<CalibratedParameter> nuisance;
    std::vector<std::pair<std::string, std::string>> notFitted; ///< id, not_seen | weak | tied
    std::vector<CalibratedRun> runs;
    std::optional<double> predicted; ///< hours, means of the runs
    std::optional<double> measured;
    std::optional<double> calibrated;
    double chi2 = 0;
    std::size_t observations = 0;
    double reduced = 0;
    Project project; ///< with what moved taken over: keys scaled, basis measured
};

/// From the standing readings of idle, draw, sag and point. Errors: "no_readings" where there are
/// none, "no_pack".
[[nodiscard]] Outcome<Calibration> calibrateByReadings(const Project& project,
                                                       const BenchOptions& ask = {});

/// How far the cells may be off before anything was measured: shares of the label's capacity and
/// of the resistance.
struct PackLimits {
    double health = 0;
    double resistance = 0;
};
[[nodiscard]] PackLimits packLimits(const Pack& pack);

/// The project with what was learned taken over: the keys scaled by after over before, basis
/// measured. Ids of nothing in the project are not expected.
[[nodiscard]] Project withCalibration(const Project& project,
                                      const std::vector<CalibratedParameter>& learned);

struct CalibrateOptions {
    std::string at;  ///< id of a stage that was drawn from; empty: the pack
    double from = 1; ///< charge at the start
    Celsius ambient{20};
    DischargeOptions tester;
};
/// From discharge logs at the pack or behind a stage. Errors: "no_pack", "dangling_id", "no_runs"
/// where a log never has the load on.
[[nodiscard]] Outcome<Calibration> calibrateByDischarge(const Project& project,
                                                        const std::vector<DischargeLog>& logs,
                                                        const CalibrateOptions& ask = {});

/// The project with a tester of constant watts behind stage `at` as its only, critical load: open
/// down to the tester's cut-off, the pack at the charge that the run began with.
[[nodiscard]] Project testerAt(const Project& project, const std::string& at, double watts,
                               const CalibrateOptions& ask);

} // namespace sipper
