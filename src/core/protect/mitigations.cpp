// SPDX-License-Identifier: GPL-3.0-or-later
// What keeps a fault from a load, tried.
#include "protect/faults.hpp"

#include "base/tolerance.hpp"
#include "line/sources.hpp"
#include "line/unloaded.hpp"
#include "line/wiring.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "parts/typical.hpp"
#include "project/build.hpp"
#include "project/library.hpp"
#include "project/tree.hpp"
#include "protect/currents.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

/// With a fuse at the source of a stage where none stands on the way.
Project withFuseBefore(const Project& project, const std::string& id) {
    const auto way = pathToSource(project, id);
    if (way.empty() || std::any_of(way.begin(), way.end(), [](const Stage* s) {
            return std::holds_alternative<Fuse>(s->part);
        }))
        return project;
    const Stage* source = way.back();
    Stage fuse = freshStage(project, Kind::fuse, source->id);
    auto& part = std::get<Fuse>(fuse.part);
    // By what is drawn and what leads and cells carry, as every fuse is chosen.
    std::optional<OperatingSweep> seen;
    if (project.pack())
        seen = sweepOperation(project, typicalConditions(project));
    const std::vector<ExternalLoad> externalLoads = externalLoadsOf(project);
    const CurrentDemand need = currentDemandOf(project, stageIndex(project, source->id),
                                               {seen ? &*seen : nullptr, externalLoads, {}});
    const auto chosen =
        chooseFuse(leastFuse(need.continuous, need.burst, FuseSpeed::slow),
                   maxFuseRating(project, source->id, std::get_if<Pack>(&source->part)));
    if (!chosen)
        return project; // thicker leads first
    const double rating = *chosen;
    part.speed = FuseSpeed::slow;
    part.rating = Amps{rating};
    part.resistance = Ohms{kTypicalFuseOhmAmps / rating};
    return withStageBetween(project, fuse, source->id);
}

} // namespace

std::vector<FaultMitigation> faultMitigations(const Project& project, const Fault& fault,
                                              std::size_t load) {
    std::vector<FaultMitigation> cures;
    if (load >= project.loads.size() || !fault.harmed[load])
        return cures;
    const Load& l = project.loads[load];
    const auto offer = [&](std::string label, std::string name, Project with) {
        FaultMitigation cure{std::move(label), std::move(name), std::move(with), {}, false};
        cure.after = faultOf(cure.project, fault.stage, fault.kind);
        cure.clears = !cure.after.harmed[load] && cure.after.clearing != Clearing::crowbarBurns &&
                      cure.after.clearing != Clearing::clampBurns;
        cures.push_back(std::move(cure));
    };
    if (fault.volts[load] < 0) {
        Stage fet = freshStage(project, Kind::idealDiode, fault.stage);
        fet.label = "Reversal guard";
        fet.part = IdealDiode{kTypicalFet};
        Stage diode = freshStage(project, Kind::diode, fault.stage);
        std::get<Diode>(diode.part).drop = kTypicalSchottky;
        diode.label = "Series diode";
        offer("P-channel reversal guard", "add a reversal guard",
              withStageBetween(project, fet, fault.stage));
        offer("Series diode", "add a series diode", withStageBetween(project, diode, fault.stage));
        return cures;
    }
    Stage crowbar = freshStage(project, Kind::crowbar, l.id); // set for this load
    const double volts = std::get<Crowbar>(crowbar.part).trips.value();
    const std::string text = writeExact(volts, Unit::volt);
    const Project fused = withFuseBefore(project, l.id);
    offer(fused == project ? "Crowbar at " + text : "Crowbar at " + text + ", and a fuse",
          "add a crowbar for " + nameOf(l), withStageBefore(fused, crowbar, l.id));
    Stage clamp = freshStage(project, Kind::clamp, l.id);
    offer(fused == project ? "Clamp at " + text : "Clamp at " + text + ", and a fuse",
          "add a clamp for " + nameOf(l), withStageBefore(fused, clamp, l.id));
    return cures;
}

} // namespace sipper
