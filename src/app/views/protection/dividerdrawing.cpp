// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/protection/dividerdrawing.hpp"

#include "widgets/text.hpp"

#include <QPainter>

namespace sipper::app {
namespace {

constexpr double kLine = 30; ///< px from the left: the row of resistors
constexpr double kResistorTall = 40;
constexpr double kResistorWide = 16;
constexpr double kTop = 18;

} // namespace

DividerDrawing::DividerDrawing(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("divider.drawing"));
    const Theme& t = Theme::now();
    setMinimumSize(t.ipx(250), t.ipx(164));
}

void DividerDrawing::show(const std::optional<Divider>& divider, DividerUse use, double reference) {
    m_divider = divider;
    m_use = use;
    m_reference = reference;
    setAccessibleName(divider ? tr("%1 over %2, gives %3")
                                    .arg(quantity(divider->upper, Unit::ohm),
                                         quantity(divider->lower, Unit::ohm),
                                         quantity(divider->actual, Unit::volt))
                              : tr("no divider"));
    update();
}

void DividerDrawing::paintEvent(QPaintEvent*) {
    if (!m_divider)
        return;
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    const Divider& d = *m_divider;
    const double x = t.px(kLine);
    const double tall = t.px(kResistorTall);
    const double wide = t.px(kResistorWide);
    const double upper = t.px(kTop + 12);
    const double tap = upper + tall + t.px(12);
    const double lower = tap + t.px(12);
    const double ground = lower + tall + t.px(10);
    const QPen ink(colour(Role::ink), t.px(1.5));
    p.setPen(ink);
    p.drawLine(QPointF(x, t.px(kTop)), QPointF(x, upper));
    p.drawLine(QPointF(x, upper + tall), QPointF(x, lower));
    p.drawLine(QPointF(x, lower + tall), QPointF(x, ground));
    p.drawLine(QPointF(x - t.px(11), ground), QPointF(x + t.px(11), ground));
    p.drawLine(QPointF(x, tap), QPointF(x + t.px(34), tap));
    const auto resistor = [&](double y, double ohms) {
        p.setPen(ink);
        p.setBrush(colour(Role::card));
        p.drawRoundedRect(QRectF(x - wide / 2, y, wide, tall), t.px(2), t.px(2));
        p.setFont(t.font(13, true));
        p.drawText(QRectF(x + wide, y, t.px(84), tall), Qt::AlignLeft | Qt::AlignVCenter,
                   quantity(ohms, Unit::ohm));
    };
    resistor(upper, d.upper);
    resistor(lower, d.lower);
    p.setFont(t.font(11));
    p.setPen(colour(Role::muted));
    p.drawText(QRectF(0, 0, t.px(120), t.px(kTop)), Qt::AlignLeft | Qt::AlignVCenter,
               m_use == DividerUse::setPoint ? tr("its output") : tr("the cells' side"));
    p.drawText(QRectF(x + t.px(38), tap - t.px(9), t.px(150), t.px(18)),
               Qt::AlignLeft | Qt::AlignVCenter,
               m_use == DividerUse::watch
                   ? tr("to the input, %1 full").arg(quantity(m_reference, Unit::volt))
                   : tr("to the %1 input").arg(quantity(m_reference, Unit::volt)));
    if (d.feedback)
        p.drawText(QRectF(x + t.px(14), ground - t.px(8), t.px(210), t.px(18)),
                   Qt::AlignLeft | Qt::AlignVCenter,
                   tr("%1 from its output to the tap").arg(quantity(*d.feedback, Unit::ohm)));
    // What it gives, to the right.
    const double right = t.px(kLine + kResistorWide + 88);
    p.setPen(colour(Role::ink));
    p.setFont(t.font(13, true));
    p.drawText(QRectF(right, upper, width() - right, t.px(18)), Qt::AlignLeft,
               tr("gives %1 V").arg(d.actual, 0, 'f', d.actual < 10 ? 3 : 2));
    p.setFont(t.font(11));
    p.setPen(colour(Role::muted));
    p.drawText(QRectF(right, upper + t.px(19), width() - right, t.px(16)), Qt::AlignLeft,
               tr("%1 to %2 V").arg(d.least, 0, 'f', 2).arg(d.most, 0, 'f', 2));
    p.drawText(QRectF(right, lower + t.px(2), width() - right, t.px(16)), Qt::AlignLeft,
               tr("draws %1").arg(quantity(d.draws, Unit::ampere)));
    if (d.givesUpper)
        p.drawText(QRectF(right, lower + t.px(18), width() - right, t.px(16)), Qt::AlignLeft,
                   tr("back at %1 V").arg(*d.givesUpper, 0, 'f', 2));
    else if (m_use == DividerUse::watch)
        p.drawText(QRectF(right, lower + t.px(18), width() - right, t.px(16)), Qt::AlignLeft,
                   tr("%1 mV a step of 1024").arg(d.voltsPerCount * 1000, 0, 'f', 1));
}

} // namespace sipper::app
