// SPDX-License-Identifier: GPL-3.0-or-later
// Quick sums: single calculations that need no project, in a drawer under the views.
#pragma once

#include "calculators/calculators.hpp"

#include <QFrame>
#include <QMap>

class QComboBox;
class QGridLayout;
class QLabel;
class QLineEdit;

namespace sipper::app {

class SumsDrawer : public QFrame {
    Q_OBJECT
  public:
    explicit SumsDrawer(QWidget* parent = nullptr);
    /// Shows a sum, the first where the name is empty, with the cursor in its first field.
    void open(const QString& name = {});

  signals:
    void closed();

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void build();
    void refresh();

    QComboBox* m_sum;
    QLabel* m_about;
    QWidget* m_fields;
    QWidget* m_results;
    QGridLayout* m_grid;
    QLabel* m_complaint;
    QList<QLineEdit*> m_edits;
    QMap<QString, QString> m_typed; ///< by `sum.field`: kept while the window is open
};

} // namespace sipper::app
