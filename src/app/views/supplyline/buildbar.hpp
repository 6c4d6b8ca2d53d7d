// SPDX-License-Identifier: GPL-3.0-or-later
// Building the line in place: add, swap, move, feed, rename, take out; and what is plugged in.
#pragma once

#include "parts/kinds.hpp"
#include "session/session.hpp"

#include <QFrame>

class QComboBox;
class QHBoxLayout;
class QLabel;
class QLineEdit;
class QMenu;
class QPushButton;
class QToolButton;

namespace sipper::app {

class BuildBar : public QFrame {
    Q_OBJECT
  public:
    explicit BuildBar(Session& session, QWidget* parent = nullptr);

    void remove();
    void move(int by);
    void rename(); ///< puts the cursor into the name
    void swap();   ///< opens the library for the chosen stage
    void showAdd();
    /// The menu of what can be done with the chosen part, at a place on the screen.
    void showMenu(const QPoint& at);

    /// Opens the library for a stage; a test answers in its place.
    std::function<void(const QString& stage)> openLibrary;

  signals:
    void curvesAsked(bool on);

  private:
    void addButtons(QHBoxLayout& row);
    void connectAll();
    void refreshPlugs();
    void refresh();
    /// A submenu of kinds: its title, the beginning of its actions' names, and what the edit is
    /// called, `%1` being the kind.
    struct Place {
        QString title;
        const char* prefix;
        QString says;
    };
    using WhyNot = std::function<std::optional<std::string>(Kind)>;
    using Insert = std::function<Project(const Project&, const Stage&)>;
    void fillAdd(QMenu* menu);
    void fillKinds(QMenu* menu, const Place& place, const WhyNot& whyNot, const Insert& insert);
    void fillSources(QMenu* menu, const std::optional<std::string>& before);
    void fillFeeds(QMenu* menu);
    void takeEdit(const QString& name, Project after, const std::string& chosen);
    void say(const QString& text);
    [[nodiscard]] std::string chosen() const { return m_session.selected().toStdString(); }
    [[nodiscard]] QString chosenName() const;

    Session& m_session;
    QLineEdit* m_name;
    QPushButton* m_add;
    QPushButton* m_swap;
    QPushButton* m_feed;
    QToolButton* m_left;
    QToolButton* m_right;
    QPushButton* m_remove;
    QPushButton* m_curves;
    QWidget* m_plugs;
    QHBoxLayout* m_plugRow;
    QComboBox* m_mode;
    QLabel* m_complaint;
};

} // namespace sipper::app
