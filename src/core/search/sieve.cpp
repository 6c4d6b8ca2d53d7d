#include "search/sieve.hpp"

#include "line/curve.hpp"
#include "line/line.hpp"
#include "line/schedule.hpp"
#include "parts/cellsize.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numeric>

namespace sipper {
namespace {

constexpr double kMostParallel = 6;
constexpr double kMostVolts = 60; ///< where no input says less: extra-low voltage
constexpr double kMostSeries = 40;
constexpr double kFills = 0.8; ///< of the room, by the cells as blocks
constexpr double kFuseLoad =
    0.75; ///< of its rating that a fuse carries for good (design: protection)
constexpr double kSlowBurst = 2;  ///< times its rating that a slow one carries for a burst
constexpr double kGuess = 0.85;   ///< efficiency by which fuse and guard are chosen
constexpr double kSag = 0.8;      ///< of the lowest volts, at which a buck surely still regulates
constexpr double kBound = 1.0005; ///< over the bound, for what a run rounds
constexpr std::size_t kCurveSteps = 48;
constexpr std::size_t kNearest = 3;
constexpr double kHigher = 0.05; ///< V that a rail must be over another to feed it
constexpr double kEps = 1e-9;

constexpr std::uint8_t rankOf(Fell fell) {
    return static_cast<std::uint8_t>(fell);
}

double ampsAt(const Draw& d, double volts) {
    if (d.current)
        return d.current->value();
    if (d.power)
        return volts > 0 ? d.power->value() / volts : 0;
    if (d.resistance)
        return volts / d.resistance->value();
    return d.light ? d.light->value() : 0;
}

double burstAt(const Draw& d, double volts) {
    if (d.burst)
        return d.burst->value();
    if (d.burstOhms)
        return volts / d.burstOhms->value();
    return ampsAt(d, volts);
}

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

/// Share of the day that each mode has.
std::vector<double> modeShares(const Project& p) {
    const Schedule schedule(p);
    const std::vector<double> hours = schedule.hoursBySetting();
    std::vector<double> shares(p.modes.size(), 0);
    for (std::size_t s = 0; s < schedule.settings.size(); ++s)
        for (const Share& share : schedule.settings[s].shares)
            shares[share.mode] += share.share * hours[s] / 24;
    return shares;
}

void keepNearest(std::vector<Miss>& list, Miss miss) {
    const auto at =
        std::upper_bound(list.begin(), list.end(), miss, [](const Miss& a, const Miss& b) {
            return std::tie(a.by, a.number) < std::tie(b.by, b.number);
        });
    if (at == list.end() && list.size() >= kNearest)
        return;
    list.insert(at, std::move(miss));
    if (list.size() > kNearest)
        list.pop_back();
}

} // namespace

void Front::add(double hours, double grams, double price) {
    if (beats(hours, grams, price))
        return;
    std::erase_if(m_points,
                  [&](const auto& p) { return hours >= p[0] && grams <= p[1] && price <= p[2]; });
    m_points.push_back({hours, grams, price});
}

bool Front::beats(double hours, double grams, double price) const {
    return std::any_of(m_points.begin(), m_points.end(), [&](const auto& p) {
        return p[0] >= hours && p[1] <= grams && p[2] <= price;
    });
}

Sieve::Sieve(const Project& project, const Library& library, const SearchAsk& ask)
    : m_library(library), m_kept(keptOf(project)) {
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
    readNeeds(project);
    readParts();
    readCells(ask);
    readStructures();
    readPacks();
}

void Sieve::readNeeds(const Project& p) {
    const std::vector<double> shares = modeShares(p);
    for (const Rail& rail : m_kept.rails) {
        RailNeed n;
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
        for (std::size_t m = 0; m < p.modes.size(); ++m) {
            double amps = 0;
            double burst = 0;
            double least = 0;
            double passed = 0;
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
                        d.burst ? std::min(1.0, plain(d.burstTime) * plain(d.burstsPerSecond)) : 0;
                    const double calm = 1 - bursts;
                    const double straight = calm * (d.current ? d.current->value() : 0) +
                                            bursts * (d.burst ? d.burst->value() : 0);
                    const double power = calm * (d.power ? d.power->value() : 0);
                    const double across =
                        calm * (d.resistance ? low * low / d.resistance->value() : 0);
                    n.across = n.across || d.resistance || d.light || d.burstOhms;
                    least += straight * low + power + across;
                    passed += straight + power / rail.set +
                              calm * (d.resistance ? low / d.resistance->value() : 0);
                    n.straight += shares[m] * straight;
                    n.straightWatts += shares[m] * (power + across);
                    n.meanWatts += shares[m] * (straight * rail.set + power + across);
                }
            }
            n.steady = std::max(n.steady, amps);
            n.burst = std::max(n.burst, burst);
            n.meanAmps += shares[m] * passed;
            n.meanLeast += shares[m] * least;
            n.modes.push_back({shares[m], passed});
        }
        // Losses grow faster than the current: the pattern of its square may lag more.
        std::vector<double> use;
        std::vector<double> squares;
        use.reserve(n.modes.size());
        squares.reserve(n.modes.size());
        for (const RailNeed::InMode& m : n.modes) {
            use.push_back(m.amps);
            squares.push_back(m.amps * m.amps);
        }
        m_lag = std::max({m_lag, lagOf(p, use), lagOf(p, squares)});
        m_needs.push_back(std::move(n));
    }
    m_fromLow.resize(m_kept.rails.size());
    std::iota(m_fromLow.begin(), m_fromLow.end(), std::size_t{0});
    std::stable_sort(m_fromLow.begin(), m_fromLow.end(), [&](std::size_t a, std::size_t b) {
        return m_kept.rails[a].set < m_kept.rails[b].set;
    });
}

