// SPDX-License-Identifier: GPL-3.0-or-later
// The charger that fits a pack, and what it charges from: socket, adapter or sun, as the brief
// refills it. Each is a part of the library, and the hours are those of a solved charge.
#pragma once

#include "charge/charge.hpp"
#include "project/library.hpp"

#include <optional>
#include <stop_token>

namespace sipper {

/// How a pack is refilled.
struct ChargerChoice {
    std::string by;              ///< socket, adapter, vehicle, sun: as the brief says it
    Stage source;                ///< a part of the library, or what the project has
    Stage charger;               ///< set for the pack as far as it can be set
    std::string part;            ///< name of the charger in the library
    std::optional<Stage> fuse;   ///< at the cells' end of its leg, where one is wanted
    std::optional<double> hours; ///< from 10 % to full with the device off; nothing by the sun
    double grams = 0;            ///< of the charger, and of a panel: a socket or adapter stays
    double price = 0;            ///< of all of it
};

/// May this charger charge this pack at all: its ends by the cells' chemistry, its volts theirs (or
/// settable to them), its amps no more than they take? The charger with what can be set, set.
[[nodiscard]] std::optional<Charger> chargerFitted(const Stage& charger, const Pack& pack);

/// Does the library have a charger for this pack, and a source of the way `by` that feeds it?
[[nodiscard]] bool canRefill(const Pack& pack, const std::string& by, const Library& library);

/// The ways by which a project's cells are filled, in the order of its brief; a socket, else an
/// adapter, where it says nothing. Empty where they are swapped alone.
[[nodiscard]] std::vector<std::string> refillWays(const Project& project);

/// The refill of a project's pack by the first of `refillWays` that has a charger: the cheapest
/// that is done overnight, else the fastest. A source among `sources` is kept; else it is one of
/// the library, the weakest that is strong enough for the charger. Nothing where the cells are
/// swapped, or no charger of the library fits.
[[nodiscard]] std::optional<ChargerChoice>
chooseCharger(const Project& project, const std::vector<Stage>& sources, const Library& library);

/// One way to fill a pack, really solved on it with the device off, from 10 %.
struct FillChoice {
    ChargerChoice choice;
    std::optional<ChargeLimit> heldBy;
    std::optional<ChargeFailure> never; ///< why it never fills it; by the sun nothing is said
};
/// Every charger of the library that fits the project's pack, from a socket, an adapter, a vehicle
/// and the sun: the fastest of each first, then the others, those that never fill it last. A source
/// that the project has is kept. Empty without a pack, or where nothing fits. Ends early, with what
/// was solved by then, when asked to stop.
[[nodiscard]] std::vector<FillChoice> fillChoices(const Project& project, const Library& library,
                                                  const std::stop_token& stop = {});

/// The project with other cells, and with the cut-off that they want.
struct CellChoice {
    Project with;
    std::optional<double> hours; ///< it runs; nothing where it does not run down
    double gramsMore = 0;
    double priceMore = 0;
};
/// In place of cells that must not be charged those of the library that can be, each with the
/// guard's volts for them (a guard comes in where there is none) and really run: those that reach
/// the brief's target, else what the present ones run, the lightest first; then the others, the
/// longest first. Empty without a pack, and when asked to stop.
[[nodiscard]] std::vector<CellChoice>
chargeableCells(const Project& project, const Library& library, const std::stop_token& stop = {});

/// The project with source and charger of the refill; the source is used if it is there already.
[[nodiscard]] Project withRefill(Project project, const ChargerChoice& refill);

} // namespace sipper
