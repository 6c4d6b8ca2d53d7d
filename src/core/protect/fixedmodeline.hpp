// SPDX-License-Identifier: GPL-3.0-or-later
// The line with one mode held, guard closed or guard open: what a cut-off and its rebound are
// walked on.
#pragma once

#include "base/tolerance.hpp"
#include "line/operating.hpp"
#include "parts/figures.hpp"
#include "project/tree.hpp"
#include "protect/rebound.hpp"

#include <cmath>
#include <limits>

namespace sipper {

inline constexpr double kLongestDrain = 100 * 8766.0; ///< h; nobody waits longer for a cut-off

/// A line under one demand. The last state that it was asked for is kept: a step and what ends it
/// ask for the same one.
class FixedDemandLine {
  public:
    FixedDemandLine(const Project& project, const Conditions& conditions)
        : m_network(project, conditions.ambient, conditions.line) {}
    [[nodiscard]] Network& network() { return m_network; }
    [[nodiscard]] const Network& network() const { return m_network; }
    void setDemand(Demand demand) { m_demand = std::move(demand); }

    /// A of the source; not a number on a collapse.
    double current(double volts, double ohms) {
        if (volts != m_volts || ohms != m_ohms) {
            m_volts = volts;
            m_ohms = ohms;
            m_filled = false;
            m_amps = m_network.current(m_demand, volts, ohms);
        }
        return m_amps;
    }
    /// All flows; null on a collapse.
    const Flows* flows(double volts, double ohms) {
        if (!std::isfinite(current(volts, ohms)))
            return nullptr;
        if (!m_filled)
            m_network.fill(m_demand, volts, ohms, m_amps, m_flows);
        m_filled = true;
        return &m_flows;
    }

  private:
    Network m_network;
    Demand m_demand;
    double m_volts = std::numeric_limits<double>::quiet_NaN();
    double m_ohms = 0;
    double m_amps = 0;
    bool m_filled = false;
    Flows m_flows;
};

/// Whether the guard passes.
enum class GuardState { closed, open };

/// The line with one mode held, guard closed and guard open.
class FixedModeLine {
  public:
    FixedModeLine(const Project& project, std::size_t guard, std::size_t mode,
                  const Conditions& conditions)
        : m_project(project), m_guard(guard), m_pack(packOf(project, conditions)),
          m_closed(project, conditions), m_open(project, conditions),
          m_delay(guard == kNotFound ? 0
                                     : orZero(std::get<Guard>(project.stages[guard].part).delay)),
          m_cutoff(
              guard == kNotFound ? 0 : std::get<Guard>(project.stages[guard].part).cutoff.value()) {
        if (guard != kNotFound)
            m_open.network().setOpen(guard, true);
        const Network& network = m_closed.network();
        m_closed.setDemand(network.demand(mode, Network::kNoBurst));
        m_open.setDemand(m_open.network().demand(mode, Network::kNoBurst));
        for (std::size_t i = 0; i < project.loads.size(); ++i)
            if (network.hasBurst(mode, i))
                m_burstSeconds = std::max(m_burstSeconds, network.burstSeconds(mode, i));
        // A burst opens it where it lasts as long as the delay.
        m_bursts = m_burstSeconds > 0 && m_burstSeconds >= m_delay;
        if (m_bursts)
            m_burst = network.demand(mode, Network::kAllBursts);
        for (std::size_t i = 0; i < project.loads.size(); ++i)
            if (network.hasBurst(mode, i) && network.burstShare(mode, i) > 0)
                m_singles.push_back({network.burstShare(mode, i), network.demand(mode, i)});
    }

    [[nodiscard]] const PackModel& pack() const { return m_pack; }
    [[nodiscard]] double delaySeconds() const { return m_delay; }

