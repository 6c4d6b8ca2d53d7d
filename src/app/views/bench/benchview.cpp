#include "views/bench/benchview.hpp"

#include "bench/words.hpp"
#include "views/bench/benchlist.hpp"
#include "views/bench/instrumentcard.hpp"
#include "views/bench/learncard.hpp"
#include "views/bench/readingcard.hpp"
#include "widgets/panel.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QAction>
#include <QDateTime>
#include <QLabel>
#include <QScrollArea>
#include <QSettings>
#include <QVBoxLayout>
#include <set>

namespace sipper::app {
namespace {

constexpr double kSideBySide = 600; ///< px that list and card need beside each other

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
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(t.ipx(16), t.ipx(8), t.ipx(16), t.ipx(12));
    column->setSpacing(t.ipx(8));
    column->addLayout(
        viewTitle(this, tr("Bench"), tr("what the model expects, what the meter says")));
    column->addLayout(answerRow(this, QStringLiteral("bench"), m_word, m_says));
    m_complaint = complaintLabel(QStringLiteral("bench.complaint"), this);
    column->addWidget(m_complaint);
    auto* card = new QFrame(this);
    makeCard(*card, QStringLiteral("benchCard"), tr("Checks, in order"));
    auto* inside = new QVBoxLayout(card);
    inside->setContentsMargins(t.ipx(4), t.ipx(8), t.ipx(4), t.ipx(8));
    auto* head = new QLabel(tr("Checks, in order"), card);
    head->setFont(t.font(13, true));
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
    inside->addWidget(keys);
    m_card = new ReadingCard(session, this);
    m_card->setMinimumWidth(t.ipx(220));
    m_row = new QBoxLayout(QBoxLayout::LeftToRight);
    m_row->setSpacing(t.ipx(8));
    m_learn = new LearnCard(session, this);
    m_learn->setMinimumWidth(t.ipx(260));
    // In a low window the cards keep their height and scroll.
    auto* right = new QWidget(this);
    auto* beside = new QVBoxLayout(scrollingPage(right, QStringLiteral("bench.beside")));
    beside->setContentsMargins(0, 0, 0, 0);
    beside->setSpacing(t.ipx(8));
    beside->addWidget(m_card, 3);
    beside->addWidget(m_learn, 4);
    m_bench = new InstrumentCard(right);
    beside->addWidget(m_bench);
    m_row->addWidget(card, 7);
    m_row->addWidget(right, 5);
    column->addLayout(m_row, 1);
    connect(m_learn, &LearnCard::refused, this,
            [this](const QString& says) { complain(*m_complaint, says); });
    connect(m_bench, &InstrumentCard::refused, this,
            [this](const QString& says) { complain(*m_complaint, says); });
    connect(m_bench, &InstrumentCard::measured, this, [this](double value) {
        complain(*m_complaint, {});
        take(m_list->marked(), value);
    });
    connect(m_bench, &InstrumentCard::finished, m_learn, &LearnCard::learnFrom);
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
    m_learn->refresh();
}

bool BenchView::settle() {
    return m_learn->settle();
}

void BenchView::showLook() {
    const int all = static_cast<int>(m_look->checks.size());
    const int open = m_look->count(CheckVerdict::untested);
    const int outside = m_look->count(CheckVerdict::outside);
    m_word->setText(tr("%1 of %2").arg(all - open).arg(all));
    QString text = all == open    ? tr("read: nothing yet. Begin at the top, nothing connected.")
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
    m_says->setText(text);
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
}

void BenchView::readMeter() {
    const int at = m_list->marked();
    if (!m_look || at < 0 || at >= static_cast<int>(m_look->checks.size()))
        return;
    const BenchCheck& c = m_look->checks[static_cast<std::size_t>(at)];
    const Unit unit = unitRead(c.kind, c.quantity);
    if (unit == Unit::celsius)
        complain(*m_complaint, tr("The meter reads volts and amps; type the temperature."));
    else
        m_bench->readMeter(unit == Unit::ampere);
}

void BenchView::take(int row, double value) {
    if (!m_look || row < 0 || row >= static_cast<int>(m_look->checks.size()))
        return;
    const BenchCheck& c = m_look->checks[static_cast<std::size_t>(row)];
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
    r.when =
        QDateTime::currentDateTime().toString(QStringLiteral("yyyy-MM-ddTHH:mm")).toStdString();
    r.meter = m_card->meter().toStdString();
    r.note = m_card->note().toStdString();
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
