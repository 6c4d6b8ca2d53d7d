// SPDX-License-Identifier: GPL-3.0-or-later
// What a cut-off does after it has opened: the cells' climb, chatter, and what goes on being drawn.
#pragma once

#include "base/parallelfor.hpp"
#include "runtime/integrator.hpp"
#include "runtime/shelf.hpp"

namespace sipper {

/// A moment after the cut.
struct ReboundPoint {
    double seconds = 0; ///< since the guard opened
    double volts = 0;   ///< at the guard's input
};

/// Volts at one place over the charge: resting, and while a mode draws with v1 settled.
struct GuardPoint {
    double charge = 0;  ///< 0–1
    double rest = 0;    ///< V
    double working = 0; ///< V; 0 where the line has no answer
};

/// A cut and what follows, under one air and age (docs/model.md: Protection).
struct Rebound {
    bool acts = false;       ///< the guard's cut-off is reached, with this mode held from full
    std::string before;      ///< what gives up first where it is not: id of a stage, or of the pack
    double cutHours = 0;     ///< from full to the first cut
    double cutCharge = 0;    ///< 0–1, both wells
    double cutVolts = 0;     ///< at the input as it opens
    double atOnceVolts = 0;  ///< right after: `i R0` has returned
    double settledVolts = 0; ///< v1 gone, wells level, the guard's own draw left out
    bool chatters = false;   ///< the climb passes reconnect
    double offSeconds = 0;   ///< from the cut to reconnect
    double onSeconds = 0;    ///< from reconnect to the next cut, the delay in it
    double sagVolts = 0;     ///< at the input as it closes again, under load
    std::vector<ReboundPoint> openCurve; ///< as if it stayed open; log spaced in time, from 0
    std::vector<ReboundPoint>
        reclosedCurve; ///< from reconnect to the next cut; seconds since the first cut
    [[nodiscard]] double period() const { return offSeconds + onSeconds; }
};

/// Discharges a full pack with one mode held until the guard opens, lets the cells climb, and
/// closes the guard again where they pass its reconnect. The current into the open guard and into
/// what hangs before it flows on; wells and relaxation move in closed form, the line is solved at
/// every step. `guard` and `mode` are places in the project's lists; the guard must hang on the
/// pack.
[[nodiscard]] Rebound reboundOf(const Project& project, std::size_t guard, std::size_t mode,
                                const Conditions& conditions);

/// A charger's view of the pack that the guard has cut off.
struct ChargerRestart {
    std::string charger;   ///< id
    bool finds = true;     ///< it begins at all
    bool recovers = false; ///< with its recovery current first
    double restVolts = 0;  ///< of the pack, where the guard opened
    double threshold = 0;  ///< V under which it recovers; 0 where nothing is said
    std::optional<double>
        undetectedAfter; ///< months after the cut from when it does not find the pack
};

/// One school's cut-off with what it gives and costs is PolicyLife (runtime/shelf).

/// A drain test that proves the guard: which resistor in the loads' place, how long, and what the
/// meter says on the way.
struct DrainTest {
    double ohms = 0;           ///< of the E12 series, across the guard's output
    double watts = 0;          ///< that it burns with full cells
    double amps = 0;           ///< with full cells
    double hours = 0;          ///< from full
    double fromFifthHours = 0; ///< from a charge of 0.2; 0 where it stops over that
    struct Mark {
        double volts = 0; ///< at the guard's input
        double hours = 0; ///< from full
    };
    std::vector<Mark> marks; ///< falling volts, the cut-off last
    double mustOpenBy = 0;   ///< V: by then it must have opened
    double atOnceVolts = 0;  ///< of the cells, right after it opened
    double minuteVolts = 0;  ///< a minute later
    double settledVolts = 0; ///< hours later
};

/// Everything that is known of one guard.
struct GuardAnalysis {
    std::string id;
    std::string mode;              ///< id of the mode that is held: it ended the run, or would have
    bool endsRun = false;          ///< the headline run ends by its cut-off
    std::string stopsFirst;        ///< id of what ends the run where the guard does not
    double cutoff = 0;             ///< V
    double reconnect = 0;          ///< V; the cut-off where none is stated
    bool latches = false;          ///< reconnect over what a full or charging pack reaches
    double reaches = 0;            ///< V that a full or charging pack reaches
    std::vector<GuardPoint> curve; ///< at its input, from full to empty
    Rebound usual;                 ///< typical air, health as given
    double minHysteresis = 0; ///< V: largest rebound less cut-off, typical and low air, health as
                              ///< given and 0.8
    std::string leastWhen;    ///< of which of them
    bool hysteresisTooSmall =
        false;           ///< reconnect less cut-off under 0.2 V a rechargeable lithium cell
    double openAmps = 0; ///< drawn from the pack after the cut
    std::optional<double> ruinMonths; ///< after the cut until the cells are ruined
    double openShare = 0;             ///< of that drain which is the guard's and not the cells' own
    std::vector<ChargerRestart> chargers;
    std::optional<DrainTest> proof;
};

/// How much of a guard is looked at: the cuts that its least hysteresis comes of, or all.
enum class GuardDepth { hysteresis, whole };

/// Every guard on the way from the cells, the nearest first. `runtime` is the headline run.
/// Needs no pack (empty then). `pieces` shares out the air and age that each is looked at under.
[[nodiscard]] std::vector<GuardAnalysis> guardsOf(const Project& project, const Runtime& runtime,
                                                  const std::optional<Ending>& stop,
                                                  const ParallelFor& pieces = serialFor,
                                                  GuardDepth depth = GuardDepth::whole);

/// The cells' own curve at the pack's terminals, in this mode.
[[nodiscard]] std::vector<GuardPoint> packCurve(const Project& project, std::size_t mode);
/// Guards on the way from the cells, from the source outwards.
[[nodiscard]] std::vector<std::size_t> guardPlaces(const Project& project);
/// V that the pack reaches at most: full, or what its charger is set to.
[[nodiscard]] double reachedVolts(const Project& project);

inline constexpr double kNarrowPerCell = 0.2; ///< V between cut-off and reconnect, lithium
inline constexpr double kAgedHealth = 0.8;    ///< beside the health as given

} // namespace sipper
