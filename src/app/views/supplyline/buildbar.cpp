// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/supplyline/buildbar.hpp"

#include "charge/charge.hpp"
#include "line/sources.hpp"
#include "project/build.hpp"
#include "project/edits.hpp"
#include "project/file.hpp"
#include "project/library.hpp"
#include "project/tree.hpp"
#include "protect/currents.hpp"
#include "views/library/librarydialog.hpp"
#include "views/supplyline/curvescard.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>
#include <array>

namespace sipper::app {
namespace {

/// A fresh source; cells come from the library.
Stage freshSource(const Project& p, Kind kind, std::string_view near) {
    Stage stage = freshStage(p, kind, near);
    if (auto* pack = std::get_if<Pack>(&stage.part)) {
        if (const auto cell = loadPart(dataFolder() / "cells" / "nickel-cobalt-18650-3.0.json")) {
            pack->cell = std::get<Pack>(cell.value().stage.part).cell;
        }
        stage.id = freeId(p, "cells");
    }
    return stage;
}

} // namespace

BuildBar::BuildBar(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    setObjectName(QStringLiteral("buildBar"));
    setAccessibleName(tr("Build the line"));
    openLibrary = [this](const QString& stage) { LibraryDialog(m_session, stage, this).exec(); };
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 2, Margins{});
    auto* row = newRow(nullptr, 6);
    m_name = new QLineEdit(this);
    m_name->setObjectName(QStringLiteral("build.name"));
    m_name->setAccessibleName(tr("Name of the chosen part"));
    m_name->setToolTip(tr("What the chosen part is called (F2)"));
    m_name->setPlaceholderText(tr("choose a part"));
    m_name->setFixedWidth(t.ipx(150));
    row->addWidget(m_name);
    addButtons(*row);
    row->addStretch();
    m_plugs = new QWidget(this);
    m_plugRow = newRow(m_plugs, 6, Margins{});
    row->addWidget(m_plugs);
    m_mode = choiceField(this, "build.mode", tr("Mode shown"), tr("The mode that the line shows"));
    row->addWidget(m_mode);
    column->addLayout(row);
    m_complaint = complaintLabel(QStringLiteral("build.complaint"), this);
    column->addWidget(m_complaint);
    connectAll();
    new Refresher(this, session,
                  {&Session::projectChanged, &Session::selectionChanged, &Session::momentChanged},
                  [this] { refresh(); });
    refresh();
}

void BuildBar::addButtons(QHBoxLayout& row) {
    const auto button = [&](const QString& text, const char* name) {
        auto* b = pushButton(this, QLatin1String(name), text);
        row.addWidget(b);
        return b;
    };
    const auto arrow = [&](const QString& text, const char* name) {
        auto* b = new QToolButton(this);
        b->setText(text);
        b->setObjectName(QLatin1String(name));
        b->setAutoRaise(true);
        b->setFocusPolicy(Qt::TabFocus);
        row.addWidget(b);
        return b;
    };
    m_add = button(tr("Add ▾"), "build.add");
    m_swap = button(tr("Swap…"), "build.swap");
    m_left = arrow(QStringLiteral("←"), "build.left");
    m_right = arrow(QStringLiteral("→"), "build.right");
    m_feed = button(tr("Fed by ▾"), "build.feed");
    m_remove = button(tr("Take out"), "build.remove");
    m_curves = button(tr("Curves"), "build.curves");
    m_curves->setCheckable(true);
}

