// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/supplyline/linemarks.hpp"

#include "project/tree.hpp"
#include "theme/theme.hpp"
#include "widgets/text.hpp"

#include <QFontMetricsF>
#include <algorithm>

namespace sipper::app {
namespace {

/// Nothing stands there: no part, no label, no copper.
bool isFree(const LineLayout& out, const QRectF& box, double scale) {
    const auto px = [scale](double n) { return n * scale; };
    const QRectF inside(px(46), out.plot.top(), out.plot.width(), out.plot.height() + px(8));
    if (!inside.contains(box))
        return false;
    const QRectF wide = box.adjusted(-px(3), -px(3), px(3), px(3));
    for (const StagePlace& s : out.stages)
        if (s.shown && (s.area.intersects(wide) ||
                        (s.shape == Shape::guard &&
                         s.box.adjusted(-px(14), -px(16), px(14), px(18)).intersects(wide))))
            return false; // a guard has its thresholds written over and under it
    for (const LoadPlace& l : out.loads)
        if (l.shown && (l.label.intersects(wide) ||
                        QRectF(l.x - px(6), l.top, px(34), l.bottom - l.top).intersects(wide)))
            return false;
    // And off the copper, as far as its ends tell.
    for (const StagePlace& s : out.stages) {
        if (s.shown && s.column > 0) {
            const StagePlace& from = out.stages[s.parent];
            for (double t = 0; t <= 1; t += 0.125) {
                const double blend = t * t * (3 - 2 * t);
                if (wide.contains(QPointF(from.box.right() + t * (s.box.left() - from.box.right()),
                                          from.y + blend * (s.y - from.y))))
                    return false;
            }
        }
    }
    for (const LoadPlace& l : out.loads)
        if (l.shown && wide.top() < l.y && wide.bottom() > l.y &&
            wide.right() > out.stages[l.parent].box.right())
            return false;
    return true;
}

} // namespace

void placeNeverMarks(LineLayout& out, double width, double scale) {
    const auto px = [scale](double n) { return n * scale; };
    for (std::size_t i = 0; i < out.loads.size(); ++i) {
        LoadPlace& l = out.loads[i];
        if (!l.shown || l.never < 0)
            continue;
        const QRectF mark(l.x - px(2), l.never - px(8), width - l.x, px(16));
        bool clear = l.never > out.plot.top() - px(8) && l.label.top() - l.never > px(8);
        for (std::size_t k = 0; k < out.loads.size(); ++k) {
            const LoadPlace& other = out.loads[k];
            if (!other.shown)
                continue;
            const QRectF taken(other.x - px(2), std::min(other.top, other.label.top()),
                               width - other.x,
                               std::max(other.bottom, other.label.bottom()) -
                                   std::min(other.top, other.label.top()));
            clear = clear &&
                    (k == i || (!taken.intersects(mark) && !other.neverLabel.intersects(mark)));
        }
        if (clear)
            l.neverLabel = QRectF(l.x + px(26), l.never - px(8), width - l.x - px(28), px(16));
        else
            l.never = -1;
    }
}

void placeCallout(LineLayout& out, const Project& project, const std::vector<Finding>& findings,
                  double scale) {
    const auto px = [scale](double n) { return n * scale; };
    for (const Finding& f : findings) {
        if (f.severity != Severity::stop)
            break;
        out.calloutSubject = qs(f.subject);
        out.calloutText = qs(f.title);
        QPointF anchor;
        if (const std::size_t load = loadIndex(project, f.subject); load != kNotFound)
            anchor = QPointF(out.loads[load].x, out.loads[load].bottom);
        else if (const std::size_t at = stageIndex(project, f.subject); at != kNotFound)
            anchor = out.stages[at].box.center();
        else
            continue;
        const QFontMetricsF metrics(Theme::now().font(11, true));
        const QSizeF size(metrics.horizontalAdvance(out.calloutText) + px(20), px(24));
        for (const double dy : {30.0, 46.0, 64.0, -46.0, -64.0, 90.0})
            for (const double dx : {0.0, 60.0, -60.0, 110.0, -110.0, -150.0}) {
                QRectF box(QPointF(), size);
                box.moveCenter(anchor + QPointF(px(dx), px(dy)));
                if (isFree(out, box, scale)) {
                    out.callout = box;
                    return;
                }
            }
        return;
    }
}

} // namespace sipper::app
