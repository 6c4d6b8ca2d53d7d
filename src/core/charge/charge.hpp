// SPDX-License-Identifier: GPL-3.0-or-later
// One charge of a pack from a source: how long, what holds it back when, and where the energy goes.
#pragma once

#include "base/outcome.hpp"
#include "charge/limit.hpp"
#include "project/project.hpp"

#include <map>
#include <stop_token>

namespace sipper {

/// Why a charge never comes to its end, the first that holds.
enum class ChargeFailure {
    notRechargeable,
    tooCold,
    wrongTopology,
    inputTooHigh,
    sourceTooWeak,
    recoveryTrap,
    endTrap,
    deviceTakesMore, ///< what hangs on the node takes as much as the charger gives, or more
    tooSlow,         ///< it gains, but is not full after 60 days
    endsEarly        ///< it ends far from full
};
[[nodiscard]] std::string_view failureName(ChargeFailure never);

struct ChargeOptions {
    std::string charger;             ///< id; empty: the first of the project
    std::string source;              ///< id; empty: where its first feed comes from
    double from = 0.1;               ///< charge at the start, 0 to 1
    std::optional<std::size_t> mode; ///< held throughout; nothing: the base mode
    std::optional<Celsius> ambient;  ///< nothing: the brief's typical
    std::vector<ChargeLimit> lifted; ///< taken away, to see what comes next
    double light = 800;              ///< W/m2, steady, on a panel that is the source
    int alike = 1;                   ///< chargers like this one, with packs like its, on the source
    bool ledger = true;              ///< with every part's share
    double stepShare = 1;            ///< of the usual steps; halves them for tests
    bool off = false;                ///< the output switched off meanwhile
    bool besideOff = true;           ///< and say beside it how long it takes with the output off
    std::stop_token stop = {};       ///< asked to stop, the charge answers with what is known
};

struct ChargePhase {
    double from = 0;          ///< hours
    std::optional<double> to; ///< nothing: it never ends
    ChargeLimit limit = ChargeLimit::cc;
};

struct ChargePoint {
    double hours = 0;
    double charge = 0; ///< 0–1, both wells
    double packVolts = 0;
    double packAmps = 0;  ///< into the pack
    double inputAmps = 0; ///< into the charger
    double inputVolts = 0;
    double loss = 0; ///< W in the charger
    // The pack as the limits saw it, so that the moment can be asked again.
    double openCircuit = 0; ///< V, what has sagged counted in
    double ohms = 0;
    bool recovering = false;
};

/// Watt-hours of a charge: input = way + charger + loads + heat in the pack + stored.
struct ChargeLedger {
    double input = 0; ///< at the source's terminals
    double charger = 0;
    double packHeat = 0; ///< resistance, relaxation, and what the cells do not keep
    double stored = 0;
    std::map<std::string, double> stages; ///< of the way, and behind the node
    std::map<std::string, double> loads;

    /// What the entries miss of the input, as a share of it.
    [[nodiscard]] double imbalance() const;
};

struct ChargeRun {
    std::string charger;
    std::string source;
    std::optional<double> light; ///< W/m2, where that is a panel
    std::string pack;
    std::size_t mode = 0;
    double from = 0.1;
    std::optional<double> hoursTo80;
    std::optional<double> hoursToFull;
    std::optional<ChargeFailure> failure;
    std::optional<double>
        offHoursToFull;                 ///< with the output switched off; nothing: never so either
    std::optional<double> endsAtCharge; ///< 0 to 1, where the charger ends it
    std::optional<double> endsAtHours;
    /// Amps at the pack's node, means over the whole charge, or over a full cycle where a guard or
    /// an input minimum opens and closes: what the device takes while it is on, what the charger
    /// gives.
    double takesAmps = 0;
    double givesAmps = 0;
    double endAmps = 0;    ///< at which the charger ends it
    double setAmps = 0;    ///< that it is set to
    bool cutShort = false; ///< the budget was used up first: what is known by then
    std::vector<ChargePhase> phases;
    double inputWh = 0;
    double storedWh = 0;
    double peakLoss = 0;
    double peakPart = 0; ///< degC
    std::vector<ChargePoint> curve;
    ChargeLedger ledger;
    // What goes on after a charger that does not end by itself.
    double afterAmps = 0; ///< into the full pack, of a direct or timed one

    /// The phase with the most hours of those that the person can lift: what holds it back.
    [[nodiscard]] std::optional<ChargeLimit> bindingLimit() const;
    [[nodiscard]] double hoursLimitedBy(ChargeLimit limit) const;
};

/// Does the current into the pack end its charges? A clock, -dV or dT/dt does otherwise.
[[nodiscard]] bool endsByCurrent(const Charger& charger);

/// The chargers of a project, and the sources of one, by id.
[[nodiscard]] std::vector<std::string> chargersOf(const Project& project);
[[nodiscard]] std::vector<std::string> chargeSources(const Project& project,
                                                     const std::string& charger);

/// Charges the pack on the stepper (docs/model.md: Charging). Ids that do not fit are an Error; so
/// is a project without a charger.
[[nodiscard]] Outcome<ChargeRun> chargeOf(const Project& project, const ChargeOptions& ask = {});

/// The refill that people mean: the first charger, from 10 %, the device in its base mode, from the
/// source by which the brief refills it, else from its first. Nothing without a charger.
[[nodiscard]] ChargeOptions refillAsk(const Project& project);
[[nodiscard]] std::optional<ChargeRun> refillOf(const Project& project);

/// What each limit alone would allow at a moment of a charge, in amps into the pack.
[[nodiscard]] Outcome<LimitCurrents> ladderAt(const Project& project, const ChargeOptions& ask,
                                              const ChargePoint& point);
/// The same at about `count` moments spread over the whole charge, with their hours.
[[nodiscard]] std::vector<std::pair<double, LimitCurrents>> laddersOf(const Project& project,
                                                                      const ChargeOptions& ask,
                                                                      const ChargeRun& charge,
                                                                      std::size_t count);

} // namespace sipper
