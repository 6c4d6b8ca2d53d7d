#include "views/find/findview.hpp"

#include "project/file.hpp"
#include "views/find/fellbars.hpp"
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
constexpr double kNear = 12;            ///< px within which a click means a point
constexpr double kPastShort = 2;        ///< times the short list's reach, that is shown
constexpr int kMostRows = 40;           ///< of the list, where a corner is chosen

/// Does a search make the same of both?
bool sameKept(const Project& a, const Project& b) {
    const Kept x = keptOf(a);
    const Kept y = keptOf(b);
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

QString byText(const Candidate::Refilled& refill) {
    return refill.by == "socket"    ? QObject::tr("a 5 V socket")
           : refill.by == "adapter" ? QObject::tr("a wall adapter")
           : refill.by == "sun"     ? QObject::tr("the sun")
                                    : qs(refill.by);
}

/// How long a refill takes, or by what; empty where no charger fits.
QString refillText(const Candidate& c) {
    if (!c.refill)
        return QObject::tr("no charger");
    return c.refill->hours ? hours(*c.refill->hours) : byText(*c.refill);
}

} // namespace

FindView::FindView(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("find"));
    setFocusPolicy(Qt::StrongFocus);
    const Theme& t = Theme::now();
    auto* page = scrollingPage(this, QStringLiteral("find.scroll"));
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(t.ipx(16), t.ipx(8), t.ipx(16), t.ipx(12));
    column->setSpacing(t.ipx(8));
    column->addLayout(viewTitle(this, tr("Find a supply"),
                                tr("every supply that the parts can make, for these loads and "
                                   "this brief")));
    column->addLayout(answerRow(this, QStringLiteral("find"), m_word, m_says));
    m_complaint = complaintLabel(QStringLiteral("find.complaint"), this);
    column->addWidget(m_complaint);
    column->addLayout(buildLimits());
    m_row = new QBoxLayout(QBoxLayout::LeftToRight);
    m_row->setSpacing(t.ipx(8));
    m_row->addWidget(buildScatter(), 7);
    m_row->addWidget(buildFell(), 4);
    column->addLayout(m_row, 6);
    column->addWidget(buildList(), 4);
    m_poll.setInterval(kPollEvery);
    connect(&m_poll, &QTimer::timeout, this, &FindView::poll);
    new Refresher(this, session, {&Session::projectChanged}, [this] { refresh(); });
}

