// SPDX-License-Identifier: GPL-3.0-or-later
// Runs over what was predicted for them, with what is left between, and what the label gives at
// each rate.
#pragma once

#include "session/session.hpp"

#include <QWidget>

class QComboBox;
class QLabel;
class QPushButton;
class QCustomPlot;
class QCPAxisRect;

namespace sipper::app {

class CalibrationCard;
class QuantityEdit;
struct LogAnalysis;

class RunsPage : public QWidget {
    Q_OBJECT
  public:
    RunsPage(Session& session, CalibrationCard& learn, QWidget* parent = nullptr);

    /// What was learned, or the project, has changed.
    void refresh();
    /// The answer in a word and a sentence, for the head of the view.
    [[nodiscard]] QString word() const { return m_word; }
    [[nodiscard]] QString says() const { return m_says; }

  signals:
    void answered();

  private:
    QWidget* buildAsk();
    void buildRunPlot();
    void buildRatePlot();
    void fillStages();
    void ask();
    void showExpected();
    void showRun();
    void showRates(const LogAnalysis& lesson);

    Session& m_session;
    CalibrationCard& m_learn;
    QComboBox* m_at;
    QComboBox* m_run;
    QuantityEdit* m_own;
    QuantityEdit* m_label;
    QuantityEdit* m_cut;
    QuantityEdit* m_from;
    QPushButton* m_keep;
    QLabel* m_none;
    QLabel* m_because;
    QLabel* m_rateNote;
    QCustomPlot* m_plot;
    QCustomPlot* m_rates;
    QCPAxisRect* m_below = nullptr;
    QString m_word;
    QString m_says;
};

} // namespace sipper::app
