// SPDX-License-Identifier: GPL-3.0-or-later
// Opening, saving and what is asked before work is lost.
#include "shell/mainwindow.hpp"

#include "project/differences.hpp"
#include "project/file.hpp"
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
#include "widgets/panel.hpp"
#include "widgets/text.hpp"
#include "widgets/widgetstate.hpp"

#include <QCloseEvent>
#include <QFileInfo>
#include <QLabel>
#include <QSettings>

namespace sipper::app {
namespace {

constexpr std::size_t kMostDifferences = 40;

} // namespace

void MainWindow::refreshTitle() {
    const QString name = m_session.project().name.empty()
                             ? tr("Untitled")
                             : qs(escapeForTerminal(m_session.project().name));
    setWindowTitle(tr("%1[*] – Sipper").arg(name));
    setWindowModified(m_session.modified());
}

void MainWindow::say(const Error& error) {
    tell(qs(escapeForTerminal(error.message())), true);
}

bool MainWindow::opened(const std::optional<Error>& trouble) {
    if (trouble) {
        say(*trouble);
        return false;
    }
    m_message->hide();
    if (currentView() == kStartPage)
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
bool MainWindow::openLeft(const RecoveryKeeper::UnsavedDocument& left) {
    m_session.recovery().take(left);
    return opened(std::nullopt);
}

bool MainWindow::save() {
    if (m_session.path().isEmpty())
        return saveAs();
    while (m_session.file().changedOnDisk()) {
        switch (
            askBeforeOverwriting(tr("“%1” was changed by somebody else since it was opened here.")
                                     .arg(QFileInfo(m_session.path()).fileName()))) {
        case Overwrite::overwrite:
            return saveTo(m_session.path());
        case Overwrite::saveAs:
            return saveAs();
        case Overwrite::differences:
            showDifferences(differencesText());
            continue;
        case Overwrite::cancel:
            return false;
        }
    }
    return saveTo(m_session.path());
}

QString MainWindow::differencesText() const {
    const auto read = loadProject(m_session.path().toStdString());
    if (!read)
        return qs(escapeForTerminal(read.error().message()));
    const Project& theirs = read.value().project;
    QStringList lines;
    if (theirs.name != m_session.document().name)
        lines << tr("Name: %1 in the file, %2 here")
                     .arg(qs(escapeForTerminal(theirs.name)),
                          qs(escapeForTerminal(m_session.document().name)));
    const auto list = differencesOf({theirs, variantProject(m_session.document(), 0)});
    for (std::size_t i = 0; i < std::min(list.size(), kMostDifferences); ++i)
        lines << tr("%1, %2: %3 in the file, %4 here")
                     .arg(qs(escapeForTerminal(list[i].where)), qs(list[i].what),
                          qs(escapeForTerminal(list[i].values[0])),
                          qs(escapeForTerminal(list[i].values[1])));
    if (list.size() > kMostDifferences)
        lines << tr("and %1 more").arg(list.size() - kMostDifferences);
    if (lines.isEmpty())
        lines << tr("No part, mode or load differs; brief, notes or other variants may.");
    return lines.join('\n');
}

bool MainWindow::saveTo(const QString& path) {
    if (const auto trouble = m_session.save(path)) {
        say(*trouble);
        return false;
    }
    m_message->hide();
    return true;
}

bool MainWindow::saveAs() {
    QString path = askWhereToSave();
    if (path.isEmpty())
        return false;
    if (QFileInfo(path).suffix().isEmpty())
        path += QStringLiteral(".sipper");
    return saveTo(path);
}

bool MainWindow::confirmDiscard() {
    if (!m_session.modified())
        return true;
    m_session.recovery().writeNow();
    switch (askBeforeLosing(tr("“%1” has changes that are not saved. Save them first?")
                                .arg(qs(escapeForTerminal(m_session.project().name))))) {
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
    if (!confirmDiscard())
        return event->ignore();
    QSettings settings;
    settings.setValue(QStringLiteral("window/geometry"), saveGeometry());
    settings.setValue(QStringLiteral("window/view"), currentView());
    settings.setValue(QStringLiteral("window/foldChosen"), m_foldChosen);
    settings.setValue(QStringLiteral("window/folded"), m_advice->folded());
    event->accept();
}

} // namespace sipper::app
