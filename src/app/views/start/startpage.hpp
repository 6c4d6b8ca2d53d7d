// Where a session begins: what was not saved, recent files, recipes, examples.
#pragma once

#include "session/session.hpp"

#include <QWidget>

class QBoxLayout;
class QVBoxLayout;

namespace sipper::app {

/// The name of the start page, which is no view of a project.
inline constexpr const char* kStartPage = "start";

class StartPage : public QWidget {
    Q_OBJECT
  public:
    explicit StartPage(Session& session, QWidget* parent = nullptr);

  signals:
    void recentChosen(const QString& path);
    void recipeChosen(const QString& name);
    void exampleChosen(const QString& name);
    void leftChosen(const sipper::app::RecoveryKeeper::Left& left);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    QVBoxLayout* list(QBoxLayout* halves, const QString& title, int stretch);
    void fillRecipes(QVBoxLayout* to);
    void fillExamples(QVBoxLayout* to);
    void fillRecent();
    void fillLeft();
    QWidget* leftRow(const RecoveryKeeper::Left& left, int number);

    Session& m_session;
    QVBoxLayout* m_left; ///< what was not saved; empty most of the time
    QVBoxLayout* m_recent;
};

} // namespace sipper::app
