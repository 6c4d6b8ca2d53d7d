// SPDX-License-Identifier: GPL-3.0-or-later
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

constexpr double kOverFull = 0.01;     ///< share over full volts that hurts no cell
constexpr double kThrough = 1e-6;      ///< ohm of a part that has failed short
constexpr double kFired = 1.0;         ///< V over a crowbar that has fired
constexpr double kClampReversed = 0.8; ///< V over a clamp the wrong way round
constexpr double kFuseOpens = 2.0;     ///< times its rating at which a fuse opens soon

/// The line with a fault in it: whose part is changed, and what has failed with it.
class FaultScenario {
  public:
    FaultScenario(const Project& project, FaultKind kind, std::size_t stage)
        : m_project(project), m_kind(kind), m_stage(stage) {}

    Fault solve() {
        Fault out;
        out.kind = m_kind;
        if (m_stage < m_project.stages.size())
            out.stage = m_project.stages[m_stage].id;
        out.volts.assign(m_project.loads.size(), 0);
        propagate(out);
        judgePack(out);
        out.harmed.assign(m_project.loads.size(), false);
        for (std::size_t i = 0; i < m_project.loads.size(); ++i)
            out.harmed[i] = out.volts[i] < -kReverseLimit ||
                            overSet(out.volts[i], orZero(m_project.loads[i].window.neverAbove));
        if (out.clearing == Clearing::notNeeded && out.harms())
            out.clearing = Clearing::nothing;
        return out;
    }

  private:
    /// A charger that has lost its hold is judged on its pack first (docs/model.md: Protection).
    void judgePack(Fault& out) const {
        const bool wild = m_kind == FaultKind::failsShort || m_kind == FaultKind::misSet;
        if (!wild || m_stage >= m_project.stages.size() ||
            !isCharger(m_project.stages[m_stage].part))
            return;
        const Stage& stage = m_project.stages[m_stage];
        const std::size_t at = stageIndex(m_project, std::get<Charger>(stage.part).charges);
        const auto* pack =
            at == kNotFound ? nullptr : std::get_if<Pack>(&m_project.stages[at].part);
        if (!pack)
            return;
        Fault::OnPack on;
        on.id = m_project.stages[at].id;
        on.full = fullVolts(*pack);
        on.volts = std::max(on.full, pushedVolts(m_project, at));
        on.perCell = on.volts / pack->series;
        on.over = on.volts > on.full * (1 + kOverFull);
        const SourceModel cells = sourceModel(m_project.stages[at].part);
        double most = std::numeric_limits<double>::infinity();
        for (const std::string& id : sourcesOf(m_project, stage))
            if (const double limit = sourceModel(m_project.stage(id)->part).limit; limit > 0)
                most = std::min(most, limit);
        if (cells.ohms > 0)
            most = std::min(most, (on.volts - on.full) / cells.ohms);
        on.amps = std::isfinite(most) ? most : 0;
        out.onPack = on;
    }
    void propagate(Fault& out) {
        Project line = m_project;
        const bool part = m_stage < line.stages.size();
        if (part && m_kind == FaultKind::failsShort && !isSource(line.stages[m_stage].part) &&
            !isCharger(line.stages[m_stage].part))
            line.stages[m_stage].part = Filter{Ohms{kThrough}};
        if (part && m_kind == FaultKind::misSet && isRegulator(line.stages[m_stage].part))
            static_cast<void>(
                setPointTo(line.stages[m_stage].part, Volts{endStopOf(line.stages[m_stage].part)}));
        // What is over its never-above fails short too, until nothing more does.
        for (std::size_t round = 0; round <= line.stages.size(); ++round) {
            const auto flows = flowsOf(line);
            const std::size_t fails = nextToFail(line, flows);
            if (fails == kNotFound)
                break;
            out.alsoFailed.push_back(line.stages[fails].id);
            if (isCharger(line.stages[fails].part))
                m_shortChargers.push_back(fails);
            else
                line.stages[fails].part = Filter{Ohms{kThrough}};
        }
        const auto flows = flowsOf(line);
        for (std::size_t i = 0; i < line.loads.size(); ++i)
            out.volts[i] = flows.loads[i].v;
        if (m_kind == FaultKind::reversed)
            reverse(line, flows, out);
        else
            shunts(line, flows, out);
    }

