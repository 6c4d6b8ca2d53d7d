// SPDX-License-Identifier: GPL-3.0-or-later
#include "solar/nodeinterpolant.hpp"

#include "base/tolerance.hpp"
#include "line/operating.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/edits.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kCellVolts = 0.025;  ///< of one cell, between two solved pushes
constexpr double kEdgeVolts = 0.0002; ///< of one cell: where an edge is called found
constexpr double kMostVolts = 7;      ///< of one cell, pushed; more is read as this
constexpr double kSameOhms = 0.02;    ///< relative: resistances that share an interpolant
constexpr double kRegulatorBack =
    1.05; ///< of its input minimum (docs/model.md: Sun: pack, loads, what is missed)

std::int64_t ohmBin(double ohms) {
    return ohms > 0 ? std::llround(std::log(ohms) / kSameOhms) : -1000;
}
double binOhms(double ohms) {
    return ohms > 0 ? std::exp(static_cast<double>(ohmBin(ohms)) * kSameOhms) : 0;
}

bool isOpen(OpenSet open, std::size_t stage) {
    return stage < kMostStages && ((open >> stage) & 1U) != 0;
}

double draws(const Draw& d) {
    return orZero(d.current) + orZero(d.power) + orZero(d.resistance) + orZero(d.led) +
           orZero(d.burst) + orZero(d.burstOhms);
}

} // namespace

bool criticalDraws(const Load& load, const Project& project, std::size_t mode) {
    if (!load.isCritical() && !load.resets())
        return false;
    const Draw* draw = drawIn(project, load, mode);
    return draw && draws(*draw) > 0;
}

NodeInterpolant::NodeInterpolant(const Project& project, Line& line, std::size_t setting,
                                 OpenSet open, double r0, double r1)
    : m_project(project), m_line(line), m_setting(setting), m_open(open), m_r0(r0), m_r1(r1),
      m_width(kCellVolts * line.pack().series),
      m_edges(static_cast<std::size_t>(std::ceil(kMostVolts / kCellVolts)) + 1, nullptr),
      m_cells(m_edges.size() - 1) {}

NodeInterpolant::Point* NodeInterpolant::solve(double push) {
    m_points.push_back(std::make_unique<Point>());
    Point& p = *m_points.back();
    p.theveninVolts = push;
    m_moment.setting = static_cast<std::size_t>(-1); // the buffers may be of a higher push
    m_line.solveAtNodeVolts(m_setting, push / m_line.pack().series, m_r0, m_r1, m_moment);
    p.stages.assign(m_project.stages.size(), 0);
    p.perLoad.assign(m_project.loads.size(), 0);
    if (m_moment.collapsed) {
        p.collapsed = p.lossOfLoad = true;
        return &p;
    }
    p.amps = m_moment.meanAmps;
    const auto& order = m_line.network().order();
    const auto addFlows = [&](const Flows& flows, double share) {
        p.watts += share * flows.sourceVolts * flows.sourceAmps;
        for (const std::size_t i : order)
            p.stages[i] += share * flows.stages[i].loss();
        for (std::size_t i = 0; i < flows.loads.size(); ++i)
            p.perLoad[i] += share * flows.loads[i].v * flows.loads[i].i;
    };
    for (const ModeSolution& m : m_moment.modes) {
        if (m.share <= 0)
            continue;
        addFlows(m.steady, m.share);
        for (const ModeSolution::Single& burst : m.singles) {
            addFlows(burst.flows, m.share * burst.share);
            addFlows(m.steady, -m.share * burst.share);
        }
        judge(m, m.steady, false, m.seconds, p);
        if (m.hasBurst)
            judge(m, m.burst, true, m.burstSeconds, p);
        if (m.fills && m_open != 0)
            p.recovers = recoveringIn(m);
    }
    for (const double watts : p.perLoad)
        p.loads += watts;
    return &p;
}

void NodeInterpolant::judge(const ModeSolution& mode, const Flows& flows, bool inBurst,
                            double seconds, Point& p) {
    const auto& order = m_line.network().order();
    for (const std::size_t i : order) {
        const Part& part = m_project.stages[i].part;
        if (isOpen(m_open, i) || flows.stages[i].vIn <= 0)
            continue;
        if (!std::holds_alternative<Fuse>(part) &&
            m_line.network().overLimit(i, flows.stages[i], inBurst))
            p.lossOfLoad = true;
        if (p.opens < 0 && i < kMostStages && opens(part, flows.stages[i], seconds))
            p.opens = static_cast<std::int16_t>(i);
    }
    for (std::size_t i = 0; i < m_project.loads.size() && !p.lossOfLoad; ++i) {
        const Load& load = m_project.loads[i];
        if (!m_line.network().reachesLoad(i) || !criticalDraws(load, m_project, mode.mode))
            continue;
        const double v = flows.loads[i].v;
        p.lossOfLoad =
            exceeds(v, load.window.max.value()) || underWindow(flows.loads[i], load.window);
    }
}

