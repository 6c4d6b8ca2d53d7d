// SPDX-License-Identifier: GPL-3.0-or-later
// The discharge curve with its band, its end, the target, and runs beside it.
#pragma once

#include "session/session.hpp"

#include "runtime/whatif.hpp"

#include <QList>
#include <qcustomplot.h>

namespace sipper::app {

class DischargePlot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit DischargePlot(QWidget* parent);

    /// The run of the project, on to what stops the pack, with band and target.
    void show(const Session& session);
    /// The run at another air and age, and at five temperatures; nothing takes them away.
    void showBeside(const WhatIf* other);

  private:
    void makeGraphs();
    void makeItems();
    void showBand(const Session& session);
    void frame(const Results& results, double target);
    void showEnd(const Project& project, const Runtime& run);
    void showTarget(double target);
    [[nodiscard]] double room() const; ///< px of the plot's width inside its axes

    QCPItemStraightLine* m_end;
    QCPItemText* m_endText;
    QCPItemStraightLine* m_target;
    QCPItemText* m_targetText;
    QCPGraph* m_bandLow;  ///< what one build in ten stays under
    QCPGraph* m_bandHigh; ///< what nine in ten stay under
    QCPItemText* m_bandText;
    QCPGraph* m_tail;
    QCPGraph* m_run;
    QCPGraph* m_other;           ///< at another air and age
    QList<QCPGraph*> m_fiveRuns; ///< at five temperatures
    QList<QCPItemText*> m_fiveTexts;
    double m_span = 1; ///< hours across
};

} // namespace sipper::app
