// Where a session begins: recent files, recipes, examples.
#pragma once

#include <QWidget>

class QVBoxLayout;

namespace sipper::app {

class StartPage : public QWidget {
    Q_OBJECT
  public:
    explicit StartPage(QWidget* parent = nullptr);

  signals:
    void recentChosen(const QString& path);
    void recipeChosen(const QString& name);
    void exampleChosen(const QString& name);

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void fillRecent();
    QVBoxLayout* m_recent;
};

} // namespace sipper::app
