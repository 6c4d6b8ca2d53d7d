// SPDX-License-Identifier: GPL-3.0-or-later
#include "advice/consequences.hpp"
#include "support.hpp"

#include <algorithm>

using namespace sipper;

namespace {

std::string about(const Project& p, const char* key) {
    for (const Consequence& c : consequencesOf(p, predictRuntime(p), std::nullopt))
        if (c.about == key)
            return c.title + ": " + c.says;
    return {};
}

} // namespace

TEST_CASE("what follows from the brief is worked out from the project", "[brief]") {
    Project p = test::example("nest-box-listener");
    CHECK_THAT(about(p, "ambient_c"),
               Catch::Contains("each cell gives 2.62 Ah in place of 2.86 Ah"));
    CHECK_THAT(about(p, "cell_care"), Catch::Contains("squeeze at 2.65 V") &&
                                          Catch::Contains("gentle at 3.25 V") &&
                                          Catch::Contains("Yours is 3.05 V"));
    CHECK_THAT(about(p, "refilled_by"), Catch::Contains("A set is 3 cells, 141 g."));
    CHECK_THAT(about(p, "headroom"), Catch::Contains("1.5: The worst draw is 1.02 A"));
    CHECK_THAT(about(p, "shelf_months"), Catch::Contains("123 µA flow"));
    CHECK(about(p, "noise").empty());
    p.loads[1].noiseSensitive = true;
    CHECK_THAT(about(p, "noise"), Catch::Contains("Recorder dislikes switching noise") &&
                                      Catch::Contains("a filter: ") &&
                                      Catch::Contains("a linear regulator after it: "));
    p.brief.refilledBy = std::vector<std::string>{"sun"};
    CHECK_THAT(about(p, "refilled_by"), Catch::Contains("The sun has to bring 14.3 Wh"));
    test::packOf(p).cell.rechargeable = false;
    CHECK_THAT(about(p, "refilled_by"), Catch::Contains("must not be recharged"));
    p.brief.setting = Setting::vehicle;
    CHECK_THAT(about(p, "setting"), Catch::Contains("licensed people"));
    CHECK(about(p, "weight_limit_g").empty());
    p.brief.weightLimit = Grams{200};
    CHECK_THAT(about(p, "weight_limit_g"), Catch::Contains("166 g of 200 g"));
}

TEST_CASE("days are as long as the sun says", "[brief]") {
    CHECK(dayLength(0, 100) == Approx(12).epsilon(1e-9));
    CHECK(dayLength(52, 81) == Approx(12).epsilon(0.01)); // near the equinox
    CHECK(dayLength(52, 355) == Approx(7.5).epsilon(0.03));
    CHECK(dayLength(52, 172) + dayLength(-52, 172) == Approx(24));
    CHECK(dayLength(75, 355) == 0);
    CHECK(dayLength(75, 172) == Approx(24));
}

TEST_CASE("without cells only what needs none is said", "[brief]") {
    Project p = test::idealProject(3, 1);
    p.stages[0].part = Adapter{};
    p.brief.setting = Setting::desk;
    CHECK_THAT(about(p, "setting"), Catch::Contains("no cells are needed"));
    CHECK(consequencesOf(p, predictRuntime(p), std::nullopt).size() == 1);
}

TEST_CASE("a refill is said by what the charger makes of it", "[advice][charge]") {
    Project p = test::example("moth-counter");
    const auto refilled = [&] { return about(p, "refilled_by"); };
    CHECK_THAT(refilled(),
               Catch::Contains("to full from 10 %") && Catch::Contains("Held back by the socket"));
    p.brief.refilledBy = std::vector<std::string>{"adapter"};
    CHECK_THAT(refilled(), Catch::Contains("Nothing of that kind feeds the charger yet"));
    std::erase_if(p.stages, [](const Stage& s) { return s.id == "topper"; });
    CHECK_THAT(refilled(), Catch::Contains("no charger on the line yet"));
}
