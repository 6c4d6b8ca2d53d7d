// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/runtime/dischargeplot.hpp"

#include "text/text.hpp"
#include "theme/theme.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace sipper::app {
namespace {

constexpr double kAxisRoom = 76; ///< px of a plot's width that its axis and margins take

void fill(QCPGraph* graph, const std::vector<CurvePoint>& curve) {
    QVector<double> x;
    QVector<double> y;
    for (const CurvePoint& c : curve) {
        x << c.hours;
        y << c.packVolts;
    }
    graph->setData(x, y, true);
}

} // namespace

DischargePlot::DischargePlot(QWidget* parent) : QCustomPlot(parent) {
    setObjectName(QStringLiteral("discharge"));
    setAccessibleName(tr("Discharge curve"));
    stylePlot(*this);
    setMinimumHeight(Theme::now().ipx(190));
    setToolTip(tr("Drag to zoom, double click for the whole run"));
    setProperty("keys", tr("time (h)"));
    makeGraphs();
    makeItems();
    addCrosshair(*this, *m_run, [](double h, double v) {
        return tr("%1: %2 at the cells").arg(hours(h), quantity(v, Unit::volt));
    });
    yAxis->setLabel(tr("V at the cells"));
    yAxis->setNumberFormat(QStringLiteral("f"));
    yAxis->setNumberPrecision(2);
}

void DischargePlot::makeGraphs() {
    const Theme& theme = Theme::now();
    m_bandLow = addGraph();
    m_bandLow->setName(tr("one build in ten stays under"));
    m_bandLow->setPen(Qt::NoPen);
    m_bandHigh = addGraph();
    m_bandHigh->setName(tr("nine builds in ten stay under"));
    m_bandHigh->setPen(Qt::NoPen);
    m_bandHigh->setChannelFillGraph(m_bandLow);
    m_tail = addGraph();
    m_tail->setName(tr("after the first ending"));
    m_tail->setPen(QPen(colour(Role::muted), theme.px(1.4), Qt::DashLine));
    m_run = addGraph();
    m_run->setName(tr("volts at the cells"));
    styleMainGraph(*m_run);
    m_other = addGraph();
    m_other->setName(tr("at another air and age"));
    m_other->setPen(QPen(colour(Role::accepts), theme.px(1.8)));
    for (std::size_t i = 0; i < kFiveAirs.size(); ++i) {
        QCPGraph* run = addGraph();
        run->setName(tr("at %1").arg(quantity(kFiveAirs[i], Unit::celsius)));
        QColor ink = colour(Role::charging);
        ink.setAlphaF(0.35F + 0.15F * static_cast<float>(i));
        run->setPen(QPen(ink, theme.px(1.2)));
        m_fiveRuns << run;
    }
}

void DischargePlot::makeItems() {
    const Theme& theme = Theme::now();
    const auto line = [&](Role role, Qt::PenStyle style) {
        auto* item = new QCPItemStraightLine(this);
        item->setPen(QPen(colour(role), theme.px(1.6), style));
        return item;
    };
    m_end = line(Role::ink, Qt::SolidLine);
    m_endText = plotText(*this, Role::ink,
                         {.size = 12, .bold = true, .padding = {4, 2, 4, 2}, .ground = true});
    m_target = line(Role::fine, Qt::DashLine);
    m_targetText = plotText(*this, Role::fine,
                            {.size = 12, .bold = true, .padding = {4, 2, 4, 2}, .ground = true});
    m_bandText = plotText(*this, Role::muted,
                          {.size = 11, .bold = false, .padding = {4, 2, 4, 2}, .ground = true});
    m_bandText->setBrush(Qt::NoBrush);
    m_bandText->setText(tr("eight builds in ten"));
    for (std::size_t i = 0; i < kFiveAirs.size(); ++i)
        m_fiveTexts << plotText(
            *this, Role::charging,
            {.size = 11, .bold = false, .padding = {4, 2, 4, 2}, .ground = true});
}

double DischargePlot::room() const {
    return std::max(100, width() - Theme::now().ipx(kAxisRoom));
}

void DischargePlot::show(const Session& session) {
    const Project& p = session.project();
    const Results& r = session.results();
    fill(m_tail, r.runtime.tail);
    fill(m_run, r.runtime.curve);
    showBand(session);
    const double target = p.brief.targetRuntime ? p.brief.targetRuntime->value() : 0;
    frame(r, target);
    showEnd(p, r.runtime);
    showTarget(target);
    replot(rpQueuedReplot);
}

/// All of the run and its band, and the target where it is not far beyond.
void DischargePlot::frame(const Results& r, double target) {
    double last = 0;
    double low = 1e9;
    double high = 0;
    const auto take = [&](double h, double least, double most) {
        last = std::max(last, h);
        low = std::min(low, least);
        high = std::max(high, most);
    };
    for (const auto* curve : {&r.runtime.tail, &r.runtime.curve})
        for (const CurvePoint& c : *curve)
            take(c.hours, c.packVolts, c.packVolts);
    if (const RuntimeUncertainty* range = r.range())
        for (const VoltageQuantiles& b : range->band)
            take(b.hours, b.low, b.high);
    const bool any = high > 0;
    m_span = std::max({last, std::min(target, last > 0 ? last * 4 : target), 1e-3}) * 1.06;
    xAxis->setRange(0, m_span);
    yAxis->setRange(any ? low - (high - low + 0.02) * 0.1 : 0,
                    any ? high + (high - low + 0.02) * 0.16 : 1);
    tickHours(*xAxis, m_span);
}

