// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/loads/loadgrid.hpp"
#include "parts/kinds.hpp"

#include "project/edits.hpp"
#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"

#include <QGridLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QStyle>
#include <QToolButton>
#include <utility>

namespace sipper::app {
namespace {

constexpr double kLegendFrom = 720; ///< px of width at 100 % from which there is room for it

/// Is there anything to draw from?
bool isSourced(const Project& p) {
    return std::any_of(p.stages.begin(), p.stages.end(),
                       [](const Stage& s) { return isSource(s.part); });
}

/// How well a draw is known; a click goes on to the next.
class BasisMark : public QAbstractButton {
  public:
    BasisMark(QWidget* parent) : QAbstractButton(parent) {
        setFixedSize(Theme::now().ipx(18), Theme::now().ipx(24));
        setFocusPolicy(Qt::TabFocus);
        setCursor(Qt::PointingHandCursor);
    }
    void set(Basis basis) {
        m_basis = basis;
        static constexpr std::array<const char*, 3> names{"measured", "from a data sheet",
                                                          "a guess"};
        setAccessibleName(QObject::tr("Basis: %1")
                              .arg(QString::fromLatin1(names[static_cast<std::size_t>(basis)])));
        setToolTip(accessibleName() +
                   QObject::tr(". Click for the next; a guess widens the range."));
        update();
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        const Theme& t = Theme::now();
        const QRectF box(width() / 2.0 - t.px(4), height() / 2.0 - t.px(4), t.px(8), t.px(8));
        if (hasFocus()) {
            p.setPen(QPen(colour(Role::copper), 1));
            p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
        }
        switch (m_basis) {
        case Basis::measured:
            p.fillRect(box, colour(Role::muted));
            break;
        case Basis::dataSheet:
            p.setPen(QPen(colour(Role::muted), 1.2));
            p.drawRect(box);
            break;
        case Basis::guess:
            p.setPen(colour(Role::weigh));
            p.setFont(t.font(13, true));
            p.drawText(rect(), Qt::AlignCenter, QStringLiteral("?"));
            break;
        }
    }

  private:
    Basis m_basis = Basis::guess;
};

/// A share as a bar with its figure.
class ShareBar : public QWidget {
  public:
    ShareBar(QWidget* parent) : QWidget(parent) {
        setMinimumSize(Theme::now().ipx(72), Theme::now().ipx(20));
    }
    void set(double share, double wattHours) {
        m_share = share;
        m_text = qs(writeShare(share));
        setToolTip(QObject::tr("%1 of what is delivered, %2 a day")
                       .arg(m_text, quantity(wattHours, Unit::wattHour)));
        setAccessibleName(toolTip());
        update();
    }
    [[nodiscard]] const QString& text() const { return m_text; }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        const Theme& t = Theme::now();
        const QRectF bar(0, height() / 2.0 - t.px(7), width(), t.px(14));
        p.fillRect(bar, colour(Role::button));
        p.fillRect(QRectF(bar.left(), bar.top(), bar.width() * std::clamp(m_share, 0.0, 1.0),
                          bar.height()),
                   colour(Role::copper));
        p.setFont(t.font(11, true));
        const bool inside = m_share > 0.55;
        p.setPen(colour(inside ? Role::copperInk : Role::ink));
        p.drawText(bar.adjusted(inside ? 4 : bar.width() * m_share + 5, 0, -4, 0),
                   Qt::AlignLeft | Qt::AlignVCenter, m_text);
    }