    /// Idle volts everywhere: from the pack, then what only other sources feed; the fault's own
    /// source first where the pack does not reach it.
    Flows flowsOf(const Project& line) const {
        Flows all;
        all.stages.resize(line.stages.size());
        all.loads.resize(line.loads.size());
        std::vector<std::size_t> sources;
        if (line.pack())
            sources.push_back(packIndex(line));
        for (const std::size_t i : externalSources(line))
            if (i != m_stage || m_kind != FaultKind::failsOpen) // as good as not there
                sources.push_back(i);
        // The one that the fault's part hangs on counts most.
        if (m_kind != FaultKind::failsOpen && m_stage < line.stages.size() && line.pack() &&
            !packReaches(line, m_stage)) {
            const auto own = isSource(line.stages[m_stage].part)
                                 ? std::vector<std::string>{line.stages[m_stage].id}
                                 : sourcesOf(line, line.stages[m_stage]);
            if (!own.empty() && !isCharger(line.stages[m_stage].part) && !onlyCharges(line))
                std::stable_partition(sources.begin(), sources.end(), [&](std::size_t i) {
                    return line.stages[i].id == own.front();
                });
        }
        std::vector<bool> filled(line.stages.size(), false);
        std::vector<bool> loadFilled(line.loads.size(), false);
        const bool allAtOnce = m_kind == FaultKind::twoSources;
        for (const std::size_t source : sources) {
            std::vector<std::size_t> present{source};
            if (line.pack() && source != packIndex(line))
                present.push_back(packIndex(line));
            Network network(line, line.brief.air().usual(), {}, {source, present});
            if (m_kind == FaultKind::failsOpen && m_stage < line.stages.size() &&
                !isSource(line.stages[m_stage].part))
                network.setOpen(m_stage, true);
            Flows flows;
            if (!network.solve(network.idle(), sourceVolts(line, source), 0, flows))
                continue;
            for (std::size_t i = 0; i < line.stages.size(); ++i)
                if (network.reachesStage(i) &&
                    (!filled[i] || (allAtOnce && flows.stages[i].vIn > all.stages[i].vIn))) {
                    all.stages[i] = flows.stages[i];
                    filled[i] = true;
                }
            for (std::size_t i = 0; i < line.loads.size(); ++i)
                if (network.reachesLoad(i) &&
                    (!loadFilled[i] || (allAtOnce && flows.loads[i].v > all.loads[i].v))) {
                    all.loads[i] = flows.loads[i];
                    loadFilled[i] = true;
                }
        }
        return all;
    }
    static bool packReaches(const Project& line, std::size_t stage) {
        return stage == packIndex(line) ||
               Network(line, line.brief.air().usual()).reachesStage(stage);
    }
    /// Does the fault's part feed nothing but chargers?
    [[nodiscard]] bool onlyCharges(const Project& line) const {
        const std::set<std::string> gone = downstreamIds(line, line.stages[m_stage].id);
        return std::none_of(line.loads.begin(), line.loads.end(),
                            [&](const Load& l) { return gone.contains(l.fedBy); });
    }
    [[nodiscard]] double sourceVolts(const Project& line, std::size_t source) const {
        const bool faulty = source == m_stage;
        if (faulty && (m_kind == FaultKind::failsOpen || m_kind == FaultKind::failsShort))
            return 0;
        const auto* pack = std::get_if<Pack>(&line.stages[source].part);
        if (!pack)
            return sourceModel(line.stages[source].part).high;
        double volts = fullVolts(*pack);
        if (faulty && m_kind == FaultKind::cellShort)
            volts *= (pack->series - 1) / static_cast<double>(pack->series);
        if (faulty && m_kind == FaultKind::cellReversed)
            volts *= std::abs(pack->series - 2) / static_cast<double>(pack->series);
        return std::max(volts, pushedVolts(line, source));
    }
    /// V that chargers which have failed push onto the pack's node.
    [[nodiscard]] double pushedVolts(const Project& line, std::size_t pack) const {
        double volts = 0;
        for (std::size_t i = 0; i < line.stages.size(); ++i) {
            const auto* charger = std::get_if<Charger>(&line.stages[i].part);
            if (!charger || charger->charges != line.stages[pack].id)
                continue;
            const bool own = i == m_stage;
            const bool through = (own && m_kind == FaultKind::failsShort) ||
                                 std::find(m_shortChargers.begin(), m_shortChargers.end(), i) !=
                                     m_shortChargers.end();
            const bool misSet = own && m_kind == FaultKind::misSet;
            if (!through && !misSet)
                continue;
            const double input = chargerInput(line, i);
            const bool up =
                charger->topology == Topology::boost || charger->topology == Topology::buckBoost;
            const double stop = endStopOf(line.stages[i].part);
            volts = std::max(volts, through ? input : up ? stop : std::min(stop, input));
        }
        return volts;
    }
    /// V at a charger's input with nothing drawn: the highest of its feeds.
    static double chargerInput(const Project& line, std::size_t charger) {
        double volts = 0;
        for (const std::string& id : line.stages[charger].fedBy) {
            const std::size_t feed = stageIndex(line, id);
            if (feed == kNotFound || isPack(line.stages[feed].part))
                continue;
            if (isSource(line.stages[feed].part)) {
                volts = std::max(volts, sourceModel(line.stages[feed].part).high);
                continue;
            }
            for (const std::string& root : sourcesOf(line, line.stages[feed]))
                if (const std::size_t at = stageIndex(line, root);
                    at != kNotFound && !isPack(line.stages[at].part))
                    volts = std::max(volts, unloadedFrom(line, at).stages[feed].vOut);
        }
        return volts;
    }
    [[nodiscard]] std::size_t nextToFail(const Project& line, const Flows& flows) const {
        for (std::size_t i = 0; i < line.stages.size(); ++i) {
            const Part& part = line.stages[i].part;
            if (!active(part))
                continue;
            const bool known = std::find(m_shortChargers.begin(), m_shortChargers.end(), i) !=
                               m_shortChargers.end();
            const double sees = isCharger(part) ? chargerInput(line, i) : flows.stages[i].vIn;
            if (!known && overSet(sees, neverAboveOf(part)))
                return i;
        }
        return kNotFound;
    }

