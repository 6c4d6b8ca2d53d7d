// SPDX-License-Identifier: GPL-3.0-or-later
// What is wrong or worth weighing, each with its reason and, where there is one, its cure.
#pragma once

#include "session/session.hpp"

#include <QFrame>

class QVBoxLayout;
class QLabel;
class QScrollArea;

namespace sipper::app {

/// One piece of advice.
class AdviceCard : public QFrame {
    Q_OBJECT
  public:
    AdviceCard(Session& session, const Finding& finding, QWidget* parent);
    [[nodiscard]] const QString& subject() const { return m_subject; }

  protected:
    void enterEvent(QEnterEvent*) override;
    void leaveEvent(QEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void focusInEvent(QFocusEvent*) override;
    void focusOutEvent(QFocusEvent*) override;
    void paintEvent(QPaintEvent*) override;

  private:
    Session& m_session;
    QString m_subject;
};

class AdvicePanel : public QWidget {
    Q_OBJECT
  public:
    explicit AdvicePanel(Session& session, QWidget* parent = nullptr);
    void setFolded(bool folded);
    [[nodiscard]] bool folded() const { return m_folded; }
    /// Moves to the next piece of advice, and on to the first again.
    void next();

  signals:
    void foldAsked(bool folded);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;

  private:
    void rebuild();

    Session& m_session;
    QWidget* m_head;
    QLabel* m_about;
    QScrollArea* m_scroll;
    QWidget* m_list;
    QVBoxLayout* m_column;
    QList<AdviceCard*> m_cards;
    int m_at = -1;
    bool m_folded = false;
};

} // namespace sipper::app
