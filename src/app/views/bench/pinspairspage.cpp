// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/pinspairspage.hpp"

#include "line/sources.hpp"
#include "parts/kinds.hpp"
#include "parts/madeas.hpp"
#include "views/bench/benchpictures.hpp"

#include "quantity/read.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/text.hpp"

#include <QBoxLayout>
#include <QFormLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSpinBox>
#include <QTableWidget>

namespace sipper::app {
namespace {

constexpr int kMostSeries = 100;
constexpr int kNewPins = 4;

QLineEdit* askField(const char* name, const QString& says, QWidget* parent) {
    QLineEdit* edit = lineField(parent, QStringLiteral("aside.") + QLatin1String(name), says, says);
    edit->setMaxLength(400);
    edit->setMinimumWidth(Theme::now().ipx(40));
    return edit;
}

QString figuresText(const std::vector<double>& list) {
    QStringList words;
    for (const double v : list)
        words << QString::number(v, 'g', 7);
    return words.join(' ');
}

Role roleOf(PinRole role) {
    switch (role) {
    case PinRole::plus:
        return Role::copper;
    case PinRole::tap:
    case PinRole::senseResistor:
        return Role::charging;
    case PinRole::minus:
        return Role::ink;
    case PinRole::nothing:
    case PinRole::unknown:
        break;
    }
    return Role::muted;
}

} // namespace

PinsPairsPage::PinsPairsPage(Session& session, QWidget* parent)
    : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("aside"));
    auto* row = newRow(this, 8, Margins{});
    row->addWidget(buildPins(), 6);
    row->addWidget(buildPairs(), 5);
}

