// SPDX-License-Identifier: GPL-3.0-or-later
// What the library's parts would do in a stage's place: each really solved.
#pragma once

#include "project/library.hpp"
#include "runtime/runtime.hpp"

#include <functional>
#include <stop_token>

namespace sipper {

struct Swap {
    std::size_t part = 0;        ///< index in the library
    double series = 0;           ///< of cells: how many in series; `withSwap` takes it
    std::optional<double> hours; ///< it runs; nothing where it does not run down
    double gainHours = 0;
    double heatWatts = 0; ///< of a project on an external source: lost on the line at its worst
    double gramsMore = 0;
    double priceMore = 0;
    bool fits = false;
    std::string why; ///< why it does not fit, in a few words; empty where it does or never runs
    std::optional<Ending> ending; ///< what stops it at once
};

/// May this part stand in that stage's place at all: cells for cells, a regulator for a regulator,
/// a guard for a guard, a diode or FET diode for either, one source of the mains for another; else
/// only a part of the same kind.
[[nodiscard]] bool interchangeable(const Part& part, const Part& other);

/// The project with the library's part in the stage's place: set-point, thresholds and rating stay
/// as far as the part has them; cells come in as many in `series`, or where that is 0, in as many
/// as keep the voltage. Unchanged where the part is of another trade.
[[nodiscard]] Project withSwap(const Project& project, std::string_view stage,
                               const LibraryPart& part, double series = 0);

/// All parts of the stage's trade, solved at typical ambient, those that fit first, by gain. Cells
/// are tried in as many as keep the voltage and in as many as there are: the better one counts.
/// `each` hears of every one as it is solved. Empty when asked to stop.
[[nodiscard]] std::vector<Swap>
suggestSwaps(const Project& project, const Library& library, std::string_view stage,
             const std::stop_token& stop = {},
             const std::function<void(std::size_t done, std::size_t all)>& each = {});

} // namespace sipper
