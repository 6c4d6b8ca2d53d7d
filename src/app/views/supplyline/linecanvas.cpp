#include "views/supplyline/linecanvas.hpp"
#include "parts/kinds.hpp"
#include "project/edits.hpp"
#include "project/tree.hpp"

#include "parts/figures.hpp"
#include "theme/theme.hpp"
#include "widgets/refresher.hpp"
#include "widgets/severitymark.hpp"
#include "widgets/text.hpp"

#include <QContextMenuEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kSnap = 0.05; ///< V: where a dragged level comes to rest
constexpr double kThinnest = 1.5;
constexpr double kThickest = 6.5;

/// Of a handle on a guard, or of the stage itself: which of its voltages moves.
Threshold thresholdOf(const QString& id) {
    const QString key = id.section('.', 1);
    return key == "cutoff_v"      ? Threshold::cutoff
           : key == "reconnect_v" ? Threshold::reconnect
                                  : Threshold::setPoint;
}
QString partOf(const QString& id) {
    return id.section('.', 0, 0);
}

QPainterPath wirePath(const QPointF& from, const QPointF& to) {
    QPainterPath path(from);
    const double reach = (to.x() - from.x()) * 0.5;
    path.cubicTo(from + QPointF(reach, 0), to - QPointF(reach, 0), to);
    return path;
}

/// As much of `a · b` as fits: both, or the first alone.
QString fitting(const QFont& font, const QString& text, double width) {
    const QFontMetricsF metrics(font);
    if (metrics.horizontalAdvance(text) <= width)
        return text;
    return metrics.elidedText(text.section(QStringLiteral(" · "), 0, 0), Qt::ElideRight, width);
}

QString elided(const QFont& font, const QString& text, double width) {
    return QFontMetricsF(font).elidedText(text, Qt::ElideRight, width);
}

} // namespace

LineCanvas::LineCanvas(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("line"));
    setAccessibleName(tr("Supply line"));
    setAccessibleDescription(
        tr("Every voltage on its way from the cells to the loads. Arrow keys walk the line."));
    new Refresher(this, session, {&Session::projectChanged}, [this] { rebuild(); });
    new Refresher(this, session, {&Session::resultsSettled, &Session::momentChanged},
                  [this] { relayout(); });
    connect(&session, &Session::selectionChanged, this, qOverload<>(&QWidget::update));
    connect(&session, &Session::highlightChanged, this, qOverload<>(&QWidget::update));
    rebuild();
}

QSize LineCanvas::minimumSizeHint() const {
    return {Theme::now().ipx(380), Theme::now().ipx(240)};
}

PartWidget* LineCanvas::widgetFor(const QString& key, const QString& id) {
    if (PartWidget* known = m_widgets.value(key))
        return known;
    auto* w = new PartWidget(id, this);
    w->setObjectName(key);
    connect(w, &PartWidget::picked, this,
            [this](const QString& part) { m_session.select(partOf(part)); });
    connect(w, &PartWidget::opened, this,
            [this](const QString& part) { emit opened(partOf(part)); });
    connect(w, &PartWidget::dragged, this, &LineCanvas::dragTo);
    connect(w, &PartWidget::dragEnded, this, [this] {
        m_session.endGesture();
        m_frozen.reset();
        relayout();
    });
    connect(w, &PartWidget::nudged, this, &LineCanvas::nudge);
    connect(w, &PartWidget::walked, this, &LineCanvas::walk);
    connect(w, &PartWidget::hovered, this, [this](const QString& part, bool in) {
        m_session.highlight(in ? partOf(part) : QString());
    });
    m_widgets.insert(key, w);
    return w;
}

