// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/lineinterpolant.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kWidest = 0.125; ///< of a cell, in charge
constexpr int kDeepest = 9;       ///< halvings of a cell, where a regulator changes its way
constexpr double kEdge = 0.002;   ///< of the tolerance, in charge: how closely an end is found
constexpr double kParabola = 20;  ///< times the tolerance, where the cubic keeps to it
constexpr double kCoarse = 1e-4;  ///< tolerance from which a cell may span points of the curve
constexpr double kApart = 0.1;    ///< of such cells' edges, in charge
constexpr double kRising = 0.9;   ///< of the last mean current, where the pack is looked at fuller
constexpr int kSecants = 12;      ///< of an edge, before it is halved to
constexpr std::size_t kUnsolved = static_cast<std::size_t>(-1);

} // namespace

LineInterpolant::LineInterpolant(const Project& project, const Line& line, std::size_t setting,
                                 bool windows, double tolerance)
    : m_project(project), m_line(line), m_setting(setting), m_windows(windows),
      m_tolerance(tolerance) {
    m_edges.push_back(0);
    const auto upTo = [&](double edge) {
        const double from = m_edges.back();
        const int parts = std::max(1, static_cast<int>(std::ceil((edge - from) / kWidest - 1e-9)));
        for (int i = 1; i <= parts; ++i)
            m_edges.push_back(from + (edge - from) * i / parts);
    };
    const double apart = tolerance > kCoarse ? kApart : 0;
    for (const auto& [charge, volts] : project.pack()->cell.openCircuit)
        if (charge > m_edges.back() + apart && charge < 1 - apart)
            upTo(charge);
    upTo(1);
    m_edgeNodes.assign(m_edges.size(), kUnsolved);
    m_cells.resize(m_edges.size() - 1);
}

LineInterpolant::Node LineInterpolant::solved(double height) {
    const Wells wells = m_line.pack().level(height);
    // What was solved last is a little below the answer only while the pack sinks.
    if (height > m_last)
        m_moment.setting = kUnsolved;
    const bool warm = m_moment.setting == m_setting && !m_moment.collapsed;
    const bool rising = m_last >= 0 && !warm && !m_moment.collapsed && m_moment.meanAmps > 0;
    m_line.solve(m_setting, wells, m_moment,
                 warm     ? m_moment.meanAmps * 0.999
                 : rising ? m_moment.meanAmps * kRising
                          : 0);
    m_last = height;
    Node n;
    n.height = height;
    n.ending = endingOf(m_project, m_line, m_moment, wells, m_windows, &n.margin);
    if (m_moment.collapsed)
        return n;
    const std::size_t modes = m_project.modes.size();
    n.cellAmps = m_moment.meanAmps / m_line.pack().parallel;
    n.stages.assign(m_project.stages.size(), 0);
    n.loadModes.assign(m_project.loads.size() * modes, 0);
    const auto weigh = [&](const Flows& f, double share, std::size_t mode) {
        n.terminal += share * f.sourceVolts * f.sourceAmps;
        for (const std::size_t i : m_line.network().order())
            n.stages[i] += share * f.stages[i].loss();
        for (std::size_t i = 0; i < f.loads.size(); ++i)
            n.loadModes[i * modes + mode] += share * f.loads[i].v * f.loads[i].i;
    };
    for (const ModeSolution& m : m_moment.modes) {
        if (m.fills)
            n.fillVolts = m.steady.sourceVolts;
        n.volts.push_back(m.share > 0 ? m.steady.sourceVolts : 0);
        if (m.share <= 0)
            continue;
        double plain = 1;
        for (const auto& single : m.singles)
            plain -= single.share;
        weigh(m.steady, m.share * plain, m.mode);
        for (const auto& single : m.singles)
            weigh(single.flows, m.share * single.share, m.mode);
        const double amps =
            std::max(m.steady.sourceAmps, m.hasBurst ? m.burst.sourceAmps : m.steady.sourceAmps);
        if (amps > n.worst) {
            n.worst = amps;
            n.worstMode = m.mode;
        }
    }
    return n;
}

