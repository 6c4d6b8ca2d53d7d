// SPDX-License-Identifier: GPL-3.0-or-later
// What stands between a charger and its pack: its drop, its fuse, and who says so.
#include "analysis/analysis.hpp"
#include "charge/charge.hpp"
#include "charge/operating.hpp"
#include "line/chargeleg.hpp"
#include "project/build.hpp"
#include "project/reader.hpp"
#include "project/tree.hpp"
#include "project/writer.hpp"
#include "protect/currents.hpp"
#include "sheet/sheet.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

/// A 24 Ah lead pack of 6 cells' volts, charged at 10 A from a stiff 20 V source.
Project bigPack() {
    Project p = test::idealProject(12.6, 24);
    Pack& pack = std::get<Pack>(p.stages[0].part);
    pack.cell.chemistry = Chemistry::leadAcid;
    pack.cell.rechargeable = true;
    pack.cell.openCircuit = {{0, 12.0}, {1, 14.3}};
    pack.cell.resistance = Ohms{0.02};
    pack.cell.maxDischarge = Amps{100};
    pack.cell.full = Volts{13};
    pack.cell.empty = Volts{11};
    Adapter wall;
    wall.set = Volts{20};
    wall.limit = Amps{20};
    p.stages.push_back(test::stageOf("wall", wall, ""));
    p.stages.back().fedBy.clear();
    Charger c;
    c.charges = p.stages[0].id;
    c.topology = Topology::buck;
    c.chargeCurrent = Amps{10};
    c.chargeVoltage = Volts{14.4};
    c.endCurrent = Amps{1.2};
    p.stages.push_back(test::stageOf("charger", c, "wall"));
    return p;
}

Project withLead(Project p, double ohms) {
    Wire wire;
    wire.length = Metres{1e-9};
    wire.area = SquareMillimetres{6};
    wire.contacts = Ohms{ohms};
    return withStageBetween(std::move(p), test::stageOf("leg", wire, "charger"), "charger");
}

ChargeRun chargedFrom(const Project& p, double from = 0.1) {
    ChargeOptions ask;
    ask.from = from;
    ask.ledger = true;
    return chargeOf(p, ask).value();
}

std::vector<Finding> fuseFindings(const Project& p) {
    std::vector<Finding> list;
    for (const Finding& f : analyseQuick(p, {.bench = false}).findings)
        if (f.rule == "no_fuse")
            list.push_back(f);
    return list;
}

} // namespace

TEST_CASE("a charge leg costs its ohms at the current, and hours at the set voltage",
          "[charge][leg]") {
    const Project bare = bigPack();
    const Project wired = withLead(bare, 0.024);
    CHECK(legOf(wired, *wired.stage("charger"), Celsius{25}).ohms == Approx(0.024).epsilon(1e-6));
    const ChargeRun without = chargedFrom(bare);
    const ChargeRun with = chargedFrom(wired);
    REQUIRE(without.hoursToFull);
    REQUIRE(with.hoursToFull);
    CHECK(*with.hoursToFull > *without.hoursToFull);
    const auto held = [](const ChargeRun& c) { return c.hoursLimitedBy(ChargeLimit::cv); };
    CHECK(held(with) > held(without));
    // At 10 A it loses 0.24 V: 2.4 W of the input, booked on the lead.
    CHECK(with.ledger.stages.at("leg") > 0);
    CHECK(std::abs(with.ledger.imbalance()) < 1e-3);
    // The volts of the node are under the set voltage by the drop while it holds it.
    for (const ChargePoint& p : with.curve)
        CHECK(p.packVolts + 0.024 * p.packAmps <= 14.4 + 1e-6);
    // Sensing at the pack gives those hours back; what is lost in the lead is not.
    Project sensed = wired;
    std::get<Charger>(sensed.stage("charger")->part).remoteSense = true;
    const ChargeRun remote = chargedFrom(sensed);
    CHECK(*remote.hoursToFull == Approx(*without.hoursToFull).epsilon(1e-6));
    CHECK(remote.inputWh > without.inputWh);
}

TEST_CASE("a diode on the leg keeps the pack under the set voltage", "[charge][leg]") {
    Diode d;
    d.drop = Volts{0.4};
    const Project p = withStageBetween(bigPack(), test::stageOf("diode", d, "charger"), "charger");
    const ChargeRun charge = chargedFrom(p);
    REQUIRE(!charge.curve.empty());
    CHECK(charge.curve.back().packVolts <= 14.0 + 1e-6);
    CHECK(charge.curve.back().packVolts > 13.5);
}

TEST_CASE("the line at one moment shows the leg", "[charge][leg]") {
    const Project p = withLead(bigPack(), 0.024);
    Conditions c = typicalConditions(p);
    c.pluggedIn = {"wall"};
    const OperatingPoint at = operateWithChargers(p, c, 0.3, 0);
    const StageFlow& charger = at.flows.stages[stageIndex(p, "charger")];
    const StageFlow& leg = at.flows.stages[stageIndex(p, "leg")];
    const StageFlow& pack = at.flows.stages[0];
    CHECK(charger.iOut == Approx(10));
    CHECK(leg.vIn == Approx(charger.vOut));
    CHECK(leg.vIn - leg.vOut == Approx(0.24).epsilon(1e-4));
    CHECK(leg.vOut == Approx(pack.vOut).epsilon(1e-6));
}

