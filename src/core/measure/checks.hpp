// SPDX-License-Identifier: GPL-3.0-or-later
// What a meter should say on the bench, in the order in which it is safe to ask, and what it did
// say (docs/model.md: Bench: readings and checks).
#pragma once

#include "parts/reading.hpp"
#include "project/project.hpp"

namespace sipper {

/// Where the bench stands and how full the pack is said to be.
struct BenchOptions {
    std::optional<double> charge; ///< 0-1; nothing: as the pack says
    Celsius ambient{20};
};

enum class CheckVerdict { untested, inside, outside };
[[nodiscard]] std::string_view verdictName(CheckVerdict verdict);

/// One check: what the model expects there, the band of two standard deviations around it, and the
/// standing reading that counts. V, A or degrees Celsius by its quantity.
struct BenchCheck {
    CheckKind kind = CheckKind::point;
    std::string at; ///< id of a stage or load
    PointQuantity quantity = PointQuantity::vOut;
    std::string mode;             ///< id; empty where the check has none
    std::optional<double> light;  ///< W/m2 on the panel, of a charge by one: as read, else usual
    std::optional<double> expect; ///< nothing on a collapse
    double coverageLow = 0;
    double coverageHigh = 0;
    CheckVerdict verdict = CheckVerdict::untested;
    std::optional<double> value;
    std::string reading; ///< id of the reading that counts
    /// What moves it, the strongest first, at most three: the id of an uncertainty source
    /// (measure/uncertainty) and how far its limits move the figure down and up.
    struct Contribution {
        std::string source;
        double down = 0; ///< at most 0
        double up = 0;
    };
    std::vector<Contribution> contributions;

    /// `check/at`, `check/at/mode`, `point/at/quantity/mode`.
    [[nodiscard]] std::string id() const;
};

struct BenchAnalysis {
    std::vector<BenchCheck> checks;
    double charge = 1; ///< of the pack on the bench: as read, else as said
    double chargeLow = 1;
    double chargeHigh = 1;
    std::vector<std::string> superseded; ///< readings that no longer count, by correction
    std::vector<std::string> unmatched;  ///< standing readings of no check
    [[nodiscard]] int count(CheckVerdict verdict) const;
};

/// Orders the checks, expects, and judges. The cells alone feed the line; a limit L is rectangular
/// (JCGM 100:2008, 4.3.7), so that the band is two roots of a third of the sum of squares.
[[nodiscard]] BenchAnalysis analyseBench(const Project& project, const BenchOptions& ask = {});

/// What the model says to each check with the pack at this charge; nothing on a collapse.
[[nodiscard]] std::vector<std::optional<double>> readAt(const Project& project, double charge,
                                                        Celsius ambient,
                                                        const std::vector<BenchCheck>& checks);

/// The limit of error of a usual hand meter at a figure, in its unit; `accuracy`: a share of the
/// figure in place of the usual one.
[[nodiscard]] double meterLimit(double figure, Unit unit, std::optional<double> accuracy = {});

/// The least charge at which the resting pack has these volts; 1 over those of full cells, 0 under
/// those of empty ones.
[[nodiscard]] double leastChargeAt(const Pack& pack, double volts);

/// The standing readings in file order: those that no later one supersedes.
[[nodiscard]] std::vector<const Reading*> activeReadings(const Project& project);

} // namespace sipper
