// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/supplyline/chargestrip.hpp"

#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"

#include "solar/solar.hpp"

#include <QKeyEvent>
#include <QLabel>
#include <QSlider>
#include <QVBoxLayout>
#include <algorithm>
#include <qcustomplot.h>

namespace sipper::app {
namespace {

constexpr double kKeyStep = 0.01;
constexpr int kFullLight = 1000; ///< W/m2
constexpr int kLightStep = 20;

} // namespace

ChargeStrip::ChargeStrip(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    setObjectName(QStringLiteral("chargeStrip"));
    setStyleSheet(
        QStringLiteral("#chargeStrip { background: %1; border: 1px solid %2; border-radius: 4px; }")
            .arg(colour(Role::card).name(), colour(Role::hairline).name()));
    auto* row = newRow(this, {}, Margins{12, 4, 4, 4});
    row->addWidget(choice());
    m_plot = new QCustomPlot(this);
    m_plot->setObjectName(QStringLiteral("chargeMarker"));
    m_plot->setAccessibleName(tr("Charge left"));
    m_plot->setToolTip(tr("Drag, or use the arrow keys, to move through the discharge"));
    m_plot->setFocusPolicy(Qt::StrongFocus);
    m_plot->setCursor(Qt::SizeHorCursor);
    row->addWidget(m_plot, 1);
    row->addWidget(lightBox());
    addMarks();
    m_plot->installEventFilter(this);
    new Refresher(this, session, {&Session::projectChanged}, [this] { rebuild(); });
    new Refresher(this, session, {&Session::momentChanged}, [this] { place(); });
    rebuild();
}

/// The title, and the mode that is shown.
QWidget* ChargeStrip::choice() {
    const Theme& theme = Theme::now();
    auto* left = new QWidget(this);
    left->setFixedWidth(theme.ipx(126));
    auto* column = newColumn(left, 4, Margins{0, 4, 0, 4});
    auto* title = new QLabel(tr("Charge left"), left);
    title->setFont(theme.font(14, true));
    auto* label = new QLabel(tr("in mode"), left);
    label->setFont(theme.font(11));
    label->setStyleSheet(QStringLiteral("color: %1").arg(colour(Role::muted).name()));
    m_modes =
        choiceField(left, "mode", tr("Mode shown"), tr("The mode that the copper line shows"));
    label->setBuddy(m_modes);
    connect(m_modes, &QComboBox::activated, this, [this](int at) {
        m_session.setDisplayedPoint(m_session.charge(), static_cast<std::size_t>(at));
    });
    column->addWidget(title);
    column->addWidget(label);
    column->addWidget(m_modes);
    column->addStretch();
    return left;
}

/// The light on the panels at the marker's moment, and the air around them.
QWidget* ChargeStrip::lightBox() {
    const Theme& theme = Theme::now();
    m_lightBox = new QWidget(this);
    m_lightBox->setFixedWidth(theme.ipx(136));
    auto* column = newColumn(m_lightBox, 4, Margins{8, 4, 4, 4});
    m_lightSays = new QLabel(m_lightBox);
    m_lightSays->setObjectName(QStringLiteral("light.says"));
    m_lightSays->setFont(theme.font(12, true));
    m_light = new QSlider(Qt::Horizontal, m_lightBox);
    m_light->setObjectName(QStringLiteral("light"));
    m_light->setAccessibleName(tr("Light on the panel"));
    m_light->setToolTip(tr("Watts per square metre on the panel, from night to full sun"));
    m_light->setRange(0, kFullLight);
    m_light->setSingleStep(kLightStep);
    m_light->setPageStep(5 * kLightStep);
    m_air = quantityField(m_lightBox, "light.air",
                          typedFacts("lightAir", "Air",
                                     "Air around the panel; empty for the brief's typical",
                                     Unit::celsius, -60, 90));
    connect(m_light, &QSlider::valueChanged, this,
            [this](int light) { m_session.setLight(light, m_session.lightAir()); });
    connect(m_air, &QuantityEdit::committed, this,
            [this](std::optional<double> air) { m_session.setLight(m_session.light(), air); });
    column->addWidget(m_lightSays);
    column->addWidget(m_light);
    column->addWidget(m_air);
    column->addStretch();
    return m_lightBox;
}

void ChargeStrip::showLight() {
    m_lightBox->setVisible(!sunChargersOf(m_session.project()).empty());
    const QSignalBlocker quiet(m_light);
    m_light->setValue(qRound(m_session.light()));
    m_lightSays->setText(m_session.light() > 0
                             ? tr("Light %1 W/m²").arg(m_session.light(), 0, 'f', 0)
                             : tr("Light: night"));
    m_air->setValue(m_session.lightAir().value_or(m_session.project().brief.air().usual().value()));
}

/// The curve, the part of it that is over the stop, and the marker with its bubble.
void ChargeStrip::addMarks() {
    stylePlot(*m_plot);
    m_plot->addGraph()->setName(tr("volts at the cells"));
    styleMainGraph(*m_plot->graph(0));
    m_plot->xAxis->setLabel({});
    m_out = new QCPItemRect(m_plot);
    m_out->setPen(Qt::NoPen);
    m_out->setBrush(hatchBrush());
    m_outText = plotText(*m_plot, Role::stop, {.bold = true, .ground = true});
    m_outText->setPositionAlignment(Qt::AlignTop | Qt::AlignRight);
    m_line = new QCPItemStraightLine(m_plot);
    m_line->setPen(QPen(colour(Role::ink), Theme::now().px(1.6)));
    m_tracer = new QCPItemTracer(m_plot);
    m_tracer->setStyle(QCPItemTracer::tsCircle);
    m_tracer->setSize(Theme::now().px(8));
    m_tracer->setPen(QPen(colour(Role::ink), Theme::now().px(1.6)));
    m_tracer->setBrush(QBrush(colour(Role::card)));
    m_bubble =
        plotText(*m_plot, Role::ink, {.bold = true, .padding = {6, 3, 6, 3}, .ground = true});
    m_bubble->setPen(QPen(colour(Role::hairline)));
    m_bubble->setTextAlignment(Qt::AlignLeft);
}

void ChargeStrip::fillModes() {
    m_modes->clear();
    for (const Mode& m : m_session.project().modes)
        m_modes->addItem(qs(nameOf(m)));
    m_modes->setCurrentIndex(static_cast<int>(m_session.mode()));
}

double ChargeStrip::hoursAt(double charge) const {
    const auto& curve = m_session.results().discharge;
    if (curve.empty())
        return 0;
    const auto at = std::find_if(curve.begin(), curve.end(),
                                 [&](const CurvePoint& c) { return c.charge <= charge; });
    if (at == curve.end())
        return curve.back().hours;
    if (at == curve.begin() || (at - 1)->charge <= at->charge)
        return at->hours;
    const double share = ((at - 1)->charge - charge) / ((at - 1)->charge - at->charge);
    return (at - 1)->hours + share * (at->hours - (at - 1)->hours);
}

double ChargeStrip::chargeAt(double h) const {
    const auto& curve = m_session.results().discharge;
    if (curve.empty())
        return m_session.charge();
    const auto at =
        std::find_if(curve.begin(), curve.end(), [&](const CurvePoint& c) { return c.hours >= h; });
    if (at == curve.end())
        return curve.back().charge;
    if (at == curve.begin() || at->hours <= (at - 1)->hours)
        return at->charge;
    const double share = (h - (at - 1)->hours) / (at->hours - (at - 1)->hours);
    return (at - 1)->charge + share * (at->charge - (at - 1)->charge);
}

void ChargeStrip::rebuild() {
    fillModes();
    QVector<double> x;
    QVector<double> y;
    double low = 1e9;
    double high = 0;
    for (const CurvePoint& c : m_session.results().discharge) {
        x << c.hours;
        y << c.packVolts;
        low = std::min(low, c.packVolts);
        high = std::max(high, c.packVolts);
    }
    m_plot->graph(0)->setData(x, y, true);
    const bool any = !x.isEmpty() && x.back() > 0;
    const double span = any ? x.back() : 1;
    m_plot->xAxis->setRange(-span * 0.01, span * 1.01);
    m_plot->yAxis->setRange(any ? low - (high - low) * 0.12 : 0,
                            any ? high + (high - low) * 0.12 : 1);
    tickHours(*m_plot->xAxis, span);
    m_plot->yAxis->setNumberFormat(QStringLiteral("f"));
    m_plot->yAxis->setNumberPrecision(high - low > 0.5 ? 1 : high - low > 0.05 ? 2 : 3);
    m_plot->yAxis->ticker()->setTickCount(3);
    m_plot->yAxis->setLabel(tr("V at the cells"));
    const double end =
        m_session.results().runtime.hours ? m_session.results().runtime.hours->value() : span;
    const bool out = any && span - end > span * 0.002;
    m_out->setVisible(out);
    m_outText->setVisible(out);
    if (out) {
        m_out->topLeft->setCoords(end, m_plot->yAxis->range().upper);
        m_out->bottomRight->setCoords(span, m_plot->yAxis->range().lower);
        const std::string at = m_session.results().runtime.ending.at;
        const Load* load = m_session.project().load(at);
        m_outText->setText(tr("%1 out").arg(load ? qs(nameOf(*load)) : qs(at)));
        m_outText->position->setCoords(span, m_plot->yAxis->range().upper - (high - low) * 0.05);
    }
    m_line->setVisible(any);
    m_bubble->setVisible(any);
    m_tracer->setVisible(any);
    place();
}

void ChargeStrip::place() {
    showLight();
    m_modes->setCurrentIndex(static_cast<int>(m_session.mode()));
    const double at = hoursAt(m_session.charge());
    m_line->point1->setCoords(at, 0);
    m_line->point2->setCoords(at, 1);
    const auto& curve = m_session.results().discharge;
    const Project& p = m_session.project();
    if (!curve.empty()) {
        m_tracer->setGraph(m_plot->graph(0));
        m_tracer->setGraphKey(at);
        m_tracer->setInterpolating(true);
        const bool collapsed = m_session.moment().collapse;
        m_bubble->setText(tr("%1 left · %2 in · %3\n%4: %5")
                              .arg(qs(writeShare(m_session.charge())),
                                   at <= 0 ? QStringLiteral("0 h") : hours(at),
                                   collapsed
                                       ? tr("collapse")
                                       : quantity(m_session.moment().flows.sourceVolts, Unit::volt),
                                   qs(nameOf(p.modes[m_session.mode()])),
                                   collapsed ? QStringLiteral("–") : ampsText()));
        const bool right = at < curve.back().hours * 0.6;
        m_bubble->setPositionAlignment(Qt::AlignVCenter | (right ? Qt::AlignLeft : Qt::AlignRight));
        const double gap = m_plot->xAxis->range().size() * 0.01 * (right ? 1 : -1);
        const bool high = m_session.charge() < 0.45;
        const QCPRange range = m_plot->yAxis->range();
        m_bubble->position->setCoords(at + gap, range.lower + range.size() * (high ? 0.74 : 0.26));
    }
    m_plot->setAccessibleDescription(m_bubble->text());
    m_plot->replot(QCustomPlot::rpQueuedReplot);
}

/// What the cells give, or take while they are charged.
QString ChargeStrip::ampsText() const {
    const double amps = m_session.moment().flows.sourceAmps;
    return amps < 0 ? tr("%1 into the cells").arg(quantity(-amps, Unit::ampere))
                    : quantity(amps, Unit::ampere);
}

bool ChargeStrip::eventFilter(QObject* watched, QEvent* event) {
    const auto moveTo = [this](double x) {
        m_session.setDisplayedPoint(chargeAt(std::max(0.0, m_plot->xAxis->pixelToCoord(x))),
                                    m_session.mode());
    };
    switch (event->type()) {
    case QEvent::MouseButtonPress:
    case QEvent::MouseMove: {
        const auto* mouse = static_cast<QMouseEvent*>(event);
        if (!(mouse->buttons() & Qt::LeftButton))
            return false;
        if (event->type() == QEvent::MouseButtonPress)
            m_plot->setFocus(Qt::MouseFocusReason);
        moveTo(mouse->position().x());
        return true;
    }
    case QEvent::KeyPress: {
        const auto* key = static_cast<QKeyEvent*>(event);
        const double step = key->modifiers() & Qt::ShiftModifier ? kKeyStep * 10 : kKeyStep;
        const double stop = m_session.results().sweep ? m_session.results().sweep->stopCharge : 0;
        switch (key->key()) {
        case Qt::Key_Left:
            m_session.setDisplayedPoint(m_session.charge() + step, m_session.mode());
            return true;
        case Qt::Key_Right:
            m_session.setDisplayedPoint(m_session.charge() - step, m_session.mode());
            return true;
        case Qt::Key_Home:
            m_session.setDisplayedPoint(1, m_session.mode());
            return true;
        case Qt::Key_End:
            m_session.setDisplayedPoint(stop, m_session.mode());
            return true;
        default:
            return false;
        }
    }
    default:
        return QFrame::eventFilter(watched, event);
    }
}

} // namespace sipper::app