  private:
    double m_share = 0;
    QString m_text;
};

QToolButton* smallButton(const QString& text, const QString& name, const QString& about,
                         QWidget* parent) {
    auto* b = new QToolButton(parent);
    b->setText(text);
    b->setObjectName(name);
    b->setAccessibleName(about);
    b->setToolTip(about);
    b->setAutoRaise(true);
    b->setFocusPolicy(Qt::TabFocus);
    b->setFixedSize(Theme::now().ipx(20), Theme::now().ipx(22));
    return b;
}

/// A name that is edited where it stands.
QLineEdit* nameEdit(const QString& text, const QString& name, const QString& about,
                    QWidget* parent) {
    auto* e = new QLineEdit(text, parent);
    e->setObjectName(name);
    e->setAccessibleName(about);
    e->setToolTip(about);
    e->setFont(Theme::now().font(12, true));
    e->setFrame(false);
    e->setStyleSheet(QStringLiteral("QLineEdit { background: transparent; border: 1px solid "
                                    "transparent; padding: 2px 2px; }"
                                    "QLineEdit:focus { border: 1px solid %1; background: %2; }")
                         .arg(colour(Role::copper).name(), colour(Role::field).name()));
    return e;
}

} // namespace

DrawEdit::DrawEdit(Session& session, std::size_t load, std::size_t mode, QWidget* parent)
    : QLineEdit(parent), m_session(session), m_load(load), m_mode(mode),
      m_loadId(session.project().loads[load].id), m_modeId(session.project().modes[mode].id) {
    const Project& p = session.project();
    setObjectName(QStringLiteral("draw.%1.%2").arg(qs(p.loads[load].id), qs(p.modes[mode].id)));
    setAccessibleName(
        tr("%1 in mode %2").arg(qs(nameOf(p.loads[load])), qs(nameOf(p.modes[mode]))));
    setAlignment(Qt::AlignRight);
    setMinimumWidth(Theme::now().ipx(70));
    connect(this, &QLineEdit::returnPressed, this, [this] {
        commit();
        focusNextChild();
    });
    show({});
    refresh();
}

bool DrawEdit::stands() const {
    const Project& p = m_session.project();
    return m_load < p.loads.size() && m_mode < p.modes.size() && p.loads[m_load].id == m_loadId &&
           p.modes[m_mode].id == m_modeId;
}

QString DrawEdit::shown() const {
    const Project& p = m_session.project();
    const Draw* draw = drawIn(p, p.loads[m_load], m_mode);
    return draw ? qs(drawText(*draw)) : QStringLiteral("0 A");
}

void DrawEdit::refresh() {
    const Project& p = m_session.project();
    const Draw* draw = drawIn(p, p.loads[m_load], m_mode);
    const bool own = draw && draw->mode == p.modes[m_mode].id;
    setStyleSheet(own ? QString() : QStringLiteral("color: %1").arg(colour(Role::muted).name()));
    const bool same = std::exchange(m_known, shown()) == shown();
    if (same && hasFocus() && isModified())
        return; // figures that arrive late take nothing from what is being typed
    if (!hasFocus() || m_complaint.isEmpty())
        setText(shown());
}

void DrawEdit::show(const QString& complaint) {
    m_complaint = complaint;
    setProperty("wrong", !complaint.isEmpty());
    setToolTip(complaint.isEmpty() ? tr("A draw: 3m8, 120 mA, 0.6 W, 47 ohm, or 20 mA over 2.8 V "
                                        "for lights. Empty takes the base draw.")
                                   : complaint);
    style()->unpolish(this);
    style()->polish(this);
    emit complained(complaint);
}

void DrawEdit::commit() {
    if (!stands())
        return;
    const QString typed = text().trimmed();
    if (typed == shown()) {
        show({});
        return;
    }
    Project after = m_session.project();
    Load& load = after.loads[m_load];
    const std::string mode = after.modes[m_mode].id;
    if (typed.isEmpty() && !after.modes[m_mode].isBase()) {
        std::erase_if(load.draws, [&](const Draw& d) { return d.mode == mode; });
    } else if (const auto trouble =
                   setDraw(ownDrawIn(m_session.project(), load, m_mode), typed.toStdString())) {
        show(qs(trouble->message()));
        return;
    }
    const QString name = tr("%1, %2: %3")
                             .arg(qs(nameOf(load)), qs(nameOf(after.modes[m_mode])),
                                  typed.isEmpty() ? tr("as the base mode") : typed);
    if (const auto trouble = m_session.edit(name, std::move(after))) {
        show(qs(trouble->message()));
        return;
    }
    show({});
    setText(shown());
}

