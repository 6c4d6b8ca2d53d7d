// SPDX-License-Identifier: GPL-3.0-or-later
// A bench with a fault in it, and whether its readings point at the part.
#include "measure/plantedfault.hpp"
#include "project/tree.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

/// The project with every check read as the faulty bench shows it.
Project readOn(const Project& project, const std::vector<PlantedFault>& faults) {
    const BenchAnalysis bench = analyseBench(project);
    const auto read = FaultyBench(project, faults).read(bench.checks, bench.charge, Celsius{20});
    Project out = project;
    out.readings = {};
    for (std::size_t i = 0; i < read.size(); ++i) {
        const BenchCheck& c = bench.checks[i];
        Reading r;
        r.id = "r" + std::to_string(i + 1);
        r.checks = c.kind;
        r.at = c.at;
        r.mode = c.mode;
        if (c.kind == CheckKind::point)
            r.quantity = c.quantity;
        const double value = read[i].value_or(0);
        switch (unitRead(c.kind, c.quantity)) {
        case Unit::volt:
            r.volts = Volts{value};
            break;
        case Unit::ampere:
            r.amps = Amps{value};
            break;
        default:
            r.celsius = Celsius{value};
        }
        r.when = "2026-01-01T10:00";
        out.readings = out.readings.with(std::move(r));
    }
    return out;
}

} // namespace

TEST_CASE("a right build reads inside every band", "[bench][fault]") {
    for (const char* name :
         {"nest-box-listener", "greenhouse-vent-opener", "lake-parade-lantern"}) {
        const Project p = readOn(test::example(name), {});
        INFO(name);
        const BenchAnalysis bench = analyseBench(p);
        CHECK(bench.count(CheckVerdict::outside) == 0);
        CHECK(bench.count(CheckVerdict::inside) > 5);
        CHECK(suspectsOf(p, bench).empty());
        CHECK(suspectText(p, bench).empty());
    }
}

TEST_CASE("a fault is read in its forms, and refused where the part can't have it",
          "[bench][fault]") {
    const Project p = test::example("greenhouse-vent-opener");
    const auto read = [&](const char* text) { return readFault(p, text); };
    REQUIRE(read("guard=open"));
    CHECK(read("guard=open").value() == PlantedFault{"guard", FaultKind::failsOpen, {}});
    CHECK(read("guard=mis_set:5.5 V").value().volts == 5.5);
    CHECK(writeFault(read("guard=mis_set:5.5").value()) == "guard=mis_set:5.5");
    CHECK(faultSentence(p, read("guard=short").value()) == "Guard is shorted through");
    for (const char* bad : {"", "guard", "=open", "guard=melted", "guard=mis_set:", "guard=open:3",
                            "guard=mis_set:-1 V"}) {
        INFO(bad);
        REQUIRE_FALSE(read(bad));
        CHECK(read(bad).error().code == "fault");
    }
    CHECK(read("nobody=open").error().code == "dangling_id");
    CHECK(read((p.packStage()->id + "=short").c_str()).error().code == "kind");
}

TEST_CASE("behind what is open nothing is read; what is joined through passes its input",
          "[bench][fault]") {
    const Project p = test::example("nest-box-listener");
    const BenchAnalysis bench = analyseBench(p);
    const FaultyBench open(p, {{"guard", FaultKind::failsOpen, {}}});
    CHECK(open.isUnpowered("boost12"));
    CHECK_FALSE(open.isUnpowered("cells"));
    for (const BenchCheck& c : bench.checks) {
        INFO(c.id());
        const auto read = open.read(c, 1, Celsius{20});
        REQUIRE(read);
        if (c.at != "cells" && c.kind != CheckKind::warmest)
            CHECK(*read == 0);
    }
    const FaultyBench joined(p, {{"logic33", FaultKind::failsShort, {}}});
    for (const BenchCheck& c : bench.checks)
        if (c.kind == CheckKind::setPoint && c.at == "logic33")
            CHECK(joined.read(c, 1, Celsius{20}).value_or(0) > 3.8); // what the cells give
}

TEST_CASE("the readings of a planted fault point at its part", "[bench][fault]") {
    int parts = 0;
    for (const char* name :
         {"nest-box-listener", "greenhouse-vent-opener", "lake-parade-lantern"}) {
        const Project p = test::example(name);
        const std::vector<PlantedFault> faults = noticeableFaults(p);
        REQUIRE(faults.size() >= 5);
        for (const PlantedFault& fault : faults) {
            INFO(name << ": " << writeFault(fault));
            const Project read = readOn(p, {fault});
            const BenchAnalysis bench = analyseBench(read);
            if (bench.count(CheckVerdict::outside) == 0)
                continue; // the cells' own reading has moved the bands
            const std::vector<Suspect> suspects = suspectsOf(read, bench);
            REQUIRE_FALSE(suspects.empty());
            // Of parts in a row that are open one can't tell which: it is among the first.
            CHECK(std::any_of(suspects.begin(), suspects.end(), [&](const Suspect& s) {
                return s.fault.stage == fault.stage && s.explained == suspects[0].explained;
            }));
            ++parts;
        }
    }
    CHECK(parts > 20);
}

TEST_CASE("readings of another supply are said to be that", "[bench][fault]") {
    Project p = readOn(test::example("nest-box-listener"), {});
    std::vector<Reading> all(p.readings.all().begin(), p.readings.all().end());
    p.readings = {};
    for (std::size_t i = 0; i < all.size(); ++i) {
        // The pack's volts, wherever it should have been.
        if (all[i].volts)
            all[i].volts = Volts{7.7};
        if (all[i].amps)
            all[i].amps = Amps{3.1 + 0.2 * static_cast<double>(i)};
        p.readings = p.readings.with(std::move(all[i]));
    }
    const BenchAnalysis bench = analyseBench(p);
    CHECK(readsStrange(bench));
    CHECK_THAT(suspectText(p, bench), Catch::Contains("can't be of this supply"));
}
