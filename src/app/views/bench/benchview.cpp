// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/benchview.hpp"

#include "measure/text.hpp"
#include "views/bench/benchlist.hpp"
#include "views/bench/calibrationcard.hpp"
#include "views/bench/instrumentcard.hpp"
#include "views/bench/inventorypage.hpp"
#include "views/bench/logbookpage.hpp"
#include "views/bench/pinspairspage.hpp"
#include "views/bench/readingcard.hpp"
#include "views/bench/runspage.hpp"
#include "views/bench/supplybox.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QAction>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QSettings>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <array>
#include <set>
#include <tuple>

namespace sipper::app {
namespace {

constexpr double kSideBySide = 760; ///< px that list and card need beside each other

/// A name that no reading has yet.
std::string freeReading(const Project& p) {
    std::set<std::string> taken;
    for (const Reading& r : p.readings.all())
        taken.insert(r.id);
    for (std::size_t n = taken.size() + 1;; ++n)
        if (std::string id = "r" + std::to_string(n); !taken.contains(id))
            return id;
}

} // namespace

BenchView::BenchView(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("bench"));
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 8, Margins{16, 8, 16, 12});
    QHBoxLayout* title =
        viewTitle(this, tr("Bench"), tr("what the model expects, what the meter says"));
    title->addLayout(buildPages());
    column->addLayout(title);
    column->addLayout(answerRow(this, QStringLiteral("bench"), m_word, m_says));
    m_complaint = complaintLabel(QStringLiteral("bench.complaint"), this);
    column->addWidget(m_complaint);
    m_pages = new QStackedWidget(this);
    m_pages->addWidget(buildChecks());
    m_card = new ReadingCard(session, this);
    m_learn = new CalibrationCard(session, this);
    m_bench = new InstrumentCard(session, this);
    m_runs = new RunsPage(session, *m_learn, this);
    m_cells = new InventoryPage(session, this);
    m_aside = new PinsPairsPage(session, this);
    m_book = new LogbookPage(session, this);
    const std::array<std::pair<QWidget*, const char*>, 4> pages{{{m_runs, "bench.runsScroll"},
                                                                 {m_cells, "bench.cellsScroll"},
                                                                 {m_aside, "bench.asideScroll"},
                                                                 {m_book, "bench.bookScroll"}}};
    for (const auto& [page, name] : pages) {
        auto* holder = new QWidget(m_pages);
        auto* inside = newColumn(scrollingPage(holder, QLatin1String(name)), {}, Margins{});
        inside->addWidget(page);
        m_pages->addWidget(holder);
    }
    buildBeside();
    m_row = new QBoxLayout(QBoxLayout::LeftToRight);
    m_row->setSpacing(t.ipx(8));
    m_row->addWidget(m_pages, 8);
    m_row->addWidget(m_beside, 5);
    column->addLayout(m_row, 1);
    const auto say = [this](const QString& says) { complain(*m_complaint, says); };
    connect(m_cells, &InventoryPage::refused, this, say);
    connect(m_aside, &PinsPairsPage::refused, this, say);
    connect(m_runs, &RunsPage::answered, this, &BenchView::showAnswer);
    connect(m_cells, &InventoryPage::answered, this, &BenchView::showAnswer);
    connect(m_aside, &PinsPairsPage::answered, this, &BenchView::showAnswer);
    connect(m_book, &LogbookPage::answered, this, &BenchView::showAnswer);
    connect(m_bench, &InstrumentCard::finished, this, [this] { choose(kRuns); });
    connect(m_learn, &CalibrationCard::refused, this,
            [this](const QString& says) { complain(*m_complaint, says); });
    connect(m_bench, &InstrumentCard::refused, this,
            [this](const QString& says) { complain(*m_complaint, says); });
    connect(m_bench, &InstrumentCard::measured, this, [this](double value) {
        complain(*m_complaint, {});
        take(m_list->marked(), value);
    });
    connect(m_bench, &InstrumentCard::finished, m_learn, &CalibrationCard::learnFrom);
    connect(&m_bench->supply(), &SupplyBox::taken, this, &BenchView::readSupply);
    auto* read = new QAction(tr("Read the meter"), this);
    read->setObjectName(QStringLiteral("action.readMeter"));
    read->setShortcut(QKeySequence(Qt::Key_F9));
    read->setShortcutContext(Qt::WidgetWithChildrenShortcut);
    connect(read, &QAction::triggered, this, &BenchView::readMeter);
    addAction(read);
    // Who walks the list chooses; an edit elsewhere does not move the choice back here.
    connect(m_list, &BenchList::moved, this, [this](int row) {
        showCheck();
        if (m_look && row >= 0 && row < static_cast<int>(m_look->checks.size()))
            m_session.select(qs(m_look->checks[static_cast<std::size_t>(row)].at));
    });
    connect(m_list, &BenchList::typed, this, &BenchView::take);
    connect(m_list, &BenchList::wants, this, [this](const QRect& place) {
        m_scroll->ensureVisible(place.center().x(), place.center().y(), 0, place.height() * 2);
    });
    new Refresher(this, session, {&Session::projectChanged}, [this] { refresh(); });
    choose(kChecks);
}