void DischargePlot::showEnd(const Project& p, const Runtime& run) {
    m_end->setVisible(run.hours.has_value());
    m_endText->setVisible(run.hours.has_value());
    if (!run.hours)
        return;
    const double at = run.hours->value();
    m_end->point1->setCoords(at, 0);
    m_end->point2->setCoords(at, 1);
    // On the side with more room, as much of the reason as there is room for.
    const bool left = at > m_span * 0.5;
    const double wide = room() * (left ? at / m_span : 1 - at / m_span) - Theme::now().px(20);
    m_endText->setText(QStringLiteral("%1\n%2").arg(
        hours(at), QFontMetricsF(m_endText->font())
                       .elidedText(qs(endText(p, run.ending)), Qt::ElideRight, wide)));
    m_endText->setTextAlignment(left ? Qt::AlignRight : Qt::AlignLeft);
    m_endText->setPositionAlignment(Qt::AlignTop | (left ? Qt::AlignRight : Qt::AlignLeft));
    const QCPRange range = yAxis->range();
    m_endText->position->setCoords(at + m_span * (left ? -0.008 : 0.008),
                                   range.upper - range.size() * 0.02);
}

void DischargePlot::showTarget(double target) {
    const bool aimed = target > 0 && target <= m_span;
    m_target->setVisible(aimed);
    m_targetText->setVisible(aimed);
    if (!aimed)
        return;
    m_target->point1->setCoords(target, 0);
    m_target->point2->setCoords(target, 1);
    m_targetText->setText(tr("target %1").arg(hours(target)));
    const double wide = QFontMetricsF(m_targetText->font()).horizontalAdvance(m_targetText->text());
    const bool left = (1 - target / m_span) * room() < wide + Theme::now().px(16);
    m_targetText->setPositionAlignment(Qt::AlignBottom | (left ? Qt::AlignRight : Qt::AlignLeft));
    const QCPRange range = yAxis->range();
    m_targetText->position->setCoords(target + m_span * (left ? -0.008 : 0.008),
                                      range.lower + range.size() * 0.03);
}

void DischargePlot::showBand(const Session& session) {
    QVector<double> x;
    QVector<double> low;
    QVector<double> high;
    if (const RuntimeUncertainty* range = session.results().range())
        for (const VoltageQuantiles& b : range->band) {
            x << b.hours;
            low << b.low;
            high << b.high;
        }
    m_bandLow->setData(x, low, true);
    m_bandHigh->setData(x, high, true);
    QColor ink = colour(Role::copper);
    // An older one is paler, until the new one is there.
    ink.setAlphaF(session.resultsCurrent() ? 0.22F : 0.10F);
    m_bandHigh->setBrush(QBrush(ink));
    m_bandText->setVisible(!x.isEmpty());
    if (x.isEmpty())
        return;
    // Over the flattest place, where the words cross nothing.
    const qsizetype reach = x.size() / 7;
    qsizetype best = reach;
    double least = std::numeric_limits<double>::infinity();
    for (qsizetype i = reach; i + reach < x.size(); ++i) {
        const auto [lowest, highest] =
            std::minmax_element(high.begin() + i - reach, high.begin() + i + reach);
        if (*highest - *lowest < least) {
            least = *highest - *lowest;
            best = i;
        }
    }
    m_bandText->setPositionAlignment(Qt::AlignBottom | Qt::AlignHCenter);
    m_bandText->position->setCoords(
        x[best], *std::max_element(high.begin() + best - reach, high.begin() + best + reach));
}

void DischargePlot::showBeside(const WhatIf* other) {
    m_other->data()->clear();
    if (other && other->other)
        fill(m_other, other->other->curve);
    for (qsizetype i = 0; i < m_fiveRuns.size(); ++i) {
        m_fiveRuns[i]->data()->clear();
        const auto at = static_cast<std::size_t>(i);
        const Runtime* r = other && at < other->five.size() ? &other->five[at] : nullptr;
        const bool seen = r && r->hours && !r->curve.empty();
        m_fiveTexts[i]->setVisible(seen);
        if (!seen)
            continue;
        fill(m_fiveRuns[i], r->curve);
        m_fiveTexts[i]->setText(quantity(kFiveAirs[at], Unit::celsius));
        m_fiveTexts[i]->setPositionAlignment(Qt::AlignTop | Qt::AlignHCenter);
        m_fiveTexts[i]->position->setCoords(r->curve.back().hours, r->curve.back().packVolts);
    }
    replot(rpQueuedReplot);
}

} // namespace sipper::app
