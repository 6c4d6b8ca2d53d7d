// SPDX-License-Identifier: GPL-3.0-or-later
// The line at one moment with its chargers at work, and chargers put on it.
#include "charge/operating.hpp"
#include "project/build.hpp"
#include "project/tree.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

OperatingPoint live(const Project& p, std::vector<std::string> present, const char* mode) {
    Conditions c = typicalConditions(p);
    c.pluggedIn = std::move(present);
    return operateWithChargers(p, c, 0.6, modeIndex(p, mode));
}

} // namespace

TEST_CASE("plugged in, the source carries device and charger, and the pack takes the rest",
          "[charge]") {
    const Project p = test::example("moth-counter");
    const auto at = [&](const char* id) { return stageIndex(p, id); };
    const OperatingPoint off = live(p, {}, "wait");
    CHECK(off.flows.stages[at("topper")].iOut == 0);
    CHECK(off.flows.sourceAmps > 0);
    const OperatingPoint on = live(p, {"socket"}, "wait");
    const StageFlow& charger = on.flows.stages[at("topper")];
    const StageFlow& socket = on.flows.stages[at("socket")];
    const StageFlow& pack = on.flows.stages[at("cells")];
    const StageFlow& path = on.flows.stages[at("path")];
    CHECK(socket.iOut == Approx(0.5).epsilon(1e-6)); // all that it gives
    CHECK(socket.iOut == Approx(charger.iIn + path.iIn).epsilon(1e-6));
    CHECK(pack.iOut == Approx(on.flows.sourceAmps));
    // The guard's own use is all that the pack still gives: the rest flows into it.
    CHECK(-pack.iOut == Approx(charger.iOut - on.flows.stages[at("fuse")].iIn).epsilon(1e-6));
    CHECK(pack.vOut > off.flows.stages[at("cells")].vOut);
    CHECK(on.partC[at("topper")] > 14);
    // With the lamp lit the charger gets what is left.
    const OperatingPoint lit = live(p, {"socket"}, "lure");
    CHECK(lit.flows.stages[at("topper")].iOut < 0.2);
    CHECK(lit.flows.loads[loadIndex(p, "lamp")].v > 4.8);
    CHECK(lit.inside[loadIndex(p, "lamp")]);
}

TEST_CASE("a charger that can't charge stays off", "[charge]") {
    Project p = test::example("moth-counter");
    std::get<Charger>(p.stage("topper")->part).topology = Topology::boost;
    const OperatingPoint on = live(p, {"socket"}, "wait");
    CHECK(on.flows.stages[stageIndex(p, "topper")].iOut == 0);
}

TEST_CASE("a charger put on a source suits source and pack", "[build]") {
    struct Case {
        Part source;
        double series;
        Chemistry chemistry;
        double fullVolts;
        Topology topology;
    };
    const auto adapter = [](double volts) {
        Adapter a;
        a.set = Volts{volts};
        a.limit = Amps{3};
        return a;
    };
    for (const Case& c :
         {Case{Usb{Amps{1.5}}, 1, Chemistry::nickelCobalt, 4.2, Topology::linear},
          Case{Usb{Amps{1.5}}, 2, Chemistry::nickelCobalt, 4.2, Topology::buckBoost},
          Case{Usb{Amps{1.5}}, 3, Chemistry::nickelCobalt, 4.2, Topology::boost},
          Case{adapter(19), 3, Chemistry::nickelCobalt, 4.2, Topology::buck},
          Case{adapter(12), 1, Chemistry::ironPhosphate, 3.65, Topology::buck},
          Case{adapter(19), 6, Chemistry::leadAcid, 2.14, Topology::buck}}) {
        Project p = test::example("nest-box-listener");
        auto& pack = std::get<Pack>(p.stage(p.packStage()->id)->part);
        pack.series = c.series;
        pack.cell.chemistry = c.chemistry;
        pack.cell.full = Volts{c.fullVolts};
        const double half = 0.5 * pack.cell.capacity.value() * pack.parallel;
        p = withSource(p, test::stageOf("wall", c.source, ""));
        p.stage("wall")->fedBy.clear();
        REQUIRE_FALSE(whyNotCharger(p, "wall"));
        const Project with = withCharger(p, "wall");
        REQUIRE(with.stages.size() == p.stages.size() + 1);
        const auto& charger = std::get<Charger>(with.stages.back().part);
        CHECK(charger.charges == p.packStage()->id);
        CHECK(nameOf(*charger.topology) == nameOf(c.topology));
        CHECK(charger.chargeVoltage->value() == Approx(c.series * c.fullVolts));
        CHECK(charger.chargeCurrent->value() <= half + 1e-9);
        CHECK(chargeOf(with, {}).value().failure != ChargeFailure::wrongTopology);
    }
    const Project p = test::example("nest-box-listener");
    CHECK_THAT(*whyNotCharger(p, p.packStage()->id), Catch::Contains("besides it"));
    CHECK_THAT(*whyNotCharger(p, p.loads[0].id), Catch::Contains("feeds nothing"));
}
