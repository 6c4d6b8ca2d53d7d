// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/supplyline/linecanvas.hpp"
#include "parts/kinds.hpp"
#include "project/edits.hpp"
#include "project/tree.hpp"
#include "views/supplyline/linepainter.hpp"

#include "parts/figures.hpp"
#include "project/roles.hpp"
#include "theme/theme.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"

#include <QContextMenuEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kSnap = 0.05; ///< V: where a dragged level comes to rest

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

} // namespace

LineCanvas::LineCanvas(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("line"));
    setAccessibleName(tr("Supply line"));
    setAccessibleDescription(
        tr("Every voltage on its way from the cells to the loads. Arrow keys walk the line."));
    new Refresher(this, session, {&Session::projectChanged}, [this] { rebuild(); });
    new Refresher(this, session, {&Session::resultsUpdated, &Session::momentChanged},
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
        w->setDraggable(orZero(setPointOf(s.part)) > 0);
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

/// What the library calls the part, for its tooltip.
static QString isA(const Stage& stage) {
    const std::string make = makeOf(stage);
    return make.empty() || make == nameOf(stage) ? QString()
                                                 : LineCanvas::tr("; is a: %1").arg(qs(make));
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
              QStringLiteral("%1, %2%3")
                  .arg(qs(kindText(p.stages[i].part)), s.detail, isA(p.stages[i])));
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

void LineCanvas::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), colour(Role::paper));
    LinePainter(p,
                {.layout = m_layout,
                 .project = m_session.project(),
                 .findings = m_session.results().findings,
                 .now = m_session.moment(),
                 .stops = m_session.results().sweep && m_session.results().sweep->stop,
                 .chosen = m_session.selected(),
                 .lit = m_session.highlighted(),
                 .backfeeds = m_session.results().protect ? &m_session.results().protect->backfeeds
                                                          : nullptr})
        .paint(rect());
}

} // namespace sipper::app
