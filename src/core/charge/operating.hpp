// SPDX-License-Identifier: GPL-3.0-or-later
// One moment of the line with its chargers at work: the copper of what is plugged in, and the pack
// taking what is left.
#pragma once

#include "charge/context.hpp"
#include "line/operating.hpp"

namespace sipper {

/// As `operate`, and every charger whose source is among `conditions.present` pushes what its
/// limits allow into its pack: the way to it, the charger, the pack and what hangs on the pack are
/// those of that moment. A charger without a source that is there is off. A charge that can't be
/// (see ChargeFailure) leaves it off.
[[nodiscard]] OperatingPoint operateWithChargers(const Project& project,
                                                 const Conditions& conditions, double charge,
                                                 std::size_t mode);

/// Books the stages between a charger and its pack, from `volts` at its output.
void bookLeg(const Project& project, const std::string& charger, double volts, double amps,
             Celsius ambient, OperatingPoint& point);

/// Books what hangs on a charged pack, and the pack itself, at the volts that its charger lifts it
/// to.
void bookNode(const Project& project, const ChargeContext& bench, const NodePoint& node,
              OperatingPoint& point);

} // namespace sipper
