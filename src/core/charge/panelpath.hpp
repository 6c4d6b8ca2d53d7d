// SPDX-License-Identifier: GPL-3.0-or-later
// A panel as a charger's source: its label, and the passive parts on the way.
#pragma once

#include "base/outcome.hpp"
#include "line/panelcurve.hpp"
#include "project/project.hpp"

namespace sipper {

/// A panel and the passive parts on the way to its charger.
struct PanelPath {
    PanelShape shape;
    double series = 1;   ///< of the volts
    double parallel = 1; ///< of the amps, the field factor in it
    double drop = 0;     ///< V lost on the way whatever flows
    double ohms = 0;

    [[nodiscard]] PanelCurve curve(double light, double air) const {
        return {shape, light, air + kCellOverAir * light, series, parallel};
    }
    static constexpr double kCellOverAir = 0.03; ///< K per W/m2 of the panel's cells over the air
};

inline constexpr double kUsualLight = 800; ///< W/m2 on a panel where nobody says
/// K of the panel's cells over the air at `kUsualLight`, in proportion at any other
/// (docs/model.md: Charging).
inline constexpr double kUsualWarmth = 25;

/// The curve of a panel under a steady light, as a charge by it is meant (docs/model.md: Charging).
[[nodiscard]] PanelCurve steadyCurve(const PanelPath& way, double light, double air);

/// Stages from a stage back to a panel, the nearest first, through any of its feeds; empty where
/// there is none.
[[nodiscard]] std::vector<const Stage*> wayToPanel(const Project& project, const Stage& stage,
                                                   std::size_t depth = 0);

/// The panel of a charger with its way there, looked up and checked; `at` is its place.
struct PanelFound {
    std::size_t at;
    PanelPath way;
};
[[nodiscard]] Outcome<PanelFound> panelOf(const Project& project, const Stage& charger);
/// The whole label of a panel, or which figure it lacks.
[[nodiscard]] Outcome<PanelLabel> labelOf(const Panel& panel, const std::string& where);

} // namespace sipper
