// SPDX-License-Identifier: GPL-3.0-or-later
// The times of the mode shown: what kind it is, how long, how often, in which hours.
#pragma once

#include "session/session.hpp"

#include <QFrame>

class QComboBox;
class QHBoxLayout;
class QLabel;
class QLineEdit;
class QPushButton;
class QToolButton;

namespace sipper::app {

class QuantityEdit;

class ModeBar : public QFrame {
    Q_OBJECT
  public:
    explicit ModeBar(Session& session, QWidget* parent = nullptr);

    /// Puts the cursor into the name.
    void enter();

  private:
    void buildFields(QHBoxLayout* row);
    void buildButtons(QHBoxLayout* row);
    void listen();
    void takeKind();
    void takeWindows();
    void refresh();
    void commit(const QString& name, const std::function<void(Mode&)>& change);
    void move(const QString& name, int by);
    void ask(const QString& complaint);

    Session& m_session;
    QLineEdit* m_name;
    QComboBox* m_kind;
    QLabel* m_lastsLabel;
    QuantityEdit* m_lasts;
    QLabel* m_everyLabel;
    QuantityEdit* m_every;
    QLabel* m_windowsLabel;
    QLineEdit* m_windows;
    QLabel* m_withinLabel;
    QComboBox* m_within;
    QToolButton* m_earlier;
    QToolButton* m_later;
    QPushButton* m_remove;
    QLabel* m_complaint;
};

} // namespace sipper::app
