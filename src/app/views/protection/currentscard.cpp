// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/protection/currentscard.hpp"

#include "parts/kinds.hpp"
#include "project/build.hpp"
#include "protect/text.hpp"
#include "views/protection/currentsplot.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"

#include <QPushButton>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

QString formText(const FuseChoice& c) {
    switch (c.form) {
    case FuseForm::glass:
        return c.speed == FuseSpeed::slow ? CurrentsCard::tr("glass, slow")
                                          : CurrentsCard::tr("glass, quick");
    case FuseForm::blade:
        return CurrentsCard::tr("blade");
    case FuseForm::resettable:
        return CurrentsCard::tr("resets itself");
    }
    return {};
}

} // namespace

CurrentsCard::CurrentsCard(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("currentsCard"), tr("Currents in order"));
    auto* column = newColumn(this, 4, Margins{12, 8, 12, 8});
    auto* title =
        textLabel(this, tr("Currents, in the order that keeps a lead from being the fuse"),
                  {.size = 13, .bold = true});
    column->addWidget(title);
    m_plot = new CurrentsPlot(this);
    column->addWidget(m_plot);
    m_says = mutedLabel({}, this, 11);
    m_says->setObjectName(QStringLiteral("currents.says"));
    m_says->setWordWrap(true);
    column->addWidget(m_says);
    m_choices = newRow(nullptr, 6);
    column->addLayout(m_choices);
    connect(m_plot, &CurrentsPlot::chosen, this, &CurrentsCard::choose);
}

void CurrentsCard::show(const std::shared_ptr<const ProtectionAnalysis>& look) {
    m_look = look;
    const auto& list = m_look->segments;
    std::size_t row = 0;
    bool found = false;
    for (std::size_t i = 0; i < list.size(); ++i)
        if (list[i].id == m_chosen) {
            row = i;
            found = true;
        }
    // Where nothing is chosen yet: what burns.
    for (std::size_t i = 0; i < list.size() && !found; ++i)
        if (list[i].first == WeakestElement::lead) {
            row = i;
            found = true;
        }
    m_chosen = list.empty() ? std::string() : list[row].id;
    m_plot->setVisible(!list.empty());
    m_plot->show(list, row);
    showChoices();
}

void CurrentsCard::choose(std::size_t row) {
    m_chosen = m_look->segments[row].id;
    m_plot->show(m_look->segments, row);
    m_session.select(qs(m_chosen));
    showChoices();
}

void CurrentsCard::showChoices() {
    clearLayout(*m_choices);
    const WireSegment* stretch = nullptr;
    for (const WireSegment& s : m_look->segments)
        if (s.id == m_chosen)
            stretch = &s;
    if (!stretch) {
        m_says->setText(tr("Nothing flows: no source, or no load."));
        return;
    }
    const QString name = qs(stretch->name);
    const QString usual = tr("Figures are usual for the form: the data sheet decides, and local "
                             "rules.");
    m_says->setText(
        !stretch->fuse
            ? tr("%1 has no fuse. At its start would fit one of these. %2").arg(name, usual)
        : stretch->fuseShared
            ? tr("%1 shares its fuse of %2 with others. One of its own, before it: %3")
                  .arg(name, quantity(*stretch->fuse, Unit::ampere), usual)
            : tr("%1 has a fuse of %2. In its place would fit one of these. %3")
                  .arg(name, quantity(*stretch->fuse, Unit::ampere), usual));
    if (!stretch->fuse && stretch->first == WeakestElement::source) {
        m_says->setText(
            tr("%1 needs no fuse: what feeds it gives no more than the lead carries.").arg(name));
        return;
    }
    for (const FuseChoice& c : stretch->choices) {
        const QString rating = c.rating > 0 ? quantity(c.rating, Unit::ampere) : tr("none");
        auto* b = pushButton(
            this,
            QStringLiteral("currents.fuse.%1.%2").arg(qs(nameOf(c.form)), qs(nameOf(c.speed))),
            QStringLiteral("%1 · %2").arg(rating, formText(c)));
        b->setEnabled(c.fits);
        QString tip = qs(c.why);
        if (c.rating > 0)
            tip += tr("\nAt the draw it drops %1 and burns %2; for %3 at most.")
                       .arg(quantity(c.dropVolts, Unit::volt), quantity(c.heatWatts, Unit::watt),
                            quantity(c.ratedVolts, Unit::volt));
        if (c.i2t > 0)
            tip += tr("\nMelts at about %1 A²s; the bursts reach %2.")
                       .arg(c.i2t, 0, 'g', 3)
                       .arg(burstHeat(stretch->need), 0, 'g', 3);
        b->setToolTip(tip);
        connect(b, &QPushButton::clicked, this, [this, c] { take(c); });
        m_choices->addWidget(b);
    }
    m_choices->addStretch();
}

/// In the place of the stretch's fuse; else a new one at its start.
void CurrentsCard::take(const FuseChoice& c) {
    const WireSegment* stretch = nullptr;
    for (const WireSegment& s : m_look->segments)
        if (s.id == m_chosen)
            stretch = &s;
    if (!stretch)
        return;
    const auto set = [&](Stage& stage) {
        auto& fuse = std::get<Fuse>(stage.part);
        fuse.rating = Amps{c.rating};
        fuse.speed = c.speed;
        fuse.form = c.form;
        fuse.ratedVoltage = Volts{c.ratedVolts};
        fuse.resistance = Ohms{c.ohms};
        fuse.i2t = c.i2t > 0 ? std::optional(c.i2t) : std::nullopt;
    };
    Project after = m_session.project();
    if (!stretch->fuseId.empty() && !stretch->fuseShared) {
        set(*after.stage(stretch->fuseId));
    } else {
        Stage fuse = freshStage(after, Kind::fuse, stretch->from);
        set(fuse);
        // At the source where the stretch is its own; else before the lead.
        after = stretch->lead && (!stretch->atSource || stretch->fuseShared)
                    ? withStageBefore(after, fuse, stretch->id)
                    : withStageBetween(after, fuse, stretch->from);
    }
    if (const auto trouble = m_session.edit(
            tr("a fuse of %1").arg(quantity(c.rating, Unit::ampere)), std::move(after)))
        emit refused(qs(trouble->message()));
}

} // namespace sipper::app
