// SPDX-License-Identifier: GPL-3.0-or-later
// A cell and a pack of equal cells.
#pragma once

#include "parts/extras.hpp"
#include "parts/names.hpp"
#include "quantity/units.hpp"

#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace sipper {

/// Straight lines or a curve through points (x rising strictly).
using Table = std::vector<std::pair<double, double>>;

/// One cell as its data sheet tells it (docs/model.md: Cells and packs). Tables: open-circuit volts
/// over charge 0–1; factors over degrees Celsius; `resistanceByCharge` a factor over charge at
/// hand.
struct Cell {
    std::string id;
    std::string label;
    Chemistry chemistry = Chemistry::other;
    std::string size;
    std::optional<bool> rechargeable;
    std::optional<bool> protectedCell;
    std::optional<CellTop> top;
    AmpHours capacity{0};
    std::optional<Volts> nominal;
    std::optional<Volts> full;
    std::optional<Volts> empty;
    std::optional<Amps> maxBurst; ///< under 5 s; as continuous where left out
    std::optional<Amps> maxDischarge;
    std::optional<Amps> maxCharge;
    std::optional<Ohms> resistance;           ///< DC, 10 s, at 25 degC
    std::optional<Ohms> relaxation;           ///< R1
    std::optional<Seconds> relaxationTime;    ///< tau1
    std::optional<double> availableFraction;  ///< c of the two wells, 1 switches the second off
    std::optional<PerHour> wellRate;          ///< k' of the two wells
    std::optional<double> selfDischargeShare; ///< per month
    std::optional<Celsius> dischargeFrom;
    std::optional<Celsius> dischargeTo;
    std::optional<Celsius> chargeFrom;
    std::optional<Celsius> chargeTo;
    std::optional<Grams> mass;
    std::optional<double> price;
    Table openCircuit;
    Table capacityByC;
    Table resistanceByC;
    Table resistanceByCharge;
    Extras extras;

    bool operator==(const Cell&) const = default;
};

/// S groups in series, each of P cells in parallel.
struct Pack {
    double series = 1;
    double parallel = 1;
    std::optional<double> health; ///< share of the rated capacity that is left, 0–1
    std::optional<double> charge; ///< share of the usable capacity at the start, 0–1
    std::optional<Ohms> connection;
    std::optional<Ohms> measuredResistance; ///< per cell; replaces R0 and the health factor
    std::optional<double> resistanceFactor; ///< on R0 and R1, in place of what health gives
    std::optional<AmpHours> weakestGroup;
    std::optional<double> pieces; ///< that are bought: a block of several cells is one
    std::optional<bool> cellMonitor;
    std::optional<Origin> origin;
    std::optional<Holder> holder;
    Cell cell;

    bool operator==(const Pack&) const = default;
};

} // namespace sipper
