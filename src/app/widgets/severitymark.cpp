// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/severitymark.hpp"

#include <array>

#include "theme/theme.hpp"

#include <QPainterPath>

namespace sipper::app {

void drawSeverity(QPainter& painter, const QRectF& box, Severity severity) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    switch (severity) {
    case Severity::stop:
        painter.setBrush(colour(Role::stop));
        painter.drawRect(box);
        break;
    case Severity::care: {
        painter.setBrush(colour(Role::weigh));
        QPainterPath path(QPointF(box.center().x(), box.top()));
        path.lineTo(box.bottomRight());
        path.lineTo(box.bottomLeft());
        path.closeSubpath();
        painter.drawPath(path);
        break;
    }
    case Severity::note:
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(colour(Role::fine), box.width() / 5));
        painter.drawEllipse(box.adjusted(1, 1, -1, -1));
        break;
    }
    painter.restore();
}

SeverityMark::SeverityMark(Severity severity, QWidget* parent)
    : QWidget(parent), m_severity(severity) {
    const int side = Theme::now().ipx(12);
    setFixedSize(side, side);
    static constexpr std::array<const char*, 3> names{"mend before you build", "weigh",
                                                      "fine to know"};
    setAccessibleName(QString::fromLatin1(names[static_cast<std::size_t>(severity)]));
    setToolTip(accessibleName());
}

void SeverityMark::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    drawSeverity(painter, QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), m_severity);
}

} // namespace sipper::app
