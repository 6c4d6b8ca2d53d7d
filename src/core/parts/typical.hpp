// SPDX-License-Identifier: GPL-3.0-or-later
// Figures of the usual small part of its kind, for parts that are proposed before one is chosen.
#pragma once

#include "quantity/units.hpp"

namespace sipper {

inline constexpr Ohms kTypicalFet{0.02};           ///< a power MOSFET that is fully on
inline constexpr Volts kTypicalSchottky{0.35};     ///< a Schottky diode's drop at its usual current
inline constexpr Ohms kTypicalDiodeOhms{0.05};     ///< what it adds by the ampere
inline constexpr double kTypicalFuseOhmAmps = 0.1; ///< a fuse's ohms times its rating in A

} // namespace sipper
