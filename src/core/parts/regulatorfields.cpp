// SPDX-License-Identifier: GPL-3.0-or-later
// Field tables of regulators and chargers.
#include "parts/fieldmaker.hpp"

namespace sipper {

using namespace fieldmaker;

namespace {

template <class P>
std::vector<Field<P>> activeFields() {
    return {
        field<P, &P::inputMin>("input_min_v", "Input at least",
                               "Input voltage under which the part stops, in V"),
        field<P, &P::inputNeverAbove>("input_never_above_v", "Input never above",
                                      "Input voltage that damages the part, in V"),
        field<P, &P::startMin>("start_min_v", "Starts at",
                               "Input voltage that it needs to start, in V"),
        field<P, &P::thermal>("thermal_c_per_w", "Heats up", "Part over air, in K per W of loss"),
        field<P, &P::maxPart>("max_part_c", "Part at most", "Largest part temperature, in °C"),
        off(field<P, &P::fan>("fan", "Fan", "Air is blown over it")),
        off(field<P, &P::adjustable>("adjustable", "Adjustable", "Set with a trimmer")),
        field<P, &P::adjustMin>("adjust_min_v", "Adjusts from", "Lowest setting, in V"),
        field<P, &P::adjustMax>("adjust_max_v", "Adjusts to", "Highest setting, in V"),
        field<P, &P::setMax>("set_max_v", "End stop", "Output with the trimmer at its end, in V"),
    };
}

/// What a regulator holds: volts, or the current of light strings (docs/model.md: Stages).
template <class P>
std::vector<Field<P>> regulatesFields() {
    return {
        preset(field<P, &P::regulates>("regulates", "Holds",
                                       "Its output voltage, or the current of light strings"),
               std::string("volts")),
        field<P, &P::setAmps>("set_a", "Set current", "Of one that holds a current, in A"),
        field<P, &P::outputMax>("output_max_v", "Output at most",
                                "Of one that holds a current, with nothing on it, in V"),
    };
}

template <class P>
std::vector<Field<P>> lossFields() {
    return {
        zero(field<P, &P::quiescent>("quiescent_a", "Own use",
                                     "Input current it always takes, in A")),
        zero(field<P, &P::fixed>("fixed_w", "Fixed loss",
                                 "Loss that does not grow with current, in W")),
        zero(field<P, &P::drop>("drop_v", "Loss per amp",
                                "Loss in proportion to the inductor current, in V")),
        zero(field<P, &P::resistance>(
            "resistance_ohm", "Resistance",
            "Loss in proportion to the square of the inductor current, in ohm")),
        zero(within(field<P, &P::switching>("switching_w_per_v", "Loss per volt",
                                            "Loss that grows with the input voltage, in W per V",
                                            Unit::none),
                    {0, 100, false})),
        zero(field<P, &P::skipBelow>("skip_below_a", "Skips below",
                                     "Inductor current under which pulses are skipped, in A")),
    };
}

template <class P>
Field<P> duty() {
    return preset(within(field<P, &P::maxDuty>("max_duty", "Largest duty",
                                               "Largest share of the input a buck can pass on",
                                               Unit::fraction),
                         {0, 1, true}),
                  1.0);
}

template <class P>
Field<P> setPoint() {
    return required(
        within(field<P, &P::set>("set_v", "Set to", "Output set-point, in V"), {0, 1000, true}));
}

} // namespace

template <>
std::span<const Field<Linear>> fieldsOf<Linear>() {
    static const std::vector<Field<Linear>> fields = joined<Linear>(
        {{setPoint<Linear>(),
          zero(field<Linear, &Linear::dropout>(
              "dropout_v", "Drop-out",
              "Least input over output (FET: at the rated current), in V")),
          preset(field<Linear, &Linear::dropoutKind>("dropout_kind", "Drop-out kind",
                                                     "FET: grows with current; bipolar: constant"),
                 std::string("bipolar")),
          within(field<Linear, &Linear::ratedCurrent>("rated_current_a", "Rated current",
                                                      "Largest output current, in A"),
                 {0, 1000, true}),
          zero(field<Linear, &Linear::ground>("ground_a", "Own use", "Ground current, in A")),
          field<Linear, &Linear::outputLimit>("output_limit_a", "Output limit",
                                              "Output current limit, in A"),
          field<Linear, &Linear::powerLimit>("power_limit_w", "Power limit",
                                             "Output power limit, in W")},
         activeFields<Linear>(),
         regulatesFields<Linear>(),
         dividerFields<Linear>()});
    return fields;
}

template <>
std::span<const Field<Switcher>> fieldsOf<Switcher>() {
    static const std::vector<Field<Switcher>> fields = joined<Switcher>(
        {{setPoint<Switcher>()},
         lossFields<Switcher>(),
         {duty<Switcher>(),
          field<Switcher, &Switcher::switchLimit>("switch_limit_a", "Switch limit",
                                                  "Limit of the inductor current, in A"),
          field<Switcher, &Switcher::outputLimit>("output_limit_a", "Output limit",
                                                  "Output current limit, in A"),
          field<Switcher, &Switcher::powerLimit>("power_limit_w", "Power limit",
                                                 "Output power limit, in W"),
          off(field<Switcher, &Switcher::holdsWhenAbove>(
              "holds_when_above", "Holds when above",
              "A boost that burns the difference when its input is above the set-point"))},
         activeFields<Switcher>(),
         regulatesFields<Switcher>(),
         dividerFields<Switcher>()});
    return fields;
}

template <>
std::span<const Field<Charger>> fieldsOf<Charger>() {
    static const std::vector<Field<Charger>> fields = joined<Charger>(
        {{required(field<Charger, &Charger::charges>("charges", "Charges", "Id of the pack")),
          required(field<Charger, &Charger::topology>("topology", "Kind", "How it converts")),
          field<Charger, &Charger::chargeCurrent>("charge_current_a", "Set current",
                                                  "Output current, in A"),
          field<Charger, &Charger::chargeVoltage>("charge_v", "Set voltage",
                                                  "Of the whole pack, in V"),
          field<Charger, &Charger::endCurrent>("end_current_a", "Ends at",
                                               "Output current at the end, in A"),
          field<Charger, &Charger::recoveryBelow>("recovery_below_v", "Recovery below",
                                                  "Pack voltage under which it trickles, in V"),
          field<Charger, &Charger::recoveryCurrent>("recovery_current_a", "Recovery current",
                                                    "In A"),
          field<Charger, &Charger::inputLimit>("input_limit_a", "Input limit", "In A"),
          field<Charger, &Charger::inputHold>("input_hold_v", "Input held at", "In V"),
          field<Charger, &Charger::powerLimit>("power_limit_w", "Power limit",
                                               "Output power limit, in W"),
          field<Charger, &Charger::outputLimit>("output_limit_a", "Output limit", "In A"),
          field<Charger, &Charger::foldBack>("fold_back_c", "Folds back at",
                                             "Part temperature, in °C"),
          field<Charger, &Charger::programK>("program_k", "Program K",
                                             "Current is K over the resistor", Unit::none),
          field<Charger, &Charger::programOhm>("program_ohm", "Program resistor", "In ohm"),
          field<Charger, &Charger::chargeEfficiency>("charge_efficiency", "Charge efficiency",
                                                     "Share of the charge that stays",
                                                     Unit::fraction),
          preset(field<Charger, &Charger::endsBy>("ends_by", "Ends by", "What ends the charge"),
                 std::string("end_current")),
          field<Charger, &Charger::timer>("timer_h", "Ends after", "Of a timed charge, in h"),
          field<Charger, &Charger::floats>("float_v", "Floats at",
                                           "Voltage of the whole pack held afterwards, in V"),
          off(field<Charger, &Charger::thermistor>("thermistor", "Thermistor",
                                                   "Stops in the cold")),
          off(field<Charger, &Charger::remoteSense>(
              "remote_sense", "Senses at the pack",
              "Holds its volts at the pack, past leads and fuse")),
          off(field<Charger, &Charger::tracking>("tracking", "Tracks the panel",
                                                 "Keeps a panel at the top of its power")),
          zero(field<Charger, &Charger::dark>(
              "dark_a", "Draw in the dark",
              "Taken from the pack while the charger gives nothing, in A")),
          zero(field<Charger, &Charger::dropout>("dropout_v", "Drop-out",
                                                 "Of a linear charger, in V")),
          field<Charger, &Charger::dropoutKind>("dropout_kind", "Drop-out kind", "FET or bipolar"),
          field<Charger, &Charger::ratedCurrent>("rated_current_a", "Rated current", "In A"),
          zero(field<Charger, &Charger::ground>("ground_a", "Ground current", "In A"))},
         lossFields<Charger>(),
         {duty<Charger>(),
          field<Charger, &Charger::switchLimit>("switch_limit_a", "Switch limit", "In A"),
          off(field<Charger, &Charger::holdsWhenAbove>("holds_when_above", "Holds when above",
                                                       "Burns the difference"))},
         activeFields<Charger>(),
         dividerFields<Charger>()});
    return fields;
}

} // namespace sipper
