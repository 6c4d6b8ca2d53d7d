// SPDX-License-Identifier: GPL-3.0-or-later
// The chart of the card of currents.
#pragma once

#include "protect/currents.hpp"
#include "theme/theme.hpp"

#include <qcustomplot.h>

namespace sipper::app {

class CurrentsPlot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit CurrentsPlot(QWidget* parent = nullptr);

    void show(const std::vector<WireSegment>& stretches, std::size_t chosen);

  signals:
    void chosen(std::size_t row);

  protected:
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    void addRow(std::size_t row, const WireSegment& stretch);
    void rule(double amps, double row, double half, Role role, double width);
    void build();

    std::vector<WireSegment> m_segments;
    std::size_t m_chosen = 0;
};

} // namespace sipper::app