void Sieve::readParts() {
    for (const LibraryPart& part : m_library.parts) {
        if (const auto* fuse = std::get_if<Fuse>(&part.stage.part);
            fuse && fuse->form != FuseForm::resettable)
            m_fuses.push_back(&part.stage);
        if (std::holds_alternative<Guard>(part.stage.part))
            m_guards.push_back(&part.stage);
    }
    std::stable_sort(m_fuses.begin(), m_fuses.end(), [](const Stage* a, const Stage* b) {
        const double x = std::get<Fuse>(a->part).rating.value();
        const double y = std::get<Fuse>(b->part).rating.value();
        return std::pair(x, a->price.value_or(0)) < std::pair(y, b->price.value_or(0));
    });
    std::stable_sort(m_guards.begin(), m_guards.end(), [](const Stage* a, const Stage* b) {
        return std::pair(a->price.value_or(0), plain(a->mass)) <
               std::pair(b->price.value_or(0), plain(b->mass));
    });
    m_ways.resize(m_kept.rails.size());
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r) {
        const double set = m_kept.rails[r].set;
        RailWay regulators;
        regulators.kind = RailWay::Kind::regulator;
        RailWay lower;
        for (std::size_t i = 0; i < m_library.parts.size(); ++i) {
            const Part& part = m_library.parts[i].stage.part;
            const ActivePart* a = isRegulator(part) ? active(part) : nullptr;
            if (!a || (a->adjustMin && set < a->adjustMin->value() - kEps) ||
                (a->adjustMax && set > a->adjustMax->value() + kEps))
                continue;
            regulators.parts.push_back(i);
            const auto* switcher = std::get_if<Switcher>(&part);
            if (!switcher || switcher->topology == Topology::buck)
                lower.parts.push_back(i);
        }
        // Of each part, those that are no worse in anything: it needs no run where one of them
        // fits.
        for (RailWay* way : {&regulators, &lower})
            for (std::size_t i = 0; i < way->parts.size(); ++i) {
                std::vector<std::uint16_t> better;
                for (std::size_t k = 0; k < way->parts.size(); ++k) {
                    const Stage& a = m_library.parts[way->parts[k]].stage;
                    const Stage& b = m_library.parts[way->parts[i]].stage;
                    if (k != i && noWorse(a, b, m_needs[r].across) &&
                        (k < i || !noWorse(b, a, m_needs[r].across)))
                        better.push_back(static_cast<std::uint16_t>(k));
                }
                way->better.push_back(std::move(better));
            }
        m_ways[r].push_back({RailWay::Kind::cells, 0, {0}, {{}}});
        m_ways[r].push_back(std::move(regulators));
        for (std::size_t h = 0; h < m_kept.rails.size(); ++h)
            if (m_kept.rails[h].set > set + kHigher) {
                RailWay way = lower;
                way.kind = RailWay::Kind::behind;
                way.rail = h;
                m_ways[r].push_back(std::move(way));
            }
    }
}

void Sieve::readCells(const SearchAsk& ask) {
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
                    if (ask.hand[j].ah && judge(ask.hand[j], m_library).throwOut.empty())
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
        k.full = std::max(plain(cell.full), model.openCircuitAt(1));
        const double school = schoolCutoff(cell.chemistry, care);
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
        k.ohms = model.resistance;
        for (const auto& [charge, factor] : model.resistanceByCharge)
            k.ohms = std::min(k.ohms, model.resistance * factor);
        if (m_kept.bare.brief.box)
            k.ohms = 0; // it may be any warmth in there
        for (std::size_t s = 0; s < kCurveSteps; ++s) {
            const double upper = 1 - static_cast<double>(s) / kCurveSteps;
            k.steps.emplace_back(model.openCircuitAt(upper), usable / kCurveSteps);
        }
        m_cells.push_back(std::move(k));
    }
}

