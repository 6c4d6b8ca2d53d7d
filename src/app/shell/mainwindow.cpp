#include "shell/mainwindow.hpp"

#include "shell/advicepanel.hpp"
#include "shell/steplist.hpp"
#include "shell/varianttabs.hpp"
#include "shell/verdictstrip.hpp"
#include "theme/theme.hpp"
#include "views/brief/briefview.hpp"
#include "views/compare/compareview.hpp"
#include "views/library/librarydialog.hpp"
#include "views/loads/loadsview.hpp"
#include "views/runtime/runtimeview.hpp"
#include "views/start/startpage.hpp"
#include "views/sums/sumsdrawer.hpp"
#include "views/supplyline/supplylineview.hpp"
#include "widgets/text.hpp"

#include <QApplication>
#include <QCloseEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QMenuBar>
#include <QMessageBox>
#include <QPushButton>
#include <QSettings>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

constexpr double kFoldUnder =
    1120; ///< px of window at 100 %: narrower, and the advice folds by itself

} // namespace

MainWindow::MainWindow(Session& session, QWidget* parent)
    : QMainWindow(parent), m_session(session) {
    setObjectName(QStringLiteral("sipper"));
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
    askWhereToSave = [this] {
        const QString start =
            m_session.path().isEmpty()
                ? qs(m_session.project().name).toLower().replace(' ', '-') + ".sipper"
                : m_session.path();
        return QFileDialog::getSaveFileName(this, tr("Save the project"), start,
                                            tr("Sipper projects (*.sipper)"));
    };
    askWhatToOpen = [this] {
        return QFileDialog::getOpenFileName(this, tr("Open a project"), {},
                                            tr("Sipper projects (*.sipper);;All files (*)"));
    };
    buildMenus();
    buildBody();
    connect(&session, &Session::documentChanged, this, &MainWindow::refreshTitle);
    connect(&session, &Session::projectChanged, this, &MainWindow::refreshTitle);
    setMinimumSize(760, 540);
    resize(1280, 800);
    refreshTitle();
}

