// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/operating.hpp"

#include "charge/context.hpp"

#include "base/tolerance.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>

namespace sipper {
namespace {

/// The charger's own flow, and that of its source and way.
void bookWay(const Project& p, const ChargeContext& bench, const ChargerPoint& now,
             OperatingPoint& point) {
    Flows way;
    if (!bench.feed.flowsAt(now.inputAmps, way))
        return;
    const Project& as = bench.feed.project();
    for (std::size_t i = 0; i < as.stages.size(); ++i) {
        const std::size_t at = stageIndex(p, as.stages[i].id);
        if (at == bench.source || bench.feed.network().reachesStage(i))
            point.flows.stages[at] = way.stages[i];
    }
    point.flows.stages[bench.source].state = StageState::on; // at its limit it still holds
    StageFlow& own = point.flows.stages[bench.charger];
    own.vIn = now.feed.volts;
    own.iIn = now.inputAmps;
    own.vOut = now.outputVolts;
    own.iOut = now.chargerAmps;
    own.state = StageState::on;
    bookLeg(p, p.stages[bench.charger].id, own.vOut, now.chargerAmps, bench.ambient, point);
    point.partC[bench.charger] =
        partTemperature(p.stages[bench.charger].part, now.loss, bench.ambient.value());
}

} // namespace

void bookLeg(const Project& p, const std::string& charger, double volts, double amps,
             Celsius ambient, OperatingPoint& point) {
    for (const Stage* s : chargeLeg(p, charger)) {
        const std::size_t at = stageIndex(p, s->id);
        StageFlow& f = point.flows.stages[at];
        f = {};
        f.vIn = volts;
        volts -= legPartOf(*s, ambient).volts(amps);
        f.vOut = volts;
        f.iIn = f.iOut = amps;
        f.state = StageState::on;
        point.partC[at] = partTemperature(s->part, f.loss(), ambient.value());
    }
}

void bookNode(const Project& p, const ChargeContext& bench, const NodePoint& at,
              OperatingPoint& point) {
    Flows node;
    if (!bench.node.flowsAt(at, node))
        return;
    for (std::size_t i = 0; i < p.stages.size(); ++i)
        if (i != bench.packAt && bench.node.network().reachesStage(i))
            point.flows.stages[i] = node.stages[i];
    for (std::size_t i = 0; i < p.loads.size(); ++i)
        if (bench.node.network().reachesLoad(i)) {
            point.flows.loads[i] = node.loads[i];
            const Window& w = p.loads[i].window;
            point.inside[i] =
                !underWindow(node.loads[i], w) && !exceeds(node.loads[i].v, w.max.value());
        }
    StageFlow& pack = point.flows.stages[bench.packAt];
    pack.vOut = at.volts;
    pack.iIn = pack.iOut = -at.packAmps;
    pack.state = StageState::on;
    point.flows.sourceVolts = at.volts;
    point.flows.sourceAmps = -at.packAmps;
}

OperatingPoint operateWithChargers(const Project& project, const Conditions& conditions,
                                   double charge, std::size_t mode) {
    OperatingPoint point = operate(project, conditions, charge, mode);
    if (point.collapse || point.flows.stages.empty())
        return point;
    for (const std::string& id : chargersOf(project)) {
        const auto sources = chargeSources(project, id);
        const auto there =
            std::find_first_of(sources.begin(), sources.end(), conditions.pluggedIn.begin(),
                               conditions.pluggedIn.end());
        if (there == sources.end())
            continue;
        ChargeOptions ask;
        ask.charger = id;
        ask.source = *there;
        ask.from = charge;
        ask.mode = mode;
        ask.ambient = conditions.ambient;
        ask.light = conditions.irradiance;
        if (conditions.irradiance <= 0 &&
            std::holds_alternative<Panel>(project.stage(*there)->part))
            continue; // night
        const auto bench = chargeContextOf(project, ask);
        if (!bench || refusal(*bench.value()))
            continue;
        const ChargeContext& b = *bench.value();
        const ChargerPoint now = b.limits.at(b.restVolts(charge), b.packOhms(charge), true);
        if (now.starved)
            continue;
        bookWay(project, b, now, point);
        bookNode(project, b, now.node, point);
    }
    return point;
}

} // namespace sipper
