// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/sheet/sheetview.hpp"

#include "advice/finding.hpp"
#include "parts/kinds.hpp"
#include "views/sheet/sheetcanvas.hpp"
#include "views/sheet/sheetout.hpp"
#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QCheckBox>
#include <QDialog>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPrintPreviewDialog>
#include <QPrinter>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <QVBoxLayout>
#include <array>

namespace sipper::app {
namespace {

struct PartChoice {
    const char* words;
    std::vector<std::string> names;
};
const std::array<PartChoice, 6>& partChoices() {
    static const std::array<PartChoice, 6> choices{
        {{QT_TRANSLATE_NOOP("SheetView", "drawing"), {"drawing"}},
         {QT_TRANSLATE_NOOP("SheetView", "parts"), {"parts"}},
         {QT_TRANSLATE_NOOP("SheetView", "wiring"), {"wiring", "plugs"}},
         {QT_TRANSLATE_NOOP("SheetView", "set-points"), {"sets", "steps"}},
         {QT_TRANSLATE_NOOP("SheetView", "checks"), {"checks"}},
         {QT_TRANSLATE_NOOP("SheetView", "cautions"), {"cautions", "open"}}}};
    return choices;
}

/// A file name of a project's name: what a file system may not have becomes a dash.
QString fileStem(const Project& p) {
    QString stem = qs(p.name).toLower().simplified();
    for (QChar& c : stem)
        if (!c.isLetterOrNumber())
            c = '-';
    stem.truncate(60);
    return stem.isEmpty() ? QStringLiteral("build-sheet") : stem;
}

bool askLeadColours(QWidget* parent, LeadColours& colours) {
    QDialog dialog(parent);
    dialog.setObjectName(QStringLiteral("leadColours"));
    dialog.setWindowTitle(SheetView::tr("Colours of leads"));
    auto* column = new QVBoxLayout(&dialog);
    column->addWidget(mutedLabel(
        SheetView::tr(
            "What plus and minus look like in your workshop. On every sheet from now on."),
        &dialog, 12));
    auto* form = new QFormLayout;
    struct Row {
        QString words;
        std::string* colour;
    };
    const std::array rows{Row{SheetView::tr("Plus"), &colours.plus},
                          Row{SheetView::tr("Minus"), &colours.minus},
                          Row{SheetView::tr("Plus behind a guard or switch"), &colours.switched},
                          Row{SheetView::tr("Plus that charges"), &colours.charge}};
    std::vector<QLineEdit*> edits;
    for (const Row& row : rows) {
        auto* edit = new QLineEdit(qs(*row.colour), &dialog);
        edit->setMaxLength(20);
        form->addRow(row.words, edit);
        edits.push_back(edit);
    }
    column->addLayout(form);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, &dialog);
    QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    column->addWidget(buttons);
    if (dialog.exec() != QDialog::Accepted)
        return false;
    for (std::size_t i = 0; i < rows.size(); ++i)
        *rows[i].colour = edits[i]->text().trimmed().toStdString();
    return true;
}

} // namespace