void LineCanvas::rebuild() {
    QSet<QString> wanted;
    const Project& p = m_session.project();
    for (const Stage& s : p.stages) {
        const QString id = qs(s.id);
        PartWidget* w = widgetFor("stage." + id, id);
        wanted << w->objectName();
        w->setDraggable(plain(setPointOf(s.part)) > 0);
        if (const auto* guard = std::get_if<Guard>(&s.part)) {
            wanted << widgetFor("guard." + id + ".cutoff_v", id + ".cutoff_v")->objectName();
            if (guard->reconnect)
                wanted
                    << widgetFor("guard." + id + ".reconnect_v", id + ".reconnect_v")->objectName();
        }
    }
    for (const Load& l : p.loads) {
        PartWidget* w = widgetFor("load." + qs(l.id), qs(l.id));
        w->setDraggable(false);
        wanted << w->objectName();
    }
    for (const QString& key : m_widgets.keys())
        if (!wanted.contains(key))
            m_widgets.take(key)->deleteLater();
    relayout();
}

void LineCanvas::resizeEvent(QResizeEvent*) {
    relayout();
}

void LineCanvas::mousePressEvent(QMouseEvent*) {
    m_session.select({});
}

/// Over a part, or by the menu key on one: that part is chosen and its menu asked for.
void LineCanvas::contextMenuEvent(QContextMenuEvent* event) {
    for (const PartWidget* w : m_widgets)
        if (w->isVisible() && w->geometry().contains(event->pos()))
            m_session.select(partOf(w->id()));
    emit menuAsked(event->globalPos());
}

void LineCanvas::relayout() {
    const Project& p = m_session.project();
    m_layout = layoutLine(p, m_session.results(), m_session.moment(), size(), Theme::now().scale(),
                          m_frozen ? &*m_frozen : nullptr);
    const auto place = [](PartWidget* w, const QRectF& box, const QString& name,
                          const QString& about) {
        w->setGeometry(box.toAlignedRect());
        w->setAccessibleName(name);
        w->setAccessibleDescription(about);
        w->setToolTip(name + QLatin1Char('\n') + about);
        w->show();
    };
    for (std::size_t i = 0; i < p.stages.size(); ++i) {
        const StagePlace& s = m_layout.stages[i];
        PartWidget* w = m_widgets.value("stage." + qs(p.stages[i].id));
        if (!w)
            continue;
        if (!s.shown) {
            w->hide();
            continue;
        }
        const double pad = s.shape == Shape::pill ? 12 : 0;
        place(w, s.box.adjusted(-2, -pad, 2, pad), s.title,
              QStringLiteral("%1, %2").arg(qs(kindText(p.stages[i].part)), s.detail));
        if (const auto* guard = std::get_if<Guard>(&p.stages[i].part)) {
            const auto handle = [&](const char* key, const QString& name, std::optional<Volts> v) {
                PartWidget* h = m_widgets.value("guard." + qs(p.stages[i].id) + "." + key);
                if (!h || !v)
                    return;
                const double y = m_layout.axis.y(std::max(0.05, v->value())) + s.shift;
                place(h, QRectF(s.box.left(), y - 5, s.box.width(), 10), name,
                      quantity(v->value(), Unit::volt));
                h->setDraggable(true);
                h->raise();
            };
            handle("cutoff_v", tr("%1 cuts off").arg(s.title), guard->cutoff);
            handle("reconnect_v", tr("%1 reconnects").arg(s.title), guard->reconnect);
        }
    }
    for (std::size_t i = 0; i < p.loads.size(); ++i) {
        const LoadPlace& l = m_layout.loads[i];
        PartWidget* w = m_widgets.value("load." + qs(p.loads[i].id));
        if (!w)
            continue;
        if (!l.shown)
            w->hide();
        else
            place(w, l.label.adjusted(-Theme::now().px(30), 0, 0, 0), l.title, l.detail);
    }
    update();
}

void LineCanvas::dragTo(const QString& id, double y) {
    if (!m_frozen)
        m_frozen = m_layout.axis;
    const Stage* stage = m_session.project().stage(partOf(id).toStdString());
    if (!stage)
        return;
    const auto index = stageIndex(m_session.project(), stage->id);
    const double volts = m_layout.axis.volts(y - m_layout.stages[index].shift);
    setVolts(id, std::round(volts / kSnap) * kSnap, true);
}

