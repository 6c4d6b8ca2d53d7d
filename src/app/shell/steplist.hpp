// SPDX-License-Identifier: GPL-3.0-or-later
// The steps on the left, in working order, each with a live line of its own result.
#pragma once

#include "session/session.hpp"

#include <QAbstractButton>
#include <QWidget>

namespace sipper::app {

class StepButton : public QAbstractButton {
    Q_OBJECT
  public:
    StepButton(int number, const QString& view, const QString& title, QWidget* parent);
    void setLine(const QString& line, bool trouble);
    [[nodiscard]] const QString& line() const { return m_line; }
    [[nodiscard]] QSize sizeHint() const override;

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    int m_number;
    QString m_title;
    QString m_line;
    bool m_trouble = false;
};

class StepList : public QWidget {
    Q_OBJECT
  public:
    explicit StepList(Session& session, QWidget* parent = nullptr);
    void setCurrent(const QString& view);
    [[nodiscard]] const QStringList& views() const { return m_views; }

  signals:
    void chosen(const QString& view);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    void refresh();

    Session& m_session;
    QStringList m_views;
    QList<StepButton*> m_buttons;
};

} // namespace sipper::app
