// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/protection/thresholdplot.hpp"

#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kStep = 0.05;     ///< V that an arrow key moves
constexpr double kLeap = 0.5;      ///< V of page up and down
constexpr double kNear = 8;        ///< px from a line that take hold of it
constexpr double kBandTo = 0.84;   ///< charge down to which the schools' bands reach
constexpr double kGripAt = -0.035; ///< charge: right of empty
constexpr double kRight = -0.09;
constexpr double kRestTextAt = 0.82;
/// Charges at which the words of a threshold may begin; the first clear of the curves is taken.
constexpr std::array kWordsAt{0.67, 0.5, 0.34, 0.76};

} // namespace

ThresholdPlot::ThresholdPlot(QWidget* parent) : QCustomPlot(parent) {
    setObjectName(QStringLiteral("threshold.plot"));
    setAccessibleName(tr("Thresholds on the cells' own curve"));
    setToolTip(tr("Drag a threshold, or use the arrow keys: left and right choose, up and down "
                  "move"));
    setFocusPolicy(Qt::StrongFocus);
    setProperty("keys", tr("charge (share)"));
    setMinimumHeight(Theme::now().ipx(224));
    const Theme& t = Theme::now();
    stylePlot(*this);
    xAxis->setRangeReversed(true);
    xAxis->setRange(kRight, 1.01);
    auto ticker = QSharedPointer<QCPAxisTickerText>::create();
    ticker->addTick(1, tr("full"));
    for (const double share : {0.75, 0.5, 0.25})
        ticker->addTick(share, tr("%1 %").arg(share * 100));
    ticker->addTick(0, tr("empty"));
    xAxis->setTicker(ticker);
    yAxis->setLabel(tr("V at the guard"));
    yAxis->setNumberFormat(QStringLiteral("g"));
    m_rest = addGraph();
    m_rest->setName(tr("at rest (V)"));
    m_rest->setPen(QPen(colour(Role::muted), t.px(1.3), Qt::DashLine));
    m_working = addGraph();
    m_working->setName(tr("while it works (V)"));
    styleMainGraph(*m_working);
    for (int i = 0; i < 3; ++i) {
        auto* band = new QCPItemRect(this);
        band->setPen(Qt::NoPen);
        band->setLayer(QStringLiteral("background"));
        m_bands << band;
        m_bandTexts << plotText(*this, Role::muted,
                                {.size = 11, .bold = false, .padding = {}, .ground = true});
        m_bandTexts.back()->setLayer(QStringLiteral("overlay")); // over the thresholds' lines
    }
    m_restText = plotText(*this, Role::muted, {.size = 11, .bold = false});
    m_restText->setText(tr("at rest"));
    m_workingText = plotText(*this, Role::copper, {.size = 11, .bold = true});
    m_off = threshold(Role::stop);
    m_on = threshold(Role::charging);
    m_on.line->setPen(QPen(colour(Role::charging), t.px(1.6), Qt::DashLine));
    m_crossing = new QCPItemTracer(this);
    m_crossing->setStyle(QCPItemTracer::tsCircle);
    m_crossing->setSize(t.px(7));
    m_crossing->setPen(QPen(colour(Role::copper), t.px(1.5)));
    m_crossing->setBrush(colour(Role::card));
}

ThresholdPlot::Threshold ThresholdPlot::threshold(Role role) {
    const Theme& t = Theme::now();
    Threshold made{new QCPItemStraightLine(this), new QCPItemTracer(this),
                   plotText(*this, role, {.size = 12, .bold = true})};
    made.line->setPen(QPen(colour(role), t.px(1.8)));
    made.grip->setStyle(QCPItemTracer::tsSquare);
    made.grip->setSize(t.px(13));
    made.grip->setPen(QPen(colour(role), t.px(1.8)));
    made.grip->setBrush(colour(Role::card));
    return made;
}

void ThresholdPlot::showPolicies(const Shown& shown) {
    static constexpr std::array roles{Role::stop, Role::weigh, Role::fine};
    const std::array names{tr("squeeze"), tr("balanced"), tr("gentle")};
    // Each school's band reaches from its cut-off up to the next one's.
    const double top = shown.policies[2] + (shown.policies[2] - shown.policies[1]);
    for (int i = 0; i < 3; ++i) {
        const bool any = shown.policies[0] > 0;
        m_bands[i]->setVisible(any);
        m_bandTexts[i]->setVisible(any);
        if (!any)
            continue;
        const double low = shown.policies[static_cast<std::size_t>(i)];
        const double high = i < 2 ? shown.policies[static_cast<std::size_t>(i) + 1] : top;
        m_bands[i]->setBrush(onCard(roles[static_cast<std::size_t>(i)], 0.16));
        m_bands[i]->topLeft->setCoords(1, high);
        m_bands[i]->bottomRight->setCoords(kBandTo, low);
        m_bandTexts[i]->setText(QStringLiteral("%1 %2").arg(names[static_cast<std::size_t>(i)],
                                                            quantity(low, Unit::volt)));
        m_bandTexts[i]->setPositionAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        m_bandTexts[i]->position->setCoords(0.998, (low + high) / 2);
    }
}

