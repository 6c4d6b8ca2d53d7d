#include "views/runtime/runtimeview.hpp"

#include "theme/theme.hpp"
#include "views/runtime/ledgerstream.hpp"
#include "views/runtime/leverscard.hpp"
#include "widgets/panel.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QCheckBox>
#include <QSlider>
#include <QVBoxLayout>
#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <qcustomplot.h>

namespace sipper::app {
namespace {

constexpr std::array kFiveAirs{-10.0, 0.0, 10.0, 25.0, 40.0}; ///< °C
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

namespace {

/// What each source has to carry where there are no cells to run down.
QString tetheredText(const Project& p, const Results& r) {
    if (r.tethers.empty())
        return QObject::tr("There are no cells to run down and nothing to plug in: the supply line "
                           "begins with a source.");
    QString text = QObject::tr("Nothing runs down.");
    for (const Tether& t : r.tethers)
        text +=
            QObject::tr(" From %1 it draws %2 at the most, %3 on average, and %4 of that become "
                        "heat on the way.")
                .arg(qs(nameOf(p.stages[t.source])), quantity(t.worstWatts, Unit::watt),
                     quantity(t.meanWatts, Unit::watt), quantity(t.heatWatts, Unit::watt));
    return text;
}

} // namespace

RuntimeView::RuntimeView(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("runtime"));
    const Theme& theme = Theme::now();
    QWidget* page = scrollingPage(this, QStringLiteral("runtime.scroll"));
    auto* column = new QVBoxLayout(page);
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
    auto* verdict = new QHBoxLayout;
    verdict->setSpacing(theme.ipx(14));
    verdict->addWidget(m_answer);
    verdict->addWidget(m_why, 1);
    column->addLayout(verdict);
    m_body = new QWidget(page);
    column->addWidget(m_body, 1);
    column->addStretch();
    column = new QVBoxLayout(m_body);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(theme.ipx(8));
    column->addLayout(buildWhatIf());
    m_plot = new QCustomPlot(this);
    m_plot->setObjectName(QStringLiteral("discharge"));
    m_plot->setAccessibleName(tr("Discharge curve"));
    stylePlot(*m_plot);
    m_plot->setMinimumHeight(theme.ipx(190));
    m_plot->setToolTip(tr("Drag to zoom, double click for the whole run"));
    m_plot->setProperty("keys", tr("time (h)"));
    addZoom(*m_plot, [this] { rebuild(); });
    m_bandLow = m_plot->addGraph();
    m_bandLow->setName(tr("one build in ten stays under"));
    m_bandLow->setPen(Qt::NoPen);
    m_bandHigh = m_plot->addGraph();
    m_bandHigh->setName(tr("nine builds in ten stay under"));
    m_bandHigh->setPen(Qt::NoPen);
    m_bandHigh->setChannelFillGraph(m_bandLow);
    m_tail = m_plot->addGraph();
    m_tail->setName(tr("after the first ending"));
    m_tail->setPen(QPen(colour(Role::muted), theme.px(1.4), Qt::DashLine));
    m_run = m_plot->addGraph();
    m_run->setName(tr("volts at the cells"));
    styleMainGraph(*m_run);
    addCrosshair(*m_plot, *m_run, [](double h, double v) {
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
    m_bandText = text(Role::muted, false);
    m_bandText->setFont(theme.font(11));
    m_bandText->setBrush(Qt::NoBrush);
    m_bandText->setText(tr("eight builds in ten"));
    m_other = m_plot->addGraph();
    m_other->setName(tr("at another air and age"));
    m_other->setPen(QPen(colour(Role::accepts), theme.px(1.8)));
    for (std::size_t i = 0; i < kFiveAirs.size(); ++i) {
        QCPGraph* run = m_plot->addGraph();
        run->setName(tr("at %1").arg(quantity(kFiveAirs[i], Unit::celsius)));
        QColor ink = colour(Role::charging);
        ink.setAlphaF(0.35F + 0.15F * static_cast<float>(i));
        run->setPen(QPen(ink, theme.px(1.2)));
        m_fiveRuns << run;
        m_fiveTexts << text(Role::charging, false);
        m_fiveTexts.back()->setFont(theme.font(11));
    }
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

QLayout* RuntimeView::buildWhatIf() {
    const Theme& theme = Theme::now();
    auto* row = new QHBoxLayout;
    row->setSpacing(theme.ipx(8));
    const auto slider = [&](const QString& name, const char* object, int low, int high) {
        row->addWidget(mutedLabel(name, this, 12));
        auto* s = new QSlider(Qt::Horizontal, this);
        s->setObjectName(QLatin1String(object));
        s->setAccessibleName(name);
        s->setRange(low, high);
        s->setFixedWidth(theme.ipx(130));
        connect(s, &QSlider::valueChanged, this, &RuntimeView::showWhatIf);
        row->addWidget(s);
        return s;
    };
    m_air = slider(tr("Air"), "whatIf.air", -20, 50);
    m_air->setToolTip(tr("The run in air of another temperature, -20 to 50 °C"));
    m_age = slider(tr("Cells"), "whatIf.age", 50, 100);
    m_age->setToolTip(tr("The run with cells that have aged to this share of their capacity"));
    m_whatIf = mutedLabel({}, this, 12);
    m_whatIf->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    m_whatIf->setObjectName(QStringLiteral("whatIf.says"));
    row->addWidget(m_whatIf, 1);
    m_five = new QCheckBox(tr("five temperatures"), this);
    m_five->setObjectName(QStringLiteral("whatIf.five"));
    m_five->setFont(theme.font(12));
    m_five->setToolTip(tr("The runs at -10, 0, 10, 25 and 40 °C on the same plot"));
    connect(m_five, &QCheckBox::toggled, this, &RuntimeView::showWhatIf);
    row->addWidget(m_five);
    return row;
}

void RuntimeView::showWhatIf() {
    const Project& p = m_session.project();
    const auto usualAir = static_cast<int>(std::lround(p.brief.air().usual().value()));
    const auto usualAge =
        static_cast<int>(std::lround(p.pack() ? 100 * p.pack()->health.value_or(1.0) : 100));
    const auto fill = [](QCPGraph* graph, const Runtime& r) {
        QVector<double> x;
        QVector<double> y;
        for (const CurvePoint& c : r.curve) {
            x << c.hours;
            y << c.packVolts;
        }
        graph->setData(x, y, true);
    };
    const bool any = p.pack() && m_session.results().runtime.hours;
    for (QWidget* w : std::initializer_list<QWidget*>{m_air, m_age, m_five})
        w->setEnabled(any);
    m_other->data()->clear();
    for (qsizetype i = 0; i < m_fiveRuns.size(); ++i) {
        m_fiveRuns[i]->data()->clear();
        m_fiveTexts[i]->setVisible(false);
    }
    const bool usual = m_air->value() == usualAir && m_age->value() == usualAge;
    if (any && !usual) {
        Conditions c = typicalConditions(p);
        c.ambient = Celsius{static_cast<double>(m_air->value())};
        c.health = m_age->value() / 100.0;
        const Runtime r = predictRuntime(p, c);
        fill(m_other, r);
        m_whatIf->setText(
            tr("At %1 with cells at %2: %3, %4.")
                .arg(quantity(m_air->value(), Unit::celsius), qs(writeShare(*c.health)),
                     r.hours ? hours(r.hours->value()) : tr("for ever"), endingText(p, r.ending)));
    } else {
        m_whatIf->setText(
            any ? tr("as planned: %1, cells at %2")
                      .arg(quantity(usualAir, Unit::celsius), qs(writeShare(usualAge / 100.0)))
                : QString());
    }
    m_whatIf->setToolTip(m_whatIf->text());
    if (any && m_five->isChecked())
        for (std::size_t i = 0; i < kFiveAirs.size(); ++i) {
            Conditions c = typicalConditions(p);
            c.ambient = Celsius{kFiveAirs[i]};
            const Runtime r = predictRuntime(p, c);
            if (!r.hours || r.curve.empty())
                continue;
            const auto at = static_cast<qsizetype>(i);
            fill(m_fiveRuns[at], r);
            m_fiveTexts[at]->setVisible(true);
            m_fiveTexts[at]->setText(quantity(kFiveAirs[i], Unit::celsius));
            m_fiveTexts[at]->setPositionAlignment(Qt::AlignTop | Qt::AlignHCenter);
            m_fiveTexts[at]->position->setCoords(r.curve.back().hours, r.curve.back().packVolts);
        }
    m_plot->replot(QCustomPlot::rpQueuedReplot);
}

void RuntimeView::showBand() {
    QVector<double> x;
    QVector<double> low;
    QVector<double> high;
    if (const auto& range = m_session.results().range)
        for (const BandPoint& b : range->band) {
            x << b.hours;
            low << b.low;
            high << b.high;
        }
    m_bandLow->setData(x, low, true);
    m_bandHigh->setData(x, high, true);
    QColor fill = colour(Role::copper);
    // An older one is paler, until the new one is there.
    fill.setAlphaF(m_session.settled() ? 0.22F : 0.10F);
    m_bandHigh->setBrush(QBrush(fill));
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

void RuntimeView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    QMetaObject::invokeMethod(this, &RuntimeView::rebuild, Qt::QueuedConnection);
}

void RuntimeView::rebuild() {
    const Project& p = m_session.project();
    const Results& r = m_session.results();
    const bool has = r.runtime.hours.has_value();
    m_body->setVisible(p.pack() != nullptr);
    m_answer->setText(has ? hours(r.runtime.hours->value())
                      : r.runtime.ending.reason == EndReason::mains ? tr("no cells")
                                                                    : tr("for ever"));
    if (!p.pack())
        m_answer->setText(r.tethers.empty() ? tr("no source yet") : tr("plugged in"));
    QString why = has && r.runtime.hours->value() == 0
                      ? tr("It never runs: %1.").arg(endingText(p, r.runtime.ending))
                  : has ? tr("It ends when %1.").arg(endingText(p, r.runtime.ending))
                        : tr("As it stands, %1.").arg(endingText(p, r.runtime.ending));
    if (!p.pack())
        why = tetheredText(p, r);
    if (r.range && m_session.settled() && has)
        why += tr(" Eight builds in ten run %1 to %2.")
                   .arg(hours(r.range->range.p10), hours(r.range->range.p90));
    if (has && r.runtime.hours->value() > 0)
        why += tr(" Mean draw %1 at the cells.")
                   .arg(quantity(r.runtime.meanPower.value(), Unit::watt));
    m_why->setText(why);
    const auto fill = [](QCPGraph* graph, const std::vector<CurvePoint>& curve) {
        QVector<double> x;
        QVector<double> y;
        for (const CurvePoint& c : curve) {
            x << c.hours;
            y << c.packVolts;
        }
        graph->setData(x, y, true);
    };
    fill(m_tail, r.runtime.tail);
    fill(m_run, r.runtime.curve);
    double last = 0;
    double low = 1e9;
    double high = 0;
    for (const auto* curve : {&r.runtime.tail, &r.runtime.curve})
        for (const CurvePoint& c : *curve) {
            last = std::max(last, c.hours);
            low = std::min(low, c.packVolts);
            high = std::max(high, c.packVolts);
        }
    showBand();
    if (r.range)
        for (const BandPoint& b : r.range->band) {
            last = std::max(last, b.hours);
            low = std::min(low, b.low);
            high = std::max(high, b.high);
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
        const double wide = std::max(100, m_plot->width() - Theme::now().ipx(kAxisRoom));
        const bool left =
            (1 - target / span) * wide <
            QFontMetricsF(m_targetText->font()).horizontalAdvance(m_targetText->text()) +
                Theme::now().px(16);
        m_targetText->setPositionAlignment(Qt::AlignBottom |
                                           (left ? Qt::AlignRight : Qt::AlignLeft));
        m_targetText->position->setCoords(target + span * (left ? -0.008 : 0.008),
                                          range.lower + range.size() * 0.03);
    }
    m_plot->setAccessibleDescription(m_why->text());
    // Another project, or another air or age of it: the sliders stand where it is planned.
    if (m_planned != p.brief.air().usual().value() || !m_air->isEnabled()) {
        m_planned = p.brief.air().usual().value();
        const QSignalBlocker a(m_air);
        const QSignalBlocker b(m_age);
        m_air->setValue(static_cast<int>(std::lround(m_planned)));
        m_age->setValue(
            p.pack() ? static_cast<int>(std::lround(100 * p.pack()->health.value_or(1.0))) : 100);
    }
    showWhatIf();
    m_plot->replot(QCustomPlot::rpQueuedReplot);
}

} // namespace sipper::app
