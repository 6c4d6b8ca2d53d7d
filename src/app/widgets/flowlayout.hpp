// SPDX-License-Identifier: GPL-3.0-or-later
// Items in lines, wrapped like words.
#pragma once

#include <QLayout>
#include <QList>

namespace sipper::app {

class FlowLayout : public QLayout {
  public:
    explicit FlowLayout(QWidget* parent, int gapX, int gapY);
    ~FlowLayout() override;

    void addItem(QLayoutItem* item) override { m_items.append(item); }
    int count() const override { return static_cast<int>(m_items.size()); }
    QLayoutItem* itemAt(int index) const override { return m_items.value(index); }
    QLayoutItem* takeAt(int index) override;
    Qt::Orientations expandingDirections() const override { return {}; }
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override { return arrange(QRect(0, 0, width, 0), false); }
    void setGeometry(const QRect& rect) override;
    QSize sizeHint() const override { return minimumSize(); }
    QSize minimumSize() const override;

  private:
    int arrange(const QRect& rect, bool place) const;
    QList<QLayoutItem*> m_items;
    int m_gapX;
    int m_gapY;
};

} // namespace sipper::app
