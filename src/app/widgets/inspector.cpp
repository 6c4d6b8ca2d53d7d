// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/inspector.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include "line/sources.hpp"
#include "parts/chemistry.hpp"
#include "project/edits.hpp"
#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/madefordialog.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QSet>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

/// Shown even where the file leaves them out: what people reach for first.
const QSet<QString>& firstReached() {
    static const QSet<QString> keys{
        "set_v",          "dropout_v", "quiescent_a", "ground_a", "cutoff_v",      "reconnect_v",
        "delay_s",        "rating_a",  "speed",       "length_m", "area_mm2",      "contacts_ohm",
        "series",         "parallel",  "health",      "charge",   "max_current_a", "input_min_v",
        "switch_limit_a", "min_v",     "nominal_v",   "max_v",    "never_above_v", "current_a",
        "capacity_ah",    "critical",  "basis"};
    return keys;
}

/// Shown with all figures only: rarely touched, even where they are set.
const QSet<QString>& seldomTouched() {
    static const QSet<QString> keys{"price",
                                    "mass_g",
                                    "thermal_c_per_w",
                                    "max_part_c",
                                    "rating_v",
                                    "skip_below_a",
                                    "max_duty",
                                    "origin",
                                    "holder",
                                    "top",
                                    "protected",
                                    "fan",
                                    "adjustable",
                                    "holds_when_above",
                                    "set_tolerance",
                                    "threshold_tolerance",
                                    "resistance_factor"};
    return keys;
}

constexpr int kRowsMargin = 15; ///< px above and below the rows
constexpr int kRowHeight = 49;  ///< px of a row: words, a field, and the gap to the next

QWidget* labelled(const QString& name, QWidget* field, double width) {
    auto* box = new QWidget;
    auto* column = newColumn(box, 2, Margins{});
    QLabel* label = mutedLabel(name, box);
    label->setBuddy(field);
    column->addWidget(label);
    column->addWidget(field);
    box->setFixedWidth(Theme::now().ipx(width));
    return box;
}

} // namespace

int Inspector::heightOf(int rows) {
    return Theme::now().ipx(kRowsMargin) + rows * Theme::now().ipx(kRowHeight);
}

int Inspector::cautionHeight() const {
    if (m_caution->isHidden())
        return 0;
    // Before it was laid out once: what will be beside the title's column.
    constexpr double kRight = 0.75;
    const int wide = std::max(m_caution->width(), static_cast<int>(kRight * width()));
    return m_caution->heightForWidth(wide) + Theme::now().ipx(4);
}

Inspector::Inspector(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("inspector"), tr("Figures of the chosen part"));
    const Theme& theme = Theme::now();
    auto* row = newRow(this, 12, Margins{12, 8, 8, 6});
    auto* left = newColumn(nullptr, 3);
    m_title = new QLabel(this);
    m_title->setFont(theme.font(14, true));
    m_title->setObjectName(QStringLiteral("inspector.title"));
    m_title->setWordWrap(true);
    m_kind = mutedLabel({}, this);
    m_kind->setWordWrap(true);
    m_all = checkBox(this, "inspector.all", tr("all figures"));
    m_all->setFont(theme.font(11));
    m_all->setToolTip(tr("Show every figure of this part, also those left out"));
    connect(m_all, &QCheckBox::toggled, this, &Inspector::rebuild);
    left->addWidget(m_title);
    left->addWidget(m_kind);
    left->addStretch();
    left->addWidget(m_all);
    auto* leftBox = new QWidget(this);
    leftBox->setLayout(left);
    left->setContentsMargins(0, 0, 0, 0);
    leftBox->setFixedWidth(theme.ipx(126));
    row->addWidget(leftBox);

    auto* right = newColumn(nullptr, 2);
    auto* scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    m_fields = new QWidget;
    m_fields->setStyleSheet(QStringLiteral(".QWidget { background: transparent; }"));
    scroll->setWidget(m_fields);
    scroll->setStyleSheet(QStringLiteral("QScrollArea { background: transparent; }"));
    scroll->viewport()->setAutoFillBackground(false);
    right->addWidget(scroll, 1);
    m_complaint = complaintLabel(QStringLiteral("inspector.complaint"), this);
    right->addWidget(m_complaint);
    m_caution = mutedLabel({}, this);
    m_caution->setWordWrap(true);
    right->addWidget(m_caution);
    row->addLayout(right, 1);

    new Refresher(this, session,
                  {&Session::selectionChanged, &Session::projectChanged, &Session::momentChanged},
                  [this] { signature() == m_signature ? refresh() : rebuild(); });
    rebuild();
}