QWidget* PinsPairsPage::buildPins() {
    const Theme& t = Theme::now();
    auto* card = newCard(this, "asidePinCard", tr("Which pin is which"));
    auto* column = newColumn(card, 6, Margins{12, 8, 12, 10});
    auto* head = new QHBoxLayout;
    auto* title = textLabel(card, tr("Which pin is which"), {.size = 13, .bold = true});
    head->addWidget(title);
    head->addStretch();
    m_surveyBox = choiceField(card, "aside.surveys", tr("Which connector"));
    connect(m_surveyBox, &QComboBox::activated, this, [this](int at) {
        m_survey = at;
        showPins();
    });
    head->addWidget(m_surveyBox);
    const auto button = [&](const QString& text, const char* name, const QString& help,
                            QBoxLayout* into, const std::function<void()>& then) {
        auto* b = pushButton(card, QStringLiteral("aside.") + QLatin1String(name), text, help);
        connect(b, &QPushButton::clicked, this, then);
        into->addWidget(b);
    };
    button(tr("New connector"), "newPins", tr("A connector whose pins nobody knows"), head, [this] {
        PinSurvey s;
        s.connector = tr("connector %1").arg(m_surveys.size() + 1).toStdString();
        s.against = "1";
        if (const Pack* pack = m_session.project().pack()) {
            s.series = pack->series;
            s.chemistry = pack->cell.chemistry;
        }
        s.pins.reserve(kNewPins);
        for (int i = 2; i <= kNewPins; ++i)
            s.pins.push_back({std::to_string(i), {}, {}});
        m_surveys.push_back(std::move(s));
        m_survey = static_cast<int>(m_surveys.size()) - 1;
        keepPins(tr("a connector to survey"));
    });
    column->addLayout(head);
    m_pinDrawing = new PinDrawing(card);
    column->addWidget(m_pinDrawing);
    auto* ask = newRow(nullptr, 6);
    m_connector = askField("connector", tr("What the connector is called"), card);
    m_against = askField("against", tr("The pin that the black lead stays on"), card);
    m_against->setFixedWidth(t.ipx(50));
    m_series = new QSpinBox(card);
    m_series->setObjectName(QStringLiteral("aside.series"));
    m_series->setAccessibleName(tr("Cells in series, as far as is known"));
    m_series->setToolTip(m_series->accessibleName());
    m_series->setRange(1, kMostSeries);
    m_chemistry = choiceField(card, "aside.chemistry", tr("Chemistry of the pack"));
    m_chemistry->setMinimumContentsLength(8);
    m_chemistry->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    for (const auto name : namesOf<Chemistry>())
        m_chemistry->addItem(qs(name).replace('-', ' '), qs(name));
    ask->addWidget(m_connector, 1);
    ask->addWidget(mutedLabel(tr("black lead on"), card, 12));
    ask->addWidget(m_against);
    column->addLayout(ask);
    auto* pack = newRow(nullptr, 6);
    pack->addWidget(mutedLabel(tr("a pack of"), card, 12));
    pack->addWidget(m_series);
    pack->addWidget(mutedLabel(tr("cells in series,"), card, 12));
    pack->addWidget(m_chemistry, 1);
    column->addLayout(pack);
    for (QLineEdit* edit : {m_connector, m_against})
        connect(edit, &QLineEdit::editingFinished, this, &PinsPairsPage::takePins);
    connect(m_series, &QSpinBox::valueChanged, this, [this] {
        if (!m_filling)
            takePins();
    });
    connect(m_chemistry, &QComboBox::activated, this, [this] { takePins(); });
    m_pins = new QTableWidget(0, 4, card);
    m_pins->setObjectName(QStringLiteral("aside.pins"));
    m_pins->setAccessibleName(tr("Pins and what they read"));
    m_pins->setHorizontalHeaderLabels(
        {tr("pin"), tr("volts"), tr("ohms, where no volts"), tr("what it is")});
    styleTable(*m_pins);
    m_pins->horizontalHeader()->setStretchLastSection(true);
    connect(m_pins, &QTableWidget::cellChanged, this, &PinsPairsPage::takePinCell);
    column->addWidget(m_pins, 1);
    auto* foot = new QHBoxLayout;
    button(tr("One pin more"), "morePins", tr("A row for another pin"), foot, [this] {
        if (m_survey < 0)
            return;
        PinSurvey& s = m_surveys[static_cast<std::size_t>(m_survey)];
        s.pins.push_back({std::to_string(s.pins.size() + 2), {}, {}});
        keepPins(tr("a pin more"));
    });
    button(tr("Forget it"), "dropPins", tr("Takes this connector out of the project"), foot,
           [this] {
               if (m_survey < 0)
                   return;
               m_surveys.erase(m_surveys.begin() + m_survey);
               keepPins(tr("a connector forgotten"));
           });
    foot->addStretch();
    column->addLayout(foot);
    m_pinSays = textLabel(card, {}, {.size = 12, .wrap = true, .name = "aside.pinSays"});
    column->addWidget(m_pinSays);
    return card;
}

