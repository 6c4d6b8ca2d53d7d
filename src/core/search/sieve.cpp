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

constexpr double kFuseLoad =
    0.75; ///< of its rating that a fuse carries for good (design: protection)
constexpr double kSlowBurst = 2; ///< times its rating that a slow one carries for a burst
constexpr double kBound = 1.002; ///< over the bound, for what the steps of a run round

/// The level of a share of the way from full down to the cut-off; its upper end is over it.
std::size_t levelAt(double share) {
    const double at =
        std::clamp(share * static_cast<double>(kLevels), 0.0, static_cast<double>(kLevels) - 1);
    return static_cast<std::size_t>(at);
}

} // namespace

void Front::add(double hours, double grams, double price) {
    if (beats(hours, grams, price))
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

Sieve::Combined Sieve::combined(const Structure& structure, const Looks& looks,
                                const std::vector<std::uint16_t>& parts, double low,
                                double high) const {
    Combined sum;
    struct More {
        SlotLevels watts{};
        Slots amps{}; ///< into it, at least
        double steady = 0;
        double burst = 0;
    };
    std::array<More, 16> more{};
    for (const std::size_t r : m_fromLow) {
        const std::size_t w = structure.ways[r];
        const RailWay& way = m_ways[r][w];
        Look look = looks[r][w][parts[r]];
        const More& added = more[r];
        if (added.steady > 0 || added.burst > 0) {
            const Stage& stage = m_library.parts[way.parts[parts[r]]].stage;
            const bool behindToo = way.kind == RailWay::Kind::behind;
            const double from = behindToo ? m_kept.rails[way.rail].set : 0;
            const Look whole =
                lookAt(stage, m_needs[r], m_kept.rails[r].set, behindToo ? from : low,
                       behindToo ? from : high, added.steady, added.burst);
            sum.over = sum.over || whole.rank <= rankOf(Fell::overCurrent);
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
        if (way.kind == RailWay::Kind::behind) {
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

Sieve::Taken Sieve::takenAt(const CellKind& cell, double series, double volts, double inside,
                            double ohms, const Levels& watts, double amps) const {
    const double scale = 1 / std::max(1e-9, cell.full - cell.cutoff);
    const double v = volts * series;
    // The greater root of v (e - v) = W R, where there is one: less than that is not taken.
    const double e = v - ohms * amps;
    const double inner = e * e - 4 * ohms * watts[levelAt((cell.full - volts) * scale)];
    const bool stands = inner > 0 && e > 0;
    const double at = stands ? (e + std::sqrt(inner)) / 2 : std::max(v / 2, 1e-3);
    Taken taken;
    // What steps up takes more at the volts that are left.
    taken.amps = watts[levelAt((cell.full - at / series) * scale)] / at + amps;
    // From here on the guard opens as soon as that mode comes round.
    taken.opens = m_guard && (!stands || v - inside * taken.amps < cell.cutoff * series);
    return taken;
}

double Sieve::hoursClose(std::size_t at, const PackChoice& choice, const SlotLevels& watts,
                         const Slots& amps, double more) const {
    constexpr std::size_t kHeights = 96;    ///< of the first well, that are told apart
    constexpr double kLongest = 1e5;        ///< h
    constexpr double kLeastStep = 1.0 / 60; ///< h
    constexpr double kLookAhead = 0.02;     ///< h, by which a well is seen to fall or rise
    constexpr double kRelaxed = 0.98;       ///< of what a stretch relaxes the cells, soon after
    constexpr double kSettles = 4;          ///< times tau, after which it has
    constexpr double kHourSeconds = 3600;
    if (m_models.empty())
        return std::numeric_limits<double>::infinity();
    const PackModel& model = m_models[at];
    const CellKind& cell = m_cells[at];
    struct Row {
        bool known = false;
        std::array<double, kMostStretches> amps{};
        std::array<double, kMostStretches> round{}; ///< h to an open guard; negative: it holds
    };
    std::array<Row, kHeights> rows;
    const auto rowAt = [&](double height) -> const Row& {
        const auto n = static_cast<std::size_t>(
            std::clamp(height * kHeights, 0.0, static_cast<double>(kHeights) - 1));
        Row& row = rows[n];
        if (row.known)
            return row;
        row.known = true;
        const double lower = static_cast<double>(n) / kHeights;
        const double upper = static_cast<double>(n + 1) / kHeights;
        const double inside = choice.series *
                              std::min(model.resistanceAt(lower), model.resistanceAt(upper)) /
                              choice.parallel;
        row.round.fill(-1);
        const double rests = model.openCircuitAt(upper);
        Slots first{};
        for (std::size_t m = 0; m < kSlots; ++m)
            if (m_shares[m] > 0)
                first[m] =
                    takenAt(cell, choice.series, rests, inside, inside + more, watts[m], amps[m])
                        .amps;
        for (std::size_t i = 0; i < m_day.size(); ++i) {
            // The mean current of a stretch relaxes the cells: that of before, without it, is less.
            double mean = 0;
            for (std::size_t m = 0; m < kSlots; ++m)
                mean += m_day[i].shares[m] * first[m];
            // It lags by tau: in a short stretch hardly.
            const double there =
                kRelaxed * std::max(0.0, 1 - 2 * model.tau / (m_day[i].hours * kHourSeconds));
            const double volts = rests - there * model.relaxation * mean / choice.parallel;
            for (std::size_t m = 0; m < kSlots; ++m) {
                if (m_day[i].shares[m] <= 0)
                    continue;
                const Taken taken =
                    takenAt(cell, choice.series, volts, inside, inside + more, watts[m], amps[m]);
                row.amps[i] += m_day[i].shares[m] * taken.amps;
                if (taken.opens && m_round[m] >= 0) {
                    const double round = m_round[m] + model.tau * kSettles / kHourSeconds;
                    row.round[i] = row.round[i] < 0 ? round : std::min(row.round[i], round);
                }
            }
        }
        return row;
    };
    Wells wells = model.level(1);
    double hours = 0;
    while (hours < kLongest)
        for (std::size_t i = 0; i < m_day.size(); ++i)
            for (double left = m_day[i].hours; left > 1e-9;) {
                const double height = model.height(wells);
                if (height <= 0)
                    return hours * kBound + m_lag;
                const Row* row = &rowAt(height);
                double flows = row->amps[i] / choice.parallel + model.selfAmps;
                if (model.available < 1 &&
                    model.height(model.drained(wells, flows, std::min(left, kLookAhead))) >
                        height) {
                    // It recovers, to no more than both wells hold.
                    row = &rowAt(model.charge(wells));
                    flows = row->amps[i] / choice.parallel + model.selfAmps;
                }
                if (row->round[i] >= 0)
                    return (hours + row->round[i]) * kBound + m_lag;
                const double lower = std::floor(height * kHeights) / kHeights;
                const double falls =
                    flows > 0 ? (height - lower) * model.available * model.usable / flows : left;
                const double step = std::min(left, std::max(falls, kLeastStep));
                wells = model.drained(wells, flows, step);
                hours += step;
                left -= step;
            }
    return std::numeric_limits<double>::infinity();
}

double Sieve::hoursBound(const CellKind& cell, const PackChoice& choice, const SlotLevels& watts,
                         const Slots& amps, double more) const {
    bool draws = false;
    for (std::size_t m = 0; m < kSlots; ++m)
        draws = draws || (m_shares[m] > 0 && (watts[m][0] > 0 || amps[m] > 0));
    if (!draws)
        return std::numeric_limits<double>::infinity();
    const double stop = m_guard ? cell.cutoff : 0;
    const double inside = choice.series * cell.ohms / choice.parallel;
    const double ohms = inside + more;
    const double self = choice.parallel * cell.self;
    double hours = 0;
    std::size_t stretch = 0;
    double left = m_day.front().hours;
    std::array<double, kMostStretches> flow{}; // mean amps of each stretch
    for (const auto& [volts, ah] : cell.steps) {
        if (volts < stop)
            break;
        Slots flows{};
        std::array<bool, kSlots> opens{};
        bool any = false;
        for (std::size_t m = 0; m < kSlots; ++m) {
            if (m_shares[m] <= 0)
                continue;
            const Taken taken =
                takenAt(cell, choice.series, volts, inside, ohms, watts[m], amps[m]);
            flows[m] = taken.amps;
            opens[m] = taken.opens && m_round[m] >= 0;
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
            const Stretch& now = m_day[stretch];
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

Sieve::Guarded Sieve::guarded(const Structure& structure, const Looks& looks,
                              const std::vector<std::uint16_t>& parts, double low,
                              double high) const {
    Guarded out;
    out.sum = combined(structure, looks, parts, low, high);
    for (const bool fuse : {true, false}) {
        if (!(fuse ? m_fuse : m_guard))
            continue;
        const Stage* stage = fuse ? fuseFor(out.sum.steady / kGuess, out.sum.burst / kGuess, high)
                                  : guardFor(out.sum.burst / kGuess);
        if (!stage)
            continue; // none carries it: that is over what there is
        out.sum.grams += plain(stage->mass);
        out.sum.price += stage->price.value_or(0);
        out.ohms += seriesTermsOf(stage->part).resistance;
        if (!fuse)
            for (double& amps : out.sum.amps)
                amps += plain(std::get<Guard>(stage->part).quiescent);
    }
    return out;
}

std::pair<double, double> Sieve::boundsOf(std::uint64_t number) const {
    const Place place = placeOf(number);
    const PackChoice& choice = m_packs[place.pack];
    const CellKind& kind = m_cells[choice.cell];
    const double low = choice.series * kind.cutoff;
    const double high = choice.series * kind.full;
    const Guarded g =
        guarded(m_structures[place.structure], looksOf(low, high), place.parts, low, high);
    return {hoursBound(kind, choice, g.sum.watts, g.sum.amps, g.ohms),
            hoursClose(choice.cell, choice, g.sum.watts, g.sum.amps, g.ohms)};
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
