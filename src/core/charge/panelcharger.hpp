// SPDX-License-Identifier: GPL-3.0-or-later
// A charger on a panel at one moment: what it asks for, and where on the panel's curve it stands.
#pragma once

#include "base/outcome.hpp"
#include "charge/converter.hpp"
#include "charge/panelpath.hpp"
#include "line/chargeleg.hpp"

#include <string_view>

namespace sipper {

/// What decides a charger's output on a panel.
enum class SunLimit {
    night, ///< no light at all
    source,
    inputLimit,
    outputLimit,
    powerLimit,
    heat,
    cc,
    cv,
    cell,
    recovery,
    full,
    cold,
    hot
};
[[nodiscard]] std::string_view sunLimitName(SunLimit limit);

/// What hangs on a pack's node.
class NodeTakes {
  public:
    NodeTakes() = default;
    NodeTakes(const NodeTakes&) = default;
    NodeTakes& operator=(const NodeTakes&) = default;
    virtual ~NodeTakes() = default;
    /// A out of the node while `push` volts stand behind the pack's `ohms`.
    virtual double takenAt(double push, double ohms) = 0;
};

/// The pack's node while a current is pushed into it.
struct SunNode {
    double e = 0;              ///< V of the pack at rest, as it stands
    double r = 0;              ///< ohms of the whole pack
    NodeTakes* line = nullptr; ///< what hangs on it; null: everything is off
    /// A that the line takes while x is pushed in.
    [[nodiscard]] double taken(double x) const { return line ? line->takenAt(e + x * r, r) : 0; }
    [[nodiscard]] double volts(double x) const { return e + (x - taken(x)) * r; }
    ChargeLeg leg; ///< from the charger to here
    /// At the charger's own output.
    [[nodiscard]] double output(double x) const { return volts(x) + leg.volts(x); }
};

struct ChargerDemand {
    double amps = 0;
    SunLimit limit = SunLimit::cc;
};

/// Where the charger stands.
struct PanelPoint {
    double amps = 0; ///< x, out of the charger
    double panelVolts = 0;
    double panelAmps = 0;
    double inputVolts = 0;
    SunLimit limit = SunLimit::night;
};

/// The rules of docs/model.md: Sun: panel, feed, charger.
class PanelCharger {
  public:
    /// `cellAmps`: what the whole pack takes; 0: nothing is said.
    PanelCharger(const Charger& charger, const PanelPath& way, double cellAmps);

    [[nodiscard]] const PanelPath& way() const { return m_way; }
    [[nodiscard]] double holdsVolts() const { return m_volts; } ///< charge_v; 0: none
    [[nodiscard]] double own() const { return m_own; }          ///< A of its own draw
    [[nodiscard]] double dark() const { return m_dark; }        ///< A from the node while it rests
    [[nodiscard]] double efficiency() const { return m_efficiency; }
    [[nodiscard]] const ConverterModel& converter() const { return m_model; }

    /// What it asks for (`recovering`: it still may be in recovery), but for the set voltage (the
    /// run holds that over its steps) and a full pack.
    [[nodiscard]] ChargerDemand asks(const SunNode& node, bool recovering = true) const;
    /// Where it stands under this light, asked for so much.
    [[nodiscard]] PanelPoint stand(const PanelCurve& curve, double air, const SunNode& node,
                                   const ChargerDemand& asked) const;
    /// What it gives into fixed volts with the panel at its top: for the set current.
    [[nodiscard]] double givesAtTop(const PanelCurve& curve, double volts) const;

  private:
    struct Point {
        double volts = 0; ///< at the panel
        double amps = 0;
        double input = 0; ///< V at the charger
    };
    [[nodiscard]] Point atAmps(const PanelCurve& curve, double amps) const;
    [[nodiscard]] Point atVolts(const PanelCurve& curve, double volts) const;
    [[nodiscard]] bool straight() const {
        return m_model.topology == Topology::linear || m_model.topology == Topology::direct;
    }
    [[nodiscard]] double gives(const Point& p, const SunNode& node) const;
    [[nodiscard]] double needsInput(double x, double volts) const;
    [[nodiscard]] double ampsAtHold(const PanelCurve& curve) const;
    struct Found {
        Point point;
        double x = 0;
        SunLimit limit = SunLimit::source;
        bool none = false;
    };
    [[nodiscard]] Found straightStand(const PanelCurve& curve, const SunNode& node,
                                      const ChargerDemand& asked) const;
    [[nodiscard]] Found converterStand(const PanelCurve& curve, const SunNode& node,
                                       const ChargerDemand& asked) const;
    [[nodiscard]] std::optional<Found> askMet(const PanelCurve& curve, const SunNode& node,
                                              const ChargerDemand& asked, double most) const;
    [[nodiscard]] Found lowered(const PanelCurve& curve, const SunNode& node, double from) const;
    void cool(const PanelCurve& curve, const SunNode& node, double air, Found& found) const;
    [[nodiscard]] PanelPoint resting(const PanelCurve& curve, SunLimit limit) const;

    PanelPath m_way;
    ConverterModel m_model;
    bool m_tracking;
    double m_own;
    double m_dark;
    double m_current;
    double m_volts;
    double m_cellAmps;
    double m_outputLimit;
    double m_powerLimit;
    double m_inputLimit;
    double m_hold;
    double m_inputMin;
    double m_startMin;
    double m_recoveryBelow;
    double m_recoveryCurrent;
    double m_foldBack;
    double m_efficiency;
};

} // namespace sipper