QWidget* PinsPairsPage::buildPairs() {
    const Theme& t = Theme::now();
    auto* card = newCard(this, "asidePairCard", tr("With and without"));
    auto* column = newColumn(card, 8, Margins{12, 8, 12, 10});
    auto* head = new QHBoxLayout;
    auto* title = textLabel(card, tr("With and without"), {.size = 13, .bold = true});
    head->addWidget(title);
    head->addStretch();
    m_pairBox = choiceField(card, "aside.pairs", tr("Which comparison"));
    connect(m_pairBox, &QComboBox::activated, this, [this](int at) {
        m_pair = at;
        showPairs();
    });
    head->addWidget(m_pairBox);
    auto* fresh = pushButton(card, "aside.newPair", tr("New"),
                             tr("Another thing that the supply might disturb"));
    connect(fresh, &QPushButton::clicked, this, [this] {
        m_pairs.push_back({tr("reading %1").arg(m_pairs.size() + 1).toStdString(), "V", {}, {}, 0});
        m_pair = static_cast<int>(m_pairs.size()) - 1;
        keepPairs(tr("a comparison"));
    });
    head->addWidget(fresh);
    column->addLayout(head);
    m_pairDots = new PairDots(card);
    column->addWidget(m_pairDots);
    QLabel* about =
        mutedLabel(tr("Does the converter disturb a meter, a receiver's noise floor, an "
                      "audio level? Read the same thing on the cells alone and on the "
                      "new supply, a few times each."),
                   card, 12);
    about->setWordWrap(true);
    column->addWidget(about);
    auto* form = new QFormLayout;
    form->setSpacing(t.ipx(6));
    m_what = askField("what", tr("What is read"), card);
    m_unit = askField("unit", tr("In which unit"), card);
    m_digit = askField("digit", tr("The meter's last digit, in that unit"), card);
    m_sides = {askField("cells", tr("On the cells, figures with blanks between"), card),
               askField("supply", tr("On the new supply, figures with blanks between"), card)};
    form->addRow(tr("What"), m_what);
    form->addRow(tr("Unit"), m_unit);
    form->addRow(tr("Last digit"), m_digit);
    form->addRow(tr("On the cells"), m_sides[0]);
    form->addRow(tr("On the supply"), m_sides[1]);
    column->addLayout(form);
    for (QLineEdit* edit : {m_what, m_unit, m_digit, m_sides[0], m_sides[1]})
        connect(edit, &QLineEdit::editingFinished, this, &PinsPairsPage::takePair);
    m_pairSays =
        textLabel(card, {}, {.size = 14, .bold = true, .wrap = true, .name = "aside.pairSays"});
    column->addWidget(m_pairSays);
    auto* drop = pushButton(card, "aside.dropPair", tr("Forget it"),
                            tr("Takes this comparison out of the project"));
    connect(drop, &QPushButton::clicked, this, [this] {
        if (m_pair < 0)
            return;
        m_pairs.erase(m_pairs.begin() + m_pair);
        keepPairs(tr("a comparison forgotten"));
    });
    auto* foot = new QHBoxLayout;
    foot->addWidget(drop);
    foot->addStretch();
    column->addLayout(foot);
    column->addStretch();
    return card;
}

void PinsPairsPage::refresh() {
    m_surveys = pinSurveysOf(m_session.project());
    m_pairs = pairsOf(m_session.project());
    const auto within = [](int at, std::size_t count) {
        return count == 0 ? -1 : std::clamp(at, 0, static_cast<int>(count) - 1);
    };
    m_survey = within(m_survey, m_surveys.size());
    m_pair = within(m_pair, m_pairs.size());
    showPins();
    showPairs();
}

