// Rules about single faults of adjustable and switching parts.
#include "advice/rules.hpp"
#include "parts/figures.hpp"

#include "advice/words.hpp"
#include "parts/kinds.hpp"

#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kFarOver = 1.25; ///< times never-above from which it is worth weighing
constexpr double kShort = 1e-6;   ///< ohm of a part that has failed short

/// Volts at every load with the pack full, nothing drawn, and one stage's part replaced.
Flows withPartReplaced(const Project& p, const std::string& id, const Part& part) {
    Project changed = p;
    changed.stage(id)->part = part;
    return unloadedAtFull(changed);
}

} // namespace

void faultKills(const Solved& s, std::vector<Finding>& out) {
    if (!s.project.pack())
        return;
    const Flows healthy = unloadedAtFull(s.project);
    for (const Stage& stage : s.project.stages) {
        if (!isRegulator(stage.part))
            continue;
        const Flows failed = withPartReplaced(s.project, stage.id, Filter{Ohms{kShort}});
        std::string killed;
        double seen = 0;
        double limit = 0;
        for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
            const Load& load = s.project.loads[i];
            const auto never = load.window.neverAbove;
            // Worth protecting: what the project can't do without.
            if (!never || !load.isCritical() || failed.loads[i].v <= never->value() ||
                healthy.loads[i].v > never->value())
                continue;
            killed += (killed.empty() ? "" : " and ") + nameOf(load);
            seen = std::max(seen, failed.loads[i].v);
            limit = never->value();
        }
        if (killed.empty())
            continue;
        out.push_back(finding(
            "fault_kills", seen > kFarOver * limit ? Severity::care : Severity::note, stage.id,
            "One fault kills " + killed,
            fmt::format("If {} fails short, up to {} reach {}, which survives {}. A crowbar with "
                        "the fuse, or an isolated part, where that is worth it.",
                        nameOf(stage), volts(seen), killed, volts(limit)),
            {{"v", seen}, {"never_above_v", limit}}));
    }
}

void setBeforeConnect(const Solved& s, std::vector<Finding>& out) {
    if (!s.project.pack())
        return;
    for (const Stage& stage : s.project.stages) {
        const double stop = endStopOf(stage.part);
        if (stop <= 0 || !isRegulator(stage.part))
            continue;
        Part misSet = stage.part;
        static_cast<void>(setPointTo(misSet, Volts{stop}));
        const Flows flows = withPartReplaced(s.project, stage.id, misSet);
        for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
            const Load& load = s.project.loads[i];
            const auto never = load.window.neverAbove;
            if (!never || flows.loads[i].v <= never->value())
                continue;
            out.push_back(finding(
                "set_before_connect", Severity::note, stage.id,
                "Set " + nameOf(stage) + " before anything hangs on it",
                fmt::format("Its trimmer goes up to {}; {} survives {}. Set it to {} with nothing "
                            "connected, measure, then connect.",
                            volts(stop), nameOf(load), volts(never->value()),
                            volts(plain(setPointOf(stage.part)))),
                {{"set_max_v", stop}, {"never_above_v", never->value()}}));
            break;
        }
    }
}

} // namespace sipper::rules
