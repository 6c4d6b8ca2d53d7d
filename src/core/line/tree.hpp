// SPDX-License-Identifier: GPL-3.0-or-later
// Every node voltage of a line at once, where forks stand behind forks.
#pragma once

#include "line/network.hpp"

namespace sipper {

/// Solves the node voltages of a tree together: Newton's method on the whole tree, each step by one
/// pass from the loads to the source (demand of every node, linear in its voltage) and one back
/// (the voltages). Linear in stages and loads, where the search of one fork inside another
/// multiplies with their depth.
///
/// Begun with nothing drawn, all voltages lie over the answer; demand falls with voltage on a curve
/// that bends upwards, so a step never passes the root of the highest voltages (monotone Newton:
/// Ortega and Rheinboldt 1970, 13.3), and a slope that leaves none is a collapse. Where a regulator
/// comes to the edge of its set-point the step ends at that edge, and goes on with it dropping out.
class Network::Tree {
  public:
    /// Both outlive it. `demand.atSetPoint` must hold the regulators that stand in the tree.
    Tree(const Network& network, const Demand& demand) : m_network(network), m_demand(demand) {}

    /// Amps into `children` from E behind R: of the answer with the highest voltages. NaN where
    /// there is none.
    double current(const Children& children, double e, double r);

    /// Of the last answer: amps into a stage, and out of it into what hangs on it.
    [[nodiscard]] double inputAmps(std::size_t stage) const { return m_at[stage].input; }
    [[nodiscard]] double outputAmps(std::size_t stage) const { return m_at[stage].output; }
    /// Is its output a node of the tree? Behind a held set-point another tree begins.
    [[nodiscard]] bool reaches(std::size_t stage) const { return m_at[stage].coupled; }

  private:
    /// Amps at a voltage, and how they move with it.
    struct Slope {
        double amps = 0;
        double perVolt = 0;
    };
    /// A stage while the tree is solved.
    struct At {
        bool visited = false;
        bool held = false;    ///< a linear or buck that holds its set-point
        bool left = false;    ///< it has lost what it held, or stopped passing: for good
        bool forced = false;  ///< taken for lost though its edge was not reached
        bool coupled = false; ///< its output follows its input: volts = gain u - drop - ohms x amps
        bool begun = false;   ///< `volts` are of this attempt
        double gain = 1;
        double drop = 0;
        double ohms = 0;
        double u = 0;     ///< volts at its input
        double volts = 0; ///< at its output
        double next = 0;  ///< the same after the step
        double input = 0;
        double output = 0;
        Slope in;  ///< amps into it over u
        Slope out; ///< amps out of it over u, while coupled
    };
    [[nodiscard]] double attempt(const Children& c, double e, double r);
    [[nodiscard]] Slope loadsAt(const Children& c, double v);
    [[nodiscard]] Slope demandOf(const Children& c, double v);
    [[nodiscard]] Slope stageAt(std::size_t index, double u);
    /// Amps out of a stage whose output follows its input, over u.
    [[nodiscard]] Slope follow(std::size_t index, double u, double gain, double drop, double ohms);
    [[nodiscard]] Slope seriesAt(std::size_t index, double u);
    [[nodiscard]] Slope linearAt(std::size_t index, double u);
    [[nodiscard]] Slope buckAt(std::size_t index, double u);
    [[nodiscard]] Slope boostAt(std::size_t index, double u);
    [[nodiscard]] Slope buckBoostAt(std::size_t index, double u);
    [[nodiscard]] Slope driverAt(std::size_t index, double u);
    [[nodiscard]] Slope stepDownAt(const Node& n, double set, double u) const;
    [[nodiscard]] Slope stepUpAt(const Node& n, double set, double u);
    [[nodiscard]] Slope gone();
    /// Input volts down to which a linear or a buck holds its set-point.
    [[nodiscard]] double edgeOf(std::size_t index) const;
    void propose(const Children& c, double u, double next);
    [[nodiscard]] double shareTo(const Children& c, double u, double next) const;
    /// Takes a share of the step; answers the largest relative move.
    [[nodiscard]] double take(const Children& c, double share);
    [[nodiscard]] bool turn(const Children& c, double u);
    [[nodiscard]] bool consistent() const;
    [[nodiscard]] bool forceNext();

    const Network& m_network;
    const Demand& m_demand;
    std::vector<At> m_at;
    bool m_gone = false; ///< no answer at these volts or under them
};

} // namespace sipper