void BuildBar::connectAll() {
    connect(m_curves, &QPushButton::toggled, this, [this](bool on) {
        accentButton(*m_curves, on);
        emit curvesAsked(on);
    });
    connect(m_name, &QLineEdit::editingFinished, this, [this] {
        const std::string text = m_name->text().trimmed().toStdString();
        if (text.empty() || text == chosenName().toStdString())
            return;
        Project after = m_session.project();
        if (Stage* s = after.stage(chosen()))
            s->label = text;
        else if (Load* l = after.load(chosen()))
            l->label = text;
        takeEdit(tr("rename %1 to %2").arg(chosenName(), qs(text)), std::move(after), chosen());
    });
    connect(m_add, &QPushButton::clicked, this, &BuildBar::showAdd);
    connect(m_swap, &QPushButton::clicked, this, &BuildBar::swap);
    connect(m_left, &QToolButton::clicked, this, [this] { move(-1); });
    connect(m_right, &QToolButton::clicked, this, [this] { move(1); });
    connect(m_remove, &QPushButton::clicked, this, &BuildBar::remove);
    connect(m_feed, &QPushButton::clicked, this, [this] {
        QMenu menu(this);
        menu.setObjectName(QStringLiteral("build.feedMenu"));
        fillFeeds(&menu);
        menu.exec(m_feed->mapToGlobal(QPoint(0, m_feed->height())));
    });
    connect(m_mode, &QComboBox::activated, this, [this](int mode) {
        m_session.setDisplayedPoint(m_session.charge(), static_cast<std::size_t>(mode));
    });
}

QString BuildBar::chosenName() const {
    const Project& p = m_session.project();
    if (const Stage* s = p.stage(chosen()))
        return qs(nameOf(*s));
    if (const Load* l = p.load(chosen()))
        return qs(nameOf(*l));
    return {};
}

void BuildBar::say(const QString& text) {
    complain(*m_complaint, text);
}

void BuildBar::takeEdit(const QString& name, Project after, const std::string& select) {
    if (const auto trouble = m_session.edit(name, std::move(after))) {
        say(qs(trouble->message()));
        return;
    }
    say({});
    if (m_session.project().stage(select) || m_session.project().load(select))
        m_session.select(qs(select));
}

void BuildBar::remove() {
    const Project& p = m_session.project();
    const std::string id = chosen();
    const QString name = tr("take out %1").arg(chosenName());
    if (const Load* load = p.load(id)) {
        const std::string on = load->fedBy;
        takeEdit(name, withoutLoad(p, id), on);
        return;
    }
    if (const auto why = whyNotRemove(p, id)) {
        say(qs(*why));
        return;
    }
    const Stage* stage = p.stage(id);
    const std::string on = stage->fedBy.empty() ? std::string() : stage->fedBy.front();
    takeEdit(name, withoutStage(p, id), on);
}

void BuildBar::move(int by) {
    const Project& p = m_session.project();
    if (const auto why = whyNotMove(p, chosen(), by)) {
        say(qs(*why));
        return;
    }
    takeEdit((by < 0 ? tr("move %1 towards the source") : tr("move %1 towards the loads"))
                 .arg(chosenName()),
             withStageMoved(p, chosen(), by), chosen());
}

void BuildBar::rename() {
    m_name->setFocus();
    m_name->selectAll();
}

void BuildBar::swap() {
    if (m_session.project().stage(chosen()))
        openLibrary(m_session.selected());
}

void BuildBar::showAdd() {
    QMenu menu(this);
    menu.setObjectName(QStringLiteral("build.addMenu"));
    fillAdd(&menu);
    menu.exec(m_add->mapToGlobal(QPoint(0, m_add->height())));
}