QLayout* FindView::buildLimits() {
    const Theme& t = Theme::now();
    auto* row = new QHBoxLayout;
    row->setSpacing(t.ipx(8));
    const auto field = [&](const QString& text, const FieldFacts& facts, const char* name,
                           std::optional<double>& into) {
        row->addWidget(mutedLabel(text, this, 12));
        auto* edit = new QuantityEdit(facts, this);
        edit->setObjectName(QStringLiteral("find.") + QLatin1String(name));
        edit->setFixedWidth(t.ipx(72));
        connect(edit, &QuantityEdit::committed, this, [this, &into](std::optional<double> v) {
            into = v;
            start();
        });
        row->addWidget(edit);
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
    row->addWidget(mutedLabel(tr("of"), this, 12));
    m_cells = new PlainCombo(this);
    m_cells->setObjectName(QStringLiteral("find.cells"));
    m_cells->setAccessibleName(tr("Which cells"));
    m_cells->addItems({tr("all cells"), tr("cells to hand")});
    connect(m_cells, &QComboBox::activated, this, [this] { start(); });
    row->addWidget(m_cells);
    m_go = new QPushButton(tr("Search"), this);
    m_go->setObjectName(QStringLiteral("find.go"));
    accentButton(*m_go, true);
    connect(m_go, &QPushButton::clicked, this, [this] { m_running ? stop() : start(); });
    row->addWidget(m_go);
    row->addStretch();
    return row;
}

QWidget* FindView::buildScatter() {
    const Theme& t = Theme::now();
    auto* card = new QFrame(this);
    makeCard(*card, QStringLiteral("findScatter"), tr("All that do it"));
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(t.ipx(8), t.ipx(6), t.ipx(8), t.ipx(6));
    column->setSpacing(t.ipx(4));
    auto* head = new QHBoxLayout;
    head->setSpacing(t.ipx(6));
    const auto box = [&](const char* name, const QString& says, Axis& axis) {
        auto* combo = new PlainCombo(card);
        combo->setObjectName(QStringLiteral("find.") + QLatin1String(name));
        combo->setAccessibleName(says);
        combo->setToolTip(says);
        combo->setMinimumContentsLength(8);
        combo->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        for (const Axis a :
             {Axis::hours, Axis::grams, Axis::price, Axis::size, Axis::worst, Axis::refill})
            combo->addItem(axisText(a), static_cast<int>(a));
        combo->setCurrentIndex(combo->findData(static_cast<int>(axis)));
        connect(combo, &QComboBox::activated, this, [this, combo, &axis] {
            axis = static_cast<Axis>(combo->currentData().toInt());
            m_corner.reset();
            showScatter();
            showList();
        });
        head->addWidget(combo);
        return combo;
    };
    m_yBox = box("y", tr("Upwards"), m_y);
    head->addWidget(mutedLabel(tr("over"), card, 12));
    m_xBox = box("x", tr("To the right"), m_x);
    m_wide = new QPushButton(tr("Show all"), card);
    m_wide->setObjectName(QStringLiteral("find.wide"));
    m_wide->setCheckable(true);
    m_wide->setToolTip(tr("All that do it, or those about the short list"));
    connect(m_wide, &QPushButton::toggled, this, [this](bool on) {
        m_showAll = on;
        accentButton(*m_wide, on);
        showScatter();
    });
    head->addWidget(m_wide);
    head->addStretch();
    m_takeButton = new QPushButton(tr("Take as variant"), card);
    m_takeButton->setObjectName(QStringLiteral("find.take"));
    m_takeButton->setToolTip(tr("The chosen supply as another variant of this project (Enter)"));
    connect(m_takeButton, &QPushButton::clicked, this, [this] {
        if (m_found && m_chosen >= 0)
            take(m_found->kept[static_cast<std::size_t>(m_chosen)].number);
    });
    head->addWidget(m_takeButton);
    column->addLayout(head);
    m_plot = new QCustomPlot(card);
    m_plot->setObjectName(QStringLiteral("find.plot"));
    m_plot->setAccessibleName(tr("Every supply that does it"));
    m_plot->setToolTip(tr("A click chooses, a double click takes; drag over a corner to list it"));
    stylePlot(*m_plot);
    m_plot->setMinimumHeight(t.ipx(190));
    m_plot->setSelectionRectMode(QCP::srmCustom);
    m_plot->selectionRect()->setPen(QPen(colour(Role::copper), 1, Qt::DashLine));
    m_plot->selectionRect()->setBrush(onCard(Role::copper, 0.1));
    for (QCPAxis* axis : {m_plot->xAxis, m_plot->yAxis}) {
        axis->setScaleType(QCPAxis::stLogarithmic);
        axis->grid()->setVisible(true);
    }
    m_all = m_plot->addGraph();
    m_all->setName(tr("does it"));
    m_own = m_plot->addGraph();
    m_own->setName(tr("of your own parts"));
    m_edge = m_plot->addGraph();
    m_edge->setName(tr("beaten by none"));
    m_yours = m_plot->addGraph();
    m_yours->setName(tr("yours"));
    m_mark = m_plot->addGraph();
    m_mark->setName(tr("chosen"));
    for (QCPGraph* graph : {m_all, m_own, m_edge, m_yours, m_mark})
        graph->setLineStyle(QCPGraph::lsNone);
    const auto dots = [&](Role line, const QColor& fill, double size, double width) {
        return QCPScatterStyle(QCPScatterStyle::ssCircle, QPen(colour(line), t.px(width)), fill,
                               t.px(size));
    };
    m_all->setScatterStyle(
        QCPScatterStyle(QCPScatterStyle::ssDisc, onCard(Role::copper, 0.35), t.px(4)));
    m_own->setScatterStyle(
        QCPScatterStyle(QCPScatterStyle::ssDisc, colour(Role::charging), t.px(5)));
    m_edge->setScatterStyle(
        QCPScatterStyle(QCPScatterStyle::ssDisc, colour(Role::copper), t.px(7)));
    m_yours->setScatterStyle(dots(Role::ink, colour(Role::card), 12, 2.2));
    m_mark->setScatterStyle(dots(Role::copper, Qt::transparent, 16, 2));
    connect(m_plot, &QCustomPlot::mouseRelease, this, [this](QMouseEvent* event) {
        if (m_plot->selectionRect()->rect().width() < 4)
            pick(event->pos());
    });
    connect(m_plot, &QCustomPlot::mouseMove, this, [this](QMouseEvent* event) {
        if (event->buttons() != Qt::NoButton)
            return;
        const int under = nearest(event->pos());
        say(under >= 0 ? under : m_chosen);
    });
    connect(m_plot, &QCustomPlot::mouseDoubleClick, this, [this](QMouseEvent* event) {
        pick(event->pos());
        if (m_found && m_chosen >= 0)
            take(m_found->kept[static_cast<std::size_t>(m_chosen)].number);
    });
    connect(m_plot->selectionRect(), &QCPSelectionRect::accepted, this, [this](const QRect& rect) {
        const QRect r = rect.normalized();
        if (r.width() < 8 || r.height() < 8)
            return;
        m_corner = QRectF(
            QPointF(m_plot->xAxis->pixelToCoord(r.left()), m_plot->yAxis->pixelToCoord(r.bottom())),
            QPointF(m_plot->xAxis->pixelToCoord(r.right()), m_plot->yAxis->pixelToCoord(r.top())));
        showList();
    });
    column->addWidget(m_plot, 1);
    m_hover = new QLabel(card);
    m_hover->setObjectName(QStringLiteral("find.chosen"));
    m_hover->setFont(t.font(12));
    m_hover->setWordWrap(true);
    column->addWidget(m_hover);
    return card;
}

QWidget* FindView::buildFell() {
    const Theme& t = Theme::now();
    auto* card = new QFrame(this);
    makeCard(*card, QStringLiteral("findFell"), tr("Why the others fell out"));
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(t.ipx(12), t.ipx(8), t.ipx(12), t.ipx(8));
    column->setSpacing(t.ipx(6));
    auto* title = new QLabel(tr("Why the others fell out"), card);
    title->setFont(t.font(13, true));
    column->addWidget(title);
    m_bars = new FellBars(card);
    column->addWidget(m_bars);
    m_misses = mutedLabel(tr("Click one to see what would let them in."), card, 11.5);
    m_misses->setObjectName(QStringLiteral("find.misses"));
    m_misses->setWordWrap(true);
    column->addWidget(m_misses);
    column->addStretch();
    connect(m_bars, &FellBars::chosen, this, &FindView::showMisses);
    return card;
}

QWidget* FindView::buildList() {
    const Theme& t = Theme::now();
    auto* card = new QFrame(this);
    makeCard(*card, QStringLiteral("findList"), tr("Short list"));
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(t.ipx(8), t.ipx(8), t.ipx(8), t.ipx(6));
    auto* title = new QLabel(tr("Short list"), card);
    title->setObjectName(QStringLiteral("find.listTitle"));
    title->setFont(t.font(13, true));
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
            choose(m_list->item(row, 0)->data(Qt::UserRole).toInt());
    });
    connect(m_list, &QTableWidget::cellActivated, this, [this](int row) {
        if (m_found && m_list->item(row, 0)) {
            const int at = m_list->item(row, 0)->data(Qt::UserRole).toInt();
            if (at >= 0)
                take(m_found->kept[static_cast<std::size_t>(at)].number);
        }
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
    if (event->key() == Qt::Key_Escape && m_corner) {
        m_corner.reset();
        showList();
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

SearchAsk FindView::ask() const {
    SearchAsk a;
    a.mostGrams = m_grams;
    a.mostPrice = m_price;
    a.leastHours = m_hours;
    a.adviseEdge = false;
    return a;
}

void FindView::refresh() {
    // What was found stands for as long as the same is kept of the project: the supplies that are
    // taken as variants are of it too.
    const Project& now = m_session.project();
    if (m_of && m_of->modes == now.modes && m_of->brief == now.brief && sameKept(*m_of, now)) {
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
    SearchAsk asked = ask();
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
    m_of.reset();
    m_chosen = -1;
    m_corner.reset();
    m_live = std::make_shared<Live>();
    m_stop = std::stop_source();
    m_go->setText(tr("Stop"));
    accentButton(*m_go, false);
    m_poll.start();
    showAll();
    poll();
    m_session.jobs().runOnProject(
        kJob, Jobs::Priority::soon,
        [this, asked, live = m_live, own = m_stop, project = m_session.project(),
         folder = Session::partsFolder().toStdString(), crew = m_session.jobs().crew()](
            const std::stop_token& dropped, const Jobs::Progress&) -> Jobs::Deliver {
            std::stop_source both = own;
            const std::stop_callback follow(dropped, [&both] { both.request_stop(); });
            auto found = std::make_shared<Outcome<Search>>(findSupplies(
                project, loadLibrary(folder), asked, both.get_token(),
                [&live](const SearchCounts& counts) {
                    const std::scoped_lock lock(live->mutex);
                    live->counts = counts;
                },
                crew));
            return [this, found, asked, project = std::make_shared<const Project>(project)] {
                m_running = false;
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
    SearchCounts counts;
    {
        const std::scoped_lock lock(m_live->mutex);
        counts = m_live->counts;
    }
    m_word->setText(countText(counts.kept));
    m_says->setText(counts.tried == 0 || counts.ran == 0
                        ? tr("sifting: %1 looked at so far, %2 worth a run.")
                              .arg(countText(counts.tried), countText(counts.toRun))
                        : tr("do it so far; %1 of at most %2 run.")
                              .arg(countText(counts.ran), countText(counts.toRun)));
    m_bars->show(counts);
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
                      .arg(countText(s.counts.tried), least, countText(s.edge.size()));
        if (!s.stopped && s.counts.fell[static_cast<std::size_t>(Fell::beaten)] > 0)
            text += tr(" %1 more were beaten before they had to run.")
                        .arg(countText(s.counts.fell[static_cast<std::size_t>(Fell::beaten)]));
        if (s.counts.kept == 0)
            text = tr("Nothing does it, of %1. Click a reason to see what would let some in.")
                       .arg(countText(s.counts.tried));
        m_says->setText(text);
        m_bars->show(s.counts);
    } else if (!m_running) {
        m_word->setText(tr("–"));
        m_says->setText(tr("Give it loads that draw something."));
        m_bars->show({});
    }
    showScatter();
    showList();
}

double FindView::valueOn(const Candidate& c, Axis axis) {
    switch (axis) {
    case Axis::hours:
        return c.hours;
    case Axis::grams:
        return c.grams;
    case Axis::price:
        return c.price;
    case Axis::size:
        return c.millilitres;
    case Axis::worst:
        return c.worstShare * 100;
    case Axis::refill: // what has none is not shown on it
        return c.refill ? c.refill->hours.value_or(0) : 0;
    }
    return 0;
}

QString FindView::axisText(Axis axis) const {
    switch (axis) {
    case Axis::hours:
        return tr("hours");
    case Axis::grams:
        return tr("grams");
    case Axis::price:
        return tr("price");
    case Axis::size:
        return tr("size of the cells, ml");
    case Axis::worst:
        return tr("worst draw, % of what cells allow");
    case Axis::refill:
        return tr("hours to refill");
    }
    return {};
}

void FindView::showScatter() {
    for (QCPGraph* graph : {m_all, m_own, m_edge, m_yours, m_mark})
        graph->data()->clear();
    m_plot->clearItems();
    m_takeButton->setEnabled(m_chosen >= 0);
    for (QCPAxis* axis : {m_plot->xAxis, m_plot->yAxis})
        axis->setVisible(m_found != nullptr);
    if (!m_found) {
        m_wide->hide();
        say(-1);
        m_plot->replot(QCustomPlot::rpQueuedReplot);
        return;
    }
    const Search& s = *m_found;
    double left = 1e300;
    double right = 0;
    double low = 1e300;
    double high = 0;
    const auto see = [&](double x, double y) {
        if (x <= 0 || y <= 0)
            return;
        left = std::min(left, x);
        right = std::max(right, x);
        low = std::min(low, y);
        high = std::max(high, y);
    };
    QVector<double> x;
    QVector<double> y;
    QVector<double> ownX;
    QVector<double> ownY;
    for (const Candidate& c : s.kept) {
        x << valueOn(c, m_x);
        y << valueOn(c, m_y);
        see(x.back(), y.back());
        if (c.own) {
            ownX << x.back();
            ownY << y.back();
        }
    }
    m_all->setData(x, y);
    m_own->setData(ownX, ownY);
    x.clear();
    y.clear();
    m_onEdge.assign(s.kept.size(), false);
    for (const std::size_t e : s.edge) {
        m_onEdge[e] = true;
        x << valueOn(s.kept[e], m_x);
        y << valueOn(s.kept[e], m_y);
    }
    m_edge->setData(x, y);
    if (s.hasYours && s.yours.hours > 0) {
        m_yours->setData({valueOn(s.yours, m_x)}, {valueOn(s.yours, m_y)});
        see(valueOn(s.yours, m_x), valueOn(s.yours, m_y));
        auto* text = new QCPItemText(m_plot);
        text->setText(tr("yours"));
        text->setFont(Theme::now().font(12, true));
        text->setColor(colour(Role::ink));
        text->setPositionAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        text->setPadding(QMargins(Theme::now().ipx(10), 0, 0, 0));
        text->position->setCoords(valueOn(s.yours, m_x), valueOn(s.yours, m_y));
    }
    const auto& target = m_session.project().brief.targetRuntime;
    if (target && m_y == Axis::hours)
        see(left, target->value());
    // Near the short list, unless all are asked for: far out there are packs of half a ton.
    m_wide->setVisible(!s.shortList.empty());
    if (!m_showAll && !s.shortList.empty()) {
        const auto reach = [&](Axis axis, double& most) {
            double there = 0;
            for (const std::size_t i : s.shortList)
                there = std::max(there, valueOn(s.kept[i], axis));
            if (s.hasYours)
                there = std::max(there, valueOn(s.yours, axis));
            most = std::min(most, kPastShort * there);
        };
        reach(m_x, right);
        reach(m_y, high);
    }
    if (right > 0) {
        m_plot->xAxis->setRange(left / 1.15, right * 1.15);
        // Room over the target's own words.
        m_plot->yAxis->setRange(low / 1.25, high * std::max(1.3, std::pow(high / low, 0.09)));
    }
    for (const auto& [axis, kind] :
         {std::pair{m_plot->xAxis, m_x}, std::pair{m_plot->yAxis, m_y}}) {
        axis->setLabel(axisText(kind));
        auto ticks = QSharedPointer<QCPAxisTickerText>::create();
        if (kind == Axis::hours || kind == Axis::refill) {
            for (const double at : {1.0 / 60, 1.0 / 6, 1.0, 2.0, 5.0, 10.0, 24.0, 48.0, 120.0,
                                    240.0, 720.0, 2160.0, 8766.0, 43830.0})
                ticks->addTick(at, hours(at));
        } else {
            const double span = axis->range().upper / std::max(axis->range().lower, 1e-12);
            for (double decade = 1e-6; decade < 1e9; decade *= 10)
                for (const double of : {1.0, 2.0, 5.0})
                    if (of == 1 || span < 3000)
                        ticks->addTick(of * decade, kind == Axis::grams
                                                        ? quantity(of * decade, Unit::gram)
                                                        : QString::number(of * decade, 'g', 6));
        }
        axis->setTicker(ticks);
    }
    if (target && m_y == Axis::hours) {
        auto* rule = new QCPItemStraightLine(m_plot);
        rule->setPen(QPen(colour(Role::fine), Theme::now().px(1.5), Qt::DashLine));
        rule->point1->setCoords(m_plot->xAxis->range().lower, target->value());
        rule->point2->setCoords(m_plot->xAxis->range().upper, target->value());
        auto* text = new QCPItemText(m_plot);
        text->setText(tr("target %1").arg(hours(target->value())));
        text->setFont(Theme::now().font(12, true));
        text->setColor(colour(Role::fine));
        text->setPositionAlignment(Qt::AlignRight | Qt::AlignBottom);
        text->position->setTypeX(QCPItemPosition::ptAxisRectRatio);
        text->position->setTypeY(QCPItemPosition::ptPlotCoords);
        text->position->setCoords(0.99, target->value());
    }
    if (m_chosen >= 0) {
        const Candidate& c = s.kept[static_cast<std::size_t>(m_chosen)];
        m_mark->setData({valueOn(c, m_x)}, {valueOn(c, m_y)});
    }
    say(m_chosen);
    m_plot->replot(QCustomPlot::rpQueuedReplot);
}

bool FindView::inCorner(const Candidate& c) const {
    return !m_corner ||
           (valueOn(c, m_x) >= m_corner->left() && valueOn(c, m_x) <= m_corner->right() &&
            valueOn(c, m_y) >= std::min(m_corner->top(), m_corner->bottom()) &&
            valueOn(c, m_y) <= std::max(m_corner->top(), m_corner->bottom()));
}

void FindView::showList() {
    std::vector<std::size_t> rows;
    if (m_found && !m_corner)
        rows = m_found->shortList;
    else if (m_found)
        for (const std::size_t e : m_found->edge)
            if (rows.size() < kMostRows && inCorner(m_found->kept[e]))
                rows.push_back(e);
    // What is made of the user's own parts comes first.
    std::stable_sort(rows.begin(), rows.end(), [this](std::size_t a, std::size_t b) {
        return m_found->kept[a].own > m_found->kept[b].own;
    });
    const auto& by = m_session.project().brief.refilledBy;
    const bool refills = by && std::any_of(by->begin(), by->end(),
                                           [](const std::string& way) { return way != "swap"; });
    auto* title = findChild<QLabel*>(QStringLiteral("find.listTitle"));
    title->setText(m_corner
                       ? tr("In the chosen corner, beaten by none (Escape shows the short list)")
                       : tr("Short list"));
    const QSignalBlocker quiet(m_list);
    m_list->setRowCount(static_cast<int>(rows.size()));
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const Candidate& c = m_found->kept[rows[i]];
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

void FindView::showMisses(Fell fell) {
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
        return fell == Fell::cold       ? tr("%1 K").arg(value, 0, 'f', 0)
               : fell == Fell::tooDear  ? QString::number(value, 'f', 2)
               : fell == Fell::tooShort ? hours(value)
                                        : quantity(value, units[k]);
    };
    if (step > 0 && many > 0)
        text += tr("<b>%1 less</b> asked for, and %2 more would come through here.<br>")
                    .arg(write(step), countText(many));
    for (const Miss& miss : m_found->nearest[k])
        text += miss.by > 0
                    ? tr("· off by %1: %2<br>").arg(write(miss.by), qs(miss.says).toHtmlEscaped())
                    : tr("· %1<br>").arg(qs(miss.says).toHtmlEscaped());
    if (fell == Fell::beaten)
        text = tr("By a bound on their hours none of these can beat what ran: another is as light, "
                  "as cheap and runs longer.");
    m_misses->setText(text.isEmpty() ? tr("None came near.") : text);
}

void FindView::choose(int index) {
    m_chosen = index;
    showScatter();
}

int FindView::nearest(const QPoint& at) const {
    int best = -1;
    double least = Theme::now().px(kNear);
    for (std::size_t i = 0; m_found && i < m_found->kept.size(); ++i) {
        const Candidate& c = m_found->kept[i];
        const double dx = m_plot->xAxis->coordToPixel(valueOn(c, m_x)) - at.x();
        const double dy = m_plot->yAxis->coordToPixel(valueOn(c, m_y)) - at.y();
        // Those of the edge are meant first.
        const double away = std::hypot(dx, dy) * (m_onEdge[i] ? 0.5 : 1);
        if (away < least) {
            least = away;
            best = static_cast<int>(i);
        }
    }
    return best;
}

void FindView::say(int index) {
    if (!m_found || index < 0) {
        m_hover->setText(m_running ? tr("Searching…")
                         : m_found ? tr("Point at one: the whole supply in one line.")
                                   : QString());
        return;
    }
    const Candidate& c = m_found->kept[static_cast<std::size_t>(index)];
    QString text = tr("<b>%1 · %2 · %3</b>  %4")
                       .arg(hours(c.hours), quantity(c.grams, Unit::gram))
                       .arg(c.price, 0, 'f', 2)
                       .arg(qs(c.says).toHtmlEscaped());
    if (c.refill)
        text +=
            tr("; refilled by %1: %2").arg(byText(*c.refill), qs(c.refill->says).toHtmlEscaped());
    m_hover->setText(text);
}

void FindView::pick(const QPoint& at) {
    if (const int index = nearest(at); index >= 0)
        choose(index);
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
