// How long it runs: the discharge with its target, its end and the reason, and where the energy
// goes.
#pragma once

#include "session/session.hpp"

#include <QWidget>

class QCustomPlot;
class QLabel;
class QCPItemStraightLine;
class QCPItemText;

namespace sipper::app {

class LedgerStream;

class RuntimeView : public QWidget {
    Q_OBJECT
  public:
    explicit RuntimeView(Session& session, QWidget* parent = nullptr);

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    void rebuild();

    Session& m_session;
    QLabel* m_answer;
    QLabel* m_why;
    QCustomPlot* m_plot;
    QCPItemStraightLine* m_end;
    QCPItemText* m_endText;
    QCPItemStraightLine* m_target;
    QCPItemText* m_targetText;
    LedgerStream* m_ledger;
};

/// Why a run ends, in words: `Logic and clock gets too little in mode “Lamp lit”`.
[[nodiscard]] QString endingText(const Project& project, const Ending& ending);

} // namespace sipper::app
