// SPDX-License-Identifier: GPL-3.0-or-later
// Field tables of stages as such, modes, loads and the brief.
#include "parts/fieldmaker.hpp"

namespace sipper {

using namespace fieldmaker;

template <>
std::span<const Field<Stage>> fieldsOf<Stage>() {
    static const std::vector<Field<Stage>> fields{
        field<Stage, &Stage::price>("price", "Price", "Price of the part", Unit::money),
        field<Stage, &Stage::mass>("mass_g", "Mass", "Mass of the part, in g"),
        field<Stage, &Stage::basis>("basis", "Basis of its losses",
                                    "Measured, from a data sheet, or a guess"),
        within(field<Stage, &Stage::setTolerance>("set_tolerance", "Set-point off by",
                                                  "Share by which its set-point may be off",
                                                  Unit::fraction),
               {0, 0.5}),
        within(field<Stage, &Stage::thresholdTolerance>(
                   "threshold_tolerance", "Thresholds off by",
                   "Share by which cut-off and reconnect may be off", Unit::fraction),
               {0, 0.5}),
    };
    return fields;
}
template <>
std::span<const Field<Connector>> fieldsOf<Connector>() {
    static const std::vector<Field<Connector>> fields{
        field<Connector, &Connector::kind>("kind", "Connector", "What the connector is"),
        field<Connector, &Connector::centre>("centre", "Centre", "Polarity of the centre pin"),
    };
    return fields;
}
template <>
std::span<const Field<Mode>> fieldsOf<Mode>() {
    static const std::vector<Field<Mode>> fields{
        field<Mode, &Mode::base>("base", "Base",
                                 "The mode the device is in when it is in no other"),
        within(field<Mode, &Mode::duration>("duration_s", "Lasts", "How long it lasts, in s"),
               {0, 1e8, true}),
        within(field<Mode, &Mode::every>("every_s", "Every", "How often it comes, in s"),
               {0, 1e8, true}),
    };
    return fields;
}
template <>
std::span<const Field<Window>> fieldsOf<Window>() {
    static const std::vector<Field<Window>> fields{
        required(
            field<Window, &Window::min>("min_v", "At least", "Lowest voltage it works at, in V")),
        field<Window, &Window::nominal>("nominal_v", "Nominal", "Voltage it is made for, in V"),
        required(
            field<Window, &Window::max>("max_v", "At most", "Highest voltage it works at, in V")),
        field<Window, &Window::neverAbove>("never_above_v", "Never above",
                                           "Voltage that damages it, in V"),
    };
    return fields;
}
template <>
std::span<const Field<Draw>> fieldsOf<Draw>() {
    static const std::vector<Field<Draw>> fields{
        field<Draw, &Draw::current>("current_a", "Current", "Constant current, in A"),
        field<Draw, &Draw::power>("power_w", "Power", "Constant power, in W"),
        within(field<Draw, &Draw::resistance>("load_ohm", "Resistance", "Fixed resistance, in ohm"),
               {0, 1e9, true}),
        field<Draw, &Draw::led>("led_a", "Light string",
                                "Of a light string at the window's nominal, in A"),
        field<Draw, &Draw::ledVolts>("led_v", "Dark under", "Where a light string goes dark, in V"),
        within(field<Draw, &Draw::burstOhms>("burst_ohm", "Burst by winding",
                                             "A motor's start: the load's volts over this, in ohm"),
               {0, 1e9, true}),
        field<Draw, &Draw::burst>("burst_a", "Burst", "Current at the load in a burst, in A"),
        field<Draw, &Draw::burstTime>("burst_s", "Burst time", "How long a burst lasts, in s"),
        field<Draw, &Draw::burstsPerSecond>("bursts_per_s", "Bursts a second",
                                            "While in this mode"),
        field<Draw, &Draw::basis>("basis", "Basis", "Measured, from a data sheet, or a guess"),
        field<Draw, &Draw::tolerance>("tolerance", "Tolerance", "Share by which it may be off",
                                      Unit::fraction),
    };
    return fields;
}
template <>
std::span<const Field<Load>> fieldsOf<Load>() {
    static const std::vector<Field<Load>> fields{
        preset(field<Load, &Load::critical>("critical", "Critical",
                                            "The run ends when it leaves its window"),
               true),
        off(field<Load, &Load::noiseSensitive>("noise_sensitive", "Noise matters",
                                               "Switching noise disturbs it")),
        field<Load, &Load::resetProne>("reset_prone", "Resets", "A short dip makes it start again"),
        field<Load, &Load::gauge>("gauge", "Own gauge",
                                  "Tells the charge of its own cells by their volts"),
        field<Load, &Load::precious>("precious", "Precious", "Worth protecting from one fault"),
        field<Load, &Load::inputCap>("input_cap_f", "Input capacitor", "At its input, in F"),
        field<Load, &Load::price>("price", "Price", "Price of the load", Unit::money),
        field<Load, &Load::mass>("mass_g", "Mass", "Mass of the load, in g"),
    };
    return fields;
}
template <>
std::span<const Field<Ambient>> fieldsOf<Ambient>() {
    static const std::vector<Field<Ambient>> fields{
        field<Ambient, &Ambient::low>("low", "Coldest", "In °C"),
        preset(field<Ambient, &Ambient::typical>("typical", "Typical", "In °C"), 25.0),
        field<Ambient, &Ambient::high>("high", "Warmest", "In °C"),
    };
    return fields;
}
template <>
std::span<const Field<Reading>> fieldsOf<Reading>() {
    static const std::vector<Field<Reading>> fields{
        required(field<Reading, &Reading::checks>("checks", "Checks", "What was checked")),
        required(field<Reading, &Reading::at>("at", "At", "Id of the stage or load")),
        field<Reading, &Reading::mode>("mode", "Mode", "Id of the mode the device was in"),
        field<Reading, &Reading::quantity>("quantity", "Quantity", "What a point reads"),
        within(field<Reading, &Reading::volts>("value_v", "Volts", "Reading, in V"),
               {-1000, 1000, false}),
        within(field<Reading, &Reading::amps>("value_a", "Amps", "Reading, in A"),
               {-1000, 1000, false}),
        field<Reading, &Reading::celsius>("value_c", "Temperature", "Reading, in °C"),
        within(field<Reading, &Reading::light>("light_w_m2", "Light",
                                               "On the panel meanwhile, in W/m2", Unit::none),
               {0, 1500, true}),
        field<Reading, &Reading::accuracy>("accuracy", "Accuracy",
                                           "Share of the value by which the meter may be off",
                                           Unit::fraction),
        field<Reading, &Reading::when>("when", "When", "Date and time of the reading"),
        field<Reading, &Reading::meter>("meter", "Meter", "What it was read with"),
        field<Reading, &Reading::note>("note", "Note", "Anything worth keeping"),
        field<Reading, &Reading::supersedes>("supersedes", "In place of",
                                             "Id of the earlier reading that this one corrects"),
    };
    return fields;
}
template <>
std::span<const Field<Brief>> fieldsOf<Brief>() {
    static const std::vector<Field<Brief>> fields{
        field<Brief, &Brief::setting>("setting", "It lives", "Where the thing is used"),
        field<Brief, &Brief::targetRuntime>("target_runtime_h", "Target",
                                            "How long it must run between refills, in h"),
        within(field<Brief, &Brief::headroom>("headroom", "Headroom", "Rating over worst draw",
                                              Unit::none),
               {0, 100, true}),
        field<Brief, &Brief::cellCare>("cell_care", "Cell care",
                                       "How deep the cells may be drained"),
        within(field<Brief, &Brief::shelfMonths>("shelf_months", "Shelf", "Months it lies unused",
                                                 Unit::none),
               {0, 1200, false}),
        within(field<Brief, &Brief::latitude>("latitude_deg", "Latitude", "Degrees north"),
               {-90, 90, false}),
        field<Brief, &Brief::climate>("climate", "Climate", "Weather it sees"),
        field<Brief, &Brief::box>("box_c_per_w", "Closed box",
                                  "What a closed box warms up, in K per W of loss inside"),
        field<Brief, &Brief::weightLimit>("weight_limit_g", "Weight limit", "In g"),
        field<Brief, &Brief::priceLimit>("price_limit", "Price limit", "For all parts",
                                         Unit::money),
    };
    return fields;
}

} // namespace sipper
