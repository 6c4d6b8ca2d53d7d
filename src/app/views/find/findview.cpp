// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/find/findview.hpp"

#include "parts/chemistry.hpp"
#include "project/file.hpp"
#include "views/find/findscatter.hpp"
#include "views/find/rejectreasonbars.hpp"
#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QTableWidget>
#include <algorithm>
#include <cmath>
#include <qcustomplot.h>

namespace sipper::app {
namespace {

constexpr int kPollEvery = 150;         ///< ms
constexpr double kFindSideBySide = 700; ///< px that scatter and reasons need beside each other
constexpr int kMostRows = 40;           ///< of the list, where a corner is chosen

/// Does a search make the same of both?
bool sameKept(const Project& a, const Project& b) {
    const Requirements x = keptOf(a);
    const Requirements y = keptOf(b);
    const auto alike = [](const Rail& p, const Rail& q) {
        return p.loads == q.loads && p.set == q.set && p.regulated == q.regulated;
    };
    const auto kind = [](const Stage& p, const Stage& q) {
        return p.part.index() == q.part.index();
    };
    return x.bare.loads == y.bare.loads && x.bare.stages == y.bare.stages &&
           std::equal(x.rails.begin(), x.rails.end(), y.rails.begin(), y.rails.end(), alike) &&
           std::equal(x.line.begin(), x.line.end(), y.line.begin(), y.line.end(), kind);
}

/// What is to weigh in a candidate, in a few words.
QString weighText(const Candidate& c) {
    if (!c.advice)
        return QObject::tr("try it to see");
    if (c.advice->stop + c.advice->care == 0)
        return QObject::tr("nothing");
    const QString first = qs(c.advice->first);
    const int more = c.advice->stop + c.advice->care - 1;
    return more > 0 ? QObject::tr("%1, and %2 more").arg(first).arg(more) : first;
}

/// How long a refill takes, or by what, and what its charger adds; or that there is none.
QString refillText(const Candidate& c) {
    if (!c.refill) {
        Cell cell;
        cell.chemistry = c.chemistry;
        return canRecharge(cell) ? QObject::tr("no charger") : QObject::tr("used once");
    }
    return QObject::tr("%1, +%2, +%3")
        .arg(c.refill->hours ? hours(*c.refill->hours) : byText(*c.refill),
             quantity(c.refill->grams, Unit::gram), QString::number(c.refill->price, 'f', 2));
}

} // namespace

FindView::FindView(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("find"));
    setFocusPolicy(Qt::StrongFocus);
    const Theme& t = Theme::now();
    auto* page = scrollingPage(this, QStringLiteral("find.scroll"));
    auto* column = newColumn(page, 8, Margins{16, 8, 16, 12});
    column->addLayout(viewTitle(this, tr("Find a supply"),
                                tr("every supply that the parts can make, for these loads and "
                                   "this brief")));
    column->addLayout(answerRow(this, QStringLiteral("find"), m_word, m_says));
    m_complaint = complaintLabel(QStringLiteral("find.complaint"), this);
    column->addWidget(m_complaint);
    column->addLayout(buildLimits());
    m_row = new QBoxLayout(QBoxLayout::LeftToRight);
    m_row->setSpacing(t.ipx(8));
    m_scatter = new FindScatter(this);
    connect(m_scatter, &FindScatter::taken, this, [this](int index) { takeKept(index); });
    connect(m_scatter, &FindScatter::cornered, this, &FindView::showList);
    m_row->addWidget(m_scatter, 7);
    m_row->addWidget(buildRejectReasons(), 4);
    column->addLayout(m_row, 6);
    column->addWidget(buildList(), 4);
    m_poll.setInterval(kPollEvery);
    connect(&m_poll, &QTimer::timeout, this, &FindView::poll);
    new Refresher(this, session, {&Session::projectChanged}, [this] { refresh(); });
}

