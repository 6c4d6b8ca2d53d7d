// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/tolerance.hpp"
#include "line/operating.hpp"
#include "runtime/runtime.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace sipper {
namespace {

struct PossibleEnd {
    int rank;
    std::size_t mode;
    std::size_t place;
    Ending ending;
};

constexpr double kRoomy = 1e9;    ///< margin of what nothing ends
constexpr double kNothing = 1e-9; ///< of a figure: under it a margin is absolute

class Judge {
  public:
    Judge(const Project& project, const Network& network, bool windows)
        : m_project(project), m_network(network), m_windows(windows) {}

    void look(std::size_t mode, const Flows& flows, bool inBurst, double seconds) {
        const auto& order = m_network.order();
        for (std::size_t place = 0; place < order.size(); ++place) {
            const std::size_t i = order[place];
            const StageFlow& f = flows.stages[i];
            if (const double least = opensUnder(m_project.stages[i].part, seconds);
                least > 0 && f.state != StageState::off)
                room(f.vIn - least, least);
            if (const double left = m_network.roomToLimit(i, f, inBurst); std::isfinite(left))
                room(left, 1);
            if (m_network.overLimit(i, f, inBurst))
                offer(EndReason::limit, mode, place, m_project.stages[i].id, inBurst);
            if (opens(m_project.stages[i].part, f, seconds))
                offer(EndReason::cutoff, mode, place, m_project.stages[i].id, inBurst);
        }
        for (std::size_t i = 0; m_windows && i < m_project.loads.size(); ++i) {
            const Load& load = m_project.loads[i];
            if (!load.isCritical() || !m_network.reachesLoad(i))
                continue;
            const double v = flows.loads[i].v;
            room(v - load.window.min.value(), load.window.min.value());
            room(load.window.max.value() - v, load.window.max.value());
            if (exceeds(v, load.window.max.value()))
                offer(EndReason::aboveWindow, mode, order.size() + i, load.id, inBurst);
            if (underWindow(flows.loads[i], load.window))
                offer(EndReason::belowWindow, mode, order.size() + i, load.id, inBurst);
        }
    }
    void offer(EndReason reason, std::size_t mode, std::size_t place, const std::string& at,
               bool inBurst) {
        const PossibleEnd c{
            static_cast<int>(reason), mode, place, {at, m_project.modes[mode].id, reason, inBurst}};
        const auto key = [](const PossibleEnd& x) { return std::tuple(x.rank, x.mode, x.place); };
        if (!m_best || key(c) < key(*m_best))
            m_best = c;
    }
    /// The least room that is left to an end, relative: over 0 while nothing ends.
    [[nodiscard]] double margin() const { return m_margin; }
    void room(double left, double whole) {
        m_margin = std::min(m_margin, left / std::max(std::abs(whole), kNothing));
    }
    [[nodiscard]] std::optional<Ending> verdict() const {
        return m_best ? std::optional(m_best->ending) : std::nullopt;
    }

  private:
    const Project& m_project;
    const Network& m_network;
    bool m_windows;
    double m_margin = kRoomy;
    std::optional<PossibleEnd> m_best;
};

} // namespace

std::string_view reasonName(EndReason reason) {
    static constexpr std::array<std::string_view, 8> names{
        "collapse", "limit", "cutoff", "above_window", "below_window", "empty", "mains", "never"};
    return names[static_cast<std::size_t>(reason)];
}

std::optional<Ending> endingOf(const Project& project, const Line& line, const LineSolution& moment,
                               const Wells& wells, bool windows, double* margin) {
    if (margin)
        *margin = std::numeric_limits<double>::quiet_NaN();
    Judge judge(project, line.network(), windows);
    const std::string& pack = project.stages[line.packIndex()].id;
    if (moment.collapsed) {
        judge.offer(EndReason::collapse, moment.collapsedMode, 0, pack, moment.inBurst);
        return judge.verdict();
    }
    for (const ModeSolution& m : moment.modes) {
        if (m.share <= 0)
            continue;
        judge.look(m.mode, m.steady, false, m.seconds);
        if (m.hasBurst)
            judge.look(m.mode, m.burst, true, m.burstSeconds);
        if (wells.available <= 0)
            judge.offer(EndReason::empty, m.mode, 0, pack, false);
    }
    if (margin)
        *margin = judge.margin();
    return judge.verdict();
}

bool endsRun(const Project& project, const Network& network, const Flows& flows, bool inBurst,
             double seconds) {
    Judge judge(project, network, true);
    judge.look(0, flows, inBurst, seconds);
    return judge.verdict().has_value();
}

} // namespace sipper
