// SPDX-License-Identifier: GPL-3.0-or-later
// Fuses and leads in order, ways back from one source into another, dividers and what they draw.
#include "analysis/analysis.hpp"
#include "line/operating.hpp"
#include "line/wiring.hpp"
#include "parts/eseries.hpp"
#include "protect/text.hpp"
#include "support.hpp"

using namespace sipper;
using test::currentDraw;
using test::loadOf;
using test::stageOf;

namespace {

/// Cells, a fuse, a lead to a buck, a thin lead behind it.
Project fused(double fuseAmps, double areaMm2) {
    Project p = test::idealProject(4, 10);
    Pack& pack = test::packOf(p);
    pack.series = 3;
    pack.cell.resistance = Ohms{0.01};
    pack.cell.maxDischarge = Amps{12};
    Fuse fuse;
    fuse.rating = Amps{fuseAmps};
    p.stages.push_back(stageOf("fuse", fuse, "cells"));
    Wire wire;
    wire.length = Metres{0.3};
    wire.area = SquareMillimetres{areaMm2};
    p.stages.push_back(stageOf("lead", wire, "fuse"));
    Switcher buck;
    buck.set = Volts{5};
    buck.outputLimit = Amps{3};
    p.stages.push_back(stageOf("buck", buck, "lead"));
    Wire thin = wire;
    thin.area = SquareMillimetres{0.14};
    p.stages.push_back(stageOf("thin", thin, "buck"));
    p.loads.push_back(loadOf("lamp", "thin", 4, 6));
    p.loads[0].draws = {currentDraw("on", 1)};
    p.loads[0].draws[0].burst = Amps{2.4};
    p.loads[0].draws[0].burstTime = Seconds{0.1};
    return p;
}

ProtectionAnalysis lookAtAll(const Project& p) {
    const QuickAnalysis q = analyseQuick(p);
    REQUIRE(q.protect);
    return *q.protect;
}

const WireSegment& stretch(const ProtectionAnalysis& look, const std::string& id) {
    for (const WireSegment& s : look.segments)
        if (s.id == id)
            return s;
    FAIL("no stretch " << id);
    return look.segments.front();
}

} // namespace

TEST_CASE("a fuse lies over what flows and under what burns", "[protect]") {
    const Project p = fused(5, 0.75);
    const ProtectionAnalysis look = lookAtAll(p);
    REQUIRE(look.fuses.size() == 1);
    const FuseWindow& w = look.fuses[0];
    // No losses: 1 A at 5 V from 12 V less the lead's drop; the burst 2.4 times that.
    const double draw = 5.0 / 12 * 1.002;
    CHECK(w.least == Approx(std::max(draw / 0.75, 2.4 * draw)).epsilon(0.01));
    REQUIRE(w.most);
    CHECK(*w.most == Approx(7.5)); // the lead, under the cells' 12 A
    REQUIRE(w.choose);
    CHECK(*w.choose == Approx(1.25).margin(0.26));
    CHECK(*w.choose >= w.least);
    // A slow one carries twice its rating in a burst: now the lasting current decides.
    Project slow = p;
    std::get<Fuse>(slow.stage("fuse")->part).speed = FuseSpeed::slow;
    CHECK(lookAtAll(slow).fuses[0].least ==
          Approx(std::max(draw / 0.75, 1.2 * draw)).epsilon(0.01));
    // A thick lead: the pack's own limit.
    CHECK(*lookAtAll(fused(5, 4)).fuses[0].most == Approx(12));
    // A lead too thin for any: nothing to choose.
    CHECK_FALSE(lookAtAll(fused(5, 0.05)).fuses[0].choose);
}

