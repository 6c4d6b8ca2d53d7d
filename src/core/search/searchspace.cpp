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

constexpr double kMostParallel = 6;
constexpr double kMostPackVolts = 60; ///< where no input says less: extra-low voltage
constexpr double kMostSeries = 40;
constexpr std::size_t kCurveSteps = 24;
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

void FeasibilityFilter::readCells(const SearchOptions& ask) {
    std::vector<std::size_t> counts;
    if (!ask.hand.empty()) {
        // Lots of one size and chemistry, without what is to be thrown away.
        std::vector<bool> taken(ask.hand.size(), false);
        for (std::size_t i = 0; i < ask.hand.size(); ++i) {
            if (taken[i])
                continue;
            std::vector<std::vector<std::size_t>> lot(1);
            for (std::size_t j = i; j < ask.hand.size(); ++j)
                if (ask.hand[j].size == ask.hand[i].size &&
                    ask.hand[j].chemistry == ask.hand[i].chemistry) {
                    taken[j] = true;
                    if (ask.hand[j].ah && judge(ask.hand[j], m_library).discardReasons.empty())
                        lot[0].push_back(j);
                }
            const LibraryPart* type = typeOf(ask.hand[i], m_library);
            if (lot[0].empty() || !type)
                continue;
            CellMatch match;
            match.groups = lot;
            LibraryPart part = *type;
            Pack pack = packOf(ask.hand, match, *type);
            pack.series = 1;
            pack.parallel = 1;
            pack.weakestGroup.reset();
            part.stage.part = pack;
            part.own = true;
            m_cellParts.push_back(std::move(part));
            counts.push_back(lot[0].size());
        }
    } else {
        for (const LibraryPart& part : m_library.parts) {
            const auto* pack = std::get_if<Pack>(&part.stage.part);
            if (!pack)
                continue;
            const bool wanted = ask.cells.empty() ||
                                std::any_of(ask.cells.begin(), ask.cells.end(), [&](const auto& c) {
                                    return c == part.name || c == pack->cell.id;
                                });
            if (!wanted)
                continue;
            m_cellParts.push_back(part);
            counts.push_back(0);
        }
    }
    const CellCare care = m_kept.care.value_or(CellCare::balanced);
    for (std::size_t i = 0; i < m_cellParts.size(); ++i) {
        const Pack& pack = std::get<Pack>(m_cellParts[i].stage.part);
        const Cell& cell = pack.cell;
        CellKind k;
        k.part = i;
        k.block = std::max(1.0, pack.series);
        k.most = counts[i];
        const PackModel model(pack, m_ambient);
        k.full = std::max(orZero(cell.full), model.openCircuitAt(1));
        const double school = policyCutoff(cell.chemistry, care);
        k.cutoff = school > 0 ? school : cell.empty ? cell.empty->value() : model.openCircuitAt(0);
        double usable = model.usable;
        if (m_kept.bare.brief.box) {
            // A closed box warms the cells: by no more than their best.
            double best = factorAt(cell.capacityByC, m_ambient.value());
            for (const auto& [c, factor] : cell.capacityByC)
                best = std::max(best, factor);
            usable *= best / std::max(1e-9, factorAt(cell.capacityByC, m_ambient.value()));
        }
        k.ah = usable;
        k.self = model.selfAmps;
        // In a closed box it may be any warmth: no ohms are sure.
        const bool warm = m_kept.bare.brief.box.has_value();
        for (std::size_t m = 0; m < kSlots && !warm; ++m)
            k.slow[m] =
                m_seconds[m] > 0 ? model.relaxation * rcSettlingAfter(m_seconds[m], model.tau) : 0;
        for (std::size_t s = 0; s < kCurveSteps; ++s) {
            const double upper = 1 - static_cast<double>(s) / kCurveSteps;
            double ohms = warm ? 0 : model.resistanceAt(upper);
            for (const auto& [charge, factor] : model.resistanceByCharge)
                if (charge < upper)
                    ohms = std::min(ohms, model.resistance * factor);
            k.steps.push_back({model.openCircuitAt(upper), usable / kCurveSteps, ohms});
            k.ohms = s == 0 ? ohms : std::min(k.ohms, ohms);
            const double down = (k.full - k.steps.back().volts) / std::max(1e-9, k.full - k.cutoff);
            if (down <= 1 || !m_guard)
                k.levelAh[std::min(static_cast<std::size_t>(std::max(0.0, down) * kLevels),
                                   kLevels - 1)] += k.steps.back().ah;
        }
        m_cells.push_back(std::move(k));
        m_models.push_back(model);
    }
    m_near.reserve(m_models.size());
    for (const PackModel& model : m_models)
        m_near.emplace_back(model, m_schedule, m_segments);
}

