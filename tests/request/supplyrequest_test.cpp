// SPDX-License-Identifier: GPL-3.0-or-later
// What a person says first, and what comes of it.
#include "analysis/analysis.hpp"
#include "charge/charge.hpp"
#include "project/variants.hpp"
#include "protect/currents.hpp"
#include "quantity/write.hpp"
#include "request/conversion.hpp"
#include "request/externalsupply.hpp"
#include "request/supplyrequest.hpp"
#include "support.hpp"
#include "text/text.hpp"

#include <catch2/catch.hpp>

using namespace sipper;

namespace {

const Library& wishLibrary() {
    static const Library library = loadLibrary();
    return library;
}

SupplyRequest wishOf(RequestedSource from, double volts, double amps, double hours,
                     Setting setting = Setting::portable) {
    SupplyRequest w;
    w.needs = {{volts, amps}};
    w.hours = hours;
    w.from = from;
    w.setting = setting;
    return w;
}

} // namespace

TEST_CASE("a wish is a project that the finder can start from", "[search][wish]") {
    for (std::size_t f = 0; f < kWishFroms; ++f) {
        SupplyRequest w = wishOf(static_cast<RequestedSource>(f), 5, 0.2, 8);
        w.needs.push_back({3.3, 0.01});
        const auto p = projectOf(w);
        REQUIRE(p);
        INFO(wishFromText(w.from));
        CHECK_FALSE(checkSupply(p.value()));
        CHECK(p.value().loads.size() == 2);
        CHECK(p.value().loads[0].window.middle().value() == 5);
        CHECK(p.value().loads[1].draws[0].current->value() == 0.01);
        CHECK(p.value().brief.targetRuntime.has_value() == !externallyFed(w));
        CHECK_FALSE(wishText(w).empty());
    }
    // What is carried is refilled where what stands on a desk hangs.
    CHECK_FALSE(externallyFed(wishOf(RequestedSource::socket, 5, 0.2, 8)));
    CHECK(externallyFed(wishOf(RequestedSource::socket, 5, 0.2, 8, Setting::desk)));
    CHECK(projectOf(wishOf(RequestedSource::socket, 5, 0.2, 8)).value().brief.refilledBy->front() ==
          "socket");
    for (const SupplyRequest& bad :
         {wishOf(RequestedSource::cells, 0.1, 0.2, 8), wishOf(RequestedSource::cells, 230, 0.2, 8),
          wishOf(RequestedSource::cells, 5, 0, 8), wishOf(RequestedSource::cells, 5, 50, 8),
          wishOf(RequestedSource::cells, 5, 0.2, 0)}) {
        const auto p = projectOf(bad);
        REQUIRE_FALSE(p);
        CHECK(p.error().code == "range");
    }
    SupplyRequest none;
    none.needs.clear();
    CHECK(projectOf(none).error().where == "loads");
}

TEST_CASE("a wish from cells comes as three supplies that do it", "[search][wish]") {
    const SupplyRequest w = wishOf(RequestedSource::cells, 5, 0.2, 8);
    const auto got = proposeSupplies(w, wishLibrary(), {});
    REQUIRE(got);
    const Proposal& g = got.value();
    CHECK(g.variants == 3);
    REQUIRE(variantCount(g.document) == 3);
    CHECK(g.kept > 0);
    CHECK(g.tried > g.kept);
    double grams = 0;
    double price = 0;
    for (std::size_t i = 0; i < 3; ++i) {
        const Project p = variantProject(g.document, i);
        INFO(variantName(g.document, i));
        CHECK_FALSE(checkSupply(p));
        const QuickAnalysis quick = analyseQuick(p);
        REQUIRE(quick.runtime.hours);
        CHECK(quick.runtime.hours->value() >= 8);
        CHECK(countOf(quick.findings, Severity::stop) == 0);
        if (i == 0)
            grams = p.massGrams();
        if (i == 1)
            price = p.totalPrice();
    }
    CHECK(variantName(g.document, 0) == "Lightest");
    CHECK(variantName(g.document, 1) == "Cheapest");
    CHECK(grams <= variantProject(g.document, 1).massGrams());
    CHECK(price <= variantProject(g.document, 0).totalPrice());
    CHECK(variantProject(g.document, 2).brief == variantProject(g.document, 0).brief);
}

