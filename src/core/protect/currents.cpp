// SPDX-License-Identifier: GPL-3.0-or-later
#include "protect/currents.hpp"

#include "base/tolerance.hpp"
#include "charge/limits.hpp"
#include "line/chargeleg.hpp"
#include "line/sources.hpp"
#include "line/unloaded.hpp"
#include "line/wiring.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/build.hpp"
#include "project/roles.hpp"
#include "project/tree.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace sipper {
namespace {

constexpr double kInfinite = std::numeric_limits<double>::infinity();
constexpr double kFuseMostOhms = 0.1; ///< of a small fuse (rule of thumb)
constexpr double kFuseDrop = 0.1;     ///< V over a fuse at its rating (rule of thumb)

/// What begins the stretch that a stage lies on: the nearest converter, or the source.
} // namespace

const Stage* chargedBy(const Project& p, const Stage& stage) {
    const Stage* charger = isCharger(stage.part) ? &stage : chargerBefore(p, stage.id);
    const Stage* pack = charger ? p.stage(std::get<Charger>(charger->part).charges) : nullptr;
    return pack && isPack(pack->part) ? pack : nullptr;
}

double legAmps(const Project& p, const Stage& stage, std::span<const ChargeAnalysis> charges) {
    const auto& charger = std::get<Charger>(stage.part);
    const Stage* packStage = chargedBy(p, stage);
    if (!packStage)
        return 0;
    const auto& pack = std::get<Pack>(packStage->part);
    const ChargeSettings set(charger, pack);
    double most = std::max(set.current, set.outputLimit);
    for (const ChargeAnalysis& look : charges)
        if (look.usual.charger == stage.id)
            for (const ChargePoint& point : look.usual.curve)
                most = std::max(most, point.packAmps);
    if (set.current > 0 || set.outputLimit > 0)
        return most;
    for (const std::string& id : sourcesOf(p, stage))
        if (const auto* panel = std::get_if<Panel>(&p.stage(id)->part)) {
            const double amps = orZero(panel->shortCircuit) * panel->countParallel.value_or(1);
            const double volts = orZero(panel->openCircuit) * panel->countSeries.value_or(1);
            // A converter gives fewer volts and more amps, at the same watts.
            const bool turns =
                charger.topology != Topology::linear && charger.topology != Topology::direct;
            const double low =
                pack.series *
                pack.cell.empty.value_or(Volts{voltsOf(pack.cell.chemistry).empty}).value();
            most = std::max(most, amps * (turns && low > 0 ? std::max(1.0, volts / low) : 1));
        }
    return most;
}

double maxLegFuseRating(const Project& p, const Stage& charger) {
    const Stage* pack = chargedBy(p, charger);
    double most = kInfinite;
    if (pack) {
        const auto& cells = std::get<Pack>(pack->part);
        most = packLimit(cells).value_or(shortCircuitAmps(pack->part));
    }
    for (const Stage* s : chargeLeg(p, charger.id))
        if (const auto* wire = std::get_if<Wire>(&s->part))
            most = std::min(most, ampacity(*wire));
    return most;
}

namespace {

/// The smallest fuse of the library from `least` to `most` that stands `volts`; null: none.
const LibraryPart* fuseOfShelf(const Library& library, double least, double most, double volts) {
    const LibraryPart* best = nullptr;
    for (const LibraryPart& part : library.parts) {
        const auto* fuse = std::get_if<Fuse>(&part.stage.part);
        if (!fuse || fuse->form == FuseForm::resettable ||
            fallsBelow(fuse->rating.value(), least) || exceeds(fuse->rating.value(), most) ||
            (fuse->ratedVoltage && exceeds(volts, fuse->ratedVoltage->value())))
            continue;
        if (!best || fuse->rating < std::get<Fuse>(best->stage.part).rating)
            best = &part;
    }
    return best;
}

} // namespace

Project withLegFuse(Project p, const std::string& id, const Library* library) {
    const Stage* charger = p.stage(id);
    const Stage* pack = charger ? chargedBy(p, *charger) : nullptr;
    if (!pack || legFuse(p, id))
        return p;
    const double gives = shortCircuitAmps(pack->part);
    if (!std::isfinite(gives) || gives <= kFuseFrom)
        return p;
    const double least = leastFuse(legAmps(p, *charger, {}), 0, FuseSpeed::slow);
    const double most = std::min(maxLegFuseRating(p, *charger), gives);
    Stage fuse;
    if (const LibraryPart* part =
            library ? fuseOfShelf(*library, least, most, fullVolts(std::get<Pack>(pack->part)))
                    : nullptr) {
        fuse = part->stage;
    } else if (const auto rating = chooseFuse(least, most); rating && least > 0) {
        fuse = fuseOf(*rating);
    } else {
        return p;
    }
    fuse.id = freeId(p, "charge-fuse");
    fuse = placedPart(p, std::move(fuse));
    const auto leg = chargeLeg(p, id);
    return withStageBetween(p, std::move(fuse), leg.empty() ? id : leg.back()->id);
}

Stage fuseOf(double rating) {
    Stage fuse;
    fuse.label = "Fuse";
    Fuse part;
    part.rating = Amps{rating};
    part.speed = FuseSpeed::slow;
    part.resistance = Ohms{std::min(kFuseMostOhms, kFuseDrop / rating)};
    fuse.part = part;
    return fuse;
}

