// SPDX-License-Identifier: GPL-3.0-or-later
#include "advice/advice.hpp"

#include "advice/fixes.hpp"
#include "advice/rules.hpp"
#include "charge/choices.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace sipper {

namespace {

constexpr double kMuchLess =
    0.5; ///< of the charge at which it is short: the cells' sag is the cause

/// Where the cells sag too much for the drain, findings that follow from the sag become notes.
void demoteSagEffects(const RuleInput& solved, std::vector<Finding>& findings) {
    const auto cause = std::find_if(findings.begin(), findings.end(), [](const Finding& f) {
        return f.rule == "wrong_cell_for_drain";
    });
    if (cause == findings.end() || !solved.sweep)
        return;
    Project stiff = solved.project;
    auto& pack = std::get<Pack>(stiff.stage(stiff.packStage()->id)->part);
    pack.cell.resistance.reset();
    pack.cell.relaxation.reset();
    pack.measuredResistance.reset();
    pack.connection.reset();
    const OperatingSweep without = sweepOperation(stiff, typicalConditions(stiff));
    const auto follows = [&](const Occurrence& with, const Occurrence& then) {
        return with.valid && (!then.valid || then.charge < kMuchLess * with.charge);
    };
    for (Finding& f : findings) {
        if (f.severity != Severity::stop)
            continue;
        bool under = false;
        for (std::size_t i = 0; i < stiff.loads.size(); ++i)
            if (stiff.loads[i].id == f.subject &&
                (f.rule == "window_low" || f.rule == "burst_reset"))
                under = follows(solved.sweep->firstUndervoltage[i], without.firstUndervoltage[i]);
        if (f.rule == "over_current" && solved.sweep->stop &&
            solved.sweep->stop->reason == EndReason::collapse && f.subject == cause->subject)
            under = !without.stop || without.stop->reason != EndReason::collapse;
        for (std::size_t i = 0; i < stiff.stages.size(); ++i)
            if (stiff.stages[i].id == f.subject && f.rule == "drop_out")
                under = follows(solved.sweep->firstDropout[i], without.firstDropout[i]);
        if (!under)
            continue;
        f.severity = Severity::note;
        f.fix.reset(); // the cells are what has to change
        cause->severity = Severity::stop;
    }
}

/// A lead has one size: all that a thicker one fixes name the largest that any of them needs.
void oneSizeALead(const Project& project, std::vector<Finding>& findings) {
    std::map<std::string, double> most;
    for (const Finding& f : findings)
        if (!f.lead.empty())
            most[f.lead] = std::max(most[f.lead], f.numbers.at("area_mm2"));
    for (Finding& f : findings) {
        if (f.lead.empty() || f.numbers.at("area_mm2") >= most[f.lead])
            continue;
        f.numbers["area_mm2"] = most[f.lead];
        f.fix = areaFix(*project.stage(f.lead), most[f.lead]);
    }
}

constexpr double kRuins = 0.5;        ///< of the hours: a fix that leaves less is none
constexpr double kWorthNaming = 1e-4; ///< of the runtime: a smaller change is none
} // namespace

std::string_view severityName(Severity severity) {
    static constexpr std::array<std::string_view, 3> names{"stop", "care", "note"};
    return names[static_cast<std::size_t>(severity)];
}

