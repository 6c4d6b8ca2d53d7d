// The skyline: what the project draws over one day, and over one cycle of its repeating modes.
#pragma once

#include "session/session.hpp"

#include <QMap>
#include <QWidget>

namespace sipper::app {

/// An edge that is dragged sideways: an end of a daily window, the length or the period of a mode.
class EdgeHandle : public QWidget {
    Q_OBJECT
  public:
    EdgeHandle(const QString& name, QWidget* parent);

  signals:
    void dragged(double x); ///< in the parent
    void nudged(int steps); ///< arrow keys

  protected:
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void paintEvent(QPaintEvent*) override;
    void enterEvent(QEnterEvent*) override { update(); }
    void leaveEvent(QEvent*) override { update(); }
};

/// Current up on a logarithmic axis. `day`: the hours across, windows as blocks, repeating modes as
/// stripes. Otherwise one cycle: the longest period of the repeating modes that run while the mode
/// shown does, each as one block. Charge per day stands in words: on a logarithmic axis an area
/// can't show it.
class Skyline : public QWidget {
    Q_OBJECT
  public:
    Skyline(Session& session, bool day, QWidget* parent = nullptr);
    [[nodiscard]] QSize minimumSizeHint() const override;

    struct Block {
        std::size_t mode;
        QRectF box;
        QString text; ///< on hover: exact figures
    };
    [[nodiscard]] const QList<Block>& blocks() const { return m_blocks; }

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    bool event(QEvent* event) override;

  private:
    void rebuild();
    void buildDay();
    void buildCycle();
    void placeHandles();
    EdgeHandle* handle(const QString& name, const QString& about);
    void moveWindow(std::size_t mode, std::size_t window, bool end, double minute, bool key);
    void setDuration(std::size_t mode, double seconds, bool key);
    [[nodiscard]] std::size_t indexOf(const std::string& id) const;
    [[nodiscard]] double y(double amps) const;
    [[nodiscard]] double x(double share) const;
    [[nodiscard]] QRectF plot() const;
    [[nodiscard]] QColor colourOf(std::size_t mode) const;

    Session& m_session;
    bool m_day;
    QList<Block> m_blocks;
    QMap<QString, EdgeHandle*> m_handles;
    double m_low = 1e-6;
    double m_high = 1;
    double m_cycle = 60; ///< seconds across
};

} // namespace sipper::app
