// SPDX-License-Identifier: GPL-3.0-or-later
// What every chemistry has in common, per cell: voltages that people know it by.
#pragma once

#include "parts/names.hpp"

namespace sipper {

struct Cell;

/// Volts of one cell. The three cut-offs are the schools of the design's section 9; 0 where the
/// chemistry has none (primary lithium is simply used up).
struct ChemistryVolts {
    double fresh;    ///< full and resting
    double nominal;  ///< what the label says
    double empty;    ///< what a thing made for such cells still works at
    double squeeze;  ///< cut-off, to the last drop: also the floor that no cut-off should pass
    double balanced; ///< cut-off
    double gentle;   ///< cut-off
};

[[nodiscard]] const ChemistryVolts& voltsOf(Chemistry chemistry);

/// Volts of one cell on its label: as it says, else those of its chemistry.
[[nodiscard]] double nominalOf(const Cell& cell);

/// Under this a cell that can be recharged takes lasting harm: the usual data-sheet floor, V a
/// cell.
[[nodiscard]] double floorVolts(Chemistry chemistry);

/// Full cycles to four fifths of the capacity, at 0.5 C and charged gently: from poor to good
/// cells, by usual data sheets. 0 for what is used once.
struct CycleBand {
    double low;
    double high;
};
[[nodiscard]] CycleBand fullCycles(Chemistry chemistry);

/// How long such cells keep whatever is drawn, in years from poor to good, and after how many
/// months at rest they want a recharge (0: they do not). By what makers of such cells usually
/// promise; 0 where nothing is known.
struct CalendarLife {
    double low = 0;
    double high = 0;
    double rechargeMonths = 0;
};
[[nodiscard]] CalendarLife calendarLife(Chemistry chemistry);

/// A supercapacitor: of no chemistry of ours, by the name of its size.
[[nodiscard]] bool isSupercapacitor(const Cell& cell);

/// May the cell be charged again: as it says, else by its chemistry.
[[nodiscard]] bool canRecharge(const Cell& cell);

/// Degrees Celsius from which the cell may be charged: as it says, else 0 for rechargeable lithium
/// (metal plates out of it in the cold); nothing where nothing is known.
[[nodiscard]] std::optional<double> chargeFromOf(const Cell& cell);
/// Nickel cells, which keep only part of what they are given and have no set voltage.
[[nodiscard]] bool isNickel(Chemistry chemistry);

/// Where a guard that opens at `cutoff` may close again, in volts a cell: over what such cells
/// usually come back to by themselves, under what they rest at when they hold charge. A rule of
/// thumb, to start from.
[[nodiscard]] double usualReconnect(Chemistry chemistry, double cutoff);

/// The cut-off of a school, in volts a cell; 0 where the chemistry has none.
[[nodiscard]] double policyCutoff(Chemistry chemistry, CellCare care);

} // namespace sipper
