#include "views/loads/skyline.hpp"

#include "project/edits.hpp"
#include "theme/theme.hpp"
#include "widgets/text.hpp"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kSnapMinutes = 5;
constexpr double kFewestStripes = 3; ///< px between stripes under which a mode is drawn as a tint

QString modeText(const Mode& m) {
    if (m.isWindowed())
        return QStringLiteral("%1 %2").arg(qs(nameOf(m)), qs(windowsText(m)));
    if (m.repeats())
        return QStringLiteral("%1 %2 every %3")
            .arg(qs(nameOf(m)), qs(writeExact(m.duration->value(), Unit::second)),
                 qs(writeExact(m.every->value(), Unit::second)));
    return qs(nameOf(m));
}

} // namespace

EdgeHandle::EdgeHandle(const QString& name, QWidget* parent) : QWidget(parent) {
    setObjectName(name);
    setCursor(Qt::SizeHorCursor);
    setFocusPolicy(Qt::StrongFocus);
}

void EdgeHandle::mouseMoveEvent(QMouseEvent* event) {
    if (event->buttons() & Qt::LeftButton)
        emit dragged(mapToParent(event->position()).x());
}

void EdgeHandle::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Left || event->key() == Qt::Key_Right)
        emit nudged(event->key() == Qt::Key_Left ? -1 : 1);
    else
        QWidget::keyPressEvent(event);
}

void EdgeHandle::paintEvent(QPaintEvent*) {
    if (!hasFocus() && !underMouse())
        return;
    QPainter p(this);
    p.fillRect(QRectF(width() / 2.0 - 1.5, 0, 3, height()), colour(Role::copper));
}

Skyline::Skyline(Session& session, bool day, QWidget* parent)
    : QWidget(parent), m_session(session), m_day(day) {
    setObjectName(day ? QStringLiteral("skyline.day") : QStringLiteral("skyline.cycle"));
    setAccessibleName(day ? tr("Current over a day") : tr("Current over one cycle"));
    setMouseTracking(true);
    connect(&session, &Session::projectChanged, this, &Skyline::rebuild);
    connect(&session, &Session::momentChanged, this, &Skyline::rebuild);
    rebuild();
}

QSize Skyline::minimumSizeHint() const {
    return {Theme::now().ipx(360), Theme::now().ipx(m_day ? 120 : 90)};
}

QRectF Skyline::plot() const {
    const Theme& t = Theme::now();
    return QRectF(t.px(56), t.px(20), width() - t.px(64), height() - t.px(20) - t.px(20));
}

double Skyline::y(double amps) const {
    const QRectF box = plot();
    const double share =
        std::log(std::clamp(amps, m_low, m_high) / m_low) / std::log(m_high / m_low);
    return box.bottom() - share * box.height();
}

double Skyline::x(double share) const {
    return plot().left() + share * plot().width();
}

std::size_t Skyline::indexOf(const std::string& id) const {
    const Mode* mode = m_session.project().mode(id);
    return mode ? static_cast<std::size_t>(mode - m_session.project().modes.data())
                : m_session.project().modes.size();
}

QColor Skyline::colourOf(std::size_t mode) const {
    const Mode& m = m_session.project().modes[mode];
    return colour(m.isWindowed() ? Role::accepts : m.repeats() ? Role::copper : Role::muted);
}

void Skyline::rebuild() {
    m_blocks.clear();
    const Project& p = m_session.project();
    const Budget& b = m_session.results().budget;
    double low = 1e9;
    double high = 1e-9;
    for (const ModeBudget& m : b.modes)
        if (m.packAmps > 0) {
            low = std::min(low, m.packAmps);
            high = std::max({high, m.packAmps, m.burstAmps});
        }
    m_low = std::pow(10.0, std::floor(std::log10(std::min(low, high) * 0.5)));
    m_high = std::max(m_low * 100, std::pow(10.0, std::ceil(std::log10(high * 1.05))));
    if (p.pack() && high > 1e-9)
        m_day ? buildDay() : buildCycle();
    placeHandles();
    QString about;
    for (const Block& block : m_blocks)
        if (!about.contains(block.text))
            about += block.text + QStringLiteral("; ");
    setAccessibleDescription(about);
    update();
}

void Skyline::buildDay() {
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
    for (const Span& span : schedule.day) {
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
                                 text(share.mode)});
                continue;
            }
            for (double at = from; at < to - 1e-9; at += every)
                m_blocks.append({share.mode,
                                 QRectF(QPointF(x(at), top), QSizeF(wide, plot().bottom() - top)),
                                 text(share.mode)});
        }
    }
}

void Skyline::buildCycle() {
    const Project& p = m_session.project();
    const Budget& b = m_session.results().budget;
    const Schedule schedule(p);
    const Setting24& setting = schedule.settings[schedule.settingOf(p, m_session.mode())];
    m_cycle = 0;
    for (const Share& share : setting.shares)
        if (!share.fills)
            m_cycle = std::max(m_cycle, p.modes[share.mode].every->value());
    if (m_cycle <= 0)
        m_cycle = 60;
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
        for (double at = lane * std::min(1.0, every); at < 1; at += every)
            block(share.mode, at, std::min(1.0, at + lasts));
        lane += 0.2;
    }
}