SheetView::SheetView(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("build-sheet"));
    askWhere = [this](const QString& suggested, const QString& filter) {
        return QFileDialog::getSaveFileName(this, tr("Write the build sheet"), suggested, filter);
    };
    preview = [this](const std::function<void(QPrinter*)>& paint) {
        QPrinter printer(QPrinter::HighResolution);
        printer.setPageSize(
            QPageSize(paperSize() == PaperSize::a4 ? QPageSize::A4 : QPageSize::Letter));
        printer.setFullPage(true);
        QPrintPreviewDialog dialog(&printer, this);
        connect(&dialog, &QPrintPreviewDialog::paintRequested, this, paint);
        dialog.exec();
    };
    askColours = [this](LeadColours& colours) { return askLeadColours(this, colours); };
    // Everything scrolls together: in a small window the paper needs the room of the buttons.
    QWidget* page = scrollingPage(this, QStringLiteral("sheet.scroll"));
    auto* column = newColumn(page, 6, Margins{16, 8, 16, 8});
    column->addLayout(viewTitle(this, tr("Build sheet"), tr("what to buy, wire, set and check")));
    column->addLayout(answerRow(this, QStringLiteral("sheet"), m_word, m_says));
    column->addLayout(buildButtons());
    column->addLayout(buildOptions());
    column->addLayout(buildPlugs());
    m_complaint = complaintLabel(QStringLiteral("sheet.complaint"), this);
    column->addWidget(m_complaint);
    m_canvas = new SheetCanvas(page);
    column->addWidget(m_canvas, 1);
    m_scroll = findChild<QScrollArea*>(QStringLiteral("sheet.scroll"));
    connect(m_canvas, &SheetCanvas::chosen, this,
            [this](const QString& id) { m_session.select(id); });
    connect(m_canvas, &SheetCanvas::ticked, this, &SheetView::tick);
    connect(m_canvas, &SheetCanvas::wants, this, [this](const QRect& place) {
        const QPoint at = m_canvas->mapTo(m_scroll->widget(), place.center());
        m_scroll->ensureVisible(at.x(), at.y(), 10, place.height() + Theme::now().ipx(30));
    });
    connect(&session, &Session::selectionChanged, this, [this] {
        m_canvas->choose(m_session.selected());
        showPlug();
    });
    new Refresher(this, session,
                  {&Session::projectChanged, &Session::resultsUpdated, &Session::documentChanged},
                  [this] { refresh(); });
}

const SheetPaper& SheetView::paper() const {
    return m_canvas->paper();
}

PaperSize SheetView::paperSize() const {
    return m_size->currentIndex() == 0 ? PaperSize::a4 : PaperSize::letter;
}

QLayout* SheetView::buildButtons() {
    const Theme& t = Theme::now();
    auto* row = new FlowLayout(nullptr, t.ipx(8), t.ipx(4));
    const auto add = [&](const QString& words, const char* name, const QString& help,
                         auto pressed) {
        auto* button =
            pushButton(this, QStringLiteral("sheet.") + QLatin1String(name), words, help);
        connect(button, &QPushButton::clicked, this, pressed);
        row->addWidget(button);
        return button;
    };
    accentButton(*add(tr("Print…"), "print", tr("With a preview"), [this] { print(); }), true);
    add(tr("PDF"), "pdf", tr("The pages as they are"),
        [this] { write(QStringLiteral("pdf"), tr("PDF (*.pdf)")); });
    add(tr("HTML"), "html", tr("One page for the browser and the phone"),
        [this] { write(QStringLiteral("html"), tr("Web page (*.html)")); });
    add(tr("Parts as CSV"), "csv", tr("The list to buy, for a spreadsheet"),
        [this] { write(QStringLiteral("csv"), tr("List (*.csv)")); });
    add(tr("Drawing as SVG"), "svg", tr("The line, to be scaled"),
        [this] { write(QStringLiteral("svg"), tr("Drawing (*.svg)")); });
    add(tr("Picture"), "png", tr("The line as PNG"),
        [this] { write(QStringLiteral("png"), tr("Picture (*.png)")); });
    add(tr("Data"), "json", tr("Everything on it, as JSON"),
        [this] { write(QStringLiteral("json"), tr("Data (*.json)")); });
    return row;
}

QLayout* SheetView::buildOptions() {
    const Theme& t = Theme::now();
    auto* row = new FlowLayout(nullptr, t.ipx(10), t.ipx(2));
    const auto word = [&](const QString& text) {
        QLabel* label = mutedLabel(text, this, 12);
        label->setMinimumHeight(t.ipx(26));
        row->addWidget(label);
    };
    word(tr("on it"));
    for (const PartChoice& choice : partChoices()) {
        auto* box = checkBox(this, QStringLiteral("sheet.part.") + qs(choice.names.front()),
                             tr(choice.words));
        box->setChecked(true);
        box->setMinimumHeight(t.ipx(26));
        connect(box, &QCheckBox::toggled, this, [this] { lay(); });
        row->addWidget(box);
        m_parts << box;
    }
    word(tr("paper"));
    m_size = choiceField(this, "sheet.size", tr("Paper"));
    m_size->addItems({tr("A4"), tr("Letter")});
    m_size->setCurrentIndex(QSettings().value("sheet/letter").toBool() ? 1 : 0);
    connect(m_size, &QComboBox::activated, this, [this](int at) {
        QSettings().setValue("sheet/letter", at == 1);
        lay();
    });
    row->addWidget(m_size);
    auto* button = pushButton(this, "sheet.colours", tr("Colours of leads…"));
    connect(button, &QPushButton::clicked, this, [this] { colours(); });
    row->addWidget(button);
    return row;
}

