#include "views/runtime/runtimeview.hpp"

#include "theme/theme.hpp"
#include "views/runtime/ledgerstream.hpp"
#include "views/runtime/leverscard.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QVBoxLayout>
#include <qcustomplot.h>

namespace sipper::app {
namespace {

constexpr double kAxisRoom = 76; ///< px of a plot's width that its axis and margins take

} // namespace

QString endingText(const Project& p, const Ending& e) {
    const Stage* stage = p.stage(e.at);
    const Load* load = p.load(e.at);
    const QString at = stage ? qs(nameOf(*stage)) : load ? qs(nameOf(*load)) : qs(e.at);
    const Mode* mode = p.mode(e.mode);
    const QString when =
        mode && p.modes.size() > 1
            ? QObject::tr(" in mode “%1”%2")
                  .arg(qs(nameOf(*mode)), e.inBurst ? QObject::tr(", in a burst") : QString())
            : QString();
    switch (e.reason) {
    case EndReason::collapse:
        return QObject::tr("the supply collapses%1").arg(when);
    case EndReason::limit:
        return QObject::tr("%1 reaches its limit%2").arg(at, when);
    case EndReason::cutoff:
        return QObject::tr("%1 opens%2").arg(at, when);
    case EndReason::aboveWindow:
        return QObject::tr("%1 gets too much%2").arg(at, when);
    case EndReason::belowWindow:
        return QObject::tr("%1 gets too little%2").arg(at, when);
    case EndReason::empty:
        return QObject::tr("the cells are empty");
    case EndReason::mains:
        return QObject::tr("there are no cells to run down");
    case EndReason::never:
        return QObject::tr("nothing draws, so it does not run down");
    }
    return {};
}

RuntimeView::RuntimeView(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("runtime"));
    const Theme& theme = Theme::now();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(theme.ipx(16), theme.ipx(8), theme.ipx(16), theme.ipx(12));
    column->setSpacing(theme.ipx(8));
    column->addLayout(viewTitle(this, tr("Runtime"), tr("how long, and what ends it")));
    m_answer = new QLabel(this);
    m_answer->setObjectName(QStringLiteral("runtime.answer"));
    m_answer->setFont(theme.font(24, true));
    m_why = new QLabel(this);
    m_why->setObjectName(QStringLiteral("runtime.why"));
    m_why->setFont(theme.font(13));
    m_why->setWordWrap(true);
    m_why->setStyleSheet(QStringLiteral("color: %1").arg(colour(Role::muted).name()));
    column->addWidget(m_answer);
    column->addWidget(m_why);
    m_plot = new QCustomPlot(this);
    m_plot->setObjectName(QStringLiteral("discharge"));
    m_plot->setAccessibleName(tr("Discharge curve"));
    stylePlot(*m_plot);
    m_plot->setInteractions(QCP::iRangeZoom);
    m_plot->setSelectionRectMode(QCP::srmZoom);
    m_plot->setToolTip(tr("Drag to zoom, double click for the whole run"));
    m_plot->axisRect()->setRangeZoomAxes(m_plot->xAxis, nullptr);
    connect(m_plot, &QCustomPlot::mouseDoubleClick, this, &RuntimeView::rebuild);
    m_plot->addGraph()->setName(tr("after the first ending"));
    m_plot->graph(0)->setPen(QPen(colour(Role::muted), theme.px(1.4), Qt::DashLine));
    m_plot->addGraph()->setName(tr("volts at the cells"));
    styleMainGraph(*m_plot->graph(1));
    addCrosshair(*m_plot, *m_plot->graph(1), [](double h, double v) {
        return tr("%1: %2 at the cells").arg(hours(h), quantity(v, Unit::volt));
    });
    m_plot->yAxis->setLabel(tr("V at the cells"));
    m_plot->yAxis->setNumberFormat(QStringLiteral("f"));
    m_plot->yAxis->setNumberPrecision(2);
    const auto line = [&](Role role, Qt::PenStyle style) {
        auto* item = new QCPItemStraightLine(m_plot);
        item->setPen(QPen(colour(role), theme.px(1.6), style));
        return item;
    };
    const auto text = [&](Role role, bool bold) {
        auto* item = new QCPItemText(m_plot);
        item->setFont(theme.font(12, bold));
        item->setColor(colour(role));
        item->setBrush(QBrush(colour(Role::card)));
        item->setPadding(QMargins(4, 2, 4, 2));
        return item;
    };
    m_end = line(Role::ink, Qt::SolidLine);
    m_endText = text(Role::ink, true);
    m_target = line(Role::fine, Qt::DashLine);
    m_targetText = text(Role::fine, true);
    auto* row = new QHBoxLayout;
    row->setSpacing(theme.ipx(8));
    row->addWidget(m_plot, 6);
    row->addWidget(new LeversCard(session, this), 5);
    column->addLayout(row, 6);
    m_ledger = new LedgerStream(session, this);
    column->addWidget(m_ledger, 5);
    connect(&session, &Session::projectChanged, this, &RuntimeView::rebuild);
    connect(&session, &Session::resultsSettled, this, &RuntimeView::rebuild);
    rebuild();
}

