// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/charging/chargeplot.hpp"

#include "charge/text.hpp"
#include "theme/theme.hpp"
#include "views/charging/limitcolour.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kKeyStep = 0.01; ///< of the whole span
constexpr double kBroad = 0.12;   ///< share of the span from which a segment carries its own words

} // namespace

ChargePlot::ChargePlot(QWidget* parent) : QCustomPlot(parent) {
    setObjectName(QStringLiteral("charge.plot"));
    setAccessibleName(tr("The charge over time"));
    setToolTip(tr("Drag, or use the arrow keys, to move through the charge"));
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::SizeHorCursor);
    setProperty("keys", tr("time (h)"));
    setMinimumHeight(Theme::now().ipx(210));
    makeAxes();
    makeGraphs();
    makeItems();
}

void ChargePlot::makeAxes() {
    const Theme& t = Theme::now();
    stylePlot(*this);
    m_amps = yAxis2;
    m_amps->setVisible(true);
    m_amps->setTickLabels(true);
    m_amps->grid()->setVisible(false);
    m_amps->setTickLabelColor(colour(Role::charging));
    m_amps->ticker()->setTickCount(3);
    m_share = axisRect()->addAxis(QCPAxis::atRight);
    m_share->setVisible(false);
    m_share->setRange(0, 1.2);
    xAxis->setTickLabels(false);
    yAxis->setNumberFormat(QStringLiteral("f"));
    yAxis->setLabel(tr("V at the cells"));
    m_amps->setLabel(tr("A into the cells"));
    m_amps->setLabelColor(colour(Role::charging));
    m_amps->setNumberFormat(QStringLiteral("g"));
    m_amps->setNumberPrecision(3);

    m_ribbon = new QCPAxisRect(this);
    m_ribbon->setMinimumSize(50, t.ipx(58));
    m_ribbon->setMaximumSize(QWIDGETSIZE_MAX, t.ipx(58));
    plotLayout()->addElement(1, 0, m_ribbon);
    plotLayout()->setRowSpacing(0);
    axisRect()->setAutoMargins(QCP::msLeft | QCP::msRight | QCP::msTop);
    axisRect()->setMargins(QMargins(0, 0, 0, 0));
    m_ribbon->setAutoMargins(QCP::msLeft | QCP::msRight | QCP::msBottom);
    m_ribbon->setMargins(QMargins(0, t.ipx(8), 0, 0));
    auto* sides = new QCPMarginGroup(this);
    for (QCPAxisRect* rect : {axisRect(), m_ribbon})
        rect->setMarginGroup(QCP::msLeft | QCP::msRight, sides);
    QCPAxis* below = m_ribbon->axis(QCPAxis::atBottom);
    below->setBasePen(Qt::NoPen);
    below->setTickPen(Qt::NoPen);
    below->setSubTickPen(Qt::NoPen);
    below->grid()->setVisible(false);
    below->setTickLabelColor(colour(Role::muted));
    below->setTickLabelFont(t.font(11));
    QCPAxis* side = m_ribbon->axis(QCPAxis::atLeft);
    side->setRange(0, 1);
    side->setVisible(false);
    m_ribbon->axis(QCPAxis::atTop)->setVisible(false);
    m_ribbon->axis(QCPAxis::atRight)->setVisible(false);
}

void ChargePlot::makeGraphs() {
    const Theme& t = Theme::now();
    m_chargeGraph = addGraph(xAxis, m_share);
    m_chargeGraph->setName(tr("charge (share)"));
    m_chargeGraph->setPen(QPen(colour(Role::muted), t.px(1.3), Qt::DashLine));
    m_ampsGraph = addGraph(xAxis, m_amps);
    m_ampsGraph->setName(tr("amps into the cells"));
    m_ampsGraph->setPen(QPen(colour(Role::charging), t.px(2)));
    m_voltsGraph = addGraph(xAxis, yAxis);
    m_voltsGraph->setName(tr("volts at the cells"));
    styleMainGraph(*m_voltsGraph);
}

