// What stands on the bench: a meter that is read into the marked check, and an electronic load that
// runs a pack down with a live curve and a log that survives.
#pragma once

#include "bench/discharge.hpp"
#include "views/bench/scpilink.hpp"

#include <QFile>
#include <QFrame>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QVBoxLayout;
class QCustomPlot;

namespace sipper::app {

class QuantityEdit;

class InstrumentCard : public QFrame {
    Q_OBJECT
  public:
    explicit InstrumentCard(QWidget* parent = nullptr);

    [[nodiscard]] bool running() const { return m_running; }
    /// The log of the last run, whole or cut short; empty before the first.
    [[nodiscard]] const QString& logPath() const { return m_path; }
    /// Asks the meter for volts, or for amps; the answer comes as `measured`.
    void readMeter(bool amps);

  signals:
    void measured(double value);
    void refused(const QString& says);
    void finished(const QString& logPath); ///< a run has ended, with a log of at least two rows

  private:
    struct Place {
        ScpiLink* link = nullptr;
        QLineEdit* address = nullptr;
        QPushButton* button = nullptr;
        QLabel* state = nullptr;
    };
    Place buildPlace(const QString& words, const char* name, QVBoxLayout& column);
    void buildRun(QVBoxLayout& column);
    void start();
    void stop(const QString& why);
    void sample();
    void takeSample(const QString& text);
    void setWhat();

    Place m_meter;
    Place m_load;
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
