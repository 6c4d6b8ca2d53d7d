// SPDX-License-Identifier: GPL-3.0-or-later
// What counts as past a limit, and where between good and bad the edge lies: said once for all
// judgements.
#pragma once

namespace sipper {

inline constexpr double kRelTol = 1e-9; ///< relative: exactly on the edge is inside

/// Is `value` past a limit from above? Exactly on it is not.
[[nodiscard]] constexpr bool exceeds(double value, double limit) {
    return value > limit + (limit < 0 ? -limit : limit) * kRelTol;
}
/// Is `value` past a limit from below? Exactly on it is not.
[[nodiscard]] constexpr bool fallsBelow(double value, double limit) {
    return value < limit - (limit < 0 ? -limit : limit) * kRelTol;
}
/// Past a limit that 0 leaves out.
[[nodiscard]] constexpr bool overSet(double value, double limit) {
    return limit > 0 && exceeds(value, limit);
}

/// The last place that is good between `good` and `bad`, halved `rounds` times. `holds(x)` is true
/// on the side of `good` and false on that of `bad`; neither end is asked.
template <class Holds>
[[nodiscard]] double bisect(double good, double bad, int rounds, Holds&& holds) {
    for (int round = 0; round < rounds; ++round) {
        const double middle = (good + bad) / 2;
        (holds(middle) ? good : bad) = middle;
    }
    return good;
}

} // namespace sipper