OpenSet NodeInterpolant::recoveringIn(const ModeSolution& filler) const {
    OpenSet back = 0;
    for (const std::size_t i : m_line.network().order()) {
        if (!isOpen(m_open, i))
            continue;
        const Part& part = m_project.stages[i].part;
        const double v = filler.steady.stages[i].vIn;
        const auto* guard = std::get_if<Guard>(&part);
        const double needs = guard ? guard->reconnect.value_or(guard->cutoff).value()
                                   : std::max(kRegulatorBack * inputMinOf(part), startMinOf(part));
        if (v > 0 && v >= needs * (1 - kRelTol))
            back |= OpenSet{1} << i;
    }
    return back;
}

NodeInterpolant::Point* NodeInterpolant::edge(std::size_t i) {
    if (!m_edges[i])
        m_edges[i] = solve(static_cast<double>(i) * m_width);
    return m_edges[i];
}

/// One piece where both ends say the same; else halves it down to the edge between them.
void NodeInterpolant::split(std::vector<Piece>& pieces, Point* low, Point* high) {
    if (low->agrees(*high) ||
        high->theveninVolts - low->theveninVolts <= kEdgeVolts * m_line.pack().series) {
        Point* end = low->agrees(*high) ? high : low;
        pieces.push_back({low->theveninVolts, high->theveninVolts, low, end});
        return;
    }
    Point* middle = solve((low->theveninVolts + high->theveninVolts) / 2);
    split(pieces, low, middle);
    split(pieces, middle, high);
}

NodeInterpolant::Reading NodeInterpolant::at(double push) {
    const double place =
        std::clamp(push / m_width, 0.0, static_cast<double>(m_cells.size()) - 1e-9);
    const auto index = static_cast<std::size_t>(place);
    Cell& cell = m_cells[index];
    if (!cell.known) {
        Point* low = edge(index);
        Point* high = edge(index + 1);
        split(cell.pieces, low, high);
        cell.known = true;
    }
    const Piece* piece = &cell.pieces.front();
    for (const Piece& next : cell.pieces)
        if (push >= next.low)
            piece = &next;
    const double wide = piece->b->theveninVolts - piece->a->theveninVolts;
    return {piece->a, piece->b, wide > 0 ? std::clamp((push - piece->low) / wide, 0.0, 1.0) : 0.0};
}

namespace {

/// Only the pack at hand: other sources are unplugged, and a power path takes from the pack.
Conditions alone(Celsius ambient) {
    Conditions c;
    c.ambient = ambient;
    return c;
}

} // namespace

NodeCharts::NodeCharts(const Project& project, Celsius ambient)
    : m_project(project), m_line(project, alone(ambient)) {
    for (const ModeMix& setting : m_line.schedule().settings) {
        bool needs = false;
        for (const Share& share : setting.shares)
            for (std::size_t i = 0; i < project.loads.size(); ++i)
                needs = needs || (share.share > 0 && m_line.network().reachesLoad(i) &&
                                  criticalDraws(project.loads[i], project, share.mode));
        m_needs.push_back(needs);
    }
}

OpenSet NodeCharts::startersBehind(std::size_t stage) const {
    OpenSet behindIt = 0;
    for (const std::size_t i : m_line.network().order()) {
        const Part& part = m_project.stages[i].part;
        if (i >= kMostStages || !isRegulator(part) || startMinOf(part) <= 0)
            continue;
        for (std::size_t up = m_line.network().feederOf(i); up != m_line.packIndex();
             up = m_line.network().feederOf(up))
            if (up == stage)
                behindIt |= OpenSet{1} << i;
    }
    return behindIt;
}

void NodeCharts::hold(OpenSet open) {
    if (open == m_held)
        return;
    for (std::size_t i = 0; i < std::min(kMostStages, m_project.stages.size()); ++i)
        if (isOpen(open, i) != isOpen(m_held, i))
            m_line.setOpen(i, isOpen(open, i));
    m_held = open;
}

NodeInterpolant& NodeCharts::of(std::size_t setting, OpenSet open, double r0, double r1) {
    hold(open);
    // Twelve bits for each resistance, eight for the setting, the rest for the open set.
    const auto bits = [](std::int64_t bin) {
        return static_cast<std::uint64_t>(bin + 2048) & 0xfffU;
    };
    std::uint64_t openKey = 0;
    for (const auto& [key, set] : m_openOf)
        if (set == open)
            openKey = key;
    if (openKey == 0) {
        openKey = m_openOf.size() + 1;
        m_openOf.emplace(openKey, open);
    }
    const std::uint64_t key =
        bits(ohmBin(r0)) | bits(ohmBin(r1)) << 12U | std::uint64_t{setting} << 24U | openKey << 32U;
    auto& chart = m_charts[key];
    if (!chart)
        chart = std::make_unique<NodeInterpolant>(m_project, m_line, setting, open, binOhms(r0),
                                                  binOhms(r1));
    return *chart;
}

void NodeCharts::take(std::vector<double>& stages, std::vector<double>& loads) {
    stages.assign(m_project.stages.size(), 0);
    loads.assign(m_project.loads.size(), 0);
    for (const auto& [key, chart] : m_charts)
        for (const auto& point : chart->points()) {
            if (point->hours == 0)
                continue;
            for (std::size_t i = 0; i < stages.size(); ++i)
                stages[i] += point->hours * point->stages[i];
            for (std::size_t i = 0; i < loads.size(); ++i)
                loads[i] += point->hours * point->perLoad[i];
            point->hours = 0;
        }
}

} // namespace sipper
