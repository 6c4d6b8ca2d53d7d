// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/project.hpp"

#include "parts/fields.hpp"
#include "parts/figures.hpp"
#include "parts/madeas.hpp"
#include "project/variants.hpp"

#include <algorithm>
#include <fmt/format.h>
#include <map>
#include <set>

namespace sipper {
namespace {

using Trouble = std::optional<Error>;

constexpr double kShareSlack = 1e-9; ///< rounding of duration over period

Trouble trouble(const char* code, std::string where, std::string found, std::string expected) {
    return Error{code, std::move(where), std::move(found), std::move(expected), ""};
}

Trouble checkIds(const Project& p) {
    std::map<std::string, std::string> seen;
    const auto take = [&](const std::string& id, const std::string& where) -> Trouble {
        const auto [at, fresh] = seen.emplace(id, where);
        if (fresh)
            return std::nullopt;
        return trouble("double_id", where + "/id",
                       fmt::format("\"{}\", already at {}", id, at->second), "an id of its own");
    };
    for (std::size_t i = 0; i < p.stages.size(); ++i)
        if (auto t = take(p.stages[i].id, fmt::format("/stages/{}", i)))
            return t;
    for (std::size_t i = 0; i < p.loads.size(); ++i)
        if (auto t = take(p.loads[i].id, fmt::format("/loads/{}", i)))
            return t;
    seen.clear();
    for (std::size_t i = 0; i < p.modes.size(); ++i)
        if (auto t = take(p.modes[i].id, fmt::format("/modes/{}", i)))
            return t;
    return std::nullopt;
}

Trouble checkFeeds(const Project& p) {
    for (std::size_t i = 0; i < p.stages.size(); ++i) {
        const Stage& s = p.stages[i];
        for (std::size_t k = 0; k < s.fedBy.size(); ++k) {
            const std::string where = s.feedsListed ? fmt::format("/stages/{}/fed_by/{}", i, k)
                                                    : fmt::format("/stages/{}/fed_by", i);
            if (!p.stage(s.fedBy[k]))
                return trouble("dangling_id", where, "\"" + s.fedBy[k] + "\"", "the id of a stage");
            if (std::count(s.fedBy.begin(), s.fedBy.end(), s.fedBy[k]) > 1)
                return trouble("double_id", where, "\"" + s.fedBy[k] + "\" twice",
                               "each feed once");
        }
        if (const Charger* c = std::get_if<Charger>(&s.part)) {
            const Stage* pack = p.stage(c->charges);
            if (!pack || !std::holds_alternative<Pack>(pack->part))
                return trouble("dangling_id", fmt::format("/stages/{}/charges", i),
                               "\"" + c->charges + "\"", "the id of a pack");
        }
    }
    for (std::size_t i = 0; i < p.loads.size(); ++i)
        if (!p.stage(p.loads[i].fedBy))
            return trouble("dangling_id", fmt::format("/loads/{}/fed_by", i),
                           "\"" + p.loads[i].fedBy + "\"", "the id of a stage");
    return std::nullopt;
}

/// Depth-first over feeds; a stage met again on its own way closes a loop.
Trouble checkLoops(const Project& p) {
    std::map<std::string, std::size_t> index;
    for (std::size_t i = 0; i < p.stages.size(); ++i)
        index[p.stages[i].id] = i;
    enum class Mark { fresh, open, done };
    std::vector<Mark> marks(p.stages.size(), Mark::fresh);
    struct Visit {
        std::size_t stage;
        std::size_t feed;
    };
    for (std::size_t start = 0; start < p.stages.size(); ++start) {
        if (marks[start] != Mark::fresh)
            continue;
        std::vector<Visit> way{{start, 0}};
        marks[start] = Mark::open;
        while (!way.empty()) {
            Visit& v = way.back();
            const Stage& s = p.stages[v.stage];
            if (v.feed == s.fedBy.size()) {
                marks[v.stage] = Mark::done;
                way.pop_back();
                continue;
            }
            const std::size_t next = index.at(s.fedBy[v.feed++]);
            if (marks[next] == Mark::open)
                return trouble("loop", fmt::format("/stages/{}/fed_by", v.stage),
                               "\"" + p.stages[next].id + "\", which is fed by it in turn",
                               "a line without a loop");
            if (marks[next] == Mark::fresh) {
                marks[next] = Mark::open;
                way.push_back({next, 0});
            }
        }
    }
    return std::nullopt;
}

Trouble checkModeKind(const Project& p, std::size_t i) {
    const Mode& m = p.modes[i];
    const std::string at = fmt::format("/modes/{}", i);
    const int kinds =
        (m.isBase() ? 1 : 0) + (m.duration || m.every ? 1 : 0) + (m.isWindowed() ? 1 : 0);
    if (kinds != 1)
        return trouble("mode_kind", at, kinds == 0 ? "none of them" : "several of them",
                       "one of base, duration_s with every_s, and daily");
    if (m.duration.has_value() != m.every.has_value())
        return trouble("mode_kind", at + (m.duration ? "/every_s" : "/duration_s"), "nothing",
                       m.duration ? "every_s, because duration_s is given"
                                  : "duration_s, because every_s is given");
    if (m.duration && *m.duration > *m.every)
        return trouble("shares", at + "/duration_s",
                       fmt::format("{} s of every {} s", m.duration->value(), m.every->value()),
                       fmt::format("mode \"{}\" to last no longer than its period", m.id));
    for (std::size_t k = 0; k < m.daily.size(); ++k)
        if (m.daily[k].first == m.daily[k].second)
            return trouble("window", fmt::format("{}/daily/{}", at, k),
                           fmt::format("{} to {}", m.daily[k].first, m.daily[k].second),
                           "a window that has a length");
    if (m.within.empty())
        return std::nullopt;
    const Mode* outer = p.mode(m.within);
    if (!outer)
        return trouble("dangling_id", at + "/within", "\"" + m.within + "\"", "the id of a mode");
    if (!outer->isWindowed() || !m.repeats())
        return trouble("within", at + "/within", "\"" + m.within + "\"",
                       "a repeating mode within a mode that has daily windows");
    return std::nullopt;
}

std::set<int> minutesOf(const Mode& m) {
    std::set<int> minutes;
    for (const auto& [from, to] : m.daily) {
        const int a = clockMinutes(from).value_or(0) % 1440;
        int b = clockMinutes(to).value_or(0);
        if (b <= a)
            b += 1440;
        for (int t = a; t < b; ++t)
            minutes.insert(t % 1440);
    }
    return minutes;
}

/// At no moment may the modes ask for more than the whole time.
Trouble checkShares(const Project& p) {
    std::map<int, std::string> taken;
    for (std::size_t i = 0; i < p.modes.size(); ++i)
        for (const int minute : minutesOf(p.modes[i])) {
            const auto [at, fresh] = taken.emplace(minute, p.modes[i].id);
            if (!fresh)
                return trouble("shares", fmt::format("/modes/{}/daily", i),
                               fmt::format("mode \"{}\" and mode \"{}\" both at {}", p.modes[i].id,
                                           at->second, clockText(minute)),
                               "one mode at a time");
        }
    std::set<std::string> settings{""};
    for (const Mode& m : p.modes)
        if (m.isWindowed())
            settings.insert(m.id);
    for (const std::string& window : settings) {
        double sum = 0;
        for (std::size_t i = 0; i < p.modes.size(); ++i) {
            const Mode& m = p.modes[i];
            if (!m.repeats() || (!m.within.empty() && m.within != window))
                continue;
            sum += m.duration->value() / m.every->value();
            if (sum > 1 + kShareSlack)
                return trouble("shares", fmt::format("/modes/{}/duration_s", i),
                               fmt::format("{:.0f} % of the time with mode \"{}\"{}", sum * 100,
                                           m.id,
                                           window.empty() ? "" : " within \"" + window + "\""),
                               "shares that add up to no more than 100 %");
        }
    }
    return std::nullopt;
}

Trouble checkModes(const Project& p) {
    std::size_t bases = 0;
    for (std::size_t i = 0; i < p.modes.size(); ++i) {
        if (auto t = checkModeKind(p, i))
            return t;
        if (p.modes[i].isBase() && ++bases > 1)
            return trouble("base_mode", fmt::format("/modes/{}/base", i), "a second base mode",
                           "exactly one base mode");
    }
    if (bases == 0)
        return trouble("base_mode", "/modes", "no base mode",
                       "exactly one mode with \"base\": true");
    return checkShares(p);
}

Trouble checkDrivers(const Project& p) {
    for (std::size_t i = 0; i < p.stages.size(); ++i)
        if (regulatesCurrent(p.stages[i].part)) {
            const ActivePart& a = *active(p.stages[i].part);
            if (!(orZero(a.setAmps) > 0))
                return trouble("set_a", fmt::format("/stages/{}/set_a", i),
                               a.setAmps ? fmt::format("{} A", a.setAmps->value()) : "nothing",
                               "amps above 0, because it regulates current");
        }
    return std::nullopt;
}

Trouble checkDraw(const Project& p, const Draw& d, const std::string& at) {
    if (!p.mode(d.mode))
        return trouble("dangling_id", at + "/mode", "\"" + d.mode + "\"", "the id of a mode");
    if (d.hasBurst() != d.burstTime.has_value())
        return trouble("burst", at + (d.hasBurst() ? "/burst_s" : "/burst_a"), "nothing",
                       d.hasBurst() ? "burst_s, because a burst is given"
                                    : "burst_a or burst_ohm, because burst_s is given");
    if (d.burstsPerSecond && !d.hasBurst())
        return trouble("burst", at + "/burst_a", "nothing",
                       "burst_a or burst_ohm, because bursts_per_s is given");
    if (d.burstsPerSecond && d.burstsPerSecond->value() * d.burstTime->value() > 1 + kShareSlack)
        return trouble("burst", at + "/bursts_per_s",
                       fmt::format("{} bursts of {} s each second", d.burstsPerSecond->value(),
                                   d.burstTime->value()),
                       "bursts that fit into their time");
    return std::nullopt;
}

Trouble checkLoads(const Project& p) {
    for (std::size_t i = 0; i < p.loads.size(); ++i) {
        const Load& l = p.loads[i];
        const std::string at = fmt::format("/loads/{}", i);
        if (l.window.min > l.window.max)
            return trouble("window", at + "/window/min_v", fmt::format("{}", l.window.min.value()),
                           fmt::format("no more than max_v, {}", l.window.max.value()));
        std::set<std::string> modes;
        for (std::size_t k = 0; k < l.draws.size(); ++k) {
            const std::string here = fmt::format("{}/draws/{}", at, k);
            if (l.draws[k].ledVolts && !(*l.draws[k].ledVolts < l.window.middle()))
                return trouble(
                    "draw", here + "/led_v", fmt::format("{} V", l.draws[k].ledVolts->value()),
                    fmt::format("less than the window's nominal, {} V", l.window.middle().value()));
            if (auto t = checkDraw(p, l.draws[k], here))
                return t;
            if (!modes.insert(l.draws[k].mode).second)
                return trouble("double_id", here + "/mode", "\"" + l.draws[k].mode + "\" again",
                               "one draw for each mode");
        }
    }
    return std::nullopt;
}

} // namespace

std::optional<Error> checkReadings(const Project& document) {
    if (document.readings.all().empty())
        return std::nullopt;
    std::set<std::string> places;
    std::set<std::string> modes;
    const auto take = [&](const auto& supply) {
        for (const Stage& s : supply.stages)
            places.insert(s.id);
        for (const Load& l : supply.loads)
            places.insert(l.id);
        for (const Mode& m : supply.modes)
            modes.insert(m.id);
    };
    take(document);
    for (const Variant& variant : document.variants)
        take(variant);
    std::set<std::string> before;
    const auto& readings = document.readings.all();
    for (std::size_t i = 0; i < readings.size(); ++i) {
        const Reading& r = readings[i];
        const std::string at = fmt::format("/readings/{}", i);
        if (!places.contains(r.at))
            return trouble("dangling_id", at + "/at", "\"" + r.at + "\"",
                           "the id of a stage or load");
        if (!r.mode.empty() && !modes.contains(r.mode))
            return trouble("dangling_id", at + "/mode", "\"" + r.mode + "\"", "the id of a mode");
        if (!r.supersedes.empty() && !before.contains(r.supersedes))
            return trouble("dangling_id", at + "/supersedes", "\"" + r.supersedes + "\"",
                           "the id of a reading before it");
        if (!before.insert(r.id).second)
            return trouble("double_id", at + "/id", "\"" + r.id + "\" again", "an id of its own");
    }
    return std::nullopt;
}

std::optional<Error> checkSupply(const Project& p) {
    for (const auto& check :
         {checkIds, checkFeeds, checkLoops, checkDrivers, checkModes, checkLoads})
        if (auto t = check(p))
            return t;
    return std::nullopt;
}

std::optional<Error> checkProject(const Project& p) {
    if (auto t = checkSupply(p))
        return t;
    std::set<std::string> names{variantName(p, 0)};
    for (std::size_t i = 0; i < p.variants.size(); ++i) {
        const std::string at = fmt::format("/variants/{}", i);
        const std::string& name = p.variants[i].name;
        if (name.empty())
            return trouble("missing", at + "/name", "nothing", "a name, such as B");
        if (!names.insert(name).second)
            return trouble("double_id", at + "/name", "\"" + name + "\" again",
                           "a name of its own");
        if (auto t = checkSupply(variantProject(p, i + 1))) {
            t->where = at + t->where;
            return t;
        }
    }
    return checkReadings(p);
}

} // namespace sipper
