// SPDX-License-Identifier: GPL-3.0-or-later
// A divider as it is soldered: two resistors in a row, a third where it has hysteresis.
#pragma once

#include "protect/dividers.hpp"
#include "theme/theme.hpp"

#include <QWidget>
#include <optional>

namespace sipper::app {

class DividerDrawing : public QWidget {
    Q_OBJECT
  public:
    explicit DividerDrawing(QWidget* parent = nullptr);

    void show(const std::optional<Divider>& divider, DividerUse use, double reference);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    std::optional<Divider> m_divider;
    DividerUse m_use = DividerUse::setPoint;
    double m_reference = 0;
};

} // namespace sipper::app
