// SPDX-License-Identifier: GPL-3.0-or-later
// A draw aimed at a wanted current from the cells.
#include "project/edits.hpp"
#include "runtime/aim.hpp"
#include "support.hpp"

using namespace sipper;
using namespace sipper::test;

namespace {

double packAmps(const Project& p, std::size_t mode) {
    return budgetOf(p).modes[mode].packAmps;
}

std::size_t indexOf(const Project& p, const char* load) {
    return static_cast<std::size_t>(p.load(load) - p.loads.data());
}

} // namespace

TEST_CASE("a draw is found for a wanted current, up and down, whatever its kind", "[aim]") {
    const Project box = example("nest-box-listener");
    const std::size_t recorder = indexOf(box, "recorder");
    const std::size_t listen = 1;
    const double now = packAmps(box, listen);
    for (const double factor : {0.5, 0.9, 1.3, 3.0}) {
        INFO(factor);
        for (const char* kind : {"120 mA", "0.6 W", "42 ohm"}) {
            INFO(kind);
            Project p = box;
            REQUIRE_FALSE(setDraw(ownDrawIn(p, p.loads[recorder], listen), kind));
            const Project aimed = withModeCurrent(p, recorder, listen, Amps{now * factor});
            // Three digits of the draw: half a per cent of the current.
            CHECK(packAmps(aimed, listen) == Approx(now * factor).epsilon(0.006));
            CHECK_FALSE(checkProject(aimed));
            const Draw* draw = drawIn(aimed, aimed.loads[recorder], listen);
            CHECK(draw->basis == Basis::guess);
            CHECK(draw->current.has_value() == (std::string(kind) == "120 mA"));
            CHECK(draw->resistance.has_value() == (std::string(kind) == "42 ohm"));
            // Nothing else has moved.
            Project back = aimed;
            back.loads[recorder] = p.loads[recorder];
            CHECK(back == p);
        }
    }
}

TEST_CASE("less than the others take is nothing; more than can be carried is the most", "[aim]") {
    const Project box = example("nest-box-listener");
    const std::size_t eye = indexOf(box, "eye");
    const Project none = withModeCurrent(box, eye, 2, Amps{1e-6});
    CHECK(drawIn(none, none.loads[eye], 2)->current->value() == 0);
    const Project most = withModeCurrent(box, eye, 2, Amps{1e4});
    CHECK(budgetOf(most).collapsed.empty());
    CHECK(packAmps(most, 2) > packAmps(box, 2));
    CHECK(withModeCurrent(box, 99, 0, Amps{1}) == box);
    Project bare = box;
    bare.stages.clear();
    CHECK(withModeCurrent(bare, 0, 0, Amps{1}) == bare);
    CHECK(greatestLoad(budgetOf(box), 2) == eye);
}
