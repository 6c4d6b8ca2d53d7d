// SPDX-License-Identifier: GPL-3.0-or-later
#include "search/feasibility.hpp"

#include "line/wiring.hpp"

#include "parts/cellsize.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "parts/madeas.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace sipper {
namespace {

constexpr double kBound = 1.002; ///< over the bound, for what the steps of a run round

/// The level of a share of the way from full down to the cut-off; its upper end is over it.
std::size_t levelAt(double share) {
    const double at =
        std::clamp(share * static_cast<double>(kLevels), 0.0, static_cast<double>(kLevels) - 1);
    return static_cast<std::size_t>(at);
}

} // namespace

void ParetoFront::add(double hours, double grams, double price) {
    if (dominates(hours, grams, price))
        return;
    std::erase_if(m_points,
                  [&](const auto& p) { return hours >= p[0] && grams <= p[1] && price <= p[2]; });
    const auto worth = [](const std::array<double, 3>& p) {
        return p[0] / std::sqrt(std::max(p[1], 0.1) * std::max(p[2], 0.01));
    };
    // Those that beat the most are asked first.
    const std::array<double, 3> point{hours, grams, price};
    m_points.insert(
        std::upper_bound(m_points.begin(), m_points.end(), point,
                         [&](const auto& x, const auto& y) { return worth(x) > worth(y); }),
        point);
}

bool ParetoFront::dominates(double hours, double grams, double price) const {
    return std::any_of(m_points.begin(), m_points.end(), [&](const auto& p) {
        return p[0] >= hours && p[1] <= grams && p[2] <= price;
    });
}

void ParetoFront::buildIndex() {
    m_least.clear();
    if (m_points.empty())
        return;
    std::array<double, 4> span{1e300, 0, 1e300, 0};
    for (const auto& [hours, grams, price] : m_points)
        span = {std::min(span[0], std::max(grams, 1e-3)), std::max(span[1], grams),
                std::min(span[2], std::max(price, 1e-3)), std::max(span[3], price)};
    const auto scaleOf = [](double from, double to) {
        return static_cast<double>(kSide - 1) / std::max(1e-9, std::log(to / from));
    };
    m_firstGrams = std::log(span[0]);
    m_firstPrice = std::log(span[2]);
    m_scaleGrams = scaleOf(span[0], span[1]);
    m_scalePrice = scaleOf(span[2], span[3]);
    m_least.assign(kSide * kSide, 0);
    // Each at the next step over it; a hair more, for what logarithms round.
    const auto over = [](double value, double first, double scale) {
        const double at = std::ceil(placeAt(value, first, scale) + 1e-6);
        return static_cast<std::size_t>(std::clamp(at, 0.0, static_cast<double>(kSide)));
    };
    for (const auto& [hours, grams, price] : m_points) {
        const std::size_t i = over(grams, m_firstGrams, m_scaleGrams);
        const std::size_t j = over(price, m_firstPrice, m_scalePrice);
        if (i < kSide && j < kSide)
            m_least[i * kSide + j] = std::max(m_least[i * kSide + j], hours);
    }
    for (std::size_t i = 0; i < kSide; ++i)
        for (std::size_t j = 0; j < kSide; ++j) {
            double& here = m_least[i * kSide + j];
            if (i > 0)
                here = std::max(here, m_least[(i - 1) * kSide + j]);
            if (j > 0)
                here = std::max(here, m_least[i * kSide + j - 1]);
        }
}

double ParetoFront::hoursLowerBound(double grams, double price) const {
    const double i = placeAt(grams, m_firstGrams, m_scaleGrams);
    const double j = placeAt(price, m_firstPrice, m_scalePrice);
    if (m_least.empty() || i < 0 || j < 0)
        return 0;
    constexpr double kLast = kSide - 1;
    return m_least[static_cast<std::size_t>(std::min(i, kLast)) * kSide +
                   static_cast<std::size_t>(std::min(j, kLast))];
}

