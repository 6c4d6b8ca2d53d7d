// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/supplyline/linepainter.hpp"

#include "project/tree.hpp"
#include "theme/theme.hpp"
#include "widgets/severitymark.hpp"
#include "widgets/text.hpp"

#include <QPainterPath>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kThinnest = 1.5;
constexpr double kThickest = 6.5;

QPainterPath wirePath(const QPointF& from, const QPointF& to) {
    QPainterPath path(from);
    const double reach = (to.x() - from.x()) * 0.5;
    path.cubicTo(from + QPointF(reach, 0), to - QPointF(reach, 0), to);
    return path;
}

/// As much of `a · b` as fits: both, or the first alone.
QString fitting(const QFont& font, const QString& text, double width) {
    if (QFontMetricsF(font).horizontalAdvance(text) <= width)
        return text;
    return text.section(QStringLiteral(" · "), 0, 0);
}

QString elided(const QFont& font, const QString& text, double width) {
    return QFontMetricsF(font).elidedText(text, Qt::ElideRight, width);
}

/// The font, drawn narrower by up to a fifth where the text would not fit otherwise.
QFont narrowed(QFont font, const QString& text, double width) {
    constexpr int kNarrowest = 80; // percent
    const double asIs = QFontMetricsF(font).horizontalAdvance(text);
    if (asIs > width)
        font.setStretch(std::max(kNarrowest, static_cast<int>(99 * width / asIs)));
    return font;
}

} // namespace

/// One line in the box, narrowed before it is cut.
void LinePainter::writeFitted(const QRectF& box, const QFont& font, const QString& text) {
    const QFont narrow = narrowed(font, text, box.width());
    m_p.setFont(narrow);
    write(box, Qt::AlignCenter, elided(narrow, text, box.width()));
    m_p.setFont(font);
}

void LinePainter::write(const QRectF& box, int flags, const QString& text) {
    if (!m_scene.wordless)
        m_p.drawText(box, flags, text);
}

std::optional<Severity> LinePainter::gravestOf(const std::string& id) const {
    for (const Finding& f : m_scene.findings)
        if (f.subject == id)
            return f.severity;
    return std::nullopt;
}

void LinePainter::paint(const QRectF& whole) {
    m_p.setRenderHint(QPainter::Antialiasing);
    if (std::none_of(m_scene.layout.stages.begin(), m_scene.layout.stages.end(),
                     [](const StagePlace& s) { return s.shown; })) {
        m_p.setPen(colour(Role::muted));
        m_p.setFont(Theme::now().font(13));
        write(whole, Qt::AlignCenter | Qt::TextWordWrap,
              tr("There is no source in this project yet.\nAdd one below, or start from a "
                 "recipe (Ctrl+N)."));
        return;
    }
    paintGrid();
    paintBands();
    paintCopper();
    paintBackfeeds();
    for (std::size_t i = 0; i < m_scene.layout.stages.size(); ++i)
        if (m_scene.layout.stages[i].shown)
            paintStage(i);
    for (std::size_t i = 0; i < m_scene.layout.loads.size(); ++i)
        if (m_scene.layout.loads[i].shown)
            paintLoad(i);
    paintCallout();
    if (m_scene.now.collapse)
        paintCollapse();
}

void LinePainter::paintCollapse() {
    const Theme& theme = Theme::now();
    m_p.setPen(colour(Role::stop));
    m_p.setFont(theme.font(13, true));
    write(
        QRectF(m_scene.layout.plot.left(), theme.px(28), m_scene.layout.plot.width(), theme.px(22)),
        Qt::AlignCenter,
        tr("At this moment the supply collapses: the cells can't give what is asked for."));
}

