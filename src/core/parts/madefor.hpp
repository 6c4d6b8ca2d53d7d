// The window of a load of which people only know what it was made for.
#pragma once

#include "parts/load.hpp"
#include "quantity/outcome.hpp"

namespace sipper {

/// What a device was made to run from.
enum class MadeFor { regulatedAdapter, unregulatedAdapter, cells, socket, vehicle, rail };

struct MadeForAsked {
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
[[nodiscard]] Outcome<DerivedWindow> windowFor(const MadeForAsked& asked);

} // namespace sipper
