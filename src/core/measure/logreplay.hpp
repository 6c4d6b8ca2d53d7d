// SPDX-License-Identifier: GPL-3.0-or-later
// One log against the model of the pack that gave it, row by row (docs/model.md: Bench:
// calibration).
#pragma once

#include "line/packmodel.hpp"
#include "measure/discharge.hpp"

namespace sipper {

/// Volts at a time.
struct RunPoint {
    double hours = 0;
    double volts = 0;
};

/// A limit, taken as rectangular, as a standard deviation (JCGM 100:2008, 4.3.7).
[[nodiscard]] double standardUncertainty(double limit);

/// Keeps references to log and sums: they outlive it.
class LogReplay {
  public:
    LogReplay(const DischargeLog& log, const DischargeRun& sums, const DischargeOptions& tester);

    /// Has it a gap over which it is taken to have gone on?
    [[nodiscard]] bool bridged() const { return m_sums.gapAh > 0; }
    /// Standard deviation over mean of the amps on.
    [[nodiscard]] double currentVariation() const { return unrestOf(false); }
    [[nodiscard]] const DischargeRun& sums() const { return m_sums; }

    /// Mean residual of every part of the run over its sigma, put behind `out`. `start`: charge at
    /// row 1, 0-1; `meter`: factor on the model's volts; `gapFactor`: on amps over bridged gaps.
    void residuals(const PackModel& model, double start, double meter, double gapFactor,
                   std::vector<double>& out) const;

    /// Hours that this pack would give as the log was drawn, down to `target` volts; `curve`, where
    /// asked for, takes the volts under load on the way, from the first row on.
    [[nodiscard]] double hours(const PackModel& model, double start, double target,
                               std::vector<RunPoint>* curve = nullptr) const;

    /// The log's own volts with the load on, hours from its first row on.
    [[nodiscard]] std::vector<RunPoint> measured() const;

  private:
    [[nodiscard]] double interval(std::size_t i) const;
    [[nodiscard]] double unrestOf(bool watts) const;
    void part();

    const DischargeLog& m_log;
    const DischargeRun& m_sums;
    double m_most = 0;
    std::vector<double> m_amps; ///< with the tester's own
    std::vector<char> m_on;
    std::vector<char> m_gap;
    std::vector<int> m_part; ///< of each row; -1: none
    std::vector<std::size_t> m_count;
};

} // namespace sipper
