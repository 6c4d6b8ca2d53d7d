// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/energystream.hpp"

#include "widgets/labelplacing.hpp"
#include "widgets/text.hpp"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

namespace sipper::app {
namespace {

constexpr double kWorthShowing = 0.003;  ///< of the total: smaller losses are added up
constexpr double kHead = 40;             ///< px over the stream
constexpr double kFoot = 66;             ///< px under it: two rows of labels
constexpr double kDelivered = 210;       ///< px for what arrives and its names, at the most
constexpr double kDeliveredShare = 0.46; ///< of the width, where that is less
constexpr double kArrives = 46;          ///< px of the blocks of what arrives, at the most
constexpr double kArrivesShare = 0.07;   ///< of the width
constexpr double kThinnestLoss = 1.5;    ///< px of a loss
constexpr double kWidestDrop = 16;       ///< px of a loss where it falls

} // namespace

EnergyStream::EnergyStream(QWidget* parent) : QFrame(parent) {
    setAccessibleName(tr("Where the energy goes"));
    setToolTip(tr("Hover, or use the arrow keys, to read each part"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
}

QSize EnergyStream::minimumSizeHint() const {
    return {Theme::now().ipx(380), Theme::now().ipx(190)};
}

std::vector<EnergyStream::Entry> EnergyStream::lossesWorthShowing(const std::vector<Entry>& losses,
                                                                  double total) {
    std::vector<Entry> all;
    double small = 0;
    for (const Entry& e : losses)
        if (std::abs(e.wattHours) < kWorthShowing * total)
            small += e.wattHours;
        else
            all.push_back(e);
    if (small != 0)
        all.push_back({tr("all the rest"), small, false});
    return all;
}

void EnergyStream::show(std::vector<Entry> entries, double total, const QString& title, Role role) {
    m_entries = std::move(entries);
    m_total = total;
    m_title = title;
    m_role = role;
    m_at = std::min(m_at, static_cast<int>(m_entries.size()) - 1);
    QString text;
    for (const Entry& e : m_entries)
        text += QStringLiteral("%1 %2; ").arg(e.name, quantity(e.wattHours, Unit::wattHour));
    setAccessibleDescription(text);
    arrange();
}

QString EnergyStream::reading() const {
    if (m_at < 0 || m_at >= static_cast<int>(m_entries.size()))
        return {};
    const Entry& e = m_entries[static_cast<std::size_t>(m_at)];
    return tr("%1: %2, %3")
        .arg(e.name, quantity(e.wattHours, Unit::wattHour),
             qs(writeShare(m_total > 0 ? e.wattHours / m_total : 0)));
}

void EnergyStream::resizeEvent(QResizeEvent* event) {
    QFrame::resizeEvent(event);
    arrange();
}

void EnergyStream::arrange() {
    const Theme& t = Theme::now();
    m_pieces.assign(m_entries.size(), {});
    m_body = {};
    if (!m_entries.empty() && m_total > 0) {
        const double left = t.px(14);
        const double names = std::min(t.px(kDelivered), width() * kDeliveredShare);
        const double right = std::max(left + t.px(120), width() - names);
        const double tall = std::max(t.px(40), height() - t.px(kHead + kFoot));
        arrangeLosses(left, right, tall / m_total);
        arrangeDelivered(right, tall / m_total);
    }
    update();
}

/// The losses leave at the lower edge one after another, each as thick as its watt-hours; what is
/// left arrives at the right.
void EnergyStream::arrangeLosses(double left, double right, double scale) {
    const Theme& t = Theme::now();
    const double top = t.px(kHead);
    const double tall = m_total * scale;
    const auto losses = static_cast<double>(std::count_if(
        m_entries.begin(), m_entries.end(), [](const Entry& e) { return !e.delivered; }));
    const double step = (right - left) / std::max(1.0, losses);
    double bottom = top + tall; // lower edge of the stream so far
    QPolygonF edge{QPointF(left, top), QPointF(left, bottom)};
    double at = left;
    int number = 0;
    for (std::size_t i = 0; i < m_entries.size(); ++i) {
        const Entry& e = m_entries[i];
        if (e.delivered)
            continue;
        const double thick = std::max(t.px(kThinnestLoss), std::abs(e.wattHours) * scale);
        const double fall = std::clamp(thick, t.px(kThinnestLoss), t.px(kWidestDrop));
        const double turn = at + step * 0.62;
        const double floor = top + tall + t.px(12) + (number % 2 ? t.px(26) : 0);
        // Along the lower edge, round the corner, and down to its label.
        QPainterPath path(QPointF(at, bottom - thick));
        path.lineTo(turn - fall, bottom - thick);
        path.quadTo(turn, bottom - thick, turn, std::min(bottom + fall, floor));
        path.lineTo(turn, floor);
        path.lineTo(turn - fall, floor);
        path.lineTo(turn - fall, std::min(bottom + fall, floor));
        path.quadTo(turn - fall, bottom, turn - 2 * fall, bottom);
        path.lineTo(at, bottom);
        path.closeSubpath();
        Piece& piece = m_pieces[i];
        piece.path = path;
        piece.label = QRectF(turn - step, floor, 2 * step, t.px(26));
        piece.hover = QRectF(at, top + tall - t.px(4), step, t.px(kFoot));
        at += step;
        bottom = std::max(top, bottom - std::abs(e.wattHours) * scale);
        edge << QPointF(at - step, bottom) << QPointF(at, bottom);
        ++number;
    }
    edge << QPointF(right, bottom) << QPointF(right, top);
    m_body.addPolygon(edge);
    m_body.closeSubpath();
}

/// As high as what they get, their names moved apart.
void EnergyStream::arrangeDelivered(double right, double scale) {
    const Theme& t = Theme::now();
    const double top = t.px(kHead);
    const double block = std::min(t.px(kArrives), width() * kArrivesShare);
    std::vector<double> wanted;
    std::vector<double> heights;
    double y = top;
    for (std::size_t i = 0; i < m_entries.size(); ++i) {
        if (!m_entries[i].delivered)
            continue;
        const double high = std::max(1.0, m_entries[i].wattHours * scale);
        m_pieces[i].path.addRect(QRectF(right, y + 0.5, block, std::max(1.0, high - 1)));
        wanted.push_back(y + high / 2);
        heights.push_back(t.px(16));
        y += high;
    }
    const auto rows = placeWithoutOverlap(wanted, heights, t.px(30), height() - t.px(6));
    std::size_t k = 0;
    for (std::size_t i = 0; i < m_entries.size(); ++i)
        if (m_entries[i].delivered) {
            m_pieces[i].label = QRectF(right + block + t.px(8), rows[k] - t.px(8),
                                       width() - right - block - t.px(18), t.px(16));
            m_pieces[i].hover = m_pieces[i].label.united(m_pieces[i].path.boundingRect());
            ++k;
        }
}

void EnergyStream::put(int at) {
    if (at == m_at)
        return;
    m_at = at;
    update();
}

void EnergyStream::mouseMoveEvent(QMouseEvent* event) {
    int found = -1;
    for (std::size_t i = 0; i < m_pieces.size(); ++i)
        if (m_pieces[i].path.contains(event->position()))
            found = static_cast<int>(i);
    for (std::size_t i = 0; found < 0 && i < m_pieces.size(); ++i)
        if (m_pieces[i].hover.contains(event->position()))
            found = static_cast<int>(i);
    put(found);
}

void EnergyStream::leaveEvent(QEvent*) {
    if (!hasFocus())
        put(-1);
}

void EnergyStream::focusOutEvent(QFocusEvent* event) {
    QFrame::focusOutEvent(event);
    put(-1);
}

void EnergyStream::keyPressEvent(QKeyEvent* event) {
    const int last = static_cast<int>(m_entries.size()) - 1;
    if (event->key() == Qt::Key_Right || event->key() == Qt::Key_Down)
        put(std::min(last, m_at + 1));
    else if (event->key() == Qt::Key_Left || event->key() == Qt::Key_Up)
        put(std::max(0, m_at - 1));
    else
        QFrame::keyPressEvent(event);
}

void EnergyStream::paintLabel(QPainter& p, std::size_t i) const {
    const Theme& t = Theme::now();
    const Entry& e = m_entries[i];
    const QRectF& box = m_pieces[i].label;
    const bool on = m_at == static_cast<int>(i);
    const QString figure = quantity(e.wattHours, Unit::wattHour);
    if (e.delivered) {
        p.setFont(t.font(11.5, true));
        p.setPen(colour(on ? Role::copper : Role::ink));
        const double room = QFontMetricsF(p.font()).horizontalAdvance(figure) + t.px(6);
        p.drawText(box, Qt::AlignLeft | Qt::AlignVCenter,
                   QFontMetricsF(p.font()).elidedText(e.name, Qt::ElideRight, box.width() - room));
        p.drawText(box, Qt::AlignRight | Qt::AlignVCenter, figure);
        return;
    }
    p.setFont(t.font(11));
    p.setPen(colour(on ? Role::copper : Role::muted));
    const QRectF name(box.left(), box.top(), box.width(), box.height() / 2);
    p.drawText(name, Qt::AlignHCenter | Qt::AlignVCenter,
               QFontMetricsF(p.font()).elidedText(e.name, Qt::ElideRight, box.width() - t.px(6)));
    p.setPen(colour(on ? Role::copper : Role::ink));
    p.drawText(name.translated(0, box.height() / 2), Qt::AlignHCenter | Qt::AlignVCenter, figure);
}

void EnergyStream::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    if (!m_frameless || hasFocus()) {
        p.setPen(QPen(colour(hasFocus() ? Role::copper : Role::hairline), 1));
        p.setBrush(colour(Role::card));
        p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), t.px(4), t.px(4));
    }
    p.setFont(t.font(12, true));
    p.setPen(colour(Role::ink));
    const QString reads = reading();
    p.drawText(QRectF(t.px(14), t.px(8), width() - t.px(14) - m_headFree, t.px(20)),
               Qt::AlignLeft | Qt::AlignVCenter, reads.isEmpty() ? m_title : reads);
    if (m_body.isEmpty())
        return;
    QColor body = colour(m_role);
    body.setAlphaF(0.30F);
    p.fillPath(m_body, body);
    for (std::size_t i = 0; i < m_pieces.size(); ++i) {
        const bool on = m_at == static_cast<int>(i);
        QColor fill = colour(m_entries[i].delivered ? Role::accepts : Role::stop);
        fill.setAlphaF(on ? 0.95F : m_entries[i].delivered ? 0.75F : 0.42F);
        p.fillPath(m_pieces[i].path, fill);
        paintLabel(p, i);
    }
}

} // namespace sipper::app
