// Derives a load's window from what the load was made for.
#pragma once

#include "parts/madefor.hpp"

#include <QDialog>

class QComboBox;
class QLabel;
class QPushButton;
class QSpinBox;

namespace sipper::app {

class QuantityEdit;

class MadeForDialog : public QDialog {
    Q_OBJECT
  public:
    explicit MadeForDialog(const QString& loadName, QWidget* parent = nullptr);
    /// Nothing while what was asked can't be answered.
    [[nodiscard]] const std::optional<DerivedWindow>& derived() const { return m_derived; }

  private:
    QLayout* buildQuestion();
    void buildVolts();
    void buildCells();
    QLayout* buildFoot();
    void listen();
    void refresh();

    MadeForAsked m_asked;
    std::optional<DerivedWindow> m_derived;
    QComboBox* m_kind;
    QLabel* m_voltsLabel;
    QuantityEdit* m_volts;
    QLabel* m_cellsLabel;
    QSpinBox* m_count;
    QComboBox* m_chemistry;
    QLabel* m_window;
    QLabel* m_assumed;
    QPushButton* m_use;
};

} // namespace sipper::app
