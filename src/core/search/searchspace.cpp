// SPDX-License-Identifier: GPL-3.0-or-later
// What a search begins with: what the rails ask for, and what there is to choose from.
#include "search/feasibility.hpp"

#include "line/curve.hpp"
#include "line/line.hpp"
#include "line/schedule.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "parts/madeas.hpp"
#include "search/chargerchoice.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace sipper {
namespace {

constexpr double kHigher = 0.05; ///< V that a rail must be over another to feed it

double ampsAt(const Draw& d, double volts) {
    if (d.current)
        return d.current->value();
    if (d.power)
        return volts > 0 ? d.power->value() / volts : 0;
    if (d.resistance)
        return volts / d.resistance->value();
    return d.led ? d.led->value() : 0;
}

double burstAt(const Draw& d, double volts) {
    if (d.burst)
        return d.burst->value();
    if (d.burstOhms)
        return volts / d.burstOhms->value();
    return ampsAt(d, volts);
}

constexpr double kGuardLooks = 2; ///< s over which a load surely opens a guard that it sags under

/// How many hours the use of a pattern over the day may lag behind its mean, from the brief's start
/// on: 0 where every hour is alike.
double lagOf(const Project& p, const std::vector<double>& useOfMode) {
    const Schedule schedule(p);
    std::vector<double> use(schedule.settings.size(), 0);
    for (std::size_t s = 0; s < use.size(); ++s)
        for (const Share& share : schedule.settings[s].shares)
            use[s] += share.share * useOfMode[share.mode];
    const std::vector<double> hours = schedule.hoursBySetting();
    double mean = 0;
    for (std::size_t s = 0; s < use.size(); ++s)
        mean += use[s] * hours[s] / 24;
    if (mean <= 0)
        return 0;
    double lag = 0;
    double used = 0;
    double at = 0;
    double minute = p.brief.startMinutes();
    while (at < 24) {
        const Schedule::Now now = schedule.at(minute);
        const double step = std::clamp(now.minutesLeft / 60, 1e-3, 24 - at);
        used += use[now.setting] * step;
        at += step;
        minute = std::fmod(minute + step * 60, 1440);
        lag = std::max(lag, at - used / mean);
        if (step <= 1e-3)
            at += 1e-9;
    }
    return lag;
}

/// Hours after which a mode that is there has surely come round and lasted; negative where it is
/// over before a guard looks.
double roundOf(const Mode& mode) {
    constexpr double kHour = 3600;
    const double lasts = mode.duration ? mode.duration->value() : kGuardLooks;
    if (lasts < kGuardLooks)
        return -1;
    return ((mode.every ? mode.every->value() : 0) + lasts) / kHour;
}

bool bursts(const Project& p, std::size_t mode) {
    return std::any_of(p.loads.begin(), p.loads.end(), [&](const Load& load) {
        return std::any_of(load.draws.begin(), load.draws.end(), [&](const Draw& d) {
            return d.mode == p.modes[mode].id && d.hasBurst();
        });
    });
}

} // namespace

FeasibilityFilter::FeasibilityFilter(const Project& project, const Library& library,
                                     const SearchOptions& ask)
    : m_library(library), m_kept(keptOf(project)), m_schedule(project),
      m_segments(dayOf(project, m_schedule)) {
    const Brief& brief = project.brief;
    m_least = std::max(ask.leastHours.value_or(0),
                       brief.targetRuntime ? brief.targetRuntime->value() : 0);
    const auto lesser = [](std::optional<double> a, std::optional<double> b) {
        return a && b ? std::min(*a, *b) : a.value_or(b.value_or(0));
    };
    m_mostGrams =
        lesser(ask.mostGrams,
               brief.weightLimit ? std::optional(brief.weightLimit->value()) : std::nullopt);
    m_mostPrice = lesser(ask.mostPrice, brief.priceLimit);
    m_ambient = typicalConditions(project).ambient;
    m_headroom = std::max(1.0, brief.headroom.value_or(1));
    for (const Stage& s : m_kept.line) {
        m_fuse = m_fuse || std::holds_alternative<Fuse>(s.part);
        m_guard = m_guard || std::holds_alternative<Guard>(s.part);
        if (std::holds_alternative<Switch>(s.part)) {
            m_baseGrams += s.mass.value_or(Grams{0}).value();
            m_basePrice += s.price.value_or(0);
        }
    }
    m_baseGrams += m_kept.bare.massGrams();
    m_basePrice += m_kept.bare.totalPrice();
    m_charged = ask.charged;
    readNeeds(project);
    readParts();
    readCells(ask);
    readStructures();
    readPacks();
}