EdgeHandle* Skyline::handle(const QString& name, const QString& about) {
    EdgeHandle* h = m_handles.value(name);
    if (!h) {
        h = new EdgeHandle(name, this);
        m_handles.insert(name, h);
    }
    h->setAccessibleName(about);
    h->setToolTip(about + tr("\nDrag, or use the arrow keys"));
    return h;
}

void Skyline::placeHandles() {
    const Project& p = m_session.project();
    QSet<QString> used;
    const auto put = [&](EdgeHandle* h, double at, double top) {
        const double half = Theme::now().px(4);
        h->setGeometry(QRectF(at - half, top, 2 * half, plot().bottom() - top).toAlignedRect());
        h->show();
        h->raise();
        used << h->objectName();
    };
    for (std::size_t m = 0; m < p.modes.size() && !m_blocks.isEmpty(); ++m) {
        const Mode& mode = p.modes[m];
        const double top = y(m_session.results().budget.modes[m].packAmps);
        if (m_day && mode.isWindowed())
            for (std::size_t w = 0; w < mode.daily.size(); ++w)
                for (const bool end : {false, true}) {
                    const std::string& clock = end ? mode.daily[w].second : mode.daily[w].first;
                    const QString name = QStringLiteral("window.%1.%2.%3")
                                             .arg(qs(mode.id))
                                             .arg(w)
                                             .arg(end ? "end" : "start");
                    const bool fresh = !m_handles.contains(name);
                    EdgeHandle* h =
                        handle(name, tr("%1 %2 at %3")
                                         .arg(qs(nameOf(mode)), end ? tr("ends") : tr("starts"),
                                              qs(clock)));
                    put(h, x(clockMinutes(clock).value_or(0) / 1440.0), top);
                    if (!fresh)
                        continue;
                    connect(h, &EdgeHandle::dragged, this, [this, id = mode.id, w, end](double at) {
                        moveWindow(indexOf(id), w, end,
                                   (at - plot().left()) / plot().width() * 1440, false);
                    });
                    connect(h, &EdgeHandle::nudged, this, [this, id = mode.id, w, end](int steps) {
                        const Mode* now = m_session.project().mode(id);
                        if (!now || w >= now->daily.size())
                            return;
                        const std::string& clockNow =
                            end ? now->daily[w].second : now->daily[w].first;
                        moveWindow(indexOf(id), w, end,
                                   clockMinutes(clockNow).value_or(0) + steps * kSnapMinutes, true);
                    });
                }
        if (!m_day && mode.repeats()) {
            const auto first = std::find_if(m_blocks.begin(), m_blocks.end(),
                                            [&](const Block& b) { return b.mode == m; });
            if (first == m_blocks.end())
                continue;
            const QString name = QStringLiteral("duration.%1").arg(qs(mode.id));
            const bool fresh = !m_handles.contains(name);
            EdgeHandle* h = handle(
                name, tr("%1 lasts %2")
                          .arg(qs(nameOf(mode)), quantity(mode.duration->value(), Unit::second)));
            put(h, first->box.right(), top);
            if (!fresh)
                continue;
            connect(h, &EdgeHandle::dragged, this, [this, id = mode.id](double at) {
                const auto block =
                    std::find_if(m_blocks.begin(), m_blocks.end(),
                                 [&](const Block& b) { return b.mode == indexOf(id); });
                if (block != m_blocks.end())
                    setDuration(block->mode, (at - block->box.left()) / plot().width() * m_cycle,
                                false);
            });
            connect(h, &EdgeHandle::nudged, this, [this, id = mode.id](int steps) {
                if (const Mode* now = m_session.project().mode(id); now && now->repeats())
                    setDuration(indexOf(id), now->duration->value() * (1 + 0.1 * steps), true);
            });
        }
    }
    for (const QString& name : m_handles.keys())
        if (!used.contains(name))
            m_handles.take(name)->deleteLater();
}

void Skyline::moveWindow(std::size_t mode, std::size_t window, bool end, double minute, bool key) {
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
    m_session.edit(name, std::move(after),
                   QStringLiteral("%1.window.%2.%3.%4")
                       .arg(key ? "nudge" : "drag")
                       .arg(mode)
                       .arg(window)
                       .arg(end));
}

void Skyline::setDuration(std::size_t mode, double seconds, bool key) {
    Project after = m_session.project();
    if (mode >= after.modes.size() || !after.modes[mode].repeats())
        return;
    Mode& m = after.modes[mode];
    const double unit = std::pow(10.0, std::floor(std::log10(std::max(1e-6, seconds))) - 1);
    m.duration = Seconds{std::clamp(std::round(seconds / unit) * unit, 1e-4, m.every->value())};
    const QString name =
        tr("%1 lasts %2").arg(qs(nameOf(m)), quantity(m.duration->value(), Unit::second));
    m_session.edit(name, std::move(after),
                   QStringLiteral("%1.duration.%2").arg(key ? "nudge" : "drag").arg(mode));
}

