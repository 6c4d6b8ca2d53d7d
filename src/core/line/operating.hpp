// SPDX-License-Identifier: GPL-3.0-or-later
// One operating point: every voltage and current at one charge in one mode.
#pragma once

#include "line/line.hpp"

namespace sipper {

/// Would this stage open for good in a mode (or burst) that lasts `seconds`? A guard whose input is
/// under its cut-off for at least its delay, or a regulator under its input minimum.
/// V at its input under which a part opens in a mode of this length; 0: it never does.
[[nodiscard]] double opensUnder(const Part& part, double seconds);
[[nodiscard]] bool opens(const Part& part, const StageFlow& flow, double seconds);

/// Degrees Celsius of a part that burns `lossWatts` in this ambient.
[[nodiscard]] double partTemperature(const Part& part, double lossWatts, double ambient);

struct OperatingPoint {
    bool collapse = false;
    Flows flows;
    std::vector<double> partC;          ///< temperature of every stage, degC
    std::vector<bool> inside;           ///< is each load inside its window
    std::vector<std::size_t> pluggedIn; ///< the sources that are there, the pack among them
};

/// Solves the line with the pack's wells level at `charge` (0–1), relaxation settled for the mode,
/// in the setting where only the mode's own window (or none) is open. Stages that open are opened
/// one by one from the source outwards; behind them nothing flows. A stage over its limit says so.
/// What `conditions.present` names is there too, and feeds what a select gives it; a project
/// without a pack is solved from those alone.
[[nodiscard]] OperatingPoint operate(const Project& project, const Conditions& conditions,
                                     double charge, std::size_t mode);

/// The same on a line already made; `line` comes back with nothing held open.
[[nodiscard]] OperatingPoint operate(const Project& project, Line& line, Celsius ambient,
                                     double charge, std::size_t mode);

/// Every mode of the project so, the line solved once for all modes that share a setting.
[[nodiscard]] std::vector<OperatingPoint> operateEach(const Project& project, Line& line,
                                                      Celsius ambient, double charge);

} // namespace sipper
