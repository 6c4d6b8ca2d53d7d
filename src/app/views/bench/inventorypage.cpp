// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/inventorypage.hpp"

#include "measure/logbook.hpp"
#include "parts/kinds.hpp"
#include "project/file.hpp"
#include "views/bench/benchpictures.hpp"
#include "views/bench/matchbars.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QCheckBox>
#include <QDate>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>

namespace sipper::app {
namespace {

constexpr double kCellsSideBySide =
    720; ///< px that the drawer and the match need beside each other

constexpr int kMostInRow = 100;

QuantityEdit* cellField(const FieldFacts& facts, const char* name, QWidget* parent) {
    auto* edit = quantityField(parent, QStringLiteral("cells.") + QLatin1String(name), facts);
    return edit;
}

QLineEdit* textField(const char* name, const QString& says, QWidget* parent) {
    QLineEdit* edit = lineField(parent, QStringLiteral("cells.") + QLatin1String(name), says);
    edit->setMaxLength(200);
    return edit;
}

} // namespace

InventoryPage::InventoryPage(Session& session, QWidget* parent)
    : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("cells"));
    askFile = [this](bool save) {
        const QString kinds = tr("Cells (*.csv *.json);;All files (*)");
        return save ? QFileDialog::getSaveFileName(this, tr("Write the drawer"),
                                                   QStringLiteral("cells.csv"), kinds)
                    : QFileDialog::getOpenFileName(this, tr("Take cells in"), {}, kinds);
    };
    const Theme& t = Theme::now();
    m_row = new QBoxLayout(QBoxLayout::LeftToRight, this);
    m_row->setContentsMargins(0, 0, 0, 0);
    m_row->setSpacing(t.ipx(8));
    auto* left = newColumn(nullptr, 8);
    left->addWidget(buildTable(), 1);
    left->addWidget(buildForm());
    m_row->addLayout(left, 6);
    m_row->addWidget(buildMatch(), 5);
}

/// Of the cards under each other: they may come to stand so.
QSize InventoryPage::minimumSizeHint() const {
    int widest = 0;
    for (int i = 0; i < m_row->count(); ++i)
        widest = std::max(widest, m_row->itemAt(i)->minimumSize().width());
    return {widest, QWidget::minimumSizeHint().height()};
}

void InventoryPage::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    m_row->setDirection(width() >= Theme::now().ipx(kCellsSideBySide) ? QBoxLayout::LeftToRight
                                                                      : QBoxLayout::TopToBottom);
}

QWidget* InventoryPage::buildTable() {
    auto* card = newCard(this, "cellsCard", tr("Cells to hand"));
    auto* column = newColumn(card, {}, Margins{8, 8, 8, 8});
    auto* head = newRow(nullptr, 6);
    auto* title = textLabel(card, tr("Cells to hand"), {.size = 13, .bold = true});
    head->addWidget(title);
    head->addStretch();
    const auto button = [&](const QString& text, const char* name, const QString& help,
                            const std::function<void()>& then) {
        auto* b = pushButton(card, QStringLiteral("cells.") + QLatin1String(name), text, help);
        connect(b, &QPushButton::clicked, this, then);
        head->addWidget(b);
    };
    button(tr("Add"), "add", tr("One more cell"), [this] { add(); });
    button(tr("Remove"), "remove", tr("Takes the chosen cells out of the drawer"),
           [this] { remove(); });
    button(tr("Take in…"), "in", tr("Cells from a CSV or JSON file, beside those that are here"),
           [this] {
               if (const QString file = askFile(false); !file.isEmpty())
                   takeIn(file);
           });
    button(tr("Write out…"), "out", tr("The drawer as CSV or JSON, by the file's ending"), [this] {
        const QString file = askFile(true);
        if (file.isEmpty())
            return;
        const bool json = file.endsWith(QLatin1String(".json"), Qt::CaseInsensitive);
        if (const auto error =
                writeFile(file.toStdString(), json ? drawerText(m_cells) : drawerCsv(m_cells)))
            emit refused(qs(error->message()));
    });
    column->addLayout(head);
    m_picture = new CellBars(card);
    column->addWidget(m_picture);
    m_table = new QTableWidget(0, 6, card);
    m_table->setObjectName(QStringLiteral("cells.table"));
    m_table->setAccessibleName(tr("Cells to hand"));
    m_table->setHorizontalHeaderLabels(
        {tr("cell"), tr("size"), tr("holds"), tr("of label"), tr("resistance"), tr("keep it?")});
    m_table->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_table->setSelectionBehavior(QAbstractItemView::SelectRows);
    styleTable(*m_table);
    m_table->horizontalHeader()->setStretchLastSection(true);
    connect(m_table, &QTableWidget::currentCellChanged, this, [this] { showForm(); });
    column->addWidget(m_table, 1);
    return card;
}

