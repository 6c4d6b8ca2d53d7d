// SPDX-License-Identifier: GPL-3.0-or-later
// The shape of a severity: square stop, triangle weigh, ring fine.
#pragma once

#include "advice/finding.hpp"

#include <QPainter>
#include <QWidget>

namespace sipper::app {

/// Draws the shape of `severity` (a ring for note) into `box`. Nothing at all: `fine` gives the
/// ring too.
void drawSeverity(QPainter& painter, const QRectF& box, Severity severity);

class SeverityMark : public QWidget {
    Q_OBJECT
  public:
    explicit SeverityMark(Severity severity, QWidget* parent = nullptr);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    Severity m_severity;
};

} // namespace sipper::app
