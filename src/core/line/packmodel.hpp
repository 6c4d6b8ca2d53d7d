// SPDX-License-Identifier: GPL-3.0-or-later
// A pack at one temperature: capacity, resistances and the two wells of charge.
#pragma once

#include "line/curve.hpp"

#include <cmath>

namespace sipper {

inline constexpr double kHoursPerMonth = 730.5;

/// Charge of one cell in its two wells, in Ah: at hand and bound (kinetic battery model, Manwell
/// and McGowan 1993).
struct Wells {
    double available = 0;
    double bound = 0;
    [[nodiscard]] double total() const { return available + bound; }
};

/// A pack between two moments, told by one of its cells.
struct PackState {
    Wells wells;        ///< Ah of one cell
    double rcVolts = 0; ///< v1, volts over one cell's relaxation pair
};

/// A source as one voltage behind one resistance (Thevenin).
struct TheveninSource {
    double volts = 0;
    double ohms = 0;
};

/// Scale factors on the figures of a pack, for ranges and what-if curves. 1 leaves them alone.
struct PackScale {
    double capacity = 1;
    double resistance = 1;
};

/// The numerical kernel of a pack (SI, but Ah and hours for charge), made once for a run.
struct PackModel {
    double series = 1;
    double parallel = 1;
    double rated = 0;  ///< Ah of one cell on its label
    double usable = 0; ///< Ah of one cell here: Q = Q_r H f_cap(T), or the weakest group's share
    double resistance = 0;        ///< R0 of one cell, before the factor by charge
    double relaxation = 0;        ///< R1 of one cell
    double tau = 0;               ///< s
    double availableFraction = 1; ///< c
    double wellRate = 0;          ///< k' per hour
    double selfAmps = 0;          ///< self-discharge of one cell
    double connection = 0;
    double maxDischarge = 0; ///< A of one cell; 0 when unknown
    Curve openCircuit;
    Table resistanceByCharge;

    /// Usable capacity and resistances follow (docs/model.md: Cells and packs): R0 and R1 times
    /// f_res(T) and 1 + 1.5 (1 - H), or a calibrated factor in its place; a measured resistance
    /// replaces R0 and the health factor of both.
    PackModel(const Pack& pack, Celsius ambient, PackScale scale = {});

    [[nodiscard]] Wells level(double charge) const;
    /// Charge 0–1 of both wells.
    [[nodiscard]] double charge(const Wells& w) const { return w.total() / usable; }
    /// Height of the first well, at which the open-circuit voltage is read.
    [[nodiscard]] double height(const Wells& w) const {
        return w.available / availableFraction / usable;
    }
    /// Volts of one cell at rest.
    [[nodiscard]] double openCircuitAt(double height) const { return openCircuit.at(height); }
    [[nodiscard]] double resistanceAt(double height) const {
        return resistanceByCharge.empty() ? resistance
                                          : resistance * factorAt(resistanceByCharge, height);
    }
    /// V of the resting pack at a height of the first well.
    [[nodiscard]] double restVolts(double height) const { return series * openCircuitAt(height); }
    /// Ohms of the whole pack at a height, its connections in it.
    [[nodiscard]] double ohms(double height) const {
        return series * resistanceAt(height) / parallel + connection;
    }
    /// The pack at a height with `rcVolts` over one cell's relaxation pair.
    [[nodiscard]] TheveninSource source(double height, double rcVolts) const {
        return {series * (openCircuitAt(height) - rcVolts), ohms(height)};
    }
    [[nodiscard]] TheveninSource source(const PackState& state) const {
        return source(height(state.wells), state.rcVolts);
    }
    /// V at the terminals while the pack gives `packAmps` (negative: takes).
    [[nodiscard]] double volts(double height, double rcVolts, double packAmps) const {
        return series *
                   (openCircuitAt(height) - rcVolts - packAmps / parallel * resistanceAt(height)) -
               packAmps * connection;
    }
    /// v1 after `seconds` at a constant current of one cell; at once where the cell has no time
    /// constant.
    [[nodiscard]] double rcVoltsAfter(double rcVolts, double cellAmps, double seconds) const {
        const double settled = cellAmps * relaxation;
        return tau > 0 ? settled + (rcVolts - settled) * std::exp(-seconds / tau) : settled;
    }
    /// The wells after `hours` at a constant cell current, in closed form; k' = 0 and c = 1 are
    /// limits.
    [[nodiscard]] Wells drained(const Wells& w, double amps, double hours) const;
};

} // namespace sipper
