// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about fuses, leads and connectors.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "base/tolerance.hpp"
#include "line/chargeleg.hpp"
#include "line/wiring.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/build.hpp"
#include "protect/currents.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace sipper::rules {
namespace {

constexpr double kSlowMelts = 0.6;  ///< s: usual I2t of a slow fuse over its rating squared
constexpr double kFastMelts = 0.25; ///< s: of a fast or blade one
constexpr double kOpensFrom = 2.1;  ///< times its rating: a fuse opens in minutes (IEC 60127-2)
constexpr double kHurtsFrom = 20;   ///< A from which it is no longer a note
constexpr double kStrong = 100;     ///< A that another source gives
constexpr double kSmallNickel = 3;  ///< Ah up to which a nickel cell alone hurts less
constexpr double kDropShare = 0.03;
constexpr double kSameMoment = 0.999; ///< of the worst current: it is that moment
constexpr double kHalfRoom = 0.5;

CurrentDemand demandOf(const RuleInput& s, std::size_t stage) {
    return sipper::currentDemandOf(s.project, stage, {s.sweep, s.externalLoads, s.charges});
}

/// Does a fuse stand on every way from this source to the first converter, charger or load?
bool fusedEverywhere(const Project& p, const std::string& source) {
    const auto way = [&](const std::string& id) {
        bool fused = false;
        for (const Stage* at : pathToSource(p, id)) {
            if (at->id == source)
                return fused;
            if (std::holds_alternative<Fuse>(at->part))
                fused = true;
            if (converts(*at))
                fused = false; // only what stands before the first one counts
        }
        return true; // another source's
    };
    for (const Load& load : p.loads)
        if (!way(load.id))
            return false;
    for (const Stage& stage : p.stages)
        if (isCharger(stage.part) && !way(stage.id))
            return false;
    return true;
}

/// `0.75 mm²`, or `30 AWG (0.05 mm²)` as it was given.
std::string areaText(const Wire& wire) {
    const std::string area = writeQuantity(areaOf(wire), Unit::squareMillimetre);
    return wire.awg ? fmt::format("{:g} AWG ({})", *wire.awg, area) : area;
}

/// A fuse behind `after`, with its fix; the leads are thickened first where no rating fits.
void proposeFuse(const RuleInput& s, const Stage& after, double least, double most, Finding& f) {
    f.numbers["least_a"] = least;
    if (std::isfinite(most))
        f.numbers["most_a"] = most;
    if (least <= 0) {
        f.says += " How large a one is told by what flows, and nothing does yet.";
        return;
    }
    const auto rating = chooseFuse(least, most);
    if (!rating) {
        f.says += " No standard rating fits between what is drawn and what leads and cells carry: "
                  "thicker leads first.";
        return;
    }
    f.numbers["choose_a"] = *rating;
    f.says += fmt::format(" A fuse of {} at {}, by your local rules.", amps(*rating),
                          isSource(after.part) ? "it" : "the cells' end of it");
    Stage fuse = fuseOf(*rating);
    fuse.id = freeId(s.project, "fuse");
    f.fix = insertFix(fuse, after.id, "Add " + amps(*rating),
                      "add a fuse of " + writeExact(*rating, Unit::ampere));
}

/// V between a lead's start at its lowest and what the neediest thing behind it at that voltage
/// takes: a load its minimum, a regulator its set-point and drop-out.
double roomBehind(const Project& p, std::size_t wire, double low, const CurrentDemand& need) {
    double room = low;
    const auto takes = [&](double volts) { room = std::min(room, low - volts); };
    std::set<std::string> here{p.stages[wire].id};
    for (const std::size_t i : sameVoltage(p, p.stages[wire].id))
        here.insert(p.stages[i].id);
    for (const Load& load : p.loads)
        if (here.contains(load.fedBy))
            takes(load.window.min.value());
    for (const Stage& stage : p.stages) {
        if (stage.fedBy.empty() || !here.contains(stage.fedBy.front()) || !converts(stage))
            continue;
        const double set = orZero(setPointOf(stage.part));
        takes(inputMinOf(stage.part));
        if (const auto* linear = std::get_if<Linear>(&stage.part))
            takes(set + orZero(linear->dropout));
        else if (const auto* s = std::get_if<Switcher>(&stage.part);
                 s && s->topology == Topology::buck)
            takes((set + orZero(s->drop) + orZero(s->resistance) * need.continuous) /
                  s->maxDuty.value_or(1.0));
    }
    return std::max(0.0, room);
}

Severity gravity(const Pack& pack, double gives) {
    if (gives < kHurtsFrom)
        return Severity::note;
    const bool mild = pack.cell.protectedCell.value_or(false) ||
                      (isNickel(pack.cell.chemistry) && pack.parallel <= 1 &&
                       pack.cell.capacity.value() <= kSmallNickel);
    return mild ? Severity::care : Severity::stop;
}

/// Where one lead alone is too thin for a fuse that has to be as large as it is: that lead.
void thickenFor(const Project& p, const Stage& fuse, double rating, Finding& f) {
    const Stage* thin = nullptr;
    for (const std::size_t i : sameVoltage(p, fuse.id)) {
        const auto* wire = std::get_if<Wire>(&p.stages[i].part);
        if (!wire || ampacity(*wire) <= 0 || !exceeds(rating, ampacity(*wire)))
            continue;
        if (thin)
            return; // several: no single fix
        thin = &p.stages[i];
    }
    if (!thin)
        return;
    const auto& wire = std::get<Wire>(thin->part);
    if (const auto area = thickerLead(areaOf(wire), [&](double a) {
            return ampacity(a, wire.bundled.value_or(false)) >= rating;
        })) {
        f.numbers["area_mm2"] = *area;
        f.lead = thin->id;
        f.fix = areaFix(*thin, *area);
    }
}

/// A fuse must also part from the voltage that stands on it.
void fuseVolts(const RuleInput& s, const Stage& stage, std::vector<Finding>& out) {
    const double rated = orZero(std::get<Fuse>(stage.part).ratedVoltage);
    for (const WireSegment& stretch : s.protect->segments)
        if (stretch.fuseId == stage.id && stretch.atSource && rated > 0 &&
            exceeds(stretch.volts, rated)) {
            out.push_back(finding(
                "fuse_window", Severity::care, stage.id, nameOf(stage) + " may not part",
                fmt::format("It is made for {}, and {} stand on it: it can go on burning as an "
                            "arc. One rated for that, direct current.",
                            volts(rated), volts(stretch.volts)),
                {{"rating_v", rated}, {"full_v", stretch.volts}}));
            return;
        }
}

/// A charger's output hangs on the cells too: a short there is fed by them.
void noLegFuse(const RuleInput& s, std::vector<Finding>& out) {
    for (const Stage& stage : s.project.stages) {
        const auto* charger = std::get_if<Charger>(&stage.part);
        const Stage* pack = charger ? s.project.stage(charger->charges) : nullptr;
        if (!pack || pack != s.project.packStage())
            continue;
        const double gives = shortCircuitAmps(pack->part);
        if (!std::isfinite(gives) || gives <= kFuseFrom)
            continue;
        const auto leg = chargeLeg(s.project, stage.id);
        const bool fused = legFuse(s.project, stage.id) != nullptr;
        const auto bare = std::find_if(leg.begin(), leg.end(), [&](const Stage* part) {
            return std::holds_alternative<Wire>(part->part) && !legFuse(s.project, part->id);
        });
        if (fused && bare == leg.end())
            continue;
        Finding f = finding(
            "no_fuse", gravity(std::get<Pack>(pack->part), gives), stage.id,
            "No fuse from " + nameOf(stage) + " to the cells",
            fmt::format("What leads from it to the cells hangs on them: they can push {} back into "
                        "a short, and {} stops that.",
                        amps(gives),
                        fused ? fmt::format("no fuse between {} and them", nameOf(**bare))
                              : "nothing there"),
            {{"short_a", gives}});
        proposeFuse(s, leg.empty() ? stage : *leg.back(),
                    leastFuse(legAmps(s.project, stage, s.charges), 0, FuseSpeed::slow),
                    std::min(maxLegFuseRating(s.project, stage), gives), f);
        out.push_back(std::move(f));
    }
}

} // namespace

