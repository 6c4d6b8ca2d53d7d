// SPDX-License-Identifier: GPL-3.0-or-later
// Stretches of one voltage with what flows, opens and burns in them first.
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
#include "project/tree.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace sipper {
namespace {

constexpr double kPulseShare = 0.3;      ///< of its I2t that a fuse stands again and again
constexpr double kResetHoldsAt40 = 0.83; ///< of its rating that a resettable one holds when warm
/// Times its rating, at which a slow fuse too is open within 0.3 s (IEC 60127-2), before a lead of
/// somewhat less ampacity is hurt.
constexpr double kSurelyClears = 10;

/// What is usual for a form of fuse: ratings, volts of direct current, what it drops at its
/// rating, and its I2t as a multiple of the rating squared.
struct Form {
    FuseForm form;
    FuseSpeed speed;
    double least, most;  ///< A
    double volts;        ///< V
    double dropAtRating; ///< V
    double melts;        ///< s; 0: it has none
    std::string_view says;
};
constexpr std::array kForms{
    Form{FuseForm::glass, FuseSpeed::fast, 0.1, 10, 60, 0.12, 0.02,
         "for electronics; look for its rating for direct current"},
    Form{FuseForm::glass, FuseSpeed::slow, 0.1, 10, 60, 0.10, 0.6,
         "rides through starts and bursts"},
    Form{FuseForm::blade, FuseSpeed::fast, 1, 40, 32, 0.09, 0.25,
         "for packs and vehicles, with a holder that takes thick leads"},
    Form{FuseForm::resettable, FuseSpeed::slow, 0.1, 9, 30, 0.15, 0,
         "closes again when it has cooled; slow, and a warm place lowers it"},
};

double limitOf(const Part& part) {
    const OutputLimits limits = limitsOf(part);
    double amps = std::numeric_limits<double>::infinity();
    // Stepping down, what its inductor may carry is what it gives.
    const double inductor = kindOf(part) == Kind::boost ? 0 : limits.inductor;
    for (const double a : {limits.amps, limits.rated, inductor})
        if (a > 0)
            amps = std::min(amps, a);
    const double set = orZero(setPointOf(part));
    if (limits.watts > 0 && set > 0)
        amps = std::min(amps, limits.watts / set);
    return amps;
}

const Stage* beginOf(const Project& p, const std::string& id) {
    const auto way = pathToSource(p, id);
    for (const Stage* s : way)
        if (converts(*s) || isSource(s->part))
            return s;
    return nullptr;
}

/// The fuse that a short there has to pass: at the same voltage, and on through a boost, which lets
/// a short straight through.
const Stage* fuseOn(const Project& p, const Stage& stage) {
    const auto stops = [](const Stage& s) { return converts(s) && kindOf(s.part) != Kind::boost; };
    if (stops(stage))
        return nullptr;
    for (const Stage* s : pathToSource(p, stage.id)) {
        if (std::holds_alternative<Fuse>(s->part))
            return s;
        if (stops(*s))
            break;
    }
    return nullptr;
}

/// What the stretch from `id` leads to: the next converter or load, by name.
std::string endName(const Project& p, const std::string& id) {
    const std::set<std::string> down = downstreamIds(p, id);
    for (const Stage& s : p.stages)
        if (s.id != id && converts(s) && down.contains(s.id))
            return nameOf(s);
    for (const Load& l : p.loads)
        if (down.contains(l.fedBy))
            return nameOf(l);
    return "nothing";
}

void judge(const Project& p, const Stage& begin, WireSegment& s) {
    const bool converter = converts(begin);
    s.atSource = !converter;
    if (converter) {
        const double limit = limitOf(begin.part);
        if (std::isfinite(limit))
            s.source = limit;
        s.shortCircuit = limit;
        if (kindOf(begin.part) == Kind::boost)
            if (const auto way = pathToSource(p, begin.id); !way.empty())
                s.shortCircuit = shortCircuitAmps(way.back()->part);
    } else {
        if (const auto* pack = std::get_if<Pack>(&begin.part))
            s.source = packLimit(*pack);
        else if (const double limit = sourceModel(begin.part).limit; limit > 0)
            s.source = limit;
        s.shortCircuit = shortCircuitAmps(begin.part);
    }
    const double may = s.lead.value_or(std::numeric_limits<double>::infinity());
    // A boost passes a short on to a fuse before it; one behind it is judged as any other.
    const bool before = s.fuse && kindOf(begin.part) == Kind::boost &&
                        !downstreamIds(p, begin.id).contains(s.fuseId);
    const bool clears = before && s.shortCircuit >= kSurelyClears * *s.fuse;
    const bool fused = s.fuse && (clears || !exceeds(*s.fuse, may));
    const bool fromPack = isPack(begin.part);
    const bool limits = !fromPack && s.source && !exceeds(*s.source, may);
    if (fused)
        s.first = fromPack && s.source && exceeds(*s.fuse, *s.source) ? WeakestElement::cells
                                                                      : WeakestElement::fuse;
    else if (limits || (s.lead && !exceeds(s.shortCircuit, may)))
        s.first = WeakestElement::source;
    else if (s.lead && !fromPack && !std::isfinite(s.shortCircuit))
        s.first = WeakestElement::unknown;
    else if (s.lead)
        s.first = WeakestElement::lead;
    else if (fromPack)
        s.first = WeakestElement::cells;
    s.needsFuse =
        !s.fuse && s.atSource && exceeds(s.shortCircuit, may) && s.first != WeakestElement::source;
}

} // namespace

