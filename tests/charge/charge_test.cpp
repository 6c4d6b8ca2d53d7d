// SPDX-License-Identifier: GPL-3.0-or-later
// Charging: the reference cases, each limit against its own closed form, each trap, and what is
// conserved.
#include "charge/charge.hpp"
#include "project/tree.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

const std::vector<std::string> kChargeCases{"choir-loft-lamp", "sluice-lamp"};

bool within(double value, double expected, const Json& tolerance, double run = 0) {
    return std::abs(value - expected) <=
           tolerance.value("rel", 0.0) * std::abs(expected) + tolerance.value("abs", 0.0) +
               tolerance.value("abs_h", 0.0) + tolerance.value("share_of_run", 0.0) * run;
}

ChargeOptions askFrom(const Json& args, const Project& p) {
    ChargeOptions ask;
    for (std::size_t i = 0; i + 1 < args.size(); i += 2) {
        const std::string key = args[i];
        const std::string value = args[i + 1];
        if (key == "--from")
            ask.from = std::stod(value);
        else if (key == "--source")
            ask.source = value;
        else if (key == "--mode")
            ask.mode = modeIndex(p, value);
    }
    return ask;
}

/// A flat 4 V cell of 2 Ah with 0.1 ohm, a 10 V adapter, and a charger that drops nothing.
Project plain(Topology topology = Topology::linear) {
    Project p = test::idealProject(4.0, 2.0);
    auto& pack = std::get<Pack>(p.stages[0].part);
    pack.cell.chemistry = Chemistry::nickelCobalt;
    pack.cell.resistance = Ohms{0.1};
    pack.cell.empty = Volts{2.5};
    pack.cell.openCircuit = {{0, 3.999999}, {1, 4.0}};
    p.loads.clear();
    Adapter adapter;
    adapter.set = Volts{topology == Topology::boost ? 2.0 : 10.0};
    adapter.tolerance = 0.0;
    p.stages.push_back(test::stageOf("brick", adapter, ""));
    p.stages.back().fedBy.clear();
    Charger charger;
    charger.charges = "cells";
    charger.topology = topology;
    charger.chargeCurrent = Amps{1};
    charger.chargeVoltage = Volts{4.2};
    charger.endCurrent = Amps{0.1};
    p.stages.push_back(test::stageOf("topper", charger, "brick"));
    return p;
}
Charger& chargerOf(Project& p) {
    return std::get<Charger>(p.stage("topper")->part);
}
Adapter& adapterOf(Project& p) {
    return std::get<Adapter>(p.stage("brick")->part);
}
Cell& cellOf(Project& p) {
    return std::get<Pack>(p.stage("cells")->part).cell;
}
void addLoad(Project& p, double amps, const std::string& on = "cells") {
    p.loads.push_back(test::loadOf("lamp", on, 0.1, 20));
    p.loads.back().draws = {test::currentDraw(p.modes[0].id, amps)};
}
ChargeRun charged(const Project& p, double from = 0.1) {
    ChargeOptions ask;
    ask.from = from;
    auto charge = chargeOf(p, ask);
    if (!charge)
        FAIL(charge.error().message());
    return std::move(charge).value();
}
/// The flat cell's charge goes on at 2 Ah x 0.9 over the amps, to where it is full.
void checkAmps(const ChargeRun& c, double amps, ChargeLimit limit) {
    REQUIRE_FALSE(c.curve.empty());
    CHECK(c.curve.front().packAmps == Approx(amps).epsilon(1e-5));
    CHECK(limitName(c.phases.front().limit) == limitName(limit));
}

} // namespace

