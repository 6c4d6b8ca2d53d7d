// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/displayedpoint.hpp"

#include "line/sources.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "solar/operating.hpp"

namespace sipper::app {
namespace {

constexpr double kFirstCharge = 0.6; ///< where the marker stands when a document opens

} // namespace

void DisplayedPoint::begin(const Project& p, const Results& results) {
    m_settled = {};
    m_highlighted.clear();
    beginLate(p, results);
}

void DisplayedPoint::beginLate(const Project& p, const Results& results) {
    if (!m_settled.point) {
        m_mode = p.baseMode();
        for (std::size_t i = 0; i < p.modes.size(); ++i)
            if (p.modes[i].isWindowed())
                m_mode = i;
        m_modeId = p.modes[m_mode].id;
        m_charge = kFirstCharge;
        if (results.sweep && results.sweep->stopCharge >= m_charge)
            m_charge = (1 + results.sweep->stopCharge) / 2; // a moment at which it still runs
    }
    m_externallyFed = !p.pack();
    if (!m_settled.plugs)
        plugWhatIsNeeded(p);
    solve(p);
    if (m_settled.choice)
        return;
    m_selected.clear();
    // What needs mending first is what is looked at first; else the cells.
    if (const Stage* pack = p.packStage())
        m_selected = QString::fromStdString(pack->id);
    else if (!p.stages.empty())
        m_selected = QString::fromStdString(p.stages.front().id);
    for (const Finding& f : results.findings)
        if (p.stage(f.subject) || p.load(f.subject)) {
            m_selected = QString::fromStdString(f.subject);
            break;
        }
}

void DisplayedPoint::follow(const Project& p) {
    // A project that loses its cells runs from an external source from then on, and the other way
    // round.
    const bool tethered = !p.pack();
    if (tethered != m_externallyFed || (tethered && m_plugged.isEmpty()))
        plugWhatIsNeeded(p);
    m_externallyFed = tethered;
    m_mode = modeIndex(p, m_modeId);
    if (m_mode == kNotFound) {
        m_mode = p.baseMode();
        m_modeId = p.modes[m_mode].id;
    }
    solve(p);
    const std::string chosen = m_selected.toStdString();
    if (!chosen.empty() && !p.stage(chosen) && !p.load(chosen))
        select({});
}

void DisplayedPoint::set(const Project& p, double charge, std::size_t mode) {
    charge = std::clamp(charge, 0.0, 1.0);
    if (mode >= p.modes.size() || (charge == m_charge && mode == m_mode))
        return;
    m_settled.point = true;
    m_charge = charge;
    m_mode = mode;
    m_modeId = p.modes[mode].id;
    solve(p);
    emit changed();
}

void DisplayedPoint::setLight(const Project& p, double light, std::optional<double> air) {
    if (light == m_light && air == m_lightAir)
        return;
    m_light = light;
    m_lightAir = air;
    solve(p);
    emit changed();
}

void DisplayedPoint::plug(const Project& p, const QString& source, bool in) {
    m_settled.plugs = true;
    if (m_plugged.contains(source) == in)
        return;
    if (in)
        m_plugged << source;
    else
        m_plugged.removeAll(source);
    solve(p);
    emit changed();
}

/// A project on an external source is shown with its sources plugged in, one with cells on its
/// cells.
void DisplayedPoint::plugWhatIsNeeded(const Project& p) {
    m_plugged.clear();
    if (!p.pack())
        for (const std::size_t i : externalSources(p))
            m_plugged << QString::fromStdString(p.stages[i].id);
}

void DisplayedPoint::solve(const Project& p) {
    Conditions conditions = typicalConditions(p);
    for (const QString& id : m_plugged)
        if (const Stage* s = p.stage(id.toStdString()); s && isSource(s->part))
            conditions.pluggedIn.push_back(s->id);
    conditions.irradiance = m_light;
    if (m_lightAir)
        conditions.panelAmbient = Celsius{*m_lightAir};
    m_point = p.pack() || !conditions.pluggedIn.empty()
                  ? operateWithSun(p, conditions, m_charge, m_mode)
                  : OperatingPoint{};
}

void DisplayedPoint::select(const QString& id) {
    m_settled.choice = true;
    if (id == m_selected)
        return;
    m_selected = id;
    emit selectionChanged();
}

void DisplayedPoint::highlight(const QString& id) {
    if (id == m_highlighted)
        return;
    m_highlighted = id;
    emit highlightChanged();
}

} // namespace sipper::app
