// SPDX-License-Identifier: GPL-3.0-or-later
// What the model expects, and what the meter says.
#pragma once

#include "measure/checks.hpp"
#include "session/session.hpp"

#include <QWidget>

class QBoxLayout;
class QLabel;
class QPushButton;
class QScrollArea;
class QStackedWidget;

namespace sipper::app {

class PinsPairsPage;
class BenchList;
class InventoryPage;
class InstrumentCard;
class CalibrationCard;
class LogbookPage;
class ReadingCard;
class RunsPage;

class BenchView : public QWidget {
    Q_OBJECT
  public:
    explicit BenchView(Session& session, QWidget* parent = nullptr);

    /// Waits for what the cards work out; for tests and pictures.
    bool settle();

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    enum Page { kChecks, kRuns, kCells, kAside, kLogbook };
    QWidget* buildChecks();
    QLayout* buildPages();
    void buildBeside();
    void choose(int page);
    void refresh();
    void showAnswer();
    void showLook();
    void showCheck();
    void take(int row, double value);
    void readMeter();
    void readSupply(double amps);

    Session& m_session;
    QLabel* m_word;
    QLabel* m_says;
    QLabel* m_complaint;
    QScrollArea* m_scroll;
    BenchList* m_list;
    ReadingCard* m_card;
    CalibrationCard* m_learn;
    InstrumentCard* m_bench;
    QBoxLayout* m_row;
    QStackedWidget* m_pages;
    QWidget* m_beside;
    RunsPage* m_runs;
    InventoryPage* m_cells;
    PinsPairsPage* m_aside;
    LogbookPage* m_book;
    QList<QPushButton*> m_buttons;
    int m_page = kChecks;
    QString m_lookWord;
    QString m_lookSays;
    std::shared_ptr<const BenchAnalysis> m_look;
    bool m_next = false; ///< a figure was just taken down: on to the next check
};

} // namespace sipper::app