TEST_CASE("charges of the reference cases", "[reference][charge]") {
    const auto name = GENERATE(from_range(kChargeCases));
    const Project p = test::reference(name);
    const Json cases = test::json(test::file("reference/" + name + ".charge.expected.json"));
    for (const Json& run : cases["runs"]) {
        INFO(name << ": " << run["about"].get<std::string>());
        const auto answer = chargeOf(p, askFrom(run["args"], p));
        REQUIRE(answer);
        const ChargeRun& c = answer.value();
        const Json& e = run["expect"];
        const Json& t = run["tolerance"];
        CHECK((c.failure ? Json(failureName(*c.failure)) : Json()) == e["never"]);
        const auto figure = [&](const char* key, std::optional<double> value) {
            if (!e.contains(key))
                return;
            INFO(key);
            if (e[key].is_null()) {
                CHECK_FALSE(value);
                return;
            }
            REQUIRE(value);
            CHECK(within(*value, e[key], t[key]));
        };
        figure("hours_to_80", c.hoursTo80);
        figure("hours_to_full", c.hoursToFull);
        figure("input_wh", c.inputWh);
        figure("stored_wh", c.storedWh);
        figure("peak_loss_w", c.peakLoss);
        figure("peak_part_c", c.peakPart);
        const double length = c.curve.back().hours;
        REQUIRE(c.phases.size() == e["phases"].size());
        for (std::size_t i = 0; i < c.phases.size(); ++i) {
            const Json& phase = e["phases"][i];
            CHECK(limitName(c.phases[i].limit) == phase["limit"].get<std::string>());
            CHECK(within(c.phases[i].from, phase["from_h"], t["phases"], length));
            CHECK(c.phases[i].to.has_value() == !phase["to_h"].is_null());
            if (c.phases[i].to && !phase["to_h"].is_null())
                CHECK(within(*c.phases[i].to, phase["to_h"], t["phases"], length));
        }
        for (const Json& point : e.value("curve_at", Json::array())) {
            const double h = point[0];
            const auto after =
                std::lower_bound(c.curve.begin() + 1, c.curve.end() - 1, h,
                                 [](const ChargePoint& q, double at) { return q.hours < at; });
            const auto before = after - 1;
            const double w = (h - before->hours) / (after->hours - before->hours);
            const auto between = [w](double a, double b) { return a + w * (b - a); };
            INFO("at " << h << " h");
            CHECK(
                within(between(before->charge, after->charge), point[1], t["curve_at"]["charge"]));
            CHECK(within(between(before->packVolts, after->packVolts), point[2],
                         t["curve_at"]["pack_v"]));
            CHECK(within(between(before->packAmps, after->packAmps), point[3],
                         t["curve_at"]["pack_a"]));
            CHECK(within(between(before->inputAmps, after->inputAmps), point[4],
                         t["curve_at"]["input_a"]));
        }
    }
}

