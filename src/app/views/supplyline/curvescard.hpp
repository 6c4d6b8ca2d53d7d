// The chosen regulator's curves: efficiency with the working points on it, heat, and what it can
// give at which input.
#pragma once

#include "session/session.hpp"

#include "line/partcurves.hpp"

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

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void refresh();
    void drawEfficiency(const Stage& stage, const std::vector<double>& inputs, double most);
    void drawHeat(const Stage& stage, const std::vector<double>& inputs, double most);
    void drawReach(const Stage& stage, double low, double high);
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
