// SPDX-License-Identifier: GPL-3.0-or-later
// The solved line against closed forms and against a plain search that shares no code with it.
#include "line/network.hpp"
#include "line/operating.hpp"
#include "support.hpp"

#include <random>

using namespace sipper;
using test::currentDraw;
using test::loadOf;
using test::powerDraw;
using test::stageOf;

namespace {

double raw(const auto& value) {
    return value ? value->value() : 0.0;
}

/// Demand of what hangs on a stage at its output voltage, straight from the design's formulas.
double demandAt(const Project& p, const std::string& id, double v);

/// Smallest i with f(i) = i by a dense look and halving.
template <class F>
double firstRoot(F f, double end) {
    constexpr int n = 60; // nested: its cost is to the power of the depth
    double low = 0;
    if (f(0.0) <= 0)
        return 0;
    for (int k = 1; k <= n; ++k) {
        double high = end * k / n;
        const double fh = f(high) - high;
        if (!(fh <= 0)) {
            low = high;
            continue;
        }
        for (int round = 0; round < 44; ++round) {
            const double middle = (low + high) / 2;
            (f(middle) - middle <= 0 ? high : low) = middle;
        }
        return high;
    }
    return std::nan("");
}

double behindResistance(const Project& p, const std::string& id, double v, double r) {
    if (r == 0)
        return demandAt(p, id, v);
    return firstRoot([&](double i) { return demandAt(p, id, v - r * i); }, std::max(0.0, v / r));
}

double inputOf(const Project& p, const Stage& s, double v) {
    if (const auto* wire = std::get_if<Wire>(&s.part))
        return behindResistance(p, s.id, v,
                                2 * wire->length.value() * 1.724e-8 * (1 + 0.00393 * 5) /
                                        (wire->area->value() * 1e-6) +
                                    raw(wire->contacts));
    if (const auto* filter = std::get_if<Filter>(&s.part))
        return behindResistance(p, s.id, v, raw(filter->resistance));
    if (const auto* diode = std::get_if<Diode>(&s.part))
        return behindResistance(p, s.id, v - raw(diode->drop), raw(diode->resistance));
    if (const auto* guard = std::get_if<Guard>(&s.part))
        return behindResistance(p, s.id, v, raw(guard->resistance)) + raw(guard->quiescent);
    if (const auto* linear = std::get_if<Linear>(&s.part)) {
        const double set = linear->set.value();
        const double out = demandAt(p, s.id, set);
        const double per = raw(linear->dropout) / linear->ratedCurrent->value();
        if (v - per * out >= set)
            return out + raw(linear->ground);
        return behindResistance(p, s.id, v, per) + raw(linear->ground);
    }
    const auto& sw = std::get<Switcher>(s.part);
    const double set = sw.set.value();
    const double out = demandAt(p, s.id, set);
    const double q = raw(sw.quiescent);
    const double drop = raw(sw.drop);
    const double r = raw(sw.resistance);
    const double fixed = raw(sw.fixed);
    if (out == 0)
        return q;
    if (!(v > 0))
        return std::nan("");
    const auto scaled = [&](double il) {
        return sw.skipBelow ? fixed * std::min(1.0, il / sw.skipBelow->value()) : fixed;
    };
    const auto down = [&] {
        return (set * out + scaled(out) + drop * out + r * out * out) / v + q;
    };
    const auto up = [&] {
        return firstRoot(
                   [&](double j) { return (set * out + scaled(j) + drop * j + r * j * j) / v; },
                   60.0) +
               q;
    };
    if (sw.topology == Topology::buckBoost)
        return v >= set ? down() : up();
    if (sw.topology == Topology::boost) {
        const double through = behindResistance(p, s.id, v - drop, r);
        if (v - drop - through * r > set)
            return through + q;
        return up();
    }
    const double duty = sw.maxDuty.value_or(1);
    if (v * duty - drop - out * r >= set)
        return down();
    const double follow = behindResistance(p, s.id, v * duty - drop, r);
    return duty * follow + scaled(follow) / v + q;
}

double demandAt(const Project& p, const std::string& id, double v) {
    double sum = 0;
    for (const Stage& s : p.stages)
        if (!s.fedBy.empty() && s.fedBy[0] == id)
            sum += inputOf(p, s, v);
    for (const Load& l : p.loads) {
        if (l.fedBy != id)
            continue;
        const Draw& d = l.draws[0];
        if (d.current)
            sum += d.current->value() == 0 ? 0 : v > 0 ? d.current->value() : std::nan("");
        else if (d.power)
            sum += v > 0 ? d.power->value() / v : std::nan("");
        else
            sum += v > 0 ? v / d.resistance->value() : 0;
    }
    return sum;
}

/// A random tree of stages with a load on every leaf.
Project randomProject(std::mt19937& random, double& e, double& r) {
    const auto pick = [&](double a, double b) {
        return a + (b - a) * static_cast<double>(random()) / 4294967296.0;
    };
    Project p = test::idealProject(4, 3);
    e = pick(3, 14);
    r = pick(0.02, 0.4);
    const int stages = 1 + static_cast<int>(random() % 3);
    for (int i = 0; i < stages; ++i) {
        const std::string from = p.stages[random() % p.stages.size()].id;
        Part part;
        Switcher sw;
        sw.set = Volts{pick(2.5, 12)};
        sw.drop = Volts{pick(0, 0.15)};
        sw.resistance = Ohms{pick(0.01, 0.2)};
        sw.fixed = Watts{pick(0, 0.05)};
        sw.quiescent = Amps{pick(0, 1e-3)};
        if (random() % 2)
            sw.skipBelow = Amps{pick(0.01, 0.3)};
        sw.maxDuty = pick(0.85, 1);
        switch (random() % 8) {
        case 0: {
            Wire w;
            w.length = Metres{pick(0.1, 3)};
            w.area = SquareMillimetres{pick(0.2, 1)};
            part = w;
            break;
        }
        case 1: {
            Diode d;
            d.drop = Volts{pick(0.2, 0.5)};
            d.resistance = Ohms{pick(0, 0.1)};
            part = d;
            break;
        }
        case 2: {
            Guard g;
            g.resistance = Ohms{pick(0.01, 0.1)};
            g.quiescent = Amps{pick(0, 1e-4)};
            part = g;
            break;
        }
        case 3:
        case 4: {
            Linear l;
            l.set = Volts{pick(1.8, 5)};
            l.dropout = Volts{pick(0.1, 0.4)};
            l.dropoutKind = DropoutKind::fet;
            l.ratedCurrent = Amps{0.5};
            l.ground = Amps{pick(0, 1e-3)};
            part = l;
            break;
        }
        case 5:
            sw.topology = Topology::buck;
            part = sw;
            break;
        case 6:
            sw.topology = Topology::boost;
            part = sw;
            break;
        default:
            sw.topology = Topology::buckBoost;
            part = sw;
        }
        p.stages.push_back(stageOf("s" + std::to_string(i), part, from));
    }
    int n = 0;
    for (const Stage& s : p.stages) {
        const auto behind = p.fedFrom(s.id);
        if (!behind.empty() && random() % 3)
            continue;
        Load l = loadOf("l" + std::to_string(n++), s.id, 0, 100);
        Draw d;
        d.mode = "on";
        switch (random() % 3) {
        case 0:
            d.current = Amps{pick(0.001, 0.5)};
            break;
        case 1:
            d.power = Watts{random() % 4 ? pick(0.01, 3) : pick(10, 60)};
            break;
        default:
            d.resistance = Ohms{pick(5, 300)};
        }
        l.draws.push_back(d);
        p.loads.push_back(l);
    }
    return p;
}

} // namespace