void LineCanvas::nudge(const QString& id, int steps) {
    const Stage* stage = m_session.project().stage(partOf(id).toStdString());
    if (!stage)
        return;
    if (const auto now = sipper::thresholdOf(*stage, thresholdOf(id)))
        setVolts(id, now->value() + steps * kSnap, false);
}

void LineCanvas::setVolts(const QString& id, double volts, bool dragging) {
    const Threshold which = thresholdOf(id);
    const std::string part = partOf(id).toStdString();
    Project after = withThreshold(m_session.project(), part, which, Volts{volts}, Volts{kSnap});
    const Stage* stage = after.stage(part);
    const auto now = stage ? sipper::thresholdOf(*stage, which) : std::nullopt;
    if (!now)
        return;
    const QString name = which == Threshold::setPoint ? tr("set %1 to %2")
                         : which == Threshold::cutoff ? tr("cut %1 off at %2")
                                                      : tr("reconnect %1 at %2");
    const QString text = name.arg(qs(nameOf(*stage)), quantity(now->value(), Unit::volt));
    m_session.apply(text, std::move(after), dragging ? "drag." + id : "nudge." + id);
}

void LineCanvas::walk(const QString& id, int key) {
    const Project& p = m_session.project();
    const std::string at = partOf(id).toStdString();
    const Stage* stage = p.stage(at);
    const Load* load = p.load(at);
    QString next;
    if (key == Qt::Key_Left) {
        if (load)
            next = qs(load->fedBy);
        else if (stage && !stage->fedBy.empty())
            next = qs(stage->fedBy.front());
    } else if (key == Qt::Key_Right && stage) {
        const auto behind = p.fedFrom(at);
        double best = 1e9;
        for (const std::string& one : behind)
            if (PartWidget* w = m_widgets.value((p.load(one) ? "load." : "stage.") + qs(one));
                w && w->isVisible()) {
                const double away = std::abs(w->geometry().center().y() -
                                             m_layout.stages[stageIndex(p, stage->id)].y);
                if (away < best) {
                    best = away;
                    next = qs(one);
                }
            }
    } else {
        // The nearest one above or below in the same column.
        const PartWidget* here = m_widgets.value((load ? "load." : "stage.") + qs(at));
        double best = 1e9;
        for (const PartWidget* w : m_widgets) {
            if (!w->isVisible() || w == here || !here || w->objectName().startsWith("guard."))
                continue;
            const QPoint d = w->geometry().center() - here->geometry().center();
            const double away = std::abs(d.y());
            if (std::abs(d.x()) < here->width() && (key == Qt::Key_Up ? d.y() < 0 : d.y() > 0) &&
                away < best) {
                best = away;
                next = w->id();
            }
        }
    }
    if (next.isEmpty())
        return;
    if (PartWidget* w = m_widgets.value((p.load(next.toStdString()) ? "load." : "stage.") + next))
        w->setFocus(Qt::TabFocusReason);
}

std::optional<Severity> LineCanvas::gravestOf(const std::string& id) const {
    for (const Finding& f : m_session.results().findings)
        if (f.subject == id)
            return f.severity;
    return std::nullopt;
}

QColor LineCanvas::edgeOf(const QString& id) const {
    if (m_session.selected() == id || m_session.highlighted() == id)
        return colour(Role::copper);
    if (gravestOf(id.toStdString()) == Severity::stop)
        return colour(Role::stop);
    return colour(Role::ink);
}