void DrawEdit::focusInEvent(QFocusEvent* event) {
    QLineEdit::focusInEvent(event);
    if (!stands())
        return;
    selectAll();
    m_session.select(qs(m_session.project().loads[m_load].id));
    m_session.setDisplayedPoint(m_session.charge(), m_mode);
}

void DrawEdit::focusOutEvent(QFocusEvent* event) {
    commit();
    QLineEdit::focusOutEvent(event);
}

void DrawEdit::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape && stands() && text() != shown()) {
        setText(shown());
        show({});
        return;
    }
    QLineEdit::keyPressEvent(event);
}

LoadGrid::LoadGrid(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("loadGrid"), tr("Loads by modes"));
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 6, Margins{12, 8, 12, 8});
    auto* scroll = m_scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setStyleSheet(
        QStringLiteral("QScrollArea, #loadGridBody { background: transparent; }"));
    m_body = new QWidget;
    m_body->setObjectName(QStringLiteral("loadGridBody"));
    scroll->setWidget(m_body);
    column->addWidget(scroll, 1);
    auto* foot = new QHBoxLayout;
    auto* addLoad =
        pushButton(this, "addLoad", tr("Add a load"), tr("A new load on the feed of the last one"));
    connect(addLoad, &QPushButton::clicked, this,
            [this] { m_session.apply(tr("add a load"), withNewLoad(m_session.project())); });
    auto* addMode =
        pushButton(this, "addMode", tr("Add a mode"), tr("A new mode, 1 s every minute"));
    connect(addMode, &QPushButton::clicked, this, [this] {
        if (const auto trouble = m_session.edit(tr("add a mode"), withNewMode(m_session.project())))
            ask(qs(trouble->message()));
    });
    foot->addWidget(addLoad);
    foot->addWidget(addMode);
    m_legend = mutedLabel(tr("■ measured  □ data sheet  ? guess"), this);
    foot->addSpacing(t.ipx(8));
    foot->addWidget(m_legend);
    foot->addStretch();
    m_total = textLabel(this, {}, {.size = 12, .bold = true, .name = "loadTotals"});
    m_total->setToolTip(tr("At the cells, averaged over a day at half charge"));
    foot->addWidget(m_total);
    column->addLayout(foot);
    m_complaint = complaintLabel(QStringLiteral("loads.complaint"), this);
    column->addWidget(m_complaint);
    new Refresher(this, session, {&Session::projectChanged},
                  [this] { signature() == m_signature ? refresh() : rebuild(); });
    rebuild();
}

void LoadGrid::ask(const QString& complaint) {
    complain(*m_complaint, complaint);
}

/// What decides which widgets there are; figures only refresh them.
QString LoadGrid::signature() const {
    QString text;
    for (const Load& l : m_session.project().loads)
        text += qs(l.id) + QLatin1Char('|') + qs(l.label) + QLatin1Char('|');
    for (const Mode& m : m_session.project().modes)
        text += qs(m.id) + QLatin1Char('/') + qs(m.label) + QLatin1Char('/');
    return text;
}

void LoadGrid::rebuild() {
    m_signature = signature();
    m_cells.clear();
    m_marks.clear();
    ask({});
    for (QWidget* old : m_body->findChildren<QWidget*>(QString(), Qt::FindDirectChildrenOnly)) {
        old->hide();
        old->setObjectName({});
        old->deleteLater();
    }
    delete m_body->layout();
    build();
    // New widgets stand at the end of the window's tab order: bring them to where they are seen.
    QWidget* before = m_scroll;
    for (int row = 0; auto* grid = qobject_cast<QGridLayout*>(m_body->layout()); ++row) {
        if (row >= grid->rowCount())
            break;
        for (int column = 0; column < grid->columnCount(); ++column)
            if (const QLayoutItem* item = grid->itemAtPosition(row, column);
                item && item->widget() && item->widget()->focusPolicy() != Qt::NoFocus) {
                setTabOrder(before, item->widget());
                before = item->widget();
            }
    }
    refresh();
}