void PinsPairsPage::showPins() {
    m_filling = true;
    m_surveyBox->clear();
    for (const PinSurvey& s : m_surveys)
        m_surveyBox->addItem(qs(s.connector));
    m_surveyBox->setCurrentIndex(m_survey);
    m_surveyBox->setVisible(m_surveys.size() > 1);
    const bool any = m_survey >= 0;
    for (QWidget* w :
         std::initializer_list<QWidget*>{m_connector, m_against, m_series, m_chemistry, m_pins})
        w->setEnabled(any);
    const PinSurvey s = any ? m_surveys[static_cast<std::size_t>(m_survey)] : PinSurvey{};
    m_connector->setText(qs(s.connector));
    m_against->setText(qs(s.against));
    m_series->setValue(static_cast<int>(s.series));
    m_chemistry->setCurrentIndex(m_chemistry->findData(qs(nameOf(s.chemistry))));
    m_pins->setRowCount(any ? static_cast<int>(s.pins.size()) + 1 : 0);
    m_word = any ? tr("%1 pins").arg(s.pins.size() + 1) : tr("Which pin?");
    const PinAnalysis look = any ? analysePins(s) : expectedPins();
    m_pinDrawing->show(look, any ? qs(s.connector) : expectedConnector(), !any);
    if (any) {
        for (std::size_t i = 0; i < look.pins.size(); ++i) {
            const PinFound& f = look.pins[i];
            const int row = static_cast<int>(i);
            const bool black = i == 0;
            const PinReading* read = black ? nullptr : &s.pins[i - 1];
            const QStringList texts{
                qs(f.id),
                black         ? tr("black lead")
                : read->volts ? quantity(*read->volts, Unit::volt)
                              : QString(),
                black || !read->ohms ? QString() : quantity(*read->ohms, Unit::ohm), qs(f.says)};
            for (int column = 0; column < texts.size(); ++column) {
                auto* item = new QTableWidgetItem(texts[column]);
                item->setToolTip(texts[column]);
                if (black || column == 3)
                    item->setFlags(item->flags() & ~Qt::ItemIsEditable);
                if (column == 3)
                    item->setForeground(colour(roleOf(f.role)));
                m_pins->setItem(row, column, item);
            }
        }
        QStringList lines;
        for (const auto& node : look.joined) {
            QStringList names;
            for (const std::string& id : node)
                names << qs(id);
            lines << tr("%1 belong together.").arg(names.join(QStringLiteral(", ")));
        }
        if (look.volts && look.window)
            lines << tr("%1 from minus to plus; such a pack lies between %2 and %3%4.")
                         .arg(quantity(*look.volts, Unit::volt),
                              quantity(look.window->first, Unit::volt),
                              quantity(look.window->second, Unit::volt),
                              look.inWindow ? QString() : tr(", so this is not it, or it is flat"));
        QStringList open;
        for (const std::string& text : look.cannotKnow)
            open << qs(text);
        lines << tr("A meter can't tell: %1.").arg(open.join(QStringLiteral("; ")));
        m_pinSays->setText(lines.join(QStringLiteral("\n")));
        m_says = tr("of “%1”, read against pin %2. Volts first; ohms only where there are none.")
                     .arg(qs(s.connector), qs(s.against));
    } else {
        m_pinSays->setText(tr("Put the black lead on one pin and read the volts of every other "
                              "against it. Where there are none, its ohms. A slip shorts the pack: "
                              "thin, insulated probes, one hand."));
        m_says = tr("Ten minutes with a meter tell plus, minus and taps of a connector. “New "
                    "connector” begins; shown faintly: %1.")
                     .arg(expectedConnector());
    }
    for (int column = 0; column < 3; ++column)
        m_pins->resizeColumnToContents(column);
    m_filling = false;
    emit answered();
}

/// The plug of the project's adapter, else the pack's own leads.
QString PinsPairsPage::expectedConnector() const {
    const Project& p = m_session.project();
    for (const Stage& stage : p.stages)
        if (stage.connector && !stage.connector->kind.empty())
            return tr("%1 of %2").arg(qs(stage.connector->kind), qs(nameOf(stage)));
    for (const Stage& stage : p.stages)
        if (isSource(stage.part))
            return tr("the leads of %1").arg(qs(nameOf(stage)));
    return tr("two leads");
}

/// What it should read there: minus, and plus with the volts of its source.
PinAnalysis PinsPairsPage::expectedPins() const {
    const Project& p = m_session.project();
    PinAnalysis look;
    double volts = 0;
    for (const Stage& stage : p.stages) {
        if (!isSource(stage.part) || volts > 0)
            continue;
        const auto* pack = std::get_if<Pack>(&stage.part);
        volts = pack ? fullPackVolts(*pack) : sourceModel(stage.part).volts;
    }
    PinFound minus;
    minus.id = "1";
    minus.role = PinRole::minus;
    PinFound plus;
    plus.id = "2";
    plus.role = PinRole::plus;
    plus.volts = volts;
    look.pins = {minus, plus};
    return look;
}

