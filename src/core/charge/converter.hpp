// SPDX-License-Identifier: GPL-3.0-or-later
// A charger's power stage at one moment: what it takes for what it gives, and what it burns.
#pragma once

#include "parts/stage.hpp"

#include <optional>

namespace sipper {

/// A charger in SI numbers; 0 leaves a limit out.
struct ConverterModel {
    Topology topology = Topology::linear;
    double quiescent = 0; ///< A of its own at the input; ground current of a linear one
    double fixed = 0;     ///< W
    double switching = 0; ///< W per V at the input
    double drop = 0;      ///< V, loss per amp of inductor current; of a direct one its diode
    double resistance = 0;
    double skipBelow = 0;
    double duty = 1;
    double dropout = 0;       ///< V of a bipolar linear part
    double dropoutPerAmp = 0; ///< ohms of a FET part
    double theta = 0;         ///< K per W, with the fan's share

    /// Its losses as the regulators' (docs/model.md: Stages). `direct` is a diode and a resistor.
    explicit ConverterModel(const Charger& charger);

    /// Amps at the input for `amps` at `volts` at the output. Nothing where no input current
    /// carries that (a boost past its largest power).
    [[nodiscard]] std::optional<double> inputAmps(double inputVolts, double volts,
                                                  double amps) const;
    /// Amps at the output into fixed volts for `inputAmps` at the input; 0 where they don't cover
    /// its own needs. The other way round of `inputAmps`, for what converts.
    [[nodiscard]] double outputAmps(double inputVolts, double inputAmps, double volts) const;
    /// Does the input current depend on the input volts at all?
    [[nodiscard]] bool takesByVolts() const {
        return topology != Topology::linear && topology != Topology::direct;
    }
    /// Volts that the input must have at least for `amps` at `volts`, by drop-out or duty; 0 for
    /// what can step up.
    [[nodiscard]] double leastInput(double volts, double amps) const;
    /// Amps at the output while the input carries no more than `inputAmps` and its source has
    /// fallen to the least input (docs/model.md: Charging). Nothing for
    /// what steps up: it has no such resting point.
    [[nodiscard]] std::optional<double> ampsAtInputLimit(double inputAmps, double volts) const;

  private:
    /// The fixed loss and what grows with the input, less where pulses are skipped.
    [[nodiscard]] double fixedAt(double inductorAmps, double vIn) const;
};

} // namespace sipper
