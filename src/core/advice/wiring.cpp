// Rules about fuses, leads and connectors.
#include "advice/rules.hpp"

#include "advice/words.hpp"
#include "line/wiring.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/build.hpp"
#include "quantity/slack.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace sipper::rules {
namespace {

constexpr double kFuseFrom = 5; ///< A that a pack can deliver, from which it wants a fuse
constexpr double kDropShare = 0.03;
constexpr double kSmallFuse = 0.5; ///< A, the smallest that is proposed
constexpr double kFuseOhms = 0.01;

/// Amps that the pack may deliver: by its cells' rating; where none is stated, into a short.
double deliverable(const Pack& pack) {
    if (pack.cell.maxDischarge)
        return pack.cell.maxDischarge->value() * pack.parallel;
    const SourceModel m = sourceModel(Part{pack});
    return m.ohms > 0 ? m.high / m.ohms : std::numeric_limits<double>::infinity();
}

bool converts(const Stage& stage) {
    return active(stage.part) != nullptr;
}

/// Stages at the pack's own voltage behind `id`: up to the next converter.
std::vector<std::size_t> sameVoltage(const Project& p, const std::string& id) {
    return outwards(p, id, [](const Stage& s) { return !converts(s); });
}

struct Need {
    double lasting = 0;
    double burst = 0;
};

/// What flows out of a stage, lasting and in bursts.
Need needOf(const Solved& s, std::size_t stage) {
    Need need;
    const auto take = [&](const Survey& seen) {
        const Sighting& most = seen.mostOut[stage];
        if (most.seen && most.inBurst)
            need.burst = std::max(need.burst, most.value);
        else if (most.seen)
            need.lasting = std::max(need.lasting, most.value);
        // What it carries when it burns most is a lasting current in any case.
        need.lasting = std::max(need.lasting, seen.atMostLoss[stage].iOut);
    };
    if (s.survey)
        take(*s.survey);
    for (const Tether& t : s.tethers)
        take(t.seen);
    return need;
}

/// The least ampacity of the leads that a fuse protects, and the pack's own limit.
double mostFuse(const Project& p, const std::string& from, const Pack* pack) {
    double most = pack ? deliverable(*pack) : std::numeric_limits<double>::infinity();
    for (const std::size_t i : sameVoltage(p, from))
        if (const auto* wire = std::get_if<Wire>(&p.stages[i].part))
            most = std::min(most, ampacity(*wire));
    return most;
}

} // namespace

void noFuse(const Solved& s, std::vector<Finding>& out) {
    const Stage* stage = s.project.packStage();
    if (!stage || s.project.loads.empty())
        return;
    const Pack& pack = *s.project.pack();
    const double gives = deliverable(pack);
    if (gives <= kFuseFrom)
        return;
    // Every way from the cells to the first converter or load wants one.
    const auto fused = [&](const Load& load) {
        for (const Stage* at : wayBack(s.project, load.id)) {
            if (at == stage)
                return false;
            if (std::holds_alternative<Fuse>(at->part))
                return true;
        }
        return true; // another source's
    };
    if (std::all_of(s.project.loads.begin(), s.project.loads.end(), fused))
        return;
    const Need need = needOf(s, packIndex(s.project));
    const double least = leastFuse(need.lasting, need.burst, true);
    // A tiny one would open at the first charged capacitor.
    const double most = mostFuse(s.project, stage->id, &pack);
    const auto rating = chooseFuse(std::max(least, std::min(kSmallFuse, most)), most);
    Finding f = finding(
        "no_fuse", Severity::stop, stage->id, "No fuse at the cells",
        fmt::format("The pack can deliver {}{} into a short, and nothing near it stops that: leads "
                    "glow and cells vent. A fuse of {} at the cells, by your local rules.",
                    std::isfinite(gives) ? amps(gives) : "a great deal",
                    pack.cell.maxDischarge ? " and far more" : "",
                    rating ? amps(*rating) : "the right size"),
        {{"deliverable_a", std::isfinite(gives) ? gives : 0}, {"least_a", least}});
    if (rating) {
        Stage fuse = freshStage(s.project, Kind::fuse, stage->id);
        fuse.label = fmt::format("Fuse {}", writeExact(*rating, Unit::ampere));
        auto& part = std::get<Fuse>(fuse.part);
        part.rating = Amps{*rating};
        part.speed = FuseSpeed::slow;
        part.resistance = Ohms{std::min(0.1, kFuseOhms * 10 / *rating)};
        f.cure = insertCure(fuse, stage->id, "Add " + amps(*rating),
                            "add a fuse of " + writeExact(*rating, Unit::ampere));
    }
    out.push_back(std::move(f));
}

