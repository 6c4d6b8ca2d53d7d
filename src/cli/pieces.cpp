// SPDX-License-Identifier: GPL-3.0-or-later
#include "pieces.hpp"

#include "base/tolerance.hpp"

#include <nlohmann/json.hpp>

namespace sipper::cli {
namespace {

Json tetherJson(const Project& p, const ExternalLoad& t) {
    return {{"mode", t.worst.valid ? Json(p.modes[t.worst.mode].id) : Json(nullptr)},
            {"worst_a", t.asked()},
            {"device_a", t.worst.value},
            {"charger_a", t.chargerAmps},
            {"worst_w", t.worstWatts},
            {"mean_w", t.meanWatts},
            {"limit_a", t.model.limit > 0 ? Json(t.model.limit) : Json(nullptr)},
            {"headroom", t.margin() > 0 ? Json(t.margin()) : Json(nullptr)},
            {"heat_w", t.heatWatts},
            {"hottest_c", t.hottestC},
            {"trips", t.trips || t.collapses || overSet(t.asked(), t.model.limit)}};
}

} // namespace

Json endingJson(const Ending& ending) {
    const bool none = ending.at.empty();
    return {{"at", none ? Json(nullptr) : Json(ending.at)},
            {"mode", none ? Json(nullptr) : Json(ending.mode)},
            {"reason", reasonName(ending.reason)}};
}

Json sourcesJson(const Project& p, const std::vector<ExternalLoad>& externalLoads) {
    Json out = Json::object();
    for (const ExternalLoad& t : externalLoads)
        out[p.stages[t.source].id] = tetherJson(p, t);
    return out;
}

} // namespace sipper::cli
