// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/start/startpage.hpp"

#include "inventory/inventory.hpp"
#include "project/file.hpp"
#include "text/text.hpp"
#include "theme/theme.hpp"
#include "views/start/conversionmatrix.hpp"
#include "views/start/linetile.hpp"
#include "views/start/requestline.hpp"
#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QFileInfo>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

constexpr int kStartPoll = 150;       ///< ms
constexpr double kSideBySideAt = 900; ///< px that matrix and recent files need beside each other
const QString kWishJob = QStringLiteral("start.wish");
const QString kLookJob = QStringLiteral("start.look.");

QString startTitleOf(QString name) {
    name.replace('-', ' ');
    if (!name.isEmpty())
        name[0] = name[0].toUpper();
    return name;
}

/// `today 14:05`, `yesterday`, `3 March`: when a file was written.
QString whenOf(const QDateTime& when) {
    const QDate today = QDate::currentDate();
    if (when.date() == today)
        return QObject::tr("today %1").arg(when.time().toString(QStringLiteral("hh:mm")));
    if (when.date().addDays(1) == today)
        return QObject::tr("yesterday %1").arg(when.time().toString(QStringLiteral("hh:mm")));
    return when.date().toString(when.date().year() == today.year() ? QStringLiteral("d MMMM")
                                                                   : QStringLiteral("d MMMM yyyy"));
}

} // namespace

StartPage::StartPage(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QString::fromLatin1(kStartPage));
    const Theme& t = Theme::now();
    QWidget* page = scrollingPage(this, QStringLiteral("start.scroll"));
    auto* column = newColumn(page, 8, Margins{16, 8, 16, 12});
    QHBoxLayout* title =
        viewTitle(this, tr("Start"), tr("say what it needs, or begin from something that runs"));
    auto* blank = pushButton(this, "start.blank", tr("Blank page"),
                             tr("A project with nothing on it, at its brief"));
    connect(blank, &QPushButton::clicked, this, &StartPage::blankAsked);
    title->addWidget(blank);
    column->addLayout(title);
    m_left = newColumn(nullptr, 6);
    column->addLayout(m_left);
    column->addWidget(buildWish());
    m_row = new QBoxLayout(QBoxLayout::LeftToRight);
    m_row->setSpacing(t.ipx(8));
    m_row->addWidget(buildMatrix(), 7);
    m_row->addWidget(buildRecent(), 3);
    column->addLayout(m_row);
    m_recipes = tiles(column, tr("Recipes"),
                      tr("supplies that run, with loads of their kind to overwrite"));
    m_examples = tiles(column, tr("Examples"), tr("whole projects, each with something to find"));
    column->addStretch();
    m_poll.setInterval(kStartPoll);
    connect(&m_poll, &QTimer::timeout, this, &StartPage::poll);
    fillLeft();
    fillRecent();
}

QWidget* StartPage::buildWish() {
    auto* card = newCard(this, "wishCard", tr("What it needs"));
    auto* column = newColumn(card, 8, Margins{16, 14, 16, 12});
    m_wish = new RequestLine(card);
    column->addWidget(m_wish);
    m_wishSays = mutedLabel({}, card, 12);
    m_wishSays->setObjectName(QStringLiteral("wish.says"));
    m_wishSays->setWordWrap(true);
    column->addWidget(m_wishSays);
    m_complaint = complaintLabel(QStringLiteral("wish.complaint"), card);
    column->addWidget(m_complaint);
    connect(m_wish, &RequestLine::asked, this, &StartPage::ask);
    connect(m_wish, &RequestLine::stopped, this, &StartPage::stop);
    connect(m_wish, &RequestLine::changed, this, &StartPage::sayWish);
    sayWish();
    return card;
}

QWidget* StartPage::buildMatrix() {
    const Theme& t = Theme::now();
    auto* card = newCard(this, "matrixCard", tr("Have against need"));
    auto* column = newColumn(card, 2, Margins{12, 8, 12, 8});
    auto* title =
        textLabel(card, tr("What you have, and what it wants"), {.size = 13, .bold = true});
    column->addWidget(title);
    auto* matrix = new ConversionMatrix(card);
    column->addWidget(matrix);
    m_why = mutedLabel({}, card, 11.5);
    m_why->setObjectName(QStringLiteral("matrix.why"));
    m_why->setWordWrap(true);
    m_why->setFixedHeight(t.ipx(32));
    m_why->setAlignment(Qt::AlignLeft | Qt::AlignTop);
    column->addWidget(m_why);
    column->addStretch();
    const QString rest = tr("What stands between, from full cells to their cut-off. A field opens "
                            "the recipe.");
    m_why->setText(rest);
    connect(matrix, &ConversionMatrix::pointed, this,
            [this, rest](const QString& why) { m_why->setText(why.isEmpty() ? rest : why); });
    connect(matrix, &ConversionMatrix::chosen, this, &StartPage::madeFor);
    return card;
}

