// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/runspage.hpp"

#include "measure/text.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "views/bench/calibrationcard.hpp"
#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <qcustomplot.h>

namespace sipper::app {
namespace {

enum Graph { kLow, kHigh, kPredicted, kCalibrated, kMeasured, kResidual };
constexpr double kMarkTop = 0.01; ///< of the plot, where the first end is written
constexpr double kMarkStep = 0.11;
constexpr double kLowest = 0.12; ///< of the plot's volts, left free below

void fill(QCPGraph& graph, const std::vector<RunPoint>& curve, double scale = 1) {
    QVector<double> x;
    QVector<double> y;
    for (const RunPoint& p : curve) {
        x << p.hours;
        y << p.volts * scale;
    }
    graph.setData(x, y, true);
}

/// Low and high volts over the hours; the least and the most of them.
template <class Quantiles>
std::pair<double, double> fillBand(QCPGraph& low, QCPGraph& high,
                                   const std::vector<Quantiles>& band) {
    QVector<double> x;
    QVector<double> under;
    QVector<double> over;
    std::pair<double, double> reach{1e9, 0};
    for (const Quantiles& b : band) {
        x << b.hours;
        under << b.low;
        over << b.high;
        reach.first = std::min(reach.first, b.low);
        reach.second = std::max(reach.second, b.high);
    }
    low.setData(x, under, true);
    high.setData(x, over, true);
    return reach;
}

QuantityEdit* askField(const FieldFacts& facts, const char* name, double wide, QWidget* parent) {
    auto* edit = quantityField(parent, QStringLiteral("runs.") + QLatin1String(name), facts);
    edit->setFixedWidth(Theme::now().ipx(wide));
    return edit;
}

} // namespace

RunsPage::RunsPage(Session& session, CalibrationCard& learn, QWidget* parent)
    : QWidget(parent), m_session(session), m_learn(learn) {
    setObjectName(QStringLiteral("runs"));
    auto* column = newColumn(this, 8, Margins{});
    column->addWidget(buildAsk());
    auto* card = newCard(this, "runsCard", tr("Predicted and measured"));
    auto* inside = newColumn(card, {}, Margins{8, 8, 8, 6});
    auto* head = new QHBoxLayout;
    auto* title = textLabel(card, tr("Predicted and measured"), {.size = 13, .bold = true});
    head->addWidget(title);
    head->addStretch();
    m_run = choiceField(card, "runs.run", tr("Which run"));
    m_run->setMinimumContentsLength(10);
    m_run->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    connect(m_run, &QComboBox::activated, this, [this] { showRun(); });
    head->addWidget(m_run);
    m_keep = pushButton(card, "runs.keep", tr("Into the logbook"),
                        tr("Notes what these runs gave, with today's date"));
    connect(m_keep, &QPushButton::clicked, &learn, &CalibrationCard::keepRuns);
    head->addWidget(m_keep);
    inside->addLayout(head);
    m_none =
        mutedLabel(tr("Here a run will lie over its prediction. Open logs beside (CSV with time, "
                      "volts and amps), or run the cells down on an electronic load: “Practise "
                      "on a stand-in” has one."),
                   card, 12.5);
    m_none->setObjectName(QStringLiteral("runs.none"));
    m_none->setWordWrap(true);
    inside->addWidget(m_none);
    m_plot = new QCustomPlot(card);
    buildRunPlot();
    inside->addWidget(m_plot, 1);
    m_because = textLabel(card, {}, {.size = 12.5, .wrap = true, .name = "runs.because"});
    inside->addWidget(m_because);
    column->addWidget(card, 5);
    auto* rates = newCard(this, "runsRateCard", tr("What it gives of its label"));
    auto* lower = newColumn(rates, {}, Margins{8, 8, 8, 6});
    auto* name = textLabel(rates, tr("What it gives of its label"), {.size = 13, .bold = true});
    lower->addWidget(name);
    m_rates = new QCustomPlot(rates);
    buildRatePlot();
    lower->addWidget(m_rates, 1);
    m_rateNote = mutedLabel({}, rates, 11.5);
    m_rateNote->setObjectName(QStringLiteral("runs.rateNote"));
    m_rateNote->setWordWrap(true);
    lower->addWidget(m_rateNote);
    column->addWidget(rates, 4);
    column->addStretch();
    connect(&learn, &CalibrationCard::taught, this, &RunsPage::refresh);
    // The range arrives later than the run.
    connect(&session, &Session::resultsUpdated, this, [this] {
        if (isVisible() && m_learn.lesson().runs.empty())
            showRun();
    });
}

QWidget* RunsPage::buildAsk() {
    const Theme& t = Theme::now();
    auto* box = new QWidget(this);
    auto* row = new FlowLayout(box, t.ipx(10), t.ipx(4));
    // A field and what it is called stay together where the row breaks.
    QHBoxLayout* pair = nullptr;
    const auto label = [&](const QString& text) {
        auto* holder = new QWidget(box);
        pair = newRow(holder, 6, Margins{});
        pair->addWidget(mutedLabel(text, holder, 12));
        row->addWidget(holder);
    };
    label(tr("drawn from"));
    m_at = choiceField(box, "runs.at", tr("Where the load hung"));
    pair->addWidget(m_at);
    label(tr("tester's own"));
    m_own = askField(typedFacts("own", "Tester's own",
                                "What the tester takes from the cells besides what it shows",
                                Unit::watt, 0, 100),
                     "own", 58, box);
    m_own->setValue(QSettings().value("bench/ownWatts", 0.0).toDouble());
    pair->addWidget(m_own);
    label(tr("label"));
    m_label = askField(typedFacts("label", "Label", "Watt-hours on the label; empty: the cells'",
                                  Unit::wattHour, 1e-4, 1e6),
                       "label", 66, box);
    pair->addWidget(m_label);
    label(tr("down to"));
    m_cut =
        askField(typedFacts("cut", "Down to", "Where the run ended; empty: the log's last volts",
                            Unit::volt, 0, 1000),
                 "cut", 58, box);
    pair->addWidget(m_cut);
    label(tr("from"));
    m_from =
        askField(typedFacts("from", "From", "Charge when the run began", Unit::percent, 0.01, 1),
                 "from", 58, box);
    m_from->setValue(1);
    pair->addWidget(m_from);
    connect(m_at, &QComboBox::activated, this, [this] { ask(); });
    for (QuantityEdit* edit : {m_own, m_label, m_cut, m_from})
        connect(edit, &QuantityEdit::committed, this, [this, edit](std::optional<double> value) {
            CalibrateOptions now = m_learn.ask();
            if (edit == m_own) {
                now.tester.ownWatts = value.value_or(0);
                QSettings().setValue("bench/ownWatts", now.tester.ownWatts);
            } else if (edit == m_label) {
                now.tester.labelWh = value;
            } else if (edit == m_cut) {
                now.tester.cutVolts = value;
            } else {
                now.from = value.value_or(1);
            }
            m_learn.setAsk(now);
        });
    return box;
}

void RunsPage::buildRunPlot() {
    const Theme& t = Theme::now();
    m_plot->setObjectName(QStringLiteral("runs.plot"));
    m_plot->setAccessibleName(tr("Volts predicted and measured over the run"));
    m_plot->setProperty("keys", tr("time (h)"));
    stylePlot(*m_plot);
    m_plot->setMinimumHeight(t.ipx(280));
    m_plot->yAxis->setLabel(tr("V"));
    m_below = new QCPAxisRect(m_plot);
    m_plot->plotLayout()->addElement(1, 0, m_below);
    m_plot->plotLayout()->setRowStretchFactor(0, 4);
    m_plot->plotLayout()->setRowStretchFactor(1, 1.6);
    m_plot->plotLayout()->setRowSpacing(0);
    auto* margins = new QCPMarginGroup(m_plot);
    for (QCPAxisRect* rect : {m_plot->axisRect(), m_below})
        rect->setMarginGroup(QCP::msLeft | QCP::msRight, margins);
    QCPAxis* key = m_below->axis(QCPAxis::atBottom);
    QCPAxis* value = m_below->axis(QCPAxis::atLeft);
    for (QCPAxis* axis : {key, value}) {
        axis->setLayer(QStringLiteral("axes"));
        axis->grid()->setLayer(QStringLiteral("grid"));
        axis->setBasePen(Qt::NoPen);
        axis->setTickPen(Qt::NoPen);
        axis->setSubTickPen(Qt::NoPen);
        axis->setTickLabelColor(colour(Role::muted));
        axis->setTickLabelFont(t.font(11));
        axis->setLabelFont(t.font(11));
        axis->setLabelColor(colour(Role::muted));
        axis->grid()->setPen(QPen(colour(Role::hairline), 1));
        axis->grid()->setZeroLinePen(QPen(colour(Role::muted), 1));
    }
    key->setTickLabels(false);
    key->grid()->setVisible(false);
    value->setLabel(tr("left, mV"));
    value->ticker()->setTickCount(3);
    for (const QString& name : {tr("one build in ten stays under"), tr("nine in ten stay under"),
                                tr("predicted"), tr("learned"), tr("measured")})
        m_plot->addGraph()->setName(name);
    m_plot->addGraph(key, value)->setName(tr("measured less predicted (mV)"));
    m_plot->graph(kLow)->setPen(Qt::NoPen);
    m_plot->graph(kHigh)->setPen(Qt::NoPen);
    m_plot->graph(kHigh)->setChannelFillGraph(m_plot->graph(kLow));
    styleMainGraph(*m_plot->graph(kPredicted));
    m_plot->graph(kCalibrated)->setPen(QPen(colour(Role::copper), t.px(1.6), Qt::DashLine));
    m_plot->graph(kMeasured)->setPen(QPen(colour(Role::ink), t.px(1.8)));
    m_plot->graph(kResidual)->setPen(QPen(colour(Role::ink), t.px(1.2)));
}

void RunsPage::buildRatePlot() {
    m_rates->setObjectName(QStringLiteral("runs.rates"));
    m_rates->setAccessibleName(tr("Share of the label's watt-hours at each rate"));
    m_rates->setProperty("keys", tr("power (W)"));
    stylePlot(*m_rates);
    m_rates->setMinimumHeight(Theme::now().ipx(120));
    m_rates->xAxis->setScaleType(QCPAxis::stLogarithmic);
    m_rates->addGraph()->setName(tr("the model"));
    m_rates->addGraph()->setName(tr("measured"));
    styleMainGraph(*m_rates->graph(0));
    m_rates->graph(1)->setLineStyle(QCPGraph::lsNone);
}

void RunsPage::fillStages() {
    const Project& p = m_session.project();
    const QSignalBlocker quiet(m_at);
    m_at->clear();
    m_at->addItem(tr("the cells"), QString());
    if (const Stage* pack = p.packStage())
        for (const std::size_t i : downstreamStages(p, pack->id))
            if (isRegulator(p.stages[i].part))
                m_at->addItem(qs(nameOf(p.stages[i])), qs(p.stages[i].id));
    m_at->setCurrentIndex(std::max(0, m_at->findData(qs(m_learn.ask().at))));
}

void RunsPage::ask() {
    CalibrateOptions now = m_learn.ask();
    now.at = m_at->currentData().toString().toStdString();
    m_learn.setAsk(now);
}

void RunsPage::refresh() {
    fillStages();
    const LogAnalysis& lesson = m_learn.lesson();
    const QSignalBlocker quiet(m_run);
    const int was = m_run->currentIndex();
    m_run->clear();
    for (const RunComparison& run : lesson.runs)
        m_run->addItem(
            tr("%1 · %2").arg(qs(run.file), run.inside() ? tr("inside") : tr("outside")));
    m_run->setCurrentIndex(std::clamp(was, 0, std::max(0, m_run->count() - 1)));
    const bool any = !lesson.runs.empty();
    m_none->setVisible(!any);
    for (QWidget* w :
         std::initializer_list<QWidget*>{m_because, m_run, m_keep, m_rates, m_rateNote})
        w->setVisible(any);
    m_plot->setVisible(any || m_session.results().runtime.hours);
    m_below->setVisible(any);
    m_run->setVisible(lesson.runs.size() > 1);
    m_rates->parentWidget()->setVisible(any);
    showRun();
    showRates(lesson);
}

/// Before there is a run: the predicted one as a faint band, and what a measurement would narrow.
void RunsPage::showExpected() {
    const Results& r = m_session.results();
    const RuntimeUncertainty* range = r.range();
    m_plot->clearItems();
    for (const int graph : {kLow, kHigh, kPredicted, kCalibrated, kMeasured, kResidual})
        m_plot->graph(graph)->data()->clear();
    if (!r.runtime.hours) {
        m_word = tr("No prediction");
        m_says = tr("It does not run down by itself: there is nothing that a run could prove.");
        return;
    }
    auto [least, most] = fillBand(*m_plot->graph(kLow), *m_plot->graph(kHigh),
                                  range ? range->band : std::vector<VoltageQuantiles>());
    m_plot->graph(kHigh)->setBrush(onCard(Role::copper, 0.12));
    QVector<double> x;
    QVector<double> volts;
    for (const CurvePoint& point : r.runtime.curve) {
        x << point.hours;
        volts << point.packVolts;
        least = std::min(least, point.packVolts);
        most = std::max(most, point.packVolts);
    }
    m_plot->graph(kPredicted)->setData(x, volts, true);
    const double span = std::max(r.runtime.hours->value(), range ? range->range.p90 : 0) * 1.06;
    m_plot->xAxis->setRange(0, span);
    tickHours(*m_plot->xAxis, span);
    const double tall = std::max(most - least, 0.01);
    m_plot->yAxis->setRange(least - tall * kLowest, most + tall * 0.2);
    m_plot->replot(QCustomPlot::rpQueuedReplot);
    if (!range) {
        m_word = hours(r.runtime.hours->value());
        m_says = tr("is predicted. A run that is measured shows whether it holds.");
        return;
    }
    m_word = QStringLiteral("± %1").arg(hours((range->range.p90 - range->range.p10) / 2));
    const auto moves = [&](const char* about) {
        for (const Sensitivity& s : range->sensitivities)
            if (s.about == about)
                return s.high - s.low;
        return 0.0;
    };
    m_says =
        tr("is what the prediction leaves open: %1 to %2. Ten minutes at a known load tell the "
           "cells' resistance, which alone moves it by %3; a whole run tells what they hold: "
           "%4.")
            .arg(hours(range->range.p10), hours(range->range.p90),
                 hours(moves("resistance of the cells")), hours(moves("capacity of the cells")));
}

void RunsPage::showRun() {
    const LogAnalysis& lesson = m_learn.lesson();
    const int at = m_run->currentIndex();
    if (at < 0 || at >= static_cast<int>(lesson.runs.size())) {
        showExpected();
        emit answered();
        return;
    }
    const Theme& t = Theme::now();
    const RunComparison& run = lesson.runs[static_cast<std::size_t>(at)];
    m_word = hours(run.measuredHours);
    m_says = qs(comparedText(run));
    m_because->setText(
        tr("%1 People reckon %2: amp-hours of the label over the mean current.")
            .arg(qs(becauseText(m_session.project(), run)), hours(run.reckonedHours)));
    auto [least, most] = fillBand(*m_plot->graph(kLow), *m_plot->graph(kHigh), run.band);
    m_plot->graph(kHigh)->setBrush(onCard(Role::copper, 0.25));
    fill(*m_plot->graph(kPredicted), run.predicted);
    fill(*m_plot->graph(kCalibrated), run.calibrated);
    fill(*m_plot->graph(kMeasured), run.measured);
    fill(*m_plot->graph(kResidual), run.residual, 1000);
    for (const RunPoint& p : run.measured) {
        least = std::min(least, p.volts);
        most = std::max(most, p.volts);
    }
    const double span = std::max({run.highHours, run.measuredHours,
                                  std::min(run.reckonedHours, 2 * run.measuredHours)}) *
                        1.06;
    m_plot->xAxis->setRange(0, span);
    tickHours(*m_plot->xAxis, span);
    const double tall = std::max(most - least, 0.01);
    m_plot->yAxis->setRange(least - tall * kLowest, most + tall * 0.35);
    m_below->axis(QCPAxis::atBottom)->setRange(0, span);
    // At the knee it always runs away: what nine tenths of the run leave sets the scale.
    std::vector<double> left;
    left.reserve(run.residual.size());
    for (const RunPoint& p : run.residual)
        left.push_back(std::abs(p.volts) * 1000);
    std::sort(left.begin(), left.end());
    const double reach =
        std::max(left.empty() ? 0 : left[static_cast<std::size_t>(0.9 * double(left.size() - 1))],
                 5.0) *
        1.4;
    m_below->axis(QCPAxis::atLeft)->setRange(-reach, reach);
    m_plot->clearItems();
    // Marks of the ends, each on a line of its own where they are near each other.
    struct Mark {
        double hours;
        QString text;
        Role role;
        Qt::PenStyle style;
    };
    QList<Mark> marks{{run.measuredHours, tr("measured %1").arg(hours(run.measuredHours)),
                       Role::ink, Qt::SolidLine},
                      {run.predictedHours, tr("predicted %1").arg(hours(run.predictedHours)),
                       Role::copper, Qt::SolidLine}};
    if (run.calibratedHours)
        marks << Mark{*run.calibratedHours, tr("learned %1").arg(hours(*run.calibratedHours)),
                      Role::copper, Qt::DashLine};
    if (run.reckonedHours > 0 && run.reckonedHours < span)
        marks << Mark{run.reckonedHours, tr("people reckon %1").arg(hours(run.reckonedHours)),
                      Role::muted, Qt::DotLine};
    std::stable_sort(marks.begin(), marks.end(),
                     [](const Mark& a, const Mark& b) { return a.hours < b.hours; });
    int line = 0;
    for (const Mark& mark : marks) {
        auto* rule = new QCPItemLine(m_plot);
        rule->setPen(QPen(colour(mark.role), t.px(1.3), mark.style));
        rule->start->setCoords(mark.hours, least - tall * kLowest);
        rule->end->setCoords(mark.hours, most + tall * 0.35);
        auto* text = plotText(*m_plot, mark.role,
                              {.size = 11.5,
                               .bold = mark.role != Role::muted,
                               .padding = {t.ipx(3), 0, t.ipx(4), 0},
                               .ground = true},
                              mark.text);
        text->setPositionAlignment(Qt::AlignRight | Qt::AlignTop);
        text->position->setTypeX(QCPItemPosition::ptPlotCoords);
        text->position->setTypeY(QCPItemPosition::ptAxisRectRatio);
        text->position->setCoords(mark.hours, kMarkTop + kMarkStep * line);
        ++line;
    }
    m_plot->replot(QCustomPlot::rpQueuedReplot);
    emit answered();
}

void RunsPage::showRates(const LogAnalysis& lesson) {
    const Theme& t = Theme::now();
    QVector<double> x;
    QVector<double> y;
    double least = 1;
    double most = 0;
    double low = 1e9;
    double high = 0;
    for (const DeliveredShare& g : lesson.gives) {
        x << g.watts;
        y << g.share * 100;
        low = std::min(low, g.watts);
        high = std::max(high, g.watts);
        least = std::min(least, g.share);
        most = std::max(most, g.share);
    }
    m_rates->graph(0)->setData(x, y, true);
    x.clear();
    y.clear();
    m_rates->clearItems();
    int repeats = 0;
    double spread = 0;
    for (const DischargeRun& run : lesson.sums.runs) {
        if (!run.efficiency)
            continue;
        x << run.meanWatts;
        y << *run.efficiency * 100;
        least = std::min(least, *run.efficiency);
        most = std::max(most, *run.efficiency);
    }
    for (const DischargeGroup& group : lesson.sums.groups)
        if (group.spread && group.efficiency) {
            // A repeated run is a bar as long as its spread.
            ++repeats;
            spread = std::max(spread, *group.spread);
            auto* bar = new QCPItemLine(m_rates);
            bar->setPen(QPen(colour(Role::ink), t.px(5), Qt::SolidLine, Qt::RoundCap));
            const double half = *group.efficiency * *group.spread * 50;
            bar->start->setCoords(group.meanWatts, *group.efficiency * 100 - half);
            bar->end->setCoords(group.meanWatts, *group.efficiency * 100 + half);
        }
    m_rates->graph(1)->setData(x, y);
    m_rates->graph(1)->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle,
                                                       QPen(colour(Role::ink), t.px(1.8)),
                                                       colour(Role::card), t.px(9)));
    if (high <= 0)
        return;
    m_rates->xAxis->setRange(low, high);
    m_rates->yAxis->setRange(std::max(0.0, least * 100 - 6), most * 100 + 6);
    auto percent = QSharedPointer<QCPAxisTickerText>::create();
    const double step = most - least > 0.25 ? 10 : 5;
    for (double at = 0; at <= 150; at += step)
        percent->addTick(at, QStringLiteral("%1 %").arg(at));
    m_rates->yAxis->setTicker(percent);
    auto watts = QSharedPointer<QCPAxisTickerText>::create();
    for (double decade = 1e-6; decade < 1e6; decade *= 10)
        for (const double of : {1.0, 2.0, 5.0})
            watts->addTick(of * decade, decade < 1 ? tr("%1 mW").arg(of * decade * 1000)
                                                   : tr("%1 W").arg(of * decade));
    m_rates->xAxis->setTicker(watts);
    QString note =
        lesson.sums.runs.size() == 1 ? tr("One run") : tr("%1 runs").arg(lesson.sums.runs.size());
    if (repeats > 0)
        note += tr(", repeated within %1").arg(qs(writeShare(spread)));
    note += tr(" of %1 on the label.").arg(quantity(lesson.labelWh, Unit::wattHour));
    double own = 0;
    for (const DischargeRun& run : lesson.sums.runs)
        own += run.ownWh;
    if (own > 0)
        note += tr(" The tester's own %1 are added back: %2 in all.")
                    .arg(quantity(m_learn.ask().tester.ownWatts, Unit::watt),
                         quantity(own, Unit::wattHour));
    if (lesson.sums.peukert)
        note += tr(" Capacity falls with the current by an exponent of %1.")
                    .arg(*lesson.sums.peukert, 0, 'f', 3);
    int gaps = 0;
    std::size_t bad = 0;
    for (const DischargeRun& run : lesson.sums.runs) {
        gaps += static_cast<int>(run.gaps.size());
        bad += run.badRows + run.outOfOrder;
    }
    if (gaps > 0)
        note += gaps == 1 ? tr(" There is a gap in the logs.")
                          : tr(" There are %1 gaps in the logs.").arg(gaps);
    if (bad > 0)
        note += bad == 1 ? tr(" One row was no use.") : tr(" %1 rows were no use.").arg(bad);
    m_rateNote->setText(note);
    m_rates->replot(QCustomPlot::rpQueuedReplot);
}

} // namespace sipper::app