QString Inspector::signature() const {
    const Project& p = m_session.project();
    const std::string id = m_session.selected().toStdString();
    QString text = m_session.selected() + (m_all->isChecked() ? "+" : "");
    if (const Stage* s = p.stage(id))
        return text + qs(kindName(s->part));
    if (p.load(id))
        return text + QStringLiteral("@%1").arg(m_session.mode());
    return QStringLiteral("-");
}

bool Inspector::wanted(const Row& row) const {
    if (m_all->isChecked() || row.primary ||
        (row.facts.required && !row.key.startsWith("field.cell.")))
        return true;
    return !seldomTouched().contains(qs(row.facts.key)) && !row.key.startsWith("field.cell.") &&
           !std::holds_alternative<std::monostate>(row.get(m_session.project()));
}

void Inspector::rebuild() {
    m_signature = signature();
    m_rows.clear();
    m_editors.clear();
    m_facts.clear();
    m_complaint->hide();
    // A change of focus or a signal may still be on its way to an editor: it goes later.
    if (QLayout* old = m_fields->layout()) {
        clearLayout(*old);
        delete old;
    }
    new FlowLayout(m_fields, Theme::now().ipx(10), Theme::now().ipx(6));
    const Project& p = m_session.project();
    const std::string id = m_session.selected().toStdString();
    const Stage* stage = p.stage(id);
    const Load* load = p.load(id);
    m_all->setVisible(stage || load);
    if (stage)
        fillStage(*stage);
    else if (load)
        fillLoad(*load);
    if (!stage && !load) {
        m_title->setText(tr("Nothing chosen"));
        m_kind->setText(tr("Click a part of the line, or walk it with the arrow keys."));
        m_caution->hide();
    }
    refresh();
}

void Inspector::fillStage(const Stage& stage) {
    const std::string id = stage.id;
    const auto add = [&](FieldFacts facts, const std::function<FieldValue(const Stage&)>& get,
                         const std::function<void(Stage&, const FieldValue&)>& set,
                         const QString& prefix) {
        Row row;
        row.key = QStringLiteral("field.") + prefix + qs(facts.key);
        row.primary = firstReached().contains(qs(facts.key)) &&
                      (prefix.isEmpty() || facts.key == "capacity_ah");
        row.get = [id, get](const Project& p) -> FieldValue {
            const Stage* s = p.stage(id);
            return s ? get(*s) : FieldValue{};
        };
        row.set = [id, set](Project& p, const FieldValue& v) {
            if (Stage* s = p.stage(id))
                set(*s, v);
        };
        row.facts = std::move(facts);
        m_rows.push_back(std::move(row));
    };
    addFact("state", tr("Now"));
    addFact("flow", tr("In → out"));
    addFact("loss", tr("Heat now"));
    if (std::holds_alternative<Pack>(stage.part))
        addFact("sums", tr("Together"));
    if (thetaOf(stage.part) > 0)
        addFact("part", tr("Part now"));
    for (const FieldFacts& facts : factsOf(stage.part))
        add(
            facts, [key = facts.key](const Stage& s) { return valueOf(s.part, key); },
            [key = facts.key](Stage& s, const FieldValue& v) {
                static_cast<void>(setValue(s.part, key, v));
            },
            "");
    if (std::holds_alternative<Pack>(stage.part))
        for (const Field<Cell>& f : fieldsOf<Cell>()) {
            if (f.kind == FieldKind::text)
                continue;
            add(
                f, [get = f.get](const Stage& s) { return get(std::get<Pack>(s.part).cell); },
                [set = f.set](Stage& s, const FieldValue& v) {
                    set(std::get<Pack>(s.part).cell, v);
                },
                "cell.");
        }
    // How sure a figure is, only where there is such a figure.
    const auto has = [&](std::string_view key) {
        const Part& part = m_session.project().stage(id)->part;
        return key == "basis"                 ? isRegulator(part) || isCharger(part) || isPack(part)
               : key == "set_tolerance"       ? isRegulator(part) || isCharger(part)
               : key == "threshold_tolerance" ? std::holds_alternative<Guard>(part)
                                              : true;
    };
    for (const Field<Stage>& f : fieldsOf<Stage>())
        if (has(f.key))
            add(f, f.get, f.set, f.key == "basis" ? "losses." : "");
    for (const Row& row : m_rows)
        if (wanted(row))
            addEditor(row);
}

