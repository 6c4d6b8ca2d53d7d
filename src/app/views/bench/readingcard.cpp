// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/readingcard.hpp"

#include "measure/text.hpp"
#include "parts/fields.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QCheckBox>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QSettings>
#include <QVBoxLayout>
#include <set>

namespace sipper::app {
namespace {

QLabel* wrapped(const char* name, double size, bool bold, QWidget* parent) {
    auto* label = new QLabel(parent);
    label->setObjectName(QLatin1String(name));
    label->setFont(Theme::now().font(size, bold));
    label->setWordWrap(true);
    label->setTextFormat(Qt::PlainText);
    return label;
}

bool belongs(const Reading& r, const BenchCheck& c, const std::string& base) {
    return r.checks == c.kind && r.at == c.at &&
           (c.kind != CheckKind::point || r.quantity == c.quantity) &&
           (c.mode.empty() || r.mode == c.mode || (r.mode.empty() && c.mode == base));
}

} // namespace

ReadingCard::ReadingCard(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("readingCard"), tr("The marked check"));
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 8, Margins{12, 10, 12, 10});
    m_title = wrapped("reading.title", 13, true, this);
    m_where = wrapped("reading.where", 12, false, this);
    m_where->setStyleSheet(inkOf(Role::muted));
    m_expect = wrapped("reading.expect", 12.5, false, this);
    m_moves = wrapped("reading.moves", 12, false, this);
    for (QLabel* label : {m_title, m_where, m_expect, m_moves})
        column->addWidget(label);
    auto* form = new QFormLayout;
    form->setSpacing(t.ipx(6));
    m_meter = new QLineEdit(QSettings().value("bench/meter").toString(), this);
    m_meter->setObjectName(QStringLiteral("reading.meter"));
    m_meter->setPlaceholderText(tr("hand meter"));
    m_meter->setMaxLength(60);
    m_meter->setMinimumWidth(t.ipx(60));
    m_note = new QLineEdit(this);
    m_note->setObjectName(QStringLiteral("reading.note"));
    m_note->setMaxLength(200);
    m_note->setMinimumWidth(t.ipx(60));
    form->addRow(tr("Meter"), m_meter);
    form->addRow(tr("Note"), m_note);
    for (const Field<Reading>& field : fieldsOf<Reading>())
        if (field.key == "light_w_m2") {
            FieldFacts facts = field;
            facts.required = false;
            m_light = new QuantityEdit(facts, this);
        }
    m_light->setObjectName(QStringLiteral("reading.light"));
    m_light->setAccessibleName(tr("Light on the panel, W/m²"));
    m_light->setToolTip(tr("What falls on the panel while it is read, by a meter or a second, "
                           "known panel; the band is made for it"));
    m_light->setMinimumWidth(t.ipx(60));
    m_lightLabel = new QLabel(tr("Light"), this);
    form->addRow(m_lightLabel, m_light);
    column->addLayout(form);
    m_corrects = checkBox(this, "reading.corrects", tr("the next figure corrects the last one"),
                          tr("A reading is never taken out: it stays, struck through"));
    column->addWidget(m_corrects);
    auto* head = textLabel(this, tr("Readings so far"), {.size = 12, .bold = true});
    column->addWidget(head);
    m_readings = newColumn(nullptr, 4);
    column->addLayout(m_readings);
    column->addStretch();
}

QString ReadingCard::meter() const {
    return m_meter->text().trimmed();
}
QString ReadingCard::note() const {
    return m_note->text().trimmed();
}
std::optional<double> ReadingCard::light() const {
    return m_light->isHidden() ? std::nullopt : m_light->value();
}
QString ReadingCard::lightComplaint() const {
    return m_light->isHidden() ? QString() : m_light->complaint();
}
bool ReadingCard::corrects() const {
    return m_corrects->isEnabled() && m_corrects->isChecked();
}
void ReadingCard::forgetNote() {
    m_note->clear();
    m_light->setValue({});
    m_corrects->setChecked(false);
}

void ReadingCard::showLight(std::optional<double> usual) {
    m_light->setVisible(usual.has_value());
    m_lightLabel->setVisible(usual.has_value());
    if (usual)
        m_light->setPlaceholderText(tr("%1 W/m²").arg(*usual, 0, 'f', 0));
}

void ReadingCard::showNothing() {
    showLight({});
    m_title->setText(tr("Nothing to check yet"));
    m_where->setText(tr("Checks come from the supply line: cells, regulators, loads."));
    m_expect->clear();
    m_moves->hide();
    m_corrects->setEnabled(false);
    clearLayout(*m_readings);
}

void ReadingCard::show(const BenchCheck& c) {
    const Project& p = m_session.project();
    m_title->setText(qs(checkTitle(p, c)));
    m_where->setText(tr("Read %1.").arg(qs(checkWhere(p, c))));
    if (c.expect) {
        QString text = tr("Expected: %1, within %2 nineteen times in twenty.")
                           .arg(qs(checkFigure(c, *c.expect)), qs(checkBand(c)));
        if (!c.contributions.empty())
            text += tr(" Least sure: %1.").arg(qs(sourceText(p, c.contributions.front().source)));
        m_expect->setText(text);
    } else {
        m_expect->setText(tr("The supply collapses here: nothing to expect, mend that first."));
    }
    showLight(c.light);
    const QString moves = qs(contributionText(p, c));
    m_moves->setText(moves);
    m_moves->setVisible(!moves.isEmpty());
    m_moves->setStyleSheet(inkOf(Role::stop));
    m_corrects->setEnabled(c.value.has_value());
    if (!c.value)
        m_corrects->setChecked(false);
    clearLayout(*m_readings);
    std::set<std::string> gone;
    for (const Reading& r : p.readings.all())
        if (!r.supersedes.empty())
            gone.insert(r.supersedes);
    const std::string& base = p.modes[p.baseMode()].id;
    bool any = false;
    for (const Reading& r : p.readings.all()) {
        if (!belongs(r, c, base))
            continue;
        any = true;
        QString text = qs(readingFigure(c, r.value()));
        for (const std::string& more : {r.when, r.meter, r.note})
            if (!more.empty())
                text += QStringLiteral(" · ") + qs(more);
        auto* label = wrapped("reading.one", 11.5, r.id == c.reading, this);
        QFont font = label->font();
        font.setStrikeOut(gone.contains(r.id));
        label->setFont(font);
        label->setText(text);
        if (r.id != c.reading)
            label->setStyleSheet(inkOf(Role::muted));
        m_readings->addWidget(label);
    }
    if (!any)
        m_readings->addWidget(mutedLabel(tr("none yet"), this, 11.5));
}

} // namespace sipper::app
