// SPDX-License-Identifier: GPL-3.0-or-later
// Cutting a measured current into modes.
#pragma once

#include "trace/tracefile.hpp"

namespace sipper {

/// One level of current that the trace keeps coming back to.
struct TraceMode {
    double amps = 0;           ///< mean over its time
    double watts = 0;          ///< mean over its time; 0 where the trace has no voltage
    double spread = 0;         ///< standard deviation
    double peak = 0;           ///< 99.9 % of its samples lie at or under it
    double share = 0;          ///< of the trace's time
    double typicalSeconds = 0; ///< median length of a stay
    double everySeconds = 0;   ///< median time from one stay to the next; 0 where there is only one
    double chargeShare = 0;    ///< of the trace's charge
    double level = 0;          ///< where its line lies: amps, may be dragged
    // Short visits to a higher level while in this mode.
    double burstAmps = 0; ///< 0 when there are none
    double burstSeconds = 0;
    double burstsPerSecond = 0;
};

/// A stay in one mode: samples from `first` up to, not including, `last`.
struct Dwell {
    std::size_t first;
    std::size_t last;
    std::size_t mode;
};

struct TraceSegments {
    double meanAmps = 0;
    double peakAmps = 0;
    double sleepCharge = 0;       ///< share of the charge that the lowest mode takes
    std::vector<TraceMode> modes; ///< rising
    std::vector<Dwell> stays;
};

inline constexpr int kMostLevels = 6;

/// The levels that a trace keeps coming back to, in amps, rising: one-dimensional k-means on the
/// log of the current, solved exactly (dynamic programming, Wang and Song 2011), k from 2 to 6 by
/// the mean silhouette (Rousseeuw 1987). One level where the trace hardly varies.
[[nodiscard]] std::vector<double> findLevels(const Trace& trace);

/// Cuts at given levels (at least one, rising). Hysteresis around the middle between two levels, in
/// the log, keeps noise from splitting a stay; visits shorter than 50 ms from a mode other than the
/// lowest that return to it become its bursts.
[[nodiscard]] TraceSegments segmentTrace(const Trace& trace, const std::vector<double>& levels);

/// The levels with the one at `index` joined to the one under it, at their mean by time in the log;
/// the lowest stays as it is.
[[nodiscard]] std::vector<double> mergedLevels(const TraceSegments& cut, std::size_t index);
/// The levels with the one at `index` split where its own samples part best (2-means in the log);
/// unchanged where they do not part, or at the most levels.
[[nodiscard]] std::vector<double> splitLevels(const Trace& trace, const TraceSegments& cut,
                                              std::size_t index);

/// What lies within one column of a picture.
struct TraceColumn {
    double seconds; ///< of its first sample
    double low;     ///< amps
    double high;
};

/// The trace from one time to another as at most `count` columns with their extremes, so that a
/// million rows draw like a thousand and no spike is lost. The samples beside the stretch are kept,
/// so that a line runs to its edges.
[[nodiscard]] std::vector<TraceColumn> traceColumns(const Trace& trace, double fromSeconds,
                                                    double toSeconds, std::size_t count);

/// Both in one.
[[nodiscard]] TraceSegments segmentTrace(const Trace& trace);

} // namespace sipper
