// SPDX-License-Identifier: GPL-3.0-or-later
// The supply line as a picture: on the window's canvas, on paper, in a file.
#pragma once

#include "advice/finding.hpp"
#include "line/operating.hpp"
#include "project/project.hpp"
#include "protect/backfeed.hpp"
#include "views/supplyline/linelayout.hpp"

#include <QCoreApplication>
#include <QPainter>
#include <QPen>

namespace sipper::app {

/// What one picture shows; it must outlive the painting.
struct LineScene {
    const LineLayout& layout;
    const Project& project;
    const std::vector<Finding>& findings;
    const OperatingPoint& now;
    bool stops = false;    ///< a stop, and not the cell's empty mark, is the pack's lowest voltage
    QString chosen{};      ///< id of the part whose edge is copper; empty: none
    QString lit{};         ///< likewise, of the part that is pointed at
    bool wordless = false; ///< shapes alone: for a picture too small to read
    const std::vector<BackfeedPath>* backfeeds = nullptr; ///< ways back, dashed in red; null: none
};

/// Paints on whatever the painter paints on; the ground is the caller's.
class LinePainter {
    Q_DECLARE_TR_FUNCTIONS(LinePainter)
  public:
    LinePainter(QPainter& painter, LineScene scene) : m_p(painter), m_scene(std::move(scene)) {}
    /// `whole`: where the words stand if there is no source to draw.
    void paint(const QRectF& whole);

  private:
    void paintGrid();
    void paintBands();
    void paintCopper();
    void paintBackfeeds();
    void paintPush(const BackfeedPath& push);
    void paintWayTo(std::size_t i); ///< the line to a stage, and through it
    void paintWayToLoad(std::size_t i);
    void paintStage(std::size_t i);
    void paintPack(std::size_t i);
    void paintGuard(std::size_t i);
    void paintCard(std::size_t i);
    void paintPill(std::size_t i);
    void paintCapacitor(const StagePlace& s);
    void paintLoad(std::size_t i);
    void paintLoadLabel(std::size_t i);
    void paintCallout();
    void paintCollapse();
    void writeFitted(const QRectF& box, const QFont& font, const QString& text);
    void write(const QRectF& box, int flags, const QString& text);
    [[nodiscard]] bool isChosen(const QString& id) const {
        return m_scene.chosen == id || m_scene.lit == id;
    }
    /// As wide as `wanted` about its middle where nothing stands there, else as it is.
    [[nodiscard]] QRectF grown(const QRectF& label, double wanted, std::size_t of) const;
    [[nodiscard]] QPen edge(const QString& id) const;
    [[nodiscard]] QPen copper(double watts, bool live, bool charging = false) const;
    [[nodiscard]] std::optional<Severity> gravestOf(const std::string& id) const;

    QPainter& m_p;
    LineScene m_scene;
    double m_most = 1; ///< W, of the thickest line
};

} // namespace sipper::app