QWidget* InventoryPage::buildForm() {
    const Theme& t = Theme::now();
    auto* card = newCard(this, "cellsFormCard", tr("The chosen cell"));
    m_form = card;
    auto* grid = new QGridLayout(card);
    grid->setContentsMargins(t.ipx(12), t.ipx(8), t.ipx(12), t.ipx(10));
    grid->setHorizontalSpacing(t.ipx(8));
    grid->setVerticalSpacing(t.ipx(4));
    const auto put = [&](int row, int at, const QString& text, QWidget* edit, int span = 1) {
        grid->addWidget(mutedLabel(text, card, 11.5), row, at);
        grid->addWidget(edit, row, at + 1, 1, span);
    };
    m_id = textField("id", tr("Name of the cell"), card);
    m_size = textField("size", tr("Size, such as 18650 or AA"), card);
    m_chemistry = choiceField(card, "cells.chemistry", tr("Chemistry"));
    m_chemistry->setMinimumContentsLength(6);
    m_chemistry->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    for (const auto name : namesOf<Chemistry>())
        m_chemistry->addItem(qs(name).replace('-', ' '), qs(name));
    m_label = cellField(
        typedFacts("label", "Label", "Capacity on the label", Unit::ampereHour, 1e-4, 1e4), "label",
        card);
    m_ah = cellField(
        typedFacts("ah", "Holds", "Capacity that was measured", Unit::ampereHour, 1e-4, 1e4), "ah",
        card);
    m_ohm = cellField(
        typedFacts("ohm", "Resistance", "Resistance that was measured, DC", Unit::ohm, 1e-5, 1e4),
        "ohm", card);
    put(0, 0, tr("name"), m_id);
    put(0, 2, tr("size"), m_size);
    put(0, 4, tr("kind"), m_chemistry);
    put(1, 0, tr("label"), m_label);
    put(1, 2, tr("holds"), m_ah);
    put(1, 4, tr("resists"), m_ohm);
    static constexpr std::array names{"rest", "again"};
    for (std::size_t i = 0; i < 2; ++i) {
        m_rest[i] = cellField(typedFacts(names[i], "At rest",
                                         "Volts of the resting cell, an hour after use", Unit::volt,
                                         0, 100),
                              names[i], card);
        m_restWhen[i] = textField(i == 0 ? "restWhen" : "againWhen",
                                  tr("The day it was read, such as 2031-04-02"), card);
        m_restWhen[i]->setPlaceholderText(QStringLiteral("2031-04-02"));
        const int row = 2 + static_cast<int>(i);
        put(row, 0, i == 0 ? tr("rests at") : tr("weeks later"), m_rest[i]);
        put(row, 2, tr("on"), m_restWhen[i]);
    }
    m_warm = checkBox(card, "cells.warm", tr("grew warm"));
    grid->addWidget(m_warm, 2, 4, 1, 2);
    m_note = textField("note", tr("Note"), card);
    put(3, 4, tr("note"), m_note);
    for (const int column : {1, 3, 5}) {
        grid->setColumnStretch(column, 1);
        grid->setColumnMinimumWidth(column, t.ipx(58));
    }
    grid->setColumnMinimumWidth(3, t.ipx(94)); // a whole day
    takeForm();
    takeRests();
    return card;
}

void InventoryPage::takeForm() {
    connect(m_id, &QLineEdit::editingFinished, this, [this] {
        edit([this](OwnedCell& c) { c.id = m_id->text().trimmed().toStdString(); });
    });
    connect(m_size, &QLineEdit::editingFinished, this, [this] {
        edit([this](OwnedCell& c) { c.size = m_size->text().trimmed().toStdString(); });
    });
    connect(m_note, &QLineEdit::editingFinished, this,
            [this] { edit([this](OwnedCell& c) { c.note = m_note->text().toStdString(); }); });
    connect(m_chemistry, &QComboBox::activated, this, [this] {
        edit([this](OwnedCell& c) {
            c.chemistry = valueOf<Chemistry>(m_chemistry->currentData().toString().toStdString())
                              .value_or(Chemistry::other);
        });
    });
    connect(m_warm, &QCheckBox::clicked, this,
            [this](bool on) { edit([on](OwnedCell& c) { c.warm = on; }); });
    connect(m_label, &QuantityEdit::committed, this,
            [this](std::optional<double> v) { edit([v](OwnedCell& c) { c.labelAh = v; }); });
    connect(m_ah, &QuantityEdit::committed, this, [this](std::optional<double> v) {
        edit([v](OwnedCell& c) {
            c.ah = v;
            c.when = QDate::currentDate().toString(Qt::ISODate).toStdString();
        });
    });
    connect(m_ohm, &QuantityEdit::committed, this,
            [this](std::optional<double> v) { edit([v](OwnedCell& c) { c.ohms = v; }); });
}

