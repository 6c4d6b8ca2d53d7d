// SPDX-License-Identifier: GPL-3.0-or-later
// The rules about mains, heat, guards, wiring, cells, paths and faults: each speaks of its case,
// and is silent on the base that the case bends.
#include "advice/quiet.hpp"
#include "advised.hpp"
#include "line/wiring.hpp"
#include "parts/cellsize.hpp"

using namespace sipper;
using namespace sipper::test;

namespace {

/// An adapter, a cord, a buck and a device: tethered, and nothing to say of it.
Project tethered() {
    Project p =
        test::load(std::filesystem::path(SIPPER_SOURCE) / "data/recipes/adapter-and-buck.sipper");
    for (Load& load : p.loads)
        for (Draw& draw : load.draws)
            draw.basis = Basis::measured;
    return p;
}

Adapter& adapter(Project& p) {
    return std::get<Adapter>(p.stages[0].part);
}
Fuse& fuseOf(Project& p) {
    return std::get<Fuse>(p.stage("fuse")->part);
}
Guard& guard(Project& p) {
    return std::get<Guard>(p.stage("guard")->part);
}
} // namespace

TEST_CASE("on a tethered project with room in its adapter every rule is silent", "[advice]") {
    for (const Finding& f : findingsOf(tethered()))
        FAIL(f.rule << ": " << f.says);
}

TEST_CASE("each rule about mains speaks of its case", "[advice]") {
    const std::vector<Case> cases{
        {"headroom", "brick", "times, where you ask for 1.5", Severity::care,
         [](Project& p) { adapter(p).limit = Amps{externalLoadsOf(p)[0].worst.value * 1.2}; }},
        {"trips", "brick", "gives up, tries again", Severity::stop,
         [](Project& p) { adapter(p).limit = Amps{0.1}; }},
        {"trips", "brick", "switches off until it is pulled out", Severity::stop,
         [](Project& p) {
             adapter(p).limit = Amps{0.1};
             adapter(p).beyondLimit = BeyondLimit::latch;
         }},
        {"unregulated", "brick", "by the rule of thumb of 1.5 times", Severity::stop,
         [](Project& p) {
             adapter(p) = {};
             adapter(p).rated = Volts{24};
             adapter(p).ratedCurrent = Amps{1};
         }},
        {"never_above", "buck", "it survives", Severity::stop,
         [](Project& p) { switcher(p, "buck").inputNeverAbove = Volts{12.3}; }},
        {"window_high", "device", "From Adapter it sees up to", Severity::stop,
         [](Project& p) { switcher(p, "buck").set = Volts{5.6}; }},
        {"window_low", "device", "From Adapter it sees", Severity::stop,
         [](Project& p) { switcher(p, "buck").set = Volts{4.5}; }},
        {"drop_out", "buck", "no room is left for 5.05 V", Severity::care,
         [](Project& p) {
             adapter(p).set = Volts{5.1};
             switcher(p, "buck").inputMin.reset();
         }},
        {"passes_through", "buck", "a boost can't step down", Severity::stop,
         [](Project& p) { switcher(p, "buck").topology = Topology::boost; }},
        {"over_current", "buck", "its output is limited to 100 mA", Severity::stop,
         [](Project& p) { switcher(p, "buck").outputLimit = Amps{0.1}; }},
        {"power_limit", "buck", "its label allows 500 mW", Severity::stop,
         [](Project& p) { switcher(p, "buck").powerLimit = Watts{0.5}; }},
        {"socket_class", "brick", "22k pull-up", Severity::care,
         [](Project& p) {
             p.stages[0].part = Usb{Amps{1.5}};
             switcher(p, "buck").topology = Topology::buckBoost;
             switcher(p, "buck").inputMin.reset();
             for (Draw& draw : p.load("device")->draws)
                 draw.current = Amps{2.5};
             switcher(p, "buck").switchLimit.reset();
             switcher(p, "buck").outputLimit.reset();
             std::get<Wire>(p.stage("cord")->part).length = Metres{0.1};
         }},
        {"too_hot", "buck", "Under", Severity::stop,
         [](Project& p) {
             switcher(p, "buck").thermal = KelvinPerWatt{900};
             switcher(p, "buck").maxPart = Celsius{85};
         }},
        {"linear_burns", "buck", "has no other way", Severity::care,
         [](Project& p) {
             Linear linear;
             linear.set = Volts{5};
             linear.dropout = Volts{1};
             p.stage("buck")->part = linear;
         }},
        {"noise", "device", "Four schools", Severity::care,
         [](Project& p) { p.load("device")->noiseSensitive = true; }},
        {"wire_drop", "cord", "of the", Severity::note,
         [](Project& p) { std::get<Wire>(p.stage("cord")->part).area = SquareMillimetres{0.05}; }},
        {"wire_drop", "cord", "of the", Severity::care,
         [](Project& p) {
             // Its buck needs nearly all of what arrives.
             std::get<Wire>(p.stage("cord")->part).area = SquareMillimetres{0.05};
             switcher(p, "buck").inputMin = Volts{10.7};
         }},
        {"wire_ampacity", "cord", "by a careful rule of thumb carries", Severity::stop,
         [](Project& p) {
             std::get<Wire>(p.stage("cord")->part).area = SquareMillimetres{0.01};
             std::get<Wire>(p.stage("cord")->part).length = Metres{0.1};
         }},
        {"polarity", "device", "is not stated", Severity::care,
         [](Project& p) {
             p.load("device")->connector = Connector{"barrel plug", {}, {}};
         }},
        {"polarity", "device", "is negative, and that of Buck 5 is positive", Severity::care,
         [](Project& p) {
             p.load("device")->connector = Connector{"barrel plug", Polarity::negative, {}};
             p.stage(p.load("device")->fedBy)->connector =
                 Connector{"barrel jack", Polarity::positive, {}};
         }},
    };
    runCases(cases, tethered);
}

