// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/madefordialog.hpp"

#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QCheckBox>
#include <QHBoxLayout>
#include <QPushButton>
#include <QSpinBox>
#include <QVBoxLayout>

namespace sipper::app {

MadeForDialog::MadeForDialog(const QString& loadName,
                             const std::vector<std::pair<QString, QString>>& modes, QWidget* parent)
    : QDialog(parent), m_modes(modes) {
    setObjectName(QStringLiteral("madeFor"));
    setWindowTitle(tr("What was it made for?"));
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 10, Margins{16, 12, 16, 12});
    auto* title =
        textLabel(this, tr("%1 was made to run from").arg(loadName), {.size = 15, .bold = true});
    column->addWidget(title);
    column->addLayout(buildQuestion());
    m_window = textLabel(this, {}, {.size = 13, .bold = true, .name = "madeFor.window"});
    column->addWidget(m_window);
    m_assumed = mutedLabel({}, this, 12);
    m_assumed->setObjectName(QStringLiteral("madeFor.assumed"));
    m_assumed->setWordWrap(true);
    m_assumed->setMinimumHeight(t.ipx(64));
    m_assumed->setAlignment(Qt::AlignTop);
    column->addWidget(m_assumed, 1);
    buildRun(*column);
    column->addLayout(buildFoot());
    listen();
    resize(t.ipx(560), t.ipx(300));
    refresh();
}

QLayout* MadeForDialog::buildQuestion() {
    auto* row = newRow(nullptr, 8);
    m_kind = choiceField(this, "madeFor.kind", tr("What it was made to run from"),
                         tr("What it was made to run from"));
    const auto kind = [&](const QString& text, MadeFor value) {
        m_kind->addItem(text, static_cast<int>(value));
    };
    kind(tr("a regulated adapter"), MadeFor::regulatedAdapter);
    kind(tr("an older, heavy adapter"), MadeFor::unregulatedAdapter);
    kind(tr("cells"), MadeFor::cells);
    kind(tr("a 5 V socket"), MadeFor::socket);
    kind(tr("a 12 V vehicle supply"), MadeFor::vehicle);
    kind(tr("a regulated rail"), MadeFor::rail);
    row->addWidget(m_kind);
    buildVolts();
    buildCells();
    for (QWidget* w :
         std::initializer_list<QWidget*>{m_voltsLabel, m_volts, m_cellsLabel, m_count, m_chemistry})
        row->addWidget(w);
    row->addStretch();
    return row;
}

void MadeForDialog::buildVolts() {
    m_voltsLabel = mutedLabel(tr("of"), this, 12);
    FieldFacts volts;
    volts.key = "volts";
    volts.label = "Volts on its label";
    volts.help = "The volts on its label";
    volts.unit = Unit::volt;
    volts.kind = FieldKind::number;
    volts.required = true;
    m_volts = quantityField(this, "madeFor.volts", volts);
    m_volts->setAccessibleName(tr("Volts on its label"));
    m_volts->setFixedWidth(Theme::now().ipx(84));
    m_volts->setValue(m_asked.volts.value());
}

void MadeForDialog::buildCells() {
    m_cellsLabel = mutedLabel(tr("how many"), this, 12);
    m_count = new QSpinBox(this);
    m_count->setObjectName(QStringLiteral("madeFor.count"));
    m_count->setAccessibleName(tr("Cells in series"));
    m_count->setToolTip(tr("Cells in series"));
    m_count->setRange(1, 100);
    m_count->setValue(m_asked.count);
    m_chemistry = choiceField(this, "madeFor.chemistry", tr("Chemistry of the cells"),
                              tr("Chemistry of the cells"));
    for (const std::string_view name : namesOf<Chemistry>())
        if (name != "other")
            m_chemistry->addItem(qs(chemistryText(*valueOf<Chemistry>(name))), qs(name));
    m_chemistry->setCurrentIndex(m_chemistry->findData(qs(nameOf(m_asked.chemistry))));
}

QuantityEdit* MadeForDialog::runField(const char* key, const QString& name, Unit unit,
                                      double value) {
    FieldFacts facts;
    facts.key = key;
    facts.unit = unit;
    facts.kind = FieldKind::number;
    facts.required = true;
    auto* edit = quantityField(this, QStringLiteral("madeFor.") + QLatin1String(key), facts);
    edit->setAccessibleName(name);
    edit->setToolTip(name);
    edit->setFixedWidth(Theme::now().ipx(80));
    edit->setValue(value);
    return edit;
}

