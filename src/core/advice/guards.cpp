// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about what opens: guards, and what happens after it has opened.
#include "advice/rules.hpp"
#include "parts/figures.hpp"

#include "advice/fixes.hpp"
#include "base/tolerance.hpp"
#include "line/line.hpp"
#include "parts/chemistry.hpp"
#include "protect/text.hpp"
#include "runtime/shelf.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kWasted = 0.10;        ///< of the charge
constexpr double kToBlame = 0.3;        ///< of what empties the cells after cut-off
constexpr double kReconnectRoom = 0.05; ///< V a cell over the rebound

/// Guards on the way from the cells.
std::vector<const Stage*> guards(const Project& p) {
    std::vector<const Stage*> list;
    for (const std::size_t i : guardPlaces(p))
        list.push_back(&p.stages[i]);
    return list;
}

double roundUp(double v) {
    return std::ceil(v * 20 - 1e-6) / 20;
}

} // namespace

void guardFloor(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.project.pack())
        return;
    const Pack& pack = *s.project.pack();
    const double floor = damageVolts(pack);
    for (const Stage* stage : guards(s.project)) {
        const double cutoff = std::get<Guard>(stage->part).cutoff.value();
        // One nickel cell alone can't be reversed by others.
        if (floor <= 0 || !fallsBelow(cutoff, floor) ||
            (isNickel(pack.cell.chemistry) && pack.series < 2))
            continue;
        const double wanted = pack.series * policyCutoff(pack.cell.chemistry, CellCare::balanced);
        Finding f =
            finding("guard_floor", isNickel(pack.cell.chemistry) ? Severity::care : Severity::stop,
                    stage->id, nameOf(*stage) + " opens too late",
                    fmt::format("It opens at {}, {} a cell. Under {} a {} cell takes lasting harm.",
                                volts(cutoff), volts(cutoff / pack.series),
                                volts(floor / pack.series), chemistryText(pack.cell.chemistry)),
                    {{"cutoff_v", cutoff}, {"floor_v", floor}});
        f.fix = figureFix(
            *stage, &Guard::cutoff, Volts{wanted}, "Raise it to " + writeExact(wanted, Unit::volt),
            fmt::format("raise {} to {}", nameOf(*stage), writeExact(wanted, Unit::volt)));
        out.push_back(std::move(f));
    }
}

void guardWastes(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sweep || !s.sweep->stop || s.sweep->stop->reason != EndReason::cutoff)
        return;
    const Stage* stage = s.project.stage(s.sweep->stop->at);
    if (!stage || !std::holds_alternative<Guard>(stage->part))
        return;
    const Pack& pack = *s.project.pack();
    const CellCare care = s.project.brief.cellCare.value_or(CellCare::balanced);
    const double school = pack.series * policyCutoff(pack.cell.chemistry, care);
    const double cutoff = std::get<Guard>(stage->part).cutoff.value();
    if (school <= 0 || !exceeds(cutoff, school) || s.sweep->stopCharge <= kWasted)
        return;
    Project lower = s.project;
    std::get<Guard>(lower.stage(stage->id)->part).cutoff = Volts{school};
    const OperatingSweep deeper = sweepOperation(lower, typicalConditions(lower));
    // What a load can't use any more is not wasted by the guard.
    double usableTo = deeper.stopCharge;
    for (std::size_t i = 0; i < s.project.loads.size(); ++i)
        if (s.project.loads[i].isCritical() && deeper.firstUndervoltage[i].valid)
            usableTo = std::max(usableTo, deeper.firstUndervoltage[i].charge);
    const double wasted = s.sweep->stopCharge - usableTo;
    if (wasted <= kWasted)
        return;
    Finding f = finding(
        "guard_wastes", Severity::care, stage->id, nameOf(*stage) + " opens early",
        fmt::format("It opens at {} and leaves {} of the charge that every load could still use. "
                    "The {} school goes to {}; if the cells are to live long, call it gentle.",
                    volts(cutoff), writeShare(wasted), nameOf(care), volts(school)),
        {{"cutoff_v", cutoff}, {"wasted", wasted}, {"school_v", school}});
    f.fix = figureFix(
        *stage, &Guard::cutoff, Volts{school}, "Lower it to " + writeExact(school, Unit::volt),
        fmt::format("lower {} to {}", nameOf(*stage), writeExact(school, Unit::volt)));
    f.fix->forHours = true;
    out.push_back(std::move(f));
}