void FeasibilityFilter::readStructures() {
    std::vector<std::size_t> ways(m_kept.rails.size(), 0);
    const auto build = [&](const auto& self, std::size_t r) -> void {
        if (r == m_kept.rails.size()) {
            RailTopology s;
            s.ways = ways;
            s.count = 1;
            for (std::size_t k = 0; k < ways.size(); ++k) {
                const FeedOption& way = m_ways[k][ways[k]];
                s.count *= way.parts.size();
                // Behind a rail that has no regulator there is nothing to hang on.
                if (way.kind == FeedOption::Kind::behind &&
                    m_ways[way.rail][ways[way.rail]].kind == FeedOption::Kind::cells)
                    return;
            }
            if (s.count > 0)
                m_structures.push_back(std::move(s));
            return;
        }
        for (ways[r] = 0; ways[r] < m_ways[r].size(); ++ways[r])
            self(self, r + 1);
    };
    build(build, 0);
    for (const RailTopology& s : m_structures)
        m_perPack += s.count;
    m_behind.resize(m_kept.rails.size());
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r)
        for (const FeedOption& way : m_ways[r]) {
            std::vector<RailOption> looks;
            if (way.kind == FeedOption::Kind::behind)
                for (const std::size_t i : way.parts) {
                    const double from = m_kept.rails[way.rail].set;
                    looks.push_back(optionFor(m_library.parts[i].stage, m_needs[r],
                                              m_kept.rails[r].set, from, from));
                }
            m_behind[r].push_back(std::move(looks));
        }
}

void FeasibilityFilter::readPacks() {
    double most = 0;
    bool any = false;
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r) {
        for (const std::size_t i : m_ways[r][1].parts)
            if (const ActivePart* a = active(m_library.parts[i].stage.part);
                a && a->inputNeverAbove) {
                most = std::max(most, a->inputNeverAbove->value());
                any = true;
            }
        const double straight = m_needs[r].never > 0 ? m_needs[r].never : m_needs[r].high;
        if (std::isfinite(straight))
            most = std::max(most, straight);
    }
    if (!any)
        most = kMostPackVolts;
    const auto& ways = m_kept.bare.brief.refilledBy;
    const auto chargeable = [&](const Pack& unit, double series, double parallel) {
        if (!m_charged || !ways || ways->empty())
            return true;
        Pack pack = unit;
        countCells(pack, series, parallel);
        return std::any_of(ways->begin(), ways->end(),
                           [&](const std::string& by) { return canRefill(pack, by, m_library); });
    };
    std::map<std::array<double, 3>, std::size_t> groups;
    for (std::size_t c = 0; c < m_cells.size(); ++c) {
        const CellKind& k = m_cells[c];
        const Pack& unit = std::get<Pack>(m_cellParts[k.part].stage.part);
        for (double s = k.block; s <= kMostSeries && s * k.full <= most + kSieveEps; s += k.block)
            for (double p = 1; p <= kMostParallel; ++p) {
                const double parallel = p * std::max(1.0, unit.parallel);
                if (k.most > 0 && s * parallel > static_cast<double>(k.most))
                    break;
                if (!chargeable(unit, s, parallel))
                    continue;
                const auto [at, fresh] = groups.try_emplace({s, k.cutoff, k.full}, m_groups.size());
                if (fresh)
                    m_groups.emplace_back();
                m_groups[at->second].push_back(m_packs.size());
                m_packs.push_back({c, s, parallel});
            }
    }
}

} // namespace sipper