TEST_CASE("the order of currents says who burns first", "[protect]") {
    const ProtectionAnalysis good = lookAtAll(fused(5, 0.75));
    CHECK(stretch(good, "lead").first == WeakestElement::fuse);
    // Behind the buck no fuse protects, but the buck's own limit is over the lead's 1.4 A.
    CHECK(stretch(good, "thin").first == WeakestElement::lead);
    CHECK(stretch(good, "thin").source == Approx(3));
    CHECK(stretch(good, "thin").need.seconds == Approx(0.1));
    CHECK(burstHeat(stretch(good, "thin").need) == Approx(2.4 * 2.4 * 0.1));
    Project soft = fused(5, 0.75);
    std::get<Switcher>(soft.stage("buck")->part).outputLimit = Amps{1.3};
    CHECK(stretch(lookAtAll(soft), "thin").first == WeakestElement::source);
    CHECK(stretch(lookAtAll(fused(10, 0.75)), "lead").first == WeakestElement::lead);
    // A boost passes a short on to the fuse at the cells, which melts at once from four times its
    // rating; a weak pack behind a large fuse leaves it to the lead.
    Project boost = fused(5, 0.75);
    std::get<Switcher>(boost.stage("buck")->part).topology = Topology::boost;
    std::get<Switcher>(boost.stage("buck")->part).outputLimit.reset();
    CHECK(stretch(lookAtAll(boost), "thin").first == WeakestElement::fuse);
    CHECK(weakestElementText(stretch(lookAtAll(boost), "thin")) == "the fuse, in a short");
    test::packOf(boost).connection = Ohms{1};
    CHECK(stretch(lookAtAll(boost), "thin").first == WeakestElement::lead);
    // Nothing is said of an adapter that states no limit.
    Project unknown = fused(5, 0.75);
    Adapter adapter;
    adapter.set = Volts{12};
    unknown.stages[0].part = adapter;
    unknown.stage("fuse")->part = Switch{};
    CHECK(stretch(lookAtAll(unknown), "lead").first == WeakestElement::unknown);
    // A short at the cells: 12 V over 30 milliohm.
    CHECK(stretch(good, "lead").shortCircuit == Approx(400));
    CHECK(shortCircuitAmps(Part{test::packOf(soft)}) == Approx(400));
}

TEST_CASE("fuses to buy: each form by its own rules", "[protect]") {
    const Project p = fused(5, 0.75);
    const ProtectionAnalysis look = lookAtAll(p);
    const auto choices = fuseChoices(stretch(look, "lead"), 12.6);
    REQUIRE(choices.size() == 4);
    for (const FuseChoice& c : choices) {
        INFO(nameOf(c.form) << " " << c.rating);
        if (c.rating <= 0)
            continue;
        CHECK(c.rating <= 7.5);
        CHECK(c.dropVolts == Approx(stretch(look, "lead").need.continuous * c.ohms));
        CHECK(c.heatWatts == Approx(c.dropVolts * stretch(look, "lead").need.continuous));
        CHECK_FALSE(c.why.empty());
    }
    // 48 V is over what blades are made for.
    for (const FuseChoice& c : fuseChoices(stretch(look, "lead"), 48))
        if (c.form == FuseForm::blade)
            CHECK_FALSE(c.fits);
}

TEST_CASE("ways back: sources that meet, the panel at night, an unplugged socket", "[protect]") {
    Project p = test::idealProject(4.2, 2);
    test::packOf(p).cell.resistance = Ohms{0.1};
    p.stages.push_back(stageOf("socket", Usb{Amps{2}}, ""));
    p.stages.back().fedBy.clear();
    Select select;
    select.blocksBack = false;
    select.resistance = Ohms{0.05};
    Stage either = stageOf("either", select, "socket");
    either.fedBy = {"socket", "cells"};
    either.feedsListed = true;
    p.stages.push_back(either);
    p.loads.push_back(loadOf("lamp", "either", 3, 6));
    p.loads[0].draws = {currentDraw("on", 0.1)};
    const auto pushes = backfeedPaths(p);
    // The socket's 5.25 V into empty cells, over 0.1 and twice 0.05 ohm, at its limit; and the
    // cells onto its contacts.
    REQUIRE(pushes.size() == 2);
    CHECK(pushes[0].from == "socket");
    CHECK(pushes[0].into == "cells");
    CHECK(pushes[0].volts == Approx(5.25 - 4.2));
    CHECK(pushes[0].amps == Approx(2)); // (1.05 V / 0.2 ohm) is more than it gives
    CHECK(pushes[1].kind == BackfeedKind::socket);
    CHECK(pushes[1].volts == Approx(4.2));
    std::get<Select>(p.stage("either")->part).blocksBack = true;
    CHECK(backfeedPaths(p).empty());
    // A diode in one feed is enough for that way.
    std::get<Select>(p.stage("either")->part).blocksBack = false;
    p.stages.push_back(stageOf("diode", Diode{Volts{0.3}, {}}, "socket"));
    p.stage("either")->fedBy[0] = "diode";
    CHECK(backfeedPaths(p).empty());
    // A panel straight on the cells.
    Project sun = test::idealProject(4.2, 2);
    test::packOf(sun).series = 3;
    sun.stages.push_back(stageOf("panel", partOfKind("panel").value(), ""));
    sun.stages.back().fedBy.clear();
    auto& panel = std::get<Panel>(sun.stages.back().part);
    panel.vmp = Volts{6};
    panel.shortCircuit = Amps{0.36};
    Charger direct;
    direct.charges = "cells";
    direct.topology = Topology::direct;
    sun.stages.push_back(stageOf("direct", direct, "panel"));
    const auto night = backfeedPaths(sun);
    REQUIRE(night.size() == 1);
    CHECK(night[0].kind == BackfeedKind::night);
    CHECK(night[0].amps > 0);
    CHECK(night[0].amps <= 0.36);
    std::get<Charger>(sun.stage("direct")->part).drop = Volts{0.4};
    CHECK(backfeedPaths(sun).empty());
}

