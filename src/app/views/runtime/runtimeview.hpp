// How long it runs: the discharge with its target, its end and the reason, and where the energy
// goes.
#pragma once

#include "session/session.hpp"

#include <QList>
#include <QWidget>

class QCPGraph;
class QCheckBox;
class QCustomPlot;
class QSlider;
class QLabel;
class QLayout;
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
    QLayout* buildWhatIf();
    void showBand();   ///< where eight builds in ten run, once it is known
    void showWhatIf(); ///< the run at the sliders' air and age, and at five of them

    Session& m_session;
    QLabel* m_answer;
    QLabel* m_why;
    QWidget* m_body; ///< what there is to show of a run
    QCustomPlot* m_plot;
    QCPItemStraightLine* m_end;
    QCPItemText* m_endText;
    QCPItemStraightLine* m_target;
    QCPItemText* m_targetText;
    LedgerStream* m_ledger;
    QSlider* m_air;
    QSlider* m_age;
    QCheckBox* m_five;
    QLabel* m_whatIf;
    QCPGraph* m_bandLow;  ///< what one build in ten stays under
    QCPGraph* m_bandHigh; ///< what nine in ten stay under
    QCPItemText* m_bandText;
    QCPGraph* m_tail;
    QCPGraph* m_run;
    QCPGraph* m_other;           ///< the run at the sliders
    QList<QCPGraph*> m_fiveRuns; ///< at five temperatures
    QList<QCPItemText*> m_fiveTexts;
    double m_planned = -1000; ///< °C of the project that the sliders were last set to
};

/// Why a run ends, in words: `Logic and clock gets too little in mode “Lamp lit”`.
[[nodiscard]] QString endingText(const Project& project, const Ending& ending);

} // namespace sipper::app