QLayout* SheetView::buildPlugs() {
    auto* row = newRow(nullptr, 8);
    row->addWidget(mutedLabel(tr("plug of"), this, 12));
    m_plugOf = choiceField(this, "plug.of", tr("Whose plug"));
    m_plugOf->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    m_plugOf->setMinimumContentsLength(14);
    connect(m_plugOf, &QComboBox::activated, this,
            [this] { m_session.select(m_plugOf->currentData().toString()); });
    row->addWidget(m_plugOf);
    m_plugKind = new QLineEdit(this);
    m_plugKind->setObjectName(QStringLiteral("plug.kind"));
    m_plugKind->setAccessibleName(tr("What plug it is"));
    m_plugKind->setPlaceholderText(tr("what it is: barrel 5.5 × 2.1, two-pin, clip …"));
    m_plugKind->setMaxLength(60);
    connect(m_plugKind, &QLineEdit::editingFinished, this, &SheetView::setPlug);
    row->addWidget(m_plugKind, 1);
    m_plugCentre =
        choiceField(this, "plug.centre", tr("Its polarity"),
                    tr("The centre of a barrel; of two pins, the one by the key. Measure it."));
    m_plugCentre->addItems({tr("not measured yet"), tr("centre +"), tr("centre −")});
    connect(m_plugCentre, &QComboBox::activated, this, &SheetView::setPlug);
    row->addWidget(m_plugCentre);
    return row;
}

void SheetView::refresh() {
    const QSignalBlocker quiet(m_plugOf);
    m_plugOf->clear();
    for (const Stage& stage : m_session.project().stages)
        if (isSource(stage.part) || std::holds_alternative<Wire>(stage.part))
            m_plugOf->addItem(qs(nameOf(stage)), qs(stage.id));
    for (const Load& load : m_session.project().loads)
        m_plugOf->addItem(qs(nameOf(load)), qs(load.id));
    showPlug();
    const Results& results = m_session.results();
    m_session.jobs().runOnProject(
        kJob, Jobs::Priority::shown,
        [this, project = m_session.project(), quick = static_cast<const QuickAnalysis&>(results),
         deep = m_session.resultsCurrent() ? results.deep : nullptr,
         ask = sheetAsk()](const std::stop_token&, const Jobs::Progress&) -> Jobs::Deliver {
            auto sheet = std::make_shared<Sheet>(sheetOf(project, quick, deep.get(), ask));
            return [this, sheet] {
                m_sheet = std::move(*sheet);
                lay();
            };
        },
        this);
}

void SheetView::lay() {
    if (!m_sheet)
        return;
    SheetParts parts;
    for (std::size_t i = 0; i < partChoices().size(); ++i)
        if (m_parts[static_cast<qsizetype>(i)]->isChecked())
            parts.insert(partChoices()[i].names.begin(), partChoices()[i].names.end());
    m_canvas->show(SheetPaper(m_session.project(), *m_sheet, paperSize(), parts));
    m_canvas->choose(m_session.selected());
    const Sheet& s = *m_sheet;
    if (s.parts.empty()) {
        m_word->setText(tr("Nothing yet"));
        m_says->setText(
            tr("The sheet fills as the line is drawn: cells, regulators, leads, loads."));
        return;
    }
    const int pages = m_canvas->paper().pages();
    m_word->setText(pages == 1 ? tr("1 page") : tr("%1 pages").arg(pages));
    const auto open = static_cast<int>(s.open.size());
    const QString bought =
        s.priceLeft < s.price
            ? tr("%1 of %2 still to buy").arg(s.priceLeft, 0, 'f', 2).arg(s.price, 0, 'f', 2)
            : tr("parts for %1").arg(s.price, 0, 'f', 2);
    m_says->setText(tr("%1, %2 leads, %3 to set, %4 checks; %5. Its code is %6.")
                        .arg(bought)
                        .arg(s.wires.size())
                        .arg(s.sets.size())
                        .arg(s.checks.size())
                        .arg(open == 0   ? tr("nothing is open")
                             : open == 1 ? tr("one thing is still open")
                                         : tr("%1 things are still open").arg(open),
                             qs(s.code)));
}

