// SPDX-License-Identifier: GPL-3.0-or-later
// Where everything on the drawn supply line stands, and in which words. Geometry and the metrics of
// its fonts: no widgets, no painting.
#pragma once

#include "session/results.hpp"
#include "views/supplyline/voltaxis.hpp"
#include "widgets/labelplacing.hpp"

#include "line/operating.hpp"

#include <QRectF>
#include <QSizeF>
#include <QString>
#include <vector>

namespace sipper::app {

/// How a stage is drawn.
enum class Shape { pack, guard, card, pill };

struct StagePlace {
    bool shown = false; ///< a source that is drawn feeds it
    Shape shape = Shape::card;
    std::size_t column = 0;
    std::size_t parent = 0;
    QRectF box;         ///< of the card or pill
    QRectF area;        ///< box and its label: what nothing else may cover
    double y = 0;       ///< where the copper line passes
    double shift = 0;   ///< how far it stands off its true height, to keep clear of its neighbours
    double bandTop = 0; ///< its output over the whole charge
    double bandBottom = 0;
    double bandEnd = 0; ///< x to which the band runs
    bool hasBand = false;
    bool compact = false; ///< little room: one line of label
    double low = 0;       ///< volts of the band
    double high = 0;
    std::vector<std::size_t> otherFeeds; ///< of a select: those that do not lead now
    bool charging = false;               ///< what flows here is on its way into a pack
    QString title;
    QString detail;
};

struct LoadPlace {
    bool shown = false;
    std::size_t parent = 0;
    double x = 0; ///< of the bracket
    double y = 0;
    double shift = 0;
    double top = 0; ///< bracket: largest accepted voltage
    double bottom = 0;
    double never = -1;  ///< y of never-above; negative when not drawn
    QRectF neverLabel;  ///< empty where it would cover something
    double missTop = 0; ///< hatching where it does not get it; empty when equal
    double missBottom = 0;
    bool missesLow = false;
    bool missesHigh = false;
    bool compact = false; ///< little room: one line of label
    QRectF label;
    QString title;
    QString detail;
};

struct LineLayout {
    VoltAxis axis;
    QRectF plot; ///< between the axis labels and the load labels
    std::vector<StagePlace> stages;
    std::vector<LoadPlace> loads;
    struct Heading {
        QRectF box;
        QString text;
        Qt::Alignment align = Qt::AlignHCenter;
    };
    std::vector<Heading> headings;
    QRectF callout; ///< empty when there is nothing to say or no room to say it
    QString calloutText;
    QString calloutSubject;
};

/// Lays out what packs, adapters, sockets and vehicles feed, each source at the beginning. `scale`
/// is the theme's; `frozen` keeps the axis of an earlier layout while something is dragged.
[[nodiscard]] LineLayout layoutLine(const Project& project, const Results& results,
                                    const OperatingPoint& moment, const QSizeF& size, double scale,
                                    const VoltAxis* frozen = nullptr);

} // namespace sipper::app
