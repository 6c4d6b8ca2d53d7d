// SPDX-License-Identifier: GPL-3.0-or-later
// The battery node while a charger pushes into it: the pack, and what the device takes from it.
#pragma once

#include "runtime/integrator.hpp"

namespace sipper {

/// Volts and amps at the node.
struct NodePoint {
    double volts = 0;
    double packAmps = 0;          ///< into the pack
    double loadAmps = 0;          ///< what the device takes
    std::vector<std::size_t> off; ///< stages that are off under their input minimum
    bool collapsed = false;       ///< all of it is off: the line would collapse
    [[nodiscard]] std::size_t under() const { return off.size() + (collapsed ? 1 : 0); }
};

/// What hangs on the charged pack in one mode. A guard opens under its cut-off and stays open until
/// its input has reached its reconnect voltage; a part under its input minimum draws nothing
/// (docs/model.md: Charging).
class BatteryNode {
  public:
    /// `pack` and `source` are places in the project's stages. What the source feeds by itself (a
    /// power path) is not on the node.
    BatteryNode(const Project& project, std::size_t pack, std::size_t source, std::size_t mode,
                Celsius ambient, double startVolts);

    /// With `amps` coming from the charger; E and ohms of the pack as it is now.
    [[nodiscard]] NodePoint at(double amps, double openCircuit, double ohms) const;
    /// What the device takes at a voltage of the node.
    [[nodiscard]] double loadAt(double volts) const { return load(volts, 0); }
    /// Every part behind the node, for the ledger.
    [[nodiscard]] bool flowsAt(const NodePoint& at, Flows& flows) const;

    /// What pushes and pulls at the node: the charger's amps, E and ohms of the pack.
    struct PackDrive {
        double amps;
        double openCircuit;
        double ohms;
    };
    /// Does a guard that is closed open at this point of the node, or one that is open close? It
    /// closes for good only where the device, once on, leaves it more than its cut-off.
    [[nodiscard]] bool wouldSwitch(const NodePoint& point, const PackDrive& from) const;
    /// Lets them. True where any did.
    bool switchAt(const NodePoint& point, const PackDrive& from);
    [[nodiscard]] bool heldOpen() const { return !m_held.empty(); }
    /// The output switched off: the first switch before each load is open, and a load without one
    /// draws nothing.
    void switchOff();
    [[nodiscard]] const Network& network() const { return m_network; }

  private:
    [[nodiscard]] double load(double e, double r) const;
    [[nodiscard]] double inputOf(std::size_t stage, double volts) const;
    [[nodiscard]] bool isHeld(std::size_t guard) const;
    /// Would it close, and find more than its cut-off once it has?
    [[nodiscard]] bool closes(std::size_t guard, const NodePoint& point,
                              const PackDrive& from) const;
    [[nodiscard]] bool switches(std::size_t guard, const NodePoint& point,
                                const PackDrive& from) const;

    const Project& m_project;
    mutable Network m_network;
    mutable Demand m_demand;
    std::vector<std::size_t> m_guards;
    std::vector<std::size_t> m_held; ///< guards that are open
    struct Watched {
        std::size_t stage;
        double inputMin; ///< V
    };
    std::vector<Watched> m_watched; ///< parts with an input minimum
    mutable Flows m_flows;
    mutable std::vector<std::size_t> m_off; ///< found under their minimum by the last question
    mutable bool m_collapsed = false;       ///< by the last question
};

} // namespace sipper
