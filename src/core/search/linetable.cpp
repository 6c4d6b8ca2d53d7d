// SPDX-License-Identifier: GPL-3.0-or-later
#include "search/linetable.hpp"

#include "project/tree.hpp"
#include "runtime/runtime.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace sipper {
namespace {

constexpr double kUnderLow = 0.85;  ///< of the empty pack's volts: bursts pull it under
constexpr double kUnguarded = 0.3;  ///< the same where nothing cuts off
constexpr std::size_t kStride = 16; ///< nodes between those that are solved first
constexpr double kStraight = 4e-4;  ///< of the watts, that a middle may lie off a straight line
constexpr double kLess = 5e-4;      ///< of what is taken, left out
constexpr double kVoltsOff = 3e-4;  ///< of the volts, that something ends the run later
constexpr int kEdgeRounds = 5;
constexpr double kSurely = 3e-4; ///< of the watts, by which less is surely less
constexpr double kJump = 0.01;   ///< of the watts: a jump, where the steps beside it rise
constexpr double kOver = 4;      ///< times less
constexpr double kEasier = 6e-3; ///< of the ohms, where it sags much: a collapse magnifies all
constexpr int kHalvedVolts = 14;
constexpr int kVoltRounds = 4;
constexpr double kSameVolts = 4e-4; ///< what is left after another round is a twentieth of it
constexpr double kFarOff = 0.72;    ///< of the slope of v + R W / v, which is none at a collapse

} // namespace

/// Solves the demands of one project at volts that are held.
class LineTable::Maker {
  public:
    Maker(LineTable& table, const Project& p, Celsius ambient)
        : m_table(table), m_project(p),
          m_network(p, ambient, {}, Network::Root{packIndex(p), {packIndex(p)}}) {}

    void settings(const Schedule& schedule) {
        for (const ModeMix& setting : schedule.settings) {
            std::vector<Mode> modes;
            for (const Share& share : setting.shares)
                if (share.share > 0)
                    modes.push_back(mode(share));
            m_table.m_settings.push_back(std::move(modes));
        }
    }

