// SPDX-License-Identifier: GPL-3.0-or-later
// What stops it in time, and what one fault would do.
#pragma once

#include "session/session.hpp"

#include <QWidget>

class QBoxLayout;
class QComboBox;
class QLabel;
class QPushButton;

namespace sipper::app {

class CurrentsCard;
class DividerCard;
class FaultCard;
class GuardCard;
class ReboundPlot;
class ThresholdPlot;

class ProtectionView : public QWidget {
    Q_OBJECT
  public:
    explicit ProtectionView(Session& session, QWidget* parent = nullptr);

    /// Waits for what the cards work out; for tests and pictures.
    bool settle();

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    QLayout* buildVerdict();
    QLayout* buildGuard();
    void refresh();
    void showGuard();
    void showRebound(const QString& none);
    void expectGuard();
    void moveThreshold(bool reconnect, double volts);
    [[nodiscard]] const GuardAnalysis* guard() const;

    Session& m_session;
    QLabel* m_word;
    QLabel* m_says;
    QComboBox* m_guards;
    QPushButton* m_addGuard;
    QLabel* m_complaint;
    ThresholdPlot* m_threshold;
    QLabel* m_thresholdNone;
    ReboundPlot* m_rebound;
    QLabel* m_reboundNone;
    QLabel* m_reboundExpects;
    QPushButton* m_play;
    QBoxLayout* m_top;
    QBoxLayout* m_lower;
    CurrentsCard* m_currents;
    FaultCard* m_faults;
    DividerCard* m_dividers;
    GuardCard* m_card;
    std::shared_ptr<const ProtectionAnalysis> m_look;
    std::string m_guard; ///< id of the guard shown
    /// Without a guard: what the usual one would do here, and of which project that is.
    std::shared_ptr<const GuardAnalysis> m_expected;
    std::optional<Project> m_expectedOf;
    static inline const QString kExpect = QStringLiteral("guard.expected");
};

} // namespace sipper::app
