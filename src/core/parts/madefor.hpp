// SPDX-License-Identifier: GPL-3.0-or-later
// The window of a load of which people only know what it was made for.
#pragma once

#include "base/outcome.hpp"
#include "parts/load.hpp"

namespace sipper {

/// What a device was made to run from.
enum class MadeFor { regulatedAdapter, unregulatedAdapter, cells, socket, vehicle, rail };

struct MadeForInput {
    MadeFor kind = MadeFor::regulatedAdapter;
    Volts volts{6};                            ///< of an adapter or a rail
    Chemistry chemistry = Chemistry::alkaline; ///< of cells
    int count = 2;                             ///< of cells in series
};

struct DerivedWindow {
    Window window;
    std::string assumed; ///< in sentences: what it rests on, and what to check
};

/// Rules of thumb, each said in `assumed`: a regulated adapter holds 5 %; an unregulated one gives
/// half as much again with nothing drawn; cells go from fresh to what such things still work at; a
/// 5 V socket gives 4.75 to 5.25 V; a vehicle 9 to 16 V; logic takes 10 %. Code "range" for volts
/// outside 0.5 to 400, a count outside 1 to 100, or a chemistry of which nothing is known.
[[nodiscard]] Outcome<DerivedWindow> windowFor(const MadeForInput& asked);

/// A run that is remembered: the device's own battery of so much lasted so long.
struct KnownRun {
    AmpHours capacity{1.2};
    Volts volts{7.2};
    Hours lasted{3};
};

/// What the device drew on the average of that run.
struct DrawFromRun {
    Amps current{0};
    Watts power{0};
    std::string assumed; ///< what it rests on
};

/// Share by which a draw from a remembered run may be off: labels promise, and batteries age.
inline constexpr double kKnownRunTolerance = 0.25;

/// `I = Q / t` and `P = Q V / t`. Code "range" for anything not over 0, or too large to be true.
[[nodiscard]] Outcome<DrawFromRun> drawFromRun(const KnownRun& run);
/// The load drawing that in `mode`, by its watts where `byPower` (a device with a regulator of its
/// own), else by its amps; a guess, with `kKnownRunTolerance`. Bursts of the mode stay.
[[nodiscard]] Load withKnownRun(Load load, const std::string& mode, const DrawFromRun& draw,
                                bool byPower);

} // namespace sipper