void ChargePlot::makeItems() {
    const Theme& t = Theme::now();
    const auto line = [&](Role role, Qt::PenStyle style) {
        auto* item = new QCPItemStraightLine(this);
        item->setPen(QPen(colour(role), t.px(1.5), style));
        return item;
    };
    m_mostly = line(Role::fine, Qt::DashLine);
    m_mostlyText = plotText(*this, Role::fine, {.size = 11, .bold = true});
    m_full = line(Role::ink, Qt::SolidLine);
    m_fullText = plotText(*this, Role::ink, {.size = 11, .bold = true});
    m_line = line(Role::ink, Qt::SolidLine);
    m_lineBelow = new QCPItemLine(this);
    m_lineBelow->setPen(QPen(colour(Role::ink), t.px(1.5)));
    m_lineBelow->setTail(QCPLineEnding(QCPLineEnding::esDisc, t.px(8), t.px(8)));
    m_lineBelow->setClipToAxisRect(false);
    m_lineBelow->setLayer(QStringLiteral("overlay")); // over the ribbon
    for (QCPItemPosition* p : {m_lineBelow->start, m_lineBelow->end}) {
        p->setAxisRect(m_ribbon);
        p->setAxes(m_ribbon->axis(QCPAxis::atBottom), m_ribbon->axis(QCPAxis::atLeft));
    }
    m_voltsName = plotText(*this, Role::copper, {.size = 11, .bold = true});
    m_ampsName = plotText(*this, Role::charging, {.size = 11, .bold = true});
    m_chargeName = plotText(*this, Role::muted, {.size = 11, .bold = false});
    m_none = plotText(*this, Role::muted, {.size = 12, .bold = false});
    m_none->setText(tr("Nothing flows."));
    m_none->position->setType(QCPItemPosition::ptAxisRectRatio);
    m_none->position->setCoords(0.5, 0.5);
    m_heldName = plotText(*this, Role::muted, {.size = 11, .bold = false});
    m_heldName->setClipToAxisRect(false);
    m_heldName->setText(tr("held by"));
    m_heldName->position->setType(QCPItemPosition::ptAxisRectRatio);
    m_heldName->position->setAxisRect(m_ribbon);
    m_heldName->position->setCoords(0, 0.26);
    m_heldName->setPositionAlignment(Qt::AlignRight | Qt::AlignVCenter);
}

/// Scales and grid only where something stands on them.
void ChargePlot::showScales(bool any) {
    for (QCPAxis* axis : {yAxis, m_amps, m_ribbon->axis(QCPAxis::atBottom)})
        axis->setTickLabels(any);
    for (QCPAxis* axis : {yAxis, m_amps})
        axis->setLabel(!any             ? QString()
                       : axis == m_amps ? tr("A into the cells")
                                        : tr("V at the cells"));
    yAxis->grid()->setVisible(any);
    m_none->setVisible(!any);
}

void ChargePlot::clearCharge() {
    showScales(false);
    for (QCPGraph* graph : {m_voltsGraph, m_ampsGraph, m_chargeGraph})
        graph->data()->clear();
    for (QCPAbstractItem* item : m_segments)
        removeItem(item);
    m_segments.clear();
    for (QCPAbstractItem* item : std::initializer_list<QCPAbstractItem*>{
             m_mostly, m_mostlyText, m_full, m_fullText, m_line, m_lineBelow, m_voltsName,
             m_ampsName, m_chargeName, m_heldName})
        item->setVisible(false);
    replot(rpQueuedReplot);
}

void ChargePlot::show(const Project& project, const ChargeRun& charge) {
    if (charge.curve.size() < 2 || charge.curve.back().hours <= 0) {
        clearCharge();
        return;
    }
    showScales(true);
    fillGraphs(charge);
    frame(charge);
    showMarks(charge);
    showRibbon(project, charge);
    replot(); // the axes have their room now
    nameGraphs();
    m_marker = std::clamp(m_marker, 0.0, m_span);
    placeMarker();
}

void ChargePlot::fillGraphs(const ChargeRun& c) {
    QVector<double> x;
    QVector<double> volts;
    QVector<double> amps;
    QVector<double> charge;
    for (const ChargePoint& p : c.curve) {
        x << p.hours;
        volts << p.packVolts;
        amps << p.packAmps;
        charge << p.charge;
    }
    m_voltsGraph->setData(x, volts, true);
    m_ampsGraph->setData(x, amps, true);
    m_chargeGraph->setData(x, charge, true);
}

void ChargePlot::frame(const ChargeRun& c) {
    double low = 1e9;
    double high = 0;
    double most = 0;
    double least = 0; // a device that takes more than the charger gives empties the pack
    for (const ChargePoint& p : c.curve) {
        low = std::min(low, p.packVolts);
        high = std::max(high, p.packVolts);
        most = std::max(most, p.packAmps);
        least = std::min(least, p.packAmps);
    }
    m_span = c.curve.back().hours;
    const double whole = m_span * (c.hoursToFull ? 1.02 : 1.0);
    xAxis->setRange(0, whole);
    QCPAxis* below = m_ribbon->axis(QCPAxis::atBottom);
    below->setRange(0, whole);
    tickHours(*below, m_span);
    tickHours(*xAxis, m_span);
    // The curve of the volts above, that of the amps below it, so that they cross little.
    const double tall = std::max(high - low, 0.02);
    yAxis->setRange(low - tall * 0.55, high + tall * 0.22);
    yAxis->setNumberPrecision(tall > 2 ? 1 : 2);
    m_amps->setRange(least * 1.2, std::max(std::max(1e-6, -least), most) * 1.9);
}

