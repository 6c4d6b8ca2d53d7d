// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/plaincombo.hpp"

#include "theme/theme.hpp"

#include <QPainter>
#include <QWheelEvent>

namespace sipper::app {

void PlainCombo::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    p.setPen(QPen(colour(hasFocus() ? Role::copper : Role::hairline), 1));
    p.setBrush(colour(Role::field));
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    p.setPen(colour(isEnabled() ? Role::ink : Role::muted));
    const QRectF text = QRectF(rect()).adjusted(t.px(8), 0, -t.px(18), 0);
    p.setFont(font());
    p.drawText(
        text, Qt::AlignLeft | Qt::AlignVCenter,
        fontMetrics().elidedText(currentText(), Qt::ElideRight, static_cast<int>(text.width())));
    const QPointF tip(width() - t.px(11), height() / 2.0 + t.px(2));
    p.setPen(Qt::NoPen);
    p.setBrush(colour(Role::muted));
    p.drawPolygon(
        QPolygonF{tip, tip + QPointF(-t.px(4), -t.px(4.5)), tip + QPointF(t.px(4), -t.px(4.5))});
}

void PlainCombo::wheelEvent(QWheelEvent* event) {
    if (hasFocus())
        QComboBox::wheelEvent(event);
    else
        event->ignore();
}

} // namespace sipper::app
