// SPDX-License-Identifier: GPL-3.0-or-later
// One check close to: where to touch, what is expected and why, and every reading that there was.
#pragma once

#include "measure/checks.hpp"
#include "session/session.hpp"

#include <QFrame>

class QCheckBox;
class QLabel;
class QLineEdit;
class QVBoxLayout;

namespace sipper::app {

class QuantityEdit;

class ReadingCard : public QFrame {
    Q_OBJECT
  public:
    explicit ReadingCard(Session& session, QWidget* parent = nullptr);

    void show(const BenchCheck& check);
    void showNothing();
    [[nodiscard]] QString meter() const;
    [[nodiscard]] QString note() const;
    /// W/m² on the panel while the next figure is read; nothing where none is typed, or no panel
    /// charges.
    [[nodiscard]] std::optional<double> light() const;
    /// What is wrong with what stands there; empty where nothing is.
    [[nodiscard]] QString lightComplaint() const;
    /// The reading that counts now is to be superseded by the next one.
    [[nodiscard]] bool corrects() const;
    /// What was noted of one reading is not said of the next.
    void forgetNote();

  private:
    void showLight(std::optional<double> usual);

    Session& m_session;
    QLabel* m_title;
    QLabel* m_where;
    QLabel* m_expect;
    QLabel* m_moves;
    QVBoxLayout* m_readings;
    QLineEdit* m_meter;
    QLineEdit* m_note;
    QuantityEdit* m_light;
    QLabel* m_lightLabel;
    QCheckBox* m_corrects;
};

} // namespace sipper::app
