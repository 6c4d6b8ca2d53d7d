// SPDX-License-Identifier: GPL-3.0-or-later
// The one window.
#pragma once

#include "session/session.hpp"

#include <QMainWindow>
#include <functional>

class QLabel;
class QStackedWidget;
class QMenu;

namespace sipper {
struct Proposal;
}

namespace sipper::app {

class AdvicePanel;
class StartPage;
class StepList;
class SumsDrawer;
class VerdictStrip;

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    explicit MainWindow(Session& session, QWidget* parent = nullptr);

    enum class Answer { save, discard, cancel };
    /// The one question before unsaved work is lost. Tests put their own answer here.
    std::function<Answer(const QString& about)> askBeforeLosing;
    enum class Overwrite { overwrite, saveAs, differences, cancel };
    /// The one question before a file is overwritten that somebody else has changed.
    std::function<Overwrite(const QString& about)> askBeforeOverwriting;
    /// Shows what tells the file from the document.
    std::function<void(const QString& text)> showDifferences;
    /// Where to save; empty cancels. Tests put their own path here.
    std::function<QString()> askWhereToSave;
    std::function<QString()> askWhatToOpen;

    void showView(const QString& view);
    [[nodiscard]] QString currentView() const;
    bool openPath(const QString& path);
    bool openExample(const QString& name);
    bool openRecipe(const QString& name);
    /// What an earlier program left unsaved.
    bool openLeft(const RecoveryKeeper::UnsavedDocument& left);
    bool save();
    bool saveAs();
    /// True when nothing would be lost, or the user has decided.
    bool confirmDiscard();
    void say(const Error& error);
    void tell(const QString& text, bool trouble);
    void setNight(bool night);
    /// Size, place, advice and view as they were when a window was closed last; where nothing is
    /// kept, as they are.
    void restoreLayout();

  protected:
    void closeEvent(QCloseEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    bool opened(const std::optional<Error>& trouble);
    bool saveTo(const QString& path);
    [[nodiscard]] QString differencesText() const;
    void askForReal();
    void buildMenus();
    void fillFileMenu(QMenu* menu);
    void fillEditMenu(QMenu* menu);
    void fillViewMenu(QMenu* menu);
    void buildBody();
    QWidget* buildMessage(QWidget* parent);
    StartPage* buildStart();
    void showLate(bool late);
    void openGranted(const std::shared_ptr<const Proposal>& granted);
    void showFrame();
    void fold(bool folded);
    void foldByWidth();
    void refreshTitle();
    void fillRecent();
    void about();

    Session& m_session;
    VerdictStrip* m_strip = nullptr;
    StepList* m_steps = nullptr;
    QStackedWidget* m_views = nullptr;
    SumsDrawer* m_sums = nullptr;
    AdvicePanel* m_advice = nullptr;
    QWidget* m_message = nullptr;
    QLabel* m_messageText = nullptr;
    bool m_trouble = true; ///< what the message is of
    QMenu* m_recent = nullptr;
    bool m_foldChosen = false; ///< the user has folded or unfolded by hand
};

} // namespace sipper::app