void RuntimeView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    QMetaObject::invokeMethod(this, &RuntimeView::rebuild, Qt::QueuedConnection);
}

void RuntimeView::rebuild() {
    const Project& p = m_session.project();
    const Results& r = m_session.results();
    const bool has = r.runtime.hours.has_value();
    m_answer->setText(has ? hours(r.runtime.hours->value())
                      : r.runtime.ending.reason == EndReason::mains ? tr("no cells")
                                                                    : tr("for ever"));
    QString why = has && r.runtime.hours->value() == 0
                      ? tr("It never runs: %1.").arg(endingText(p, r.runtime.ending))
                  : has ? tr("It ends when %1.").arg(endingText(p, r.runtime.ending))
                        : tr("As it stands, %1.").arg(endingText(p, r.runtime.ending));
    if (r.range && m_session.settled() && has)
        why += tr(" Eight builds in ten run %1 to %2.")
                   .arg(hours(r.range->range.p10), hours(r.range->range.p90));
    if (has && r.runtime.hours->value() > 0)
        why += tr(" Mean draw %1 at the cells.")
                   .arg(quantity(r.runtime.meanPower.value(), Unit::watt));
    m_why->setText(why);
    const auto fill = [&](int graph, const std::vector<CurvePoint>& curve) {
        QVector<double> x;
        QVector<double> y;
        for (const CurvePoint& c : curve) {
            x << c.hours;
            y << c.packVolts;
        }
        m_plot->graph(graph)->setData(x, y, true);
    };
    fill(0, r.runtime.tail);
    fill(1, r.runtime.curve);
    double last = 0;
    double low = 1e9;
    double high = 0;
    for (const auto* curve : {&r.runtime.tail, &r.runtime.curve})
        for (const CurvePoint& c : *curve) {
            last = std::max(last, c.hours);
            low = std::min(low, c.packVolts);
            high = std::max(high, c.packVolts);
        }
    const double target = p.brief.targetRuntime ? p.brief.targetRuntime->value() : 0;
    const bool any = high > 0;
    const double span =
        std::max({last, std::min(target, last > 0 ? last * 4 : target), 1e-3}) * 1.06;
    m_plot->xAxis->setRange(0, span);
    m_plot->yAxis->setRange(any ? low - (high - low + 0.02) * 0.1 : 0,
                            any ? high + (high - low + 0.02) * 0.16 : 1);
    tickHours(*m_plot->xAxis, span);
    const QCPRange range = m_plot->yAxis->range();
    m_end->setVisible(has);
    m_endText->setVisible(has);
    if (has) {
        const double at = r.runtime.hours->value();
        m_end->point1->setCoords(at, 0);
        m_end->point2->setCoords(at, 1);
        // On the side with more room, as much of the reason as there is room for.
        const double wide = std::max(100, m_plot->width() - Theme::now().ipx(kAxisRoom));
        const bool left = at > span * 0.5;
        const double room = wide * (left ? at / span : 1 - at / span) - Theme::now().px(20);
        m_endText->setText(QStringLiteral("%1\n%2").arg(
            hours(at), QFontMetricsF(m_endText->font())
                           .elidedText(endingText(p, r.runtime.ending), Qt::ElideRight, room)));
        m_endText->setTextAlignment(left ? Qt::AlignRight : Qt::AlignLeft);
        m_endText->setPositionAlignment(Qt::AlignTop | (left ? Qt::AlignRight : Qt::AlignLeft));
        m_endText->position->setCoords(at + span * (left ? -0.008 : 0.008),
                                       range.upper - range.size() * 0.02);
    }
    const bool aimed = target > 0 && target <= span;
    m_target->setVisible(aimed);
    m_targetText->setVisible(aimed);
    if (aimed) {
        m_target->point1->setCoords(target, 0);
        m_target->point2->setCoords(target, 1);
        m_targetText->setText(tr("target %1").arg(hours(target)));
        const bool left = target > span * 0.85;
        m_targetText->setPositionAlignment(Qt::AlignBottom |
                                           (left ? Qt::AlignRight : Qt::AlignLeft));
        m_targetText->position->setCoords(target + span * (left ? -0.008 : 0.008),
                                          range.lower + range.size() * 0.03);
    }
    m_plot->setAccessibleDescription(m_why->text());
    m_plot->replot(QCustomPlot::rpQueuedReplot);
}

} // namespace sipper::app