void LineCanvas::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), colour(Role::paper));
    if (std::none_of(m_layout.stages.begin(), m_layout.stages.end(),
                     [](const StagePlace& s) { return s.shown; })) {
        p.setPen(colour(Role::muted));
        p.setFont(Theme::now().font(13));
        p.drawText(rect(), Qt::AlignCenter | Qt::TextWordWrap,
                   tr("There is no source in this project yet.\nAdd one below, or start from a "
                      "recipe (Ctrl+N)."));
        return;
    }
    paintGrid(p);
    paintBands(p);
    paintCopper(p);
    paintStages(p);
    paintLoads(p);
    paintCallout(p);
    if (m_session.moment().collapse) {
        p.setPen(colour(Role::stop));
        p.setFont(Theme::now().font(13, true));
        p.drawText(
            QRectF(m_layout.plot.left(), Theme::now().px(28), m_layout.plot.width(),
                   Theme::now().px(22)),
            Qt::AlignCenter,
            tr("At this moment the supply collapses: the cells can't give what is asked for."));
    }
}

void LineCanvas::paintGrid(QPainter& p) const {
    const Theme& theme = Theme::now();
    p.setFont(theme.font(11));
    for (const double v : m_layout.axis.ticks(theme.px(22))) {
        const double y = std::round(m_layout.axis.y(v)) + 0.5;
        p.setPen(QPen(colour(Role::hairline), 1));
        p.drawLine(QPointF(m_layout.plot.left(), y), QPointF(m_layout.plot.right(), y));
        p.setPen(colour(Role::muted));
        p.drawText(QRectF(0, y - theme.px(9), theme.px(40), theme.px(18)),
                   Qt::AlignRight | Qt::AlignVCenter, QStringLiteral("%1 V").arg(v));
    }
    p.setFont(theme.font(11, true));
    p.setPen(colour(Role::muted));
    for (const auto& [box, text] : m_layout.headings)
        p.drawText(box, (text == "Loads" ? Qt::AlignLeft : Qt::AlignHCenter) | Qt::AlignVCenter,
                   elided(p.font(), text, box.width()));
}

void LineCanvas::paintBands(QPainter& p) const {
    p.setPen(Qt::NoPen);
    p.setBrush(colour(Role::band));
    for (const StagePlace& s : m_layout.stages)
        if (s.shown && s.hasBand && s.bandEnd > s.box.center().x())
            p.drawRect(
                QRectF(QPointF(s.shape == Shape::card ? s.box.right() : s.box.left(), s.bandTop),
                       QPointF(s.bandEnd, std::max(s.bandBottom, s.bandTop + 2))));
}

void LineCanvas::paintCopper(QPainter& p) const {
    const OperatingPoint& now = m_session.moment();
    if (now.collapse || now.flows.stages.empty())
        return;
    const Project& project = m_session.project();
    double most = 1e-9;
    for (const StageFlow& f : now.flows.stages)
        most = std::max(most, f.vIn * f.iIn);
    const auto pen = [&](double watts, bool live) {
        QPen line(live ? colour(Role::copper) : colour(Role::muted));
        line.setWidthF(Theme::now().px(
            kThinnest + (kThickest - kThinnest) * std::sqrt(std::clamp(watts / most, 0.0, 1.0))));
        if (!live)
            line.setStyle(Qt::DotLine);
        return line;
    };
    for (std::size_t i = 0; i < project.stages.size(); ++i) {
        const StagePlace& s = m_layout.stages[i];
        if (!s.shown)
            continue;
        const StageFlow& f = now.flows.stages[i];
        if (s.shape != Shape::card) { // the line runs through what only passes it on
            p.setPen(pen(f.vOut * f.iOut, f.state != StageState::off));
            p.drawLine(QPointF(s.box.left(), s.y), QPointF(s.box.right(), s.y));
        }
        if (s.column == 0)
            continue;
        p.setBrush(Qt::NoBrush);
        for (const std::size_t other : s.otherFeeds) {
            const StagePlace& rests = m_layout.stages[other];
            p.setPen(pen(0, false));
            p.drawPath(wirePath({rests.box.right(), rests.y}, {s.box.left(), s.y}));
        }
        const StagePlace& from = m_layout.stages[s.parent];
        p.setPen(pen(f.vIn * f.iIn, f.vIn > 0));
        p.drawPath(wirePath({from.box.right(), from.y}, {s.box.left(), s.y}));
    }
    for (std::size_t i = 0; i < project.loads.size(); ++i) {
        const LoadPlace& l = m_layout.loads[i];
        if (!l.shown)
            continue;
        const LoadFlow& f = now.flows.loads[i];
        const StagePlace& from = m_layout.stages[l.parent];
        p.setPen(pen(f.v * f.i, f.v > 0));
        p.setBrush(Qt::NoBrush);
        // Long ways run level first and bend in the last column.
        const double bend = std::max(from.box.right(), l.x - Theme::now().px(70));
        QPainterPath path(QPointF(from.box.right(), from.y));
        path.lineTo(bend, from.y);
        path.connectPath(wirePath({bend, from.y}, {l.x, l.y}));
        p.drawPath(path);
    }
}

