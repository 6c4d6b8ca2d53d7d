// SPDX-License-Identifier: GPL-3.0-or-later
// Field tables of cells and packs.
#include "parts/fieldmaker.hpp"

namespace sipper {

using namespace fieldmaker;

template <>
std::span<const Field<Cell>> fieldsOf<Cell>() {
    static const std::vector<Field<Cell>> fields{
        required(field<Cell, &Cell::id>("id", "Id", "Short name of the cell in files")),
        field<Cell, &Cell::label>("label", "Cell", "What the cell is called on screen and paper"),
        required(
            field<Cell, &Cell::chemistry>("chemistry", "Chemistry", "What the cell is made of")),
        field<Cell, &Cell::size>("size", "Size", "Size of the cell, such as 18650 or AA"),
        field<Cell, &Cell::rechargeable>("rechargeable", "Rechargeable", "May it be charged"),
        off(field<Cell, &Cell::protectedCell>("protected", "Protected",
                                              "Has a protection board of its own")),
        field<Cell, &Cell::top>("top", "Top", "Flat or button top"),
        required(field<Cell, &Cell::capacity>("capacity_ah", "Capacity",
                                              "Rated capacity of one cell, in Ah")),
        field<Cell, &Cell::nominal>("nominal_v", "Nominal", "Voltage on the label, in V"),
        field<Cell, &Cell::full>("full_v", "Full", "Voltage of a full cell, in V"),
        field<Cell, &Cell::empty>("empty_v", "Empty",
                                  "Voltage at which a cell counts as empty, in V"),
        field<Cell, &Cell::maxDischarge>("max_discharge_a", "Discharge limit",
                                         "Largest continuous discharge current of one cell, in A"),
        field<Cell, &Cell::maxBurst>("max_burst_a", "Burst limit",
                                     "Largest discharge current of one cell under 5 s, in A"),
        field<Cell, &Cell::maxCharge>("max_charge_a", "Charge limit",
                                      "Largest continuous charge current of one cell, in A"),
        zero(
            field<Cell, &Cell::resistance>("resistance_ohm", "Resistance",
                                           "DC resistance of one cell over 10 s at 25 °C, in ohm")),
        zero(field<Cell, &Cell::relaxation>("relaxation_ohm", "Slow resistance",
                                            "Resistance that builds up under load, in ohm")),
        zero(field<Cell, &Cell::relaxationTime>("relaxation_s", "Settling time",
                                                "Time constant of the slow resistance, in s")),
        preset(within(field<Cell, &Cell::availableFraction>(
                          "available_fraction", "Charge at hand",
                          "Share of the charge that is at hand at once, 0 to 1", Unit::fraction),
                      {0, 1, true}),
               1.0),
        zero(field<Cell, &Cell::wellRate>("well_rate_per_h", "Well rate",
                                          "How fast bound charge follows (k'), per hour")),
        zero(field<Cell, &Cell::selfDischargeShare>("self_discharge_per_month", "Self-discharge",
                                                    "Share of the capacity lost each month, 0 to 1",
                                                    Unit::fraction)),
        field<Cell, &Cell::dischargeFrom>("discharge_from_c", "Discharge from",
                                          "Coldest in which it may be discharged, in °C"),
        field<Cell, &Cell::dischargeTo>("discharge_to_c", "Discharge to",
                                        "Warmest in which it may be discharged, in °C"),
        field<Cell, &Cell::chargeFrom>("charge_from_c", "Charge from",
                                       "Coldest in which it may be charged, in °C"),
        field<Cell, &Cell::chargeTo>("charge_to_c", "Charge to",
                                     "Warmest in which it may be charged, in °C"),
        field<Cell, &Cell::mass>("mass_g", "Mass", "Mass of one cell, in g"),
        field<Cell, &Cell::price>("price", "Price", "Price of one cell", Unit::money),
    };
    return fields;
}

template <>
std::span<const Field<Pack>> fieldsOf<Pack>() {
    static const std::vector<Field<Pack>> fields{
        required(
            field<Pack, &Pack::series>("series", "In series", "Groups in series", Unit::count)),
        required(field<Pack, &Pack::parallel>("parallel", "In parallel",
                                              "Cells side by side in each group", Unit::count)),
        preset(within(field<Pack, &Pack::health>("health", "Health",
                                                 "Share of the rated capacity that is left, 0 to 1",
                                                 Unit::fraction),
                      {0, 1, true}),
               1.0),
        preset(field<Pack, &Pack::charge>("charge", "Charge", "Charge at the start, 0 to 1",
                                          Unit::fraction),
               1.0),
        zero(field<Pack, &Pack::connection>("connection_ohm", "Joints",
                                            "Resistance of all joints and tabs together, in ohm")),
        field<Pack, &Pack::measuredResistance>(
            "measured_ohm", "Measured resistance",
            "Measured resistance of one cell, in ohm; replaces the library's"),
        within(field<Pack, &Pack::resistanceFactor>("resistance_factor", "Resistance factor",
                                                    "On the cells' resistances, as calibrated: in "
                                                    "place of what their health would give",
                                                    Unit::none),
               {0.01, 100, true}),
        field<Pack, &Pack::weakestGroup>("weakest_group_ah", "Weakest group",
                                         "Measured capacity of the weakest series group, in Ah"),
        within(field<Pack, &Pack::pieces>("pieces", "Pieces",
                                          "What is bought: a block or tool pack of several cells "
                                          "counts 1",
                                          Unit::count),
               {1, 100000, false}),
        off(field<Pack, &Pack::cellMonitor>("cell_monitor", "Cell monitor",
                                            "Every series group is watched by itself")),
        field<Pack, &Pack::origin>("origin", "Origin", "New or salvaged cells"),
        field<Pack, &Pack::holder>("holder", "Holder", "Holder length: bare or protected cells"),
    };
    return fields;
}

} // namespace sipper