TEST_CASE("each rule about guards, cells and wiring speaks of its case", "[advice]") {
    const std::vector<Case> cases{
        {"guard_floor", "guard", "Under 2.50 V a lithium nickel cobalt cell", Severity::stop,
         [](Project& p) { guard(p).cutoff = Volts{2.3}; }},
        {"guard_wastes", "guard", "every load could still use", Severity::care,
         [](Project& p) {
             guard(p).cutoff = Volts{3.6};
             guard(p).reconnect = Volts{3.9};
         }},
        {"load_stops_first", "guard", "the last line of defence", Severity::note,
         [](Project& p) { switcher(p, "boost5").inputMin = Volts{3.3}; }},
        {"chatter", "guard", "it closes, sags, opens and begins again", Severity::stop,
         [](Project& p) { guard(p).reconnect = guard(p).cutoff + Volts{0.02}; }},
        {"chatter", "guard", "no reconnect voltage is stated", Severity::stop,
         [](Project& p) { guard(p).reconnect.reset(); }},
        {"never_reconnects", "guard", "once open, it stays open", Severity::stop,
         [](Project& p) { guard(p).reconnect = Volts{4.4}; }},
        {"guard_drain", "guard", "its own 2.00 mA", Severity::care,
         [](Project& p) {
             guard(p).quiescent = Amps{2e-3};
             p.brief.shelfMonths = 2;
         }},
        {"shelf", "cells", "A switch at the cells", Severity::care,
         [](Project& p) { p.brief.shelfMonths = 200; }},
        {"no_fuse", "cells", "nothing near it stops that", Severity::stop,
         [](Project& p) {
             for (Stage& s : p.stages)
                 if (std::holds_alternative<Fuse>(s.part))
                     s.part = Filter{};
         }},
        {"fuse_window", "fuse", "a fuse carries three quarters of its rating", Severity::stop,
         [](Project& p) { fuseOf(p).rating = Amps{0.5}; }},
        {"fuse_window", "fuse", "pass for ever, and the leads behind it", Severity::stop,
         [](Project& p) { fuseOf(p).rating = Amps{40}; }},
        {"fuse_window", "fuse", "go on burning as an arc", Severity::care,
         [](Project& p) { fuseOf(p).ratedVoltage = Volts{3}; }},
        {"divider_off", "guard", "its resistors give 6.25 V", Severity::care,
         [](Project& p) {
             guard(p).reference = Volts{1.25};
             guard(p).upper = Ohms{4e6};
             guard(p).lower = Ohms{1e6};
         }},
        {"chatter", "guard", "under 0.2 V a cell is little", Severity::care,
         [](Project& p) { guard(p).reconnect = guard(p).cutoff + Volts{0.16}; }},
        {"guard_floor", "guard", "takes lasting harm", Severity::stop,
         [](Project& p) { guard(p).cutoff = Volts{2.3}; }},
        {"salvaged_parallel", "cells", "a fuse of its own", Severity::care,
         [](Project& p) {
             packOf(p).origin = Origin::salvaged;
             packOf(p).series = 1;
         }},
        {"cell_temperature", "cells", "keep the cold off them", Severity::stop,
         [](Project& p) {
             packOf(p).cell.dischargeFrom = Celsius{0};
             p.brief.ambient->low = Celsius{-8};
         }},
        {"goes_to_sleep", "boost5", "switches off", Severity::stop,
         [](Project& p) { switcher(p, "boost5").sleepsBelow = Amps{0.05}; }},
        {"never_starts", "boost5", "It needs 4.50 V to start", Severity::stop,
         [](Project& p) { switcher(p, "boost5").startMin = Volts{4.5}; }},
        {"never_starts", "boost5", "the resting cells give less", Severity::care,
         [](Project& p) {
             switcher(p, "boost5").startMin = Volts{3.75};
             guard(p).reconnect = Volts{3.8};
         }},
        {"capacitor_refill", "store", "to come back after a burst", Severity::care,
         [](Project& p) {
             Capacitor store;
             store.farad = Farads{10};
             p.stages.push_back(stageOf("store", store, p.load("recorder")->fedBy));
             p.load("recorder")->fedBy = "store";
             for (Draw& d : p.load("recorder")->draws)
                 if (d.burst)
                     d.burstsPerSecond = PerSecond{5};
         }},
        {"unlike_cells", "cells", "the weakest ends the run", Severity::care,
         [](Project& p) {
             packOf(p).origin = Origin::salvaged;
             packOf(p).series = 2;
         }},
        {"no_cell_monitor", "cells", "a monitor for each cell", Severity::stop,
         [](Project& p) {
             packOf(p).series = 2;
             Charger charger;
             charger.charges = "cells";
             charger.topology = Topology::linear;
             charger.chargeVoltage = Volts{8.4};
             charger.chargeCurrent = Amps{0.5};
             p.stages.push_back(stageOf("brick", Adapter{Volts{12}, {}, {}, {}, {}, {}, {}}, ""));
             p.stages.back().fedBy.clear();
             p.stages.push_back(stageOf("charger", charger, "brick"));
         }},
        {"implausible_capacity", "cells", "the most there has been", Severity::care,
         [](Project& p) { packOf(p).cell.capacity = AmpHours{9.9}; }},
        {"implausible_rate", "cells", "By heat", Severity::care,
         [](Project& p) { packOf(p).cell.maxDischarge = Amps{60}; }},
        {"fits", "cells", "a few millimetres longer", Severity::care,
         [](Project& p) {
             packOf(p).cell.protectedCell = true;
             packOf(p).holder = Holder::bare;
         }},
        {"fits", "cells", "the contact may not reach", Severity::care,
         [](Project& p) {
             packOf(p).cell.top = CellTop::flat;
             packOf(p).holder = Holder::protectedCell;
         }},
        {"wrong_cell_for_drain", "cells", "drop", Severity::care,
         [](Project& p) {
             packOf(p).cell.resistance = Ohms{0.9};
             packOf(p).parallel = 2;
         }},
        {"cold", "cells", "the cells give less and sag more", Severity::care,
         [](Project& p) {
             p.brief.ambient->low = Celsius{-20};
             p.brief.targetRuntime = predictRuntime(p).hours.value() * 0.97;
         }},
        {"backfeed", "either", "drives current into the other", Severity::stop,
         [](Project& p) {
             p.stages.push_back(stageOf("socket", Usb{Amps{3}}, ""));
             p.stages.back().fedBy.clear();
             Select select;
             select.blocksBack = false;
             Stage either = stageOf("either", select, "socket");
             either.fedBy = {"socket", "guard"};
             either.feedsListed = true;
             p.stages.push_back(either);
             p.load("recorder")->fedBy = "either";
             p.load("recorder")->window.min = Volts{2};
         }},
        {"path_drop", "path", "of what leaves the cells", Severity::care,
         [](Project& p) {
             p.stages.push_back(stageOf("path", Diode{Volts{0.3}, {}}, "cells"));
             p.stage("guard")->fedBy = {"path"};
             std::swap(p.stages.back(), p.stages[1]);
         }},
        {"set_before_connect", "boost5", "with nothing connected", Severity::note,
         [](Project& p) { switcher(p, "boost5").setMax = Volts{25}; }},
        {"fault_kills", "logic33", "fails short", Severity::care,
         [](Project& p) {
             p.load("logic")->window.neverAbove = Volts{3.35};
             p.load("logic")->precious = true;
         }},
    };
    for (const Case& c : cases) {
        INFO(c.rule);
        // What is bent may wake other rules; only the case's own is looked at.
        runCases({c}, quietProject);
    }
}

