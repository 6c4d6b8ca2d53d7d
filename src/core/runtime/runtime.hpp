// SPDX-License-Identifier: GPL-3.0-or-later
// How long it runs, what ends it, and where the energy goes.
#pragma once

#include "base/workbudget.hpp"
#include "line/line.hpp"

#include <map>

namespace sipper {

enum class EndReason { collapse, limit, cutoff, aboveWindow, belowWindow, empty, mains, never };
[[nodiscard]] std::string_view reasonName(EndReason reason);

struct Ending {
    std::string at;   ///< id of the stage or load; the pack for collapse and empty
    std::string mode; ///< id
    EndReason reason = EndReason::never;
    bool inBurst = false;
    bool operator==(const Ending&) const = default;
};

/// Watt-hours (docs/model.md: Uncertainty, improvements, ledger): nameplate = cold and age + not
/// charged + left + pack loss + self-discharge + stages + loads.
struct Ledger {
    double nameplate = 0;
    double coldAndAge = 0;
    double notCharged = 0;
    double leftInPack = 0;
    double packLoss = 0;
    double selfDischarge = 0;
    std::map<std::string, double> stages;
    std::map<std::string, double> loads;
    std::map<std::string, std::map<std::string, double>> loadModes; ///< by load, by mode

    /// What the entries miss of the nameplate, as a share of it.
    [[nodiscard]] double imbalance() const;
};

struct CurvePoint {
    double hours;
    double charge;    ///< 0–1, both wells
    double packVolts; ///< of the mode that fills the stretch
    double height;    ///< of the first well, 0–1
};

struct Runtime {
    std::optional<Hours> hours; ///< nothing for `mains` and `never`
    Ending ending;
    Watts meanPower{0}; ///< at the pack's terminals
    std::string worstMode;
    Amps worstCurrent{0}; ///< at the pack, over the whole run, bursts included
    Ledger ledger;
    std::vector<CurvePoint> curve;
    std::vector<CurvePoint>
        tail; ///< on from there, when only a load's window ended it (see StepControl)
};

/// How finely a run is stepped. The usual values keep the runtime within 0.02 % of its limit.
struct StepControl {
    double maxChargeStep = 0.005; ///< largest charge a step may take
    double voltsPerCell = 0.005;  ///< largest move of a cell's voltage in a step
    double tolerance = 1e-5;      ///< of the mean current, between the heights that are solved
    bool record = true;           ///< keep the curve
    bool energies = true;         ///< keep the ledger; without it hours alone are meant
    WorkBudget budget = {};       ///< used up, the run answers `never` for what it has not reached
    bool tail = false; ///< after a load has left its window, go on to what stops the pack itself
};

/// Within half a per cent: for rankings, and for many builds of one project.
[[nodiscard]] StepControl coarseSteps();

/// Discharges the pack from the brief's start time until something ends it (docs/model.md:
/// Runtime). The line is solved at the heights of the first well that an interpolant asks for
/// (runtime/lineinterpolant.hpp), the steps read it; the end is bracketed far below 0.01 % of the
/// runtime. A project without a pack answers `mains`, one in which nothing draws answers `never`.
[[nodiscard]] Runtime predictRuntime(const Project& project, const Conditions& conditions,
                                     const StepControl& stepping = {});
[[nodiscard]] Runtime predictRuntime(const Project& project);

/// Kelvin that the brief's closed box is warmer inside than the air, on the mean of the run: what
/// pack and stages lose in it. 0 without a box or a run.
[[nodiscard]] double enclosureRise(const Project& project, const Runtime& runtime);

/// What would end the run in this moment, the first by the order of reasons, modes and stages;
/// nothing when all is well. `windows` off: whatever the loads make of it. `margin`: the least room
/// that is left, relative, under 0 where something ends; NaN on a collapse.
[[nodiscard]] std::optional<Ending> endingOf(const Project& project, const Line& line,
                                             const LineSolution& moment, const Wells& wells,
                                             bool windows = true, double* margin = nullptr);
/// Would these flows, of a mode or burst that lasts `seconds`, end the run?
[[nodiscard]] bool endsRun(const Project& project, const Network& network, const Flows& flows,
                           bool inBurst, double seconds);

} // namespace sipper
