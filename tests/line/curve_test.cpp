// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/curve.hpp"
#include "line/packmodel.hpp"
#include "support.hpp"

#include <math.h> // NOLINT: the pchip of Boost 1.74 calls isnan without a namespace

#include <boost/math/interpolators/pchip.hpp>

using namespace sipper;

namespace {

const Table kIronPhosphate{{0, 2.40},    {0.05, 2.95},  {0.1, 3.12}, {0.2, 3.20}, {0.3, 3.24},
                           {0.4, 3.27},  {0.5, 3.28},   {0.6, 3.29}, {0.7, 3.30}, {0.8, 3.31},
                           {0.9, 3.325}, {0.95, 3.335}, {1, 3.45}};

} // namespace

TEST_CASE("the curve is the known PCHIP, given the same end slopes", "[curve]") {
    const Curve curve(kIronPhosphate);
    std::vector<double> x;
    std::vector<double> y;
    for (const auto& [a, b] : kIronPhosphate) {
        x.push_back(a);
        y.push_back(b);
        CHECK(curve.at(a) == Approx(b).epsilon(1e-14));
    }
    const boost::math::interpolators::pchip<std::vector<double>> known(
        std::move(x), std::move(y), curve.slope(0), curve.slope(1));
    double last = curve.at(0);
    for (double q = 0.0005; q < 1; q += 0.0005) {
        CHECK(curve.at(q) == Approx(known(q)).epsilon(1e-12));
        CHECK(curve.at(q) >= last);
        last = curve.at(q);
    }
}

TEST_CASE("outside its points the curve runs on at the end slope; integrals are exact", "[curve]") {
    const Curve curve(kIronPhosphate);
    CHECK(curve.at(-0.1) == Approx(2.40 - 0.1 * curve.slope(0)));
    CHECK(curve.at(1.2) == Approx(3.45 + 0.2 * curve.slope(1)));
    double sum = 0;
    constexpr int n = 200000;
    for (int i = 0; i < n; ++i)
        sum += curve.at(-0.1 + 1.2 * (i + 0.5) / n) * 1.2 / n;
    CHECK(curve.integral(-0.1, 1.1) == Approx(sum).epsilon(1e-9));
    CHECK(Curve({{0, 1}, {2, 5}}).at(1) == Approx(3));
    CHECK(Curve({{0.3, 7}}).at(9) == 7);
    const Curve three(
        {{0, 0}, {1, 1}, {2, 4}}); // end slope by the three-point formula: 0.5 * (3 - 3) -> 0
    CHECK(three.slope(0) == Approx(0).margin(1e-12));
    CHECK(three.slope(2) == Approx(4));
}

TEST_CASE("two wells in closed form agree with a fine integration", "[wells]") {
    struct Case {
        double c, k, amps, hours;
    };
    const auto w =
        GENERATE(Case{0.55, 0.35, 1.0, 0.4}, Case{0.93, 6, 0.5, 2}, Case{0.3, 40, 0.2, 3},
                 Case{0.6, 0.7, 0, 5}, Case{0.55, 1e-7, 0.8, 0.5});
    Pack pack;
    pack.cell.capacity = AmpHours{2};
    pack.cell.openCircuit = {{0, 3}, {1, 4}};
    pack.cell.availableFraction = w.c;
    pack.cell.wellRate = PerHour{w.k};
    const PackModel model(pack, Celsius{25});
    Wells start = model.level(0.9);
    start.available *= 0.8;
    double y1 = start.available;
    double y2 = start.bound;
    const double k = w.k * w.c * (1 - w.c);
    constexpr int n = 400000;
    const double dt = w.hours / n;
    for (int i = 0; i < n; ++i) { // midpoint rule
        const auto flow = [&](double a, double b) { return k * (b / (1 - w.c) - a / w.c); };
        const double f = flow(y1, y2);
        const double a = y1 + dt / 2 * (f - w.amps);
        const double g = flow(a, y2 - dt / 2 * f);
        y1 += dt * (g - w.amps);
        y2 -= dt * g;
    }
    const Wells end = model.drained(start, w.amps, w.hours);
    CHECK(end.available == Approx(y1).epsilon(1e-8));
    CHECK(end.bound == Approx(y2).epsilon(1e-8));
    // In two steps the same as in one.
    const Wells half =
        model.drained(model.drained(start, w.amps, w.hours / 3), w.amps, w.hours * 2 / 3);
    CHECK(half.available == Approx(end.available).epsilon(1e-10));
}

TEST_CASE("temperature, age, measured resistance and the weakest group", "[pack]") {
    Pack pack = *test::reference("stall-lantern").pack();
    pack.health = 0.8;
    const PackModel cold(pack, Celsius{0});
    CHECK(cold.usable == Approx(3.0 * 0.8 * 0.92));
    CHECK(cold.resistance == Approx(0.045 * 1.9 * 1.3));
    CHECK(cold.relaxation == Approx(0.02 * 1.9 * 1.3));
    pack.measuredResistance = Ohms{0.06};
    CHECK(PackModel(pack, Celsius{0}).resistance == Approx(0.06 * 1.9));
    CHECK(PackModel(pack, Celsius{0}).relaxation == Approx(0.02 * 1.9));
    pack.weakestGroup = AmpHours{4}; // of 4.8 Ah for two in parallel
    CHECK(PackModel(pack, Celsius{0}).usable == Approx(2 * 0.92));
    CHECK(PackModel(pack, Celsius{-60}).usable == Approx(2 * 0.72));
    pack.cell.resistanceByCharge = {{0, 4}, {1, 1}};
    CHECK(PackModel(pack, Celsius{25}).resistanceAt(0.5) == Approx(0.06 * 2.5));
}