void LineCanvas::paintStages(QPainter& p) const {
    for (std::size_t i = 0; i < m_layout.stages.size(); ++i)
        if (m_layout.stages[i].shown)
            paintStage(p, i);
}

void LineCanvas::paintStage(QPainter& p, std::size_t i) const {
    const Theme& theme = Theme::now();
    const StagePlace& s = m_layout.stages[i];
    const Stage& stage = m_session.project().stages[i];
    const QString id = qs(stage.id);
    const bool chosen = m_session.selected() == id || m_session.highlighted() == id;
    const QPen edge(edgeOf(id), chosen ? theme.px(2) : theme.px(1));
    const QFont small = theme.font(11);
    const QFont bold = theme.font(11.5, true);
    if (const auto severity = gravestOf(stage.id); severity && severity != Severity::note)
        drawSeverity(p,
                     QRectF(s.box.right() - theme.px(4), s.box.top() - theme.px(5), theme.px(10),
                            theme.px(10)),
                     *severity);
    switch (s.shape) {
    case Shape::pack: {
        QColor fill = colour(Role::copper);
        fill.setAlphaF(0.22F);
        p.setPen(chosen ? edge : QPen(Qt::NoPen));
        p.setBrush(fill);
        p.drawRoundedRect(s.box, theme.px(3), theme.px(3));
        const bool stops = m_session.results().survey && m_session.results().survey->stop;
        p.setPen(colour(Role::muted));
        p.setFont(small);
        const QRectF above(s.box.center().x() - theme.px(60), s.box.top() - theme.px(34),
                           theme.px(120), theme.px(16));
        p.drawText(above.translated(0, theme.px(16)), Qt::AlignCenter,
                   QStringLiteral("%1 full").arg(quantity(s.high, Unit::volt)));
        p.drawText(QRectF(above.left(), s.box.bottom() + theme.px(2), above.width(), theme.px(16)),
                   Qt::AlignCenter,
                   QStringLiteral("%1 %2").arg(quantity(s.low, Unit::volt),
                                               stops ? tr("at the stop") : tr("empty")));
        p.setFont(bold);
        p.setPen(colour(Role::ink));
        p.drawText(above, Qt::AlignCenter, elided(bold, s.title, above.width()));
        break;
    }
    case Shape::guard:
        paintGuard(p, i);
        break;
    case Shape::card: {
        p.setPen(edge);
        p.setBrush(colour(Role::card));
        p.drawRoundedRect(s.box, theme.px(4), theme.px(4));
        p.setPen(colour(Role::ink));
        p.setFont(bold);
        p.drawText(s.box.adjusted(4, theme.px(3), -4, -s.box.height() / 2), Qt::AlignCenter,
                   elided(bold, s.title, s.box.width() - 8));
        const bool trouble = m_session.moment().flows.stages.size() > i &&
                             (m_session.moment().flows.stages[i].state == StageState::droppingOut ||
                              m_session.moment().flows.stages[i].state == StageState::passing ||
                              m_session.moment().flows.stages[i].state == StageState::limiting);
        p.setPen(colour(trouble ? Role::stop : Role::muted));
        p.setFont(small);
        p.drawText(s.box.adjusted(2, s.box.height() / 2 - theme.px(2), -2, -theme.px(2)),
                   Qt::AlignCenter, fitting(small, s.detail, s.box.width() - 6));
        break;
    }
    case Shape::pill: {
        p.setPen(edge);
        p.setBrush(colour(Role::shelf));
        p.drawRoundedRect(s.box, s.box.height() / 2, s.box.height() / 2);
        const QRectF text(s.area.left(), s.box.top() - theme.px(s.compact ? 16 : 32),
                          s.area.width(), theme.px(15));
        p.setFont(small);
        const double wide =
            std::min(text.width(), 4 + std::max(QFontMetricsF(small).horizontalAdvance(s.title),
                                                QFontMetricsF(small).horizontalAdvance(s.detail)));
        QColor ground = colour(Role::paper);
        ground.setAlphaF(0.45F);
        p.fillRect(QRectF(text.center().x() - wide / 2, text.top() + 1, wide,
                          theme.px(s.compact ? 14 : 27)),
                   ground);
        p.setPen(colour(Role::ink));
        p.drawText(text, Qt::AlignCenter, elided(small, s.title, text.width()));
        p.setPen(colour(Role::muted));
        if (!s.compact)
            p.drawText(text.translated(0, theme.px(14)), Qt::AlignCenter,
                       elided(small, s.detail, text.width()));
        break;
    }
    }
}