void ThresholdPlot::show(const Shown& shown) {
    QVector<double> charge;
    QVector<double> rest;
    QVector<double> works;
    QVector<double> working;
    for (const GuardPoint& p : *shown.curve) {
        charge << p.charge;
        rest << p.rest;
        if (p.working > 0) {
            works << p.charge;
            working << p.working;
        }
    }
    m_rest->setData(charge, rest);
    m_working->setData(works, working);
    m_guarded = shown.guard != nullptr;
    if (shown.guard && !m_dragged) {
        m_cutoff = shown.guard->cutoff;
        m_reconnect = shown.guard->reconnect;
    }
    double low = shown.full;
    for (const double v : {shown.policies[0], shown.floor, m_guarded ? m_cutoff : shown.full})
        if (v > 0)
            low = std::min(low, v);
    if (!m_guarded && shown.policies[0] <= 0 && !rest.isEmpty())
        low = *std::min_element(rest.begin(), rest.end());
    const double high = std::max(shown.full, m_guarded ? m_reconnect : 0);
    const double room = std::max(0.1, high - low);
    yAxis->setRange(low - 0.14 * room, high + 0.15 * room);
    yAxis->setLabel(m_guarded ? tr("V at the guard") : tr("V at the cells"));
    showPolicies(shown);
    const auto place = [&](QCPItemText& item, const QCPGraph& graph, double at,
                           Qt::Alignment side) {
        const auto found = graph.data()->findBegin(at);
        const bool any = found != graph.data()->constEnd();
        item.setVisible(any);
        item.setPositionAlignment(side);
        if (any)
            item.position->setCoords(at, found->value);
    };
    place(*m_restText, *m_rest, kRestTextAt, Qt::AlignLeft | Qt::AlignBottom);
    m_workingText->setText(shown.mode.isEmpty() ? tr("while it works")
                                                : tr("in “%1”").arg(shown.mode));
    // Where the working line ends, left of its fall: nothing else is drawn there.
    m_workingText->setVisible(!works.isEmpty());
    if (!works.isEmpty()) {
        qsizetype end = works.size() - 1; // or where it leaves the plot
        while (end > 0 && working[end] < yAxis->range().lower)
            --end;
        // Where it falls slowly it would run through the words: then they stand under it.
        const auto before = m_working->data()->findBegin(works[end] + 0.06);
        const bool slow = before != m_working->data()->constEnd() &&
                          std::abs(before->value - working[end]) < 0.15 * room;
        const double under = working[end] - 0.03 * room;
        if (slow && yAxis->range().lower > under - 0.14 * room)
            yAxis->setRangeLower(under - 0.14 * room);
        m_workingText->setPositionAlignment(Qt::AlignRight |
                                            (slow ? Qt::AlignTop : Qt::AlignVCenter));
        m_workingText->position->setCoords(
            works[end] + 0.02,
            slow ? under : std::max(working[end], yAxis->range().lower + 0.06 * room));
    }
    showThresholds();
}

void ThresholdPlot::showThresholds() {
    const bool focus = hasFocus();
    const auto put = [&](Threshold& t, double volts, const QString& words, bool chosen) {
        t.line->setVisible(m_guarded);
        t.grip->setVisible(m_guarded);
        t.text->setVisible(m_guarded);
        if (!m_guarded)
            return;
        t.line->point1->setCoords(0, volts);
        t.line->point2->setCoords(1, volts);
        t.grip->position->setCoords(kGripAt, volts);
        t.grip->setBrush(focus && chosen ? t.grip->pen().color() : colour(Role::card));
        t.text->setText(words);
    };
    put(m_off, m_cutoff, tr("off %1").arg(quantity(m_cutoff, Unit::volt)), m_chosen == Line::off);
    put(m_on, m_reconnect, tr("on again %1").arg(quantity(m_reconnect, Unit::volt)),
        m_chosen == Line::on);
    // Close together, the lower one's words stand under it.
    placeWords(*m_on.text, m_reconnect, true);
    placeWords(*m_off.text, m_cutoff, false);
    // Where the working line falls through the cut-off.
    double at = -1;
    for (auto p = m_working->data()->constBegin(); p != m_working->data()->constEnd(); ++p)
        if (p->value <= m_cutoff)
            at = p->key; // keys rise: the last one under it
    m_crossing->setVisible(m_guarded && at >= 0);
    if (at >= 0)
        m_crossing->position->setCoords(at, m_cutoff);
    setAccessibleDescription(
        m_guarded ? tr("off at %1, on again at %2")
                        .arg(quantity(m_cutoff, Unit::volt), quantity(m_reconnect, Unit::volt))
                  : tr("no guard"));
    replot(rpQueuedReplot);
}

