// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/supplyline/partwidgets.hpp"

#include <QApplication>
#include <QKeyEvent>
#include <QMouseEvent>

namespace sipper::app {

PartWidget::PartWidget(QString id, QWidget* parent) : QWidget(parent), m_id(std::move(id)) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
}

void PartWidget::setDraggable(bool draggable) {
    m_draggable = draggable;
    setCursor(draggable ? Qt::SizeVerCursor : Qt::PointingHandCursor);
}

void PartWidget::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton)
        return;
    m_pressed = true;
    m_pressY = event->globalPosition().y();
    m_offset = height() / 2.0 - event->position().y();
    emit picked(m_id);
}

void PartWidget::mouseMoveEvent(QMouseEvent* event) {
    if (!m_pressed || !m_draggable || !(event->buttons() & Qt::LeftButton))
        return;
    if (!m_dragging &&
        std::abs(event->globalPosition().y() - m_pressY) < QApplication::startDragDistance() / 2.0)
        return;
    m_dragging = true;
    emit dragged(m_id, mapToParent(event->position().toPoint()).y() + m_offset);
}

void PartWidget::mouseReleaseEvent(QMouseEvent*) {
    m_pressed = false;
    if (m_dragging) {
        m_dragging = false;
        emit dragEnded(m_id);
    }
}

void PartWidget::mouseDoubleClickEvent(QMouseEvent*) {
    emit opened(m_id);
}

void PartWidget::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
    case Qt::Key_Up:
    case Qt::Key_Down:
        if (event->modifiers() & Qt::ControlModifier) {
            emit nudged(m_id, event->key() == Qt::Key_Up ? 1 : -1);
            return;
        }
        [[fallthrough]];
    case Qt::Key_Left:
    case Qt::Key_Right:
        emit walked(m_id, event->key());
        return;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        emit opened(m_id);
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

void PartWidget::focusInEvent(QFocusEvent* event) {
    QWidget::focusInEvent(event);
    emit picked(m_id);
    parentWidget()->update();
}
void PartWidget::focusOutEvent(QFocusEvent* event) {
    QWidget::focusOutEvent(event);
    parentWidget()->update();
}
void PartWidget::enterEvent(QEnterEvent*) {
    emit hovered(m_id, true);
}
void PartWidget::leaveEvent(QEvent*) {
    emit hovered(m_id, false);
}

} // namespace sipper::app
