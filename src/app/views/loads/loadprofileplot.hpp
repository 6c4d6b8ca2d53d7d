// SPDX-License-Identifier: GPL-3.0-or-later
// The skyline: what the project draws over one day, and over one cycle of its repeating modes.
#pragma once

#include "session/session.hpp"

#include <QMap>
#include <QSet>
#include <QWidget>

namespace sipper::app {

/// An edge that is dragged: sideways an end of a daily window, the length or the period of a mode;
/// up and down the current of a mode.
class EdgeHandle : public QWidget {
    Q_OBJECT
  public:
    /// `way` is the way it moves.
    EdgeHandle(const QString& name, Qt::Orientation way, QWidget* parent);

  signals:
    void dragged(double at); ///< in the parent, along the way it moves
    void nudged(int steps);  ///< arrow keys; up and right are more
    void grabbed(bool on);

  protected:
    void mousePressEvent(QMouseEvent*) override { emit grabbed(true); }
    void mouseReleaseEvent(QMouseEvent*) override { emit grabbed(false); }
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void paintEvent(QPaintEvent*) override;
    void enterEvent(QEnterEvent*) override { update(); }
    void leaveEvent(QEvent*) override { update(); }

  private:
    Qt::Orientation m_way;
};

/// As a block of it is labelled: its name and when.
[[nodiscard]] QString modeText(const Mode& mode);

/// Current up on a logarithmic axis. `day`: the hours across, windows as blocks, repeating modes as
/// stripes. Otherwise one cycle: the longest period of the repeating modes that run while the mode
/// shown does, each as one block. Charge per day stands in words: on a logarithmic axis an area
/// can't show it.
class LoadProfilePlot : public QWidget {
    Q_OBJECT
  public:
    LoadProfilePlot(Session& session, bool day, QWidget* parent = nullptr);
    [[nodiscard]] QSize minimumSizeHint() const override;

    struct Block {
        std::size_t mode;
        QRectF box;
        QString text;       ///< on hover: exact figures
        bool dense = false; ///< repetitions too close to be told apart
    };
    [[nodiscard]] const QList<Block>& blocks() const { return m_blocks; }

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    bool event(QEvent* event) override;

  private:
    void paintDecades(QPainter& p) const;
    void paintHours(QPainter& p) const;
    void paintBlocks(QPainter& p) const;
    void paintNames(QPainter& p) const;
    void rebuild();
    void buildDay();
    void buildCycle();
    void placeHandles();
    /// One handle: where it lies, and what is done when it moves.
    struct Grip {
        QString name;
        QString about;
        Qt::Orientation way = Qt::Horizontal;
        QRectF box;
        std::function<void(double at)> drag;
        std::function<void(int steps)> nudge;
    };
    void put(const Grip& grip, QSet<QString>& used);
    void putWindows(std::size_t mode, QSet<QString>& used);
    void putTimes(std::size_t mode, QSet<QString>& used);
    void putCurrent(std::size_t mode, QSet<QString>& used);
    [[nodiscard]] double ampsAt(double y) const;
    [[nodiscard]] const Block* firstBlock(std::size_t mode, std::size_t skip = 0) const;
    void moveWindow(std::size_t mode, std::size_t window, bool end, double minute, bool key);
    void setTime(std::size_t mode, double seconds, bool every, bool key);
    void setCurrent(std::size_t mode, double amps, bool key);
    [[nodiscard]] std::size_t drawingLoad(std::size_t mode) const;
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
    double m_cycle = 60;   ///< seconds across
    bool m_frozen = false; ///< while something is dragged the axes stay
};

} // namespace sipper::app
