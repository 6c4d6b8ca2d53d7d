// SPDX-License-Identifier: GPL-3.0-or-later
// The line with nothing drawn: where voltages are highest.
#pragma once

#include "line/network.hpp"

namespace sipper {

/// The pack's voltage right after a full charge: series x the larger of full_v and E(1).
[[nodiscard]] double fullVolts(const Pack& pack);

/// Volts at every stage and load with the pack full and nothing drawn. Needs a pack.
[[nodiscard]] Flows unloadedAtFull(const Project& project);

/// The same from the source `source` (an index) at its highest voltage, with the pack behind it
/// where there is one.
[[nodiscard]] Flows unloadedFrom(const Project& project, std::size_t source);

/// A stage or load that sees more than it may.
struct Excess {
    std::string id;
    double sees = 0;
    double limit = 0;
    bool damages = false; ///< never-above is passed, not the window alone
};
/// What the idle line already passes: inputs over their never-above, then loads over their
/// never-above or their window, each once, in file order.
[[nodiscard]] std::vector<Excess> idleExcesses(const Project& project, const Flows& idle);

} // namespace sipper
