// SPDX-License-Identifier: GPL-3.0-or-later
// One regulator by itself: losses, limits, labels, and fitting its loss terms.
#include "line/lossfit.hpp"
#include "line/partcurves.hpp"
#include "parts/fields.hpp"
#include "parts/figures.hpp"
#include "support.hpp"

#include <cmath>

using namespace sipper;
using namespace sipper::test;

namespace {

Stage regulator(Topology topology, double set) {
    Switcher s;
    s.topology = topology;
    s.set = Volts{set};
    s.quiescent = Amps{1e-3};
    s.fixed = Watts{0.05};
    s.drop = Volts{0.1};
    s.resistance = Ohms{0.1};
    s.switchLimit = Amps{3};
    s.thermal = KelvinPerWatt{40};
    s.maxPart = Celsius{105};
    return stageOf("part", s, "source");
}

} // namespace

TEST_CASE("losses split into what the model adds", "[partcurves]") {
    for (const auto& [topology, volts, set] :
         {std::tuple(Topology::buck, 12.0, 5.0), std::tuple(Topology::boost, 3.7, 5.0),
          std::tuple(Topology::buckBoost, 9.0, 12.0)}) {
        const Stage stage = regulator(topology, set);
        const PartPoint p = partAt(stage, volts, 0.8);
        REQUIRE(p.works);
        const LossSplit s = lossSplit(stage, p.flow);
        CHECK(s.total() == Approx(p.flow.loss()));
        CHECK(s.quiescent == Approx(1e-3 * volts));
        CHECK(s.fixed == Approx(0.05));
        CHECK(s.drop == Approx(0.1 * p.flow.inductor));
        CHECK(p.efficiency() == Approx(set * 0.8 / (set * 0.8 + s.total())));
    }
    Linear linear;
    linear.set = Volts{5};
    linear.ground = Amps{0.005};
    const Stage stage = stageOf("part", linear, "source");
    const LossSplit s = lossSplit(stage, partAt(stage, 9, 0.5).flow);
    CHECK(s.drop == Approx(2));
    CHECK(s.quiescent == Approx(0.045));
}

TEST_CASE("a boost gives less at a low input, a hot part less in hot air", "[partcurves]") {
    const Stage boost = regulator(Topology::boost, 5);
    double before = 0;
    for (const double volts : {2.5, 3.0, 3.6, 4.2}) {
        const double most = mostOutput(boost, volts);
        // V_in I_L = P_out + fixed + drop I_L + R I_L^2 at the switch's 3 A.
        CHECK(most == Approx((volts * 3 - 0.05 - 0.1 * 3 - 0.1 * 9) / 5).epsilon(1e-3));
        CHECK(most > before);
        before = most;
    }
    const double cool = coolUpTo(boost, 3.6, Celsius{25});
    const double hot = coolUpTo(boost, 3.6, Celsius{60});
    CHECK(hot < cool);
    CHECK(partTemperature(boost.part, partAt(boost, 3.6, hot).flow.loss(), 60) ==
          Approx(105).epsilon(1e-3));
    Stage blown = boost;
    active(blown.part)->fan = true;
    CHECK(coolUpTo(blown, 3.6, Celsius{60}) > hot);
    Stage unknown = boost;
    std::get<Switcher>(unknown.part).maxPart.reset();
    CHECK(std::isinf(coolUpTo(unknown, 3.6, Celsius{60})));
}

TEST_CASE("a label is read, and said what it means here", "[partcurves]") {
    const auto label = readLabel("5 A, 40 W, 95 %");
    REQUIRE(label);
    CHECK(label.value().amps == Approx(5));
    CHECK(label.value().watts == Approx(40));
    CHECK(label.value().efficiency == Approx(0.95));
    CHECK(readLabel("95 %, 3A").value().amps == Approx(3));
    CHECK(readLabel("fast").error().code == "label");
    CHECK(readLabel("").error().code == "label");
    CHECK(readLabel("5").error().code == "label"); // five what?
    const std::string up = labelMeans(regulator(Topology::boost, 12), label.value(), 3.6);
    CHECK_THAT(up, Catch::Contains("what its switch carries") &&
                       Catch::Contains("from 3.60 V in that leaves 1.43 A at 12.0 V"));
    const std::string down = labelMeans(regulator(Topology::buck, 12), label.value(), 20);
    CHECK_THAT(down, Catch::Contains("half of that for good") &&
                         Catch::Contains("40.0 W are 3.33 A at 12.0 V: that bites first"));
}

TEST_CASE("loss terms are found again from points of a known part", "[lossfit]") {
    for (const Topology topology : {Topology::buck, Topology::boost, Topology::buckBoost}) {
        const double set = topology == Topology::boost ? 12 : 5;
        const Stage stage = regulator(topology, set);
        std::vector<LossPoint> points;
        for (const double volts : topology == Topology::boost ? std::vector{3.3, 5.0, 8.0}
                                                              : std::vector{3.3, 6.0, 12.0, 20.0})
            for (const double amps : {0.01, 0.1, 0.3, 0.6}) {
                const PartPoint p = partAt(stage, volts, amps);
                if (p.works && p.flow.vOut > 0.99 * set)
                    points.push_back({volts, p.flow.vOut, amps, p.flow.iIn});
            }
        REQUIRE(points.size() > 6);
        const auto fit = fitLosses(topology, points);
        REQUIRE(fit);
        // On a step-up the model's inductor current leaves out the quiescent part, a reading's
        // input current holds it: a milliamp in some hundred.
        CHECK(fit.value().quiescent == Approx(1e-3).epsilon(0.05));
        CHECK(fit.value().fixed == Approx(0.05).epsilon(0.05));
        CHECK(fit.value().drop == Approx(0.1).epsilon(0.05));
        CHECK(fit.value().resistance == Approx(0.1).epsilon(0.05));
        CHECK(fit.value().worst < 0.002);
    }
}

TEST_CASE("no loss term is ever negative, and nonsense is refused", "[lossfit]") {
    // Efficiency that rises with current for ever wants a negative resistance.
    const auto fit =
        fitLosses(Topology::buck,
                  {{12, 5, 0.1, 0.06}, {12, 5, 0.5, 0.24}, {12, 5, 1.0, 0.45}, {12, 5, 2.0, 0.86}});
    REQUIRE(fit);
    for (const double term :
         {fit.value().quiescent, fit.value().fixed, fit.value().drop, fit.value().resistance})
        CHECK(term >= 0);
    CHECK(fit.value().efficiency.size() == 4);
    CHECK(fitLosses(Topology::buck, {{12, 5, 1, 0.5}}).error().code == "few");
    const auto wrong = fitLosses(Topology::buck, {{12, 5, 1, 0.5}, {12, 5, 1, 0.3}, {12, 5, 2, 1}});
    CHECK(wrong.error().where == "row 2");
    const auto points =
        readLossPoints("12 V; 5 V; 100 mA; 88 %\n12\t5\t0.5\t0.9\n\n12, 5, 1, 470mA\n");
    REQUIRE(points);
    REQUIRE(points.value().size() == 3);
    CHECK(points.value()[0].efficiency() == Approx(0.88));
    CHECK(points.value()[1].efficiency() == Approx(0.9));
    CHECK(points.value()[2].iIn == Approx(0.47));
    CHECK(readLossPoints("12, 5, 1\n").error().where == "row 1");
    CHECK(readLossPoints("12, 5, 1, 0.9\n12, x, 1, 0.9").error().where == "row 2");
}
