// SPDX-License-Identifier: GPL-3.0-or-later
// What is left of a pack that lies unused, and how often its cells can be filled.
#pragma once

#include "parts/chemistry.hpp"
#include "runtime/runtime.hpp"

namespace sipper {

/// Charge (0–1) at which the resting pack gives `volts`; clamped.
[[nodiscard]] double chargeAtRest(const PackModel& model, double volts);

/// What the pack gives with every load off and every switch open: own use of what can't be switched
/// off, and leakage, in amps at half charge. Not a number on a collapse.
[[nodiscard]] double switchedOffAmps(const Project& project);

/// Volts at which the pack is ruined: series x the floor of its chemistry; 0 for cells that can't
/// be recharged, which are used up, not ruined.
[[nodiscard]] double damageVolts(const Pack& pack);

/// A full pack that lies at the usual temperature with everything off that can be switched off
/// (docs/model.md: Cells and packs). Months of 730.5 h; self-discharge included.
struct ShelfLife {
    double offAmps = 0;                 ///< at the pack
    double selfAmps = 0;                ///< self-discharge of the whole pack
    double noStartMonths = 0;           ///< months after which it no longer starts
    std::string guard;                  ///< id of the first guard; empty without one
    std::optional<double> cutoffMonths; ///< months after which the guard opens
    double openAmps = 0;                ///< at the pack from then on
    std::optional<double> damageMonths; ///< months after which the cells are ruined
};
/// `startsDownTo`: the charge at which it no longer starts. Needs a pack; nothing on a collapse. A
/// pack that nothing empties lies for ever: infinity.
[[nodiscard]] std::optional<ShelfLife> shelfOf(const Project& project, double startsDownTo);

/// Full cycles until four fifths of the capacity are left: a rule of thumb.
struct CycleLife {
    double low = 0;
    double high = 0;
    double depth = 0;    ///< of a cycle, 0-1
    double topVolts = 0; ///< a cell, at the end of a charge
    double rate = 0;     ///< the larger of charge and discharge, in capacities an hour
    bool byAge = false;  ///< the cells are too old before they are worn
};
/// N = N_full DoD^-1.3, halved for each 0.1 V that a 4.2 V lithium cell is charged over 4.1 V, and
/// a third less for each doubling of the rate above 0.5 C (docs/model.md: Cells and packs). Nothing
/// for cells that can't be recharged, of unknown chemistry, or for a depth of 0.
[[nodiscard]] std::optional<CycleLife> cycleLife(const Pack& pack, double depth, double topVolts,
                                                 double rate);
/// For the run as it is: depth from its end, top voltage and rate from the charger where there is
/// one, else the cell's full voltage and the mean draw. No more cycles than runs fit into the years
/// that such cells keep.
[[nodiscard]] std::optional<CycleLife> cycleLife(const Project& project, const Runtime& runtime);

/// `370 to 610`: two digits, for a rule of thumb has no more.
[[nodiscard]] std::string writeCycles(const CycleLife& life);

/// Months as people say them, no longer than such cells keep: `26 months`, `8 to 12 years, for such
/// cells keep no longer`, `6 months, then lead wants a recharge`.
[[nodiscard]] std::string lastsText(double months, Chemistry chemistry);
/// What stands beside hours that are more than such cells keep: `such cells keep 7 to 10 years`;
/// empty where they are not.
[[nodiscard]] std::string ageText(const Project& project, double hours);

/// The run and the wear with the guard at the cut-off of a school (docs/model.md: Protection).
struct PolicyLife {
    CellCare policy;
    double cutoff = 0; ///< V at the pack
    double hours = 0;
    CycleLife life;
};
/// Gentle last. Empty without a guard on the way, or where the chemistry has no schools.
[[nodiscard]] std::vector<PolicyLife> policyLives(const Project& project);

} // namespace sipper
