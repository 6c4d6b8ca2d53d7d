// SPDX-License-Identifier: GPL-3.0-or-later
// Cells that were matched into groups, as bars.
#pragma once

#include "inventory/inventory.hpp"

#include <QWidget>

namespace sipper::app {

/// Groups as bars of their cells, the weakest marked, the mean as a line.
class MatchBars : public QWidget {
    Q_OBJECT
  public:
    explicit MatchBars(QWidget* parent = nullptr);
    void show(const std::vector<OwnedCell>& cells, const std::optional<CellMatch>& match);

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    struct Group {
        std::vector<std::pair<QString, double>> cells;
        double ah;
        QString figure;
    };
    std::vector<Group> m_groups;
    int m_weakest = -1;
};

} // namespace sipper::app
