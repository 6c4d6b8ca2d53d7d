// SPDX-License-Identifier: GPL-3.0-or-later
// The panel's curve at one moment: its knee, where the charger puts it, and the label's own curve.
#pragma once

#include "solar/look.hpp"
#include "theme/theme.hpp"

#include <qcustomplot.h>

namespace sipper::app {

class SunKneePlot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit SunKneePlot(QWidget* parent = nullptr);
    void show(const MppSnapshot& knee);
    /// What stands at the charger's point: `asks 500 mA, sits here: 515 mW`.
    [[nodiscard]] QString standText() const { return m_standText->text(); }

  private:
    QCPItemTracer* dot(Role role, bool filled);
    void put(QCPItemText& item, double volts, double amps, Qt::Alignment side);

    QCPGraph* m_now;
    QCPGraph* m_label;
    QCPItemTracer* m_top;
    QCPItemTracer* m_stand;
    QCPItemStraightLine* m_set;
    QCPItemText* m_nowText;
    QCPItemText* m_labelText;
    QCPItemText* m_topText;
    QCPItemText* m_standText;
    QCPItemText* m_setText;
};

} // namespace sipper::app
