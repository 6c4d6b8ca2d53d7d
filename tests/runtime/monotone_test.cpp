// SPDX-License-Identifier: GPL-3.0-or-later
// What everybody knows must hold of every project: more cells run no shorter, a thinner lead drops
// no less, a thirstier load runs no longer; and every watt-hour is somewhere.
#include "analysis/analysis.hpp"
#include "line/operating.hpp"
#include "line/wiring.hpp"
#include "project/tree.hpp"
#include "randomprojects.hpp"

using namespace sipper;

namespace {

constexpr int kProjects = test::kSanitized ? 15 : 120;
constexpr double kSlack = 3e-4; ///< of the hours: what a step's rule leaves open

std::optional<double> hoursOf(const Project& p) {
    const Runtime r = predictRuntime(p);
    return r.hours ? std::optional(r.hours->value()) : std::nullopt;
}

/// Random projects that run down a pack, with what they run.
struct Running {
    Project project;
    double hours;
};
std::vector<Running> running(unsigned seed) {
    test::RandomProjects random(seed);
    std::vector<Running> list;
    for (int i = 0; i < kProjects; ++i) {
        Project p = random.next();
        if (!p.pack())
            continue;
        if (const auto hours = hoursOf(p); hours && *hours > 0.01)
            list.push_back({std::move(p), *hours});
    }
    return list;
}

Pack& cellsOf(Project& p) {
    return std::get<Pack>(p.stage(p.packStage()->id)->part);
}

/// Does nothing start its modes by the clock, so that hours can't fall into another window?
bool steady(const Project& p) {
    return std::none_of(p.modes.begin(), p.modes.end(),
                        [](const Mode& m) { return m.isWindowed(); });
}

} // namespace

TEST_CASE("every watt-hour of a random run is in its ledger", "[runtime][properties]") {
    for (const Running& r : running(31)) {
        const Runtime run = predictRuntime(r.project);
        INFO(r.project.name << ", " << r.hours << " h");
        CHECK(std::abs(run.ledger.imbalance()) < 2e-3);
        CHECK(run.ledger.packLoss >= -1e-9);
        CHECK(run.ledger.leftInPack >= -1e-9);
        for (const auto& [id, wh] : run.ledger.stages) {
            INFO(id);
            CHECK(wh >= -1e-6 * run.ledger.nameplate);
        }
        double modes = 0;
        double loads = 0;
        for (const auto& [id, wh] : run.ledger.loads)
            loads += wh;
        for (const auto& [id, by] : run.ledger.loadModes)
            for (const auto& [mode, wh] : by)
                modes += wh;
        CHECK(modes == Approx(loads).epsilon(1e-6).margin(1e-9));
        // The curve falls, and ends where the run does.
        for (std::size_t i = 1; i < run.curve.size(); ++i) {
            CHECK(run.curve[i].hours >= run.curve[i - 1].hours);
            CHECK(run.curve[i].charge <= run.curve[i - 1].charge + 1e-12);
        }
        CHECK(run.curve.back().hours == Approx(r.hours).epsilon(1e-6));
    }
}

TEST_CASE("larger cells, and more of them in parallel, never run shorter",
          "[runtime][properties]") {
    for (const Running& r : running(32)) {
        INFO(r.project.name << ", " << r.hours << " h");
        Project larger = r.project;
        cellsOf(larger).cell.capacity = AmpHours{cellsOf(larger).cell.capacity.value() * 1.3};
        if (cellsOf(larger).weakestGroup)
            continue;
        const auto hours = hoursOf(larger);
        REQUIRE(hours);
        CHECK(*hours >= r.hours * (1 - kSlack));
        Project more = r.project;
        countCells(cellsOf(more), cellsOf(more).series, cellsOf(more).parallel + 1);
        const auto longer = hoursOf(more);
        REQUIRE(longer);
        CHECK(*longer >= r.hours * (1 - kSlack));
    }
}

TEST_CASE("softer cells, and thirstier loads, never run longer", "[runtime][properties]") {
    for (const Running& r : running(33)) {
        if (!steady(r.project))
            continue;
        INFO(r.project.name << ", " << r.hours << " h");
        Project softer = r.project;
        Cell& cell = cellsOf(softer).cell;
        // Measured ohms stand for those of the cell, whose own then only divide the relaxation.
        if (cell.resistance && !cellsOf(softer).measuredResistance) {
            cell.resistance = Ohms{cell.resistance->value() * 1.5};
            // Loads that are resistors take less of a softer pack, and may run longer on it.
            const bool resistors =
                std::any_of(softer.loads.begin(), softer.loads.end(), [](const Load& l) {
                    return std::any_of(l.draws.begin(), l.draws.end(), [](const Draw& d) {
                        return d.resistance || d.burstOhms || d.led;
                    });
                });
            const auto hours = hoursOf(softer);
            if (!resistors && hours)
                CHECK(*hours <= r.hours * (1 + kSlack));
        }
        Project thirstier = r.project;
        bool all = true;
        for (Load& l : thirstier.loads)
            for (Draw& d : l.draws) {
                if (d.current)
                    d.current = *d.current * 1.2;
                else if (d.power)
                    d.power = *d.power * 1.2;
                else
                    all = false;
            }
        const auto hours = hoursOf(thirstier);
        if (all && hours)
            CHECK(*hours <= r.hours * (1 + kSlack));
    }
}

