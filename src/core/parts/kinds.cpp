// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/kinds.hpp"

#include <array>

namespace sipper {
namespace {

/// The usual figures of a small module, where nothing else is known.
Part freshLinear() {
    Linear p;
    p.dropout = Volts{0.3};
    p.dropoutKind = DropoutKind::fet;
    p.ratedCurrent = Amps{0.5};
    p.ground = Amps{5e-5};
    p.thermal = KelvinPerWatt{60};
    p.maxPart = Celsius{125};
    return p;
}

template <Topology topology>
Part freshSwitcher() {
    Switcher p;
    p.topology = topology;
    p.quiescent = Amps{3e-5};
    p.fixed = Watts{0.02};
    p.drop = Volts{0.08};
    p.resistance = Ohms{0.1};
    p.skipBelow = Amps{0.03};
    p.switchLimit = Amps{3};
    p.thermal = KelvinPerWatt{50};
    p.maxPart = Celsius{105};
    return p;
}

Part freshGuard() {
    Guard p;
    p.cutoff = Volts{3.0};
    p.delay = Seconds{0.1};
    p.resistance = Ohms{0.03};
    p.quiescent = Amps{3e-6};
    return p;
}

Part freshWire() {
    Wire p;
    p.length = Metres{0.2};
    p.area = SquareMillimetres{0.5};
    p.contacts = Ohms{0.02};
    return p;
}

Part freshFuse() {
    Fuse p;
    p.rating = Amps{2};
    p.resistance = Ohms{0.03};
    return p;
}

Part freshSwitch() {
    Switch p;
    p.resistance = Ohms{0.02};
    return p;
}

Part freshDiode() {
    Diode p;
    p.drop = Volts{0.35};
    p.resistance = Ohms{0.05};
    return p;
}

Part freshIdealDiode() {
    return IdealDiode{Ohms{0.02}};
}

Part freshFilter() {
    return Filter{Ohms{0.2}};
}

Part freshCapacitor() {
    Capacitor p;
    p.farad = Farads{4.7e-4};
    p.esr = Ohms{0.05};
    p.leakage = Amps{1e-6};
    p.ratedVoltage = Volts{16};
    return p;
}

Part freshCrowbar() {
    Crowbar p;
    p.trips = Volts{6};
    p.leakage = Amps{2e-6};
    p.maxCurrent = Amps{12};
    return p;
}

Part freshClamp() {
    Clamp p;
    p.holds = Volts{6};
    p.leakage = Amps{5e-6};
    p.maxPower = Watts{1};
    return p;
}

Part freshWatch() {
    Watch p;
    p.upper = Ohms{1e6};
    p.lower = Ohms{330e3};
    return p;
}

Part freshSelect() {
    Select p;
    p.resistance = Ohms{0.03};
    p.blocksBack = true;
    return p;
}

Part freshAdapter() {
    Adapter p;
    p.set = Volts{5};
    p.tolerance = 0.05;
    p.limit = Amps{2};
    p.beyondLimit = BeyondLimit::hiccup;
    return p;
}

Part freshUsb() {
    return Usb{Amps{1.5}};
}

Part freshPanel() {
    Panel p; // of two watts and 6 V
    p.openCircuit = Volts{7.2};
    p.shortCircuit = Amps{0.36};
    p.vmp = Volts{6};
    p.imp = Amps{0.333};
    p.perKelvin = VoltsPerKelvin{-0.0223};
    return p;
}

Part freshPack() {
    Pack p;
    p.series = 1;
    p.parallel = 1;
    return p;
}

template <class P>
Part plain() {
    return P{};
}

using enum Glyph;

constexpr std::array kTable{
    KindFacts{Kind::pack, "pack", "cells", "Cells", "Cells", cells, Section::cells,
              InterchangeClass::cells, LossRule::none, Offer::source, true, false, false,
              freshPack},
    KindFacts{Kind::adapter, "adapter", "wall adapter", "Sources", "Adapter", card,
              Section::sources, InterchangeClass::mains, LossRule::none, Offer::source, true, false,
              false, freshAdapter},
    KindFacts{Kind::usb, "usb", "5 V socket", "Sources", "5 V socket", card, Section::sources,
              InterchangeClass::mains, LossRule::none, Offer::source, true, false, false, freshUsb},
    KindFacts{Kind::vehicle, "vehicle", "vehicle supply", "Sources", "Vehicle supply", card,
              Section::sources, InterchangeClass::mains, LossRule::none, Offer::source, true, false,
              false, plain<Vehicle>},
    KindFacts{Kind::panel, "panel", "solar panel", "Sources", "Solar panel", card, Section::sources,
              InterchangeClass::panel, LossRule::none, Offer::source, true, false, false,
              freshPanel},
    KindFacts{Kind::guard, "guard", "cut-off guard", "Guard", "Guard (cut-off)", threshold,
              Section::guards, InterchangeClass::guard, LossRule::series, Offer::inLine, false,
              false, false, freshGuard},
    KindFacts{Kind::fuse, "fuse", "fuse", "Fuse", "Fuse", pill, Section::wiring,
              InterchangeClass::fuse, LossRule::series, Offer::inLine, false, false, false,
              freshFuse},
    KindFacts{Kind::switchgear, "switch", "switch", "Switch", "Switch", pill, Section::wiring,
              InterchangeClass::switchgear, LossRule::series, Offer::inLine, false, false, false,
              freshSwitch},
    KindFacts{Kind::wire, "wire", "lead", "Wiring", "Lead", pill, Section::wiring,
              InterchangeClass::lead, LossRule::series, Offer::inLine, false, false, false,
              freshWire},
    KindFacts{Kind::diode, "diode", "diode", "Path", "Diode", pill, Section::paths,
              InterchangeClass::oneWay, LossRule::series, Offer::inLine, false, false, false,
              freshDiode},
    KindFacts{Kind::idealDiode, "ideal_diode", "ideal diode", "Path", "FET diode", pill,
              Section::paths, InterchangeClass::oneWay, LossRule::series, Offer::inLine, false,
              false, false, freshIdealDiode},
    KindFacts{Kind::filter, "filter", "filter", "Path", "Filter", pill, Section::paths,
              InterchangeClass::filter, LossRule::series, Offer::inLine, false, false, false,
              freshFilter},
    KindFacts{Kind::capacitor, "capacitor", "capacitor", "Path", "Capacitor", pill, Section::paths,
              InterchangeClass::capacitor, LossRule::series, Offer::inLine, false, false, false,
              freshCapacitor},
    KindFacts{Kind::crowbar, "crowbar", "crowbar", "Path", "Crowbar (fires over a voltage)", pill,
              Section::guards, InterchangeClass::shunt, LossRule::series, Offer::inLine, false,
              false, false, freshCrowbar},
    KindFacts{Kind::clamp, "clamp", "clamp", "Path", "Clamp (holds a voltage)", pill,
              Section::guards, InterchangeClass::shunt, LossRule::series, Offer::inLine, false,
              false, false, freshClamp},
    KindFacts{Kind::watch, "watch", "battery watch", "Path", "Battery watch (divider)", pill,
              Section::paths, InterchangeClass::watch, LossRule::series, Offer::inLine, false,
              false, false, freshWatch},
    KindFacts{Kind::select, "select", "source selector", "Path", "Selector", pill, Section::paths,
              InterchangeClass::select, LossRule::series, Offer::none, false, false, true,
              freshSelect},
    KindFacts{Kind::linear, "linear", "linear regulator", "Regulators", "Linear regulator", card,
              Section::regulators, InterchangeClass::regulator, LossRule::dropped, Offer::inLine,
              false, true, false, freshLinear},
    KindFacts{Kind::buck, "buck", "buck regulator", "Regulators", "Buck (steps down)", card,
              Section::regulators, InterchangeClass::regulator, LossRule::converter, Offer::inLine,
              false, true, false, freshSwitcher<Topology::buck>},
    KindFacts{Kind::boost, "boost", "boost regulator", "Regulators", "Boost (steps up)", card,
              Section::regulators, InterchangeClass::regulator, LossRule::converter, Offer::inLine,
              false, true, false, freshSwitcher<Topology::boost>},
    KindFacts{Kind::buckBoost, "buck_boost", "buck-boost regulator", "Regulators",
              "Buck-boost (both ways)", card, Section::regulators, InterchangeClass::regulator,
              LossRule::converter, Offer::inLine, false, true, false,
              freshSwitcher<Topology::buckBoost>},
    KindFacts{Kind::charger, "charger", "charger", "Charger", "Charger", card, Section::sources,
              InterchangeClass::charger, LossRule::converter, Offer::none, false, false, true,
              plain<Charger>},
};

constexpr bool inOrder() {
    for (std::size_t i = 0; i < kTable.size(); ++i)
        if (kTable[i].kind != static_cast<Kind>(i))
            return false;
    return kTable.back().kind == Kind::charger;
}
static_assert(inOrder(), "one row a kind, in the order of Kind");

template <class... F>
struct Overloaded : F... {
    using F::operator()...;
};
template <class... F>
Overloaded(F...) -> Overloaded<F...>;

} // namespace

std::span<const KindFacts> kinds() {
    return kTable;
}

const KindFacts& factsOf(Kind kind) {
    return kTable[static_cast<std::size_t>(kind)];
}

Kind kindOf(const Part& part) {
    return std::visit(Overloaded{[](const Pack&) { return Kind::pack; },
                                 [](const Adapter&) { return Kind::adapter; },
                                 [](const Usb&) { return Kind::usb; },
                                 [](const Vehicle&) { return Kind::vehicle; },
                                 [](const Panel&) { return Kind::panel; },
                                 [](const Guard&) { return Kind::guard; },
                                 [](const Fuse&) { return Kind::fuse; },
                                 [](const Switch&) { return Kind::switchgear; },
                                 [](const Wire&) { return Kind::wire; },
                                 [](const Diode&) { return Kind::diode; },
                                 [](const IdealDiode&) { return Kind::idealDiode; },
                                 [](const Filter&) { return Kind::filter; },
                                 [](const Capacitor&) { return Kind::capacitor; },
                                 [](const Crowbar&) { return Kind::crowbar; },
                                 [](const Clamp&) { return Kind::clamp; },
                                 [](const Watch&) { return Kind::watch; },
                                 [](const Select&) { return Kind::select; },
                                 [](const Linear&) { return Kind::linear; },
                                 [](const Switcher& s) {
                                     return s.topology == Topology::buck    ? Kind::buck
                                            : s.topology == Topology::boost ? Kind::boost
                                                                            : Kind::buckBoost;
                                 },
                                 [](const Charger&) { return Kind::charger; }},
                      part);
}

const KindFacts& kindFacts(const Part& part) {
    return factsOf(kindOf(part));
}

std::optional<Kind> kindNamed(std::string_view name) {
    for (const KindFacts& row : kTable)
        if (row.name == name)
            return row.kind;
    return std::nullopt;
}

std::string_view kindName(const Part& part) {
    return kindFacts(part).name;
}

std::string kindText(const Part& part) {
    return std::string(kindFacts(part).words);
}

std::optional<Part> partOfKind(std::string_view name) {
    const auto kind = kindNamed(name);
    return kind ? std::optional(emptyPart(*kind)) : std::nullopt;
}

Part emptyPart(Kind kind) {
    const Part fresh = factsOf(kind).fresh();
    if (const auto* s = std::get_if<Switcher>(&fresh)) {
        Switcher bare;
        bare.topology = s->topology;
        return bare;
    }
    return std::visit([]<class P>(const P&) -> Part { return P{}; }, fresh);
}

std::string kindNames() {
    std::string text;
    for (const KindFacts& row : kTable)
        text += (text.empty() ? "" : ", ") + std::string(row.name);
    return text;
}

bool isSource(const Part& part) {
    return kindFacts(part).source;
}
bool isRegulator(const Part& part) {
    return kindFacts(part).setPoint;
}
bool isExternalSource(const Part& part) {
    return kindFacts(part).trade == InterchangeClass::mains;
}
bool isPack(const Part& part) {
    return std::holds_alternative<Pack>(part);
}
bool isCharger(const Part& part) {
    return std::holds_alternative<Charger>(part);
}

std::string_view nameOf(Section section) {
    static constexpr std::array<std::string_view, 6> names{"cells",  "sources", "regulators",
                                                           "guards", "wiring",  "paths"};
    return names[static_cast<std::size_t>(section)];
}

} // namespace sipper