    /// Everything behind the part sees minus its volts; diodes and reversal guards block, clamps
    /// hold, regulators don't survive it and pass it on.
    void reverse(const Project& line, const Flows& flows, Fault& out) const {
        const Part& part = line.stages[m_stage].part;
        if (isCharger(part))
            return; // the pack holds its node
        const double volts =
            isSource(part) ? sourceVolts(line, m_stage) : flows.stages[m_stage].vIn;
        const Network network = reaching(line);
        std::vector<double> stageOut(line.stages.size(), 0);
        std::vector<bool> turned(line.stages.size(), false);
        stageOut[m_stage] = std::holds_alternative<Diode>(part) ||
                                    std::holds_alternative<IdealDiode>(part) ||
                                    std::holds_alternative<Capacitor>(part)
                                ? 0
                                : -volts;
        turned[m_stage] = true;
        std::string blocker;
        std::string holder;
        for (const std::size_t i : network.order()) {
            const std::size_t before = network.feederOf(i);
            if (!turned[before] || i == m_stage)
                continue;
            turned[i] = true;
            stageOut[i] = stageOut[before];
            const Part& here = line.stages[i].part;
            const auto* select = std::get_if<Select>(&here);
            if (std::holds_alternative<Diode>(here) || std::holds_alternative<IdealDiode>(here) ||
                (select && select->blocksBack.value_or(true))) {
                if (stageOut[i] < 0)
                    blocker = line.stages[i].id;
                stageOut[i] = 0;
            }
            if (std::holds_alternative<Clamp>(here) && stageOut[i] < -kClampReversed) {
                holder = line.stages[i].id;
                stageOut[i] = -kClampReversed;
            }
        }
        bool touched = false;
        for (std::size_t i = 0; i < line.loads.size(); ++i) {
            const std::size_t before = stageIndex(line, line.loads[i].fedBy);
            if (before == kNotFound || !turned[before])
                continue;
            out.volts[i] = stageOut[before];
            touched = touched || stageOut[before] < 0;
        }
        if (!blocker.empty() && !touched) {
            out.clearing = Clearing::blocked;
            out.by = blocker;
        } else if (!holder.empty()) {
            out.by = fuseBefore(line, stageIndex(line, holder));
            out.clearing = out.by.empty() ? Clearing::clampBurns : Clearing::clampFuse;
        }
    }
    /// The network in which the part is: of the pack, or of its own source.
    [[nodiscard]] Network reaching(const Project& line) const {
        if (line.pack() && packReaches(line, m_stage))
            return Network(line, line.brief.air().usual());
        const auto own = isSource(line.stages[m_stage].part)
                             ? std::vector<std::string>{line.stages[m_stage].id}
                             : sourcesOf(line, line.stages[m_stage]);
        const std::size_t source = own.empty() ? kNotFound : stageIndex(line, own.front());
        return Network(line, line.brief.air().usual(), {}, {source, {source}});
    }

