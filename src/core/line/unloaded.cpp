#include "line/unloaded.hpp"

#include "line/curve.hpp"
#include "line/sources.hpp"

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
    if (const Stage* pack = p.packStage())
        present.push_back(static_cast<std::size_t>(pack - p.stages.data()));
    Flows flows;
    const Network network(p, p.brief.air().usual(), {}, {source, present});
    network.solve(network.idle(), sourceModel(p.stages[source].part).high, 0, flows);
    return flows;
}

} // namespace sipper
