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

} // namespace sipper
