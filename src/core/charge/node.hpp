// The battery node while a charger pushes into it: the pack, and what the device takes from it.
#pragma once

#include "runtime/stepper.hpp"

namespace sipper {

/// Volts and amps at the node.
struct NodePoint {
    double volts = 0;
    double packAmps = 0; ///< into the pack
    double loadAmps = 0; ///< what the device takes
};

/// What hangs on the charged pack in one mode. A guard that starts open stays open until its input
/// has reached its reconnect voltage; a part under its input minimum draws nothing (design:
/// charging).
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
    [[nodiscard]] bool flowsAt(double volts, Flows& flows) const;

    /// Is a guard held open that closes at this voltage of the node?
    [[nodiscard]] bool wouldClose(double volts) const;
    /// Closes it.
    void close(double volts);
    [[nodiscard]] bool heldOpen() const { return !m_held.empty(); }
    [[nodiscard]] const Network& network() const { return m_network; }

  private:
    [[nodiscard]] double load(double e, double r) const;
    [[nodiscard]] double inputOf(std::size_t stage, double volts) const;

    const Project& m_project;
    mutable Network m_network;
    Demand m_demand;
    std::vector<std::size_t> m_held;    ///< guards that are open
    std::vector<std::size_t> m_watched; ///< parts with an input minimum
    mutable Flows m_flows;
};

} // namespace sipper
