// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/charging/fillcard.hpp"

#include "charge/text.hpp"
#include "parts/chemistry.hpp"
#include "project/library.hpp"
#include "views/charging/choicescard.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"

#include <QLabel>
#include <QVBoxLayout>
#include <algorithm>

namespace sipper::app {
namespace {

constexpr double kFillName = 400; ///< px of a charger's name

QString sourceOf(const FillChoice& f) {
    return qs(nameOf(f.choice.source));
}

} // namespace

Project filledBy(const Project& project, const FillChoice& fill) {
    Project after = withRefill(project, fill.choice);
    auto& by = after.brief.refilledBy;
    if (!by)
        by.emplace();
    std::erase(*by, "swap");
    if (std::find(by->begin(), by->end(), fill.choice.by) == by->end())
        by->push_back(fill.choice.by);
    return after;
}

FillCard::FillCard(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("fillCard"), tr("What could fill these cells"));
    auto* column = newColumn(this, 4, Margins{12, 8, 12, 10});
    m_title = textLabel(this, tr("What could fill these cells"), {.size = 13, .bold = true});
    column->addWidget(m_title);
    m_list = new QWidget(this);
    m_rows = newColumn(m_list, 2, Margins{});
    column->addWidget(m_list);
    m_note = textLabel(this, {}, {.size = 11.5, .wrap = true, .name = "fill.note"});
    column->addWidget(m_note);
    column->addStretch();
}

void FillCard::refresh() {
    if (m_of && m_of->stages == m_session.project().stages &&
        m_of->brief == m_session.project().brief) {
        show();
        return;
    }
    m_choices.clear();
    m_of.reset();
    clearLayout(*m_rows);
    m_note->setText(tr("Every charger of the library is being solved on these cells …"));
    emit answered(tr("No charger"), tr("What could fill these cells is being worked out."));
    m_session.jobs().runOnProject(
        kJob, Jobs::Priority::shown,
        [this, project = std::make_shared<const Project>(m_session.project()),
         folder = Session::partsFolder().toStdString()](const std::stop_token& stop,
                                                        const Jobs::Progress&) -> Jobs::Deliver {
            auto found = std::make_shared<std::vector<FillChoice>>(
                fillChoices(*project, loadLibrary(folder), stop));
            if (stop.stop_requested())
                return {};
            return [this, found, project] {
                m_choices = std::move(*found);
                m_of = *project;
                show();
            };
        },
        this);
}

void FillCard::show() {
    clearLayout(*m_rows);
    const Pack* pack = m_session.project().pack();
    if (m_choices.empty()) {
        const bool primary = pack && !canRecharge(pack->cell);
        m_title->setText(primary ? tr("These cells are thrown away")
                                 : tr("Nothing of the library fits"));
        m_note->setText(
            primary ? tr("They must not be charged. Swap the cells for some that can be: the line "
                         "shows which fit (Supply line, F4), and Find a supply (Ctrl+F) what else "
                         "would do it.")
            : pack  ? tr("No charger of the library has these volts and this chemistry. Keep one "
                          "of your own in the library, or take other cells.")
                    : tr("There are no cells on the line: nothing to fill."));
        emit answered(tr("No charger"), m_note->text());
        return;
    }
    m_title->setText(tr("What could fill these cells, solved from 10 % with the device off"));
    double most = 0;
    for (const FillChoice& f : m_choices)
        most = std::max(most, f.choice.hours.value_or(0));
    QStringList seen;
    bool heads = true; // the best of each source, by which the list begins
    for (std::size_t i = 0; i < m_choices.size(); ++i) {
        const FillChoice& f = m_choices[i];
        if (heads && seen.contains(qs(f.choice.by))) {
            heads = false;
            m_rows->addSpacing(Theme::now().ipx(6));
            m_rows->addWidget(mutedLabel(tr("The others"), m_list, 11.5));
        }
        seen << qs(f.choice.by);
        ChoiceRow::Look look;
        look.nameWidth = kFillName;
        look.name = qs(nameOf(f.choice.charger));
        look.hours = f.choice.hours;
        look.trouble = f.never.has_value();
        look.figure = f.choice.by == "sun" ? tr("by the sun") : QString();
        QString note = tr("from %1 · %2 · %3")
                           .arg(sourceOf(f), QString::number(f.choice.price, 'f', 2),
                                quantity(f.choice.grams, Unit::gram));
        if (f.never)
            note += QStringLiteral(" · ") + failureReason(*f.never);
        else if (f.heldBy)
            note += QStringLiteral(" · ") +
                    tr("held back by %1").arg(qs(limitShort(*f.heldBy, f.choice.source.part)));
        look.note = note;
        look.hint = tr("Click to put source and charger on the line.");
        auto* row = new ChoiceRow(look, most, m_list);
        row->setObjectName(QStringLiteral("fill.%1").arg(i));
        connect(row, &QAbstractButton::clicked, this, [this, i] { take(i); });
        m_rows->addWidget(row);
    }
    m_note->setText(tr("The fastest from each source stands on top. Never charge lithium "
                       "unattended, on something that burns, or under 0 °C. What local codes say "
                       "comes first."));
    const FillChoice& best = m_choices.front();
    emit answered(
        tr("No charger"),
        best.choice.hours
            ? tr("Nothing fills these cells yet. The fastest of %1 that could: %2 from "
                 "%3.")
                  .arg(m_choices.size())
                  .arg(hours(*best.choice.hours), sourceOf(best))
            : tr("Nothing fills these cells yet. %1 chargers could.").arg(m_choices.size()));
}

void FillCard::take(std::size_t at) {
    const FillChoice fill = m_choices[at];
    const QString name = tr("fill the cells from %1").arg(sourceOf(fill));
    if (const auto trouble = m_session.edit(name, filledBy(m_session.project(), fill)))
        emit refused(qs(trouble->message()));
    else
        emit taken();
}

} // namespace sipper::app