TEST_CASE("an unfused charge leg is a stop, and its cure is silent", "[charge][leg][advice]") {
    Project p = withLead(bigPack(), 0.024);
    Load l = test::loadOf("lamp", "cells", 10, 15);
    l.draws = {test::powerDraw("on", 5)};
    p.loads = {l};
    const auto found = fuseFindings(p);
    const auto leg = std::find_if(found.begin(), found.end(),
                                  [](const Finding& f) { return f.subject == "charger"; });
    REQUIRE(leg != found.end());
    CHECK(leg->severity == Severity::stop);
    CHECK(leg->numbers.at("short_a") == Approx(14.3 / 0.02));
    CHECK(leg->numbers.at("least_a") == Approx(10 / 0.75));
    CHECK(leg->numbers.at("choose_a") == 15);
    REQUIRE(leg->fix);
    const Project cured = leg->fix->apply(p);
    const auto order = chargeLeg(cured, "charger");
    REQUIRE(order.size() == 2);
    CHECK(std::holds_alternative<Wire>(order[0]->part)); // the fuse is at the cells' end
    CHECK(std::holds_alternative<Fuse>(order[1]->part));
    for (const Finding& f : fuseFindings(cured))
        CHECK(f.subject != "charger");
    // A fuse at the charger's end leaves the lead to the cells.
    const Project wrongEnd = withStageBetween(
        p,
        [] {
            Stage s = fuseOf(15);
            s.id = "fuse";
            return s;
        }(),
        "charger");
    const auto still = fuseFindings(wrongEnd);
    CHECK(std::any_of(still.begin(), still.end(),
                      [](const Finding& f) { return f.subject == "charger"; }));
}

TEST_CASE("currents, windows and sheet speak of the leg", "[charge][leg][protect][sheet]") {
    Project p = withLegFuse(withLead(bigPack(), 0.024), "charger");
    const QuickAnalysis quick = analyseQuick(p);
    const ObservedCurrents seen{quick.sweep ? &*quick.sweep : nullptr, quick.externalLoads,
                                quick.charges};
    const auto stretches = wireSegmentsOf(p, seen);
    const auto leg = std::find_if(stretches.begin(), stretches.end(),
                                  [](const WireSegment& s) { return s.id == "leg"; });
    REQUIRE(leg != stretches.end());
    CHECK(leg->need.continuous == Approx(10));
    CHECK(leg->fuse == 15);
    CHECK(leg->first == WeakestElement::fuse);
    CHECK(leg->shortCircuit == Approx(715));
    const auto windows = fuseWindows(p, seen);
    REQUIRE(windows.size() == 1);
    CHECK(windows[0].least == Approx(10 / 0.75));
    CHECK(windows[0].most == Approx(35)); // of 6 mm2
    CHECK(windows[0].choose == 15);
    const auto wires = wiresFor(p, quick, {});
    const auto row =
        std::find_if(wires.begin(), wires.end(), [](const SheetWire& w) { return w.id == "leg"; });
    REQUIRE(row != wires.end());
    CHECK(row->amps == Approx(10));
    CHECK(row->fuseAmps == 15);
    CHECK(row->remark.empty());
    CHECK(std::count_if(wires.begin(), wires.end(),
                        [](const SheetWire& w) { return w.id == "leg"; }) == 1);
    // Without its fuse the paper says so.
    const Project bare = withoutStage(p, chargeLeg(p, "charger").back()->id);
    const auto open = wiresFor(bare, analyseQuick(bare), {});
    const auto lead =
        std::find_if(open.begin(), open.end(), [](const SheetWire& w) { return w.id == "leg"; });
    REQUIRE(lead != open.end());
    CHECK(lead->remark.find("no fuse protects it") != std::string::npos);
}

TEST_CASE("a leg is kept, and goes with its charger", "[charge][leg]") {
    Project p = withLegFuse(withLead(bigPack(), 0.024), "charger");
    std::get<Charger>(p.stage("charger")->part).remoteSense = true;
    const auto again = readProject(writeProject(p));
    REQUIRE(again);
    CHECK(again.value().project == p);
    const Project gone = withoutStage(p, "charger");
    CHECK(gone.stage("leg") == nullptr);
    CHECK(gone.stages.size() == 2);
}

TEST_CASE("on a charge leg stand leads, fuses, switches and diodes alone", "[charge][leg]") {
    const Project p = withLegFuse(bigPack(), "charger");
    const std::string fuse = chargeLeg(p, "charger").front()->id;
    for (const std::string& feed : {std::string("charger"), fuse}) {
        CHECK_FALSE(whyNotBehind(p, feed, Kind::wire));
        CHECK_FALSE(whyNotBehind(p, feed, Kind::diode));
        CHECK(whyNotBehind(p, feed, Kind::buck));
        CHECK(whyNotBehind(p, feed, Kind::guard));
        CHECK(whyNotAfter(p, feed)); // neither loads nor branches
    }
    CHECK_FALSE(whyNotBehind(p, "wall", Kind::buck));
    Project loaded = p;
    loaded.loads = {test::loadOf("lamp", "cells", 10, 15)};
    const auto feeds = possibleFeeds(loaded, "lamp");
    CHECK(std::find(feeds.begin(), feeds.end(), fuse) == feeds.end());
    const Project longer = withStageBetween(p, freshStage(p, Kind::wire, fuse), fuse);
    CHECK(chargeLeg(longer, "charger").size() == 2);
}