TEST_CASE("random trees solve as a plain search says", "[network]") {
    std::mt19937 random(5);
    int solved = 0;
    int collapsed = 0;
    for (int round = 0; round < 250; ++round) {
        double e = 0;
        double r = 0;
        const Project p = randomProject(random, e, r);
        const Network network(p, Celsius{25});
        const double amps = network.current(network.demand(0, Network::kNoBurst), e, r);
        const double plain =
            firstRoot([&](double i) { return demandAt(p, "cells", e - r * i); }, e / r);
        INFO("round " << round << ": " << amps << " against " << plain);
        if (std::isfinite(plain) != std::isfinite(amps)) {
            // At the very edge of collapse the dense look may miss a root: the answer must be one.
            REQUIRE(std::isfinite(amps));
            CHECK(demandAt(p, "cells", e - r * amps) == Approx(amps).epsilon(1e-5));
            continue;
        }
        if (!std::isfinite(plain)) {
            ++collapsed;
            continue;
        }
        ++solved;
        CHECK(amps == Approx(plain).epsilon(1e-6).margin(1e-9));
        // With a hint a little below, the same.
        CHECK(network.current(network.demand(0, Network::kNoBurst), e, r, amps) ==
              Approx(amps).epsilon(1e-8).margin(1e-12));
    }
    CHECK(solved > 120);
    CHECK(collapsed > 5);
}

