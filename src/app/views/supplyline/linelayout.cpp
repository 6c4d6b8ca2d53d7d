// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/supplyline/linelayout.hpp"
#include "base/tolerance.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "views/supplyline/linemarks.hpp"

#include "line/sources.hpp"
#include "parts/figures.hpp"
#include "solar/operating.hpp"
#include "theme/theme.hpp"
#include "widgets/text.hpp"

#include <QFontMetricsF>
#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
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
                                                : QStringLiteral("not plugged in")
                                          : quantity(f.vOut, Unit::volt) + QStringLiteral(" · ") +
                                                quantity(f.iOut, Unit::ampere);
    if (isCharger(s.part))
        return f.state == StageState::off
                   ? QStringLiteral("gives nothing")
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

class Layouter {
  public:
    Layouter(const Project& p, const Results& r, const OperatingPoint& m, const QSizeF& size,
             double scale)
        : m_project(p), m_results(r), m_moment(m), m_size(size), m_scale(scale) {}

    LineLayout go(const VoltAxis* frozen) {
        m_out.stages.resize(m_project.stages.size());
        m_out.loads.resize(m_project.loads.size());
        tree();
        if (m_order.empty())
            return std::move(m_out);
        axis(frozen);
        columns();
        place();
        bands();
        placeNeverMarks(m_out, m_size.width(), m_scale);
        placeCallout(m_out, m_project, m_results.findings, m_scale);
        return std::move(m_out);
    }

  private:
    [[nodiscard]] double px(double n) const { return n * m_scale; }
    /// What occurs at a stage's output, or at a load, on the cells and on every other source.
    [[nodiscard]] VoltageRange outBand(std::size_t i) const {
        if (const Stage* panel = panelBefore(m_project, m_project.stages[i]))
            if (const auto volts = panelVolts(m_project, *panel)) {
                VoltageRange band;
                band.include(volts->dawn);
                band.include(volts->cold);
                return band;
            }
        return merged([i](const OperatingSweep& s) { return s.stageOut[i]; });
    }
    [[nodiscard]] VoltageRange loadBand(std::size_t i) const {
        return merged([i](const OperatingSweep& s) { return s.loads[i]; });
    }
    template <class Of>
    [[nodiscard]] VoltageRange merged(Of of) const {
        VoltageRange all;
        const auto take = [&](const VoltageRange& b) {
            if (!b.valid)
                return;
            all.include(b.low);
            all.include(b.high);
        };
        if (m_results.sweep)
            take(of(*m_results.sweep));
        for (const ExternalLoad& t : m_results.externalLoads)
            take(of(t.seen));
        return all;
    }
    [[nodiscard]] bool collapsed() const {
        return m_moment.collapse || m_moment.flows.stages.empty();
    }

    /// Height by which siblings are ordered; does not move with the charge.
    [[nodiscard]] double restVolts(std::size_t stage) const {
        const double set = orZero(setPointOf(m_project.stages[stage].part));
        if (set > 0)
            return set;
        if (const auto* charger = std::get_if<Charger>(&m_project.stages[stage].part)) {
            if (orZero(charger->chargeVoltage) > 0)
                return charger->chargeVoltage->value();
            const Stage* pack = m_project.stage(charger->charges);
            return pack ? std::max(1.0, sourceModel(pack->part).volts) : 1;
        }
        if (const Stage* charger = chargerBefore(m_project, m_project.stages[stage].id))
            return restVolts(stageIndex(m_project, charger->id));
        const VoltageRange b = outBand(stage);
        // What sinks to nothing near a collapse still stands where it works.
        return b.valid ? std::sqrt(std::max({0.05, b.low, b.high / 2}) * std::max(0.05, b.high))
                       : 1;
    }
    /// Volts at the copper line now.
    [[nodiscard]] double nowVolts(std::size_t stage) const {
        if (!collapsed() && m_moment.flows.stages[stage].vOut > 0.05)
            return m_moment.flows.stages[stage].vOut;
        return restVolts(stage);
    }

