// SPDX-License-Identifier: GPL-3.0-or-later
// The measured current over time, with the levels lying on it.
#pragma once

#include "session/session.hpp"

#include <QWidget>

class QCPGraph;
class QCPItemStraightLine;
class QCustomPlot;

namespace sipper::app {

/// The colour of a level, from the lowest up.
[[nodiscard]] QColor levelColour(std::size_t index);

/// Which mode the cut sees when: a strip under the curve.
class StayRibbon : public QWidget {
    Q_OBJECT
  public:
    StayRibbon(TraceWork& work, QCustomPlot& plot, QWidget* parent);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    TraceWork& m_work;
    QCustomPlot& m_plot;
};

/// Log current over time. A level's line is dragged; elsewhere a drag zooms and a double click goes
/// back. However many rows, a picture column costs two points.
class TracePlot : public QWidget {
    Q_OBJECT
  public:
    TracePlot(TraceWork& work, QWidget* parent = nullptr);

    /// Pixels from the top of this widget to a current, and back.
    [[nodiscard]] double yOf(double amps) const;
    [[nodiscard]] double ampsAt(double y) const;
    [[nodiscard]] double plotTop() const;
    [[nodiscard]] double plotBottom() const;
    [[nodiscard]] QCustomPlot& plot() { return *m_plot; }

  signals:
    void arranged(); ///< the axes lie elsewhere

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    void showTrace();
    void showLevels();
    void fill();
    [[nodiscard]] int levelNear(double y) const;

    TraceWork& m_work;
    QCustomPlot* m_plot;
    QCPGraph* m_graph;
    StayRibbon* m_ribbon;
    QList<QCPItemStraightLine*> m_lines;
    const Trace* m_shown = nullptr;
    int m_dragged = -1;
    int m_filledWidth = 0; ///< pixel columns that the points were made for
};

} // namespace sipper::app
