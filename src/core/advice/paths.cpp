// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about the way that power takes: noise, back-feeding, drops.
#include "advice/rules.hpp"
#include "parts/figures.hpp"
#include "parts/typical.hpp"

#include "advice/fixes.hpp"
#include "advice/quiet.hpp"
#include "parts/kinds.hpp"
#include "project/build.hpp"
#include "project/library.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kPathShare = 0.03; ///< of the usable charge

/// The strongest push through a stage.
const BackfeedPath* pushAt(const RuleInput& s, const Stage& stage) {
    const BackfeedPath* most = nullptr;
    if (s.protect)
        for (const BackfeedPath& push : s.protect->backfeeds)
            if (push.meet == stage.id && push.kind != BackfeedKind::socket &&
                (!most || push.volts > most->volts))
                most = &push;
    return most;
}
std::string pushed(const RuleInput& s, const Stage& stage) {
    const BackfeedPath* push = pushAt(s, stage);
    return push && !push->unlimited ? fmt::format(", up to {}", amps(push->amps)) : "";
}
std::map<std::string, double> pushedNumbers(const RuleInput& s, const Stage& stage) {
    const BackfeedPath* push = pushAt(s, stage);
    if (!push)
        return {};
    std::map<std::string, double> numbers{{"v", push->volts}};
    if (!push->unlimited)
        numbers["a"] = push->amps;
    return numbers;
}

/// Every feed of a stage behind a diode of its own.
Project withFeedsApart(const Project& p, const std::string& id) {
    Project out = p;
    const std::vector<std::string> feeds = p.stage(id)->fedBy;
    for (std::size_t i = 0; i < feeds.size(); ++i) {
        Stage fet = freshStage(out, Kind::idealDiode, feeds[i]);
        fet.fedBy = {feeds[i]};
        out.stage(id)->fedBy[i] = fet.id;
        const auto at = std::find_if(out.stages.begin(), out.stages.end(),
                                     [&](const Stage& s) { return s.id == id; });
        out.stages.insert(at, fet);
    }
    return out;
}

/// Feeds of a charger are joined directly unless something that blocks stands between.
void joinedFeeds(const RuleInput& s, std::vector<Finding>& out) {
    for (const Stage& stage : s.project.stages) {
        const BackfeedPath* push = pushAt(s, stage);
        if (!isCharger(stage.part) || stage.fedBy.size() < 2 || !push ||
            push->kind != BackfeedKind::sources)
            continue;
        Finding f =
            finding("backfeed", Severity::stop, stage.id, "One source can push into another",
                    fmt::format("The feeds of {} are joined: {} drives current into {}{}.",
                                nameOf(stage), nameAt(s.project, push->from),
                                nameAt(s.project, push->into), pushed(s, stage)),
                    pushedNumbers(s, stage));
        f.fix = editFix("A FET diode each", "part the feeds of " + nameOf(stage),
                        [id = stage.id](const Project& p) { return withFeedsApart(p, id); });
        out.push_back(std::move(f));
    }
}

} // namespace

void noise(const RuleInput& s, std::vector<Finding>& out) {
    for (const Load& load : s.project.loads) {
        if (!load.noiseSensitive.value_or(false))
            continue;
        const Stage* switching = nullptr;
        for (const Stage* stage : pathToSource(s.project, load.id)) {
            if (std::holds_alternative<Linear>(stage->part) ||
                std::holds_alternative<Filter>(stage->part))
                break; // it is quiet from here on
            if (std::holds_alternative<Switcher>(stage->part)) {
                switching = stage;
                break;
            }
        }
        if (!switching)
            continue;
        Finding f = finding(
            "noise", Severity::care, load.id, nameOf(load) + " hears the switching",
            fmt::format("{} feeds it with nothing quiet between. Four schools: a linear regulator "
                        "after it (its drop-out as heat), a filter, the cells direct, or a metre "
                        "of distance.",
                        nameOf(*switching)));
        const Stage filter = noiseFilter(s.project, load);
        f.fix = editFix("Add a filter", "add a filter for " + nameOf(load),
                        [filter, id = load.id](const Project& project) {
                            return withStageBefore(project, filter, id);
                        });
        out.push_back(std::move(f));
    }
}

void backfeed(const RuleInput& s, std::vector<Finding>& out) {
    for (const Stage& stage : s.project.stages) {
        const auto* select = std::get_if<Select>(&stage.part);
        if (!select || select->blocksBack.value_or(true) || stage.fedBy.size() < 2)
            continue;
        std::vector<std::string> feeds;
        for (const std::string& id : stage.fedBy)
            if (const Stage* feed = s.project.stage(id))
                feeds.push_back(nameOf(*feed));
        Finding f =
            finding("backfeed", Severity::stop, stage.id, "One source can push into another",
                    fmt::format("{} does not block: the one of {} and {} with the higher "
                                "voltage drives current into the other{}.",
                                nameOf(stage), feeds.front(), feeds.back(), pushed(s, stage)));
        f.numbers = pushedNumbers(s, stage);
        f.fix = figureFix(stage, &Select::blocksBack, true, "Use one that blocks",
                          "let " + nameOf(stage) + " block");
        out.push_back(std::move(f));
    }
    joinedFeeds(s, out);
    panelBackfeed(s, out);
}

void pathDrop(const RuleInput& s, std::vector<Finding>& out) {
    double delivered = 0;
    for (const auto& [id, wh] : s.runtime.ledger.stages)
        delivered += wh;
    for (const auto& [id, wh] : s.runtime.ledger.loads)
        delivered += wh;
    for (const Stage& stage : s.project.stages) {
        const bool diode = std::holds_alternative<Diode>(stage.part);
        const bool select = std::holds_alternative<Select>(stage.part);
        const auto at = s.runtime.ledger.stages.find(stage.id);
        if ((!diode && !select) || seriesTermsOf(stage.part).drop <= 0 || delivered <= 0 ||
            at == s.runtime.ledger.stages.end() || at->second <= kPathShare * delivered)
            continue;
        Finding f = finding(
            "path_drop", Severity::care, stage.id, nameOf(stage) + " costs charge",
            fmt::format("Its drop of {} takes {} of what leaves the cells. A FET in its place "
                        "drops a few millivolts.",
                        volts(seriesTermsOf(stage.part).drop), writeShare(at->second / delivered)),
            {{"share", at->second / delivered}, {"wh", at->second}});
        Stage swapped = stage;
        if (diode) {
            swapped.part = IdealDiode{kTypicalFet};
        } else {
            auto& part = std::get<Select>(swapped.part);
            part.drop = Volts{0};
            part.resistance = kTypicalFet;
        }
        f.fix = replaceFix(swapped, "Use a FET", "use a FET for " + nameOf(stage));
        out.push_back(std::move(f));
    }
}

} // namespace sipper::rules
