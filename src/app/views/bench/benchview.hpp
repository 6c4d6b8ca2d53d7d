// What the model expects, and what the meter says.
#pragma once

#include "bench/checks.hpp"
#include "session/session.hpp"

#include <QWidget>

class QBoxLayout;
class QLabel;
class QScrollArea;

namespace sipper::app {

class BenchList;
class InstrumentCard;
class LearnCard;
class ReadingCard;

class BenchView : public QWidget {
    Q_OBJECT
  public:
    explicit BenchView(Session& session, QWidget* parent = nullptr);

    /// Waits for what the cards work out; for tests and pictures.
    bool settle();

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    void refresh();
    void showLook();
    void showCheck();
    void take(int row, double value);
    void readMeter();

    Session& m_session;
    QLabel* m_word;
    QLabel* m_says;
    QLabel* m_complaint;
    QScrollArea* m_scroll;
    BenchList* m_list;
    ReadingCard* m_card;
    LearnCard* m_learn;
    InstrumentCard* m_bench;
    QBoxLayout* m_row;
    std::shared_ptr<const BenchLook> m_look;
    bool m_next = false; ///< a figure was just taken down: on to the next check
};

} // namespace sipper::app
