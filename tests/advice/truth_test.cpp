// SPDX-License-Identifier: GPL-3.0-or-later
// Two parts of the program that answer about one thing agree.
#include "analysis/analysis.hpp"
#include "base/tolerance.hpp"
#include "charge/charge.hpp"
#include "charge/choices.hpp"
#include "charge/operating.hpp"
#include "line/operating.hpp"
#include "measure/checks.hpp"
#include "measure/text.hpp"
#include "parts/chemistry.hpp"
#include "project/build.hpp"
#include "project/library.hpp"
#include "project/tree.hpp"
#include "protect/faults.hpp"
#include "protect/text.hpp"
#include "runtime/shelf.hpp"
#include "sheet/sheet.hpp"
#include "solar/operating.hpp"
#include "support.hpp"

#include <catch2/catch.hpp>
#include <filesystem>

using namespace sipper;

namespace {

std::vector<std::string> shippedNames() {
    std::vector<std::string> names;
    for (const char* folder : {"examples", "recipes"})
        for (const auto& entry : std::filesystem::directory_iterator(dataFolder() / folder))
            names.push_back(entry.path().string());
    std::sort(names.begin(), names.end());
    return names;
}

std::optional<Finding> foundIn(const Project& p, const std::string& rule,
                               const std::string& subject = {}) {
    for (const Finding& f : analyseQuick(p, {.bench = false}).findings)
        if (f.rule == rule && (subject.empty() || f.subject == subject))
            return f;
    return std::nullopt;
}

/// One lithium cell on a socket of 1.5 A by a linear charger of 1 A, and a device on a power path.
Project socketProject(double deviceAmps, bool holds) {
    Project p = test::example("nest-box-listener");
    Stage& cells = *p.stage("cells");
    std::get<Pack>(cells.part).parallel = 1;
    p.stages = {cells};
    Usb usb;
    usb.advertises = Amps{1.5};
    p.stages.push_back(test::stageOf("socket", usb, ""));
    p.stages.back().fedBy.clear();
    Charger c;
    c.charges = "cells";
    c.topology = Topology::linear;
    c.chargeCurrent = Amps{1};
    c.chargeVoltage = Volts{4.2};
    c.endCurrent = Amps{0.1};
    c.dropout = Volts{0.2};
    if (holds)
        c.inputHold = Volts{4.5};
    p.stages.push_back(test::stageOf("charger", c, "socket"));
    Load l = test::loadOf("device", "cells", 2.5, 5.5);
    l.draws = {Draw{}};
    l.draws[0].mode = p.modes[p.baseMode()].id;
    l.draws[0].current = Amps{deviceAmps};
    p.loads = {l};
    return withPowerPath(p, "charger", Volts{0}, Ohms{0.05});
}

Project panelProject(Topology topology) {
    Project p = test::example("greenhouse-vent-opener");
    for (Stage& s : p.stages)
        if (auto* charger = std::get_if<Charger>(&s.part))
            charger->topology = topology;
    return p;
}

} // namespace

TEST_CASE("a charge from a panel takes no current that its curve does not have",
          "[truth][charge][sun]") {
    for (const double light : {200.0, 800.0, 1000.0}) {
        const Project p = panelProject(Topology::linear);
        ChargeOptions ask;
        ask.light = light;
        const auto charge = chargeOf(p, ask);
        REQUIRE(charge);
        CHECK(charge.value().light == light);
        const Stage* panel = p.stage(charge.value().source);
        const auto found = panelOf(p, *p.stage(charge.value().charger));
        REQUIRE(found);
        const PanelCurve curve =
            steadyCurve(found.value().way, light, p.brief.air().usual().value());
        for (const ChargePoint& point : charge.value().curve) {
            CHECK(point.inputAmps <= curve.shortCircuit() * (1 + 1e-6));
            CHECK(point.inputVolts <= curve.volts(0) + 1e-9);
        }
        CHECK(charge.value().failure != ChargeFailure::sourceTooWeak);
        CHECK(charge.value().peakLoss < curve.mpp().second);
        CHECK(std::abs(charge.value().ledger.imbalance()) < 1e-3);
        REQUIRE(panel);
    }
    // Half the light takes longer; no light is no charge.
    ChargeOptions bright;
    ChargeOptions dim;
    dim.light = 400;
    const Project p = panelProject(Topology::linear);
    CHECK(chargeOf(p, dim).value().hoursToFull.value_or(1e9) >
          chargeOf(p, bright).value().hoursToFull.value_or(0));
}

