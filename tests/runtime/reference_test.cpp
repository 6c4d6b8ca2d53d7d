// SPDX-License-Identifier: GPL-3.0-or-later
// The reference cases, each figure within its own tolerance.
#include "line/operating.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

const std::vector<std::string> kCases{"stall-lantern", "kiln-probe", "meadow-node",
                                      "street-choir",  "peat-probe", "pergola-strings",
                                      "gong-hammer"};

bool near(double value, double expected, double relative, double absolute = 1e-12) {
    return std::abs(value - expected) <= relative * std::abs(expected) + absolute;
}

} // namespace

TEST_CASE("runtimes, ends and ledgers of the reference cases", "[reference]") {
    const auto name = GENERATE(from_range(kCases));
    INFO(name);
    const Project p = test::reference(name);
    const Json expected = test::json(test::file("reference/" + name + ".expected.json"));
    const Json& run = expected["runtime"];
    const Json& tolerance = expected["tolerance"];
    const Runtime r = predictRuntime(p);
    REQUIRE(r.hours);
    CHECK(near(r.hours->value(), run["runtime_h"], tolerance["runtime"]));
    CHECK(r.ending.at == run["ended_by"]["at"].get<std::string>());
    CHECK(r.ending.mode == run["ended_by"]["mode"].get<std::string>());
    CHECK(reasonName(r.ending.reason) == run["ended_by"]["reason"].get<std::string>());
    CHECK(near(r.meanPower.value(), run["mean_pack_power_w"], tolerance["power"]));
    CHECK(r.worstMode == run["worst"]["mode"].get<std::string>());
    CHECK(near(r.worstCurrent.value(), run["worst"]["pack_current_a"], tolerance["worst_current"]));
    const Json& wh = run["ledger_wh"];
    const double nameplate = wh["nameplate"];
    const double slack = tolerance["ledger_of_nameplate"].get<double>() * nameplate;
    CHECK(near(r.ledger.nameplate, nameplate, 1e-6));
    CHECK(near(r.ledger.coldAndAge, wh["cold_and_age"], 0, slack));
    CHECK(near(r.ledger.leftInPack, wh["left_in_pack"], 0, slack));
    CHECK(near(r.ledger.packLoss, wh["pack_loss"], 0, slack));
    CHECK(near(r.ledger.selfDischarge, wh["self_discharge"], 0, slack));
    for (const auto& [id, value] : wh["stages"].items())
        CHECK(near(r.ledger.stages.at(id), value, 0, slack));
    for (const auto& [id, value] : wh["loads"].items())
        CHECK(near(r.ledger.loads.at(id), value, 0, slack));
    CHECK(std::abs(r.ledger.imbalance()) < tolerance["balance"].get<double>());
    for (const Json& point : run["curve"]) {
        const double h = point[0];
        auto after = std::lower_bound(r.curve.begin(), r.curve.end(), h,
                                      [](const CurvePoint& c, double t) { return c.hours < t; });
        if (after == r.curve.end())
            after = r.curve.end() - 1;
        const auto before = after == r.curve.begin() ? after : after - 1;
        const double span = after->hours - before->hours;
        const double share = span > 0 ? (h - before->hours) / span : 0;
        INFO("at " << h << " h");
        CHECK(near(before->charge + share * (after->charge - before->charge), point[1], 0, 0.003));
        CHECK(near(before->packVolts + share * (after->packVolts - before->packVolts), point[2],
                   tolerance["voltage"]));
    }
}

TEST_CASE("operating points of the reference cases", "[reference]") {
    const auto name = GENERATE(from_range(kCases));
    const Project p = test::reference(name);
    const Json expected = test::json(test::file("reference/" + name + ".expected.json"));
    const Json& tolerance = expected["tolerance"];
    for (const Json& at : expected["operate"]) {
        INFO(name << " " << at["charge"] << " " << at["mode"]);
        const auto mode =
            static_cast<std::size_t>(p.mode(at["mode"].get<std::string>()) - p.modes.data());
        const OperatingPoint point = operate(p, typicalConditions(p), at["charge"], mode);
        REQUIRE_FALSE(point.collapse);
        for (std::size_t i = 0; i < p.stages.size(); ++i) {
            const Json& e = at["result"]["stages"][p.stages[i].id];
            const StageFlow& f = point.flows.stages[i];
            INFO(p.stages[i].id);
            CHECK(near(f.vIn, e["v_in"], tolerance["voltage"]));
            CHECK(near(f.iIn, e["i_in"], tolerance["current"]));
            CHECK(near(f.vOut, e["v_out"], tolerance["voltage"]));
            CHECK(near(f.iOut, e["i_out"], tolerance["current"]));
            CHECK(near(f.loss(), e["loss_w"], tolerance["loss"]));
            CHECK(near(point.partC[i], e["part_c"], tolerance["part_rise"]));
            CHECK(stateName(f.state) == e["state"].get<std::string>());
        }
        for (std::size_t i = 0; i < p.loads.size(); ++i) {
            const Json& e = at["result"]["loads"][p.loads[i].id];
            CHECK(near(point.flows.loads[i].v, e["v"], tolerance["voltage"]));
            CHECK(near(point.flows.loads[i].i, e["i"], tolerance["current"]));
            CHECK(point.inside[i] == e["inside"].get<bool>());
        }
    }
}