void Sieve::readStructures() {
    std::vector<std::size_t> ways(m_kept.rails.size(), 0);
    const auto build = [&](const auto& self, std::size_t r) -> void {
        if (r == m_kept.rails.size()) {
            Structure s;
            s.ways = ways;
            s.count = 1;
            for (std::size_t k = 0; k < ways.size(); ++k) {
                const RailWay& way = m_ways[k][ways[k]];
                s.count *= way.parts.size();
                // Behind a rail that has no regulator there is nothing to hang on.
                if (way.kind == RailWay::Kind::behind &&
                    m_ways[way.rail][ways[way.rail]].kind == RailWay::Kind::cells)
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
    for (const Structure& s : m_structures)
        m_perPack += s.count;
    m_behind.resize(m_kept.rails.size());
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r)
        for (const RailWay& way : m_ways[r]) {
            std::vector<Look> looks;
            if (way.kind == RailWay::Kind::behind)
                for (const std::size_t i : way.parts) {
                    const double from = m_kept.rails[way.rail].set;
                    looks.push_back(lookAt(m_library.parts[i].stage, m_needs[r],
                                           m_kept.rails[r].set, from, from));
                }
            m_behind[r].push_back(std::move(looks));
        }
}

void Sieve::readPacks() {
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
        most = kMostVolts;
    for (std::size_t c = 0; c < m_cells.size(); ++c) {
        const CellKind& k = m_cells[c];
        const Pack& unit = std::get<Pack>(m_cellParts[k.part].stage.part);
        for (double s = k.block; s <= kMostSeries && s * k.full <= most + kEps; s += k.block)
            for (double p = 1; p <= kMostParallel; ++p) {
                const double parallel = p * std::max(1.0, unit.parallel);
                if (k.most > 0 && s * parallel > static_cast<double>(k.most))
                    break;
                m_packs.push_back({c, s, parallel});
            }
    }
}

Sieve::Look Sieve::straightLook(const RailNeed& need, double low, double high) {
    Look l;
    l.watts = need.straightWatts;
    l.amps = need.straight;
    l.steady = need.steady;
    l.burst = need.burst;
    if (need.never > 0 && high > need.never + kEps) {
        l.rank = rankOf(Fell::neverAbove);
        l.by = high - need.never;
    } else if (high > need.high + kEps || low < need.low - kEps) {
        l.rank = rankOf(Fell::noRoom);
        l.by = std::max(high - need.high, need.low - low);
    }
    return l;
}

Sieve::Look Sieve::lookAt(const Stage& stage, const RailNeed& need, double set, double low,
                          double high, double moreSteady, double moreBurst) const {
    Look l;
    l.grams = plain(stage.mass);
    l.price = stage.price.value_or(0);
    const double steady = need.steady + moreSteady;
    const double burst = std::max(need.burst, need.steady) + std::max(moreBurst, moreSteady);
    const ActivePart& a = *active(stage.part);
    const auto fall = [&l](Fell fell, double by) {
        const std::uint8_t rank = rankOf(fell);
        if (by > kEps && rank < l.rank) {
            l.rank = rank;
            l.by = by;
        }
    };
    if (a.inputNeverAbove)
        fall(Fell::neverAbove, high - a.inputNeverAbove->value());
    if (a.inputMin)
        fall(Fell::noRoom, a.inputMin->value() - low);
    if (const auto* p = std::get_if<Linear>(&stage.part)) {
        const bool fet = p->dropoutKind == DropoutKind::fet && p->ratedCurrent;
        const double drop =
            fet ? plain(p->dropout) * steady / p->ratedCurrent->value() : plain(p->dropout);
        fall(Fell::noRoom, need.low - std::min(set, low - drop));
        if (p->ratedCurrent)
            fall(Fell::overCurrent, steady - p->ratedCurrent->value());
        if (p->outputLimit)
            fall(Fell::overCurrent, burst - p->outputLimit->value());
        if (p->powerLimit)
            fall(Fell::overCurrent, burst - p->powerLimit->value() / set);
        l.amps = need.meanAmps + plain(p->ground);
        l.steady = steady + plain(p->ground);
        l.burst = burst + plain(p->ground);
        return l;
    }
    const auto& p = std::get<Switcher>(stage.part);
    const double drop = plain(p.drop);
    const double ohms = plain(p.resistance);
    // Current in the inductor at the lowest input, stepping up: the smaller root (design: stages).
    const auto inductor = [&](double amps) {
        const double watts = set * amps + plain(p.fixed);
        const double e = low - drop;
        const double inner = e * e - 4 * ohms * watts;
        if (e <= 0 || inner < 0)
            return std::numeric_limits<double>::infinity();
        return ohms > 0 ? 2 * watts / (e + std::sqrt(inner)) : watts / e;
    };
    const bool stepsUp =
        p.topology == Topology::boost || (p.topology == Topology::buckBoost && low < set);
    bool holds = true; ///< its set-point, whatever the cells sag to
    if (p.topology == Topology::buck) {
        const double duty = p.maxDuty.value_or(1);
        fall(Fell::noRoom, need.low - std::min(set, low * duty - drop - steady * ohms));
        holds = kSag * low * duty - drop - burst * ohms > set;
    }
    if (p.topology == Topology::boost && !p.holdsWhenAbove.value_or(false) && high - drop > set) {
        const double out = high - drop;
        if (need.never > 0)
            fall(Fell::neverAbove, out - need.never);
        fall(Fell::noRoom, out - need.high);
    }
    if (p.outputLimit)
        fall(Fell::overCurrent, burst - p.outputLimit->value());
    if (p.powerLimit)
        fall(Fell::overCurrent, burst - p.powerLimit->value() / set);
    const bool passes = p.topology == Topology::boost && low >= set;
    const double most = stepsUp && !passes ? inductor(burst) : burst;
    if (p.switchLimit)
        fall(Fell::overCurrent, most - p.switchLimit->value());
    else if (!std::isfinite(most))
        fall(Fell::overCurrent, burst);
    if (need.minds)
        fall(Fell::noise, 1);
    l.watts = holds ? need.meanWatts : need.meanLeast;
    const bool fixedLasts = p.topology != Topology::boost || high <= set;
    for (const RailNeed::InMode& m : need.modes) {
        const double skip = plain(p.skipBelow);
        const double scale = m.amps <= 0 ? 0 : skip > 0 ? std::min(1.0, m.amps / skip) : 1;
        l.watts += m.share * (drop * m.amps + ohms * m.amps * m.amps +
                              (fixedLasts ? plain(p.fixed) * scale : 0));
    }
    l.amps = plain(p.quiescent);
    const double least = std::max(low, 1e-3);
    l.steady = stepsUp && !passes ? inductor(steady) : passes ? steady : set * steady / least;
    l.burst = stepsUp && !passes ? most : passes ? burst : set * burst / least;
    return l;
}

bool Sieve::noWorse(const Stage& a, const Stage& b, bool across) {
    if (a.part.index() != b.part.index() || plain(a.mass) > plain(b.mass) ||
        a.price.value_or(0) > b.price.value_or(0))
        return false;
    const ActivePart& x = *active(a.part);
    const ActivePart& y = *active(b.part);
    const auto most = [](const auto& figure) {
        return figure ? figure->value() : std::numeric_limits<double>::infinity();
    };
    if (plain(x.inputMin) > plain(y.inputMin) || plain(x.startMin) > plain(y.startMin) || x.upper ||
        y.upper)
        return false;
    if (const auto* p = std::get_if<Linear>(&a.part)) {
        const auto& q = std::get<Linear>(b.part);
        const auto slope = [](const Linear& l) {
            return l.dropoutKind == DropoutKind::fet && l.ratedCurrent
                       ? plain(l.dropout) / l.ratedCurrent->value()
                       : -1;
        };
        const bool alike = (slope(*p) < 0) == (slope(q) < 0);
        const double one = slope(*p) < 0 ? plain(p->dropout) : slope(*p);
        const double two = slope(q) < 0 ? plain(q.dropout) : slope(q);
        return alike && (across ? one == two : one <= two) && plain(p->ground) <= plain(q.ground) &&
               most(p->outputLimit) >= most(q.outputLimit) &&
               most(p->powerLimit) >= most(q.powerLimit);
    }
    const auto& p = std::get<Switcher>(a.part);
    const auto& q = std::get<Switcher>(b.part);
    const double dutyP = p.maxDuty.value_or(1);
    const double dutyQ = q.maxDuty.value_or(1);
    // What hangs on the line by ohms takes more where a part lets more volts through.
    if (across && p.topology != Topology::buckBoost &&
        (dutyP != dutyQ || plain(p.drop) != plain(q.drop) ||
         plain(p.resistance) != plain(q.resistance)))
        return false;
    return p.topology == q.topology && plain(p.quiescent) <= plain(q.quiescent) &&
           plain(p.fixed) <= plain(q.fixed) && plain(p.switching) <= plain(q.switching) &&
           plain(p.drop) <= plain(q.drop) && plain(p.resistance) <= plain(q.resistance) &&
           plain(p.skipBelow) >= plain(q.skipBelow) && dutyP >= dutyQ &&
           p.holdsWhenAbove.value_or(false) == q.holdsWhenAbove.value_or(false) &&
           most(p.switchLimit) >= most(q.switchLimit) &&
           most(p.outputLimit) >= most(q.outputLimit) && most(p.powerLimit) >= most(q.powerLimit);
}

Sieve::Looks Sieve::looksOf(double low, double high) const {
    Looks looks = m_behind;
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r) {
        looks[r][0] = {straightLook(m_needs[r], low, high)};
        for (const std::size_t i : m_ways[r][1].parts)
            looks[r][1].push_back(
                lookAt(m_library.parts[i].stage, m_needs[r], m_kept.rails[r].set, low, high));
    }
    return looks;
}

/// What all rails together ask of the pack.
struct Sieve::Combined {
    bool over = false; ///< a regulator that feeds others can't
    double watts = 0;
    double amps = 0;
    double steady = 0;
    double burst = 0;
    double grams = 0;
    double price = 0;
};

Sieve::Combined Sieve::combined(const Structure& structure, const Looks& looks,
                                const std::vector<std::uint16_t>& parts, double low,
                                double high) const {
    Combined sum;
    struct More {
        double watts = 0;
        double steady = 0;
        double burst = 0;
    };
    std::array<More, 16> more{};
    for (const std::size_t r : m_fromLow) {
        const std::size_t w = structure.ways[r];
        const RailWay& way = m_ways[r][w];
        Look look = looks[r][w][parts[r]];
        const More& added = more[r];
        if (added.watts > 0 || added.steady > 0) {
            const Stage& stage = m_library.parts[way.parts[parts[r]]].stage;
            const bool behindToo = way.kind == RailWay::Kind::behind;
            const double from = behindToo ? m_kept.rails[way.rail].set : 0;
            const Look whole =
                lookAt(stage, m_needs[r], m_kept.rails[r].set, behindToo ? from : low,
                       behindToo ? from : high, added.steady, added.burst);
            sum.over = sum.over || whole.rank <= rankOf(Fell::overCurrent);
            look.steady = whole.steady;
            look.burst = whole.burst;
            if (std::holds_alternative<Linear>(stage.part))
                look.amps += added.watts / m_kept.rails[r].set;
            else
                look.watts += added.watts;
        }
        sum.grams += look.grams;
        sum.price += look.price;
        if (way.kind == RailWay::Kind::behind) {
            More& to = more[way.rail];
            to.watts += look.watts + look.amps * m_kept.rails[way.rail].set;
            to.steady += look.steady;
            to.burst += look.burst;
        } else {
            sum.watts += look.watts;
            sum.amps += look.amps;
            sum.steady += look.steady;
            sum.burst += look.burst;
        }
    }
    return sum;
}

double Sieve::hoursBound(const CellKind& cell, const PackChoice& choice, double watts,
                         double amps) const {
    if (watts <= 0 && amps <= 0)
        return std::numeric_limits<double>::infinity();
    const double stop = m_guard ? cell.cutoff : 0;
    const double ohms = choice.series * cell.ohms / choice.parallel;
    const double self = choice.parallel * cell.self;
    double hours = 0;
    for (const auto& [volts, ah] : cell.steps) {
        if (volts < stop)
            break;
        const double v = volts * choice.series;
        // The sag of the mean current is less than the mean of the sags: still a bound.
        const double first = watts / v + amps;
        const double sagged = v - first * ohms;
        if (sagged <= 0)
            break;
        hours += ah * choice.parallel / (watts / sagged + amps + self);
    }
    return hours * kBound + m_lag;
}

const Stage* Sieve::fuseFor(double steady, double burst, double volts) const {
    for (const Stage* stage : m_fuses) {
        const auto& fuse = std::get<Fuse>(stage->part);
        const double carries =
            fuse.rating.value() * (fuse.speed == FuseSpeed::slow ? kSlowBurst : 1);
        if (fuse.rating.value() * kFuseLoad >= steady && carries >= burst &&
            (!fuse.ratedVoltage || fuse.ratedVoltage->value() >= volts))
            return stage;
    }
    return nullptr;
}

const Stage* Sieve::guardFor(double amps) const {
    for (const Stage* stage : m_guards) {
        const auto& guard = std::get<Guard>(stage->part);
        if (!guard.maxCurrent || guard.maxCurrent->value() >= amps)
            return stage;
    }
    return nullptr;
}

std::array<double, kFellKinds> Sieve::steps() const {
    std::array<double, kFellKinds> s{};
    s[rankOf(Fell::neverAbove)] = 0.5;
    s[rankOf(Fell::noRoom)] = 0.2;
    s[rankOf(Fell::overCurrent)] = 0.5;
    s[rankOf(Fell::tooHeavy)] = 0.1 * m_mostGrams;
    s[rankOf(Fell::tooDear)] = 0.1 * m_mostPrice;
    s[rankOf(Fell::tooShort)] = 0.1 * m_least;
    return s;
}

PackPass Sieve::pack(std::size_t index, const Front* front, bool seeds) const {
    PackPass pass;
    const PackChoice& choice = m_packs[index];
    const CellKind& kind = m_cells[choice.cell];
    const Cell& cell = std::get<Pack>(m_cellParts[kind.part].stage.part).cell;
    const Brief& brief = m_kept.bare.brief;
    SearchCounts& n = pass.counts;
    const std::uint64_t first = index * m_perPack;
    n.tried = m_perPack;
    const auto all = [&](Fell fell, double by) {
        n.fell[rankOf(fell)] = m_perPack;
        keepNearest(pass.misses[rankOf(fell)], {first, by, {}});
    };
    if (brief.refilledBy && !brief.refilledBy->empty() && !canRecharge(cell) &&
        std::find(brief.refilledBy->begin(), brief.refilledBy->end(), "swap") ==
            brief.refilledBy->end()) {
        all(Fell::notRefillable, 0);
        return pass;
    }
    const Ambient air = brief.air();
    const double cold =
        std::max(cell.dischargeFrom ? cell.dischargeFrom->value() - air.coldest().value() : 0,
                 cell.dischargeTo ? air.warmest().value() - cell.dischargeTo->value() : 0);
    if (cold > kEps) {
        all(Fell::cold, cold);
        return pass;
    }
    const double low = choice.series * kind.cutoff;
    const double high = choice.series * kind.full;
    const double cellGrams = choice.series * choice.parallel * plain(cell.mass);
    const double cellPrice = choice.series * choice.parallel * cell.price.value_or(0);
    bool fits = true;
    if (brief.room)
        if (const auto body = cellDimensions(cell.size)) {
            const auto& room = *brief.room;
            const double longest = std::max({room[0], room[1], room[2]});
            const double block = body->block[0] * body->block[1] * body->block[2];
            fits = block * choice.series * choice.parallel <=
                       kFills * room[0] * room[1] * room[2] + kEps &&
                   std::max({body->block[0], body->block[1], body->block[2]}) <= longest + kEps;
        }
    const auto limits = steps();
    const Looks looks = looksOf(low, high);
    std::array<std::optional<Survivor>, 3> best; // the longest, the lightest, the cheapest
    std::uint64_t offset = 0;
    const std::size_t rails = m_kept.rails.size();
    std::vector<std::uint16_t> parts(rails);
    std::vector<std::vector<std::uint16_t>> good(rails);
    for (const Structure& s : m_structures) {
        // How many combinations have their first reason at each rank of a single part.
        const auto atLeast = [&](std::uint8_t rank) {
            std::uint64_t product = 1;
            for (std::size_t r = 0; r < rails; ++r) {
                std::uint64_t count = 0;
                for (const Look& look : looks[r][s.ways[r]])
                    count += look.rank >= rank ? 1 : 0;
                product *= count;
            }
            return product;
        };
        constexpr std::uint8_t kFirst = rankOf(Fell::neverAbove);
        constexpr std::uint8_t kLast = rankOf(Fell::overCurrent);
        std::uint64_t left = s.count;
        for (std::uint8_t rank = kFirst; rank <= kLast; ++rank) {
            const std::uint64_t after = atLeast(static_cast<std::uint8_t>(rank + 1));
            n.fell[rank] += left - after;
            left = after;
        }
        // Places in the number's mixed base, and who is near to being let in.
        std::vector<std::uint64_t> base(rails, 1);
        for (std::size_t r = rails; r-- > 1;)
            base[r - 1] = base[r] * m_ways[r][s.ways[r]].parts.size();
        for (std::size_t r = 0; r < rails; ++r) {
            good[r].clear();
            for (std::size_t i = 0; i < looks[r][s.ways[r]].size(); ++i)
                if (looks[r][s.ways[r]][i].rank > kLast)
                    good[r].push_back(static_cast<std::uint16_t>(i));
        }
        for (std::size_t r = 0; r < rails; ++r) {
            std::uint64_t others = 1;
            std::uint64_t number = first + offset;
            for (std::size_t k = 0; k < rails; ++k)
                if (k != r) {
                    others *= good[k].size();
                    number += good[k].empty() ? 0 : good[k].front() * base[k];
                }
            if (others == 0)
                continue;
            for (std::size_t i = 0; i < looks[r][s.ways[r]].size(); ++i) {
                const Look& look = looks[r][s.ways[r]][i];
                if (look.rank > kLast)
                    continue;
                if (look.by <= limits[look.rank])
                    pass.lettingIn[look.rank] += others;
                keepNearest(pass.misses[look.rank], {number + i * base[r], look.by, {}});
            }
        }
        // With bounds at work, a part that is no better in anything than another that fits is
        // beaten in every combination: it is counted with the others, but not looked at one by one.
        std::uint64_t beaten = 0;
        if (front && s.count > 1) {
            std::uint64_t before = 1;
            std::uint64_t after = 1;
            for (std::size_t r = 0; r < rails; ++r) {
                before *= good[r].size();
                std::vector<std::uint16_t> keep;
                for (const std::uint16_t i : good[r]) {
                    const auto& better = m_ways[r][s.ways[r]].better[i];
                    if (looks[r][s.ways[r]][i].rank != kFine ||
                        std::none_of(better.begin(), better.end(), [&](std::uint16_t k) {
                            return looks[r][s.ways[r]][k].rank == kFine;
                        }))
                        keep.push_back(i);
                }
                good[r] = std::move(keep);
                after *= good[r].size();
            }
            beaten = before - after;
            n.fell[rankOf(Fell::beaten)] += beaten;
            left -= beaten;
        }
        // The rest, one by one.
        std::vector<std::size_t> at(rails, 0);
        bool more = left > 0;
        while (more) {
            std::uint64_t number = first + offset;
            bool noise = false;
            for (std::size_t r = 0; r < rails; ++r) {
                parts[r] = good[r][at[r]];
                number += parts[r] * base[r];
                noise = noise || looks[r][s.ways[r]][parts[r]].rank == rankOf(Fell::noise);
            }
            for (std::size_t r = rails; more;) {
                if (r == 0) {
                    more = false;
                    break;
                }
                --r;
                if (++at[r] < good[r].size())
                    break;
                at[r] = 0;
            }
            Combined c = combined(s, looks, parts, low, high);
            double over = c.over ? 1 : 0;
            if (cell.maxDischarge)
                over = std::max(over, c.steady - choice.parallel * cell.maxDischarge->value());
            if (const auto most = cell.maxBurst ? cell.maxBurst : cell.maxDischarge)
                over = std::max(over, c.burst - choice.parallel * most->value());
            double grams = m_baseGrams + cellGrams + c.grams;
            double price = m_basePrice + cellPrice + c.price;
            double amps = c.amps;
            for (const bool fuse : {true, false}) {
                if (!(fuse ? m_fuse : m_guard))
                    continue;
                const Stage* stage = fuse ? fuseFor(c.steady / kGuess, c.burst / kGuess, high)
                                          : guardFor(c.burst / kGuess);
                if (!stage) {
                    over = std::max(over, 1.0);
                    continue;
                }
                grams += plain(stage->mass);
                price += stage->price.value_or(0);
                if (!fuse)
                    amps += plain(std::get<Guard>(stage->part).quiescent);
            }
            const auto out = [&](Fell fell, double by) {
                const std::uint8_t rank = rankOf(fell);
                ++n.fell[rank];
                if (by <= limits[rank])
                    ++pass.lettingIn[rank];
                keepNearest(pass.misses[rank], {number, by, {}});
            };
            if (over > kEps) {
                out(Fell::overCurrent, over);
                continue;
            }
            if (noise) {
                out(Fell::noise, 0);
                continue;
            }
            if (m_mostGrams > 0 && grams > m_mostGrams + kEps) {
                out(Fell::tooHeavy, grams - m_mostGrams);
                continue;
            }
            if (m_mostPrice > 0 && price > m_mostPrice + kEps) {
                out(Fell::tooDear, price - m_mostPrice);
                continue;
            }
            if (!fits) {
                out(Fell::wontFit, 0);
                continue;
            }
            const double most = hoursBound(kind, choice, c.watts, amps);
            if (most < m_least) {
                out(Fell::tooShort, m_least - most);
                continue;
            }
            if (front && front->beats(most, grams, price)) {
                ++n.fell[rankOf(Fell::beaten)];
                continue;
            }
            const Survivor survivor{number, most, grams, price};
            ++n.toRun;
            if (!seeds) {
                pass.survivors.push_back(survivor);
                continue;
            }
            if (!best[0] || most > best[0]->most)
                best[0] = survivor;
            if (!best[1] || grams < best[1]->grams)
                best[1] = survivor;
            if (!best[2] || price < best[2]->price)
                best[2] = survivor;
        }
        offset += s.count;
    }
    for (const auto& survivor : best)
        if (survivor &&
            std::none_of(pass.survivors.begin(), pass.survivors.end(),
                         [&](const Survivor& o) { return o.number == survivor->number; }))
            pass.survivors.push_back(*survivor);
    return pass;
}

Place Sieve::placeOf(std::uint64_t number) const {
    Place place;
    place.pack = static_cast<std::size_t>(number / m_perPack);
    std::uint64_t rest = number % m_perPack;
    while (rest >= m_structures[place.structure].count)
        rest -= m_structures[place.structure++].count;
    const Structure& s = m_structures[place.structure];
    place.parts.resize(m_kept.rails.size());
    for (std::size_t r = m_kept.rails.size(); r-- > 0;) {
        const std::size_t many = m_ways[r][s.ways[r]].parts.size();
        place.parts[r] = static_cast<std::uint16_t>(rest % many);
        rest /= many;
    }
    return place;
}

Project Sieve::projectOf(const Place& place) const {
    const PackChoice& choice = m_packs[place.pack];
    const CellKind& kind = m_cells[choice.cell];
    const LibraryPart& unit = m_cellParts[kind.part];
    Supply supply;
    supply.pack = std::get<Pack>(unit.stage.part);
    supply.pack.series = choice.series;
    supply.pack.parallel = choice.parallel;
    const std::string label =
        supply.pack.cell.label.empty() ? nameOf(unit.stage) : supply.pack.cell.label;
    supply.packLabel = label;
    const double low = choice.series * kind.cutoff;
    const double high = choice.series * kind.full;
    const Structure& s = m_structures[place.structure];
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r) {
        const RailWay& way = m_ways[r][s.ways[r]];
        Supply::Fed fed;
        if (way.kind != RailWay::Kind::cells)
            fed.regulator = &m_library.parts[way.parts[place.parts[r]]].stage;
        if (way.kind == RailWay::Kind::behind)
            fed.behind = way.rail;
        supply.rails.push_back(fed);
    }
    const Combined c = combined(s, looksOf(low, high), place.parts, low, high);
    if (m_fuse)
        if (const Stage* fuse = fuseFor(c.steady / kGuess, c.burst / kGuess, high))
            supply.fuse = *fuse;
    if (m_guard)
        if (const Stage* guard = guardFor(c.burst / kGuess)) {
            supply.guard = *guard;
            auto& g = std::get<Guard>(supply.guard->part);
            static_cast<SetByDivider&>(g) = {};
            g.cutoff = Volts{low};
            g.reconnect =
                Volts{choice.series * usualReconnect(supply.pack.cell.chemistry, kind.cutoff)};
        }
    return assembled(m_kept, supply);
}

