// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/mainwindow.hpp"

#include "project/differences.hpp"
#include "project/file.hpp"
#include "project/library.hpp"
#include "shell/advicepanel.hpp"
#include "shell/steplist.hpp"
#include "shell/varianttabs.hpp"
#include "shell/verdictstrip.hpp"
#include "shell/viewtable.hpp"
#include "text/text.hpp"
#include "theme/theme.hpp"
#include "views/library/librarydialog.hpp"
#include "views/loads/loadsview.hpp"
#include "views/start/startpage.hpp"
#include "views/sums/sumsdrawer.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"
#include "widgets/widgetstate.hpp"

#include <QApplication>
#include <QCloseEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QGraphicsOpacityEffect>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QStackedWidget>
#include <QTimer>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

constexpr double kFoldUnder =
    1120; ///< px of window at 100 %: narrower, and the advice folds by itself

constexpr double kPale = 0.45; ///< of figures that are not this project's yet

QAction* newAction(QMenu* menu, const QString& text, const QKeySequence& keys, const char* name,
                   const std::function<void()>& slot) {
    QAction* action = menu->addAction(text);
    action->setShortcut(keys);
    action->setObjectName(QString::fromLatin1(name));
    QObject::connect(action, &QAction::triggered, menu, slot);
    return action;
}

/// The one local file that is dragged, of a kind that can be opened; else nothing.
QString droppedFile(const QMimeData* mime) {
    const QList<QUrl> urls = mime->urls();
    if (urls.size() != 1 || !urls.front().isLocalFile())
        return {};
    const QString path = urls.front().toLocalFile();
    const QString kind = QFileInfo(path).suffix().toLower();
    return kind == "sipper" || kind == "csv" ? path : QString();
}

} // namespace

MainWindow::MainWindow(Session& session, QWidget* parent)
    : QMainWindow(parent), m_session(session) {
    setObjectName(QStringLiteral("sipper"));
    setAcceptDrops(true);
    askForReal();
    buildMenus();
    buildBody();
    connect(&session, &Session::documentChanged, this, &MainWindow::refreshTitle);
    connect(&session, &Session::documentChanged, this, &MainWindow::showFrame);
    connect(&session, &Session::projectChanged, this, &MainWindow::refreshTitle);
    connect(&session, &Session::projectChanged, this, [this] { m_message->hide(); });
    connect(&session, &Session::refused, this, &MainWindow::say);
    connect(&session, &Session::lateChanged, this, &MainWindow::showLate);
    qApp->installEventFilter(this);
    setMinimumSize(760, 540);
    resize(1280, 800);
    refreshTitle();
}

