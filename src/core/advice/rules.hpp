// SPDX-License-Identifier: GPL-3.0-or-later
// Every rule, by subject. Each looks at a solved project and appends what it has to say.
#pragma once

#include "advice/advice.hpp"
#include "project/library.hpp"

namespace sipper::rules {

constexpr double kSliver = 0.02; ///< of charge and hours: worth weighing, not worth stopping for

// trials.cpp
using RuleFunction = void (*)(const RuleInput&, std::vector<Finding>&);
/// A changed project, solved once for all that is asked of it: from the cells and from every
/// source, without chargers and protection. `before` must outlive it.
class Trial {
  public:
    Trial(const RuleInput& before, Project changed);
    /// Does the line stop on more of the charge than it did?
    [[nodiscard]] bool stopsEarlier() const;
    /// Does the rule say nothing about this stage or load?
    [[nodiscard]] bool isSilent(RuleFunction rule, const std::string& subject);

  private:
    const RuleInput& m_before;
    Project m_project;
    std::optional<OperatingSweep> m_sweep; ///< nothing without a pack
    std::optional<std::vector<ExternalLoad>> m_externalLoads;
};
/// Is a rule silent about a subject once the project is `changed`?
[[nodiscard]] bool isSilentOn(const RuleInput& s, const Project& changed, RuleFunction rule,
                              const std::string& subject);
/// The next larger part of the shipped library of the same kind in the stage's place, with which
/// the rule is silent about it; nothing where none is. `amps`: what it has to give.
[[nodiscard]] std::optional<Fix> largerPartFix(const RuleInput& s, const Stage& stage, double amps,
                                               RuleFunction rule);
/// A buck, or where its input comes too near, a buck-boost in the place of a regulator.
[[nodiscard]] std::optional<Fix> switcherFix(const RuleInput& s, const Stage& stage,
                                             RuleFunction rule);
/// Cells of the same size and another chemistry for the same number of them, in the place of
/// alkaline: hydride, else iron disulphide; nothing where the rule would still speak.
[[nodiscard]] std::optional<Fix> otherCellFix(const RuleInput& s, RuleFunction rule);
/// `, from 34 % of the charge down`; empty from full on.
[[nodiscard]] std::string fromCharge(const ChargeInterval& spell);

// madeas.cpp
void setOutOfRange(const RuleInput& s, std::vector<Finding>& out);
void guardNotMadeFor(const RuleInput& s, std::vector<Finding>& out);
void currentDriverOnVolts(const RuleInput& s, std::vector<Finding>& out);

// regulation.cpp
void dropOut(const RuleInput& s, std::vector<Finding>& out);
void passesThrough(const RuleInput& s, std::vector<Finding>& out);
// windows.cpp
void windowLow(const RuleInput& s, std::vector<Finding>& out);
void windowHigh(const RuleInput& s, std::vector<Finding>& out);
void neverAbove(const RuleInput& s, std::vector<Finding>& out);
void burstReset(const RuleInput& s, std::vector<Finding>& out);
// limits.cpp
void overCurrent(const RuleInput& s, std::vector<Finding>& out);
void outputLimitAtLowInput(const RuleInput& s, std::vector<Finding>& out);
void powerLimit(const RuleInput& s, std::vector<Finding>& out);
// heat.cpp
void tooHot(const RuleInput& s, std::vector<Finding>& out);
void linearBurns(const RuleInput& s, std::vector<Finding>& out);
// mains.cpp
void externalWindows(const RuleInput& s, std::vector<Finding>& out);
void headroom(const RuleInput& s, std::vector<Finding>& out);
void unregulated(const RuleInput& s, std::vector<Finding>& out);
void trips(const RuleInput& s, std::vector<Finding>& out);
void socketClass(const RuleInput& s, std::vector<Finding>& out);
void sourceBudget(const RuleInput& s, std::vector<Finding>& out);
void neverActs(const RuleInput& s, std::vector<Finding>& out);
void gaugeBlind(const RuleInput& s, std::vector<Finding>& out);
// paths.cpp
void noise(const RuleInput& s, std::vector<Finding>& out);
void backfeed(const RuleInput& s, std::vector<Finding>& out);
void pathDrop(const RuleInput& s, std::vector<Finding>& out);
// sun.cpp
void panelKnee(const RuleInput& s, std::vector<Finding>& out);
void panelColdVoltage(const RuleInput& s, std::vector<Finding>& out);
void panelSmall(const RuleInput& s, std::vector<Finding>& out);
void darkRun(const RuleInput& s, std::vector<Finding>& out);
void frostLocks(const RuleInput& s, std::vector<Finding>& out);
/// The part of `backfeed` that looks at panels.
void panelBackfeed(const RuleInput& s, std::vector<Finding>& out);
// protection.cpp
void noGuard(const RuleInput& s, std::vector<Finding>& out);
// guards.cpp
void guardFloor(const RuleInput& s, std::vector<Finding>& out);
void guardWastes(const RuleInput& s, std::vector<Finding>& out);
void loadStopsFirst(const RuleInput& s, std::vector<Finding>& out);
void chatter(const RuleInput& s, std::vector<Finding>& out);
void neverReconnects(const RuleInput& s, std::vector<Finding>& out);
void guardDrain(const RuleInput& s, std::vector<Finding>& out);
void shelf(const RuleInput& s, std::vector<Finding>& out);
// wiring.cpp
void noFuse(const RuleInput& s, std::vector<Finding>& out);
void fuseWindow(const RuleInput& s, std::vector<Finding>& out);
void wireAmpacity(const RuleInput& s, std::vector<Finding>& out);
void leadBurns(const RuleInput& s, std::vector<Finding>& out);
void wireDrop(const RuleInput& s, std::vector<Finding>& out);
void polarity(const RuleInput& s, std::vector<Finding>& out);
// cells.cpp
void unlikeCells(const RuleInput& s, std::vector<Finding>& out);
void noCellMonitor(const RuleInput& s, std::vector<Finding>& out);
void implausibleCapacity(const RuleInput& s, std::vector<Finding>& out);
void implausibleRate(const RuleInput& s, std::vector<Finding>& out);
void fits(const RuleInput& s, std::vector<Finding>& out);
void wrongCellForDrain(const RuleInput& s, std::vector<Finding>& out);
void cold(const RuleInput& s, std::vector<Finding>& out);
// charging.cpp
void notRechargeable(const RuleInput& s, std::vector<Finding>& out);
void chargeVoltage(const RuleInput& s, std::vector<Finding>& out);
void chargeRate(const RuleInput& s, std::vector<Finding>& out);
void chargeTopology(const RuleInput& s, std::vector<Finding>& out);
void chargeInput(const RuleInput& s, std::vector<Finding>& out);
void chargeSource(const RuleInput& s, std::vector<Finding>& out);
void freezingCharge(const RuleInput& s, std::vector<Finding>& out);
void recoveryTrap(const RuleInput& s, std::vector<Finding>& out);
void deviceTakesMore(const RuleInput& s, std::vector<Finding>& out);
void endsEarly(const RuleInput& s, std::vector<Finding>& out);
void endTrap(const RuleInput& s, std::vector<Finding>& out);
void chargeHeat(const RuleInput& s, std::vector<Finding>& out);
void chargeLimited(const RuleInput& s, std::vector<Finding>& out);
void dumbCharger(const RuleInput& s, std::vector<Finding>& out);
// faults.cpp
void faultKills(const RuleInput& s, std::vector<Finding>& out);
void setBeforeConnect(const RuleInput& s, std::vector<Finding>& out);
void dividerOff(const RuleInput& s, std::vector<Finding>& out);
// loads.cpp
void guessed(const RuleInput& s, std::vector<Finding>& out);
void ownUse(const RuleInput& s, std::vector<Finding>& out);
void constantPowerRunaway(const RuleInput& s, std::vector<Finding>& out);
// wakes.cpp
void goesToSleep(const RuleInput& s, std::vector<Finding>& out);
void neverStarts(const RuleInput& s, std::vector<Finding>& out);
void capacitorRefill(const RuleInput& s, std::vector<Finding>& out);
void cellTemperature(const RuleInput& s, std::vector<Finding>& out);
void salvagedParallel(const RuleInput& s, std::vector<Finding>& out);
/// Cells that bursts are kept off by a capacitor rather than by more of them: thionyl, and any of
/// over 1 ohm.
[[nodiscard]] bool wantsCapacitor(const Pack& pack);
/// The load with the greatest burst; null where none has one.
[[nodiscard]] const Load* burstingLoad(const Project& p);
/// The load's own input capacitor as one before it, without resistance; the project itself where
/// none is stated. Loads and modes keep their places, stages may not.
[[nodiscard]] Project withInputCapacitor(const Project& project, const Load& load);
/// The smallest capacitor at a load with which `quiet` holds, as a fix; `farad` is its size.
[[nodiscard]] std::optional<Fix> capacitorFix(const Project& project, const std::string& load,
                                              const std::function<bool(const Project&)>& quiet,
                                              double& farad);
// target.cpp
void noRefill(const RuleInput& s, std::vector<Finding>& out);
void shortOfTarget(const RuleInput& s, std::vector<Finding>& out);
/// What would bring a project nearer to its target, by the hours gained for weight and price (each
/// as a share of the project's): parts and settings, no other use of it. Solves every one.
struct TargetFix {
    std::string subject; ///< id of the stage
    Fix fix;
};
[[nodiscard]] std::vector<TargetFix> targetFixes(const Project& project, const Library& library,
                                                 const std::stop_token& stop);

} // namespace sipper::rules
