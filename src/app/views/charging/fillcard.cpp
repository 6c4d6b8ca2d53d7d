// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/charging/fillcard.hpp"

#include "charge/text.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "project/library.hpp"
#include "project/roles.hpp"
#include "views/charging/choicescard.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"

#include <QLabel>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kFillName = 400;     ///< px of a charger's name
constexpr std::size_t kMostCells = 8; ///< that are shown in place of those that are thrown away

QString sourceOf(const FillChoice& f) {
    return qs(nameOf(f.choice.source));
}

/// What the answer of the job is: of cells that can be charged their chargers, else other cells.
struct Found {
    std::vector<FillChoice> choices;
    std::vector<CellChoice> cells;
};

Found foundFor(const Project& project, const Library& library, const std::stop_token& stop) {
    Found found;
    const Pack* pack = project.pack();
    if (pack && !canRecharge(pack->cell))
        found.cells = chargeableCells(project, library, stop);
    else
        found.choices = fillChoices(project, library, stop);
    if (found.cells.size() > kMostCells)
        found.cells.erase(found.cells.begin() + kMostCells, found.cells.end());
    return found;
}

QString more(double value, const QString& words) {
    return (value < 0 ? QString() : QStringLiteral("+")) + words;
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
    m_cells.clear();
    m_of.reset();
    clearLayout(*m_rows);
    m_note->setText(tr("Every part of the library that could is being solved …"));
    emit answered(tr("No charger"), tr("What could fill these cells is being worked out."));
    m_session.jobs().runOnProject(
        kJob, Jobs::Priority::shown,
        [this, project = std::make_shared<const Project>(m_session.project()),
         folder = Session::partsFolder().toStdString()](const std::stop_token& stop,
                                                        const Jobs::Progress&) -> Jobs::Deliver {
            auto found = std::make_shared<Found>(foundFor(*project, loadLibrary(folder), stop));
            if (stop.stop_requested())
                return {};
            return [this, found, project] {
                m_choices = std::move(found->choices);
                m_cells = std::move(found->cells);
                m_of = *project;
                show();
            };
        },
        this);
}

void FillCard::show() {
    clearLayout(*m_rows);
    if (!m_choices.empty())
        showChoices();
    else if (!m_cells.empty())
        showCells();
    else
        showNone();
}

void FillCard::showNone() {
    const Pack* pack = m_session.project().pack();
    const bool primary = pack && !canRecharge(pack->cell);
    m_title->setText(primary ? tr("These cells are thrown away")
                             : tr("Nothing of the library fits"));
    m_note->setText(
        primary ? tr("No cells of the library that can be charged run these loads. Find a supply "
                     "(Ctrl+F) looks for other regulators too.")
        : pack  ? tr("No charger of the library has these volts and this chemistry. Keep one of "
                      "your own in the library, or take other cells.")
                : tr("Add cells on the supply line, and what could fill them stands here."));
    emit answered(tr("No charger"), primary ? tr("These cells must not be charged.")
                                    : pack  ? tr("Nothing fills these cells.")
                                            : tr("There are no cells on the line."));
}

/// Those that are thrown away can be swapped for some that are not.
void FillCard::showCells() {
    m_title->setText(tr("Cells that can be charged, in the place of these"));
    double most = 0;
    for (const CellChoice& c : m_cells)
        most = std::max(most, c.hours.value_or(0));
    for (std::size_t i = 0; i < m_cells.size(); ++i) {
        const CellChoice& c = m_cells[i];
        const Pack& pack = *c.with.pack();
        const int count = static_cast<int>(std::lround(piecesOf(pack)));
        ChoiceRow::Look look;
        look.nameWidth = kFillName;
        look.name = (count > 1 ? QStringLiteral("%1 × ").arg(count) : QString()) +
                    qs(makeOf(*c.with.packStage()));
        look.hours = c.hours;
        look.figure = c.hours ? QString() : tr("for ever");
        look.note = tr("%1, %2 in parts")
                        .arg(more(c.gramsMore, quantity(c.gramsMore, Unit::gram)),
                             more(c.priceMore, QString::number(c.priceMore, 'f', 2)));
        look.hint = tr("Click to take them; what fills them then stands here.");
        auto* row = new ChoiceRow(look, most, m_list);
        row->setObjectName(QStringLiteral("fill.cells.%1").arg(i));
        connect(row, &QAbstractButton::clicked, this, [this, i] { takeCells(i); });
        m_rows->addWidget(row);
    }
    m_note->setText(tr("Each is solved with these loads and a guard for its kind; of those that "
                       "run long enough the "
                       "lightest stands on top. Find a supply (Ctrl+F) looks for other regulators "
                       "too."));
    const CellChoice& first = m_cells.front();
    emit answered(tr("No charger"),
                  tr("These cells must not be charged: they are swapped. Of those that can be, the "
                     "first here runs it %1.")
                      .arg(first.hours ? hours(*first.hours) : tr("for ever")));
}

void FillCard::takeCells(std::size_t at) {
    if (const auto trouble =
            m_session.edit(tr("take cells that can be charged"), Project(m_cells[at].with)))
        emit refused(qs(trouble->message()));
    else
        refresh();
}

void FillCard::showChoices() {
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