    /// Amps of the pack, the energy of bursts in them.
    [[nodiscard]] std::optional<double> amps(const PackState& state, GuardState guard) const {
        const auto [e, r] = m_pack.source(state);
        const double plain = lineAt(guard).current(e, r);
        double mean = plain;
        if (guard == GuardState::closed)
            for (const auto& [share, demand] : m_singles)
                mean += share * (m_closed.network().current(demand, e, r) - plain);
        return std::isfinite(mean) ? std::optional(mean) : std::nullopt;
    }
    /// Volts at the guard's input; 0 where the line has no answer.
    [[nodiscard]] double input(const PackState& state, GuardState guard) const {
        const Flows* flows = flowsOf(state, lineAt(guard));
        return flows ? flows->stages[m_guard].vIn : 0;
    }
    /// Volts at the guard's input, or at the pack where there is none; with nothing drawn and with
    /// the mode's draw long settled.
    [[nodiscard]] GuardPoint at(double charge) const {
        GuardPoint point;
        point.charge = charge;
        PackState state{m_pack.level(charge), 0};
        const auto volts = [&](const Flows& flows) {
            return m_guard == kNotFound ? flows.sourceVolts : flows.stages[m_guard].vIn;
        };
        if (solved(state, m_closed.network().idle()))
            point.rest = volts(m_flows);
        // v1 follows the current, and the current v1: a few rounds settle it.
        constexpr int kRounds = 4;
        for (int round = 0; round < kRounds; ++round)
            state.rcVolts =
                amps(state, GuardState::closed).value_or(0) / m_pack.parallel * m_pack.relaxation;
        if (const Flows* flows = flowsOf(state, m_closed))
            point.working = volts(*flows);
        return point;
    }
    /// Is the guard's input under its cut-off, in the mode or in a burst that is long enough?
    [[nodiscard]] bool low(const PackState& state) const {
        const Flows* flows = flowsOf(state, m_closed);
        if (flows && fallsBelow(flows->stages[m_guard].vIn, m_cutoff))
            return true;
        return m_bursts && solved(state, m_burst) &&
               fallsBelow(m_flows.stages[m_guard].vIn, m_cutoff);
    }
    /// Another stage that opens in this state, from the source outwards; the guard's place where
    /// none does.
    [[nodiscard]] std::size_t opensFirst(const PackState& state) const {
        const Flows* flows = flowsOf(state, m_closed);
        if (!flows)
            return packIndex(m_project);
        for (const std::size_t i : m_closed.network().order())
            if (i != m_guard && flows->stages[i].state != StageState::off &&
                opens(m_project.stages[i].part, flows->stages[i],
                      std::numeric_limits<double>::infinity()))
                return i;
        return m_guard;
    }

  private:
    static PackModel packOf(const Project& project, const Conditions& conditions) {
        Pack pack = *project.pack();
        if (conditions.health)
            pack.health = *conditions.health;
        return PackModel(pack, conditions.ambient, conditions.pack);
    }
    FixedDemandLine& lineAt(GuardState guard) const {
        return guard == GuardState::open ? m_open : m_closed;
    }
    const Flows* flowsOf(const PackState& state, FixedDemandLine& line) const {
        const TheveninSource cells = m_pack.source(state);
        return line.flows(cells.volts, cells.ohms);
    }
    bool solved(const PackState& state, const Demand& demand) const {
        const TheveninSource cells = m_pack.source(state);
        return m_closed.network().solve(demand, cells.volts, cells.ohms, m_flows);
    }

    const Project& m_project;
    std::size_t m_guard;
    PackModel m_pack;
    mutable FixedDemandLine m_closed;
    mutable FixedDemandLine m_open;
    Demand m_burst;
    struct Single {
        double share;
        Demand demand;
    };
    std::vector<Single> m_singles;
    double m_burstSeconds = 0;
    bool m_bursts = false;
    double m_delay;
    double m_cutoff;
    mutable Flows m_flows;
};

/// Holds the line for `hours`, with the guard open or closed, or until `happened`.
[[nodiscard]] DriveResult
integrateFixed(const FixedModeLine& held, const PackState& from, double hours, GuardState guard,
               const std::function<bool(const PackState&)>& happened = {});

/// Holds the guard closed until it is low for its delay. Nothing where that does not come.
[[nodiscard]] std::optional<DriveResult> untilCut(const FixedModeLine& held, const PackState& from);

} // namespace sipper
