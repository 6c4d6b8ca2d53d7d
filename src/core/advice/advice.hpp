// SPDX-License-Identifier: GPL-3.0-or-later
// The list of all rules, and running them.
#pragma once

#include "advice/finding.hpp"
#include "base/parallelfor.hpp"
#include "charge/choices.hpp"
#include "project/library.hpp"
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
        {};                                 ///< of project and sweep, while rules are asked
    LibrarySource library = shippedLibrary; ///< that fixes take parts from

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
/// Its parts that do not wait for each other, or for the run: what stands in one is not touched by
/// another.
inline constexpr std::size_t kIndependentAnalyses = 3;
void analyseIndependent(const Project& project, std::size_t which, RuleAnalyses& out,
                        const std::stop_token& stop = {});
/// The rest, once those are there.
void analyseDependent(const Project& project, const Runtime& runtime, RuleAnalyses& out,
                      const std::stop_token& stop = {}, const ParallelFor& pieces = serialFor);
/// All of them.
[[nodiscard]] RuleAnalyses analyseForRules(const Project& project, const Runtime& runtime,
                                           const std::stop_token& stop = {},
                                           const ParallelFor& pieces = serialFor);
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
/// asked for, those that were found by then. `rules` shares them out.
[[nodiscard]] std::vector<Finding> advise(const RuleInput& solved, const std::stop_token& stop = {},
                                          const ParallelFor& rules = serialFor);

/// Fills `gainHours` of every finding that has a fix, by running the cured project.
void evaluateFixes(const Project& project, const Runtime& runtime, std::vector<Finding>& findings,
                   const std::stop_token& stop = {}, LibrarySource library = shippedLibrary);

} // namespace sipper