void InventoryPage::takeRests() {
    for (std::size_t i = 0; i < 2; ++i) {
        const auto rest = [this, i] {
            edit([this, i](OwnedCell& c) {
                if (c.rests.size() <= i)
                    c.rests.resize(i + 1);
                const QString day = m_restWhen[i]->text().trimmed();
                c.rests[i].when = day.isEmpty()
                                      ? QDate::currentDate().toString(Qt::ISODate).toStdString()
                                      : day.toStdString();
            });
        };
        connect(m_rest[i], &QuantityEdit::committed, this, [this, i](std::optional<double> v) {
            edit([i, v](OwnedCell& c) {
                if (!v) {
                    c.rests.resize(std::min(c.rests.size(), i));
                    return;
                }
                if (c.rests.size() <= i)
                    c.rests.resize(i + 1);
                c.rests[i].volts = *v;
                for (RestingVolts& r : c.rests)
                    if (r.when.empty())
                        r.when = QDate::currentDate().toString(Qt::ISODate).toStdString();
            });
        });
        connect(m_restWhen[i], &QLineEdit::editingFinished, this, [this, i, rest] {
            if (m_rest[i]->text().isEmpty())
                return;
            if (!dayOf(m_restWhen[i]->text().trimmed().toStdString())) {
                emit refused(
                    tr("found “%1”, expected a day as 2031-04-02").arg(m_restWhen[i]->text()));
                return;
            }
            rest();
        });
    }
}

QWidget* InventoryPage::buildMatch() {
    auto* card = newCard(this, "cellsMatchCard", tr("Matched into a pack"));
    auto* column = newColumn(card, 8, Margins{12, 8, 12, 10});
    auto* head = new QHBoxLayout;
    auto* title = textLabel(card, tr("Matched into a pack"), {.size = 13, .bold = true});
    head->addWidget(title);
    head->addStretch();
    const auto count = [&](const char* name, const QString& says, int most) {
        auto* box = new QSpinBox(card);
        box->setObjectName(QStringLiteral("cells.") + QLatin1String(name));
        box->setAccessibleName(says);
        box->setToolTip(says);
        box->setRange(1, most);
        connect(box, &QSpinBox::valueChanged, this, [this] {
            if (!m_filling)
                work();
        });
        head->addWidget(box);
        return box;
    };
    m_series = count("series", tr("Groups in series"), kMostInRow);
    head->addWidget(mutedLabel(tr("groups of"), card, 12));
    m_parallel = count("parallel", tr("Cells in parallel in each group"), kMostInRow);
    column->addLayout(head);
    m_bars = new MatchBars(card);
    column->addWidget(m_bars);
    m_cost = textLabel(card, {}, {.size = 12.5, .wrap = true, .name = "cells.cost"});
    column->addWidget(m_cost);
    m_take = pushButton(card, "cells.take", tr("Put it into the project"),
                        tr("The pack as measured, as one edit that can be undone"));
    accentButton(*m_take, true);
    connect(m_take, &QPushButton::clicked, this, &InventoryPage::intoProject);
    auto* foot = new QHBoxLayout;
    foot->addWidget(m_take);
    foot->addStretch();
    column->addLayout(foot);
    column->addStretch();
    QLabel* caution = mutedLabel(
        tr("Lithium cells of unknown past can burn. Join only cells at the same volts, with a "
           "fuse and a guard; never charge them unattended, and give what is dented, warm or "
           "swollen to those who take it back."),
        card, 11.5);
    caution->setWordWrap(true);
    column->addWidget(caution);
    return card;
}

void InventoryPage::load() {
    m_loaded = true;
    m_library = loadLibrary(Session::partsFolder().toStdString());
    if (!QFileInfo::exists(Session::drawerPath()))
        return;
    auto cells = readCellFile(Session::drawerPath().toStdString());
    if (!cells) {
        m_readable = false;
        emit refused(tr("The drawer can't be read, and is left as it is: %1")
                         .arg(qs(cells.error().message())));
        return;
    }
    m_cells = std::move(cells).value();
}

void InventoryPage::keep() {
    if (!m_readable) {
        emit refused(tr("The drawer can't be read: %1 is left as it is, and nothing is kept.")
                         .arg(Session::drawerPath()));
        return;
    }
    QDir().mkpath(QFileInfo(Session::drawerPath()).absolutePath());
    if (const auto error = writeFile(Session::drawerPath().toStdString(), drawerText(m_cells)))
        emit refused(qs(error->message()));
}

