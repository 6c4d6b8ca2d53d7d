// SPDX-License-Identifier: GPL-3.0-or-later
// Everything that is computed of the open project, for all views to show the same figures.
#pragma once

#include "analysis/analysis.hpp"

namespace sipper::app {

/// What an edit shows at once, and what arrives later. While that is on its way, that of the
/// project before stays: `Session::settled` tells.
struct Results : QuickAnalysis {
    std::shared_ptr<const DeepAnalysis> deep; ///< null before the first has arrived

    [[nodiscard]] const RuntimeUncertainty* range() const {
        return deep && deep->range ? &*deep->range : nullptr;
    }
    /// Ten years of a panel; null without one, and before they have been run.
    [[nodiscard]] const SolarAnalysis* sun() const { return deep ? deep->sun.get() : nullptr; }
    [[nodiscard]] const std::vector<Consequence>& consequences() const {
        static const std::vector<Consequence> none;
        return deep ? deep->consequences : none;
    }
    [[nodiscard]] const std::vector<PolicyLife>& cutoffPolicies() const {
        static const std::vector<PolicyLife> none;
        return deep ? deep->cutoffPolicies : none;
    }
};

} // namespace sipper::app
