// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/find/rejectreasonbars.hpp"

#include "theme/theme.hpp"
#include "widgets/text.hpp"

#include <QKeyEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kRowTall = 33; ///< px of a reason

} // namespace

RejectReasonBars::RejectReasonBars(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("find.fell"));
    setAccessibleName(tr("Why the others fell out"));
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
}

void RejectReasonBars::show(const SearchCounts& counts) {
    m_counts = counts;
    m_order.clear();
    for (std::size_t k = 0; k < kRejectReasons; ++k)
        if (counts.rejected[k] > 0)
            m_order.push_back(static_cast<RejectReason>(k));
    std::stable_sort(m_order.begin(), m_order.end(), [&](RejectReason a, RejectReason b) {
        return counts.rejected[static_cast<std::size_t>(a)] >
               counts.rejected[static_cast<std::size_t>(b)];
    });
    if (m_row >= static_cast<int>(m_order.size()))
        m_row = -1;
    QStringList words;
    for (const RejectReason fell : m_order)
        words << tr("%1: %2").arg(qs(rejectReasonText(fell)),
                                  countText(counts.rejected[static_cast<std::size_t>(fell)]));
    setAccessibleDescription(words.join(QStringLiteral(", ")));
    setMinimumHeight(sizeHint().height());
    update();
}

QSize RejectReasonBars::sizeHint() const {
    return {Theme::now().ipx(180),
            Theme::now().ipx(kRowTall * std::max<double>(1, double(m_order.size())))};
}

void RejectReasonBars::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    double most = 1;
    for (const RejectReason fell : m_order)
        most = std::max(most, double(m_counts.rejected[static_cast<std::size_t>(fell)]));
    for (std::size_t i = 0; i < m_order.size(); ++i) {
        const double top = static_cast<double>(i) * t.px(kRowTall);
        const bool chosen = static_cast<int>(i) == m_row;
        const auto count = m_counts.rejected[static_cast<std::size_t>(m_order[i])];
        const QString figure = countText(count);
        if (chosen)
            p.fillRect(QRectF(0, top, width(), t.px(kRowTall - 3)), onCard(Role::copper, 0.14));
        const QFont bold = t.font(12, true);
        const double wide = QFontMetricsF(bold).horizontalAdvance(figure);
        p.setFont(bold);
        p.setPen(colour(Role::ink));
        p.drawText(QRectF(0, top, width() - t.px(4), t.px(18)), Qt::AlignRight | Qt::AlignVCenter,
                   figure);
        const QFont plain = t.font(12, chosen);
        p.setFont(plain);
        const double room = width() - wide - t.px(16);
        p.drawText(QRectF(t.px(4), top, room, t.px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                   QFontMetricsF(plain).elidedText(qs(rejectReasonText(m_order[i])), Qt::ElideRight,
                                                   room));
        // By the logarithm: a reason of a thousand is seen beside one of a million.
        const double share = std::log1p(double(count)) / std::log1p(most);
        p.setPen(Qt::NoPen);
        p.setBrush(onCard(m_order[i] == RejectReason::dominated ? Role::muted : Role::stop, 0.4));
        p.drawRoundedRect(QRectF(t.px(4), top + t.px(20), (width() - t.px(8)) * share, t.px(6)),
                          t.px(3), t.px(3));
    }
}

void RejectReasonBars::choose(int row) {
    if (row < 0 || row >= static_cast<int>(m_order.size()))
        return;
    m_row = row;
    update();
    emit chosen(m_order[static_cast<std::size_t>(row)]);
}

void RejectReasonBars::mousePressEvent(QMouseEvent* event) {
    choose(static_cast<int>(event->position().y() / Theme::now().px(kRowTall)));
}

void RejectReasonBars::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Down)
        choose(std::min(m_row + 1, static_cast<int>(m_order.size()) - 1));
    else if (event->key() == Qt::Key_Up)
        choose(std::max(m_row - 1, 0));
    else
        QWidget::keyPressEvent(event);
}

} // namespace sipper::app
