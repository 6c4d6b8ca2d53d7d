// SPDX-License-Identifier: GPL-3.0-or-later
// Every reading, run and calibration of a project in time, and how its pack ages.
#pragma once

#include "session/session.hpp"

#include <QWidget>

class QLabel;
class QTableWidget;
class QCustomPlot;

namespace sipper::app {

class LogbookPage : public QWidget {
    Q_OBJECT
  public:
    explicit LogbookPage(Session& session, QWidget* parent = nullptr);

    void refresh();
    [[nodiscard]] QString word() const { return m_word; }
    [[nodiscard]] QString says() const { return m_says; }

  signals:
    void answered();

  private:
    bool showExpectedAge();
    QCustomPlot* buildPlot(const char* name, const QString& accessible);

    Session& m_session;
    QTableWidget* m_table;
    QCustomPlot* m_capacity;
    QCustomPlot* m_resistance;
    QLabel* m_age;
    QString m_word;
    QString m_says;
};

} // namespace sipper::app