std::vector<WireSegment> wireSegmentsOf(const Project& p, const ObservedCurrents& seen) {
    std::vector<WireSegment> list;
    const auto highest = [&](std::size_t stage) {
        double volts =
            seen.sweep && seen.sweep->stageOut[stage].valid ? seen.sweep->stageOut[stage].high : 0;
        for (const ExternalLoad& t : seen.externalLoads)
            if (t.seen.stageOut[stage].valid)
                volts = std::max(volts, t.seen.stageOut[stage].high);
        const Part& part = p.stages[stage].part;
        if (const auto* pack = std::get_if<Pack>(&part))
            volts = std::max(volts, fullVolts(*pack));
        else if (isSource(part))
            volts = std::max(volts, sourceModel(part).high);
        return volts;
    };
    const auto add = [&](std::size_t stage, const Stage& begin, std::string name,
                         const Wire* wire) {
        WireSegment s;
        s.id = p.stages[stage].id;
        s.from = begin.id;
        s.name = std::move(name);
        s.need = currentDemandOf(p, stage, seen);
        const bool leg = isPack(begin.part) && chargedBy(p, p.stages[stage]);
        if (leg) // what burns it comes from the pack
            s.need.continuous = legAmps(
                p, isCharger(p.stages[stage].part) ? p.stages[stage] : *chargerBefore(p, s.id),
                seen.charges);
        const Stage* fuse = leg ? legFuse(p, s.id) : fuseOn(p, p.stages[stage]);
        if (!leg && !wire && !fuse) // a way without a lead may have its fuse further on
            for (const std::size_t i : sameVoltage(p, s.id))
                if (!fuse && std::holds_alternative<Fuse>(p.stages[i].part))
                    fuse = &p.stages[i];
        if (fuse) {
            s.fuse = std::get<Fuse>(fuse->part).rating.value();
            s.fuseId = fuse->id;
            const CurrentDemand through = currentDemandOf(p, stageIndex(p, fuse->id), seen);
            s.fuseShared =
                !leg && (exceeds(through.continuous, s.need.continuous) ||
                         exceeds(through.burst, std::max(s.need.burst, s.need.continuous)));
        }
        if (wire)
            s.lead = ampacity(*wire);
        judge(p, begin, s);
        s.volts = highest(leg ? stageIndex(p, begin.id) : stage);
        s.choices = fuseChoices(s, s.volts);
        list.push_back(std::move(s));
    };
    for (std::size_t i = 0; i < p.stages.size(); ++i) {
        const Stage& stage = p.stages[i];
        if (const auto* wire = std::get_if<Wire>(&stage.part)) {
            if (const Stage* pack = chargedBy(p, stage))
                add(i, *pack, nameOf(stage), wire);
            else if (const Stage* begin = beginOf(p, stage.id))
                add(i, *begin, nameOf(stage), wire);
            continue;
        }
        if (!converts(stage) && !isSource(stage.part))
            continue;
        // A stretch without a lead is shown by what begins it.
        const auto there = sameVoltage(p, stage.id);
        const bool hasLead = std::any_of(there.begin(), there.end(), [&](std::size_t k) {
            return std::holds_alternative<Wire>(p.stages[k].part);
        });
        const std::set<std::string> down = downstreamIds(p, stage.id);
        const bool feeds = std::any_of(p.loads.begin(), p.loads.end(),
                                       [&](const Load& l) { return down.contains(l.fedBy); });
        const Stage* pack = isCharger(stage.part) ? chargedBy(p, stage) : nullptr;
        if (pack && !hasLead)
            add(i, *pack, nameOf(stage) + " to " + nameOf(*pack), nullptr);
        else if (!hasLead && feeds && !isCharger(stage.part))
            add(i, stage, nameOf(stage) + " to " + endName(p, stage.id), nullptr);
    }
    return list;
}