QLayout* FindView::buildLimits() {
    const Theme& t = Theme::now();
    auto* row = new FlowLayout(nullptr, t.ipx(12), t.ipx(6));
    // A field stays beside its words.
    const auto pair = [&](const QString& text, QWidget* edit) {
        auto* both = new QWidget(this);
        auto* line = newRow(both, 8, Margins{});
        line->addWidget(mutedLabel(text, both, 12));
        line->addWidget(edit);
        row->addWidget(both);
    };
    const auto field = [&](const QString& text, const FieldFacts& facts, const char* name,
                           std::optional<double>& into) {
        auto* edit = quantityField(this, QStringLiteral("find.") + QLatin1String(name), facts, 72);
        connect(edit, &QuantityEdit::committed, this, [this, &into](std::optional<double> v) {
            into = v;
            start();
        });
        pair(text, edit);
        return edit;
    };
    m_gramsField = field(tr("weighs at most"),
                         typedFacts("grams", "Weighs at most", "Besides the brief's own limit",
                                    Unit::gram, 0.1, 1e7),
                         "grams", m_grams);
    m_priceField = field(tr("costs at most"),
                         typedFacts("price", "Costs at most", "Besides the brief's own limit",
                                    Unit::money, 0.01, 1e7),
                         "price", m_price);
    m_hoursField = field(tr("runs at least"),
                         typedFacts("hours", "Runs at least",
                                    "Where the brief has no longer target", Unit::hour, 0.001, 1e6),
                         "hours", m_hours);
    m_cells = choiceField(this, "find.cells", tr("Which cells"));
    m_cells->addItems({tr("all cells"), tr("cells to hand")});
    connect(m_cells, &QComboBox::activated, this, [this] { start(); });
    pair(tr("of"), m_cells);
    m_go = pushButton(this, "find.go", tr("Search"));
    accentButton(*m_go, true);
    connect(m_go, &QPushButton::clicked, this, [this] { m_running ? stop() : start(); });
    row->addWidget(m_go);
    return row;
}

QWidget* FindView::buildRejectReasons() {
    auto* card = newCard(this, "findFell", tr("Why the others fell out"));
    auto* column = newColumn(card, 6, Margins{12, 8, 12, 8});
    auto* title = textLabel(card, tr("Why the others fell out"), {.size = 13, .bold = true});
    column->addWidget(title);
    m_bars = new RejectReasonBars(card);
    column->addWidget(m_bars);
    column->addWidget(mutedLabel(tr("The bars are logarithmic."), card, 11));
    m_misses = mutedLabel(tr("Click one to see what would let them in."), card, 11.5);
    m_misses->setObjectName(QStringLiteral("find.misses"));
    m_misses->setWordWrap(true);
    column->addWidget(m_misses);
    column->addStretch();
    connect(m_bars, &RejectReasonBars::chosen, this, &FindView::showMisses);
    return card;
}

QWidget* FindView::buildList() {
    const Theme& t = Theme::now();
    auto* card = newCard(this, "findList", tr("Short list"));
    auto* column = newColumn(card, {}, Margins{8, 8, 8, 6});
    auto* title =
        textLabel(card, tr("Short list"), {.size = 13, .bold = true, .name = "find.listTitle"});
    column->addWidget(title);
    m_list = new QTableWidget(0, 7, card);
    m_list->setObjectName(QStringLiteral("find.list"));
    m_list->setAccessibleName(tr("Short list; Enter takes the marked one as a variant"));
    m_list->setHorizontalHeaderLabels({tr("supply"), tr("runs"), tr("weighs"), tr("costs"),
                                       tr("worst draw"), tr("refill"), tr("to weigh")});
    styleTable(*m_list);
    m_list->setEditTriggers(QAbstractItemView::NoEditTriggers);
    m_list->setSelectionBehavior(QAbstractItemView::SelectRows);
    m_list->setSelectionMode(QAbstractItemView::SingleSelection);
    m_list->setTabKeyNavigation(false);
    m_list->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    m_list->setMinimumHeight(t.ipx(150));
    connect(m_list, &QTableWidget::currentCellChanged, this, [this](int row) {
        if (row >= 0 && m_list->item(row, 0))
            m_scatter->choose(m_list->item(row, 0)->data(Qt::UserRole).toInt());
    });
    connect(m_list, &QTableWidget::cellActivated, this, [this](int row) {
        if (m_list->item(row, 0))
            takeKept(m_list->item(row, 0)->data(Qt::UserRole).toInt());
    });
    column->addWidget(m_list, 1);
    QLabel* foot = mutedLabel(tr("Enter or a double click takes one as a variant. Not tried: other "
                                 "loads, several kinds of cells together, and more than "
                                 "one regulator in a row but behind a higher rail."),
                              card, 11);
    foot->setWordWrap(true);
    column->addWidget(foot);
    return card;
}

