// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/logbookpage.hpp"

#include "measure/logbook.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <QBoxLayout>
#include <QDateTime>
#include <QHeaderView>
#include <QLabel>
#include <QTableWidget>
#include <cmath>
#include <qcustomplot.h>

namespace sipper::app {
namespace {

constexpr double kDaySeconds = 86400;

void showTrend(QCustomPlot& plot, const Trend& trend, double scale, std::optional<double> until) {
    QVector<double> x;
    QVector<double> y;
    double least = 1e12;
    double most = -1e12;
    for (const TrendPoint& p : trend.points) {
        x << p.day * kDaySeconds;
        y << p.value * scale;
        least = std::min(least, p.value * scale);
        most = std::max(most, p.value * scale);
    }
    plot.graph(0)->setData(x, y, true);
    const double first = trend.points.front().day;
    const double last = std::max(trend.points.back().day, until.value_or(0));
    const double span = std::max(last - first, 14.0);
    if (trend.line) {
        plot.graph(1)->setData({first * kDaySeconds, last * kDaySeconds},
                               {trend.at(first) * scale, trend.at(last) * scale}, true);
        least = std::min(least, trend.at(last) * scale);
        most = std::max(most, trend.at(last) * scale);
    } else {
        plot.graph(1)->data()->clear();
    }
    plot.xAxis->setRange((first - span * 0.05) * kDaySeconds, (last + span * 0.08) * kDaySeconds);
    const double tall = std::max(most - least, most * 0.05);
    plot.yAxis->setRange(least - tall * 0.15, most + tall * 0.15);
    plot.replot(QCustomPlot::rpQueuedReplot);
}

} // namespace

LogbookPage::LogbookPage(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("logbook"));
    auto* row = newRow(this, 8, Margins{});
    auto* card = newCard(this, "logbookCard", tr("Logbook"));
    auto* column = newColumn(card, {}, Margins{8, 8, 8, 8});
    auto* title =
        textLabel(card, tr("What was measured, the latest first"), {.size = 13, .bold = true});
    column->addWidget(title);
    m_table = new QTableWidget(0, 3, card);
    m_table->setObjectName(QStringLiteral("logbook.table"));
    m_table->setAccessibleName(tr("Logbook"));
    m_table->horizontalHeader()->hide();
    styleTable(*m_table);
    m_table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_table->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_table->horizontalHeader()->setSectionResizeMode(1, QHeaderView::Stretch);
    column->addWidget(m_table, 1);
    row->addWidget(card, 6);
    auto* age = newCard(this, "logbookAgeCard", tr("How the pack ages"));
    auto* right = newColumn(age, {}, Margins{8, 8, 8, 8});
    auto* head = textLabel(age, tr("How the pack ages"), {.size = 13, .bold = true});
    right->addWidget(head);
    m_age = textLabel(age, {}, {.size = 12.5, .wrap = true, .name = "logbook.age"});
    right->addWidget(m_age);
    m_capacity = buildPlot("logbook.capacity", tr("Capacity over time"));
    m_capacity->yAxis->setLabel(tr("% of the label"));
    m_resistance = buildPlot("logbook.resistance", tr("Resistance over time"));
    m_resistance->yAxis->setLabel(tr("mΩ of the pack"));
    right->addWidget(m_capacity, 1);
    right->addWidget(m_resistance, 1);
    right->addStretch();
    row->addWidget(age, 5);
}

QCustomPlot* LogbookPage::buildPlot(const char* name, const QString& accessible) {
    const Theme& t = Theme::now();
    auto* plot = new QCustomPlot(this);
    plot->setObjectName(QLatin1String(name));
    plot->setAccessibleName(accessible);
    plot->setProperty("keys", tr("time (s)"));
    stylePlot(*plot);
    plot->setMinimumHeight(t.ipx(120));
    plot->addGraph()->setName(tr("measured"));
    plot->addGraph()->setName(tr("straight line"));
    plot->graph(0)->setLineStyle(QCPGraph::lsNone);
    plot->graph(0)->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle,
                                                    QPen(colour(Role::ink), t.px(1.8)),
                                                    colour(Role::card), t.px(9)));
    plot->graph(1)->setPen(QPen(colour(Role::copper), t.px(1.8), Qt::DashLine));
    auto ticker = QSharedPointer<QCPAxisTickerDateTime>::create();
    ticker->setDateTimeFormat(QStringLiteral("yyyy-MM"));
    ticker->setTickCount(4);
    plot->xAxis->setTicker(ticker);
    return plot;
}

