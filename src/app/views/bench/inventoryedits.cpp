// SPDX-License-Identifier: GPL-3.0-or-later
// What is done with the cells of the drawer.
#include "views/bench/inventorypage.hpp"

#include "measure/logbook.hpp"
#include "parts/kinds.hpp"
#include "project/file.hpp"
#include "views/bench/matchbars.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QLabel>
#include <QPushButton>
#include <QSpinBox>
#include <QTableWidget>
#include <algorithm>

namespace sipper::app {

void InventoryPage::edit(const std::function<void(OwnedCell&)>& change) {
    const int row = m_table->currentRow();
    if (row < 0 || row >= static_cast<int>(m_cells.size()))
        return;
    OwnedCell after = m_cells[static_cast<std::size_t>(row)];
    change(after);
    if (after == m_cells[static_cast<std::size_t>(row)])
        return;
    const bool taken = std::any_of(m_cells.begin(), m_cells.end(), [&](const OwnedCell& c) {
        return &c != &m_cells[static_cast<std::size_t>(row)] && c.id == after.id;
    });
    if (after.id.empty() || taken) {
        emit refused(tr("found “%1”, expected a name of its own for the cell").arg(qs(after.id)));
        showForm();
        return;
    }
    emit refused({});
    m_cells[static_cast<std::size_t>(row)] = std::move(after);
    keep();
    showTable();
    work();
}

void InventoryPage::add() {
    const int row = m_table->currentRow();
    // Cells come in lots: the next one is like the chosen one, not yet measured.
    OwnedCell c;
    if (row >= 0 && row < static_cast<int>(m_cells.size())) {
        const OwnedCell& like = m_cells[static_cast<std::size_t>(row)];
        c.type = like.type;
        c.size = like.size;
        c.chemistry = like.chemistry;
        c.labelAh = like.labelAh;
    } else if (const Pack* pack = m_session.project().pack()) {
        c.size = pack->cell.size;
        c.chemistry = pack->cell.chemistry;
        c.labelAh = pack->cell.capacity.value();
    }
    for (std::size_t n = m_cells.size() + 1; c.id.empty(); ++n) {
        const std::string id = "cell " + std::to_string(n);
        if (std::none_of(m_cells.begin(), m_cells.end(),
                         [&](const OwnedCell& other) { return other.id == id; }))
            c.id = id;
    }
    m_cells.push_back(std::move(c));
    keep();
    showTable();
    m_table->setCurrentCell(static_cast<int>(m_cells.size()) - 1, 0);
    work();
    m_ah->setFocus();
}

void InventoryPage::remove() {
    std::vector<int> rows;
    const QModelIndexList chosen = m_table->selectionModel()->selectedRows();
    rows.reserve(static_cast<std::size_t>(chosen.size()));
    for (const QModelIndex& index : chosen)
        rows.push_back(index.row());
    std::sort(rows.rbegin(), rows.rend());
    for (const int row : rows)
        m_cells.erase(m_cells.begin() + row);
    if (rows.empty())
        return;
    keep();
    showTable();
    work();
}

void InventoryPage::takeIn(const QString& file) {
    auto cells = readCellFile(file.toStdString());
    if (!cells) {
        emit refused(qs(cells.error().message()));
        return;
    }
    for (const OwnedCell& c : cells.value()) {
        // One of the same name is the same cell, measured again.
        const auto at = std::find_if(m_cells.begin(), m_cells.end(),
                                     [&](const OwnedCell& old) { return old.id == c.id; });
        if (at != m_cells.end())
            *at = c;
        else
            m_cells.push_back(c);
    }
    emit refused({});
    keep();
    showTable();
    work();
}

void InventoryPage::work() {
    std::vector<std::size_t> among;
    const int row = m_table->currentRow();
    // Of the chosen cell's kind, without what is to be thrown away.
    const std::size_t like =
        row >= 0 && row < static_cast<int>(m_cells.size()) ? static_cast<std::size_t>(row) : 0;
    for (std::size_t i = 0; i < m_cells.size(); ++i)
        if (m_verdicts[i].discardReasons.empty() &&
            m_cells[i].chemistry == m_cells[like].chemistry &&
            m_cells[i].size == m_cells[like].size)
            among.push_back(i);
    const auto series = static_cast<std::size_t>(m_series->value());
    const auto parallel = static_cast<std::size_t>(m_parallel->value());
    auto match = matchCells(m_cells, among, series, parallel);
    m_match = match ? std::optional(match.value()) : std::nullopt;
    m_bars->show(m_cells, m_match);
    m_take->setEnabled(m_match.has_value());
    accentButton(*m_take, m_match.has_value());
    if (m_match) {
        const double least = *std::min_element(m_match->ah.begin(), m_match->ah.end());
        const double most = *std::max_element(m_match->ah.begin(), m_match->ah.end());
        QString text = tr("The pack gives %1: its weakest group, number %2, ends it.")
                           .arg(quantity(m_match->packAh, Unit::ampereHour))
                           .arg(m_match->weakest + 1);
        if (series > 1)
            text +=
                tr(" The others keep back %1 on the mean; strongest and weakest differ by %2.")
                    .arg(m_match->lostShare < kNoticedShare ? tr("next to nothing")
                                                            : qs(writeShare(m_match->lostShare)),
                         quantity(most - least, Unit::ampereHour));
        m_cost->setText(text);
    } else {
        m_cost->setText(
            tr("%1 cells of this kind were measured and are worth keeping; %2 groups of %3 take "
               "%4.")
                .arg(std::count_if(among.begin(), among.end(),
                                   [&](std::size_t i) { return m_cells[i].ah.has_value(); }))
                .arg(series)
                .arg(parallel)
                .arg(series * parallel));
    }
    emit answered();
}

void InventoryPage::intoProject() {
    if (!m_match)
        return;
    const LibraryPart* type = typeOf(m_cells[m_match->groups[0][0]], m_library);
    Project p = m_session.project();
    Stage* stage = p.packStage() ? p.stage(p.packStage()->id) : nullptr;
    if (!type || !stage) {
        emit refused(!stage ? tr("There are no cells in the project that these could replace.")
                            : tr("The library has no cell of this chemistry to go by."));
        return;
    }
    Pack pack = packOf(m_cells, *m_match, *type);
    const Pack& old = std::get<Pack>(stage->part);
    pack.connection = old.connection;
    pack.charge = old.charge;
    pack.cellMonitor = old.cellMonitor;
    pack.origin = old.origin;
    pack.holder = old.holder;
    stage->part = std::move(pack);
    stage->basis = Basis::measured;
    if (const auto trouble = m_session.edit(tr("a pack of matched cells"), std::move(p)))
        emit refused(qs(trouble->message()));
    else
        emit refused({});
}

} // namespace sipper::app
