// SPDX-License-Identifier: GPL-3.0-or-later
// What the library's cells deliver at the rates that people use them at, beside what careful
// measurements of such cells give. The spread is theirs, not the model's.
#include "improve/swaps.hpp"
#include "line/operating.hpp"
#include "project/library.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

/// Ah from full down to so many volts a cell at 20 degrees and a constant current of one cell.
double delivered(const std::string& name, double amps, double voltsPerCell) {
    static const Library library = loadLibrary();
    for (const LibraryPart& part : library.parts) {
        if (part.name != name)
            continue;
        Project p = test::idealProject(1, 1);
        p.stages[0].part = part.stage.part;
        Pack& pack = test::packOf(p);
        pack.series = 1;
        pack.parallel = 1;
        p.brief.ambient = Ambient{{}, Celsius{20}, {}, {}};
        p.loads.push_back(test::loadOf("load", "cells", voltsPerCell, 1000));
        p.loads[0].draws = {test::currentDraw("on", amps)};
        const Runtime r = predictRuntime(p);
        REQUIRE(r.hours);
        return r.hours->value() * amps;
    }
    FAIL("no cell " << name);
    return 0;
}

struct Expected {
    const char* cell;
    double amps;
    double downTo; ///< V a cell
    double ah;
};

} // namespace

TEST_CASE("cells deliver what careful people measure", "[library]") {
    const std::vector<Expected> table{
        // Coin cells: bound charge follows slowly.
        {"manganese-dioxide-cr2032-0.22", 0.0002, 2.0, 0.215},
        {"manganese-dioxide-cr2032-0.22", 0.003, 2.0, 0.16},
        {"manganese-dioxide-cr2032-0.22", 0.010, 2.0, 0.12},
        {"manganese-dioxide-cr2032-0.22", 0.015, 2.0, 0.11},
        // Thionyl: bobbins.
        {"thionyl-aa-2.4", 0.002, 2.0, 2.35},
        {"thionyl-aa-2.4", 0.020, 2.0, 2.0},
        {"thionyl-aa-2.4", 0.060, 2.0, 1.5},
        {"thionyl-d-19", 0.2, 2.0, 11},
        // Alkaline: all of it slowly, a third at an amp.
        {"alkaline-aa-2.6", 0.025, 0.8, 2.55},
        {"alkaline-aa-2.6", 0.1, 0.8, 2.3},
        {"alkaline-aa-2.6", 0.25, 0.8, 1.9},
        {"alkaline-aa-2.6", 0.5, 0.8, 1.45},
        {"alkaline-aa-2.6", 1.0, 0.8, 0.9},
        {"block-9v-alkaline", 0.01, 0.8, 0.54},
        {"block-9v-alkaline", 0.1, 0.8, 0.36},
        // Lead, Peukert's way.
        {"lead-acid-7.0", 0.35, 1.75, 7.0},
        {"lead-acid-7.0", 7, 1.6, 7 * 0.667},
        {"lead-acid-7.0", 21, 1.5, 7 * 0.4},
        // What is made for it gives nearly all.
        {"nimh-aa-2.0", 0.4, 0.9, 2.0},
        {"nimh-aa-2.0", 4, 0.9, 1.75},
        {"disulphide-aa-3.0", 0.025, 0.9, 3.0},
        {"disulphide-aa-3.0", 1, 0.9, 2.75},
        {"nickel-cobalt-18650-3.0", 0.6, 2.5, 3.0},
        {"nickel-cobalt-18650-3.0", 6, 2.5, 2.8},
        {"nickel-cobalt-18650-2.5-power", 20, 2.5, 2.25},
        {"iron-phosphate-26650-3.3", 10, 2.0, 3.1},
    };
    for (const Expected& e : table) {
        INFO(e.cell << " at " << e.amps << " A");
        CHECK(delivered(e.cell, e.amps, e.downTo) == Approx(e.ah).epsilon(0.15));
    }
}

TEST_CASE("a block is one part: it comes whole, in as many as come nearest", "[library]") {
    const Library library = loadLibrary();
    const auto find = [&](const std::string& name) -> const LibraryPart& {
        for (const LibraryPart& part : library.parts)
            if (part.name == name)
                return part;
        FAIL("no part " << name);
        return library.parts.front();
    };
    Project p = test::idealProject(3.7, 2);
    test::packOf(p).series = 3;
    test::packOf(p).cell.nominal = Volts{3.7};
    const auto taken = [&](const std::string& name, double series) {
        const Project q = withSwap(p, "cells", find(name), series);
        return std::get<Pack>(q.stage("cells")->part);
    };
    CHECK(taken("block-12v-lead-7", 0).series == 6);
    CHECK(taken("block-9v-alkaline", 0).series == 6);
    CHECK(taken("block-6v-lead-4.5", 0).series == 6); // two of them
    CHECK(taken("block-12v-lead-7", 3).series == 6);  // never half a block
    CHECK(taken("tool-pack-18v-4.0", 0).series == 5);
    CHECK(taken("tool-pack-18v-4.0", 0).parallel == 2);
    CHECK(taken("nickel-cobalt-18650-3.0", 0).series == 3);
    // Every capacitor stores what its farads say.
    for (const LibraryPart& part : library.parts)
        if (part.name.starts_with("supercapacitor-")) {
            const auto& cell = std::get<Pack>(part.stage.part).cell;
            const double farads = std::stod(part.name.substr(15));
            CHECK(cell.capacity.value() * 3600 / 2.7 == Approx(farads).epsilon(0.01));
        }
}

TEST_CASE("converters burn what a meter finds", "[library]") {
    const Library library = loadLibrary();
    const auto efficiency = [&](const std::string& name, double in, double out, double amps) {
        for (const LibraryPart& part : library.parts) {
            if (part.name != name)
                continue;
            Project p = test::idealProject(in, 10);
            Stage stage = part.stage;
            stage.id = "part";
            stage.fedBy = {"cells"};
            REQUIRE(setPointTo(stage.part, Volts{out}));
            p.stages.push_back(stage);
            p.loads.push_back(test::loadOf("load", "part", 0.1, 100));
            p.loads[0].draws = {test::currentDraw("on", amps)};
            const StageFlow f = operate(p, typicalConditions(p), 1, 0).flows.stages[1];
            return f.vOut * f.iOut / (f.vIn * f.iIn);
        }
        FAIL("no part " << name);
        return 0.0;
    };
    CHECK(efficiency("buck-3a-module", 12, 5, 2) == Approx(0.81).margin(0.02));
    CHECK(efficiency("buck-2a-low-quiescent", 12, 5, 2) == Approx(0.91).margin(0.015));
    CHECK(efficiency("buck-1a-high-input", 48, 5, 0.5) == Approx(0.80).margin(0.02));
    CHECK(efficiency("boost-one-cell-100ma", 1.2, 3.3, 0.05) == Approx(0.80).margin(0.02));
    CHECK(efficiency("buck-300ma-nano", 3.6, 1.8, 1e-4) == Approx(0.88).margin(0.02));
    // It grows with the input's volts, and nothing gives more than it takes.
    CHECK(efficiency("buck-3a-module", 30, 5, 2) < efficiency("buck-3a-module", 12, 5, 2));
    for (const LibraryPart& part : library.parts)
        if (isRegulator(part.stage.part) && kindOf(part.stage.part) == Kind::buck &&
            inputMinOf(part.stage.part) < 6)
            CHECK(efficiency(part.name, 6, 1.8, 0.1) < 0.985);
}