void FeasibilityFilter::readNeeds(const Project& p) {
    const std::vector<double> shares = m_schedule.modeShares(p.modes.size());
    std::vector<std::vector<RailDemand::InSlot>> needs; // by rail and mode
    double lag = 0;
    for (const Rail& rail : m_kept.rails) {
        RailDemand n;
        n.high = std::numeric_limits<double>::infinity();
        for (const std::size_t l : rail.loads) {
            const Window& w = p.loads[l].window;
            n.low = std::max(n.low, w.min.value());
            n.high = std::min(n.high, w.max.value());
            if (w.neverAbove)
                n.never =
                    n.never > 0 ? std::min(n.never, w.neverAbove->value()) : w.neverAbove->value();
            if (p.loads[l].noiseSensitive.value_or(false)) {
                // A filter right in front keeps the switching away.
                std::string at = m_kept.bare.loads[l].fedBy;
                bool filtered = false;
                while (const Stage* lead = at.empty() ? nullptr : m_kept.bare.stage(at)) {
                    filtered = filtered || std::holds_alternative<Filter>(lead->part);
                    at = lead->fedBy.empty() ? std::string() : lead->fedBy.front();
                }
                n.minds = n.minds || !filtered;
            }
        }
        std::vector<RailDemand::InSlot> inMode(p.modes.size());
        for (std::size_t m = 0; m < p.modes.size(); ++m) {
            RailDemand::InSlot& in = inMode[m];
            double amps = 0;
            double burst = 0;
            for (const std::size_t l : rail.loads) {
                const double low = p.loads[l].window.min.value();
                for (const Draw& d : p.loads[l].draws) {
                    if (d.mode != p.modes[m].id)
                        continue;
                    const double now = ampsAt(d, rail.set);
                    amps += now;
                    burst += std::max(now, burstAt(d, rail.set));
                    m_draws = m_draws || now > 0 || burstAt(d, rail.set) > 0;
                    // Bursts by amps take theirs in place of the draw; what else bursts is left
                    // out, which keeps the bound a bound.
                    const double bursts =
                        d.burst ? std::min(1.0, orZero(d.burstTime) * orZero(d.burstsPerSecond))
                                : 0;
                    const double calm = 1 - bursts;
                    const double straight = calm * (d.current ? d.current->value() : 0) +
                                            bursts * (d.burst ? d.burst->value() : 0);
                    const double power = calm * (d.power ? d.power->value() : 0);
                    const double across =
                        calm * (d.resistance ? low * low / d.resistance->value() : 0);
                    n.across = n.across || d.resistance || d.led || d.burstOhms;
                    in.least += straight * low + power + across;
                    in.amps += straight + power / rail.set +
                               calm * (d.resistance ? low / d.resistance->value() : 0);
                    in.straight += straight;
                    in.straightWatts += power + across;
                    in.watts += straight * rail.set + power + across;
                }
            }
            n.steady = std::max(n.steady, amps);
            n.burst = std::max(n.burst, burst);
        }
        // Losses grow faster than the current: the pattern of its square may lag more.
        std::vector<double> use;
        std::vector<double> squares;
        use.reserve(inMode.size());
        squares.reserve(inMode.size());
        for (const RailDemand::InSlot& in : inMode) {
            use.push_back(in.amps);
            squares.push_back(in.amps * in.amps);
        }
        lag = std::max({lag, lagOf(p, use), lagOf(p, squares)});
        needs.push_back(std::move(inMode));
        m_needs.push_back(n);
    }
    // The modes that take most have a slot each.
    std::vector<std::size_t> order(p.modes.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    const auto takes = [&](std::size_t m) {
        double watts = 0;
        for (const auto& rail : needs)
            watts += rail[m].watts * (shares[m] > 0 ? 1 : 0);
        return watts;
    };
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return takes(a) > takes(b); });
    for (std::size_t i = 0; i < order.size(); ++i)
        m_shares[std::min(i, kSlots - 1)] += shares[order[i]];
    for (std::size_t r = 0; r < m_needs.size(); ++r)
        for (std::size_t i = 0; i < order.size(); ++i) {
            const std::size_t slot = std::min(i, kSlots - 1);
            if (m_shares[slot] <= 0)
                continue;
            const double part = shares[order[i]] / m_shares[slot];
            const RailDemand::InSlot& in = needs[r][order[i]];
            RailDemand::InSlot& to = m_needs[r].slots[slot];
            to.amps += part * in.amps;
            to.peak = std::max(to.peak, in.amps);
            to.watts += part * in.watts;
            to.least += part * in.least;
            to.straight += part * in.straight;
            to.straightWatts += part * in.straightWatts;
        }
    m_seconds.fill(std::numeric_limits<double>::infinity());
    for (const ModeMix& setting : m_schedule.settings)
        for (const Share& share : setting.shares)
            if (share.share > 0) {
                const auto at = std::find(order.begin(), order.end(), share.mode);
                double& seconds =
                    m_seconds[std::min(static_cast<std::size_t>(at - order.begin()), kSlots - 1)];
                seconds = std::min(seconds, bursts(p, share.mode) ? 0 : share.seconds);
            }
    m_mostLag = lag;
    readDay(p, order, lag);
    m_fromLow.resize(m_kept.rails.size());
    std::iota(m_fromLow.begin(), m_fromLow.end(), std::size_t{0});
    std::stable_sort(m_fromLow.begin(), m_fromLow.end(), [&](std::size_t a, std::size_t b) {
        return m_kept.rails[a].set < m_kept.rails[b].set;
    });
}

