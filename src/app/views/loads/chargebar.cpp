// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/loads/chargebar.hpp"

#include "theme/theme.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

namespace sipper::app {

QColor modeColour(const Mode& mode) {
    return colour(mode.isWindowed() ? Role::accepts : mode.repeats() ? Role::copper : Role::muted);
}

ChargeBar::ChargeBar(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("chargeBar"));
    setFixedHeight(Theme::now().ipx(20));
    new Refresher(this, session, {&Session::projectChanged}, [this] { refresh(); });
    connect(&session, &Session::momentChanged, this, qOverload<>(&QWidget::update));
    refresh();
}

void ChargeBar::refresh() {
    m_parts.clear();
    const Project& p = m_session.project();
    const Budget& b = m_session.results().budget;
    QString all;
    for (std::size_t m = 0; m < b.modes.size() && m < p.modes.size(); ++m) {
        if (b.modes[m].shareOfCharge <= 0)
            continue;
        m_parts.append({m, b.modes[m].shareOfCharge,
                        tr("%1 %2 · %3")
                            .arg(qs(nameOf(p.modes[m])), qs(writeShare(b.modes[m].shareOfCharge)),
                                 quantity(b.modes[m].ahPerDay, Unit::ampereHour))});
        all += m_parts.back().text + QStringLiteral("; ");
    }
    setAccessibleName(tr("Where a day's charge goes: %1").arg(all));
    update();
}

/// As wide as the skyline's plot above it.
QRectF ChargeBar::bar() const {
    const Theme& t = Theme::now();
    return {t.px(56), 0, width() - t.px(64), static_cast<double>(height())};
}

const ChargeBar::Part* ChargeBar::at(double x) const {
    double left = bar().left();
    for (const Part& part : m_parts) {
        left += part.share * bar().width();
        if (x < left)
            return &part;
    }
    return nullptr;
}

void ChargeBar::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    const QRectF whole = bar();
    p.setFont(t.font(11));
    p.setPen(colour(Role::muted));
    p.drawText(QRectF(0, 0, whole.left() - t.px(6), height()), Qt::AlignRight | Qt::AlignVCenter,
               tr("charge"));
    double left = whole.left();
    for (const Part& part : m_parts) {
        const QRectF box(left, 0, part.share * whole.width(), height());
        left = box.right();
        const QColor base = modeColour(m_session.project().modes[part.mode]);
        QColor fill = base;
        fill.setAlphaF(part.mode == m_session.mode() ? 0.42F : 0.26F);
        p.fillRect(box.adjusted(0, 0, -1, 0), fill);
        p.fillRect(
            QRectF(box.left(), box.bottom() - t.px(2), std::max(0.0, box.width() - 1), t.px(2)),
            base);
        p.setPen(colour(Role::ink));
        // As much of the words as there is room for.
        for (const bool bold : {true, false}) {
            p.setFont(t.font(11, bold));
            const QString text = bold ? part.text : part.text.section(QStringLiteral(" · "), 0, 0);
            if (p.fontMetrics().horizontalAdvance(text) + t.px(10) < box.width()) {
                p.drawText(box.adjusted(t.px(5), 0, 0, -t.px(1)), Qt::AlignLeft | Qt::AlignVCenter,
                           text);
                break;
            }
        }
    }
}

void ChargeBar::mousePressEvent(QMouseEvent* event) {
    if (const Part* part = at(event->position().x()))
        m_session.setDisplayedPoint(m_session.charge(), part->mode);
}

bool ChargeBar::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        if (const Part* part = at(help->pos().x()))
            QToolTip::showText(help->globalPos(),
                               tr("%1 a day, of the charge that the cells give").arg(part->text),
                               this);
        return true;
    }
    return QWidget::event(event);
}

} // namespace sipper::app