void noFuse(const RuleInput& s, std::vector<Finding>& out) {
    if (s.project.loads.empty())
        return;
    for (const Stage& stage : s.project.stages) {
        const auto* pack = std::get_if<Pack>(&stage.part);
        const bool vehicle = std::holds_alternative<Vehicle>(stage.part);
        if (!isSource(stage.part) || (pack && &stage != s.project.packStage()))
            continue;
        const double gives = shortCircuitAmps(stage.part);
        if (!vehicle && gives <= (pack ? kFuseFrom : kStrong))
            continue;
        if (!vehicle && !pack && !std::isfinite(gives))
            continue; // nothing is stated: no reason to shout
        if (fusedEverywhere(s.project, stage.id))
            continue;
        const bool known = std::isfinite(gives);
        Finding f = finding(
            "no_fuse", pack ? gravity(*pack, gives) : Severity::stop, stage.id,
            pack ? "No fuse at the cells" : "No fuse at " + nameOf(stage),
            fmt::format(
                "{} can push {} into a short, and nothing near it stops that: leads glow{}.",
                pack ? "The pack" : nameOf(stage), known ? amps(gives) : "a great deal",
                !pack                          ? ""
                : isSupercapacitor(pack->cell) ? " and contacts weld"
                                               : " and cells vent"));
        if (known)
            f.numbers["short_a"] = gives;
        const CurrentDemand need = demandOf(s, stageIndex(s.project, stage.id));
        proposeFuse(s, stage, leastFuse(need.continuous, need.burst, FuseSpeed::slow),
                    maxFuseRating(s.project, stage.id, pack), f);
        out.push_back(std::move(f));
    }
    noLegFuse(s, out);
}