void MainWindow::buildMenus() {
    const auto add = [](QMenu* menu, const QString& text, const QKeySequence& keys,
                        const char* name, auto slot) {
        QAction* action = menu->addAction(text);
        action->setShortcut(keys);
        action->setObjectName(QString::fromLatin1(name));
        QObject::connect(action, &QAction::triggered, menu, slot);
        return action;
    };
    QMenu* file = menuBar()->addMenu(tr("&File"));
    add(file, tr("S&tart page"), QKeySequence(tr("Ctrl+N")), "action.start",
        [this] { showView(QStringLiteral("start")); });
    QMenu* examples = file->addMenu(tr("Open an &example"));
    examples->setObjectName(QStringLiteral("menu.examples"));
    for (const QString& name : Session::exampleNames()) {
        QString title = name;
        title.replace('-', ' ');
        title[0] = title[0].toUpper();
        add(examples, title, {}, "", [this, name] {
            if (mayGo())
                openExample(name);
        });
    }
    add(file, tr("&Open…"), QKeySequence::Open, "action.open", [this] {
        if (!mayGo())
            return;
        if (const QString path = askWhatToOpen(); !path.isEmpty())
            openPath(path);
    });
    m_recent = file->addMenu(tr("Open &recent"));
    m_recent->setObjectName(QStringLiteral("menu.recent"));
    connect(m_recent, &QMenu::aboutToShow, this, &MainWindow::fillRecent);
    file->addSeparator();
    add(file, tr("&Save"), QKeySequence::Save, "action.save", [this] { save(); });
    add(file, tr("Save &as…"), QKeySequence(tr("Ctrl+Shift+S")), "action.saveAs",
        [this] { saveAs(); });
    file->addSeparator();
    add(file, tr("&Quit"), QKeySequence::Quit, "action.quit", [this] { close(); });

    QMenu* edit = menuBar()->addMenu(tr("&Edit"));
    QAction* undo = m_session.undoStack().createUndoAction(this, tr("Undo"));
    undo->setShortcut(QKeySequence::Undo);
    undo->setObjectName(QStringLiteral("action.undo"));
    QAction* redo = m_session.undoStack().createRedoAction(this, tr("Redo"));
    redo->setShortcuts({QKeySequence(tr("Ctrl+Shift+Z")), QKeySequence(tr("Ctrl+Y"))});
    redo->setObjectName(QStringLiteral("action.redo"));
    edit->addAction(undo);
    edit->addAction(redo);

    edit->addSeparator();
    add(edit, tr("Another &variant"), QKeySequence(tr("Ctrl+T")), "action.variant.add",
        [this] { m_strip->tabs().addCopy(); });
    add(edit, tr("&Rename this variant…"), {}, "action.variant.rename",
        [this] { m_strip->tabs().rename(m_session.variant()); });
    add(edit, tr("Re&move this variant"), {}, "action.variant.remove",
        [this] { m_strip->tabs().remove(m_session.variant()); });
    add(edit, tr("&Next variant"), QKeySequence(tr("Ctrl+Tab")), "action.variant.next",
        [this] { m_strip->tabs().next(); });

    QMenu* view = menuBar()->addMenu(tr("&View"));
    int number = 0;
    for (const auto& [name, title] :
         {std::pair{"brief", tr("&Brief")}, std::pair{"loads", tr("&Loads")},
          std::pair{"supply-line", tr("&Supply line")}, std::pair{"runtime", tr("&Runtime")}})
        add(view, title, QKeySequence(QStringLiteral("Ctrl+%1").arg(++number)),
            (std::string("action.view.") + name).c_str(),
            [this, shown = QString::fromLatin1(name)] { showView(shown); });
    view->addSeparator();
    add(view, tr("&Compare variants"), QKeySequence(tr("Ctrl+E")), "action.view.compare",
        [this] { showView(QStringLiteral("compare")); });
    add(view, tr("Li&brary of parts…"), QKeySequence(tr("Ctrl+B")), "action.library",
        [this] { LibraryDialog(m_session, {}, this).exec(); });
    add(view, tr("&Quick sums"), QKeySequence(tr("Ctrl+K")), "action.sums",
        [this] { m_sums->isVisibleTo(this) ? m_sums->hide() : m_sums->open(); });
    add(view, tr("Ne&xt advice"), QKeySequence(Qt::Key_F8), "action.nextAdvice",
        [this] { m_advice->next(); });
    add(view, tr("&Fold advice"), QKeySequence(tr("Ctrl+D")), "action.fold", [this] {
        m_foldChosen = true;
        m_advice->setFolded(!m_advice->folded());
    });
    view->addSeparator();
    QAction* night =
        add(view, tr("&Night theme"), QKeySequence(tr("Ctrl+Shift+N")), "action.night", [] {});
    night->setCheckable(true);
    night->setChecked(Theme::now().night());
    connect(night, &QAction::toggled, this, &MainWindow::setNight);

    QMenu* help = menuBar()->addMenu(tr("&Help"));
    add(help, tr("&About and cautions"), {}, "action.about", [this] { about(); });
}

void MainWindow::buildBody() {
    const QString view = m_views ? currentView() : QStringLiteral("supply-line");
    auto* body = new QWidget;
    auto* column = new QVBoxLayout(body);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    m_strip = new VerdictStrip(m_session, body);
    column->addWidget(m_strip);

    m_message = new QWidget(body);
    m_message->setObjectName(QStringLiteral("message"));
    m_message->setAutoFillBackground(true);
    auto* line = new QHBoxLayout(m_message);
    line->setContentsMargins(Theme::now().ipx(20), Theme::now().ipx(6), Theme::now().ipx(16),
                             Theme::now().ipx(6));
    m_messageText = new QLabel(m_message);
    m_messageText->setObjectName(QStringLiteral("message.text"));
    m_messageText->setWordWrap(true);
    m_messageText->setTextInteractionFlags(Qt::TextSelectableByMouse);
    m_messageText->setStyleSheet(QStringLiteral("color: %1").arg(colour(Role::stop).name()));
    auto* dismiss = new QPushButton(tr("Understood"), m_message);
    dismiss->setObjectName(QStringLiteral("message.dismiss"));
    connect(dismiss, &QPushButton::clicked, m_message, &QWidget::hide);
    line->addWidget(m_messageText, 1);
    line->addWidget(dismiss);
    m_message->hide();
    column->addWidget(m_message);

    auto* row = new QHBoxLayout;
    row->setSpacing(0);
    m_steps = new StepList(m_session, body);
    row->addWidget(m_steps);
    m_views = new QStackedWidget(body);
    auto* start = new StartPage;
    connect(start, &StartPage::recentChosen, this, [this](const QString& path) {
        if (mayGo())
            openPath(path);
    });
    connect(start, &StartPage::recipeChosen, this, [this](const QString& name) {
        if (mayGo() && openRecipe(name))
            showView(QStringLiteral("brief"));
    });
    connect(start, &StartPage::exampleChosen, this, [this](const QString& name) {
        if (mayGo())
            openExample(name);
    });
    m_views->addWidget(start);
    m_views->addWidget(new BriefView(m_session));
    auto* loads = new LoadsView(m_session);
    connect(loads, &LoadsView::troubled, this, &MainWindow::say);
    m_views->addWidget(loads);
    m_views->addWidget(new SupplyLineView(m_session));
    m_views->addWidget(new RuntimeView(m_session));
    m_views->addWidget(new CompareView(m_session));
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
    connect(m_advice, &AdvicePanel::foldAsked, this, [this](bool folded) {
        m_foldChosen = true;
        m_advice->setFolded(folded);
    });
    showView(view);
}

