// SPDX-License-Identifier: GPL-3.0-or-later
// Charges that get nowhere: the device takes more, the guard opens and closes, the end comes early.
#include "analysis/analysis.hpp"
#include "charge/text.hpp"
#include "support.hpp"

#include <random>

using namespace sipper;

namespace {

ChargeRun bankCharged(const Project& p, std::size_t mode = 0) {
    ChargeOptions ask;
    ask.mode = mode;
    auto c = chargeOf(p, ask);
    REQUIRE(c);
    return std::move(c).value();
}
Charger& bankCharger(Project& p) {
    return std::get<Charger>(p.stage("charger")->part);
}
Draw& bankDraw(Project& p) {
    return p.loads[0].draws[0];
}

} // namespace

TEST_CASE("a pocket bank that gives more than it gets says so", "[charge][cycle]") {
    const Project p = test::reference("phone-well");
    const ChargeRun c = bankCharged(p);
    CHECK(c.failure == ChargeFailure::deviceTakesMore);
    CHECK_FALSE(c.hoursToFull);
    CHECK(c.givesAmps == Approx(1).epsilon(1e-3));
    CHECK(c.takesAmps > c.givesAmps);
    REQUIRE(c.offHoursToFull);
    CHECK(*c.offHoursToFull > 3);
    CHECK(*c.offHoursToFull < 5);
    CHECK_THAT(chargeHeadline(p, c), Catch::Contains("the device takes") &&
                                         Catch::Contains("gives 1.00 A") &&
                                         Catch::Contains("Switch the output off"));
    const QuickAnalysis q = analyseQuick(p);
    const auto f = std::find_if(q.findings.begin(), q.findings.end(),
                                [](const Finding& x) { return x.rule == "device_takes_more"; });
    REQUIRE(f != q.findings.end());
    CHECK(f->severity == Severity::stop);
    CHECK(f->numbers.at("off_hours") == Approx(*c.offHoursToFull));
    CHECK(std::none_of(q.findings.begin(), q.findings.end(),
                       [](const Finding& x) { return x.rule == "end_trap"; }));
}

TEST_CASE("a guard that opens, is lifted and closes again goes round and gets nowhere",
          "[charge][cycle]") {
    Project p = test::reference("phone-well");
    auto& guard = std::get<Guard>(p.stage("guard")->part);
    guard.cutoff = Volts{3.2};
    guard.reconnect = Volts{3.6};
    bankDraw(p).current = Amps{0.8};
    const ChargeRun c = bankCharged(p);
    CHECK(c.failure == ChargeFailure::deviceTakesMore);
    CHECK(c.takesAmps > c.givesAmps);
    CHECK(c.curve.back().hours < 60 * 24);
    CHECK(c.curve.size() < 5000);
    bankDraw(p).current = Amps{0.2};
    const ChargeRun less = bankCharged(p);
    CHECK(less.failure != ChargeFailure::deviceTakesMore);
}

TEST_CASE("nothing under 97 % is called full", "[charge][cycle]") {
    Project p = test::reference("phone-well");
    p.loads[0].draws[0].current = Amps{0};
    bankCharger(p).endCurrent = Amps{2};
    const ChargeRun c = bankCharged(p);
    CHECK(c.failure == ChargeFailure::endsEarly);
    CHECK_FALSE(c.hoursToFull);
    REQUIRE(c.endsAtCharge);
    CHECK(*c.endsAtCharge < 0.97);
    CHECK_THAT(chargeHeadline(p, c), Catch::Contains("Its end current of 2.00 A"));
    const QuickAnalysis q = analyseQuick(p);
    const auto f = std::find_if(q.findings.begin(), q.findings.end(),
                                [](const Finding& x) { return x.rule == "ends_early"; });
    REQUIRE(f != q.findings.end());
    REQUIRE(f->fix);
    CHECK(bankCharged(f->fix->apply(p)).hoursToFull);
}

TEST_CASE("chargers, guards and loads of all proportions: each charge ends", "[charge][cycle]") {
    std::mt19937 random(2024);
    const auto pick = [&](std::initializer_list<double> of) {
        return *(of.begin() + random() % of.size());
    };
    for (int round = 0; round < (test::kSanitized ? 30 : 300); ++round) {
        Project p = test::reference("phone-well");
        Charger& c = bankCharger(p);
        c.programK.reset();
        c.programOhm.reset();
        c.chargeCurrent = Amps{pick({0.1, 0.3, 0.5, 1, 2, 5})};
        c.endCurrent = Amps{pick({0.01, 0.1, 0.5, 2})};
        if (pick({0, 1, 1}) == 0)
            c.recoveryBelow.reset();
        if (pick({0, 1, 1}) == 0)
            c.inputHold = Volts{4.5};
        auto& guard = std::get<Guard>(p.stage("guard")->part);
        guard.cutoff = Volts{pick({2.5, 2.8, 3, 3.3, 3.6})};
        guard.reconnect = Volts{guard.cutoff.value() + pick({0, 0.05, 0.2, 0.5})};
        guard.resistance = Ohms{pick({0.01, 0.05, 0.2, 0.5})};
        std::get<Switcher>(p.stage("boost")->part).inputMin = Volts{pick({2, 2.5, 3, 3.4})};
        auto& pack = std::get<Pack>(p.stage("cells")->part);
        pack.parallel = pick({1, 2, 4, 8});
        pack.cell.resistance = Ohms{pick({0.02, 0.05, 0.2})};
        bankDraw(p).current.reset();
        const double amps = pick({0.001, 0.05, 0.2, 0.5, 0.8, 1, 2, 3});
        if (pick({0, 1}) == 0)
            bankDraw(p).power = Watts{5 * amps};
        else
            bankDraw(p).current = Amps{amps};
        const ChargeRun charge = bankCharged(p);
        INFO("round " << round);
        CHECK(charge.hoursToFull.has_value() != charge.failure.has_value());
        CHECK_FALSE(charge.cutShort);
        CHECK(charge.curve.size() < 20'000);
        if (charge.hoursToFull) {
            CHECK(charge.curve.back().charge >= 0.97);
            CHECK(std::abs(charge.ledger.imbalance()) < 0.01);
        }
        if (charge.failure != ChargeFailure::deviceTakesMore)
            continue;
        REQUIRE_FALSE(charge.phases.empty());
        INFO(charge.curve.back().hours << " h, charge " << charge.curve.back().charge << ", "
                                       << charge.curve.back().packAmps << " A into it, "
                                       << charge.curve.size() << " points, "
                                       << limitName(charge.phases.back().limit));
        CHECK(charge.takesAmps >= charge.givesAmps * (1 - 1e-3));
    }
}

TEST_CASE("a charge that is asked to stop answers with what it knows", "[charge][cycle]") {
    std::stop_source source;
    source.request_stop();
    ChargeOptions ask;
    ask.stop = source.get_token();
    const auto c = chargeOf(test::reference("choir-loft-lamp"), ask);
    REQUIRE(c);
    CHECK(c.value().cutShort);
    CHECK_FALSE(c.value().hoursToFull);
    CHECK_FALSE(c.value().failure);
    CHECK(chargeHeadline(test::reference("choir-loft-lamp"), c.value()) ==
          "Not worked out to its end.");
}
