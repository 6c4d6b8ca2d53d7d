// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/analysis.hpp"

#include "charge/choices.hpp"

namespace sipper {

QuickAnalysis analyseQuick(const Project& project, const QuickOptions& depth,
                           const std::stop_token& stop) {
    QuickAnalysis q;
    StepControl whole;
    whole.tail = true;
    q.runtime = predictRuntime(project, typicalConditions(project), whole);
    q.discharge = q.runtime.curve;
    q.discharge.insert(q.discharge.end(), q.runtime.tail.begin(), q.runtime.tail.end());
    q.budget = budgetOf(project);
    q.handEstimate = handEstimates(project, q.runtime, q.budget);
    q.equivalents = energyEquivalentsOf(project, q.runtime);
    if (depth.advice) {
        RuleAnalyses looked = analyseForRules(project, q.runtime, stop);
        if (depth.rules && !stop.stop_requested())
            q.findings = advise(ruleInput(project, q.runtime, std::nullopt, looked), stop);
        q.sweep = std::move(looked.sweep);
        q.externalLoads = std::move(looked.externalLoads);
        q.charges = std::move(looked.charges);
        q.protect = std::make_shared<const ProtectionAnalysis>(std::move(looked.protect));
    } else {
        if (project.pack()) {
            q.sweep = sweepOperation(project, typicalConditions(project));
            q.sweep->include(project, q.runtime);
        }
        q.externalLoads = externalLoadsWithChargers(project);
    }
    if (q.sweep)
        q.shelf = shelfOf(project, q.sweep->stopCharge);
    q.cycles = cycleLife(project, q.runtime);
    if (depth.bench && !stop.stop_requested())
        q.bench = std::make_shared<const BenchAnalysis>(analyseBench(project));
    return q;
}

std::shared_ptr<const DeepAnalysis> analyseDeep(const Project& project, const QuickAnalysis& quick,
                                                const std::stop_token& stop,
                                                const DeepOptions& depth, const ParallelFor& crew) {
    auto deep = std::make_shared<DeepAnalysis>();
    deep->range = predictRange(project, quick.runtime, stop, depth.builds, crew);
    if (stop.stop_requested())
        return nullptr;
    if (depth.sun)
        if (auto look = analyseSolar(project, stop))
            deep->sun = std::make_shared<const SolarAnalysis>(std::move(*look));
    if (stop.stop_requested())
        return nullptr;
    if (depth.findings)
        deep->findings =
            advise({project, quick.runtime, deep->range, quick.sweep ? &*quick.sweep : nullptr,
                    quick.externalLoads, quick.charges, deep->sun.get(), quick.protect.get()},
                   stop);
    if (depth.gains)
        evaluateFixes(project, quick.runtime, deep->findings, stop);
    if (depth.cutoffPolicies && !stop.stop_requested())
        deep->cutoffPolicies = policyLives(project);
    if (depth.consequences && !stop.stop_requested())
        deep->consequences = consequencesOf(project, quick.runtime, deep->range, stop);
    if (stop.stop_requested())
        return nullptr;
    return deep;
}

} // namespace sipper
