// SPDX-License-Identifier: GPL-3.0-or-later
// The same charge in other units: on the cells' label, at the loads, in another device's battery.
#pragma once

#include "runtime/runtime.hpp"

namespace sipper {

struct EnergyEquivalents {
    double ratedAh = 0;     ///< of the pack, by its cells' label
    double ratedVolts = 0;  ///< mean open-circuit volts of the pack
    double ratedWh = 0;     ///< nameplate
    double deliveredWh = 0; ///< to all loads over the run
    struct AtLoad {
        std::string id;
        double volts = 0; ///< nominal, at which the charge is counted
        double ah = 0;
        double wh = 0;
    };
    std::vector<AtLoad> loads; ///< in the project's order; those that got something

    [[nodiscard]] double share() const { return ratedWh > 0 ? deliveredWh / ratedWh : 0; }
    /// All of it at one socket, in ampere-hours.
    [[nodiscard]] double ahAt(double socketVolts) const { return deliveredWh / socketVolts; }
    /// How often it fills another device's battery, by watt-hours; what that device loses while it
    /// charges comes off too.
    [[nodiscard]] double refills(double deviceAh, double deviceVolts) const {
        return deliveredWh / (deviceAh * deviceVolts);
    }
};

/// Nothing without a pack or a run.
[[nodiscard]] std::optional<EnergyEquivalents> energyEquivalentsOf(const Project& project,
                                                                   const Runtime& runtime);

} // namespace sipper
