// SPDX-License-Identifier: GPL-3.0-or-later
#include "request/supplyrequest.hpp"

#include "analysis/analysis.hpp"
#include "base/tolerance.hpp"
#include "charge/charge.hpp"
#include "charge/choices.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "parts/madefor.hpp"
#include "project/build.hpp"
#include "project/file.hpp"
#include "project/variants.hpp"
#include "quantity/write.hpp"
#include "request/externalsupply.hpp"
#include "search/chargerchoice.hpp"
#include "text/text.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <tuple>

namespace sipper {
namespace {

constexpr std::size_t kMostNeeds = 6;
constexpr double kLeastVolts = 0.8;
constexpr double kMostVolts = 48; ///< under what is dangerous to touch
constexpr double kMostAmps = 20;
constexpr double kLeastHours = 0.01;
constexpr double kMostHours = 87600;
constexpr double kWishLogic = 4.9;     ///< V: what takes less is logic
constexpr double kOnTarget = 1e-6;     ///< of the hours asked for, that rounding may take
constexpr std::size_t kWishTries = 24; ///< of one kind, to find one with nothing to mend
constexpr double kNoMore = 2;          ///< times the least weight and price, for the one that lasts
constexpr double kWishLatitude = 50;   ///< degrees, until somebody says

std::string needsName(const SupplyRequest& wish) {
    // The highest first, each once: `12 V and 3.3 V, 6 h`.
    std::vector<double> volts;
    for (const RequestedRail& need : wish.needs)
        if (std::find(volts.begin(), volts.end(), need.volts) == volts.end())
            volts.push_back(need.volts);
    std::sort(volts.begin(), volts.end(), std::greater<>{});
    std::string name;
    for (std::size_t i = 0; i < volts.size(); ++i)
        name += (i == 0                  ? ""
                 : i + 1 == volts.size() ? " and "
                                         : ", ") +
                writeExact(volts[i], Unit::volt);
    return name + ", " +
           (externallyFed(wish) ? "from " + std::string(wishFromText(wish.from))
                                : writeExact(wish.hours, Unit::hour));
}

Error outOfRange(const std::string& where, double found, Unit unit, const std::string& expected) {
    return Error{"range", where, writeQuantity(found, unit), expected, ""};
}

std::vector<Finding> stopsOf(const Project& p) {
    std::vector<Finding> findings = analyseQuick(p, {.bench = false}).findings;
    std::erase_if(findings, [](const Finding& f) { return f.severity != Severity::stop; });
    return findings;
}

bool hasStopFinding(const Project& p) {
    return !stopsOf(p).empty();
}

/// A supply to be opened, with what it is best at.
struct WishPick {
    std::string name;
    std::string says;
    Project project;
    std::optional<double> hours;
    bool bad = false; ///< something has to be mended in it
};

/// Nobody lines up that many cells that are thrown away: only where nothing else does it.
bool crowded(const Candidate& c) {
    constexpr double kMostPrimary = 8;
    constexpr double kMostBeside = 4;
    Cell cell;
    cell.chemistry = c.chemistry;
    return !canRecharge(cell) && (c.pieces > kMostPrimary || c.parallel > kMostBeside);
}

/// Tries them in turn; the first in which nothing has to be mended, else the first of all.
template <class Make>
std::optional<WishPick> firstWithoutStop(const std::string& name,
                                         const std::vector<std::size_t>& order,
                                         std::vector<std::size_t>& taken, const Make& make) {
    std::optional<std::pair<std::size_t, WishPick>> first;
    std::size_t tries = 0;
    for (const std::size_t i : order) {
        if (std::find(taken.begin(), taken.end(), i) != taken.end())
            continue;
        if (tries++ == kWishTries)
            break;
        std::optional<WishPick> made = make(i);
        if (!made)
            continue;
        made->name = name;
        if (!made->bad) {
            taken.push_back(i);
            return made;
        }
        if (!first)
            first = std::pair(i, std::move(*made));
    }
    if (!first)
        return {};
    taken.push_back(first->first);
    return std::move(first->second);
}

template <class Less>
std::vector<std::size_t> ordered(std::size_t count, const Less& less) {
    std::vector<std::size_t> order(count);
    for (std::size_t i = 0; i < count; ++i)
        order[i] = i;
    std::stable_sort(order.begin(), order.end(), less);
    return order;
}

Project documentOf(const std::vector<WishPick>& picks) {
    Project document = picks.front().project;
    document.variant = picks.front().name;
    for (std::size_t i = 1; i < picks.size(); ++i) {
        document = withVariantAdded(document, picks[i].project);
        document = withVariantNamed(document, i, picks[i].name);
    }
    return document;
}

/// Is the pick the best of all in what its name says? What loses least is by its order.
bool isBestAt(const std::string& name, const WishPick& pick, const std::vector<WishPick>& all) {
    return std::all_of(all.begin(), all.end(), [&](const WishPick& other) {
        return name == "Lightest" ? !exceeds(pick.project.massGrams(), other.project.massGrams())
               : name == "Cheapest"
                   ? !exceeds(pick.project.totalPrice(), other.project.totalPrice())
               : name == "Longest" ? !exceeds(other.hours.value_or(0), pick.hours.value_or(0))
                                   : true;
    });
}

/// A pick bears the name of what it is best at. One that is best at nothing that no other is named
/// for goes: it would be shown for what it is not.
void nameForBest(std::vector<WishPick>& picks) {
    const std::vector<WishPick> all = picks;
    std::vector<WishPick> kept;
    const auto named = [&](const std::string& name) {
        return std::any_of(kept.begin(), kept.end(),
                           [&](const WishPick& p) { return p.name == name; });
    };
    for (const WishPick& pick : all)
        for (const std::string& name :
             {pick.name, std::string("Lightest"), std::string("Cheapest"), std::string("Longest")})
            if (!named(name) && (name != "Longest" || pick.hours) && isBestAt(name, pick, all)) {
                kept.push_back(pick);
                kept.back().name = name;
                break;
            }
    picks = std::move(kept);
}

/// Hours, grams and price, the cells or the source, and what it gives up beside the others: a line.
std::string lineOf(const WishPick& pick, const std::vector<WishPick>& all) {
    std::string text = pick.name + ":";
    if (pick.hours)
        text += " " + writeHours(*pick.hours) + ",";
    const double grams = pick.project.massGrams();
    const double price = pick.project.totalPrice();
    text += fmt::format(" {}, {:.2f}: {}", writeQuantity(grams, Unit::gram), price, pick.says);
    const WishPick* longest = &pick;
    const WishPick* cheapest = &pick;
    const WishPick* lightest = &pick;
    for (const WishPick& other : all) {
        if (other.hours.value_or(0) > longest->hours.value_or(0))
            longest = &other;
        if (other.project.totalPrice() < cheapest->project.totalPrice())
            cheapest = &other;
        if (other.project.massGrams() < lightest->project.massGrams())
            lightest = &other;
    }
    std::string less;
    const auto add = [&](const std::string& what) { less += (less.empty() ? "" : ", ") + what; };
    if (longest->hours.value_or(0) > 1.05 * pick.hours.value_or(0) && pick.hours)
        add(writeHours(*longest->hours - *pick.hours) + " shorter");
    if (cheapest->project.totalPrice() < 0.95 * price)
        add(fmt::format("{:.2f} dearer", price - cheapest->project.totalPrice()));
    if (lightest->project.massGrams() < 0.95 * grams)
        add(writeQuantity(grams - lightest->project.massGrams(), Unit::gram) + " heavier");
    return less.empty() ? text : text + "; " + less + " than the best of them";
}

std::string chosenText(const std::vector<WishPick>& picks) {
    std::string text;
    for (const WishPick& pick : picks)
        text += (text.empty() ? "" : "\n") + lineOf(pick, picks);
    return text;
}

/// `2 × Lithium nickel-cobalt 18650, 3.0 Ah`
std::string cellsText(const Project& supply) {
    const Pack& pack = *supply.pack();
    const double pieces = piecesOf(pack);
    return (pieces > 1 ? fmt::format("{:g} × ", pieces) : std::string()) + pack.cell.label;
}

/// By what and how fast the supply is filled; empty where it is not.
std::string refillText(const Candidate& c, const Project& supply) {
    if (!c.refill)
        return {};
    if (c.refill->by == "sun")
        return ", filled by the sun";
    const auto charge = refillOf(supply);
    const auto hours = charge && charge->hoursToFull ? charge->hoursToFull
                       : charge                      ? charge->offHoursToFull
                                                     : std::nullopt;
    return fmt::format(", filled from {} {}{}", c.refill->by == "adapter" ? "an" : "a",
                       c.refill->by, hours ? " in " + writeHours(*hours) : std::string());
}

/// The supply with what hangs on its cells on a path from the charger's source, of the library's
/// select; as it is where there is none.
Project withPathOf(const Library& library, const Project& supply) {
    const auto found =
        std::find_if(library.parts.begin(), library.parts.end(), [](const LibraryPart& part) {
            const auto* select = std::get_if<Select>(&part.stage.part);
            return select && orZero(select->drop) == 0 && select->blocksBack.value_or(true);
        });
    const auto chargers = chargersOf(supply);
    if (found == library.parts.end() || chargers.empty())
        return supply;
    const auto& select = std::get<Select>(found->stage.part);
    Project p =
        withPowerPath(supply, chargers.front(), Volts{0}, select.resistance.value_or(Ohms{0}));
    for (Stage& stage : p.stages)
        if (std::holds_alternative<Select>(stage.part) && !supply.stage(stage.id)) {
            stage.make = found->stage.label;
            stage.price = found->stage.price;
            stage.mass = found->stage.mass;
        }
    return p;
}

/// The supply with the fixes of its stops, as long as each leaves fewer; nothing where one stays.
std::optional<Project> fixed(Project p) {
    std::vector<Finding> stops = stopsOf(p);
    while (!stops.empty()) {
        const auto with = std::find_if(stops.begin(), stops.end(),
                                       [](const Finding& f) { return f.fix.has_value(); });
        if (with == stops.end())
            return {};
        Project after = with->fix->apply(p);
        std::vector<Finding> left = stopsOf(after);
        if (left.size() >= stops.size())
            return {};
        p = std::move(after);
        stops = std::move(left);
    }
    return p;
}

/// Over the weight or price that the brief allows, charger, fuse and path counted in? A socket or
/// an adapter stays where it is.
bool pastLimits(const Project& supply) {
    double grams = supply.massGrams();
    for (const Stage& stage : supply.stages)
        if (isExternalSource(stage.part))
            grams -= orZero(stage.mass);
    const Brief& brief = supply.brief;
    return (brief.weightLimit && exceeds(grams, brief.weightLimit->value())) ||
           (brief.priceLimit && exceeds(supply.totalPrice(), *brief.priceLimit));
}

/// The supply that the candidate makes, ready to be built: charged where its cells can be, and told
/// in the words of its cells. Nothing where it would pass the brief's limits, or where it should be
/// charged and can't.
std::optional<WishPick> builtOf(const Project& base, const Library& library,
                                const SearchOptions& ask, const Candidate& c) {
    auto taken = takeCandidate(base, library, ask, c.number, true);
    if (!taken)
        return {};
    WishPick pick;
    pick.project = std::move(taken).value();
    Project& supply = pick.project;
    const bool charged = !chargersOf(supply).empty();
    if (ask.charged && !charged)
        return {};
    pick.hours = c.hours;
    std::string more; // behind the cells and what fills them
    if (crowded(c))
        more += ", many cells to throw away";
    if (!charged) {
        supply.brief.refilledBy = {"swap"};
    } else {
        supply.brief.refilledBy = {c.refill ? c.refill->by : std::string("socket")};
        // Cells in series on a charger want each watched.
        if (Pack& pack = std::get<Pack>(supply.stage(supply.packStage()->id)->part);
            pack.series > 1 && !pack.cellMonitor.value_or(false) &&
            isRechargeableLithium(pack.cell.chemistry)) {
            pack.cellMonitor = true;
            more += ", each cell watched by a balance board";
        }
        // What is always on keeps a charge from its end: on a power path it hangs on the source.
        pick.bad = hasStopFinding(supply);
        if (pick.bad)
            if (auto path = fixed(withPathOf(library, supply))) {
                supply = std::move(*path);
                if (std::any_of(supply.stages.begin(), supply.stages.end(), [](const Stage& stage) {
                        return std::holds_alternative<Select>(stage.part);
                    }))
                    more += ", on a power path";
                pick.bad = false;
            }
    }
    if (pastLimits(supply))
        return {};
    if (!charged)
        pick.bad = hasStopFinding(supply);
    // Path and fixes cost a little: what is said is said of what is opened.
    if (charged)
        if (const Runtime run = predictRuntime(supply); run.hours)
            pick.hours = run.hours->value();
    const auto target = supply.brief.targetRuntime;
    if (target && pick.hours && *pick.hours < target->value() * (1 - kOnTarget))
        return {};
    pick.says = cellsText(supply) + (charged ? refillText(c, supply) : std::string()) + more;
    return pick;
}

bool rechargeableOf(const Candidate& c) {
    Cell cell;
    cell.chemistry = c.chemistry;
    return canRecharge(cell);
}

/// What the best supply of cells that can be charged would weigh, where only others won.
std::string rechargeableText(const std::vector<Candidate>& kept,
                             const std::vector<WishPick>& picks) {
    if (picks.empty() || std::any_of(picks.begin(), picks.end(), [](const WishPick& pick) {
            return !chargersOf(pick.project).empty();
        }))
        return {};
    const Candidate* best = nullptr;
    for (const Candidate& c : kept)
        if (c.refill && (!best || gramsWithRefill(c) < gramsWithRefill(*best)))
            best = &c;
    if (!best)
        return "\nOnly cells that are thrown away do it: none that a charger of the library fills "
               "qualifies.";
    return fmt::format("\nOnly cells that are thrown away: the lightest that can be charged weighs "
                       "{} with its charger and runs {} ({}).",
                       writeQuantity(gramsWithRefill(*best), Unit::gram), writeHours(best->hours),
                       best->says);
}

/// Of cells: by the finder.
std::vector<WishPick> picksOf(const Project& base, const Search& found, const Library& library,
                              const SearchOptions& ask, const std::stop_token& stop) {
    const std::vector<Candidate>& kept = found.feasible;
    // With a charger beside it the Pareto front of the bare supplies says little: any that ran may
    // do. Cells that could be charged and have nothing to charge them are no supply.
    std::vector<std::size_t> pool;
    for (std::size_t i = 0; i < kept.size(); ++i)
        if (kept[i].refill)
            pool.push_back(i);
    if (!ask.charged || pool.empty())
        for (const std::size_t i : found.paretoFront)
            if (!kept[i].refill && (pool.empty() || !rechargeableOf(kept[i])))
                pool.push_back(i);
    const auto at = [&](std::size_t i) -> const Candidate& { return kept[pool[i]]; };
    const std::size_t count = pool.size();
    const auto make = [&](std::size_t i) -> std::optional<WishPick> {
        if (stop.stop_requested())
            return {};
        return builtOf(base, library, ask, at(i));
    };
    std::vector<std::size_t> taken;
    std::vector<WishPick> picks;
    const auto add = [&](const char* name, const std::vector<std::size_t>& order) {
        if (auto pick = firstWithoutStop(name, order, taken, make))
            picks.push_back(std::move(*pick));
    };
    add("Lightest", ordered(count, [&](std::size_t a, std::size_t b) {
            return std::tuple(crowded(at(a)), gramsWithRefill(at(a)), priceWithRefill(at(a))) <
                   std::tuple(crowded(at(b)), gramsWithRefill(at(b)), priceWithRefill(at(b)));
        }));
    add("Cheapest", ordered(count, [&](std::size_t a, std::size_t b) {
            return std::tuple(crowded(at(a)), priceWithRefill(at(a)), gramsWithRefill(at(a))) <
                   std::tuple(crowded(at(b)), priceWithRefill(at(b)), gramsWithRefill(at(b)));
        }));
    if (picks.size() < 2)
        return picks;
    double grams = 0;
    double price = 0;
    for (const std::size_t i : taken) {
        grams = std::max(grams, kNoMore * gramsWithRefill(at(i)));
        price = std::max(price, kNoMore * priceWithRefill(at(i)));
    }
    const auto inHand = [&](std::size_t i) {
        return gramsWithRefill(at(i)) <= grams && priceWithRefill(at(i)) <= price;
    };
    add("Longest", ordered(count, [&](std::size_t a, std::size_t b) {
            return std::tuple(crowded(at(a)), !inHand(a), -at(a).hours) <
                   std::tuple(crowded(at(b)), !inHand(b), -at(b).hours);
        }));
    return picks;
}

/// On a wire: what loses least, costs least, weighs least.
std::vector<WishPick> picksOf(const std::vector<ExternalSupply>& tied) {
    const auto make = [&](std::size_t i) -> std::optional<WishPick> {
        WishPick pick;
        pick.says = tied[i].says;
        pick.project = tied[i].project;
        pick.bad = hasStopFinding(pick.project);
        return pick;
    };
    std::vector<std::size_t> taken;
    std::vector<WishPick> picks;
    const auto add = [&](const char* name, const std::vector<std::size_t>& order) {
        if (auto pick = firstWithoutStop(name, order, taken, make))
            picks.push_back(std::move(*pick));
    };
    add("Coolest", ordered(tied.size(), std::less<>{}));
    add("Cheapest", ordered(tied.size(), [&](std::size_t a, std::size_t b) {
            return std::pair(tied[a].price, tied[a].watts) <
                   std::pair(tied[b].price, tied[b].watts);
        }));
    add("Lightest", ordered(tied.size(), [&](std::size_t a, std::size_t b) {
            return std::pair(tied[a].grams, tied[a].watts) <
                   std::pair(tied[b].grams, tied[b].watts);
        }));
    return picks;
}

std::string whyNone(const Search& found) {
    if (found.counts.tried == 0)
        return "No charger of the library fills any cells from there.";
    const auto& fell = found.counts.rejected;
    const auto most = std::max_element(fell.begin(), fell.end());
    return fmt::format("None of {} supplies does it. Most: {}.", found.counts.tried,
                       rejectReasonText(static_cast<RejectReason>(most - fell.begin())));
}

} // namespace

std::string_view wishFromText(RequestedSource from) {
    static constexpr std::array<std::string_view, kWishFroms> words{
        "cells",        "what I have", "a tool pack", "a wall adapter",
        "a 5 V socket", "the sun",     "a vehicle"};
    return words[static_cast<std::size_t>(from)];
}

bool externallyFed(const SupplyRequest& wish) {
    if (wish.from == RequestedSource::vehicle)
        return true;
    const bool wire = wish.from == RequestedSource::adapter || wish.from == RequestedSource::socket;
    return wire && wish.setting != Setting::portable && wish.setting != Setting::worn;
}

std::string wishText(const SupplyRequest& wish) {
    switch (wish.from) {
    case RequestedSource::cells:
        return "Every cell and regulator of the library is tried.";
    case RequestedSource::hand:
        return "The cells of your own drawer are tried, no more of them than there are.";
    case RequestedSource::toolPack:
        return "Five cells in series as in hand tools, stepped to what it wants.";
    case RequestedSource::sun:
        return "Cells that a panel refills; the hours are those without light.";
    case RequestedSource::vehicle:
        return "9 to 16 V and what a vehicle puts on it; a fuse at the source. No cells.";
    case RequestedSource::adapter:
    case RequestedSource::socket:
        break;
    }
    return externallyFed(wish) ? "Straight from there: no cells, and nothing to run down."
                               : "It is carried: cells, refilled there.";
}

Outcome<Window> windowOf(double volts) {
    MadeForInput made;
    made.kind = volts < kWishLogic ? MadeFor::rail : MadeFor::regulatedAdapter;
    made.volts = Volts{volts};
    const auto window = windowFor(made);
    if (!window)
        return window.error();
    return window.value().window;
}

Outcome<Project> projectOf(const SupplyRequest& wish) {
    if (wish.needs.empty() || wish.needs.size() > kMostNeeds)
        return Error{"range", "loads", std::to_string(wish.needs.size()), "one to six", ""};
    if (!(wish.hours >= kLeastHours && wish.hours <= kMostHours))
        return outOfRange("hours", wish.hours, Unit::hour, "0.01 h to ten years");
    Project p;
    p.name = needsName(wish);
    p.notes = "Begun from what it needs; the loads are placeholders to overwrite.";
    p.brief.setting = wish.setting;
    p.brief.headroom = 1.5;
    p.brief.cellCare = CellCare::balanced;
    p.brief.shelfMonths = 3;
    if (!externallyFed(wish))
        p.brief.targetRuntime = Hours{wish.hours};
    if (wish.mostGrams)
        p.brief.weightLimit = Grams{*wish.mostGrams};
    p.brief.priceLimit = wish.mostPrice;
    if (wish.setting == Setting::outdoor)
        p.brief.ambient = Ambient{Celsius{-5}, Celsius{12}, Celsius{35}, {}};
    else
        p.brief.ambient = Ambient{Celsius{5}, Celsius{20}, Celsius{35}, {}};
    if (wish.from == RequestedSource::sun) {
        p.brief.refilledBy = {"sun"};
        p.brief.latitude = Degrees{kWishLatitude};
        p.brief.climate = "continental";
    } else if (!externallyFed(wish) && wish.from == RequestedSource::socket) {
        p.brief.refilledBy = {"socket"};
    } else if (!externallyFed(wish) && wish.from == RequestedSource::adapter) {
        p.brief.refilledBy = {"adapter"};
    }
    Mode on;
    on.id = "on";
    on.label = "On";
    on.base = true;
    p.modes.push_back(on);
    Stage cells;
    cells.id = "cells";
    auto usual = loadPart(dataFolder() / "cells" / "nickel-cobalt-18650-3.0.json");
    if (!usual)
        return usual.error();
    cells.part = std::move(usual).value().stage.part;
    p.stages.push_back(cells);
    if (!externallyFed(wish)) {
        for (const auto& [kind, id] : {std::pair{Kind::fuse, "fuse"}, {Kind::guard, "guard"}}) {
            Stage s = freshStage(p, kind, p.stages.back().id);
            s.id = id;
            s.fedBy = {p.stages.back().id};
            p.stages.push_back(std::move(s));
        }
    }
    const std::string feed = p.stages.back().id;
    for (std::size_t i = 0; i < wish.needs.size(); ++i) {
        const RequestedRail& need = wish.needs[i];
        if (!(need.volts >= kLeastVolts && need.volts <= kMostVolts))
            return outOfRange("volts", need.volts, Unit::volt, "0.8 to 48 V");
        const double amps = need.watts > 0 ? need.watts / need.volts : need.amps;
        if (!(amps > 0 && amps <= kMostAmps))
            return outOfRange("amps", amps, Unit::ampere, "over 0, to 20 A");
        Load load;
        load.id = i == 0 ? "device" : "device" + std::to_string(i + 1);
        load.label = i == 0 ? "Device" : "Device " + std::to_string(i + 1);
        load.fedBy = feed;
        const auto window = windowOf(need.volts);
        if (!window)
            return window.error();
        load.window = window.value();
        if (need.lowest > 0 && need.highest > need.lowest) {
            load.window = {};
            load.window.min = Volts{need.lowest};
            load.window.nominal = Volts{need.volts};
            load.window.max = Volts{need.highest};
        }
        Draw draw;
        draw.mode = on.id;
        if (need.watts > 0)
            draw.power = Watts{need.watts};
        else
            draw.current = Amps{need.amps};
        draw.basis = Basis::guess;
        load.draws.push_back(draw);
        // Each voltage has a regulator to itself, for the finder to replace.
        p.loads.push_back(std::move(load));
        Stage regulator = freshStage(p, Kind::buckBoost, p.loads.back().id);
        regulator.id = freeId(p, "regulator");
        regulator.fedBy = {feed};
        static_cast<void>(setPointTo(regulator.part, Volts{need.volts}));
        p.loads.back().fedBy = regulator.id;
        p.stages.push_back(std::move(regulator));
    }
    return p;
}

Outcome<Proposal> proposeSupplies(const SupplyRequest& wish, const Library& library,
                                  const std::vector<OwnedCell>& hand, const std::stop_token& stop,
                                  const SearchProgress& progress, const ParallelFor& parallelFor) {
    const auto base = projectOf(wish);
    if (!base)
        return base.error();
    Proposal out;
    std::vector<WishPick> picks;
    std::string more;
    if (externallyFed(wish)) {
        std::vector<ExternalSupply> tied = tiedSupplies(base.value(), wish.from, library);
        std::erase_if(tied, [&](const ExternalSupply& t) {
            return (wish.mostGrams && t.grams > *wish.mostGrams) ||
                   (wish.mostPrice && t.price > *wish.mostPrice);
        });
        out.tried = tied.size();
        out.kept = tied.size();
        picks = picksOf(tied);
        if (picks.empty())
            out.says = fmt::format("No source of the library carries this from {}.",
                                   wishFromText(wish.from));
    } else {
        SearchOptions ask;
        // Cells that can be charged come with what charges them; where the wish does not say from
        // what, a socket, else an adapter.
        Project asked = base.value();
        if (!asked.brief.refilledBy)
            asked.brief.refilledBy = {"socket", "adapter", "swap"};
        ask.charged = wish.rechargeable || wish.from == RequestedSource::socket ||
                      wish.from == RequestedSource::adapter || wish.from == RequestedSource::sun;
        if (wish.from == RequestedSource::hand) {
            if (hand.empty())
                return Error{"no_cells", "from", "an empty drawer of cells to hand",
                             "cells written down at the bench, page Cells", ""};
            ask.hand = hand;
            if (wish.rechargeable)
                std::erase_if(ask.hand, [](const OwnedCell& owned) {
                    Cell cell;
                    cell.chemistry = owned.chemistry;
                    return !canRecharge(cell);
                });
            if (ask.hand.empty())
                return Error{"no_cells", "from", "a drawer with no cell that can be charged",
                             "one at least, or any cells", ""};
        }
        if (wish.from == RequestedSource::toolPack) {
            for (const LibraryPart& part : library.parts)
                if (const auto* pack = std::get_if<Pack>(&part.stage.part);
                    pack && pack->cell.size == "tool pack")
                    ask.cells.push_back(part.name);
            if (ask.cells.empty())
                return Error{"no_cells", "from", "no tool pack in the library", "one at least", ""};
        }
        if (wish.rechargeable && ask.cells.empty() && ask.hand.empty())
            for (const LibraryPart& part : library.parts)
                if (const auto* pack = std::get_if<Pack>(&part.stage.part);
                    pack && canRecharge(pack->cell))
                    ask.cells.push_back(part.name);
        const auto found = findSupplies(asked, library, ask, stop, progress, parallelFor);
        if (!found)
            return found.error();
        if (found.value().stopped && found.value().feasible.empty())
            return Error{"stopped", "", "a search that was stopped", "its end", ""};
        out.tried = found.value().counts.tried;
        out.kept = found.value().counts.kept;
        picks = picksOf(asked, found.value(), library, ask, stop);
        more = rechargeableText(found.value().feasible, picks);
        if (picks.empty())
            out.says = whyNone(found.value());
    }
    // Where one can be built as it stands, none is shown that can't.
    if (std::any_of(picks.begin(), picks.end(), [](const WishPick& p) { return !p.bad; }))
        std::erase_if(picks, [](const WishPick& p) { return p.bad; });
    if (picks.size() > 1)
        nameForBest(picks);
    if (stop.stop_requested() && picks.empty())
        return Error{"stopped", "", "a search that was stopped", "its end", ""};
    if (picks.empty()) {
        out.document = base.value();
        return out;
    }
    out.variants = picks.size();
    out.says = chosenText(picks) + more;
    out.document = documentOf(picks);
    return out;
}

} // namespace sipper
