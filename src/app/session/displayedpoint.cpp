#include "session/displayedpoint.hpp"

#include "line/sources.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "solar/operating.hpp"

namespace sipper::app {
namespace {

constexpr double kFirstCharge = 0.6; ///< where the marker stands when a document opens

} // namespace

void Moment::begin(const Project& p, const Results& results) {
    m_selected.clear();
    m_highlighted.clear();
    m_mode = p.baseMode();
    for (std::size_t i = 0; i < p.modes.size(); ++i)
        if (p.modes[i].isWindowed())
            m_mode = i;
    m_modeId = p.modes[m_mode].id;
    m_charge = kFirstCharge;
    if (results.survey && results.survey->stopCharge >= m_charge)
        m_charge = (1 + results.survey->stopCharge) / 2; // a moment at which it still runs
    m_tethered = !p.pack();
    plugWhatIsNeeded(p);
    solve(p);
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

void Moment::follow(const Project& p) {
    // A project that loses its cells is tethered from then on, and the other way round.
    const bool tethered = !p.pack();
    if (tethered != m_tethered || (tethered && m_plugged.isEmpty()))
        plugWhatIsNeeded(p);
    m_tethered = tethered;
    m_mode = modeIndex(p, m_modeId);
    if (m_mode == kNowhere) {
        m_mode = p.baseMode();
        m_modeId = p.modes[m_mode].id;
    }
    solve(p);
    const std::string chosen = m_selected.toStdString();
    if (!chosen.empty() && !p.stage(chosen) && !p.load(chosen))
        select({});
}

void Moment::set(const Project& p, double charge, std::size_t mode) {
    charge = std::clamp(charge, 0.0, 1.0);
    if (mode >= p.modes.size() || (charge == m_charge && mode == m_mode))
        return;
    m_charge = charge;
    m_mode = mode;
    m_modeId = p.modes[mode].id;
    solve(p);
    emit changed();
}

void Moment::setLight(const Project& p, double light, std::optional<double> air) {
    if (light == m_light && air == m_lightAir)
        return;
    m_light = light;
    m_lightAir = air;
    solve(p);
    emit changed();
}

void Moment::plug(const Project& p, const QString& source, bool in) {
    if (m_plugged.contains(source) == in)
        return;
    if (in)
        m_plugged << source;
    else
        m_plugged.removeAll(source);
    solve(p);
    emit changed();
}

/// A tethered project is shown with its sources plugged in, one with cells on its cells.
void Moment::plugWhatIsNeeded(const Project& p) {
    m_plugged.clear();
    if (!p.pack())
        for (const std::size_t i : mainsSources(p))
            m_plugged << QString::fromStdString(p.stages[i].id);
}

void Moment::solve(const Project& p) {
    Conditions conditions = typicalConditions(p);
    for (const QString& id : m_plugged)
        if (const Stage* s = p.stage(id.toStdString()); s && isSource(s->part))
            conditions.present.push_back(s->id);
    conditions.light = m_light;
    if (m_lightAir)
        conditions.lightAir = Celsius{*m_lightAir};
    m_point = p.pack() || !conditions.present.empty() ? operateLit(p, conditions, m_charge, m_mode)
                                                      : OperatingPoint{};
}

void Moment::select(const QString& id) {
    if (id == m_selected)
        return;
    m_selected = id;
    emit selectionChanged();
}

void Moment::highlight(const QString& id) {
    if (id == m_highlighted)
        return;
    m_highlighted = id;
    emit highlightChanged();
}

} // namespace sipper::app
