// SPDX-License-Identifier: GPL-3.0-or-later
// Figures that several kinds have, by type: what a part that lacks one answers is said here once,
// and a slip of the name does not compile.
#pragma once

#include "parts/stage.hpp"

namespace sipper {

/// The plain number of a figure, or 0 where it is left out.
template <class Q>
[[nodiscard]] double orZero(const std::optional<Q>& figure) {
    return figure ? figure->value() : 0;
}
[[nodiscard]] inline double orZero(const std::optional<double>& figure) {
    return figure.value_or(0);
}

/// Pieces of cells that are bought: as stated, else one for each cell.
[[nodiscard]] double piecesOf(const Pack& pack);
/// So many cells in series and in parallel; stated pieces grow and shrink with them.
void countCells(Pack& pack, double series, double parallel);

/// What every regulator and charger has; null for the rest.
[[nodiscard]] const ActivePart* active(const Part& part);
[[nodiscard]] ActivePart* active(Part& part);

/// A that a regulator holds in place of volts. Nothing where it holds volts.
[[nodiscard]] std::optional<Amps> setCurrentOf(const Part& part);

/// V at the output: of a regulator its set-point, of an adapter what it gives. Nothing where the
/// part has none.
[[nodiscard]] std::optional<Volts> setPointOf(const Part& part);
/// False where the part has no set-point.
[[nodiscard]] bool setPointTo(Part& part, Volts volts);

/// A that the part takes itself while it works: own use, or ground current; 0 where it has none.
[[nodiscard]] double quiescentOf(const Part& part);
/// V at the input that damages it; 0 where nothing is said.
[[nodiscard]] double neverAboveOf(const Part& part);
/// V at the input under which it stops; 0 where nothing is said.
[[nodiscard]] double inputMinOf(const Part& part);
/// V that a part needs at its input to start; 0 where nothing is said.
[[nodiscard]] double startMinOf(const Part& part);
/// Degrees Celsius that the part may reach; 0 where nothing is said.
[[nodiscard]] double maxPartOf(const Part& part);
/// V at the end stop of its trimmer: `set_max_v`, else `adjust_max_v`; 0 where nothing is said.
[[nodiscard]] double endStopOf(const Part& part);
[[nodiscard]] bool hasFan(const Part& part);
/// K per W of loss, with the fan's share where it has one (rule of thumb: 0.45); 0 where nothing
/// is said.
[[nodiscard]] double thetaOf(const Part& part);

/// W and A at a regulator's or charger's output, A in its inductor; 0: no such limit.
struct OutputLimits {
    double amps = 0;
    double watts = 0;
    double inductor = 0;
    double rated = 0; ///< A that a linear part is made for
};
[[nodiscard]] OutputLimits limitsOf(const Part& part);

/// The loss terms of a converter (docs/model.md: Stages): own use in A, then W, V and ohms on the
/// inductor current. All 0 for what is none.
struct LossTerms {
    double quiescent = 0;
    double fixed = 0;
    double drop = 0;
    double resistance = 0;
    double switching = 0; ///< W per V at the input
};
[[nodiscard]] LossTerms lossTermsOf(const Part& part);

/// V and ohms that a part in the way costs: diode, selector, filter, guard, fuse, switch.
struct SeriesTerms {
    double drop = 0;
    double resistance = 0;
};
[[nodiscard]] SeriesTerms seriesTermsOf(const Part& part);

/// A at its output under which a part goes to sleep; 0: it stays awake.
[[nodiscard]] double sleepsBelowOf(const Part& part);

/// What people know a part by: the volts and the amps of its label.
[[nodiscard]] std::optional<double> labelVolts(const Part& part);
[[nodiscard]] std::optional<double> labelAmps(const Part& part);

} // namespace sipper
