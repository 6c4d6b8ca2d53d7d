// SPDX-License-Identifier: GPL-3.0-or-later
// The hours of a run, near enough to tell which candidates need a real one: the line is solved once
// for all packs of the same volts, each of them reads it.
#pragma once

#include "line/packmodel.hpp"
#include "search/linetable.hpp"

#include <array>
#include <cmath>

namespace sipper {

/// By how much `approxHours` may stand under the run, as a share: its tables are read in straight
/// lines. Under test over the candidates of seven projects.
inline constexpr double kNearShare = 0.0005;

/// A stretch of the day, from the brief's start on.
struct DaySegment {
    double hours = 24;
    std::size_t setting = 0;
};
[[nodiscard]] std::vector<DaySegment> dayOf(const Project& project, const Schedule& schedule);

/// How far the relaxation of a cell settles in what lasts so many seconds: 1 - exp(-d / tau).
[[nodiscard]] inline double rcSettlingAfter(double seconds, double tau) {
    return tau > 0 ? -std::expm1(-seconds / tau) : 1;
}

/// What a kind of cell brings to every such run.
struct ApproxCell {
    static constexpr std::size_t kHeights = 96;
    static constexpr int kHalvings = 10;
    ApproxCell(const PackModel& model, const Schedule& schedule,
               const std::vector<DaySegment>& day);
    /// Closer together where a cell is nearly empty.
    [[nodiscard]] static double heightOf(std::size_t i) {
        const double x = static_cast<double>(i) / kHeights;
        return x * x;
    }
    [[nodiscard]] static std::size_t under(double height) {
        return std::min(static_cast<std::size_t>(std::sqrt(std::max(0.0, height)) * kHeights),
                        kHeights - 1);
    }
    /// Where a height lies between two nodes, by the volts there.
    struct Between {
        std::size_t node = 0;
        double share = 0;
    };
    [[nodiscard]] Between between(double height) const {
        const std::size_t i = under(height);
        const Cell& cell = cells[i];
        return {cell.node, cell.share + (height - cell.height) * cell.slope};
    }

    const PackModel* model;
    /// Heights at which a line is looked at: between two of them volts and ohms move little.
    struct Node {
        double height = 0;
        double volts = 0; ///< at rest
        double ohms = 0;
    };
    std::vector<Node> nodes; ///< rising
    struct Cell {
        std::size_t node = 0; ///< under it
        double height = 0;    ///< of its lower end
        double share = 0;     ///< there, of the way to the next node
        double slope = 0;     ///< of that, by height
    };
    std::array<Cell, kHeights> cells{};
    std::vector<std::vector<double>> settled; ///< by setting and share: 1 - exp(-d/tau)
    /// What a stretch, halved so many times, leaves of the wells (`PackModel::drained`).
    struct Fade {
        double hours = 0;
        double fade = 1;
        double gone = 0;
        double lag = 0;
    };
    [[nodiscard]] static Fade fadeOver(const PackModel& model, double hours);
    std::vector<std::array<Fade, kHalvings + 1>> fades; ///< by stretch
};

/// Hours until something ends the run (docs/model.md: Runtime); infinity past eleven years.
[[nodiscard]] double approxHours(const LineTable& line, const ApproxCell& cell,
                                 const std::vector<DaySegment>& day, double series,
                                 double parallel);

} // namespace sipper
