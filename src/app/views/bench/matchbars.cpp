// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/matchbars.hpp"

#include "theme/theme.hpp"
#include "widgets/text.hpp"

#include <QPainter>
#include <algorithm>

namespace sipper::app {
namespace {

constexpr double kBarTall = 26; ///< px of a group
constexpr double kBarGap = 8;

} // namespace

MatchBars::MatchBars(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("cells.bars"));
    setAccessibleName(tr("Groups of cells"));
}

void MatchBars::show(const std::vector<OwnedCell>& cells, const std::optional<CellMatch>& match) {
    m_groups.clear();
    m_weakest = -1;
    QStringList words;
    if (match) {
        m_weakest = static_cast<int>(match->weakest);
        for (std::size_t g = 0; g < match->groups.size(); ++g) {
            Group group;
            group.ah = match->ah[g];
            group.figure = quantity(match->ah[g], Unit::ampereHour);
            if (match->ohms[g] > 0)
                group.figure += QStringLiteral(" · ") + quantity(match->ohms[g], Unit::ohm);
            QStringList names;
            for (const std::size_t i : match->groups[g]) {
                group.cells.emplace_back(qs(cells[i].id), *cells[i].ah);
                names << qs(cells[i].id);
            }
            words << tr("group %1: %2, %3").arg(g + 1).arg(names.join(' '), group.figure);
            m_groups.push_back(std::move(group));
        }
    }
    setAccessibleDescription(words.join(QStringLiteral("; ")));
    setMinimumHeight(Theme::now().ipx((kBarTall + kBarGap) * double(m_groups.size())));
    update();
}

void MatchBars::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    double most = 0;
    double mean = 0;
    for (const Group& g : m_groups) {
        most = std::max(most, g.ah);
        mean += g.ah / static_cast<double>(m_groups.size());
    }
    const QFont bold = t.font(12, true);
    double figure = 0;
    for (const Group& g : m_groups)
        figure = std::max(figure, QFontMetricsF(bold).horizontalAdvance(g.figure));
    const double left = t.px(22);
    const double wide = width() - left - figure - t.px(14);
    if (m_groups.empty() || wide <= 0)
        return;
    const auto x = [&](double ah) { return left + wide * ah / most; };
    for (std::size_t i = 0; i < m_groups.size(); ++i) {
        const Group& g = m_groups[i];
        const double top = static_cast<double>(i) * t.px(kBarTall + kBarGap);
        const bool weakest = static_cast<int>(i) == m_weakest && m_groups.size() > 1;
        p.setPen(colour(Role::muted));
        p.setFont(t.font(11.5));
        p.drawText(QRectF(0, top, left, t.px(kBarTall)), Qt::AlignVCenter | Qt::AlignLeft,
                   QString::number(i + 1));
        double at = 0;
        const QFont small = t.font(11);
        for (const auto& [name, ah] : g.cells) {
            const QRectF box(x(at) + t.px(1), top, x(at + ah) - x(at) - t.px(2), t.px(kBarTall));
            p.setPen(Qt::NoPen);
            p.setBrush(onCard(weakest ? Role::weigh : Role::copper, weakest ? 0.45 : 0.28));
            p.drawRoundedRect(box, t.px(3), t.px(3));
            if (QFontMetricsF(small).horizontalAdvance(name) < box.width() - t.px(4)) {
                p.setPen(colour(Role::ink));
                p.setFont(small);
                p.drawText(box, Qt::AlignCenter, name);
            }
            at += ah;
        }
        p.setPen(colour(Role::ink));
        p.setFont(bold);
        p.drawText(QRectF(left + wide + t.px(8), top, figure + t.px(6), t.px(kBarTall)),
                   Qt::AlignVCenter | Qt::AlignLeft, g.figure);
    }
    p.setPen(QPen(colour(Role::muted), t.px(1.2), Qt::DashLine));
    p.drawLine(
        QPointF(x(mean), 0),
        QPointF(x(mean), double(m_groups.size()) * t.px(kBarTall + kBarGap) - t.px(kBarGap)));
}

} // namespace sipper::app
