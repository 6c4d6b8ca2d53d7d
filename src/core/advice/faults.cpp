// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about single faults of adjustable and switching parts.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "protect/text.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

/// The first fix of a fault at a load that clears it, for its button; it is solved on the project
/// as it is then.
std::optional<Fix> fixOf(const Project& project, const Fault& fault, std::size_t load) {
    const auto cures = faultMitigations(project, fault, load);
    const auto clears =
        std::find_if(cures.begin(), cures.end(), [](const FaultMitigation& c) { return c.clears; });
    if (clears == cures.end())
        return std::nullopt;
    const auto which = static_cast<std::size_t>(clears - cures.begin());
    return editFix(clears->label, clears->name,
                   [stage = fault.stage, kind = fault.kind, load, which](const Project& p) {
                       const auto now = faultMitigations(p, faultOf(p, stage, kind), load);
                       return which < now.size() ? now[which].project : p;
                   });
}

constexpr double kDividerOff = 0.03; ///< of the target, from which resistors and figure disagree

} // namespace

void faultKills(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.protect)
        return;
    const FaultMatrix& grid = s.protect->faults;
    for (const Fault& fault : grid.parts) {
        const Stage* stage = s.project.stage(fault.stage);
        if (fault.kind != FaultKind::failsShort || !stage || !active(stage->part))
            continue;
        std::vector<std::string> killed;
        double seen = 0;
        double limit = 0;
        bool precious = false;
        std::optional<std::size_t> worst;
        for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
            const Load& load = s.project.loads[i];
            const double never = orZero(load.window.neverAbove);
            const bool worth = load.precious.value_or(load.isCritical());
            // Without the fault too much already: that is never_above's.
            if (!fault.harmed[i] || !worth || never <= 0 || grid.healthy[i] > never)
                continue;
            if (!s.project.pack() && !load.precious.value_or(false))
                continue; // an adapter's project: the grid shows it
            killed.push_back(nameOf(load));
            precious = precious || load.precious.value_or(false);
            if (!worst || fault.volts[i] > seen) {
                worst = i;
                seen = fault.volts[i];
                limit = never;
            }
        }
        if (!worst)
            continue;
        std::string also;
        for (const std::string& id : fault.alsoFailed)
            also += (also.empty() ? " takes " : " and ") + nameAt(s.project, id);
        if (!also.empty())
            also += " with it and";
        Finding f = finding(
            "fault_kills", precious ? Severity::care : Severity::note, fault.stage,
            "One fault kills " + listText(killed),
            fmt::format("If {} fails short, it{} puts up to {} on {}{} survives {}. A crowbar with "
                        "the fuse, or an isolated part, where that is worth it.",
                        nameOf(*stage), also, volts(seen), listText(killed),
                        killed.size() == 1 ? ", which" : ", of which the weakest", volts(limit)),
            {{"v", seen}, {"never_above_v", limit}});
        f.fix = fixOf(s.project, fault, *worst);
        out.push_back(std::move(f));
    }
}

namespace {

/// A supply with a knob: the first volt on what hangs on it is whatever it was left at.
void knobBeforeConnect(const RuleInput& s, std::vector<Finding>& out) {
    for (const Stage& stage : s.project.stages) {
        const auto* adapter = std::get_if<Adapter>(&stage.part);
        if (!adapter || !adapter->adjustable.value_or(false) || !adapter->adjustMax)
            continue;
        const double stop = adapter->adjustMax->value();
        std::set<std::string> here{stage.id};
        for (const std::size_t i : sameVoltage(s.project, stage.id))
            here.insert(s.project.stages[i].id);
        const std::string set = volts(orZero(adapter->set));
        const auto say = [&](const std::string& name, double limit) {
            out.push_back(finding(
                "set_before_connect", Severity::note, stage.id,
                "Set " + nameOf(stage) + " before its lead goes in",
                fmt::format("Its knob goes up to {}; {} takes {} at most. Set it to {}, measure at "
                            "the plug, then connect.",
                            volts(stop), name, volts(limit), set),
                {{"set_max_v", stop}, {"never_above_v", limit}}));
        };
        bool said = false;
        for (const Load& load : s.project.loads) {
            const double never = orZero(load.window.neverAbove);
            const double limit = never > 0 ? never : load.window.max.value();
            if (!said && here.contains(load.fedBy) && exceeds(stop, limit)) {
                say(nameOf(load), limit);
                said = true;
            }
        }
        for (const Stage& part : s.project.stages) {
            const double limit = neverAboveOf(part.part);
            if (!said && !part.fedBy.empty() && here.contains(part.fedBy.front()) &&
                overSet(stop, limit)) {
                say(nameOf(part), limit);
                said = true;
            }
        }
    }
}

} // namespace

void setBeforeConnect(const RuleInput& s, std::vector<Finding>& out) {
    knobBeforeConnect(s, out);
    if (!s.protect)
        return;
    for (const Fault& fault : s.protect->faults.parts) {
        const Stage* stage = s.project.stage(fault.stage);
        if (fault.kind != FaultKind::misSet || !stage || !isRegulator(stage->part))
            continue;
        // Two resistors set it: no trimmer is turned.
        if (const ActivePart* a = active(stage->part); a && a->reference && !a->setMax)
            continue;
        for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
            const Load& load = s.project.loads[i];
            const double never = orZero(load.window.neverAbove);
            if (!fault.harmed[i] || never <= 0)
                continue;
            const double stop = endStopOf(stage->part);
            out.push_back(finding(
                "set_before_connect", Severity::note, fault.stage,
                "Set " + nameOf(*stage) + " before anything hangs on it",
                fmt::format("Its trimmer goes up to {}; {} survives {}. Set it to {} with nothing "
                            "connected, measure, then connect.",
                            volts(stop), nameOf(load), volts(never),
                            volts(orZero(setPointOf(stage->part)))),
                {{"set_max_v", stop}, {"never_above_v", never}}));
            break;
        }
    }
}

void dividerOff(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.protect)
        return;
    for (const DividerPlace& place : s.protect->dividers) {
        if (!place.has || place.use == DividerUse::watch ||
            std::abs(place.has->error) <= kDividerOff)
            continue;
        const Stage& stage = *s.project.stage(place.id);
        Finding f = finding("divider_off", Severity::care, place.id,
                            nameOf(stage) + " and its resistors disagree",
                            fmt::format("{}; its resistors give {}. One of the two is not true.",
                                        place.says, volts(place.has->actual)),
                            {{"target_v", place.ask.target}, {"gives_v", place.has->actual}});
        f.fix = editFix("Believe the resistors", "set " + nameOf(stage) + " by its resistors",
                        [place](const Project& p) { return withDivider(p, place, *place.has); });
        out.push_back(std::move(f));
    }
}

} // namespace sipper::rules
