// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/loads/loadprofileplot.hpp"
#include "project/tree.hpp"

#include "project/edits.hpp"
#include "runtime/aim.hpp"
#include "theme/theme.hpp"
#include "views/loads/chargebar.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kSnapMinutes = 5;
constexpr double kMoreThanCycle =
    1.2;                           ///< periods across, so that the next one can be taken hold of
constexpr double kNudgeTime = 0.1; ///< of the time, one arrow key
constexpr double kNudgeCurrent = 0.05;   ///< of the current, one arrow key
constexpr std::size_t kMostBlocks = 400; ///< of one mode in one cycle
constexpr double kFewestStripes = 3; ///< px between stripes under which a mode is drawn as a tint

} // namespace

QString modeText(const Mode& m) {
    if (m.isWindowed())
        return QStringLiteral("%1 %2").arg(qs(nameOf(m)), qs(windowsText(m)));
    if (m.repeats())
        return QStringLiteral("%1 %2 every %3")
            .arg(qs(nameOf(m)), qs(writeExact(m.duration->value(), Unit::second)),
                 qs(writeExact(m.every->value(), Unit::second)));
    return qs(nameOf(m));
}

EdgeHandle::EdgeHandle(const QString& name, Qt::Orientation way, QWidget* parent)
    : QWidget(parent), m_way(way) {
    setObjectName(name);
    setCursor(way == Qt::Horizontal ? Qt::SizeHorCursor : Qt::SizeVerCursor);
    setFocusPolicy(Qt::StrongFocus);
}

void EdgeHandle::mouseMoveEvent(QMouseEvent* event) {
    const QPointF at = mapToParent(event->position());
    if (event->buttons() & Qt::LeftButton)
        emit dragged(m_way == Qt::Horizontal ? at.x() : at.y());
}

void EdgeHandle::keyPressEvent(QKeyEvent* event) {
    const bool sideways = m_way == Qt::Horizontal;
    if (event->key() == (sideways ? Qt::Key_Right : Qt::Key_Up))
        emit nudged(1);
    else if (event->key() == (sideways ? Qt::Key_Left : Qt::Key_Down))
        emit nudged(-1);
    else
        QWidget::keyPressEvent(event);
}

void EdgeHandle::paintEvent(QPaintEvent*) {
    if (!hasFocus() && !underMouse())
        return;
    QPainter p(this);
    p.fillRect(m_way == Qt::Horizontal ? QRectF(width() / 2.0 - 1.5, 0, 3, height())
                                       : QRectF(0, height() / 2.0 - 1.5, width(), 3),
               colour(Role::copper));
}

LoadProfilePlot::LoadProfilePlot(Session& session, bool day, QWidget* parent)
    : QWidget(parent), m_session(session), m_day(day) {
    setObjectName(day ? QStringLiteral("skyline.day") : QStringLiteral("skyline.cycle"));
    setAccessibleName(day ? tr("Current over a day") : tr("Current over one cycle"));
    setMouseTracking(true);
    new Refresher(this, session, {&Session::projectChanged, &Session::momentChanged},
                  [this] { rebuild(); });
    rebuild();
}

QSize LoadProfilePlot::minimumSizeHint() const {
    return {Theme::now().ipx(360), Theme::now().ipx(m_day ? 120 : 90)};
}

QRectF LoadProfilePlot::plot() const {
    const Theme& t = Theme::now();
    return QRectF(t.px(56), t.px(20), width() - t.px(64), height() - t.px(20) - t.px(20));
}

double LoadProfilePlot::y(double amps) const {
    const QRectF box = plot();
    const double share =
        std::log(std::clamp(amps, m_low, m_high) / m_low) / std::log(m_high / m_low);
    return box.bottom() - share * box.height();
}

double LoadProfilePlot::x(double share) const {
    return plot().left() + share * plot().width();
}

std::size_t LoadProfilePlot::indexOf(const std::string& id) const {
    const Mode* mode = m_session.project().mode(id);
    return mode ? modeIndex(m_session.project(), mode->id) : m_session.project().modes.size();
}

QColor LoadProfilePlot::colourOf(std::size_t mode) const {
    const Mode& m = m_session.project().modes[mode];
    return modeColour(m);
}

void LoadProfilePlot::rebuild() {
    m_blocks.clear();
    const Budget& b = m_session.results().budget;
    double low = 1e9;
    double high = 1e-9;
    for (const ModeBudget& m : b.modes)
        if (m.packAmps > 0) {
            low = std::min(low, m.packAmps);
            high = std::max({high, m.packAmps, m.burstAmps});
        }
    if (!m_frozen) {
        m_low = std::pow(10.0, std::floor(std::log10(std::min(low, high) * 0.5)));
        m_high = std::max(m_low * 100, std::pow(10.0, std::ceil(std::log10(high * 1.05))));
    }
    if (high > 1e-9)
        m_day ? buildDay() : buildCycle();
    placeHandles();
    QString about;
    for (const Block& block : m_blocks)
        if (!about.contains(block.text))
            about += block.text + QStringLiteral("; ");
    setAccessibleDescription(about);
    update();
}

