// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/benchpictures.hpp"

#include "theme/theme.hpp"
#include "widgets/text.hpp"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kFaint = 0.45;
constexpr double kPinPitch = 64; ///< px between two pins
constexpr double kDot = 4;       ///< px of a reading's radius
constexpr double kBarTall = 15;  ///< px of a cell
constexpr std::size_t kMostBars = 12;

Role roleOfPin(PinRole role) {
    switch (role) {
    case PinRole::plus:
        return Role::copper;
    case PinRole::minus:
        return Role::ink;
    default:
        return Role::muted;
    }
}

QString pinWord(const PinFound& pin) {
    switch (pin.role) {
    case PinRole::plus:
        return QStringLiteral("+");
    case PinRole::minus:
        return QStringLiteral("−");
    case PinRole::tap:
        return QObject::tr("%1 cells").arg(pin.cells);
    default:
        return {};
    }
}

} // namespace

PinDrawing::PinDrawing(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("aside.pinDrawing"));
    setAccessibleName(tr("The connector, its pins and their volts"));
    setMinimumHeight(Theme::now().ipx(104));
}

void PinDrawing::show(const PinAnalysis& look, const QString& title, bool faint) {
    m_look = look;
    m_title = title;
    m_faint = faint;
    QStringList words;
    for (const PinFound& pin : look.pins)
        words << tr("pin %1: %2").arg(qs(pin.id), quantity(pin.volts, Unit::volt));
    setAccessibleDescription(words.join(QStringLiteral(", ")));
    update();
}

void PinDrawing::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    const double count = std::max<double>(1, double(m_look.pins.size()));
    const double pitch = std::min(t.px(kPinPitch), (width() - t.px(24)) / count);
    const QRectF shell(t.px(8), t.px(30), pitch * count, t.px(46));
    p.setPen(QPen(colour(Role::muted), t.px(1.2), m_faint ? Qt::DashLine : Qt::SolidLine));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(shell, t.px(6), t.px(6));
    p.setFont(t.font(11));
    p.drawText(QRectF(shell.left(), shell.bottom() + t.px(4), width() - t.px(16), t.px(18)),
               Qt::AlignLeft | Qt::AlignVCenter,
               p.fontMetrics().elidedText(m_title, Qt::ElideRight, width() - t.ipx(16)));
    for (std::size_t i = 0; i < m_look.pins.size(); ++i) {
        const PinFound& pin = m_look.pins[i];
        const QPointF at(shell.left() + pitch * (double(i) + 0.5), shell.center().y());
        QColor ink = colour(roleOfPin(pin.role));
        ink.setAlphaF(m_faint ? float(kFaint) : 1.0F);
        p.setPen(QPen(ink, t.px(1.6)));
        p.setBrush(pin.role == PinRole::plus ? QBrush(ink) : QBrush(colour(Role::card)));
        p.drawEllipse(at, t.px(8), t.px(8));
        p.setFont(t.font(11));
        p.setPen(colour(Role::muted));
        p.drawText(QRectF(at.x() - pitch / 2, at.y() + t.px(7), pitch, t.px(16)), Qt::AlignCenter,
                   qs(pin.id));
        p.setFont(t.font(12, true));
        p.setPen(ink);
        const QString word = pinWord(pin);
        const QString volts =
            pin.role == PinRole::minus ? word
            : pin.volts != 0 ? QStringLiteral("%1 %2").arg(word, quantity(pin.volts, Unit::volt))
                             : word;
        p.drawText(QRectF(at.x() - pitch / 2, shell.top() - t.px(24), pitch, t.px(20)),
                   Qt::AlignCenter,
                   p.fontMetrics().elidedText(volts.trimmed(), Qt::ElideRight, qRound(pitch)));
    }
}

PairDots::PairDots(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("aside.pairDots"));
    setAccessibleName(tr("Readings on the cells and on the supply"));
    setMinimumHeight(Theme::now().ipx(92));
}

void PairDots::show(const ReadingPair& pair, bool faint) {
    m_pair = pair;
    m_faint = faint;
    update();
}