QLabel* LoadGrid::small(const QString& text) {
    auto* label = textLabel(m_body, text, {.size = 11, .ink = Role::muted});
    return label;
}

void LoadGrid::build() {
    const Theme& t = Theme::now();
    const Project& p = m_session.project();
    auto* grid = new QGridLayout(m_body);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(t.ipx(4));
    grid->setVerticalSpacing(t.ipx(4));
    grid->addWidget(small(tr("Load")), 0, 0);
    grid->addWidget(small(tr("on")), 0, 1);
    grid->addWidget(small(tr("share of energy")), 0, 2 + 2 * static_cast<int>(p.modes.size()));
    for (std::size_t m = 0; m < p.modes.size(); ++m) {
        const int column = 2 + 2 * static_cast<int>(m);
        auto* button = pushButton(m_body, "mode." + qs(p.modes[m].id), qs(nameOf(p.modes[m])),
                                  tr("Choose this mode; its times are edited above"));
        connect(button, &QPushButton::clicked, this, [this, m] {
            m_session.setDisplayedPoint(m_session.charge(), m);
            emit modeChosen();
        });
        m_marks.insert(button->objectName(), button);
        grid->addWidget(button, 0, column, 1, 2);
    }
    for (std::size_t l = 0; l < p.loads.size(); ++l)
        buildRow(grid, l);
    grid->setColumnStretch(2 + 2 * static_cast<int>(p.modes.size()), 1);
    grid->setRowStretch(1 + static_cast<int>(p.loads.size()), 1);
    // The page scrolls, not the grid within it.
    m_scroll->setMinimumHeight(
        t.ipx(44 + 30.0 * static_cast<double>(std::max<std::size_t>(p.loads.size(), 1))));
}

void LoadGrid::buildRow(QGridLayout* grid, std::size_t l) {
    const Theme& t = Theme::now();
    const Project& p = m_session.project();
    const int row = 1 + static_cast<int>(l);
    const std::string id = p.loads[l].id;
    auto* name = nameEdit(qs(nameOf(p.loads[l])), "name." + qs(id), tr("Name of the load"), m_body);
    name->setMinimumWidth(t.ipx(104));
    connect(name, &QLineEdit::editingFinished, this,
            [this, name, id] { rename(id, name->text().trimmed()); });
    grid->addWidget(name, row, 0);
    const Stage* feed = p.stage(p.loads[l].fedBy);
    grid->addWidget(small(feed ? qs(nameOf(*feed)) : QString()), row, 1);
    for (std::size_t m = 0; m < p.modes.size(); ++m)
        buildCell(grid, l, m);
    buildRowEnd(grid, l);
}

void LoadGrid::buildCell(QGridLayout* grid, std::size_t l, std::size_t m) {
    const Project& p = m_session.project();
    const int row = 1 + static_cast<int>(l);
    const std::string id = p.loads[l].id;
    const int column = 2 + 2 * static_cast<int>(m);
    auto* cell = new DrawEdit(m_session, l, m, m_body);
    connect(cell, &DrawEdit::complained, this, &LoadGrid::ask);
    m_cells << cell;
    grid->addWidget(cell, row, column);
    auto* mark = new BasisMark(m_body);
    mark->setObjectName(QStringLiteral("basis.%1.%2").arg(qs(id), qs(p.modes[m].id)));
    connect(mark, &QAbstractButton::clicked, this, [this, l, m] { nextBasis(l, m); });
    m_marks.insert(mark->objectName(), mark);
    grid->addWidget(mark, row, column + 1);
}

