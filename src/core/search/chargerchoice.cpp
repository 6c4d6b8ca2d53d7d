// SPDX-License-Identifier: GPL-3.0-or-later
#include "search/chargerchoice.hpp"

#include "base/tolerance.hpp"
#include "charge/charge.hpp"
#include "line/sources.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/build.hpp"
#include "project/tree.hpp"
#include "protect/currents.hpp"
#include "solar/plan.hpp"
#include "solar/simulation.hpp"

#include <algorithm>
#include <cmath>

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
    const double volts = sourceModel(source).volts;
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

std::optional<ChargerChoice> chooseCharger(const Project& project, const std::vector<Stage>& there,
                                           const Library& library) {
    const Pack* pack = project.pack();
    if (!pack || !project.brief.refilledBy)
        return {};
    const Cell& cell = pack->cell;
    const double full =
        pack->series * (cell.full ? cell.full->value() : voltsOf(cell.chemistry).fresh);
    const double empty =
        pack->series * (cell.empty ? cell.empty->value() : voltsOf(cell.chemistry).empty);
    // The pack by itself: the device is off.
    Project off = project;
    off.loads.clear();
    std::erase_if(off.stages, [](const Stage& s) { return !std::holds_alternative<Pack>(s.part); });
    for (const std::string& by : *project.brief.refilledBy) {
        std::vector<const Stage*> sources;
        for (const Stage& s : there)
            if (isRefillSource(by, s.part))
                sources.push_back(&s);
        const bool own = !sources.empty();
        if (!own)
            for (const LibraryPart& part : library.parts)
                if (isRefillSource(by, part.stage.part) &&
                    (by != "adapter" || part.own || part.name.starts_with("adapter-")))
                    sources.push_back(&part.stage);
        std::vector<ChargerOption> ways;
        for (const LibraryPart& part : library.parts) {
            // A sun charger sleeps on the pack in the dark; the others are unplugged then.
            const auto* kind = std::get_if<Charger>(&part.stage.part);
            if (!kind || (kind->dark || kind->tracking) != (by == "sun"))
                continue;
            auto fitted = chargerFitted(part.stage, *pack);
            if (!fitted || ampsOf(*fitted) <= 0)
                continue;
            ChargerOption best;
            double least = 0;
            for (const Stage* source : sources) {
                if (!feedsCharger(source->part, *fitted, empty, full))
                    continue;
                const double limit =
                    by == "sun" ? wattsOf(source->part) : sourceModel(source->part).limit;
                const double amps = by == "sun" ? 0 : asksOf(source->part, *fitted, full);
                // The weakest that carries it; else the strongest.
                const bool carries = limit <= 0 || limit >= amps;
                const double score =
                    carries ? source->price.value_or(0) + limit * 1e-3 : 1e6 - limit;
                if (!best.part.empty() && score >= least)
                    continue;
                least = score;
                best.source = *source;
                best.part = part.name;
            }
            if (best.part.empty())
                continue;
            best.charger = part.stage;
            best.charger.part = *fitted;
            best.estimate = cell.capacity.value() * pack->parallel / ampsOf(*fitted);
            best.grams = orZero(part.stage.mass);
            best.price = part.stage.price.value_or(0) + (own ? 0 : best.source.price.value_or(0));
            ways.push_back(std::move(best));
        }
        // Those that are done overnight, the cheapest first; then the others, the fastest first.
        std::stable_sort(ways.begin(), ways.end(),
                         [&](const ChargerOption& a, const ChargerOption& b) {
                             const bool x = a.estimate <= kDoneByMorning;
                             const bool y = b.estimate <= kDoneByMorning;
                             if (x != y)
                                 return x;
                             return x ? a.price < b.price : a.estimate < b.estimate;
                         });
        std::size_t tries = 0;
        for (const ChargerOption& way : ways) {
            if (tries++ == kRefillTries)
                break;
            ChargerChoice refill{by, way.source, way.charger, way.part,
                                 {}, {},         way.grams,   way.price};
            fuseLeg(off, library, refill);
            if (by == "sun") {
                if (!own) {
                    // The least panel that gives what the use asksOf for in the worst month.
                    const double watts = panelWatts(withRefill(project, refill));
                    const Stage* chosen = nullptr;
                    for (const Stage* source : sources)
                        if (feedsCharger(source->part, std::get<Charger>(way.charger.part), empty,
                                         full) &&
                            (!chosen || (wattsOf(chosen->part) < watts
                                             ? wattsOf(source->part) > wattsOf(chosen->part)
                                             : wattsOf(source->part) >= watts &&
                                                   wattsOf(source->part) < wattsOf(chosen->part))))
                            chosen = source;
                    refill.price += chosen->price.value_or(0) - way.source.price.value_or(0);
                    refill.grams += orZero(chosen->mass);
                    refill.source = *chosen;
                }
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

Project withRefill(Project p, const ChargerChoice& refill) {
    const Stage* pack = p.packStage();
    if (!pack)
        return p;
    const std::string charged = pack->id;
    Stage source = refill.source;
    const Stage* there = p.stage(source.id);
    if (!there || !(there->part == source.part)) {
        source.id = freeId(p, refill.by == "sun"      ? "panel"
                              : refill.by == "socket" ? "socket"
                                                      : "adapter");
        source.fedBy.clear();
        p.stages.push_back(source);
    }
    Stage charger = refill.charger;
    charger.id = freeId(p, "charger");
    charger.fedBy = {source.id};
    charger.feedsListed = false;
    std::get<Charger>(charger.part).charges = charged;
    const std::string id = charger.id;
    p.stages.push_back(std::move(charger));
    if (!refill.fuse)
        return p;
    Stage fuse = *refill.fuse;
    fuse.id = freeId(p, "charge-fuse");
    return withStageBetween(std::move(p), std::move(fuse), id);
}

} // namespace sipper
