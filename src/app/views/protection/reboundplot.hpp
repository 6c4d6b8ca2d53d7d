// SPDX-License-Identifier: GPL-3.0-or-later
// What the cells come back to after a cut, on a log axis of time, with a marker that walks it.
#pragma once

#include "protect/rebound.hpp"
#include "theme/theme.hpp"

#include <QTimer>
#include <qcustomplot.h>

namespace sipper::app {

class ReboundPlot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit ReboundPlot(QWidget* parent = nullptr);

    /// Null: nothing is shown.
    void show(const GuardAnalysis* guard);
    [[nodiscard]] bool playing() const { return m_timer.isActive(); }
    /// The walk from the cut through climb, reconnect and the next cut, over and over.
    void play(bool on);
    /// Where the marker stands on the walk, 0 to 1; for tests.
    void setWalk(double share);

  signals:
    void playingChanged(bool on);

  private:
    QCPItemStraightLine* level(Role role, Qt::PenStyle style);
    void tickTimes(double from, double to);
    void frame(const GuardAnalysis& guard);
    void step();

    QCPGraph* m_climb;
    QCPGraph* m_on;
    QCPItemStraightLine* m_off;
    QCPItemStraightLine* m_reconnect;
    QCPItemStraightLine* m_settles;
    QCPItemText* m_offText;
    QCPItemText* m_reconnectText;
    QCPItemText* m_settlesText;
    QCPItemTracer* m_marker;
    QCPItemText* m_says;
    std::vector<std::pair<ReboundPoint, bool>> m_walk; ///< with: is the guard closed
    QTimer m_timer;
    double m_share = 0;
    double m_turnVolts = 0; ///< where it is on again, or settles
};

} // namespace sipper::app