void PinsPairsPage::showPairs() {
    m_filling = true;
    m_pairBox->clear();
    for (const ReadingPair& p : m_pairs)
        m_pairBox->addItem(qs(p.what));
    m_pairBox->setCurrentIndex(m_pair);
    m_pairBox->setVisible(m_pairs.size() > 1);
    const bool any = m_pair >= 0;
    for (QLineEdit* edit : {m_what, m_unit, m_digit, m_sides[0], m_sides[1]})
        edit->setEnabled(any);
    const ReadingPair p = any ? m_pairs[static_cast<std::size_t>(m_pair)] : ReadingPair{};
    m_what->setText(qs(p.what));
    m_unit->setText(qs(p.unit));
    m_digit->setText(p.resolution > 0 ? QString::number(p.resolution, 'g', 4) : QString());
    m_sides[0]->setText(figuresText(p.cells));
    m_sides[1]->setText(figuresText(p.supply));
    ReadingPair madeUp;
    madeUp.cells = {1.00, 1.02, 1.01, 1.03};
    madeUp.supply = {1.04, 1.02, 1.05, 1.06};
    m_pairDots->show(any ? p : madeUp, !any);
    const PairVerdict v = judge(p);
    m_pairSays->setText(any ? qs(v.says) : QString());
    m_pairSays->setStyleSheet(inkOf(!v.enough   ? Role::muted
                                    : v.differs ? Role::weigh
                                                : Role::fine));
    m_filling = false;
}

void PinsPairsPage::takePins() {
    if (m_filling || m_survey < 0)
        return;
    PinSurvey& s = m_surveys[static_cast<std::size_t>(m_survey)];
    const PinSurvey before = s;
    s.connector = m_connector->text().trimmed().toStdString();
    s.against = m_against->text().trimmed().toStdString();
    s.series = m_series->value();
    s.chemistry = valueOf<Chemistry>(m_chemistry->currentData().toString().toStdString())
                      .value_or(Chemistry::other);
    if (s != before)
        keepPins(tr("a connector to survey"));
}

void PinsPairsPage::takePinCell(int row, int column) {
    if (m_filling || m_survey < 0 || row < 1)
        return;
    PinReading& pin =
        m_surveys[static_cast<std::size_t>(m_survey)].pins[static_cast<std::size_t>(row) - 1];
    const std::string text = m_pins->item(row, column)->text().trimmed().toStdString();
    if (column == 0) {
        pin.id = text;
    } else {
        std::optional<double>& into = column == 1 ? pin.volts : pin.ohms;
        into.reset();
        if (!text.empty()) {
            const auto value = readQuantity(text, column == 1 ? Unit::volt : Unit::ohm);
            if (!value) {
                emit refused(qs(value.error().message()));
                showPins();
                return;
            }
            into = value.value();
        }
    }
    emit refused({});
    keepPins(tr("a pin that was read"));
}

void PinsPairsPage::takePair() {
    if (m_filling || m_pair < 0)
        return;
    ReadingPair after = m_pairs[static_cast<std::size_t>(m_pair)];
    after.what = m_what->text().trimmed().toStdString();
    after.unit = m_unit->text().trimmed().toStdString();
    const auto digit = figuresIn(m_digit->text().toStdString());
    const auto cells = figuresIn(m_sides[0]->text().toStdString());
    const auto supply = figuresIn(m_sides[1]->text().toStdString());
    for (const auto* read : {&digit, &cells, &supply})
        if (!*read) {
            emit refused(qs(read->error().message()));
            return;
        }
    emit refused({});
    after.resolution = digit.value().empty() ? 0 : std::abs(digit.value().front());
    after.cells = cells.value();
    after.supply = supply.value();
    if (after == m_pairs[static_cast<std::size_t>(m_pair)])
        return;
    m_pairs[static_cast<std::size_t>(m_pair)] = std::move(after);
    keepPairs(tr("a comparison"));
}

void PinsPairsPage::keepPins(const QString& name) {
    if (const auto error = m_session.edit(name, withPinSurveys(m_session.project(), m_surveys)))
        emit refused(qs(error->message()));
}

void PinsPairsPage::keepPairs(const QString& name) {
    if (const auto error = m_session.edit(name, withPairs(m_session.project(), m_pairs)))
        emit refused(qs(error->message()));
}

} // namespace sipper::app
