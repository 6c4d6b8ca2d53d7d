// SPDX-License-Identifier: GPL-3.0-or-later
// Forks behind forks: all node voltages at once, against what must hold at any answer.
#include "line/operating.hpp"
#include "parts/figures.hpp"
#include "project/tree.hpp"
#include "support.hpp"

#include <random>

using namespace sipper;

namespace {

/// What flows out of a stage is what its children take; volts only fall through what has ohms.
void checkNodes(const Project& p, const OperatingPoint& point) {
    for (std::size_t i = 0; i < p.stages.size(); ++i) {
        const StageFlow& f = point.flows.stages[i];
        if (f.state == StageState::off || (isSource(p.stages[i].part) && f.iOut == 0))
            continue;
        INFO(p.stages[i].id << " " << stateName(f.state));
        double taken = 0;
        for (std::size_t k = 0; k < p.stages.size(); ++k)
            if (!p.stages[k].fedBy.empty() && p.stages[k].fedBy.front() == p.stages[i].id &&
                !isCharger(p.stages[k].part)) {
                taken += point.flows.stages[k].iIn;
                CHECK(point.flows.stages[k].vIn == Approx(f.vOut).margin(1e-9));
            }
        for (std::size_t k = 0; k < p.loads.size(); ++k)
            if (p.loads[k].fedBy == p.stages[i].id) {
                taken += point.flows.loads[k].i;
                CHECK(point.flows.loads[k].v == Approx(f.vOut).margin(1e-9));
            }
        CHECK(taken == Approx(f.iOut).epsilon(1e-8).margin(1e-9));
        CHECK(f.loss() >= -1e-9);
    }
}

/// A tree of `count` stages, each behind one of the last few, and loads of every kind on them.
Project tangle(std::mt19937& random, int count) {
    const auto pick = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    const auto share = [&](double a, double b) { return a + (b - a) * pick(1000) / 1000.0; };
    Project p = test::idealProject(3.6 * (1 + pick(3)), 5);
    auto& pack = std::get<Pack>(p.stages[0].part);
    pack.cell.resistance = Ohms{share(0.01, 0.2)};
    std::vector<std::pair<std::string, double>> nodes{{"cells", pack.cell.openCircuit[0].second}};
    for (int k = 0; k < count; ++k) {
        const auto [from, volts] =
            nodes[nodes.size() - 1 - static_cast<std::size_t>(pick(std::min(3, k + 1)))];
        Stage s = test::stageOf("s" + std::to_string(k), Filter{}, from);
        double v = volts;
        switch (pick(5)) {
        case 0:
        case 1: {
            Filter f;
            f.resistance = Ohms{share(0.01, 0.6)};
            s.part = f;
            break;
        }
        case 2: {
            Linear l;
            v = volts * share(0.5, 1.05);
            l.set = Volts{v};
            l.dropout = Volts{0.3};
            s.part = l;
            break;
        }
        default: {
            Switcher w;
            w.topology = pick(2) ? Topology::buck : Topology::boost;
            v = volts * (w.topology == Topology::buck ? share(0.4, 1.0) : share(0.9, 2.0));
            w.set = Volts{v};
            w.fixed = Watts{0.005};
            w.drop = Volts{0.05};
            w.resistance = Ohms{0.08};
            s.part = w;
        }
        }
        p.stages.push_back(s);
        nodes.emplace_back(s.id, v);
    }
    const int loads = 4 + pick(6);
    for (int k = 0; k < loads; ++k) {
        const auto& [from, volts] =
            nodes[static_cast<std::size_t>(pick(static_cast<int>(nodes.size())))];
        Load l = test::loadOf("l" + std::to_string(k), from, volts * 0.3, volts * 2);
        const double watts = share(0.02, 0.6);
        Draw d;
        d.mode = "on";
        if (pick(3) == 0)
            d.resistance = Ohms{volts * volts / watts};
        else if (pick(2))
            d.power = Watts{watts};
        else
            d.current = Amps{watts / volts};
        l.draws = {d};
        p.loads.push_back(l);
    }
    return p;
}

} // namespace

