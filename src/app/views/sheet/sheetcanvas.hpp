// SPDX-License-Identifier: GPL-3.0-or-later
// The paper on the screen: its pages below each other, as wide as there is room, with rows that can
// be chosen and parts that can be ticked.
#pragma once

#include "views/sheet/sheetpaper.hpp"

#include <QWidget>

namespace sipper::app {

class SheetCanvas : public QWidget {
    Q_OBJECT
  public:
    explicit SheetCanvas(QWidget* parent = nullptr);

    void show(SheetPaper paper);
    void choose(const QString& id);
    [[nodiscard]] const SheetPaper& paper() const { return m_paper; }
    /// Where a row stands on the widget, and its box to tick.
    [[nodiscard]] QRectF placeOf(const SheetPaper::Row& row) const;
    [[nodiscard]] QRectF tickOf(const SheetPaper::Row& row) const;
    /// The row that the keys are on; -1: none.
    [[nodiscard]] int row() const { return m_row; }

    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override;
    QSize sizeHint() const override;

  signals:
    void chosen(const QString& id);
    void ticked(const QString& key, bool have);
    void wants(const QRect& place); ///< to be seen

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    bool event(QEvent* event) override;

  private:
    [[nodiscard]] double scale() const;
    [[nodiscard]] QPointF corner(int page) const;
    [[nodiscard]] QRectF onWidget(int page, const QRectF& box) const;
    [[nodiscard]] int rowAt(const QPointF& at) const;
    void goTo(int row);

    SheetPaper m_paper;
    QString m_chosen;
    int m_row = -1;
};

} // namespace sipper::app
