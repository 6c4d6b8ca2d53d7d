// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/charging/sunyearplot.hpp"

#include "solar/text.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kBarWidth = 22;      ///< days
constexpr double kPlainFactor = 10;   ///< times the need from which no decimals are said
constexpr float kMissedAtAll = 0.02F; ///< of an hour

QCPColorGradient gradient(const QColor& low, const QColor& middle, const QColor& high) {
    QCPColorGradient g;
    g.clearColorStops();
    g.setColorInterpolation(QCPColorGradient::ciRGB);
    g.setColorStopAt(0, low);
    g.setColorStopAt(0.5, middle);
    g.setColorStopAt(1, high);
    g.setNanHandling(QCPColorGradient::nhTransparent);
    return g;
}

double middleOf(std::size_t month) {
    return (static_cast<double>(firstDayOf(month)) + static_cast<double>(firstDayOf(month + 1))) /
           2;
}

void quiet(QCPAxis& axis) {
    axis.setBasePen(Qt::NoPen);
    axis.setTickPen(Qt::NoPen);
    axis.setSubTickPen(Qt::NoPen);
    axis.grid()->setVisible(false);
    axis.setTickLabelFont(Theme::now().font(11));
    axis.setTickLabelColor(colour(Role::muted));
}

} // namespace

SunYearPlot::SunYearPlot(QWidget* parent) : QCustomPlot(parent) {
    setObjectName(QStringLiteral("sun.year"));
    setAccessibleName(tr("The year, day by hour"));
    setToolTip(tr("Hover, or use the arrow keys, to read an hour; click to see the supply line at "
                  "that charge"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumHeight(Theme::now().ipx(230));
    stylePlot(*this);
    makeYear();
    makeMonths();
}

void SunYearPlot::makeYear() {
    const auto days = static_cast<double>(kDaysAYear);
    xAxis->setRange(0, days);
    yAxis->setRange(0, 24);
    quiet(*xAxis);
    quiet(*yAxis);
    auto months = QSharedPointer<QCPAxisTickerText>::create();
    for (std::size_t month = 0; month < 12; ++month)
        months->addTick(middleOf(month), qs(monthName(month)).left(3));
    xAxis->setTicker(months);
    auto clock = QSharedPointer<QCPAxisTickerText>::create();
    for (int hour = 0; hour <= 24; hour += 6)
        clock->addTick(hour, QStringLiteral("%1:00").arg(hour, 2, 10, QLatin1Char('0')));
    yAxis->setTicker(clock);
    const auto map = [&](const QCPColorGradient& shades) {
        auto* m = new QCPColorMap(xAxis, yAxis);
        m->data()->setSize(static_cast<int>(kDaysAYear), 24);
        m->data()->setRange(QCPRange(0.5, days - 0.5), QCPRange(0.5, 23.5));
        m->setInterpolate(false);
        m->setGradient(shades);
        m->setDataRange(QCPRange(0, 1));
        return m;
    };
    const bool night = Theme::now().night();
    m_charge = map(gradient(onCard(Role::muted, night ? 0.25 : 0.14),
                            onCard(Role::charging, night ? 0.5 : 0.42),
                            onCard(Role::charging, night ? 0.9 : 1.0)));
    m_missed = map(gradient(onCard(Role::stop, 0.6), colour(Role::stop), colour(Role::stop)));
    m_cursor = new QCPItemRect(this);
    m_cursor->setPen(QPen(colour(Role::ink), Theme::now().px(1.5)));
    m_cursor->setBrush(Qt::NoBrush);
    m_cursor->setVisible(false);
}

void SunYearPlot::makeMonths() {
    const Theme& t = Theme::now();
    m_months = new QCPAxisRect(this);
    m_months->setMinimumSize(50, t.ipx(70));
    m_months->setMaximumSize(QWIDGETSIZE_MAX, t.ipx(70));
    plotLayout()->addElement(1, 0, m_months);
    m_months->setAutoMargins(QCP::msLeft | QCP::msRight | QCP::msBottom);
    m_months->setMargins(QMargins(0, t.ipx(2), 0, 0));
    plotLayout()->setRowSpacing(0);
    auto* sides = new QCPMarginGroup(this);
    for (QCPAxisRect* rect : {axisRect(), m_months})
        rect->setMarginGroup(QCP::msLeft | QCP::msRight, sides);
    QCPAxis* below = m_months->axis(QCPAxis::atBottom);
    QCPAxis* side = m_months->axis(QCPAxis::atLeft);
    quiet(*below);
    quiet(*side);
    below->setRange(0, static_cast<double>(kDaysAYear));
    side->setTickLabels(false);
    const auto bars = [&](const QColor& fill, const QString& name) {
        auto* b = new QCPBars(below, side);
        b->setWidth(kBarWidth);
        b->setPen(Qt::NoPen);
        b->setBrush(fill);
        b->setName(name);
        return b;
    };
    m_could = bars(onCard(Role::charging, 0.28), tr("the panel could give (Wh a day)"));
    m_need = bars(colour(Role::copper), tr("needed (Wh a day)"));
    const auto name = [&](const QString& says, Role role, double at) {
        auto* item = plotText(*this, role, {.padding = {}}, says);
        item->setClipToAxisRect(false);
        item->position->setType(QCPItemPosition::ptAxisRectRatio);
        item->position->setAxisRect(m_months);
        item->position->setCoords(-0.008, at);
        item->setPositionAlignment(Qt::AlignRight | Qt::AlignVCenter);
    };
    name(tr("panel"), Role::charging, 0.25);
    name(tr("need"), Role::copper, 0.82);
}

void SunYearPlot::clearYear() {
    m_chargeOf.clear();
    m_missedOf.clear();
    mark(std::nullopt);
    m_charge->data()->fill(std::nan(""));
    m_missed->data()->fill(std::nan(""));
    m_could->data()->clear();
    m_need->data()->clear();
    replot();
}

void SunYearPlot::show(const SolarYear& year) {
    m_chargeOf = year.worstCharge;
    m_missedOf = year.worstMissed;
    for (std::size_t hour = 0; hour < std::min(m_chargeOf.size(), kHoursAYear); ++hour) {
        const auto day = static_cast<int>(hour / 24);
        const auto clock = static_cast<int>(hour % 24);
        m_charge->data()->setCell(day, clock, static_cast<double>(m_chargeOf[hour]));
        m_missed->data()->setCell(
            day, clock,
            m_missedOf[hour] > kMissedAtAll ? static_cast<double>(m_missedOf[hour]) : std::nan(""));
    }
    QVector<double> keys;
    QVector<double> could;
    QVector<double> need;
    auto factors = QSharedPointer<QCPAxisTickerText>::create();
    for (std::size_t month = 0; month < 12; ++month) {
        const double days =
            static_cast<double>((firstDayOf(month + 1) - firstDayOf(month)) * year.years);
        const double factor = timesTheNeed(year, month);
        keys << middleOf(month);
        could << year.months[month].availableWh / days;
        need << (factor > 0 ? could.back() / factor : 0);
        factors->addTick(keys.back(),
                         QStringLiteral("%1 ×").arg(factor, 0, 'f', factor < kPlainFactor ? 1 : 0));
    }
    m_could->setData(keys, could, true);
    m_need->setData(keys, need, true);
    m_months->axis(QCPAxis::atBottom)->setTicker(factors);
    const double most = *std::max_element(could.begin(), could.end());
    const double least = *std::max_element(need.begin(), need.end());
    m_months->axis(QCPAxis::atLeft)->setRange(0, std::max({most, least, 1e-9}) * 1.02);
    mark(m_marked);
    replot();
}

QString SunYearPlot::reading() const {
    if (!m_marked || *m_marked >= m_chargeOf.size())
        return {};
    const std::size_t day = *m_marked / 24;
    const std::size_t month = monthOf(day);
    QString says = tr("%1 %2, %3:00: charge %4")
                       .arg(day - firstDayOf(month) + 1)
                       .arg(qs(monthName(month)))
                       .arg(*m_marked % 24, 2, 10, QLatin1Char('0'))
                       .arg(qs(writeShare(static_cast<double>(m_chargeOf[*m_marked]))));
    if (m_missedOf[*m_marked] > kMissedAtAll)
        says += tr(", missed");
    return says;
}

void SunYearPlot::mark(std::optional<std::size_t> hour) {
    m_marked = hour && *hour < m_chargeOf.size() ? hour : std::nullopt;
    m_cursor->setVisible(m_marked.has_value());
    if (m_marked) {
        const auto day = static_cast<double>(*m_marked / 24);
        const auto clock = static_cast<double>(*m_marked % 24);
        m_cursor->topLeft->setCoords(day - 1, clock + 1.2);
        m_cursor->bottomRight->setCoords(day + 2, clock - 0.2);
    }
    emit markedChanged(reading());
    replot(QCustomPlot::rpQueuedReplot);
}

std::optional<std::size_t> SunYearPlot::hourAt(const QPointF& at) const {
    if (!axisRect()->rect().contains(at.toPoint()))
        return std::nullopt;
    const double day = std::floor(xAxis->pixelToCoord(at.x()));
    const double clock = std::floor(yAxis->pixelToCoord(at.y()));
    if (day < 0 || day >= static_cast<double>(kDaysAYear) || clock < 0 || clock >= 24)
        return std::nullopt;
    return static_cast<std::size_t>(day) * 24 + static_cast<std::size_t>(clock);
}

void SunYearPlot::mouseMoveEvent(QMouseEvent* event) {
    mark(hourAt(event->position()));
}

void SunYearPlot::leaveEvent(QEvent* event) {
    QCustomPlot::leaveEvent(event);
    if (!hasFocus())
        mark(std::nullopt);
}

void SunYearPlot::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton)
        return QCustomPlot::mousePressEvent(event);
    mark(hourAt(event->position()));
    if (m_marked)
        emit picked(*m_marked, static_cast<double>(m_chargeOf[*m_marked]));
}

void SunYearPlot::keyPressEvent(QKeyEvent* event) {
    if (m_chargeOf.empty())
        return QCustomPlot::keyPressEvent(event);
    const auto all = static_cast<long>(m_chargeOf.size());
    long hour = m_marked ? static_cast<long>(*m_marked) : 0;
    switch (event->key()) {
    case Qt::Key_Right:
        hour += 24;
        break;
    case Qt::Key_Left:
        hour -= 24;
        break;
    case Qt::Key_Up:
        ++hour;
        break;
    case Qt::Key_Down:
        --hour;
        break;
    case Qt::Key_Return:
        if (m_marked)
            emit picked(*m_marked, static_cast<double>(m_chargeOf[*m_marked]));
        return;
    default:
        return QCustomPlot::keyPressEvent(event);
    }
    mark(static_cast<std::size_t>((hour % all + all) % all));
}

} // namespace sipper::app