TEST_CASE("other sources: a tool pack, own cells, the sun", "[search][wish]") {
    const auto tool =
        proposeSupplies(wishOf(RequestedSource::toolPack, 12, 1, 2), wishLibrary(), {});
    REQUIRE(tool);
    REQUIRE(tool.value().variants > 0);
    CHECK(tool.value().document.pack()->cell.size == "tool pack");
    CHECK(tool.value().document.pack()->series == 5);

    const auto empty = proposeSupplies(wishOf(RequestedSource::hand, 5, 0.2, 8), wishLibrary(), {});
    REQUIRE_FALSE(empty);
    CHECK(empty.error().code == "no_cells");

    const auto sun = proposeSupplies(wishOf(RequestedSource::sun, 3.3, 0.02, 48, Setting::outdoor),
                                     wishLibrary(), {});
    REQUIRE(sun);
    REQUIRE(sun.value().variants > 0);
    bool panel = false;
    for (const Stage& s : sun.value().document.stages)
        panel = panel || std::holds_alternative<Panel>(s.part);
    CHECK(panel);
}

TEST_CASE("on a wire every load gets what it takes over the whole band of the source",
          "[search][wish]") {
    struct Case {
        RequestedSource from;
        double volts;
        double amps;
    };
    for (const Case& c :
         {Case{RequestedSource::adapter, 5, 0.5}, Case{RequestedSource::adapter, 12, 1},
          Case{RequestedSource::adapter, 3.3, 0.1}, Case{RequestedSource::socket, 5, 0.3},
          Case{RequestedSource::socket, 9, 0.1}, Case{RequestedSource::vehicle, 5, 1},
          Case{RequestedSource::vehicle, 12, 0.5}}) {
        const SupplyRequest w = wishOf(c.from, c.volts, c.amps, 8, Setting::desk);
        const auto got = proposeSupplies(w, wishLibrary(), {});
        REQUIRE(got);
        INFO(wishFromText(c.from) << ' ' << c.volts << ' ' << got.value().says);
        REQUIRE(got.value().variants > 0);
        for (std::size_t i = 0; i < got.value().variants; ++i) {
            const Project p = variantProject(got.value().document, i);
            CHECK_FALSE(checkSupply(p));
            CHECK_FALSE(p.pack());
            const QuickAnalysis quick = analyseQuick(p);
            REQUIRE(quick.externalLoads.size() == 1);
            CHECK_FALSE(quick.externalLoads[0].collapses);
            CHECK_FALSE(quick.externalLoads[0].trips);
            CHECK(countOf(quick.findings, Severity::stop) == 0);
        }
    }
    // What nothing carries is said, with the loads kept.
    const auto none = proposeSupplies(wishOf(RequestedSource::socket, 12, 5, 8, Setting::desk),
                                      wishLibrary(), {});
    REQUIRE(none);
    CHECK(none.value().variants == 0);
    CHECK(none.value().document.loads.size() == 1);
    CHECK_THAT(none.value().says, Catch::Contains("No source"));
}

TEST_CASE("a search for a wish is stopped", "[search][wish]") {
    std::stop_source stop;
    stop.request_stop();
    const auto got = proposeSupplies(wishOf(RequestedSource::cells, 5, 0.2, 8), wishLibrary(), {},
                                     stop.get_token());
    REQUIRE_FALSE(got);
    CHECK(got.error().code == "stopped");
}

TEST_CASE("what stands between have and need follows from the volts", "[search][between]") {
    struct Case {
        SourceKind have;
        double volts;
        Conversion stands;
    };
    for (const Case& c : {Case{SourceKind::lithium, 5, Conversion::boost},
                          Case{SourceKind::lithium, 3.3, Conversion::both},
                          Case{SourceKind::lithium, 24, Conversion::notWithout},
                          Case{SourceKind::twoLithium, 5, Conversion::dropOut},
                          Case{SourceKind::twoLithium, 3.3, Conversion::buck},
                          Case{SourceKind::toolPack, 12, Conversion::dropOut},
                          Case{SourceKind::toolPack, 5, Conversion::buck},
                          Case{SourceKind::socket, 5, Conversion::straight},
                          Case{SourceKind::socket, 9, Conversion::boost},
                          Case{SourceKind::adapter, 12, Conversion::straight},
                          Case{SourceKind::adapter, 9, Conversion::dropOut},
                          Case{SourceKind::vehicle, 12, Conversion::both},
                          Case{SourceKind::vehicle, 5, Conversion::buck},
                          Case{SourceKind::sun, 5, Conversion::notWithout}}) {
        const ConversionAdvice b = betweenOf(c.have, c.volts);
        INFO(haveBands()[static_cast<std::size_t>(c.have)].name << ' ' << c.volts << ": " << b.why);
        CHECK(b.stands == c.stands);
        CHECK_FALSE(b.why.empty());
    }
    CHECK(betweenOf(SourceKind::sun, 5).text == "not without cells");
}