TEST_CASE("charge, bench and the line in the light say the same of a panel",
          "[truth][charge][bench]") {
    for (const std::string& name : shippedNames()) {
        const Project p = test::load(name);
        for (const std::string& id : chargersOf(p)) {
            const auto sources = chargeSources(p, id);
            if (sources.empty() || !std::holds_alternative<Panel>(p.stage(sources.front())->part))
                continue;
            INFO(name);
            const BenchAnalysis look = analyseBench(p, {{}, p.brief.air().usual()});
            const auto check =
                std::find_if(look.checks.begin(), look.checks.end(), [&](const BenchCheck& c) {
                    return c.kind == CheckKind::chargeCurrent && c.at == id;
                });
            REQUIRE(check != look.checks.end());
            CHECK(check->light == 800);
            CHECK(checkTitle(p, *check).find("800 W/m²") != std::string::npos);
            ChargeOptions ask;
            ask.charger = id;
            ask.from = 0.3;
            const auto charge = chargeOf(p, ask);
            REQUIRE(charge);
            if (charge.value().curve.empty())
                continue;
            // At the first moment the charger pushes what the bench is told to expect.
            Conditions c = typicalConditions(p);
            c.pluggedIn = {sources.front()};
            c.irradiance = 800;
            const OperatingPoint at = operateWithChargers(p, c, 0.3, p.baseMode());
            const double out = at.flows.stages[stageIndex(p, id)].iOut;
            CHECK(check->expect.value_or(0) == Approx(out).epsilon(1e-6).margin(1e-9));
            CHECK(check->coverageLow <= out);
            CHECK(check->coverageHigh >= out);
            // And the sun's own view of the same moment is within the warmth of the cells.
            const OperatingPoint lit = operateWithSun(p, c, 0.3, p.baseMode());
            CHECK(lit.flows.stages[stageIndex(p, id)].iOut == Approx(out).epsilon(0.02));
        }
    }
}

TEST_CASE("a reading in another light is judged in that light", "[truth][bench]") {
    const Project p = test::example("greenhouse-vent-opener");
    const std::string id = chargersOf(p).front();
    Reading r;
    r.id = "r1";
    r.checks = CheckKind::chargeCurrent;
    r.at = id;
    r.amps = Amps{0.05};
    r.light = 300;
    Project read = p;
    read.readings = p.readings.with(r);
    const auto checkOf = [&](const Project& of) {
        for (const BenchCheck& c : analyseBench(of).checks)
            if (c.kind == CheckKind::chargeCurrent)
                return c;
        return BenchCheck{};
    };
    CHECK(checkOf(read).light == 300);
    CHECK(*checkOf(read).expect < 0.6 * *checkOf(p).expect);
}

