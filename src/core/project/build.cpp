// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/build.hpp"

#include "parts/chemistry.hpp"
#include "parts/fields.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/library.hpp"
#include "project/roles.hpp"
#include "project/tree.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace sipper {
namespace {

constexpr double kReconnectOver = 1.13; ///< cut-off to reconnect of a fresh guard

void replaceFeed(Project& p, std::string_view from, std::string_view to, bool chargersToo) {
    for (Stage& s : p.stages)
        if (chargersToo || !isCharger(s.part))
            std::replace(s.fedBy.begin(), s.fedBy.end(), std::string(from), std::string(to));
    for (Load& l : p.loads)
        if (l.fedBy == from)
            l.fedBy = to;
}

void insertAfter(Project& p, Stage fresh, std::string_view after) {
    const auto at = std::find_if(p.stages.begin(), p.stages.end(),
                                 [&](const Stage& s) { return s.id == after; });
    p.stages.insert(at == p.stages.end() ? at : at + 1, std::move(fresh));
}

} // namespace

Project withStageBetween(Project p, Stage fresh, std::string_view after) {
    if (!p.stage(after))
        return p;
    const std::string on(after);
    replaceFeed(p, on, fresh.id, false);
    fresh.fedBy = {on};
    insertAfter(p, std::move(fresh), on);
    return p;
}

Project withStageBefore(Project p, Stage fresh, std::string_view before) {
    std::string on;
    if (Stage* s = p.stage(before); s && !s->fedBy.empty()) {
        on = s->fedBy.front();
        s->fedBy.front() = fresh.id;
    } else if (Load* l = p.load(before)) {
        on = l->fedBy;
        l->fedBy = fresh.id;
    } else {
        return p;
    }
    fresh.fedBy = {on};
    insertAfter(p, std::move(fresh), on);
    return p;
}

Project withBranch(Project p, Stage fresh, std::string_view on) {
    if (!p.stage(on))
        return p;
    fresh.fedBy = {std::string(on)};
    p.stages.push_back(std::move(fresh));
    return p;
}

Project withSource(Project p, Stage fresh) {
    fresh.fedBy.clear();
    p.stages.push_back(std::move(fresh));
    return p;
}

Project withSelect(Project p, std::string_view before, std::string_view first) {
    std::string* feed = nullptr;
    if (Stage* s = p.stage(before); s && !s->fedBy.empty())
        feed = &s->fedBy.front();
    else if (Load* l = p.load(before))
        feed = &l->fedBy;
    if (!feed || feed->empty() || !p.stage(first) || *feed == first)
        return p;
    Stage select = freshStage(p, Kind::select, before);
    select.fedBy = {std::string(first), *feed};
    select.feedsListed = true;
    *feed = select.id;
    p.stages.push_back(std::move(select));
    return p;
}

Project withoutStage(Project p, std::string_view which) {
    const Stage* stage = p.stage(which);
    if (!stage)
        return p;
    const std::string id(which);
    if (isCharger(stage->part)) { // with what stands between it and its pack
        std::set<std::string> gone{id};
        for (const Stage* leg : chargeLeg(p, id))
            gone.insert(leg->id);
        std::erase_if(p.stages, [&](const Stage& s) { return gone.contains(s.id); });
        return p;
    }
    if (!isSource(stage->part)) {
        const std::string on = stage->fedBy.empty() ? std::string() : stage->fedBy.front();
        replaceFeed(p, id, on, true);
        std::erase_if(p.stages, [&](const Stage& s) { return s.id == id; });
        // A list that now names one feed twice names it once.
        for (Stage& s : p.stages) {
            std::set<std::string> seen;
            std::erase_if(s.fedBy, [&](const std::string& f) { return !seen.insert(f).second; });
        }
        return p;
    }
    // A source takes with it what nothing else feeds.
    std::set<std::string> gone{id};
    for (bool more = true; more;) {
        more = false;
        for (Stage& s : p.stages) {
            if (gone.contains(s.id))
                continue;
            const bool fed = !s.fedBy.empty();
            std::erase_if(s.fedBy, [&](const std::string& f) { return gone.contains(f); });
            const auto* charger = std::get_if<Charger>(&s.part);
            if ((fed && s.fedBy.empty()) || (charger && gone.contains(charger->charges)))
                more = gone.insert(s.id).second || more;
        }
    }
    std::erase_if(p.stages, [&](const Stage& s) { return gone.contains(s.id); });
    std::erase_if(p.loads, [&](const Load& l) { return gone.contains(l.fedBy); });
    return p;
}