void LinePainter::paintGrid() {
    const Theme& theme = Theme::now();
    m_p.setFont(theme.font(11));
    for (const double v : m_scene.layout.axis.ticks(theme.px(22))) {
        const double y = std::round(m_scene.layout.axis.y(v)) + 0.5;
        m_p.setPen(QPen(colour(Role::hairline), 1));
        m_p.drawLine(QPointF(m_scene.layout.plot.left(), y),
                     QPointF(m_scene.layout.plot.right(), y));
        m_p.setPen(colour(Role::muted));
        write(QRectF(0, y - theme.px(9), theme.px(40), theme.px(18)),
              Qt::AlignRight | Qt::AlignVCenter, QStringLiteral("%1 V").arg(v));
    }
    m_p.setFont(theme.font(11, true));
    m_p.setPen(colour(Role::muted));
    for (const auto& [box, text, align] : m_scene.layout.headings)
        write(box, static_cast<int>((align | Qt::AlignVCenter).toInt()),
              elided(m_p.font(), text, box.width()));
}

void LinePainter::paintBands() {
    m_p.setPen(Qt::NoPen);
    m_p.setBrush(colour(Role::band));
    for (const StagePlace& s : m_scene.layout.stages)
        if (s.shown && s.hasBand && s.bandEnd > s.box.center().x())
            m_p.drawRect(
                QRectF(QPointF(s.shape == Shape::card ? s.box.right() : s.box.left(), s.bandTop),
                       QPointF(s.bandEnd, std::max(s.bandBottom, s.bandTop + 2))));
}

QPen LinePainter::copper(double watts, bool live, bool charging) const {
    QPen line(colour(!live ? Role::muted : charging ? Role::charging : Role::copper));
    line.setWidthF(Theme::now().px(
        kThinnest + (kThickest - kThinnest) * std::sqrt(std::clamp(watts / m_most, 0.0, 1.0))));
    if (!live)
        line.setStyle(Qt::DotLine);
    return line;
}

void LinePainter::paintCopper() {
    const OperatingPoint& now = m_scene.now;
    if (now.collapse || now.flows.stages.empty())
        return;
    m_most = 1e-9;
    for (const StageFlow& f : now.flows.stages)
        m_most = std::max(m_most, f.vIn * f.iIn);
    for (std::size_t i = 0; i < m_scene.project.stages.size(); ++i)
        if (m_scene.layout.stages[i].shown)
            paintWayTo(i);
    for (std::size_t i = 0; i < m_scene.project.loads.size(); ++i)
        if (m_scene.layout.loads[i].shown)
            paintWayToLoad(i);
}

void LinePainter::paintWayTo(std::size_t i) {
    const StagePlace& s = m_scene.layout.stages[i];
    const StageFlow& f = m_scene.now.flows.stages[i];
    if (s.shape != Shape::card) { // the line runs through what only passes it on
        m_p.setPen(copper(std::abs(f.vOut * f.iOut), f.state != StageState::off, s.charging));
        m_p.drawLine(QPointF(s.box.left(), s.y), QPointF(s.box.right(), s.y));
    }
    if (s.column == 0)
        return;
    m_p.setBrush(Qt::NoBrush);
    for (const std::size_t other : s.otherFeeds) {
        const StagePlace& rests = m_scene.layout.stages[other];
        const StageFlow& gives = m_scene.now.flows.stages[other];
        const bool fills = rests.charging && gives.iOut > 0 && s.shape == Shape::pack;
        m_p.setPen(copper(fills ? gives.vOut * gives.iOut : 0, fills, true));
        m_p.drawPath(wirePath({rests.box.right(), rests.y}, {s.box.left(), s.y}));
    }
    const StagePlace& from = m_scene.layout.stages[s.parent];
    if (s.shape == Shape::pack) { // from its charger
        const StageFlow& gives = m_scene.now.flows.stages[s.parent];
        m_p.setPen(copper(gives.vOut * gives.iOut, gives.iOut > 0, true));
    } else {
        m_p.setPen(copper(f.vIn * f.iIn, f.vIn > 0 && f.iIn > 0, s.charging));
    }
    m_p.drawPath(wirePath({from.box.right(), from.y}, {s.box.left(), s.y}));
}