void LineCanvas::paintGuard(QPainter& p, std::size_t i) const {
    const Theme& theme = Theme::now();
    const StagePlace& s = m_layout.stages[i];
    const Stage& stage = m_session.project().stages[i];
    const auto& guard = std::get<Guard>(stage.part);
    const QString id = qs(stage.id);
    const bool chosen = m_session.selected() == id || m_session.highlighted() == id;
    p.setPen(QPen(edgeOf(id), chosen ? theme.px(2) : theme.px(1)));
    QColor ground = colour(Role::card);
    ground.setAlphaF(0.55F);
    p.setBrush(ground);
    p.drawRoundedRect(s.box, theme.px(4), theme.px(4));
    p.setFont(theme.font(11.5, true));
    p.setPen(colour(Role::ink));
    p.drawText(QRectF(s.box.left() - theme.px(20), s.box.top() - theme.px(17),
                      s.box.width() + theme.px(40), theme.px(15)),
               Qt::AlignCenter, elided(p.font(), s.title, s.box.width() + theme.px(40)));
    p.setFont(theme.font(11));
    const auto threshold = [&](double v, Role role, Qt::PenStyle style, const QString& text,
                               bool below) {
        const double y = m_layout.axis.y(std::max(0.05, v)) + s.shift;
        p.setPen(QPen(colour(role), theme.px(1.6), style));
        p.drawLine(QPointF(s.box.left() + 2, y), QPointF(s.box.right() - 2, y));
        const QRectF box(s.box.left() - theme.px(14),
                         below ? s.box.bottom() + theme.px(1) : y - theme.px(15),
                         s.box.width() + theme.px(28), theme.px(14));
        p.setPen(colour(role));
        p.drawText(box, Qt::AlignCenter, text);
    };
    threshold(guard.cutoff.value(), Role::stop, Qt::SolidLine,
              QStringLiteral("off %1").arg(quantity(guard.cutoff.value(), Unit::volt)), true);
    if (guard.reconnect)
        threshold(guard.reconnect->value(), Role::charging, Qt::DashLine,
                  QStringLiteral("on %1").arg(quantity(guard.reconnect->value(), Unit::volt)),
                  false);
}

