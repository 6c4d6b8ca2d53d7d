// SPDX-License-Identifier: GPL-3.0-or-later
// Energy as one stream: what comes in at the left, each loss leaving it below, what is left at the
// right.
#pragma once

#include "theme/theme.hpp"

#include <QFrame>
#include <QPainterPath>
#include <vector>

namespace sipper::app {

/// Read by hovering, or with the arrow keys: the part under the cursor is named with its figures.
class EnergyStream : public QFrame {
    Q_OBJECT
  public:
    struct Entry {
        QString name;
        double wattHours;
        bool delivered; ///< arrives at the right; else it leaves on the way
    };
    explicit EnergyStream(QWidget* parent = nullptr);
    [[nodiscard]] QSize minimumSizeHint() const override;

    /// `total` watt-hours come in; `title` stands over them while nothing is read; the stream has
    /// the colour of `role`.
    void show(std::vector<Entry> entries, double total, const QString& title, Role role);
    [[nodiscard]] const std::vector<Entry>& entriesShown() const { return m_entries; }
    /// What the cursor is on, with its figures; empty for nothing.
    [[nodiscard]] QString reading() const;
    /// Without card and border, for inside a card.
    void setFrameless() { m_frameless = true; }
    /// Keeps this much of the head free for controls at the right, px.
    void keepHeadFree(double px) { m_headFree = px; }
    /// Adds up losses under a few thousandths of the total, as "all the rest".
    [[nodiscard]] static std::vector<Entry> lossesWorthShowing(const std::vector<Entry>& losses,
                                                               double total);

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

  private:
    struct Piece {
        QPainterPath path;
        QRectF label;
        QRectF hover; ///< where the mouse reads it
    };
    void arrange();
    void arrangeLosses(double left, double right, double scale);
    void arrangeDelivered(double right, double scale);
    void put(int at);
    void paintLabel(QPainter& p, std::size_t i) const;

    std::vector<Entry> m_entries;
    std::vector<Piece> m_pieces;
    QPainterPath m_body; ///< the stream itself
    double m_total = 0;
    QString m_title;
    Role m_role = Role::copper;
    double m_headFree = 14;
    bool m_frameless = false;
    int m_at = -1;
};

} // namespace sipper::app
