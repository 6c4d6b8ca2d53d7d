// SPDX-License-Identifier: GPL-3.0-or-later
// Two questions of the bench that no plan knows: which pin is which, and does the new supply
// disturb?
#pragma once

#include "measure/pairs.hpp"
#include "measure/pins.hpp"
#include "session/session.hpp"

#include <QWidget>
#include <array>

class QComboBox;
class QLabel;
class QLineEdit;
class QSpinBox;
class QTableWidget;

namespace sipper::app {

class QuantityEdit;

class PinDrawing;
class PairDots;

class PinsPairsPage : public QWidget {
    Q_OBJECT
  public:
    explicit PinsPairsPage(Session& session, QWidget* parent = nullptr);

    void refresh();
    [[nodiscard]] QString word() const { return m_word; }
    [[nodiscard]] QString says() const { return m_says; }

  signals:
    void answered();
    void refused(const QString& says);

  private:
    QWidget* buildPins();
    QWidget* buildPairs();
    [[nodiscard]] QString expectedConnector() const;
    [[nodiscard]] PinAnalysis expectedPins() const;
    void showPins();
    void showPairs();
    void takePins();
    void takePair();
    void takePinCell(int row, int column);
    void keepPins(const QString& name);
    void keepPairs(const QString& name);

    Session& m_session;
    std::vector<PinSurvey> m_surveys;
    std::vector<ReadingPair> m_pairs;
    int m_survey = -1;
    int m_pair = -1;
    bool m_filling = false;
    QString m_word;
    QString m_says;
    QComboBox* m_surveyBox;
    QLineEdit* m_connector;
    QLineEdit* m_against;
    QSpinBox* m_series;
    QComboBox* m_chemistry;
    PinDrawing* m_pinDrawing;
    PairDots* m_pairDots;
    QTableWidget* m_pins;
    QLabel* m_pinSays;
    QComboBox* m_pairBox;
    QLineEdit* m_what;
    QLineEdit* m_unit;
    QLineEdit* m_digit;
    std::array<QLineEdit*, 2> m_sides;
    QLabel* m_pairSays;
};

} // namespace sipper::app
