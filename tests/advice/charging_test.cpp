// SPDX-License-Identifier: GPL-3.0-or-later
// The rules about chargers: each speaks once and is silent on the base that the case bends.
#include "advised.hpp"
#include "charge/choices.hpp"

using namespace sipper;
using namespace sipper::test;

namespace {

/// One cell that a strong socket fills through a linear charger, the device taking next to nothing.
Project chargedBase() {
    Project p = test::reference("sluice-lamp");
    std::get<Usb>(p.stage("socket")->part).advertises = Amps{1.5};
    for (Draw& draw : p.load("lamp")->draws)
        if (draw.mode == "lit")
            draw.current = Amps{0.02};
    Guard guard;
    guard.cutoff = Volts{3.0};
    guard.reconnect = Volts{3.4};
    Stage stage = test::stageOf("guard", guard, "cells");
    p.load("lamp")->fedBy = "guard";
    p.load("lamp")->window.min = Volts{2.5};
    Fuse fuse;
    fuse.rating = Amps{2};
    Stage melts = test::stageOf("fuse", fuse, "cells");
    stage.fedBy = {"fuse"};
    p.stages.push_back(melts);
    p.stages.push_back(stage);
    return p;
}
Charger& charger(Project& p) {
    return std::get<Charger>(p.stage("topper")->part);
}
Cell& cell(Project& p) {
    return std::get<Pack>(p.stage("cells")->part).cell;
}
void takes(Project& p, double amps) {
    for (Draw& draw : p.load("lamp")->draws)
        draw.current = Amps{amps};
}

constexpr std::array kChargeRules{
    "not_rechargeable", "charge_voltage", "charge_rate",     "charge_topology", "never_above",
    "socket_class",     "trips",          "freezing_charge", "recovery_trap",   "end_trap",
    "charge_heat",      "charge_limited", "dumb_charger",    "no_cell_monitor"};

} // namespace

TEST_CASE("on a cell well charged every rule of charging is silent", "[advice][charge]") {
    const Project p = chargedBase();
    const auto findings = findingsOf(p);
    for (const char* rule : kChargeRules) {
        INFO(rule);
        const Finding* f = find(findings, rule);
        if (f)
            INFO(f->says);
        CHECK_FALSE(f);
    }
}

TEST_CASE("each rule of charging speaks of what it is about, and its cure mends it",
          "[advice][charge]") {
    runCases(
        {
            {"not_rechargeable", "cells", "used once", Severity::stop,
             [](Project& p) {
                 cell(p).rechargeable = false;
                 cell(p).chemistry = Chemistry::alkaline;
             }},
            {"charge_voltage", "topper", "set to 4.35 V", Severity::stop,
             [](Project& p) { charger(p).chargeVoltage = Volts{4.35}; }},
            {"charge_voltage", "topper", "never come near", Severity::stop,
             [](Project& p) { charger(p).chargeVoltage = Volts{3.6}; }},
            {"charge_rate", "topper", "take 2.90 A at the most", Severity::stop,
             [](Project& p) { charger(p).chargeCurrent = Amps{4}; }},
            {"charge_rate", "topper", "down at 5 °C", Severity::care,
             [](Project& p) {
                 charger(p).chargeCurrent = Amps{4};
                 cell(p).maxCharge = Amps{2.9};
                 std::get<Usb>(p.stage("socket")->part).advertises = Amps{3};
             }},
            {"charge_topology", "topper", "it takes more than", Severity::stop,
             [](Project& p) {
                 charger(p).dropout = Volts{1.2};
                 charger(p).dropoutKind = DropoutKind::bipolar;
             }},
            {"charge_topology", "topper", "hands the source straight", Severity::stop,
             [](Project& p) { charger(p).topology = Topology::boost; }},
            {"never_above", "topper", "it survives 5.10 V at most", Severity::stop,
             [](Project& p) { charger(p).inputNeverAbove = Volts{5.1}; }},
            {"socket_class", "socket", "asks for more than the 500 mA", Severity::stop,
             [](Project& p) {
                 std::get<Usb>(p.stage("socket")->part).advertises = Amps{0.5};
                 charger(p).inputHold.reset();
             }},
            {"freezing_charge", "topper", "down to -5 °C", Severity::stop,
             [](Project& p) { p.brief.ambient->low = Celsius{-5}; }},
            {"freezing_charge", "topper", "up to 45 °C", Severity::stop,
             [](Project& p) {
                 cell(p).chargeTo = Celsius{45};
                 p.brief.ambient->high = Celsius{50};
             }},
            {"recovery_trap", "topper", "nothing is left for the cells", Severity::stop,
             [](Project& p) {
                 p.load("lamp")->fedBy = "cells";
                 takes(p, 0.09);
                 charger(p).endCurrent = Amps{0.2};
             }},
            {"end_trap", "topper", "holds the cells at their fullest", Severity::stop,
             [](Project& p) {
                 charger(p).recoveryBelow.reset();
                 takes(p, 0.15);
             }},
            {"charge_heat", "topper", "In air of 30 °C it holds its loss", Severity::care,
             [](Project& p) { charger(p).foldBack = Celsius{70}; }},
            {"charge_heat", "topper", "may have 60 °C", Severity::stop,
             [](Project& p) {
                 charger(p).foldBack.reset();
                 charger(p).maxPart = Celsius{60};
             }},
            {"charge_limited", "topper", "the set current is next", Severity::note,
             [](Project& p) { std::get<Usb>(p.stage("socket")->part).advertises = Amps{0.5}; }},
            {"dumb_charger", "topper", "until they burn", Severity::stop,
             [](Project& p) {
                 charger(p).topology = Topology::direct;
                 charger(p).resistance = Ohms{3};
                 charger(p).chargeVoltage.reset();
                 charger(p).chargeCurrent.reset();
                 charger(p).inputHold.reset();
                 charger(p).foldBack.reset();
             }},
        },
        chargedBase);
}

TEST_CASE("a lower charging current comes with its resistor", "[advice][charge]") {
    Project p = chargedBase();
    charger(p).chargeCurrent = Amps{4};
    charger(p).programK = 1000;
    charger(p).programOhm = Ohms{250};
    const auto findings = findingsOf(p);
    const Finding* f = find(findings, "charge_rate");
    REQUIRE(f);
    REQUIRE(f->fix);
    const Project mended = f->fix->apply(p);
    const auto& after = std::get<Charger>(mended.stage("topper")->part);
    // 1000 / 2.9 A is 344.8 ohm: 360 ohm is the next of E24.
    CHECK(after.programOhm->value() == Approx(360));
    CHECK(after.chargeCurrent->value() == Approx(1000.0 / 360));
    CHECK_THAT(f->fix->label, Catch::Contains("360"));
}

TEST_CASE("a path over the source cures both traps where it can carry the device",
          "[advice][charge]") {
    Project p = chargedBase();
    takes(p, 0.15);
    p.load("lamp")->fedBy = "cells";
    p.load("lamp")->window.max = Volts{5.5};
    p.load("lamp")->window.neverAbove = Volts{6};
    const auto before = findingsOf(p);
    const Finding* f = find(before, "end_trap");
    REQUIRE(f);
    REQUIRE(f->fix);
    const Project mended = f->fix->apply(p);
    const auto after = findingsOf(mended);
    CHECK_FALSE(find(after, "end_trap"));
    CHECK_FALSE(find(after, "recovery_trap"));
}