TEST_CASE("every operating point conserves power and current", "[network]") {
    std::mt19937 random(11);
    for (int round = 0; round < 200; ++round) {
        double e = 0;
        double r = 0;
        const Project p = randomProject(random, e, r);
        const Network network(p, Celsius{25});
        Flows f;
        if (!network.solve(network.demand(0, Network::kNoBurst), e, r, f))
            continue;
        double out = 0;
        for (std::size_t i = 1; i < p.stages.size(); ++i) {
            INFO(round << " " << p.stages[i].id);
            CHECK(f.stages[i].loss() >= -1e-9);
            out += f.stages[i].loss();
        }
        for (const LoadFlow& l : f.loads)
            out += l.v * l.i;
        CHECK(f.sourceVolts * f.sourceAmps == Approx(out).epsilon(1e-8));
    }
}

TEST_CASE("collapse is exactly where P passes E^2 / 4R", "[network]") {
    Project p = test::idealProject(3.7, 2);
    test::packOf(p).cell.resistance = Ohms{0.1};
    const double edge = 3.7 * 3.7 / (4 * 0.1);
    p.loads.push_back(loadOf("load", "cells", 0, 10));
    for (const double factor : {0.5, 0.999999, 1 - 1e-12}) {
        p.loads[0].draws = {powerDraw("on", edge * factor)};
        const OperatingPoint point = operate(p, {}, 0.7, 0);
        REQUIRE_FALSE(point.collapse);
        CHECK(point.flows.loads[0].v >= 3.7 / 2 * (1 - 1e-9)); // the solution of the higher voltage
        CHECK(point.flows.loads[0].v * point.flows.loads[0].i == Approx(edge * factor));
    }
    p.loads[0].draws = {powerDraw("on", edge * (1 + 1e-9))};
    CHECK(operate(p, {}, 0.7, 0).collapse);
    p.loads[0].draws = {currentDraw("on", 36.9)};
    CHECK(operate(p, {}, 0.7, 0).flows.loads[0].v == Approx(0.01));
    p.loads[0].draws = {currentDraw("on", 37.0)}; // none at 0 V
    CHECK(operate(p, {}, 0.7, 0).collapse);
}

TEST_CASE("a linear's heat is what it drops and what it uses itself", "[network]") {
    Project p = test::idealProject(9, 2);
    Linear l;
    l.set = Volts{5};
    l.dropout = Volts{2};
    l.ground = Amps{0.005};
    l.thermal = KelvinPerWatt{50};
    p.stages.push_back(stageOf("reg", l, "cells"));
    p.loads.push_back(loadOf("load", "reg", 4.5, 5.5));
    p.loads[0].draws = {currentDraw("on", 0.3)};
    const OperatingPoint point = operate(p, {}, 1, 0);
    CHECK(point.flows.stages[1].loss() == Approx((9 - 5) * 0.3 + 9 * 0.005));
    CHECK(point.partC[1] == Approx(25 + 50 * 1.245));
    std::get<Linear>(p.stages[1].part).fan = true;
    CHECK(operate(p, {}, 1, 0).partC[1] == Approx(25 + 0.45 * 50 * 1.245));

    // In a closed box the air around the parts is warmer by what is lost in it, the pack's own too.
    std::get<Pack>(p.stages[0].part).connection = Ohms{0.1};
    p.brief.box = KelvinPerWatt{8};
    const OperatingPoint shut = operate(p, {}, 1, 0);
    double lost = 0;
    for (const StageFlow& f : shut.flows.stages)
        lost += f.loss();
    CHECK(lost == Approx(9 * 0.305 - shut.flows.loads[0].v * 0.3));
    CHECK(shut.partC[1] ==
          Approx(25 + 8 * lost + 0.45 * 50 * shut.flows.stages[1].loss()).epsilon(1e-9));
}