FeasibilityFilter::Looks FeasibilityFilter::looksOf(double low, double high) const {
    Looks looks = m_behind;
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r)
        for (const std::size_t w : {std::size_t{0}, std::size_t{1}}) {
            const FeedOption& way = m_ways[r][w];
            looks[r][w].reserve(way.parts.size());
            for (std::size_t i = 0; i < way.parts.size(); ++i)
                looks[r][w].push_back(lookOf(r, way, i, low, high));
        }
    return looks;
}

FeasibilityFilter::RailOption FeasibilityFilter::lookOf(std::size_t rail, const FeedOption& way,
                                                        std::size_t part, double low,
                                                        double high) const {
    return way.kind == FeedOption::Kind::cells
               ? directOption(m_needs[rail], low, high)
               : optionFor(m_library.parts[way.parts[part]].stage, m_needs[rail],
                           m_kept.rails[rail].set, low, high);
}

FeasibilityFilter::ProtectedTotals FeasibilityFilter::guardedAt(const Place& place) const {
    const PackChoice& choice = m_packs[place.pack];
    const CellKind& kind = m_cells[choice.cell];
    const double low = choice.series * kind.cutoff;
    const double high = choice.series * kind.full;
    const RailTopology& structure = m_structures[place.structure];
    std::array<RailOption, kMostRails> own;
    Chosen looks{};
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r) {
        const std::size_t w = structure.ways[r];
        const FeedOption& way = m_ways[r][w];
        const std::size_t part = place.parts[r];
        if (way.kind != FeedOption::Kind::behind)
            own[r] = lookOf(r, way, part, low, high);
        looks[r] = way.kind == FeedOption::Kind::behind ? &m_behind[r][w][part] : &own[r];
    }
    return guarded(structure, looks, place.parts, low, high);
}

FeasibilityFilter::RailTotals FeasibilityFilter::combined(const RailTopology& structure,
                                                          const Chosen& looks,
                                                          const std::vector<std::uint16_t>& parts,
                                                          double low, double high) const {
    RailTotals sum;
    struct More {
        SlotLevels watts{};
        Slots amps{}; ///< into it, at least
        double steady = 0;
        double burst = 0;
    };
    std::array<More, kMostRails> more{};
    for (const std::size_t r : m_fromLow) {
        const std::size_t w = structure.ways[r];
        const FeedOption& way = m_ways[r][w];
        RailOption look = *looks[r];
        const More& added = more[r];
        if (added.steady > 0 || added.burst > 0) {
            const Stage& stage = m_library.parts[way.parts[parts[r]]].stage;
            const bool behindToo = way.kind == FeedOption::Kind::behind;
            const double from = behindToo ? m_kept.rails[way.rail].set : 0;
            const RailOption whole =
                optionFor(stage, m_needs[r], m_kept.rails[r].set, behindToo ? from : low,
                          behindToo ? from : high, added.steady, added.burst);
            sum.over = sum.over || whole.rank <= rankOf(RejectReason::overCurrent);
            look.steady = whole.steady;
            look.burst = whole.burst;
            for (std::size_t m = 0; m < kSlots; ++m) {
                if (std::holds_alternative<Linear>(stage.part)) {
                    look.amps[m] += added.watts[m][0] / m_kept.rails[r].set;
                    continue;
                }
                const Levels lost = lossOf(stage, m_kept.rails[r].set, added.amps[m],
                                           behindToo ? from : high, behindToo ? from : low);
                for (std::size_t l = 0; l < kLevels; ++l)
                    look.watts[m][l] += added.watts[m][l] + lost[l];
            }
        }
        sum.grams += look.grams;
        sum.price += look.price;
        if (way.kind == FeedOption::Kind::behind) {
            More& to = more[way.rail];
            const double set = m_kept.rails[way.rail].set;
            for (std::size_t m = 0; m < kSlots; ++m) {
                for (std::size_t l = 0; l < kLevels; ++l)
                    to.watts[m][l] += look.watts[m][l] + look.amps[m] * set;
                to.amps[m] += look.watts[m][0] / set + look.amps[m];
            }
            to.steady += look.steady;
            to.burst += look.burst;
        } else {
            for (std::size_t m = 0; m < kSlots; ++m) {
                for (std::size_t l = 0; l < kLevels; ++l)
                    sum.watts[m][l] += look.watts[m][l];
                sum.amps[m] += look.amps[m];
            }
            sum.steady += look.steady;
            sum.burst += look.burst;
        }
    }
    return sum;
}

