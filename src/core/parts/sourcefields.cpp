// SPDX-License-Identifier: GPL-3.0-or-later
// Field tables of the other sources and of the passive stages.
#include "parts/fieldmaker.hpp"

namespace sipper {

using namespace fieldmaker;

template <>
std::span<const Field<Adapter>> fieldsOf<Adapter>() {
    static const std::vector<Field<Adapter>> fields = joined<Adapter>(
        {{field<Adapter, &Adapter::set>("set_v", "Gives", "Regulated output, in V"),
          field<Adapter, &Adapter::tolerance>("tolerance", "Tolerance",
                                              "Share by which it may be off", Unit::fraction),
          field<Adapter, &Adapter::limit>("limit_a", "Limit", "Largest current, in A"),
          field<Adapter, &Adapter::beyondLimit>("beyond_limit", "Beyond the limit",
                                                "What it does when asked for more"),
          field<Adapter, &Adapter::noLoad>("no_load_v", "No load",
                                           "Voltage with nothing on it, in V"),
          field<Adapter, &Adapter::rated>("rated_v", "Rated", "Voltage at the rated current, in V"),
          field<Adapter, &Adapter::ratedCurrent>("rated_a", "Rated current",
                                                 "Rated current, in A")},
         sleepFields<Adapter>(),
         {off(field<Adapter, &Adapter::adjustable>("adjustable", "Adjustable",
                                                   "A supply with a knob")),
          field<Adapter, &Adapter::adjustMin>("adjust_min_v", "Adjusts from",
                                              "Lowest setting, in V"),
          field<Adapter, &Adapter::adjustMax>("adjust_max_v", "Adjusts to",
                                              "Highest setting, in V")}});
    return fields;
}
template <>
std::span<const Field<Usb>> fieldsOf<Usb>() {
    static const std::vector<Field<Usb>> fields =
        joined<Usb>({{field<Usb, &Usb::advertises>("advertises_a", "Advertises",
                                                   "Current the socket offers, in A")},
                     sleepFields<Usb>()});
    return fields;
}
template <>
std::span<const Field<Vehicle>> fieldsOf<Vehicle>() {
    return {};
}
template <>
std::span<const Field<Panel>> fieldsOf<Panel>() {
    static const std::vector<Field<Panel>> fields{
        field<Panel, &Panel::openCircuit>("voc_v", "Open circuit", "Open-circuit voltage, in V"),
        field<Panel, &Panel::shortCircuit>("isc_a", "Short circuit", "Short-circuit current, in A"),
        field<Panel, &Panel::vmp>("vmp_v", "Best voltage", "Voltage of most power, in V"),
        field<Panel, &Panel::imp>("imp_a", "Best current", "Current of most power, in A"),
        field<Panel, &Panel::perKelvin>("voc_per_c", "Voltage over heat",
                                        "Change of the open-circuit voltage, in V per K, negative"),
        field<Panel, &Panel::tilt>("tilt_deg", "Tilt", "Tilt from level, in degrees"),
        field<Panel, &Panel::azimuth>("azimuth_deg", "Faces", "Clockwise from north, in degrees"),
        preset(field<Panel, &Panel::fieldFactor>("field_factor", "Field factor",
                                                 "Share of the label's current in the field",
                                                 Unit::fraction),
               0.75),
        preset(field<Panel, &Panel::countSeries>("count_series", "In series", "Panels in series",
                                                 Unit::count),
               1.0),
        preset(field<Panel, &Panel::countParallel>("count_parallel", "In parallel",
                                                   "Panels in parallel", Unit::count),
               1.0),
    };
    return fields;
}
template <>
std::span<const Field<Guard>> fieldsOf<Guard>() {
    static const std::vector<Field<Guard>> fields = joined<Guard>(
        {{required(field<Guard, &Guard::cutoff>("cutoff_v", "Cuts off at",
                                                "Input voltage at which it opens, in V")),
          field<Guard, &Guard::reconnect>("reconnect_v", "Reconnects at",
                                          "Input voltage at which it closes again, in V"),
          zero(field<Guard, &Guard::delay>("delay_s", "Delay",
                                           "How long the input must be low before it opens, in s")),
          zero(field<Guard, &Guard::resistance>("resistance_ohm", "Resistance",
                                                "When closed, in ohm")),
          zero(field<Guard, &Guard::quiescent>("quiescent_a", "Own use",
                                               "What it draws itself, in A")),
          field<Guard, &Guard::maxCurrent>("max_current_a", "Trips at",
                                           "Current at which it trips, in A")},
         dividerFields<Guard>(),
         {off(field<Guard, &Guard::adjustable>("adjustable", "Adjustable",
                                               "Its thresholds can be set")),
          field<Guard, &Guard::adjustMin>("adjust_min_v", "Adjusts from", "Lowest cut-off, in V"),
          field<Guard, &Guard::adjustMax>("adjust_max_v", "Adjusts to", "Highest cut-off, in V"),
          field<Guard, &Guard::madeFor>("made_for", "Made for",
                                        "Chemistries that it guards; left out: any"),
          field<Guard, &Guard::seriesMin>("series_min", "Cells from",
                                          "Fewest cells in series that it is made for",
                                          Unit::count),
          field<Guard, &Guard::seriesMax>("series_max", "Cells to",
                                          "Most cells in series that it is made for", Unit::count),
          field<Guard, &Guard::inputNeverAbove>("input_never_above_v", "Input never above",
                                                "Input voltage that damages it, in V")}});
    return fields;
}
template <>
std::span<const Field<Fuse>> fieldsOf<Fuse>() {
    static const std::vector<Field<Fuse>> fields{
        required(within(field<Fuse, &Fuse::rating>("rating_a", "Rating", "Rated current, in A"),
                        {0, 1000, true})),
        field<Fuse, &Fuse::speed>("speed", "Speed", "Fast or slow"),
        zero(field<Fuse, &Fuse::resistance>("resistance_ohm", "Resistance", "When cold, in ohm")),
        field<Fuse, &Fuse::ratedVoltage>("rating_v", "Voltage rating", "Rated voltage, in V"),
        field<Fuse, &Fuse::form>("form", "Form", "Glass, blade, or one that resets itself"),
        within(field<Fuse, &Fuse::i2t>("i2t_a2s", "Melts at",
                                       "Its I²t: what a burst may not reach, in A²s", Unit::none),
               {0, 1e6, true}),
    };
    return fields;
}
template <>
std::span<const Field<Switch>> fieldsOf<Switch>() {
    static const std::vector<Field<Switch>> fields{
        zero(field<Switch, &Switch::resistance>("resistance_ohm", "Resistance",
                                                "When closed, in ohm")),
        zero(field<Switch, &Switch::leakage>("leakage_a", "Leakage", "When open, in A")),
    };
    return fields;
}
template <>
std::span<const Field<Wire>> fieldsOf<Wire>() {
    static const std::vector<Field<Wire>> fields{
        required(field<Wire, &Wire::length>("length_m", "Length",
                                            "One way, in m; both conductors are counted")),
        field<Wire, &Wire::area>("area_mm2", "Cross-section", "Copper area, in mm²"),
        within(field<Wire, &Wire::awg>("awg", "Gauge", "American wire gauge", Unit::none),
               {-3, 40, false}),
        zero(field<Wire, &Wire::contacts>("contacts_ohm", "Contacts",
                                          "Plugs and joints, all together, in ohm")),
        off(field<Wire, &Wire::bundled>("bundled", "Bundled",
                                        "Lies with others, so it cools worse")),
    };
    return fields;
}
template <>
std::span<const Field<Diode>> fieldsOf<Diode>() {
    static const std::vector<Field<Diode>> fields{
        zero(field<Diode, &Diode::drop>("drop_v", "Drop", "Forward drop, in V")),
        zero(field<Diode, &Diode::resistance>("resistance_ohm", "Resistance",
                                              "On top of it, in ohm")),
    };
    return fields;
}
template <>
std::span<const Field<IdealDiode>> fieldsOf<IdealDiode>() {
    static const std::vector<Field<IdealDiode>> fields{
        zero(field<IdealDiode, &IdealDiode::resistance>("resistance_ohm", "Resistance",
                                                        "When conducting, in ohm"))};
    return fields;
}
template <>
std::span<const Field<Filter>> fieldsOf<Filter>() {
    static const std::vector<Field<Filter>> fields{zero(field<Filter, &Filter::resistance>(
        "resistance_ohm", "Resistance", "Series resistance, in ohm"))};
    return fields;
}
template <>
std::span<const Field<Capacitor>> fieldsOf<Capacitor>() {
    static const std::vector<Field<Capacitor>> fields{
        required(within(field<Capacitor, &Capacitor::farad>("farad", "Capacity", "In F"),
                        {0, 10000, true})),
        zero(
            field<Capacitor, &Capacitor::esr>("esr_ohm", "Series resistance", "Inside it, in ohm")),
        zero(field<Capacitor, &Capacitor::leakage>("leakage_a", "Leakage",
                                                   "What it always draws, in A")),
        field<Capacitor, &Capacitor::ratedVoltage>("rating_v", "Voltage rating",
                                                   "Voltage that it survives, in V"),
    };
    return fields;
}
template <>
std::span<const Field<Crowbar>> fieldsOf<Crowbar>() {
    static const std::vector<Field<Crowbar>> fields{
        required(within(field<Crowbar, &Crowbar::trips>("trip_v", "Fires at",
                                                        "Voltage over which it fires, in V"),
                        {0, 1000, true})),
        zero(field<Crowbar, &Crowbar::leakage>("leakage_a", "Leakage",
                                               "What it always draws, in A")),
        field<Crowbar, &Crowbar::maxCurrent>("max_current_a", "Carries",
                                             "Until the fuse has opened, in A"),
    };
    return fields;
}
template <>
std::span<const Field<Clamp>> fieldsOf<Clamp>() {
    static const std::vector<Field<Clamp>> fields{
        required(within(
            field<Clamp, &Clamp::holds>("clamp_v", "Holds at", "Voltage that it lets stand, in V"),
            {0, 1000, true})),
        zero(field<Clamp, &Clamp::leakage>("leakage_a", "Leakage", "What it always draws, in A")),
        field<Clamp, &Clamp::maxPower>("max_power_w", "Burns at most", "For good, in W"),
    };
    return fields;
}
template <>
std::span<const Field<Watch>> fieldsOf<Watch>() {
    static const std::vector<Field<Watch>> fields{
        required(within(field<Watch, &Watch::upper>("upper_ohm", "Upper resistor",
                                                    "From the line to the tap, in ohm"),
                        {0, 1e9, true})),
        required(within(field<Watch, &Watch::lower>("lower_ohm", "Lower resistor",
                                                    "From the tap to ground, in ohm"),
                        {0, 1e9, true})),
        within(field<Watch, &Watch::fullScale>("full_scale_v", "Full scale",
                                               "Of the input that reads the tap, in V"),
               {0, 100, true}),
    };
    return fields;
}
template <>
std::span<const Field<Select>> fieldsOf<Select>() {
    static const std::vector<Field<Select>> fields{
        zero(field<Select, &Select::drop>("drop_v", "Drop", "Drop of each path, in V")),
        zero(field<Select, &Select::resistance>("resistance_ohm", "Resistance",
                                                "Of each path, in ohm")),
        preset(field<Select, &Select::blocksBack>("blocks_back", "Blocks back",
                                                  "Nothing flows from one source into another"),
               true),
    };
    return fields;
}

} // namespace sipper
