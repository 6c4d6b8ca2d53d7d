// SPDX-License-Identifier: GPL-3.0-or-later
// A choice without gradients: the field, its text and a small triangle.
#pragma once

#include <QComboBox>

namespace sipper::app {

class PlainCombo : public QComboBox {
    Q_OBJECT
  public:
    using QComboBox::QComboBox;

  protected:
    void paintEvent(QPaintEvent*) override;
    void
    wheelEvent(QWheelEvent* event) override; ///< only with the focus: no change by scrolling past
};

} // namespace sipper::app
