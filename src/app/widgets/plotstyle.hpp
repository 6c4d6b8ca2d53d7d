// One style for every curve.
#pragma once

#include <QString>

class QCustomPlot;
class QCPAxis;
class QCPGraph;

namespace sipper::app {

/// Paper, hairline grid, B612; drag to zoom, double click to reset, copy as picture or CSV from the
/// context menu, a crosshair that reads values.
void stylePlot(QCustomPlot& plot);
/// The main line: copper, 2 px.
void styleMainGraph(QCPGraph& graph);
/// Ticks of a time axis from 0 to `span` hours, written as people say hours.
void tickHours(QCPAxis& axis, double span);
/// All graphs as CSV: the key, then a column for each graph.
[[nodiscard]] QString plotCsv(const QCustomPlot& plot);

} // namespace sipper::app
