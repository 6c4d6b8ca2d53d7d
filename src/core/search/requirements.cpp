// SPDX-License-Identifier: GPL-3.0-or-later
#include "search/requirements.hpp"

#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/library.hpp"
#include "project/roles.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <map>
#include <set>

namespace sipper {
namespace {

/// The volts that all windows of a rail have in common, in their middle; the first load's own where
/// they have none.
double commonVolts(const Project& p, const Rail& rail) {
    double low = 0;
    double high = 1e9;
    for (const std::size_t l : rail.loads) {
        low = std::max(low, p.loads[l].window.min.value());
        high = std::min(high, p.loads[l].window.max.value());
    }
    const double first = p.loads[rail.loads.front()].window.middle().value();
    return low <= first && first <= high ? first : low <= high ? (low + high) / 2 : first;
}

/// The part named for its place, or as what stood there was named.
Stage placed(const Project& project, const std::optional<Stage>& stood, Stage part) {
    return stood ? placedInstead(project, *stood, std::move(part))
                 : placedPart(project, std::move(part));
}

} // namespace

Requirements keptOf(const Project& p) {
    Requirements k;
    k.bare = p;
    k.bare.stages.clear();
    k.bare.variants.clear();
    k.bare.readings = {};
    k.packId = p.packStage() ? p.packStage()->id : freeId(p, "cells");
    if (p.packStage())
        k.pack = *p.packStage();
    k.care = p.brief.cellCare;
    for (const Stage& s : p.stages)
        if (s.fedBy.empty() && !std::holds_alternative<Pack>(s.part))
            k.sources.push_back(s);
    std::map<std::string, std::size_t> railOf;
    for (std::size_t l = 0; l < p.loads.size(); ++l) {
        const Stage* regulator = upstreamRegulator(p, p.loads[l].id);
        const std::string id = regulator ? regulator->id : std::string();
        const auto [at, fresh] = railOf.try_emplace(id, k.rails.size());
        if (fresh) {
            Rail rail;
            rail.regulated = regulator != nullptr;
            rail.id = regulator ? id : freeId(p, "regulator");
            if (regulator) {
                rail.stood = *regulator;
                rail.set = orZero(setPointOf(regulator->part));
            }
            k.rails.push_back(std::move(rail));
        }
        k.rails[at->second].loads.push_back(l);
    }
    for (Rail& rail : k.rails)
        if (!rail.regulated || rail.set <= 0)
            rail.set = commonVolts(p, rail);
    // Leads and filters right in front of the loads; the last of them hangs on what is to come.
    std::set<std::string> taken;
    for (std::size_t r = 0; r < k.rails.size(); ++r)
        for (const std::size_t l : k.rails[r].loads) {
            std::vector<const Stage*> leads;
            for (const Stage* stage : pathToSource(p, p.loads[l].id)) {
                if (!std::holds_alternative<Wire>(stage->part) &&
                    !std::holds_alternative<Filter>(stage->part))
                    break;
                leads.push_back(stage);
            }
            if (leads.empty())
                k.bare.loads[l].fedBy.clear();
            for (std::size_t i = 0; i < leads.size(); ++i) {
                if (!taken.insert(leads[i]->id).second)
                    continue; // several loads share it
                k.bare.stages.push_back(*leads[i]);
                k.leadRail.push_back(r);
                if (i + 1 == leads.size())
                    k.bare.stages.back().fedBy.clear();
            }
        }
    const std::string source = p.packStage() ? p.packStage()->id : std::string();
    std::vector<const Stage*> order;
    if (!source.empty())
        for (const std::size_t i : downstreamStages(p, source))
            order.push_back(&p.stages[i]);
    bool fuse = false;
    bool guard = false;
    bool switched = false;
    for (const Stage* s : order) {
        bool* seen = std::holds_alternative<Fuse>(s->part)     ? &fuse
                     : std::holds_alternative<Guard>(s->part)  ? &guard
                     : std::holds_alternative<Switch>(s->part) ? &switched
                                                               : nullptr;
        if (!seen || *seen)
            continue;
        *seen = true;
        k.line.push_back(*s);
    }
    return k;
}

Project assembleSupply(const Requirements& k, const Supply& supply) {
    Project out = k.bare;
    std::vector<Stage> leads = std::move(out.stages);
    out.stages.clear();
    Stage pack;
    pack.id = k.packId;
    pack.part = supply.pack;
    out.stages.push_back(placed(out, k.pack, std::move(pack)));
    std::string end = k.packId;
    for (const Stage& stood : k.line) {
        Stage s = stood;
        // Id and place stay; the part is the one that fits.
        const std::optional<Stage>* fresh = std::holds_alternative<Fuse>(s.part)    ? &supply.fuse
                                            : std::holds_alternative<Guard>(s.part) ? &supply.guard
                                                                                    : nullptr;
        if (fresh && *fresh) {
            s = placedInstead(out, stood, **fresh);
            s.connector = stood.connector;
        }
        s.fedBy = {end};
        s.feedsListed = false;
        end = s.id;
        out.stages.push_back(std::move(s));
    }
    std::vector<std::string> feeds(k.rails.size(), end);
    for (std::size_t r = 0; r < k.rails.size(); ++r)
        if (supply.rails[r].regulator)
            feeds[r] = k.rails[r].id;
    // Those behind others come after them.
    std::vector<std::size_t> order;
    for (std::size_t round = 0; order.size() < k.rails.size() && round <= k.rails.size(); ++round)
        for (std::size_t r = 0; r < k.rails.size(); ++r) {
            const bool there = std::find(order.begin(), order.end(), r) != order.end();
            const auto& behind = supply.rails[r].behind;
            if (!there &&
                (!behind || std::find(order.begin(), order.end(), *behind) != order.end()))
                order.push_back(r);
        }
    for (const std::size_t r : order) {
        const Supply::Fed& fed = supply.rails[r];
        if (!fed.regulator)
            continue;
        Stage s = *fed.regulator;
        s.id = k.rails[r].id;
        s.fedBy = {fed.behind ? k.rails[*fed.behind].id : end};
        s.feedsListed = false;
        s.connector.reset();
        static_cast<void>(setPointTo(s.part, Volts{k.rails[r].set}));
        out.stages.push_back(placed(out, k.rails[r].stood, std::move(s)));
    }
    for (std::size_t i = 0; i < leads.size(); ++i) {
        if (leads[i].fedBy.empty())
            leads[i].fedBy = {feeds[k.leadRail[i]]};
        out.stages.push_back(leads[i]);
    }
    for (std::size_t r = 0; r < k.rails.size(); ++r)
        for (const std::size_t l : k.rails[r].loads)
            if (out.loads[l].fedBy.empty())
                out.loads[l].fedBy = feeds[r];
    return out;
}

} // namespace sipper