    void tree() {
        const std::function<void(std::size_t, std::size_t)> visit = [&](std::size_t at,
                                                                        std::size_t depth) {
            StagePlace& place = m_out.stages[at];
            place.shown = true;
            place.column = depth;
            m_columns = std::max(m_columns, depth + 1);
            m_order.push_back(at);
            struct Child {
                bool load;
                std::size_t index;
                double volts;
            };
            std::vector<Child> children;
            for (std::size_t i = 0; i < m_project.stages.size(); ++i) {
                const auto& feeds = m_project.stages[i].fedBy;
                const bool fed =
                    std::find(feeds.begin(), feeds.end(), m_project.stages[at].id) != feeds.end();
                if (!m_out.stages[i].shown && (fed || charges(at, i)))
                    children.push_back({false, i, restVolts(i)});
            }
            for (std::size_t i = 0; i < m_project.loads.size(); ++i)
                if (m_project.loads[i].fedBy == m_project.stages[at].id)
                    children.push_back({true, i, m_project.loads[i].window.middle().value()});
            std::stable_sort(children.begin(), children.end(),
                             [](const Child& a, const Child& b) { return a.volts > b.volts; });
            for (const Child& c : children) {
                if (c.load) {
                    m_out.loads[c.index].shown = true;
                    m_out.loads[c.index].parent = at;
                    m_loadOrder.push_back(c.index);
                } else if (!m_out.stages[c.index].shown) {
                    m_out.stages[c.index].parent = at;
                    visit(c.index, depth + 1);
                }
            }
        };
        // A pack that is charged stands behind its charger: from left to right flows what flows.
        std::vector<std::size_t> sources;
        for (std::size_t i = 0; i < m_project.stages.size(); ++i)
            if (isSource(m_project.stages[i].part))
                sources.push_back(i);
        // The higher voltage stands higher.
        std::stable_sort(sources.begin(), sources.end(),
                         [&](std::size_t x, std::size_t y) { return restVolts(x) > restVolts(y); });
        std::stable_partition(sources.begin(), sources.end(), [&](std::size_t i) {
            return !std::holds_alternative<Pack>(m_project.stages[i].part);
        });
        for (const std::size_t source : sources)
            if (!m_out.stages[source].shown)
                visit(source, 0);
        meet();
        markCharging();
    }
    /// Does a charger of the pack `i` end at stage `at`: itself, or the last on its leg?
    [[nodiscard]] bool charges(std::size_t at, std::size_t i) const {
        return std::any_of(m_project.stages.begin(), m_project.stages.end(), [&](const Stage& s) {
            const auto* charger = std::get_if<Charger>(&s.part);
            if (!charger || charger->charges != m_project.stages[i].id)
                return false;
            const auto leg = chargeLeg(m_project, s.id);
            return (leg.empty() ? s.id : leg.back()->id) == m_project.stages[at].id;
        });
    }
    /// Chargers, and what feeds nothing but them.
    void markCharging() {
        for (auto at = m_order.rbegin(); at != m_order.rend(); ++at) {
            StagePlace& place = m_out.stages[*at];
            if (isCharger(m_project.stages[*at].part) ||
                chargerBefore(m_project, m_project.stages[*at].id)) {
                place.charging = true;
                continue;
            }
            if (std::holds_alternative<Pack>(m_project.stages[*at].part))
                continue;
            bool any = false;
            bool all = true;
            for (const std::string& id : m_project.fedFrom(m_project.stages[*at].id)) {
                const std::size_t child = stageIndex(m_project, id);
                any = true;
                all = all && child != kNotFound && m_out.stages[child].charging;
            }
            place.charging = any && all;
        }
    }
    /// Where several feeds meet: behind the furthest of them, on the wire of the one that leads.
    void meet() {
        const auto lead = leadingFeeds(m_project, m_moment.pluggedIn);
        const auto indexOf = [&](const std::string& id) { return stageIndex(m_project, id); };
        for (std::size_t round = 0; round < m_order.size(); ++round)
            for (const std::size_t i : m_order) {
                StagePlace& place = m_out.stages[i];
                const auto& feeds = m_project.stages[i].fedBy;
                if (feeds.size() < 2) {
                    if (!feeds.empty())
                        place.column = m_out.stages[place.parent].column + 1;
                    else if (place.column > 0)
                        meetChargers(i);
                    continue;
                }
                place.otherFeeds.clear();
                if (lead[i] < m_out.stages.size() && m_out.stages[lead[i]].shown)
                    place.parent = lead[i];
                for (const std::string& id : feeds) {
                    const std::size_t at = indexOf(id);
                    if (!m_out.stages[at].shown)
                        continue;
                    place.column = std::max(place.column, m_out.stages[at].column + 1);
                    if (at != place.parent)
                        place.otherFeeds.push_back(at);
                }
            }
        for (const std::size_t i : m_order)
            m_columns = std::max(m_columns, m_out.stages[i].column + 1);
    }

