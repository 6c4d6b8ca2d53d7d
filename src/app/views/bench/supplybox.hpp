// SPDX-License-Identifier: GPL-3.0-or-later
// The bench supply in the cells' place: set and limited before it is switched on, read back while
// it is, never over what the line bears.
#pragma once

#include "measure/labsupply.hpp"
#include "session/session.hpp"

#include <QTimer>
#include <QWidget>

class QLabel;
class QPushButton;

namespace sipper::app {

class InstrumentPlace;
class PlainCombo;
class QuantityEdit;

class SupplyBox : public QWidget {
    Q_OBJECT
  public:
    explicit SupplyBox(Session& session, QWidget* parent = nullptr);
    /// Switches the output off.
    ~SupplyBox() override;

    /// What the checks say the supply should be set to, until somebody types otherwise.
    void expect(const BenchAnalysis& look);
    /// The stand-in does what the device does in this mode; nothing of a real one.
    void follow(const std::string& mode);
    /// Whether it is there and its output is on.
    [[nodiscard]] bool on() const { return m_on; }

    [[nodiscard]] InstrumentPlace& place() { return *m_place; }

  signals:
    void refused(const QString& says);
    /// What is drawn of it just now, to be taken down at the marked check.
    void taken(double amps);

  private:
    void build();
    void showWhat();
    void switchTo(bool on);
    void send();
    void sendMode();
    void poll();
    void show(double volts, double amps);
    [[nodiscard]] bool bears(double volts);

    Session& m_session;
    InstrumentPlace* m_place;
    QWidget* m_row;
    QuantityEdit* m_volts;
    QuantityEdit* m_limit;
    PlainCombo* m_mode;
    QPushButton* m_switch;
    QPushButton* m_take;
    QLabel* m_says;
    QTimer m_clock;
    double m_set = 0;
    double m_most = 0.1;
    double m_draws = 0; ///< A, read back
    bool m_on = false;
    bool m_typed = false; ///< somebody chose the setting: it stays
};

} // namespace sipper::app
