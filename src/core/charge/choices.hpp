// SPDX-License-Identifier: GPL-3.0-or-later
// A charge beside others: what lifting its limit would give, other sources, other rates, and the
// ways to run the device meanwhile. Each is really solved on the project it would be.
#pragma once

#include "charge/charge.hpp"
#include "runtime/externalload.hpp"

#include <stop_token>

namespace sipper {

struct ChargeChoice {
    std::string says; ///< `5 V socket, 1.5 A`
    std::string note; ///< what else there is to it
    bool yours = false;
    std::optional<double> hours;
    std::optional<double> hoursTo80;
    std::optional<ChargeLimit> heldBy;
    std::optional<ChargeFailure> never;
    Part source;           ///< of this charge
    double lifeFactor = 1; ///< of the cycles at up to 0.5 C
    Project project;       ///< with this choice taken: what "try it" opens
};

/// What comes next where the limit that holds a charge back is taken away.
struct LimitRelaxation {
    ChargeLimit relaxed = ChargeLimit::cc;
    std::optional<ChargeLimit> next;
    std::optional<double> hours; ///< to full without it
    double saved = 0;            ///< hours
};

/// Cycles against those at up to 0.5 C: a third less for each doubling above it (rule of thumb;
/// docs/model.md: Cells and packs). `rate` in 1/h.
[[nodiscard]] double lifeAtRate(double rate);

/// The charge without the limit that held it longest; nothing where only the voltage did.
[[nodiscard]] std::optional<LimitRelaxation>
liftOf(const Project& project, const ChargeOptions& ask, const ChargeRun& charge);

/// What advice looks at: the refill that people mean, in the brief's typical and warmest air.
struct ChargeAnalysis {
    ChargeRun usual;
    std::optional<ChargeRun> hot; ///< nothing where it never charges
    std::optional<LimitRelaxation> lift;
};
/// One for each charger that has a source and a pack. The first is `refillOf`.
[[nodiscard]] std::vector<ChargeAnalysis> analyseCharges(const Project& project,
                                                         const std::stop_token& stop = {});

/// The same charger on each of these sources (stages of the library); where its topology does not
/// fit, a buck with the same settings in its place. The project's own source comes first.
[[nodiscard]] std::vector<ChargeChoice> otherSources(const Project& project,
                                                     const ChargeOptions& ask,
                                                     const std::vector<Stage>& sources,
                                                     const std::stop_token& stop = {});

/// 0.3 C, 0.5 C and the cells' own limit, from a source that is strong enough.
[[nodiscard]] std::vector<ChargeChoice> rateAlternatives(const Project& project,
                                                         const ChargeOptions& ask,
                                                         const std::stop_token& stop = {});

/// One, two, up to `most` chargers like this one on the same supply, each with a pack like its.
[[nodiscard]] std::vector<ChargeChoice> sharedSupply(const Project& project,
                                                     const ChargeOptions& ask, int most,
                                                     const std::stop_token& stop = {});

/// How the device is fed while the pack charges.
enum class PathWay { node, diode, fet };

struct PathChoice {
    PathWay way = PathWay::node;
    bool yours = false;
    std::optional<double> hours;           ///< to full, in the mode that was asked for
    std::optional<ChargeFailure> never;    ///< of that charge
    std::optional<ChargeFailure> fromFlat; ///< why a flat pack does not come back; nothing: it does
    std::optional<double> runsFor;         ///< hours on the pack alone
    double usable = 0;                     ///< share of the nameplate that reaches the loads
    double cyclesAtTop = 0; ///< share of the capacity that the device takes a day from a full pack
                            ///< on its charger
    double backfeedVolts = 0; ///< V that the full pack puts on an unplugged source's contacts
    Project project;
};

/// What the chargers on a source ask of it, whatever it gives: the most over a charge.
struct ChargersOptions {
    double amps = 0;
    bool yield = false; ///< all of them hold their input's volts: they take what is left
};
[[nodiscard]] ChargersOptions chargersAsk(const Project& project, const std::string& source);
/// What every source but packs and panels has to carry, its chargers counted in.
[[nodiscard]] std::vector<ExternalLoad> externalLoadsWithChargers(const Project& project);

/// The load on the pack's node, behind a diode path and behind a FET path. Nothing where the device
/// is not fed from the pack.
[[nodiscard]] std::vector<PathChoice> powerPaths(const Project& project, const ChargeOptions& ask,
                                                 const std::stop_token& stop = {});

/// The project with what hangs on the charged pack moved behind a selector that takes the
/// charger's source first. Guards, fuses and leads that stand alone on the pack stay before it.
[[nodiscard]] Project withPowerPath(const Project& project, const std::string& charger, Volts drop,
                                    Ohms resistance);
/// Volts that the full pack puts on the contacts of a source that is not plugged in: nothing but
/// through a selector that does not block. (A charger is taken to block.)
[[nodiscard]] double backfeedVolts(const Project& project, const std::string& charger,
                                   const std::string& source);
/// Has it one already?
[[nodiscard]] bool hasPowerPath(const Project& project, const std::string& charger);

} // namespace sipper