LineTable FeasibilityFilter::lineOf(std::uint64_t number) const {
    const Place place = placeOf(number);
    const PackChoice& choice = m_packs[place.pack];
    const CellKind& kind = m_cells[choice.cell];
    return {projectOf(place), m_schedule, m_ambient, choice.series * kind.cutoff,
            choice.series * kind.full};
}

double FeasibilityFilter::hoursNear(const PackChoice& choice, const LineTable& line) const {
    return (1 + kNearShare) *
           approxHours(line, m_near[choice.cell], m_segments, choice.series, choice.parallel);
}

double FeasibilityFilter::hoursUpperBoundFast(const CellKind& cell, const PackChoice& choice,
                                              const SlotLevels& watts, const Slots& amps,
                                              double more) const {
    const double step = (cell.full - cell.cutoff) / static_cast<double>(kLevels);
    const double self = choice.parallel * cell.self;
    const double groups = choice.series / choice.parallel;
    double hours = 0;
    Slots under; // A at any lower level, to which it may sag
    under.fill(std::numeric_limits<double>::infinity());
    for (std::size_t l = kLevels; l-- > 0;) {
        const double volts = choice.series * (cell.full - step * static_cast<double>(l));
        double flow = self;
        for (std::size_t m = 0; m < kSlots; ++m) {
            if (m_shares[m] <= 0)
                continue;
            const double rests = watts[m][l] / volts + amps[m];
            const double sags = // no less than it sags to
                volts - (groups * (cell.ohms + cell.slow[m]) + more) * rests;
            const double here = sags > 0 ? watts[m][l] / sags + amps[m] : rests;
            flow += m_shares[m] * std::min(here, under[m]);
            under[m] = std::min(under[m], rests);
        }
        hours += cell.levelAh[l] * choice.parallel / flow;
    }
    return hours * kBound + m_mostLag;
}

double FeasibilityFilter::hoursUpperBound(const CellKind& cell, const PackChoice& choice,
                                          const SlotLevels& watts, const Slots& amps,
                                          double more) const {
    bool draws = false;
    for (std::size_t m = 0; m < kSlots; ++m)
        draws = draws || (m_shares[m] > 0 && (watts[m][0] > 0 || amps[m] > 0));
    if (!draws)
        return std::numeric_limits<double>::infinity();
    const double stop = m_guard ? cell.cutoff : 0;
    const double groups = choice.series / choice.parallel;
    const double self = choice.parallel * cell.self;
    const double high = choice.series * cell.full;
    const double low = choice.series * cell.cutoff;
    const double scale = 1 / std::max(1e-9, high - low);
    double hours = 0;
    std::size_t stretch = 0;
    double left = m_day.front().hours;
    std::array<double, kMostStretches> flow{}; // mean amps of each stretch
    for (const auto& [volts, ah, r0] : cell.steps) {
        if (volts < stop)
            break;
        Slots flows{};
        std::array<bool, kSlots> opens{};
        bool any = false;
        const double v = volts * choice.series;
        const std::size_t level = levelAt((high - v) * scale);
        for (std::size_t m = 0; m < kSlots; ++m) {
            if (m_shares[m] <= 0)
                continue;
            const double inside = groups * (r0 + cell.slow[m]);
            const double ohms = inside + more;
            // The greater root of v (e - v) = W R, where there is one: less than that is not taken.
            const double e = v - ohms * amps[m];
            const double inner = e * e - 4 * ohms * watts[m][level];
            const bool stands = inner > 0 && e > 0;
            const double at = stands ? (e + std::sqrt(inner)) / 2 : std::max(v / 2, 1e-3);
            // What steps up takes more at the volts that are left.
            flows[m] = watts[m][levelAt((high - at) * scale)] / at + amps[m];
            // From here on the guard opens as soon as that mode comes round.
            opens[m] = m_guard && m_round[m] >= 0 && (!stands || v - inside * flows[m] < low);
            any = any || opens[m];
        }
        double day = 0;
        for (std::size_t i = 0; i < m_day.size(); ++i) {
            flow[i] = self;
            for (std::size_t m = 0; m < kSlots; ++m)
                flow[i] += m_day[i].shares[m] * flows[m];
            day += m_day[i].hours * flow[i];
        }
        double charge = ah * choice.parallel;
        if (day <= 0)
            return std::numeric_limits<double>::infinity();
        if (!any && charge > day) {
            const double days = std::floor(charge / day);
            hours += 24 * days;
            charge -= days * day;
        }
        while (charge > 0) {
            const SlotSegment& now = m_day[stretch];
            for (std::size_t m = 0; any && m < kSlots; ++m)
                if (opens[m] && now.shares[m] > 0)
                    return (hours + m_round[m]) * kBound + m_lag;
            const double there = flow[stretch] * left;
            if (there >= charge) {
                hours += charge / flow[stretch];
                left -= charge / flow[stretch];
                break;
            }
            charge -= there;
            hours += left;
            stretch = (stretch + 1) % m_day.size();
            left = m_day[stretch].hours;
        }
    }
    return hours * kBound + m_lag;
}

