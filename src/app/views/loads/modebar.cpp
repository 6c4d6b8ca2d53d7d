// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/loads/modebar.hpp"
#include "project/tree.hpp"

#include "project/edits.hpp"
#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

FieldFacts factsOf(std::string_view key) {
    for (const Field<Mode>& f : fieldsOf<Mode>())
        if (f.key == key) {
            FieldFacts facts = f;
            facts.required = true;
            return facts;
        }
    return {};
}

constexpr double kFirstSeconds = 1;
constexpr double kFirstPeriod = 60;

} // namespace

ModeBar::ModeBar(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("modeBar"), tr("Times of the mode shown"));
    auto* column = newColumn(this, 2, Margins{12, 6, 12, 6});
    auto* row = newRow(nullptr, 6);
    buildFields(row);
    row->addStretch();
    buildButtons(row);
    column->addLayout(row);
    m_complaint = complaintLabel(QStringLiteral("mode.complaint"), this);
    column->addWidget(m_complaint);

    listen();
    new Refresher(this, session, {&Session::projectChanged}, [this] { refresh(); });
    new Refresher(this, session, {&Session::momentChanged}, [this] {
        ask({});
        refresh();
    });
    refresh();
}

void ModeBar::buildFields(QHBoxLayout* row) {
    const Theme& t = Theme::now();
    const auto label = [&](const QString& text) { return mutedLabel(text, this, 12); };
    row->addWidget(label(tr("Mode")));
    m_name = new QLineEdit(this);
    m_name->setObjectName(QStringLiteral("mode.name"));
    m_name->setAccessibleName(tr("Name of the mode"));
    m_name->setToolTip(tr("What the mode is called"));
    m_name->setFixedWidth(t.ipx(120));
    row->addWidget(m_name);
    m_kind = choiceField(this, "mode.kind", tr("Kind of the mode"),
                         tr("The base mode fills what the others leave"));
    row->addWidget(m_kind);
    m_lastsLabel = label(tr("lasts"));
    m_lasts = quantityField(this, "mode.lasts", factsOf("duration_s"), 72);
    m_everyLabel = label(tr("every"));
    m_every = quantityField(this, "mode.every", factsOf("every_s"), 72);
    m_withinLabel = label(tr("within"));
    m_within = choiceField(this, "mode.within", tr("Within which daily mode"),
                           tr("Always, or only while a daily mode runs"));
    m_windowsLabel = label(tr("from–to"));
    m_windows = new QLineEdit(this);
    m_windows->setObjectName(QStringLiteral("mode.windows"));
    m_windows->setAccessibleName(tr("Daily windows"));
    m_windows->setToolTip(tr("Times such as 21:00-01:00, several with a comma between"));
    m_windows->setMinimumWidth(t.ipx(130));
    for (QWidget* w :
         std::initializer_list<QWidget*>{m_lastsLabel, m_lasts, m_everyLabel, m_every,
                                         m_withinLabel, m_within, m_windowsLabel, m_windows})
        row->addWidget(w);
}

void ModeBar::buildButtons(QHBoxLayout* row) {
    const auto mover = [&](const QString& text, const char* name, const QString& about, int by) {
        auto* b = new QToolButton(this);
        b->setText(text);
        b->setObjectName(QLatin1String(name));
        b->setAccessibleName(about);
        b->setToolTip(about);
        b->setAutoRaise(true);
        b->setFocusPolicy(Qt::TabFocus);
        connect(b, &QToolButton::clicked, this, [this, about, by] { move(about, by); });
        row->addWidget(b);
        return b;
    };
    m_earlier = mover(QStringLiteral("←"), "mode.earlier", tr("Move the mode to the left"), -1);
    m_later = mover(QStringLiteral("→"), "mode.later", tr("Move the mode to the right"), 1);
    m_remove =
        pushButton(this, "mode.remove", tr("Take out"), tr("Take the mode out, with its draws"));
    row->addWidget(m_remove);
}