namespace {

/// ` A short of 120 A it clears in 16 ms.`; empty where nothing tells.
std::string clearsText(const Project& p, const Stage& stage) {
    const auto& fuse = std::get<Fuse>(stage.part);
    const auto way = pathToSource(p, stage.id);
    if (way.empty() || !isSource(way.back()->part) || fuse.form == FuseForm::resettable)
        return {};
    const double amps_ = shortCircuitAmps(way.back()->part);
    const double melts =
        fuse.i2t.value_or((fuse.speed == FuseSpeed::slow ? kSlowMelts : kFastMelts) *
                          fuse.rating.value() * fuse.rating.value());
    if (!std::isfinite(amps_) || amps_ <= kFuseClears * fuse.rating.value())
        return {};
    return fmt::format(" A short of {} it clears in about {}.", amps(amps_),
                       writeQuantity(melts / (amps_ * amps_), Unit::second));
}

} // namespace

void fuseWindow(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.protect)
        return;
    for (const FuseWindow& w : s.protect->fuses) {
        const Stage& stage = *s.project.stage(w.id);
        const CurrentDemand need = demandOf(s, stageIndex(s.project, w.id));
        const double rating = std::get<Fuse>(stage.part).rating.value();
        const bool small = fallsBelow(rating, w.least);
        const bool large = w.most && exceeds(rating, *w.most);
        if (!small && !large) {
            fuseVolts(s, stage, out);
            continue;
        }
        Finding f = finding(
            "fuse_window", Severity::stop, w.id,
            small ? nameOf(stage) + " opens in normal use"
                  : nameOf(stage) + " is too large for its leads",
            small ? fmt::format("It is rated for {}; {} flow for good{}, and a fuse carries three "
                                "quarters of its rating: at least {}.",
                                amps(rating), amps(need.continuous),
                                need.burst > 0 ? fmt::format(" and {} in a burst", amps(need.burst))
                                               : "",
                                amps(w.least))
                  : fmt::format("{} lets {} to {} pass for ever, and the leads behind it and the "
                                "cells take {} at the most.{}",
                                amps(rating), amps(*w.most), amps(rating), amps(*w.most),
                                clearsText(s.project, stage)),
            {{"rating_a", rating}, {"least_a", w.least}});
        if (w.most)
            f.numbers["most_a"] = *w.most;
        if (w.choose && w.least > 0) {
            f.numbers["choose_a"] = *w.choose;
            f.fix = figureFix(stage, &Fuse::rating, Amps{*w.choose}, "Use " + amps(*w.choose),
                              fmt::format("use {} for {}", amps(*w.choose), nameOf(stage)));
        } else if (w.least > 0) {
            f.says += " No standard rating fits between: thicker leads first.";
            if (large && !small)
                thickenFor(s.project, stage, rating, f);
        }
        out.push_back(std::move(f));
    }
}