void Inspector::fillLoad(const Load& load) {
    const std::string id = load.id;
    const std::size_t mode = m_session.mode();
    const auto add = [&](FieldFacts facts,
                         const std::function<FieldValue(const Load&, const Project&)>& get,
                         const std::function<void(Load&, const Project&, const FieldValue&)>& set) {
        Row row;
        row.key = QStringLiteral("field.") + qs(facts.key);
        row.primary = firstReached().contains(qs(facts.key));
        row.get = [id, get](const Project& p) -> FieldValue {
            const Load* l = p.load(id);
            return l ? get(*l, p) : FieldValue{};
        };
        row.set = [id, set](Project& p, const FieldValue& v) {
            const Project before = p;
            if (Load* l = p.load(id))
                set(*l, before, v);
        };
        row.facts = std::move(facts);
        m_rows.push_back(std::move(row));
    };
    addFact("state", tr("Now"));
    addFact("flow", tr("Sees"));
    for (const Field<Window>& f : fieldsOf<Window>())
        add(
            f, [get = f.get](const Load& l, const Project&) { return get(l.window); },
            [set = f.set](Load& l, const Project&, const FieldValue& v) { set(l.window, v); });
    const std::size_t windowRows = m_rows.size();
    for (const Field<Draw>& f : fieldsOf<Draw>()) {
        const bool isDraw =
            f.key == "current_a" || f.key == "power_w" || f.key == "load_ohm" || f.key == "led_a";
        const bool isBurst = f.key == "burst_a" || f.key == "burst_ohm";
        FieldFacts facts = f;
        if (isDraw)
            facts.required = false;
        add(
            facts,
            [get = f.get, mode](const Load& l, const Project& p) {
                const Draw* d = drawIn(p, l, mode);
                return d ? get(*d) : FieldValue{};
            },
            [set = f.set, isDraw, isBurst, mode](Load& l, const Project& p, const FieldValue& v) {
                Draw& d = ownDrawIn(p, l, mode);
                if (isDraw && !std::holds_alternative<std::monostate>(v)) {
                    d.current.reset(); // exactly one of the four
                    d.power.reset();
                    d.resistance.reset();
                    d.led.reset();
                }
                if (isBurst && !std::holds_alternative<std::monostate>(v)) {
                    d.burst.reset(); // one of the two
                    d.burstOhms.reset();
                }
                if (!isDraw || !std::holds_alternative<std::monostate>(v))
                    set(d, v);
            });
    }
    for (const Field<Load>& f : fieldsOf<Load>())
        add(
            f, [get = f.get](const Load& l, const Project&) { return get(l); },
            [set = f.set](Load& l, const Project&, const FieldValue& v) { set(l, v); });
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
        if (i == windowRows)
            addDerive(id);
        if (wanted(m_rows[i]))
            addEditor(m_rows[i]);
    }
}