TEST_CASE("what stands under another finding is softer than it", "[advice]") {
    const auto lantern = findingsOf(test::example("lake-parade-lantern"));
    CHECK(find(lantern, "window_low", "stern")->severity == Severity::stop);
    CHECK(find(lantern, "wire_drop", "leadstern")->severity == Severity::note);
    // Cells that sag: what goes short by that stands under them, and they are what to mend.
    const auto winch = findingsOf(test::example("model-ferry-winch"));
    CHECK(find(winch, "wrong_cell_for_drain")->severity == Severity::stop);
    CHECK(find(winch, "window_low", "winch")->severity == Severity::note);
    CHECK(find(winch, "drop_out", "reg")->severity == Severity::note);
    for (const Finding& f : winch)
        CHECK((f.severity != Severity::stop || f.rule == "wrong_cell_for_drain"));
    // From the cells and from a source alike: said once.
    Project p = tethered();
    adapter(p).limit = Amps{0.1};
    int times = 0;
    for (const Finding& f : findingsOf(p))
        times += f.rule == "trips";
    CHECK(times == 1);
}

TEST_CASE("leads carry what the rule of thumb allows, fuses come in standard ratings", "[wiring]") {
    CHECK(ampacity(0.5, false) == Approx(5));
    CHECK(ampacity(1.5, false) == Approx(15));
    CHECK(ampacity(2.0, false) == Approx(17.5));
    CHECK(ampacity(2.5, false) == Approx(20));
    CHECK(ampacity(5, false) == Approx(31));
    CHECK(ampacity(10, true) == Approx(25));
    CHECK(ampacity(Wire{Metres{1}, {}, 20, {}, {}}) == Approx(5.18).epsilon(0.01));
    CHECK(leastFuse(1.5, 3.0, FuseSpeed::slow) == Approx(2.0));
    CHECK(leastFuse(1.5, 3.0, FuseSpeed::fast) == Approx(3.0));
    CHECK(chooseFuse(1.7, 5).value() == 2.0);
    CHECK(chooseFuse(2.0, 2.0).value() == 2.0);
    CHECK_FALSE(chooseFuse(2.1, 2.4));
    CHECK_FALSE(chooseFuse(100, 1000));
}