TEST_CASE("each limit holds a charge back at its own closed form", "[charge]") {
    Project p = plain();
    // 4 V at rest and 0.1 ohm: 1 A lifts the node to 4.1 V, 2 A to the set 4.2 V.
    SECTION("the setting, for 1.8 Ah at 1 A") {
        const ChargeRun c = charged(p);
        checkAmps(c, 1, ChargeLimit::cc);
        CHECK(*c.hoursToFull == Approx(1.8).epsilon(1e-6));
        CHECK(*c.hoursTo80 == Approx(1.4).epsilon(1e-6));
        CHECK(c.storedWh == Approx(1.8 * 4).epsilon(1e-5));
        CHECK(c.inputWh == Approx(18).epsilon(1e-6));
        CHECK(c.peakLoss == Approx(10 - 4.1).epsilon(1e-6));
        CHECK(c.ledger.packHeat == Approx(0.18).epsilon(1e-4));
    }
    SECTION("the programming resistor") {
        chargerOf(p).chargeCurrent.reset();
        chargerOf(p).programK = 1000;
        chargerOf(p).programOhm = Ohms{2000};
        checkAmps(charged(p), 0.5, ChargeLimit::cc);
    }
    SECTION("the output limit") {
        chargerOf(p).outputLimit = Amps{0.8};
        checkAmps(charged(p), 0.8, ChargeLimit::outputLimit);
    }
    SECTION("the power limit: i (4 + 0.1 i) = 3 W") {
        chargerOf(p).powerLimit = Watts{3};
        checkAmps(charged(p), (-4 + std::sqrt(16 + 1.2)) / 0.2, ChargeLimit::powerLimit);
    }
    SECTION("the set voltage: 2 A would lift it to 4.2 V") {
        chargerOf(p).chargeCurrent = Amps{5};
        checkAmps(charged(p), 2, ChargeLimit::cv);
    }
    SECTION("the cells' own limit") {
        cellOf(p).maxCharge = Amps{0.4};
        checkAmps(charged(p), 0.4, ChargeLimit::cell);
    }
    SECTION("the input limit of a linear charger, its own draw inside") {
        chargerOf(p).inputLimit = Amps{0.6};
        chargerOf(p).ground = Amps{0.01};
        checkAmps(charged(p), 0.59, ChargeLimit::inputLimit);
    }
    SECTION("the input limit of a buck carries more at a higher supply") {
        p = plain(Topology::buck);
        chargerOf(p).chargeCurrent = Amps{5};
        chargerOf(p).inputLimit = Amps{0.3}; // 3 W: as above
        checkAmps(charged(p), (-4 + std::sqrt(16 + 1.2)) / 0.2, ChargeLimit::inputLimit);
        adapterOf(p).set = Volts{20}; // 6 W
        checkAmps(charged(p), (-4 + std::sqrt(16 + 2.4)) / 0.2, ChargeLimit::inputLimit);
    }
    SECTION("heat: (10 - 4 - 0.1 i) i = (60 - 25) / 10") {
        chargerOf(p).thermal = KelvinPerWatt{10};
        chargerOf(p).foldBack = Celsius{60};
        const double amps = (6 - std::sqrt(36 - 1.4)) / 0.2;
        checkAmps(charged(p), amps, ChargeLimit::heat);
        CHECK(charged(p).peakPart == Approx(60).epsilon(1e-4));
        chargerOf(p).chargeCurrent = Amps{1.5};
        chargerOf(p).fan = true; // 0.45 of the way to the air
        checkAmps(charged(p), (6 - std::sqrt(36 - 1.4 / 0.45)) / 0.2, ChargeLimit::heat);
    }
    SECTION("the source's limit, where the charger backs off") {
        adapterOf(p).limit = Amps{0.7};
        chargerOf(p).inputHold = Volts{5};
        checkAmps(charged(p), 0.7, ChargeLimit::source);
    }
    SECTION("the hold voltage at the end of a cable of 10 ohm") {
        Wire wire;
        wire.length = Metres{0};
        wire.area = SquareMillimetres{1};
        wire.contacts = Ohms{10};
        p.stages.push_back(test::stageOf("cable", wire, "brick"));
        p.stage("topper")->fedBy = {"cable"};
        chargerOf(p).inputHold = Volts{8};
        checkAmps(charged(p), 0.2, ChargeLimit::source);
    }
    SECTION("the drop-out at the end of that cable: 10 - 10 i = 4 + 0.1 i + 2") {
        Wire wire;
        wire.area = SquareMillimetres{1};
        wire.contacts = Ohms{10};
        p.stages.push_back(test::stageOf("cable", wire, "brick"));
        p.stage("topper")->fedBy = {"cable"};
        chargerOf(p).dropout = Volts{2};
        checkAmps(charged(p), 4 / 10.1, ChargeLimit::source);
    }
    SECTION("a source that holds its current falls to the pack and the drop-out") {
        adapterOf(p).limit = Amps{0.5};
        adapterOf(p).beyondLimit = BeyondLimit::hold;
        chargerOf(p).dropout = Volts{0.3};
        const ChargeRun c = charged(p);
        checkAmps(c, 0.5, ChargeLimit::source);
        CHECK(c.curve.front().inputVolts == Approx(4 + 0.05 + 0.3).epsilon(1e-6));
        CHECK(c.peakLoss == Approx(0.15).epsilon(1e-6));
    }
    SECTION("recovery, under its threshold only") {
        cellOf(p).openCircuit = {{0, 3.0}, {0.5, 4.0}, {1, 4.0001}};
        chargerOf(p).recoveryBelow = Volts{3.6};
        chargerOf(p).recoveryCurrent = Amps{0.2};
        const ChargeRun c = charged(p, 0.0);
        checkAmps(c, 0.2, ChargeLimit::recovery);
        REQUIRE(c.phases.size() >= 2);
        CHECK(limitName(c.phases[1].limit) == "cc");
        // Left where the node, with 0.2 A flowing, is at 3.6 V: 3.58 V at rest.
        const auto past = std::find_if(c.curve.begin(), c.curve.end(), [&](const ChargePoint& q) {
            return q.hours >= c.phases[1].from;
        });
        CHECK(past->openCircuit == Approx(3.58).epsilon(1e-5));
    }
    SECTION("a boost and a buck-boost pay their losses") {
        for (const Topology topology : {Topology::boost, Topology::buckBoost}) {
            p = plain(topology);
            adapterOf(p).set = Volts{2};
            chargerOf(p).inputLimit = Amps{1.5};
            chargerOf(p).fixed = Watts{0.1};
            chargerOf(p).drop = Volts{0.2};
            chargerOf(p).resistance = Ohms{0.1};
            // 2 V x 1.5 A = P + 0.1 W + 0.2 V x 1.5 A + 0.1 ohm x 1.5 A squared
            const double watts = 3 - 0.1 - 0.3 - 0.225;
            checkAmps(charged(p), (-4 + std::sqrt(16 + 0.4 * watts)) / 0.2,
                      ChargeLimit::inputLimit);
        }
    }
}