void LineCanvas::paintLoads(QPainter& p) const {
    const Theme& theme = Theme::now();
    const Project& project = m_session.project();
    for (std::size_t i = 0; i < project.loads.size(); ++i) {
        const LoadPlace& l = m_layout.loads[i];
        if (!l.shown)
            continue;
        const QString id = qs(project.loads[i].id);
        const bool chosen = m_session.selected() == id || m_session.highlighted() == id;
        const double arm = theme.px(13);
        if (l.missesLow || l.missesHigh) {
            p.setPen(Qt::NoPen);
            p.setBrush(hatchBrush());
            p.drawRect(
                QRectF(QPointF(l.x - 1, l.missTop), QPointF(l.x + theme.px(20), l.missBottom)));
        }
        p.setPen(QPen(colour(Role::accepts), theme.px(chosen ? 3 : 2.2)));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(QPolygonF{QPointF(l.x + arm, l.top), QPointF(l.x, l.top),
                                 QPointF(l.x, l.bottom), QPointF(l.x + arm, l.bottom)});
        const double middle = std::clamp(
            m_layout.axis.y(project.loads[i].window.middle().value()) + l.shift, l.top, l.bottom);
        p.setPen(QPen(colour(Role::accepts), theme.px(1)));
        p.drawLine(QPointF(l.x, middle), QPointF(l.x + arm * 1.4, middle));
        if (l.never >= 0) {
            p.setPen(QPen(colour(Role::stop), theme.px(1.3)));
            p.drawLine(QPointF(l.x, l.never), QPointF(l.x + theme.px(22), l.never));
            p.setFont(theme.font(11));
            p.drawText(
                l.neverLabel, Qt::AlignLeft | Qt::AlignVCenter,
                elided(p.font(),
                       QStringLiteral("never above %1")
                           .arg(quantity(project.loads[i].window.neverAbove->value(), Unit::volt)),
                       l.neverLabel.width()));
        }
        const bool inside = m_session.moment().collapse || m_session.moment().inside.size() <= i ||
                            m_session.moment().inside[i];
        const QFont bold = theme.font(12, true);
        p.setFont(bold);
        p.setPen(chosen ? colour(Role::copper) : colour(Role::ink));
        const QFont small = theme.font(11);
        const double detail =
            l.compact ? QFontMetricsF(small).horizontalAdvance(l.detail) + theme.px(8) : 0;
        const double nameRoom = l.label.width() - theme.px(14) - detail;
        const double nameTop = l.label.center().y() - theme.px(l.compact ? 8.5 : 17);
        p.drawText(QRectF(l.label.left(), nameTop, nameRoom, theme.px(17)),
                   Qt::AlignLeft | Qt::AlignVCenter, elided(bold, l.title, nameRoom));
        p.setFont(small);
        p.setPen(colour(inside ? Role::muted : Role::stop));
        const QRectF second =
            l.compact ? QRectF(l.label.right() - detail, nameTop, detail, theme.px(17))
                      : QRectF(l.label.left(), l.label.center().y(), l.label.width(), theme.px(16));
        p.drawText(second, (l.compact ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter,
                   elided(small, l.detail, second.width()));
        if (const auto severity = gravestOf(project.loads[i].id);
            severity && severity != Severity::note)
            drawSeverity(
                p,
                QRectF(l.label.left() +
                           std::min(nameRoom,
                                    QFontMetricsF(bold).horizontalAdvance(l.title) + theme.px(6)),
                       nameTop + theme.px(4), theme.px(9), theme.px(9)),
                *severity);
    }
}

void LineCanvas::paintCallout(QPainter& p) const {
    if (m_layout.callout.isEmpty())
        return;
    const Theme& theme = Theme::now();
    p.setPen(QPen(colour(Role::stop), theme.px(1)));
    p.setBrush(colour(Role::card));
    p.drawRoundedRect(m_layout.callout, theme.px(4), theme.px(4));
    p.setFont(theme.font(11, true));
    p.setPen(colour(Role::stop));
    p.drawText(m_layout.callout, Qt::AlignCenter, m_layout.calloutText);
}

} // namespace sipper::app
