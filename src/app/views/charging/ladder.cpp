// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/charging/ladder.hpp"

#include "charge/text.hpp"
#include "views/charging/limitcolour.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kNames = 126; ///< px of a row's name
constexpr double kFigures = 64;
constexpr double kHead = 46;
constexpr double kFoot = 46;

/// The order of the rows: from the source to the cells.
constexpr std::array kOrder{ChargeLimit::source,     ChargeLimit::inputLimit,  ChargeLimit::heat,
                            ChargeLimit::powerLimit, ChargeLimit::outputLimit, ChargeLimit::cc,
                            ChargeLimit::recovery,   ChargeLimit::cell,        ChargeLimit::cv};

} // namespace

LadderCard::LadderCard(QWidget* parent) : QFrame(parent) {
    makeCard(*this, QStringLiteral("chargeLadder"), tr("What each limit would allow"));
    setMinimumHeight(Theme::now().ipx(220));
}

void LadderCard::clear() {
    m_rows.clear();
    m_least.reset();
    m_sentence.clear();
    setAccessibleDescription({});
    update();
}

void LadderCard::show(const LimitCurrents& ladder, double hours, const Part& source,
                      const QString& sentence) {
    m_rows.clear();
    m_least.reset();
    m_hours = hours;
    m_sentence = sentence;
    double low = 1e9;
    double high = 0;
    double least = 1e9;
    for (const ChargeLimit limit : kOrder) {
        const auto& amps = ladder[static_cast<std::size_t>(limit)];
        if (limit == ChargeLimit::recovery && !amps)
            continue;
        m_rows.push_back({limit, qs(limitShort(limit, source)), amps});
        if (!amps || !std::isfinite(*amps))
            continue;
        if (*amps < least) {
            least = *amps;
            m_least = limit;
        }
        if (*amps > 0) {
            low = std::min(low, *amps);
            high = std::max(high, *amps);
        }
    }
    m_low = high > 0 ? std::min(low, high / 3) * 0.7 : 0.1;
    m_high = high > 0 ? high * 1.25 : 10;
    m_low = std::max(m_low, m_high * 1e-3);
    setAccessibleDescription(
        m_least ? tr("%1 allows least: %2").arg(qs(limitShort(*m_least, source)), rowText(*m_least))
                : QString());
    update();
}

QString LadderCard::rowText(ChargeLimit limit) const {
    for (const Row& row : m_rows)
        if (row.limit == limit)
            return !row.amps                   ? tr("none set")
                   : !std::isfinite(*row.amps) ? tr("never bites")
                                               : quantity(std::max(0.0, *row.amps), Unit::ampere);
    return {};
}

double LadderCard::x(double amps) const {
    const Theme& t = Theme::now();
    const double left = t.px(14 + kNames);
    const double right = width() - t.px(kFigures + 10);
    const double share =
        std::log(std::clamp(amps, m_low, m_high) / m_low) / std::log(m_high / m_low);
    return left + share * (right - left);
}

void LadderCard::paintRow(QPainter& p, const Row& row, double top, double tall) const {
    const Theme& t = Theme::now();
    const bool lit = row.limit == m_least;
    const double middle = top + tall / 2;
    p.setFont(t.font(12, lit));
    p.setPen(colour(lit ? Role::ink : row.amps ? Role::ink : Role::muted));
    p.drawText(QRectF(t.px(14), top, t.px(kNames - 6), tall), Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(row.name, Qt::ElideRight, t.ipx(kNames - 6)));
    const double left = x(m_low);
    const double end = x(m_high);
    p.setPen(QPen(colour(Role::hairline), 1));
    double words = left;
    if (row.amps) {
        const bool bounded = std::isfinite(*row.amps);
        const double to = bounded ? x(*row.amps) : end;
        const double thick = std::min(t.px(12), tall - t.px(6));
        const QRectF bar(left, middle - thick / 2, std::max(t.px(2), to - left), thick);
        QColor fill = limitColour(row.limit);
        if (!lit)
            fill.setAlphaF(0.45F);
        if (bounded) {
            p.setPen(Qt::NoPen);
            p.setBrush(fill);
            p.drawRoundedRect(bar, t.px(2), t.px(2));
            if (lit) {
                p.setBrush(Qt::NoBrush);
                p.setPen(QPen(colour(Role::ink), t.px(1.2)));
                p.drawRoundedRect(bar, t.px(2), t.px(2));
            }
            words = to + t.px(6);
        } else {
            p.drawLine(QPointF(left, middle), QPointF(end, middle));
            words = left + t.px(2);
        }
    }
    p.setPen(colour(lit ? Role::ink : Role::muted));
    p.setFont(t.font(11, lit));
    QString says = rowText(row.limit);
    const QRectF box(words, top, width() - words - t.px(4), tall);
    if (!row.amps || !std::isfinite(*row.amps)) {
        const double wide = p.fontMetrics().horizontalAdvance(says) + t.px(8);
        p.fillRect(QRectF(words, middle - t.px(7), wide, t.px(14)), colour(Role::card));
    }
    p.drawText(box, Qt::AlignLeft | Qt::AlignVCenter, says);
}

void LadderCard::paintAxis(QPainter& p, double y) const {
    const Theme& t = Theme::now();
    p.setFont(t.font(11));
    p.setPen(colour(Role::muted));
    double last = -1e9;
    for (double decade = 1e-4; decade < 1e4; decade *= 10)
        for (const double step : {1.0, 2.0, 5.0}) {
            const double amps = decade * step;
            if (amps < m_low || amps > m_high || x(amps) - last < t.px(46))
                continue;
            last = x(amps);
            QString says = quantity(amps, Unit::ampere);
            says.replace(QStringLiteral(".00"), QString())
                .replace(QStringLiteral(".0 "), QStringLiteral(" "));
            p.drawText(QRectF(last - t.px(32), y, t.px(64), t.px(14)), Qt::AlignCenter, says);
        }
}

void LadderCard::paintEvent(QPaintEvent* event) {
    QFrame::paintEvent(event);
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    p.setPen(colour(Role::ink));
    p.setFont(t.font(13, true));
    const QRectF head(t.px(14), t.px(8), width() - t.px(20), t.px(18));
    if (m_rows.empty()) {
        p.drawText(head, Qt::AlignLeft | Qt::AlignVCenter, tr("What each limit would allow"));
        p.setFont(t.font(12));
        p.setPen(colour(Role::muted));
        p.drawText(rect().adjusted(t.ipx(14), 0, -t.ipx(14), 0), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("Nothing flows."));
        return;
    }
    p.drawText(head, Qt::AlignLeft | Qt::AlignVCenter,
               tr("What each limit would allow, at %1 in").arg(hours(m_hours)));
    p.setFont(t.font(11));
    p.setPen(colour(Role::muted));
    p.drawText(head.translated(0, t.px(18)), Qt::AlignLeft | Qt::AlignVCenter,
               tr("amps into the cells; the least one counts"));
    const double room = height() - t.px(kHead + kFoot);
    const double tall = std::min(t.px(26), room / static_cast<double>(m_rows.size()));
    double top = t.px(kHead);
    for (const Row& row : m_rows) {
        paintRow(p, row, top, tall);
        top += tall;
    }
    paintAxis(p, top + t.px(1));
    p.setFont(t.font(12));
    p.setPen(colour(Role::ink));
    p.drawText(QRectF(t.px(14), height() - t.px(27), width() - t.px(20), t.px(20)),
               Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(m_sentence, Qt::ElideRight, width() - t.ipx(20)));
}

} // namespace sipper::app
