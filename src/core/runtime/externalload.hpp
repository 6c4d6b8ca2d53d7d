// SPDX-License-Identifier: GPL-3.0-or-later
// What a source other than the pack has to carry: the verdict of a project on an external source.
#pragma once

#include "line/sources.hpp"
#include "runtime/operatingsweep.hpp"

#include <algorithm>

namespace sipper {

/// One source's load, over all modes and bursts.
struct ExternalLoad {
    std::size_t source = 0; ///< index of the stage
    SourceModel model;
    Occurrence worst;           ///< largest current asked of it, at its typical voltage
    double chargerAmps = 0;     ///< that the chargers on it ask for besides, at the most
    bool chargersYield = false; ///< they hold their input's volts, and take what is left
    double worstWatts = 0;      ///< at its terminals then
    double meanWatts = 0;       ///< over a day
    double heatWatts = 0;       ///< lost on the line then
    std::size_t hottest = 0;    ///< the stage that gets warmest, in the warmest air
    double hottestC = 0;
    bool collapses = false; ///< in some mode the line can't be carried
    bool trips = false;     ///< in some mode or burst more is asked than the limit
    std::size_t tripMode = 0;
    bool tripsInBurst = false;
    OperatingSweep
        seen; ///< over the source's band, from lowest to highest voltage, all modes and bursts
    std::vector<bool> reachesLoad;

    /// A asked of it at the worst, device and chargers together.
    [[nodiscard]] double asked() const {
        const double all = worst.value + chargerAmps;
        return chargersYield && model.limit > 0 ? std::max(worst.value, std::min(all, model.limit))
                                                : all;
    }
    /// Limit over worst draw; 0 where the limit is unknown or nothing is drawn. Chargers that take
    /// what is left want none of it.
    [[nodiscard]] double margin() const {
        const double amps = chargersYield ? worst.value : asked();
        return model.limit > 0 && amps > 0 ? model.limit / amps : 0;
    }
};

/// One for every source but packs and panels, each looked at as the only one of them that is
/// plugged in, with the pack behind it where there is one. What the source would give without its
/// limit is looked at, so that a window is judged by the voltage and the limit by itself.
[[nodiscard]] std::vector<ExternalLoad> externalLoadsOf(const Project& project);

} // namespace sipper
