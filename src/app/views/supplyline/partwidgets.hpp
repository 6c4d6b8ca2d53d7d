// SPDX-License-Identifier: GPL-3.0-or-later
// The stages, loads and thresholds that stand on the drawn line: real widgets, so that keyboard,
// assistive technology and tests reach them.
#pragma once

#include <QWidget>

namespace sipper::app {

/// A part that can be walked to, selected, and perhaps dragged up and down. Transparent: the canvas
/// draws what is under it.
class PartWidget : public QWidget {
    Q_OBJECT
  public:
    explicit PartWidget(QString id, QWidget* parent);
    [[nodiscard]] const QString& id() const { return m_id; }
    void setDraggable(bool draggable);

  signals:
    void picked(const QString& id);
    void opened(const QString& id);            ///< Enter: go to its figures
    void dragged(const QString& id, double y); ///< in the canvas
    void dragEnded(const QString& id);
    void nudged(const QString& id, int steps); ///< Ctrl with arrow up or down
    void walked(const QString& id, int key);   ///< arrow keys
    void hovered(const QString& id, bool in);

  protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    void enterEvent(QEnterEvent* event) override;
    void leaveEvent(QEvent* event) override;

  private:
    QString m_id;
    bool m_draggable = false;
    bool m_pressed = false;
    bool m_dragging = false;
    double m_pressY = 0;
    double m_offset = 0; ///< from the pointer to the middle of the widget when pressed
};

} // namespace sipper::app
