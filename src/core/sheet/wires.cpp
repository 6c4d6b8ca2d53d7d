// SPDX-License-Identifier: GPL-3.0-or-later
// The wiring table: every connection with its lead, or a proposal for one.
#include "sheet/sheet.hpp"

#include "line/chargeleg.hpp"
#include "line/physics.hpp"
#include "line/unloaded.hpp"
#include "line/wiring.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "protect/currents.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <functional>

namespace sipper {
namespace {

constexpr double kShortLead = 0.2;    ///< m, for a proposal
constexpr double kDropShareOf = 0.03; ///< of the volts there

class Wiring {
  public:
    Wiring(const Project& project, const QuickAnalysis& quick, const LeadColours& colours)
        : m_project(project), m_quick(quick), m_colours(colours) {}

    std::vector<SheetWire> all() {
        // From every source outwards, then what charges a pack.
        for (const Stage& source : m_project.stages)
            if (isSource(source.part))
                from(source);
        for (const Stage& stage : m_project.stages)
            if (const auto* charger = std::get_if<Charger>(&stage.part))
                if (const Stage* pack = m_project.stage(charger->charges))
                    charging(stage, *pack);
        for (std::size_t i = 0; i < m_list.size(); ++i) {
            SheetWire& w = m_list[i];
            w.label = fmt::format("W{}", i + 1);
            if (const std::string fault = wireFault(w); !fault.empty())
                w.remark = "stop: " + fault + (w.remark.empty() ? "" : "; " + w.remark);
        }
        return std::move(m_list);
    }

