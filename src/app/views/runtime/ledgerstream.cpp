// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/runtime/ledgerstream.hpp"

#include "widgets/controls.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"

#include <QCheckBox>

namespace sipper::app {
namespace {

constexpr double kForBox = 146; ///< px of the head for the check box

} // namespace

LedgerStream::LedgerStream(Session& session, QWidget* parent)
    : EnergyStream(parent), m_session(session) {
    setObjectName(QStringLiteral("ledger"));
    keepHeadFree(Theme::now().px(kForBox));
    m_byMode = checkBox(this, "ledger.byMode", tr("loads by mode"));
    m_byMode->setFont(Theme::now().font(11));
    m_byMode->setToolTip(tr("Part what each load gets by the mode it gets it in"));
    connect(m_byMode, &QCheckBox::toggled, this, &LedgerStream::refresh);
    new Refresher(this, session, {&Session::projectChanged}, [this] { refresh(); });
    refresh();
}

std::vector<LedgerStream::Entry> LedgerStream::entries(const Project& p, const Ledger& l,
                                                       bool byMode) {
    std::vector<Entry> losses;
    const auto add = [&](const QString& name, double wh) { losses.push_back({name, wh, false}); };
    add(tr("cold and age"), l.coldAndAge);
    add(tr("not charged"), l.notCharged);
    add(tr("left in the pack"), l.leftInPack);
    add(tr("lost in the cells"), l.packLoss);
    add(tr("self-discharge"), l.selfDischarge);
    for (const Stage& s : p.stages)
        if (const auto at = l.stages.find(s.id); at != l.stages.end())
            add(qs(nameOf(s)), at->second);
    std::vector<Entry> all = lossesWorthShowing(losses, l.nameplate);
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

void LedgerStream::refresh() {
    const Ledger& ledger = m_session.results().runtime.ledger;
    show(entries(m_session.project(), ledger, m_byMode->isChecked()), ledger.nameplate,
         tr("Where %1 go").arg(quantity(ledger.nameplate, Unit::wattHour)), Role::copper);
}

void LedgerStream::resizeEvent(QResizeEvent* event) {
    EnergyStream::resizeEvent(event);
    const QSize box = m_byMode->sizeHint();
    m_byMode->setGeometry(width() - box.width() - Theme::now().ipx(12), Theme::now().ipx(8),
                          box.width(), box.height());
}

} // namespace sipper::app
