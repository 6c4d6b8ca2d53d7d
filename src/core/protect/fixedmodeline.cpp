// SPDX-License-Identifier: GPL-3.0-or-later
#include "protect/fixedmodeline.hpp"

namespace sipper {

DriveResult integrateFixed(const FixedModeLine& held, const PackState& from, double hours,
                           GuardState guard,
                           const std::function<bool(const PackState&)>& happened) {
    Integration d;
    d.amps = [&](const PackState& s, double) { return held.amps(s, guard); };
    if (happened)
        d.event = [&](const PackState& s, double, double) { return happened(s); };
    d.until = hours;
    return integrate(held.pack(), from, d);
}

std::optional<DriveResult> untilCut(const FixedModeLine& held, const PackState& from) {
    DriveResult out = integrateFixed(held, from, kLongestDrain, GuardState::closed,
                                     [&](const PackState& s) { return held.low(s); });
    if (out.end != IntegrationEnd::event)
        return std::nullopt;
    if (held.delaySeconds() > 0) {
        const DriveResult wait =
            integrateFixed(held, out.state, held.delaySeconds() / 3600, GuardState::closed);
        out.hours += wait.hours;
        out.state = wait.state;
    }
    return out;
}

} // namespace sipper