TEST_CASE("forks behind forks: every node balances", "[line][tree]") {
    std::mt19937 random(71);
    int solved = 0;
    int collapsed = 0;
    for (int round = 0; round < (test::kSanitized ? 60 : 600); ++round) {
        const Project p = tangle(random, 4 + round % 9);
        const OperatingPoint point = operate(p, typicalConditions(p), 0.6, 0);
        INFO("round " << round);
        (point.collapse ? collapsed : solved)++;
        if (!point.collapse)
            checkNodes(p, point);
    }
    CHECK(solved > collapsed);
    CHECK(collapsed > 0);
}

TEST_CASE("of two answers the tree gives the one with the higher volts", "[line][tree]") {
    // 12 V behind 1 ohm; behind it two filters of 1 ohm with 8 W and 6 W: halving each branch's
    // room by hand gives 9.5 V and more at the fork, and the other root under 4 V.
    Project p = test::idealProject(12, 5);
    std::get<Pack>(p.stages[0].part).cell.resistance = Ohms{1};
    Filter one;
    one.resistance = Ohms{1};
    p.stages.push_back(test::stageOf("stem", one, "cells"));
    for (const char* id : {"a", "b"}) {
        p.stages.push_back(test::stageOf(id, one, "stem"));
        Load l = test::loadOf(std::string(id) + "-load", id, 1, 20);
        l.draws = {test::powerDraw("on", id[0] == 'a' ? 4 : 3)};
        p.loads.push_back(l);
        l = test::loadOf(std::string(id) + "-more", id, 1, 20);
        l.draws = {test::powerDraw("on", 1)};
        p.loads.push_back(l);
    }
    const OperatingPoint point = operate(p, typicalConditions(p), 1, 0);
    REQUIRE_FALSE(point.collapse);
    checkNodes(p, point);
    CHECK(point.flows.loads[0].v > 6);
    // By hand: the same line with each branch's two loads as one is a plain fork.
    for (Load& l : p.loads)
        l.draws = {test::powerDraw("on", 20)};
    CHECK(operate(p, typicalConditions(p), 1, 0).collapse);
}

TEST_CASE("three tangles of up to eleven stages answer, and balance", "[line][tree]") {
    for (const char* name : {"hard/tangle-1", "hard/tangle-2", "hard/tangle-3"}) {
        const Project p = test::reference(name);
        INFO(name);
        const Runtime r = predictRuntime(p);
        CHECK(r.hours.has_value());
        CHECK(std::abs(r.ledger.imbalance()) < 1e-3);
        for (std::size_t mode = 0; mode < p.modes.size(); ++mode)
            for (const double charge : {1.0, 0.5, 0.1}) {
                const OperatingPoint point = operate(p, typicalConditions(p), charge, mode);
                if (!point.collapse)
                    checkNodes(p, point);
            }
    }
}

TEST_CASE("many loads of one place count as each by itself", "[line][tree]") {
    Project p = test::idealProject(4, 5);
    std::get<Pack>(p.stages[0].part).cell.resistance = Ohms{0.1};
    double amps = 0;
    for (int k = 0; k < 40; ++k) {
        Load l = test::loadOf("l" + std::to_string(k), "cells", 1, 5);
        if (k % 2)
            l.draws = {test::currentDraw("on", 0.01)};
        else
            l.draws = {test::powerDraw("on", 0.02)};
        p.loads.push_back(l);
    }
    const OperatingPoint point = operate(p, typicalConditions(p), 1, 0);
    for (const LoadFlow& l : point.flows.loads)
        amps += l.i;
    CHECK(amps == Approx(point.flows.sourceAmps).epsilon(1e-12));
    // v = 4 - 0.1 (0.2 + 0.4/v), the larger root.
    const double v = (3.98 + std::sqrt(3.98 * 3.98 - 4 * 0.04)) / 2;
    CHECK(point.flows.sourceVolts == Approx(v).epsilon(1e-10));
}
