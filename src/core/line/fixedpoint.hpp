// SPDX-License-Identifier: GPL-3.0-or-later
// The smallest fixed point of a demand, found from below.
#pragma once

#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <limits>
#include <optional>

namespace sipper {

inline constexpr int kRootRounds =
    60; ///< secant rounds; near a double root each halves the distance
inline constexpr int kScanPoints =
    240; ///< where the slope turns; misses collapse by under 1e-5 of E

inline constexpr double kPlainSlope = -0.5;   ///< of F(x) - x; flatter is near a double root
inline constexpr double kFurtherBelow = 0.97; ///< second place to start from, before 0

/// The smallest x in [start, end] with F(x) = x, for F(start) >= start. F may answer NaN where
/// there is no demand that can be met. Secants from the left do not overshoot while F is convex;
/// where the slope turns, the rest is scanned for the first change of sign, which TOMS 748
/// (Alefeld, Potra and Shi 1995) then narrows. Nothing: no root.
/// `tolerance` is relative. A `start` that turns out to lie above the root is given up for 0.
template <class F>
std::optional<double> smallestFixedPoint(F&& demand, double start, double end,
                                         double tolerance = 1e-11) {
    const auto excess = [&](double x) { return demand(x) - x; };
    const auto close = [&](double a, double b) {
        return std::abs(a - b) <= tolerance * std::abs(b) + 1e-300;
    };
    const auto narrow = [&](double low, double fLow, double high,
                            double fHigh) -> std::optional<double> {
        if (fLow == 0)
            return low;
        if (fHigh == 0)
            return high;
        std::uintmax_t rounds = 100;
        const auto found = boost::math::tools::toms748_solve(
            excess, low, high, fLow, fHigh,
            [](double a, double b) { return std::abs(a - b) <= 1e-13 * std::abs(b); }, rounds);
        return (found.first + found.second) / 2;
    };
    const auto scan = [&](double from, double fFrom, double to) -> std::optional<double> {
        double low = from;
        double fLow = fFrom;
        for (int i = 1; i <= kScanPoints; ++i) {
            const double x = from + (to - from) * i / kScanPoints;
            const double f = excess(x);
            if (f <= 0 && std::isfinite(fLow))
                return narrow(low, fLow, x, f);
            low = x;
            fLow = f;
        }
        return std::nullopt;
    };

    double x0 = start;
    double f0 = excess(x0);
    for (const double further : {kFurtherBelow, 0.0})
        if (start > 0 && x0 > 0 && !(f0 >= 0)) {
            x0 = start * further;
            f0 = excess(x0);
        }
    if (!std::isfinite(f0))
        return std::nullopt;
    if (f0 <= 0)
        return x0;
    double x1 = x0 + f0;
    for (int round = 0; round < kRootRounds; ++round) {
        if (!(x1 <= end))
            return scan(x0, f0, end);
        if (close(x0, x1))
            return x1;
        const double f1 = excess(x1);
        if (!std::isfinite(f1))
            return scan(x0, f0, x1);
        if (f1 <= 0) {
            // Overshot: the first root lies between. A coarse look from the left keeps it the
            // first.
            double low = x0;
            double fLow = f0;
            constexpr int kLook = 4;
            for (int i = 1; i < kLook; ++i) {
                const double x = x0 + (x1 - x0) * i / kLook;
                const double f = excess(x);
                if (f <= 0)
                    return narrow(low, fLow, x, f);
                low = x;
                fLow = f;
            }
            return narrow(low, fLow, x1, f1);
        }
        const double slope = (f1 - f0) / (x1 - x0);
        if (slope >= 0)
            return scan(x1, f1, end);
        const double next = x1 - f1 / slope;
        // The secant's error is about the product of its last two steps while the slope is plain.
        if (slope < kPlainSlope && (next - x1) * (x1 - x0) <= tolerance * next * next)
            return next;
        x0 = x1;
        f0 = f1;
        x1 = next;
    }
    return scan(x0, f0, end);
}

} // namespace sipper
