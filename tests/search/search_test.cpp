// SPDX-License-Identifier: GPL-3.0-or-later
// The finder: what it keeps, what it throws out and why, and that no winner is lost.
#include "search/feasibility.hpp"
#include "search/search.hpp"
#include "support.hpp"

#include "runtime/runtime.hpp"

#include <numeric>
#include <thread>

using namespace sipper;

namespace {

/// A few kinds of cells, so that every candidate can be run.
const std::vector<std::string> kFew{"alkaline-aa-2.6", "nickel-cobalt-18650-2.6",
                                    "iron-phosphate-26650-3.3"};

std::vector<std::string> fewCells(const Library& library) {
    std::vector<std::string> names;
    for (const LibraryPart& part : library.parts)
        for (const std::string& want : kFew)
            if (part.name == want)
                names.push_back(part.name);
    REQUIRE(names.size() >= 2);
    return names;
}

Project oneRail() {
    Project p = test::example("nest-box-listener");
    // The lower rail alone.
    std::erase_if(p.loads, [](const Load& l) { return l.window.max.value() > 4; });
    REQUIRE_FALSE(p.loads.empty());
    return p;
}

std::uint64_t sumOf(const SearchCounts& n) {
    return std::accumulate(n.rejected.begin(), n.rejected.end(), n.kept);
}

std::vector<std::uint64_t> numbers(const Search& s, const std::vector<std::size_t>& list) {
    std::vector<std::uint64_t> out;
    for (const std::size_t i : list)
        out.push_back(s.feasible[i].number);
    return out;
}

} // namespace

TEST_CASE("counts add up, and nothing on the edge is beaten", "[search]") {
    const Library library = loadLibrary();
    const Project p = oneRail();
    SearchOptions ask;
    ask.cells = fewCells(library);
    ask.runAll = 100000;
    const auto found = findSupplies(p, library, ask);
    REQUIRE(found);
    const Search& s = found.value();
    CHECK(s.counts.tried == sumOf(s.counts));
    CHECK(s.counts.kept == s.feasible.size());
    CHECK(s.counts.ran >= s.counts.kept);
    CHECK(s.counts.rejected[static_cast<std::size_t>(RejectReason::dominated)] == 0);
    REQUIRE_FALSE(s.paretoFront.empty());
    for (const std::size_t e : s.paretoFront)
        for (std::size_t i = 0; i < s.feasible.size(); ++i) {
            const bool equal = s.feasible[i].hours == s.feasible[e].hours &&
                               s.feasible[i].grams == s.feasible[e].grams &&
                               s.feasible[i].price == s.feasible[e].price;
            if (i != e && !equal)
                CHECK_FALSE(beats(s.feasible[i], s.feasible[e]));
        }
    // Every other one is beaten by one of the edge.
    for (const Candidate& c : s.feasible) {
        CHECK(std::any_of(s.paretoFront.begin(), s.paretoFront.end(),
                          [&](std::size_t e) { return beats(s.feasible[e], c); }));
        CHECK(c.hours >= s.leastHours);
    }
    CHECK(s.shortList.size() <= 5);
    for (const std::size_t i : s.shortList) {
        CHECK(std::find(s.paretoFront.begin(), s.paretoFront.end(), i) != s.paretoFront.end());
        CHECK(s.feasible[i].advice);
    }
    CHECK(s.hasYours);
    CHECK(s.yours.hours == predictRuntime(p).hours->value());
}

TEST_CASE("a candidate that is taken runs as was said", "[search]") {
    const Library library = loadLibrary();
    for (const char* name : {"nest-box-listener", "stage-theremin", "hand-cart-organ"}) {
        Project p = test::example(name);
        p.brief.targetRuntime.reset();
        SearchOptions ask;
        ask.cells = {"nickel-cobalt-18650-2.6"};
        ask.adviseWholeFront = false;
        const auto found = findSupplies(p, library, ask);
        REQUIRE(found);
        const Search& s = found.value();
        INFO(name);
        CHECK(s.counts.tried == sumOf(s.counts));
        REQUIRE_FALSE(s.paretoFront.empty());
        const std::size_t step = s.paretoFront.size() / 4 + 1;
        for (std::size_t i = 0; i < s.paretoFront.size(); i += step) {
            const Candidate& c = s.feasible[s.paretoFront[i]];
            INFO(c.says);
            const auto taken = takeCandidate(p, library, ask, c.number);
            REQUIRE(taken);
            CHECK_FALSE(checkProject(taken.value()));
            const Runtime r = predictRuntime(taken.value());
            REQUIRE(r.hours);
            CHECK(r.hours->value() == c.hours);
            CHECK(taken.value().massGrams() == c.grams);
            CHECK(taken.value().totalPrice() == c.price);
            CHECK(taken.value().pack()->series == c.series);
            // Loads, modes and brief are the same; a fuse stays a fuse.
            CHECK(taken.value().modes == p.modes);
            CHECK(taken.value().brief == p.brief);
            CHECK(taken.value().loads.size() == p.loads.size());
            for (const Stage& stage : taken.value().stages)
                if (const auto* g = std::get_if<Guard>(&stage.part))
                    CHECK(g->reconnect.value() > g->cutoff);
        }
    }
}