void LinePainter::paintBackfeeds() {
    if (!m_scene.backfeeds)
        return;
    for (const BackfeedPath& push : *m_scene.backfeeds) {
        // Both ways through one place: the stronger is drawn. Into open contacts nothing flows.
        const bool weaker = std::any_of(
            m_scene.backfeeds->begin(), m_scene.backfeeds->end(), [&](const BackfeedPath& other) {
                return other.meet == push.meet && other.kind != BackfeedKind::socket &&
                       (other.volts > push.volts || (other.volts == push.volts && &other < &push));
            });
        if (push.kind != BackfeedKind::socket && !weaker)
            paintPush(push);
    }
}

/// Beside the copper, from the source that pushes to the one that is pushed into.
void LinePainter::paintPush(const BackfeedPath& push) {
    const Theme& theme = Theme::now();
    std::vector<const StagePlace*> places;
    const auto add = [&](const std::string& id) {
        const std::size_t at = stageIndex(m_scene.project, id);
        if (at != kNotFound && m_scene.layout.stages[at].shown)
            places.push_back(&m_scene.layout.stages[at]);
    };
    add(push.from);
    for (const std::string& id : push.way)
        add(id);
    add(push.into);
    m_p.setBrush(Qt::NoBrush);
    m_p.setPen(QPen(colour(Role::stop), theme.px(2), Qt::DashLine));
    const QPointF aside(0, theme.px(6));
    for (std::size_t i = 1; i < places.size(); ++i) {
        const bool onward = places[i]->column > places[i - 1]->column;
        const StagePlace& from = onward ? *places[i - 1] : *places[i];
        const StagePlace& to = onward ? *places[i] : *places[i - 1];
        m_p.drawPath(wirePath(QPointF(from.box.right(), from.y) + aside,
                              QPointF(to.box.left(), to.y) + aside));
    }
    const std::size_t meet = stageIndex(m_scene.project, push.meet);
    if (meet == kNotFound || !m_scene.layout.stages[meet].shown)
        return;
    const QRectF& area = m_scene.layout.stages[meet].area;
    const QString says = push.unlimited ? tr("pushed back, no limit")
                                        : tr("%1 back").arg(quantity(push.amps, Unit::ampere));
    m_p.setFont(theme.font(11, true));
    m_p.setPen(colour(Role::stop));
    write(QRectF(area.center().x() - theme.px(70), area.bottom() + theme.px(2), theme.px(140),
                 theme.px(16)),
          Qt::AlignCenter, says);
}

void LinePainter::paintWayToLoad(std::size_t i) {
    const LoadPlace& l = m_scene.layout.loads[i];
    const LoadFlow& f = m_scene.now.flows.loads[i];
    const StagePlace& from = m_scene.layout.stages[l.parent];
    m_p.setPen(copper(f.v * f.i, f.v > 0));
    m_p.setBrush(Qt::NoBrush);
    // Long ways run level first and bend in the last column.
    const double bend = std::max(from.box.right(), l.x - Theme::now().px(70));
    QPainterPath path(QPointF(from.box.right(), from.y));
    path.lineTo(bend, from.y);
    path.connectPath(wirePath({bend, from.y}, {l.x, l.y}));
    m_p.drawPath(path);
}

QPen LinePainter::edge(const QString& id) const {
    const Theme& theme = Theme::now();
    if (isChosen(id))
        return {colour(Role::copper), theme.px(2)};
    return {colour(gravestOf(id.toStdString()) == Severity::stop ? Role::stop : Role::ink),
            theme.px(1)};
}

void LinePainter::paintStage(std::size_t i) {
    const Theme& theme = Theme::now();
    const StagePlace& s = m_scene.layout.stages[i];
    if (const auto severity = gravestOf(m_scene.project.stages[i].id);
        severity && severity != Severity::note)
        drawSeverity(m_p,
                     QRectF(s.box.right() - theme.px(4), s.box.top() - theme.px(5), theme.px(10),
                            theme.px(10)),
                     *severity);
    switch (s.shape) {
    case Shape::pack:
        return paintPack(i);
    case Shape::guard:
        return paintGuard(i);
    case Shape::card:
        return paintCard(i);
    case Shape::pill:
        return paintPill(i);
    }
}

