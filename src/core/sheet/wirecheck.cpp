// SPDX-License-Identifier: GPL-3.0-or-later
// A second look at every connection of the wiring table, by a formula of its own.
#include "sheet/sheet.hpp"

#include "quantity/write.hpp"

#include <algorithm>
#include <array>
#include <fmt/format.h>
#include <utility>

namespace sipper {
namespace {

/// A that open copper of a cross-section carries (docs/model.md: Stages), by straight lines.
double carries(double mm2) {
    constexpr std::array<std::pair<double, double>, 6> points{
        {{0, 0}, {1.5, 15}, {2.5, 20}, {4, 27}, {6, 35}, {10, 50}}};
    for (std::size_t i = 1; i < points.size(); ++i)
        if (mm2 <= points[i].first)
            return points[i - 1].second + (points[i].second - points[i - 1].second) *
                                              (mm2 - points[i - 1].first) /
                                              (points[i].first - points[i - 1].first);
    return points.back().second;
}

constexpr double kSame = 1.0001;

} // namespace

std::string wireFault(const SheetWire& w) {
    if (w.areaMm2 <= 0)
        return {};
    const double most = carries(w.areaMm2);
    const auto a = [](double amps) { return writeQuantity(amps, Unit::ampere); };
    if (w.amps > most * kSame)
        return fmt::format("{} flow and it carries {}", a(w.amps), a(most));
    if (w.fuseAmps > 0 && w.fuseAmps > most * kSame)
        return fmt::format("the fuse of {} lets more pass than the {} that it carries",
                           a(w.fuseAmps), a(most));
    if (w.fuseAmps > 0 && w.shortAmps > 0 && w.shortAmps < w.fuseAmps)
        return fmt::format("a short pushes {} only: the fuse of {} never opens", a(w.shortAmps),
                           a(w.fuseAmps));
    return {};
}

} // namespace sipper
