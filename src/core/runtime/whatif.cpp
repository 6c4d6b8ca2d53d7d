// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/whatif.hpp"

#include <cmath>

namespace sipper {
namespace {

constexpr double kSameAir = 0.5;      ///< K: a slider in whole degrees
constexpr double kSameHealth = 0.005; ///< and whole per cent

} // namespace

std::optional<WhatIf> whatIf(const Project& p, double airC, double health, bool five,
                             const std::stop_token& stop, const ParallelFor& parallelFor) {
    WhatIf w{airC, health, {}, {}};
    const double usualAir = p.brief.air().usual().value();
    const double usualHealth = p.pack()->health.value_or(1.0);
    const bool planned =
        std::abs(airC - usualAir) <= kSameAir && std::abs(health - usualHealth) <= kSameHealth;
    if (five)
        w.five.resize(kFiveAirs.size());
    parallelFor(w.five.size() + 1, [&](std::size_t i) {
        if (stop.stop_requested() || (i == 0 && planned))
            return;
        Conditions c = typicalConditions(p);
        c.ambient = Celsius{i == 0 ? airC : kFiveAirs[i - 1]};
        if (i == 0)
            c.health = health;
        Runtime r = predictRuntime(p, c);
        if (i == 0)
            w.other = std::move(r);
        else
            w.five[i - 1] = std::move(r);
    });
    return stop.stop_requested() ? std::nullopt : std::optional(std::move(w));
}

} // namespace sipper
