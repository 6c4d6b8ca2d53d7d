// SPDX-License-Identifier: GPL-3.0-or-later
// What hangs on a pack's node in one setting, over the volts that push it: solved where a run comes
// by, read between.
#pragma once

#include "charge/panelcharger.hpp"
#include "line/line.hpp"

#include <cstdint>
#include <memory>
#include <unordered_map>

namespace sipper {

/// The stages that are held open, as bits by their place in the project.
using OpenSet = std::uint64_t;
inline constexpr std::size_t kMostStages = 64; ///< that can be told apart so

/// The line behind a pack while a current x flows into its node. With `push = S E + x R`, R the
/// pack's whole resistance, every mode follows from the push alone (docs/model.md: Sun: pack,
/// loads, what is missed).
class NodeInterpolant : public NodeTakes {
  public:
    /// One push, solved. Powers are means over the setting's modes, bursts' energy included.
    struct Point {
        double theveninVolts = 0;
        bool collapsed = false;
        bool lossOfLoad = false; ///< something critical goes without, or a limit is passed
        std::int16_t opens = -1; ///< the stage that would open, the first from the pack; -1: none
        double amps = 0;         ///< mean out of the node
        double watts = 0;        ///< mean into the line
        double loads = 0;        ///< W at the loads
        OpenSet recovers = 0;    ///< open stages whose input is good enough to come back
        std::vector<double> stages; ///< W lost in each
        std::vector<double> perLoad;
        double hours = 0; ///< what a run has spent here
        /// Do both say the same about what happens?
        [[nodiscard]] bool agrees(const Point& o) const {
            return collapsed == o.collapsed && lossOfLoad == o.lossOfLoad && opens == o.opens &&
                   recovers == o.recovers;
        }
    };
    /// Two solved pushes, and how much the second one counts.
    struct Reading {
        Point* low;
        Point* high;
        double share;
        [[nodiscard]] const Point& flags() const { return *low; }
        [[nodiscard]] double amps() const { return low->amps + share * (high->amps - low->amps); }
        [[nodiscard]] double watts() const {
            return low->watts + share * (high->watts - low->watts);
        }
        [[nodiscard]] double loads() const {
            return low->loads + share * (high->loads - low->loads);
        }
        void spend(double hours) const {
            low->hours += hours * (1 - share);
            high->hours += hours * share;
        }
    };

    /// `r0` and `r1` are ohms of one cell that stand for this interpolant. The line outlives it,
    /// with its open stages set as they are to be whenever `at` is called.
    NodeInterpolant(const Project& project, Line& line, std::size_t setting, OpenSet open,
                    double r0, double r1);

    [[nodiscard]] Reading at(double push);
    /// The interpolant's own resistance stands for the pack's.
    double takenAt(double push, double) override { return at(push).amps(); }
    [[nodiscard]] const std::vector<std::unique_ptr<Point>>& points() const { return m_points; }

  private:
    struct Piece {
        double low;
        double high;
        Point* a;
        Point* b;
    };
    struct Cell {
        bool known = false;
        std::vector<Piece> pieces; ///< rising
    };
    Point* solve(double push);
    Point* edge(std::size_t cell);
    void split(std::vector<Piece>& pieces, Point* low, Point* high);
    void judge(const ModeSolution& mode, const Flows& flows, bool inBurst, double seconds,
               Point& p);
    [[nodiscard]] OpenSet recoveringIn(const ModeSolution& filler) const;

    const Project& m_project;
    Line& m_line;
    std::size_t m_setting;
    OpenSet m_open;
    double m_r0;
    double m_r1;
    double m_width; ///< of a cell, volts
    LineSolution m_moment;
    std::vector<std::unique_ptr<Point>> m_points;
    std::vector<Point*> m_edges;
    std::vector<Cell> m_cells;
};

/// All charts of one line, by setting, open stages and resistance. Resistances are told apart by a
/// few per cent: they act through the sag alone.
class NodeCharts {
  public:
    NodeCharts(const Project& project, Celsius ambient);
    NodeCharts(const NodeCharts&) = delete;
    NodeCharts& operator=(const NodeCharts&) = delete;

    /// `r0` and `r1`: of one cell of the line's own pack.
    [[nodiscard]] NodeInterpolant& of(std::size_t setting, OpenSet open, double r0, double r1);
    [[nodiscard]] Line& line() { return m_line; }
    /// Does something critical draw in this setting at all?
    [[nodiscard]] bool needs(std::size_t setting) const { return m_needs[setting]; }
    /// Regulators behind a stage that need more to start than to go on.
    [[nodiscard]] OpenSet startersBehind(std::size_t stage) const;
    /// Watt-hours of every stage and load, by place in the project, of all that was spent since the
    /// last time.
    void take(std::vector<double>& stages, std::vector<double>& loads);

  private:
    void hold(OpenSet open);

    const Project& m_project;
    Line m_line;
    OpenSet m_held = 0;
    std::vector<bool> m_needs;
    std::unordered_map<std::uint64_t, std::unique_ptr<NodeInterpolant>> m_charts;
    std::unordered_map<std::uint64_t, OpenSet> m_openOf;
};

/// Does a critical or reset-prone load draw in this mode?
[[nodiscard]] bool criticalDraws(const Load& load, const Project& project, std::size_t mode);

} // namespace sipper
