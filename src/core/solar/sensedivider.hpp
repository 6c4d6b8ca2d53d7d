// SPDX-License-Identifier: GPL-3.0-or-later
// Watching the battery with a converter's input: the divider, what it costs, and when to slow down.
#pragma once

#include "solar/look.hpp"

namespace sipper {

struct SenseDividerOptions {
    double fullScale = 2.5; ///< V at which the converter reads its highest count
    int bits = 12;
    double charge = 0.3; ///< at which to slow down, 0 to 1
    double slower = 3;   ///< times as long between two
};

struct SenseDivider {
    double upper = 0; ///< ohms, from the pack
    double lower = 0; ///< ohms, to ground
    double amps = 0;  ///< through it from the full pack, day and night
    double wattHoursADay = 0;
    int countsFull = 0;
    int countsEmpty = 0;
    double slowVolts = 0; ///< of the pack at rest
    int slowCounts = 0;
    std::string mode; ///< id of the repeating mode that takes most; empty where nothing repeats
    double every = 0; ///< s between two from there on
    double savesWhDay = 0;
    Project slow; ///< with that mode always so slow
};

/// A divider of E24 of about two megohms that puts the full pack under the full scale, or none of
/// it where the pack is lower anyway. Nothing without a pack.
[[nodiscard]] std::optional<SenseDivider> watchOf(const Project& project,
                                                  const SenseDividerOptions& ask = {});

} // namespace sipper
