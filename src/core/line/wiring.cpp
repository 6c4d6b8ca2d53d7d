// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/wiring.hpp"

#include "base/tolerance.hpp"
#include "line/physics.hpp"
#include "line/sources.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "quantity/read.hpp"

#include <algorithm>
#include <array>

namespace sipper {
namespace {

struct Point {
    double area;
    double amps;
};
constexpr std::array kPoints{Point{1.5, 15}, Point{2.5, 20}, Point{4, 27}, Point{6, 35},
                             Point{10, 50}};

} // namespace

double areaOf(const Wire& wire) {
    return wire.area ? wire.area->value() : wire.awg ? areaOfAwg(*wire.awg).value() : 0;
}

double ampacity(double area, bool bundled) {
    double amps = area * 10;
    for (std::size_t i = 0; i + 1 < kPoints.size(); ++i)
        if (area > kPoints[i].area)
            amps = kPoints[i].amps + (area - kPoints[i].area) *
                                         (kPoints[i + 1].amps - kPoints[i].amps) /
                                         (kPoints[i + 1].area - kPoints[i].area);
    return bundled ? amps / 2 : amps;
}

double ampacity(const Wire& wire) {
    return ampacity(areaOf(wire), wire.bundled.value_or(false));
}

double ohmsInTheWay(const Part& part, Celsius ambient) {
    if (const auto* wire = std::get_if<Wire>(&part))
        return wireOhms(*wire, ambient);
    return isSource(part) ? sourceModel(part).ohms : seriesTermsOf(part).resistance;
}

std::optional<double> thickerLead(double area, const std::function<bool(double)>& enough) {
    static constexpr std::array areas{0.14, 0.25, 0.35, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0, 10.0};
    for (const double a : areas)
        if (a > area * 1.01 && enough(a))
            return a;
    return std::nullopt;
}

std::span<const double> fuseRatings(std::optional<FuseForm> form) {
    static constexpr std::array all{0.05,  0.063, 0.08, 0.1,  0.125, 0.16, 0.2,  0.25,
                                    0.315, 0.4,   0.5,  0.63, 0.8,   1.0,  1.25, 1.6,
                                    2.0,   2.5,   3.0,  3.15, 4.0,   5.0,  6.3,  7.5,
                                    8.0,   10.0,  15.0, 20.0, 25.0,  30.0, 40.0};
    static constexpr std::array glass{0.05,  0.063, 0.08, 0.1,  0.125, 0.16, 0.2,  0.25,
                                      0.315, 0.4,   0.5,  0.63, 0.8,   1.0,  1.25, 1.6,
                                      2.0,   2.5,   3.15, 4.0,  5.0,   6.3,  8.0,  10.0};
    static constexpr std::array blade{1.0,  2.0,  3.0,  4.0,  5.0,  7.5,
                                      10.0, 15.0, 20.0, 25.0, 30.0, 40.0};
    static constexpr std::array resettable{0.5, 1.1, 2.0, 3.0, 5.0};
    if (!form)
        return all;
    switch (*form) {
    case FuseForm::glass:
        return glass;
    case FuseForm::blade:
        return blade;
    case FuseForm::resettable:
        return resettable;
    }
    return all;
}

std::optional<double> chooseFuse(double least, double most, std::optional<FuseForm> form) {
    for (const double rating : fuseRatings(form))
        if (!fallsBelow(rating, least))
            return !exceeds(rating, most) ? std::optional(rating) : std::nullopt;
    return std::nullopt;
}

double leastFuse(double lasting, double burst, FuseSpeed speed) {
    return std::max(lasting / kFuseUse, burst / (speed == FuseSpeed::slow ? kSlowBurst : 1));
}

} // namespace sipper