std::size_t LineInterpolant::add(double height) {
    m_nodes.push_back(solved(height));
    return m_nodes.size() - 1;
}

std::array<double, 4> LineInterpolant::weights(const Piece& p, double height) {
    const double x = (height - p.low) / (p.high - p.low);
    // Lagrange's basis at 0, 1/4, 1/2 and 1.
    return {-8 * (x - 0.25) * (x - 0.5) * (x - 1), 64.0 / 3 * x * (x - 0.5) * (x - 1),
            -16 * x * (x - 0.25) * (x - 1), 8.0 / 3 * x * (x - 0.25) * (x - 0.5)};
}

double LineInterpolant::read(const Piece& p, double height, double Node::*figure) const {
    const auto w = weights(p, height);
    double sum = 0;
    for (std::size_t i = 0; i < w.size(); ++i)
        sum += w[i] * m_nodes[p.nodes[i]].*figure;
    return sum;
}

double LineInterpolant::cellAmps(const Piece& p, double height) const {
    return read(p, height, &Node::cellAmps);
}

double LineInterpolant::fillVolts(const Piece& p, double height) const {
    return read(p, height, &Node::fillVolts);
}

void LineInterpolant::spend(const Piece& p, double height, double hours) {
    const auto w = weights(p, height);
    for (std::size_t i = 0; i < w.size(); ++i)
        m_nodes[p.nodes[i]].hours += w[i] * hours;
}

/// Does the parabola through the other three come near what was solved at the quarter? The cubic
/// that is read is closer by an order.
bool LineInterpolant::agrees(const Piece& p) const {
    const auto close = [&](double Node::*figure, double share) {
        const double parabola = 0.375 * m_nodes[p.nodes[0]].*figure +
                                0.75 * m_nodes[p.nodes[2]].*figure -
                                0.125 * m_nodes[p.nodes[3]].*figure;
        const double there = m_nodes[p.nodes[1]].*figure;
        return std::abs(parabola - there) <= share * std::abs(there) + 1e-15;
    };
    return close(&Node::cellAmps, m_tolerance * kParabola) &&
           close(&Node::fillVolts, m_tolerance * kParabola);
}

void LineInterpolant::addPiece(Interval& cell, const Piece& piece) {
    Piece p = piece;
    for (std::size_t m = 0; m < m_nodes[p.nodes[0]].volts.size(); ++m)
        for (std::size_t i = 1; i < p.nodes.size(); ++i) {
            const Node& a = m_nodes[p.nodes[i - 1]];
            const Node& b = m_nodes[p.nodes[i]];
            p.steep = std::max(p.steep, std::abs(b.volts[m] - a.volts[m]) / (b.height - a.height));
        }
    cell.pieces.push_back(p);
}

void LineInterpolant::addEnded(Interval& cell, double low, double high, const Node& seen) {
    Piece p;
    p.low = low;
    p.high = high;
    p.ending = seen.ending;
    p.seen = seen.height;
    cell.pieces.push_back(p);
}

void LineInterpolant::split(Interval& cell, std::size_t low, std::size_t high,
                            std::optional<std::size_t> middle, int depth) {
    const double a = m_nodes[low].height;
    const double b = m_nodes[high].height;
    if (m_nodes[low].ended() && m_nodes[high].ended())
        return addEnded(cell, a, b, m_nodes[high]);
    if (m_nodes[low].ended() != m_nodes[high].ended())
        return splitAtEdge(cell, low, high, depth);
    const std::size_t m = middle ? *middle : add((a + b) / 2);
    if (m_nodes[m].ended() && depth > 2 * kDeepest) // islands without end
        return addEnded(cell, a, b, m_nodes[m]);
    std::size_t quarter = m;
    if (!m_nodes[m].ended()) {
        quarter = add(a + (b - a) / 4);
        Piece trial;
        trial.low = a;
        trial.high = b;
        trial.nodes = {low, quarter, m, high};
        if (!m_nodes[quarter].ended() && (depth >= kDeepest || agrees(trial)))
            return addPiece(cell, trial);
    }
    split(cell, low, m, quarter == m ? std::nullopt : std::optional(quarter), depth + 1);
    split(cell, m, high, std::nullopt, depth + 1);
}

