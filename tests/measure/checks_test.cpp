// SPDX-License-Identifier: GPL-3.0-or-later
// What the bench expects and says.
#include "measure/text.hpp"
#include "support.hpp"

using namespace sipper;
using namespace sipper::test;

namespace {

const BenchCheck* checkOf(const BenchAnalysis& look, const std::string& id) {
    const auto at = std::find_if(look.checks.begin(), look.checks.end(),
                                 [&](const BenchCheck& c) { return c.id() == id; });
    return at == look.checks.end() ? nullptr : &*at;
}

Reading reading(const char* id, CheckKind kind, const char* at, double volts) {
    Reading r;
    r.id = id;
    r.checks = kind;
    r.at = at;
    r.volts = Volts{volts};
    return r;
}

} // namespace

TEST_CASE("checks, bands and verdicts of the reference bench", "[bench][reference]") {
    const Project p = test::reference("orrery-drive");
    const Json file = test::json(test::file("reference/orrery-drive.bench.expected.json"));
    for (const Json& run : file["runs"]) {
        const Json& expected = run["expect"];
        const Json& tolerance = run.contains("tolerance") ? run["tolerance"] : file["tolerance"];
        const BenchAnalysis look = analyseBench(p);
        CHECK(look.charge == Approx(expected["charge"].get<double>()).margin(0.005));
        CHECK(Json(look.superseded) == expected["superseded"]);
        CHECK(Json(look.unmatched) == expected["unmatched"]);
        REQUIRE(look.checks.size() == expected["checks"].size());
        for (std::size_t i = 0; i < look.checks.size(); ++i) {
            const BenchCheck& c = look.checks[i];
            const Json& e = expected["checks"][i];
            INFO(c.id());
            CHECK(c.id() == e["id"].get<std::string>());
            CHECK(nameOf(c.quantity) == e["quantity"].get<std::string>());
            CHECK(verdictName(c.verdict) == e["verdict"].get<std::string>());
            CHECK((c.mode.empty() ? Json() : Json(c.mode)) == e["mode"]);
            CHECK((c.reading.empty() ? Json() : Json(c.reading)) == e["reading"]);
            REQUIRE(c.expect);
            const double expect = e["expect"];
            CHECK(*c.expect == Approx(expect)
                                   .epsilon(tolerance["expect"]["rel"].get<double>())
                                   .margin(tolerance["expect"]["abs"].get<double>()));
            const double width = e["high"].get<double>() - e["low"].get<double>();
            const double slack = tolerance["edge_of_width"].get<double>() * width +
                                 tolerance["edge_rel"].get<double>() * std::abs(expect);
            // Measured: far inside what the case allows.
            CHECK(std::abs(c.coverageLow - e["low"].get<double>()) < slack);
            CHECK(std::abs(c.coverageHigh - e["high"].get<double>()) < slack);
        }
    }
}

TEST_CASE("a band is what its limits make of it, by hand", "[bench]") {
    // A cell of 4 V behind 0.5 ohm, 100 mA by data sheet: volts at the load are 4 - 0.05.
    Project p = test::idealProject(4, 2);
    std::get<Pack>(p.stages[0].part).cell.resistance = Ohms{0.5};
    p.loads.push_back(test::loadOf("load", "cells", 3, 5));
    p.loads[0].draws.push_back(test::currentDraw("on", 0.1));
    p.loads[0].draws[0].basis = Basis::dataSheet;
    const BenchAnalysis look = analyseBench(p);
    const BenchCheck* sag = checkOf(look, "sag/load/on");
    REQUIRE(sag);
    CHECK(*sag->expect == Approx(3.95));
    const double cells = 0.25 * 0.05;
    const double draw = 0.15 * 0.05;
    const double meter = 0.005 * 3.95 + 0.005;
    const double sigma = std::sqrt((cells * cells + draw * draw + meter * meter) / 3);
    CHECK(sag->coverageHigh == Approx(3.95 + 2 * sigma));
    CHECK(sag->coverageLow == Approx(3.95 - 2 * sigma));
    const BenchCheck* idle = checkOf(look, "idle/cells/on");
    REQUIRE(idle);
    const double amps = std::sqrt((0.015 * 0.015 + std::pow(0.0015 + 2e-6, 2)) / 3);
    CHECK(idle->coverageHigh == Approx(0.1 + 2 * amps));
    // Nothing else is in doubt, and nothing more is asked.
    CHECK(look.checks.size() == 4);
    // A measured resistance is known five times as well.
    std::get<Pack>(p.stages[0].part).measuredResistance = Ohms{0.5};
    const BenchAnalysis known = analyseBench(p);
    CHECK(checkOf(known, "sag/load/on")->coverageHigh < sag->coverageHigh);
}

TEST_CASE("the latest standing reading counts, and a reversed pack is outside", "[bench]") {
    Project p = test::idealProject(4, 2);
    p.loads.push_back(test::loadOf("load", "cells", 3, 5));
    p.loads[0].draws.push_back(test::currentDraw("on", 0.1));
    Reading first = reading("a", CheckKind::openCircuit, "cells", 3.2);
    first.when = "2031-04-02T10:00";
    Reading earlier = reading("b", CheckKind::openCircuit, "cells", 3.9);
    earlier.when = "2031-04-01T10:00";
    p.readings = Readings({first, earlier});
    BenchAnalysis look = analyseBench(p);
    CHECK(look.checks[0].reading == "a");
    CHECK(look.checks[0].verdict == CheckVerdict::outside);
    Reading corrected = reading("c", CheckKind::openCircuit, "cells", 3.99);
    corrected.supersedes = "a";
    p.readings = p.readings.with(corrected);
    look = analyseBench(p);
    // Without a time it is the earliest.
    CHECK(look.checks[0].reading == "b");
    CHECK(look.superseded == std::vector<std::string>{"a"});
    p.readings = Readings({reading("d", CheckKind::openCircuit, "cells", -4)});
    CHECK(analyseBench(p).checks[0].verdict == CheckVerdict::outside);
    p.readings = Readings({reading("e", CheckKind::cutoff, "cells", 3)});
    CHECK(analyseBench(p).unmatched == std::vector<std::string>{"e"});
}

TEST_CASE("on a collapse nothing is expected, and nothing is judged", "[bench]") {
    Project p = test::idealProject(4, 2);
    std::get<Pack>(p.stages[0].part).cell.resistance = Ohms{5};
    p.loads.push_back(test::loadOf("load", "cells", 3, 5));
    p.loads[0].draws.push_back(test::powerDraw("on", 10));
    const BenchAnalysis look = analyseBench(p);
    const BenchCheck* idle = checkOf(look, "idle/cells/on");
    REQUIRE(idle);
    CHECK_FALSE(idle->expect);
    CHECK(idle->verdict == CheckVerdict::untested);
    CHECK(checkBand(*idle) == "the supply collapses");
}

TEST_CASE("spans are written with the digits that tell their ends apart", "[bench]") {
    CHECK(writeSpan(0.11, 0.15, Unit::ampere) == "110 – 150 mA");
    CHECK(writeSpan(11.81, 12.19, Unit::volt) == "11.81 – 12.19 V");
    CHECK(writeSpan(20.41, 21.02, Unit::volt) == "20.41 – 21.02 V");
    CHECK(writeSpan(2.2e-6, 4.4e-6, Unit::ampere) == "2.2 – 4.4 µA");
    CHECK(writeSpan(22.2, 28.9, Unit::celsius) == "22 – 29 °C");
}