std::optional<std::string> whyNotMove(const Project& p, std::string_view id, int by) {
    const Stage* stage = p.stage(id);
    if (!stage || isSource(stage->part))
        return "A source stays at the beginning.";
    if (kindFacts(stage->part).severalFeeds)
        return "What has several feeds stays where they meet.";
    if (by < 0) {
        const Stage* feeder = p.stage(stage->fedBy.front());
        if (!feeder || isSource(feeder->part))
            return "It is the first behind its source.";
        if (p.fedFrom(feeder->id).size() != 1)
            return "The line branches before it.";
        if (feeder->fedBy.size() != 1)
            return "Several feeds meet before it.";
        return std::nullopt;
    }
    const auto next = p.fedFrom(id);
    if (next.size() != 1)
        return next.empty() ? "Nothing hangs behind it." : "The line branches behind it.";
    const Stage* child = p.stage(next.front());
    if (!child)
        return "A load is the end of the line.";
    if (child->fedBy.size() != 1)
        return "Several feeds meet behind it.";
    return std::nullopt;
}

Project withStageMoved(Project p, std::string_view id, int by) {
    if (whyNotMove(p, id, by))
        return p;
    // `front` stands before `back`; they trade places.
    const std::string front = by < 0 ? p.stage(id)->fedBy.front() : std::string(id);
    const std::string back = by < 0 ? std::string(id) : p.fedFrom(id).front();
    const std::string root = p.stage(front)->fedBy.front();
    replaceFeed(p, back, front + "\n", true); // what hung on the back one hangs on the front one
    p.stage(back)->fedBy = {root};
    p.stage(front)->fedBy = {back};
    replaceFeed(p, front + "\n", front, true);
    // In the file too, so that the order stays that of the line.
    const std::size_t a = stageIndex(p, front);
    const std::size_t b = stageIndex(p, back);
    if (a < b)
        std::swap(p.stages[a], p.stages[b]);
    return p;
}

Project withFeed(Project p, std::string_view id, std::string_view feed) {
    if (Stage* s = p.stage(id); s && !s->fedBy.empty())
        s->fedBy.front() = feed;
    else if (Load* l = p.load(id))
        l->fedBy = feed;
    return p;
}

Project withPart(Project p, std::string_view id, const Stage& other) {
    Stage* stage = p.stage(id);
    if (!stage)
        return p;
    const Stage stood = *stage;
    const Part before = stage->part;
    stage->part = other.part;
    stage->price = other.price;
    stage->mass = other.mass;
    stage->extras = other.extras;
    if (const auto set = setPointOf(before); set && setPointOf(stage->part))
        static_cast<void>(setPointTo(stage->part, *set));
    // A guard keeps its thresholds, a wire its way, a pack its S, P and state.
    if (const auto* old = std::get_if<Guard>(&before))
        if (auto* guard = std::get_if<Guard>(&stage->part)) {
            guard->cutoff = old->cutoff;
            if (old->reconnect)
                guard->reconnect = old->reconnect;
        }
    if (const auto* old = std::get_if<Charger>(&before))
        if (auto* charger = std::get_if<Charger>(&stage->part)) {
            charger->charges = old->charges;
            if (old->chargeVoltage)
                charger->chargeVoltage = old->chargeVoltage;
        }
    if (const auto* old = std::get_if<Wire>(&before))
        if (auto* wire = std::get_if<Wire>(&stage->part))
            wire->length = old->length;
    if (const auto* old = std::get_if<Pack>(&before))
        if (auto* pack = std::get_if<Pack>(&stage->part)) {
            pack->series = old->series;
            pack->parallel = old->parallel;
            if (old->connection)
                pack->connection = old->connection;
            if (old->charge)
                pack->charge = old->charge;
        }
    // What it is called is a matter of its place and, where that is its set-point, of its volts.
    Stage placed = *stage;
    placed.label = other.label;
    placed.make = other.make;
    placed = placedInstead(p, stood, std::move(placed));
    stage->label = placed.label;
    stage->make = placed.make;
    return p;
}