void loadStopsFirst(const RuleInput& s, std::vector<Finding>& out) {
    const auto list = guards(s.project);
    const Ending& end = s.runtime.ending;
    if (list.empty() || !s.runtime.hours || s.runtime.hours->value() <= 0 ||
        std::any_of(list.begin(), list.end(), [&](const Stage* g) { return g->id == end.at; }) ||
        (end.reason != EndReason::belowWindow && end.reason != EndReason::cutoff))
        return;
    const Load* load = s.project.load(end.at);
    const Stage* stage = s.project.stage(end.at);
    const Stage* guard = list.front();
    out.push_back(finding(
        "load_stops_first", Severity::note, guard->id, nameOf(*guard) + " never acts",
        fmt::format("{} gives up first, with {} of the charge left: the guard's {} is only the "
                    "last line of defence.",
                    load    ? nameOf(*load)
                    : stage ? nameOf(*stage)
                            : end.at,
                    writeShare(s.runtime.curve.empty() ? 0 : s.runtime.curve.back().charge),
                    volts(std::get<Guard>(guard->part).cutoff.value())),
        {{"charge_left", s.runtime.curve.empty() ? 0 : s.runtime.curve.back().charge},
         {"cutoff_v", std::get<Guard>(guard->part).cutoff.value()}}));
}

void neverActs(const RuleInput& s, std::vector<Finding>& out) {
    const auto list = guards(s.project);
    const Ending& end = s.runtime.ending;
    if (list.empty() || !s.project.pack() || !s.runtime.hours || s.runtime.curve.empty() ||
        (end.reason != EndReason::empty && end.reason != EndReason::collapse))
        return;
    const Pack& pack = *s.project.pack();
    const Stage& guard = *list.front();
    const double cutoff = std::get<Guard>(guard.part).cutoff.value();
    const double shows = s.runtime.curve.back().packVolts;
    const double school =
        pack.series *
        policyCutoff(pack.cell.chemistry, s.project.brief.cellCare.value_or(CellCare::balanced));
    if (!fallsBelow(cutoff, shows))
        return;
    Finding f = finding(
        "never_acts", Severity::note, guard.id, nameOf(guard) + " never acts",
        fmt::format("It opens at {}; with what is drawn here empty cells still show {}: they are "
                    "empty before it acts.",
                    volts(cutoff), volts(shows)),
        {{"cutoff_v", cutoff}, {"empty_v", shows}});
    if (school > cutoff)
        f.fix = figureFix(
            guard, &Guard::cutoff, Volts{school}, "Raise it to " + writeExact(school, Unit::volt),
            fmt::format("raise {} to {}", nameOf(guard), writeExact(school, Unit::volt)));
    out.push_back(std::move(f));
}

void chatter(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.protect || !s.project.pack())
        return;
    const Pack& pack = *s.project.pack();
    for (const GuardAnalysis& g : s.protect->guards) {
        const Stage& stage = *s.project.stage(g.id);
        const auto& guard = std::get<Guard>(stage.part);
        const Rebound& r = g.usual;
        const bool later =
            r.acts && !r.chatters && exceeds(g.cutoff + g.minHysteresis, g.reconnect);
        if (!r.chatters && !later && !g.hysteresisTooSmall)
            continue;
        // Apart by what every case needs, with room; never closer than what is little.
        const double apart = std::max(
            g.minHysteresis + kReconnectRoom * pack.series,
            isRechargeableLithium(pack.cell.chemistry) ? kNarrowPerCell * pack.series : 0.0);
        const double wanted = roundUp(g.cutoff + apart);
        std::map<std::string, double> numbers{{"cutoff_v", g.cutoff}, {"reconnect_v", g.reconnect}};
        if (r.acts) {
            numbers["rebound_v"] = r.settledVolts;
            numbers["least_difference_v"] = g.minHysteresis;
        }
        const std::string back = guard.reconnect
                                     ? fmt::format("over its {}", volts(g.reconnect))
                                     : std::string("and no reconnect voltage is stated");
        std::string says;
        if (r.chatters) {
            numbers["period_s"] = r.period();
            says = fmt::format(
                "When it opens, the cells recover from {} to {}, {}: it closes, sags, "
                "opens and begins again, every {}.",
                volts(g.cutoff), voltsBeside(r.settledVolts, g.cutoff), back, longText(r.period()));
        } else if (later) {
            says = fmt::format(
                "Now it holds; {} the cells come back by {:.2f} V, and {} and {} are "
                "{:.2f} V apart.",
                g.leastWhen == "cold"   ? "in the cold"
                : g.leastWhen == "aged" ? "when they have aged"
                                        : "in the cold, and aged,",
                g.minHysteresis, volts(g.cutoff), volts(g.reconnect), g.reconnect - g.cutoff);
        } else {
            numbers["apart_v"] = g.reconnect - g.cutoff;
            says =
                fmt::format("It opens at {}{}: under {:g} V a cell is little for a weaker cell, "
                            "for tolerance and for noise.",
                            volts(g.cutoff),
                            guard.reconnect ? fmt::format(" and closes at {}", volts(g.reconnect))
                                            : ", and no reconnect voltage is stated",
                            kNarrowPerCell);
        }
        Finding f = finding("chatter", r.chatters ? Severity::stop : Severity::care, g.id,
                            nameOf(stage) + (r.chatters ? " chatters" : " may chatter"),
                            std::move(says), std::move(numbers));
        if (wanted < g.reaches)
            f.fix = figureFix(stage, &Guard::reconnect, Volts{wanted},
                              "Reconnect at " + writeExact(wanted, Unit::volt),
                              fmt::format("let {} reconnect at {}", nameOf(stage),
                                          writeExact(wanted, Unit::volt)));
        out.push_back(std::move(f));
    }
}