void LinePainter::paintPack(std::size_t i) {
    const Theme& theme = Theme::now();
    const StagePlace& s = m_scene.layout.stages[i];
    const QString id = qs(m_scene.project.stages[i].id);
    QColor fill = colour(Role::copper);
    fill.setAlphaF(0.22F);
    m_p.setPen(isChosen(id) ? edge(id) : QPen(Qt::NoPen));
    m_p.setBrush(fill);
    m_p.drawRoundedRect(s.box, theme.px(3), theme.px(3));
    m_p.setPen(colour(Role::muted));
    m_p.setFont(theme.font(11));
    const QRectF above(s.box.center().x() - theme.px(60), s.box.top() - theme.px(34), theme.px(120),
                       theme.px(16));
    write(above.translated(0, theme.px(16)), Qt::AlignCenter,
          QStringLiteral("%1 full").arg(quantity(s.high, Unit::volt)));
    write(QRectF(above.left(), s.box.bottom() + theme.px(2), above.width(), theme.px(16)),
          Qt::AlignCenter,
          QStringLiteral("%1 %2").arg(quantity(s.low, Unit::volt),
                                      m_scene.stops ? tr("at the stop") : tr("empty")));
    const QFont bold = theme.font(11.5, true);
    m_p.setPen(colour(Role::ink));
    writeFitted(above, bold, s.title);
}

void LinePainter::paintCard(std::size_t i) {
    const Theme& theme = Theme::now();
    const StagePlace& s = m_scene.layout.stages[i];
    const QFont bold = theme.font(11.5, true);
    const QFont small = theme.font(11);
    m_p.setPen(edge(qs(m_scene.project.stages[i].id)));
    m_p.setBrush(colour(Role::card));
    m_p.drawRoundedRect(s.box, theme.px(4), theme.px(4));
    m_p.setPen(colour(Role::ink));
    writeFitted(s.box.adjusted(3, theme.px(3), -3, -s.box.height() / 2), bold, s.title);
    const auto& flows = m_scene.now.flows.stages;
    const bool trouble = flows.size() > i && (flows[i].state == StageState::droppingOut ||
                                              flows[i].state == StageState::passing ||
                                              flows[i].state == StageState::limiting);
    m_p.setPen(colour(trouble ? Role::stop : Role::muted));
    writeFitted(s.box.adjusted(3, s.box.height() / 2 - theme.px(2), -3, -theme.px(2)), small,
                fitting(small, s.detail, s.box.width() - 6));
}

QRectF LinePainter::grown(const QRectF& label, double wanted, std::size_t of) const {
    const double more = (wanted - label.width()) / 2;
    if (more <= 0)
        return label;
    const QRectF wide = label.adjusted(-more, 0, more, 0);
    const LineLayout& all = m_scene.layout;
    for (std::size_t k = 0; k < all.stages.size(); ++k)
        if (k != of && all.stages[k].shown &&
            all.stages[k].area.united(all.stages[k].box).intersects(wide))
            return label;
    for (const LoadPlace& l : all.loads)
        if (l.shown &&
            wide.intersects(
                QRectF(l.x, l.top, l.label.right() - l.x, l.bottom - l.top).united(l.label)))
            return label;
    return wide;
}

/// It hangs under the line: two plates on a stem, and the common return below them. The line goes
/// through above it.
void LinePainter::paintCapacitor(const StagePlace& s) {
    const Theme& theme = Theme::now();
    const QPen pen(m_p.pen().color(), theme.px(1.5));
    const double x = s.box.center().x();
    const double plate = theme.px(9);
    const auto level = [&](double y, double half) {
        m_p.drawLine(QPointF(x - half, y), QPointF(x + half, y));
    };
    m_p.setPen(QPen(colour(Role::copper), theme.px(2)));
    m_p.drawLine(QPointF(s.box.left(), s.y), QPointF(s.box.right(), s.y));
    m_p.setPen(pen);
    m_p.drawLine(QPointF(x, s.y), QPointF(x, s.y + theme.px(8)));
    level(s.y + theme.px(8), plate);
    level(s.y + theme.px(12), plate);
    m_p.drawLine(QPointF(x, s.y + theme.px(12)), QPointF(x, s.y + theme.px(19)));
    level(s.y + theme.px(19), plate * 0.7);
    level(s.y + theme.px(22), plate * 0.35);
}

