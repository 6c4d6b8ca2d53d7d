// SPDX-License-Identifier: GPL-3.0-or-later
// Currents in order: for every stretch draw, burst, fuse, lead and source on one log axis, and the
// fuses that would fit the chosen one.
#pragma once

#include "session/session.hpp"

#include <QFrame>

class QCPAxisTickerText;
class QCustomPlot;
class QHBoxLayout;
class QLabel;

namespace sipper::app {

class CurrentsPlot;

class CurrentsCard : public QFrame {
    Q_OBJECT
  public:
    explicit CurrentsCard(Session& session, QWidget* parent = nullptr);

    void show(const std::shared_ptr<const ProtectionAnalysis>& look);

  signals:
    void refused(const QString& says);

  private:
    void choose(std::size_t row);
    void showChoices();
    void take(const FuseChoice& choice);

    Session& m_session;
    std::shared_ptr<const ProtectionAnalysis> m_look;
    CurrentsPlot* m_plot;
    QLabel* m_says;
    QHBoxLayout* m_choices;
    std::string m_chosen; ///< id of a stretch
};

} // namespace sipper::app