std::optional<std::string> whyNotRemove(const Project& p, std::string_view id) {
    const Stage* stage = p.stage(id);
    if (!stage)
        return "There is nothing chosen.";
    if (isSource(stage->part) && p.stages.size() > 1) {
        std::size_t sources = 0;
        for (const Stage& s : p.stages)
            sources += isSource(s.part);
        if (sources == 1)
            return "It is the only source: swap it, or take out what hangs on it first.";
    }
    return std::nullopt;
}

std::optional<std::string> whyNotAfter(const Project& p, std::string_view id) {
    if (p.load(id))
        return "A load is the end of the line.";
    const Stage* stage = p.stage(id);
    if (!stage)
        return "There is nothing chosen.";
    if (isCharger(stage->part))
        return "A charger feeds its pack only.";
    if (chargerBefore(p, id))
        return "It leads from a charger to its pack only.";
    if (std::holds_alternative<Panel>(stage->part))
        return "A panel feeds a charger only.";
    return std::nullopt;
}

std::optional<std::string> whyNotBehind(const Project& p, std::string_view feed, Kind kind) {
    const Stage* stage = p.stage(feed);
    if (!stage || !(isCharger(stage->part) || chargerBefore(p, feed)))
        return whyNotAfter(p, feed);
    if (kind == Kind::wire || kind == Kind::fuse || kind == Kind::switchgear ||
        kind == Kind::diode || kind == Kind::idealDiode)
        return std::nullopt;
    return "Between a charger and its cells stand leads, fuses, switches and diodes.";
}

std::vector<std::string> possibleFeeds(const Project& p, std::string_view id) {
    std::vector<std::string> list;
    const auto own = downstreamIds(p, id);
    for (const Stage& s : p.stages)
        if (!own.contains(s.id) && !whyNotAfter(p, s.id))
            list.push_back(s.id);
    return list;
}

namespace {

/// Between the window and what damages it, or a tenth over it where that is not stated.
Volts actsOver(const Window& w) {
    const double over =
        w.neverAbove ? (w.max.value() + w.neverAbove->value()) / 2 : w.max.value() * 1.1;
    return Volts{std::round(over * 20) / 20};
}

/// A guard opens where the brief's care says, for the cells that there are.
void suit(Guard& guard, const Project& p) {
    double cutoff = guard.cutoff.value();
    if (const Pack* pack = p.pack()) {
        const double cell =
            policyCutoff(pack->cell.chemistry, p.brief.cellCare.value_or(CellCare::balanced));
        cutoff = pack->series * (cell > 0 ? cell : voltsOf(pack->cell.chemistry).empty);
    }
    guard.cutoff = Volts{std::round(cutoff * 100) / 100};
    double reconnect = cutoff * kReconnectOver;
    if (const Pack* pack = p.pack())
        reconnect = pack->series * usualReconnect(pack->cell.chemistry, cutoff / pack->series);
    guard.reconnect = Volts{std::round(reconnect * 100) / 100};
}

} // namespace

Stage freshStage(const Project& p, Kind kind, std::string_view near) {
    Stage stage;
    const KindFacts& facts = factsOf(kind);
    stage.part = facts.fresh();
    std::string id(facts.name);
    std::replace(id.begin(), id.end(), '_', '-');
    stage.id = freeId(p, id);
    const Load* load = firstLoadBehind(p, near);
    const double wanted = load ? load->window.middle().value() : 5.0;
    if (facts.setPoint)
        static_cast<void>(setPointTo(stage.part, Volts{wanted}));
    if (auto* guard = std::get_if<Guard>(&stage.part))
        suit(*guard, p);
    if (auto* crowbar = std::get_if<Crowbar>(&stage.part); crowbar && load)
        crowbar->trips = actsOver(load->window);
    if (auto* clamp = std::get_if<Clamp>(&stage.part); clamp && load)
        clamp->holds = actsOver(load->window);
    if (auto* adapter = std::get_if<Adapter>(&stage.part))
        adapter->set = Volts{std::max(5.0, std::ceil(wanted))};
    stage.label = roleName(p, stage);
    return stage;
}

