// SPDX-License-Identifier: GPL-3.0-or-later
// What readings and discharges teach the model: what moves, how sure, and the hours it makes.
#pragma once

#include "measure/comparison.hpp"
#include "session/session.hpp"

#include <QFrame>
#include <functional>

class QLabel;
class QPushButton;

namespace sipper::app {

/// A factor as a bar: what it was, what it is, and how sure.
class TunedBar : public QWidget {
    Q_OBJECT
  public:
    explicit TunedBar(QWidget* parent = nullptr);
    void show(const Project& project, const std::vector<CalibratedParameter>& list);
    QSize sizeHint() const override;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    struct Row {
        QString name;
        QString figure;
        double before;
        double after;
        double sigma;
    };
    std::vector<Row> m_rows;
};

/// What logs say: of the pack, of the prediction, and of what both teach.
struct LogAnalysis {
    std::vector<RunComparison> runs;
    Discharges sums;
    std::vector<DeliveredShare> gives; ///< the model's curve through the rates of the runs
    double labelWh = 0;
};

class CalibrationCard : public QFrame {
    Q_OBJECT
  public:
    explicit CalibrationCard(Session& session, QWidget* parent = nullptr);

    /// Which logs to read; empty: none. Tests answer in its place.
    std::function<QStringList()> askLogs;
    bool settle() { return m_session.jobs().waitForIdle(kJob); }
    [[nodiscard]] const std::optional<Calibration>& learned() const { return m_learned; }
    /// Of the logs; empty without any.
    [[nodiscard]] const LogAnalysis& lesson() const { return m_lesson; }
    [[nodiscard]] bool hasLogs() const { return !m_logs.empty(); }
    /// Where the runs were drawn from, and by what tester.
    [[nodiscard]] const CalibrateOptions& ask() const { return m_ask; }
    void setAsk(const CalibrateOptions& ask);
    /// Puts the runs into the project's logbook, as one edit.
    void keepRuns();
    void refresh();
    /// Learns from one more log, beside those that are open.
    void learnFrom(const QString& path);

  signals:
    void refused(const QString& says);
    void taught(); ///< a lesson has come, or has gone

  private:
    static inline const QString kJob = QStringLiteral("calibrate");
    /// Reads a log behind the others; false, and said why, where it can't be.
    bool read(const QString& path, std::vector<DischargeLog>& into);
    void openLogs();
    void show();
    void takeOver();

    Session& m_session;
    QLabel* m_from;
    QLabel* m_fault;
    QLabel* m_none;
    TunedBar* m_bars;
    QLabel* m_left;
    QLabel* m_hours;
    QPushButton* m_take;
    QPushButton* m_open;
    QPushButton* m_forget;
    std::vector<DischargeLog> m_logs;
    CalibrateOptions m_ask;
    LogAnalysis m_lesson;
    std::optional<Calibration> m_learned;
    QString m_suspects;     ///< which fault the readings speak of
    bool m_strange = false; ///< most of them are outside
    QString m_why;          ///< why nothing is learned
};

} // namespace sipper::app