TEST_CASE("a thinner lead never drops less", "[runtime][properties]") {
    test::RandomProjects random(34);
    int looked = 0;
    // Single points cost little: as many under the sanitizers, where a few would hold no lead.
    for (int i = 0; i < 120; ++i) {
        const Project p = random.next();
        if (!p.pack())
            continue;
        for (std::size_t s = 0; s < p.stages.size(); ++s) {
            const auto* wire = std::get_if<Wire>(&p.stages[s].part);
            if (!wire || !wire->area)
                continue;
            Project thinner = p;
            auto& thin = std::get<Wire>(thinner.stages[s].part);
            thin.area = *wire->area / 2;
            CHECK(wireOhms(thin, Celsius{20}) > wireOhms(*wire, Celsius{20}));
            // At one charge, in one mode, with loads that take a current whatever they see.
            const OperatingPoint now = operate(p, typicalConditions(p), 0.6, p.baseMode());
            const OperatingPoint then =
                operate(thinner, typicalConditions(thinner), 0.6, p.baseMode());
            if (now.collapse || then.collapse)
                continue;
            const StageFlow& a = now.flows.stages[s];
            const StageFlow& b = then.flows.stages[s];
            if (a.iOut <= 0 || std::abs(b.iOut - a.iOut) > 1e-6 * a.iOut)
                continue;
            INFO(p.name << ": " << p.stages[s].id);
            CHECK(b.vIn - b.vOut >= (a.vIn - a.vOut) * (1 - 1e-9));
            ++looked;
        }
    }
    CHECK(looked > 10);
}

TEST_CASE("one thread or two, an edit's analysis says the same", "[analysis][properties]") {
    test::RandomProjects random(35);
    for (int i = 0; i < kProjects / 4; ++i) {
        const Project p = random.next();
        INFO(i << " from " << random.from());
        const QuickAnalysis one = analyseQuick(p, {}, {}, serialFor);
        const QuickAnalysis two = analyseQuick(p);
        CHECK(one.runtime.hours.has_value() == two.runtime.hours.has_value());
        if (one.runtime.hours)
            CHECK(one.runtime.hours->value() == two.runtime.hours->value());
        REQUIRE(one.findings.size() == two.findings.size());
        for (std::size_t f = 0; f < one.findings.size(); ++f) {
            CHECK(one.findings[f].rule == two.findings[f].rule);
            CHECK(one.findings[f].subject == two.findings[f].subject);
            CHECK(one.findings[f].says == two.findings[f].says);
            CHECK(one.findings[f].numbers == two.findings[f].numbers);
            CHECK(one.findings[f].fix.has_value() == two.findings[f].fix.has_value());
        }
        REQUIRE(one.bench->checks.size() == two.bench->checks.size());
        for (std::size_t c = 0; c < one.bench->checks.size(); ++c) {
            CHECK(one.bench->checks[c].expect == two.bench->checks[c].expect);
            CHECK(one.bench->checks[c].coverageLow == two.bench->checks[c].coverageLow);
        }
        REQUIRE(one.protect->guards.size() == two.protect->guards.size());
        for (std::size_t g = 0; g < one.protect->guards.size(); ++g) {
            CHECK(one.protect->guards[g].minHysteresis == two.protect->guards[g].minHysteresis);
            CHECK(one.protect->guards[g].leastWhen == two.protect->guards[g].leastWhen);
            CHECK(one.protect->guards[g].usual.cutHours == two.protect->guards[g].usual.cutHours);
        }
    }
}

TEST_CASE("an analysis that is asked to stop answers with what it has, and soon",
          "[analysis][properties]") {
    const Project p = test::example("nest-box-listener");
    std::stop_source stop;
    stop.request_stop();
    const QuickAnalysis cut = analyseQuick(p, {}, stop.get_token());
    CHECK(cut.runtime.hours); // what is asked for first
    CHECK(cut.findings.empty());
    CHECK(cut.charges.empty());
    CHECK_FALSE(cut.bench);
    CHECK_FALSE(analyseDeep(p, analyseQuick(p), stop.get_token()));
}