TEST_CASE("bounds lose no winner, on any number of threads", "[search]") {
    const Library library = loadLibrary();
    for (const bool twoRails : {false, true}) {
        Project p = twoRails ? test::example("stage-theremin") : oneRail();
        SearchOptions ask;
        ask.cells =
            twoRails ? std::vector<std::string>{"nickel-cobalt-18650-2.6"} : fewCells(library);
        ask.adviseWholeFront = false;
        ask.runAll = 1000000;
        const auto all = findSupplies(p, library, ask);
        REQUIRE(all);
        ask.runAll = 0;
        const auto bounded = findSupplies(p, library, ask, {}, {}, serialFor);
        REQUIRE(bounded);
        // The same edge by hours, grams and price; of equals either may stand for both.
        const auto values = [](const Search& s) {
            std::vector<std::array<double, 3>> list;
            for (const std::size_t e : s.paretoFront)
                list.push_back({s.feasible[e].grams, s.feasible[e].price, s.feasible[e].hours});
            std::sort(list.begin(), list.end());
            return list;
        };
        const auto a = values(all.value());
        const auto b = values(bounded.value());
        REQUIRE(a.size() == b.size());
        for (std::size_t i = 0; i < a.size(); ++i)
            for (std::size_t k = 0; k < 3; ++k)
                CHECK(a[i][k] == Approx(b[i][k]).epsilon(1e-12));
        // Bounds spare looks, they count nothing twice: whatever fell for a reason did so in both.
        for (std::size_t k = 0; k < kRejectReasons; ++k)
            if (k != static_cast<std::size_t>(RejectReason::dominated))
                CHECK(bounded.value().counts.rejected[k] <= all.value().counts.rejected[k]);
        CHECK(bounded.value().counts.tried == sumOf(bounded.value().counts));
        CHECK(bounded.value().counts.ran < all.value().counts.ran);
        const auto three = findSupplies(
            p, library, ask, {}, {}, [](std::size_t n, const std::function<void(std::size_t)>& f) {
                std::vector<std::jthread> threads;
                for (std::size_t k = 0; k < 3; ++k)
                    threads.emplace_back([&, k] {
                        for (std::size_t i = k; i < n; i += 3)
                            f(i);
                    });
            });
        REQUIRE(three);
        CHECK(three.value().counts == bounded.value().counts);
        CHECK(numbers(three.value(), three.value().paretoFront) ==
              numbers(bounded.value(), bounded.value().paretoFront));
        CHECK(numbers(three.value(), three.value().shortList) ==
              numbers(bounded.value(), bounded.value().shortList));
    }
}

TEST_CASE("each reason throws out what it names", "[search]") {
    const Library library = loadLibrary();
    Project p = oneRail();
    SearchOptions ask;
    ask.cells = fewCells(library);
    ask.adviseWholeFront = false;
    const auto fell = [&](RejectReason kind) {
        const auto found = findSupplies(p, library, ask);
        REQUIRE(found);
        CHECK(found.value().counts.tried == sumOf(found.value().counts));
        return found.value().counts.rejected[static_cast<std::size_t>(kind)];
    };
    CHECK(fell(RejectReason::notRefillable) == 0);
    CHECK(fell(RejectReason::noHeadroom) > 0);
    p.brief.refilledBy = {"socket"};
    CHECK(fell(RejectReason::notRefillable) > 0);
    p.brief.refilledBy = {"swap"};
    CHECK(fell(RejectReason::notRefillable) == 0);
    p.brief.ambient =
        Ambient{.low = Celsius{-45}, .typical = Celsius{0}, .high = Celsius{20}, .extras = {}};
    CHECK(fell(RejectReason::cold) > 0);
    p.brief.ambient.reset();
    ask.mostGrams = 60;
    CHECK(fell(RejectReason::tooHeavy) > 0);
    ask.mostGrams.reset();
    ask.mostPrice = 8;
    CHECK(fell(RejectReason::tooDear) > 0);
    ask.mostPrice.reset();
    p.brief.room = {40, 40, 30};
    CHECK(fell(RejectReason::tooLarge) > 0);
    p.brief.room.reset();
    ask.leastHours = 1e7;
    CHECK(fell(RejectReason::tooShort) > 0);
    CHECK(findSupplies(p, library, ask).value().feasible.empty());
    ask.leastHours.reset();
    CHECK(fell(RejectReason::noise) == 0);
    for (Load& load : p.loads) {
        load.noiseSensitive = true;
        load.fedBy = p.packStage()->id;
    }
    CHECK(fell(RejectReason::noise) > 0);
    const auto quiet = findSupplies(p, library, ask);
    for (const Candidate& c : quiet.value().feasible)
        CHECK((c.rails[0].kind == "cells" || c.rails[0].kind == "linear"));
}