void FindView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    m_row->setDirection(width() >= Theme::now().ipx(kFindSideBySide) ? QBoxLayout::LeftToRight
                                                                     : QBoxLayout::TopToBottom);
}

void FindView::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape && m_scatter->hasCorner()) {
        m_scatter->dropCorner();
        return;
    }
    // Whoever comes here by keys goes down to the short list.
    if ((event->key() == Qt::Key_Down || event->key() == Qt::Key_Up) && m_list->rowCount() > 0) {
        m_list->setFocus();
        m_list->selectRow(0);
        return;
    }
    QWidget::keyPressEvent(event);
}

SearchOptions FindView::ask() const {
    SearchOptions a;
    a.mostGrams = m_grams;
    a.mostPrice = m_price;
    a.leastHours = m_hours;
    return a;
}

void FindView::refresh() {
    // What was found stands for as long as the same is kept of the project: the supplies that are
    // taken as variants are of it too.
    const Project& now = m_session.project();
    if (m_of && m_of->modes == now.modes && m_of->brief == now.brief && sameKept(*m_of, now)) {
        if (m_running)
            return;
        if (m_found && now.pack()) {
            Search with = *m_found;
            with.hasYours = true;
            with.yours.hours = m_session.results().runtime.hours.value_or(Hours{0}).value();
            with.yours.grams = now.massGrams();
            with.yours.price = now.totalPrice();
            m_found = std::make_shared<const Search>(std::move(with));
        }
        showAll();
        return;
    }
    start();
}

void FindView::start() {
    stop();
    complain(*m_complaint, {});
    SearchOptions asked = ask();
    if (m_cells->currentIndex() == 1) {
        auto cells = readCellFile(Session::drawerPath().toStdString());
        if (!cells || cells.value().empty()) {
            complain(
                *m_complaint,
                cells
                    ? tr("There are no cells in the drawer (Bench, Cells).")
                    : tr("The drawer of cells can't be read: %1").arg(qs(cells.error().message())));
            return;
        }
        asked.hand = std::move(cells).value();
    }
    m_running = true;
    m_found.reset();
    m_of = std::make_shared<const Project>(m_session.project());
    m_scatter->forget();
    m_soFar.reset();
    m_misses->clear();
    m_live = std::make_shared<LiveSearch>();
    m_stop = std::stop_source();
    m_go->setText(tr("Stop"));
    accentButton(*m_go, false);
    m_poll.start();
    showAll();
    poll();
    // Not of one revision: an edit that changes nothing it rests on lets it go on.
    m_session.jobs().run(
        kJob, Jobs::Priority::soon,
        [this, asked, live = m_live, own = m_stop, project = m_session.project(),
         folder = Session::partsFolder().toStdString(),
         parallelFor = m_session.jobs().parallelFor()](const std::stop_token& dropped,
                                                       const Jobs::Progress&) -> Jobs::Deliver {
            std::stop_source both = own;
            const std::stop_callback follow(dropped, [&both] { both.request_stop(); });
            auto found = std::make_shared<Outcome<Search>>(
                findSupplies(project, loadLibrary(folder), asked, both.get_token(),
                             LiveSearch::listener(live), parallelFor));
            return [this, found, asked, live, project = std::make_shared<const Project>(project)] {
                if (live != m_live)
                    return; // a newer one has begun
                m_running = false;
                m_soFar.reset();
                m_poll.stop();
                m_go->setText(tr("Search"));
                accentButton(*m_go, true);
                if (!*found) {
                    m_found.reset();
                    complain(*m_complaint, qs(found->error().message()));
                } else {
                    m_found = std::make_shared<const Search>(std::move(*found).value());
                    m_asked = asked;
                }
                m_of = project;
                showAll();
            };
        },
        this);
}