    /// Crowbars that fire and clamps that hold.
    void shunts(const Project& line, const Flows& flows, Fault& out) const {
        for (std::size_t i = 0; i < line.stages.size(); ++i) {
            const auto* crowbar = std::get_if<Crowbar>(&line.stages[i].part);
            if (crowbar && exceeds(flows.stages[i].vIn, crowbar->trips.value()))
                fire(line, i, flows.stages[i].vIn, out);
        }
        for (std::size_t i = 0; i < line.stages.size(); ++i) {
            const auto* clamp = std::get_if<Clamp>(&line.stages[i].part);
            if (clamp && exceeds(flows.stages[i].vIn, clamp->holds.value()))
                hold(line, i, *clamp, flows.stages[i].vIn, out);
        }
    }
    void fire(const Project& line, std::size_t crowbar, double volts, Fault& out) const {
        const std::string fuse = fuseBefore(line, crowbar);
        const Stage* limiter = fuse.empty() ? limiterBefore(line, crowbar) : nullptr;
        out.clearing = !fuse.empty() ? Clearing::crowbarFuse
                       : limiter     ? Clearing::crowbarLimit
                                     : Clearing::crowbarBurns;
        out.by = !fuse.empty() ? fuse : limiter ? limiter->id : line.stages[crowbar].id;
        out.amps = volts / std::max(kThrough, ohmsBefore(line, crowbar));
        const std::string from = !fuse.empty() ? fuse
                                 : limiter     ? limiter->id
                                               : sourceBefore(line, crowbar);
        const std::set<std::string> down = downstreamIds(line, from);
        for (std::size_t i = 0; i < line.loads.size(); ++i)
            if (down.contains(line.loads[i].fedBy))
                out.volts[i] = std::min(out.volts[i], !fuse.empty() ? 0.0 : kFired);
    }
    void hold(const Project& line, std::size_t at, const Clamp& clamp, double volts,
              Fault& out) const {
        const double holds = clamp.holds.value();
        out.amps = (volts - holds) / std::max(kThrough, ohmsBefore(line, at));
        const std::string fuse = fuseBefore(line, at);
        const bool opens =
            !fuse.empty() &&
            out.amps >= kFuseOpens * std::get<Fuse>(line.stage(fuse)->part).rating.value();
        const bool lasts = holds * out.amps <= orZero(clamp.maxPower);
        out.clearing = opens   ? Clearing::clampFuse
                       : lasts ? Clearing::clampHolds
                               : Clearing::clampBurns;
        out.by = opens ? fuse : line.stages[at].id;
        if (out.clearing == Clearing::clampBurns)
            return; // a burnt clamp may as well be open
        const std::set<std::string> down = downstreamIds(line, opens ? fuse : line.stages[at].id);
        for (std::size_t i = 0; i < line.loads.size(); ++i)
            if (down.contains(line.loads[i].fedBy))
                out.volts[i] = opens ? 0 : std::min(out.volts[i], holds);
    }
    /// The nearest fuse on the path to the source, through what has failed short but no living
    /// converter.
    [[nodiscard]] std::string fuseBefore(const Project& line, std::size_t at) const {
        for (const Stage* s : pathToSource(line, line.stages[at].id)) {
            if (std::holds_alternative<Fuse>(s->part) &&
                !(m_kind == FaultKind::failsShort && s->id == line.stages[m_stage].id))
                return s->id;
            if (active(s->part))
                break;
        }
        return {};
    }
    static const Stage* limiterBefore(const Project& line, std::size_t at) {
        for (const Stage* s : pathToSource(line, line.stages[at].id)) {
            if (active(s->part) || (isExternalSource(s->part) && sourceModel(s->part).limit > 0))
                return s;
        }
        return nullptr;
    }
    static std::string sourceBefore(const Project& line, std::size_t at) {
        const auto way = pathToSource(line, line.stages[at].id);
        return way.empty() ? line.stages[at].id : way.back()->id;
    }
    static double ohmsBefore(const Project& line, std::size_t at) {
        double ohms = 0;
        for (const Stage* s : pathToSource(line, line.stages[at].id)) {
            ohms += ohmsInTheWay(s->part, line.brief.air().usual());
            if (active(s->part))
                break;
        }
        return ohms;
    }

