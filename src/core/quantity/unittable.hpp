// SPDX-License-Identifier: GPL-3.0-or-later
// The one table of units: how each is shown, typed, prefixed and bounded.
#pragma once

#include "quantity/units.hpp"

#include <limits>
#include <span>
#include <string_view>

namespace sipper {

/// One way of typing a unit, in lower case.
struct Spelling {
    std::string_view text;
    double factor;         ///< to the unit that figures are kept in; a time's to seconds
    bool prefixed = false; ///< takes p n u m k M G in front
};

struct UnitFacts {
    Unit unit;
    std::string_view symbol;   ///< as it is shown
    std::string_view expected; ///< what a field says that it wants: `volts, such as 3.3 V`
    std::span<const Spelling> spellings;
    bool prefixed = false;   ///< shown with p n µ m k M G
    bool barePrefix = false; ///< `4k7`, `150m`: a prefix with nothing behind it is read
    double least = 0;        ///< the widest sensible range: past it a figure is a slip
    double most = std::numeric_limits<double>::max();
    bool leastOpen = false; ///< `least` itself is not allowed
};

[[nodiscard]] const UnitFacts& factsOf(Unit unit);

} // namespace sipper
