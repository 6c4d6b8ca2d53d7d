// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/protection/reboundplot.hpp"

#include "protect/text.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kFrom = 0.1; ///< s, where the axis begins: the moment of the cut
constexpr int kFrameMs = 40;
constexpr double kWalkSeconds = 5;  ///< that a walk takes on the screen
constexpr double kLevelText = 0.14; ///< s: left on the axis

} // namespace

ReboundPlot::ReboundPlot(QWidget* parent) : QCustomPlot(parent) {
    setObjectName(QStringLiteral("rebound.plot"));
    setAccessibleName(tr("What the cells come back to after the cut"));
    setToolTip(tr("Volts at the guard after it has opened, with time on a log axis"));
    setProperty("keys", tr("time since the cut (s)"));
    setMinimumHeight(Theme::now().ipx(200));
    const Theme& t = Theme::now();
    stylePlot(*this);
    xAxis->setScaleType(QCPAxis::stLogarithmic);
    yAxis->setNumberFormat(QStringLiteral("g"));
    yAxis->setNumberPrecision(4);
    m_settles = level(Role::fine, Qt::DotLine);
    m_reconnect = level(Role::charging, Qt::DashLine);
    m_off = level(Role::stop, Qt::SolidLine);
    m_climb = addGraph();
    m_climb->setName(tr("open (V)"));
    styleMainGraph(*m_climb);
    m_on = addGraph();
    m_on->setName(tr("closed again (V)"));
    m_on->setPen(QPen(colour(Role::stop), t.px(2)));
    m_settlesText = plotText(*this, Role::fine, {.bold = true});
    m_reconnectText = plotText(*this, Role::charging, {.bold = true});
    m_offText = plotText(*this, Role::stop, {.bold = false});
    m_marker = new QCPItemTracer(this);
    m_marker->setStyle(QCPItemTracer::tsCircle);
    m_marker->setSize(t.px(10));
    m_marker->setPen(Qt::NoPen);
    m_marker->setBrush(colour(Role::stop));
    m_says = plotText(*this, Role::stop, {.bold = true});
    m_timer.setInterval(kFrameMs);
    connect(&m_timer, &QTimer::timeout, this, &ReboundPlot::step);
    show(nullptr);
}

QCPItemStraightLine* ReboundPlot::level(Role role, Qt::PenStyle style) {
    auto* item = new QCPItemStraightLine(this);
    item->setPen(QPen(colour(role), Theme::now().px(1.6), style));
    return item;
}

void ReboundPlot::tickTimes(double from, double to) {
    constexpr double kMinute = 60;
    constexpr double kHour = 3600;
    auto ticker = QSharedPointer<QCPAxisTickerText>::create();
    ticker->addTick(from, QStringLiteral("0"));
    double last = from;
    const std::initializer_list<std::pair<double, QString>> ticks{{1, tr("1 s")},
                                                                  {10, tr("10 s")},
                                                                  {kMinute, tr("1 min")},
                                                                  {10 * kMinute, tr("10 min")},
                                                                  {kHour, tr("1 h")},
                                                                  {10 * kHour, tr("10 h")},
                                                                  {100 * kHour, tr("100 h")}};
    for (const auto& [at, words] : ticks)
        if (at > last * 3 && at <= to * 1.001) {
            ticker->addTick(at, words);
            last = at;
        }
    xAxis->setTicker(ticker);
}

void ReboundPlot::show(const GuardAnalysis* guard) {
    const bool any = guard && guard->usual.acts && !guard->usual.openCurve.empty();
    for (QCPAbstractItem* item :
         std::initializer_list<QCPAbstractItem*>{m_off, m_reconnect, m_settles, m_offText,
                                                 m_reconnectText, m_settlesText, m_marker, m_says})
        item->setVisible(any);
    m_walk.clear();
    if (!any) {
        play(false);
        m_climb->data()->clear();
        m_on->data()->clear();
        replot(rpQueuedReplot);
        return;
    }
    const Rebound& r = guard->usual;
    QVector<double> seconds{kFrom};
    QVector<double> volts{r.cutVolts};
    m_walk.emplace_back(ReboundPoint{kFrom, r.cutVolts}, false);
    for (const ReboundPoint& p : r.openCurve) {
        seconds << std::max(p.seconds, kFrom);
        volts << p.volts;
        if (!r.chatters || p.seconds < r.offSeconds)
            m_walk.emplace_back(ReboundPoint{std::max(p.seconds, kFrom), p.volts}, false);
    }
    m_climb->setData(seconds, volts, true);
    QVector<double> onSeconds;
    QVector<double> onVolts;
    if (r.chatters) {
        m_walk.emplace_back(ReboundPoint{std::max(r.offSeconds, kFrom), guard->reconnect}, true);
        onSeconds << std::max(r.offSeconds, kFrom);
        onVolts << guard->reconnect;
    }
    for (const ReboundPoint& p : r.reclosedCurve) {
        onSeconds << std::max(p.seconds, kFrom);
        onVolts << p.volts;
        m_walk.emplace_back(ReboundPoint{std::max(p.seconds, kFrom), p.volts}, true);
    }
    m_on->setData(onSeconds, onVolts, true);
    frame(*guard);
    m_turnVolts = r.chatters ? guard->reconnect : r.settledVolts;
    m_says->setText(r.chatters ? tr("after %1 it is on again,\nand off %2 later")
                                     .arg(qs(longText(r.offSeconds)), qs(longText(r.onSeconds)))
                               : QString());
    setWalk(m_timer.isActive() ? m_share : r.chatters ? 0.5 : 1);
    setAccessibleDescription(r.chatters
                                 ? tr("chatters every %1").arg(qs(longText(r.period())))
                                 : tr("settles at %1").arg(quantity(r.settledVolts, Unit::volt)));
}