/// Before anything was measured: what the rule of thumb says of these cells, as a faint line.
bool LogbookPage::showExpectedAge() {
    const Results& r = m_session.results();
    if (!r.cycles || !r.runtime.hours || r.runtime.hours->value() <= 0)
        return false;
    constexpr double kHoursADay = 24;
    constexpr double kDaysAYear = 365.25;
    constexpr double kMostYears = 25;
    const double middle = (r.cycles->low + r.cycles->high) / 2;
    const double days = middle * r.runtime.hours->value() / kHoursADay;
    if (days < 1 || days > kMostYears * kDaysAYear)
        return false;
    const double today = static_cast<double>(QDateTime::currentSecsSinceEpoch());
    m_capacity->graph(0)->data()->clear();
    m_capacity->graph(1)->setData({today, today + days * kDaySeconds}, {100, 80}, true);
    m_capacity->xAxis->setRange(today - days * kDaySeconds * 0.05,
                                today + days * kDaySeconds * 1.05);
    m_capacity->yAxis->setRange(76, 103);
    m_capacity->replot(QCustomPlot::rpQueuedReplot);
    m_age->setText(
        tr("Shown faintly: by the rule of thumb these cells keep four fifths for %1 to %2 full "
           "runs, about %3 if each is followed by a refill at once. Runs of the whole pack, months "
           "apart, show whether they do: take one over on the page Runs.")
            .arg(std::round(r.cycles->low))
            .arg(std::round(r.cycles->high))
            .arg(hours(days * kHoursADay)));
    return true;
}

void LogbookPage::refresh() {
    const Project& p = m_session.project();
    const std::vector<LogLine> lines = logbookOf(p);
    m_table->setRowCount(static_cast<int>(lines.size()));
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const QStringList texts{qs(lines[i].when).replace('T', ' '), qs(lines[i].title),
                                qs(lines[i].figure)};
        for (int column = 0; column < 3; ++column) {
            auto* item = new QTableWidgetItem(texts[column]);
            item->setToolTip(texts[column]);
            if (column == 0 || lines[i].superseded)
                item->setForeground(colour(Role::muted));
            if (lines[i].superseded) {
                QFont font = m_table->font();
                font.setStrikeOut(true);
                item->setFont(font);
            }
            m_table->setItem(static_cast<int>(i), column, item);
        }
    }
    m_table->resizeColumnToContents(0);
    m_table->resizeColumnToContents(2);
    m_word = lines.size() == 1 ? tr("1 entry") : tr("%1 entries").arg(lines.size());
    m_says = lines.empty()
                 ? tr("yet. A reading on the page Checks or a run on the page Runs begins "
                      "it; months apart they draw how these cells age.")
                 : tr("of readings, runs and what was learned from them.");
    const PackAge age = packAge(p);
    const bool held = !age.capacity.points.empty();
    m_capacity->setVisible(held);
    m_resistance->setVisible(!age.resistance.points.empty());
    if (!held && showExpectedAge()) {
        m_capacity->show();
    } else if (!held) {
        m_age->setText(
            tr("Runs of the whole pack, months apart, show how it ages. Take one over on "
               "the page of runs, or put it into the logbook there."));
    } else if (!age.capacity.line) {
        m_age->setText(
            tr("It held %1 of its label on %2. A run some weeks later makes a line of it.")
                .arg(qs(writeShare(age.capacity.points.back().value)),
                     qs(dateText(age.capacity.points.back().day))));
    } else {
        const double year = -age.capacity.perDay * 365.25;
        m_age->setText(
            age.underFourFifths
                ? tr("It loses %1 of its label a year and will be under 80 % about %2, if it goes "
                     "on in a straight line.")
                      .arg(qs(writeShare(year)), qs(dateText(*age.underFourFifths)))
                : tr("It shows no loss that a straight line could tell from the runs' spread."));
    }
    if (held)
        showTrend(*m_capacity, age.capacity, 100, age.underFourFifths);
    if (!age.resistance.points.empty())
        showTrend(*m_resistance, age.resistance, 1000, {});
    emit answered();
}

} // namespace sipper::app
