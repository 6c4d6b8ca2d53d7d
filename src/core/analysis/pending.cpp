// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/pending.hpp"

namespace sipper {

QuickAnalysis pendingQuick(const Project& p) {
    QuickAnalysis q;
    for (const Stage& stage : p.stages)
        q.runtime.ledger.stages[stage.id] = 0;
    for (const Load& load : p.loads) {
        q.runtime.ledger.loads[load.id] = 0;
        for (const Mode& mode : p.modes)
            q.runtime.ledger.loadModes[load.id][mode.id] = 0;
    }
    q.budget.modes.resize(p.modes.size());
    q.budget.loadShare.assign(p.loads.size(), 0);
    q.budget.loadWhPerDay.assign(p.loads.size(), 0);
    q.budget.loadModeWhPerDay.assign(p.loads.size(), std::vector<double>(p.modes.size(), 0));
    if (p.pack()) {
        q.sweep.emplace();
        q.sweep->resize(p.stages.size(), p.loads.size());
    }
    q.protect = std::make_shared<const ProtectionAnalysis>();
    q.bench = std::make_shared<const BenchAnalysis>();
    return q;
}

} // namespace sipper