  private:
    struct Sample {
        double watts = 0;
        bool ended = true;
    };
    Mode mode(const Share& share) {
        Mode m;
        m.share = share.share;
        m.plain = curveOf(share.mode, Network::kNoBurst, share.seconds);
        std::vector<std::size_t> bursting;
        double longest = 0;
        for (std::size_t load = 0; load < m_network.loadCount(); ++load)
            if (m_network.hasBurst(share.mode, load)) {
                bursting.push_back(load);
                longest = std::max(longest, m_network.burstSeconds(share.mode, load));
            }
        if (bursting.empty())
            return m;
        m.burst = curveOf(share.mode, Network::kAllBursts, longest);
        for (const std::size_t load : bursting)
            if (const double part = m_network.burstShare(share.mode, load); part > 0)
                m.singles.emplace_back(
                    part, bursting.size() == 1 ? *m.burst : curveOf(share.mode, load, longest));
        return m;
    }
    /// A mode may be in several settings.
    std::size_t curveOf(std::size_t mode, std::size_t burst, double seconds) {
        const auto [at, fresh] =
            m_known.try_emplace({mode, burst, seconds}, m_table.m_curves.size());
        if (fresh)
            m_table.m_curves.push_back(curve(mode, burst, seconds));
        return at->second;
    }
    Curve curve(std::size_t mode, std::size_t burst, double seconds) {
        const Demand demand = m_network.demand(mode, burst);
        const bool inBurst = burst != Network::kNoBurst;
        const auto seen = [&](double volts) {
            if (!m_network.solve(demand, volts, 0, m_flows))
                return Sample{};
            // A single burst counts by its energy alone: what ends the run is seen in all of them.
            const bool counts = !inBurst || burst == Network::kAllBursts;
            return Sample{volts * m_flows.sourceAmps,
                          counts && endsRun(m_project, m_network, m_flows, inBurst, seconds)};
        };
        Curve c;
        std::array<Sample, kNodes + 1> nodes;
        const auto voltsAt = [&](double node) { return m_table.m_low + m_table.m_step * node; };
        for (std::size_t i = 0; i <= kNodes; i += kStride)
            nodes[i] = seen(voltsAt(static_cast<double>(i)));
        for (std::size_t i = 0; i < kNodes; i += kStride)
            fill(nodes, i, i + kStride,
                 [&](std::size_t n) { return seen(voltsAt(static_cast<double>(n))); });
        // From above: where it is good first, and where that is over.
        std::size_t top = kNodes;
        while (top > 0 && nodes[top].ended)
            --top;
        std::size_t bottom = top;
        while (bottom > 0 && !nodes[bottom - 1].ended)
            --bottom;
        const auto edge = [&](double good, double bad) {
            for (int round = 0; round < kEdgeRounds; ++round) {
                const double middle = (good + bad) / 2;
                (seen(middle).ended ? bad : good) = middle;
            }
            return bad;
        };
        const double voltsTop = voltsAt(static_cast<double>(top));
        const double voltsBottom = voltsAt(static_cast<double>(bottom));
        c.endsOver =
            top == kNodes ? 1e9 : edge(voltsTop, voltsTop + m_table.m_step) * (1 + kVoltsOff);
        c.endsUnder = nodes[top].ended ? 1e9
                      : bottom == 0
                          ? 0
                          : edge(voltsBottom, voltsBottom - m_table.m_step) * (1 - kVoltsOff);
        // Where nothing could be solved the last that could be stands.
        for (std::size_t i = kNodes; i-- > 0;)
            if (nodes[i].watts <= 0)
                nodes[i].watts = nodes[i + 1].watts;
        for (std::size_t i = 0; i < kNodes; ++i) {
            c.watts[i] = nodes[i].watts * (1 - kLess);
            c.rise[i] = nodes[i + 1].watts * (1 - kLess) - c.watts[i];
        }
        // Where a regulator begins to pass straight there is a jump: the lesser of both.
        const std::array<double, kNodes> rise = c.rise;
        std::array<bool, kNodes> jumps{};
        for (std::size_t i = 0; i < kNodes; ++i) {
            const double beside = std::max(i > 0 ? std::abs(rise[i - 1]) : 0,
                                           i + 1 < kNodes ? std::abs(rise[i + 1]) : 0);
            jumps[i] = std::abs(rise[i]) > kJump * c.watts[i] && std::abs(rise[i]) > kOver * beside;
            if (jumps[i]) {
                c.watts[i] = std::min(c.watts[i], c.watts[i] + rise[i]);
                c.rise[i] = 0;
            }
        }
        // Where it bends upwards it lies under a straight line, by half the second difference.
        const auto bend = [&](std::size_t node) {
            return node > 0 && node < kNodes && !jumps[node - 1] && !jumps[node]
                       ? std::max(0.0, rise[node] - rise[node - 1])
                       : 0.0;
        };
        for (std::size_t i = 0; i < kNodes; ++i)
            if (!jumps[i])
                c.sag[i] = (bend(i) + bend(i + 1)) / 4;
        return c;
    }
    template <class See>
    void fill(std::array<Sample, kNodes + 1>& nodes, std::size_t low, std::size_t high, See&& see) {
        if (high - low < 2)
            return;
        const std::size_t middle = (low + high) / 2;
        nodes[middle] = see(middle);
        const double line = (nodes[low].watts + nodes[high].watts) / 2;
        const bool alike =
            nodes[low].ended == nodes[high].ended && nodes[low].ended == nodes[middle].ended;
        if (alike && std::abs(line - nodes[middle].watts) <= kStraight * nodes[middle].watts) {
            for (std::size_t i = low + 1; i < high; ++i) {
                const bool lower = i < middle;
                const std::size_t from = lower ? low : middle;
                const std::size_t to = lower ? middle : high;
                if (i == middle)
                    continue;
                const double x = static_cast<double>(i - from) / static_cast<double>(to - from);
                nodes[i] = {nodes[from].watts + x * (nodes[to].watts - nodes[from].watts),
                            nodes[from].ended};
            }
            return;
        }
        fill(nodes, low, middle, see);
        fill(nodes, middle, high, see);
    }

    LineTable& m_table;
    const Project& m_project;
    Network m_network;
    Flows m_flows;
    std::map<std::tuple<std::size_t, std::size_t, double>, std::size_t> m_known;
};

LineTable::LineTable(const Project& p, const Schedule& schedule, Celsius ambient, double low,
                     double high) {
    const bool guarded = std::any_of(p.stages.begin(), p.stages.end(), [](const Stage& s) {
        return std::holds_alternative<Guard>(s.part);
    });
    m_low = low * (guarded ? kUnderLow : kUnguarded);
    m_step = (high - m_low) / static_cast<double>(kNodes);
    m_scale = 1 / m_step;
    Maker(*this, p, ambient).settings(schedule);
}

