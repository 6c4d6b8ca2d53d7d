// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/energyequivalents.hpp"

namespace sipper {

std::optional<EnergyEquivalents> energyEquivalentsOf(const Project& p, const Runtime& r) {
    const Pack* pack = p.pack();
    if (!pack || !r.hours || r.hours->value() <= 0)
        return std::nullopt;
    EnergyEquivalents worth;
    worth.ratedAh = pack->parallel * pack->cell.capacity.value();
    worth.ratedWh = r.ledger.nameplate;
    worth.ratedVolts = worth.ratedWh / worth.ratedAh;
    for (const Load& load : p.loads) {
        const auto at = r.ledger.loads.find(load.id);
        if (at == r.ledger.loads.end())
            continue;
        worth.deliveredWh += at->second;
        if (const double volts = load.window.middle().value(); volts > 0)
            worth.loads.push_back({load.id, volts, at->second / volts, at->second});
    }
    return worth;
}

} // namespace sipper
