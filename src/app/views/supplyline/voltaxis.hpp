// SPDX-License-Identifier: GPL-3.0-or-later
// The logarithmic axis of volts that the supply line stands on.
#pragma once

#include <vector>

namespace sipper::app {

/// Voltage up on a logarithmic axis.
class VoltAxis {
  public:
    VoltAxis() = default;
    VoltAxis(double low, double high, double top, double bottom);
    [[nodiscard]] double y(double volts) const;
    [[nodiscard]] double volts(double y) const;
    /// Familiar voltages inside the axis that stand at least `gap` pixels apart.
    [[nodiscard]] std::vector<double> ticks(double gap) const;
    [[nodiscard]] double low() const { return m_low; }
    [[nodiscard]] double high() const { return m_high; }

  private:
    double m_low = 1;
    double m_high = 10;
    double m_top = 0;
    double m_bottom = 100;
};

} // namespace sipper::app
