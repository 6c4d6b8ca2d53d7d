// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/brief/briefview.hpp"

#include "parts/fields.hpp"
#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QScrollArea>
#include <QToolButton>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

const QStringList kRefills{QStringLiteral("swap"), QStringLiteral("socket"),
                           QStringLiteral("adapter"), QStringLiteral("vehicle"),
                           QStringLiteral("sun")};

bool isAmbient(const QString& key) {
    return key == "low" || key == "typical" || key == "high";
}

FieldFacts factsOf(const QString& key) {
    if (isAmbient(key))
        for (const Field<Ambient>& f : fieldsOf<Ambient>())
            if (key == qs(f.key))
                return f;
    for (const Field<Brief>& f : fieldsOf<Brief>())
        if (key == qs(f.key))
            return f;
    return {};
}

FieldValue valueIn(const Brief& brief, const QString& key) {
    if (isAmbient(key)) {
        const Ambient air = brief.air();
        for (const Field<Ambient>& f : fieldsOf<Ambient>())
            if (key == qs(f.key))
                return f.get(air);
    }
    for (const Field<Brief>& f : fieldsOf<Brief>())
        if (key == qs(f.key))
            return f.get(brief);
    return {};
}

void setIn(Brief& brief, const QString& key, const FieldValue& value) {
    if (isAmbient(key)) {
        Ambient air = brief.air();
        for (const Field<Ambient>& f : fieldsOf<Ambient>())
            if (key == qs(f.key))
                f.set(air, value);
        brief.ambient = air;
        return;
    }
    for (const Field<Brief>& f : fieldsOf<Brief>())
        if (key == qs(f.key))
            f.set(brief, value);
}

/// Coldest, usual and warmest stay in this order: a change pushes its neighbours along.
void keepOrder(Brief& brief, const QString& moved) {
    if (!isAmbient(moved))
        return;
    Ambient air = brief.air();
    const Celsius usual = air.usual();
    if (moved == "low" && air.low && *air.low > usual)
        air.typical = air.low;
    if (moved == "high" && air.high && *air.high < usual)
        air.typical = air.high;
    if (air.low && *air.low > air.usual())
        air.low = air.usual();
    if (air.high && *air.high < air.usual())
        air.high = air.usual();
    brief.ambient = air;
}

QString flat() {
    return QStringLiteral("QLineEdit { border: none; border-bottom: 2px solid %1; border-radius: "
                          "0; background: transparent; padding: 1px 4px; font-weight: bold; }"
                          "QLineEdit:focus { background: %2; }"
                          "QLineEdit[wrong=\"true\"] { border-bottom: 2px solid %3; }")
        .arg(colour(Role::copper).name(), colour(Role::field).name(), colour(Role::stop).name());
}

} // namespace

BriefView::BriefView(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("brief"));
    auto* column = newColumn(this, 8, Margins{16, 8, 16, 12});
    column->addLayout(
        viewTitle(this, tr("Brief"), tr("what it is for; click a value to change it")));
    auto* halves = newRow(nullptr, 14);
    column->addLayout(halves, 1);

    auto* page = new QWidget(this);
    auto* lines = newColumn(page, 14, Margins{8, 10, 8, 0});
    buildName(page);
    lines->addWidget(m_name);

    sayWhere(page, lines);
    sayHowLong(page, lines);
    sayCare(page, lines);
    sayNoise(page, lines);
    sayLimits(page, lines);
    m_complaint = complaintLabel(QStringLiteral("brief.complaint"), page);
    lines->addWidget(m_complaint);
    lines->addStretch();
    halves->addWidget(page, 5);

    halves->addWidget(buildFollows(), 4);

    new Refresher(this, session, {&Session::projectChanged}, [this] { refresh(); });
    new Refresher(this, session, {&Session::resultsUpdated}, [this] { follow(); });
    refresh();
    follow();
}

