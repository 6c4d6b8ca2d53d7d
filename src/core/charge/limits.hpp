// SPDX-License-Identifier: GPL-3.0-or-later
// What holds a charge back at one moment: every limit's own answer, and the least of them.
#pragma once

#include "charge/converter.hpp"
#include "charge/feed.hpp"
#include "charge/limit.hpp"
#include "charge/node.hpp"
#include "charge/panelcharger.hpp"
#include "line/chargeleg.hpp"

#include <array>

namespace sipper {

/// A charger's set figures, SI; 0 leaves a limit out.
struct ChargeSettings {
    double current = 0;
    double volts = 0; ///< of the whole pack
    double endCurrent = 0;
    double recoveryBelow = 0;
    double recoveryCurrent = 0;
    double inputLimit = 0;
    double inputHold = 0;
    double inputMin = 0;
    double powerLimit = 0;
    double outputLimit = 0;
    double foldBack = 0; ///< degC; 0: none
    double cellAmps = 0; ///< of the whole pack
    double efficiency = 1;

    /// The programming resistor sets the current where no current is written; the end current is a
    /// twentieth of the capacity where none is; nickel cells keep 0.7 of what they are given.
    ChargeSettings(const Charger& charger, const Pack& pack);
};

/// A panel under a steady light as the source (docs/model.md: Charging).
struct PanelOn {
    PanelCharger charger;
    PanelCurve curve;
    double light = 0; ///< W/m2
    double air = 0;   ///< degC
    /// V before the charger with nothing drawn.
    [[nodiscard]] double openVolts() const { return curve.volts(0) - charger.way().drop; }
};

/// The charge at one moment.
struct ChargerPoint {
    ChargeLimit limit = ChargeLimit::cc;
    NodePoint node;
    FeedPoint feed;
    double chargerAmps = 0; ///< out of the charger
    double inputAmps = 0;
    double outputVolts = 0; ///< at the charger's output
    double loss = 0;        ///< W in the charger
    bool starved = false;   ///< the source gives nothing lasting
};

/// Limits of a charger between a feed and a node.
class ChargeLimits {
  public:
    ChargeLimits(const Charger& charger, const ChargeSettings& settings, const ChargerInput& feed,
                 const BatteryNode& node, const ChargeLeg& leg, Celsius ambient);

    /// Takes a limit away, to see what comes next.
    void lift(ChargeLimit limit) { m_lifted[static_cast<std::size_t>(limit)] = true; }

    /// Its source is this panel from here on; it outlives the limits.
    void onPanel(const PanelOn& panel) { m_panel = &panel; }

    /// The least of all limits with the pack at E and ohms. `recovering`: it still may be in
    /// recovery (once left, it is left for good).
    [[nodiscard]] ChargerPoint at(double openCircuit, double ohms, bool recovering) const;
    /// Each limit by itself at the same moment.
    [[nodiscard]] LimitCurrents ladder(double openCircuit, double ohms, bool recovering) const;

    [[nodiscard]] const ChargeSettings& settings() const { return m_set; }
    [[nodiscard]] const ConverterModel& converter() const { return m_converter; }

  private:
    struct Here {
        double e;
        double r;
    };
    struct Input {
        FeedPoint feed;
        double amps = 0;
    };
    [[nodiscard]] bool on(ChargeLimit limit) const {
        return !m_lifted[static_cast<std::size_t>(limit)];
    }
    [[nodiscard]] std::optional<Input> inputFor(double amps, double volts) const;
    [[nodiscard]] std::optional<Input> limitedInput(const NodePoint& node, double amps) const;
    [[nodiscard]] double lossOf(const Input& in, const NodePoint& node, double amps) const;
    /// V at the charger's own output, and where it senses them.
    [[nodiscard]] double outputVolts(const NodePoint& node, double amps) const {
        return node.volts + m_leg.volts(amps);
    }
    [[nodiscard]] double sensedVolts(const NodePoint& node, double amps) const {
        return node.volts + m_leg.inside(amps);
    }
    [[nodiscard]] double heldAtOutput(double most, Here here) const;
    [[nodiscard]] bool backsOff() const;
    [[nodiscard]] double simple(ChargeLimit limit, Here here) const;
    [[nodiscard]] double excess(ChargeLimit limit, double amps, Here here) const;
    [[nodiscard]] double sourceExcess(double amps, const NodePoint& node) const;
    [[nodiscard]] double most(ChargeLimit limit, double amps, Here here) const;

    ConverterModel m_converter;
    ChargeSettings m_set;
    const ChargerInput& m_feed;
    [[nodiscard]] ChargerPoint onCurve(Here here, bool recovering) const;
    [[nodiscard]] SunNode sunNode(NodeTakes& takes, Here here) const;

    const PanelOn* m_panel = nullptr;
    const BatteryNode& m_node;
    ChargeLeg m_leg;
    double m_ambient;
    std::array<bool, kChargeLimits> m_lifted{};
    mutable std::array<double, kChargeLimits> m_last{}; ///< where each bit last, to begin from
};

} // namespace sipper
