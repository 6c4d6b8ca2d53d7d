// SPDX-License-Identifier: GPL-3.0-or-later
// One style for every curve.
#pragma once

#include <QString>
#include <functional>

class QCustomPlot;
class QCPAxis;
class QCPGraph;

namespace sipper::app {

/// Paper, hairline grid, B612; copy as picture or CSV from the context menu.
void stylePlot(QCustomPlot& plot);
/// The main line: copper, 2 px.
void styleMainGraph(QCPGraph& graph);
/// Ticks of a time axis from 0 to `span` hours, written as people say hours.
void tickHours(QCPAxis& axis, double span);
/// A round step in seconds that parts `span` into at most `most`.
[[nodiscard]] double niceSeconds(double span, double most);
/// A time on an axis whose ticks are `step` apart: `30 s`, `4 min`.
[[nodiscard]] QString tickText(double seconds, double step);
/// Ticks of a time axis in seconds, from one to another: about six, written with their unit.
void tickSeconds(QCPAxis& axis, double from, double to);
/// `10 mA`: a decade on a logarithmic axis of current.
[[nodiscard]] QString plainDecade(double amps);
/// A drag along the keys zooms in, a double click calls `whole`, which shows all again.
void addZoom(QCustomPlot& plot, std::function<void()> whole);
/// A hairline that follows the pointer and reads `graph`; `text` words a point.
void addCrosshair(QCustomPlot& plot, QCPGraph& graph,
                  std::function<QString(double key, double value)> text);
/// All graphs as CSV, one below the other: a header of the plot's property `keys` (what runs along
/// the axis, with its unit) and the graph's name, then its points.
[[nodiscard]] QString plotCsv(const QCustomPlot& plot);

} // namespace sipper::app