void wireAmpacity(const RuleInput& s, std::vector<Finding>& out) {
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        const auto* wire = std::get_if<Wire>(&stage.part);
        if (!wire)
            continue;
        const double carries = demandOf(s, i).continuous;
        const double may = ampacity(*wire);
        if (may <= 0 || !exceeds(carries, may))
            continue;
        Finding f = finding(
            "wire_ampacity", Severity::stop, stage.id, nameOf(stage) + " is too thin",
            fmt::format("{} flow for good through {}, which by a careful rule of thumb carries {}. "
                        "For fixed wiring local codes decide.",
                        amps(carries), areaText(*wire), amps(may)),
            {{"a", carries}, {"ampacity_a", may}});
        if (const auto area = thickerLead(areaOf(*wire), [&](double a) {
                return ampacity(a, wire->bundled.value_or(false)) >= carries;
            })) {
            f.numbers["area_mm2"] = *area;
            f.lead = stage.id;
            f.fix = areaFix(stage, *area);
        }
        out.push_back(std::move(f));
    }
}

namespace {

/// Does `no_fuse`, `fuse_window` or `wire_ampacity` tell already what endangers this lead?
bool toldAlready(const RuleInput& s, const WireSegment& stretch) {
    if (stretch.lead && exceeds(stretch.need.continuous, *stretch.lead))
        return true;
    if (stretch.fuse) {
        const auto& fuses = s.protect->fuses;
        return std::any_of(fuses.begin(), fuses.end(), [&](const FuseWindow& w) {
            return w.id == stretch.fuseId && w.most && exceeds(*stretch.fuse, *w.most);
        });
    }
    // What burns a lead of a charger's leg comes from the cells.
    if (chargerBefore(s.project, stretch.id))
        return shortCircuitAmps(s.project.stage(stretch.from)->part) > kFuseFrom;
    // What a boost passes on comes from the source.
    if (!stretch.atSource && kindOf(s.project.stage(stretch.from)->part) != Kind::boost)
        return false;
    const Stage& source = *pathToSource(s.project, stretch.id).back();
    const bool strong = std::holds_alternative<Vehicle>(source.part) ||
                        shortCircuitAmps(source.part) > (isPack(source.part) ? kFuseFrom : kStrong);
    return strong && !fusedEverywhere(s.project, source.id);
}

} // namespace

void leadBurns(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.protect)
        return;
    for (const WireSegment& stretch : s.protect->segments) {
        const Stage& stage = *s.project.stage(stretch.id);
        if (stretch.first != WeakestElement::lead || toldAlready(s, stretch))
            continue;
        const std::string from = nameOf(*s.project.stage(stretch.from));
        const std::string flows =
            std::isfinite(stretch.shortCircuit) ? amps(stretch.shortCircuit) : "a great deal";
        Finding f = finding(
            "lead_burns", Severity::care, stage.id, nameOf(stage) + " burns first",
            fmt::format("A short behind it lets {} through from {} for good, and by a careful rule "
                        "of thumb it carries {}: {}.",
                        flows, from, amps(*stretch.lead),
                        stretch.fuse ? fmt::format("the fuse of {} takes its time over that",
                                                   amps(*stretch.fuse))
                                     : "nothing stops that"),
            {{"ampacity_a", *stretch.lead}});
        if (std::isfinite(stretch.shortCircuit))
            f.numbers["short_a"] = stretch.shortCircuit;
        const double least =
            leastFuse(stretch.need.continuous, stretch.need.burst, FuseSpeed::slow);
        const double most = stretch.atSource ? std::min(*stretch.lead, stretch.source.value_or(1e9))
                                             : *stretch.lead;
        const auto rating = chooseFuse(least, most);
        // A source that holds its current only a little over a fuse's rating never opens it.
        const bool opens = rating && stretch.shortCircuit >= kOpensFrom * *rating;
        if (!opens) {
            const auto& wire = std::get<Wire>(stage.part);
            const auto area = thickerLead(areaOf(wire), [&](double a) {
                return ampacity(a, wire.bundled.value_or(false)) >= stretch.shortCircuit;
            });
            if (area)
                f.says += fmt::format(" A lead of {} carries that.",
                                      writeExact(*area, Unit::squareMillimetre));
        } else if (least > 0 && !chargerBefore(s.project, stage.id)) {
            f.numbers["choose_a"] = *rating;
            f.says += fmt::format(" A fuse of {} before it, by your local rules.", amps(*rating));
            Stage fuse = fuseOf(*rating);
            fuse.id = freeId(s.project, "fuse");
            f.fix = editFix("Add " + amps(*rating),
                            "add a fuse of " + writeExact(*rating, Unit::ampere),
                            [fuse, before = stage.id](const Project& project) {
                                return withStageBefore(project, fuse, before);
                            });
        }
        out.push_back(std::move(f));
    }
}