void LoadGrid::buildRowEnd(QGridLayout* grid, std::size_t l) {
    const Project& p = m_session.project();
    const int row = 1 + static_cast<int>(l);
    const std::string id = p.loads[l].id;
    const int last = 2 + 2 * static_cast<int>(p.modes.size());
    auto* bar = new ShareBar(m_body);
    bar->setObjectName("share." + qs(id));
    m_marks.insert(bar->objectName(), bar);
    grid->addWidget(bar, row, last);
    const auto button = [&](const QString& text, const QString& what, const QString& about,
                            int column, auto make) {
        auto* b = smallButton(text, what + "." + qs(id), about, m_body);
        connect(b, &QToolButton::clicked, this,
                [this, make, about, id] { m_session.apply(about, make(m_session.project(), id)); });
        grid->addWidget(b, row, column);
    };
    button(QStringLiteral("↑"), QStringLiteral("up"), tr("Move %1 up").arg(qs(nameOf(p.loads[l]))),
           last + 1, [](const Project& project, const std::string& which) {
               return withLoadMoved(project, which, -1);
           });
    button(QStringLiteral("↓"), QStringLiteral("down"),
           tr("Move %1 down").arg(qs(nameOf(p.loads[l]))), last + 2,
           [](const Project& project, const std::string& which) {
               return withLoadMoved(project, which, 1);
           });
    button(QStringLiteral("×"), QStringLiteral("remove"),
           tr("Take out %1").arg(qs(nameOf(p.loads[l]))), last + 3,
           [](const Project& project, const std::string& which) {
               return withoutLoad(project, which);
           });
}

void LoadGrid::rename(const std::string& id, const QString& text) {
    Project after = m_session.project();
    Load* load = after.load(id);
    if (!load || text.isEmpty() || qs(nameOf(*load)) == text)
        return;
    load->label = text.toStdString();
    m_session.apply(tr("rename a load to %1").arg(text), std::move(after));
}

void LoadGrid::nextBasis(std::size_t l, std::size_t m) {
    Project after = m_session.project();
    Draw& draw = ownDrawIn(m_session.project(), after.loads[l], m);
    const auto next =
        static_cast<Basis>((static_cast<int>(draw.basis.value_or(Basis::guess)) + 1) % 3);
    draw.basis = next;
    draw.tolerance.reset();
    const QString what =
        tr("basis of %1: %2").arg(qs(nameOf(after.loads[l])), qs(nameOf(next)).replace('_', ' '));
    m_session.apply(what, std::move(after));
}

void LoadGrid::resizeEvent(QResizeEvent* event) {
    QFrame::resizeEvent(event);
    m_legend->setVisible(width() > Theme::now().px(kLegendFrom));
}

void LoadGrid::refresh() {
    const Project& p = m_session.project();
    const Budget& b = m_session.results().budget;
    for (DrawEdit* cell : m_cells)
        cell->refresh();
    for (std::size_t m = 0; m < p.modes.size(); ++m)
        if (auto* button = qobject_cast<QPushButton*>(m_marks.value("mode." + qs(p.modes[m].id))))
            button->setText(QStringLiteral("%1 %2").arg(
                qs(nameOf(p.modes[m])), qs(writeShare(b.modes[m].secondsPerDay / 86400))));
    for (std::size_t l = 0; l < p.loads.size(); ++l) {
        if (auto* bar = static_cast<ShareBar*>(m_marks.value("share." + qs(p.loads[l].id))))
            bar->set(b.loadShare[l], b.loadWhPerDay[l]);
        for (std::size_t m = 0; m < p.modes.size(); ++m)
            if (auto* mark = static_cast<BasisMark*>(m_marks.value(
                    QStringLiteral("basis.%1.%2").arg(qs(p.loads[l].id), qs(p.modes[m].id))))) {
                const Draw* draw = drawIn(p, p.loads[l], m);
                mark->set(draw ? draw->basis.value_or(Basis::guess) : Basis::guess);
            }
    }
    m_total->setText(
        isSourced(p)
            ? tr("%1 · %2 mean · %3 · %4 a day")
                  .arg(quantity(b.meanAmps, Unit::ampere), quantity(b.meanWatts, Unit::watt),
                       quantity(b.ahPerDay, Unit::ampereHour), quantity(b.whPerDay, Unit::wattHour))
            : tr("no source yet"));
    m_total->setToolTip(p.pack() ? tr("At the cells, averaged over a day at half charge")
                                 : tr("At the source, averaged over a day"));
}

} // namespace sipper::app