TEST_CASE("dividers are the best pairs there are", "[protect]") {
    DividerOptions ask;
    ask.reference = 1.25;
    ask.target = 15;
    ask.drawsAtMost = 5e-5;
    ask.tapOhmsAtMost = 1e5;
    const auto best = dividersFor(ask);
    REQUIRE(best.size() == 5);
    // By hand: every pair of the series.
    double least = 1e9;
    for (double decade = 1; decade <= 1e7; decade *= 10)
        for (double other = 1; other <= 1e7; other *= 10)
            for (const double u : seriesDecade("E24"))
                for (const double l : seriesDecade("E24")) {
                    const double upper = u * decade;
                    const double lower = l * other;
                    if (upper > 1e7 || lower > 1e7 || 15 / (upper + lower) > 5e-5 ||
                        upper * lower / (upper + lower) > 1e5)
                        continue;
                    least = std::min(least, std::abs(1.25 * (1 + upper / lower) - 15) / 15);
                }
    CHECK(std::abs(best[0].error) == Approx(least).margin(1e-9));
    for (std::size_t i = 0; i < best.size(); ++i) {
        const Divider& d = best[i];
        CHECK(d.actual == Approx(1.25 * (1 + d.upper / d.lower)));
        CHECK(d.draws <= 5e-5 * 1.000001);
        CHECK(d.tapOhms <= 1e5 * 1.000001);
        CHECK(d.least < d.actual);
        CHECK(d.most > d.actual);
        if (i > 0)
            CHECK(std::abs(d.error) >= std::abs(best[i - 1].error) - 1e-9);
    }
    // 1 % parts, 2 % of the reference: all of them at their worst together.
    const Divider& d = best[0];
    CHECK(d.most == Approx(1.25 * 1.02 * (1 + d.upper * 1.01 / (d.lower * 0.99))).epsilon(1e-9));
    const auto good = undominated(best);
    CHECK(good[0]);
    DividerOptions low = ask;
    low.target = 1;
    CHECK(dividersFor(low).empty());
    CHECK_THAT(whyNoDivider(low), Catch::Contains("over the reference"));
    DividerOptions tight = ask;
    tight.tapOhmsAtMost = 100;
    CHECK_THAT(whyNoDivider(tight), Catch::Contains("allow more of one"));
}

TEST_CASE("a feedback resistor gives both thresholds", "[protect]") {
    DividerOptions ask;
    ask.reference = 1.25;
    ask.target = 9;
    ask.upper = 10.2;
    ask.outputVolts = 9;
    ask.outputFollows = true;
    ask.series = "E96";
    ask.drawsAtMost = 1e-4;
    ask.tapOhmsAtMost = 1e6;
    const auto best = dividersFor(ask);
    REQUIRE_FALSE(best.empty());
    const Divider& d = best[0];
    REQUIRE(d.feedback);
    REQUIRE(d.givesUpper);
    CHECK(d.actual == Approx(9).epsilon(0.004));
    CHECK(*d.givesUpper == Approx(10.2).epsilon(0.004));
    // Kirchhoff at the tap, falling (output on, at the input's volts) and rising (output off).
    const auto tap = [&](double v, double out) {
        return (v / d.upper + out / *d.feedback) / (1 / d.upper + 1 / d.lower + 1 / *d.feedback);
    };
    CHECK(tap(d.actual, d.actual) == Approx(1.25));
    CHECK(tap(*d.givesUpper, 0) == Approx(1.25));
}

