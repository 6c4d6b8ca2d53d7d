// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/start/linetile.hpp"

#include "session/displayedpoint.hpp"
#include "theme/theme.hpp"
#include "views/supplyline/linepainter.hpp"
#include "widgets/severitymark.hpp"
#include "widgets/text.hpp"

#include <QPainter>

namespace sipper::app {
namespace {

constexpr double kTileWide = 302; ///< px of a tile
constexpr double kTileNarrow = 220;
constexpr double kTileTall = 96;
constexpr double kTileDrawn = 100; ///< px of the drawn line
/// The line is laid out this wide, and painted as small as it takes.
constexpr double kLaidWide = 620;
constexpr double kLaidTall = 430;
constexpr double kTilePad = 8;

} // namespace

std::shared_ptr<const TileLook> tileLookOf(Project project) {
    auto look = std::make_shared<TileLook>();
    look->project = std::move(project);
    static_cast<QuickAnalysis&>(look->results) = analyseQuick(look->project, {}, {}, serialFor);
    DisplayedPoint moment;
    moment.begin(look->project, look->results);
    look->point = moment.point();
    const QuickAnalysis& quick = look->results;
    if (quick.runtime.hours)
        look->runs = hours(quick.runtime.hours->value());
    else if (!quick.externalLoads.empty())
        look->runs = quantity(quick.externalLoads.front().worstWatts, Unit::watt);
    else
        look->runs = QObject::tr("nothing draws");
    for (const Severity severity : {Severity::stop, Severity::care})
        for (const Finding& f : quick.findings)
            if (f.severity == severity && !look->severity) {
                look->severity = severity;
                look->trouble = qs(f.title);
                const QString says = qs(f.says);
                look->trouble += QStringLiteral(". ") + says.section(QStringLiteral(". "), 0, 0);
                if (!look->trouble.endsWith('.'))
                    look->trouble += '.';
            }
    return look;
}

LineTile::LineTile(const QString& name_, const QString& title, const QString& says, bool troubles,
                   QWidget* parent)
    : QAbstractButton(parent), m_title(title), m_says(says), m_troubles(troubles) {
    const Theme& t = Theme::now();
    setObjectName(name_);
    setCursor(Qt::PointingHandCursor);
    setFocusPolicy(Qt::StrongFocus);
    setFixedSize(t.ipx(kTileWide), t.ipx(kTileTall));
    name();
}

void LineTile::name() {
    setAccessibleName(m_look ? m_title + QStringLiteral(", ") + m_look->runs : m_title);
    setAccessibleDescription(m_says);
    setToolTip(m_title + (m_says.isEmpty() ? QString() : QStringLiteral("\n") + m_says));
}

void LineTile::setLook(std::shared_ptr<const TileLook> look) {
    m_look = std::move(look);
    if (m_troubles)
        m_says = m_look->severity ? m_look->trouble : tr("Nothing to mend in it.");
    name();
    update();
}

void LineTile::setBroken(const QString& why) {
    m_broken = true;
    m_says = why;
    name();
    update();
}

void LineTile::stretch() {
    setMinimumWidth(Theme::now().ipx(kTileNarrow));
    setMaximumWidth(QWIDGETSIZE_MAX);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void LineTile::setWhen(const QString& when) {
    m_when = when;
    update();
}

void LineTile::paintLine(QPainter& p, const QRectF& box) const {
    if (!m_look)
        return;
    const QSizeF laid(kLaidWide, kLaidTall);
    const LineLayout layout =
        layoutLine(m_look->project, m_look->results, m_look->point, laid, 1.0);
    static const std::vector<Finding> none;
    p.save();
    p.setClipRect(box);
    // What is worth the room: the line itself, without the words on both sides of it.
    QRectF seen = layout.plot;
    for (const StagePlace& s : layout.stages)
        if (s.shown)
            seen = seen.united(s.box);
    for (const LoadPlace& l : layout.loads)
        if (l.shown)
            seen = seen.united(QRectF(QPointF(l.x, l.top), QPointF(l.x + 26, l.bottom)));
    const double across = box.width() / seen.width();
    const double down = box.height() / seen.height();
    p.translate(box.topLeft());
    p.scale(across, down);
    p.translate(-seen.topLeft());
    LineScene scene{layout, m_look->project, none, m_look->point};
    scene.wordless = true;
    LinePainter(p, scene).paint(QRectF(QPointF(), laid));
    p.restore();
}

void LineTile::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    const bool lit = hasFocus() || underMouse();
    p.setPen(QPen(colour(lit ? Role::copper : Role::hairline), lit ? 1.6 : 1));
    p.setBrush(colour(Role::card));
    p.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 4, 4);
    const double pad = t.px(kTilePad);
    const QRectF inner = QRectF(rect()).adjusted(pad, pad, -pad, -pad);
    const QRectF drawn(inner.left(), inner.top(), t.px(kTileDrawn), inner.height());
    p.setPen(Qt::NoPen);
    p.setBrush(colour(Role::paper));
    p.drawRoundedRect(drawn, t.px(3), t.px(3));
    paintLine(p, drawn.adjusted(t.px(4), t.px(4), -t.px(4), -t.px(4)));
    const QRectF words(drawn.right() + t.px(9), inner.top() - t.px(1),
                       inner.right() - drawn.right() - t.px(9), inner.height() + t.px(2));
    p.setFont(t.font(12.5, true));
    p.setPen(colour(Role::ink));
    p.drawText(
        words, static_cast<int>(Qt::AlignLeft) | static_cast<int>(Qt::AlignTop),
        p.fontMetrics().elidedText(m_title, Qt::ElideRight, static_cast<int>(words.width())));
    QRectF second = words.adjusted(0, t.px(18), 0, 0);
    p.setFont(t.font(12, true));
    const QString runs = m_look ? m_look->runs : m_broken ? tr("can't be read") : tr("…");
    double used = p.fontMetrics().horizontalAdvance(runs);
    p.setPen(colour(m_broken ? Role::stop : Role::copper));
    p.drawText(second, static_cast<int>(Qt::AlignLeft) | static_cast<int>(Qt::AlignTop), runs);
    if (m_look && m_look->severity) {
        drawSeverity(
            p, QRectF(second.left() + used + t.px(7), second.top() + t.px(4), t.px(9), t.px(9)),
            *m_look->severity);
        used += t.px(16);
    }
    if (!m_when.isEmpty()) {
        p.setFont(t.font(11));
        p.setPen(colour(Role::muted));
        p.drawText(second.adjusted(used + t.px(8), t.px(1), 0, 0),
                   static_cast<int>(Qt::AlignRight) | static_cast<int>(Qt::AlignTop), m_when);
    }
    p.setPen(colour(Role::muted));
    p.setFont(t.font(11));
    // As many lines as there is room for; the last one says that there was more.
    const QRectF third = words.adjusted(0, t.px(36), 0, 0);
    const QFontMetricsF metrics(p.font());
    const int lines = std::max(1, static_cast<int>(third.height() / metrics.lineSpacing()));
    const double room = third.width() * lines * 0.88;
    p.drawText(third,
               static_cast<int>(Qt::AlignLeft) | static_cast<int>(Qt::AlignTop) |
                   static_cast<int>(Qt::TextWordWrap),
               metrics.elidedText(m_says, Qt::ElideRight, room));
}

} // namespace sipper::app