void LinePainter::paintPill(std::size_t i) {
    const Theme& theme = Theme::now();
    const StagePlace& s = m_scene.layout.stages[i];
    const QFont small = theme.font(11);
    m_p.setPen(edge(qs(m_scene.project.stages[i].id)));
    if (std::holds_alternative<Capacitor>(m_scene.project.stages[i].part)) {
        paintCapacitor(s);
    } else {
        m_p.setBrush(colour(Role::shelf));
        m_p.drawRoundedRect(s.box, s.box.height() / 2, s.box.height() / 2);
    }
    m_p.setFont(small);
    const QFontMetricsF metrics(small);
    const double need =
        4 + std::max(metrics.horizontalAdvance(s.title), metrics.horizontalAdvance(s.detail));
    // Beside the cells, whose own label is wide, under the pill.
    const bool leg = chargerBefore(m_scene.project, m_scene.project.stages[i].id) != nullptr;
    const double top =
        leg ? s.box.bottom() + theme.px(1) : s.box.top() - theme.px(s.compact ? 16 : 32);
    const QRectF text = grown(QRectF(s.area.left(), top, s.area.width(), theme.px(15)), need, i);
    const double wide = std::min(text.width(), need);
    QColor ground = colour(Role::paper);
    ground.setAlphaF(0.45F);
    if (m_scene.wordless)
        return;
    m_p.fillRect(
        QRectF(text.center().x() - wide / 2, text.top() + 1, wide, theme.px(s.compact ? 14 : 27)),
        ground);
    m_p.setPen(colour(Role::ink));
    writeFitted(text, small, s.title);
    m_p.setPen(colour(Role::muted));
    if (!s.compact)
        writeFitted(text.translated(0, theme.px(14)), small, s.detail);
}

void LinePainter::paintGuard(std::size_t i) {
    const Theme& theme = Theme::now();
    const StagePlace& s = m_scene.layout.stages[i];
    const Stage& stage = m_scene.project.stages[i];
    const auto& guard = std::get<Guard>(stage.part);
    m_p.setPen(edge(qs(stage.id)));
    QColor ground = colour(Role::card);
    ground.setAlphaF(0.55F);
    m_p.setBrush(ground);
    m_p.drawRoundedRect(s.box, theme.px(4), theme.px(4));
    m_p.setPen(colour(Role::ink));
    writeFitted(QRectF(s.box.left() - theme.px(20), s.box.top() - theme.px(17),
                       s.box.width() + theme.px(40), theme.px(15)),
                theme.font(11.5, true), s.title);
    m_p.setFont(theme.font(11));
    const auto threshold = [&](double v, Role role, Qt::PenStyle style, const QString& text,
                               bool below) {
        const double y = m_scene.layout.axis.y(std::max(0.05, v)) + s.shift;
        m_p.setPen(QPen(colour(role), theme.px(1.6), style));
        m_p.drawLine(QPointF(s.box.left() + 2, y), QPointF(s.box.right() - 2, y));
        const QRectF box(s.box.left() - theme.px(14),
                         below ? s.box.bottom() + theme.px(1) : y - theme.px(15),
                         s.box.width() + theme.px(28), theme.px(14));
        m_p.setPen(colour(role));
        write(box, Qt::AlignCenter, text);
    };
    threshold(guard.cutoff.value(), Role::stop, Qt::SolidLine,
              QStringLiteral("off %1").arg(quantity(guard.cutoff.value(), Unit::volt)), true);
    if (guard.reconnect)
        threshold(guard.reconnect->value(), Role::charging, Qt::DashLine,
                  QStringLiteral("on %1").arg(quantity(guard.reconnect->value(), Unit::volt)),
                  false);
}

