// Every rule, by subject. Each looks at a solved project and appends what it has to say.
#pragma once

#include "advice/advice.hpp"
#include "project/library.hpp"

namespace sipper::rules {

constexpr double kSliver = 0.02; ///< of charge and hours: worth weighing, not worth stopping for

// trying.cpp
using Look = void (*)(const Solved&, std::vector<Finding>&);
/// Is a rule silent about a subject once the project is `changed`? Looked at from the cells and
/// from every source, without chargers and protection.
[[nodiscard]] bool silentOn(const Solved& s, const Project& changed, Look rule,
                            const std::string& subject);
/// The next larger part of the shipped library of the same kind in the stage's place, with which
/// the rule is silent about it; nothing where none is. `amps`: what it has to give.
[[nodiscard]] std::optional<Cure> largerPartCure(const Solved& s, const Stage& stage, double amps,
                                                 Look rule);
/// A buck, or where its input comes too near, a buck-boost in the place of a regulator.
[[nodiscard]] std::optional<Cure> switcherCure(const Solved& s, const Stage& stage, Look rule);
/// Cells of the same size and another chemistry for the same number of them, in the place of
/// alkaline: hydride, else iron disulphide; nothing where the rule would still speak.
[[nodiscard]] std::optional<Cure> otherCellCure(const Solved& s, Look rule);
/// `, from 34 % of the charge down`; empty from full on.
[[nodiscard]] std::string fromCharge(const Spell& spell);

/// The shipped parts, read once: they do not change while the program runs.
[[nodiscard]] const Library& shippedLibrary();

// madeas.cpp
void setOutOfRange(const Solved& s, std::vector<Finding>& out);
void guardNotMadeFor(const Solved& s, std::vector<Finding>& out);
void currentDriverOnVolts(const Solved& s, std::vector<Finding>& out);

// regulation.cpp
void dropOut(const Solved& s, std::vector<Finding>& out);
void passesThrough(const Solved& s, std::vector<Finding>& out);
// windows.cpp
void windowLow(const Solved& s, std::vector<Finding>& out);
void windowHigh(const Solved& s, std::vector<Finding>& out);
void neverAbove(const Solved& s, std::vector<Finding>& out);
void burstReset(const Solved& s, std::vector<Finding>& out);
// limits.cpp
void overCurrent(const Solved& s, std::vector<Finding>& out);
void outputLimitAtLowInput(const Solved& s, std::vector<Finding>& out);
void powerLimit(const Solved& s, std::vector<Finding>& out);
// heat.cpp
void tooHot(const Solved& s, std::vector<Finding>& out);
void linearBurns(const Solved& s, std::vector<Finding>& out);
// mains.cpp
void mainsWindows(const Solved& s, std::vector<Finding>& out);
void headroom(const Solved& s, std::vector<Finding>& out);
void unregulated(const Solved& s, std::vector<Finding>& out);
void trips(const Solved& s, std::vector<Finding>& out);
void socketClass(const Solved& s, std::vector<Finding>& out);
void sourceBudget(const Solved& s, std::vector<Finding>& out);
void neverActs(const Solved& s, std::vector<Finding>& out);
void gaugeBlind(const Solved& s, std::vector<Finding>& out);
// paths.cpp
void noise(const Solved& s, std::vector<Finding>& out);
void backfeed(const Solved& s, std::vector<Finding>& out);
void pathDrop(const Solved& s, std::vector<Finding>& out);
// sun.cpp
void panelKnee(const Solved& s, std::vector<Finding>& out);
void panelColdVoltage(const Solved& s, std::vector<Finding>& out);
void panelSmall(const Solved& s, std::vector<Finding>& out);
void darkRun(const Solved& s, std::vector<Finding>& out);
void frostLocks(const Solved& s, std::vector<Finding>& out);
/// The part of `backfeed` that looks at panels.
void panelBackfeed(const Solved& s, std::vector<Finding>& out);
// protection.cpp
void noGuard(const Solved& s, std::vector<Finding>& out);
// guards.cpp
void guardFloor(const Solved& s, std::vector<Finding>& out);
void guardWastes(const Solved& s, std::vector<Finding>& out);
void loadStopsFirst(const Solved& s, std::vector<Finding>& out);
void chatter(const Solved& s, std::vector<Finding>& out);
void neverReconnects(const Solved& s, std::vector<Finding>& out);
void guardDrain(const Solved& s, std::vector<Finding>& out);
void shelf(const Solved& s, std::vector<Finding>& out);
// wiring.cpp
void noFuse(const Solved& s, std::vector<Finding>& out);
void fuseWindow(const Solved& s, std::vector<Finding>& out);
void wireAmpacity(const Solved& s, std::vector<Finding>& out);
void leadBurns(const Solved& s, std::vector<Finding>& out);
void wireDrop(const Solved& s, std::vector<Finding>& out);
void polarity(const Solved& s, std::vector<Finding>& out);
// cells.cpp
void unlikeCells(const Solved& s, std::vector<Finding>& out);
void noCellMonitor(const Solved& s, std::vector<Finding>& out);
void implausibleCapacity(const Solved& s, std::vector<Finding>& out);
void implausibleRate(const Solved& s, std::vector<Finding>& out);
void fits(const Solved& s, std::vector<Finding>& out);
void wrongCellForDrain(const Solved& s, std::vector<Finding>& out);
void cold(const Solved& s, std::vector<Finding>& out);
// charging.cpp
void notRechargeable(const Solved& s, std::vector<Finding>& out);
void chargeVoltage(const Solved& s, std::vector<Finding>& out);
void chargeRate(const Solved& s, std::vector<Finding>& out);
void chargeTopology(const Solved& s, std::vector<Finding>& out);
void chargeInput(const Solved& s, std::vector<Finding>& out);
void chargeSource(const Solved& s, std::vector<Finding>& out);
void freezingCharge(const Solved& s, std::vector<Finding>& out);
void recoveryTrap(const Solved& s, std::vector<Finding>& out);
void deviceTakesMore(const Solved& s, std::vector<Finding>& out);
void endsEarly(const Solved& s, std::vector<Finding>& out);
void endTrap(const Solved& s, std::vector<Finding>& out);
void chargeHeat(const Solved& s, std::vector<Finding>& out);
void chargeLimited(const Solved& s, std::vector<Finding>& out);
void dumbCharger(const Solved& s, std::vector<Finding>& out);
// faults.cpp
void faultKills(const Solved& s, std::vector<Finding>& out);
void setBeforeConnect(const Solved& s, std::vector<Finding>& out);
void dividerOff(const Solved& s, std::vector<Finding>& out);
// loads.cpp
void guessed(const Solved& s, std::vector<Finding>& out);
void ownUse(const Solved& s, std::vector<Finding>& out);
void constantPowerRunaway(const Solved& s, std::vector<Finding>& out);
// wakes.cpp
void goesToSleep(const Solved& s, std::vector<Finding>& out);
void neverStarts(const Solved& s, std::vector<Finding>& out);
void capacitorRefill(const Solved& s, std::vector<Finding>& out);
void cellTemperature(const Solved& s, std::vector<Finding>& out);
void salvagedParallel(const Solved& s, std::vector<Finding>& out);
/// Cells that bursts are kept off by a capacitor rather than by more of them: thionyl, and any of
/// over 1 ohm.
[[nodiscard]] bool wantsCapacitor(const Pack& pack);
/// The load with the greatest burst; null where none has one.
[[nodiscard]] const Load* burstingLoad(const Project& p);
/// The load's own input capacitor as one before it, without resistance; the project itself where
/// none is stated. Loads and modes keep their places, stages may not.
[[nodiscard]] Project withInputCapacitor(const Project& project, const Load& load);
/// The smallest capacitor at a load with which `quiet` holds, as a cure; `farad` is its size.
[[nodiscard]] std::optional<Cure> capacitorCure(const Project& project, const std::string& load,
                                                const std::function<bool(const Project&)>& quiet,
                                                double& farad);
// target.cpp
void shortOfTarget(const Solved& s, std::vector<Finding>& out);
/// What would bring a project nearer to its target, by the hours gained for weight and price (each
/// as a share of the project's): parts and settings, no other use of it. Solves every one.
struct TargetCure {
    std::string subject; ///< id of the stage
    Cure cure;
};
[[nodiscard]] std::vector<TargetCure> targetCures(const Project& project,
                                                  const std::stop_token& stop);

} // namespace sipper::rules