bool LineTable::dominates(const LineTable& o) const {
    if (m_curves.size() != o.m_curves.size())
        return false;
    for (std::size_t k = 0; k < m_curves.size(); ++k) {
        const Curve& a = m_curves[k];
        const Curve& b = o.m_curves[k];
        if (a.endsUnder > b.endsUnder || a.endsOver < b.endsOver)
            return false;
        for (std::size_t i = 0; i < kNodes; ++i)
            if (a.watts[i] > b.watts[i] * (1 - kSurely) ||
                a.watts[i] + a.rise[i] > (b.watts[i] + b.rise[i]) * (1 - kSurely))
                return false;
    }
    return true;
}

LineTable::Case LineTable::at(std::size_t demand, double e, double ohms, double guess) const {
    const Curve& c = m_curves[demand];
    const auto wattsAt = [&](double volts) { return wattsOf(c, volts); };
    Case out;
    out.volts = e - ohms * guess;
    double watts = wattsAt(out.volts);
    bool settled = ohms <= 0;
    for (int round = 0; round < kVoltRounds && !settled; ++round) {
        // Newton's way, as if the watts stayed; far from a collapse that is close at once.
        const double sag = ohms * watts / out.volts;
        const double slope = 1 - sag / out.volts;
        if (!(slope > kFarOff))
            break;
        const double volts = out.volts - (out.volts + sag - e) / slope;
        settled = std::abs(volts - out.volts) <= kSameVolts * e;
        out.volts = volts;
        watts = wattsAt(volts);
    }
    if (!settled) {
        out.volts = highestVolts(c, e, ohms * (1 - kEasier));
        watts = wattsAt(out.volts);
    }
    out.ended = out.volts <= c.endsUnder || out.volts >= c.endsOver;
    out.amps = out.volts > 0 ? watts / out.volts : 0;
    return out;
}

double LineTable::wattsOf(const Curve& c, double volts) const {
    const double x = std::min((volts - m_low) * m_scale, static_cast<double>(kNodes) - 1e-9);
    if (x < 0) // under the table it goes on in a straight line
        return c.watts[0] + x * c.rise[0];
    const auto i = static_cast<std::size_t>(x);
    const double part = x - static_cast<double>(i);
    return c.watts[i] + part * (c.rise[i] - c.sag[i] * (1 - part));
}

namespace {

/// The bottom of a parabola through both ends and the middle; the middle where it has none within.
template <class Over>
double dipBetween(double low, double high, Over&& over) {
    const double middle = (low + high) / 2;
    const double below = over(low);
    const double here = over(middle);
    const double above = over(high);
    const double bend = below - 2 * here + above;
    if (!(bend > 0))
        return middle;
    const double away = (below - above) / (2 * bend); // in halves of the step
    return middle + std::clamp(away, -1.0, 1.0) * (high - low) / 2;
}

} // namespace

/// The highest v with v = e - R W(v) / v, from the top down, step by step; 0 where there is none.
double LineTable::highestVolts(const Curve& c, double e, double ohms) const {
    const auto over = [&](double volts) { return volts + ohms * wattsOf(c, volts) / volts - e; };
    double high = e;
    for (double node = std::ceil((e - m_low) * m_scale) - 1; high > 0; --node) {
        double low = m_low + m_step * node;
        if (node < 0) // under the table: W = a + b v, and so v^2 - (e - R b) v + R a = 0
            break;
        if (over(low) > 0) {
            // Both ends may lie over a dip: near a collapse there are two answers, close together.
            const double bottom = dipBetween(low, high, over);
            if (over(bottom) > 0) {
                high = low;
                continue;
            }
            low = bottom;
        }
        for (int round = 0; round < kHalvedVolts; ++round) {
            const double middle = (low + high) / 2;
            (over(middle) > 0 ? high : low) = middle;
        }
        return high;
    }
    const double b = c.rise[0] * m_scale;
    const double half = (e - ohms * b) / 2;
    const double inner = half * half - ohms * (c.watts[0] - b * m_low);
    return inner >= 0 ? std::max(0.0, half + std::sqrt(inner)) : 0;
}

} // namespace sipper