double burstHeat(const CurrentDemand& need) {
    return need.burst * need.burst * need.seconds;
}

std::vector<FuseChoice> fuseChoices(const WireSegment& s, double volts) {
    std::vector<FuseChoice> list;
    double most = s.lead.value_or(std::numeric_limits<double>::infinity());
    if (s.atSource && s.source)
        most = std::min(most, *s.source);
    for (const Form& form : kForms) {
        FuseChoice c;
        c.form = form.form;
        c.speed = form.speed;
        const bool resets = form.form == FuseForm::resettable;
        // A resettable one holds less when it is warm, and rides through a burst.
        const double least = resets ? s.need.continuous / kResetHoldsAt40
                                    : leastFuse(s.need.continuous, s.need.burst, form.speed);
        const auto rating =
            chooseFuse(std::max(least, form.least), std::min(most, form.most), form.form);
        c.ratedVolts = form.volts;
        c.standsVolts = !exceeds(volts, form.volts);
        if (!rating) {
            c.why = exceeds(least, most) ? fmt::format("needs {} or more; lead or cells carry {}",
                                                       writeQuantity(least, Unit::ampere),
                                                       writeQuantity(most, Unit::ampere))
                                         : "no rating of this form lies between";
            list.push_back(std::move(c));
            continue;
        }
        c.rating = *rating;
        c.ohms = form.dropAtRating / c.rating;
        c.dropVolts = s.need.continuous * c.ohms;
        c.heatWatts = s.need.continuous * c.dropVolts;
        c.i2t = form.melts * c.rating * c.rating;
        c.standsBursts = c.i2t == 0 || burstHeat(s.need) <= kPulseShare * c.i2t;
        c.fits = c.standsBursts && c.standsVolts;
        c.why = !c.standsVolts ? fmt::format("usual for up to {}; {} are there",
                                             writeQuantity(form.volts, Unit::volt),
                                             writeQuantity(volts, Unit::volt))
                : !c.standsBursts
                    ? fmt::format("the bursts' {:.3g} A²s wear it out; it stands {:.3g} again and "
                                  "again",
                                  burstHeat(s.need), kPulseShare * c.i2t)
                    : std::string(form.says);
        list.push_back(std::move(c));
    }
    return list;
}

} // namespace sipper