  private:
    void from(const Stage& stage) {
        if (!m_done.insert(stage.id).second)
            return;
        for (const std::string& id : m_project.fedFrom(stage.id)) {
            const Stage* next = m_project.stage(id);
            if (next && std::holds_alternative<Wire>(next->part))
                lead(stage, *next);
            else if (!std::holds_alternative<Wire>(stage.part)) // what hangs on a lead is its line
                bare(stage, id);
            if (next && !isCharger(next->part)) // its own leg comes below
                from(*next);
        }
    }
    /// The ends of a lead: what it feeds, by name.
    [[nodiscard]] std::string endsOf(const Stage& wire) const {
        std::vector<std::string> names;
        for (const std::string& id : m_project.fedFrom(wire.id))
            names.push_back(nameAt(m_project, id));
        return names.empty() ? "an open end" : listText(names);
    }
    void lead(const Stage& start, const Stage& stage) {
        const auto& wire = std::get<Wire>(stage.part);
        SheetWire w;
        w.id = stage.id;
        w.from = nameOf(start);
        w.to = endsOf(stage);
        w.size = leadSizeText(wire);
        w.metres = wire.length.value();
        w.amps = into(stage.id);
        w.areaMm2 = areaOf(wire);
        w.dropVolts = w.amps * wireOhms(wire, m_project.brief.air().usual());
        const auto fed = m_project.fedFrom(stage.id);
        finish(w, start, fed.size() == 1 ? fed.front() : std::string(), stage.connector);
        m_list.push_back(std::move(w));
    }
    void bare(const Stage& start, const std::string& to) {
        SheetWire w;
        w.id = to;
        w.from = nameOf(start);
        w.to = nameAt(m_project, to);
        w.amps = into(to);
        propose(w, voltsAfter(start), fuseAt(start));
        finish(w, start, to, std::nullopt);
        m_list.push_back(std::move(w));
    }
    /// From a charger to its pack, connection by connection: leads that are stated, and proposals
    /// for the others; with the fuse that stands towards the cells, or a proposal for one.
    void charging(const Stage& charger, const Stage& pack) {
        std::vector<const Stage*> way{&charger};
        for (const Stage* stage : chargeLeg(m_project, charger.id))
            way.push_back(stage);
        way.push_back(&pack);
        for (std::size_t i = 0; i + 1 < way.size(); ++i) {
            const Stage& from = *way[i];
            const Stage& to = *way[i + 1];
            if (std::holds_alternative<Wire>(from.part)) // what hangs on a lead is its line
                continue;
            const bool stated = std::holds_alternative<Wire>(to.part);
            SheetWire w = ofLeg(charger, pack, from, stated ? *way[i + 2] : to);
            w.id = &to != &pack ? to.id : &from == &charger ? charger.id : pack.id;
            const Stage* fuse = std::holds_alternative<Fuse>(from.part)
                                    ? nullptr
                                    : legFuse(m_project, stated ? to.id : from.id);
            const double rating = fuse ? std::get<Fuse>(fuse->part).rating.value() : 0;
            if (stated)
                statedLeg(w, std::get<Wire>(to.part), pack, rating);
            else if (legFuse(m_project, charger.id))
                fusedLeg(w, pack, rating);
            else
                proposeLeg(w, std::get<Pack>(pack.part));
            if (!std::isfinite(w.shortAmps))
                w.shortAmps = 0; // cells without a resistance: not told
            m_list.push_back(std::move(w));
        }
    }
    void statedLeg(SheetWire& w, const Wire& wire, const Stage& pack, double fuse) const {
        w.size = leadSizeText(wire);
        w.metres = wire.length.value();
        w.areaMm2 = areaOf(wire);
        w.dropVolts = w.amps * wireOhms(wire, m_project.brief.air().usual());
        w.fuseAmps = fuse;
        if (fuse <= 0 && w.shortAmps > ampacity(wire))
            w.remark = unprotected(pack, w.shortAmps, ampacity(wire));
    }
    /// A lead for a leg with a fuse: what the fuse lets through, or from it to the cells.
    void fusedLeg(SheetWire& w, const Stage& pack, double fuse) const {
        const Stage* there = legFuse(m_project, w.id);
        propose(w, fullVolts(std::get<Pack>(pack.part)),
                there ? std::get<Fuse>(there->part).rating.value() : fuse);
        w.fuseAmps = fuse;
        if (fuse <= 0)
            w.remark = "before the fuse: as short as can be, for nothing protects it";
    }
    [[nodiscard]] SheetWire ofLeg(const Stage& charger, const Stage& pack, const Stage& from,
                                  const Stage& to) const {
        SheetWire w;
        w.from = nameOf(from);
        w.to = nameOf(to);
        w.amps = legAmps(m_project, charger, m_quick.charges);
        w.shortAmps = shortCircuitAmps(pack.part);
        w.colours = m_colours.charge + "/" + m_colours.minus;
        return w;
    }
    [[nodiscard]] static std::string unprotected(const Stage& source, double pushes,
                                                 double carries) {
        return fmt::format("no fuse protects it: {} pushes {} into a short, and it carries {}",
                           nameOf(source), writeQuantity(pushes, Unit::ampere),
                           writeQuantity(carries, Unit::ampere));
    }
    /// The leg faces the pack: a lead, and at the pack's end a fuse that it can bear and that a
    /// short opens; none where the cells can't push more than the lead carries.
    void proposeLeg(SheetWire& w, const Pack& pack) const {
        const double volts = fullVolts(pack);
        propose(w, volts, 0, [&](double area) {
            const double most = ampacity(area, false);
            if (w.shortAmps <= most)
                return true;
            return chooseFuse(leastFuse(w.amps, 0, FuseSpeed::slow), std::min(most, w.shortAmps))
                .has_value();
        });
        if (w.areaMm2 <= 0 || w.shortAmps <= ampacity(w.areaMm2, false))
            return;
        w.fuseAmps = *chooseFuse(leastFuse(w.amps, 0, FuseSpeed::slow),
                                 std::min(ampacity(w.areaMm2, false), w.shortAmps));
        w.fuseProposed = true;
        w.remark = fmt::format("with a fuse of {} at the cells' end: into a short they push {}",
                               writeQuantity(w.fuseAmps, Unit::ampere),
                               std::isfinite(w.shortAmps) ? writeQuantity(w.shortAmps, Unit::ampere)
                                                          : "whatever the lead lets through");
    }
    void propose(SheetWire& w, double volts, double carries = 0,
                 const std::function<bool(double)>& bears = {}) const {
        w.proposed = true;
        carries = std::max(carries, w.amps);
        Wire wire;
        wire.length = Metres{kShortLead};
        const auto ohms = [&](double area) {
            wire.area = SquareMillimetres{area};
            return wireOhms(wire, m_project.brief.air().usual());
        };
        const auto area = thickerLead(0, [&](double a) {
            return ampacity(a, false) >= carries && ohms(a) * w.amps <= kDropShareOf * volts &&
                   (!bears || bears(a));
        });
        if (!area) {
            w.size = "several in parallel";
            return;
        }
        w.size = writeExact(*area, Unit::squareMillimetre);
        w.areaMm2 = *area;
        w.dropVolts = ohms(*area) * w.amps;
    }
    /// Plug, colours, and what is to be kept in mind.
    void finish(SheetWire& w, const Stage& start, const std::string& end,
                const std::optional<Connector>& own) const {
        const Stage* stage = m_project.stage(end);
        const Load* load = m_project.load(end);
        const std::optional<Connector>& there = stage  ? stage->connector
                                                : load ? load->connector
                                                       : std::optional<Connector>();
        const std::optional<Connector>* says = start.connector && isSource(start.part)
                                                   ? &start.connector
                                               : own   ? &own
                                               : there ? &there
                                                       : &start.connector;
        if (*says) {
            const Polarity centre = (*says)->centre.value_or(Polarity::unknown);
            w.plug = (*says)->kind.empty() ? "plug" : (*says)->kind;
            w.askPlug = centre == Polarity::unknown;
            w.plug += centre == Polarity::positive   ? ", centre +"
                      : centre == Polarity::negative ? ", centre −"
                                                     : ", polarity not stated";
        } else if (std::holds_alternative<Adapter>(start.part) ||
                   std::holds_alternative<Vehicle>(start.part) ||
                   std::holds_alternative<Panel>(start.part)) {
            w.askPlug = true;
            w.plug = "not stated: which plug, which pin is +?";
        }
        const bool charge = stage && isCharger(stage->part);
        w.colours = (charge                  ? m_colours.charge
                     : switchedBehind(start) ? m_colours.switched
                                             : m_colours.plus) +
                    "/" + m_colours.minus;
        w.fuseAmps = fuseBefore(start);
        if (beforeFuse(start, end)) {
            w.remark = "before the fuse: as short as can be, for nothing protects it";
            return;
        }
        const Stage* source = sourceAt(start);
        if (!source || w.fuseAmps > 0)
            return;
        w.shortAmps = shortCircuitAmps(source->part);
        if (!std::isfinite(w.shortAmps))
            w.shortAmps = 0;
        if (w.areaMm2 > 0 && w.shortAmps > ampacity(w.areaMm2, false))
            w.remark = unprotected(*source, w.shortAmps, ampacity(w.areaMm2, false));
    }
    /// The source whose volts stand here, with no converter between; null behind one.
    [[nodiscard]] const Stage* sourceAt(const Stage& start) const {
        const Stage* at = &start;
        if (converts(*at))
            return nullptr;
        for (const Stage* s : pathToSource(m_project, start.id)) {
            if (converts(*s))
                return nullptr;
            at = s;
        }
        return isSource(at->part) ? at : nullptr;
    }
    /// The smallest fuse between here and the source at the same volts; 0 where none is.
    [[nodiscard]] double fuseBefore(const Stage& start) const {
        double least = 0;
        const auto look = [&](const Stage& s) {
            if (const auto* fuse = std::get_if<Fuse>(&s.part))
                least = least > 0 ? std::min(least, fuse->rating.value()) : fuse->rating.value();
        };
        look(start);
        if (converts(start))
            return least;
        for (const Stage* s : pathToSource(m_project, start.id)) {
            if (converts(*s))
                break;
            look(*s);
        }
        return least;
    }
    /// Does a connection lie between a source and the fuse that is to protect it?
    [[nodiscard]] bool beforeFuse(const Stage& start, const std::string& end) const {
        if (converts(start) || std::holds_alternative<Fuse>(start.part))
            return false;
        for (const Stage* s : pathToSource(m_project, start.id))
            if (converts(*s) || std::holds_alternative<Fuse>(s->part))
                return false;
        const auto fuse = [&](const Stage* s) {
            return s && std::holds_alternative<Fuse>(s->part);
        };
        if (fuse(m_project.stage(end)))
            return true;
        const auto here = sameVoltage(m_project, end);
        return std::any_of(here.begin(), here.end(),
                           [&](std::size_t i) { return fuse(&m_project.stages[i]); });
    }
    /// The largest fuse at the same volts as a connection: until it opens, the lead has to carry
    /// what it lets through.
    [[nodiscard]] double fuseAt(const Stage& start) const {
        double most = 0;
        const auto look = [&](const Stage& s) {
            if (const auto* fuse = std::get_if<Fuse>(&s.part))
                most = std::max(most, fuse->rating.value());
        };
        look(start);
        const Stage* root = &start;
        for (const Stage* s : pathToSource(m_project, start.id)) {
            if (converts(*root))
                break;
            root = s;
            look(*s);
        }
        for (const std::size_t i : sameVoltage(m_project, root->id))
            look(m_project.stages[i]);
        return most;
    }
    /// Is plus taken off here by a guard or a switch, at these volts?
    [[nodiscard]] bool switchedBehind(const Stage& start) const {
        const auto off = [](const Stage& s) {
            return std::holds_alternative<Guard>(s.part) || std::holds_alternative<Switch>(s.part);
        };
        if (off(start) || converts(start))
            return off(start);
        for (const Stage* s : pathToSource(m_project, start.id))
            if (off(*s) || converts(*s))
                return off(*s);
        return false;
    }
    /// The most that flows into a stage or load, from whatever source.
    [[nodiscard]] double into(const std::string& id) const {
        double most = 0;
        const auto look = [&](const OperatingSweep& seen) {
            if (const std::size_t i = stageIndex(m_project, id); i != kNotFound)
                most = std::max(most, seen.maxIn[i].value);
            else if (const std::size_t l = loadIndex(m_project, id); l != kNotFound)
                most = std::max(most, seen.maxLoad[l].value);
        };
        if (m_quick.sweep)
            look(*m_quick.sweep);
        for (const ExternalLoad& t : m_quick.externalLoads)
            look(t.seen);
        // On the way from a panel what it gives in full sun.
        const auto back = pathToSource(m_project, id);
        if (!back.empty())
            if (const auto* panel = std::get_if<Panel>(&back.back()->part);
                panel &&
                std::none_of(back.begin(), back.end(), [](const Stage* s) { return converts(*s); }))
                most =
                    std::max(most, orZero(panel->shortCircuit) * panel->countParallel.value_or(1));
        // On the way to a charger what it takes.
        for (const ChargeAnalysis& c : m_quick.charges) {
            const auto way = pathToSource(m_project, c.usual.charger);
            const bool on =
                id == c.usual.charger ||
                std::any_of(way.begin(), way.end(), [&](const Stage* s) { return s->id == id; });
            if (on)
                for (const ChargePoint& point : c.usual.curve)
                    most = std::max(most, point.inputAmps);
        }
        return most;
    }
    [[nodiscard]] double voltsAfter(const Stage& stage) const {
        const std::size_t i = stageIndex(m_project, stage.id);
        double least = 0;
        const auto look = [&](const OperatingSweep& seen) {
            if (seen.stageOut[i].valid && seen.stageOut[i].low > 0)
                least = least > 0 ? std::min(least, seen.stageOut[i].low) : seen.stageOut[i].low;
        };
        if (m_quick.sweep)
            look(*m_quick.sweep);
        for (const ExternalLoad& t : m_quick.externalLoads)
            look(t.seen);
        return least > 0 ? least : 5;
    }

    const Project& m_project;
    const QuickAnalysis& m_quick;
    const LeadColours& m_colours;
    std::set<std::string> m_done;
    std::vector<SheetWire> m_list;
};

} // namespace

std::vector<SheetWire> wiresFor(const Project& project, const QuickAnalysis& quick,
                                const LeadColours& colours) {
    return Wiring(project, quick, colours).all();
}

} // namespace sipper