    /// A pack stands behind the furthest of its chargers.
    void meetChargers(std::size_t pack) {
        StagePlace& place = m_out.stages[pack];
        place.otherFeeds.clear();
        for (const std::size_t k : m_order)
            if (charges(k, pack)) {
                place.column = std::max(place.column, m_out.stages[k].column + 1);
                if (k != place.parent)
                    place.otherFeeds.push_back(k);
            }
    }

    void axis(const VoltAxis* frozen) {
        const double top = px(44);
        const double bottom = m_size.height() - px(14);
        double low = 1e9;
        double high = 0;
        const auto take = [&](double v) {
            if (v > 0.05) {
                low = std::min(low, v);
                high = std::max(high, v);
            }
        };
        for (const std::size_t i : m_order) {
            const VoltageRange b = outBand(i);
            if (b.valid && b.low > 0.3 * b.high)
                take(b.low);
            if (b.valid)
                take(b.high);
            take(orZero(setPointOf(m_project.stages[i].part)));
            if (const auto* guard = std::get_if<Guard>(&m_project.stages[i].part))
                take(guard->cutoff.value());
        }
        for (const std::size_t i : m_loadOrder) {
            const Window& w = m_project.loads[i].window;
            if (w.min.value() > 0.4 * high || w.min.value() > low * 0.6)
                take(w.min.value());
            if (w.max.value() < 2.5 * high)
                take(w.max.value());
        }
        if (high <= 0) {
            low = 1;
            high = 10;
        }
        double ceiling = high;
        for (const std::size_t i : m_loadOrder)
            if (const auto never = m_project.loads[i].window.neverAbove;
                never && never->value() < 1.3 * high)
                ceiling = std::max(ceiling, never->value());
        // Room at head and foot for the labels of the outermost boxes.
        const double head = top + px(34);
        const double foot = bottom - px(24);
        m_out.axis = frozen ? VoltAxis(frozen->low(), frozen->high(), head, foot)
                            : VoltAxis(low, ceiling, head, foot);
        const double loadWidth = std::min(px(176), m_size.width() * 0.27);
        m_out.plot = QRectF(px(46), top, m_size.width() - px(46) - loadWidth - px(8), bottom - top);
    }

    void columns() {
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
        m_out.headings.push_back({QRectF(m_out.plot.right() + px(4), px(10),
                                         m_size.width() - m_out.plot.right(), px(18)),
                                  QStringLiteral("Loads"), Qt::AlignLeft});
    }
    [[nodiscard]] double columnX(std::size_t column) const {
        return (m_lefts[column] + m_lefts[column + 1]) / 2;
    }
    [[nodiscard]] double columnWidth(std::size_t column) const {
        return m_lefts[column + 1] - m_lefts[column];
    }
    [[nodiscard]] static bool isPill(const Part& part) {
        return !std::holds_alternative<Pack>(part) && !std::holds_alternative<Guard>(part) &&
               !isRegulator(part) && !isCharger(part) && !isSource(part);
    }