void MainWindow::showView(const QString& view) {
    for (int i = 0; i < m_views->count(); ++i)
        if (m_views->widget(i)->objectName() == view)
            m_views->setCurrentIndex(i);
    m_steps->setCurrent(currentView());
    // Here the figures are a load's.
    if (view == "loads" && !m_session.project().load(m_session.selected().toStdString()) &&
        !m_session.project().loads.empty())
        m_session.select(qs(m_session.project().loads.front().id));
}

QString MainWindow::currentView() const {
    return m_views->currentWidget()->objectName();
}

void MainWindow::resizeEvent(QResizeEvent* event) {
    QMainWindow::resizeEvent(event);
    if (!m_foldChosen)
        m_advice->setFolded(width() < Theme::now().px(kFoldUnder));
}

void MainWindow::refreshTitle() {
    const QString name =
        m_session.project().name.empty() ? tr("Untitled") : qs(m_session.project().name);
    setWindowTitle(tr("%1[*] – Sipper").arg(name));
    setWindowModified(m_session.modified());
}

void MainWindow::say(const Error& error) {
    m_messageText->setText(qs(error.message()));
    m_message->show();
}

bool MainWindow::opened(const std::optional<Error>& trouble) {
    if (trouble) {
        say(*trouble);
        return false;
    }
    m_message->hide();
    if (currentView() == "start")
        showView(QStringLiteral("supply-line"));
    return true;
}

bool MainWindow::openPath(const QString& path) {
    return opened(m_session.open(path));
}
bool MainWindow::openExample(const QString& name) {
    return opened(m_session.openExample(name));
}
bool MainWindow::openRecipe(const QString& name) {
    return opened(m_session.openRecipe(name));
}

bool MainWindow::save() {
    if (m_session.path().isEmpty())
        return saveAs();
    if (const auto trouble = m_session.save(m_session.path())) {
        say(*trouble);
        return false;
    }
    return true;
}

bool MainWindow::saveAs() {
    QString path = askWhereToSave();
    if (path.isEmpty())
        return false;
    if (QFileInfo(path).suffix().isEmpty())
        path += QStringLiteral(".sipper");
    if (const auto trouble = m_session.save(path)) {
        say(*trouble);
        return false;
    }
    return true;
}

bool MainWindow::mayGo() {
    if (!m_session.modified())
        return true;
    switch (askBeforeLosing(tr("“%1” has changes that are not saved. Save them first?")
                                .arg(qs(m_session.project().name)))) {
    case Answer::save:
        return save();
    case Answer::discard:
        return true;
    case Answer::cancel:
        return false;
    }
    return false;
}

void MainWindow::closeEvent(QCloseEvent* event) {
    mayGo() ? event->accept() : event->ignore();
}

void MainWindow::fillRecent() {
    m_recent->clear();
    for (const QString& path : Session::recentFiles())
        connect(m_recent->addAction(path), &QAction::triggered, this, [this, path] {
            if (mayGo())
                openPath(path);
        });
    if (m_recent->isEmpty())
        m_recent->addAction(tr("nothing opened yet"))->setEnabled(false);
}

void MainWindow::setNight(bool night) {
    Theme::use(night, Theme::now().scale());
    QSettings().setValue(QStringLiteral("night"), night);
    buildBody(); // colours are taken when a widget is made
    if (!m_foldChosen)
        m_advice->setFolded(width() < Theme::now().px(kFoldUnder));
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