void ChargePlot::showMarks(const ChargeRun& c) {
    const double top = yAxis->range().upper;
    const auto mark = [&](QCPItemStraightLine* line, QCPItemText* says, bool shown, double at,
                          const QString& words) {
        line->setVisible(shown);
        says->setVisible(shown);
        line->point1->setCoords(at, 0);
        line->point2->setCoords(at, 1);
        says->setText(words);
        says->position->setCoords(at, top);
    };
    const bool seen80 = c.from < 0.8 && c.hoursTo80.has_value();
    const double at80 = c.hoursTo80.value_or(0);
    const double atFull = c.hoursToFull.value_or(m_span);
    mark(m_mostly, m_mostlyText, seen80, at80, tr("80 % at %1").arg(hours(at80)));
    mark(m_full, m_fullText, c.hoursToFull.has_value(), atFull, tr("full %1").arg(hours(atFull)));
    // Where the two stand close, the first one's words go to its left.
    m_fullText->setPositionAlignment(Qt::AlignTop | Qt::AlignRight);
    m_mostlyText->setPositionAlignment(
        Qt::AlignTop | (atFull - at80 > 0.3 * m_span ? Qt::AlignLeft : Qt::AlignRight));
}

void ChargePlot::showRibbon(const Project& project, const ChargeRun& c) {
    for (QCPAbstractItem* item : m_segments)
        removeItem(item);
    m_segments.clear();
    QCPAxis* x = m_ribbon->axis(QCPAxis::atBottom);
    QCPAxis* y = m_ribbon->axis(QCPAxis::atLeft);
    double lastWords = -1; // right end of what was written under the ribbon
    for (const ChargePhase& phase : c.phases) {
        const double to = phase.to.value_or(m_span);
        auto* box = new QCPItemRect(this);
        box->setClipAxisRect(m_ribbon);
        for (QCPItemPosition* p : {box->topLeft, box->bottomRight}) {
            p->setAxisRect(m_ribbon);
            p->setAxes(x, y);
        }
        box->topLeft->setCoords(phase.from, 0.98);
        box->bottomRight->setCoords(to, 0.50);
        box->setPen(QPen(colour(Role::card), 1.5));
        box->setBrush(QBrush(limitColour(phase.limit)));
        m_segments << box;
        const bool broad = to - phase.from > kBroad * m_span;
        auto* words = plotText(*this, broad ? Role::ink : Role::muted, {.bold = broad});
        words->setClipToAxisRect(false);
        words->position->setAxisRect(m_ribbon);
        words->position->setAxes(x, y);
        QString says = qs(limitText(project, c, phase.limit));
        const QFontMetricsF metrics(words->font());
        const double pixel = x->range().size() / std::max(1, width() - Theme::now().ipx(110));
        if (broad) {
            const QString timed = phase.to
                                      ? QStringLiteral("%1 · %2").arg(says, hours(to - phase.from))
                                      : tr("%1 · no end").arg(says);
            says = metrics.horizontalAdvance(timed) * pixel < to - phase.from ? timed : says;
            if (metrics.horizontalAdvance(says) * pixel > to - phase.from)
                says = metrics.elidedText(says, Qt::ElideRight, (to - phase.from) / pixel);
            words->position->setCoords((phase.from + to) / 2, 0.74);
        } else {
            words->setPositionAlignment(Qt::AlignHCenter | Qt::AlignTop);
            const double half = metrics.horizontalAdvance(says) * pixel / 2;
            const double middle =
                std::clamp((phase.from + to) / 2, half * 0.7, x->range().upper - half * 0.9);
            words->position->setCoords(middle, 0.48);
            words->setVisible(middle - half > lastWords);
            if (words->visible())
                lastWords = middle + half;
        }
        words->setText(says);
        m_segments << words;
    }
}

/// Each curve's name stands at it, where it is farthest from the other curves and names.
void ChargePlot::nameGraphs() {
    m_voltsName->setText(tr("volts at the cells"));
    m_ampsName->setText(tr("amps into the cells"));
    m_chargeName->setText(tr("charge"));
    QList<QRectF> taken;
    nameGraph(m_voltsName, m_voltsGraph, taken);
    nameGraph(m_ampsName, m_ampsGraph, taken);
    nameGraph(m_chargeName, m_chargeGraph, taken);
    m_heldName->setVisible(true);
}

