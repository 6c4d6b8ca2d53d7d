// SPDX-License-Identifier: GPL-3.0-or-later
// Currents in order: draw, burst, fuse, lead, source, so that no lead is the fuse.
#pragma once

#include "charge/choices.hpp"
#include "parts/names.hpp"
#include "project/library.hpp"
#include "runtime/externalload.hpp"
#include "runtime/operatingsweep.hpp"

#include <span>

namespace sipper {

/// What has been seen to flow: over a charge of the cells, from every other source, and into every
/// charger.
struct ObservedCurrents {
    const OperatingSweep* sweep = nullptr; ///< null without cells
    std::span<const ExternalLoad> externalLoads{};
    std::span<const ChargeAnalysis> charges{};
};

/// The pack that a stage of the leg, or the charger itself, leads to; null elsewhere.
[[nodiscard]] const Stage* chargedBy(const Project& project, const Stage& stage);

/// What flows out of a stage over the whole charge and from every source, in A.
struct CurrentDemand {
    double continuous = 0; ///< the greatest current of any mode
    double burst = 0;
    double seconds = 0; ///< of the longest burst behind it
};
[[nodiscard]] CurrentDemand currentDemandOf(const Project& project, std::size_t stage,
                                            const ObservedCurrents& seen);

/// A that the leg from a charger to its pack may carry for good: what it is set to or limited to,
/// whichever is more; of one that states neither what its panel or its run gives.
[[nodiscard]] double legAmps(const Project& project, const Stage& charger,
                             std::span<const ChargeAnalysis> charges);
/// The least ampacity of the leads on a charger's leg, and its pack's limit; infinity where nothing
/// is stated.
[[nodiscard]] double maxLegFuseRating(const Project& project, const Stage& charger);
/// The fuse that a short on the leg has to pass, coming from the pack: between it and this stage of
/// the leg, or for the charger itself anywhere on it. Null where none is.
[[nodiscard]] const Stage* legFuse(const Project& project, std::string_view stage);

/// The project with a fuse at the cells' end of a charger's leg, where a short there would be fed
/// by more than 5 A and none stands there: the smallest of the library, or without one of the
/// standard ratings, that bears the charge and that leads and cells allow. As it is where none
/// fits.
[[nodiscard]] Project withLegFuse(Project project, const std::string& charger,
                                  const Library* library = nullptr);
/// A slow fuse of this rating, with the resistance that is usual for it; without an id.
[[nodiscard]] Stage fuseOf(double rating);
/// A into a short from which cells want a fuse.
inline constexpr double kFuseFrom = 5;
/// Times its rating, from which a fuse melts at once (milliseconds) and not in minutes.
inline constexpr double kFuseClears = 4;

/// A that the pack's cells may give: their rating, continuous; nothing where none is stated.
[[nodiscard]] std::optional<double> packLimit(const Pack& pack);
/// A that flow into a short: `S E(1) / (S R0/P + connection)` for a pack (docs/model.md:
/// Protection); for another source its limit, or by its ohms; infinity where nothing holds it back.
[[nodiscard]] double shortCircuitAmps(const Part& source);

/// Does the part turn one voltage into another: regulators and chargers.
[[nodiscard]] bool converts(const Stage& stage);
/// Stages at the same voltage behind `id`, up to the next converter.
[[nodiscard]] std::vector<std::size_t> sameVoltage(const Project& project, const std::string& id);
/// The least ampacity of the leads at that voltage behind `id`, and the pack's limit where `pack`
/// is given; infinity where nothing is stated.
[[nodiscard]] double maxFuseRating(const Project& project, const std::string& from,
                                   const Pack* pack);

/// How much larger a fuse has to be, may be, and is best.
struct FuseWindow {
    std::string id;               ///< of the fuse
    double least = 0;             ///< A
    std::optional<double> most;   ///< A; nothing: no lead and no pack limits it
    std::optional<double> choose; ///< the smallest standard rating between
};
/// Of every fuse on the line (docs/model.md: Protection).
[[nodiscard]] std::vector<FuseWindow> fuseWindows(const Project& project,
                                                  const ObservedCurrents& seen);

/// Who gives way first when too much flows.
enum class WeakestElement {
    fuse,   ///< as it should; behind a boost, which passes a short on, in a short
    source, ///< the converter or supply before it limits under the lead's ampacity
    lead,   ///< it burns
    cells,  ///< they are asked for more than they may give before anything else opens
    unknown ///< nothing is stated that tells
};

/// A fuse that could be bought for a stretch.
struct FuseChoice {
    FuseForm form;
    FuseSpeed speed;
    double rating = 0;         ///< A
    double ratedVolts = 0;     ///< V, direct current, usual for its form
    double ohms = 0;           ///< cold, usual for its form and rating
    double dropVolts = 0;      ///< at the draw
    double heatWatts = 0;      ///< at the draw
    double i2t = 0;            ///< A2s, usual for its form; 0 where it has none
    bool standsBursts = false; ///< a third of that is over the burst's
    bool standsVolts = false;  ///< its voltage rating is at or over the full pack's
    bool fits = false;         ///< a rating lies in the window, and it stands bursts and volts
    std::string why;           ///< why it does not fit; else what it is good for
};
/// A stretch of the line: a lead, or a way with no lead on it, from a source or converter up to the
/// next one.
struct WireSegment {
    std::string id;   ///< of the lead; of what begins the stretch where there is none
    std::string from; ///< id of the source or converter that it begins at
    std::string name; ///< `cells to Buck 12`, or the lead's own
    CurrentDemand need;
    std::optional<double> fuse; ///< A, of the fuse that stands before it or with it
    std::string fuseId;
    bool fuseShared = false;      ///< it carries more than this stretch
    std::optional<double> lead;   ///< A that it may carry for good
    std::optional<double> source; ///< A: the pack's rating, an adapter's limit, a converter's limit
    double shortCircuit = 0;      ///< A into a short at its end; infinity: nothing holds it back
    bool atSource = false;        ///< at the source's own voltage
    WeakestElement first = WeakestElement::unknown;
    double volts = 0; ///< the highest at it
    std::vector<FuseChoice> choices;
    bool needsFuse = false; ///< what flows into a short is more than it carries, with no fuse
};
[[nodiscard]] std::vector<WireSegment> wireSegmentsOf(const Project& project,
                                                      const ObservedCurrents& seen);

/// Glass quick, glass slow, blade and resettable, each with the smallest rating of its row that
/// lies in the window of the stretch. `volts`: the highest at it. Figures of forms are the usual
/// ones of their kind, a guide until the data sheet is read.
[[nodiscard]] std::vector<FuseChoice> fuseChoices(const WireSegment& stretch, double volts);
/// I2t of the bursts at a fuse, in A2s: peak squared times length.
[[nodiscard]] double burstHeat(const CurrentDemand& need);

} // namespace sipper
