#include "views/runtime/ledgerbars.hpp"

#include "theme/theme.hpp"
#include "widgets/text.hpp"

#include <QPainter>

namespace sipper::app {
namespace {

constexpr double kWorthShowing = 0.0005; ///< of the nameplate: smaller entries are added up

} // namespace

LedgerBars::LedgerBars(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    setObjectName(QStringLiteral("ledger"));
    setAccessibleName(tr("Where the energy goes"));
    const auto refresh = [this] {
        QString text;
        for (const Entry& e : entries(m_session.project(), m_session.results().runtime.ledger))
            text += QStringLiteral("%1 %2; ").arg(e.name, quantity(e.wattHours, Unit::wattHour));
        setAccessibleDescription(text);
        update();
    };
    connect(&session, &Session::projectChanged, this, refresh);
    refresh();
}

QSize LedgerBars::minimumSizeHint() const {
    return {Theme::now().ipx(300), Theme::now().ipx(180)};
}

std::vector<LedgerBars::Entry> LedgerBars::entries(const Project& p, const Ledger& l) {
    std::vector<Entry> all;
    double small = 0;
    const auto add = [&](const QString& name, double wh, bool delivered) {
        if (std::abs(wh) < kWorthShowing * l.nameplate)
            small += wh;
        else
            all.push_back({name, wh, delivered});
    };
    add(tr("cold and age"), l.coldAndAge, false);
    add(tr("not charged"), l.notCharged, false);
    add(tr("left in the pack"), l.leftInPack, false);
    add(tr("lost in the cells"), l.packLoss, false);
    add(tr("self-discharge"), l.selfDischarge, false);
    for (const Stage& s : p.stages)
        if (const auto at = l.stages.find(s.id); at != l.stages.end())
            add(qs(nameOf(s)), at->second, false);
    if (small != 0)
        all.push_back({tr("all the rest"), small, false});
    small = 0;
    for (const Load& load : p.loads)
        if (const auto at = l.loads.find(load.id); at != l.loads.end())
            all.push_back({qs(nameOf(load)), at->second, true});
    return all;
}

void LedgerBars::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& theme = Theme::now();
    p.setPen(QPen(colour(Role::hairline), 1));
    p.setBrush(colour(Role::card));
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), theme.px(4), theme.px(4));
    const Ledger& ledger = m_session.results().runtime.ledger;
    const double left = theme.px(14);
    const double right = width() - theme.px(14);
    p.setFont(theme.font(12, true));
    p.setPen(colour(Role::ink));
    p.drawText(QRectF(left, theme.px(10), right - left, theme.px(18)),
               Qt::AlignLeft | Qt::AlignVCenter,
               tr("Where %1 go").arg(quantity(ledger.nameplate, Unit::wattHour)));
    const auto list = entries(m_session.project(), ledger);
    if (list.empty() || ledger.nameplate <= 0)
        return;
    const double top = theme.px(38);
    const double row =
        std::min(theme.px(26), (height() - top - theme.px(10)) / static_cast<double>(list.size()));
    double widest = 1e-12;
    for (const Entry& e : list)
        widest = std::max(widest, std::abs(e.wattHours));
    const double nameWidth = std::min(theme.px(128), width() * 0.34);
    const double figureWidth = theme.px(118);
    const double barLeft = left + nameWidth + theme.px(8);
    const double barRoom = std::max(theme.px(20), right - figureWidth - barLeft - theme.px(6));
    for (std::size_t i = 0; i < list.size(); ++i) {
        const Entry& e = list[i];
        const QRectF line(left, top + row * static_cast<double>(i), right - left, row);
        p.setFont(theme.font(11.5, e.delivered));
        p.setPen(colour(Role::ink));
        p.drawText(QRectF(left, line.top(), nameWidth, row), Qt::AlignLeft | Qt::AlignVCenter,
                   QFontMetricsF(p.font()).elidedText(e.name, Qt::ElideRight, nameWidth));
        p.setPen(Qt::NoPen);
        QColor fill = colour(e.delivered ? Role::accepts : Role::copper);
        fill.setAlphaF(e.delivered ? 0.85F : 0.55F);
        p.setBrush(fill);
        p.drawRect(QRectF(barLeft, line.center().y() - row * 0.3,
                          std::max(1.0, std::abs(e.wattHours) / widest * barRoom), row * 0.6));
        p.setPen(colour(Role::ink));
        p.setFont(theme.font(11.5, e.delivered));
        p.drawText(QRectF(right - figureWidth, line.top(), theme.px(70), row),
                   Qt::AlignRight | Qt::AlignVCenter, quantity(e.wattHours, Unit::wattHour));
        p.setPen(colour(Role::muted));
        p.setFont(theme.font(11));
        p.drawText(QRectF(right - theme.px(44), line.top(), theme.px(44), row),
                   Qt::AlignRight | Qt::AlignVCenter,
                   qs(writeShare(e.wattHours / ledger.nameplate)));
    }
}

} // namespace sipper::app
