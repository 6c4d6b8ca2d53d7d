// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/plotstyle.hpp"

#include "theme/theme.hpp"
#include "widgets/labelplacing.hpp"
#include "widgets/text.hpp"

#include <QApplication>
#include <QClipboard>
#include <QMenu>
#include <array>
#include <cmath>
#include <qcustomplot.h>

namespace sipper::app {
namespace {

void styleAxis(QCPAxis& axis) {
    axis.setBasePen(Qt::NoPen);
    axis.setTickPen(Qt::NoPen);
    axis.setSubTickPen(Qt::NoPen);
    axis.setTickLabelColor(colour(Role::muted));
    axis.setTickLabelFont(Theme::now().font(11));
    axis.setLabelFont(Theme::now().font(11));
    axis.setLabelColor(colour(Role::muted));
    axis.grid()->setPen(QPen(colour(Role::hairline), 1));
    axis.grid()->setZeroLinePen(QPen(colour(Role::hairline), 1));
    axis.ticker()->setTickCount(5);
}

} // namespace

void stylePlot(QCustomPlot& plot) {
    plot.setBackground(QBrush(colour(Role::card)));
    plot.setAntialiasedElements(QCP::aeAll);
    for (QCPAxis* axis : {plot.xAxis, plot.yAxis, plot.xAxis2, plot.yAxis2})
        styleAxis(*axis);
    plot.xAxis->grid()->setVisible(false);
    plot.setContextMenuPolicy(Qt::CustomContextMenu);
    QObject::connect(&plot, &QWidget::customContextMenuRequested, &plot, [&plot](const QPoint& at) {
        QMenu menu(&plot);
        menu.addAction(QObject::tr("Copy as picture"),
                       [&plot] { QApplication::clipboard()->setPixmap(plot.toPixmap()); });
        menu.addAction(QObject::tr("Copy as CSV"),
                       [&plot] { QApplication::clipboard()->setText(plotCsv(plot)); });
        menu.exec(plot.mapToGlobal(at));
    });
}

void styleMainGraph(QCPGraph& graph) {
    graph.setPen(QPen(colour(Role::copper), Theme::now().px(2)));
}

void tickHours(QCPAxis& axis, double span) {
    constexpr int kMost = 8;
    static constexpr std::array kSteps{1.0 / 60, 1.0 / 12, 0.25,   0.5,    1.0,   2.0,
                                       6.0,      12.0,     24.0,   48.0,   120.0, 240.0,
                                       720.0,    2160.0,   8766.0, 43830.0};
    double step = kSteps.back();
    for (const double s : kSteps)
        if (span / s <= kMost) {
            step = s;
            break;
        }
    auto ticker = QSharedPointer<QCPAxisTickerText>::create();
    for (int i = 0; i * step <= span * 1.0001; ++i)
        ticker->addTick(i * step, i == 0 ? QStringLiteral("0 h") : hours(i * step));
    axis.setTicker(ticker);
}

namespace {

/// `10.0 mA` as `10 mA`.
QString plain(QString text) {
    return text.replace(QStringLiteral(".00"), QString())
        .replace(QStringLiteral(".0 "), QStringLiteral(" "));
}

} // namespace

double niceSeconds(double span, double most) {
    const double decade = std::pow(10.0, std::floor(std::log10(span / most)));
    double step = decade * 10;
    for (const double nice : {1.0, 2.0, 5.0})
        if (span / (decade * nice) <= most) {
            step = decade * nice;
            break;
        }
    // Minutes and hours have their own round figures.
    for (const double nice :
         {15.0, 30.0, 60.0, 120.0, 300.0, 600.0, 1800.0, 3600.0, 7200.0, 21600.0})
        if (step > 10 && span / nice <= most)
            return nice;
    return step;
}

QString tickText(double seconds, double step) {
    constexpr double kMinute = 60;
    constexpr double kHour = 3600;
    // As fine as the step: two ticks never read alike.
    if (step < kMinute || seconds < 2 * kMinute)
        return plain(seconds >= 1000 ? QStringLiteral("%1 s").arg(seconds, 0, 'f', step < 1 ? 1 : 0)
                                     : quantity(seconds, Unit::second));
    if (step >= kHour || seconds < kHour)
        return hours(seconds / kHour);
    const auto minutes = static_cast<int>(std::lround(seconds / kMinute));
    return QStringLiteral("%1 h %2").arg(minutes / 60).arg(minutes % 60, 2, 10, QLatin1Char('0'));
}

void tickSeconds(QCPAxis& axis, double from, double to) {
    constexpr double kLabel = 72; ///< px of one
    const double most = std::clamp(axis.axisRect()->width() / Theme::now().px(kLabel), 2.0, 9.0);
    const double step = niceSeconds(to - from, most);
    auto ticker = QSharedPointer<QCPAxisTickerText>::create();
    for (double at = std::ceil(from / step) * step; at <= to * (1 + 1e-9); at += step)
        ticker->addTick(at, tickText(at, step));
    axis.setTicker(ticker);
}

QString plainDecade(double amps) {
    return plain(quantity(amps, Unit::ampere));
}

void addZoom(QCustomPlot& plot, std::function<void()> whole) {
    plot.setSelectionRectMode(QCP::srmZoom);
    plot.selectionRect()->setPen(QPen(colour(Role::copper), 1));
    QColor fill = colour(Role::copper);
    fill.setAlphaF(0.12F);
    plot.selectionRect()->setBrush(fill);
    plot.axisRect()->setRangeZoomAxes(plot.xAxis, nullptr);
    QObject::connect(&plot, &QCustomPlot::mouseDoubleClick, &plot, std::move(whole));
}

void addCrosshair(QCustomPlot& plot, QCPGraph& graph, std::function<QString(double, double)> text) {
    auto* line = new QCPItemStraightLine(&plot);
    line->setPen(QPen(colour(Role::muted), 1));
    auto* label = new QCPItemText(&plot);
    label->setFont(Theme::now().font(11, true));
    label->setColor(colour(Role::ink));
    label->setBrush(QBrush(colour(Role::card)));
    label->setPen(QPen(colour(Role::hairline)));
    label->setPadding(QMargins(5, 2, 5, 2));
    const auto show = [line, label](bool on) {
        line->setVisible(on);
        label->setVisible(on);
    };
    show(false);
    QObject::connect(
        &plot, &QCustomPlot::mouseMove, &plot,
        [&plot, &graph, line, label, show, text = std::move(text)](QMouseEvent* event) {
            const auto points = graph.data();
            const double key = plot.xAxis->pixelToCoord(event->position().x());
            const bool on = !points->isEmpty() && key >= points->constBegin()->key &&
                            key <= (points->constEnd() - 1)->key;
            show(on);
            if (on) {
                const auto at = points->findBegin(key);
                line->point1->setCoords(key, 0);
                line->point2->setCoords(key, 1);
                label->setText(text(key, at->value));
                const bool right = key < plot.xAxis->range().center();
                label->setPositionAlignment(Qt::AlignBottom |
                                            (right ? Qt::AlignLeft : Qt::AlignRight));
                label->position->setCoords(
                    key + plot.xAxis->range().size() * (right ? 0.008 : -0.008), at->value);
            }
            plot.replot(QCustomPlot::rpQueuedReplot);
        });
}

QCPItemText* plotText(QCustomPlot& plot, Role ink, const PlotTextLook& look, const QString& words) {
    auto* item = new QCPItemText(&plot);
    item->setFont(Theme::now().font(look.size, look.bold));
    item->setColor(colour(ink));
    item->setPadding(look.padding);
    item->setText(words);
    if (look.ground)
        item->setBrush(QBrush(colour(Role::card)));
    return item;
}

PlotLabels::PlotLabels(QCustomPlot& plot) : QObject(&plot), m_plot(plot) {
    connect(&plot, &QCustomPlot::afterLayout, this, &PlotLabels::separate);
}

void PlotLabels::add(QCPItemText& label) {
    m_labels.push_back({&label, &label, label.position->key(), label.position->value()});
}

void PlotLabels::separate() {
    struct Place {
        QCPItemText* item;
        double left, right, middle, height;
    };
    std::erase_if(m_labels, [](const Label& label) { return label.alive.isNull(); });
    std::vector<Place> places;
    for (const Label& label : m_labels) {
        label.item->position->setCoords(label.key, label.value);
        const QPointF from = label.item->topLeft->pixelPosition();
        const QPointF to = label.item->bottomRight->pixelPosition();
        places.push_back(
            {label.item, from.x(), to.x(), (from.y() + to.y()) / 2, to.y() - from.y()});
    }
    std::sort(places.begin(), places.end(),
              [](const Place& a, const Place& b) { return a.left < b.left; });
    const QRect area = m_plot.axisRect()->rect();
    for (std::size_t first = 0; first < places.size();) {
        // Those whose widths meet, one after another, are one column.
        double right = places[first].right;
        std::size_t end = first + 1;
        for (; end < places.size() && places[end].left < right; ++end)
            right = std::max(right, places[end].right);
        std::sort(places.begin() + static_cast<std::ptrdiff_t>(first),
                  places.begin() + static_cast<std::ptrdiff_t>(end),
                  [](const Place& a, const Place& b) { return a.middle < b.middle; });
        std::vector<double> wanted, heights;
        for (std::size_t i = first; i < end; ++i) {
            wanted.push_back(places[i].middle);
            heights.push_back(places[i].height);
        }
        const auto placed = placeWithoutOverlap(wanted, heights, area.top(), area.bottom());
        for (std::size_t i = first; i < end; ++i) {
            const QPointF at = places[i].item->position->pixelPosition();
            places[i].item->position->setPixelPosition(
                at + QPointF(0, placed[i - first] - places[i].middle));
        }
        first = end;
    }
}

QString plotCsv(const QCustomPlot& plot) {
    QString csv;
    const QString keys = plot.property("keys").toString();
    for (int g = 0; g < plot.graphCount(); ++g) {
        const QCPGraph* graph = plot.graph(g);
        csv += QStringLiteral("%1,%2\n").arg(keys, graph->name());
        for (const QCPGraphData& point : *graph->data())
            csv += QStringLiteral("%1,%2\n").arg(point.key, 0, 'g', 9).arg(point.value, 0, 'g', 9);
    }
    return csv;
}

} // namespace sipper::app