void SheetView::showPlug() {
    const Project& p = m_session.project();
    const int at = m_plugOf->findData(m_session.selected());
    if (at >= 0)
        m_plugOf->setCurrentIndex(at);
    const std::string id = m_plugOf->currentData().toString().toStdString();
    const std::optional<Connector>* connector = nullptr;
    if (const Stage* stage = p.stage(id))
        connector = &stage->connector;
    else if (const Load* load = p.load(id))
        connector = &load->connector;
    m_plugKind->setEnabled(connector != nullptr);
    m_plugCentre->setEnabled(connector != nullptr);
    const bool there = connector && *connector;
    if (!m_plugKind->hasFocus())
        m_plugKind->setText(there ? qs((*connector)->kind) : QString());
    const Polarity centre =
        there ? (*connector)->centre.value_or(Polarity::unknown) : Polarity::unknown;
    m_plugCentre->setCurrentIndex(centre == Polarity::positive   ? 1
                                  : centre == Polarity::negative ? 2
                                                                 : 0);
}

void SheetView::setPlug() {
    Project p = m_session.project();
    const std::string id = m_plugOf->currentData().toString().toStdString();
    std::optional<Connector>* connector = nullptr;
    std::string name;
    if (Stage* stage = p.stage(id)) {
        connector = &stage->connector;
        name = nameOf(*stage);
    } else if (Load* load = p.load(id)) {
        connector = &load->connector;
        name = nameOf(*load);
    }
    if (!connector)
        return;
    const std::string kind = m_plugKind->text().trimmed().toStdString();
    const int chosen = m_plugCentre->currentIndex();
    if (kind.empty() && chosen == 0) {
        connector->reset();
    } else {
        if (!*connector)
            connector->emplace();
        (*connector)->kind = kind;
        (*connector)->centre = chosen == 1   ? Polarity::positive
                               : chosen == 2 ? Polarity::negative
                                             : Polarity::unknown;
    }
    if (p == m_session.project())
        return;
    if (const auto trouble = m_session.edit(tr("state the plug of %1").arg(qs(name)), std::move(p)))
        complain(*m_complaint, qs(trouble->message()));
}

void SheetView::tick(const QString& key, bool have) {
    if (const auto trouble = m_session.edit(have ? tr("tick as bought") : tr("untick as bought"),
                                            withHave(m_session.project(), key.toStdString(), have)))
        complain(*m_complaint, qs(trouble->message()));
}

void SheetView::write(const QString& ending, const QString& filter) {
    if (!m_sheet || !settle())
        return;
    QString path = askWhere(fileStem(m_session.project()) + '.' + ending, filter);
    if (path.isEmpty())
        return;
    if (!path.endsWith('.' + ending, Qt::CaseInsensitive))
        path += '.' + ending;
    const auto trouble = writeReport(path, m_session.project(), m_canvas->paper(), paperSize());
    complain(*m_complaint, trouble ? qs(trouble->message()) : QString());
}

void SheetView::print() {
    if (!m_sheet || !settle())
        return;
    preview([paper = m_canvas->paper()](QPrinter* printer) { printPaper(*printer, paper); });
}

void SheetView::colours() {
    LeadColours now = sheetAsk().colours;
    if (!askColours(now))
        return;
    QSettings settings;
    settings.setValue("leads/plus", qs(now.plus));
    settings.setValue("leads/minus", qs(now.minus));
    settings.setValue("leads/switched", qs(now.switched));
    settings.setValue("leads/charge", qs(now.charge));
    refresh();
}

} // namespace sipper::app