void InventoryPage::refresh() {
    if (!m_loaded) {
        load();
        if (const Pack* pack = m_session.project().pack()) {
            m_filling = true;
            m_series->setValue(static_cast<int>(pack->series));
            m_parallel->setValue(static_cast<int>(pack->parallel));
            m_filling = false;
        }
    }
    showTable();
    work();
}

void InventoryPage::showTable() {
    const int was = m_table->currentRow();
    m_filling = true;
    m_verdicts.clear();
    m_table->setRowCount(static_cast<int>(m_cells.size()));
    int out = 0;
    for (std::size_t i = 0; i < m_cells.size(); ++i) {
        const OwnedCell& c = m_cells[i];
        m_verdicts.push_back(judge(c, m_library));
        const CellAssessment& v = m_verdicts.back();
        out += v.discardReasons.empty() ? 0 : 1;
        QStringList why;
        for (const std::string& reason : v.discardReasons)
            why << qs(reason);
        const QString keeps =
            !why.isEmpty()   ? why.join(QStringLiteral(", "))
            : v.lossPerMonth ? tr("keep; loses %1 a month").arg(qs(writeShare(*v.lossPerMonth)))
            : c.ah           ? tr("keep")
                             : tr("not measured");
        const QStringList texts{qs(c.id),
                                qs(c.size),
                                c.ah ? quantity(*c.ah, Unit::ampereHour) : QString(),
                                v.health ? qs(writeShare(*v.health)) : QString(),
                                c.ohms ? quantity(*c.ohms, Unit::ohm) : QString(),
                                keeps};
        for (int column = 0; column < texts.size(); ++column) {
            auto* item = new QTableWidgetItem(texts[column]);
            item->setToolTip(texts[column]);
            if (column == 5)
                item->setForeground(colour(!why.isEmpty() ? Role::stop
                                           : c.ah         ? Role::fine
                                                          : Role::muted));
            m_table->setItem(static_cast<int>(i), column, item);
        }
    }
    for (int column = 0; column < 5; ++column)
        m_table->resizeColumnToContents(column);
    m_filling = false;
    if (!m_cells.empty() && m_table->currentRow() < 0)
        m_table->setCurrentCell(std::clamp(was, 0, static_cast<int>(m_cells.size()) - 1), 0);
    m_word = m_cells.size() == 1 ? tr("1 cell") : tr("%1 cells").arg(m_cells.size());
    m_picture->show(m_cells.empty() ? cellsOfProject() : m_cells, m_cells.empty());
    m_says = m_cells.empty()
                 ? tr("in the drawer. Shown faintly: this project's own. Add puts one of "
                      "them in, to be measured; or take a list in.")
             : out == 0 ? tr("in the drawer, none to throw away.")
                        : tr("in the drawer, %1 to throw away.").arg(out);
    showForm();
}

/// As many as the pack has, none of them measured.
std::vector<OwnedCell> InventoryPage::cellsOfProject() const {
    std::vector<OwnedCell> cells;
    const Pack* pack = m_session.project().pack();
    if (!pack)
        return cells;
    constexpr int kMostShown = 6;
    const int count = std::min(kMostShown, static_cast<int>(pack->series * pack->parallel));
    for (int i = 0; i < count; ++i) {
        OwnedCell c;
        c.id = tr("cell %1").arg(i + 1).toStdString();
        c.type = pack->cell.id;
        c.size = pack->cell.size;
        c.chemistry = pack->cell.chemistry;
        c.labelAh = pack->cell.capacity.value();
        cells.push_back(std::move(c));
    }
    return cells;
}

void InventoryPage::showForm() {
    if (m_filling)
        return;
    const int row = m_table->currentRow();
    const bool any = row >= 0 && row < static_cast<int>(m_cells.size());
    m_form->setEnabled(any);
    const OwnedCell c = any ? m_cells[static_cast<std::size_t>(row)] : OwnedCell{};
    m_id->setText(qs(c.id));
    m_size->setText(qs(c.size));
    m_chemistry->setCurrentIndex(m_chemistry->findData(qs(nameOf(c.chemistry))));
    m_label->setValue(c.labelAh);
    m_ah->setValue(c.ah);
    m_ohm->setValue(c.ohms);
    for (std::size_t i = 0; i < 2; ++i) {
        const bool there = c.rests.size() > i;
        m_rest[i]->setValue(there ? std::optional(c.rests[i].volts) : std::nullopt);
        m_restWhen[i]->setText(there ? qs(c.rests[i].when) : QString());
    }
    m_warm->setChecked(c.warm);
    m_note->setText(qs(c.note));
}

} // namespace sipper::app