void Skyline::resizeEvent(QResizeEvent*) {
    rebuild();
}

void Skyline::mousePressEvent(QMouseEvent* event) {
    for (auto at = m_blocks.rbegin(); at != m_blocks.rend(); ++at)
        if (at->box.adjusted(-2, 0, 2, 0).contains(event->position())) {
            m_session.setMoment(m_session.charge(), at->mode);
            return;
        }
}

bool Skyline::event(QEvent* event) {
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

void Skyline::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    const QRectF box = plot();
    p.setFont(t.font(11));
    for (double a = m_low; a <= m_high * 1.001; a *= 10) {
        const double at = std::round(y(a)) + 0.5;
        p.setPen(QPen(colour(Role::hairline), 1));
        p.drawLine(QPointF(box.left(), at), QPointF(box.right(), at));
        p.setPen(colour(Role::muted));
        if (!m_day && std::lround(std::log10(a / m_low)) % 2 == 1)
            continue;
        p.drawText(
            QRectF(0, at - t.px(9), box.left() - t.px(6), t.px(18)),
            Qt::AlignRight | Qt::AlignVCenter,
            QStringLiteral("%1").arg(quantity(a, Unit::ampere)
                                         .replace(QStringLiteral(".00"), QString())
                                         .replace(QStringLiteral(".0 "), QStringLiteral(" "))));
    }
    p.setPen(colour(Role::muted));
    const int ticks = m_day ? 8 : 6;
    for (int i = 0; i <= ticks; ++i) {
        const double share = static_cast<double>(i) / ticks;
        const QString label =
            m_day ? QStringLiteral("%1:00").arg(24 * i / ticks, 2, 10, QLatin1Char('0'))
                  : quantity(m_cycle * share, Unit::second);
        const double left = i == ticks ? x(1) - t.px(78) : x(share) - t.px(40);
        p.drawText(QRectF(left, box.bottom() + t.px(3), t.px(80), t.px(16)),
                   (i == ticks ? Qt::AlignRight : Qt::AlignHCenter) | Qt::AlignVCenter, label);
    }
    if (m_blocks.isEmpty()) {
        p.setFont(t.font(12));
        p.drawText(box, Qt::AlignCenter, tr("Nothing draws yet."));
        return;
    }
    const Budget& budget = m_session.results().budget;
    for (const Block& b : m_blocks) {
        QColor fill = colourOf(b.mode);
        const Mode& mode = m_session.project().modes[b.mode];
        const bool tint = m_day && mode.repeats() && b.box.width() > t.px(30);
        fill.setAlphaF(mode.isBase() ? 0.28F : tint ? 0.22F : 0.5F);
        p.fillRect(b.box, fill);
        p.setPen(QPen(colourOf(b.mode), b.mode == m_session.mode() ? t.px(2.4) : t.px(1.2)));
        if (b.box.width() > 4)
            p.drawLine(b.box.topLeft(), b.box.topRight());
        if (!m_day && budget.modes[b.mode].burstAmps > budget.modes[b.mode].packAmps * 1.01) {
            const double middle = b.box.center().x();
            p.fillRect(QRectF(QPointF(middle - 1, y(budget.modes[b.mode].burstAmps)),
                              QPointF(middle + 1, b.box.bottom())),
                       colour(Role::stop));
        }
    }
    // One label a mode, over its widest block, clear of the others.
    QList<QRectF> taken;
    p.setFont(t.font(11, true));
    for (std::size_t m = 0; m < m_session.project().modes.size(); ++m) {
        const Block* widest = nullptr;
        for (const Block& b : m_blocks)
            if (b.mode == m && (!widest || b.box.width() > widest->box.width()))
                widest = &b;
        if (!widest)
            continue;
        const QString text =
            QStringLiteral("%1 · %2").arg(modeText(m_session.project().modes[m]),
                                          quantity(budget.modes[m].packAmps, Unit::ampere));
        const double wide = p.fontMetrics().horizontalAdvance(text) + 4;
        QRectF label(std::clamp(widest->box.center().x() - wide / 2, box.left(),
                                std::max(box.left(), box.right() - wide)),
                     widest->box.top() - t.px(16), wide, t.px(15));
        for (int tries = 0; tries < 8; ++tries) {
            const bool clash = std::any_of(taken.begin(), taken.end(), [&](const QRectF& other) {
                return other.intersects(label);
            });
            if (!clash)
                break;
            label.translate(0, t.px(15));
        }
        label.moveTop(std::clamp(label.top(), 0.0, box.bottom() - label.height()));
        taken << label;
        QColor ground = colour(Role::paper);
        ground.setAlphaF(0.75F);
        p.fillRect(label, ground);
        p.setPen(colourOf(m));
        p.drawText(label, Qt::AlignCenter, text);
    }
}

} // namespace sipper::app
