// SPDX-License-Identifier: GPL-3.0-or-later
#include "solar/sensedivider.hpp"

#include "parts/chemistry.hpp"
#include "parts/eseries.hpp"
#include "parts/figures.hpp"
#include "project/tree.hpp"
#include "runtime/runtime.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kTotal = 2e6;        ///< ohms: so little current that a night does not count
constexpr double kHeadOfScale = 0.97; ///< of the full scale, for the full pack

/// Watt-hours a day that the pack gives, by the run's mean power.
double useADay(const Project& p) {
    const Runtime run = predictRuntime(p, typicalConditions(p), {});
    return run.meanPower.value() * 24;
}

} // namespace

std::optional<SenseDivider> watchOf(const Project& project, const SenseDividerOptions& ask) {
    const Pack* pack = project.pack();
    if (!pack || ask.fullScale <= 0)
        return std::nullopt;
    const PackModel model(*pack, typicalConditions(project).ambient);
    const double full =
        pack->cell.full ? pack->series * pack->cell.full->value() : model.restVolts(1);
    const double empty = pack->series * (pack->cell.empty ? pack->cell.empty->value()
                                                          : voltsOf(pack->cell.chemistry).empty);
    SenseDivider w;
    const double share = std::min(1.0, kHeadOfScale * ask.fullScale / full);
    double reads = share;
    if (share < 1) {
        w.lower = seriesAtOrOver("E24", kTotal * share / 1.1);
        w.upper = seriesAtOrOver("E24", w.lower * (1 - share) / share);
        reads = w.lower / (w.lower + w.upper);
        w.amps = full / (w.lower + w.upper);
        const double half = model.restVolts(0.5);
        w.wattHoursADay = half * half / (w.lower + w.upper) * 24;
    }
    const double top = std::exp2(ask.bits) - 1;
    const auto counts = [&](double volts) {
        return static_cast<int>(std::lround(std::min(1.0, volts * reads / ask.fullScale) * top));
    };
    w.countsFull = counts(full);
    w.countsEmpty = counts(empty);
    w.slowVolts = model.restVolts(ask.charge);
    w.slowCounts = counts(w.slowVolts);
    // The repeating mode whose slower pace saves most.
    const double now = useADay(project);
    for (const Mode& mode : project.modes) {
        if (!mode.repeats())
            continue;
        Project slow = project;
        slow.variants.clear();
        Mode& other = slow.modes[modeIndex(slow, mode.id)];
        other.every = Seconds{mode.every->value() * ask.slower};
        const double saves = now - useADay(slow);
        if (saves > w.savesWhDay) {
            w.savesWhDay = saves;
            w.mode = mode.id;
            w.every = other.every->value();
            w.slow = std::move(slow);
        }
    }
    return w;
}

} // namespace sipper
