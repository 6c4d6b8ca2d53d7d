#include "views/runtime/ledgerstream.hpp"

#include "theme/theme.hpp"
#include "widgets/refresher.hpp"
#include "widgets/spread.hpp"
#include "widgets/text.hpp"

#include <QCheckBox>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>

namespace sipper::app {
namespace {

constexpr double kWorthShowing = 0.003; ///< of the nameplate: smaller losses are added up
constexpr double kHead = 40;            ///< px over the stream
constexpr double kFoot = 66;            ///< px under it: two rows of labels
constexpr double kLoads = 210;          ///< px for the loads and their names
constexpr double kThinnest = 1.5;       ///< px of a loss
constexpr double kWidestDrop = 16;      ///< px of a loss where it falls

} // namespace

LedgerStream::LedgerStream(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    setObjectName(QStringLiteral("ledger"));
    setAccessibleName(tr("Where the energy goes"));
    setToolTip(tr("Hover, or use the arrow keys, to read each part"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    m_byMode = new QCheckBox(tr("loads by mode"), this);
    m_byMode->setObjectName(QStringLiteral("ledger.byMode"));
    m_byMode->setFont(Theme::now().font(11));
    m_byMode->setToolTip(tr("Part what each load gets by the mode it gets it in"));
    connect(m_byMode, &QCheckBox::toggled, this, &LedgerStream::refresh);
    new Refresher(this, session, {&Session::projectChanged}, [this] { refresh(); });
    refresh();
}

QSize LedgerStream::minimumSizeHint() const {
    return {Theme::now().ipx(420), Theme::now().ipx(190)};
}

std::vector<LedgerStream::Entry> LedgerStream::entries(const Project& p, const Ledger& l,
                                                       bool byMode) {
    std::vector<Entry> all;
    double small = 0;
    const auto add = [&](const QString& name, double wh) {
        if (std::abs(wh) < kWorthShowing * l.nameplate)
            small += wh;
        else
            all.push_back({name, wh, false});
    };
    add(tr("cold and age"), l.coldAndAge);
    add(tr("not charged"), l.notCharged);
    add(tr("left in the pack"), l.leftInPack);
    add(tr("lost in the cells"), l.packLoss);
    add(tr("self-discharge"), l.selfDischarge);
    for (const Stage& s : p.stages)
        if (const auto at = l.stages.find(s.id); at != l.stages.end())
            add(qs(nameOf(s)), at->second);
    if (small != 0)
        all.push_back({tr("all the rest"), small, false});
    for (const Load& load : p.loads) {
        const auto at = l.loads.find(load.id);
        if (at == l.loads.end())
            continue;
        const auto modes = l.loadModes.find(load.id);
        if (!byMode || modes == l.loadModes.end()) {
            all.push_back({qs(nameOf(load)), at->second, true});
            continue;
        }
        for (const Mode& mode : p.modes)
            if (const auto part = modes->second.find(mode.id);
                part != modes->second.end() && part->second > 0)
                all.push_back({QStringLiteral("%1, %2").arg(qs(nameOf(load)), qs(nameOf(mode))),
                               part->second, true});
    }
    return all;
}

QString LedgerStream::reading() const {
    if (m_at < 0 || m_at >= static_cast<int>(m_entries.size()))
        return {};
    const Entry& e = m_entries[static_cast<std::size_t>(m_at)];
    const double nameplate = m_session.results().runtime.ledger.nameplate;
    return tr("%1: %2, %3")
        .arg(e.name, quantity(e.wattHours, Unit::wattHour),
             qs(writeShare(nameplate > 0 ? e.wattHours / nameplate : 0)));
}

void LedgerStream::refresh() {
    m_entries =
        entries(m_session.project(), m_session.results().runtime.ledger, m_byMode->isChecked());
    m_at = std::min(m_at, static_cast<int>(m_entries.size()) - 1);
    QString text;
    for (const Entry& e : m_entries)
        text += QStringLiteral("%1 %2; ").arg(e.name, quantity(e.wattHours, Unit::wattHour));
    setAccessibleDescription(text);
    arrange();
}

void LedgerStream::resizeEvent(QResizeEvent* event) {
    QFrame::resizeEvent(event);
    const QSize box = m_byMode->sizeHint();
    m_byMode->setGeometry(width() - box.width() - Theme::now().ipx(12), Theme::now().ipx(8),
                          box.width(), box.height());
    arrange();
}

/// The losses leave at the lower edge one after another, each as thick as its watt-hours; what is
/// left arrives at the loads.
void LedgerStream::arrange() {
    const Theme& t = Theme::now();
    m_pieces.assign(m_entries.size(), {});
    m_body = {};
    const double nameplate = m_session.results().runtime.ledger.nameplate;
    if (m_entries.empty() || nameplate <= 0) {
        update();
        return;
    }
    const double left = t.px(14);
    const double right = std::max(left + t.px(120), width() - t.px(kLoads));
    const double top = t.px(kHead);
    const double tall = std::max(t.px(40), height() - t.px(kHead + kFoot));
    const double scale = tall / nameplate;
    const auto losses = static_cast<double>(std::count_if(
        m_entries.begin(), m_entries.end(), [](const Entry& e) { return !e.delivered; }));
    const double step = (right - left) / std::max(1.0, losses);
    double bottom = top + tall; // lower edge of the stream so far
    QPolygonF edge{QPointF(left, top), QPointF(left, bottom)};
    double at = left;
    int number = 0;
    for (std::size_t i = 0; i < m_entries.size(); ++i) {
        const Entry& e = m_entries[i];
        if (e.delivered)
            continue;
        const double thick = std::max(t.px(kThinnest), std::abs(e.wattHours) * scale);
        const double fall = std::clamp(thick, t.px(kThinnest), t.px(kWidestDrop));
        const double turn = at + step * 0.62;
        const double floor = top + tall + t.px(12) + (number % 2 ? t.px(26) : 0);
        // Along the lower edge, round the corner, and down to its label.
        QPainterPath path(QPointF(at, bottom - thick));
        path.lineTo(turn - fall, bottom - thick);
        path.quadTo(turn, bottom - thick, turn, std::min(bottom + fall, floor));
        path.lineTo(turn, floor);
        path.lineTo(turn - fall, floor);
        path.lineTo(turn - fall, std::min(bottom + fall, floor));
        path.quadTo(turn - fall, bottom, turn - 2 * fall, bottom);
        path.lineTo(at, bottom);
        path.closeSubpath();
        Piece& piece = m_pieces[i];
        piece.path = path;
        piece.label = QRectF(turn - step, floor, 2 * step, t.px(26));
        piece.hover = QRectF(at, top + tall - t.px(4), step, t.px(kFoot));
        at += step;
        bottom = std::max(top, bottom - std::abs(e.wattHours) * scale);
        edge << QPointF(at - step, bottom) << QPointF(at, bottom);
        ++number;
    }
    edge << QPointF(right, bottom) << QPointF(right, top);
    m_body.addPolygon(edge);
    m_body.closeSubpath();
    arrangeLoads(right, top, scale);
    update();
}

/// As high as what they get, their names moved apart.
void LedgerStream::arrangeLoads(double right, double top, double scale) {
    const Theme& t = Theme::now();
    std::vector<double> wanted;
    std::vector<double> heights;
    double y = top;
    for (std::size_t i = 0; i < m_entries.size(); ++i) {
        if (!m_entries[i].delivered)
            continue;
        const double high = std::max(1.0, m_entries[i].wattHours * scale);
        m_pieces[i].path.addRect(QRectF(right, y + 0.5, t.px(46), std::max(1.0, high - 1)));
        wanted.push_back(y + high / 2);
        heights.push_back(t.px(16));
        y += high;
    }
    const auto rows = spread(wanted, heights, t.px(30), height() - t.px(6));
    std::size_t k = 0;
    for (std::size_t i = 0; i < m_entries.size(); ++i)
        if (m_entries[i].delivered) {
            m_pieces[i].label =
                QRectF(right + t.px(54), rows[k] - t.px(8), width() - right - t.px(64), t.px(16));
            m_pieces[i].hover = m_pieces[i].label.united(m_pieces[i].path.boundingRect());
            ++k;
        }
}

void LedgerStream::put(int at) {
    if (at == m_at)
        return;
    m_at = at;
    update();
}

void LedgerStream::mouseMoveEvent(QMouseEvent* event) {
    int found = -1;
    for (std::size_t i = 0; i < m_pieces.size(); ++i)
        if (m_pieces[i].path.contains(event->position()))
            found = static_cast<int>(i);
    for (std::size_t i = 0; found < 0 && i < m_pieces.size(); ++i)
        if (m_pieces[i].hover.contains(event->position()))
            found = static_cast<int>(i);
    put(found);
}

void LedgerStream::leaveEvent(QEvent*) {
    if (!hasFocus())
        put(-1);
}

void LedgerStream::focusOutEvent(QFocusEvent* event) {
    QFrame::focusOutEvent(event);
    put(-1);
}

void LedgerStream::keyPressEvent(QKeyEvent* event) {
    const int last = static_cast<int>(m_entries.size()) - 1;
    if (event->key() == Qt::Key_Right || event->key() == Qt::Key_Down)
        put(std::min(last, m_at + 1));
    else if (event->key() == Qt::Key_Left || event->key() == Qt::Key_Up)
        put(std::max(0, m_at - 1));
    else
        QFrame::keyPressEvent(event);
}

void LedgerStream::paintLabel(QPainter& p, std::size_t i) const {
    const Theme& t = Theme::now();
    const Entry& e = m_entries[i];
    const QRectF& box = m_pieces[i].label;
    const bool on = m_at == static_cast<int>(i);
    const QString figure = quantity(e.wattHours, Unit::wattHour);
    if (e.delivered) {
        p.setFont(t.font(11.5, true));
        p.setPen(colour(on ? Role::copper : Role::ink));
        const double room = QFontMetricsF(p.font()).horizontalAdvance(figure) + t.px(6);
        p.drawText(box, Qt::AlignLeft | Qt::AlignVCenter,
                   QFontMetricsF(p.font()).elidedText(e.name, Qt::ElideRight, box.width() - room));
        p.drawText(box, Qt::AlignRight | Qt::AlignVCenter, figure);
        return;
    }
    p.setFont(t.font(11));
    p.setPen(colour(on ? Role::copper : Role::muted));
    const QRectF name(box.left(), box.top(), box.width(), box.height() / 2);
    p.drawText(name, Qt::AlignHCenter | Qt::AlignVCenter,
               QFontMetricsF(p.font()).elidedText(e.name, Qt::ElideRight, box.width() - t.px(6)));
    p.setPen(colour(on ? Role::copper : Role::ink));
    p.drawText(name.translated(0, box.height() / 2), Qt::AlignHCenter | Qt::AlignVCenter, figure);
}

void LedgerStream::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    p.setPen(QPen(colour(hasFocus() ? Role::copper : Role::hairline), 1));
    p.setBrush(colour(Role::card));
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), t.px(4), t.px(4));
    const Ledger& ledger = m_session.results().runtime.ledger;
    p.setFont(t.font(12, true));
    p.setPen(colour(Role::ink));
    const QString reads = reading();
    p.drawText(QRectF(t.px(14), t.px(8), width() - t.px(160), t.px(20)),
               Qt::AlignLeft | Qt::AlignVCenter,
               reads.isEmpty() ? tr("Where %1 go").arg(quantity(ledger.nameplate, Unit::wattHour))
                               : reads);
    if (m_body.isEmpty())
        return;
    QColor body = colour(Role::copper);
    body.setAlphaF(0.30F);
    p.fillPath(m_body, body);
    for (std::size_t i = 0; i < m_pieces.size(); ++i) {
        const bool on = m_at == static_cast<int>(i);
        QColor fill = colour(m_entries[i].delivered ? Role::accepts : Role::stop);
        fill.setAlphaF(on ? 0.95F : m_entries[i].delivered ? 0.75F : 0.42F);
        p.fillPath(m_pieces[i].path, fill);
        paintLabel(p, i);
    }
}

} // namespace sipper::app