void LoadProfilePlot::buildDay() {
    const Project& p = m_session.project();
    const Budget& b = m_session.results().budget;
    const Schedule schedule(p);
    const auto text = [&](std::size_t mode) {
        const ModeBudget& m = b.modes[mode];
        return tr("%1: %2 at the cells, %3 and %4 a day, %5 of the charge")
            .arg(modeText(p.modes[mode]), quantity(m.packAmps, Unit::ampere),
                 quantity(m.ahPerDay, Unit::ampereHour), quantity(m.whPerDay, Unit::wattHour),
                 qs(writeShare(m.shareOfCharge)));
    };
    for (const DayInterval& span : schedule.day) {
        const double from = span.from / 1440;
        const double to = span.to / 1440;
        for (const Share& share : schedule.settings[span.setting].shares) {
            const double top = y(b.modes[share.mode].packAmps);
            if (share.fills) {
                m_blocks.prepend({share.mode,
                                  QRectF(QPointF(x(from), top), QPointF(x(to), plot().bottom())),
                                  text(share.mode)});
                continue;
            }
            // Stripes as far as they can be told apart; their width is honest down to a pixel.
            const double every = p.modes[share.mode].every->value() / 86400;
            const double wide = std::max(1.0, share.share * every * plot().width());
            const double step = every * plot().width();
            if (step < kFewestStripes) {
                m_blocks.append({share.mode,
                                 QRectF(QPointF(x(from), top), QPointF(x(to), plot().bottom())),
                                 text(share.mode), true});
                continue;
            }
            for (double at = from; at < to - 1e-9; at += every)
                m_blocks.append({share.mode,
                                 QRectF(QPointF(x(at), top), QSizeF(wide, plot().bottom() - top)),
                                 text(share.mode)});
        }
    }
}

void LoadProfilePlot::buildCycle() {
    const Project& p = m_session.project();
    const Budget& b = m_session.results().budget;
    const Schedule schedule(p);
    const ModeMix& setting = schedule.settings[schedule.settingOf(p, m_session.mode())];
    if (!m_frozen) {
        m_cycle = 0;
        for (const Share& share : setting.shares)
            if (!share.fills)
                m_cycle = std::max(m_cycle, p.modes[share.mode].every->value() * kMoreThanCycle);
        if (m_cycle <= 0)
            m_cycle = 60;
    }
    const auto block = [&](std::size_t mode, double from, double to) {
        const ModeBudget& m = b.modes[mode];
        m_blocks.append(
            {mode,
             QRectF(QPointF(x(from), y(m.packAmps)),
                    QPointF(std::max(x(to), x(from) + 1), plot().bottom())),
             tr("%1: %2 at the cells%3")
                 .arg(modeText(p.modes[mode]), quantity(m.packAmps, Unit::ampere),
                      m.burstAmps > 0
                          ? tr(", bursts of %1").arg(quantity(m.burstAmps, Unit::ampere))
                          : QString())});
    };
    block(setting.filler().mode, 0, 1);
    double lane = 0.12;
    for (const Share& share : setting.shares) {
        if (share.fills)
            continue;
        const Mode& m = p.modes[share.mode];
        const double every = m.every->value() / m_cycle;
        const double lasts = m.duration->value() / m_cycle;
        std::size_t count = 0;
        for (double at = lane * std::min(1.0, every); at < 1 && ++count < kMostBlocks; at += every)
            block(share.mode, at, std::min(1.0, at + lasts));
        lane += 0.2;
    }
}

const LoadProfilePlot::Block* LoadProfilePlot::firstBlock(std::size_t mode,
                                                          std::size_t skip) const {
    for (const Block& b : m_blocks)
        if (b.mode == mode && skip-- == 0)
            return &b;
    return nullptr;
}

double LoadProfilePlot::ampsAt(double y) const {
    const QRectF box = plot();
    const double share = std::clamp((box.bottom() - y) / box.height(), 0.0, 1.0);
    return m_low * std::pow(m_high / m_low, share);
}

/// A handle is kept while it is in use: it may be under the mouse. What it does is found anew each
/// time, by the ids in its closures.
void LoadProfilePlot::put(const Grip& grip, QSet<QString>& used) {
    EdgeHandle* h = m_handles.value(grip.name);
    if (!h) {
        h = new EdgeHandle(grip.name, grip.way, this);
        m_handles.insert(grip.name, h);
        connect(h, &EdgeHandle::dragged, this, grip.drag);
        connect(h, &EdgeHandle::nudged, this, grip.nudge);
        connect(h, &EdgeHandle::grabbed, this, [this](bool on) {
            m_frozen = on;
            if (!on)
                rebuild();
        });
    }
    h->setAccessibleName(grip.about);
    h->setToolTip(grip.about + tr("\nDrag, or use the arrow keys"));
    h->setGeometry(grip.box.toAlignedRect());
    h->show();
    h->raise();
    used << grip.name;
}

