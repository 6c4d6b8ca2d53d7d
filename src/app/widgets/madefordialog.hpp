// SPDX-License-Identifier: GPL-3.0-or-later
// Derives a load's window from what the load was made for, and its draw from a known run.
#pragma once

#include "parts/madefor.hpp"

#include <QDialog>
#include <vector>

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;
class QSpinBox;
class QVBoxLayout;

namespace sipper::app {

class QuantityEdit;

class MadeForDialog : public QDialog {
    Q_OBJECT
  public:
    /// `modes`: ids and names, the base mode first.
    MadeForDialog(const QString& loadName, const std::vector<std::pair<QString, QString>>& modes,
                  QWidget* parent = nullptr);
    /// Nothing while what was asked can't be answered.
    [[nodiscard]] const std::optional<DerivedWindow>& derived() const { return m_derived; }
    /// What a known run says of the draw; nothing where none is given.
    [[nodiscard]] const std::optional<DrawFromRun>& draw() const { return m_draw; }
    [[nodiscard]] bool byPower() const;
    [[nodiscard]] QString mode() const;

  private:
    QLayout* buildQuestion();
    void buildVolts();
    void buildCells();
    void buildRun(QVBoxLayout& column);
    QuantityEdit* runField(const char* key, const QString& name, Unit unit, double value);
    QLayout* buildFoot();
    void listen();
    void refresh();

    MadeForInput m_asked;
    std::optional<DerivedWindow> m_derived;
    QComboBox* m_kind;
    QLabel* m_voltsLabel;
    QuantityEdit* m_volts;
    QLabel* m_cellsLabel;
    QSpinBox* m_count;
    QComboBox* m_chemistry;
    QLabel* m_window;
    QLabel* m_assumed;
    const std::vector<std::pair<QString, QString>> m_modes;
    KnownRun m_run;
    std::optional<DrawFromRun> m_draw;
    QCheckBox* m_known;
    QuantityEdit* m_capacity;
    QuantityEdit* m_runVolts;
    QuantityEdit* m_lasted;
    QComboBox* m_mode;
    QComboBox* m_by;
    QWidget* m_runRow;
    QLabel* m_drawn;
    QPushButton* m_use;
};

} // namespace sipper::app
