// SPDX-License-Identifier: GPL-3.0-or-later
// What the inspector says of a solved stage or load.
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/roles.hpp"
#include "project/tree.hpp"
#include "widgets/inspector.hpp"

#include "line/sources.hpp"
#include "parts/chemistry.hpp"
#include "theme/theme.hpp"
#include "widgets/panel.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <algorithm>

namespace sipper::app {
namespace {

QString cautionFor(const Stage& stage) {
    if (const auto* usb = std::get_if<Usb>(&stage.part))
        return QObject::tr("How it says so: %1.").arg(qs(socketText(*usb)));
    if (std::holds_alternative<Adapter>(stage.part))
        return QObject::tr("A mains adapter stays closed; its polarity is measured before anything "
                           "is plugged in.");
    if (std::holds_alternative<Vehicle>(stage.part))
        return QObject::tr(
            "A vehicle's supply is dirty: 9 V while cranking, 16 V while charging, "
            "spikes beyond. Fuse it at its battery, clamp it, and leave fixed wiring "
            "to licensed people.");
    const Pack* pack = std::get_if<Pack>(&stage.part);
    if (!pack)
        return {};
    if (pack->origin == Origin::salvaged)
        return QObject::tr(
            "Salvaged cells: measure each one's capacity and resistance, leave out damaged ones, "
            "fuse at the cells.");
    if (isRechargeableLithium(pack->cell.chemistry))
        return QObject::tr(
            "Lithium: never short, crush, heat, over- or under-charge, never charge unattended; "
            "fuse at the cells.");
    return QObject::tr("Do not short the cells or mix old and new ones.");
}

} // namespace

void Inspector::refresh() {
    const Project& p = m_session.project();
    const std::string id = m_session.selected().toStdString();
    if (const Stage* s = p.stage(id))
        showStage(*s);
    else if (const Load* l = p.load(id))
        showLoad(*l);
    refreshEditors();
}

/// A line of the "Now" rows, where it is there.
void Inspector::setFact(const char* name, const QString& text, bool trouble) {
    if (QLabel* label = m_facts.value(name)) {
        label->setText(text);
        label->setStyleSheet(inkOf(trouble ? Role::stop : Role::ink));
    }
}

void Inspector::showStage(const Stage& s) {
    const Project& p = m_session.project();
    const OperatingPoint& now = m_session.moment();
    const auto i = stageIndex(p, s.id);
    m_title->setText(qs(nameOf(s)));
    const Pack* pack = std::get_if<Pack>(&s.part);
    const std::string make = makeOf(s);
    const QString kind = qs(pack ? chemistryText(pack->cell.chemistry) : kindText(s.part));
    m_kind->setText(make.empty() || make == nameOf(s) ? kind : tr("is a: %1").arg(qs(make)));
    m_kind->setToolTip(kind);
    m_caution->setText(cautionFor(s));
    m_caution->setVisible(!m_caution->text().isEmpty());
    if (pack) {
        const Cell& cell = pack->cell;
        const double volts =
            pack->series * cell.nominal.value_or(Volts{voltsOf(cell.chemistry).nominal}).value();
        const double ah = pack->parallel * cell.capacity.value();
        setFact("sums", tr("%1 · %2 · %3")
                            .arg(quantity(volts, Unit::volt), quantity(ah, Unit::ampereHour),
                                 quantity(volts * ah, Unit::wattHour)));
    }
    if (!now.collapse && !now.flows.stages.empty()) {
        const StageFlow& f = now.flows.stages[i];
        const bool trouble = f.state == StageState::droppingOut || f.state == StageState::passing ||
                             f.state == StageState::limiting || f.state == StageState::off;
        setFact("state", qs(stateName(f.state)).replace('_', ' '), trouble);
        setFact("flow", QStringLiteral("%1 → %2").arg(quantity(f.vIn, Unit::volt),
                                                      quantity(f.vOut, Unit::volt)));
        const double loss = std::max(0.0, f.loss());
        const bool noticed = loss > kNoticedShare * std::max(f.vIn * f.iIn, f.vOut * f.iOut);
        setFact("loss", noticed ? quantity(loss, Unit::watt) : tr("none"));
        // Cells stay at the air's warmth; parts in a closed box share its own.
        const double warmth = pack ? 0 : enclosureRise(p, m_session.results().runtime);
        setFact("part",
                quantity(std::round(now.partC[i]), Unit::celsius) +
                    (warmth >= 1 ? tr(", the box +%1 K").arg(std::round(warmth)) : QString()));
    } else {
        for (const char* name : {"state", "flow", "loss", "part"})
            setFact(name, QStringLiteral("–"));
    }
}

void Inspector::showLoad(const Load& l) {
    const Project& p = m_session.project();
    const OperatingPoint& now = m_session.moment();
    const auto i = loadIndex(p, l.id);
    m_title->setText(qs(nameOf(l)));
    m_kind->setText(tr("load, in mode “%1”").arg(qs(nameOf(p.modes[m_session.mode()]))));
    m_caution->hide();
    if (!now.collapse && !now.flows.loads.empty()) {
        setFact("state", now.inside[i] ? tr("inside") : tr("outside"), !now.inside[i]);
        setFact("flow", QStringLiteral("%1, %2").arg(quantity(now.flows.loads[i].v, Unit::volt),
                                                     quantity(now.flows.loads[i].i, Unit::ampere)));
    } else {
        setFact("state", QStringLiteral("–"));
        setFact("flow", QStringLiteral("–"));
    }
}

void Inspector::refreshEditors() {
    const Project& p = m_session.project();
    for (const Row& row : m_rows) {
        QWidget* editor = m_editors.value(row.key);
        if (!editor)
            continue;
        const FieldValue value = row.get(p);
        if (auto* edit = qobject_cast<QuantityEdit*>(editor)) {
            const double* figure = std::get_if<double>(&value);
            edit->setValue(figure ? std::optional(*figure) : std::nullopt);
        } else if (auto* check = qobject_cast<QCheckBox*>(editor)) {
            const FieldValue& shown =
                std::holds_alternative<bool>(value) ? value : row.facts.preset;
            check->setChecked(std::get_if<bool>(&shown) && std::get<bool>(shown));
        } else if (auto* box = qobject_cast<QComboBox*>(editor)) {
            const std::string* name = std::get_if<std::string>(&value);
            box->setCurrentIndex(name ? box->findData(qs(*name)) : 0);
        }
    }
}

void Inspector::enter() {
    for (const Row& row : m_rows)
        if (QWidget* editor = m_editors.value(row.key)) {
            editor->setFocus(Qt::TabFocusReason);
            if (auto* edit = qobject_cast<QLineEdit*>(editor))
                edit->selectAll();
            return;
        }
}

} // namespace sipper::app