TEST_CASE("a load on the node takes its share of the charger", "[charge]") {
    Project p = plain();
    addLoad(p, 0.3);
    checkAmps(charged(p), 0.7, ChargeLimit::cc);
    SECTION("the cells' limit is on what is left") {
        cellOf(p).maxCharge = Amps{0.4};
        checkAmps(charged(p), 0.4, ChargeLimit::cell);
    }
    SECTION("a power path gives the load to the source, and to its limit") {
        Select select;
        Stage path = test::stageOf("path", select, "brick");
        path.fedBy = {"brick", "cells"};
        path.feedsListed = true;
        p.stages.push_back(path);
        p.loads[0].fedBy = "path";
        checkAmps(charged(p), 1, ChargeLimit::cc);
        adapterOf(p).limit = Amps{1.1};
        chargerOf(p).inputHold = Volts{5};
        checkAmps(charged(p), 0.8, ChargeLimit::source);
        CHECK(charged(p).ledger.loads.at("lamp") ==
              Approx(3.0 * *charged(p).hoursToFull).epsilon(1e-6));
    }
    SECTION("behind a guard that starts open nothing flows until it reconnects") {
        cellOf(p).openCircuit = {{0, 3.0}, {1, 4.0}};
        Guard guard;
        guard.cutoff = Volts{3.3};
        guard.reconnect = Volts{3.7};
        p.stages.push_back(test::stageOf("guard", guard, "cells"));
        p.loads[0].fedBy = "guard";
        const ChargeRun c = charged(p, 0.1);
        // Closed where the node, with 1 A into the pack, is at 3.7 V: 3.6 V at rest.
        bool closed = false;
        for (const ChargePoint& q : c.curve) {
            INFO(q.hours << " h, " << q.packVolts << " V");
            if (std::abs(q.openCircuit - 3.6) > 1e-6)
                CHECK(q.packAmps ==
                      Approx(closed ? std::min(0.7, (4.2 - q.openCircuit) / q.ohms) : 1.0));
            closed = closed || q.openCircuit > 3.6 - 1e-6;
        }
        CHECK(closed);
    }
}

