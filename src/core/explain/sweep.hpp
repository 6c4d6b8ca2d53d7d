// SPDX-License-Identifier: GPL-3.0-or-later
// What if a figure were another: the project solved over a span of it, with the places where
// something breaks.
#pragma once

#include "base/parallelfor.hpp"
#include "project/fieldpath.hpp"
#include "runtime/runtime.hpp"

#include <set>
#include <stop_token>

namespace sipper {

/// What a point of a sweep can tell, beside where its run ends.
enum class SweepKey { runtimeHours, worstAmps, packWatts, grams, price, refillHours, stops, cares };
/// `runtime_h`, `worst_a`, `mean_pack_w`, `mass_g`, `price`, `refill_h`, `stop`, `care`.
[[nodiscard]] std::string_view nameOfKey(SweepKey key);
[[nodiscard]] std::optional<SweepKey> sweepKeyOf(std::string_view name);
[[nodiscard]] std::set<SweepKey> allSweepKeys();

inline constexpr std::size_t kMostSweepPoints = 2001;

struct SweepOptions {
    double from = 0;
    double to = 1;
    std::size_t points = 41; ///< 2 to `kMostSweepPoints`; of whole numbers each once, if so many
    bool logarithmic = false;
    std::set<SweepKey> keys = allSweepKeys(); ///< what is worked out; hours always
    bool breaks = true;
};

struct SweepPoint {
    double x = 0;
    std::optional<std::string> refused; ///< why the file's reader takes no such value
    std::optional<double> hours;        ///< nothing where it does not run down
    Ending ending;
    double worstAmps = 0;
    double packWatts = 0;
    double grams = 0;
    double price = 0;
    std::optional<double> refillHours; ///< nothing without a charger, and where it never fills
    int stops = 0;
    int cares = 0;
    std::vector<std::string> stopTitles;
    std::string endSays; ///< `Guard opens in mode “Lit”`
};

/// A place where the answer changes its kind.
struct SweepBreak {
    double x = 0;     ///< within 1e-4 of the span; of whole numbers the first with the new state
    std::string what; ///< end, stop or hours
    std::string before;
    std::string after;
};

struct Sweep {
    FieldPlace field;
    std::vector<SweepPoint> points;
    std::vector<SweepBreak> breaks; ///< rising in x
};

/// Each point is what a run, a refill and the advice say of the file with that one value changed
/// (docs/model.md: What if). Between neighbours whose end (place, mode, reason) or count of stops
/// differs the place is halved to 1e-4 of the span (of ln x, if `logarithmic`); so is a jump of the
/// hours of over 5 %, which counts only if it is still one there. What both neighbours hide is not
/// looked for. Errors: those of `fieldAt`; "range" for a span of nothing, a point not above 0 on a
/// logarithmic one, too few or too many points. Stopped: the points so far are worth nothing.
[[nodiscard]] Outcome<Sweep> sweepOf(const Project& project, std::string_view field,
                                     const SweepOptions& ask, const std::stop_token& stop = {},
                                     const ParallelFor& pieces = twoThreadFor);

} // namespace sipper
