// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about panels: where the charger puts them, their cold volts, and what a year of them
// misses.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "base/tolerance.hpp"
#include "charge/text.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "parts/typical.hpp"
#include "project/build.hpp"
#include "solar/look.hpp"
#include "solar/simulation.hpp"
#include "solar/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kOffKnee = 0.9;     ///< of the top's watts: less is off the knee
constexpr double kHoldShare = 0.95;  ///< of the best volts, for a fix that holds the input
constexpr std::size_t kSizes = 4;    ///< panels of the library that a fix tries
constexpr double kFrostShare = 0.02; ///< of the sun: less is not worth a word
constexpr double kMostPacks = 4;     ///< times the cells that a fix offers

/// Every stage behind a panel that sees its volts: up to and with the first that converts.
std::vector<const Stage*> seeing(const Project& p, const Stage& panel) {
    std::vector<const Stage*> all;
    for (const std::size_t i : downstreamStages(p, panel.id, [&](const Stage& s) {
             for (const Stage* before : pathToSource(p, s.id)) {
                 if (before->id == panel.id)
                     return true;
                 if (active(before->part))
                     return false;
             }
             return true;
         }))
        all.push_back(&p.stages[i]);
    return all;
}

/// The years of another project in the same weather.
std::optional<SolarSums> yearsOf(const RuleInput& s, const Project& project) {
    SolarOptions ask;
    ask.years = s.sun->year.years;
    ask.details = false;
    ask.charger = s.sun->year.charger;
    const auto year = sunYear(project, *s.sun->weather, ask);
    return year ? std::optional(year.value().all) : std::nullopt;
}

/// What moving to the maximum power point does over the years. Through a linear charger amps pass,
/// not watts: what the panel gives more at its knee is burnt.
void weighKnee(const RuleInput& s, Finding& f) {
    const SolarSums& before = s.sun->year.all;
    const auto after = f.fix ? yearsOf(s, f.fix->apply(s.project)) : std::nullopt;
    if (!after || before.chargedWh <= 0)
        return;
    const double years = static_cast<double>(s.sun->year.years);
    f.numbers["unmet_after_h"] = after->lossOfLoadHours;
    f.numbers["charged_share"] = after->chargedWh / before.chargedWh - 1;
    if (after->lossOfLoadHours < before.lossOfLoadHours) {
        f.gainHours = (before.lossOfLoadHours - after->lossOfLoadHours) / years;
        return;
    }
    const bool linear =
        std::get<Charger>(s.project.stage(f.subject)->part).topology == Topology::linear;
    f.says += linear ? " Over the years that alone misses no less: a linear charger burns what the "
                       "knee gives more."
                     : " Over the years that alone misses no less.";
    const auto tracking = withTracking(s.project, f.subject);
    const auto tracked = tracking ? yearsOf(s, *tracking) : std::nullopt;
    if (tracked && tracked->lossOfLoadHours < before.lossOfLoadHours)
        f.says += fmt::format(" One that tracks misses {}.",
                              tracked->lossOfLoadHours > 0
                                  ? writeHours(tracked->lossOfLoadHours / years) + " a year"
                                  : "nothing");
}

/// The project with the next panels of the library in place, the first that misses nothing.
std::optional<std::pair<std::string, Project>> largerPanel(const RuleInput& s) {
    const auto levers = panelSizes(s.project, s.library(), s.sun->year.charger, kSizes);
    for (const auto& [label, project] : levers) {
        SolarOptions ask;
        ask.years = s.sun->year.years;
        ask.details = false;
        ask.untilUnmet = true;
        ask.charger = s.sun->year.charger;
        const auto year = sunYear(project, *s.sun->weather, ask);
        if (year && !year.value().firstLossOfLoad)
            return std::pair(label, project);
    }
    return std::nullopt;
}

} // namespace

