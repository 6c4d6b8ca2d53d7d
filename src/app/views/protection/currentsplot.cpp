// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/protection/currentsplot.hpp"

#include "protect/text.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kRowTall = 42; ///< px
constexpr double kAxisTall = 30;
constexpr double kHalf = 0.2; ///< of a row: half of a mark
constexpr double kMostAmps = 500;
constexpr double kLeastAmps = 1e-3;
constexpr double kSaysWide = 196; ///< px to the right, for the words of the verdict
constexpr double kTickWide = 58;  ///< px that a tick's words take

} // namespace

CurrentsPlot::CurrentsPlot(QWidget* parent) : QCustomPlot(parent) {
    setObjectName(QStringLiteral("currents.plot"));
    setAccessibleName(tr("Currents in order, a row for each stretch"));
    setToolTip(tr("Click a row, or use the arrow keys, to see the fuses that fit it"));
    setFocusPolicy(Qt::StrongFocus);
    setProperty("keys", tr("current (A)"));
    stylePlot(*this);
    xAxis->setScaleType(QCPAxis::stLogarithmic);
    xAxis->grid()->setVisible(true);
    yAxis->setRangeReversed(true);
    yAxis->grid()->setVisible(true);
    yAxis->setTickLabelColor(colour(Role::ink));
    yAxis->setTickLabelFont(Theme::now().font(12));
}

void CurrentsPlot::rule(double amps, double row, double half, Role role, double width) {
    auto* line = new QCPItemLine(this);
    line->setPen(QPen(colour(role), Theme::now().px(width), Qt::SolidLine, Qt::FlatCap));
    line->start->setCoords(amps, row - half);
    line->end->setCoords(amps, row + half);
}

void CurrentsPlot::show(const std::vector<WireSegment>& stretches, std::size_t chosen) {
    m_segments = stretches;
    m_chosen = chosen;
    setFixedHeight(Theme::now().ipx(
        kAxisTall + kRowTall * static_cast<double>(std::max<std::size_t>(1, m_segments.size()))));
    build();
}

void CurrentsPlot::build() {
    clearItems();
    clearGraphs();
    double low = kMostAmps;
    double high = 0;
    for (const WireSegment& s : m_segments)
        for (const double amps : {s.need.continuous, s.need.burst, s.fuse.value_or(0),
                                  s.lead.value_or(0), s.source.value_or(0)})
            if (amps > kLeastAmps) {
                low = std::min(low, amps);
                high = std::max(high, amps);
            }
    if (high <= 0) {
        low = 0.1;
        high = 10;
    }
    low *= 0.6;
    // Room for words behind the largest.
    const double wide =
        std::max(Theme::now().px(kSaysWide) * 1.5, static_cast<double>(axisRect()->width()));
    const double decades = std::log10(high / low) / (1 - Theme::now().px(kSaysWide) / wide);
    xAxis->setRange(low, low * std::pow(10, std::max(decades, 1.0)));
    auto amps = QSharedPointer<QCPAxisTickerText>::create();
    double last = -1e9;
    for (double decade = kLeastAmps; decade < kMostAmps; decade *= 10)
        for (const double step : {1.0, 2.0, 5.0}) {
            const double at = decade * step;
            if (at < low || at > high * 1.3 ||
                std::log10(at) - last < std::max(decades, 1.0) * Theme::now().px(kTickWide) / wide)
                continue;
            last = std::log10(at);
            amps->addTick(at, plainDecade(at));
        }
    xAxis->setTicker(amps);
    auto names = QSharedPointer<QCPAxisTickerText>::create();
    const QFontMetrics metrics(yAxis->tickLabelFont());
    for (std::size_t i = 0; i < m_segments.size(); ++i)
        names->addTick(
            static_cast<double>(i),
            metrics.elidedText(qs(m_segments[i].name), Qt::ElideRight, Theme::now().ipx(150)));
    yAxis->setTicker(names);
    yAxis->setRange(-0.5, static_cast<double>(m_segments.size()) - 0.5);
    for (std::size_t i = 0; i < m_segments.size(); ++i)
        addRow(i, m_segments[i]);
    replot(rpQueuedReplot);
}