/// Beside its line where no curve runs, above or below; else where it was asked for.
void ThresholdPlot::placeWords(QCPItemText& text, double volts, bool above) {
    const QFontMetricsF metrics(text.font());
    const double wide = metrics.horizontalAdvance(text.text()) + Theme::now().px(6);
    const double tall = metrics.height() + Theme::now().px(4);
    const double y = yAxis->coordToPixel(volts);
    const auto clear = [&](double charge, bool up) {
        const double left = xAxis->coordToPixel(charge);
        const QRectF box(left, up ? y - tall : y, wide, tall);
        for (const QCPGraph* graph : {m_rest, m_working})
            for (const QCPGraphData& p : *graph->data())
                if (box.contains(QPointF(xAxis->coordToPixel(p.key), yAxis->coordToPixel(p.value))))
                    return false;
        return true;
    };
    double at = kWordsAt.front();
    bool up = above;
    const auto find = [&](bool side) {
        for (const double charge : kWordsAt)
            if (clear(charge, side)) {
                at = charge;
                up = side;
                return true;
            }
        return false;
    };
    // The other side only where the thresholds leave room between them.
    const double between =
        std::abs(yAxis->coordToPixel(m_cutoff) - yAxis->coordToPixel(m_reconnect));
    if (!find(above) && between > 1.2 * tall)
        find(!above);
    text.setPositionAlignment(Qt::AlignLeft | (up ? Qt::AlignBottom : Qt::AlignTop));
    text.position->setCoords(at, volts);
}

std::optional<ThresholdPlot::Line> ThresholdPlot::lineAt(const QPoint& at) const {
    if (!m_guarded)
        return std::nullopt;
    const double off = std::abs(yAxis->coordToPixel(m_cutoff) - at.y());
    const double on = std::abs(yAxis->coordToPixel(m_reconnect) - at.y());
    if (std::min(off, on) > Theme::now().px(kNear))
        return std::nullopt;
    return off <= on ? Line::off : Line::on;
}

void ThresholdPlot::move(Line line, double volts) {
    const double rounded = std::max(kStep, std::round(volts / kStep) * kStep);
    if (line == Line::off) {
        m_cutoff = std::min(rounded, m_reconnect);
    } else {
        m_reconnect = std::max(rounded, m_cutoff);
    }
    showThresholds();
    emit moved(line == Line::on, line == Line::on ? m_reconnect : m_cutoff);
}

void ThresholdPlot::mousePressEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton)
        m_dragged = lineAt(event->position().toPoint());
    if (!m_dragged)
        return QCustomPlot::mousePressEvent(event);
    m_chosen = *m_dragged;
    setFocus();
    showThresholds();
}

void ThresholdPlot::mouseMoveEvent(QMouseEvent* event) {
    if (m_dragged)
        return move(*m_dragged, yAxis->pixelToCoord(event->position().y()));
    setCursor(lineAt(event->position().toPoint()) ? Qt::SizeVerCursor : Qt::ArrowCursor);
    QCustomPlot::mouseMoveEvent(event);
}

void ThresholdPlot::mouseReleaseEvent(QMouseEvent* event) {
    if (!m_dragged)
        return QCustomPlot::mouseReleaseEvent(event);
    m_dragged.reset();
    emit released();
}

void ThresholdPlot::keyPressEvent(QKeyEvent* event) {
    if (!m_guarded)
        return QCustomPlot::keyPressEvent(event);
    const double volts = m_chosen == Line::off ? m_cutoff : m_reconnect;
    switch (event->key()) {
    case Qt::Key_Left:
    case Qt::Key_Right:
        m_chosen = m_chosen == Line::off ? Line::on : Line::off;
        return showThresholds();
    case Qt::Key_Up:
        move(m_chosen, volts + kStep);
        break;
    case Qt::Key_Down:
        move(m_chosen, volts - kStep);
        break;
    case Qt::Key_PageUp:
        move(m_chosen, volts + kLeap);
        break;
    case Qt::Key_PageDown:
        move(m_chosen, volts - kLeap);
        break;
    default:
        return QCustomPlot::keyPressEvent(event);
    }
    if (!event->isAutoRepeat())
        emit released();
}

void ThresholdPlot::focusInEvent(QFocusEvent* event) {
    QCustomPlot::focusInEvent(event);
    showThresholds();
}
void ThresholdPlot::focusOutEvent(QFocusEvent* event) {
    QCustomPlot::focusOutEvent(event);
    showThresholds();
}

} // namespace sipper::app
