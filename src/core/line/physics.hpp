// SPDX-License-Identifier: GPL-3.0-or-later
// What each kind of part does to volts and amps, as the numbers that the network is solved with.
#pragma once

#include "parts/stage.hpp"

#include <cstdint>

namespace sipper {

/// Resistance of a lead: both conductors of copper at the ambient, and its contacts (docs/model.md:
/// Stages).
[[nodiscard]] double wireOhms(const Wire& wire, Celsius ambient);

/// How a part turns its input into its output.
enum class TransferKind : std::uint8_t { series, guard, fuse, linear, buck, boost, buckBoost };

/// A part in SI numbers; 0 leaves a limit out. Which figure means what: design, stages.
struct Physics {
    TransferKind kind = TransferKind::series;
    bool holds = false;
    bool fet = false;
    double resistance = 0;
    double drop = 0;
    double quiescent = 0; ///< or ground current
    double set = 0;
    double dropout = 0;       ///< bipolar: volts
    double dropoutPerAmp = 0; ///< FET: ohms
    double fixed = 0;
    double switching = 0; ///< W per V at the input, which is a current there
    double skipBelow = 0;
    double duty = 1;
    double outputLimit = 0;
    double powerLimit = 0;
    double switchLimit = 0;
    double trip = 0;      ///< guard trip or fuse rating
    double shunt = 0;     ///< 1/ohm across the input: a guard's divider, a battery watch
    double setAmps = 0;   ///< of one that regulates current; 0: it holds volts
    double outputMax = 0; ///< V of one that regulates current, open circuit
    double outShunt = 0;  ///< 1/ohm across the output: the divider of a regulator's set-point
};

/// The part's physics at an ambient (it warms leads), its converter losses times `lossScale`. A
/// source is nothing in the way; of a charger too, for no load is fed through one. Every kind is
/// named: one that is forgotten does not compile.
[[nodiscard]] Physics physicsOf(const Part& part, Celsius ambient, double lossScale = 1);

} // namespace sipper
