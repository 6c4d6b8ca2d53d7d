// SPDX-License-Identifier: GPL-3.0-or-later
// The chosen regulator's curves: efficiency with the working points on it, heat, and what it can
// give at which input.
#pragma once

#include "session/session.hpp"

#include "runtime/regulatorcurves.hpp"

#include <QFrame>

class QCustomPlot;
class QLabel;
class QLineEdit;

namespace sipper::app {

class CurvesCard : public QFrame {
    Q_OBJECT
  public:
    explicit CurvesCard(Session& session, QWidget* parent = nullptr);

    /// Is there anything to draw for the chosen stage?
    [[nodiscard]] static bool has(const Project& project, const std::string& id);

    /// Waits for the curves; for tests and pictures.
    bool settle() { return m_session.jobs().waitForIdle(kJob); }

  private:
    static constexpr const char* kJob = "curves";
    void ask();
    void draw(const RegulatorCurves& curves, const std::string& id);
    void saySplit(const std::string& id);
    void drawEfficiency(const RegulatorCurves& curves);
    void drawWorking(const RegulatorCurves& curves);
    void drawHeat(const RegulatorCurves& curves, const Stage& stage);
    void drawReach(const RegulatorCurves& curves);
    void readLabelText();
    void openFit();
    QCustomPlot* plot(const char* name, const QString& title, const QString& about);

    Session& m_session;
    QCustomPlot* m_efficiency;
    QCustomPlot* m_heat;
    QCustomPlot* m_reach;
    QLabel* m_split;
    QLineEdit* m_label;
    QLabel* m_means;
};

} // namespace sipper::app