double ChargePlot::pixelAt(QCPGraph* graph, double hours) const {
    const auto after = graph->data()->findBegin(hours, false);
    const auto last = graph->data()->constEnd() - 1;
    const auto next = after > last ? last : after;
    const auto before = next == graph->data()->constBegin() ? next : next - 1;
    const double span = next->key - before->key;
    const double share = span > 0 ? std::clamp((hours - before->key) / span, 0.0, 1.0) : 0;
    return graph->valueAxis()->coordToPixel(before->value + share * (next->value - before->value));
}

void ChargePlot::nameGraph(QCPItemText* name, QCPGraph* graph, QList<QRectF>& taken) {
    const QRect box = axisRect()->rect();
    const QFontMetricsF metrics(name->font());
    const QSizeF size(metrics.horizontalAdvance(name->text()) + 8, metrics.height() + 2);
    QPointF best(box.center());
    double most = -1e9;
    for (double share = 0.04; share < 0.8; share += 0.03)
        for (const double side : {-1.0, 1.0}) {
            const double key = share * m_span;
            const double x = xAxis->coordToPixel(key);
            const double y = pixelAt(graph, key) + side * size.height() * 0.75;
            const QRectF place(x - size.width() / 2, y - size.height() / 2, size.width(),
                               size.height());
            if (!QRectF(box).contains(place))
                continue;
            double room = 60;
            for (QCPGraph* other : {m_voltsGraph, m_ampsGraph, m_chargeGraph})
                for (const double edge : {-0.5, -0.2, 0.2, 0.5}) {
                    const double at =
                        pixelAt(other, key + edge * size.width() / box.width() * m_span);
                    const double gap = std::abs(at - y) - size.height() / 2;
                    room = std::min(room, other == graph ? gap + 4 : gap);
                }
            for (const QCPItemStraightLine* line : {m_mostly, m_full})
                if (line->visible() &&
                    std::abs(xAxis->coordToPixel(line->point1->key()) - x) < size.width() / 2 + 4)
                    room -= 40;
            for (const QRectF& other : taken)
                if (other.adjusted(-6, -2, 6, 2).intersects(place))
                    room = -100;
            if (room > most) {
                most = room;
                best = place.center();
            }
        }
    taken << QRectF(best - QPointF(size.width(), size.height()) / 2, size);
    name->position->setType(QCPItemPosition::ptAbsolute);
    name->position->setCoords(best);
    name->setPositionAlignment(Qt::AlignCenter);
    name->setVisible(true);
}

void ChargePlot::resizeEvent(QResizeEvent* event) {
    QCustomPlot::resizeEvent(event);
    if (!m_voltsGraph->data()->isEmpty())
        nameGraphs();
}

void ChargePlot::setMarker(double hours) {
    m_marker = std::clamp(hours, 0.0, m_span);
    placeMarker();
}

void ChargePlot::placeMarker() {
    if (m_voltsGraph->data()->isEmpty())
        return;
    m_line->setVisible(true);
    m_line->point1->setCoords(m_marker, 0);
    m_line->point2->setCoords(m_marker, 1);
    m_lineBelow->setVisible(true);
    m_lineBelow->start->setCoords(m_marker, 0.46);
    m_lineBelow->end->setCoords(m_marker, 1.2);
    setAccessibleDescription(tr("marker at %1").arg(hours(m_marker)));
    replot(rpQueuedReplot);
}

void ChargePlot::mousePressEvent(QMouseEvent* event) {
    setFocus(Qt::MouseFocusReason);
    mouseMoveEvent(event);
}

void ChargePlot::mouseMoveEvent(QMouseEvent* event) {
    if (!(event->buttons() & Qt::LeftButton) || m_voltsGraph->data()->isEmpty())
        return;
    setMarker(xAxis->pixelToCoord(event->position().x()));
    emit markerMoved(m_marker);
}

void ChargePlot::keyPressEvent(QKeyEvent* event) {
    const double step = m_span * kKeyStep * (event->modifiers() & Qt::ShiftModifier ? 10 : 1);
    double to = m_marker;
    switch (event->key()) {
    case Qt::Key_Left:
        to -= step;
        break;
    case Qt::Key_Right:
        to += step;
        break;
    case Qt::Key_Home:
        to = 0;
        break;
    case Qt::Key_End:
        to = m_span;
        break;
    default:
        QCustomPlot::keyPressEvent(event);
        return;
    }
    setMarker(to);
    emit markerMoved(m_marker);
}

} // namespace sipper::app