QWidget* StartPage::buildRecent() {
    const Theme& t = Theme::now();
    auto* card = newCard(this, "recentCard", tr("Opened lately"));
    auto* column = newColumn(card, 6, Margins{12, 8, 12, 8});
    auto* title = textLabel(card, tr("Opened lately"), {.size = 13, .bold = true});
    column->addWidget(title);
    auto* box = new QWidget;
    m_recent = newColumn(box, 6, Margins{0, 0, 4, 0});
    auto* scroll = new QScrollArea(card);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setWidget(box);
    scroll->viewport()->setAutoFillBackground(false);
    box->setAutoFillBackground(false);
    column->addWidget(scroll, 1);
    card->setMinimumWidth(t.ipx(320));
    return card;
}

FlowLayout* StartPage::tiles(QVBoxLayout* column, const QString& title, const QString& about) {
    const Theme& t = Theme::now();
    auto* head = new QHBoxLayout;
    auto* label = textLabel(this, title, {.size = 13, .bold = true});
    head->addWidget(label);
    head->addWidget(mutedLabel(about, this, 12));
    head->addStretch();
    head->setContentsMargins(0, t.ipx(8), 0, 0);
    column->addLayout(head);
    auto* box = new QWidget(this);
    auto* flow = new FlowLayout(box, t.ipx(8), t.ipx(8));
    column->addWidget(box);
    return flow;
}

/// The tiles are made at once, and say what they know; the lines are solved beside the window.
void StartPage::fillShipped() {
    const auto folder = [](const char* name) {
        return QString::fromStdString((dataFolder() / name).string()) + '/';
    };
    for (const Session::Shipped& s : Session::recipes()) {
        auto* tile = new LineTile("recipe." + s.name, s.title, s.about, false, this);
        connect(tile, &QAbstractButton::clicked, this,
                [this, name = s.name] { emit recipeChosen(name); });
        m_recipes->addWidget(tile);
        lookAt(tile, folder("recipes") + s.name + QStringLiteral(".sipper"));
    }
    for (const QString& name : Session::exampleNames()) {
        auto* tile = new LineTile("example." + name, startTitleOf(name), {}, true, this);
        connect(tile, &QAbstractButton::clicked, this, [this, name] { emit exampleChosen(name); });
        m_examples->addWidget(tile);
        lookAt(tile, folder("examples") + name + QStringLiteral(".sipper"));
    }
}

void StartPage::lookAt(LineTile* tile, const QString& path) {
    m_session.jobs().run(
        kLookJob + tile->objectName(), Jobs::Priority::idle,
        [tile, path](const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
            const auto read = loadProject(path.toStdString());
            if (!read)
                return [tile, why = qs(escapeForTerminal(read.error().message()))] {
                    tile->setBroken(why);
                };
            if (stop.stop_requested())
                return {};
            auto look = tileLookOf(read.value().project);
            return [tile, look] { tile->setLook(look); };
        },
        tile);
}

/// What a program that ended without saving has left, each with when and how much.
void StartPage::fillLeft() {
    clearLayout(*m_left);
    int number = 0;
    for (const RecoveryKeeper::UnsavedDocument& left : RecoveryKeeper::left())
        if (!m_session.recovery().declined(left))
            m_left->addWidget(leftRow(left, number++));
}

QWidget* StartPage::leftRow(const RecoveryKeeper::UnsavedDocument& left, int number) {
    const Theme& t = Theme::now();
    const Recovery& r = left.recovery;
    auto* row =
        newCard(this, QStringLiteral("left%1").arg(number), tr("Not saved when Sipper ended"));
    auto* line = newRow(row, 10, Margins{12, 8, 8, 8});
    const QString name =
        r.document.name.empty() ? tr("Untitled") : qs(escapeForTerminal(r.document.name));
    const QString file =
        r.path.empty() ? qs(escapeForTerminal(r.origin)) : QFileInfo(qs(r.path)).fileName();
    QString trouble;
    if (left.trouble) {
        QStringList gone;
        for (const std::string& pointer : r.lost)
            gone << qs(escapeForTerminal(pointer)).toHtmlEscaped();
        Error why = *left.trouble;
        why.file.clear();
        trouble = tr("It can't be read as it stands: %1. It lies at %2.")
                      .arg(qs(escapeForTerminal(why.message())).toHtmlEscaped(),
                           qs(escapeForTerminal(left.file.string())).toHtmlEscaped());
        if (left.any)
            trouble +=
                tr(" Everything else of it can be opened; left out: %1.").arg(gone.join(", "));
    }
    auto* says = new QLabel(
        !left.any
            ? tr("<b>A recovery was left.</b> ") + trouble
            : tr("<b>%1</b> was not saved when Sipper ended: %2, the last at %3%4.")
                      .arg(name.toHtmlEscaped(),
                           r.edits == 1 ? tr("one edit") : tr("%1 edits").arg(r.edits),
                           qs(escapeForTerminal(r.when)).toHtmlEscaped(),
                           file.isEmpty() ? QString()
                                          : QStringLiteral(" (%1)").arg(file.toHtmlEscaped())) +
                  (trouble.isEmpty() ? QString() : QStringLiteral(" ") + trouble),
        row);
    says->setObjectName(QStringLiteral("left.%1.says").arg(number));
    says->setTextFormat(Qt::RichText);
    says->setFont(t.font(12.5));
    says->setWordWrap(true);
    line->addWidget(says, 1);
    auto* take = new QPushButton(left.trouble ? tr("Open what can be read") : tr("Open it"), row);
    take->setVisible(left.any);
    take->setObjectName(QStringLiteral("left.%1.take").arg(number));
    take->setProperty("accent", true);
    take->setToolTip(tr("Opens it as changed and not saved; the file on disk stays as it is"));
    connect(take, &QPushButton::clicked, this, [this, left] { emit leftChosen(left); });
    auto* later =
        pushButton(row, QStringLiteral("left.%1.decline").arg(number), tr("Not now"),
                   tr("Stays on disk until something is saved, and is not offered again"));
    connect(later, &QPushButton::clicked, this, [this, left] {
        m_session.recovery().decline(left);
        QTimer::singleShot(0, this, &StartPage::fillLeft);
    });
    line->addWidget(later);
    line->addWidget(take);
    return row;
}

