// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/choices.hpp"

#include "charge/context.hpp"
#include "line/line.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "parts/typical.hpp"
#include "project/file.hpp"
#include "project/library.hpp"
#include "project/roles.hpp"
#include "project/tree.hpp"
#include "runtime/runtime.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kGentleRate = 0.5; ///< 1/h; no harm up to there
constexpr double kFlat = 0;         ///< charge of a pack that was left too long
constexpr double kHoursADay = 24;
constexpr double kBuckDrop = 0.25; ///< usual losses of a small buck module
constexpr double kBuckOhms = 0.12;
constexpr double kBuckFixed = 0.1;
constexpr double kBuckOwn = 0.005;
constexpr double kBuckDuty = 0.95;
constexpr double kBuckInput = 30; ///< V that such a module survives

void answer(ChargeChoice& choice, const ChargeOptions& ask) {
    const auto charge = chargeOf(choice.project, ask);
    if (!charge)
        return;
    choice.source = choice.project.stage(charge.value().source)->part;
    choice.hours = charge.value().hoursToFull;
    choice.hoursTo80 = charge.value().hoursTo80;
    choice.never = charge.value().failure;
    choice.heldBy = charge.value().bindingLimit();
}

ChargeOptions quick(const ChargeOptions& ask) {
    ChargeOptions plain = ask;
    plain.ledger = false;
    plain.besideOff = false;
    plain.lifted.clear();
    return plain;
}

const Pack& packOf(const Project& p, const std::string& charger) {
    return std::get<Pack>(p.stage(std::get<Charger>(p.stage(charger)->part).charges)->part);
}

std::string idOf(const Project& p, const ChargeOptions& ask) {
    if (!ask.charger.empty())
        return ask.charger;
    const auto all = chargersOf(p);
    return all.empty() ? std::string() : all.front();
}
std::string sourceOf(const Project& p, const ChargeOptions& ask, const std::string& charger) {
    if (!ask.source.empty())
        return ask.source;
    const auto all = chargeSources(p, charger);
    return all.empty() ? std::string() : all.front();
}

/// The same settings on a buck module.
void makeBuck(Charger& c) {
    c.topology = Topology::buck;
    c.drop = Volts{kBuckDrop};
    c.resistance = Ohms{kBuckOhms};
    c.fixed = Watts{kBuckFixed};
    c.quiescent = Amps{kBuckOwn};
    c.maxDuty = kBuckDuty;
    c.inputNeverAbove = Volts{kBuckInput};
    c.foldBack.reset();
    c.inputHold.reset();
    c.dropout.reset();
    c.ground.reset();
}

} // namespace

double lifeAtRate(double rate) {
    return rate > kGentleRate ? std::pow(2.0 / 3, std::log2(rate / kGentleRate)) : 1;
}

std::optional<LimitRelaxation> liftOf(const Project& project, const ChargeOptions& ask,
                                      const ChargeRun& charge) {
    const auto held = charge.bindingLimit();
    const Stage* charger = project.stage(charge.charger);
    if (!held || *held == ChargeLimit::cv || *held == ChargeLimit::recovery ||
        std::get<Charger>(charger->part).topology == Topology::direct) // its source is all it is
        return std::nullopt;
    LimitRelaxation lift;
    lift.relaxed = *held;
    ChargeOptions without = quick(ask);
    without.lifted = ask.lifted;
    without.lifted.push_back(*held);
    const auto answer = chargeOf(project, without);
    if (!answer)
        return std::nullopt;
    const ChargeRun& next = answer.value();
    lift.hours = next.hoursToFull;
    lift.next = next.bindingLimit();
    if (lift.hours && charge.hoursToFull)
        lift.saved = *charge.hoursToFull - *lift.hours;
    return lift;
}

