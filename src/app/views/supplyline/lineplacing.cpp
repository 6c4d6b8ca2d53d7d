// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/tolerance.hpp"
#include "line/sources.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "theme/theme.hpp"
#include "views/supplyline/layouter.hpp"
#include "views/supplyline/linemarks.hpp"
#include "widgets/text.hpp"
#include <QFontMetricsF>
#include <algorithm>
#include <cmath>
#include <numeric>

namespace sipper::app {
namespace {

QString ratioText(const StageFlow& f) {
    if (f.vIn <= 0 || f.vOut <= 0)
        return QStringLiteral("off");
    const double pIn = f.vIn * f.iIn;
    const QString efficiency =
        pIn > 1e-6 && f.iOut > 0
            ? QStringLiteral(" · %1").arg(qs(writeShare(f.vOut * f.iOut / pIn)))
            : QString();
    return QStringLiteral("×%1%2").arg(f.vOut / f.vIn, 0, 'f', 2).arg(efficiency);
}

QString stageDetail(const Stage& s, const StageFlow& f) {
    if (const double below = sleepsBelowOf(s.part);
        below > 0 && f.state != StageState::off && f.iOut < below)
        return QStringLiteral("sleeps < %1").arg(qs(writeExact(below, Unit::ampere)));
    if (isSource(s.part) && f.state != StageState::limiting)
        return f.state == StageState::off ? std::holds_alternative<Panel>(s.part)
                                                ? QStringLiteral("in the dark")
                                                : QStringLiteral("unplugged")
                                          : quantity(f.vOut, Unit::volt) + QStringLiteral(" · ") +
                                                quantity(f.iOut, Unit::ampere);
    if (isCharger(s.part))
        return f.state == StageState::off
                   ? QStringLiteral("idle")
                   : QStringLiteral("%1 · %2").arg(
                         quantity(f.iOut, Unit::ampere),
                         qs(writeShare(f.vIn * f.iIn > 0 ? f.vOut * f.iOut / (f.vIn * f.iIn) : 0)));
    if (f.state == StageState::off)
        return QStringLiteral("off");
    if (const auto* store = std::get_if<Capacitor>(&s.part))
        return quantity(store->farad.value(), Unit::farad);
    if (f.state == StageState::limiting)
        return QStringLiteral("over its limit");
    if (f.state == StageState::droppingOut)
        return QStringLiteral("no room left");
    if (f.state == StageState::passing)
        return QStringLiteral("passes through");
    if (kindFacts(s.part).losses == LossRule::converter)
        return ratioText(f);
    const double drop = std::max(0.0, f.vIn - f.vOut);
    return drop > kNoticedShare * f.vIn ? QStringLiteral("−%1").arg(quantity(drop, Unit::volt))
                                        : QStringLiteral("no drop");
}

constexpr double kPillWeight = 0.72; ///< of a column that holds nothing wider

} // namespace

void Layouter::columns() {
    // What is only passed through takes less room than a card with its name.
    std::vector<double> weights(m_columns, kPillWeight);
    for (const std::size_t i : m_order)
        if (!isPill(m_project.stages[i].part))
            weights[m_out.stages[i].column] = 1;
    const double all = std::accumulate(weights.begin(), weights.end(), 0.25);
    double left = m_out.plot.left();
    for (const double weight : weights) {
        m_lefts.push_back(left);
        left += weight / all * m_out.plot.width();
    }
    m_lefts.push_back(left);
    for (std::size_t c = 0; c < m_columns; ++c) {
        QString heading;
        for (const std::size_t i : m_order)
            if (m_out.stages[i].column == c) {
                const QString name = qs(kindFacts(m_project.stages[i].part).heading);
                heading = heading.isEmpty() || heading == name ? name
                          : c == 0                             ? QStringLiteral("Sources")
                                                               : QStringLiteral("Stages");
            }
        m_out.headings.push_back({QRectF(m_lefts[c], px(10), columnWidth(c), px(18)), heading});
    }
    m_out.headings.push_back(
        {QRectF(m_out.plot.right() + px(4), px(10), m_size.width() - m_out.plot.right(), px(18)),
         QStringLiteral("Loads"), Qt::AlignLeft});
}

void Layouter::place() {
    for (std::size_t c = 0; c < m_columns; ++c) {
        std::vector<std::size_t> here;
        for (const std::size_t i : m_order)
            if (m_out.stages[i].column == c)
                here.push_back(i);
        std::vector<double> wanted;
        std::vector<double> heights;
        for (const std::size_t i : here) {
            shape(i);
            wanted.push_back(m_out.axis.y(nowVolts(i)) + areaOffset(i));
            heights.push_back(m_out.stages[i].area.height());
        }
        const double total = std::accumulate(heights.begin(), heights.end(), 0.0);
        if (here.size() > 1 && total > m_out.plot.height())
            squeeze(here, heights);
        const auto ys = here.size() == 1 ? wanted
                                         : placeWithoutOverlap(wanted, heights, m_out.plot.top(),
                                                               m_out.plot.bottom());
        for (std::size_t k = 0; k < here.size(); ++k)
            put(here[k], ys[k] - areaOffset(here[k]), ys[k] - wanted[k]);
    }
    std::vector<double> wanted;
    std::vector<double> heights;
    const double room = m_out.plot.height() + px(12);
    const double row = room / std::max<double>(1, static_cast<double>(m_loadOrder.size()));
    for (const std::size_t i : m_loadOrder) {
        const auto [top, bottom] = reach(i);
        wanted.push_back((top + bottom) / 2);
        heights.push_back(std::min(row, std::max(px(34), bottom - top + px(10))));
    }
    const auto ys =
        placeWithoutOverlap(wanted, heights, m_out.plot.top() - px(6), m_out.plot.bottom() + px(6));
    for (std::size_t k = 0; k < m_loadOrder.size(); ++k)
        putLoad(m_loadOrder[k], ys[k], wanted[k], heights[k]);
}

void Layouter::squeeze(const std::vector<std::size_t>& here, std::vector<double>& heights) {
    for (std::size_t k = 0; k < here.size(); ++k) {
        StagePlace& s = m_out.stages[here[k]];
        s.compact = s.shape == Shape::pill;
        if (s.compact) {
            s.area.setHeight(px(30));
            heights[k] = px(30);
        }
    }
    const double total = std::accumulate(heights.begin(), heights.end(), 0.0);
    if (total > m_out.plot.height())
        for (double& h : heights)
            h *= m_out.plot.height() / total;
}

void Layouter::shape(std::size_t i) {
    StagePlace& s = m_out.stages[i];
    const Part& part = m_project.stages[i].part;
    const VoltageRange b = outBand(i);
    const double room = columnWidth(s.column);
    const double width = std::min(px(92), room - px(14));
    s.title = qs(nameOf(m_project.stages[i]));
    s.low = b.low;
    s.high = b.high;
    s.detail = collapsed() ? QString() : stageDetail(m_project.stages[i], m_moment.flows.stages[i]);
    if (std::holds_alternative<Pack>(part)) {
        s.shape = Shape::pack;
        const double tall = b.valid ? m_out.axis.y(std::max(m_out.axis.low(), b.low)) -
                                          m_out.axis.y(std::max(0.05, b.high))
                                    : px(30);
        s.box = QRectF(0, 0, std::min(px(60), width), std::max(px(20), tall));
        s.area = QRectF(0, 0, width, s.box.height() + px(64));
        if (!collapsed())
            s.detail = quantity(m_moment.flows.stages[i].vOut, Unit::volt);
    } else if (const auto* guard = std::get_if<Guard>(&part)) {
        s.shape = Shape::guard;
        const double floor = std::max(0.05, guard->cutoff.value());
        const double ceiling = std::max(
            {floor, b.valid ? b.high : floor, guard->reconnect.value_or(Volts{0}).value()});
        s.box = QRectF(0, 0, std::min(px(76), width),
                       std::max(px(40), m_out.axis.y(floor) - m_out.axis.y(ceiling) + px(16)));
        s.area = QRectF(0, 0, width, s.box.height() + px(20));
    } else if (!isPill(part)) {
        // Wider for a longer name, as long as a way for the line remains between the columns.
        const double name =
            QFontMetricsF(Theme::now().font(11.5, true)).horizontalAdvance(s.title) + px(12);
        const double wide = std::max(width, std::min(name, room - px(24)));
        s.shape = Shape::card;
        s.box = QRectF(0, 0, wide, px(36));
        s.area = QRectF(0, 0, wide, px(44));
    } else {
        s.shape = Shape::pill;
        s.box = QRectF(0, 0, std::min(px(46), width * 0.6), px(10));
        s.area = QRectF(0, 0, room - px(6), px(46));
    }
}

void Layouter::put(std::size_t i, double y, double shift) {
    StagePlace& s = m_out.stages[i];
    s.y = y;
    s.shift = std::abs(shift) < 0.5 ? 0 : shift;
    const QPointF centre(columnX(s.column), y);
    if (s.shape == Shape::pack || s.shape == Shape::guard) {
        // The box stands where its voltages are, whatever the moment.
        const VoltageRange b = outBand(i);
        double low = b.valid ? std::max(m_out.axis.low(), b.low) : nowVolts(i);
        double high = b.valid ? std::max(0.05, b.high) : nowVolts(i);
        if (const auto* guard = std::get_if<Guard>(&m_project.stages[i].part)) {
            low = std::max(0.05, guard->cutoff.value());
            high = std::max({low, high, guard->reconnect.value_or(Volts{0}).value()});
        }
        const double middle = (m_out.axis.y(low) + m_out.axis.y(high)) / 2 + s.shift;
        s.box.moveCenter(QPointF(centre.x(), middle));
        s.area.moveCenter(s.box.center());
    } else {
        s.box.moveCenter(centre);
        s.area.moveCenter(centre + QPointF(0, areaOffset(i)));
    }
}

void Layouter::putLoad(std::size_t i, double centre, double wanted, double height) {
    LoadPlace& l = m_out.loads[i];
    const Load& load = m_project.loads[i];
    const Window& w = load.window;
    const auto bounds = reach(i); // no bindings: a closure takes them
    const double above = bounds.first;
    const double below = bounds.second;
    const double size = std::min(1.0, (height - px(6)) / std::max(1.0, below - above));
    const auto at = [&](double v) {
        return centre + (m_out.axis.y(std::max(0.05, v)) - wanted) * size;
    };
    const auto kept = [&](double v) {
        return std::clamp(at(v), centre + (above - wanted) * size,
                          centre + (below - wanted) * size);
    };
    l.x = m_out.plot.right() - px(6);
    l.y = at(loadVolts(i));
    l.shift = centre - wanted;
    l.top = kept(w.max.value());
    l.bottom = std::max(kept(w.min.value()), l.top + px(4));
    l.compact = height < px(31);
    const double label = std::min(height, px(36));
    l.label = QRectF(l.x + px(28), (l.top + l.bottom) / 2 - label / 2,
                     m_size.width() - l.x - px(32), label);
    l.title = qs(nameOf(load));
    const QString window =
        QStringLiteral("%1–%2 V").arg(w.min.value(), 0, 'g', 4).arg(w.max.value(), 0, 'g', 4);
    l.detail = collapsed() ? window
               : l.compact ? quantity(m_moment.flows.loads[i].i, Unit::ampere)
                           : QStringLiteral("%1 · %2").arg(
                                 window, quantity(m_moment.flows.loads[i].i, Unit::ampere));
    const VoltageRange b = loadBand(i);
    l.missesLow = b.valid && fallsBelow(b.low, w.min.value());
    l.missesHigh = b.valid && exceeds(b.high, w.max.value());
    const double room = std::max(px(6), height / 2 - px(2));
    if (l.missesLow) {
        l.missTop = l.bottom;
        l.missBottom = std::clamp(at(b.low), l.bottom + px(6), l.bottom + std::min(px(30), room));
    } else if (l.missesHigh) {
        l.missBottom = l.top;
        l.missTop = std::clamp(at(b.high), l.top - std::min(px(30), room), l.top - px(6));
    }
    if (w.neverAbove)
        l.never = at(w.neverAbove->value());
}

void Layouter::bands() {
    for (const std::size_t i : m_order) {
        StagePlace& s = m_out.stages[i];
        const VoltageRange b = outBand(i);
        if (!b.valid || b.high <= 0.05)
            continue;
        s.hasBand = true;
        s.bandTop = m_out.axis.y(b.high) + s.shift;
        s.bandBottom = std::min(m_out.axis.y(std::max(m_out.axis.low(), b.low)) + s.shift,
                                m_out.plot.bottom() + px(8));
        s.bandEnd = s.box.right();
        for (const std::size_t k : m_order)
            if (k != i && m_out.stages[k].parent == i && m_out.stages[k].column == s.column + 1)
                s.bandEnd = std::max(s.bandEnd, m_out.stages[k].box.left());
        for (const std::size_t k : m_loadOrder)
            if (m_out.loads[k].parent == i)
                s.bandEnd = std::max(s.bandEnd, m_out.loads[k].x);
    }
}

} // namespace sipper::app
