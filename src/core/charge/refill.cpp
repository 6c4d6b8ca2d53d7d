// SPDX-License-Identifier: GPL-3.0-or-later
// Chargers of a project, a charge by one of them, and the refill that people mean.
#include "charge/charge.hpp"

#include "charge/context.hpp"

#include "base/tolerance.hpp"
#include "line/operating.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {

bool endsByCurrent(const Charger& charger) {
    return charger.endsBy.value_or(ChargeEnd::endCurrent) == ChargeEnd::endCurrent;
}

std::vector<std::string> chargersOf(const Project& project) {
    std::vector<std::string> ids;
    for (const Stage& s : project.stages)
        if (isCharger(s.part))
            ids.push_back(s.id);
    return ids;
}

std::vector<std::string> chargeSources(const Project& project, const std::string& charger) {
    const Stage* stage = project.stage(charger);
    return stage ? sourcesOf(project, *stage) : std::vector<std::string>{};
}

ChargeOptions refillAsk(const Project& project) {
    ChargeOptions ask;
    const auto chargers = chargersOf(project);
    if (chargers.empty())
        return ask;
    ask.charger = chargers.front();
    const auto wanted = [&](const Part& part) {
        const auto has = [&](std::string_view way) {
            const auto& ways = project.brief.refilledBy;
            return ways && std::find(ways->begin(), ways->end(), way) != ways->end();
        };
        return (has("socket") && std::holds_alternative<Usb>(part)) ||
               (has("adapter") && std::holds_alternative<Adapter>(part)) ||
               (has("vehicle") && std::holds_alternative<Vehicle>(part)) ||
               (has("sun") && std::holds_alternative<Panel>(part));
    };
    for (const std::string& id : chargeSources(project, ask.charger))
        if (wanted(project.stage(id)->part)) {
            ask.source = id;
            break;
        }
    return ask;
}

std::optional<ChargeRun> refillOf(const Project& project) {
    auto charge = chargeOf(project, refillAsk(project));
    if (!charge)
        return std::nullopt;
    return std::move(charge).value();
}

Outcome<LimitCurrents> ladderAt(const Project& project, const ChargeOptions& ask,
                                const ChargePoint& point) {
    auto bench = chargeContextOf(project, ask);
    if (!bench)
        return bench.error();
    return bench.value()->limits.ladder(point.openCircuit, point.ohms, point.recovering);
}

std::vector<std::pair<double, LimitCurrents>> laddersOf(const Project& project,
                                                        const ChargeOptions& ask,
                                                        const ChargeRun& charge,
                                                        std::size_t count) {
    std::vector<std::pair<double, LimitCurrents>> ladders;
    auto bench = chargeContextOf(project, ask);
    if (!bench || charge.curve.empty() || count == 0)
        return ladders;
    const double step = charge.curve.back().hours / static_cast<double>(count);
    double next = 0;
    for (const ChargePoint& point : charge.curve) {
        if (point.hours < next)
            continue;
        next = point.hours + step;
        ladders.emplace_back(point.hours, bench.value()->limits.ladder(
                                              point.openCircuit, point.ohms, point.recovering));
    }
    return ladders;
}

} // namespace sipper
