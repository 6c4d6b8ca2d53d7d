// SPDX-License-Identifier: GPL-3.0-or-later
// One style for every curve.
#pragma once

#include "theme/theme.hpp"

#include <QMargins>
#include <QObject>
#include <QPointer>
#include <QString>
#include <functional>
#include <vector>

class QCustomPlot;
class QCPAxis;
class QCPGraph;
class QCPItemText;

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
struct PlotTextLook {
    double size = 11;
    bool bold = false;
    QMargins padding{3, 1, 3, 1};
    bool ground = false; ///< the card's, so that lines do not run through it
};
/// A text in a plot, to be placed by the caller.
QCPItemText* plotText(QCustomPlot& plot, Role ink, const PlotTextLook& look = {},
                      const QString& words = {});

/// Keeps texts of a plot from covering each other: at every layout those that stand above one
/// another are moved apart along the values, as little as is needed, inside the axes.
class PlotLabels : public QObject {
  public:
    explicit PlotLabels(QCustomPlot& plot);
    /// Stands where it was placed, in the plot's coordinates, until another is in its way.
    /// Forgotten when the plot removes it.
    void add(QCPItemText& label);

  private:
    struct Label {
        QPointer<QObject> alive; ///< gone with the item
        QCPItemText* item;
        double key, value;
    };
    void separate();

    QCustomPlot& m_plot;
    std::vector<Label> m_labels;
};

/// All graphs as CSV, one below the other: a header of the plot's property `keys` (what runs along
/// the axis, with its unit) and the graph's name, then its points.
[[nodiscard]] QString plotCsv(const QCustomPlot& plot);

} // namespace sipper::app