void wireDrop(const RuleInput& s, std::vector<Finding>& out) {
    const Celsius air = s.project.brief.air().usual();
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        const auto* wire = std::get_if<Wire>(&stage.part);
        if (!wire)
            continue;
        const CurrentDemand need = demandOf(s, i);
        const double most = std::max(need.continuous, need.burst);
        const OperatingSweep* seen = s.sweep && s.sweep->stageIn[i].valid ? s.sweep : nullptr;
        for (const ExternalLoad& t : s.externalLoads)
            if (!seen && t.seen.stageIn[i].valid)
                seen = &t.seen;
        if (!seen || most <= 0)
            continue;
        const double drop = most * wireOhms(*wire, air);
        // The volts of the moment in which it carries that; of a burst, which the sweep keeps by
        // its amps alone, the highest (near a collapse the lowest says nothing).
        const StageFlow& worst = seen->atMaxLoss[i];
        const double in = worst.iOut >= most * kSameMoment ? worst.vIn : seen->stageIn[i].high;
        if (in <= 0 || drop <= kDropShare * in)
            continue;
        // Where a load behind it gets too little, that finding speaks and this one stands under it.
        bool starves = false;
        for (std::size_t l = 0; l < s.project.loads.size(); ++l) {
            const Load& load = s.project.loads[l];
            const auto way = pathToSource(s.project, load.id);
            const auto starved = [&](const Occurrence& at) {
                return at.valid && fallsBelow(at.value, load.window.min.value());
            };
            starves = starves || (std::find(way.begin(), way.end(), &stage) != way.end() &&
                                  (starved(seen->loadLow[l]) || starved(seen->loadBurst[l])));
        }
        // Worth weighing where it takes over half of what there is to give away.
        const double room = roomBehind(s.project, i, seen->stageIn[i].low, need);
        const bool tight = drop > kHalfRoom * room;
        Finding f = finding("wire_drop", starves || !tight ? Severity::note : Severity::care,
                            stage.id, nameOf(stage) + " drops much",
                            fmt::format("{} through it drop {}, {} of the {} at its start.",
                                        amps(most), volts(drop), writeShare(drop / in), volts(in)),
                            {{"drop_v", drop}, {"share", drop / in}});
        if (const auto area = thickerLead(areaOf(*wire), [&](double a) {
                Wire thicker = *wire;
                thicker.awg.reset();
                thicker.area = SquareMillimetres{a};
                return most * wireOhms(thicker, air) <= kDropShare * in;
            })) {
            f.numbers["area_mm2"] = *area;
            f.lead = stage.id;
            f.fix = areaFix(stage, *area);
        }
        out.push_back(std::move(f));
    }
}

void polarity(const RuleInput& s, std::vector<Finding>& out) {
    const auto centre = [](const std::optional<Connector>& c) {
        return c && c->centre ? *c->centre : Polarity::unknown;
    };
    const auto unstated = [&](const std::string& id, const std::string& name,
                              const std::optional<Connector>& c) {
        if (c && centre(c) == Polarity::unknown)
            out.push_back(finding("polarity", Severity::care, id,
                                  "Which way round is " + name + "?",
                                  fmt::format("The polarity of its {} is not stated: measure it "
                                              "before anything is plugged in.",
                                              c->kind.empty() ? "connector" : c->kind)));
    };
    for (const Stage& stage : s.project.stages)
        unstated(stage.id, nameOf(stage), stage.connector);
    for (const Load& load : s.project.loads) {
        unstated(load.id, nameOf(load), load.connector);
        const Stage* feeder = s.project.stage(load.fedBy);
        if (feeder && load.connector && feeder->connector &&
            centre(load.connector) != Polarity::unknown &&
            centre(feeder->connector) != Polarity::unknown &&
            centre(load.connector) != centre(feeder->connector))
            out.push_back(finding(
                "polarity", Severity::care, load.id, nameOf(load) + " would be reversed",
                fmt::format("The centre of its {} is {}, and that of {} is {}.",
                            load.connector->kind.empty() ? "connector" : load.connector->kind,
                            nameOf(centre(load.connector)), nameOf(*feeder),
                            nameOf(centre(feeder->connector)))));
    }
}

} // namespace sipper::rules