std::span<const Rule> allRules() {
    static constexpr std::array list{
        Rule{"drop_out", rules::dropOut},
        Rule{"passes_through", rules::passesThrough},
        Rule{"never_above", rules::neverAbove},
        Rule{"window_low", rules::windowLow},
        Rule{"window_high", rules::windowHigh},
        Rule{"burst_reset", rules::burstReset},
        Rule{"over_current", rules::overCurrent},
        Rule{"output_limit_at_low_input", rules::outputLimitAtLowInput},
        Rule{"power_limit", rules::powerLimit},
        Rule{"too_hot", rules::tooHot},
        Rule{"linear_burns", rules::linearBurns},
        Rule{"mains_windows", rules::externalWindows},
        Rule{"headroom", rules::headroom},
        Rule{"unregulated", rules::unregulated},
        Rule{"trips", rules::trips},
        Rule{"socket_class", rules::socketClass},
        Rule{"source_budget", rules::sourceBudget},
        Rule{"never_acts", rules::neverActs},
        Rule{"gauge_blind", rules::gaugeBlind},
        Rule{"noise", rules::noise},
        Rule{"backfeed", rules::backfeed},
        Rule{"path_drop", rules::pathDrop},
        Rule{"set_out_of_range", rules::setOutOfRange},
        Rule{"guard_not_made_for", rules::guardNotMadeFor},
        Rule{"current_driver_on_volts", rules::currentDriverOnVolts},
        Rule{"no_guard", rules::noGuard},
        Rule{"guard_floor", rules::guardFloor},
        Rule{"guard_wastes", rules::guardWastes},
        Rule{"load_stops_first", rules::loadStopsFirst},
        Rule{"chatter", rules::chatter},
        Rule{"never_reconnects", rules::neverReconnects},
        Rule{"guard_drain", rules::guardDrain},
        Rule{"shelf", rules::shelf},
        Rule{"no_fuse", rules::noFuse},
        Rule{"fuse_window", rules::fuseWindow},
        Rule{"wire_ampacity", rules::wireAmpacity},
        Rule{"lead_burns", rules::leadBurns},
        Rule{"wire_drop", rules::wireDrop},
        Rule{"polarity", rules::polarity},
        Rule{"unlike_cells", rules::unlikeCells},
        Rule{"salvaged_parallel", rules::salvagedParallel},
        Rule{"cell_temperature", rules::cellTemperature},
        Rule{"goes_to_sleep", rules::goesToSleep},
        Rule{"never_starts", rules::neverStarts},
        Rule{"capacitor_refill", rules::capacitorRefill},
        Rule{"no_cell_monitor", rules::noCellMonitor},
        Rule{"implausible_capacity", rules::implausibleCapacity},
        Rule{"implausible_rate", rules::implausibleRate},
        Rule{"fits", rules::fits},
        Rule{"wrong_cell_for_drain", rules::wrongCellForDrain},
        Rule{"cold", rules::cold},
        Rule{"not_rechargeable", rules::notRechargeable},
        Rule{"charge_voltage", rules::chargeVoltage},
        Rule{"charge_rate", rules::chargeRate},
        Rule{"charge_topology", rules::chargeTopology},
        Rule{"charge_input", rules::chargeInput},
        Rule{"charge_source", rules::chargeSource},
        Rule{"freezing_charge", rules::freezingCharge},
        Rule{"recovery_trap", rules::recoveryTrap},
        Rule{"end_trap", rules::endTrap},
        Rule{"device_takes_more", rules::deviceTakesMore},
        Rule{"ends_early", rules::endsEarly},
        Rule{"charge_heat", rules::chargeHeat},
        Rule{"charge_limited", rules::chargeLimited},
        Rule{"dumb_charger", rules::dumbCharger},
        Rule{"panel_knee", rules::panelKnee},
        Rule{"panel_cold_voltage", rules::panelColdVoltage},
        Rule{"panel_small", rules::panelSmall},
        Rule{"dark_run", rules::darkRun},
        Rule{"frost_locks", rules::frostLocks},
        Rule{"fault_kills", rules::faultKills},
        Rule{"set_before_connect", rules::setBeforeConnect},
        Rule{"divider_off", rules::dividerOff},
        Rule{"own_use", rules::ownUse},
        Rule{"constant_power_runaway", rules::constantPowerRunaway},
        Rule{"guessed", rules::guessed},
        Rule{"no_refill", rules::noRefill},
        Rule{"short_of_target", rules::shortOfTarget},
    };
    return list;
}

void analyseIndependent(const Project& project, std::size_t which, RuleAnalyses& out,
                        const std::stop_token& stop) {
    if (stop.stop_requested())
        return;
    if (which == 0)
        out.charges = analyseCharges(project, stop);
    else if (which == 1 && project.pack())
        out.sweep = sweepOperation(project, typicalConditions(project));
    else if (which == 2)
        out.externalLoads = externalLoadsWithChargers(project);
}

void analyseDependent(const Project& project, const Runtime& runtime, RuleAnalyses& out,
                      const std::stop_token& stop, const ParallelFor& pieces) {
    if (stop.stop_requested())
        return;
    if (out.sweep)
        out.sweep->include(project, runtime);
    auto protect = analyseProtection(
        project, runtime, {out.sweep ? &*out.sweep : nullptr, out.externalLoads, out.charges}, stop,
        pieces);
    if (protect)
        out.protect = *std::move(protect);
}

RuleAnalyses analyseForRules(const Project& project, const Runtime& runtime,
                             const std::stop_token& stop, const ParallelFor& pieces) {
    RuleAnalyses looked;
    pieces(kIndependentAnalyses,
           [&](std::size_t which) { analyseIndependent(project, which, looked, stop); });
    analyseDependent(project, runtime, looked, stop, pieces);
    return looked;
}