/// The day as stretches, with the shares of each slot; one stretch of mean use where modes share a
/// slot.
void FeasibilityFilter::readDay(const Project& p, const std::vector<std::size_t>& order,
                                double lag) {
    const bool critical = std::any_of(p.loads.begin(), p.loads.end(),
                                      [](const Load& load) { return load.isCritical(); });
    m_round.fill(-1);
    std::vector<std::size_t> slotOf(p.modes.size(), kSlots);
    for (std::size_t i = 0; i < order.size() && i < kSlots; ++i) {
        slotOf[order[i]] = i;
        if (critical)
            m_round[i] = roundOf(p.modes[order[i]]);
    }
    if (order.size() > kSlots || m_segments.size() > kMostStretches) {
        m_day.assign(1, {24, m_shares});
        m_lag = lag;
        m_round.fill(-1);
        return;
    }
    for (const DaySegment& of : m_segments) {
        SlotSegment stretch;
        stretch.hours = of.hours;
        for (const Share& share : m_schedule.settings[of.setting].shares)
            stretch.shares[slotOf[share.mode]] += share.share;
        m_day.push_back(stretch);
    }
}

void FeasibilityFilter::readParts() {
    for (const LibraryPart& part : m_library.parts) {
        if (const auto* fuse = std::get_if<Fuse>(&part.stage.part);
            fuse && fuse->form != FuseForm::resettable)
            m_fuses.push_back(&part.stage);
        // Any cells, any number of them: those whose thresholds can be set.
        if (const auto* guard = std::get_if<Guard>(&part.stage.part);
            guard && guard->adjustable.value_or(false) && !guard->madeFor && !guard->seriesMin &&
            !guard->seriesMax)
            m_guards.push_back(&part.stage);
    }
    std::stable_sort(m_fuses.begin(), m_fuses.end(), [](const Stage* a, const Stage* b) {
        const double x = std::get<Fuse>(a->part).rating.value();
        const double y = std::get<Fuse>(b->part).rating.value();
        return std::pair(x, a->price.value_or(0)) < std::pair(y, b->price.value_or(0));
    });
    std::stable_sort(m_guards.begin(), m_guards.end(), [](const Stage* a, const Stage* b) {
        return std::pair(a->price.value_or(0), orZero(a->mass)) <
               std::pair(b->price.value_or(0), orZero(b->mass));
    });
    m_ways.resize(m_kept.rails.size());
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r) {
        const double set = m_kept.rails[r].set;
        FeedOption regulators;
        regulators.kind = FeedOption::Kind::regulator;
        FeedOption lower;
        for (std::size_t i = 0; i < m_library.parts.size(); ++i) {
            const Part& part = m_library.parts[i].stage.part;
            // What holds a current takes no voltage rail, and a part only what it can be set to.
            const auto range = setRangeOf(part);
            if (!isRegulator(part) || regulatesCurrent(part) || (range && !range->holds(set)))
                continue;
            regulators.parts.push_back(i);
            const auto* switcher = std::get_if<Switcher>(&part);
            if (!switcher || switcher->topology == Topology::buck)
                lower.parts.push_back(i);
        }
        // Of each part, those that are no worse in anything: it needs no run where one of them
        // fits.
        for (FeedOption* way : {&regulators, &lower})
            for (std::size_t i = 0; i < way->parts.size(); ++i) {
                std::vector<std::uint16_t> better;
                for (std::size_t k = 0; k < way->parts.size(); ++k) {
                    const Stage& a = m_library.parts[way->parts[k]].stage;
                    const Stage& b = m_library.parts[way->parts[i]].stage;
                    if (k != i && weaklyDominates(a, b, m_needs[r].across) &&
                        (k < i || !weaklyDominates(b, a, m_needs[r].across)))
                        better.push_back(static_cast<std::uint16_t>(k));
                }
                way->better.push_back(std::move(better));
            }
        m_ways[r].push_back({FeedOption::Kind::cells, 0, {0}, {{}}});
        m_ways[r].push_back(std::move(regulators));
        for (std::size_t h = 0; h < m_kept.rails.size(); ++h)
            if (m_kept.rails[h].set > set + kHigher) {
                FeedOption way = lower;
                way.kind = FeedOption::Kind::behind;
                way.rail = h;
                m_ways[r].push_back(std::move(way));
            }
    }
}

} // namespace sipper