void FindView::stop() {
    m_stop.request_stop();
}

void FindView::poll() {
    if (!m_running)
        return;
    const SearchCounts counts = m_live->counts();
    auto soFar = std::make_shared<Search>();
    soFar->feasible = m_live->keptBeyond(m_soFar ? m_soFar->feasible.size() : 0);
    m_word->setText(countText(counts.kept));
    m_says->setText(
        tr("do it so far. %1 of %2 looked at, %3 run.")
            .arg(countText(counts.tried), countText(counts.total), countText(counts.ran)));
    m_bars->show(counts);
    if (soFar->feasible.empty())
        return;
    m_soFar = std::move(soFar);
    showScatter();
}

void FindView::showAll() {
    if (!m_running && m_found) {
        const Search& s = *m_found;
        m_word->setText(countText(s.counts.kept));
        const QString least =
            s.leastHours > 0 ? tr("run %1 or more").arg(hours(s.leastHours)) : tr("run");
        QString text =
            s.stopped
                ? tr("of those looked at before it was stopped %1. There may be better ones.")
                      .arg(least)
                : tr("of %1 supplies %2. %3 of them are beaten by none in weight, price and hours.")
                      .arg(countText(s.counts.tried), least, countText(s.paretoFront.size()));
        if (!s.stopped && s.counts.rejected[static_cast<std::size_t>(RejectReason::dominated)] > 0)
            text += tr(" %1 more were beaten before they had to run.")
                        .arg(countText(
                            s.counts.rejected[static_cast<std::size_t>(RejectReason::dominated)]));
        if (s.counts.kept == 0)
            text = tr("Nothing does it, of %1. Click a reason to see what would let some in.")
                       .arg(countText(s.counts.tried));
        m_says->setText(text);
        m_bars->show(s.counts);
        if (m_misses->text().isEmpty())
            m_misses->setText(tr("Click one to see what would let them in."));
    } else if (!m_running) {
        m_word->setText(tr("–"));
        m_says->setText(tr("Give it loads that draw something."));
        m_bars->show({});
    }
    showScatter();
    showList();
}