TEST_CASE("a check that a charge never ends agrees with the charge", "[truth][charge]") {
    for (const std::string& name : shippedNames()) {
        const Project p = test::load(name);
        const QuickAnalysis quick = analyseQuick(p, {.bench = false});
        for (const ChargeAnalysis& look : quick.charges)
            for (const Finding& f : quick.findings)
                if (f.rule == "end_trap" && f.subject == look.usual.charger &&
                    f.severity == Severity::stop) {
                    INFO(name);
                    CHECK(look.usual.failure == ChargeFailure::endTrap);
                }
    }
    // A device on the cells at all times traps it, whatever ends by the clock does not.
    Project p = socketProject(0.2, true);
    std::erase_if(p.stages, [](const Stage& s) { return std::holds_alternative<Select>(s.part); });
    p.loads[0].fedBy = "cells";
    const auto trap = foundIn(p, "end_trap", "charger");
    REQUIRE(trap);
    CHECK(trap->severity == Severity::stop);
    CHECK(trap->numbers.count("off_hours") == 1);
    CHECK_THAT(trap->says, Catch::Contains("output switched off"));
    Project timed = p;
    std::get<Charger>(timed.stage("charger")->part).endsBy = ChargeEnd::timer;
    std::get<Charger>(timed.stage("charger")->part).timer = Hours{8};
    CHECK_FALSE(foundIn(timed, "end_trap", "charger"));
    // An hour a day only delays it.
    Project hour = p;
    Mode lamp;
    lamp.id = "lamp";
    lamp.daily = {{"20:00", "21:00"}};
    hour.modes.resize(1);
    hour.modes[0].base = true;
    hour.modes[0].duration.reset();
    hour.modes[0].every.reset();
    hour.modes[0].daily.clear();
    hour.modes.push_back(lamp);
    hour.loads[0].draws[0].mode = hour.modes[0].id;
    Draw lit = hour.loads[0].draws[0];
    hour.loads[0].draws[0].current = Amps{0.001};
    lit.mode = "lamp";
    hour.loads[0].draws.push_back(lit);
    const auto waits = foundIn(hour, "end_trap", "charger");
    REQUIRE(waits);
    CHECK(waits->severity == Severity::note);
    CHECK(waits->numbers.at("hours_a_day") == Approx(1).epsilon(1e-6));
    CHECK(chargeOf(hour).value().hoursToFull);
}

TEST_CASE("a source's budget has the charger in it", "[truth][mains]") {
    const Project p = socketProject(0.94, false);
    const auto over = foundIn(p, "source_budget", "socket");
    REQUIRE(over);
    CHECK(over->severity == Severity::stop);
    CHECK(over->numbers.at("charger_a") == Approx(1).epsilon(1e-3));
    CHECK(over->numbers.at("device_a") == Approx(0.94).epsilon(1e-3));
    CHECK(over->numbers.at("gives_a") == 1.5);
    REQUIRE(over->fix);
    CHECK_FALSE(foundIn(over->fix->apply(p), "source_budget", "socket"));
    CHECK_FALSE(foundIn(socketProject(0.3, false), "source_budget"));
    CHECK_FALSE(foundIn(socketProject(0.94, true), "source_budget")); // it takes what is left
    // What only charges is not nothing.
    Project brick = p;
    brick.loads[0].fedBy = "cells";
    for (const ExternalLoad& t : analyseQuick(brick, {.bench = false}).externalLoads)
        CHECK(t.asked() >= 1);
}

TEST_CASE("behind a pack that failed open nothing has volts", "[truth][protect]") {
    for (const std::string& name : shippedNames()) {
        const Project p = test::load(name);
        if (!p.pack() || std::any_of(p.stages.begin(), p.stages.end(), [](const Stage& s) {
                return isExternalSource(s.part) || std::holds_alternative<Panel>(s.part);
            }))
            continue;
        INFO(name);
        for (const double v : faultOf(p, p.packStage()->id, FaultKind::failsOpen).volts)
            CHECK(v == 0);
    }
}

TEST_CASE("a charger that fails is judged on its pack first", "[truth][protect]") {
    Project p = socketProject(0.1, true);
    Adapter brick;
    brick.set = Volts{24};
    brick.limit = Amps{2};
    p.stage("socket")->part = brick;
    Charger& c = std::get<Charger>(p.stage("charger")->part);
    c.topology = Topology::buck;
    c.inputHold.reset();
    c.adjustable = true;
    c.adjustMax = Volts{30};
    c.setMax = Volts{30};
    const Fault wild = faultOf(p, "charger", FaultKind::failsShort);
    REQUIRE(wild.onPack);
    CHECK(wild.onPack->over);
    CHECK(wild.onPack->volts == Approx(24 * 1.05)); // its tolerance up
    CHECK(wild.onPack->amps <= 2);
    // A buck can't give more than comes in, wherever its trimmer ends.
    const Fault set = faultOf(p, "charger", FaultKind::misSet);
    REQUIRE(set.onPack);
    CHECK(set.onPack->volts <= 24 * 1.05 + 1e-9);
    CHECK_THAT(clearingText(p, set), !Catch::Contains("30.0 V"));
}

