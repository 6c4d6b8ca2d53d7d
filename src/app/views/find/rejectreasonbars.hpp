// SPDX-License-Identifier: GPL-3.0-or-later
// Why candidates fell out, as bars; a click on a reason asks for its nearest misses.
#pragma once

#include "search/search.hpp"

#include <QWidget>

namespace sipper::app {

class RejectReasonBars : public QWidget {
    Q_OBJECT
  public:
    explicit RejectReasonBars(QWidget* parent = nullptr);

    void show(const SearchCounts& counts);
    /// The reasons shown, the most frequent first.
    [[nodiscard]] const std::vector<RejectReason>& shown() const { return m_order; }
    void choose(int row);
    [[nodiscard]] QSize sizeHint() const override;

  signals:
    void chosen(sipper::RejectReason reason);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    SearchCounts m_counts;
    std::vector<RejectReason> m_order;
    int m_row = -1;
};

} // namespace sipper::app
