// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/budget.hpp"
#include "runtime/externalload.hpp"
#include "support.hpp"

using namespace sipper;

TEST_CASE("the budget of a day adds up, and agrees with a run's ledger", "[budget]") {
    for (const Project& p :
         {test::example("nest-box-listener"), test::example("lake-parade-lantern"),
          test::reference("street-choir"), test::reference("meadow-node")}) {
        INFO(p.name);
        const Budget b = budgetOf(p);
        double seconds = 0;
        double share = 0;
        for (const ModeBudget& m : b.modes) {
            seconds += m.secondsPerDay;
            share += m.shareOfCharge;
        }
        CHECK(seconds == Approx(86400));
        CHECK(share == Approx(1));
        double loads = 0;
        for (const double s : b.loadShare)
            loads += s;
        CHECK(loads == Approx(1));
        CHECK(b.meanWatts * 24 == Approx(b.whPerDay));
        CHECK(b.collapsed.empty());
    }
    // Without windows every day is the mean day: the run's own mean power, but for the charge it is
    // taken at.
    const Project steady = test::reference("kiln-probe");
    CHECK(budgetOf(steady).meanWatts ==
          Approx(predictRuntime(steady).meanPower.value()).epsilon(0.02));
}

TEST_CASE("without a pack there is no budget, and a collapse is named", "[budget]") {
    Project p = test::idealProject(3, 1);
    p.stages[0].part = Adapter{};
    CHECK(budgetOf(p).whPerDay == 0);
    Project weak = test::example("nest-box-listener");
    test::packOf(weak).cell.resistance = Ohms{9};
    CHECK(budgetOf(weak).collapsed.size() == 2); // with and without the lamp
}

TEST_CASE("a tethered project's budget is its source's", "[budget]") {
    const Project p =
        test::load(std::filesystem::path(SIPPER_SOURCE) / "data/recipes/adapter-and-buck.sipper");
    const Budget b = budgetOf(p);
    const ExternalLoad t = externalLoadsOf(p).front();
    CHECK(b.meanWatts == Approx(t.meanWatts));
    CHECK(b.ahPerDay == Approx(t.meanWatts * 24 / t.model.volts));
    double share = 0;
    for (const ModeBudget& m : b.modes)
        share += m.shareOfCharge;
    CHECK(share == Approx(1));
}