TEST_CASE("a divider taken over is in the part, and drawn", "[protect]") {
    const Project p = test::example("stage-theremin");
    const auto places = dividerPlaces(p);
    REQUIRE(places.size() >= 3);
    for (const DividerPlace& place : places) {
        INFO(place.says);
        const auto best = dividersFor(place.ask);
        REQUIRE_FALSE(best.empty());
        const Project with = withDivider(p, place, best[0]);
        CHECK_FALSE(checkProject(with));
        CHECK_FALSE(with == p);
        const auto again = dividerPlaces(with);
        const auto same = std::find_if(again.begin(), again.end(), [&](const DividerPlace& o) {
            return o.use == place.use && o.has;
        });
        REQUIRE(same != again.end());
        CHECK(same->has->upper == best[0].upper);
        CHECK(same->has->actual == Approx(best[0].actual).epsilon(1e-3));
        // It draws: the run is a little shorter, and its ledger still closes.
        const Runtime before = predictRuntime(p);
        const Runtime after = predictRuntime(with);
        CHECK(after.hours->value() != before.hours->value());
        CHECK(std::abs(after.ledger.imbalance()) < 1e-3);
    }
}

TEST_CASE("what stands across the line draws by Ohm's law", "[protect]") {
    // A watch of 10 kohm behind 1 ohm at 12 V, a load of 0.1 A: V (1 + 1/10k) = 12 - 0.1.
    Project p = test::idealProject(12, 10);
    p.stages.push_back(stageOf("lead", Filter{Ohms{1}}, "cells"));
    p.stages.push_back(stageOf("watch", Watch{Ohms{7e3}, Ohms{3e3}, {}}, "lead"));
    p.loads.push_back(loadOf("lamp", "watch", 3, 16));
    p.loads[0].draws = {currentDraw("on", 0.1)};
    const auto at = [&](const Project& q) { return operate(q, typicalConditions(q), 1, 0).flows; };
    const double v = (12 - 0.1) / (1 + 1e-4);
    Flows f = at(p);
    CHECK(f.loads[0].v == Approx(v).epsilon(1e-9));
    CHECK(f.sourceAmps == Approx(0.1 + v / 1e4).epsilon(1e-9));
    CHECK(f.stages[2].loss() == Approx(v * v / 1e4).epsilon(1e-9));
    // A guard's own divider is drawn after it has opened too.
    Guard guard;
    guard.cutoff = Volts{3};
    guard.upper = Ohms{7e3};
    guard.lower = Ohms{3e3};
    guard.quiescent = Amps{1e-3};
    p.stage("watch")->part = guard;
    f = at(p);
    CHECK(f.stages[2].iIn == Approx(0.1 + 1e-3 + f.stages[2].vIn / 1e4).epsilon(1e-9));
    Network network(p, Celsius{25});
    network.setOpen(2, true);
    const double open = network.current(network.idle(), 12, 0);
    CHECK(open == Approx(1e-3 + (12 - open * 1) / 1e4).epsilon(1e-9));
    // A regulator's feedback divider hangs on its output: a linear passes it, the ledger closes.
    Linear linear;
    linear.set = Volts{5};
    linear.upper = Ohms{3e3};
    linear.lower = Ohms{2e3};
    p.stage("watch")->part = linear;
    f = at(p);
    CHECK(f.stages[2].iIn == Approx(0.1 + 5 / 5e3).epsilon(1e-9));
    CHECK(f.stages[2].iOut == Approx(0.1).epsilon(1e-9));
    Switcher buck;
    buck.set = Volts{5};
    buck.upper = Ohms{3e3};
    buck.lower = Ohms{2e3};
    p.stage("watch")->part = buck;
    f = at(p);
    CHECK(f.stages[2].vIn * f.stages[2].iIn == Approx(5 * (0.1 + 1e-3)).epsilon(1e-9));
    CHECK(std::abs(predictRuntime(p).ledger.imbalance()) < 1e-3);
}