TEST_CASE("what never ends says why", "[charge]") {
    Project p = plain();
    const auto never = [&](double from = 0.1) {
        const ChargeRun c = charged(p, from);
        return c.failure ? std::string(failureName(*c.failure)) : std::string();
    };
    CHECK(never() == "");
    SECTION("primary cells") {
        cellOf(p).chemistry = Chemistry::alkaline;
        CHECK(never() == "not_rechargeable");
    }
    SECTION("frost on lithium, and what the cell itself says") {
        p.brief.ambient.emplace();
        p.brief.ambient->typical = Celsius{-3};
        CHECK(never() == "too_cold");
        cellOf(p).chargeFrom = Celsius{-20};
        CHECK(never() == "");
    }
    SECTION("a linear one without headroom") {
        adapterOf(p).set = Volts{4.25};
        CHECK(never() == "");
        chargerOf(p).dropout = Volts{0.1};
        CHECK(never() == "wrong_topology");
    }
    SECTION("a buck by its duty and drop") {
        p = plain(Topology::buck);
        adapterOf(p).set = Volts{5};
        chargerOf(p).maxDuty = 0.9;
        chargerOf(p).drop = Volts{0.2};
        CHECK(never() == "");
        chargerOf(p).drop = Volts{0.4};
        CHECK(never() == "wrong_topology");
    }
    SECTION("a boost that would pass its input in") {
        p = plain(Topology::boost);
        CHECK(never() == "");
        adapterOf(p).set = Volts{2.5};
        CHECK(never() == "wrong_topology");
    }
    SECTION("an input over what it survives, the adapter's tolerance counted") {
        chargerOf(p).inputNeverAbove = Volts{10.2};
        CHECK(never() == "");
        adapterOf(p).tolerance = 0.05;
        CHECK(never() == "input_too_high");
    }
    SECTION("a source that lets go") {
        adapterOf(p).limit = Amps{0.5};
        for (const BeyondLimit beyond :
             {BeyondLimit::hiccup, BeyondLimit::latch, BeyondLimit::fold}) {
            adapterOf(p).beyondLimit = beyond;
            CHECK(never() == "source_too_weak");
        }
        chargerOf(p).inputLimit = Amps{0.5};
        CHECK(never() == "");
    }
    SECTION("a load that eats the recovery current") {
        cellOf(p).openCircuit = {{0, 3.0}, {1, 4.0}};
        chargerOf(p).recoveryBelow = Volts{3.2};
        chargerOf(p).recoveryCurrent = Amps{0.1};
        addLoad(p, 0.1);
        CHECK(never() == "recovery_trap");
        CHECK(never(0.5) == "");
        const ChargeRun c = charged(p);
        REQUIRE(c.phases.size() == 1);
        CHECK_FALSE(c.phases[0].to);
        // An hour of it is shown: the charge does not rise.
        CHECK(c.curve.back().hours == Approx(1).margin(0.2));
        CHECK(c.curve.back().charge <= 0.1 + 1e-9);
    }
    SECTION("a load that eats the end current, with 80 % still told") {
        cellOf(p).openCircuit = {{0, 3.6}, {1, 4.19}};
        addLoad(p, 0.1);
        CHECK(never() == "end_trap");
        CHECK(charged(p).hoursTo80);
        p.loads[0].draws[0].current = Amps{0.09};
        CHECK(never() == "");
    }
    SECTION("several at once: the first of the list") {
        cellOf(p).chemistry = Chemistry::alkaline;
        adapterOf(p).set = Volts{3};
        CHECK(never() == "not_rechargeable");
        cellOf(p).chemistry = Chemistry::nickelCobalt;
        chargerOf(p).inputNeverAbove = Volts{2};
        CHECK(never() == "wrong_topology");
    }
}

TEST_CASE("nickel keeps seven tenths; a timer and a direct way end as they do", "[charge]") {
    Project p = plain();
    cellOf(p).chemistry = Chemistry::nickelMetalHydride;
    chargerOf(p).chargeVoltage.reset();
    chargerOf(p).chargeCurrent = Amps{0.2}; // C/10
    SECTION("C/10 takes 1.43 of the capacity") {
        const ChargeRun c = charged(p, 0);
        CHECK(*c.hoursToFull == Approx(10 / 0.7).epsilon(1e-6));
        CHECK(c.storedWh == Approx(8).epsilon(1e-5));
        CHECK(c.ledger.packHeat == Approx(0.3 / 0.7 * 8 + 0.004 * 10 / 0.7).epsilon(1e-3));
    }
    SECTION("the file's own efficiency") {
        chargerOf(p).chargeEfficiency = 0.8;
        CHECK(*charged(p, 0).hoursToFull == Approx(12.5).epsilon(1e-6));
    }
    SECTION("a timer ends it before") {
        chargerOf(p).timer = Hours{7};
        const ChargeRun c = charged(p, 0);
        CHECK(c.failure == ChargeFailure::endsEarly); // no answer calls half full full
        CHECK_FALSE(c.hoursToFull);
        CHECK(*c.endsAtHours == Approx(7));
        CHECK(*c.endsAtCharge == Approx(0.49).epsilon(1e-6));
    }
    SECTION("an unregulated adapter straight on the cells, by its own slope") {
        Adapter a;
        a.noLoad = Volts{9};
        a.rated = Volts{6};
        a.ratedCurrent = Amps{0.5};
        p.stage("brick")->part = a;
        chargerOf(p) = {};
        chargerOf(p).charges = "cells";
        chargerOf(p).topology = Topology::direct;
        chargerOf(p).drop = Volts{0.7};
        chargerOf(p).resistance = Ohms{10};
        const double amps = (9 - 0.7 - 4) / (6 + 10 + 0.1);
        const ChargeRun c = charged(p, 0);
        checkAmps(c, amps, ChargeLimit::source);
        CHECK(*c.hoursToFull == Approx(2 / amps / 0.7).epsilon(1e-4));
        CHECK(c.afterAmps == Approx(amps).epsilon(1e-4));
        // Over what is printed on it a transformer sags further; it does not let go.
        a.ratedCurrent = Amps{0.25};
        p.stage("brick")->part = a;
        chargerOf(p).resistance.reset();
        checkAmps(charged(p, 0), (9 - 0.7 - 4) / (12 + 0.1), ChargeLimit::source);
    }
}