/// "It ran for three hours on its own battery": often all that is known of a draw.
void MadeForDialog::buildRun(QVBoxLayout& column) {
    const Theme& t = Theme::now();
    m_known = checkBox(this, "madeFor.known", tr("I know how long it ran on its own battery"),
                       tr("Take the draw from the charge of a battery and the hours it lasted"));
    column.addWidget(m_known);
    m_runRow = new QWidget(this);
    auto* row = newRow(m_runRow, 8, Margins{});
    m_capacity = runField("capacity", tr("What its battery holds, by its label"), Unit::ampereHour,
                          m_run.capacity.value());
    m_runVolts =
        runField("runVolts", tr("The volts on that label"), Unit::volt, m_run.volts.value());
    m_lasted = runField("lasted", tr("How long it lasted"), Unit::hour, m_run.lasted.value());
    m_by = choiceField(this, "madeFor.by", tr("What stays the same at other volts"),
                       tr("Watts where it has a regulator of its own that switches, else amps"));
    m_by->addItem(tr("as watts"));
    m_by->addItem(tr("as amps"));
    m_mode = choiceField(this, "madeFor.mode", tr("Mode that ran"),
                         tr("The mode that it was in while it ran"));
    for (const auto& [id, name] : m_modes)
        m_mode->addItem(name, id);
    const std::initializer_list<QWidget*> parts{m_capacity,
                                                mutedLabel(tr("at"), this, 12),
                                                m_runVolts,
                                                mutedLabel(tr("lasted"), this, 12),
                                                m_lasted,
                                                m_by,
                                                mutedLabel(tr("in"), this, 12),
                                                m_mode};
    for (QWidget* w : parts)
        row->addWidget(w);
    row->addStretch();
    column.addWidget(m_runRow);
    m_drawn = mutedLabel({}, this, 12);
    m_drawn->setObjectName(QStringLiteral("madeFor.drawn"));
    m_drawn->setWordWrap(true);
    m_drawn->setMinimumHeight(t.ipx(48));
    m_drawn->setAlignment(Qt::AlignTop);
    column.addWidget(m_drawn);
    connect(m_known, &QCheckBox::toggled, this, &MadeForDialog::refresh);
    const auto listen = [this](QuantityEdit* edit, auto take) {
        connect(edit, &QuantityEdit::committed, this, [this, take](std::optional<double> v) {
            if (v)
                take(*v);
            refresh();
        });
    };
    for (QuantityEdit* edit : findChildren<QuantityEdit*>())
        connect(edit, &QuantityEdit::complained, this, &MadeForDialog::refresh);
    listen(m_capacity, [this](double v) { m_run.capacity = AmpHours{v}; });
    listen(m_runVolts, [this](double v) { m_run.volts = Volts{v}; });
    listen(m_lasted, [this](double v) { m_run.lasted = Hours{v}; });
}

bool MadeForDialog::byPower() const {
    return m_by->currentIndex() == 0;
}

QString MadeForDialog::mode() const {
    return m_mode->currentData().toString();
}

QLayout* MadeForDialog::buildFoot() {
    auto* foot = new QHBoxLayout;
    foot->addStretch();
    auto* leave = pushButton(this, "madeFor.leave", tr("Leave it"));
    leave->setAutoDefault(false);
    leave->setToolTip(tr("Keep the window as it is"));
    m_use = pushButton(this, "madeFor.use", tr("Use this window"));
    m_use->setProperty("accent", true);
    m_use->setDefault(true);
    m_use->setToolTip(tr("Give the load this window; one undo takes it back"));
    foot->addWidget(leave);
    foot->addWidget(m_use);
    connect(leave, &QPushButton::clicked, this, &QDialog::reject);
    connect(m_use, &QPushButton::clicked, this, [this] {
        if (m_derived)
            accept();
    });
    return foot;
}

void MadeForDialog::listen() {
    connect(m_kind, &QComboBox::currentIndexChanged, this, [this] {
        m_asked.kind = static_cast<MadeFor>(m_kind->currentData().toInt());
        refresh();
    });
    connect(m_volts, &QuantityEdit::committed, this, [this](std::optional<double> v) {
        if (v)
            m_asked.volts = Volts{*v};
        m_volts->setValue(m_asked.volts.value());
        refresh();
    });
    connect(m_count, &QSpinBox::valueChanged, this, [this](int n) {
        m_asked.count = n;
        refresh();
    });
    connect(m_chemistry, &QComboBox::currentIndexChanged, this, [this] {
        m_asked.chemistry =
            *valueOf<Chemistry>(m_chemistry->currentData().toString().toStdString());
        refresh();
    });
}

void MadeForDialog::refresh() {
    const bool cells = m_asked.kind == MadeFor::cells;
    const bool volts = m_asked.kind == MadeFor::regulatedAdapter ||
                       m_asked.kind == MadeFor::unregulatedAdapter || m_asked.kind == MadeFor::rail;
    m_voltsLabel->setVisible(volts);
    m_volts->setVisible(volts);
    m_cellsLabel->setVisible(cells);
    m_count->setVisible(cells);
    m_chemistry->setVisible(cells);
    const bool known = m_known->isChecked();
    m_runRow->setVisible(known);
    m_drawn->setVisible(known);
    m_draw.reset();
    bool right = true;
    if (known) {
        const auto draw = drawFromRun(m_run);
        right = draw.ok();
        m_drawn->setText(qs(draw ? draw.value().assumed : draw.error().message()));
        if (draw)
            m_draw = draw.value();
    }
    m_use->setText(known ? tr("Use window and draw") : tr("Use this window"));
    const auto derived = windowFor(m_asked);
    // A field with a complaint stands for nothing, not for its last good figure.
    const auto edits = findChildren<QuantityEdit*>();
    const bool typed = std::none_of(edits.begin(), edits.end(), [this](const QuantityEdit* edit) {
        return edit->isVisibleTo(this) && !edit->complaint().isEmpty();
    });
    m_use->setEnabled(derived.ok() && right && typed);
    if (!derived) {
        m_derived.reset();
        m_window->setText({});
        m_assumed->setText(qs(derived.error().message()));
        return;
    }
    m_derived = derived.value();
    const Window& w = m_derived->window;
    m_window->setText(tr("%1 to %2, never above %3")
                          .arg(quantity(w.min.value(), Unit::volt),
                               quantity(w.max.value(), Unit::volt),
                               quantity(w.neverAbove->value(), Unit::volt)));
    m_assumed->setText(qs(m_derived->assumed));
}

} // namespace sipper::app