void BriefView::buildName(QWidget* page) {
    m_name = new QLineEdit(page);
    m_name->setObjectName(QStringLiteral("brief.name"));
    m_name->setAccessibleName(tr("Name of the project"));
    m_name->setToolTip(tr("What the project is called"));
    m_name->setFont(Theme::now().font(20, true));
    m_name->setStyleSheet(flat());
    connect(m_name, &QLineEdit::editingFinished, this, [this] {
        Project after = m_session.project();
        after.name = m_name->text().trimmed().toStdString();
        const QString name = tr("name the project %1").arg(m_name->text().trimmed());
        m_session.apply(name, std::move(after));
    });
}

void BriefView::sayWhere(QWidget* page, QVBoxLayout* lines) {
    QLayout* line = sentence(page);
    words(line, tr("It lives"));
    choice(line, "setting");
    words(line, tr("in air of"));
    figure(line, "low", 74);
    words(line, tr("to"));
    figure(line, "high", 74);
    words(line, tr("mostly"));
    figure(line, "typical", 74);
    words(line, tr("at latitude"));
    figure(line, "latitude_deg", 70);
    lines->addLayout(line);
}

void BriefView::buildStart(QWidget* page) {
    const Theme& t = Theme::now();
    m_start = new QLineEdit(page);
    m_start->setObjectName(QStringLiteral("brief.start_time"));
    m_start->setAccessibleName(tr("Start time"));
    m_start->setToolTip(tr("Clock time at which a run starts, such as 18:00"));
    m_start->setFixedWidth(t.ipx(62));
    m_start->setFont(t.font(14));
    m_start->setStyleSheet(flat());
    connect(m_start, &QLineEdit::editingFinished, this, [this] {
        const std::string text = m_start->text().trimmed().toStdString();
        if (text == m_session.project().brief.startTime.value_or("00:00"))
            return;
        if (!clockMinutes(text)) {
            complain(tr("found \"%1\", expected a time from 00:00 to 24:00").arg(m_start->text()));
            return;
        }
        commit(tr("start at %1").arg(qs(text)), [text](Brief& b) { b.startTime = text; });
    });
}

void BriefView::buildRefills() {
    QMenu* menu = m_refills->menu();
    for (const QString& way : kRefills) {
        QAction* action = menu->addAction(way);
        action->setObjectName("refill." + way);
        action->setCheckable(true);
        connect(action, &QAction::triggered, this, [this, way](bool on) {
            commit(tr("refilled by %1").arg(way), [&](Brief& b) {
                std::vector<std::string> ways = b.refilledBy.value_or(std::vector<std::string>{});
                std::erase(ways, way.toStdString());
                if (on)
                    ways.push_back(way.toStdString());
                b.refilledBy = ways;
            });
        });
    }
}

void BriefView::sayHowLong(QWidget* page, QVBoxLayout* lines) {
    QLayout* line = sentence(page);
    words(line, tr("It must run"));
    figure(line, "target_runtime_h", 84);
    words(line, tr("between refills, starting at"));
    buildStart(page);
    line->addWidget(m_start);
    words(line, tr("and is refilled by"));
    m_refills = ticks(page, "brief.refilled_by", tr("Refilled by"),
                      tr("How the cells get their charge back"));
    buildRefills();
    line->addWidget(m_refills);
    lines->addLayout(line);
}

void BriefView::sayCare(QWidget* page, QVBoxLayout* lines) {
    QLayout* line = sentence(page);
    words(line, tr("Its cells are treated the"));
    choice(line, "cell_care");
    words(line, tr("way, a source is rated"));
    figure(line, "headroom", 56);
    words(line, tr("times the worst draw, and it may lie unused for"));
    figure(line, "shelf_months", 56);
    words(line, tr("months."));
    lines->addLayout(line);
}

void BriefView::sayNoise(QWidget* page, QVBoxLayout* lines) {
    QLayout* line = sentence(page);
    words(line, tr("Switching noise matters to"));
    m_noise = ticks(page, "brief.noise", tr("Noise matters to"),
                    tr("Loads that a switching regulator near them would disturb"));
    // The loads come and go: the menu is made when it opens.
    connect(m_noise->menu(), &QMenu::aboutToShow, this, &BriefView::fillNoise);
    line->addWidget(m_noise);
    lines->addLayout(line);
}

