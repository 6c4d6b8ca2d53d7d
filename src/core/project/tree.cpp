// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/tree.hpp"

#include "parts/kinds.hpp"

#include <algorithm>

namespace sipper {
namespace {

template <class List>
std::size_t indexIn(const List& list, std::string_view id) {
    const auto at =
        std::find_if(list.begin(), list.end(), [&](const auto& x) { return x.id == id; });
    return at == list.end() ? kNotFound : static_cast<std::size_t>(at - list.begin());
}

} // namespace

std::size_t stageIndex(const Project& p, std::string_view id) {
    return indexIn(p.stages, id);
}
std::size_t loadIndex(const Project& p, std::string_view id) {
    return indexIn(p.loads, id);
}
std::size_t modeIndex(const Project& p, std::string_view id) {
    return indexIn(p.modes, id);
}
std::size_t packIndex(const Project& p) {
    const Stage* pack = p.packStage();
    return pack ? stageIndex(p, pack->id) : kNotFound;
}

std::string nameAt(const Project& p, std::string_view id) {
    if (const Load* load = p.load(id))
        return nameOf(*load);
    if (const Stage* stage = p.stage(id))
        return nameOf(*stage);
    return std::string(id);
}

std::string listText(const std::vector<std::string>& names) {
    constexpr std::size_t kNamed = 3;
    if (names.size() > kNamed)
        return names[0] + ", " + names[1] + " and " + std::to_string(names.size() - 2) + " more";
    std::string out;
    for (std::size_t i = 0; i < names.size(); ++i)
        out += (i == 0 ? "" : i + 1 == names.size() ? " and " : ", ") + names[i];
    return out;
}

std::vector<const Stage*> pathToSource(const Project& p, std::string_view id) {
    std::vector<const Stage*> way;
    std::string at;
    if (const Load* load = p.load(id))
        at = load->fedBy;
    else if (const Stage* stage = p.stage(id); stage && !stage->fedBy.empty())
        at = stage->fedBy.front();
    while (!at.empty() && way.size() < p.stages.size()) {
        const Stage* stage = p.stage(at);
        if (!stage)
            break;
        way.push_back(stage);
        at = stage->fedBy.empty() ? "" : stage->fedBy.front();
    }
    return way;
}

const Stage* upstreamRegulator(const Project& p, std::string_view id) {
    for (const Stage* stage : pathToSource(p, id))
        if (isRegulator(stage->part))
            return stage;
    return nullptr;
}

std::vector<std::size_t> downstreamStages(const Project& p, std::string_view id,
                                          const std::function<bool(const Stage&)>& through) {
    std::vector<std::size_t> list;
    std::vector<char> seen(p.stages.size(), 0);
    std::vector<std::string> front{std::string(id)};
    while (!front.empty()) {
        std::vector<std::string> next;
        for (std::size_t i = 0; i < p.stages.size(); ++i) {
            const Stage& s = p.stages[i];
            const bool fed = std::any_of(s.fedBy.begin(), s.fedBy.end(), [&](const auto& feed) {
                return std::find(front.begin(), front.end(), feed) != front.end();
            });
            if (!fed || seen[i] || (through && !through(s)))
                continue;
            seen[i] = 1;
            list.push_back(i);
            next.push_back(s.id);
        }
        front = std::move(next);
    }
    return list;
}

std::set<std::string> downstreamIds(const Project& p, std::string_view id) {
    std::set<std::string> all{std::string(id)};
    for (const std::size_t i : downstreamStages(p, id))
        all.insert(p.stages[i].id);
    return all;
}

const Load* firstLoadBehind(const Project& p, std::string_view id) {
    if (const Load* load = p.load(id))
        return load;
    const auto all = downstreamIds(p, id);
    for (const Load& l : p.loads)
        if (all.contains(l.fedBy))
            return &l;
    return p.loads.empty() ? nullptr : &p.loads.front();
}

namespace {

bool onLegs(const Part& part) {
    return std::holds_alternative<Wire>(part) || std::holds_alternative<Fuse>(part) ||
           std::holds_alternative<Switch>(part) || std::holds_alternative<Diode>(part) ||
           std::holds_alternative<IdealDiode>(part);
}

} // namespace

std::vector<const Stage*> chargeLeg(const Project& p, std::string_view charger) {
    std::vector<const Stage*> leg;
    std::string_view at = charger;
    while (leg.size() < p.stages.size()) {
        const auto next = std::find_if(p.stages.begin(), p.stages.end(), [&](const Stage& s) {
            return onLegs(s.part) && !s.fedBy.empty() && s.fedBy.front() == at;
        });
        if (next == p.stages.end())
            break;
        leg.push_back(&*next);
        at = next->id;
    }
    return leg;
}

const Stage* chargerBefore(const Project& p, std::string_view id) {
    for (const Stage& s : p.stages)
        if (isCharger(s.part)) {
            const auto leg = chargeLeg(p, s.id);
            if (std::any_of(leg.begin(), leg.end(), [&](const Stage* l) { return l->id == id; }))
                return &s;
        }
    return nullptr;
}

std::vector<std::string> sourcesOf(const Project& p, const Stage& stage) {
    std::vector<std::string> roots;
    std::set<std::string> seen;
    std::vector<const Stage*> open{&stage};
    while (!open.empty()) {
        const Stage* s = open.front();
        open.erase(open.begin());
        if (isSource(s->part)) {
            roots.push_back(s->id);
            continue;
        }
        for (const std::string& feed : s->fedBy)
            if (const Stage* f = p.stage(feed); f && seen.insert(feed).second)
                open.push_back(f);
    }
    return roots;
}

} // namespace sipper
