// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/sources.hpp"
#include "parts/figures.hpp"
#include "project/tree.hpp"
#include "solar/operating.hpp"
#include "views/supplyline/layouter.hpp"
#include "views/supplyline/linemarks.hpp"
#include <algorithm>
#include <cmath>
#include <functional>

namespace sipper::app {
LineLayout Layouter::run(const VoltAxis* frozen) {
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

VoltageRange Layouter::outBand(std::size_t i) const {
    if (const Stage* panel = panelBefore(m_project, m_project.stages[i]))
        if (const auto volts = panelVolts(m_project, *panel)) {
            VoltageRange band;
            band.include(volts->dawn);
            band.include(volts->cold);
            return band;
        }
    return merged([i](const OperatingSweep& s) { return s.stageOut[i]; });
}

double Layouter::restVolts(std::size_t stage) const {
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
    return b.valid ? std::sqrt(std::max({0.05, b.low, b.high / 2}) * std::max(0.05, b.high)) : 1;
}

double Layouter::nowVolts(std::size_t stage) const {
    if (!collapsed() && m_moment.flows.stages[stage].vOut > 0.05)
        return m_moment.flows.stages[stage].vOut;
    return restVolts(stage);
}

void Layouter::tree() {
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

bool Layouter::charges(std::size_t at, std::size_t i) const {
    return std::any_of(m_project.stages.begin(), m_project.stages.end(), [&](const Stage& s) {
        const auto* charger = std::get_if<Charger>(&s.part);
        if (!charger || charger->charges != m_project.stages[i].id)
            return false;
        const auto leg = chargeLeg(m_project, s.id);
        return (leg.empty() ? s.id : leg.back()->id) == m_project.stages[at].id;
    });
}

void Layouter::markCharging() {
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

void Layouter::meet() {
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

void Layouter::meetChargers(std::size_t pack) {
    StagePlace& place = m_out.stages[pack];
    place.otherFeeds.clear();
    for (const std::size_t k : m_order)
        if (charges(k, pack)) {
            place.column = std::max(place.column, m_out.stages[k].column + 1);
            if (k != place.parent)
                place.otherFeeds.push_back(k);
        }
}

void Layouter::axis(const VoltAxis* frozen) {
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

std::pair<double, double> Layouter::reach(std::size_t i) const {
    const Window& w = m_project.loads[i].window;
    const double now = m_out.axis.y(loadVolts(i));
    const double far = px(80);
    const double top = std::max(m_out.axis.y(std::max(0.05, w.max.value())), now - far);
    const double bottom = std::min(m_out.axis.y(std::max(0.05, w.min.value())), now + far);
    return {std::min(top, now), std::max(bottom, now)};
}

double Layouter::loadVolts(std::size_t i) const {
    if (!collapsed() && m_moment.flows.loads[i].v > 0.05)
        return m_moment.flows.loads[i].v;
    return m_project.loads[i].window.middle().value();
}

LineLayout layoutLine(const Project& project, const Results& results, const OperatingPoint& moment,
                      const QSizeF& size, double scale, const VoltAxis* frozen) {
    return Layouter(project, results, moment, size, scale).run(frozen);
}

} // namespace sipper::app
