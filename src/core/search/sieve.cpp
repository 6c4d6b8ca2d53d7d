#include "search/sieve.hpp"

#include "parts/cellsize.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace sipper {
namespace {

constexpr double kFills = 0.8; ///< of the room, by the cells as blocks
constexpr double kFuseLoad =
    0.75; ///< of its rating that a fuse carries for good (design: protection)
constexpr double kSlowBurst = 2;  ///< times its rating that a slow one carries for a burst
constexpr double kGuess = 0.85;   ///< efficiency by which fuse and guard are chosen
constexpr double kBound = 1.0005; ///< over the bound, for what a run rounds
constexpr std::size_t kNearest = 3;

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
    if (cold > kSieveEps) {
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
            fits =
                block * choice.series * choice.parallel <=
                    kFills * room[0] * room[1] * room[2] + kSieveEps &&
                std::max({body->block[0], body->block[1], body->block[2]}) <= longest + kSieveEps;
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
            if (over > kSieveEps) {
                out(Fell::overCurrent, over);
                continue;
            }
            if (noise) {
                out(Fell::noise, 0);
                continue;
            }
            if (m_mostGrams > 0 && grams > m_mostGrams + kSieveEps) {
                out(Fell::tooHeavy, grams - m_mostGrams);
                continue;
            }
            if (m_mostPrice > 0 && price > m_mostPrice + kSieveEps) {
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
