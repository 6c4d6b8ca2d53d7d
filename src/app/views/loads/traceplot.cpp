// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/loads/traceplot.hpp"

#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <QPainter>
#include <QVBoxLayout>
#include <array>
#include <cmath>
#include <qcustomplot.h>

namespace sipper::app {
namespace {

constexpr double kNear = 5;               ///< px from a line within which a drag takes it
constexpr double kFloorShare = 1e-6;      ///< of the peak: what is lower lies on the axis
constexpr std::size_t kMostStays = 20000; ///< on show; more is a blur

double floorOf(const TraceSegments& cut) {
    double low = cut.peakAmps;
    for (const TraceMode& m : cut.modes)
        if (m.amps > 0)
            low = std::min(low, m.amps);
    return std::max({1e-9, cut.peakAmps * kFloorShare, low / 3});
}

} // namespace

QColor levelColour(std::size_t index) {
    static constexpr std::array roles{Role::muted,    Role::copper, Role::accepts,
                                      Role::charging, Role::weigh,  Role::stop};
    return colour(roles[index % roles.size()]);
}

StayRibbon::StayRibbon(TraceWork& work, QCustomPlot& plot, QWidget* parent)
    : QWidget(parent), m_work(work), m_plot(plot) {
    setObjectName(QStringLiteral("trace.ribbon"));
    setAccessibleName(tr("Which mode the trace is in"));
    setToolTip(tr("Which mode the cut sees, in the colours of the levels"));
    setFixedHeight(Theme::now().ipx(8));
}

void StayRibbon::paintEvent(QPaintEvent*) {
    if (!m_work.trace())
        return;
    QPainter p(this);
    const Trace& t = *m_work.trace();
    const QCPRange range = m_plot.xAxis->range();
    std::size_t shown = 0;
    double lastRight = -1;
    for (const Dwell& s : m_work.cut().stays) {
        const double from = t.seconds[s.first];
        const double to = s.last < t.seconds.size() ? t.seconds[s.last] : t.span();
        if (to < range.lower || from > range.upper || ++shown > kMostStays)
            continue;
        const double left = m_plot.xAxis->coordToPixel(std::max(from, range.lower));
        const double right = m_plot.xAxis->coordToPixel(std::min(to, range.upper));
        if (right - lastRight < 0.3)
            continue; // the same pixel again
        p.fillRect(QRectF(left, 0, std::max(1.0, right - left), height()), levelColour(s.mode));
        lastRight = right;
    }
}

TracePlot::TracePlot(TraceWork& work, QWidget* parent) : QWidget(parent), m_work(work) {
    setObjectName(QStringLiteral("trace.view"));
    m_plot = new QCustomPlot(this);
    m_plot->setObjectName(QStringLiteral("trace.plot"));
    m_plot->setAccessibleName(tr("Measured current over time"));
    stylePlot(*m_plot);
    m_graph = m_plot->addGraph();
    m_graph->setName(tr("current (A)"));
    m_plot->setProperty("keys", tr("time (s)"));
    QPen pen(colour(Role::ink), Theme::now().px(1));
    m_graph->setPen(pen);
    m_graph->setAdaptiveSampling(false);
    m_plot->setNoAntialiasingOnDrag(true);
    m_plot->yAxis->setScaleType(QCPAxis::stLogarithmic);
    addZoom(*m_plot, [this] {
        if (m_shown)
            m_plot->xAxis->setRange(0, m_shown->span());
    });
    addCrosshair(*m_plot, *m_graph, [](double seconds, double amps) {
        return QStringLiteral("%1: %2").arg(quantity(seconds, Unit::second),
                                            quantity(amps, Unit::ampere));
    });
    m_ribbon = new StayRibbon(work, *m_plot, this);
    auto* column = newColumn(this, 0, Margins{});
    column->addWidget(m_plot, 1);
    column->addWidget(m_ribbon);
    connect(m_plot->xAxis, qOverload<const QCPRange&>(&QCPAxis::rangeChanged), this,
            &TracePlot::fill);
    connect(m_plot, &QCustomPlot::afterLayout, this, [this] {
        if (m_plot->axisRect()->width() != m_filledWidth)
            fill();
        emit arranged();
    });
    connect(m_plot, &QCustomPlot::mousePress, this, [this](QMouseEvent* event) {
        m_dragged = event->button() == Qt::LeftButton ? levelNear(event->position().y()) : -1;
        if (m_dragged >= 0)
            m_plot->setSelectionRectMode(QCP::srmNone); // not a zoom
    });
    connect(m_plot, &QCustomPlot::mouseMove, this, [this](QMouseEvent* event) {
        if (m_dragged >= 0)
            m_work.moveLevel(static_cast<std::size_t>(m_dragged), ampsAt(event->position().y()));
        m_plot->setCursor(m_dragged >= 0 || levelNear(event->position().y()) >= 0
                              ? Qt::SizeVerCursor
                              : Qt::ArrowCursor);
    });
    connect(m_plot, &QCustomPlot::mouseRelease, this, [this] {
        m_dragged = -1;
        m_plot->setSelectionRectMode(QCP::srmZoom);
    });
    connect(&work, &TraceWork::changed, this, [this] {
        showTrace();
        showLevels();
    });
    connect(&work, &TraceWork::levelMoved, this, &TracePlot::showLevels);
    showTrace();
    showLevels();
}

double TracePlot::yOf(double amps) const {
    return m_plot->yAxis->coordToPixel(std::max(amps, m_plot->yAxis->range().lower));
}
double TracePlot::ampsAt(double y) const {
    return m_plot->yAxis->pixelToCoord(y);
}
double TracePlot::plotTop() const {
    return m_plot->axisRect()->top();
}
double TracePlot::plotBottom() const {
    return m_plot->axisRect()->bottom();
}

int TracePlot::levelNear(double y) const {
    int best = -1;
    double nearest = Theme::now().px(kNear);
    for (std::size_t i = 0; i < m_work.levels().size(); ++i)
        if (const double away = std::abs(yOf(m_work.levels()[i]) - y); away < nearest) {
            nearest = away;
            best = static_cast<int>(i);
        }
    return best;
}

void TracePlot::showTrace() {
    if (m_shown == m_work.trace())
        return;
    m_shown = m_work.trace();
    if (!m_shown) {
        m_graph->data()->clear();
        return;
    }
    const double low = floorOf(m_work.cut());
    m_plot->yAxis->setRange(low, std::max(low * 10, m_work.cut().peakAmps * 1.6));
    auto ticker = QSharedPointer<QCPAxisTickerText>::create();
    for (double a = std::pow(10.0, std::floor(std::log10(low))); a < m_work.cut().peakAmps * 2;
         a *= 10)
        ticker->addTick(a, plainDecade(a));
    m_plot->yAxis->setTicker(ticker);
    m_plot->xAxis->setRange(0, m_shown->span());
    fill();
}

void TracePlot::fill() {
    if (!m_shown)
        return;
    QCPRange range = m_plot->xAxis->range();
    const QCPRange whole(0, m_shown->span());
    if (range.lower < whole.lower || range.upper > whole.upper) {
        const QSignalBlocker quiet(m_plot->xAxis);
        m_plot->xAxis->setRange(range.bounded(whole.lower, whole.upper));
        range = m_plot->xAxis->range();
    }
    m_filledWidth = m_plot->axisRect()->width();
    tickSeconds(*m_plot->xAxis, range.lower, range.upper);
    const auto columns = traceColumns(*m_shown, range.lower, range.upper,
                                      static_cast<std::size_t>(std::max(50, m_filledWidth)));
    QVector<double> times;
    QVector<double> amps;
    times.reserve(static_cast<qsizetype>(columns.size()) * 2);
    amps.reserve(static_cast<qsizetype>(columns.size()) * 2);
    const double floor = m_plot->yAxis->range().lower;
    for (const TraceColumn& c : columns) {
        times << c.seconds;
        amps << std::max(floor, c.low);
        if (c.high != c.low) {
            times << c.seconds;
            amps << std::max(floor, c.high);
        }
    }
    m_graph->setData(times, amps, true);
    m_plot->replot(QCustomPlot::rpQueuedReplot);
    m_ribbon->update();
}

void TracePlot::showLevels() {
    const std::vector<double>& levels = m_work.levels();
    while (m_lines.size() < static_cast<qsizetype>(levels.size()))
        m_lines << new QCPItemStraightLine(m_plot);
    while (m_lines.size() > static_cast<qsizetype>(levels.size()))
        m_plot->removeItem(m_lines.takeLast());
    for (std::size_t i = 0; i < levels.size(); ++i) {
        QCPItemStraightLine* line = m_lines[static_cast<qsizetype>(i)];
        line->setPen(QPen(levelColour(i), Theme::now().px(1.4), Qt::DashLine));
        line->point1->setCoords(0, levels[i]);
        line->point2->setCoords(1, levels[i]);
    }
    m_plot->replot(QCustomPlot::rpQueuedReplot);
    m_ribbon->update();
    emit arranged();
}

void TracePlot::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    fill();
}

} // namespace sipper::app
