// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/labsupply.hpp"

#include "base/tolerance.hpp"
#include "parts/figures.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <cmath>
#include <set>

namespace sipper {
namespace {

constexpr double kSupplyOver =
    1.25; ///< a limit that a working line does not meet, and a short does
constexpr double kSupplyLeast = 0.05;  ///< A under which few supplies can limit
constexpr double kSupplyStepV = 0.01;  ///< resolution of its setting
constexpr double kSupplyStepA = 0.001; ///< likewise

/// Whether the volts at its input stand at its output.
bool handsOn(const Part& part) {
    return !active(part);
}

} // namespace

std::optional<LabSupplySetting> benchSupplyFor(const Project& project, const BenchAnalysis& look) {
    const Stage* pack = project.packStage();
    if (!pack)
        return {};
    LabSupplySetting s;
    for (const BenchCheck& c : look.checks) {
        if (c.at != pack->id || !c.expect)
            continue;
        if (c.kind == CheckKind::openCircuit)
            s.volts = *c.expect;
        if (c.kind == CheckKind::idle || c.kind == CheckKind::draw)
            s.amps = std::max(s.amps, c.coverageHigh);
    }
    if (s.volts <= 0)
        return {};
    s.volts = std::round(s.volts / kSupplyStepV) * kSupplyStepV;
    s.amps = std::max(kSupplyLeast, std::ceil(s.amps * kSupplyOver / kSupplyStepA) * kSupplyStepA);
    return s;
}

std::optional<Excess> firstDamagedBy(const Project& project, double volts) {
    const Stage* pack = project.packStage();
    if (!pack)
        return {};
    std::set<std::string> open{pack->id};
    for (const std::size_t i : downstreamStages(project, pack->id)) {
        const Stage& stage = project.stages[i];
        if (std::none_of(stage.fedBy.begin(), stage.fedBy.end(),
                         [&](const std::string& id) { return open.contains(id); }))
            continue;
        if (const double most = neverAboveOf(stage.part); overSet(volts, most))
            return Excess{stage.id, volts, most, true};
        if (handsOn(stage.part))
            open.insert(stage.id);
    }
    for (const Load& load : project.loads)
        if (const double most = orZero(load.window.neverAbove);
            open.contains(load.fedBy) && overSet(volts, most))
            return Excess{load.id, volts, most, true};
    return {};
}

} // namespace sipper