const Stage* legFuse(const Project& p, std::string_view id) {
    const Stage* stage = p.stage(id);
    const Stage* charger = !stage ? nullptr : isCharger(stage->part) ? stage : chargerBefore(p, id);
    if (!charger)
        return nullptr;
    const auto leg = chargeLeg(p, charger->id);
    for (auto at = leg.rbegin(); at != leg.rend(); ++at) {
        if (std::holds_alternative<Fuse>((*at)->part))
            return *at;
        if ((*at)->id == id)
            break;
    }
    return nullptr;
}

CurrentDemand currentDemandOf(const Project& p, std::size_t stage, const ObservedCurrents& all) {
    CurrentDemand need;
    if (const Stage* charger = chargerBefore(p, p.stages[stage].id)) {
        need.continuous = legAmps(p, *charger, all.charges);
        return need;
    }
    const auto sight = [&](const Occurrence& most) {
        double& figure = most.inBurst ? need.burst : need.continuous;
        if (most.valid)
            figure = std::max(figure, most.value);
    };
    const auto take = [&](const OperatingSweep& seen) {
        sight(seen.maxOut[stage]);
        // What it carries when it burns most is a lasting current in any case.
        need.continuous = std::max(need.continuous, seen.atMaxLoss[stage].iOut);
    };
    // A source is not a stage on its own line: what it gives is kept beside it, and of a lasting
    // current what hangs on it tells.
    const auto ofSource = [&](const OperatingSweep& seen, const Occurrence& most) {
        sight(most);
        double sum = 0;
        for (std::size_t i = 0; i < p.stages.size(); ++i)
            if (!isCharger(p.stages[i].part) && !p.stages[i].fedBy.empty() &&
                p.stages[i].fedBy.front() == p.stages[stage].id)
                sum += seen.atMaxLoss[i].iIn;
        need.continuous = std::max(need.continuous, sum);
    };
    if (all.sweep) {
        take(*all.sweep);
        if (stage == packIndex(p))
            ofSource(*all.sweep, all.sweep->maxPack);
    }
    for (const ExternalLoad& t : all.externalLoads) {
        take(t.seen);
        if (t.source == stage)
            ofSource(t.seen, t.worst);
    }
    const auto back = pathToSource(p, p.stages[stage].id);
    const Part& source = back.empty() ? p.stages[stage].part : back.back()->part;
    if (const auto* panel = std::get_if<Panel>(&source)) // in full sun it gives all it has
        need.continuous = std::max(need.continuous,
                                   orZero(panel->shortCircuit) * panel->countParallel.value_or(1));
    for (const ChargeAnalysis& look : all.charges) {
        const auto way = pathToSource(p, look.usual.charger);
        if (std::find(way.begin(), way.end(), &p.stages[stage]) != way.end())
            for (const ChargePoint& point : look.usual.curve)
                need.continuous = std::max(need.continuous, point.inputAmps);
    }
    const std::set<std::string> down = downstreamIds(p, p.stages[stage].id);
    for (const Load& load : p.loads)
        if (down.contains(load.fedBy))
            for (const Draw& d : load.draws)
                if (d.hasBurst())
                    need.seconds = std::max(need.seconds, orZero(d.burstTime));
    return need;
}

std::optional<double> packLimit(const Pack& pack) {
    return pack.cell.maxDischarge ? std::optional(pack.cell.maxDischarge->value() * pack.parallel)
                                  : std::nullopt;
}

double shortCircuitAmps(const Part& source) {
    const SourceModel m = sourceModel(source);
    if (!isPack(source) && m.limit > 0)
        return m.limit;
    return m.ohms > 0 ? m.high / m.ohms : kInfinite;
}

bool converts(const Stage& stage) {
    return active(stage.part) != nullptr;
}

std::vector<std::size_t> sameVoltage(const Project& p, const std::string& id) {
    return downstreamStages(p, id, [](const Stage& s) { return !converts(s); });
}

double maxFuseRating(const Project& p, const std::string& from, const Pack* pack) {
    double most = pack ? packLimit(*pack).value_or(shortCircuitAmps(Part{*pack})) : kInfinite;
    for (const std::size_t i : sameVoltage(p, from))
        if (const auto* wire = std::get_if<Wire>(&p.stages[i].part))
            most = std::min(most, ampacity(*wire));
    return most;
}

std::vector<FuseWindow> fuseWindows(const Project& p, const ObservedCurrents& seen) {
    std::vector<FuseWindow> windows;
    for (std::size_t i = 0; i < p.stages.size(); ++i) {
        const Stage& stage = p.stages[i];
        const auto* fuse = std::get_if<Fuse>(&stage.part);
        if (!fuse)
            continue;
        const CurrentDemand need = currentDemandOf(p, i, seen);
        if (const Stage* charger = chargerBefore(p, stage.id)) {
            FuseWindow w;
            w.id = stage.id;
            w.least = leastFuse(need.continuous, need.burst, fuse->speed.value_or(FuseSpeed::fast));
            const double most = maxLegFuseRating(p, *charger);
            if (std::isfinite(most))
                w.most = most;
            w.choose = chooseFuse(w.least, most);
            windows.push_back(std::move(w));
            continue;
        }
        const auto way = pathToSource(p, stage.id);
        const bool atPack =
            !way.empty() && isPack(way.back()->part) &&
            std::none_of(way.begin(), way.end(), [](const Stage* w) { return converts(*w); });
        FuseWindow w;
        w.id = stage.id;
        w.least = leastFuse(need.continuous, need.burst, fuse->speed.value_or(FuseSpeed::fast));
        const double most =
            maxFuseRating(p, stage.id, atPack ? &std::get<Pack>(way.back()->part) : nullptr);
        if (std::isfinite(most))
            w.most = most;
        w.choose = chooseFuse(w.least, most);
        windows.push_back(std::move(w));
    }
    return windows;
}

} // namespace sipper