void ReboundPlot::frame(const GuardAnalysis& g) {
    const Rebound& r = g.usual;
    const double end = std::max(r.openCurve.back().seconds, 60.0);
    xAxis->setRange(kFrom * 0.85, end * 1.15);
    tickTimes(kFrom, end);
    double low = std::min(r.cutVolts, g.cutoff);
    for (const ReboundPoint& p : r.reclosedCurve)
        low = std::min(low, p.volts);
    double high = std::max(r.settledVolts, r.openCurve.back().volts);
    const double climb = std::max(high - low, 0.05);
    // A reconnect far above would press the climb flat: then words say where it is.
    const bool near = g.reconnect <= high + 1.5 * climb;
    if (near)
        high = std::max(high, g.reconnect);
    const double room = high - low;
    yAxis->setRange(low - 0.16 * room, high + (near ? 0.2 : 0.42) * room);
    const auto put = [](QCPItemStraightLine& line, double volts) {
        line.point1->setCoords(1, volts);
        line.point2->setCoords(10, volts);
    };
    put(*m_off, g.cutoff);
    put(*m_settles, r.settledVolts);
    put(*m_reconnect, g.reconnect);
    m_reconnect->setVisible(near);
    m_offText->setText(tr("off %1").arg(quantity(g.cutoff, Unit::volt)));
    m_offText->setPositionAlignment(Qt::AlignRight | Qt::AlignTop);
    m_offText->position->setCoords(end, g.cutoff);
    m_settlesText->setText(tr("where they settle: %1 V").arg(r.settledVolts, 0, 'f', 2));
    const bool under =
        near && g.reconnect > r.settledVolts && g.reconnect - r.settledVolts < 0.12 * room;
    m_settlesText->setPositionAlignment(Qt::AlignRight | (under ? Qt::AlignTop : Qt::AlignBottom));
    m_settlesText->position->setCoords(end, r.settledVolts);
    m_reconnectText->setText(near ? tr("on again %1").arg(quantity(g.reconnect, Unit::volt))
                                  : tr("on again at %1, %2 V further up")
                                        .arg(quantity(g.reconnect, Unit::volt))
                                        .arg(g.reconnect - r.settledVolts, 0, 'f', 2));
    m_reconnectText->setPositionAlignment(Qt::AlignLeft | (near ? Qt::AlignBottom : Qt::AlignTop));
    m_reconnectText->position->setCoords(kLevelText, near ? g.reconnect : yAxis->range().upper);
}

void ReboundPlot::setWalk(double share) {
    m_share = share;
    if (m_walk.empty())
        return;
    // Where it chatters the first half of the walk is the climb, the second what follows.
    const auto turn =
        std::find_if(m_walk.begin(), m_walk.end(), [](const auto& step) { return step.second; });
    const auto climb = static_cast<double>(turn - m_walk.begin());
    const auto all = static_cast<double>(m_walk.size());
    const double at = turn == m_walk.end() ? share * (all - 1)
                      : share < 0.5        ? share * 2 * climb
                                           : climb + (share - 0.5) * 2 * (all - 1 - climb);
    const auto& [point, closed] =
        m_walk[std::min(m_walk.size() - 1, static_cast<std::size_t>(std::max(0.0, at)))];
    m_marker->position->setCoords(point.seconds, point.volts);
    m_marker->setBrush(colour(closed ? Role::stop : Role::copper));
    const bool right = std::log(point.seconds / xAxis->range().lower) >
                       0.6 * std::log(xAxis->range().upper / xAxis->range().lower);
    m_says->setPositionAlignment((right ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignTop);
    m_says->setTextAlignment(right ? Qt::AlignRight : Qt::AlignLeft);
    // Under the climb, where nothing is drawn; over the line of the cut.
    constexpr double kTwoLines = 0.2; // of the axis
    const double size = yAxis->range().size();
    m_says->position->setCoords(point.seconds * (right ? 0.9 : 1.1),
                                std::max((m_off->point1->value() + m_turnVolts) / 2 + 0.06 * size,
                                         m_off->point1->value() + kTwoLines * size));
    replot(rpQueuedReplot);
}

void ReboundPlot::play(bool on) {
    if (on == m_timer.isActive())
        return;
    if (on && m_walk.empty())
        return;
    if (on) {
        m_share = 0;
        m_timer.start();
    } else {
        m_timer.stop();
    }
    emit playingChanged(on);
}

void ReboundPlot::step() {
    const double next = m_share + kFrameMs / 1000.0 / kWalkSeconds;
    const bool again =
        std::any_of(m_walk.begin(), m_walk.end(), [](const auto& s) { return s.second; });
    if (next > 1 && !again) {
        setWalk(1);
        return play(false);
    }
    setWalk(next > 1 ? 0 : next);
}

} // namespace sipper::app