void panelKnee(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sun)
        return;
    const MppSnapshot& knee = s.sun->noon;
    if (knee.topWatts() <= 0 || knee.stand.limit != SunLimit::source ||
        knee.watts() >= kOffKnee * knee.topWatts())
        return;
    const std::string id = s.sun->year.charger;
    const Stage& stage = *s.project.stage(id);
    const auto& charger = std::get<Charger>(stage.part);
    const bool bounded = std::isfinite(knee.asked.amps);
    const std::string falls =
        knee.stand.amps > 0
            ? fmt::format("and falls to {}: {} in place of {}", volts(knee.stand.panelVolts),
                          writeQuantity(knee.watts(), Unit::watt),
                          writeQuantity(knee.topWatts(), Unit::watt))
            : "and collapses: it gives nothing";
    Finding f = finding(
        "panel_knee", Severity::care, id, "The charger asks too much of the panel",
        fmt::format("On a bright {} noon {} {}; the panel has {} for it at its knee {}.",
                    monthName(knee.month), bounded ? "it asks for" : "it takes",
                    bounded ? amps(knee.asked.amps) : "all that comes", amps(knee.ampsAtMpp),
                    falls),
        {{"gives_w", knee.watts()}, {"knee_w", knee.topWatts()}, {"set_a", knee.ampsAtMpp}});
    if (bounded)
        f.numbers["asks_a"] = knee.asked.amps;
    if (charger.topology == Topology::linear && knee.ampsAtMpp > 0) {
        const KneeSetting set = mppSetting(charger, knee.ampsAtMpp);
        f.fix = editFix(
            "Set " + amps(set.amps), "set the charger to the panel's knee",
            [id, most = knee.ampsAtMpp](const Project& p) { return withKneeCurrent(p, id, most); });
        if (set.ohms)
            f.numbers["program_ohm"] = *set.ohms;
    } else if (charger.topology != Topology::direct) {
        const auto found = panelOf(s.project, stage);
        if (found) {
            const PanelPath& way = found.value().way;
            const double hold = kHoldShare * way.series * way.shape.label.vmp - way.drop;
            f.fix = figureFix(stage, &Charger::inputHold, Volts{hold}, "Hold " + volts(hold),
                              "let " + nameOf(stage) + " hold its input");
            f.numbers["hold_v"] = hold;
        }
    }
    weighKnee(s, f);
    out.push_back(std::move(f));
}

void panelColdVoltage(const RuleInput& s, std::vector<Finding>& out) {
    const double cold = s.project.brief.air().coldest().value();
    for (const Stage& stage : s.project.stages) {
        const auto* panel = std::get_if<Panel>(&stage.part);
        if (!panel || orZero(panel->openCircuit) <= 0)
            continue;
        const double open = panel->countSeries.value_or(1) *
                            (panel->openCircuit->value() + orZero(panel->perKelvin) * (cold - 25));
        for (const Stage* seen : seeing(s.project, stage)) {
            const double most = neverAboveOf(seen->part);
            if (!overSet(open, most))
                continue;
            out.push_back(finding(
                "panel_cold_voltage", Severity::stop, seen->id,
                fmt::format("{} sees too much on a cold morning", nameOf(*seen)),
                fmt::format("At {:.0f} °C {} gives {} with nothing drawn; {} survives {}. A panel "
                            "of a lower voltage, or a part that takes it.",
                            cold, nameOf(stage), volts(open), nameOf(*seen), volts(most)),
                {{"sees_v", open}, {"limit_v", most}, {"air_c", cold}}));
        }
    }
}

void panelSmall(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sun || s.sun->year.all.lossOfLoadHours <= 0)
        return;
    const SolarYear& y = s.sun->year;
    const double a = y.all.lossOfLoadHours / static_cast<double>(y.years);
    Finding f =
        finding("panel_small", Severity::care, y.panel, writeHours(a) + " a year are missed",
                fmt::format("In {} years of {} weather {} go unmet, most of them in {}; the "
                            "longest break is {}.",
                            y.years, s.sun->weather->syntheticWeather ? "stand-in" : "this",
                            writeHours(y.all.lossOfLoadHours), monthName(y.worstMonth),
                            writeHours(y.longestUnmet)),
                {{"unmet_h", y.all.lossOfLoadHours},
                 {"years", static_cast<double>(y.years)},
                 {"least_charge", y.all.leastCharge}});
    if (const auto larger = largerPanel(s))
        f.fix = editFix("Use " + larger->first, "use " + larger->first,
                        [id = y.panel, panel = *larger->second.stage(y.panel)](const Project& p) {
                            Project mended = p;
                            if (Stage* stage = mended.stage(id)) {
                                const auto feeds = stage->fedBy;
                                *stage = panel;
                                stage->fedBy = feeds;
                            }
                            return mended;
                        });
    if (f.fix)
        f.gainHours = a;
    out.push_back(std::move(f));
}

