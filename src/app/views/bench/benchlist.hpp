// SPDX-License-Identifier: GPL-3.0-or-later
// The checks in order: what is expected, the band with the reading as a dot on it, and the field
// that takes the next figure.
#pragma once

#include "measure/checks.hpp"
#include "project/project.hpp"

#include <QWidget>
#include <array>

namespace sipper::app {

class QuantityEdit;

class BenchList : public QWidget {
    Q_OBJECT
  public:
    explicit BenchList(QWidget* parent = nullptr);

    void show(const Project& project, const BenchAnalysis& look);
    /// The marked check, from 0; -1 without any.
    [[nodiscard]] int marked() const { return m_marked; }
    void mark(int row);
    /// On to the first check that has no reading; stays where all have one.
    void markNext();
    [[nodiscard]] QRectF rowBox(int row) const;
    /// Where the marked check's figure is typed.
    [[nodiscard]] QuantityEdit* field() const;

  signals:
    void moved(int row);
    void typed(int row, double value);
    void wants(const QRect& place);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void place();
    void paintRow(QPainter& painter, int row) const;
    void paintBand(QPainter& painter, const BenchCheck& check, const QRectF& box) const;
    [[nodiscard]] double rowHeight() const;
    [[nodiscard]] double figureWidth() const;

    struct Row {
        BenchCheck check;
        QString title;
        QString band;
        QString figure;
    };
    std::vector<Row> m_rows;
    int m_marked = -1;
    std::array<QuantityEdit*, 3> m_fields{}; ///< volts, amps, degrees
};

} // namespace sipper::app
