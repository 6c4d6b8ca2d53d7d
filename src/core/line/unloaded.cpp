// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/unloaded.hpp"

#include "base/tolerance.hpp"
#include "line/curve.hpp"
#include "line/sources.hpp"
#include "parts/figures.hpp"
#include "project/tree.hpp"

#include <algorithm>

namespace sipper {

double fullVolts(const Pack& pack) {
    const double open = Curve(pack.cell.openCircuit).at(1);
    return pack.series * std::max(open, pack.cell.full.value_or(Volts{0}).value());
}

Flows unloadedAtFull(const Project& p) {
    Flows flows;
    const Network network(p, p.brief.air().usual());
    network.solve(network.idle(), fullVolts(*p.pack()), 0, flows);
    return flows;
}

Flows unloadedFrom(const Project& p, std::size_t source) {
    std::vector<std::size_t> present{source};
    if (p.pack())
        present.push_back(packIndex(p));
    Flows flows;
    const Network network(p, p.brief.air().usual(), {}, {source, present});
    network.solve(network.idle(), sourceModel(p.stages[source].part).high, 0, flows);
    return flows;
}

std::vector<Excess> idleExcesses(const Project& p, const Flows& idle) {
    std::vector<Excess> list;
    for (std::size_t i = 0; i < p.stages.size() && i < idle.stages.size(); ++i)
        if (const double limit = neverAboveOf(p.stages[i].part); overSet(idle.stages[i].vIn, limit))
            list.push_back({p.stages[i].id, idle.stages[i].vIn, limit, true});
    for (std::size_t i = 0; i < p.loads.size() && i < idle.loads.size(); ++i) {
        const Window& w = p.loads[i].window;
        const double v = idle.loads[i].v;
        if (overSet(v, orZero(w.neverAbove)))
            list.push_back({p.loads[i].id, v, w.neverAbove->value(), true});
        else if (exceeds(v, w.max.value()))
            list.push_back({p.loads[i].id, v, w.max.value(), false});
    }
    return list;
}

} // namespace sipper
