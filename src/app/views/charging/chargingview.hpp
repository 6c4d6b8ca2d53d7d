// SPDX-License-Identifier: GPL-3.0-or-later
// How long a refill takes, and what holds it back.
#pragma once

#include "charge/choices.hpp"
#include "session/session.hpp"

#include <QWidget>

class QComboBox;
class QBoxLayout;
class QHBoxLayout;
class QLabel;
class QLayout;
class QPushButton;

namespace sipper::app {

class ChargePlot;
class ChoicesCard;
class FillCard;
class LadderCard;
class SunPage;
class QuantityEdit;

class ChargingView : public QWidget {
    Q_OBJECT
  public:
    explicit ChargingView(Session& session, QWidget* parent = nullptr);

    /// Waits for the charge and what stands beside it; for tests and pictures.
    bool settle();
    [[nodiscard]] const ChargeRun* charge() const { return m_answer ? &m_answer->charge : nullptr; }

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    static constexpr const char* kCharge = "charge";
    static constexpr const char* kChoices = "charge-choices";
    /// One charge with what the marker needs.
    struct Answer {
        ChargeRun charge;
        std::optional<LimitRelaxation> lift;
        std::vector<std::pair<double, LimitCurrents>> ladders;
    };

    QLayout* buildVerdict();
    QLayout* buildChoices();
    void refresh();
    void refreshSources();
    void refreshChargers();
    void solve();
    void solveChoices();
    void fill();
    void showLadder(double hours);
    [[nodiscard]] QString lead(const ChargeRun& charge) const;
    [[nodiscard]] QString why(const ChargeRun& charge) const;
    [[nodiscard]] QString liftText() const;
    [[nodiscard]] ChargeOptions ask() const;
    void say(const QString& answer, const QString& why, bool trouble);

    Session& m_session;
    QLabel* m_lead;
    QLabel* m_why;
    QLabel* m_about; ///< beside the title
    QWidget* m_body;
    SunPage* m_sun;
    QWidget* m_held;          ///< cards of a charge, without the sources
    QHBoxLayout* m_askLayout; ///< the row of what is asked
    QHBoxLayout* m_sources;
    QComboBox* m_chargers;
    QList<QWidget*> m_askRow; ///< from, device, air: not asked of a panel
    QuantityEdit* m_from;
    QComboBox* m_mode;
    QuantityEdit* m_air;
    QBoxLayout* m_beside; ///< ladder and choices
    ChargePlot* m_plot;
    LadderCard* m_ladder;
    FillCard* m_fill; ///< where nothing charges the cells yet
    ChoicesCard* m_choices;
    QLabel* m_complaint;
    // What is asked: ids, so that a project that changes keeps them where it can.
    std::string m_charger;
    std::string m_source;
    std::string m_modeId;
    double m_fromShare = 0.1;
    std::optional<double> m_airC; ///< nothing: the brief's typical
    std::shared_ptr<const Answer> m_answer;
    bool m_fresh = true; ///< the marker has not been moved yet
};

} // namespace sipper::app
