// SPDX-License-Identifier: GPL-3.0-or-later
// One way to charge, as a row that can be taken.
#include "views/charging/choicescard.hpp"

#include "charge/text.hpp"
#include "quantity/read.hpp"
#include "views/charging/limitcolour.hpp"
#include "widgets/panel.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QPainter>

namespace sipper::app {
namespace {

constexpr double kFigure = 84;

} // namespace

ChoiceRow::ChoiceRow(Look look, double scale, QWidget* parent)
    : QAbstractButton(parent), m_look(std::move(look)), m_scale(scale) {
    setFocusPolicy(m_look.yours ? Qt::NoFocus : Qt::StrongFocus);
    setEnabled(true);
    setCursor(m_look.yours ? Qt::ArrowCursor : Qt::PointingHandCursor);
    const QString says =
        QStringLiteral("%1: %2, %3")
            .arg(m_look.name, m_look.hours ? hours(*m_look.hours) : m_look.figure, m_look.note);
    setAccessibleName(says);
    setToolTip(m_look.yours ? says
               : m_look.hint.isEmpty()
                   ? ChoicesCard::tr("%1. Click to open it as another variant.").arg(says)
                   : says + QStringLiteral(". ") + m_look.hint);
}

QSize ChoiceRow::sizeHint() const {
    const Theme& t = Theme::now();
    return {t.ipx(m_look.nameWidth + 160), t.ipx(m_look.note.isEmpty() ? 24 : 34)};
}

void ChoiceRow::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    if (hasFocus() || underMouse()) {
        p.setPen(hasFocus() ? QPen(colour(Role::copper), 1) : Qt::NoPen);
        p.setBrush(colour(Role::button));
        p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
    }
    const double name = t.px(m_look.nameWidth);
    p.setFont(t.font(12, m_look.yours));
    p.setPen(colour(Role::ink));
    p.drawText(QRectF(t.px(4), t.px(1), name - t.px(8), t.px(17)), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(m_look.name, Qt::ElideRight, qRound(name - t.px(8))));
    p.setFont(t.font(11));
    p.setPen(colour(m_look.trouble ? Role::stop : Role::muted));
    p.drawText(QRectF(t.px(4), t.px(17), width() - t.px(8), t.px(15)),
               Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(m_look.note, Qt::ElideRight, width() - t.ipx(8)));
    const double room = width() - name - t.px(kFigure);
    QRectF bar(name, t.px(4), 0, t.px(12));
    if (m_look.hours && m_scale > 0) {
        bar.setWidth(std::max(t.px(2), room * *m_look.hours / m_scale));
        QColor fill = colour(Role::charging);
        if (!m_look.yours)
            fill.setAlphaF(0.28F);
        p.setPen(Qt::NoPen);
        p.setBrush(fill);
        p.drawRoundedRect(bar, t.px(2), t.px(2));
    } else if (m_look.trouble) {
        bar.setWidth(t.px(44));
        p.setPen(Qt::NoPen);
        p.setBrush(hatchBrush());
        p.drawRect(bar);
    }
    p.setFont(t.font(12, true));
    p.setPen(colour(Role::ink));
    p.drawText(QRectF(bar.right() + t.px(6), t.px(1), t.px(kFigure + 30), t.px(17)),
               Qt::AlignLeft | Qt::AlignVCenter,
               m_look.hours ? hours(*m_look.hours) : m_look.figure);
}

} // namespace sipper::app
