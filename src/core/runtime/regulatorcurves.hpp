// SPDX-License-Identifier: GPL-3.0-or-later
// The curves of one regulator where it stands in a project: efficiency with each mode's working
// point, heat, and what it can give over the input that occurs.
#pragma once

#include "line/partcurves.hpp"
#include "runtime/externalload.hpp"

#include <stop_token>

namespace sipper {

struct XY {
    std::vector<double> x;
    std::vector<double> y;
};

struct RegulatorCurves {
    std::vector<double> inputs; ///< V that the curves are drawn at, rising
    double leastAmps = 0;       ///< of the efficiency's axis
    double mostAmps = 0;        ///< of the axes over current
    double lowVolts = 0;        ///< that occur at its input
    double highVolts = 0;
    std::vector<XY> efficiency; ///< 0–1 over A out, one an input
    struct Working {
        std::size_t mode = 0;
        double amps = 0;
        double efficiency = 0;
    };
    std::vector<Working> working; ///< where each mode works that draws anything
    std::vector<XY> heat;         ///< degrees Celsius over A out, at the first and last input
    std::vector<double> coolUpTo; ///< A at which it reaches its limit there; infinity: never
    XY reach;                     ///< most A out over V in, a little beyond what occurs
    std::optional<double> worst;  ///< A that the project asks of it
};

/// The input voltages that occur at a stage, from the cells and from every other source.
[[nodiscard]] VoltageRange inputsOf(const std::optional<OperatingSweep>& survey,
                                    std::span<const ExternalLoad> externalLoads, std::size_t stage);

/// What the curves are asked at besides the project: what has been seen of it, and the moment.
struct CurvesAt {
    std::optional<OperatingSweep> sweep;
    std::vector<ExternalLoad> externalLoads;
    std::vector<std::string> present; ///< sources that are plugged in
    double charge = 1;
};

/// Nothing when `stop` was asked for, or where the stage is no regulator.
[[nodiscard]] std::optional<RegulatorCurves> regulatorCurves(const Project& project,
                                                             const std::string& stage,
                                                             const CurvesAt& at,
                                                             const std::stop_token& stop = {});

} // namespace sipper
