// SPDX-License-Identifier: GPL-3.0-or-later
// A run that was measured over what was predicted for it, and what makes the difference
// (docs/model.md: Bench: predicted and measured, shown).
#pragma once

#include "measure/calibrate.hpp"
#include "measure/logreplay.hpp"

#include <stop_token>

namespace sipper {

/// Volts that eight builds in ten stay within at a time. A build that has ended is at the end's
/// volts.
struct ReplayQuantiles {
    double hours = 0;
    double low = 0;
    double high = 0;
};

struct RunComparison {
    std::string file;
    std::vector<RunPoint> measured;   ///< under load
    std::vector<RunPoint> predicted;  ///< as the project stands
    std::vector<RunPoint> calibrated; ///< as learned; empty where nothing was
    std::vector<ReplayQuantiles> band;
    std::vector<RunPoint> residual; ///< V, measured less predicted, until the first of them ends
    double measuredHours = 0;
    double predictedHours = 0;
    double lowHours = 0;      ///< one build in ten ends sooner
    double highHours = 0;     ///< one build in ten ends later
    double reckonedHours = 0; ///< the label's amp-hours over the log's mean amps
    std::optional<double> calibratedHours;
    /// What each thing that was learned makes of the difference, in hours, in the order learned.
    std::vector<std::pair<std::string, double>> attribution;

    /// Eight builds in ten end so.
    [[nodiscard]] bool inside() const {
        return measuredHours >= lowHours && measuredHours <= highHours;
    }
};

inline constexpr int kComparedBuilds = 64;

/// Every log over its prediction. The builds differ in capacity and resistance by their limits (as
/// calibration takes them) and in the charge at the start by 0.01, behind a stage in the losses of
/// the regulators too. At the pack the model is drawn from as the log drew. Behind a stage, the
/// band's volts are the prediction's, stretched to each build's hours. Errors: as
/// `calibrateByDischarge`; "stopped".
[[nodiscard]] Outcome<std::vector<RunComparison>> compareRuns(const Project& project,
                                                              const std::vector<DischargeLog>& logs,
                                                              const CalibrateOptions& ask,
                                                              const Calibration* learned,
                                                              const std::stop_token& stop = {});

/// What the model gives of a label at constant watts, 0-1, at so many rates between two, in equal
/// ratios. Watts over 0.
struct DeliveredShare {
    double watts = 0;
    double share = 0;
};
[[nodiscard]] std::vector<DeliveredShare> givesOf(const Project& project,
                                                  const CalibrateOptions& ask, double labelWh,
                                                  double fromWatts, double toWatts,
                                                  std::size_t count);

/// Watt-hours on the label of the pack's cells, all of them.
[[nodiscard]] double labelWhOf(const Pack& pack);

/// How sure a verdict is: measured inputs out of all its inputs.
struct Evidence {
    std::size_t measured = 0; ///< cells, draws, regulators with losses
    std::size_t all = 0;
};
[[nodiscard]] Evidence restsOn(const Project& project);

} // namespace sipper