void BriefView::sayLimits(QWidget* page, QVBoxLayout* lines) {
    QLayout* line = sentence(page);
    words(line, tr("The supply may weigh"));
    figure(line, "weight_limit_g", 84);
    words(line, tr("and cost"));
    figure(line, "price_limit", 70);
    words(line, tr("at most; empty means no limit."));
    lines->addLayout(line);
}

QWidget* BriefView::buildFollows() {
    auto* scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_follows = new QWidget;
    m_followsColumn = newColumn(m_follows, 8, Margins{0, 0, 4, 0});
    m_followsColumn->addStretch();
    scroll->setWidget(m_follows);
    return scroll;
}

QLayout* BriefView::sentence(QWidget*) {
    return new FlowLayout(nullptr, Theme::now().ipx(6), Theme::now().ipx(8));
}

void BriefView::words(QLayout* line, const QString& text) {
    // Word by word, so that a sentence wraps like one.
    for (const QString& word : text.split(' ')) {
        auto* label = textLabel(nullptr, word, {.size = 14});
        label->setMinimumHeight(Theme::now().ipx(26));
        line->addWidget(label);
    }
}

QuantityEdit* BriefView::figure(QLayout* line, const char* key, double width) {
    const QString name = QString::fromLatin1(key);
    auto* edit = new QuantityEdit(factsOf(name));
    edit->setObjectName("brief." + name);
    edit->setFont(Theme::now().font(14));
    edit->setFixedWidth(Theme::now().ipx(width));
    edit->setStyleSheet(flat());
    edit->setAlignment(Qt::AlignHCenter);
    connect(edit, &QuantityEdit::committed, this, [this, name](std::optional<double> v) {
        const FieldFacts facts = factsOf(name);
        const QString text = v ? qs(writeExact(*v, facts.unit)) : tr("none");
        commit(tr("%1: %2").arg(qs(facts.label).toLower(), text), [&](Brief& b) {
            setIn(b, name, v ? FieldValue{*v} : FieldValue{});
            keepOrder(b, name);
        });
    });
    connect(edit, &QuantityEdit::complained, this, &BriefView::complain);
    m_figures.insert(name, edit);
    line->addWidget(edit);
    return edit;
}

QComboBox* BriefView::choice(QLayout* line, const char* key) {
    const QString name = QString::fromLatin1(key);
    const FieldFacts facts = factsOf(name);
    auto* box = new PlainCombo;
    box->setObjectName("brief." + name);
    box->setAccessibleName(qs(facts.label));
    box->setToolTip(qs(facts.help));
    box->setFont(Theme::now().font(14, true));
    box->addItem(QStringLiteral("…"));
    for (const std::string_view value : facts.names)
        box->addItem(qs(value), qs(value));
    connect(box, &QComboBox::activated, this, [this, name, box](int at) {
        const FieldValue value =
            at == 0 ? FieldValue{} : FieldValue{box->itemData(at).toString().toStdString()};
        commit(tr("%1: %2").arg(qs(factsOf(name).label).toLower(), box->itemText(at)),
               [&](Brief& b) { setIn(b, name, value); });
    });
    m_choices.insert(name, box);
    line->addWidget(box);
    return box;
}

void BriefView::commit(const QString& name, const std::function<void(Brief&)>& change) {
    Project after = m_session.project();
    change(after.brief);
    take(name, std::move(after));
}

void BriefView::take(const QString& name, Project after) {
    const auto trouble = m_session.edit(name, std::move(after));
    complain(trouble ? qs(trouble->message()) : QString());
}

void BriefView::complain(const QString& text) {
    sipper::app::complain(*m_complaint, text);
}

