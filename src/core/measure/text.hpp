// SPDX-License-Identifier: GPL-3.0-or-later
// The checks of the bench in words: what to do, where to touch, what to expect.
#pragma once

#include "measure/calibrate.hpp"
#include "measure/checks.hpp"
#include "measure/comparison.hpp"

namespace sipper {

/// What is checked, as an order: `Four cells, nothing connected`, `Buck 12, set with nothing on
/// it`.
[[nodiscard]] std::string checkTitle(const Project& project, const BenchCheck& check);
/// Where the meter goes and how it is set: `volts across the pack's terminals`.
[[nodiscard]] std::string checkWhere(const Project& project, const BenchCheck& check);
/// What was read, every digit of it.
[[nodiscard]] std::string readingFigure(const BenchCheck& check, double value);
/// A figure of the check in its unit.
[[nodiscard]] std::string checkFigure(const BenchCheck& check, double value);
/// The band, both ends with the same prefix and decimals: `11.8 – 12.2 V`; `collapses` where
/// nothing is expected.
[[nodiscard]] std::string checkBand(const BenchCheck& check);
/// An uncertain thing by its id: `the losses of Buck 12`, `what Recorder draws in “Listening”`.
[[nodiscard]] std::string sourceText(const Project& project, const std::string& id);
/// What would move a check to its reading: `It would take the losses of Buck 12 (down to −0.12 V)`;
/// empty where it is not outside.
[[nodiscard]] std::string contributionText(const Project& project, const BenchCheck& check);
/// A factor that was learned: `Cells hold`, `Own use of Buck 12`.
[[nodiscard]] std::string tunedName(const Project& project, const std::string& id);
/// `94 % ± 3`, of what it was for all but health, which is a share by itself.
[[nodiscard]] std::string tunedFigure(const CalibratedParameter& tuned);
/// What was left alone and why, in one sentence; empty where nothing was.
[[nodiscard]] std::string leftAloneText(const Project& project, const Calibration& calibration);
/// A run against what was predicted: `It ran 4 h 05 where 4 h 20 (3 h 50 – 4 h 40) was predicted:
/// inside.`
[[nodiscard]] std::string comparedText(const RunComparison& run);
/// Where the difference comes from, by what was learned: `38 min short: 29 min cells hold, 9 min
/// resistance of the cells`; empty where nothing was.
[[nodiscard]] std::string becauseText(const Project& project, const RunComparison& run);
/// Two figures in one unit, with as many digits as tell them apart: `110 – 150 mA`.
[[nodiscard]] std::string writeSpan(double low, double high, Unit unit);

} // namespace sipper