TEST_CASE("a cell's size says what it can hold", "[cells]") {
    CHECK(cellDimensions("18650")->volume * 1e6 == Approx(16.54).epsilon(0.01));
    CHECK(cellDimensions("CR2032")->volume * 1e6 == Approx(1.005).epsilon(0.01));
    CHECK(cellDimensions("pouch 503450")->volume * 1e6 == Approx(8.5).epsilon(0.01));
    CHECK(cellDimensions("AA"));
    for (const char* unknown : {"", "shoe box", "CR", "12", "pouch 1"})
        CHECK_FALSE(cellDimensions(unknown));
    Cell cell;
    cell.size = "18650";
    cell.chemistry = Chemistry::nickelCobalt;
    cell.nominal = Volts{3.6};
    CHECK(mostCapacity(cell).value() > 3.5); // the best there are
    CHECK(mostCapacity(cell).value() < 4.5);
    cell.chemistry = Chemistry::other;
    CHECK_FALSE(mostCapacity(cell));
}

TEST_CASE("the schools of a quiet supply are projects that can be judged", "[advice]") {
    const Project p = test::example("stage-theremin");
    const auto ways = quietWays(p, "oscillators");
    REQUIRE(ways.size() >= 3);
    for (const NoiseRemedy& way : ways) {
        INFO(way.name);
        CHECK_FALSE(checkProject(way.project));
        CHECK_FALSE(find(findingsOf(way.project), "noise", "oscillators"));
    }
    CHECK(quietWays(p, "amp").empty()); // nothing switches before it
    CHECK(quietWays(p, "nothing").empty());
}
