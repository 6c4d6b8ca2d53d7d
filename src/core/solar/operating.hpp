// SPDX-License-Identifier: GPL-3.0-or-later
// One moment of the line in the light: panels push into their packs.
#pragma once

#include "charge/operating.hpp"

namespace sipper {

/// As `operateWithChargers`, and where `conditions.light` falls on the panels every charger on one
/// stands on its panel's curve and pushes into its pack; one that another source feeds already is
/// left so.
[[nodiscard]] OperatingPoint operateWithSun(const Project& project, const Conditions& conditions,
                                            double charge, std::size_t mode);

/// Volts that occur at a panel's terminals over a year's days: from its best point in the first
/// useful light on a warm day to open circuit in full sun on the coldest.
struct PanelVolts {
    double dawn = 0;
    double cold = 0;
};
[[nodiscard]] std::optional<PanelVolts> panelVolts(const Project& project, const Stage& panel);
/// The panel that stands before a stage with nothing but passive parts between; null for none.
[[nodiscard]] const Stage* panelBefore(const Project& project, const Stage& stage);

} // namespace sipper