FeasibilityFilter::ProtectedTotals
FeasibilityFilter::guarded(const RailTopology& structure, const Chosen& looks,
                           const std::vector<std::uint16_t>& parts, double low, double high) const {
    ProtectedTotals out;
    out.sum = combined(structure, looks, parts, low, high);
    for (const bool fuse : {true, false}) {
        if (!(fuse ? m_fuse : m_guard))
            continue;
        const Stage* stage = fuse ? fuseFor(out.sum.steady / kGuess, out.sum.burst / kGuess, high)
                                  : guardFor(out.sum.burst / kGuess, low, high);
        if (!stage)
            continue; // none carries it: that is over what there is
        out.sum.grams += orZero(stage->mass);
        out.sum.price += stage->price.value_or(0);
        out.ohms += seriesTermsOf(stage->part).resistance;
        if (!fuse)
            for (double& amps : out.sum.amps)
                amps += orZero(std::get<Guard>(stage->part).quiescent);
    }
    return out;
}

std::pair<double, double> FeasibilityFilter::boundsOf(std::uint64_t number) const {
    const Place place = placeOf(number);
    const PackChoice& choice = m_packs[place.pack];
    const CellKind& kind = m_cells[choice.cell];
    const ProtectedTotals g = guardedAt(place);
    return {std::min(hoursUpperBound(kind, choice, g.sum.watts, g.sum.amps, g.ohms),
                     hoursUpperBoundFast(kind, choice, g.sum.watts, g.sum.amps, g.ohms)),
            hoursNear(choice, lineOf(number))};
}

const Stage* FeasibilityFilter::fuseFor(double steady, double burst, double volts) const {
    for (const Stage* stage : m_fuses) {
        const auto& fuse = std::get<Fuse>(stage->part);
        const double carries =
            fuse.rating.value() * (fuse.speed == FuseSpeed::slow ? kSlowBurst : 1);
        if (fuse.rating.value() * kFuseUse >= steady && carries >= burst &&
            (!fuse.ratedVoltage || fuse.ratedVoltage->value() >= volts))
            return stage;
    }
    return nullptr;
}

const Stage* FeasibilityFilter::guardFor(double amps, double low, double high) const {
    for (const Stage* stage : m_guards) {
        const auto& guard = std::get<Guard>(stage->part);
        const auto range = setRangeOf(stage->part);
        if ((!guard.maxCurrent || guard.maxCurrent->value() >= amps) &&
            (!range || range->holds(low)) &&
            (!guard.inputNeverAbove || guard.inputNeverAbove->value() >= high))
            return stage;
    }
    return nullptr;
}