void BriefView::refresh() {
    const Brief& brief = m_session.project().brief;
    if (!m_name->hasFocus())
        m_name->setText(qs(m_session.project().name));
    for (auto at = m_figures.begin(); at != m_figures.end(); ++at) {
        const FieldValue value = valueIn(brief, at.key());
        const double* figure = std::get_if<double>(&value);
        at.value()->setValue(figure ? std::optional(*figure) : std::nullopt);
    }
    for (auto at = m_choices.begin(); at != m_choices.end(); ++at) {
        const FieldValue value = valueIn(brief, at.key());
        const std::string* text = std::get_if<std::string>(&value);
        at.value()->setCurrentIndex(text ? std::max(0, at.value()->findData(qs(*text))) : 0);
    }
    if (!m_start->hasFocus())
        m_start->setText(qs(brief.startTime.value_or("00:00")));
    QStringList ways;
    for (const std::string& way : brief.refilledBy.value_or(std::vector<std::string>{}))
        ways << qs(way);
    m_refills->setText(ways.isEmpty() ? QStringLiteral("…") : ways.join(tr(" and ")));
    for (QAction* action : m_refills->menu()->actions())
        action->setChecked(ways.contains(action->text()));
    QStringList bothered;
    for (const Load& load : m_session.project().loads)
        if (load.noiseSensitive.value_or(false))
            bothered << qs(nameOf(load));
    m_noise->setText(bothered.isEmpty() ? tr("nothing here") : bothered.join(tr(" and ")));
}

/// A value of the page that is a few ticks in a menu.
QToolButton* BriefView::ticks(QWidget* page, const char* name, const QString& about,
                              const QString& help) {
    auto* button = new QToolButton(page);
    button->setObjectName(QLatin1String(name));
    button->setAccessibleName(about);
    button->setToolTip(help);
    button->setPopupMode(QToolButton::InstantPopup);
    button->setFont(Theme::now().font(14, true));
    button->setFocusPolicy(Qt::StrongFocus);
    button->setStyleSheet(
        QStringLiteral(
            "QToolButton { border: none; border-bottom: 2px solid %1; background: transparent; "
            "padding: 2px 6px; } QToolButton::menu-indicator { image: none; }")
            .arg(colour(Role::copper).name()));
    button->setMenu(new QMenu(button));
    return button;
}

void BriefView::fillNoise() {
    QMenu* menu = m_noise->menu();
    menu->clear();
    for (const Load& load : m_session.project().loads) {
        QAction* action = menu->addAction(qs(nameOf(load)));
        action->setObjectName("noise." + qs(load.id));
        action->setCheckable(true);
        action->setChecked(load.noiseSensitive.value_or(false));
        connect(action, &QAction::triggered, this, [this, id = load.id](bool on) {
            Project after = m_session.project();
            Load* changed = after.load(id);
            if (!changed)
                return;
            changed->noiseSensitive = on;
            const QString name = (on ? tr("noise matters to %1") : tr("noise is nothing to %1"))
                                     .arg(qs(nameOf(*changed)));
            take(name, std::move(after));
        });
    }
    if (menu->isEmpty())
        menu->addAction(tr("no loads yet"))->setEnabled(false);
}

void BriefView::follow() {
    const Theme& t = Theme::now();
    for (QWidget* old : m_follows->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly)) {
        old->hide();
        old->setObjectName({});
        old->deleteLater();
    }
    int at = 0;
    for (const Consequence& c : m_session.results().consequences()) {
        auto* card = new QLabel(m_follows);
        card->setObjectName("follows." + qs(c.about));
        card->setTextFormat(Qt::RichText);
        card->setText(QStringLiteral("<b>%1</b><br><span style='color:%2'>%3</span>")
                          .arg(qs(c.title).toHtmlEscaped(), colour(Role::muted).name(),
                               qs(c.says).toHtmlEscaped()));
        card->setWordWrap(true);
        card->setFont(t.font(12));
        card->setStyleSheet(QStringLiteral("QLabel { background: %1; border: 1px solid %2; "
                                           "border-radius: 4px; padding: %3px; }")
                                .arg(colour(Role::card).name(), colour(Role::hairline).name())
                                .arg(t.ipx(8)));
        m_followsColumn->insertWidget(at++, card);
    }
}

} // namespace sipper::app
