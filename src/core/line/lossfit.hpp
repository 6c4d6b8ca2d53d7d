// SPDX-License-Identifier: GPL-3.0-or-later
// A switching regulator's loss terms from measured points.
#pragma once

#include "base/outcome.hpp"
#include "parts/stage.hpp"

#include <vector>

namespace sipper {

/// One reading: input and output, with either the efficiency (0-1) or the input current.
struct LossPoint {
    double vIn = 0;
    double vOut = 0;
    double iOut = 0;
    double iIn = 0; ///< A; from the efficiency where that was given
    [[nodiscard]] double loss() const { return vIn * iIn - vOut * iOut; }
    [[nodiscard]] double efficiency() const { return vOut * iOut / (vIn * iIn); }
};

struct LossFit {
    double quiescent = 0;  ///< A
    double fixed = 0;      ///< W
    double drop = 0;       ///< V
    double resistance = 0; ///< ohm
    double worst = 0;      ///< largest error of the efficiency, in parts of one
    std::size_t worstPoint = 0;
    std::vector<double> efficiency; ///< of the fit at each point
};

/// `P_loss = quiescent V_in + fixed + drop I_L + R I_L^2`, I_L as the topology has it, least
/// squares with no negative term (Lawson and Hanson 1974), each point weighed by its output power.
/// Codes: "few" under three points, "point" for one that gives more than it takes, with its number.
[[nodiscard]] Outcome<LossFit> fitLosses(Topology topology, const std::vector<LossPoint>& points);

/// Rows of `V in, V out, I out, efficiency or I in`, as pasted: commas, semicolons, tabs or blanks
/// between; units as people write them. A last value from 0 to 1 or with % is an efficiency, else
/// an input current. Code "point" with the row.
[[nodiscard]] Outcome<std::vector<LossPoint>> readLossPoints(std::string_view text);

} // namespace sipper