TEST_CASE("a charge balances to the last digit, and halving its steps changes nothing",
          "[charge]") {
    for (const auto& name : kChargeCases) {
        const Project p = test::reference(name);
        for (const double from : {0.02, 0.4}) {
            ChargeOptions ask;
            ask.from = from;
            const ChargeRun usual = chargeOf(p, ask).value();
            ask.stepShare = 0.5;
            const ChargeRun fine = chargeOf(p, ask).value();
            INFO(name << " from " << from);
            CHECK(std::abs(usual.ledger.imbalance()) < 1e-9);
            REQUIRE(usual.hoursToFull);
            CHECK(*usual.hoursToFull == Approx(*fine.hoursToFull).epsilon(5e-4));
            CHECK(*usual.hoursTo80 == Approx(*fine.hoursTo80).epsilon(5e-4));
            CHECK(usual.inputWh == Approx(fine.inputWh).epsilon(1e-3));
        }
    }
}

TEST_CASE("the ladder's least rung is the limit that bites", "[charge]") {
    const Project p = test::reference("choir-loft-lamp");
    const ChargeRun c = chargeOf(p, {}).value();
    for (std::size_t i = 5; i + 5 < c.curve.size(); i += 40) {
        const LimitCurrents ladder = ladderAt(p, {}, c.curve[i]).value();
        const auto phase =
            std::find_if(c.phases.begin(), c.phases.end(), [&](const ChargePhase& one) {
                return c.curve[i].hours >= one.from && (!one.to || c.curve[i].hours < *one.to);
            });
        double least = 1e9;
        std::size_t which = 0;
        for (std::size_t k = 0; k < ladder.size(); ++k)
            if (ladder[k] && *ladder[k] < least) {
                least = *ladder[k];
                which = k;
            }
        INFO("at " << c.curve[i].hours << " h");
        CHECK(least == Approx(c.curve[i].packAmps).epsilon(1e-6));
        CHECK(limitName(static_cast<ChargeLimit>(which)) == limitName(phase->limit));
    }
}

TEST_CASE("a limit taken away lets the next one bite", "[charge]") {
    const Project p = test::reference("choir-loft-lamp");
    ChargeOptions ask;
    const double before = *chargeOf(p, ask).value().hoursToFull;
    ask.lifted = {ChargeLimit::powerLimit};
    const ChargeRun lifted = chargeOf(p, ask).value();
    CHECK(*lifted.hoursToFull < before);
    for (const ChargePhase& phase : lifted.phases)
        CHECK(phase.limit != ChargeLimit::powerLimit);
}

TEST_CASE("a charge that can't be asked for says what was expected", "[charge]") {
    Project p = plain();
    ChargeOptions ask;
    ask.source = "wall";
    CHECK(chargeOf(p, ask).error().expected == "one of brick");
    ask.source.clear();
    ask.charger = "other";
    CHECK(chargeOf(p, ask).error().expected == "one of topper");
    ask.charger.clear();
    ask.from = 1.2;
    CHECK(chargeOf(p, ask).error().where == "--from");
    p.stages.pop_back();
    CHECK(chargeOf(p, {}).error().found == "no charger");
}
