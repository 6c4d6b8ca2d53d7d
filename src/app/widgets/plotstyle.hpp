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
/// A hairline that follows the pointer and reads `graph`; `text` words a point.
void addCrosshair(QCustomPlot& plot, QCPGraph& graph,
                  std::function<QString(double key, double value)> text);
/// All graphs as CSV: the key, then a column for each graph.
[[nodiscard]] QString plotCsv(const QCustomPlot& plot);

} // namespace sipper::app