/// Only what can be: the rest stands there greyed and says why.
void BuildBar::fillAdd(QMenu* menu) {
    menu->setToolTipsVisible(true);
    const Project& p = m_session.project();
    const std::string id = chosen();
    const QString name = chosenName();
    const auto after = whyNotAfter(p, id);
    std::optional<std::string> before;
    if (const Stage* stage = p.stage(id); stage && isSource(stage->part))
        before = "A source is the beginning of the line.";
    fillKinds(
        menu, {tr("Behind %1").arg(name), "behind", tr("add a %1 behind %2").arg("%1", name)},
        [&](Kind kind) { return whyNotBehind(p, id, kind); },
        [id](const Project& project, const Stage& fresh) {
            return withStageBetween(project, fresh, id);
        });
    fillKinds(
        menu, {tr("Before %1").arg(name), "before", tr("add a %1 before %2").arg("%1", name)},
        [&](Kind kind) {
            // On a charge leg what stands before a part stands behind its feed.
            return before || !chargerBefore(p, id)
                       ? before
                       : whyNotBehind(p, p.stage(id)->fedBy.front(), kind);
        },
        [id](const Project& project, const Stage& fresh) {
            return withStageBefore(project, fresh, id);
        });
    fillKinds(
        menu,
        {tr("A branch on %1").arg(name), "branch",
         tr("add a branch with a %1 on %2").arg("%1", name)},
        [&](Kind) { return after; },
        [id](const Project& project, const Stage& fresh) {
            return withBranch(project, fresh, id);
        });
    QAction* load = menu->addAction(tr("A load on %1").arg(name));
    load->setObjectName(QStringLiteral("add.load"));
    load->setEnabled(!after && !name.isEmpty());
    connect(load, &QAction::triggered, this, [this, id, name] {
        Project with = withNewLoad(m_session.project());
        if (with.loads.size() == m_session.project().loads.size())
            return;
        with.loads.back().fedBy = id;
        const std::string fresh = with.loads.back().id;
        takeEdit(tr("add a load on %1").arg(name), std::move(with), fresh);
    });
    QAction* charger = menu->addAction(tr("A charger on %1").arg(name));
    charger->setObjectName(QStringLiteral("add.charger"));
    const auto whyNot = whyNotCharger(p, id);
    charger->setEnabled(!whyNot);
    charger->setToolTip(whyNot ? qs(*whyNot) : tr("Set for the pack that is there"));
    connect(charger, &QAction::triggered, this, [this, id, name] {
        Project with = withCharger(m_session.project(), id);
        const std::string fresh = with.stages.back().id;
        with = withLegFuse(std::move(with), fresh);
        takeEdit(tr("add a charger on %1").arg(name), std::move(with), fresh);
    });
    QAction* fill = menu->addAction(tr("Fill the cells by…"));
    fill->setObjectName(QStringLiteral("add.fill"));
    const bool packs = p.packStage() != nullptr;
    fill->setEnabled(packs && chargersOf(p).empty());
    fill->setToolTip(!packs               ? tr("There is no pack to charge.")
                     : !fill->isEnabled() ? tr("They have a charger already: see Charging.")
                                          : tr("What could fill them, each solved on this pack"));
    connect(fill, &QAction::triggered, this,
            [this] { emit m_session.viewAsked(QStringLiteral("charging")); });
    menu->addSeparator();
    fillSources(menu, before);
}

/// One submenu with every kind that can stand in the line.
void BuildBar::fillKinds(QMenu* menu, const Place& place, const WhyNot& whyNot,
                         const Insert& insert) {
    QMenu* sub = menu->addMenu(place.title);
    // Where no kind can stand, the whole says why.
    std::optional<std::string> why;
    bool any = false;
    for (const KindFacts& row : kinds())
        if (row.offer == Offer::inLine) {
            const auto here = whyNot(row.kind);
            any = any || !here;
            why = why ? why : here;
        }
    if (!any || chosenName().isEmpty()) {
        sub->menuAction()->setEnabled(false);
        sub->menuAction()->setToolTip(why ? qs(*why) : tr("Choose a part first."));
        return;
    }
    sub->setToolTipsVisible(true);
    for (const KindFacts& row : kinds()) {
        if (row.offer != Offer::inLine)
            continue;
        const QString what = qs(row.choice);
        QAction* action = sub->addAction(what);
        action->setObjectName(
            QStringLiteral("%1.%2").arg(QLatin1String(place.prefix), qs(row.name)));
        if (const auto not_ = whyNot(row.kind)) {
            action->setEnabled(false);
            action->setToolTip(qs(*not_));
        }
        connect(action, &QAction::triggered, this,
                [this, says = place.says, kind = row.kind, what, insert, id = chosen()] {
                    const Stage fresh = freshStage(m_session.project(), kind, id);
                    takeEdit(says.arg(what.toLower()), insert(m_session.project(), fresh),
                             fresh.id);
                });
    }
}

