// SPDX-License-Identifier: GPL-3.0-or-later
// What a search keeps holds to what was asked, and can be taken as it was said; nothing on its edge
// is beaten by anything that it kept.
#include "randomprojects.hpp"
#include "search/search.hpp"

using namespace sipper;

namespace {

/// A load at these volts and amps for these hours, and nothing else.
Project wanted(double volts, double amps, double hours) {
    Project p = test::idealProject(3.6, 1);
    p.stages.clear();
    Stage socket = test::stageOf("mains", Adapter{}, "");
    socket.fedBy.clear();
    std::get<Adapter>(socket.part).set = Volts{volts};
    std::get<Adapter>(socket.part).limit = Amps{5};
    p.stages.push_back(socket);
    Load load = test::loadOf("thing", "mains", volts * 0.95, volts * 1.05);
    load.draws = {test::currentDraw("on", amps)};
    p.loads = {load};
    p.brief.targetRuntime = Hours{hours};
    return p;
}

} // namespace

TEST_CASE("what is kept reaches the hours and stays under the limits", "[search][properties]") {
    const Library library = loadLibrary();
    for (const auto& [volts, amps, hours] :
         {std::tuple{5.0, 0.1, 8.0}, {12.0, 0.2, 4.0}, {3.3, 0.02, 100.0}}) {
        INFO(volts << " V, " << amps << " A, " << hours << " h");
        const Project p = wanted(volts, amps, hours);
        SearchOptions ask;
        ask.adviseWholeFront = false;
        const auto free = findSupplies(p, library, ask);
        REQUIRE(free);
        REQUIRE_FALSE(free.value().paretoFront.empty());
        const auto& best = free.value().feasible[free.value().paretoFront.front()];
        ask.mostGrams = best.grams * 1.5;
        ask.mostPrice = best.price * 1.5;
        const auto bound = findSupplies(p, library, ask);
        REQUIRE(bound);
        REQUIRE_FALSE(bound.value().feasible.empty());
        for (const Candidate& c : bound.value().feasible) {
            INFO(c.says);
            CHECK(c.hours >= bound.value().leastHours * (1 - 1e-9));
            CHECK(c.grams <= *ask.mostGrams * (1 + 1e-9));
            CHECK(c.price <= *ask.mostPrice * (1 + 1e-9));
            CHECK(c.worstShare <= 1 + 1e-9);
        }
        // Nothing on the edge is beaten in all three by another that was kept.
        for (const std::size_t i : bound.value().paretoFront) {
            const Candidate& a = bound.value().feasible[i];
            for (const Candidate& b : bound.value().feasible)
                CHECK_FALSE((b.hours > a.hours * (1 + 1e-9) && b.grams < a.grams * (1 - 1e-9) &&
                             b.price < a.price * (1 - 1e-9)));
        }
        // The short list is of the edge, and no longer than five.
        CHECK(bound.value().shortList.size() <= 5);
        for (const std::size_t i : bound.value().shortList)
            CHECK(std::find(bound.value().paretoFront.begin(), bound.value().paretoFront.end(),
                            i) != bound.value().paretoFront.end());
        const SearchCounts& n = bound.value().counts;
        std::uint64_t all = n.kept;
        for (const std::uint64_t fell : n.rejected)
            all += fell;
        CHECK(all == n.tried);
    }
}

TEST_CASE("tighter limits let in no more", "[search][properties]") {
    const Library library = loadLibrary();
    const Project p = wanted(5, 0.15, 10);
    SearchOptions ask;
    ask.adviseWholeFront = false;
    std::uint64_t last = std::numeric_limits<std::uint64_t>::max();
    for (const double grams : {400.0, 250.0, 150.0, 80.0, 20.0}) {
        ask.mostGrams = grams;
        const auto found = findSupplies(p, library, ask);
        REQUIRE(found);
        const Search& s = found.value();
        // Where all that fit are run the count itself falls; else the edge only gets shorter.
        double best = 0;
        for (const Candidate& c : s.feasible)
            best = std::max(best, c.hours);
        INFO(grams << " g: " << s.feasible.size());
        for (const Candidate& c : s.feasible)
            CHECK(c.grams <= grams);
        const std::uint64_t light =
            s.counts.tried - s.counts.rejected[static_cast<std::size_t>(RejectReason::tooHeavy)];
        CHECK(light <= last);
        last = light;
    }
}

TEST_CASE("each reason has a name and words of its own", "[search][properties]") {
    std::set<std::string_view> names;
    std::set<std::string_view> words;
    for (std::size_t i = 0; i < kRejectReasons; ++i) {
        const auto reason = static_cast<RejectReason>(i);
        CHECK(names.insert(rejectReasonName(reason)).second);
        CHECK(words.insert(rejectReasonText(reason)).second);
        CHECK(rejectReasonName(reason).find(' ') == std::string_view::npos);
    }
}

TEST_CASE("a search that is stopped says so, and one of a cell that is not there is refused",
          "[search][properties]") {
    const Library library = loadLibrary();
    const Project p = wanted(5, 0.1, 8);
    std::stop_source stop;
    stop.request_stop();
    const auto cut = findSupplies(p, library, {}, stop.get_token());
    REQUIRE(cut);
    CHECK(cut.value().stopped);
    SearchOptions ask;
    ask.cells = {"no-such-cell"};
    const auto refused = findSupplies(p, library, ask);
    REQUIRE_FALSE(refused);
    CHECK(refused.error().code == "no_cells");
    Project idle = p;
    idle.loads.clear();
    const auto nothing = findSupplies(idle, library, {});
    REQUIRE_FALSE(nothing);
    CHECK(nothing.error().code == "no_loads");
}