void LinePainter::paintLoad(std::size_t i) {
    const Theme& theme = Theme::now();
    const LoadPlace& l = m_scene.layout.loads[i];
    const Load& load = m_scene.project.loads[i];
    const double arm = theme.px(13);
    if (l.missesLow || l.missesHigh) {
        m_p.setPen(Qt::NoPen);
        m_p.setBrush(hatchBrush());
        m_p.drawRect(
            QRectF(QPointF(l.x - 1, l.missTop), QPointF(l.x + theme.px(20), l.missBottom)));
    }
    m_p.setPen(QPen(colour(Role::accepts), theme.px(isChosen(qs(load.id)) ? 3 : 2.2)));
    m_p.setBrush(Qt::NoBrush);
    m_p.drawPolyline(QPolygonF{QPointF(l.x + arm, l.top), QPointF(l.x, l.top),
                               QPointF(l.x, l.bottom), QPointF(l.x + arm, l.bottom)});
    const double middle =
        std::clamp(m_scene.layout.axis.y(load.window.middle().value()) + l.shift, l.top, l.bottom);
    m_p.setPen(QPen(colour(Role::accepts), theme.px(1)));
    m_p.drawLine(QPointF(l.x, middle), QPointF(l.x + arm * 1.4, middle));
    if (l.never >= 0) {
        m_p.setPen(QPen(colour(Role::stop), theme.px(1.3)));
        m_p.drawLine(QPointF(l.x, l.never), QPointF(l.x + theme.px(22), l.never));
        m_p.setFont(theme.font(11));
        write(l.neverLabel, Qt::AlignLeft | Qt::AlignVCenter,
              elided(m_p.font(),
                     QStringLiteral("never above %1")
                         .arg(quantity(load.window.neverAbove->value(), Unit::volt)),
                     l.neverLabel.width()));
    }
    paintLoadLabel(i);
}

void LinePainter::paintLoadLabel(std::size_t i) {
    const Theme& theme = Theme::now();
    const LoadPlace& l = m_scene.layout.loads[i];
    const Load& load = m_scene.project.loads[i];
    const OperatingPoint& now = m_scene.now;
    const bool inside = now.collapse || now.inside.size() <= i || now.inside[i];
    const QFont bold = theme.font(12, true);
    const QFont small = theme.font(11);
    m_p.setFont(bold);
    m_p.setPen(colour(isChosen(qs(load.id)) ? Role::copper : Role::ink));
    const double detail =
        l.compact ? QFontMetricsF(small).horizontalAdvance(l.detail) + theme.px(8) : 0;
    const double nameRoom = l.label.width() - theme.px(14) - detail;
    const double nameTop = l.label.center().y() - theme.px(l.compact ? 8.5 : 17);
    write(QRectF(l.label.left(), nameTop, nameRoom, theme.px(17)), Qt::AlignLeft | Qt::AlignVCenter,
          elided(bold, l.title, nameRoom));
    m_p.setFont(small);
    m_p.setPen(colour(inside ? Role::muted : Role::stop));
    const QRectF second =
        l.compact ? QRectF(l.label.right() - detail, nameTop, detail, theme.px(17))
                  : QRectF(l.label.left(), l.label.center().y(), l.label.width(), theme.px(16));
    write(second,
          static_cast<int>(l.compact ? Qt::AlignRight : Qt::AlignLeft) |
              static_cast<int>(Qt::AlignVCenter),
          elided(small, l.detail, second.width()));
    if (const auto severity = gravestOf(load.id); severity && severity != Severity::note) {
        const double after = QFontMetricsF(bold).horizontalAdvance(l.title) + theme.px(6);
        drawSeverity(m_p,
                     QRectF(l.label.left() + std::min(nameRoom, after), nameTop + theme.px(4),
                            theme.px(9), theme.px(9)),
                     *severity);
    }
}

void LinePainter::paintCallout() {
    if (m_scene.wordless || m_scene.layout.callout.isEmpty())
        return;
    const Theme& theme = Theme::now();
    m_p.setPen(QPen(colour(Role::stop), theme.px(1)));
    m_p.setBrush(colour(Role::card));
    m_p.drawRoundedRect(m_scene.layout.callout, theme.px(4), theme.px(4));
    m_p.setFont(theme.font(11, true));
    m_p.setPen(colour(Role::stop));
    write(m_scene.layout.callout, Qt::AlignCenter, m_scene.layout.calloutText);
}

} // namespace sipper::app
