// SPDX-License-Identifier: GPL-3.0-or-later
// The colour of what holds a charge back, on ribbon and ladder.
#pragma once

#include "charge/limit.hpp"
#include "theme/theme.hpp"

namespace sipper::app {

/// Roles mixed into the card: what the source does in the colour of charging, what was set in that
/// of a weighing, what the voltage does in that of the loads' windows, trouble in that of a stop.
[[nodiscard]] inline QColor limitColour(ChargeLimit limit) {
    switch (limit) {
    case ChargeLimit::source:
    case ChargeLimit::inputLimit:
        return onCard(Role::charging, 0.42);
    case ChargeLimit::heat:
    case ChargeLimit::recovery:
        return onCard(Role::stop, 0.38);
    case ChargeLimit::cc:
        return onCard(Role::weigh, 0.5);
    case ChargeLimit::cv:
        return onCard(Role::accepts, 0.38);
    case ChargeLimit::cell:
        return onCard(Role::fine, 0.42);
    case ChargeLimit::outputLimit:
    case ChargeLimit::powerLimit:
        return onCard(Role::copper, 0.4);
    }
    return colour(Role::band);
}

} // namespace sipper::app