std::vector<ChargeAnalysis> analyseCharges(const Project& project, const std::stop_token& stop) {
    std::vector<ChargeAnalysis> looks;
    const ChargeOptions refill = refillAsk(project);
    for (const std::string& id : chargersOf(project)) {
        if (stop.stop_requested())
            return looks;
        ChargeOptions ask;
        ask.charger = id;
        ask.stop = stop;
        if (id == refill.charger)
            ask.source = refill.source;
        const auto sources = chargeSources(project, id);
        const auto isPanel = [&](const std::string& source) {
            return std::holds_alternative<Panel>(project.stage(source)->part);
        };
        if (ask.source.empty() || isPanel(ask.source)) { // a panel's refill is its year
            const auto other = std::find_if_not(sources.begin(), sources.end(), isPanel);
            if (other == sources.end())
                continue;
            ask.source = *other;
        }
        auto charge = chargeOf(project, ask);
        if (!charge)
            continue;
        ChargeAnalysis look;
        look.usual = std::move(charge).value();
        if (!look.usual.failure) {
            look.lift = liftOf(project, ask, look.usual);
            ask.ledger = false;
            ask.besideOff = false;
            ask.ambient = project.brief.air().high;
            if (auto hot = chargeOf(project, ask))
                look.hot = std::move(hot).value();
        }
        looks.push_back(std::move(look));
    }
    return looks;
}

std::vector<ChargeChoice> otherSources(const Project& project, const ChargeOptions& ask,
                                       const std::vector<Stage>& sources,
                                       const std::stop_token& stop) {
    std::vector<ChargeChoice> choices;
    const std::string charger = idOf(project, ask);
    const std::string source = sourceOf(project, ask, charger);
    if (charger.empty() || source.empty())
        return choices;
    ChargeChoice own;
    own.says = nameOf(*project.stage(source));
    own.yours = true;
    own.project = project;
    answer(own, quick(ask));
    choices.push_back(std::move(own));
    for (const Stage& other : sources) {
        if (stop.stop_requested())
            return choices;
        ChargeChoice choice;
        choice.says = nameOf(other);
        choice.project = project;
        choice.project.variants.clear();
        Stage* place = choice.project.stage(source);
        if (place->part == other.part)
            continue;
        const Stage named = placedInstead(project, *place, other);
        place->part = other.part;
        place->label = named.label;
        place->make = named.make;
        place->price = other.price;
        place->mass = other.mass;
        ChargeOptions asked = quick(ask);
        asked.source = source;
        answer(choice, asked);
        const auto why = choice.never;
        const auto& part = std::get<Charger>(choice.project.stage(charger)->part);
        if ((why == ChargeFailure::wrongTopology || why == ChargeFailure::inputTooHigh) &&
            part.topology != Topology::buck) {
            ChargeChoice buck = choice;
            makeBuck(std::get<Charger>(buck.project.stage(charger)->part));
            answer(buck, asked);
            if (buck.hours) {
                buck.says += " through a buck";
                choices.push_back(std::move(buck));
                continue;
            }
        }
        choices.push_back(std::move(choice));
    }
    return choices;
}

std::vector<ChargeChoice> rateAlternatives(const Project& project, const ChargeOptions& ask,
                                           const std::stop_token& stop) {
    std::vector<ChargeChoice> choices;
    const std::string charger = idOf(project, ask);
    if (charger.empty())
        return choices;
    const Pack& pack = packOf(project, charger);
    const double ampHours = pack.cell.capacity.value() * pack.parallel;
    struct School {
        const char* says;
        double amps;
        const char* note;
    };
    std::vector<School> schools{{"0.3 C", 0.3 * ampHours, "gentlest"},
                                {"0.5 C", 0.5 * ampHours, "usual"}};
    if (pack.cell.maxCharge)
        schools.push_back(
            {"the cells' limit", pack.cell.maxCharge->value() * pack.parallel, "quickest"});
    for (const School& school : schools) {
        if (stop.stop_requested())
            return choices;
        ChargeChoice choice;
        choice.says = school.says;
        choice.note = school.note;
        choice.project = project;
        choice.project.variants.clear();
        auto& part = std::get<Charger>(choice.project.stage(charger)->part);
        part.chargeCurrent = Amps{school.amps};
        part.programOhm.reset();
        if (part.programK)
            part.programOhm = Ohms{*part.programK / school.amps};
        choice.lifeFactor = lifeAtRate(school.amps / ampHours);
        ChargeOptions asked = quick(ask);
        asked.lifted = {ChargeLimit::source, ChargeLimit::inputLimit, ChargeLimit::powerLimit,
                        ChargeLimit::outputLimit, ChargeLimit::heat};
        answer(choice, asked);
        choices.push_back(std::move(choice));
    }
    return choices;
}