std::vector<Finding> advise(const RuleInput& given, const std::stop_token& stop,
                            const ParallelFor& rules) {
    RuleInput solved = given;
    if (solved.sweep)
        solved.intervals = std::make_shared<const ChargeIntervals>(solved.project, *solved.sweep);
    std::vector<std::vector<Finding>> said(allRules().size());
    rules(said.size(), [&](std::size_t i) {
        if (!stop.stop_requested())
            allRules()[i].look(solved, said[i]);
    });
    std::vector<Finding> findings;
    for (std::vector<Finding>& of : said)
        std::move(of.begin(), of.end(), std::back_inserter(findings));
    if (stop.stop_requested())
        return findings;
    oneSizeALead(solved.project, findings);
    // One finding per rule and subject, the gravest: what is wrong from cells and source alike is
    // said once, as gravely as it is.
    std::vector<Finding> once;
    for (Finding& f : findings) {
        const auto same = std::find_if(once.begin(), once.end(), [&](const Finding& other) {
            return other.rule == f.rule && other.subject == f.subject;
        });
        if (same == once.end())
            once.push_back(std::move(f));
        else if (f.severity < same->severity)
            *same = std::move(f);
    }
    findings = std::move(once);
    demoteSagEffects(solved, findings);
    // The gravest first; of those, what ends the run, or stands on the way to it, before the rest.
    const std::string& end = solved.runtime.ending.at;
    const auto way = pathToSource(solved.project, end);
    const auto onFailurePath = [&](const Finding& f) {
        return f.subject == end || std::any_of(way.begin(), way.end(),
                                               [&](const Stage* s) { return s->id == f.subject; });
    };
    std::stable_sort(findings.begin(), findings.end(), [&](const Finding& a, const Finding& b) {
        return a.severity != b.severity ? a.severity < b.severity
                                        : onFailurePath(a) > onFailurePath(b);
    });
    return findings;
}

namespace {

bool isSolarRule(const std::string& rule) {
    static constexpr std::array rules{"panel_knee", "panel_cold_voltage", "panel_small", "dark_run",
                                      "frost_locks"};
    return std::find(rules.begin(), rules.end(), rule) != rules.end();
}

/// Does the fix leave the rule without a stop about its subject, and bring no stop of its own?
/// What only years of sun tell is not looked at.
bool fixHolds(const Project& cured, const Runtime& after, const Finding& f,
              const std::vector<Finding>& before) {
    if (isSolarRule(f.rule))
        return true;
    const std::optional<RuntimeUncertainty> none;
    const RuleAnalyses looked = analyseForRules(cured, after);
    RuleInput now = ruleInput(cured, after, none, looked);
    now.seekFixes = false;
    for (const Finding& then : advise(now)) {
        if (then.severity != Severity::stop)
            continue;
        if (then.rule == f.rule && then.subject == f.subject)
            return false;
        if (std::none_of(before.begin(), before.end(), [&](const Finding& old) {
                return old.rule == then.rule && old.subject == then.subject;
            }))
            return false;
    }
    return true;
}

/// The best for its weight and price that brings no stop; a few are tried.
void tryForTarget(const Project& project, const Runtime& runtime,
                  const std::vector<Finding>& findings, Finding& f, LibrarySource library,
                  const std::stop_token& stop) {
    constexpr std::size_t kTried = 5;
    std::vector<rules::TargetFix> cures = rules::targetFixes(project, library(), stop);
    for (std::size_t i = 0; i < std::min(kTried, cures.size()); ++i) {
        if (stop.stop_requested())
            return;
        Fix& cure = cures[i].fix;
        // A lead has one size, whatever asks for it.
        for (const Finding& other : findings)
            if (other.fix && other.lead == cures[i].subject)
                cure = *other.fix;
        const Project cured = cure.apply(project);
        StepControl quick;
        quick.record = false;
        const Runtime after = predictRuntime(cured, typicalConditions(cured), quick);
        if (!after.hours || !runtime.hours || !fixHolds(cured, after, f, findings))
            continue;
        f.fix = cure;
        f.gainHours = after.hours->value() - runtime.hours->value();
        return;
    }
}

} // namespace

void evaluateFixes(const Project& project, const Runtime& runtime, std::vector<Finding>& findings,
                   const std::stop_token& stop, LibrarySource library) {
    StepControl quick;
    quick.record = false;
    for (Finding& f : findings) {
        if (f.rule == "short_of_target") {
            tryForTarget(project, runtime, findings, f, library, stop);
            continue;
        }
        if (stop.stop_requested())
            return;
        if (!f.fix)
            continue;
        const Project cured = f.fix->apply(project);
        const Runtime after = predictRuntime(cured, typicalConditions(cured), quick);
        const bool ruins =
            runtime.hours && after.hours && after.hours->value() < kRuins * runtime.hours->value();
        if (ruins || !fixHolds(cured, after, f, findings)) {
            f.fix.reset();
            f.gainHours.reset();
            continue;
        }
        if (f.gainHours || !runtime.hours ||
            !after.hours) // what is there already was gained elsewhere
            continue;
        const double gain = after.hours->value() - runtime.hours->value();
        if (f.fix->forHours && gain <= 0)
            f.fix.reset();
        else if (std::abs(gain) > kWorthNaming * runtime.hours->value())
            f.gainHours = gain;
    }
}

} // namespace sipper