std::array<double, kRejectReasons> FeasibilityFilter::steps() const {
    std::array<double, kRejectReasons> s{};
    s[rankOf(RejectReason::neverAbove)] = 0.5;
    s[rankOf(RejectReason::noHeadroom)] = 0.2;
    s[rankOf(RejectReason::overCurrent)] = 0.5;
    s[rankOf(RejectReason::tooHeavy)] = 0.1 * m_mostGrams;
    s[rankOf(RejectReason::tooDear)] = 0.1 * m_mostPrice;
    s[rankOf(RejectReason::tooShort)] = 0.1 * m_least;
    return s;
}

Place FeasibilityFilter::placeOf(std::uint64_t number) const {
    Place place;
    place.pack = static_cast<std::size_t>(number / m_perPack);
    std::uint64_t rest = number % m_perPack;
    while (rest >= m_structures[place.structure].count)
        rest -= m_structures[place.structure++].count;
    const RailTopology& s = m_structures[place.structure];
    place.parts.resize(m_kept.rails.size());
    for (std::size_t r = m_kept.rails.size(); r-- > 0;) {
        const std::size_t many = m_ways[r][s.ways[r]].parts.size();
        place.parts[r] = static_cast<std::uint16_t>(rest % many);
        rest /= many;
    }
    return place;
}

Project FeasibilityFilter::projectOf(const Place& place) const {
    const PackChoice& choice = m_packs[place.pack];
    const CellKind& kind = m_cells[choice.cell];
    const LibraryPart& unit = m_cellParts[kind.part];
    Supply supply;
    supply.pack = std::get<Pack>(unit.stage.part);
    countCells(supply.pack, choice.series, choice.parallel);
    if (supply.pack.cell.label.empty())
        supply.pack.cell.label = nameOf(unit.stage);
    const double low = choice.series * kind.cutoff;
    const double high = choice.series * kind.full;
    const RailTopology& s = m_structures[place.structure];
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r) {
        const FeedOption& way = m_ways[r][s.ways[r]];
        Supply::Fed fed;
        if (way.kind != FeedOption::Kind::cells)
            fed.regulator = &m_library.parts[way.parts[place.parts[r]]].stage;
        if (way.kind == FeedOption::Kind::behind)
            fed.behind = way.rail;
        supply.rails.push_back(fed);
    }
    const RailTotals c = guardedAt(place).sum;
    if (m_fuse)
        if (const Stage* fuse = fuseFor(c.steady / kGuess, c.burst / kGuess, high))
            supply.fuse = *fuse;
    if (m_guard)
        if (const Stage* guard = guardFor(c.burst / kGuess, low, high)) {
            supply.guard = *guard;
            auto& g = std::get<Guard>(supply.guard->part);
            static_cast<SetByDivider&>(g) = {};
            g.cutoff = Volts{low};
            g.reconnect =
                Volts{choice.series * usualReconnect(supply.pack.cell.chemistry, kind.cutoff)};
        }
    return assembleSupply(m_kept, supply);
}

Candidate FeasibilityFilter::described(std::uint64_t number) const {
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
    Pack pack = std::get<Pack>(unit.stage.part);
    const double apiece = pack.series * pack.parallel / piecesOf(pack); // cells
    const double inPiece = std::max(1.0, pack.series);
    countCells(pack, choice.series, choice.parallel);
    c.pieces = piecesOf(pack);
    const double inRow = apiece > 1 ? choice.series / inPiece : choice.series;
    const double beside = c.pieces / inRow;
    c.says = c.pieces == 1 ? label
             : beside == 1 ? fmt::format("{} × {}", inRow, label)
             : inRow == 1
                 ? fmt::format("{} × {} in parallel", beside, label)
                 : fmt::format("{} × {} in series, {} of each in parallel", inRow, label, beside);
    const RailTopology& s = m_structures[place.structure];
    for (std::size_t r = 0; r < m_kept.rails.size(); ++r) {
        const FeedOption& way = m_ways[r][s.ways[r]];
        Candidate::OnRail rail;
        for (const std::size_t l : m_kept.rails[r].loads)
            rail.loads.push_back(m_kept.bare.loads[l].id);
        if (way.kind == FeedOption::Kind::cells) {
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
            if (way.kind == FeedOption::Kind::behind) {
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
