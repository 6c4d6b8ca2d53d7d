// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about what parts can be set to and what they are made for.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "line/network.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "parts/madeas.hpp"
#include "project/library.hpp"
#include "project/roles.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace sipper::rules {
namespace {

/// How far apart two parts are: by their price, then by their mass.
double apart(const Stage& a, const Stage& b) {
    return std::abs(a.price.value_or(0) - b.price.value_or(0)) +
           1e-3 * std::abs(orZero(a.mass) - orZero(b.mass));
}

/// The library part nearest to a stage of those that fit; its settings are those of the stage.
template <class Fits>
std::optional<Fix> nearestFix(const RuleInput& s, const Stage& stage, RuleFunction rule,
                              Fits fits) {
    if (!s.seekFixes)
        return std::nullopt;
    std::vector<std::pair<double, Stage>> list;
    for (const LibraryPart& part : s.library().parts) {
        if (part.stage.part.index() != stage.part.index())
            continue;
        Stage fresh = part.stage;
        fresh.id = stage.id;
        fresh.fedBy = stage.fedBy;
        fresh.feedsListed = stage.feedsListed;
        fresh.connector = stage.connector;
        if (auto* guard = std::get_if<Guard>(&fresh.part)) {
            const auto& old = std::get<Guard>(stage.part);
            guard->cutoff = old.cutoff;
            guard->reconnect = old.reconnect;
        } else if (auto* charger = std::get_if<Charger>(&fresh.part)) {
            const auto& old = std::get<Charger>(stage.part);
            charger->charges = old.charges;
            charger->chargeVoltage = old.chargeVoltage;
        } else if (const auto set = setPointOf(stage.part)) {
            static_cast<void>(setPointTo(fresh.part, *set));
        }
        const auto range = setRangeOf(fresh.part);
        if ((range && !range->holds(setVoltsOf(fresh.part))) || !fits(fresh))
            continue;
        list.emplace_back(apart(part.stage, stage), std::move(fresh));
    }
    std::stable_sort(list.begin(), list.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    for (const auto& [far, fresh] : list) {
        Fix cure = replaceFix(placedInstead(s.project, stage, fresh), "Use " + fresh.label,
                              "use " + fresh.label + " for " + nameOf(stage));
        if (isSilentOn(s, cure.apply(s.project), rule, stage.id))
            return cure;
    }
    return std::nullopt;
}

bool sameTopology(const Stage& a, const Stage& b) {
    const auto* one = std::get_if<Switcher>(&a.part);
    const auto* other = std::get_if<Switcher>(&b.part);
    return !one || !other || one->topology == other->topology;
}

} // namespace

void setOutOfRange(const RuleInput& s, std::vector<Finding>& out) {
    for (const Stage& stage : s.project.stages) {
        const auto range = setRangeOf(stage.part);
        const double set = setVoltsOf(stage.part);
        if (!range || set <= 0 || range->holds(set) || regulatesCurrent(stage.part))
            continue;
        const bool fixed = range->least == range->most;
        Finding f = finding(
            "set_out_of_range", Severity::stop, stage.id, nameOf(stage) + " can't be set so",
            fixed ? fmt::format("It is to be at {}; this part is for {} alone and can't be set.",
                                voltsBeside(set, range->least), volts(range->least))
                  : fmt::format("It is to be at {}; this part can be set from {} to {}.",
                                voltsBeside(set, set < range->least ? range->least : range->most),
                                volts(range->least), volts(range->most)),
            {{"set_v", set}, {"least_v", range->least}, {"most_v", range->most}});
        f.fix = nearestFix(s, stage, setOutOfRange, [&](const Stage& fresh) {
            const auto* guard = std::get_if<Guard>(&fresh.part);
            return sameTopology(fresh, stage) && !regulatesCurrent(fresh.part) &&
                   (!guard || !s.project.pack() || guardMadeFor(*guard, *s.project.pack()));
        });
        out.push_back(std::move(f));
    }
}

void guardNotMadeFor(const RuleInput& s, std::vector<Finding>& out) {
    const Pack* pack = s.project.pack();
    if (!pack)
        return;
    const std::set<std::string> behindPack = downstreamIds(s.project, s.project.packStage()->id);
    for (const Stage& stage : s.project.stages) {
        const auto* guard = std::get_if<Guard>(&stage.part);
        if (!guard || !behindPack.contains(stage.id) || guardMadeFor(*guard, *pack))
            continue;
        // Behind a regulator it sees that, not the cells.
        if (upstreamRegulator(s.project, stage.id))
            continue;
        const bool series = (guard->seriesMin && fallsBelow(pack->series, *guard->seriesMin)) ||
                            (guard->seriesMax && exceeds(pack->series, *guard->seriesMax));
        const double full = fullPackVolts(*pack);
        const bool tooHigh =
            guard->inputNeverAbove && exceeds(full, guard->inputNeverAbove->value());
        std::string says;
        std::map<std::string, double> numbers{{"series", pack->series}};
        if (series) {
            says = fmt::format("The pack has {:.0f} in series; the board is made for {}.",
                               pack->series,
                               guard->seriesMin == guard->seriesMax
                                   ? fmt::format("{:.0f}", guard->seriesMax.value_or(0))
                                   : fmt::format("{:.0f} to {:.0f}", guard->seriesMin.value_or(1),
                                                 guard->seriesMax.value_or(99)));
            numbers["least"] = guard->seriesMin.value_or(1);
            numbers["most"] = guard->seriesMax.value_or(guard->seriesMin.value_or(1));
        } else if (tooHigh) {
            says = fmt::format("Full cells have {}; it survives {} at most.",
                               voltsBeside(full, guard->inputNeverAbove->value()),
                               volts(guard->inputNeverAbove->value()));
            numbers["full_v"] = full;
            numbers["limit_v"] = guard->inputNeverAbove->value();
        } else {
            says = fmt::format("It is made for other cells than {}: it looks for volts that these "
                               "do not have.",
                               chemistryText(pack->cell.chemistry));
        }
        Finding f = finding("guard_not_made_for", Severity::stop, stage.id,
                            nameOf(stage) + " is made for other cells", std::move(says),
                            std::move(numbers));
        f.fix = nearestFix(s, stage, guardNotMadeFor, [&](const Stage& fresh) {
            return guardMadeFor(std::get<Guard>(fresh.part), *pack);
        });
        out.push_back(std::move(f));
    }
}

void currentDriverOnVolts(const RuleInput& s, std::vector<Finding>& out) {
    for (const Stage& stage : s.project.stages) {
        if (!regulatesCurrent(stage.part))
            continue;
        const auto wantsVolts =
            std::find_if(s.project.loads.begin(), s.project.loads.end(), [&](const Load& load) {
                const Stage* last = upstreamRegulator(s.project, load.id);
                return last && last->id == stage.id &&
                       std::any_of(load.draws.begin(), load.draws.end(),
                                   [](const Draw& d) { return !d.led; });
            });
        if (wantsVolts == s.project.loads.end())
            continue;
        const ActivePart& a = *active(stage.part);
        Finding f = finding(
            "current_driver_on_volts", Severity::stop, stage.id,
            nameOf(stage) + " holds a current, no voltage",
            fmt::format("{} needs a steady voltage; this part pushes {} whatever that takes{}.",
                        nameOf(*wantsVolts), amps(orZero(a.setAmps)),
                        a.outputMax ? ", up to " + volts(a.outputMax->value()) : std::string()),
            {{"set_a", orZero(a.setAmps)}, {"output_max_v", orZero(a.outputMax)}});
        f.fix = nearestFix(s, stage, currentDriverOnVolts, [&](const Stage& fresh) {
            return !regulatesCurrent(fresh.part) && sameTopology(fresh, stage);
        });
        out.push_back(std::move(f));
    }
}

} // namespace sipper::rules