void LoadProfilePlot::putWindows(std::size_t m, QSet<QString>& used) {
    const Mode& mode = m_session.project().modes[m];
    const double half = Theme::now().px(4);
    const double top = y(m_session.results().budget.modes[m].packAmps);
    for (std::size_t w = 0; w < mode.daily.size(); ++w)
        for (const bool end : {false, true}) {
            const std::string& clock = end ? mode.daily[w].second : mode.daily[w].first;
            const double at = x(clockMinutes(clock).value_or(0) / 1440.0);
            put({QStringLiteral("window.%1.%2.%3")
                     .arg(qs(mode.id))
                     .arg(w)
                     .arg(end ? "end" : "start"),
                 tr("%1 %2 at %3")
                     .arg(qs(nameOf(mode)), end ? tr("ends") : tr("starts"), qs(clock)),
                 Qt::Horizontal, QRectF(at - half, top, 2 * half, plot().bottom() - top),
                 [this, id = mode.id, w, end](double to) {
                     moveWindow(indexOf(id), w, end, (to - plot().left()) / plot().width() * 1440,
                                false);
                 },
                 [this, id = mode.id, w, end](int steps) {
                     const Mode* now = m_session.project().mode(id);
                     if (!now || w >= now->daily.size())
                         return;
                     const std::string& clockNow = end ? now->daily[w].second : now->daily[w].first;
                     moveWindow(indexOf(id), w, end,
                                clockMinutes(clockNow).value_or(0) + steps * kSnapMinutes, true);
                 }},
                used);
        }
}

void LoadProfilePlot::putTimes(std::size_t m, QSet<QString>& used) {
    const Mode& mode = m_session.project().modes[m];
    const double half = Theme::now().px(4);
    const auto one = [&](bool every, const Block& at, double edge) {
        const auto& time = every ? mode.every : mode.duration;
        put({QStringLiteral("%1.%2").arg(every ? "every" : "duration", qs(mode.id)),
             (every ? tr("%1 comes every %2") : tr("%1 lasts %2"))
                 .arg(qs(nameOf(mode)), quantity(time->value(), Unit::second)),
             Qt::Horizontal,
             QRectF(edge - half, at.box.top(), 2 * half, plot().bottom() - at.box.top()),
             [this, id = mode.id, every](double to) {
                 if (const Block* first = firstBlock(indexOf(id)))
                     setTime(indexOf(id), (to - first->box.left()) / plot().width() * m_cycle,
                             every, false);
             },
             [this, id = mode.id, every](int steps) {
                 if (const Mode* now = m_session.project().mode(id); now && now->repeats())
                     setTime(indexOf(id),
                             (every ? now->every : now->duration)->value() *
                                 (1 + kNudgeTime * steps),
                             every, true);
             }},
            used);
    };
    if (const Block* next = firstBlock(m, 1))
        one(true, *next, next->box.left());
    if (const Block* first = firstBlock(m))
        one(false, *first, first->box.right());
}

void LoadProfilePlot::putCurrent(std::size_t m, QSet<QString>& used) {
    const Project& p = m_session.project();
    const Block* widest = nullptr;
    for (const Block& b : m_blocks)
        if (b.mode == m && (!widest || b.box.width() > widest->box.width()))
            widest = &b;
    if (!widest || p.loads.empty())
        return;
    const double half = Theme::now().px(4);
    // Clear of the corner, which is the duration's or the window's.
    const double inset = std::min(half, widest->box.width() / 4);
    const std::string id = p.modes[m].id;
    put({QStringLiteral("current.%1").arg(qs(id)),
         tr("%1 takes %2 at the cells; this moves what %3 draws")
             .arg(qs(nameOf(p.modes[m])),
                  quantity(m_session.results().budget.modes[m].packAmps, Unit::ampere),
                  qs(nameOf(p.loads[drawingLoad(m)]))),
         Qt::Vertical,
         QRectF(widest->box.left() + inset, widest->box.top() - half,
                std::max(2.0, widest->box.width() - 2 * inset), 2 * half),
         [this, id](double to) { setCurrent(indexOf(id), ampsAt(to), false); },
         [this, id](int steps) {
             const std::size_t at = indexOf(id);
             if (at < m_session.results().budget.modes.size())
                 setCurrent(at,
                            m_session.results().budget.modes[at].packAmps *
                                (1 + kNudgeCurrent * steps),
                            true);
         }},
        used);
}