QLayout* BenchView::buildPages() {
    auto* row = newRow(nullptr, 4);
    const std::array<std::tuple<QString, const char*, QString>, 5> pages{
        {{tr("Checks"), "bench.checks", tr("What the meter should say, in order")},
         {tr("Runs"), "bench.runs", tr("Runs of the pack over what was predicted")},
         {tr("Cells"), "bench.cells", tr("The cells to hand, and which belong together")},
         {tr("Pins and noise"), "bench.aside",
          tr("Which pin is which, and what the new supply disturbs")},
         {tr("Logbook"), "bench.logbook", tr("What was measured, and how the pack ages")}}};
    for (const auto& [text, name, help] : pages) {
        auto* button = pushButton(this, QLatin1String(name) + QStringLiteral(".show"), text, help);
        const int page = static_cast<int>(m_buttons.size());
        connect(button, &QPushButton::clicked, this, [this, page] { choose(page); });
        row->addWidget(button);
        m_buttons << button;
    }
    return row;
}

QWidget* BenchView::buildChecks() {
    const Theme& t = Theme::now();
    auto* card = newCard(this, "benchCard", tr("Checks, in order"));
    auto* inside = newColumn(card, {}, Margins{4, 8, 4, 8});
    auto* head = textLabel(card, tr("Checks, in order"), {.size = 13, .bold = true});
    head->setContentsMargins(t.ipx(8), 0, 0, 0);
    inside->addWidget(head);
    m_list = new BenchList(card);
    m_scroll = new QScrollArea(card);
    m_scroll->setWidgetResizable(true);
    m_scroll->setFrameShape(QFrame::NoFrame);
    m_scroll->setFocusPolicy(Qt::NoFocus);
    m_scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_scroll->setWidget(m_list);
    m_scroll->viewport()->setAutoFillBackground(false);
    m_list->setAutoFillBackground(false);
    inside->addWidget(m_scroll, 1);
    QLabel* keys =
        mutedLabel(tr("Arrows walk the list · type the figure, or F9 reads the meter; it "
                      "goes on to the next"),
                   card, 11);
    keys->setContentsMargins(t.ipx(8), 0, 0, 0);
    keys->setWordWrap(true);
    inside->addWidget(keys);
    return card;
}

/// In a low window the cards keep their height and scroll.
void BenchView::buildBeside() {
    const Theme& t = Theme::now();
    m_beside = new QWidget(this);
    auto* beside = newColumn(scrollingPage(m_beside, QStringLiteral("bench.beside")), 8, Margins{});
    m_card->setMinimumWidth(t.ipx(220));
    m_learn->setMinimumWidth(t.ipx(260));
    beside->addWidget(m_card, 3);
    beside->addWidget(m_learn, 4);
    beside->addWidget(m_bench);
}

void BenchView::choose(int page) {
    m_page = page;
    for (int i = 0; i < m_buttons.size(); ++i)
        accentButton(*m_buttons[i], i == page);
    m_pages->setCurrentIndex(page);
    m_card->setVisible(page == kChecks);
    m_beside->setVisible(page == kChecks || page == kRuns);
    complain(*m_complaint, {});
    // While it can't be seen nothing is worked out, nor chosen.
    if (isVisible())
        refresh();
}

void BenchView::showAnswer() {
    const auto say = [this](const QString& word, const QString& says) {
        m_word->setText(word);
        m_says->setText(says);
    };
    switch (m_page) {
    case kRuns:
        return say(m_runs->word(), m_runs->says());
    case kCells:
        return say(m_cells->word(), m_cells->says());
    case kAside:
        return say(m_aside->word(), m_aside->says());
    case kLogbook:
        return say(m_book->word(), m_book->says());
    default:
        return say(m_lookWord, m_lookSays);
    }
}

void BenchView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    m_row->setDirection(width() >= Theme::now().ipx(kSideBySide) ? QBoxLayout::LeftToRight
                                                                 : QBoxLayout::TopToBottom);
}

