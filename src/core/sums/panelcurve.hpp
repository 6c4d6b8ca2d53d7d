// A solar panel's current over voltage, from its label.
#pragma once

#include <utility>

namespace sipper {

struct PanelLabel {
    double openCircuit;     ///< V at 25 °C and 1000 W/m2
    double shortCircuit;    ///< A
    double maxPower;        ///< V
    double maxPowerCurrent; ///< A
    double perKelvin;       ///< V per K of the open-circuit voltage, negative
};

/// `I = Isc' (1 - C1 (exp(V/(C2 Voc')) - 1))` (design: sun), C1 and C2 of the label; Isc' scales
/// with light, `Voc' = Voc + beta (T - 25) + C2 Voc ln(G/1000)`. A negative current reads 0; no
/// light gives 0.
class PanelCurve {
  public:
    /// `light` in W/m2, cell temperature in degrees Celsius.
    PanelCurve(const PanelLabel& label, double light, double cellC);

    [[nodiscard]] double amps(double volts) const;
    /// Volts and watts of the curve's own top.
    [[nodiscard]] std::pair<double, double> top() const;
    [[nodiscard]] double openCircuit() const { return m_open; }
    [[nodiscard]] double shortCircuit() const { return m_short; }

  private:
    double m_c1;
    double m_c2;
    double m_open;
    double m_short;
};

} // namespace sipper