/// Another source by itself, or one that takes over before the chosen part.
void BuildBar::fillSources(QMenu* menu, const std::optional<std::string>& before) {
    const QString name = chosenName();
    QMenu* sources = menu->addMenu(tr("Another source"));
    QMenu* takes = menu->addMenu(tr("A source that takes over before %1").arg(name));
    const bool may = !before && !name.isEmpty();
    if (!may) {
        takes->menuAction()->setEnabled(false);
        takes->menuAction()->setToolTip(before ? qs(*before) : tr("Choose a part first."));
    }
    for (const KindFacts& row : kinds()) {
        if (row.offer != Offer::source)
            continue;
        const QString what = qs(row.choice);
        QAction* alone = sources->addAction(what);
        alone->setObjectName(QStringLiteral("source.%1").arg(qs(row.name)));
        connect(alone, &QAction::triggered, this, [this, kind = row.kind, what] {
            const Stage fresh = freshSource(m_session.project(), kind, {});
            takeEdit(tr("add a source: %1").arg(what.toLower()),
                     withSource(m_session.project(), fresh), fresh.id);
        });
        if (!may)
            continue;
        QAction* over = takes->addAction(what);
        over->setObjectName(QStringLiteral("takes.%1").arg(qs(row.name)));
        connect(over, &QAction::triggered, this,
                [this, kind = row.kind, what, name, id = chosen()] {
                    const Stage fresh = freshSource(m_session.project(), kind, id);
                    takeEdit(tr("let %1 take over before %2").arg(what.toLower(), name),
                             withSelect(withSource(m_session.project(), fresh), id, fresh.id),
                             fresh.id);
                });
    }
}

void BuildBar::fillFeeds(QMenu* menu) {
    const Project& p = m_session.project();
    const std::string id = chosen();
    const QString name = chosenName();
    for (const std::string& feed : possibleFeeds(p, id)) {
        const QString feedName = qs(nameOf(*p.stage(feed)));
        QAction* action = menu->addAction(feedName);
        action->setObjectName("feed." + qs(feed));
        connect(action, &QAction::triggered, this, [this, id, feed, name, feedName] {
            takeEdit(tr("feed %1 from %2").arg(name, feedName),
                     withFeed(m_session.project(), id, feed), id);
        });
    }
}

void BuildBar::showMenu(const QPoint& at) {
    QMenu menu(this);
    menu.setObjectName(QStringLiteral("build.menu"));
    if (m_session.project().stage(chosen()))
        connect(menu.addAction(tr("Swap %1…").arg(chosenName())), &QAction::triggered, this,
                &BuildBar::swap);
    if (const Stage* stage = m_session.project().stage(chosen());
        stage && isPack(stage->part) && chargersOf(m_session.project()).empty())
        connect(menu.addAction(tr("Fill it by…")), &QAction::triggered, this,
                [this] { emit m_session.viewAsked(QStringLiteral("charging")); });
    QMenu* addMenu = menu.addMenu(tr("Add"));
    fillAdd(addMenu);
    QMenu* feeds = menu.addMenu(tr("Feed it from"));
    fillFeeds(feeds);
    feeds->setEnabled(!feeds->isEmpty());
    menu.addSeparator();
    connect(menu.addAction(tr("Rename")), &QAction::triggered, this, &BuildBar::rename);
    connect(menu.addAction(tr("Take out")), &QAction::triggered, this, &BuildBar::remove);
    menu.exec(at);
}

