// SPDX-License-Identifier: GPL-3.0-or-later
// Loss terms from points: typed or pasted, fitted at once, with curve and worst error.
#pragma once

#include "session/session.hpp"

#include "line/lossfit.hpp"

#include <QDialog>

class QCustomPlot;
class QLabel;
class QPlainTextEdit;
class QPushButton;

namespace sipper::app {

class LossFitDialog : public QDialog {
    Q_OBJECT
  public:
    LossFitDialog(Session& session, const QString& stage, QWidget* parent = nullptr);
    [[nodiscard]] const std::optional<LossFit>& fit() const { return m_fit; }

  private:
    void refresh();
    void use();

    Session& m_session;
    std::string m_stage;
    std::optional<LossFit> m_fit;
    QPlainTextEdit* m_points;
    QLabel* m_terms;
    QLabel* m_complaint;
    QCustomPlot* m_plot;
    QPushButton* m_use;
};

} // namespace sipper::app