void BenchView::refresh() {
    m_look = m_session.results().bench;
    if (m_look)
        showLook();
    if (m_page == kChecks || m_page == kRuns)
        m_learn->refresh();
    if (m_page == kRuns)
        m_runs->refresh();
    if (m_page == kCells)
        m_cells->refresh();
    if (m_page == kAside)
        m_aside->refresh();
    if (m_page == kLogbook)
        m_book->refresh();
    showAnswer();
}

bool BenchView::settle() {
    return m_learn->settle();
}

void BenchView::showLook() {
    const int all = static_cast<int>(m_look->checks.size());
    const int open = m_look->count(CheckVerdict::untested);
    const int outside = m_look->count(CheckVerdict::outside);
    m_lookWord = tr("%1 of %2").arg(all - open).arg(all);
    QString text =
        all == open ? tr("read. Begin at the top, nothing connected: ten minutes for all of them.")
        : outside == 0 ? tr("read, all inside their band.")
        : outside == 1 ? tr("read, one outside its band.")
                       : tr("read, %1 outside their bands.").arg(outside);
    if (m_session.project().pack() && all != open)
        text += tr(" The cells are taken to be at %1.").arg(qs(writeShare(m_look->charge)));
    if (!m_look->unmatched.empty())
        text += m_look->unmatched.size() == 1
                    ? tr(" One reading belongs to nothing that is there now.")
                    : tr(" %1 readings belong to nothing that is there now.")
                          .arg(m_look->unmatched.size());
    m_lookSays = text;
    m_bench->supply().expect(*m_look);
    m_list->show(m_session.project(), *m_look);
    if (m_next) {
        m_next = false;
        m_list->markNext();
    }
    showCheck();
}

void BenchView::showCheck() {
    const int at = m_list->marked();
    if (!m_look || at < 0 || at >= static_cast<int>(m_look->checks.size())) {
        m_card->showNothing();
        return;
    }
    const BenchCheck& check = m_look->checks[static_cast<std::size_t>(at)];
    m_card->show(check);
    m_bench->supply().follow(check.mode);
}

void BenchView::readMeter() {
    const int at = m_list->marked();
    if (!m_look || at < 0 || at >= static_cast<int>(m_look->checks.size()))
        return;
    const BenchCheck& c = m_look->checks[static_cast<std::size_t>(at)];
    m_bench->readMeter(c);
}

/// The supply stands where the cells do: it reads what is checked there, and nothing else.
void BenchView::readSupply(double amps) {
    const int at = m_list->marked();
    const Stage* pack = m_session.project().packStage();
    if (!m_look || !pack || at < 0 || at >= static_cast<int>(m_look->checks.size()))
        return;
    const BenchCheck& c = m_look->checks[static_cast<std::size_t>(at)];
    const Unit unit = unitRead(c.kind, c.quantity);
    if (unit != Unit::ampere || c.at != pack->id) {
        complain(*m_complaint,
                 tr("The supply stands in the cells' place: it reads the amps that are drawn of "
                    "them. Mark one of those checks."));
        return;
    }
    complain(*m_complaint, {});
    take(at, amps);
}

void BenchView::take(int row, double value) {
    if (!m_look || row < 0 || row >= static_cast<int>(m_look->checks.size()))
        return;
    const BenchCheck& c = m_look->checks[static_cast<std::size_t>(row)];
    if (const QString light = m_card->lightComplaint(); !light.isEmpty()) {
        complain(*m_complaint, tr("Light: %1").arg(light));
        return;
    }
    Reading r;
    r.id = freeReading(m_session.project());
    r.checks = c.kind;
    r.at = c.at;
    r.mode = c.mode;
    if (c.kind == CheckKind::point)
        r.quantity = c.quantity;
    switch (unitRead(c.kind, c.quantity)) {
    case Unit::volt:
        r.volts = Volts{value};
        break;
    case Unit::ampere:
        r.amps = Amps{value};
        break;
    default:
        r.celsius = Celsius{value};
    }
    r.when = minuteNow();
    r.meter = m_card->meter().toStdString();
    r.note = m_card->note().toStdString();
    r.light = m_card->light();
    if (m_card->corrects())
        r.supersedes = c.reading;
    Project p = m_session.project();
    p.readings = p.readings.with(std::move(r));
    m_next = true;
    const QString name = tr("a reading of %1").arg(qs(checkTitle(p, c)));
    if (const auto trouble = m_session.edit(name, std::move(p))) {
        m_next = false;
        complain(*m_complaint, qs(trouble->message()));
        return;
    }
    QSettings().setValue("bench/meter", m_card->meter());
    m_card->forgetNote();
    complain(*m_complaint, {});
}

} // namespace sipper::app