void StartPage::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (!m_filled) {
        m_filled = true;
        fillShipped();
    }
    fillLeft();
    fillRecent();
    QTimer::singleShot(0, m_wish, [this] {
        if (isVisible())
            m_wish->focusFirst();
    });
}

void StartPage::hideEvent(QHideEvent* event) {
    QWidget::hideEvent(event);
    stop();
}

void StartPage::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    m_row->setDirection(width() >= Theme::now().ipx(kSideBySideAt) ? QBoxLayout::LeftToRight
                                                                   : QBoxLayout::TopToBottom);
}

void StartPage::fillRecent() {
    clearLayout(*m_recent);
    const QStringList recent = Session::recentFiles();
    for (const QString& path : recent) {
        const QFileInfo file(path);
        auto* tile = new LineTile("recent." + path, file.completeBaseName(), path, true, this);
        tile->stretch();
        tile->setWhen(file.exists() ? whenOf(file.lastModified()) : tr("gone"));
        connect(tile, &QAbstractButton::clicked, this, [this, path] { emit recentChosen(path); });
        m_recent->addWidget(tile);
        // A page that is not shown works nothing out.
        if (isVisible())
            lookAt(tile, path);
    }
    if (recent.isEmpty()) {
        QLabel* none = mutedLabel(
            tr("Nothing yet. What you open or save is listed here, with how long it runs."), this,
            12);
        none->setWordWrap(true);
        m_recent->addWidget(none);
    }
    m_recent->addStretch();
}

void StartPage::sayWish() {
    complain(*m_complaint, {});
    m_wishSays->setText(qs(wishText(m_wish->wish())));
}

void StartPage::ask() {
    const SupplyRequest wish = m_wish->wish();
    if (const auto base = projectOf(wish); !base) {
        complain(*m_complaint, qs(base.error().message()));
        return;
    }
    complain(*m_complaint, {});
    m_live = std::make_shared<LiveSearch>();
    m_wish->setBusy(true);
    m_poll.start();
    m_session.jobs().run(
        kWishJob, Jobs::Priority::shown,
        [this, wish, live = m_live, parts = Session::partsFolder(), drawer = Session::drawerPath(),
         parallelFor = m_session.jobs().parallelFor()](const std::stop_token& stopped,
                                                       const Jobs::Progress&) -> Jobs::Deliver {
            std::vector<OwnedCell> hand;
            if (wish.from == RequestedSource::hand) {
                auto cells = readCellFile(drawer.toStdString());
                if (!cells && QFileInfo::exists(drawer))
                    return [this, error = cells.error()] { said(error); };
                if (cells)
                    hand = std::move(cells).value();
            }
            const Library library = loadLibrary(parts.toStdString());
            auto got = proposeSupplies(wish, library, hand, stopped, LiveSearch::listener(live),
                                       parallelFor);
            if (!got)
                return [this, error = got.error()] { said(error); };
            auto found = std::make_shared<const Proposal>(std::move(got).value());
            return [this, found] {
                m_poll.stop();
                m_wish->setBusy(false);
                sayWish();
                emit granted(found);
            };
        },
        this);
}

/// The search has come to nothing.
void StartPage::said(const Error& error) {
    m_poll.stop();
    m_wish->setBusy(false);
    sayWish();
    if (error.code != "stopped")
        complain(*m_complaint, qs(error.message()));
}

void StartPage::stop() {
    if (!m_session.jobs().busy(kWishJob))
        return;
    m_session.jobs().stop(kWishJob);
    m_poll.stop();
    m_wish->setBusy(false);
    sayWish();
}

void StartPage::poll() {
    if (!m_live)
        return;
    const SearchCounts n = m_live->counts();
    m_wishSays->setText(
        tr("%1 of %2 supplies looked at, %3 run: %4 do it so far.")
            .arg(countText(n.tried), countText(n.total), countText(n.ran), countText(n.kept)));
}

bool StartPage::waitForIdle() {
    return m_session.jobs().waitForIdle();
}

} // namespace sipper::app