/// The dialogs that tests answer for.
void MainWindow::askForReal() {
    askBeforeLosing = [this](const QString& about) {
        QMessageBox box(QMessageBox::Question, tr("Sipper"), about,
                        QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
        box.setDefaultButton(QMessageBox::Save);
        switch (box.exec()) {
        case QMessageBox::Save:
            return Answer::save;
        case QMessageBox::Discard:
            return Answer::discard;
        default:
            return Answer::cancel;
        }
    };
    askBeforeOverwriting = [this](const QString& about) {
        QMessageBox box(QMessageBox::Question, tr("Sipper"), about, QMessageBox::Cancel, this);
        const auto* over = box.addButton(tr("Overwrite it"), QMessageBox::DestructiveRole);
        const auto* as = box.addButton(tr("Save as…"), QMessageBox::AcceptRole);
        const auto* look = box.addButton(tr("What differs?"), QMessageBox::HelpRole);
        box.setDefaultButton(QMessageBox::Cancel);
        box.exec();
        return box.clickedButton() == over   ? Overwrite::overwrite
               : box.clickedButton() == as   ? Overwrite::saveAs
               : box.clickedButton() == look ? Overwrite::differences
                                             : Overwrite::cancel;
    };
    showDifferences = [this](const QString& text) {
        QMessageBox::information(this, tr("File and document"), text);
    };
    askWhereToSave = [this] {
        const QString start = m_session.path().isEmpty()
                                  ? qs(partFileName(m_session.project().name)) + ".sipper"
                                  : m_session.path();
        return QFileDialog::getSaveFileName(this, tr("Save the project"), start,
                                            tr("Sipper projects (*.sipper)"));
    };
    askWhatToOpen = [this] {
        return QFileDialog::getOpenFileName(this, tr("Open a project"), {},
                                            tr("Sipper projects (*.sipper);;All files (*)"));
    };
}

void MainWindow::buildMenus() {
    fillFileMenu(menuBar()->addMenu(tr("&File")));
    fillEditMenu(menuBar()->addMenu(tr("&Edit")));
    fillViewMenu(menuBar()->addMenu(tr("&View")));
    QMenu* help = menuBar()->addMenu(tr("&Help"));
    newAction(help, tr("&About and cautions"), {}, "action.about", [this] { about(); });
}

void MainWindow::fillFileMenu(QMenu* file) {
    newAction(file, tr("S&tart page"), QKeySequence(tr("Ctrl+N")), "action.start",
              [this] { showView(QString::fromLatin1(kStartPage)); });
    QMenu* examples = file->addMenu(tr("Open an &example"));
    examples->setObjectName(QStringLiteral("menu.examples"));
    for (const QString& name : Session::exampleNames()) {
        QString title = name;
        title.replace('-', ' ');
        title[0] = title[0].toUpper();
        newAction(examples, title, {}, "", [this, name] {
            if (confirmDiscard())
                openExample(name);
        });
    }
    newAction(file, tr("&Open…"), QKeySequence::Open, "action.open", [this] {
        if (!confirmDiscard())
            return;
        if (const QString path = askWhatToOpen(); !path.isEmpty())
            openPath(path);
    });
    m_recent = file->addMenu(tr("Open &recent"));
    m_recent->setObjectName(QStringLiteral("menu.recent"));
    connect(m_recent, &QMenu::aboutToShow, this, &MainWindow::fillRecent);
    file->addSeparator();
    newAction(file, tr("&Save"), QKeySequence::Save, "action.save", [this] { save(); });
    newAction(file, tr("Save &as…"), QKeySequence(tr("Ctrl+Shift+S")), "action.saveAs",
              [this] { saveAs(); });
    file->addSeparator();
    newAction(file, tr("&Quit"), QKeySequence::Quit, "action.quit", [this] { close(); });
}

void MainWindow::fillEditMenu(QMenu* edit) {
    QAction* undo = m_session.undoStack().createUndoAction(this, tr("Undo"));
    undo->setShortcut(QKeySequence::Undo);
    undo->setObjectName(QStringLiteral("action.undo"));
    QAction* redo = m_session.undoStack().createRedoAction(this, tr("Redo"));
    redo->setShortcuts({QKeySequence(tr("Ctrl+Shift+Z")), QKeySequence(tr("Ctrl+Y"))});
    redo->setObjectName(QStringLiteral("action.redo"));
    edit->addAction(undo);
    edit->addAction(redo);
    edit->addSeparator();
    newAction(edit, tr("Another &variant"), QKeySequence(tr("Ctrl+T")), "action.variant.add",
              [this] { m_strip->tabs().addCopy(); });
    newAction(edit, tr("&Rename this variant…"), {}, "action.variant.rename",
              [this] { m_strip->tabs().rename(m_session.variant()); });
    newAction(edit, tr("Re&move this variant"), {}, "action.variant.remove",
              [this] { m_strip->tabs().remove(m_session.variant()); });
    newAction(edit, tr("&Next variant"), QKeySequence(tr("Ctrl+Tab")), "action.variant.next",
              [this] { m_strip->tabs().next(); });
}

void MainWindow::fillViewMenu(QMenu* view) {
    bool steps = true;
    for (const ViewEntry& entry : viewTable()) {
        if (steps && entry.step == 0)
            view->addSeparator();
        steps = entry.step > 0;
        newAction(view, tr(entry.menu), QKeySequence(QString::fromLatin1(entry.keys)),
                  (std::string("action.view.") + entry.name).c_str(),
                  [this, name = QString::fromLatin1(entry.name)] { showView(name); });
    }
    newAction(view, tr("Li&brary of parts…"), QKeySequence(tr("Ctrl+B")), "action.library",
              [this] { LibraryDialog(m_session, {}, this).exec(); });
    newAction(view, tr("&Quick sums"), QKeySequence(tr("Ctrl+K")), "action.sums",
              [this] { m_sums->isVisibleTo(this) ? m_sums->hide() : m_sums->open(); });
    newAction(view, tr("Ne&xt advice"), QKeySequence(Qt::Key_F8), "action.nextAdvice",
              [this] { m_advice->next(); });
    newAction(view, tr("&Fold advice"), QKeySequence(tr("Ctrl+D")), "action.fold",
              [this] { fold(!m_advice->folded()); });
    view->addSeparator();
    QAction* night = newAction(view, tr("&Night theme"), QKeySequence(tr("Ctrl+Shift+N")),
                               "action.night", [] {});
    night->setCheckable(true);
    night->setChecked(Theme::now().night());
    connect(night, &QAction::toggled, this, &MainWindow::setNight);
}

QWidget* MainWindow::buildMessage(QWidget* parent) {
    m_message = new QWidget(parent);
    m_message->setObjectName(QStringLiteral("message"));
    m_message->setAutoFillBackground(true);
    auto* line = newRow(m_message, {}, Margins{20, 6, 16, 6});
    m_messageText = new QLabel(m_message);
    m_messageText->setObjectName(QStringLiteral("message.text"));
    m_messageText->setTextFormat(Qt::PlainText);
    m_messageText->setWordWrap(true);
    m_messageText->setTextInteractionFlags(Qt::TextSelectableByMouse);
    m_messageText->setStyleSheet(inkOf(m_trouble ? Role::stop : Role::ink));
    auto* dismiss = pushButton(m_message, "message.dismiss", tr("Understood"));
    connect(dismiss, &QPushButton::clicked, m_message, &QWidget::hide);
    line->addWidget(m_messageText, 1);
    line->addWidget(dismiss);
    m_message->hide();
    return m_message;
}

/// Figures of before are paler until those of this project are there. Nothing is locked.
void MainWindow::showLate(bool late) {
    for (QWidget* part : {static_cast<QWidget*>(m_views), static_cast<QWidget*>(m_advice)}) {
        if (!late) {
            part->setGraphicsEffect(nullptr);
            continue;
        }
        auto* pale = new QGraphicsOpacityEffect(part);
        pale->setOpacity(kPale);
        part->setGraphicsEffect(pale);
    }
}

/// `trouble`: in the colour of what has to be mended; else it is good to know.
void MainWindow::tell(const QString& text, bool trouble) {
    m_trouble = trouble;
    m_messageText->setStyleSheet(inkOf(trouble ? Role::stop : Role::ink));
    m_messageText->setText(text);
    m_message->show();
}

StartPage* MainWindow::buildStart() {
    auto* start = new StartPage(m_session);
    connect(start, &StartPage::recentChosen, this, [this](const QString& path) {
        if (confirmDiscard())
            openPath(path);
    });
    connect(start, &StartPage::recipeChosen, this, [this](const QString& name) {
        if (confirmDiscard() && openRecipe(name))
            showView(QStringLiteral("brief"));
    });
    connect(start, &StartPage::exampleChosen, this, [this](const QString& name) {
        if (confirmDiscard())
            openExample(name);
    });
    connect(start, &StartPage::leftChosen, this,
            [this](const RecoveryKeeper::UnsavedDocument& left) {
                if (confirmDiscard())
                    openLeft(left);
            });
    connect(start, &StartPage::madeFor, this, [this](SourceKind have, double volts) {
        if (!confirmDiscard())
            return;
        auto made = fittedRecipe(have, volts);
        if (!made)
            return say(made.error());
        m_session.openMade(std::move(made).value(), tr("a recipe made over, not saved"));
        static_cast<void>(opened(std::nullopt));
    });
    connect(start, &StartPage::granted, this, &MainWindow::openGranted);
    connect(start, &StartPage::blankAsked, this, [this] { showView(QStringLiteral("brief")); });
    return start;
}

/// Three supplies side by side, the first shown; where nothing does it, the finder says why.
void MainWindow::openGranted(const std::shared_ptr<const Proposal>& granted) {
    if (!confirmDiscard())
        return;
    m_session.openMade(granted->document, granted->variants == 0 ? tr("nothing found, not saved")
                                                                 : tr("found for you, not saved"));
    static_cast<void>(opened(std::nullopt));
    if (granted->variants == 0)
        showView(QStringLiteral("find"));
    tell(qs(escapeForTerminal(granted->says)), granted->variants == 0);
}

void MainWindow::buildBody() {
    const QString view = m_views ? currentView() : QStringLiteral("supply-line");
    auto* body = new QWidget;
    auto* column = newColumn(body, 0, Margins{});
    m_strip = new VerdictStrip(m_session, body);
    column->addWidget(m_strip);
    column->addWidget(buildMessage(body));
    auto* row = newRow(nullptr, 0);
    m_steps = new StepList(m_session, body);
    row->addWidget(m_steps);
    m_views = new QStackedWidget(body);
    m_views->addWidget(buildStart());
    for (const ViewEntry& entry : viewTable())
        m_views->addWidget(entry.make(m_session));
    if (const auto* loads = m_views->findChild<LoadsView*>())
        connect(loads, &LoadsView::troubled, this, &MainWindow::say);
    row->addWidget(m_views, 1);
    m_advice = new AdvicePanel(m_session, body);
    row->addWidget(m_advice);
    column->addLayout(row, 1);
    m_sums = new SumsDrawer(body);
    m_sums->hide();
    connect(m_sums, &SumsDrawer::closed, m_sums, &QWidget::hide);
    column->addWidget(m_sums);
    setCentralWidget(body);

    connect(m_steps, &StepList::chosen, this, &MainWindow::showView);
    connect(m_strip, &VerdictStrip::asked, this, &MainWindow::showView);
    connect(&m_strip->tabs(), &VariantTabs::compareAsked, this,
            [this] { showView(QStringLiteral("compare")); });
    connect(&m_strip->tabs(), &VariantTabs::troubled, this, &MainWindow::say);
    connect(m_strip, &VerdictStrip::adviceAsked, m_advice, &AdvicePanel::next);
    connect(&m_session, &Session::viewAsked, m_advice,
            [this](const QString& name) { showView(name); });
    connect(m_advice, &AdvicePanel::foldAsked, this, &MainWindow::fold);
    showView(view);
}

void MainWindow::showView(const QString& view) {
    for (int i = 0; i < m_views->count(); ++i)
        if (m_views->widget(i)->objectName() == view)
            m_views->setCurrentIndex(i);
    m_steps->setCurrent(currentView());
    showFrame();
    // Keys go on from what is shown, not from what was left.
    if (const QWidget* at = focusWidget(); isVisible() && (!at || !at->isVisibleTo(this)))
        m_views->currentWidget()->setFocus(Qt::OtherFocusReason);
    // Here the figures are a load's.
    if (view == "loads" && !m_session.project().load(m_session.selected().toStdString()) &&
        !m_session.project().loads.empty())
        m_session.select(qs(m_session.project().loads.front().id));
}

/// Verdict, steps and advice are of a project: before there is one they stay away.
void MainWindow::showFrame() {
    const bool start = currentView() == kStartPage;
    const bool bare = start && !m_session.hasProject();
    m_strip->setVisible(!bare);
    m_steps->setVisible(!bare);
    m_advice->setVisible(!start);
}

QString MainWindow::currentView() const {
    return m_views->currentWidget()->objectName();
}

void MainWindow::fold(bool folded) {
    m_foldChosen = true;
    m_advice->setFolded(folded);
}

void MainWindow::foldByWidth() {
    if (!m_foldChosen)
        m_advice->setFolded(width() < Theme::now().px(kFoldUnder));
}

void MainWindow::resizeEvent(QResizeEvent* event) {
    QMainWindow::resizeEvent(event);
    foldByWidth();
}

/// Keys reach the window before anything in it was clicked, also where no window manager hands out
/// the focus.
void MainWindow::showEvent(QShowEvent* event) {
    QMainWindow::showEvent(event);
    activateWindow();
    if (!focusWidget())
        setFocus(Qt::ActiveWindowFocusReason);
}

/// What follows a release of the mouse is another edit than what came before it.
bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::MouseButtonRelease)
        QMetaObject::invokeMethod(
            this, [this] { m_session.endGesture(); }, Qt::QueuedConnection);
    // A field with nothing of its own to take back leaves Ctrl+Z to the project.
    if (event->type() == QEvent::ShortcutOverride)
        if (const auto* field = qobject_cast<QLineEdit*>(watched)) {
            const auto* key = static_cast<QKeyEvent*>(event);
            if ((key->matches(QKeySequence::Undo) && !field->isUndoAvailable()) ||
                (key->matches(QKeySequence::Redo) && !field->isRedoAvailable())) {
                event->ignore();
                return true;
            }
        }
    return QMainWindow::eventFilter(watched, event);
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
    if (!droppedFile(event->mimeData()).isEmpty())
        event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
    const QString path = droppedFile(event->mimeData());
    if (path.isEmpty())
        return;
    event->acceptProposedAction();
    if (path.endsWith(QStringLiteral(".csv"), Qt::CaseInsensitive)) {
        showView(QStringLiteral("loads"));
        if (auto* loads = m_views->findChild<LoadsView*>())
            loads->openTrace(path);
    } else if (confirmDiscard()) {
        openPath(path);
    }
}