    void place() {
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
            const auto ys =
                here.size() == 1
                    ? wanted
                    : placeWithoutOverlap(wanted, heights, m_out.plot.top(), m_out.plot.bottom());
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
        const auto ys = placeWithoutOverlap(wanted, heights, m_out.plot.top() - px(6),
                                            m_out.plot.bottom() + px(6));
        for (std::size_t k = 0; k < m_loadOrder.size(); ++k)
            putLoad(m_loadOrder[k], ys[k], wanted[k], heights[k]);
    }
    /// From the copper to the middle of the area: a pill's label stands above it.
    [[nodiscard]] double areaOffset(std::size_t i) const {
        const StagePlace& s = m_out.stages[i];
        return s.shape == Shape::pill ? -px(s.compact ? 6 : 11) : 0;
    }
    /// Too many for the column: one line of label at the pills, then whatever makes them fit.
    void squeeze(const std::vector<std::size_t>& here, std::vector<double>& heights) {
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
    /// From the highest to the lowest of bracket, present voltage and what is missing, unshifted.
    [[nodiscard]] std::pair<double, double> reach(std::size_t i) const {
        const Window& w = m_project.loads[i].window;
        const double now = m_out.axis.y(loadVolts(i));
        const double far = px(80);
        const double top = std::max(m_out.axis.y(std::max(0.05, w.max.value())), now - far);
        const double bottom = std::min(m_out.axis.y(std::max(0.05, w.min.value())), now + far);
        return {std::min(top, now), std::max(bottom, now)};
    }
    [[nodiscard]] double loadVolts(std::size_t i) const {
        if (!collapsed() && m_moment.flows.loads[i].v > 0.05)
            return m_moment.flows.loads[i].v;
        return m_project.loads[i].window.middle().value();
    }

    void shape(std::size_t i) {
        StagePlace& s = m_out.stages[i];
        const Part& part = m_project.stages[i].part;
        const VoltageRange b = outBand(i);
        const double room = columnWidth(s.column);
        const double width = std::min(px(92), room - px(14));
        s.title = qs(nameOf(m_project.stages[i]));
        s.low = b.low;
        s.high = b.high;
        s.detail =
            collapsed() ? QString() : stageDetail(m_project.stages[i], m_moment.flows.stages[i]);
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
    void put(std::size_t i, double y, double shift) {
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
    /// Puts a load's row at `centre`; what is taller than its row is drawn smaller, in proportion.
    void putLoad(std::size_t i, double centre, double wanted, double height) {
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
            l.missBottom =
                std::clamp(at(b.low), l.bottom + px(6), l.bottom + std::min(px(30), room));
        } else if (l.missesHigh) {
            l.missBottom = l.top;
            l.missTop = std::clamp(at(b.high), l.top - std::min(px(30), room), l.top - px(6));
        }
        if (w.neverAbove)
            l.never = at(w.neverAbove->value());
    }

    void bands() {
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

    const Project& m_project;
    const Results& m_results;
    const OperatingPoint& m_moment;
    QSizeF m_size;
    double m_scale;
    LineLayout m_out;
    std::vector<std::size_t> m_order;
    std::vector<std::size_t> m_loadOrder;
    std::size_t m_columns = 1;
    std::vector<double> m_lefts; ///< of the columns, and the right end of the last
};

} // namespace

LineLayout layoutLine(const Project& project, const Results& results, const OperatingPoint& moment,
                      const QSizeF& size, double scale, const VoltAxis* frozen) {
    return Layouter(project, results, moment, size, scale).go(frozen);
}

} // namespace sipper::app
