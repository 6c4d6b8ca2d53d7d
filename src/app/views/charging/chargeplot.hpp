// SPDX-License-Identifier: GPL-3.0-or-later
// The charge over time: volts at the pack, amps into it and the charge itself; under them the
// ribbon of what holds it back, and a marker that moves along both.
#pragma once

#include "charge/charge.hpp"
#include "theme/theme.hpp"

#include <qcustomplot.h>

namespace sipper::app {

class ChargePlot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit ChargePlot(QWidget* parent = nullptr);

    void show(const Project& project, const ChargeRun& charge);
    void clearCharge();
    [[nodiscard]] double marker() const { return m_marker; }
    void setMarker(double hours);

  signals:
    void markerMoved(double hours);

  protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    void makeAxes();
    void makeGraphs();
    void makeItems();
    void fillGraphs(const ChargeRun& charge);
    void frame(const ChargeRun& charge);
    void showMarks(const ChargeRun& charge);
    void showRibbon(const Project& project, const ChargeRun& charge);
    void nameGraphs();
    void nameGraph(QCPItemText* name, QCPGraph* graph, QList<QRectF>& taken);
    [[nodiscard]] double pixelAt(QCPGraph* graph, double hours) const;
    void placeMarker();
    void showScales(bool any);

    QCPAxisRect* m_ribbon;
    QCPAxis* m_amps;
    QCPAxis* m_share;
    QCPGraph* m_voltsGraph;
    QCPGraph* m_ampsGraph;
    QCPGraph* m_chargeGraph;
    QCPItemStraightLine* m_mostly; ///< 80 %
    QCPItemText* m_mostlyText;
    QCPItemStraightLine* m_full;
    QCPItemText* m_fullText;
    QCPItemStraightLine* m_line;
    QCPItemLine* m_lineBelow;
    QCPItemText* m_voltsName;
    QCPItemText* m_ampsName;
    QCPItemText* m_chargeName;
    QCPItemText* m_heldName;
    QCPItemText* m_none; ///< where there is no charge to show
    QList<QCPAbstractItem*> m_segments;
    double m_span = 1;
    double m_marker = 0;
};

} // namespace sipper::app
