// SPDX-License-Identifier: GPL-3.0-or-later
#include "protect/backfeed.hpp"

#include "line/sources.hpp"
#include "line/unloaded.hpp"
#include "line/wiring.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kDarkPanelOhms =
    5; ///< of a dark panel of one, by its own junctions, at a volt over

bool blocks(const Stage& s) {
    const auto* select = std::get_if<Select>(&s.part);
    if (const auto* charger = std::get_if<Charger>(&s.part))
        return charger->topology != Topology::direct || orZero(charger->drop) > 0;
    return std::holds_alternative<Diode>(s.part) || std::holds_alternative<IdealDiode>(s.part) ||
           isRegulator(s.part) || (select && select->blocksBack.value_or(true));
}

/// The way from a stage back to a source along one feed: the stages between, the nearest first.
struct SourcePath {
    const Stage* source = nullptr;
    std::vector<const Stage*> stages;
    bool blocked = false;
    double ohms = 0;
};

SourcePath wayTo(const Project& p, const std::string& feed) {
    SourcePath way;
    const Stage* at = p.stage(feed);
    while (at) {
        if (isSource(at->part)) {
            way.source = at;
            way.ohms += ohmsInTheWay(at->part, p.brief.air().usual());
            return way;
        }
        way.stages.push_back(at);
        way.blocked = way.blocked || blocks(*at);
        way.ohms += ohmsInTheWay(at->part, p.brief.air().usual());
        at = at->fedBy.empty() ? nullptr : p.stage(at->fedBy.front());
    }
    return way;
}

double highVolts(const Stage& s) {
    if (const auto* pack = std::get_if<Pack>(&s.part))
        return fullVolts(*pack);
    return sourceModel(s.part).high;
}
double lowVolts(const Stage& s) {
    return sourceModel(s.part).low;
}

void meetAt(const Project& p, const Stage& meet, double ownOhms, std::vector<BackfeedPath>& out) {
    for (const std::string& a : meet.fedBy)
        for (const std::string& b : meet.fedBy) {
            if (a == b)
                continue;
            const SourcePath from = wayTo(p, a);
            const SourcePath into = wayTo(p, b);
            if (!from.source || !into.source || from.blocked || into.blocked ||
                from.source == into.source)
                continue;
            const double volts = highVolts(*from.source) - lowVolts(*into.source);
            if (volts <= 0)
                continue;
            BackfeedPath push;
            push.kind = isPack(from.source->part) && isPack(into.source->part)
                            ? BackfeedKind::packs
                            : BackfeedKind::sources;
            push.from = from.source->id;
            push.into = into.source->id;
            push.meet = meet.id;
            for (auto s = from.stages.rbegin(); s != from.stages.rend(); ++s)
                push.way.push_back((*s)->id);
            push.way.push_back(meet.id);
            for (const Stage* s : into.stages)
                push.way.push_back(s->id);
            push.volts = volts;
            const double ohms = from.ohms + into.ohms + ownOhms;
            push.unlimited = ohms <= 0;
            push.amps = ohms > 0 ? volts / ohms : 0;
            // A source that gives no more than its limit pushes no more.
            const double limit =
                isPack(from.source->part) ? 0 : sourceModel(from.source->part).limit;
            if (limit > 0) {
                push.amps = push.unlimited ? limit : std::min(push.amps, limit);
                push.unlimited = false;
            }
            out.push_back(std::move(push));
        }
}

/// The cells through a charger that does not block.
void throughCharger(const Project& p, const Stage& stage, std::vector<BackfeedPath>& out) {
    const auto& charger = std::get<Charger>(stage.part);
    const Stage* pack = p.stage(charger.charges);
    if (blocks(stage) || !pack)
        return;
    for (const std::string& feed : stage.fedBy) {
        const SourcePath way = wayTo(p, feed);
        if (!way.source || way.blocked)
            continue;
        BackfeedPath push;
        push.from = pack->id;
        push.into = way.source->id;
        push.meet = stage.id;
        push.way.push_back(stage.id);
        for (const Stage* s : way.stages)
            push.way.push_back(s->id);
        push.volts = highVolts(*pack);
        if (const auto* panel = std::get_if<Panel>(&way.source->part)) {
            push.kind = BackfeedKind::night;
            // In the dark a panel is a row of diodes: it takes what is over its own knee.
            const double knee = orZero(panel->vmp) * panel->countSeries.value_or(1);
            push.volts = std::max(0.0, push.volts - knee * 0.85);
            if (push.volts <= 0)
                push.volts = 0;
            push.amps =
                std::min(orZero(panel->shortCircuit) * panel->countParallel.value_or(1),
                         push.volts / (kDarkPanelOhms + way.ohms + orZero(charger.resistance)));
        } else {
            push.kind = BackfeedKind::socket;
        }
        out.push_back(std::move(push));
    }
}

/// The cells through a selector that lets them back onto an unplugged source's contacts.
void ontoContacts(const Project& p, const Stage& select, std::vector<BackfeedPath>& out) {
    for (const std::string& a : select.fedBy) {
        const SourcePath from = wayTo(p, a);
        if (!from.source || !isPack(from.source->part) || from.blocked)
            continue;
        for (const std::string& b : select.fedBy) {
            const SourcePath into = wayTo(p, b);
            if (a == b || !into.source || into.blocked || !isExternalSource(into.source->part))
                continue;
            BackfeedPath push;
            push.kind = BackfeedKind::socket;
            push.from = from.source->id;
            push.into = into.source->id;
            push.meet = select.id;
            push.way.push_back(select.id);
            for (const Stage* s : into.stages)
                push.way.push_back(s->id);
            push.volts = highVolts(*from.source);
            out.push_back(std::move(push));
        }
    }
}

} // namespace

std::vector<BackfeedPath> backfeedPaths(const Project& p) {
    std::vector<BackfeedPath> out;
    for (const Stage& stage : p.stages) {
        if (const auto* select = std::get_if<Select>(&stage.part);
            select && !select->blocksBack.value_or(true)) {
            meetAt(p, stage, 2 * orZero(select->resistance), out);
            ontoContacts(p, stage, out);
        } else if (isCharger(stage.part)) {
            meetAt(p, stage, 0, out);
            throughCharger(p, stage, out);
        }
    }
    return out;
}

} // namespace sipper