void fuseWindow(const Solved& s, std::vector<Finding>& out) {
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        const auto* fuse = std::get_if<Fuse>(&stage.part);
        if (!fuse)
            continue;
        const Need need = needOf(s, i);
        const bool slow = fuse->speed == FuseSpeed::slow;
        const double least = leastFuse(need.lasting, need.burst, slow);
        const auto way = wayBack(s.project, stage.id);
        const bool atPack =
            std::none_of(way.begin(), way.end(), [](const Stage* w) { return converts(*w); });
        const double most = mostFuse(s.project, stage.id, atPack ? s.project.pack() : nullptr);
        const double rating = fuse->rating.value();
        const bool small = under(rating, least);
        const bool large = over(rating, most);
        if (!small && !large)
            continue;
        const auto choose = chooseFuse(least, most);
        Finding f = finding(
            "fuse_window", Severity::stop, stage.id,
            small ? nameOf(stage) + " opens in normal use" : nameOf(stage) + " protects nothing",
            small ? fmt::format("It is rated for {}; {} flow for good{}, and a fuse carries three "
                                "quarters of its rating: at least {}.",
                                amps(rating), amps(need.lasting),
                                need.burst > 0 ? fmt::format(" and {} in a burst", amps(need.burst))
                                               : "",
                                amps(least))
                  : fmt::format("It is rated for {}, over the {} that the leads behind it and the "
                                "cells can take: they burn first.",
                                amps(rating), amps(most)),
            {{"rating_a", rating}, {"least_a", least}, {"most_a", std::isfinite(most) ? most : 0}});
        if (choose)
            f.cure = figureCure(stage, &Fuse::rating, Amps{*choose}, "Use " + amps(*choose),
                                fmt::format("use {} for {}", amps(*choose), nameOf(stage)));
        else
            f.says += " No standard rating fits between: thicker leads first.";
        out.push_back(std::move(f));
    }
}

void wireAmpacity(const Solved& s, std::vector<Finding>& out) {
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        const auto* wire = std::get_if<Wire>(&stage.part);
        if (!wire)
            continue;
        const double carries = needOf(s, i).lasting;
        const double may = ampacity(*wire);
        if (may <= 0 || !over(carries, may))
            continue;
        Finding f = finding(
            "wire_ampacity", Severity::stop, stage.id, nameOf(stage) + " is too thin",
            fmt::format("{} flow for good through {}, which by a careful rule of thumb carries {}. "
                        "For fixed wiring local codes decide.",
                        amps(carries), writeExact(areaOf(*wire), Unit::squareMillimetre),
                        amps(may)),
            {{"a", carries}, {"ampacity_a", may}});
        if (const auto area = thickerLead(areaOf(*wire), [&](double a) {
                return ampacity(a, wire->bundled.value_or(false)) >= carries;
            }))
            f.cure = areaCure(stage, *area);
        out.push_back(std::move(f));
    }
}

void wireDrop(const Solved& s, std::vector<Finding>& out) {
    const Celsius air = s.project.brief.air().usual();
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        const auto* wire = std::get_if<Wire>(&stage.part);
        if (!wire)
            continue;
        const Need need = needOf(s, i);
        const double most = std::max(need.lasting, need.burst);
        const Survey* seen = s.survey && s.survey->stageIn[i].seen ? s.survey : nullptr;
        for (const Tether& t : s.tethers)
            if (!seen && t.seen.stageIn[i].seen)
                seen = &t.seen;
        if (!seen || most <= 0)
            continue;
        const double drop = most * wireOhms(*wire, air);
        const double in = seen->stageIn[i].high; // near a collapse the lowest says nothing
        if (in <= 0 || drop <= kDropShare * in)
            continue;
        // Where a load behind it gets too little, that finding speaks and this one stands under it.
        bool starves = false;
        for (std::size_t l = 0; l < s.project.loads.size(); ++l) {
            const Load& load = s.project.loads[l];
            const auto way = wayBack(s.project, load.id);
            const auto starved = [&](const Sighting& at) {
                return at.seen && under(at.value, load.window.min.value());
            };
            starves = starves || (std::find(way.begin(), way.end(), &stage) != way.end() &&
                                  (starved(seen->loadLow[l]) || starved(seen->loadBurst[l])));
        }
        Finding f = finding("wire_drop", starves ? Severity::note : Severity::care, stage.id,
                            nameOf(stage) + " drops much",
                            fmt::format("{} through it drop {}, {} of the {} at its start.",
                                        amps(most), volts(drop), writeShare(drop / in), volts(in)),
                            {{"drop_v", drop}, {"share", drop / in}});
        if (const auto area = thickerLead(areaOf(*wire), [&](double a) {
                Wire thicker = *wire;
                thicker.awg.reset();
                thicker.area = SquareMillimetres{a};
                return most * wireOhms(thicker, air) <= kDropShare * in;
            }))
            f.cure = areaCure(stage, *area);
        out.push_back(std::move(f));
    }
}

void polarity(const Solved& s, std::vector<Finding>& out) {
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
                "polarity", Severity::stop, load.id, nameOf(load) + " would be reversed",
                fmt::format("The centre of its {} is {}, and that of {} is {}.",
                            load.connector->kind.empty() ? "connector" : load.connector->kind,
                            nameOf(centre(load.connector)), nameOf(*feeder),
                            nameOf(centre(feeder->connector)))));
    }
}

} // namespace sipper::rules
