// SPDX-License-Identifier: GPL-3.0-or-later
// What the line does in one setting, over the height of the first well: solved at few heights, read
// between them.
#pragma once

#include "runtime/runtime.hpp"

#include <array>

namespace sipper {

/// In one setting everything on the line follows from the height of the pack's first well alone
/// (docs/model.md: Solving the line). The line is solved lazily where a run comes by, interval by
/// interval between the points of the open-circuit table, and halves a cell until a parabola
/// through its ends and middle comes near the line solved at a quarter of it; read is then a cubic
/// through all four. Where something ends the run, the edge is found by halving.
class LineInterpolant {
  public:
    /// One height, solved. Powers are averages over the setting's modes, bursts' energy included.
    struct Node {
        double height = 0;
        std::optional<Ending> ending; ///< what ends the run here; the figures are then not meant
        double margin = 0; ///< that is left to what ends the run, relative; NaN: not known
        double cellAmps = 0;
        double terminal = 0;  ///< W at the pack
        double fillVolts = 0; ///< at the pack, in the mode that fills the setting
        double worst = 0;     ///< A at the pack, bursts included
        std::size_t worstMode = 0;
        std::vector<double> stages;    ///< W lost in each
        std::vector<double> loadModes; ///< W into each load in each mode, load-major
        std::vector<double> volts;     ///< at the pack in each mode of the setting
        double hours = 0;              ///< what a run has spent here
        [[nodiscard]] bool ended() const { return ending.has_value(); }
    };
    /// Heights between two edges, read by a cubic, or over which the run has ended.
    struct Piece {
        double low = 0;
        double high = 0;
        std::optional<Ending> ending; ///< of an ended piece: what was seen just behind its edge
        double seen = 0;              ///< the height of that
        [[nodiscard]] bool ended() const { return ending.has_value(); }
        std::array<std::size_t, 4>
            nodes{};      ///< at its low edge, a quarter, the middle, the high edge
        double steep = 0; ///< most volts at the pack per height, over the modes
    };

    /// `windows` off: whatever the loads make of it. `tolerance`: of the mean current, relative.
    /// The project and the line outlive the interpolant.
    LineInterpolant(const Project& project, const Line& line, std::size_t setting, bool windows,
                    double tolerance);

    /// The piece at a height; 0 and 1 stand for what lies outside. Solves what is not solved yet.
    const Piece& at(double height);
    /// How much each node of the piece counts at a height; they add up to 1.
    [[nodiscard]] static std::array<double, 4> weights(const Piece& piece, double height);
    [[nodiscard]] double cellAmps(const Piece& piece, double height) const;
    [[nodiscard]] double fillVolts(const Piece& piece, double height) const;
    /// Books a part of a run at this height.
    void spend(const Piece& piece, double height, double hours);
    /// The first ended piece on the way from one height to another, without the one at `from`.
    const Piece* firstEnd(double from, double to);

    [[nodiscard]] const std::vector<Node>& nodes() const { return m_nodes; }
    /// The node's figures at any height, solved; not kept.
    [[nodiscard]] Node solved(double height);

  private:
    struct Interval {
        bool known = false;
        std::vector<Piece> pieces; ///< rising
    };
    std::size_t add(double height);
    void build(std::size_t cell);
    void split(Interval& cell, std::size_t low, std::size_t high, std::optional<std::size_t> middle,
               int depth);
    void splitAtEdge(Interval& cell, std::size_t low, std::size_t high, int depth);
    [[nodiscard]] bool agrees(const Piece& piece) const;
    void addPiece(Interval& cell, const Piece& piece);
    [[nodiscard]] double read(const Piece& piece, double height, double Node::*figure) const;
    static void addEnded(Interval& cell, double low, double high, const Node& seen);

    const Project& m_project;
    const Line& m_line;
    std::size_t m_setting;
    bool m_windows;
    double m_tolerance;
    LineSolution m_moment;
    double m_last = -1; ///< height that m_moment was solved for
    std::vector<double> m_edges;
    std::vector<std::size_t> m_edgeNodes; ///< of each edge, once it is solved
    std::vector<Interval> m_cells;
    std::vector<Node> m_nodes;
};

} // namespace sipper
