// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/analysis.hpp"

#include "charge/choices.hpp"

namespace sipper {
namespace {

Runtime headlineRun(const Project& project) {
    StepControl whole;
    whole.tail = true;
    return predictRuntime(project, typicalConditions(project), whole);
}

} // namespace

QuickAnalysis analyseQuick(const Project& project, const QuickOptions& depth,
                           const std::stop_token& stop, const ParallelFor& pieces) {
    QuickAnalysis q;
    RuleAnalyses looked;
    constexpr std::size_t kRun = 0;
    constexpr std::size_t kBench = 1;
    constexpr std::size_t kFirstForRules = 2; // charges first; they are left out without advice
    pieces(kFirstForRules + kIndependentAnalyses, [&](std::size_t piece) {
        if (piece == kRun)
            q.runtime = headlineRun(project);
        else if (piece == kBench && depth.bench && !stop.stop_requested())
            q.bench = std::make_shared<const BenchAnalysis>(analyseBench(project));
        else if (piece > kFirstForRules || (piece == kFirstForRules && depth.advice))
            analyseIndependent(project, piece - kFirstForRules, looked, stop);
    });
    q.discharge = q.runtime.curve;
    q.discharge.insert(q.discharge.end(), q.runtime.tail.begin(), q.runtime.tail.end());
    q.budget = budgetOf(project);
    q.handEstimate = handEstimates(project, q.runtime, q.budget);
    q.equivalents = energyEquivalentsOf(project, q.runtime);
    if (depth.advice) {
        analyseDependent(project, q.runtime, looked, stop, pieces);
        if (depth.rules && !stop.stop_requested()) {
            const std::optional<RuntimeUncertainty> notYet;
            RuleInput ask = ruleInput(project, q.runtime, notYet, looked);
            ask.library = depth.library;
            q.findings = advise(ask, stop, pieces);
        }
        q.charges = std::move(looked.charges);
        q.protect = std::make_shared<const ProtectionAnalysis>(std::move(looked.protect));
    } else if (looked.sweep) {
        looked.sweep->include(project, q.runtime);
    }
    q.sweep = std::move(looked.sweep);
    q.externalLoads = std::move(looked.externalLoads);
    if (q.sweep)
        q.shelf = shelfOf(project, q.sweep->stopCharge);
    q.cycles = cycleLife(project, q.runtime);
    return q;
}

std::shared_ptr<const DeepAnalysis> analyseDeep(const Project& project, const QuickAnalysis& quick,
                                                const std::stop_token& stop,
                                                const DeepOptions& depth,
                                                const ParallelFor& pieces) {
    auto deep = std::make_shared<DeepAnalysis>();
    deep->range = predictRange(project, quick.runtime, stop, depth.builds, pieces);
    if (stop.stop_requested())
        return nullptr;
    if (depth.sun)
        if (auto look = analyseSolar(project, stop))
            deep->sun = std::make_shared<const SolarAnalysis>(std::move(*look));
    if (stop.stop_requested())
        return nullptr;
    if (depth.findings) {
        RuleInput ask{project,
                      quick.runtime,
                      deep->range,
                      quick.sweep ? &*quick.sweep : nullptr,
                      quick.externalLoads,
                      quick.charges,
                      deep->sun.get(),
                      quick.protect.get()};
        ask.library = depth.library;
        deep->findings = advise(ask, stop, pieces);
    }
    if (depth.gains)
        evaluateFixes(project, quick.runtime, deep->findings, stop, depth.library);
    if (depth.cutoffPolicies && !stop.stop_requested())
        deep->cutoffPolicies = policyLives(project);
    if (depth.consequences && !stop.stop_requested())
        deep->consequences = consequencesOf(project, quick.runtime, deep->range, stop);
    if (stop.stop_requested())
        return nullptr;
    return deep;
}

} // namespace sipper