/// For people who know what the load was made for, but not its window.
void Inspector::addDerive(const std::string& id) {
    auto* button = pushButton(this, "window.derive", tr("Derive…"));
    button->setAccessibleName(tr("Derive the window"));
    button->setToolTip(tr("Derive the window from what the load was made for (an adapter, cells, a "
                          "socket), and the draw from a run that is known"));
    connect(button, &QPushButton::clicked, this, [this, id] {
        const Load* load = m_session.project().load(id);
        if (!load)
            return;
        std::vector<std::pair<QString, QString>> modes;
        const Project& project = m_session.project();
        for (const Mode& mode : project.modes)
            modes.emplace_back(qs(mode.id), qs(nameOf(mode)));
        std::swap(modes.front(), modes[project.baseMode()]);
        MadeForDialog dialog(qs(nameOf(*load)), modes, this);
        if (dialog.exec() != QDialog::Accepted || !dialog.derived())
            return;
        Project after = m_session.project();
        Load& changed = *after.load(id);
        Window window = dialog.derived()->window;
        window.extras = changed.window.extras;
        changed.window = window;
        if (dialog.draw())
            changed = withKnownRun(std::move(changed), dialog.mode().toStdString(), *dialog.draw(),
                                   dialog.byPower());
        const QString name =
            (dialog.draw() ? tr("%1: window and draw derived") : tr("%1: window derived"))
                .arg(qs(nameOf(changed)));
        if (const auto trouble = m_session.edit(name, std::move(after)))
            complain(*m_complaint, qs(trouble->message()));
    });
    m_fields->layout()->addWidget(labelled(tr("Not known?"), button, 92));
}

void Inspector::addFact(const QString& name, const QString& text) {
    auto* value = new QLabel;
    value->setObjectName("fact." + name);
    value->setFont(Theme::now().font(12, true));
    value->setMinimumHeight(Theme::now().ipx(24));
    m_facts.insert(name, value);
    m_fields->layout()->addWidget(labelled(text, value,
                                           name == "flow"   ? 118
                                           : name == "sums" ? 200
                                                            : 84));
}

void Inspector::addEditor(const Row& row) {
    QWidget* editor = nullptr;
    const std::size_t index = static_cast<std::size_t>(&row - m_rows.data());
    switch (row.facts.kind) {
    case FieldKind::number: {
        auto* edit = new QuantityEdit(row.facts);
        connect(edit, &QuantityEdit::committed, this, [this, index](std::optional<double> v) {
            apply(m_rows[index], v ? FieldValue{*v} : FieldValue{});
        });
        connect(edit, &QuantityEdit::complained, this, [this](const QString& text) {
            m_complaint->setText(text);
            m_complaint->setVisible(!text.isEmpty());
        });
        editor = edit;
        break;
    }
    case FieldKind::flag: {
        auto* box = new QCheckBox(tr("yes"));
        connect(box, &QCheckBox::clicked, this,
                [this, index](bool on) { apply(m_rows[index], on); });
        editor = box;
        break;
    }
    case FieldKind::choice: {
        auto* box = new PlainCombo;
        box->addItem(QStringLiteral("–"));
        for (const std::string_view name : row.facts.names)
            box->addItem(qs(name).replace('_', ' '), qs(name));
        connect(box, &QComboBox::activated, this, [this, index, box](int at) {
            apply(m_rows[index],
                  at == 0 ? FieldValue{} : FieldValue{box->itemData(at).toString().toStdString()});
        });
        editor = box;
        break;
    }
    case FieldKind::text:
        return;
    case FieldKind::names: {
        auto* edit = new QLineEdit;
        edit->setPlaceholderText(tr("any"));
        connect(edit, &QLineEdit::editingFinished, this, [this, index, edit] {
            const QString text = edit->text().trimmed();
            apply(m_rows[index], text.isEmpty() ? FieldValue{} : FieldValue{text.toStdString()});
        });
        editor = edit;
        break;
    }
    }
    editor->setObjectName(row.key);
    editor->setAccessibleName(qs(row.facts.label));
    if (editor->toolTip().isEmpty())
        editor->setToolTip(qs(row.facts.help));
    m_editors.insert(row.key, editor);
    m_fields->layout()->addWidget(
        labelled(qs(row.facts.label), editor, row.facts.kind == FieldKind::choice ? 128 : 100));
}

void Inspector::apply(const Row& row, const FieldValue& value) {
    Project after = m_session.project();
    row.set(after, value);
    const QString what = qs(row.facts.label).toLower();
    QString text;
    if (const double* figure = std::get_if<double>(&value))
        text = tr("%1: %2 %3").arg(m_title->text(), what, qs(writeExact(*figure, row.facts.unit)));
    else
        text = tr("%1: %2").arg(m_title->text(), what);
    if (const auto trouble = m_session.edit(text, std::move(after))) {
        complain(*m_complaint, qs(trouble->message()));
        refresh();
        return;
    }
    m_complaint->hide();
}

} // namespace sipper::app
