// SPDX-License-Identifier: GPL-3.0-or-later
// A solar panel's current over voltage, from its label.
#pragma once

#include <utility>

namespace sipper {

struct PanelLabel {
    double openCircuit;     ///< V at 25 °C and 1000 W/m2
    double shortCircuit;    ///< A
    double vmp;             ///< V
    double maxPowerCurrent; ///< A
    double perKelvin;       ///< V per K of the open-circuit voltage, negative
};

/// What stays of a label in any light: C1 and C2, and where the top of the curve lies. With
/// `u = V/(C2 Voc')` the curve is `I/Isc' = 1 - C1 (exp(u) - 1)`; its top is where
/// `(1 + u) exp(u) = (1 + C1)/C1`, so `u = W(e (1 + C1)/C1) - 1` with Lambert's W.
struct PanelShape {
    explicit PanelShape(const PanelLabel& label);

    PanelLabel label;
    double c1 = 0;
    double c2 = 0;
    double topBend = 0;  ///< u at the top
    double topShare = 0; ///< I/Isc' there
};

/// `I = Isc' (1 - C1 (exp(V/(C2 Voc')) - 1))` (docs/model.md: Sun), C1 and C2 of the label; Isc'
/// scales with light, `Voc' = Voc + beta (T - 25) + C2 Voc ln(G/1000)`. A negative current reads 0;
/// no light gives 0.
class PanelCurve {
  public:
    PanelCurve() = default;
    /// `light` in W/m2, cell temperature in degrees Celsius.
    PanelCurve(const PanelLabel& label, double light, double cellC);
    /// Several such panels, or a share of one: volts times `series`, amps times `parallel`.
    PanelCurve(const PanelShape& shape, double light, double cellC, double series, double parallel);

    [[nodiscard]] double amps(double volts) const;
    /// Volts at which it gives `amps`, from 0 to the short-circuit current.
    [[nodiscard]] double volts(double amps) const;
    /// dI/dV, negative.
    [[nodiscard]] double slope(double volts) const;
    /// Volts and watts of the curve's own top.
    [[nodiscard]] std::pair<double, double> mpp() const {
        return {m_topVolts, m_topVolts * m_topAmps};
    }
    [[nodiscard]] double mppAmps() const { return m_topAmps; }
    /// Voc' by the label's formula; the curve's own zero lies close by.
    [[nodiscard]] double openCircuit() const { return m_open; }
    [[nodiscard]] double shortCircuit() const { return m_short; }
    [[nodiscard]] bool lit() const { return m_short > 0 && m_open > 0; }

  private:
    double m_c1 = 0;
    double m_bend = 0; ///< C2 Voc'
    double m_open = 0;
    double m_short = 0;
    double m_topVolts = 0;
    double m_topAmps = 0;
};

} // namespace sipper