namespace {

constexpr double kUsualRate = 0.5;      ///< 1/h
constexpr double kUsualEnd = 0.05;      ///< of the capacity per hour
constexpr double kUsualRecovery = 0.05; ///< 1/h, of a flat lithium pack
constexpr double kLinearRoom = 1.6;     ///< V that a linear charger may burn before it takes a buck

/// Volts that arrive on a stage: the set-point on the way, or what its source gives.
double arrivesAt(const Project& p, std::string_view feed) {
    for (const Stage* s = p.stage(feed); s;
         s = s->fedBy.empty() ? nullptr : p.stage(s->fedBy.front()))
        if (const auto set = setPointOf(s->part))
            return set->value();
        else if (std::holds_alternative<Usb>(s->part))
            return 5;
        else if (std::holds_alternative<Vehicle>(s->part))
            return 12.6;
        else if (const auto* adapter = std::get_if<Adapter>(&s->part))
            return adapter->rated.value_or(Volts{12}).value();
        else if (const auto* panel = std::get_if<Panel>(&s->part))
            return panel->vmp.value_or(Volts{6}).value();
    return 5;
}

void limitLosses(Charger& c, bool linear) {
    if (linear) {
        c.dropout = Volts{0.3};
        c.dropoutKind = DropoutKind::fet;
        c.ratedCurrent = c.chargeCurrent;
        c.ground = Amps{5e-4};
        c.thermal = KelvinPerWatt{50};
        c.foldBack = Celsius{110};
        return;
    }
    c.quiescent = Amps{0.003};
    c.fixed = Watts{0.1};
    c.drop = Volts{0.2};
    c.resistance = Ohms{0.1};
    c.thermal = KelvinPerWatt{30};
}

} // namespace

std::optional<std::string> whyNotCharger(const Project& p, std::string_view feed) {
    const Stage* stage = p.stage(feed);
    if (!p.packStage())
        return "There is no pack to charge.";
    if (!stage)
        return p.load(feed) ? "A load feeds nothing." : "There is nothing chosen.";
    if (isCharger(stage->part))
        return "A charger feeds its pack only.";
    if (downstreamIds(p, p.packStage()->id).contains(stage->id))
        return "The pack itself feeds this: choose a source besides it.";
    return std::nullopt;
}

Project withCharger(Project p, std::string_view feed) {
    if (whyNotCharger(p, feed))
        return p;
    const Stage& packStage = *p.packStage();
    const Pack& pack = std::get<Pack>(packStage.part);
    const Cell& cell = pack.cell;
    const double ampHours = cell.capacity.value() * pack.parallel;
    Charger c;
    c.charges = packStage.id;
    double current = kUsualRate * ampHours;
    if (cell.maxCharge)
        current = std::min(current, cell.maxCharge->value() * pack.parallel);
    c.chargeCurrent = Amps{current};
    c.endCurrent = Amps{kUsualEnd * ampHours};
    const double full =
        pack.series * cell.full.value_or(Volts{voltsOf(cell.chemistry).fresh}).value();
    if (isNickel(cell.chemistry)) {
        c.chargeCurrent = Amps{0.1 * ampHours};
        c.endsBy = ChargeEnd::timer;
        c.timer = Hours{16};
    } else {
        c.chargeVoltage = Volts{full};
    }
    if (isRechargeableLithium(cell.chemistry)) {
        c.recoveryBelow = Volts{pack.series * floorVolts(cell.chemistry) * 1.1};
        c.recoveryCurrent = Amps{kUsualRecovery * ampHours};
    }
    const double arrives = arrivesAt(p, feed);
    // A boost may not see more than the empty pack: between empty and full it takes both ways.
    const double empty =
        pack.series * cell.empty.value_or(Volts{voltsOf(cell.chemistry).empty}).value();
    c.topology = arrives < empty                ? Topology::boost
                 : arrives <= full              ? Topology::buckBoost
                 : arrives < full + kLinearRoom ? Topology::linear
                                                : Topology::buck;
    limitLosses(c, c.topology == Topology::linear);
    const Stage* source = p.stage(feed);
    while (source && !source->fedBy.empty())
        source = p.stage(source->fedBy.front());
    if (source && std::holds_alternative<Usb>(source->part))
        c.inputHold = Volts{4.4}; // it backs off before the socket lets go
    else if (const auto* adapter = source ? std::get_if<Adapter>(&source->part) : nullptr;
             adapter && adapter->limit)
        c.inputLimit = adapter->limit;
    Stage stage;
    stage.id = freeId(p, "charger");
    stage.fedBy = {std::string(feed)};
    stage.part = c;
    stage.label = roleName(p, stage);
    p.stages.push_back(std::move(stage));
    return p;
}

} // namespace sipper