TEST_CASE("every field of have against need opens a recipe of its volts", "[search][between]") {
    for (std::size_t h = 0; h < kHaves; ++h)
        for (const double volts : kTargetVolts) {
            const auto have = static_cast<SourceKind>(h);
            const auto p = fittedRecipe(have, volts);
            INFO(haveBands()[h].name << ' ' << volts);
            REQUIRE(p);
            CHECK_FALSE(checkSupply(p.value()));
            const Load& load = p.value().loads.front();
            CHECK(load.window.middle().value() == volts);
            const Conversion stands = betweenOf(have, volts).stands;
            if (stands == Conversion::notWithout)
                continue; // opened all the same, and advice says what it lacks
            // It starts: the load gets what it takes when the source is full.
            const QuickAnalysis quick = analyseQuick(p.value());
            if (p.value().pack()) {
                REQUIRE(quick.runtime.hours);
                CHECK(quick.runtime.hours->value() > 0);
            } else {
                REQUIRE_FALSE(quick.externalLoads.empty());
                CHECK_FALSE(quick.externalLoads[0].collapses);
            }
        }
}

TEST_CASE("a wish from a socket comes with socket, charger and fuse", "[wish][refill]") {
    const auto granted =
        proposeSupplies(wishOf(RequestedSource::socket, 5, 0.3, 5), wishLibrary(), {});
    REQUIRE(granted);
    REQUIRE(granted.value().variants > 0);
    for (std::size_t v = 0; v < granted.value().variants; ++v) {
        const Project p = variantProject(granted.value().document, v);
        INFO(granted.value().says);
        const auto chargers = chargersOf(p);
        REQUIRE(chargers.size() == 1);
        CHECK(std::any_of(p.stages.begin(), p.stages.end(),
                          [](const Stage& s) { return std::holds_alternative<Usb>(s.part); }));
        CHECK(legFuse(p, chargers.front()));
        CHECK(countOf(analyseQuick(p, {.bench = false}).findings, Severity::stop) == 0);
        const auto charge = refillOf(p);
        REQUIRE(charge);
        CHECK(charge->offHoursToFull.value_or(charge->hoursToFull.value_or(0)) > 0);
    }
}

TEST_CASE("what a stop of a found supply would need is done before it is shown", "[wish][refill]") {
    // Device and charger together are more than a plain socket gives, and what is always on keeps
    // a charge from its end: a power path and a limit at the charger's input mend both.
    SupplyRequest wish = wishOf(RequestedSource::socket, 5, 0.2, 8);
    wish.needs.push_back({3.3, 0.08});
    wish.needs.push_back({12, 0.1});
    const auto got = proposeSupplies(wish, loadLibrary(), {});
    REQUIRE(got);
    CHECK(got.value().variants == 3);
    for (std::size_t v = 0; v < got.value().variants; ++v) {
        const Project p = variantProject(got.value().document, v);
        INFO(got.value().says);
        CHECK(countOf(analyseQuick(p, {.bench = false}).findings, Severity::stop) == 0);
        CHECK(predictRuntime(p).hours->value() >= 8);
        // The hours to full that the line says are those of what is opened.
        const auto charge = refillOf(p);
        REQUIRE(charge);
        REQUIRE(charge->hoursToFull);
        CHECK_THAT(got.value().says,
                   Catch::Contains("from a socket in " + writeHours(*charge->hoursToFull)));
    }
}

TEST_CASE("a wish's weight and price hold with the charger in them", "[wish][refill]") {
    SupplyRequest wish = wishOf(RequestedSource::socket, 5, 0.3, 5);
    const auto free = proposeSupplies(wish, wishLibrary(), {});
    REQUIRE(free);
    REQUIRE(free.value().variants > 0);
    double least = 1e9;
    for (std::size_t v = 0; v < free.value().variants; ++v)
        least = std::min(least, variantProject(free.value().document, v).totalPrice());
    wish.mostPrice = least * 1.2;
    const auto bound = proposeSupplies(wish, wishLibrary(), {});
    REQUIRE(bound);
    for (std::size_t v = 0; v < bound.value().variants; ++v)
        CHECK(variantProject(bound.value().document, v).totalPrice() <= *wish.mostPrice * 1.0001);
    wish.mostPrice = least * 0.5;
    const auto none = proposeSupplies(wish, wishLibrary(), {});
    REQUIRE(none);
    CHECK(none.value().variants == 0);
    CHECK_FALSE(none.value().says.empty());
}
