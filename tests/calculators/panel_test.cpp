// SPDX-License-Identifier: GPL-3.0-or-later
// A panel's curve from its label.
#include "line/panelcurve.hpp"
#include "support.hpp"

using namespace sipper;

TEST_CASE("the curve passes through its label's points and has one top", "[sums]") {
    const PanelLabel label{21.6, 1.2, 17.6, 1.14, -0.07};
    const PanelCurve curve(label, 1000, 25);
    CHECK(curve.amps(0) == Approx(1.2));
    CHECK(curve.amps(17.6) == Approx(1.14).epsilon(1e-6));
    CHECK(curve.amps(21.6) == Approx(0).margin(2e-3));
    CHECK(curve.amps(30) == 0);
    const auto [volts, watts] = curve.mpp();
    for (double v = 0; v < 22; v += 0.05)
        CHECK(v * curve.amps(v) <= watts * (1 + 1e-9));
    CHECK(watts == Approx(volts * curve.amps(volts)));
    // Half the light, half the current; warmth takes volts.
    CHECK(PanelCurve(label, 500, 25).amps(0) == Approx(0.6));
    CHECK(PanelCurve(label, 1000, 65).openCircuit() == Approx(21.6 - 0.07 * 40));
    const PanelCurve dark(label, 0, 25);
    CHECK(dark.amps(5) == 0);
    CHECK(dark.mpp().second == 0);
}