TEST_CASE("limits below zero are met at equality", "[truth][quantity]") {
    CHECK_FALSE(fallsBelow(-20, -20));
    CHECK_FALSE(exceeds(-20, -20));
    CHECK(fallsBelow(-20.1, -20));
    CHECK(exceeds(-19.9, -20));
    CHECK_FALSE(exceeds(0, 0));
    CHECK_FALSE(fallsBelow(0, 0));
    CHECK(exceeds(1e-12, 0));
}

TEST_CASE("a supply with a knob, and a gauge for other cells, are spoken of", "[truth][mains]") {
    Project p = test::example("nest-box-listener");
    Adapter knob;
    knob.set = Volts{9};
    knob.limit = Amps{1};
    knob.adjustable = true;
    knob.adjustMin = Volts{3};
    knob.adjustMax = Volts{24};
    p.stages = {test::stageOf("bench", knob, "")};
    p.stages[0].fedBy.clear();
    Load l = test::loadOf("radio", "bench", 8, 10);
    l.window.neverAbove = Volts{12};
    l.gauge = true;
    l.draws = {Draw{}};
    l.draws[0].mode = p.modes[p.baseMode()].id;
    l.draws[0].current = Amps{0.2};
    p.loads = {l};
    const auto set = foundIn(p, "set_before_connect", "bench");
    REQUIRE(set);
    CHECK(set->numbers.at("set_max_v") == 24);
    CHECK(foundIn(p, "gauge_blind", "radio"));
    const auto steps = stepsFor(p, 0);
    REQUIRE(!steps.empty());
    CHECK_THAT(steps.front().text, Catch::Contains("knob to 9 V"));
    // A mains project has checks of every mode.
    int draws = 0;
    for (const BenchCheck& c : analyseBench(p).checks) {
        draws += c.kind == CheckKind::idle || c.kind == CheckKind::draw ? 1 : 0;
        CHECK(c.expect.has_value());
    }
    CHECK(draws == static_cast<int>(p.modes.size()));
}

TEST_CASE("an overloaded transformer sags, it does not let go", "[truth][mains]") {
    Project p = test::example("nest-box-listener");
    Adapter coil;
    coil.rated = Volts{9};
    coil.ratedCurrent = Amps{0.5};
    coil.noLoad = Volts{13};
    p.stages = {test::stageOf("coil", coil, "")};
    p.stages[0].fedBy.clear();
    Load l = test::loadOf("lamp", "coil", 4, 15);
    l.draws = {Draw{}};
    l.draws[0].mode = p.modes[p.baseMode()].id;
    l.draws[0].current = Amps{0.7};
    p.loads = {l};
    const auto sags = foundIn(p, "trips", "coil");
    REQUIRE(sags);
    CHECK(sags->severity == Severity::care);
    CHECK_THAT(sags->says, Catch::Contains("sags") && !Catch::Contains("tries again"));
    CHECK(sags->numbers.at("sags_v") == Approx(13 - 8 * 0.7));
}

TEST_CASE("words that are not true are not said", "[truth][words]") {
    Project p = test::example("nest-box-listener");
    Pack& pack = std::get<Pack>(p.stage("cells")->part);
    pack.cell.chemistry = Chemistry::nickelMetalHydride;
    CHECK(damageVolts(pack) == 0);
    pack.cell.chemistry = Chemistry::other;
    pack.cell.size = "supercapacitor 100 F";
    pack.cell.rechargeable = true;
    CHECK(isSupercapacitor(pack.cell));
    for (const Finding& f : analyseQuick(p, {.bench = false}).findings)
        CHECK_THAT(f.says, !Catch::Contains("cells vent"));
    CHECK(writeCycles({34000, 57000, 0.1, 4.2, 0.1}) == "over 10000");
    // A guard under what empty cells ever show is told.
    Project low = test::example("nest-box-listener");
    std::get<Guard>(low.stage("guard")->part).cutoff = Volts{0.5};
    low.loads.resize(1);
    low.loads[0].critical = false;
    const auto never = foundIn(low, "never_acts");
    if (analyseQuick(low, {.bench = false}).runtime.ending.reason == EndReason::empty)
        CHECK(never);
}
