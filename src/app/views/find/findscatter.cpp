// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/find/findscatter.hpp"

#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <QBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPushButton>
#include <algorithm>
#include <cmath>
#include <qcustomplot.h>

namespace sipper::app {
namespace {

constexpr double kNear = 12;      ///< px within which a click means a point
constexpr double kFarTooLong = 6; ///< times the hours asked for
constexpr double kPastShort = 2;  ///< times the short list's reach, that is shown

} // namespace

QString byText(const Candidate::Refilled& refill) {
    return refill.by == "socket"    ? QObject::tr("a 5 V socket")
           : refill.by == "adapter" ? QObject::tr("a wall adapter")
           : refill.by == "sun"     ? QObject::tr("the sun")
                                    : qs(refill.by);
}

FindScatter::FindScatter(QWidget* parent) : QFrame(parent) {
    makeCard(*this, QStringLiteral("findScatter"), tr("All that do it"));
    auto* column = newColumn(this, 4, Margins{8, 6, 8, 6});
    column->addLayout(buildHead());
    buildPlot();
    buildGraphs();
    followMouse();
    column->addWidget(m_plot, 1);
    m_hover = textLabel(this, {}, {.size = 12, .wrap = true, .name = "find.chosen"});
    m_takeButton = pushButton(this, "find.take", tr("Take as variant"),
                              tr("The chosen supply as another variant of this project (Enter)"));
    connect(m_takeButton, &QPushButton::clicked, this, [this] {
        if (m_chosen >= 0)
            emit taken(m_chosen);
    });
    auto* foot = newRow(nullptr, 8);
    foot->addWidget(m_hover, 1);
    foot->addWidget(m_takeButton);
    column->addLayout(foot);
}

QLayout* FindScatter::buildHead() {
    const Theme& t = Theme::now();
    auto* head = new FlowLayout(nullptr, t.ipx(6), t.ipx(4));
    const auto box = [&](const char* name, const QString& says, Axis& axis) {
        auto* combo = choiceField(this, QStringLiteral("find.") + QLatin1String(name), says, says);
        combo->setMinimumContentsLength(8);
        combo->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        for (const Axis a :
             {Axis::hours, Axis::grams, Axis::price, Axis::size, Axis::worst, Axis::refill})
            combo->addItem(axisText(a), static_cast<int>(a));
        combo->setCurrentIndex(combo->findData(static_cast<int>(axis)));
        connect(combo, &QComboBox::activated, this, [this, combo, &axis] {
            axis = static_cast<Axis>(combo->currentData().toInt());
            m_corner.reset();
            draw();
            emit cornered();
        });
        return combo;
    };
    m_yBox = box("y", tr("Upwards"), m_y);
    head->addWidget(m_yBox);
    auto* across = new QWidget(this);
    auto* pair = newRow(across, 6, Margins{});
    pair->addWidget(mutedLabel(tr("over"), across, 12));
    m_xBox = box("x", tr("To the right"), m_x);
    pair->addWidget(m_xBox);
    head->addWidget(across);
    m_near = pushButton(this, "find.near", tr("Near the short list"));
    m_near->setCheckable(true);
    m_near->setToolTip(tr("Those about the short list alone, or all that do it"));
    connect(m_near, &QPushButton::toggled, this, [this](bool on) {
        m_nearOnly = on;
        accentButton(*m_near, on);
        draw();
    });
    head->addWidget(m_near);
    return head;
}

void FindScatter::buildPlot() {
    m_plot = new QCustomPlot(this);
    m_plot->setObjectName(QStringLiteral("find.plot"));
    m_plot->setAccessibleName(tr("Every supply that does it"));
    m_plot->setToolTip(tr("A click chooses, a double click takes; drag over a corner to list it"));
    stylePlot(*m_plot);
    m_plot->setMinimumHeight(Theme::now().ipx(190));
    m_plot->setSelectionRectMode(QCP::srmCustom);
    m_plot->selectionRect()->setPen(QPen(colour(Role::copper), 1, Qt::DashLine));
    m_plot->selectionRect()->setBrush(onCard(Role::copper, 0.1));
    for (QCPAxis* axis : {m_plot->xAxis, m_plot->yAxis}) {
        axis->setScaleType(QCPAxis::stLogarithmic);
        axis->grid()->setVisible(true);
    }
}

void FindScatter::buildGraphs() {
    const Theme& t = Theme::now();
    m_all = m_plot->addGraph();
    m_all->setName(tr("does it"));
    m_own = m_plot->addGraph();
    m_own->setName(tr("of your own parts"));
    m_edge = m_plot->addGraph();
    m_edge->setName(tr("beaten by none"));
    m_yours = m_plot->addGraph();
    m_yours->setName(tr("yours"));
    m_mark = m_plot->addGraph();
    m_mark->setName(tr("chosen"));
    for (QCPGraph* graph : {m_all, m_own, m_edge, m_yours, m_mark})
        graph->setLineStyle(QCPGraph::lsNone);
    const auto dots = [&](Role line, const QColor& fill, double size, double width) {
        return QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(colour(line), t.px(width)), fill,
                               t.px(size));
    };
    m_all->setScatterStyle(
        QCPScatterStyle(QCPScatterStyle::ssDisc, onCard(Role::copper, 0.35), t.px(4)));
    m_own->setScatterStyle(
        QCPScatterStyle(QCPScatterStyle::ssDisc, colour(Role::charging), t.px(5)));
    m_edge->setScatterStyle(
        QCPScatterStyle(QCPScatterStyle::ssDisc, colour(Role::copper), t.px(7)));
    m_yours->setScatterStyle(dots(Role::ink, colour(Role::card), 12, 2.2));
    m_mark->setScatterStyle(dots(Role::copper, Qt::transparent, 16, 2));
}