void CurrentsPlot::addRow(std::size_t at, const WireSegment& s) {
    const auto row = static_cast<double>(at);
    const bool opens = s.fuse && *s.fuse < s.need.continuous;
    const bool bad =
        s.first == WeakestElement::lead || (s.first == WeakestElement::cells && s.fuse) || opens;
    if (at == m_chosen) {
        auto* ground = new QCPItemRect(this);
        ground->setPen(Qt::NoPen);
        ground->setBrush(onCard(Role::copper, 0.08));
        ground->setLayer(QStringLiteral("background"));
        ground->topLeft->setCoords(xAxis->range().lower, row - 0.48);
        ground->bottomRight->setCoords(xAxis->range().upper, row + 0.48);
    }
    if (s.first == WeakestElement::lead && s.lead) {
        // From where the lead burns to where something would have opened.
        auto* hatch = new QCPItemRect(this);
        hatch->setPen(Qt::NoPen);
        hatch->setBrush(hatchBrush());
        const double to = s.fuse ? *s.fuse : std::min(s.shortCircuit, xAxis->range().upper);
        hatch->topLeft->setCoords(*s.lead, row - kHalf * 0.6);
        hatch->bottomRight->setCoords(std::max(to, *s.lead * 1.02), row + kHalf * 0.6);
    }
    struct Mark {
        double amps;
        QString words;
        Role role;
        double width;
    };
    std::vector<Mark> marks;
    const auto add = [&](double amps, const QString& word, Role role, double width) {
        if (amps > 0 && std::isfinite(amps))
            marks.push_back({std::max(amps, xAxis->range().lower * 1.02),
                             tr("%1 %2").arg(word, quantity(amps, Unit::ampere)), role, width});
    };
    add(s.need.continuous, tr("draw"), Role::copper, 3);
    add(s.need.burst, tr("burst"), Role::weigh, 3);
    add(s.fuse.value_or(0), tr("fuse"), Role::stop, 3);
    add(s.lead.value_or(0), tr("lead"), Role::charging, 3);
    add(s.source.value_or(0), s.atSource ? tr("source") : tr("limit"), Role::ink, 3);
    std::sort(marks.begin(), marks.end(),
              [](const Mark& a, const Mark& b) { return a.amps < b.amps; });
    const QFontMetricsF small(Theme::now().font(PlotTextLook().size));
    const auto width = [&](const QString& words) {
        return small.horizontalAdvance(words) + Theme::now().px(6);
    };
    const QString verdict = qs(weakestElementText(s));
    const double room = xAxis->coordToPixel(xAxis->range().upper) - width(verdict);
    // Words above, below where those of the last one are in the way; left of their mark where the
    // verdict at the end stands on its right.
    std::array<double, 2> taken{-1e9, -1e9};
    for (std::size_t i = 0; i < marks.size(); ++i) {
        const Mark& m = marks[i];
        rule(m.amps, row, kHalf, m.role, m.width);
        const double x = xAxis->coordToPixel(m.amps);
        const double wide = width(m.words);
        // Left of its mark where the next mark, or the verdict, would go through the words.
        const bool meets =
            i + 1 < marks.size() && x + wide > xAxis->coordToPixel(marks[i + 1].amps);
        const double before = i > 0 ? xAxis->coordToPixel(marks[i - 1].amps) : -1e9;
        const bool left = x + wide > room || (meets && x - wide > before);
        for (std::size_t level = 0; level < taken.size(); ++level) {
            if ((left ? x - wide : x) < taken[level])
                continue;
            QCPItemText* words = plotText(*this, m.role, {.padding = {2, 0, 2, 0}}, m.words);
            words->setPositionAlignment((left ? Qt::AlignRight : Qt::AlignLeft) |
                                        (level == 0 ? Qt::AlignBottom : Qt::AlignTop));
            words->position->setCoords(m.amps, row + (level == 0 ? -0.08 : 0.08));
            taken[level] = left ? x : x + wide;
            break;
        }
    }
    QCPItemText* says = plotText(*this, bad ? Role::stop : Role::muted,
                                 {.bold = bad, .padding = {2, 0, 2, 0}}, verdict);
    says->setPositionAlignment(Qt::AlignRight | Qt::AlignVCenter);
    says->setClipToAxisRect(false);
    says->setBrush(at == m_chosen ? onCard(Role::copper, 0.08) : colour(Role::card));
    says->position->setCoords(xAxis->range().upper, row);
}

void CurrentsPlot::mousePressEvent(QMouseEvent* event) {
    QCustomPlot::mousePressEvent(event);
    const double row = std::round(yAxis->pixelToCoord(event->position().y()));
    if (row >= 0 && row < static_cast<double>(m_segments.size()))
        emit chosen(static_cast<std::size_t>(row));
}

void CurrentsPlot::keyPressEvent(QKeyEvent* event) {
    const bool down = event->key() == Qt::Key_Down;
    if ((!down && event->key() != Qt::Key_Up) || m_segments.empty())
        return QCustomPlot::keyPressEvent(event);
    if (down && m_chosen + 1 < m_segments.size())
        emit chosen(m_chosen + 1);
    else if (!down && m_chosen > 0)
        emit chosen(m_chosen - 1);
}

void CurrentsPlot::resizeEvent(QResizeEvent* event) {
    QCustomPlot::resizeEvent(event);
    build(); // words are placed by pixels
}

} // namespace sipper::app