    const Project& m_project;
    FaultKind m_kind;
    std::size_t m_stage;
    std::vector<std::size_t> m_shortChargers;
};

} // namespace

std::string_view faultName(FaultKind kind) {
    static constexpr std::array<std::string_view, 7> names{
        "short", "open", "mis_set", "reversed", "cell_short", "cell_reversed", "two_sources"};
    return names[static_cast<std::size_t>(kind)];
}

std::vector<FaultKind> faultKindsOf(const Project& project, const Stage& stage) {
    std::vector<FaultKind> kinds;
    const Part& part = stage.part;
    if (!isSource(part))
        kinds.push_back(FaultKind::failsShort);
    kinds.push_back(FaultKind::failsOpen);
    if (endStopOf(part) > 0 && active(part))
        kinds.push_back(FaultKind::misSet);
    // Fuses, switches, filters, dividers and 5 V sockets have no wrong way round.
    const Kind kind = kindOf(part);
    const bool round = kind == Kind::fuse || kind == Kind::switchgear || kind == Kind::filter ||
                       kind == Kind::watch || kind == Kind::usb || kind == Kind::select ||
                       kind == Kind::crowbar || kind == Kind::clamp;
    if (!round && !(isPack(part) && packIndex(project) != stageIndex(project, stage.id)))
        kinds.push_back(FaultKind::reversed);
    return kinds;
}

Fault faultOf(const Project& project, const std::string& stage, FaultKind kind) {
    return FaultScenario(project, kind, stageIndex(project, stage)).solve();
}

FaultMatrix faultsOf(const Project& project) {
    FaultMatrix grid;
    grid.healthy = FaultScenario(project, FaultKind::failsShort, kNotFound).solve().volts;
    for (const Stage& stage : project.stages)
        for (const FaultKind kind : faultKindsOf(project, stage))
            grid.parts.push_back(faultOf(project, stage.id, kind));
    if (const Stage* stage = project.packStage()) {
        const Pack& pack = *project.pack();
        if (pack.series >= 2) {
            grid.systemFaults.push_back(faultOf(project, stage->id, FaultKind::cellShort));
            grid.systemFaults.push_back(faultOf(project, stage->id, FaultKind::cellReversed));
        }
    }
    std::size_t sources = project.pack() ? 1 : 0;
    sources += externalSources(project).size();
    if (sources >= 2) {
        Fault both = FaultScenario(project, FaultKind::twoSources, kNotFound).solve();
        both.stage = project.stages[externalSources(project).front()].id;
        grid.systemFaults.push_back(both);
    }
    return grid;
}

} // namespace sipper