void FindScatter::followMouse() {
    connect(m_plot, &QCustomPlot::mouseRelease, this, [this](QMouseEvent* event) {
        if (m_plot->selectionRect()->rect().width() < 4)
            pick(event->pos());
    });
    connect(m_plot, &QCustomPlot::mouseMove, this, [this](QMouseEvent* event) {
        if (event->buttons() != Qt::NoButton)
            return;
        const int under = nearest(event->pos());
        say(under >= 0 ? under : m_chosen);
    });
    connect(m_plot, &QCustomPlot::mouseDoubleClick, this, [this](QMouseEvent* event) {
        pick(event->pos());
        if (m_chosen >= 0)
            emit taken(m_chosen);
    });
    connect(m_plot->selectionRect(), &QCPSelectionRect::accepted, this, [this](const QRect& rect) {
        const QRect r = rect.normalized();
        if (r.width() < 8 || r.height() < 8)
            return;
        m_corner = QRectF(
            QPointF(m_plot->xAxis->pixelToCoord(r.left()), m_plot->yAxis->pixelToCoord(r.bottom())),
            QPointF(m_plot->xAxis->pixelToCoord(r.right()), m_plot->yAxis->pixelToCoord(r.top())));
        emit cornered();
    });
}

void FindScatter::show(const std::shared_ptr<const Search>& found, bool running,
                       std::optional<double> target) {
    if (found != m_found &&
        !(found && m_found && found->feasible.size() == m_found->feasible.size()))
        m_chosen = -1;
    m_found = found;
    m_running = running;
    m_target = target;
    draw();
}

void FindScatter::forget() {
    m_found.reset();
    m_chosen = -1;
    m_corner.reset();
}

void FindScatter::dropCorner() {
    m_corner.reset();
    emit cornered();
}

double FindScatter::valueOn(const Candidate& c, Axis axis) {
    switch (axis) {
    case Axis::hours:
        return c.hours;
    case Axis::grams:
        return c.grams;
    case Axis::price:
        return c.price;
    case Axis::size:
        return c.millilitres;
    case Axis::worst:
        return c.worstShare * 100;
    case Axis::refill: // what has none is not shown on it
        return c.refill ? c.refill->hours.value_or(0) : 0;
    }
    return 0;
}

QString FindScatter::axisText(Axis axis) {
    switch (axis) {
    case Axis::hours:
        return tr("hours");
    case Axis::grams:
        return tr("grams");
    case Axis::price:
        return tr("price");
    case Axis::size:
        return tr("size of the cells, ml");
    case Axis::worst:
        return tr("worst draw, % of what cells allow");
    case Axis::refill:
        return tr("hours to refill");
    }
    return {};
}