void FindView::showList() {
    std::vector<std::size_t> rows;
    if (m_found && !m_scatter->hasCorner())
        rows = m_found->shortList;
    else if (m_found)
        for (const std::size_t e : m_found->paretoFront)
            if (rows.size() < kMostRows && m_scatter->inCorner(m_found->feasible[e]))
                rows.push_back(e);
    // What is made of the user's own parts comes first.
    std::stable_sort(rows.begin(), rows.end(), [this](std::size_t a, std::size_t b) {
        return m_found->feasible[a].own > m_found->feasible[b].own;
    });
    const bool refills = std::any_of(rows.begin(), rows.end(), [this](std::size_t i) {
        return m_found->feasible[i].refill.has_value();
    });
    auto* title = findChild<QLabel*>(QStringLiteral("find.listTitle"));
    title->setText(m_scatter->hasCorner()
                       ? tr("In the chosen corner, beaten by none (Escape shows the short list)")
                       : tr("Short list"));
    const QSignalBlocker quiet(m_list);
    m_list->setRowCount(static_cast<int>(rows.size()));
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const Candidate& c = m_found->feasible[rows[i]];
        const QStringList texts{qs(c.says) + (c.own ? tr("  (yours to hand)") : QString()),
                                hours(c.hours),
                                quantity(c.grams, Unit::gram),
                                QString::number(c.price, 'f', 2),
                                qs(writeShare(c.worstShare)),
                                refillText(c),
                                weighText(c)};
        for (int column = 0; column < texts.size(); ++column) {
            auto* item = new QTableWidgetItem(texts[column]);
            item->setToolTip(texts[column]);
            item->setData(Qt::UserRole, static_cast<int>(rows[i]));
            if (column >= 1 && column <= 5)
                item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            if (column == 6)
                item->setForeground(colour(!c.advice            ? Role::muted
                                           : c.advice->stop > 0 ? Role::stop
                                           : c.advice->care > 0 ? Role::weigh
                                                                : Role::fine));
            m_list->setItem(static_cast<int>(i), column, item);
        }
    }
    m_list->setColumnHidden(5, !refills);
    for (int column = 1; column < 7; ++column)
        m_list->resizeColumnToContents(column);
    m_list->setColumnWidth(6, std::min(m_list->columnWidth(6), Theme::now().ipx(190)));
}

void FindView::showMisses(RejectReason fell) {
    if (!m_found)
        return;
    const auto k = static_cast<std::size_t>(fell);
    static constexpr std::array units{Unit::none,   Unit::kelvinPerWatt, Unit::volt, Unit::volt,
                                      Unit::ampere, Unit::none,          Unit::gram, Unit::money,
                                      Unit::none,   Unit::hour,          Unit::none};
    QString text;
    const double step = m_found->lets[k];
    const std::uint64_t many = m_found->lettingIn[k];
    const auto write = [&](double value) {
        return fell == RejectReason::cold       ? tr("%1 K").arg(value, 0, 'f', 0)
               : fell == RejectReason::tooDear  ? QString::number(value, 'f', 2)
               : fell == RejectReason::tooShort ? hours(value)
                                                : quantity(value, units[k]);
    };
    if (step > 0 && many > 0)
        text += tr("<b>%1 less</b> asked for, and %2 more would come through here.<br>")
                    .arg(write(step), countText(many));
    for (const NearMiss& miss : m_found->nearest[k])
        text += miss.by > 0
                    ? tr("· off by %1: %2<br>").arg(write(miss.by), qs(miss.says).toHtmlEscaped())
                    : tr("· %1<br>").arg(qs(miss.says).toHtmlEscaped());
    if (fell == RejectReason::dominated)
        text = tr("By a bound on their hours none of these can beat what ran: another is as light, "
                  "as cheap and runs longer.");
    m_misses->setText(text.isEmpty() ? tr("None came near.") : text);
}

void FindView::showScatter() {
    const auto& target = m_session.project().brief.targetRuntime;
    m_scatter->show(m_running ? m_soFar : m_found, m_running,
                    target ? std::optional(target->value()) : std::nullopt);
}

void FindView::takeKept(int index) {
    if (m_found && !m_running && index >= 0)
        take(m_found->feasible[static_cast<std::size_t>(index)].number);
}

void FindView::take(std::uint64_t number) {
    if (!m_of)
        return;
    complain(*m_complaint, {});
    m_session.jobs().runOnProject(
        kTakeJob, Jobs::Priority::shown,
        [this, number, of = m_of, asked = m_asked, folder = Session::partsFolder().toStdString()](
            const std::stop_token&, const Jobs::Progress&) -> Jobs::Deliver {
            auto taken = std::make_shared<Outcome<Project>>(
                takeCandidate(*of, loadLibrary(folder), asked, number, true));
            return [this, taken] {
                const auto trouble =
                    *taken ? m_session.addVariant(tr("a supply that was found"), taken->value())
                           : std::optional(taken->error());
                if (trouble)
                    complain(*m_complaint, qs(trouble->message()));
            };
        },
        this);
}

} // namespace sipper::app