std::vector<ChargeChoice> sharedSupply(const Project& project, const ChargeOptions& ask, int most,
                                       const std::stop_token& stop) {
    std::vector<ChargeChoice> choices;
    if (idOf(project, ask).empty())
        return choices;
    for (int count = 1; count <= most && !stop.stop_requested(); ++count) {
        ChargeChoice choice;
        choice.says = count == 1 ? "this one alone" : std::to_string(count) + " like this one";
        choice.yours = count == ask.alike;
        choice.project = project;
        ChargeOptions asked = quick(ask);
        asked.alike = count;
        answer(choice, asked);
        choices.push_back(std::move(choice));
    }
    return choices;
}

double backfeedVolts(const Project& project, const std::string& charger,
                     const std::string& source) {
    const Pack& pack = packOf(project, charger);
    const double full = pack.cell.full
                            ? pack.series * pack.cell.full->value()
                            : PackModel(pack, typicalConditions(project).ambient).restVolts(1);
    double sees = 0;
    const auto fromSource = downstreamIds(project, source);
    const auto fromPack =
        downstreamIds(project, std::get<Charger>(project.stage(charger)->part).charges);
    for (const Stage& s : project.stages) {
        const auto* select = std::get_if<Select>(&s.part);
        if (select && !select->blocksBack.value_or(true) && fromSource.contains(s.id) &&
            fromPack.contains(s.id))
            sees = std::max(sees, full - orZero(select->drop));
    }
    return sees;
}

bool hasPowerPath(const Project& project, const std::string& charger) {
    const auto sources = chargeSources(project, charger);
    const std::string pack = std::get<Charger>(project.stage(charger)->part).charges;
    const auto behindPack = downstreamIds(project, pack);
    for (const Stage& s : project.stages) {
        if (!std::holds_alternative<Select>(s.part) || s.fedBy.size() < 2)
            continue;
        const std::string& first = s.fedBy.front();
        const bool fromSource = std::any_of(sources.begin(), sources.end(), [&](const auto& id) {
            return first == id || downstreamIds(project, id).contains(first);
        });
        const bool packToo = std::any_of(s.fedBy.begin() + 1, s.fedBy.end(), [&](const auto& id) {
            return id == pack || behindPack.contains(id);
        });
        if (fromSource && packToo)
            return true;
    }
    return false;
}

Project withPowerPath(const Project& project, const std::string& charger, Volts drop,
                      Ohms resistance) {
    Project p = project;
    const Stage* stage = p.stage(charger);
    if (!stage || stage->fedBy.empty())
        return p;
    std::string node = std::get<Charger>(stage->part).charges;
    const std::string feed = stage->fedBy.front();
    // Guards, fuses, switches and leads that stand alone on the pack belong to it.
    const auto childrenOf = [&](const std::string& id) {
        std::vector<std::string> ids;
        for (const std::string& child : p.fedFrom(id))
            if (child != charger)
                ids.push_back(child);
        return ids;
    };
    for (auto children = childrenOf(node); children.size() == 1; children = childrenOf(node)) {
        const Stage* only = p.stage(children.front());
        if (!only || !(std::holds_alternative<Guard>(only->part) ||
                       std::holds_alternative<Fuse>(only->part) ||
                       std::holds_alternative<Switch>(only->part) ||
                       std::holds_alternative<Wire>(only->part)))
            break;
        node = only->id;
    }
    const auto children = childrenOf(node);
    if (children.empty())
        return p;
    Stage path;
    path.id = freeId(p, "path");
    Select select;
    select.drop = drop;
    select.resistance = resistance;
    select.blocksBack = true;
    path.part = select;
    path.make = drop.value() > 0 ? "Power path, diodes" : "Power path, FETs";
    path.label = roleName(p, path);
    path.fedBy = {feed, node};
    path.feedsListed = true;
    for (const std::string& id : children) {
        if (Stage* s = p.stage(id))
            std::replace(s->fedBy.begin(), s->fedBy.end(), node, path.id);
        else if (Load* l = p.load(id))
            l->fedBy = path.id;
    }
    const auto at = std::find_if(p.stages.begin(), p.stages.end(),
                                 [&](const Stage& s) { return s.id == node; });
    p.stages.insert(at + 1, path);
    return p;
}

