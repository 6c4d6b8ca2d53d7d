// SPDX-License-Identifier: GPL-3.0-or-later
// All supplies that a search found, as dots over two axes: those that none beats, yours, the
// target.
#pragma once

#include "search/search.hpp"

#include <QFrame>
#include <memory>
#include <optional>

class QComboBox;
class QCustomPlot;
class QCPAxis;
class QCPGraph;
class QLabel;
class QPushButton;

namespace sipper::app {

/// By what a supply is refilled, in words.
[[nodiscard]] QString byText(const Candidate::Refilled& refill);

class FindScatter : public QFrame {
    Q_OBJECT
  public:
    explicit FindScatter(QWidget* parent = nullptr);

    /// Draws what was found, or what has been so far while the search is `running`: that can be
    /// looked at, not chosen. `target`: hours.
    void show(const std::shared_ptr<const Search>& found, bool running,
              std::optional<double> target);
    void forget();
    /// Index into what was kept; -1: none.
    [[nodiscard]] int chosen() const { return m_chosen; }
    void choose(int index);
    [[nodiscard]] bool hasCorner() const { return m_corner.has_value(); }
    void dropCorner();
    /// Everything is, where no corner is chosen.
    [[nodiscard]] bool inCorner(const Candidate& c) const;

  signals:
    void taken(int index);
    void cornered();

  private:
    enum class Axis { hours, grams, price, size, worst, refill };
    QLayout* buildHead();
    void buildPlot();
    void buildGraphs();
    /// A click chooses, a double click takes, a drag lists a corner.
    void followMouse();
    /// What the axes have to show.
    struct Frame {
        double left = 1e300, right = 0, low = 1e300, high = 0;
        void include(double x, double y); ///< over zero, or it is not shown
    };
    void drawPoints(const Search& found, Frame& frame);
    static void labelAxis(QCPAxis& axis, Axis kind);
    void drawTarget();
    void draw();
    /// Index of the one under the pointer; -1: none.
    [[nodiscard]] int nearest(const QPoint& at) const;
    void say(int index);
    void pick(const QPoint& at);
    [[nodiscard]] static double valueOn(const Candidate& c, Axis axis);
    [[nodiscard]] static QString axisText(Axis axis);

    std::shared_ptr<const Search> m_found;
    bool m_running = false;
    std::optional<double> m_target;
    Axis m_x = Axis::grams;
    Axis m_y = Axis::hours;
    std::vector<bool> m_onEdge; ///< of what was kept
    int m_chosen = -1;
    std::optional<QRectF> m_corner; ///< in the units of the axes
    bool m_nearOnly = false;        ///< what lies far past the short list is left away
    QCustomPlot* m_plot;
    QCPGraph* m_all = nullptr;
    QCPGraph* m_own = nullptr; ///< of parts of the user's own
    QCPGraph* m_edge = nullptr;
    QCPGraph* m_yours = nullptr;
    QCPGraph* m_mark = nullptr;
    QLabel* m_hover;
    QComboBox* m_xBox;
    QComboBox* m_yBox;
    QPushButton* m_takeButton;
    QPushButton* m_near;
};

} // namespace sipper::app