Candidate Sieve::described(std::uint64_t number) const {
    Candidate c;
    c.number = number;
    const Place place = placeOf(number);
    const PackChoice& choice = m_packs[place.pack];
    const LibraryPart& unit = m_cellParts[m_cells[choice.cell].part];
    const Cell& cell = std::get<Pack>(unit.stage.part).cell;
    c.cell = cell.id.empty() ? unit.name : cell.id;
    c.chemistry = cell.chemistry;
    c.series = choice.series;
    c.parallel = choice.parallel;
    c.own = unit.own;
    if (const auto body = cellDimensions(cell.size))
        c.millilitres = body->block[0] * body->block[1] * body->block[2] * choice.series *
                        choice.parallel / 1000;
    const std::string label = cell.label.empty() ? nameOf(unit.stage) : cell.label;
    c.says = choice.series * choice.parallel == 1 ? label
             : choice.parallel == 1               ? fmt::format("{} × {}", choice.series, label)
             : choice.series == 1 ? fmt::format("{} × {} in parallel", choice.parallel, label)
                                  : fmt::format("{} × {} in series, {} of each in parallel",
                                                choice.series, label, choice.parallel);
    const Structure& s = m_structures[place.structure];
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r) {
        const RailWay& way = m_ways[r][s.ways[r]];
        Candidate::OnRail rail;
        for (const std::size_t l : m_kept.rails[r].loads)
            rail.loads.push_back(m_kept.bare.loads[l].id);
        if (way.kind == RailWay::Kind::cells) {
            rail.kind = "cells";
            c.says +=
                m_kept.rails.size() == 1
                    ? ", straight on the load"
                    : fmt::format(", {} straight", writeQuantity(m_kept.rails[r].set, Unit::volt));
        } else {
            const LibraryPart& part = m_library.parts[way.parts[place.parts[r]]];
            rail.kind = kindName(part.stage.part);
            rail.part = part.name;
            c.own = c.own && part.own;
            c.says += fmt::format(", {} at {}", nameOf(part.stage),
                                  writeQuantity(m_kept.rails[r].set, Unit::volt));
            if (way.kind == RailWay::Kind::behind) {
                rail.behind = way.rail;
                c.says += fmt::format(" behind {}",
                                      writeQuantity(m_kept.rails[way.rail].set, Unit::volt));
            }
        }
        c.rails.push_back(std::move(rail));
    }
    return c;
}

} // namespace sipper