void ModeBar::listen() {
    connect(m_name, &QLineEdit::editingFinished, this, [this] {
        const std::string text = m_name->text().trimmed().toStdString();
        if (!text.empty() && text != nameOf(m_session.project().modes[m_session.mode()]))
            commit(tr("rename a mode to %1").arg(qs(text)), [text](Mode& m) { m.label = text; });
    });
    connect(m_kind, &QComboBox::activated, this, &ModeBar::takeKind);
    const auto timeEdit = [this](QuantityEdit* edit, const QString& name,
                                 std::optional<Seconds> Mode::*member) {
        connect(edit, &QuantityEdit::committed, this,
                [this, name, member](std::optional<double> v) {
                    if (v)
                        commit(name.arg(quantity(*v, Unit::second)),
                               [member, v](Mode& m) { m.*member = Seconds{*v}; });
                });
        connect(edit, &QuantityEdit::complained, this, &ModeBar::ask);
    };
    timeEdit(m_lasts, tr("mode lasts %1"), &Mode::duration);
    timeEdit(m_every, tr("mode comes every %1"), &Mode::every);
    connect(m_windows, &QLineEdit::editingFinished, this, &ModeBar::takeWindows);
    connect(m_within, &QComboBox::activated, this, [this] {
        const std::string id = m_within->currentData().toString().toStdString();
        commit(tr("mode runs within %1").arg(m_within->currentText()),
               [id](Mode& m) { m.within = id; });
    });
    connect(m_remove, &QPushButton::clicked, this, [this] {
        const Mode& m = m_session.project().modes[m_session.mode()];
        const std::string id = m.id;
        m_session.apply(tr("take out mode %1").arg(qs(nameOf(m))),
                        withoutMode(m_session.project(), id));
    });
}

void ModeBar::takeKind() {
    const QString kind = m_kind->currentData().toString();
    commit(tr("mode runs %1").arg(m_kind->currentText()), [kind](Mode& m) {
        if (m.isBase())
            return;
        m.daily.clear();
        m.duration.reset();
        m.every.reset();
        if (kind == "daily") {
            m.daily = {{"18:00", "19:00"}};
            m.within.clear();
        } else {
            m.duration = Seconds{kFirstSeconds};
            m.every = Seconds{kFirstPeriod};
        }
    });
}

void ModeBar::takeWindows() {
    if (m_windows->text() == qs(windowsText(m_session.project().modes[m_session.mode()])))
        return;
    const auto windows = readWindows(m_windows->text().toStdString());
    if (!windows) {
        ask(qs(windows.error().message()));
        return;
    }
    commit(tr("mode runs %1").arg(m_windows->text()), [&](Mode& m) { m.daily = windows.value(); });
}

void ModeBar::enter() {
    m_name->setFocus(Qt::OtherFocusReason);
    m_name->selectAll();
}

void ModeBar::move(const QString& name, int by) {
    const std::string id = m_session.project().modes[m_session.mode()].id;
    Project after = withModeMoved(m_session.project(), id, by);
    const auto at = modeIndex(after, id);
    if (const auto trouble = m_session.edit(name, std::move(after))) {
        ask(qs(trouble->message()));
        return;
    }
    m_session.setDisplayedPoint(m_session.charge(), at); // it stays the one shown
}

void ModeBar::ask(const QString& complaint) {
    complain(*m_complaint, complaint);
}

/// An impossible share is refused here, with the mode that overflows; the document stays.
void ModeBar::commit(const QString& name, const std::function<void(Mode&)>& change) {
    Project after = m_session.project();
    change(after.modes[m_session.mode()]);
    if (const auto trouble = m_session.edit(name, std::move(after))) {
        ask(qs(trouble->message()));
        refresh();
        return;
    }
    ask({});
}

void ModeBar::refresh() {
    const Project& p = m_session.project();
    const Mode& m = p.modes[m_session.mode()];
    if (!m_name->hasFocus())
        m_name->setText(qs(nameOf(m)));
    m_kind->clear();
    if (m.isBase()) {
        m_kind->addItem(tr("the rest of the time"), QStringLiteral("base"));
    } else {
        m_kind->addItem(tr("again and again"), QStringLiteral("repeats"));
        m_kind->addItem(tr("at hours of the day"), QStringLiteral("daily"));
        m_kind->setCurrentIndex(m.isWindowed() ? 1 : 0);
    }
    m_kind->setEnabled(!m.isBase());
    for (QWidget* w : std::initializer_list<QWidget*>{m_lastsLabel, m_lasts, m_everyLabel, m_every})
        w->setVisible(m.repeats());
    if (m.repeats()) {
        m_lasts->setValue(m.duration->value());
        m_every->setValue(m.every->value());
    }
    m_within->clear();
    m_within->addItem(tr("the whole day"), QString());
    for (const Mode& outer : p.modes)
        if (outer.isWindowed())
            m_within->addItem(qs(nameOf(outer)), qs(outer.id));
    m_within->setCurrentIndex(std::max(0, m_within->findData(qs(m.within))));
    for (QWidget* w : std::initializer_list<QWidget*>{m_withinLabel, m_within})
        w->setVisible(m.repeats() && m_within->count() > 1);
    for (QWidget* w : std::initializer_list<QWidget*>{m_windowsLabel, m_windows})
        w->setVisible(m.isWindowed());
    if (m.isWindowed() && !m_windows->hasFocus())
        m_windows->setText(qs(windowsText(m)));
    m_remove->setVisible(!m.isBase());
    m_earlier->setEnabled(m_session.mode() > 0);
    m_later->setEnabled(m_session.mode() + 1 < p.modes.size());
}

} // namespace sipper::app
