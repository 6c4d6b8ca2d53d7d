// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/charging/sunkneeplot.hpp"

#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr int kCurvePoints = 160;
constexpr double kHeadRoom = 1.22; ///< of the highest current, so that words have room over it
constexpr double kBeyond = 1.04;   ///< of the highest voltage
constexpr double kAtKnee = 0.97;   ///< of the top's watts: that near it is the knee

} // namespace

SunKneePlot::SunKneePlot(QWidget* parent) : QCustomPlot(parent) {
    setObjectName(QStringLiteral("sun.knee"));
    setAccessibleName(tr("The panel's curve, and what the charger makes of it"));
    setToolTip(
        tr("Amps that the panel gives at each voltage: the dot is its knee, the ring is where "
           "the charger puts it"));
    setProperty("keys", tr("panel (V)"));
    setMinimumHeight(Theme::now().ipx(170));
    stylePlot(*this);
    xAxis->setLabel(tr("V at the panel"));
    yAxis->setLabel(tr("mA"));
    m_label = addGraph();
    m_label->setName(tr("label (mA)"));
    m_label->setPen(QPen(colour(Role::muted), Theme::now().px(1.2), Qt::DashLine));
    m_now = addGraph();
    m_now->setName(tr("now (mA)"));
    m_now->setPen(QPen(colour(Role::charging), Theme::now().px(2)));
    m_set = new QCPItemStraightLine(this);
    m_set->setPen(QPen(colour(Role::copper), Theme::now().px(1.2), Qt::DashLine));
    m_top = dot(Role::charging, true);
    m_stand = dot(Role::stop, false);
    m_nowText = plotText(*this, Role::charging, {.bold = true, .padding = {6, 2, 6, 2}});
    m_labelText = plotText(*this, Role::muted, {.bold = false, .padding = {6, 2, 6, 2}});
    m_labelText->setText(tr("label"));
    m_topText = plotText(*this, Role::charging, {.bold = true, .padding = {6, 2, 6, 2}});
    m_standText = plotText(*this, Role::stop, {.bold = true, .padding = {6, 2, 6, 2}});
    m_setText = plotText(*this, Role::copper, {.bold = true, .padding = {6, 2, 6, 2}});
}

QCPItemTracer* SunKneePlot::dot(Role role, bool filled) {
    auto* item = new QCPItemTracer(this);
    item->setStyle(QCPItemTracer::tsCircle);
    item->setSize(Theme::now().px(9));
    item->setPen(QPen(colour(role), Theme::now().px(2)));
    item->setBrush(filled ? colour(role) : colour(Role::card));
    return item;
}

void SunKneePlot::put(QCPItemText& item, double volts, double amps, Qt::Alignment side) {
    item.position->setCoords(volts, amps * 1000);
    item.setPositionAlignment(side);
}

void SunKneePlot::show(const MppSnapshot& knee) {
    const double openLabel = knee.label.volts(0);
    const double widest = std::max(openLabel, knee.curve.volts(0));
    const auto fill = [&](QCPGraph& graph, const PanelCurve& curve) {
        QVector<double> volts;
        QVector<double> milliamps;
        for (int i = 0; i <= kCurvePoints; ++i) {
            const double v = std::max(curve.volts(0), 0.0) * i / kCurvePoints;
            volts << v;
            milliamps << 1000 * curve.amps(v);
        }
        graph.setData(volts, milliamps, true);
    };
    fill(*m_label, knee.label);
    fill(*m_now, knee.curve);
    const double most = std::max(knee.label.shortCircuit(), knee.curve.shortCircuit());
    xAxis->setRange(0, widest * kBeyond);
    yAxis->setRange(0, 1000 * most * kHeadRoom);
    put(*m_labelText, knee.label.mpp().first * 0.25, knee.label.shortCircuit(),
        Qt::AlignLeft | Qt::AlignBottom);
    m_nowText->setText(tr("%1 W/m², %2 °C").arg(knee.light, 0, 'f', 0).arg(knee.air, 0, 'f', 0));
    put(*m_nowText, 0, knee.curve.shortCircuit(), Qt::AlignLeft | Qt::AlignBottom);
    const bool lit = knee.curve.lit();
    const auto [topVolts, topWatts] = knee.curve.mpp();
    m_top->position->setCoords(topVolts, 1000 * knee.curve.mppAmps());
    m_top->setVisible(lit);
    m_topText->setVisible(lit);
    m_topText->setText(tr("knee %1").arg(quantity(topWatts, Unit::watt)));
    put(*m_topText, topVolts, knee.curve.shortCircuit(), Qt::AlignRight | Qt::AlignBottom);
    const bool stands = knee.stand.panelAmps > 0;
    const bool atKnee = stands && knee.watts() >= kAtKnee * knee.topWatts();
    const Role role = atKnee || knee.stand.limit != SunLimit::source ? Role::fine : Role::stop;
    m_stand->setVisible(lit && stands);
    m_stand->setPen(QPen(colour(role), Theme::now().px(2)));
    m_stand->position->setCoords(knee.stand.panelVolts, 1000 * knee.stand.panelAmps);
    m_standText->setColor(colour(role));
    m_standText->setVisible(lit);
    const QString asks = std::isfinite(knee.asked.amps)
                             ? tr("asks %1").arg(quantity(knee.asked.amps, Unit::ampere))
                             : tr("takes what comes");
    m_standText->setText(
        !stands  ? tr("%1 and collapses: nothing").arg(asks)
        : atKnee ? tr("%1: at the knee").arg(asks)
                 : tr("%1\nand sits here: %2").arg(asks, quantity(knee.watts(), Unit::watt)));
    // Under its ring, in the room that the curve leaves.
    const double middle =
        std::clamp(stands ? knee.stand.panelVolts : widest / 2, 0.25 * widest, 0.6 * widest);
    put(*m_standText, middle, std::min(knee.stand.panelAmps, knee.curve.mppAmps()) * 0.88,
        Qt::AlignHCenter | Qt::AlignTop);
    const bool sets =
        !atKnee && knee.ampsAtMpp > 0 && stands && knee.stand.limit == SunLimit::source;
    m_set->setVisible(sets);
    m_setText->setVisible(sets);
    if (sets) {
        m_set->point1->setCoords(0, 1000 * knee.curve.mppAmps());
        m_set->point2->setCoords(1, 1000 * knee.curve.mppAmps());
        m_setText->setText(
            tr("set %1 and it stays at the knee").arg(quantity(knee.ampsAtMpp, Unit::ampere)));
        put(*m_setText, 0, knee.curve.mppAmps() * 0.13, Qt::AlignLeft | Qt::AlignVCenter);
    }
    replot();
}

} // namespace sipper::app
