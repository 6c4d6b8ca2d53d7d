// SPDX-License-Identifier: GPL-3.0-or-later
// The list of all rules, and running them.
#pragma once

#include "advice/finding.hpp"
#include "charge/choices.hpp"
#include "protect/protect.hpp"
#include "runtime/externalload.hpp"
#include "runtime/operatingsweep.hpp"
#include "runtime/uncertainty.hpp"
#include "solar/look.hpp"

#include <span>
#include <stop_token>

namespace sipper {

/// A project with what was computed of it, for the rules to look at.
struct RuleInput {
    const Project& project;
    const Runtime& runtime;
    const std::optional<RuntimeUncertainty>& range;   ///< nothing while it is still being computed
    const OperatingSweep* sweep;                      ///< null without a pack
    std::span<const ExternalLoad> externalLoads = {}; ///< of the sources that can be plugged in
    std::span<const ChargeAnalysis> charges = {};
    const SolarAnalysis* sun = nullptr; ///< null while it is being run, and without a panel
    const ProtectionAnalysis* protect = nullptr;
    bool seekFixes = true; ///< false while a fix is being tried: none is looked for then
    std::shared_ptr<const ChargeIntervals> intervals =
        {}; ///< of project and sweep, while rules are asked

    /// From where to where something holds over the charge; needs a sweep.
    [[nodiscard]] ChargeInterval intervalOf(const FlowPredicate& holds) const {
        return intervals ? intervals->of(holds) : ChargeIntervals(project, *sweep).of(holds);
    }
};

/// What the rules look at besides runtime and range.
struct RuleAnalyses {
    std::optional<OperatingSweep> sweep;
    std::vector<ExternalLoad> externalLoads;
    std::vector<ChargeAnalysis> charges;
    ProtectionAnalysis protect;
};
[[nodiscard]] RuleAnalyses analyseForRules(const Project& project, const Runtime& runtime,
                                           const std::stop_token& stop = {});
[[nodiscard]] inline RuleInput ruleInput(const Project& project, const Runtime& runtime,
                                         const std::optional<RuntimeUncertainty>& range,
                                         const RuleAnalyses& looked) {
    return {project,
            runtime,
            range,
            looked.sweep ? &*looked.sweep : nullptr,
            looked.externalLoads,
            looked.charges,
            nullptr,
            &looked.protect};
}

/// One rule: looks at a solved project and says nothing, or one finding for each subject.
struct Rule {
    std::string_view name;
    void (*look)(const RuleInput&, std::vector<Finding>&);
};

[[nodiscard]] std::span<const Rule> allRules();

/// All findings, the gravest first; within a severity in the order of the rules. Once `stop` is
/// asked for, those that were found by then.
[[nodiscard]] std::vector<Finding> advise(const RuleInput& solved,
                                          const std::stop_token& stop = {});

/// Fills `gainHours` of every finding that has a fix, by running the cured project.
void evaluateFixes(const Project& project, const Runtime& runtime, std::vector<Finding>& findings,
                   const std::stop_token& stop = {});

} // namespace sipper
