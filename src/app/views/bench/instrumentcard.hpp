// SPDX-License-Identifier: GPL-3.0-or-later
// What stands on the bench: a meter that is read into the marked check, an electronic load that
// runs a pack down with a live curve and a log that survives, and a supply in the cells' place.
#pragma once

#include "measure/checks.hpp"
#include "measure/discharge.hpp"
#include "session/session.hpp"

#include <QFile>
#include <QFrame>
#include <QTimer>

class QComboBox;
class QLabel;
class QPushButton;
class QVBoxLayout;
class QCustomPlot;

namespace sipper::app {

class InstrumentPlace;
class QuantityEdit;
class StandIn;
class SupplyBox;

class InstrumentCard : public QFrame {
    Q_OBJECT
  public:
    explicit InstrumentCard(Session& session, QWidget* parent = nullptr);
    /// Switches the load off.
    ~InstrumentCard() override;

    [[nodiscard]] SupplyBox& supply() { return *m_supply; }

    [[nodiscard]] bool running() const { return m_running; }
    /// The log of the last run, whole or cut short; empty before the first.
    [[nodiscard]] const QString& logPath() const { return m_path; }
    /// Asks the meter for the check's figure; the answer comes as `measured`. A stand-in's probe is
    /// put in place first.
    void readMeter(const BenchCheck& check);
    /// Is a stand-in playing?
    [[nodiscard]] bool practising() const;
    /// Plays the open variant on instruments of its own, with a fault to be found or without.
    void practise(bool faulty);
    void endPractice();

  signals:
    void measured(double value);
    void refused(const QString& says);
    void finished(const QString& logPath); ///< a run has ended, with a log of at least two rows

  private:
    void buildRun(QVBoxLayout& column);
    void start();
    void stop(const QString& why);
    void sample();
    void takeSample(const QString& text);
    void setWhat();
    void buildPractice(QVBoxLayout& column);
    void showPractice();

    Session& m_session;
    StandIn* m_standIn;
    QPushButton* m_practise;
    QLabel* m_practiceSays;
    bool m_told = false; ///< what was planted
    InstrumentPlace* m_meter;
    InstrumentPlace* m_load;
    SupplyBox* m_supply;
    QComboBox* m_function;
    QuantityEdit* m_watts;
    QuantityEdit* m_amps;
    QuantityEdit* m_ohms;
    QuantityEdit* m_cut;
    QPushButton* m_start;
    QLabel* m_says;
    QCustomPlot* m_plot;
    QTimer m_clock;
    QFile m_log;
    QString m_path;
    bool m_running = false;
    bool m_last = false; ///< the load is off: one more row
    std::size_t m_rows = 0;
    double m_value = 12;
    double m_cutVolts = 6;
};

} // namespace sipper::app