void darkRun(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sun || !s.sun->plan.autonomyDays)
        return;
    const double lasts = *s.sun->plan.autonomyDays * 24;
    const double dark = s.sun->year.longestDark;
    if (dark <= lasts)
        return;
    Finding f = finding(
        "dark_run", Severity::care, s.sun->year.pack, "The longest dark run outlasts the pack",
        fmt::format("For {} on end the panel gives less than is taken; full cells last {}.",
                    writeHours(dark), writeHours(lasts)),
        {{"dark_h", dark}, {"lasts_h", lasts}});
    const Stage& pack = *s.project.stage(s.sun->year.pack);
    const double more = std::get<Pack>(pack.part).parallel * std::ceil(dark / lasts);
    if (dark <= kMostPacks * lasts)
        f.fix = figureFix(pack, &Pack::parallel, more, fmt::format("{:g} in parallel", more),
                          fmt::format("put {:g} cells in parallel", more));
    out.push_back(std::move(f));
}

void frostLocks(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sun)
        return;
    const SolarSums& all = s.sun->year.all;
    if (all.lostTemperature <= kFrostShare * all.availableWh)
        return;
    double winter = 0; // what was lost in the worst month, of what it could have given
    const SolarSums& worst = s.sun->year.months[s.sun->year.worstMonth];
    if (worst.availableWh > 0)
        winter = worst.lostTemperature / worst.availableWh;
    out.push_back(finding(
        "frost_locks", all.lossOfLoadHours > 0 ? Severity::care : Severity::note,
        s.sun->year.charger, "Frost keeps the charger off",
        fmt::format(
            "{} of the years' sun meets cells that must not be charged then, {} in {}. Cells "
            "that take frost, a warmer place for them, or more pack.",
            writeShare(all.lostTemperature / all.availableWh), writeShare(winter),
            monthName(s.sun->year.worstMonth)),
        {{"lost_wh", all.lostTemperature}, {"share", all.lostTemperature / all.availableWh}}));
}

void panelBackfeed(const RuleInput& s, std::vector<Finding>& out) {
    for (const std::string& id : sunChargersOf(s.project)) {
        const Stage& stage = *s.project.stage(id);
        if (std::get<Charger>(stage.part).topology != Topology::direct)
            continue; // what converts is taken to block
        const auto way = pathToSource(s.project, id);
        const bool blocked = std::any_of(way.begin(), way.end(), [](const Stage* part) {
            return std::holds_alternative<Diode>(part->part) ||
                   std::holds_alternative<IdealDiode>(part->part);
        });
        const auto own = std::get<Charger>(stage.part).drop;
        if (blocked || orZero(own) > 0 || way.empty())
            continue;
        Finding f = finding(
            "backfeed", Severity::stop, id, "The cells feed the panel at night",
            fmt::format(
                "Nothing between {} and {} blocks: in the dark the pack drives current back "
                "into the panel.",
                nameOf(*way.back()), nameOf(stage)));
        Stage diode = freshStage(s.project, Kind::diode, way.front()->id);
        diode.label = "Blocking diode";
        auto& part = std::get<Diode>(diode.part);
        part.drop = kTypicalSchottky;
        part.resistance = kTypicalDiodeOhms;
        f.fix = editFix("Add a diode", "add a blocking diode",
                        [diode, id](const Project& p) { return withStageBefore(p, diode, id); });
        out.push_back(std::move(f));
    }
}

} // namespace sipper::rules