void BuildBar::refresh() {
    const Project& p = m_session.project();
    const std::string id = chosen();
    const Stage* stage = p.stage(id);
    const Load* load = p.load(id);
    if (!m_name->hasFocus() || !m_name->isModified())
        m_name->setText(chosenName());
    m_name->setEnabled(stage || load);
    const auto offer = [](QAbstractButton* button, const std::optional<std::string>& why,
                          const QString& help) {
        button->setEnabled(!why);
        button->setToolTip(why ? qs(*why) : help);
        button->setAccessibleName(help);
    };
    const std::optional<std::string> none =
        stage || load ? std::nullopt : std::optional<std::string>("There is nothing chosen.");
    m_add->setToolTip(tr("Add a stage, a branch, a load or a source (Insert)"));
    offer(m_swap,
          stage ? std::nullopt
                : std::optional<std::string>(load ? "A load is not swapped: type what it draws."
                                                  : "There is nothing chosen."),
          tr("Swap it for a part of the library (F4)"));
    offer(m_left, whyNotMove(p, id, -1), tr("Move towards the source (Alt+Left)"));
    offer(m_right, whyNotMove(p, id, 1), tr("Move towards the loads (Alt+Right)"));
    offer(m_feed,
          (stage && isSource(stage->part))
              ? std::optional<std::string>("A source is fed by nothing.")
              : none,
          tr("Feed it from another stage"));
    offer(m_curves,
          CurvesCard::has(p, id) || m_curves->isChecked()
              ? std::nullopt
              : std::optional<std::string>("Curves belong to regulators: choose one."),
          tr("Efficiency, heat and reach of the chosen regulator"));
    offer(m_remove, load ? std::nullopt : whyNotRemove(p, id), tr("Take it out (Delete)"));

    refreshPlugs();
    // With cells the charge strip has the mode.
    m_mode->setVisible(!p.pack());
    m_mode->clear();
    for (const Mode& mode : p.modes)
        m_mode->addItem(qs(nameOf(mode)));
    m_mode->setCurrentIndex(static_cast<int>(m_session.mode()));
}

/// One for every source besides the cells.
void BuildBar::refreshPlugs() {
    const Project& p = m_session.project();
    const auto sources = externalSources(p);
    m_plugs->setVisible(!sources.empty());
    QStringList ids;
    for (const std::size_t i : sources)
        ids << qs(p.stages[i].id);
    QStringList there;
    for (QPushButton* plug :
         m_plugs->findChildren<QPushButton*>(QString(), Qt::FindDirectChildrenOnly))
        there << plug->objectName().mid(5);
    if (ids != there) {
        for (QPushButton* old :
             m_plugs->findChildren<QPushButton*>(QString(), Qt::FindDirectChildrenOnly)) {
            old->hide();
            old->setParent(nullptr);
            old->deleteLater();
        }
        for (const QString& source : ids) {
            auto* plug = pushButton(m_plugs, "plug." + source, {});
            plug->setCheckable(true);
            connect(plug, &QPushButton::toggled, this,
                    [this, source](bool on) { m_session.plug(source, on); });
            m_plugRow->addWidget(plug);
        }
    }
    for (std::size_t k = 0; k < sources.size(); ++k) {
        auto* plug = m_plugs->findChild<QPushButton*>("plug." + ids[static_cast<qsizetype>(k)]);
        const QSignalBlocker quiet(plug);
        const bool in = m_session.plugged().contains(ids[static_cast<qsizetype>(k)]);
        plug->setChecked(in);
        plug->setText((in ? QStringLiteral("● ") : QStringLiteral("○ ")) +
                      qs(nameOf(p.stages[sources[k]])));
        plug->setToolTip(in ? tr("Plugged in; click to pull it out")
                            : tr("Not plugged in; click to plug it in"));
        accentButton(*plug, in);
    }
}

} // namespace sipper::app
