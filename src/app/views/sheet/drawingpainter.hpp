// SPDX-License-Identifier: GPL-3.0-or-later
// The shapes of a drawing on whatever a painter paints on, in the colours of the day.
#pragma once

#include "sheet/drawing.hpp"

#include <QColor>
#include <QPainter>

namespace sipper::app {

[[nodiscard]] QColor inkOnPaper(Ink ink);
/// The paper's font of a size in the painter's units, of which `unit` are a point.
[[nodiscard]] QFont paperFont(double size, bool bold);
/// Paints the drawing with its upper left corner at `at`, `scale` units to one of its own.
void paintDrawing(QPainter& painter, const Drawing& drawing, const QPointF& at, double scale);

} // namespace sipper::app