TEST_CASE("stages say what they are doing", "[network]") {
    struct Case {
        double cell;
        Topology topology;
        bool holds;
        StageState state;
        double out;
    };
    const auto c =
        GENERATE(Case{8, Topology::buck, false, StageState::steppingDown, 5},
                 Case{5.2, Topology::buck, false, StageState::droppingOut, 5.2 * 0.95 - 0.1 - 0.02},
                 Case{3.6, Topology::boost, false, StageState::steppingUp, 5},
                 Case{5.5, Topology::boost, false, StageState::passing, 5.5 - 0.1 - 0.02},
                 Case{5.5, Topology::boost, true, StageState::holding, 5},
                 Case{5.5, Topology::buckBoost, false, StageState::steppingDown, 5},
                 Case{4.5, Topology::buckBoost, false, StageState::steppingUp, 5});
    Project p = test::idealProject(c.cell, 2);
    Switcher s;
    s.topology = c.topology;
    s.set = Volts{5};
    s.drop = Volts{0.1};
    s.resistance = Ohms{0.1};
    s.maxDuty = 0.95;
    s.holdsWhenAbove = c.holds;
    p.stages.push_back(stageOf("reg", s, "cells"));
    p.loads.push_back(loadOf("load", "reg", 4, 6));
    p.loads[0].draws = {currentDraw("on", 0.2)};
    const OperatingPoint point = operate(p, {}, 1, 0);
    CHECK(stateName(point.flows.stages[1].state) == stateName(c.state));
    CHECK(point.flows.stages[1].vOut == Approx(c.out));
    CHECK(point.flows.loads[0].i == Approx(0.2));
}

TEST_CASE("behind an open stage nothing flows, and a guard goes on drawing", "[network]") {
    Project p = test::example("nest-box-listener");
    const auto mode = static_cast<std::size_t>(p.mode("listen") - p.modes.data());
    std::get<Guard>(p.stage("guard")->part).cutoff = Volts{4.1};
    const OperatingPoint point = operate(p, typicalConditions(p), 0.3, mode);
    REQUIRE_FALSE(point.collapse);
    const auto index = [&](const char* id) {
        return static_cast<std::size_t>(p.stage(id) - p.stages.data());
    };
    CHECK(point.flows.stages[index("guard")].state == StageState::off);
    CHECK(point.flows.stages[index("guard")].iIn == Approx(3e-6));
    CHECK(point.flows.stages[index("boost5")].vIn == 0);
    for (std::size_t i = 0; i < p.loads.size(); ++i) {
        CHECK(point.flows.loads[i].v == 0);
        CHECK(point.flows.loads[i].i == 0);
        CHECK_FALSE(point.inside[i]);
    }
    SECTION("a sag shorter than the delay does not open it") {
        std::get<Guard>(p.stage("guard")->part).delay = Seconds{5};
        CHECK(operate(p, typicalConditions(p), 0.3, mode).inside[0]);
    }
    SECTION("a regulator under its input minimum draws nothing") {
        std::get<Guard>(p.stage("guard")->part).cutoff = Volts{2.5};
        std::get<Switcher>(p.stage("boost5")->part).inputMin = Volts{4.2};
        const OperatingPoint off = operate(p, typicalConditions(p), 0.3, mode);
        CHECK(off.flows.stages[index("boost5")].state == StageState::off);
        CHECK(off.flows.stages[index("boost5")].iIn == 0);
        CHECK(off.flows.stages[index("logic33")].state != StageState::off);
    }
    SECTION("a part over its limit says so") {
        std::get<Guard>(p.stage("guard")->part).cutoff = Volts{2.5};
        std::get<Switcher>(p.stage("boost5")->part).outputLimit = Amps{0.05};
        const OperatingPoint over = operate(p, typicalConditions(p), 0.3, mode);
        CHECK(over.flows.stages[index("boost5")].state == StageState::limiting);
    }
}