TEST_CASE("cells to hand are used, and no more than there are", "[search]") {
    const Library library = loadLibrary();
    const Project p = oneRail();
    SearchOptions ask;
    ask.adviseWholeFront = false;
    for (int i = 0; i < 3; ++i) {
        OwnedCell c;
        c.id = std::to_string(i);
        c.size = "18650";
        c.chemistry = Chemistry::nickelCobalt;
        c.labelAh = 2.6;
        c.ah = i == 2 ? 1.0 : 2.2; // the last one is to be thrown away
        c.ohms = 0.03;
        ask.hand.push_back(c);
    }
    Project free = p;
    free.brief.targetRuntime.reset();
    const auto found = findSupplies(free, library, ask);
    REQUIRE(found);
    REQUIRE_FALSE(found.value().feasible.empty());
    for (const Candidate& c : found.value().feasible)
        CHECK(c.series * c.parallel <= 2);
    const auto taken = takeCandidate(free, library, ask, found.value().feasible[0].number);
    REQUIRE(taken);
    const Pack& pack = *taken.value().pack();
    CHECK(pack.cell.capacity.value() * pack.health.value_or(1) == Approx(2.2));
}

TEST_CASE("what can't be searched says why", "[search]") {
    const Library library = loadLibrary();
    Project p = oneRail();
    SearchOptions ask;
    ask.cells = {"unobtainium"};
    CHECK(findSupplies(p, library, ask).error().code == "no_cells");
    ask.cells = {"alkaline-aa-2.6"};
    CHECK(takeCandidate(p, library, ask, 1000000000).error().code == "no_candidate");
    for (Load& load : p.loads)
        for (Draw& draw : load.draws) {
            draw.current = Amps{0};
            draw.power.reset();
            draw.resistance.reset();
            draw.burst.reset();
        }
    CHECK(findSupplies(p, library, ask).error().code == "no_loads");
    p.loads.clear();
    CHECK(findSupplies(p, library, ask).error().code == "no_loads");
    // Asked to stop it stops, and says so.
    std::stop_source stop;
    stop.request_stop();
    const auto stopped = findSupplies(oneRail(), library, ask, stop.get_token());
    REQUIRE(stopped);
    CHECK(stopped.value().stopped);
}

TEST_CASE("no run passes its bound, nor what is near it by more than its share", "[search]") {
    const Library library = loadLibrary();
    std::size_t looked = 0;
    for (const char* name : {"nest-box-listener", "stage-theremin", "moth-counter", "hedge-lantern",
                             "darkroom-timer", "model-ferry-winch", "greenhouse-vent-opener"}) {
        const Project p = test::example(name);
        SearchOptions ask;
        ask.adviseWholeFront = false;
        ask.mostGrams = 260;
        ask.runAll = 300;
        const auto found = findSupplies(p, library, ask);
        REQUIRE(found);
        const FeasibilityFilter filter(p, library, ask);
        std::size_t tight = 0;
        std::size_t here = 0;
        const std::size_t step = std::max<std::size_t>(1, found.value().feasible.size() / 60);
        for (std::size_t i = 0; i < found.value().feasible.size(); i += step) {
            const Candidate& c = found.value().feasible[i];
            const auto [bound, near] = filter.boundsOf(c.number);
            INFO(name << ' ' << c.says);
            CHECK(bound >= c.hours);
            CHECK(near >= c.hours);
            tight += near / c.hours < 1.005 ? 1 : 0;
            ++looked;
            ++here;
        }
        CHECK(tight * 3 > here * 2); // what says nothing would pass too
    }
    CHECK(looked > 200);
}
