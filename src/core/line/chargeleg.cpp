// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/chargeleg.hpp"

#include "line/physics.hpp"
namespace sipper {
ChargeLeg legPartOf(const Stage& stage, Celsius ambient) {
    const Physics physics = physicsOf(stage.part, ambient);
    return {physics.resistance, physics.drop, false};
}

ChargeLeg legOf(const Project& p, const Stage& charger, Celsius ambient) {
    ChargeLeg all;
    for (const Stage* stage : chargeLeg(p, charger.id)) {
        const ChargeLeg one = legPartOf(*stage, ambient);
        all.ohms += one.ohms;
        all.drop += one.drop;
    }
    if (const auto* part = std::get_if<Charger>(&charger.part))
        all.sensed = part->remoteSense.value_or(false);
    return all;
}

} // namespace sipper
