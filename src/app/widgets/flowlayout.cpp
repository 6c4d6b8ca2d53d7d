// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/flowlayout.hpp"

#include <QWidget>

namespace sipper::app {

FlowLayout::FlowLayout(QWidget* parent, int gapX, int gapY)
    : QLayout(parent), m_gapX(gapX), m_gapY(gapY) {
    setContentsMargins(0, 0, 0, 0);
}

FlowLayout::~FlowLayout() {
    qDeleteAll(m_items);
}

QLayoutItem* FlowLayout::takeAt(int index) {
    return index >= 0 && index < m_items.size() ? m_items.takeAt(index) : nullptr;
}

void FlowLayout::setGeometry(const QRect& rect) {
    QLayout::setGeometry(rect);
    arrange(rect, true);
}

QSize FlowLayout::minimumSize() const {
    QSize size;
    for (const QLayoutItem* item : m_items)
        size = size.expandedTo(item->minimumSize());
    return size;
}

int FlowLayout::arrange(const QRect& rect, bool place) const {
    int x = rect.x();
    int y = rect.y();
    int line = 0;
    for (QLayoutItem* item : m_items) {
        if (item->widget() && item->widget()->isHidden())
            continue;
        const QSize size = item->sizeHint();
        if (x > rect.x() && x + size.width() > rect.right() + 1) {
            x = rect.x();
            y += line + m_gapY;
            line = 0;
        }
        if (place)
            item->setGeometry(QRect(QPoint(x, y), size));
        x += size.width() + m_gapX;
        line = std::max(line, size.height());
    }
    return y + line - rect.y();
}

} // namespace sipper::app