void FindScatter::Frame::include(double x, double y) {
    if (x <= 0 || y <= 0)
        return;
    left = std::min(left, x);
    right = std::max(right, x);
    low = std::min(low, y);
    high = std::max(high, y);
}

void FindScatter::drawPoints(const Search& s, Frame& frame) {
    QVector<double> x;
    QVector<double> y;
    QVector<double> ownX;
    QVector<double> ownY;
    // While it searches there is no short list yet: what runs far too long frames nothing.
    const double longest = m_running && m_target ? kFarTooLong * *m_target : 1e300;
    const bool anyNear = std::any_of(s.feasible.begin(), s.feasible.end(),
                                     [&](const Candidate& c) { return c.hours <= longest; });
    for (const Candidate& c : s.feasible) {
        x << valueOn(c, m_x);
        y << valueOn(c, m_y);
        if (!anyNear || c.hours <= longest)
            frame.include(x.back(), y.back());
        if (c.own) {
            ownX << x.back();
            ownY << y.back();
        }
    }
    m_all->setData(x, y);
    m_own->setData(ownX, ownY);
    x.clear();
    y.clear();
    m_onEdge.assign(s.feasible.size(), false);
    for (const std::size_t e : s.paretoFront) {
        m_onEdge[e] = true;
        x << valueOn(s.feasible[e], m_x);
        y << valueOn(s.feasible[e], m_y);
    }
    m_edge->setData(x, y);
}

void FindScatter::labelAxis(QCPAxis& axis, Axis kind) {
    axis.setLabel(axisText(kind));
    auto ticks = QSharedPointer<QCPAxisTickerText>::create();
    if (kind == Axis::hours || kind == Axis::refill) {
        for (const double at : {1.0 / 60, 1.0 / 6, 1.0, 2.0, 5.0, 10.0, 24.0, 48.0, 120.0, 240.0,
                                720.0, 2160.0, 8766.0, 43830.0})
            ticks->addTick(at, hours(at));
    } else {
        const double span = axis.range().upper / std::max(axis.range().lower, 1e-12);
        for (double decade = 1e-6; decade < 1e9; decade *= 10)
            for (const double of : {1.0, 2.0, 5.0})
                if (of == 1 || span < 3000)
                    ticks->addTick(of * decade, kind == Axis::grams
                                                    ? quantity(of * decade, Unit::gram)
                                                    : QString::number(of * decade, 'g', 6));
    }
    axis.setTicker(ticks);
}

void FindScatter::drawTarget() {
    if (!m_target || m_y != Axis::hours)
        return;
    auto* rule = new QCPItemStraightLine(m_plot);
    rule->setPen(QPen(colour(Role::fine), Theme::now().px(1.5), Qt::DashLine));
    rule->point1->setCoords(m_plot->xAxis->range().lower, *m_target);
    rule->point2->setCoords(m_plot->xAxis->range().upper, *m_target);
    auto* text = plotText(*m_plot, Role::fine, {.size = 12, .bold = true, .padding = {}},
                          tr("target %1").arg(hours(*m_target)));
    text->setPositionAlignment(Qt::AlignRight | Qt::AlignBottom);
    text->position->setTypeX(QCPItemPosition::ptAxisRectRatio);
    text->position->setTypeY(QCPItemPosition::ptPlotCoords);
    text->position->setCoords(0.99, *m_target);
}

