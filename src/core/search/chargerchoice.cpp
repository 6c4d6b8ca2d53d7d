// SPDX-License-Identifier: GPL-3.0-or-later
#include "search/chargerchoice.hpp"

#include "base/tolerance.hpp"
#include "charge/charge.hpp"
#include "improve/swaps.hpp"
#include "line/sources.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/build.hpp"
#include "project/roles.hpp"
#include "project/tree.hpp"
#include "protect/currents.hpp"
#include "solar/plan.hpp"
#include "solar/simulation.hpp"

#include <algorithm>
#include <cmath>
#include <set>

namespace sipper {
namespace {

constexpr double kDoneByMorning = 12;   ///< h: done by the morning
constexpr double kFullUnder = 0.97;     ///< of full volts, that a charger may stay under
constexpr double kFullOver = 1.003;     ///< and over
constexpr double kLeadLeast = 2.25;     ///< V a cell of a lead charger's bulk stage
constexpr double kLeadMost = 2.5;       ///< likewise (rule of thumb)
constexpr double kRefillConverts = 0.8; ///< efficiency by which a source is chosen
constexpr double kColdOpen = 1.15;      ///< of a panel's open-circuit volts in frost
constexpr std::size_t kRefillTries = 3; ///< that are really solved
constexpr double kSunUnknown = 10;      ///< W where nothing can be reckoned

bool fitsVolts(Charger& c, double full, bool lead, double cells) {
    if (!c.chargeVoltage)
        return false;
    if (c.adjustMin && c.adjustMax) {
        if (full < c.adjustMin->value() || full > c.adjustMax->value())
            return false;
        c.chargeVoltage = Volts{full};
        return true;
    }
    const double v = c.chargeVoltage->value();
    if (lead)
        return v >= cells * kLeadLeast && v <= cells * kLeadMost;
    return v >= kFullUnder * full && v <= kFullOver * full;
}

/// A into the pack that the charger gives at most.
double ampsOf(const Charger& c) {
    double amps = orZero(c.chargeCurrent);
    if (c.outputLimit)
        amps = amps > 0 ? std::min(amps, c.outputLimit->value()) : c.outputLimit->value();
    if (c.ratedCurrent)
        amps = std::min(amps, c.ratedCurrent->value());
    return amps;
}

/// Can this source feed the charger at these volts of the pack: its volts fit, and its amps?
bool feedsCharger(const Part& source, const Charger& c, double empty, double full) {
    const SourceModel m = sourceModel(source);
    if (const auto* panel = std::get_if<Panel>(&source)) {
        const double open = orZero(panel->openCircuit) * kColdOpen;
        const double works = orZero(panel->vmp);
        return works > 0 && !overSet(open, orZero(c.inputNeverAbove)) &&
               works >= std::max(orZero(c.inputMin), c.topology == Topology::boost ? 0 : full);
    }
    if (m.volts <= 0 || overSet(m.high, orZero(c.inputNeverAbove)) || m.low < orZero(c.inputMin))
        return false;
    switch (c.topology.value_or(Topology::linear)) {
    case Topology::linear:
        return m.low >= full + orZero(c.dropout);
    case Topology::buck:
        return m.low * c.maxDuty.value_or(1) >= full + orZero(c.drop);
    case Topology::boost:
        return m.high < empty;
    case Topology::buckBoost:
        return true;
    case Topology::direct:
        return false; // nothing ends it
    }
    return false;
}

/// A that the charger asksOf of the source at most.
double asksOf(const Part& source, const Charger& c, double full) {
    const double amps = ampsOf(c);
    if (c.topology == Topology::linear)
        return amps;
    // By the volts it has left at its limit: an unregulated one sags, and gives more amps for it.
    const SourceModel m = sourceModel(source);
    const double volts = m.volts - m.ohms * m.limit;
    double in = volts > 0 ? amps * full / volts / kRefillConverts : amps;
    if (c.inputLimit)
        in = std::min(in, c.inputLimit->value());
    return in;
}

struct ChargerOption {
    Stage source;
    Stage charger;
    std::string part;
    double estimate = 0; ///< h
    double grams = 0;
    double price = 0;
};

bool isRefillSource(const std::string& by, const Part& part) {
    return by == "socket"    ? std::holds_alternative<Usb>(part)
           : by == "adapter" ? std::holds_alternative<Adapter>(part)
           : by == "vehicle" ? std::holds_alternative<Vehicle>(part)
                             : by == "sun" && std::holds_alternative<Panel>(part);
}

/// W by the labels that the pack's use asksOf of a panel, by the worst month and the rule of thumb.
double panelWatts(const Project& with) {
    const auto weather = usualWeather(with, 1, 1);
    if (!weather)
        return kSunUnknown;
    auto bench = SolarSimulation::of(with, weather.value());
    if (!bench)
        return kSunUnknown;
    const SunPlan plan = planOf(*bench.value());
    return plan.panelWithMarginW.value_or(plan.panelNeededW.value_or(kSunUnknown));
}

double wattsOf(const Part& part) {
    return labelWatts(std::get<Panel>(part));
}

/// The fuse at the cells' end of the charger's leg, with its mass and price.
void fuseLeg(const Project& off, const Library& library, ChargerChoice& refill) {
    const Project bare = withRefill(off, refill);
    const std::string charger = chargersOf(bare).back();
    const Project fused = withLegFuse(bare, charger, &library);
    const Stage* fuse = legFuse(fused, charger);
    if (!fuse)
        return;
    refill.fuse = *fuse;
    refill.grams += orZero(fuse->mass);
    refill.price += fuse->price.value_or(0);
}

} // namespace

std::optional<Charger> chargerFitted(const Stage& charger, const Pack& pack) {
    const auto* found = std::get_if<Charger>(&charger.part);
    if (!found || found->topology == Topology::direct || !canRecharge(pack.cell))
        return {};
    Charger c = *found;
    const Cell& cell = pack.cell;
    const bool nickel = isNickel(cell.chemistry);
    const bool lead = cell.chemistry == Chemistry::leadAcid;
    const ChargeEnd end = c.endsBy.value_or(ChargeEnd::endCurrent);
    const bool byNickel =
        end == ChargeEnd::timer || end == ChargeEnd::deltaV || end == ChargeEnd::deltaT;
    if (byNickel != nickel || (end == ChargeEnd::threeStage && !lead))
        return {};
    const double full =
        pack.series * (cell.full ? cell.full->value() : voltsOf(cell.chemistry).fresh);
    if (!nickel && !fitsVolts(c, full, lead, pack.series))
        return {};
    const double most = cell.maxCharge ? cell.maxCharge->value() * pack.parallel : ampsOf(c);
    const double amps = orZero(c.chargeCurrent);
    if (amps > most) {
        // Only what can be set can be turned down.
        if (!c.programK && !c.adjustMax)
            return {};
        c.chargeCurrent = Amps{most};
        if (c.programK && c.programOhm)
            c.programOhm = Ohms{*c.programK / most};
        if (c.endCurrent)
            c.endCurrent = Amps{std::min(c.endCurrent->value(), most / 10)};
        if (c.recoveryCurrent)
            c.recoveryCurrent = Amps{std::min(c.recoveryCurrent->value(), most / 10)};
    }
    // A timer fills what it is wound for and no more.
    if (end == ChargeEnd::timer && c.timer &&
        orZero(c.chargeCurrent) * c.timer->value() * c.chargeEfficiency.value_or(1) <
            0.9 * cell.capacity.value() * pack.parallel)
        return {};
    return c;
}

bool canRefill(const Pack& pack, const std::string& by, const Library& library) {
    const Cell& cell = pack.cell;
    const double full =
        pack.series * (cell.full ? cell.full->value() : voltsOf(cell.chemistry).fresh);
    const double empty =
        pack.series * (cell.empty ? cell.empty->value() : voltsOf(cell.chemistry).empty);
    return std::any_of(library.parts.begin(), library.parts.end(), [&](const LibraryPart& part) {
        const auto* kind = std::get_if<Charger>(&part.stage.part);
        if (!kind || (kind->dark || kind->tracking) != (by == "sun"))
            return false;
        const auto fitted = chargerFitted(part.stage, pack);
        return fitted && ampsOf(*fitted) > 0 &&
               std::any_of(library.parts.begin(), library.parts.end(),
                           [&](const LibraryPart& source) {
                               return isRefillSource(by, source.stage.part) &&
                                      feedsCharger(source.stage.part, *fitted, empty, full);
                           });
    });
}

namespace {

/// The sources of the way `by`: those that are there, else the library's.
std::vector<const Stage*> refillSources(const std::string& by, const std::vector<Stage>& there,
                                        const Library& library) {
    std::vector<const Stage*> sources;
    for (const Stage& s : there)
        if (isRefillSource(by, s.part))
            sources.push_back(&s);
    if (!sources.empty())
        return sources;
    for (const LibraryPart& part : library.parts)
        if (isRefillSource(by, part.stage.part) &&
            (by != "adapter" || part.own || part.name.starts_with("adapter-")))
            sources.push_back(&part.stage);
    return sources;
}

/// The source on which the charger does best: the cheapest that carries it with the headroom that
/// is asked for, else the cheapest that carries it, else the strongest.
const Stage* sourceFor(const std::string& by, const std::vector<const Stage*>& sources,
                       const Charger& fitted, double empty, double full, double headroom) {
    const Stage* best = nullptr;
    double least = 0;
    for (const Stage* source : sources) {
        if (!feedsCharger(source->part, fitted, empty, full))
            continue;
        const double limit = by == "sun" ? wattsOf(source->part) : sourceModel(source->part).limit;
        const double amps = by == "sun" ? 0 : asksOf(source->part, fitted, full);
        const bool carries = limit <= 0 || limit >= amps;
        const bool easily = limit <= 0 || limit >= headroom * amps;
        const double score =
            carries ? source->price.value_or(0) + limit * 1e-3 + (easily ? 0 : 1e4) : 1e6 - limit;
        if (best && score >= least)
            continue;
        least = score;
        best = source;
    }
    return best;
}

/// Every charger of the library that fits the pack, each on its source of the way `by`: those that
/// are done overnight by their amps, the cheapest first; then the others, the fastest first.
std::vector<ChargerOption> chargerOptions(const Pack& pack, const std::string& by,
                                          const std::vector<const Stage*>& sources, bool own,
                                          double headroom, const Library& library) {
    const Cell& cell = pack.cell;
    const double full =
        pack.series * (cell.full ? cell.full->value() : voltsOf(cell.chemistry).fresh);
    const double empty =
        pack.series * (cell.empty ? cell.empty->value() : voltsOf(cell.chemistry).empty);
    std::vector<ChargerOption> ways;
    for (const LibraryPart& part : library.parts) {
        // A sun charger sleeps on the pack in the dark; the others are unplugged then.
        const auto* kind = std::get_if<Charger>(&part.stage.part);
        if (!kind || (kind->dark || kind->tracking) != (by == "sun"))
            continue;
        auto fitted = chargerFitted(part.stage, pack);
        if (!fitted || ampsOf(*fitted) <= 0)
            continue;
        const Stage* source = sourceFor(by, sources, *fitted, empty, full, headroom);
        if (!source)
            continue;
        ChargerOption way;
        way.source = *source;
        way.part = part.name;
        way.charger = part.stage;
        way.charger.part = *fitted;
        way.estimate = cell.capacity.value() * pack.parallel / ampsOf(*fitted);
        way.grams = orZero(part.stage.mass);
        way.price = part.stage.price.value_or(0) + (own ? 0 : source->price.value_or(0));
        ways.push_back(std::move(way));
    }
    std::stable_sort(ways.begin(), ways.end(), [](const ChargerOption& a, const ChargerOption& b) {
        const bool x = a.estimate <= kDoneByMorning;
        const bool y = b.estimate <= kDoneByMorning;
        if (x != y)
            return x;
        return x ? a.price < b.price : a.estimate < b.estimate;
    });
    return ways;
}

/// In place of the panel that was first taken, the least that gives what the use asks for in the
/// worst month.
void takePanel(const Project& project, const std::vector<const Stage*>& sources,
               ChargerChoice& refill) {
    const Pack& pack = *project.pack();
    const Cell& cell = pack.cell;
    const double full =
        pack.series * (cell.full ? cell.full->value() : voltsOf(cell.chemistry).fresh);
    const double empty =
        pack.series * (cell.empty ? cell.empty->value() : voltsOf(cell.chemistry).empty);
    const double watts = panelWatts(withRefill(project, refill));
    const Stage* chosen = nullptr;
    for (const Stage* source : sources)
        if (feedsCharger(source->part, std::get<Charger>(refill.charger.part), empty, full) &&
            (!chosen ||
             (wattsOf(chosen->part) < watts ? wattsOf(source->part) > wattsOf(chosen->part)
                                            : wattsOf(source->part) >= watts &&
                                                  wattsOf(source->part) < wattsOf(chosen->part))))
            chosen = source;
    refill.price += chosen->price.value_or(0) - refill.source.price.value_or(0);
    refill.grams += orZero(chosen->mass);
    refill.source = *chosen;
}

/// The pack by itself: the device is off.
Project packAlone(const Project& project) {
    Project off = project;
    off.loads.clear();
    std::erase_if(off.stages, [](const Stage& s) { return !std::holds_alternative<Pack>(s.part); });
    return off;
}

} // namespace

std::optional<ChargerChoice> chooseCharger(const Project& project, const std::vector<Stage>& there,
                                           const Library& library) {
    const Pack* pack = project.pack();
    const std::vector<std::string> wanted = refillWays(project);
    if (!pack || wanted.empty())
        return {};
    const Project off = packAlone(project);
    const double headroom = project.brief.headroom.value_or(kUsualHeadroom);
    for (const std::string& by : wanted) {
        const std::vector<const Stage*> sources = refillSources(by, there, library);
        const bool own = std::any_of(there.begin(), there.end(),
                                     [&](const Stage& s) { return isRefillSource(by, s.part); });
        std::size_t tries = 0;
        for (const ChargerOption& way :
             chargerOptions(*pack, by, sources, own, headroom, library)) {
            if (tries++ == kRefillTries)
                break;
            ChargerChoice refill{by, way.source, way.charger, way.part,
                                 {}, {},         way.grams,   way.price};
            fuseLeg(off, library, refill);
            if (by == "sun") {
                if (!own)
                    takePanel(project, sources, refill);
                return refill;
            }
            const Project with = withRefill(off, refill);
            ChargeOptions ask;
            ask.ledger = false;
            ask.charger = chargersOf(with).back();
            const auto charge = chargeOf(with, ask);
            if (!charge || !charge.value().hoursToFull)
                continue;
            refill.hours = charge.value().hoursToFull;
            return refill;
        }
    }
    return {};
}

std::vector<std::string> refillWays(const Project& project) {
    const auto& by = project.brief.refilledBy;
    if (!by || by->empty())
        return {"socket", "adapter"};
    std::vector<std::string> ways;
    for (const std::string& way : *by)
        if (way != "swap")
            ways.push_back(way);
    return ways;
}

std::vector<FillChoice> fillChoices(const Project& project, const Library& library,
                                    const std::stop_token& stop) {
    std::vector<FillChoice> list;
    const Pack* pack = project.pack();
    if (!pack)
        return list;
    const Project off = packAlone(project);
    const double headroom = project.brief.headroom.value_or(kUsualHeadroom);
    for (const char* const by : {"socket", "adapter", "vehicle", "sun"}) {
        const std::vector<const Stage*> sources = refillSources(by, project.stages, library);
        const bool own = std::any_of(project.stages.begin(), project.stages.end(),
                                     [&](const Stage& s) { return isRefillSource(by, s.part); });
        for (const ChargerOption& way :
             chargerOptions(*pack, by, sources, own, headroom, library)) {
            if (stop.stop_requested())
                return list;
            FillChoice fill;
            fill.choice = {by, way.source, way.charger, way.part, {}, {}, way.grams, way.price};
            fuseLeg(off, library, fill.choice);
            if (std::string_view(by) == "sun") {
                if (!own)
                    takePanel(project, sources, fill.choice);
                list.push_back(std::move(fill));
                continue;
            }
            const Project with = withRefill(off, fill.choice);
            ChargeOptions ask;
            ask.ledger = false;
            ask.charger = chargersOf(with).back();
            const auto charge = chargeOf(with, ask);
            if (!charge)
                continue;
            fill.choice.hours = charge.value().hoursToFull;
            fill.never = charge.value().failure;
            fill.heldBy = charge.value().bindingLimit();
            list.push_back(std::move(fill));
        }
    }
    // What fills them before what does not, the fastest first; what only the sun fills has no
    // hours and comes after those.
    std::stable_sort(list.begin(), list.end(), [](const FillChoice& a, const FillChoice& b) {
        const auto rank = [](const FillChoice& f) {
            return std::pair(f.never ? 2 : f.choice.hours ? 0 : 1, f.choice.hours.value_or(0));
        };
        return rank(a) < rank(b);
    });
    // The best of each source stands on top.
    std::set<std::string> seen;
    std::stable_partition(list.begin(), list.end(), [&](const FillChoice& f) {
        return !f.never && seen.insert(f.choice.by).second;
    });
    return list;
}

namespace {

/// A guard for the cells that are there now: the first on the line at their volts, else a new one.
Project withGuardFor(Project p) {
    const std::string pack = p.packStage()->id;
    const Stage fresh = freshStage(p, Kind::guard, pack);
    const auto& wanted = std::get<Guard>(fresh.part);
    for (const std::size_t i : downstreamStages(p, pack))
        if (auto* guard = std::get_if<Guard>(&p.stages[i].part)) {
            guard->cutoff = wanted.cutoff;
            guard->reconnect = wanted.reconnect;
            return p;
        }
    return withStageBetween(std::move(p), fresh, pack);
}

} // namespace

std::vector<CellChoice> chargeableCells(const Project& project, const Library& library,
                                        const std::stop_token& stop) {
    std::vector<CellChoice> list;
    if (!project.pack())
        return list;
    Library packs;
    for (const LibraryPart& part : library.parts)
        if (const auto* pack = std::get_if<Pack>(&part.stage.part); pack && canRecharge(pack->cell))
            packs.parts.push_back(part);
    const std::string& at = project.packStage()->id;
    const auto now = predictRuntime(project).hours;
    for (const Swap& swap : suggestSwaps(project, packs, at, stop)) {
        if (stop.stop_requested())
            return {};
        if (!swap.fits)
            continue;
        CellChoice c;
        c.with = withGuardFor(withSwap(project, at, packs.parts[swap.part], swap.series));
        const auto hours = predictRuntime(c.with).hours;
        if (hours && hours->value() <= 0)
            continue;
        if (hours)
            c.hours = hours->value();
        c.gramsMore = c.with.massGrams() - project.massGrams();
        c.priceMore = c.with.totalPrice() - project.totalPrice();
        list.push_back(std::move(c));
    }
    const auto& target = project.brief.targetRuntime;
    const double enough = target ? target->value() : now ? now->value() : 0;
    const auto key = [&](const CellChoice& c) {
        const double hours = c.hours.value_or(std::numeric_limits<double>::infinity());
        return std::pair(hours < enough, hours < enough ? -hours : c.gramsMore);
    };
    std::stable_sort(list.begin(), list.end(),
                     [&](const CellChoice& a, const CellChoice& b) { return key(a) < key(b); });
    return list;
}

Project withRefill(Project p, const ChargerChoice& refill) {
    const Stage* pack = p.packStage();
    if (!pack)
        return p;
    const std::string charged = pack->id;
    Stage source = refill.source;
    const Stage* there = p.stage(source.id);
    if (!there || !(there->part == source.part)) {
        source.id = freeId(p, refill.by == "sun" ? std::string("panel") : refill.by);
        source.fedBy.clear();
        source = placedPart(p, std::move(source));
        p.stages.push_back(source);
    }
    Stage charger = refill.charger;
    charger.id = freeId(p, "charger");
    charger.fedBy = {source.id};
    charger.feedsListed = false;
    std::get<Charger>(charger.part).charges = charged;
    const std::string id = charger.id;
    p.stages.push_back(placedPart(p, std::move(charger)));
    if (!refill.fuse)
        return p;
    Stage fuse = *refill.fuse;
    fuse.id = freeId(p, "charge-fuse");
    fuse = placedPart(p, std::move(fuse));
    return withStageBetween(std::move(p), std::move(fuse), id);
}

} // namespace sipper