void LoadProfilePlot::placeHandles() {
    const Project& p = m_session.project();
    QSet<QString> used;
    for (std::size_t m = 0; m < p.modes.size() && !m_blocks.isEmpty(); ++m) {
        // Base and windowed modes are taken hold of on the day, repeating ones on the cycle.
        if (m_day != p.modes[m].repeats())
            putCurrent(m, used);
        if (m_day)
            putWindows(m, used);
        else if (p.modes[m].repeats())
            putTimes(m, used);
    }
    for (const QString& name : m_handles.keys())
        if (!used.contains(name)) {
            EdgeHandle* gone = m_handles.take(name);
            gone->hide();
            gone->deleteLater();
        }
}

void LoadProfilePlot::moveWindow(std::size_t mode, std::size_t window, bool end, double minute,
                                 bool key) {
    Project after = m_session.project();
    if (mode >= after.modes.size() || window >= after.modes[mode].daily.size())
        return;
    Mode& m = after.modes[mode];
    const double snapped = std::round(minute / kSnapMinutes) * kSnapMinutes;
    const std::string clock =
        end && snapped >= 1440 ? "24:00" : clockText(std::clamp(snapped, 0.0, 1435.0));
    (end ? m.daily[window].second : m.daily[window].first) = clock;
    if (m.daily[window].first == m.daily[window].second)
        return;
    const QString name = tr("%1: %2").arg(qs(nameOf(m)), qs(windowsText(m)));
    m_session.apply(name, std::move(after),
                    QStringLiteral("%1.window.%2.%3.%4")
                        .arg(key ? "nudge" : "drag")
                        .arg(mode)
                        .arg(window)
                        .arg(end));
}

void LoadProfilePlot::setTime(std::size_t mode, double seconds, bool every, bool key) {
    Project after = m_session.project();
    if (mode >= after.modes.size() || !after.modes[mode].repeats() || seconds <= 0)
        return;
    Mode& m = after.modes[mode];
    const double unit = std::pow(10.0, std::floor(std::log10(std::max(1e-6, seconds))) - 1);
    const double rounded = std::round(seconds / unit) * unit;
    if (every)
        m.every = Seconds{std::max(rounded, m.duration->value())};
    else
        m.duration = Seconds{std::clamp(rounded, 1e-4, m.every->value())};
    const QString name =
        (every ? tr("%1 comes every %2") : tr("%1 lasts %2"))
            .arg(qs(nameOf(m)), quantity((every ? m.every : m.duration)->value(), Unit::second));
    m_session.apply(name, std::move(after),
                    QStringLiteral("%1.%2.%3")
                        .arg(key ? "nudge" : "drag", every ? "every" : "duration")
                        .arg(mode));
}

/// The load chosen, where it draws in the mode; else the one that draws most in it.
std::size_t LoadProfilePlot::drawingLoad(std::size_t mode) const {
    const Project& p = m_session.project();
    const Budget& b = m_session.results().budget;
    for (std::size_t l = 0; l < p.loads.size(); ++l)
        if (qs(p.loads[l].id) == m_session.selected() && b.loadModeWhPerDay[l][mode] > 0)
            return l;
    return greatestLoad(b, mode);
}

void LoadProfilePlot::setCurrent(std::size_t mode, double amps, bool key) {
    const Project& p = m_session.project();
    if (mode >= p.modes.size() || p.loads.empty())
        return;
    const std::size_t load = drawingLoad(mode);
    Project after = withModeCurrent(p, load, mode, Amps{amps});
    const Draw* draw = drawIn(after, after.loads[load], mode);
    if (!draw)
        return;
    const QString name =
        tr("%1, %2: %3")
            .arg(qs(nameOf(p.loads[load])), qs(nameOf(p.modes[mode])), qs(drawText(*draw)));
    m_session.apply(name, std::move(after),
                    QStringLiteral("%1.current.%2").arg(key ? "nudge" : "drag").arg(mode));
}

void LoadProfilePlot::resizeEvent(QResizeEvent*) {
    rebuild();
}

void LoadProfilePlot::mousePressEvent(QMouseEvent* event) {
    for (auto at = m_blocks.rbegin(); at != m_blocks.rend(); ++at)
        if (at->box.adjusted(-2, 0, 2, 0).contains(event->position())) {
            m_session.setDisplayedPoint(m_session.charge(), at->mode);
            return;
        }
}

bool LoadProfilePlot::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        for (auto at = m_blocks.rbegin(); at != m_blocks.rend(); ++at)
            if (at->box.adjusted(-2, 0, 2, 0).contains(help->pos())) {
                QToolTip::showText(help->globalPos(), at->text, this);
                return true;
            }
        QToolTip::hideText();
        return true;
    }
    return QWidget::event(event);
}

} // namespace sipper::app