void FindScatter::draw() {
    for (QCPGraph* graph : {m_all, m_own, m_edge, m_yours, m_mark})
        graph->data()->clear();
    m_plot->clearItems();
    m_takeButton->setEnabled(m_chosen >= 0 && !m_running);
    for (QCPAxis* axis : {m_plot->xAxis, m_plot->yAxis})
        axis->setVisible(m_found != nullptr);
    if (!m_found) {
        m_near->hide();
        say(-1);
        m_plot->replot(QCustomPlot::rpQueuedReplot);
        return;
    }
    const Search& s = *m_found;
    Frame frame;
    drawPoints(s, frame);
    if (s.hasYours && s.yours.hours > 0) {
        m_yours->setData({valueOn(s.yours, m_x)}, {valueOn(s.yours, m_y)});
        frame.include(valueOn(s.yours, m_x), valueOn(s.yours, m_y));
        auto* text = plotText(*m_plot, Role::ink, {.size = 12, .bold = true}, tr("yours"));
        text->setPositionAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        text->setPadding(QMargins(Theme::now().ipx(10), 0, 0, 0));
        text->position->setCoords(valueOn(s.yours, m_x), valueOn(s.yours, m_y));
    }
    if (m_target && m_y == Axis::hours)
        frame.include(frame.left, *m_target);
    // Every point has its place; what is far out (packs of half a ton) can be left away.
    m_near->setVisible(!s.shortList.empty());
    if (m_nearOnly && !s.shortList.empty()) {
        const auto reach = [&](Axis axis, double& most) {
            double there = 0;
            for (const std::size_t i : s.shortList)
                there = std::max(there, valueOn(s.feasible[i], axis));
            if (s.hasYours)
                there = std::max(there, valueOn(s.yours, axis));
            most = std::min(most, kPastShort * there);
        };
        reach(m_x, frame.right);
        reach(m_y, frame.high);
    }
    if (frame.right > 0) {
        // Points at the border are whole.
        const double aside = std::max(1.15, std::pow(frame.right / frame.left, 0.03));
        m_plot->xAxis->setRange(frame.left / aside, frame.right * aside);
        // Room over the target's own words.
        m_plot->yAxis->setRange(frame.low / 1.25,
                                frame.high * std::max(1.3, std::pow(frame.high / frame.low, 0.09)));
    }
    for (const auto& [axis, kind] :
         {std::pair{m_plot->xAxis, m_x}, std::pair{m_plot->yAxis, m_y}}) {
        labelAxis(*axis, kind);
    }
    drawTarget();
    if (m_chosen >= 0) {
        const Candidate& c = s.feasible[static_cast<std::size_t>(m_chosen)];
        m_mark->setData({valueOn(c, m_x)}, {valueOn(c, m_y)});
    }
    say(m_chosen);
    m_plot->replot(QCustomPlot::rpQueuedReplot);
}

bool FindScatter::inCorner(const Candidate& c) const {
    return !m_corner ||
           (valueOn(c, m_x) >= m_corner->left() && valueOn(c, m_x) <= m_corner->right() &&
            valueOn(c, m_y) >= std::min(m_corner->top(), m_corner->bottom()) &&
            valueOn(c, m_y) <= std::max(m_corner->top(), m_corner->bottom()));
}

void FindScatter::choose(int index) {
    m_chosen = index;
    draw();
}

int FindScatter::nearest(const QPoint& at) const {
    int best = -1;
    double least = Theme::now().px(kNear);
    for (std::size_t i = 0; m_found && !m_running && i < m_found->feasible.size(); ++i) {
        const Candidate& c = m_found->feasible[i];
        const double dx = m_plot->xAxis->coordToPixel(valueOn(c, m_x)) - at.x();
        const double dy = m_plot->yAxis->coordToPixel(valueOn(c, m_y)) - at.y();
        // Those of the Pareto front are meant first.
        const double away = std::hypot(dx, dy) * (m_onEdge[i] ? 0.5 : 1);
        if (away < least) {
            least = away;
            best = static_cast<int>(i);
        }
    }
    return best;
}

void FindScatter::say(int index) {
    if (!m_found || index < 0 || m_running) {
        m_hover->setText(m_running ? tr("Searching…")
                         : m_found ? tr("Point at one: the whole supply in one line.")
                                   : QString());
        return;
    }
    const Candidate& c = m_found->feasible[static_cast<std::size_t>(index)];
    QString text = tr("<b>%1 · %2 · %3</b>  %4")
                       .arg(hours(c.hours), quantity(c.grams, Unit::gram))
                       .arg(c.price, 0, 'f', 2)
                       .arg(qs(c.says).toHtmlEscaped());
    if (c.refill)
        text += tr("; refilled by %1: %2, +%3, +%4")
                    .arg(byText(*c.refill), qs(c.refill->says).toHtmlEscaped(),
                         quantity(c.refill->grams, Unit::gram),
                         QString::number(c.refill->price, 'f', 2));
    m_hover->setText(text);
}

void FindScatter::pick(const QPoint& at) {
    if (const int index = m_running ? -1 : nearest(at); index >= 0)
        choose(index);
}

} // namespace sipper::app
