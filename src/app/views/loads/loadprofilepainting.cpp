// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/loads/loadprofileplot.hpp"

#include "theme/theme.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <QPainter>
#include <cmath>

namespace sipper::app {
void LoadProfilePlot::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    p.setFont(t.font(11));
    paintDecades(p);
    paintHours(p);
    if (m_blocks.isEmpty()) {
        p.setFont(t.font(12));
        p.drawText(plot(), Qt::AlignCenter, tr("Nothing draws yet."));
        return;
    }
    paintBlocks(p);
    p.setFont(t.font(11, true));
    paintNames(p);
}

void LoadProfilePlot::paintDecades(QPainter& p) const {
    const Theme& t = Theme::now();
    const QRectF box = plot();
    for (double a = m_low; a <= m_high * 1.001; a *= 10) {
        const double at = std::round(y(a)) + 0.5;
        p.setPen(QPen(colour(Role::hairline), 1));
        p.drawLine(QPointF(box.left(), at), QPointF(box.right(), at));
        p.setPen(colour(Role::muted));
        if (!m_day && std::lround(std::log10(a / m_low)) % 2 == 1)
            continue;
        p.drawText(QRectF(0, at - t.px(9), box.left() - t.px(6), t.px(18)),
                   Qt::AlignRight | Qt::AlignVCenter, plainDecade(a));
    }
}

void LoadProfilePlot::paintHours(QPainter& p) const {
    const Theme& t = Theme::now();
    const QRectF box = plot();
    p.setPen(colour(Role::muted));
    // The first label starts at the axis, clear of the lowest current; the last one ends at it.
    const auto tick = [&](double share, const QString& text) {
        const double wide = t.px(80);
        const bool first = share < 0.02;
        const bool last = share > 0.98;
        p.drawText(QRectF(first  ? x(0)
                          : last ? x(1) - wide
                                 : x(share) - wide / 2,
                          box.bottom() + t.px(3), wide, t.px(16)),
                   (first  ? Qt::AlignLeft
                    : last ? Qt::AlignRight
                           : Qt::AlignHCenter) |
                       Qt::AlignVCenter,
                   text);
    };
    if (m_day) {
        for (int hour = 0; hour <= 24; hour += 3)
            tick(hour / 24.0, QStringLiteral("%1:00").arg(hour, 2, 10, QLatin1Char('0')));
    } else {
        const double step = niceSeconds(m_cycle, 8);
        for (double at = 0; at <= m_cycle * 1.0001; at += step)
            tick(at / m_cycle, tickText(at, step));
    }
}

void LoadProfilePlot::paintBlocks(QPainter& p) const {
    const Theme& t = Theme::now();
    const Budget& budget = m_session.results().budget;
    for (const Block& b : m_blocks) {
        QColor fill = colourOf(b.mode);
        const Mode& mode = m_session.project().modes[b.mode];
        fill.setAlphaF(mode.isBase() ? 0.28F : b.dense ? 0.22F : 0.5F);
        p.fillRect(b.box, fill);
        p.setPen(QPen(colourOf(b.mode), b.mode == m_session.mode() ? t.px(2.4) : t.px(1.2)));
        if (b.box.width() > 4)
            p.drawLine(b.box.topLeft(), b.box.topRight());
        if (!m_day && budget.modes[b.mode].burstAmps > budget.modes[b.mode].packAmps * 1.01) {
            const double middle = b.box.center().x();
            p.fillRect(QRectF(QPointF(middle - 1, y(budget.modes[b.mode].burstAmps)),
                              QPointF(middle + 1, b.box.bottom())),
                       colour(Role::stop));
        }
    }
}

/// One label a mode, over its widest block, clear of the others.
void LoadProfilePlot::paintNames(QPainter& p) const {
    const Theme& t = Theme::now();
    const QRectF box = plot();
    const Budget& budget = m_session.results().budget;
    QList<QRectF> taken;
    for (std::size_t m = 0; m < m_session.project().modes.size(); ++m) {
        const Block* widest = nullptr;
        for (const Block& b : m_blocks)
            if (b.mode == m && (!widest || b.box.width() > widest->box.width()))
                widest = &b;
        if (!widest)
            continue;
        const QString text =
            QStringLiteral("%1 · %2").arg(modeText(m_session.project().modes[m]),
                                          quantity(budget.modes[m].packAmps, Unit::ampere));
        const double wide = p.fontMetrics().horizontalAdvance(text) + 4;
        QRectF label(std::clamp(widest->box.center().x() - wide / 2, box.left(),
                                std::max(box.left(), box.right() - wide)),
                     widest->box.top() - t.px(16), wide, t.px(15));
        for (int tries = 0; tries < 8; ++tries) {
            const bool clash = std::any_of(taken.begin(), taken.end(), [&](const QRectF& other) {
                return other.intersects(label);
            });
            if (!clash)
                break;
            label.translate(0, t.px(15));
        }
        label.moveTop(std::clamp(label.top(), 0.0, box.bottom() - label.height()));
        taken << label;
        QColor ground = colour(Role::paper);
        ground.setAlphaF(0.75F);
        p.fillRect(label, ground);
        p.setPen(colourOf(m));
        p.drawText(label, Qt::AlignCenter, text);
    }
}

} // namespace sipper::app
