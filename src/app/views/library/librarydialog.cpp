// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/library/librarydialog.hpp"

#include "project/file.hpp"
#include "project/roles.hpp"
#include "text/text.hpp"
#include "views/library/librarymodel.hpp"
#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QCheckBox>
#include <QFile>
#include <QFileDialog>
#include <QHeaderView>
#include <QPushButton>
#include <QTableView>
#include <QVBoxLayout>

namespace sipper::app {

LibraryDialog::LibraryDialog(Session& session, const QString& stage, QWidget* parent)
    : QDialog(parent), m_session(session), m_stage(stage.toStdString()) {
    setObjectName(QStringLiteral("library"));
    askWhatToImport = [this] {
        return QFileDialog::getOpenFileName(this, tr("Import a part"), {},
                                            tr("Parts (*.json);;All files (*)"));
    };
    askWhereToExport = [this](const QString& name) {
        return QFileDialog::getSaveFileName(this, tr("Export the part"), name + ".json",
                                            tr("Parts (*.json)"));
    };
    build();
    connect(&session.jobs(), &Jobs::progressed, this,
            [this](const QString& job, std::size_t done, std::size_t all) {
                if (job == QLatin1String(kJob))
                    m_state->setText(tr("solved %1 of %2").arg(done).arg(all));
            });
    reload();
    solve();
}

QuantityEdit* LibraryDialog::limit(const char* name, const QString& label, Unit unit,
                                   std::optional<double>* value) {
    FieldFacts facts;
    facts.key = name;
    facts.unit = unit;
    facts.help = "A limit; empty for none";
    auto* edit = quantityField(this, QStringLiteral("library.%1").arg(QLatin1String(name)), facts);
    edit->setAccessibleName(label);
    edit->setToolTip(label);
    edit->setPlaceholderText(label);
    edit->setFixedWidth(Theme::now().ipx(104));
    connect(edit, &QuantityEdit::committed, this, [this, edit, value](std::optional<double> v) {
        *value = v;
        edit->setValue(v);
        filter();
    });
    return edit;
}

QWidget* LibraryDialog::buildFilters() {
    const Theme& t = Theme::now();
    auto* box = new QWidget(this);
    auto* flow = new FlowLayout(box, t.ipx(8), t.ipx(6));
    m_words = new QLineEdit(this);
    m_words->setObjectName(QStringLiteral("library.words"));
    m_words->setAccessibleName(tr("Words to look for"));
    m_words->setPlaceholderText(tr("size, chemistry, words"));
    m_words->setToolTip(tr("Words in the part's name, size, chemistry or note"));
    m_words->setFixedWidth(t.ipx(180));
    connect(m_words, &QLineEdit::textChanged, this, &LibraryDialog::filter);
    flow->addWidget(m_words);
    m_trade = choiceField(this, "library.trade", tr("Trade"), tr("Which parts are shown"));
    m_trade->addItem(tr("everything"), QString());
    for (const auto& [value, text] :
         {std::pair{"cells", tr("cells")}, std::pair{"regulators", tr("regulators")},
          std::pair{"guards", tr("guards")}, std::pair{"sources", tr("adapters and sockets")},
          std::pair{"wiring", tr("leads, fuses, switches")},
          std::pair{"paths", tr("diodes, filters, selects")}})
        m_trade->addItem(text, QLatin1String(value));
    connect(m_trade, &QComboBox::currentIndexChanged, this, &LibraryDialog::filter);
    flow->addWidget(m_trade);
    flow->addWidget(limit("leastVolts", tr("at least V"), Unit::volt, &m_leastVolts));
    flow->addWidget(limit("mostVolts", tr("at most V"), Unit::volt, &m_mostVolts));
    flow->addWidget(limit("leastAmps", tr("at least A"), Unit::ampere, &m_leastAmps));
    flow->addWidget(limit("mostGrams", tr("at most g"), Unit::gram, &m_mostGrams));
    flow->addWidget(limit("mostPrice", tr("at most price"), Unit::money, &m_mostPrice));
    m_fitting = checkBox(this, "library.fitting", tr("what fits"),
                         tr("Only what would work in this place"));
    m_own = checkBox(this, "library.own", tr("my own"),
                     tr("Only parts that you have kept or imported"));
    for (QCheckBox* check : {m_fitting, m_own}) {
        connect(check, &QCheckBox::toggled, this, &LibraryDialog::filter);
        flow->addWidget(check);
    }
    return box;
}

void LibraryDialog::build() {
    const Theme& t = Theme::now();
    const Stage* stage = m_session.project().stage(m_stage);
    setWindowTitle(stage ? tr("In place of %1").arg(qs(nameOf(*stage))) : tr("Library"));
    auto* column = newColumn(this, 8, Margins{16, 12, 16, 12});
    auto* title =
        textLabel(this,
                  stage ? tr("What could stand in the place of %1").arg(qs(nameOf(*stage)))
                        : tr("Library of parts"),
                  {.size = 15, .bold = true});
    column->addWidget(title);
    m_state = mutedLabel({}, this, 12);
    m_state->setObjectName(QStringLiteral("library.state"));
    column->addWidget(m_state);
    column->addWidget(buildFilters());
    column->addWidget(buildTable(), 1);
    m_complaint = complaintLabel(QStringLiteral("library.complaint"), this);
    column->addWidget(m_complaint);
    column->addLayout(buildFoot(stage));
    resize(t.ipx(1180), t.ipx(640));
    if (stage)
        m_trade->setCurrentIndex(std::max(0, m_trade->findData(sectionOf(stage->part))));
}

QTableView* LibraryDialog::buildTable() {
    const Theme& t = Theme::now();
    m_model = new LibraryModel(this);
    m_filter = new LibraryFilter(this);
    m_filter->setSourceModel(m_model);
    m_table = new QTableView(this);
    m_table->setObjectName(QStringLiteral("library.table"));
    m_table->setAccessibleName(tr("Parts"));
    m_table->setToolTip(tr("Click a heading to sort; double click or Enter puts the part in"));
    m_table->setModel(m_filter);
    m_table->setSortingEnabled(true);
    m_table->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_table->setSelectionMode(QAbstractItemView::SingleSelection);
    m_table->setShowGrid(false);
    m_table->setFont(t.font(12));
    m_table->horizontalHeader()->setFont(t.font(12, true));
    m_table->horizontalHeader()->setStretchLastSection(true);
    m_table->verticalHeader()->hide();
    m_table->verticalHeader()->setDefaultSectionSize(t.ipx(24));
    m_table->setStyleSheet(
        QStringLiteral(
            "QTableView { background: %1; border: 1px solid %2; selection-background-color: %3;"
            " selection-color: %4; }"
            "QHeaderView::section { background: %5; border: none; padding: 3px 6px; }")
            .arg(colour(Role::card).name(), colour(Role::hairline).name(),
                 colour(Role::button).name(), colour(Role::ink).name(),
                 colour(Role::button).name()));
    connect(m_table, &QTableView::activated, this, &LibraryDialog::use);
    connect(m_table->selectionModel(), &QItemSelectionModel::selectionChanged, this,
            &LibraryDialog::refresh);
    return m_table;
}

QHBoxLayout* LibraryDialog::buildFoot(const Stage* stage) {
    auto* foot = new QHBoxLayout;
    const auto button = [&](const QString& text, const char* name, const QString& help, auto slot) {
        auto* b = pushButton(this, QStringLiteral("library.%1").arg(QLatin1String(name)), text);
        b->setAutoDefault(false);
        b->setToolTip(help);
        connect(b, &QPushButton::clicked, this, slot);
        foot->addWidget(b);
        return b;
    };
    m_keep =
        button(stage ? tr("Keep %1").arg(qs(nameOf(*stage))) : tr("Keep the chosen stage"), "keep",
               tr("Keep the stage of the line, with its figures, as a part of your own"),
               [this] { keep(); });
    button(tr("Import…"), "import", tr("Add a part from a file to your own"), [this] { import(); });
    m_export = button(tr("Export…"), "export", tr("Write the chosen part to a file"),
                      [this] { exportPart(); });
    m_remove = button(tr("Remove"), "remove", tr("Remove the chosen part of your own"),
                      [this] { removeOwn(); });
    foot->addStretch();
    button(tr("Close"), "close", tr("Close the library"), [this] { reject(); });
    m_use =
        button(tr("Put it in"), "use", tr("Put the chosen part in that place"), [this] { use(); });
    m_use->setProperty("accent", true);
    return foot;
}

void LibraryDialog::reload() {
    auto library =
        std::make_shared<const Library>(loadLibrary(Session::partsFolder().toStdString()));
    QString text = tr("%1 parts").arg(library->parts.size());
    if (!library->skipped.empty()) {
        QStringList files;
        for (const Error& e : library->skipped)
            files << qs(e.message());
        complain(*m_complaint, tr("Skipped: %1").arg(files.join(QStringLiteral("; "))));
    }
    m_state->setText(text);
    m_model->setLibrary(std::move(library));
    const auto& head = *m_table->horizontalHeader();
    m_table->setColumnWidth(LibraryModel::name, Theme::now().ipx(280));
    m_table->setColumnWidth(LibraryModel::kind, Theme::now().ipx(138));
    for (int c = LibraryModel::volts; c < LibraryModel::note; ++c)
        m_table->setColumnWidth(c, Theme::now().ipx(c >= LibraryModel::wouldRun ? 84 : 70));
    if (head.sortIndicatorSection() >= LibraryModel::columns)
        m_table->sortByColumn(LibraryModel::name, Qt::AscendingOrder);
    refresh();
}

void LibraryDialog::solve() {
    const bool any = m_session.project().stage(m_stage) != nullptr;
    m_fitting->setVisible(any);
    for (const int c : {LibraryModel::wouldRun, LibraryModel::gain})
        m_table->setColumnHidden(c,
                                 !any || (c == LibraryModel::gain && !m_session.project().pack()));
    m_use->setVisible(any);
    if (!any)
        return;
    m_state->setText(tr("solving each in place …"));
    m_session.jobs().run(
        kJob, Jobs::Priority::shown,
        [this, project = m_session.project(),
         library = std::make_shared<Library>(m_model->library()),
         stage = m_stage](const std::stop_token& stop, const Jobs::Progress& progress) {
            auto swaps = std::make_shared<std::vector<Swap>>(suggestSwaps(
                project, *library, stage, stop, [&](std::size_t done, std::size_t all) {
                    if (done % 8 == 0)
                        progress(done, all);
                }));
            return stop.stop_requested() ? Jobs::Deliver()
                                         : [this, swaps] { showSwaps(std::move(*swaps)); };
        },
        this);
}

void LibraryDialog::showSwaps(std::vector<Swap> swaps) {
    const auto fits =
        std::count_if(swaps.begin(), swaps.end(), [](const Swap& s) { return s.fits; });
    m_state->setText(tr("%1 of %2 would work here").arg(fits).arg(swaps.size()));
    m_model->setSwaps(std::move(swaps), m_session.project());
    const bool tethered = !m_session.project().pack();
    m_table->sortByColumn(tethered ? LibraryModel::wouldRun : LibraryModel::gain,
                          tethered ? Qt::AscendingOrder : Qt::DescendingOrder);
    m_table->selectRow(0);
    refresh();
}

void LibraryDialog::filter() {
    m_filter->setWanted({m_words->text(), m_trade->currentData().toString(), m_leastVolts,
                         m_mostVolts, m_leastAmps, m_mostGrams, m_mostPrice, m_fitting->isChecked(),
                         m_own->isChecked()});
    // Charge is the cells' only.
    const QString trade = m_trade->currentData().toString();
    m_table->setColumnHidden(LibraryModel::charge, !trade.isEmpty() && trade != "cells");
    m_table->setColumnHidden(LibraryModel::kind, trade == "cells" || trade == "guards");
    refresh();
}

int LibraryDialog::chosen() const {
    const auto rows = m_table->selectionModel()->selectedRows();
    return rows.isEmpty() ? -1 : m_filter->mapToSource(rows.front()).row();
}

void LibraryDialog::refresh() {
    const int row = chosen();
    const Swap* swap = row >= 0 ? m_model->swap(row) : nullptr;
    m_use->setEnabled(swap != nullptr);
    m_use->setToolTip(
        swap && !swap->fits
            ? tr("It does not fit: %1").arg(qs(whyNotText(m_session.project(), *swap)))
            : tr("Put the chosen part in that place"));
    m_export->setEnabled(row >= 0);
    m_remove->setEnabled(row >= 0 && m_model->part(row).own);
    m_keep->setEnabled(m_session.project().stage(m_stage) ||
                       m_session.project().stage(m_session.selected().toStdString()));
}

void LibraryDialog::use() {
    const int row = chosen();
    if (row < 0 || !m_model->swap(row))
        return;
    const LibraryPart& part = m_model->part(row);
    const Stage* stage = m_session.project().stage(m_stage);
    if (!stage)
        return;
    const QString name = tr("put %1 in place of %2").arg(qs(part.stage.label), qs(nameOf(*stage)));
    if (const auto trouble = m_session.edit(
            name, withSwap(m_session.project(), m_stage, part, m_model->swap(row)->series))) {
        say(qs(trouble->message()));
        return;
    }
    accept();
}

/// What a kept part rests on: as the library has the same part; a pack by its measured resistance;
/// what was typed in stands for a data sheet until it is measured.
std::string LibraryDialog::basisOf(const Stage& stage) const {
    for (const LibraryPart& known : m_model->library().parts)
        if (known.stage.part == stage.part)
            return known.basis;
    const Stage* kept = m_session.project().stage(stage.id);
    const Pack* pack = kept ? std::get_if<Pack>(&kept->part) : nullptr;
    return std::string(
        nameOf(pack && pack->measuredResistance ? Basis::measured : Basis::dataSheet));
}

void LibraryDialog::keep() {
    const std::string id =
        m_session.project().stage(m_stage) ? m_stage : m_session.selected().toStdString();
    const Stage* stage = m_session.project().stage(id);
    if (!stage)
        return;
    LibraryPart part;
    part.stage = *stage;
    if (auto* pack = std::get_if<Pack>(&part.stage.part)) {
        // A cell is kept, not the pack that it was in.
        Pack one;
        one.cell = pack->cell;
        one.series = one.parallel = 1;
        part.stage.label = pack->cell.label;
        part.stage.part = one;
    }
    // It is called what it is, not what it does here.
    if (namedByRole(part.stage) && !part.stage.make.empty())
        part.stage.label = part.stage.make;
    part.stage.make.clear();
    part.stage.connector.reset();
    part.name = partFileName(nameOf(part.stage));
    part.note = tr("Kept from %1").arg(qs(m_session.project().name)).toStdString();
    part.basis = basisOf(part.stage);
    if (const auto trouble = savePart(Session::partsFolder().toStdString(), part)) {
        say(qs(trouble->message()));
        return;
    }
    reload();
    solve();
}

void LibraryDialog::import() {
    const QString path = askWhatToImport();
    if (path.isEmpty())
        return;
    auto part = loadPart(path.toStdString());
    if (!part) {
        say(qs(part.error().message()));
        return;
    }
    LibraryPart own = std::move(part).value();
    own.name = partFileName(own.name);
    if (const auto trouble = savePart(Session::partsFolder().toStdString(), own)) {
        say(qs(trouble->message()));
        return;
    }
    say({});
    reload();
    solve();
}

void LibraryDialog::exportPart() {
    const int row = chosen();
    if (row < 0)
        return;
    const LibraryPart& part = m_model->part(row);
    const QString path = askWhereToExport(qs(part.name));
    if (path.isEmpty())
        return;
    const auto trouble = writeFile(path.toStdString(), partText(part.stage, part.note, part.basis));
    say(trouble ? qs(trouble->message()) : QString());
}

void LibraryDialog::removeOwn() {
    const int row = chosen();
    if (row < 0 || !m_model->part(row).own)
        return;
    const QString path =
        Session::partsFolder() + QLatin1Char('/') + qs(m_model->part(row).name) + ".json";
    if (!QFile::remove(path)) {
        say(tr("%1 can't be removed").arg(path));
        return;
    }
    reload();
    solve();
}

void LibraryDialog::say(const QString& text) {
    complain(*m_complaint, text);
}

} // namespace sipper::app