void neverReconnects(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.project.pack())
        return;
    const Pack& pack = *s.project.pack();
    const double reaches = reachedVolts(s.project);
    for (const Stage* stage : guards(s.project)) {
        const auto& guard = std::get<Guard>(stage->part);
        if (!guard.reconnect || !exceeds(guard.reconnect->value(), reaches))
            continue;
        const double wanted = std::floor((reaches - kReconnectRoom * pack.series) * 20) / 20;
        Finding f = finding(
            "never_reconnects", Severity::stop, stage->id, nameOf(*stage) + " stays open",
            fmt::format("It reconnects at {}, and the pack reaches {} at most: once open, it stays "
                        "open.",
                        volts(guard.reconnect->value()), volts(reaches)),
            {{"reconnect_v", guard.reconnect->value()}, {"reaches_v", reaches}});
        if (wanted > guard.cutoff.value())
            f.fix = figureFix(*stage, &Guard::reconnect, Volts{wanted},
                              "Reconnect at " + writeExact(wanted, Unit::volt),
                              fmt::format("let {} reconnect at {}", nameOf(*stage),
                                          writeExact(wanted, Unit::volt)));
        out.push_back(std::move(f));
    }
}

void guardDrain(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.protect || !s.project.brief.shelfMonths)
        return;
    for (const GuardAnalysis& g : s.protect->guards) {
        // Where the cells' own leakage is most of it, the guard is not to blame.
        if (!g.usual.acts || !g.ruinMonths || g.openShare < kToBlame ||
            *g.ruinMonths >= *s.project.brief.shelfMonths)
            continue;
        const Stage& stage = *s.project.stage(g.id);
        out.push_back(finding(
            "guard_drain", Severity::care, g.id, nameOf(stage) + " goes on drawing",
            fmt::format("After it has opened, its own {} and the cells' self-discharge empty what "
                        "is left in {:.1f} months; you ask for {:g}. Then the cells are ruined: a "
                        "switch at the cells, or a guard that draws less.",
                        amps(g.openAmps), *g.ruinMonths, *s.project.brief.shelfMonths),
            {{"months", *g.ruinMonths}, {"quiescent_a", g.openAmps}}));
    }
}

void shelf(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.project.pack() || !s.project.brief.shelfMonths || !s.sweep)
        return;
    const auto lies = shelfOf(s.project, s.sweep->stopCharge);
    if (!lies)
        return;
    const double idle = lies->offAmps;
    const double months = lies->noStartMonths;
    const double wanted = *s.project.brief.shelfMonths;
    const double age = calendarLife(s.project.pack()->cell.chemistry).rechargeMonths;
    if (months >= wanted && age > 0 && wanted > age)
        out.push_back(finding("shelf", Severity::care, s.project.packStage()->id,
                              "Lead lies too long",
                              fmt::format("Lead that lies for over {:g} months sulphates, however "
                                          "little is drawn, and you ask for {:g}: recharge it "
                                          "half-yearly.",
                                          age, wanted),
                              {{"months", age}, {"idle_a", idle}, {"wanted_months", wanted}}));
    if (months >= wanted)
        return;
    Finding f = finding("shelf", Severity::care, s.project.packStage()->id,
                        "It will not start from the shelf",
                        fmt::format("With everything off that can be switched off, {} flow: full "
                                    "cells last {}, you ask for {:g} months. A switch at the "
                                    "cells stops that.",
                                    amps(idle), writeHours(months * kHoursPerMonth), wanted),
                        {{"months", months}, {"idle_a", idle}, {"wanted_months", wanted}});
    out.push_back(std::move(f));
}

} // namespace sipper::rules
