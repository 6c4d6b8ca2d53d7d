// SPDX-License-Identifier: GPL-3.0-or-later
// A guard's thresholds on the cells' own curve, resting and working, to be dragged.
#pragma once

#include "protect/rebound.hpp"
#include "theme/theme.hpp"

#include <QList>
#include <array>
#include <optional>
#include <qcustomplot.h>

namespace sipper::app {

class ThresholdPlot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit ThresholdPlot(QWidget* parent = nullptr);

    /// What the plot stands on: `guard` null where there is none, then `curve` is the pack's.
    struct Shown {
        const GuardAnalysis* guard = nullptr;
        const std::vector<GuardPoint>* curve = nullptr;
        std::array<double, 3> policies{}; ///< V of the pack: squeeze, balanced, gentle; 0: none
        double full = 0;                  ///< V
        double floor = 0;                 ///< V; 0 where nothing is ruined
        QString mode;                     ///< name of the mode that is held
    };
    void show(const Shown& shown);

  signals:
    /// A threshold is being moved to so many volts.
    void moved(bool reconnect, double volts);
    void released();

  protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

  private:
    enum class Line { off, on };
    struct Threshold {
        QCPItemStraightLine* line;
        QCPItemTracer* grip;
        QCPItemText* text;
    };
    Threshold threshold(Role role);
    void showThresholds();
    void placeWords(QCPItemText& text, double volts, bool above);
    void showPolicies(const Shown& shown);
    void move(Line line, double volts);
    [[nodiscard]] std::optional<Line> lineAt(const QPoint& at) const;

    QCPGraph* m_rest;
    QCPGraph* m_working;
    QCPItemText* m_restText;
    QCPItemText* m_workingText;
    Threshold m_off;
    Threshold m_on;
    QCPItemTracer* m_crossing;
    QList<QCPItemRect*> m_bands;
    QList<QCPItemText*> m_bandTexts;
    bool m_guarded = false;
    double m_cutoff = 0;
    double m_reconnect = 0;
    Line m_chosen = Line::off;
    std::optional<Line> m_dragged;
};

} // namespace sipper::app