std::vector<PathChoice> powerPaths(const Project& project, const ChargeOptions& ask,
                                   const std::stop_token& stop) {
    std::vector<PathChoice> choices;
    const std::string charger = idOf(project, ask);
    if (charger.empty() || hasPowerPath(project, charger))
        return choices;
    for (const PathWay way : {PathWay::node, PathWay::diode, PathWay::fet}) {
        if (stop.stop_requested())
            return choices;
        PathChoice choice;
        choice.way = way;
        choice.yours = way == PathWay::node;
        choice.project = way == PathWay::node ? project
                         : way == PathWay::diode
                             ? withPowerPath(project, charger, kTypicalSchottky, kTypicalDiodeOhms)
                             : withPowerPath(project, charger, Volts{0}, kTypicalFet);
        choice.project.variants.clear();
        if (way != PathWay::node && choice.project.stages.size() == project.stages.size())
            return {};
        ChargeOptions asked = quick(ask);
        choice.backfeedVolts =
            backfeedVolts(choice.project, charger, sourceOf(choice.project, ask, charger));
        if (const auto charge = chargeOf(choice.project, asked)) {
            choice.hours = charge.value().hoursToFull;
            choice.never = charge.value().failure;
        }
        asked.from = kFlat;
        if (const auto flat = chargeOf(choice.project, asked);
            flat && flat.value().failure && *flat.value().failure != ChargeFailure::endTrap)
            choice.fromFlat = flat.value().failure;
        const Runtime run = predictRuntime(choice.project);
        if (run.hours) {
            choice.runsFor = run.hours->value();
            double reached = 0;
            for (const auto& [id, wh] : run.ledger.loads)
                reached += wh;
            choice.usable = run.ledger.nameplate > 0 ? reached / run.ledger.nameplate : 0;
            if (way == PathWay::node && run.hours->value() > 0)
                choice.cyclesAtTop = kHoursADay / run.hours->value();
        }
        choices.push_back(std::move(choice));
    }
    return choices;
}

std::vector<ExternalLoad> externalLoadsWithChargers(const Project& project) {
    std::vector<ExternalLoad> externalLoads = externalLoadsOf(project);
    for (ExternalLoad& t : externalLoads) {
        const ChargersOptions asks = chargersAsk(project, project.stages[t.source].id);
        t.chargerAmps = asks.amps;
        t.chargersYield = asks.yield;
        t.worstWatts += (t.asked() - t.worst.value) * t.model.volts;
    }
    return externalLoads;
}

ChargersOptions chargersAsk(const Project& project, const std::string& source) {
    ChargersOptions all;
    all.yield = true;
    for (const std::string& id : chargersOf(project)) {
        const auto sources = chargeSources(project, id);
        if (std::find(sources.begin(), sources.end(), source) == sources.end())
            continue;
        ChargeOptions ask;
        ask.charger = id;
        ask.source = source;
        ask.lifted = {ChargeLimit::source};
        const auto bench = chargeContextOf(project, ask);
        if (!bench || refusal(*bench.value()))
            continue;
        const ChargeContext& b = *bench.value();
        double most = 0;
        for (const double charge : {0.1, 0.3, 0.5, 0.7, 0.9})
            most = std::max(most,
                            b.limits.at(b.restVolts(charge), b.packOhms(charge), false).inputAmps);
        all.amps += most;
        all.yield = all.yield && b.settings.inputHold > 0;
    }
    all.yield = all.yield && all.amps > 0;
    return all;
}

} // namespace sipper
