// Where the energy goes: one stream from the nameplate to the loads, each loss leaving it.
#pragma once

#include "session/session.hpp"

#include <QFrame>
#include <QPainterPath>

class QCheckBox;

namespace sipper::app {

/// Read by hovering, or with the arrow keys: the part under the cursor is named with its figures.
class LedgerStream : public QFrame {
    Q_OBJECT
  public:
    explicit LedgerStream(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QSize minimumSizeHint() const override;

    struct Entry {
        QString name;
        double wattHours;
        bool delivered;
    };
    /// Losses from the nameplate down, then what each load got; `byMode` parts the loads by mode.
    [[nodiscard]] static std::vector<Entry> entries(const Project& project, const Ledger& ledger,
                                                    bool byMode = false);
    /// What the cursor is on, with its figures; empty for nothing.
    [[nodiscard]] QString reading() const;

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
    void refresh();
    void arrange();
    void arrangeLoads(double right, double top, double scale);
    void put(int at);
    void paintLabel(QPainter& p, std::size_t i) const;

    Session& m_session;
    QCheckBox* m_byMode;
    std::vector<Entry> m_entries;
    std::vector<Piece> m_pieces;
    QPainterPath m_body; ///< the stream itself
    int m_at = -1;
};

} // namespace sipper::app