void PairDots::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    const double name = t.px(76);
    const QRectF field(name, t.px(8), width() - name - t.px(10), height() - t.px(30));
    const std::array rows{std::pair{&m_pair.cells, Role::copper},
                          std::pair{&m_pair.supply, Role::accepts}};
    const std::array names{tr("cells"), tr("supply")};
    double low = 1e300;
    double high = -1e300;
    for (const auto& [figures, role] : rows)
        for (const double v : *figures) {
            low = std::min(low, v);
            high = std::max(high, v);
        }
    const bool any = low <= high;
    const double slack = any ? std::max({(high - low) * 0.12, m_pair.resolution, 1e-9}) : 1;
    low -= slack;
    high += slack;
    const auto x = [&](double v) {
        return field.left() + (v - low) / (high - low) * field.width();
    };
    // Where both rows have been: what the supply has not moved.
    if (!m_pair.cells.empty() && !m_pair.supply.empty()) {
        const auto [a0, a1] = std::minmax_element(m_pair.cells.begin(), m_pair.cells.end());
        const auto [b0, b1] = std::minmax_element(m_pair.supply.begin(), m_pair.supply.end());
        const double from = std::max(*a0, *b0);
        const double to = std::min(*a1, *b1);
        if (to >= from)
            p.fillRect(QRectF(QPointF(x(from) - t.px(2), field.top()),
                              QPointF(x(to) + t.px(2), field.bottom())),
                       onCard(Role::fine, 0.22));
    }
    for (std::size_t row = 0; row < rows.size(); ++row) {
        const double y = field.top() + field.height() * (row == 0 ? 0.28 : 0.72);
        p.setPen(QPen(colour(Role::hairline), 1));
        p.drawLine(QPointF(field.left(), y), QPointF(field.right(), y));
        p.setFont(t.font(11.5));
        p.setPen(colour(Role::muted));
        p.drawText(QRectF(t.px(4), y - t.px(10), name - t.px(10), t.px(20)),
                   Qt::AlignLeft | Qt::AlignVCenter, names[row]);
        QColor ink = colour(rows[row].second);
        ink.setAlphaF(m_faint ? float(kFaint) : 1.0F);
        p.setPen(QPen(ink, t.px(1.4)));
        // A shape besides the colour: rings on the cells, dots on the supply.
        p.setBrush(row == 0 ? QBrush(Qt::NoBrush) : QBrush(ink));
        for (const double v : *rows[row].first)
            p.drawEllipse(QPointF(x(v), y), t.px(kDot), t.px(kDot));
    }
    p.setFont(t.font(11));
    p.setPen(colour(Role::muted));
    const QRectF foot(field.left(), field.bottom() + t.px(2), field.width(), t.px(18));
    if (any && !m_faint) {
        p.drawText(foot, Qt::AlignLeft | Qt::AlignVCenter,
                   QStringLiteral("%1 %2").arg(low + slack, 0, 'g', 5).arg(qs(m_pair.unit)));
        p.drawText(foot, Qt::AlignRight | Qt::AlignVCenter,
                   QStringLiteral("%1 %2").arg(high - slack, 0, 'g', 5).arg(qs(m_pair.unit)));
    } else if (m_faint) {
        p.drawText(foot, Qt::AlignLeft | Qt::AlignVCenter, tr("as it may look: made up"));
    }
}

CellBars::CellBars(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("cells.bars"));
    setAccessibleName(tr("What the cells hold and resist"));
}

void CellBars::show(std::vector<OwnedCell> cells, bool faint) {
    m_cells = std::move(cells);
    m_faint = faint;
    std::stable_sort(m_cells.begin(), m_cells.end(), [](const OwnedCell& a, const OwnedCell& b) {
        return a.ah.value_or(a.labelAh.value_or(0)) > b.ah.value_or(b.labelAh.value_or(0));
    });
    setMinimumHeight(sizeHint().height());
    updateGeometry();
    update();
}

QSize CellBars::sizeHint() const {
    const Theme& t = Theme::now();
    const auto rows = static_cast<double>(std::clamp<std::size_t>(m_cells.size(), 1, kMostBars));
    return {t.ipx(220), t.ipx((kBarTall + 5) * rows + 4)};
}

void CellBars::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    double most = 0;
    double ohms = 0;
    for (const OwnedCell& c : m_cells) {
        most = std::max({most, c.ah.value_or(0), c.labelAh.value_or(0)});
        ohms = std::max(ohms, c.ohms.value_or(0));
    }
    const double name = t.px(110);
    const double figure = t.px(118);
    const double room = width() - name - figure - t.px(8);
    double top = t.px(2);
    for (std::size_t i = 0; i < std::min(m_cells.size(), kMostBars) && most > 0; ++i) {
        const OwnedCell& c = m_cells[i];
        const QRectF row(0, top, width(), t.px(kBarTall));
        p.setFont(t.font(11.5));
        p.setPen(colour(m_faint ? Role::muted : Role::ink));
        p.drawText(QRectF(t.px(4), top, name - t.px(8), row.height()),
                   Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(qs(c.id), Qt::ElideRight, qRound(name - t.px(8))));
        const double held = c.ah.value_or(0);
        const double label = c.labelAh.value_or(0);
        p.setPen(QPen(colour(Role::muted), 1, Qt::DashLine));
        p.setBrush(Qt::NoBrush);
        if (label > 0)
            p.drawRoundedRect(QRectF(name, top + 1, room * label / most, row.height() - 5), t.px(2),
                              t.px(2));
        p.setPen(Qt::NoPen);
        p.setBrush(colour(Role::charging));
        if (held > 0)
            p.drawRoundedRect(QRectF(name, top + 1, room * held / most, row.height() - 5), t.px(2),
                              t.px(2));
        if (c.ohms && ohms > 0) {
            p.setBrush(colour(Role::copper));
            p.drawRect(QRectF(name, row.bottom() - t.px(3), room * *c.ohms / ohms * 0.6, t.px(2)));
        }
        p.setPen(colour(Role::muted));
        QString text = held > 0    ? quantity(held, Unit::ampereHour)
                       : label > 0 ? tr("label %1").arg(quantity(label, Unit::ampereHour))
                                   : QString();
        if (c.ohms)
            text += QStringLiteral(" · ") + quantity(*c.ohms, Unit::ohm);
        p.drawText(QRectF(width() - figure, top, figure - t.px(4), row.height()),
                   Qt::AlignRight | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(text, Qt::ElideRight, qRound(figure)));
        top += t.px(kBarTall + 5);
    }
}

} // namespace sipper::app
