// SPDX-License-Identifier: GPL-3.0-or-later
// Everything that is computed of one project, so that window, comparison and command line show the
// same figures by construction.
#pragma once

#include "advice/advice.hpp"
#include "advice/consequences.hpp"
#include "base/parallelfor.hpp"
#include "charge/choices.hpp"
#include "measure/checks.hpp"
#include "runtime/budget.hpp"
#include "runtime/energyequivalents.hpp"
#include "runtime/handestimate.hpp"
#include "runtime/shelf.hpp"

#include <memory>

namespace sipper {

/// What an edit must show at once.
struct QuickAnalysis {
    Runtime runtime;
    std::vector<CurvePoint> discharge; ///< the run, and on to what stops the pack itself
    Budget budget;
    std::vector<HandEstimate> handEstimate; ///< what people reckon, and why it differs
    std::optional<EnergyEquivalents> equivalents;
    std::optional<OperatingSweep> sweep;     ///< nothing without cells
    std::vector<ExternalLoad> externalLoads; ///< of the sources that can be plugged in
    std::optional<ShelfLife> shelf;
    std::optional<CycleLife> cycles;
    std::vector<ChargeAnalysis> charges; ///< a refill by each charger
    std::shared_ptr<const ProtectionAnalysis> protect;
    std::shared_ptr<const BenchAnalysis> bench; ///< what a meter should say
    std::vector<Finding> findings; ///< without what only the range tells, and without gains

    /// The refill that people mean: by the first charger; null without one.
    [[nodiscard]] const ChargeRun* refill() const {
        return charges.empty() ? nullptr : &charges.front().usual;
    }
};

/// What takes longer.
struct DeepAnalysis {
    std::optional<RuntimeUncertainty> range;
    std::vector<Finding> findings;            ///< with the range, and with what each cure gains
    std::vector<Consequence> consequences;    ///< of the brief
    std::vector<PolicyLife> cutoffPolicies;   ///< of the guard's cut-off
    std::shared_ptr<const SolarAnalysis> sun; ///< ten years of a panel; null without one
};

/// How far to go. What is left out stays empty.
struct DeepOptions {
    bool findings = true; ///< advice that looks at the range
    bool gains = true;    ///< of the fixes
    bool consequences = true;
    bool cutoffPolicies = true;
    bool sun = true;
    int builds = kSamples;                  ///< of the range
    LibrarySource library = shippedLibrary; ///< that fixes take parts from
};

/// How much of it: what is left out stays empty.
struct QuickOptions {
    bool advice = true; ///< sources, charges, protection, and what the rules say of all
    bool rules = true;  ///< with the rules themselves
    bool bench = true;
    LibrarySource library = shippedLibrary; ///< that fixes take parts from
};
/// `stop` is looked at between its parts, none of which is long; what is known by then is answered.
/// `pieces` shares out what does not wait for each other.
[[nodiscard]] QuickAnalysis analyseQuick(const Project& project, const QuickOptions& depth = {},
                                         const std::stop_token& stop = {},
                                         const ParallelFor& pieces = twoThreadFor);

/// Nothing when `stop` was asked for. The parallel loop shares out the samples of the range.
[[nodiscard]] std::shared_ptr<const DeepAnalysis>
analyseDeep(const Project& project, const QuickAnalysis& quick, const std::stop_token& stop = {},
            const DeepOptions& depth = {}, const ParallelFor& pieces = twoThreadFor);

} // namespace sipper
