// SPDX-License-Identifier: GPL-3.0-or-later
// One fault at a time: what every load then sees, and what clears it.
#pragma once

#include "line/network.hpp"

namespace sipper {

enum class FaultKind {
    failsShort,   ///< input joined to output
    failsOpen,    ///< nothing gets through
    misSet,       ///< its trimmer at the end stop
    reversed,     ///< connected the wrong way round
    cellShort,    ///< one cell of a series pack joined through
    cellReversed, ///< one cell of the pack the wrong way round in its holder
    twoSources    ///< everything plugged in at once
};
/// `short`, `open`, `mis_set`, `reversed`, …: in the answers of the command line.
[[nodiscard]] std::string_view faultName(FaultKind kind);

/// What ends a fault that would otherwise last.
enum class Clearing {
    notNeeded,    ///< nothing is harmed
    nothing,      ///< it lasts
    crowbarFuse,  ///< a crowbar fires, and the fuse before it opens
    crowbarLimit, ///< a crowbar fires, and what feeds it limits
    crowbarBurns, ///< a crowbar fires with nothing before it that opens
    clampFuse,    ///< a clamp holds, and the fuse before it opens
    clampHolds,   ///< a clamp holds for good
    clampBurns,   ///< a clamp holds until it has burnt
    blocked       ///< a diode or reversal guard keeps it off
};

/// One part with one fault; the pack full, nothing flowing.
struct Fault {
    std::string stage;
    FaultKind kind = FaultKind::failsShort;
    std::vector<double> volts; ///< at every load, in the project's order; negative: reversed
    std::vector<bool> harmed;  ///< more than its never-above, or reversed
    std::vector<std::string> alsoFailed; ///< parts whose own never-above is thereby passed
    Clearing clearing = Clearing::notNeeded;
    std::string by; ///< id of what clears it: fuse, limiting part, clamp or diode
    /// What a charger that failed short or is mis-set does to its pack, before any load.
    struct OnPack {
        std::string id;
        double volts = 0;   ///< that its node goes to in the end
        double perCell = 0; ///< V
        double full = 0;    ///< V of the whole pack when full
        double amps = 0;    ///< into the full pack at first; 0: nothing tells
        bool over = false;  ///< more than a full pack bears
    };
    std::optional<OnPack> onPack;
    double amps = 0; ///< into a crowbar or clamp, as far as ohms tell; 0 where none acts
    [[nodiscard]] bool harms() const {
        for (const bool o : harmed)
            if (o)
                return true;
        return onPack && onPack->over;
    }
};

struct FaultMatrix {
    std::vector<double> healthy; ///< volts at every load without a fault
    std::vector<Fault> parts;    ///< short, open, mis-set, reversed of every part, in file order
    std::vector<Fault> systemFaults; ///< cells in the holder, several sources at once
};

/// Every single fault (docs/model.md: Protection). A part whose never-above is passed counts as
/// failed short too, again and again; a charger failed short lets the pack's node see its source.
/// What the pack does not feed is looked at from its own source at its highest volts.
[[nodiscard]] FaultMatrix faultsOf(const Project& project);
/// One of them.
[[nodiscard]] Fault faultOf(const Project& project, const std::string& stage, FaultKind kind);
/// The faults that make sense for a part.
[[nodiscard]] std::vector<FaultKind> faultKindsOf(const Project& project, const Stage& stage);

/// What could keep a fault from a load, added to the line and solved.
struct FaultMitigation {
    std::string label; ///< `Crowbar at 5.6 V`
    std::string name;  ///< of the edit
    Project project;
    Fault after;         ///< the same fault with it
    bool clears = false; ///< the load is not harmed any more
};
/// Crowbar (with a fuse at the source where none stands there), clamp, series diode, P-channel
/// reversal guard: those that fit this fault. Empty where the load is not harmed.
[[nodiscard]] std::vector<FaultMitigation> faultMitigations(const Project& project,
                                                            const Fault& fault, std::size_t load);

inline constexpr double kReverseLimit = 0.3; ///< V the wrong way round that a part survives

} // namespace sipper
