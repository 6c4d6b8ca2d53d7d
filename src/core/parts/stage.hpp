// SPDX-License-Identifier: GPL-3.0-or-later
// The stages between source and load, and the sources. Every optional figure that a file leaves out
// stays left out; its preset stands in the field tables (parts/fields.hpp).
#pragma once

#include "parts/cell.hpp"

#include <string>
#include <variant>
#include <vector>

namespace sipper {

/// The resistors that set a threshold or a set-point (docs/model.md: Protection): `reference` at
/// the tap between `upper` and `lower`; `feedback` from the output back to the tap adds hysteresis.
struct SetByDivider {
    std::optional<Volts> reference;
    std::optional<Ohms> upper;
    std::optional<Ohms> lower;
    std::optional<Ohms> feedback;
    bool operator==(const SetByDivider&) const = default;
};

/// What every regulator and charger has besides its own figures.
struct ActivePart : SetByDivider {
    std::optional<Volts> inputMin;
    std::optional<Volts> inputNeverAbove;
    std::optional<Volts> startMin; ///< to start at all, where that is more than to go on
    std::optional<KelvinPerWatt> thermal;
    std::optional<Celsius> maxPart;
    std::optional<bool> fan;
    std::optional<Volts> setMax; ///< the end stop of an adjustable part
    std::optional<bool> adjustable;
    std::optional<Volts> adjustMin;
    std::optional<Volts> adjustMax;
    std::optional<Regulates> regulates; ///< nothing: volts
    std::optional<Amps> setAmps;        ///< of one that regulates current
    std::optional<Volts> outputMax;     ///< of it, open circuit
    bool operator==(const ActivePart&) const = default;
};

struct Adapter {
    std::optional<Volts> set;
    std::optional<double> tolerance;
    std::optional<Amps> limit;
    std::optional<BeyondLimit> beyondLimit;
    std::optional<Volts> noLoad;
    std::optional<Volts> rated;
    std::optional<Amps> ratedCurrent;
    std::optional<Amps> sleepsBelow = std::nullopt; ///< it goes to sleep under this, at its output
    std::optional<Seconds> sleepsAfter = std::nullopt;
    std::optional<bool> adjustable = std::nullopt;
    std::optional<Volts> adjustMin = std::nullopt;
    std::optional<Volts> adjustMax = std::nullopt;
    bool operator==(const Adapter&) const = default;
};
struct Usb {
    std::optional<Amps> advertises;
    std::optional<Amps> sleepsBelow = std::nullopt;
    std::optional<Seconds> sleepsAfter = std::nullopt;
    bool operator==(const Usb&) const = default;
};
struct Vehicle {
    bool operator==(const Vehicle&) const = default;
};
struct Panel {
    std::optional<Volts> openCircuit;
    std::optional<Amps> shortCircuit;
    std::optional<Volts> vmp;
    std::optional<Amps> imp;
    std::optional<VoltsPerKelvin> perKelvin;
    std::optional<Degrees> tilt;
    std::optional<Degrees> azimuth;
    std::optional<double> fieldFactor;
    std::optional<double> countSeries;
    std::optional<double> countParallel;
    bool operator==(const Panel&) const = default;
};
struct Guard : SetByDivider {
    Volts cutoff{0};
    std::optional<Volts> reconnect;
    std::optional<Seconds> delay;
    std::optional<Ohms> resistance;
    std::optional<Amps> quiescent;
    std::optional<Amps> maxCurrent;
    std::optional<bool> adjustable;
    std::optional<Volts> adjustMin; ///< of the cut-off
    std::optional<Volts> adjustMax;
    std::optional<std::vector<Chemistry>> madeFor; ///< nothing: any
    std::optional<double> seriesMin;
    std::optional<double> seriesMax;
    std::optional<Volts> inputNeverAbove;
    bool operator==(const Guard&) const = default;
};
struct Fuse {
    Amps rating{0};
    std::optional<FuseSpeed> speed;
    std::optional<Ohms> resistance;
    std::optional<Volts> ratedVoltage;
    std::optional<FuseForm> form;
    std::optional<double> i2t; ///< A2s that melt it (its I2t)
    bool operator==(const Fuse&) const = default;
};
struct Switch {
    std::optional<Ohms> resistance;
    std::optional<Amps> leakage;
    bool operator==(const Switch&) const = default;
};
struct Wire {
    Metres length{0};
    std::optional<SquareMillimetres> area;
    std::optional<double> awg;
    std::optional<Ohms> contacts;
    std::optional<bool> bundled;
    bool operator==(const Wire&) const = default;
};
struct Diode {
    std::optional<Volts> drop;
    std::optional<Ohms> resistance;
    bool operator==(const Diode&) const = default;
};
struct IdealDiode {
    std::optional<Ohms> resistance;
    bool operator==(const IdealDiode&) const = default;
};
struct Filter {
    std::optional<Ohms> resistance;
    bool operator==(const Filter&) const = default;
};
/// A reservoir on the line. What it gives in bursts is not worked out yet: it leaks, and says what
/// it survives.
struct Capacitor {
    Farads farad{0};
    std::optional<Ohms> esr;
    std::optional<Amps> leakage;
    std::optional<Volts> ratedVoltage;
    bool operator==(const Capacitor&) const = default;
};
/// A thyristor across the line that fires where its volts pass the trip, pulls the line down and
/// leaves the rest to the fuse before it.
struct Crowbar {
    Volts trips{0};
    std::optional<Amps> leakage;
    std::optional<Amps> maxCurrent; ///< that it carries until the fuse has opened
    bool operator==(const Crowbar&) const = default;
};
/// A diode across the line that holds its volts at `holds`, and conducts when they are reversed.
struct Clamp {
    Volts holds{0};
    std::optional<Amps> leakage;
    std::optional<Watts> maxPower; ///< that it can burn for good
    bool operator==(const Clamp&) const = default;
};
/// Two resistors across the line at whose tap a converter input reads the battery.
struct Watch {
    Ohms upper{0};
    Ohms lower{0};
    std::optional<Volts> fullScale; ///< of the input that reads it
    bool operator==(const Watch&) const = default;
};
struct Select {
    std::optional<Volts> drop;
    std::optional<Ohms> resistance;
    std::optional<bool> blocksBack;
    bool operator==(const Select&) const = default;
};
struct Linear : ActivePart {
    Volts set{0};
    std::optional<Volts> dropout;
    std::optional<DropoutKind> dropoutKind;
    std::optional<Amps> ratedCurrent;
    std::optional<Amps> ground;
    std::optional<Amps> outputLimit;
    std::optional<Watts> powerLimit;
    std::optional<Amps> sleepsBelow;
    std::optional<Seconds> sleepsAfter;
    bool operator==(const Linear&) const = default;
};
/// A switching regulator; `topology` is buck, boost or buckBoost.
struct Switcher : ActivePart {
    Topology topology = Topology::buck;
    Volts set{0};
    std::optional<Amps> quiescent;
    std::optional<Watts> fixed;
    std::optional<Volts> drop;
    std::optional<Ohms> resistance;
    std::optional<Amps> skipBelow;
    std::optional<double> maxDuty;
    std::optional<Amps> switchLimit;
    std::optional<Amps> outputLimit;
    std::optional<Watts> powerLimit;
    std::optional<bool> holdsWhenAbove;
    std::optional<double> switching; ///< W per V at the input: gate charge and switch overlap
    std::optional<Amps> sleepsBelow;
    std::optional<Seconds> sleepsAfter;
    bool operator==(const Switcher&) const = default;
};
struct Charger : ActivePart {
    std::string charges; ///< id of a pack
    std::optional<Topology> topology;
    std::optional<Amps> chargeCurrent;
    std::optional<Volts> chargeVoltage;
    std::optional<Amps> endCurrent;
    std::optional<Volts> recoveryBelow;
    std::optional<Amps> recoveryCurrent;
    std::optional<Amps> inputLimit;
    std::optional<Volts> inputHold;
    std::optional<Watts> powerLimit;
    std::optional<Amps> outputLimit;
    std::optional<Celsius> foldBack;
    std::optional<double> programK;
    std::optional<Ohms> programOhm;
    std::optional<double> chargeEfficiency;
    std::optional<ChargeEnd> endsBy;
    std::optional<Hours> timer;  ///< after which it ends
    std::optional<Volts> floats; ///< V of the whole pack, held on afterwards
    std::optional<bool> thermistor;
    std::optional<bool> remoteSense; ///< it holds its volts at the pack, not at its output
    std::optional<bool> tracking;    ///< keeps a panel at the top of its power
    std::optional<Amps> dark;        ///< taken from the pack while it gives nothing
    std::optional<Volts> dropout;
    std::optional<DropoutKind> dropoutKind;
    std::optional<Amps> ratedCurrent;
    std::optional<Amps> ground;
    std::optional<Amps> quiescent;
    std::optional<Watts> fixed;
    std::optional<Volts> drop;
    std::optional<Ohms> resistance;
    std::optional<Amps> skipBelow;
    std::optional<double> maxDuty;
    std::optional<Amps> switchLimit;
    std::optional<bool> holdsWhenAbove;
    std::optional<double> switching;
    bool operator==(const Charger&) const = default;
};

using Part =
    std::variant<Pack, Adapter, Usb, Vehicle, Panel, Guard, Fuse, Switch, Wire, Diode, IdealDiode,
                 Filter, Capacitor, Crowbar, Clamp, Watch, Select, Linear, Switcher, Charger>;

struct Connector {
    std::string kind;
    std::optional<Polarity> centre;
    Extras extras;
    bool operator==(const Connector&) const = default;
};

struct Stage {
    std::string id;
    std::string label;
    std::string make;               ///< what the library calls the part; its label is its role
    std::vector<std::string> fedBy; ///< one id; several only for select and charger; none: a source
    bool feedsListed = false;       ///< the file wrote `fed_by` as a list
    std::optional<double> price;
    std::optional<Grams> mass;
    std::optional<Connector> connector;
    std::optional<Basis> basis;               ///< of its losses; a data sheet where left out
    std::optional<double> setTolerance;       ///< share that its set-point may be off
    std::optional<double> thresholdTolerance; ///< share that its thresholds may be off
    Part part;
    Extras extras;
    bool operator==(const Stage&) const = default;
};

/// The label, or the id where there is none.
[[nodiscard]] std::string nameOf(const Stage& stage);

} // namespace sipper
