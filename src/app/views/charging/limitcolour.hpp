// The colour of what holds a charge back, on ribbon and ladder.
#pragma once

#include "charge/limit.hpp"
#include "theme/theme.hpp"

namespace sipper::app {

/// Roles mixed into the card: what the source does in the colour of charging, what was set in that
/// of a weighing, what the voltage does in that of the loads' windows, trouble in that of a stop.
[[nodiscard]] inline QColor limitColour(ChargeLimit limit) {
    const auto mixed = [](Role role, double share) {
        const QColor over = colour(role);
        const QColor ground = colour(Role::card);
        const auto mix = [share](int a, int b) { return qRound(a * share + b * (1 - share)); };
        return QColor(mix(over.red(), ground.red()), mix(over.green(), ground.green()),
                      mix(over.blue(), ground.blue()));
    };
    switch (limit) {
    case ChargeLimit::source:
    case ChargeLimit::inputLimit:
        return mixed(Role::charging, 0.42);
    case ChargeLimit::heat:
    case ChargeLimit::recovery:
        return mixed(Role::stop, 0.38);
    case ChargeLimit::cc:
        return mixed(Role::weigh, 0.5);
    case ChargeLimit::cv:
        return mixed(Role::accepts, 0.38);
    case ChargeLimit::cell:
        return mixed(Role::fine, 0.42);
    case ChargeLimit::outputLimit:
    case ChargeLimit::powerLimit:
        return mixed(Role::copper, 0.4);
    }
    return colour(Role::band);
}

} // namespace sipper::app