/// One end of the stretch has ended: halve to the edge, and read the good side up to there.
void LineInterpolant::splitAtEdge(Interval& cell, std::size_t low, std::size_t high, int depth) {
    const bool downwards = m_nodes[low].ended();
    std::size_t good = downwards ? high : low;
    Node bad = m_nodes[downwards ? low : high];
    const double close = kEdge * m_tolerance;
    double weightGood = 1;
    double weightBad = 1;
    for (int round = 0; std::abs(m_nodes[good].height - bad.height) > close; ++round) {
        // By the margin that is left (Illinois: Dowell and Jarratt 1971), a little to the far side
        // of where it would be gone, so that both ends close in; where it says nothing, by halves.
        const double a = m_nodes[good].height;
        const double b = bad.height;
        const double f = m_nodes[good].margin * weightGood;
        const double g = bad.margin * weightBad;
        double at = (a + b) / 2;
        if (round < kSecants && f > 0 && g < 0 && std::isfinite(f) && std::isfinite(g)) {
            const double step = f / (f - g);
            at = a + (b - a) * step;
            const double aside = std::copysign(close * 0.4, b - a);
            at += std::abs(at - a) < std::abs(b - at) ? aside : -aside;
            at = std::clamp(at, std::min(a, b) + close * 0.1, std::max(a, b) - close * 0.1);
        }
        Node n = solved(at);
        (n.ended() ? weightBad : weightGood) = 1;
        (n.ended() ? weightGood : weightBad) *= 0.5;
        if (n.ended()) {
            bad = std::move(n);
        } else {
            m_nodes.push_back(std::move(n));
            good = m_nodes.size() - 1;
        }
    }
    const std::size_t from = downwards ? good : low;
    const std::size_t to = downwards ? high : good;
    const double edge = m_nodes[good].height;
    if (downwards)
        addEnded(cell, m_nodes[low].height, edge, bad);
    if (from != to)
        split(cell, from, to, std::nullopt, depth + 1);
    if (!downwards)
        addEnded(cell, edge, m_nodes[high].height, bad);
}

void LineInterpolant::build(std::size_t index) {
    for (const std::size_t edge : {index + 1, index}) // from the top: the pack sinks
        if (m_edgeNodes[edge] == kUnsolved)
            m_edgeNodes[edge] = add(m_edges[edge]);
    Interval cell;
    cell.known = true;
    split(cell, m_edgeNodes[index], m_edgeNodes[index + 1], std::nullopt, 0);
    m_cells[index] = std::move(cell);
}

const LineInterpolant::Piece& LineInterpolant::at(double height) {
    height = std::clamp(height, 0.0, 1.0);
    const auto after = std::upper_bound(m_edges.begin() + 1, m_edges.end() - 1, height);
    const auto index = static_cast<std::size_t>(after - m_edges.begin() - 1);
    if (!m_cells[index].known)
        build(index);
    const std::vector<Piece>& pieces = m_cells[index].pieces;
    const auto piece = std::lower_bound(pieces.begin(), pieces.end() - 1, height,
                                        [](const Piece& p, double h) { return p.high < h; });
    return *piece;
}

const LineInterpolant::Piece* LineInterpolant::firstEnd(double from, double to) {
    const Piece* p = &at(from);
    for (int i = 0; i < 100'000; ++i) {
        if (p->low <= to && to <= p->high)
            return nullptr;
        const double edge = to < from ? p->low : p->high;
        if ((to < from && edge <= 0) || (to >= from && edge >= 1))
            return nullptr;
        const double beyond = std::nextafter(edge, to < from ? 0.0 : 1.0);
        p = &at(beyond);
        if (p->ended())
            return p;
    }
    return nullptr;
}

} // namespace sipper