void MainWindow::restoreLayout() {
    const QSettings settings;
    restoreGeometry(settings.value(QStringLiteral("window/geometry")).toByteArray());
    if (settings.value(QStringLiteral("window/foldChosen")).toBool())
        fold(settings.value(QStringLiteral("window/folded")).toBool());
    const QString view = settings.value(QStringLiteral("window/view")).toString();
    if (viewNamed(view.toStdString()))
        showView(view);
}

void MainWindow::fillRecent() {
    m_recent->clear();
    for (const QString& path : Session::recentFiles())
        connect(m_recent->addAction(path), &QAction::triggered, this, [this, path] {
            if (confirmDiscard())
                openPath(path);
        });
    if (m_recent->isEmpty())
        m_recent->addAction(tr("nothing opened yet"))->setEnabled(false);
}

/// Colours are taken when a widget is made: the body is made anew, and what was set on it is set
/// again.
void MainWindow::setNight(bool night) {
    const QVariantMap state = stateOf(*centralWidget());
    const bool sums = m_sums->isVisibleTo(this);
    const bool folded = m_advice->folded();
    const bool message = m_message->isVisibleTo(this);
    const QString text = m_messageText->text();
    Theme::use(night, Theme::now().scale());
    QSettings().setValue(QStringLiteral("night"), night);
    buildBody();
    m_advice->setFolded(folded);
    m_sums->setVisible(sums);
    m_messageText->setText(text);
    m_message->setVisible(message);
    // Once the new page has been shown, and has filled itself.
    QTimer::singleShot(0, centralWidget(),
                       [page = centralWidget(), state] { restoreWidgets(*page, state); });
}

void MainWindow::about() {
    QMessageBox::about(
        this, tr("About Sipper"),
        tr("<b>Sipper %1</b><p>Designs the supply of a small project, from cells to loads.</p>"
           "<p>Its figures are a model's: measure before you rely on them. Lithium cells: never "
           "short, crush, heat, over- or "
           "under-charge them, never charge them unattended, and take damaged ones out of use. Put "
           "a fuse at the pack. Keep mains "
           "adapters closed. Wall and fixed wiring, and what rides in a vehicle, belongs to local "
           "codes and licensed people.</p>"
           "<p>Free software under the GNU General Public License, version 3 or later.</p>")
            .arg(QApplication::applicationVersion()));
}

} // namespace sipper::app
