// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about chargers: what they are set to, what feeds them, and what the device does meanwhile.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "base/tolerance.hpp"
#include "charge/context.hpp"
#include "charge/text.hpp"
#include "parts/chemistry.hpp"
#include "parts/eseries.hpp"
#include "parts/figures.hpp"
#include "solar/simulation.hpp"

#include <cmath>
#include <fmt/format.h>
#include <map>
#include <numeric>

namespace sipper::rules {
namespace {

constexpr double kOverFull = 0.005;    ///< share by which a set voltage may be off the full one
constexpr double kMostlyFull = 0.8;    ///< charge that a set voltage has to reach at least
constexpr double kLeadMost = 2.5;      ///< V a cell; more gasses
constexpr double kColdAir = 10;        ///< degC under which half C is fast
constexpr double kColdRate = 0.5;      ///< 1/h
constexpr double kWorthLifting = 0.05; ///< of the hours: a limit that costs less is not named
constexpr double kHarmless = 0.1;      ///< 1/h; nickel cells take that on and on
constexpr double kSafely = 0.95;       ///< of the current at which a part is just at its limit
constexpr double kPathOhms = 0.03;
constexpr double kHalfFull = 0.5;
constexpr double kFullFrom = 0.97;     ///< charge under which nothing is called full
constexpr double kEndShare = 0.05;     ///< of the capacity: the usual end current
constexpr double kOverTwentieth = 1.5; ///< times that: an end current that is the cause

/// A charger with its pack and place, where the file has them all.
struct Set {
    const Stage& stage;
    const Charger& charger;
    const Stage& packStage;
    const Pack& pack;
    ChargeSettings settings;
};

template <class Look>
void eachCharger(const RuleInput& s, Look look) {
    for (const Stage& stage : s.project.stages)
        if (const auto* charger = std::get_if<Charger>(&stage.part))
            if (const Stage* pack = s.project.stage(charger->charges))
                look(Set{stage, *charger, *pack, std::get<Pack>(pack->part),
                         ChargeSettings(*charger, std::get<Pack>(pack->part))});
}

/// The charges that could be looked at, each with its bench.
template <class Look>
void eachCharge(const RuleInput& s, Look look) {
    for (const ChargeAnalysis& charge : s.charges) {
        ChargeOptions ask;
        ask.charger = charge.usual.charger;
        ask.source = charge.usual.source;
        if (const auto bench = chargeContextOf(s.project, ask))
            look(*bench.value(), charge);
    }
}

/// Lower current, with the resistor that programs it where there is one.
Fix currentFix(const Stage& stage, double amps) {
    const auto& charger = std::get<Charger>(stage.part);
    std::string label = "Charge at " + writeQuantity(amps, Unit::ampere);
    std::optional<double> ohms;
    if (charger.programK) {
        ohms = seriesAtOrOver("E24", *charger.programK / amps);
        amps = *charger.programK / *ohms;
        label = fmt::format("Charge at {}, {}", writeQuantity(amps, Unit::ampere),
                            writeQuantity(*ohms, Unit::ohm));
    }
    return editFix(
        label, fmt::format("let {} charge at {}", nameOf(stage), writeQuantity(amps, Unit::ampere)),
        [id = stage.id, amps, ohms](const Project& project) {
            Project next = project;
            auto& c = std::get<Charger>(next.stage(id)->part);
            c.chargeCurrent = Amps{amps};
            if (ohms)
                c.programOhm = Ohms{*ohms};
            return next;
        });
}

Fix pathFix(const std::string& charger) {
    return editFix("Add a power path", "add a power path", [charger](const Project& project) {
        return withPowerPath(project, charger, Volts{0}, Ohms{kPathOhms});
    });
}

double fullOf(const Pack& pack) {
    return pack.series * pack.cell.full.value_or(Volts{voltsOf(pack.cell.chemistry).fresh}).value();
}

/// Modes that the device stays in: the base, and what a window of the day holds.
std::vector<std::size_t> lastingModes(const Project& p) {
    std::vector<std::size_t> modes{p.baseMode()};
    for (std::size_t i = 0; i < p.modes.size(); ++i)
        if (p.modes[i].isWindowed())
            modes.push_back(i);
    return modes;
}

/// What the device takes at a voltage of the node in the hungriest of those, and in which.
std::pair<double, std::size_t> hungriest(const RuleInput& s, const ChargeContext& b, double volts) {
    double most = -1;
    std::size_t which = b.mode;
    for (const std::size_t mode : lastingModes(s.project)) {
        const BatteryNode node(s.project, b.packAt, b.source, mode, b.ambient, volts);
        const double takes = node.loadAt(volts);
        if (takes > most) {
            most = takes;
            which = mode;
        }
    }
    return {most, which};
}

} // namespace

void notRechargeable(const RuleInput& s, std::vector<Finding>& out) {
    eachCharger(s, [&](const Set& c) {
        if (canRecharge(c.pack.cell))
            return;
        out.push_back(finding(
            "not_rechargeable", Severity::stop, c.packStage.id, "These cells must not be charged",
            fmt::format("{} stands on {} cells: they are used once, and a charger makes them leak "
                        "or burst.",
                        nameOf(c.stage), chemistryText(c.pack.cell.chemistry))));
    });
}

void chargeVoltage(const RuleInput& s, std::vector<Finding>& out) {
    eachCharger(s, [&](const Set& c) {
        const Chemistry chemistry = c.pack.cell.chemistry;
        if (c.settings.volts <= 0 || isNickel(chemistry) || !canRecharge(c.pack.cell))
            return;
        const bool lead = chemistry == Chemistry::leadAcid;
        const double full = lead ? kLeadMost * c.pack.series : fullOf(c.pack);
        const PackModel model(c.pack, s.project.brief.air().usual());
        const double least = model.restVolts(kMostlyFull);
        const bool high = c.settings.volts > full * (1 + kOverFull);
        if (!high && c.settings.volts >= least)
            return;
        Finding f = finding(
            "charge_voltage", Severity::stop, c.stage.id,
            high ? "Charged too high" : "Charged too low",
            fmt::format("{} is set to {}; {:.0f} of these cells in series are full at {}. {}",
                        nameOf(c.stage), voltsBeside(c.settings.volts, full), c.pack.series,
                        volts(full),
                        high ? "More than that swells them or sets them alight."
                             : "At that they never come near it."),
            {{"set_v", c.settings.volts}, {"full_v", full}});
        f.fix = figureFix(
            c.stage, &Charger::chargeVoltage, Volts{full}, "Set " + writeExact(full, Unit::volt),
            fmt::format("set {} to {}", nameOf(c.stage), writeExact(full, Unit::volt)));
        out.push_back(std::move(f));
    });
}

void chargeRate(const RuleInput& s, std::vector<Finding>& out) {
    eachCharger(s, [&](const Set& c) {
        const double limit = c.settings.cellAmps;
        const double amps_ = c.settings.current;
        if (overSet(amps_, limit)) {
            Finding f = finding(
                "charge_rate", Severity::stop, c.stage.id, "Charged faster than the cells allow",
                fmt::format("{} is set to {}; {:.0f} in parallel take {} at the most. A charger "
                            "does not know that.",
                            nameOf(c.stage), amps(amps_), c.pack.parallel, amps(limit)),
                {{"set_a", amps_}, {"limit_a", limit}});
            f.fix = currentFix(c.stage, limit);
            out.push_back(std::move(f));
            return;
        }
        const double half = kColdRate * c.pack.cell.capacity.value() * c.pack.parallel;
        const auto low = s.project.brief.air().low;
        if (!isRechargeableLithium(c.pack.cell.chemistry) || !low || low->value() >= kColdAir ||
            !exceeds(amps_, half))
            return;
        Finding f = finding(
            "charge_rate", Severity::care, c.stage.id, "Fast for the cold",
            fmt::format("{} charges at {}, more than half the capacity an hour; down at {:.0f} °C "
                        "that ages lithium cells quickly.",
                        nameOf(c.stage), amps(amps_), low->value()),
            {{"set_a", amps_}, {"limit_a", half}});
        f.fix = currentFix(c.stage, half);
        out.push_back(std::move(f));
    });
}

void chargeTopology(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        if (look.usual.failure != ChargeFailure::wrongTopology)
            return;
        const Stage& stage = s.project.stages[b.charger];
        const double input = b.feed.noLoadVolts();
        const double limit = topologyLimit(b);
        const bool boost = b.limits.converter().topology == Topology::boost;
        Finding f = finding(
            "charge_topology", Severity::stop, stage.id,
            boost ? nameOf(stage) + " passes its input in" : nameOf(stage) + " has no headroom",
            boost ? fmt::format("{} come in; a boost has to have less than {}, the empty pack, or "
                                "it hands the source straight to the cells.",
                                volts(input), volts(limit))
                  : fmt::format("{} come in, and it takes more than {} to fill the pack.",
                                volts(input), volts(limit)),
            {{"input_v", input}, {"limit_v", limit}});
        out.push_back(std::move(f));
    });
}

void chargeInput(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis&) {
        const Stage& stage = s.project.stages[b.charger];
        const double limit = neverAboveOf(stage.part);
        if (!overSet(b.feed.highVolts(), limit))
            return;
        out.push_back(finding("never_above", Severity::stop, stage.id,
                              nameOf(stage) + " would be damaged",
                              fmt::format("From {} it can see {}; it survives {} at most.",
                                          nameOf(s.project.stages[b.source]),
                                          voltsBeside(b.feed.highVolts(), limit), volts(limit)),
                              {{"sees_v", b.feed.highVolts()}, {"limit_v", limit}}));
    });
}

void chargeSource(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        if (look.usual.failure != ChargeFailure::sourceTooWeak)
            return;
        const Stage& source = s.project.stages[b.source];
        const Stage& stage = s.project.stages[b.charger];
        const double limit = b.feed.source().limit;
        const bool socket = std::holds_alternative<Usb>(source.part);
        Finding f = finding(
            socket ? "socket_class" : "trips", Severity::stop, source.id,
            nameOf(source) + " lets go of the charger",
            fmt::format("{} asks for more than the {} that {} gives, and nothing tells it to ask "
                        "for less.",
                        nameOf(stage), limit > 0 ? amps(limit) : "current", nameOf(source)),
            {{"rated_a", limit}});
        if (limit > 0)
            f.fix = figureFix(stage, &Charger::inputLimit, Amps{limit},
                              "Limit its input to " + amps(limit),
                              fmt::format("limit the input of {}", nameOf(stage)));
        out.push_back(std::move(f));
    });
}

void freezingCharge(const RuleInput& s, std::vector<Finding>& out) {
    eachCharger(s, [&](const Set& c) {
        if (c.charger.thermistor.value_or(false) || !canRecharge(c.pack.cell))
            return;
        const auto& air = s.project.brief.air();
        const auto from = chargeFromOf(c.pack.cell);
        const auto& to = c.pack.cell.chargeTo;
        const bool cold = from && air.low && fallsBelow(air.low->value() + 300, *from + 300);
        const bool warm = to && air.high && exceeds(air.high->value(), to->value());
        if (!cold && !warm)
            return;
        const double air_ = cold ? air.low->value() : air.high->value();
        const double limit = cold ? *from : to->value();
        Finding f = finding(
            "freezing_charge", Severity::stop, c.stage.id,
            cold ? "It would be charged in frost" : "It would be charged in the heat",
            fmt::format("The brief goes {} to {:.0f} °C; these cells may be charged {} {:.0f} °C. "
                        "{} has no thermistor to stop it.",
                        cold ? "down" : "up", air_, cold ? "from" : "up to", limit,
                        nameOf(c.stage)),
            {{"air_c", air_}, {"limit_c", limit}});
        f.fix = figureFix(c.stage, &Charger::thermistor, true, "Add a thermistor",
                          "add a thermistor to " + nameOf(c.stage));
        out.push_back(std::move(f));
    });
}

void recoveryTrap(const RuleInput& s, std::vector<Finding>& out) {
    const auto look = [&](const ChargeContext& b) {
        const ChargeSettings& set = b.settings;
        if (set.recoveryBelow <= 0 || set.recoveryCurrent <= 0 || !canRecharge(b.pack.cell))
            return;
        const auto [takes, mode] = hungriest(s, b, set.recoveryBelow * (1 - kRelTol));
        if (takes < set.recoveryCurrent * (1 - kRelTol))
            return;
        Finding f = finding(
            "recovery_trap", Severity::stop, s.project.stages[b.charger].id,
            "A flat pack never recovers",
            fmt::format("Under {} the charger gives {}, and in mode “{}” the device takes {}: "
                        "nothing is left for the cells.",
                        volts(set.recoveryBelow), amps(set.recoveryCurrent),
                        nameOf(s.project.modes[mode]), amps(takes)),
            {{"load_a", takes}, {"limit_a", set.recoveryCurrent}});
        f.fix = pathFix(s.project.stages[b.charger].id);
        out.push_back(std::move(f));
    };
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis&) { look(b); });
    // A flat pack at dawn, with the device on it.
    for (const std::string& id : sunChargersOf(s.project)) {
        ChargeOptions ask;
        ask.charger = id;
        if (const auto found = panelOf(s.project, *s.project.stage(id))) {
            ask.source = s.project.stages[found.value().at].id;
            if (const auto bench = chargeContextOf(s.project, ask))
                look(*bench.value());
        }
    }
}

namespace {

/// Means over the day, by every mode's share of it, with the pack half full.
struct OverDay {
    double takes = 0;
    double gives = 0;
};
OverDay overDay(const RuleInput& s, const ChargeContext& b) {
    OverDay day;
    const Schedule schedule(s.project);
    const std::vector<double> hours = schedule.hoursBySetting();
    const double e = b.restVolts(kHalfFull);
    const double r = b.packOhms(kHalfFull);
    std::map<std::size_t, ChargerPoint> moments;
    for (std::size_t k = 0; k < schedule.settings.size(); ++k)
        for (const Share& share : schedule.settings[k].shares) {
            if (share.share <= 0 || hours[k] <= 0)
                continue;
            if (!moments.contains(share.mode)) {
                ChargeOptions ask;
                ask.charger = s.project.stages[b.charger].id;
                ask.source = s.project.stages[b.source].id;
                ask.from = kHalfFull;
                ask.mode = share.mode;
                if (const auto there = chargeContextOf(s.project, ask))
                    moments[share.mode] = there.value()->limits.at(e, r, false);
            }
            const double part = share.share * hours[k] / 24;
            day.takes += part * moments[share.mode].node.loadAmps;
            day.gives += part * moments[share.mode].chargerAmps;
        }
    return day;
}

} // namespace

void deviceTakesMore(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        const ChargeRun& c = look.usual;
        const OverDay day = overDay(s, b);
        const bool always = day.gives > 0 && day.takes >= day.gives;
        const bool inBase = c.failure == ChargeFailure::deviceTakesMore;
        const bool slow = c.failure == ChargeFailure::tooSlow;
        if (c.failure && !inBase && !slow)
            return;
        if (!always && !inBase && !slow)
            return;
        // The base mode is most of the day; where the rest gives it back it is worth a look only.
        const bool passing = inBase && day.takes < day.gives && s.project.modes.size() > 1;
        const double takes = inBase || slow ? c.takesAmps : day.takes;
        const double gives = inBase || slow ? c.givesAmps : day.gives;
        const Stage& stage = s.project.stages[b.charger];
        Finding f = finding(
            "device_takes_more", passing || (slow && !always) ? Severity::care : Severity::stop,
            stage.id,
            slow ? "The charge hardly gains" : "The device takes more than the charger gives",
            fmt::format("The device takes {} at the cells{}, {} gives {}: the charge gets nowhere "
                        "while it is on. {}",
                        amps(takes), inBase || slow ? "" : ", on the mean of the day,",
                        nameOf(stage), amps(gives), offText(c)),
            {{"takes_a", takes}, {"gives_a", gives}});
        if (c.offHoursToFull)
            f.numbers["off_hours"] = *c.offHoursToFull;
        if (!hasPowerPath(s.project, stage.id))
            f.fix = pathFix(stage.id);
        out.push_back(std::move(f));
    });
}

void endsEarly(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        const ChargeRun& c = look.usual;
        if (c.failure != ChargeFailure::endsEarly || !c.endsAtCharge)
            return;
        const Stage& stage = s.project.stages[b.charger];
        const double twentieth = kEndShare * b.pack.cell.capacity.value() * b.pack.parallel;
        // At the end current it is the end current; else the clock or the set voltage.
        const bool byCurrent =
            c.endAmps >= kOverTwentieth * twentieth || (c.setAmps > 0 && c.endAmps >= c.setAmps);
        // Set lower on purpose it is gentle, and no fault of the end current.
        const bool gentle = b.settings.volts > 0 && b.settings.volts < b.restVolts(kFullFrom);
        Finding f = finding(
            "ends_early", gentle && !byCurrent ? Severity::note : Severity::stop, stage.id,
            gentle && !byCurrent ? "It is filled to less than full" : "It ends far from full",
            chargeHeadline(s.project, c),
            {{"ends_at_charge", *c.endsAtCharge}, {"end_a", c.endAmps}, {"set_a", c.setAmps}});
        const double end = std::min(twentieth, c.setAmps > 0 ? c.setAmps / 2 : twentieth);
        if (byCurrent && end < c.endAmps)
            f.fix = figureFix(stage, &Charger::endCurrent, Amps{end}, "End it at " + amps(end),
                              fmt::format("let {} end at {}", nameOf(stage), amps(end)));
        out.push_back(std::move(f));
    });
}

namespace {

/// What the device takes at the set voltage in a mode.
double takesAt(const RuleInput& s, const ChargeContext& b, std::size_t mode) {
    const BatteryNode node(s.project, b.packAt, b.source, mode, b.ambient, b.settings.volts);
    return node.loadAt(b.settings.volts);
}

} // namespace

void endTrap(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        const ChargeSettings& set = b.settings;
        if (look.usual.failure == ChargeFailure::deviceTakesMore || !endsByCurrent(b.part) ||
            isSupercapacitor(b.pack.cell))
            return;
        if (set.volts <= 0 || set.endCurrent <= 0 || !canRecharge(b.pack.cell))
            return;
        const auto [takes, mode] = hungriest(s, b, set.volts);
        const double least = set.endCurrent * (1 - kRelTol);
        if (takes < least)
            return;
        // It ends in the first moment whose mode leaves it alone.
        const std::vector<double> shares = Schedule(s.project).modeShares(s.project.modes.size());
        double held = 0;
        for (std::size_t m = 0; m < shares.size(); ++m)
            if (shares[m] > 0 && takesAt(s, b, m) >= least)
                held += shares[m];
        const double whole = std::accumulate(shares.begin(), shares.end(), 0.0);
        const bool never = held >= whole * (1 - kRelTol);
        // The charge itself knows better where the device gives up meanwhile, or takes too much.
        if (never && !look.usual.curve.empty() && look.usual.failure != ChargeFailure::endTrap)
            return;
        const std::string says = fmt::format(
            "At {} the device takes {} in mode “{}”, and the charger ends at {}: ",
            volts(set.volts), amps(takes), nameOf(s.project.modes[mode]), amps(set.endCurrent));
        const std::string off =
            look.usual.offHoursToFull
                ? fmt::format(" With the output switched off it is full after {}.",
                              writeHours(*look.usual.offHoursToFull))
                : std::string();
        Finding f = finding(
            "end_trap", never ? Severity::stop : Severity::note, s.project.stages[b.charger].id,
            never ? "The charge never ends" : "The charge waits for the device",
            never ? says + "it holds the cells at their fullest for good." + off
                  : says + fmt::format("that delays its end, for {} of the day.{}",
                                       writeHours(held * 24), off),
            {{"load_a", takes}, {"limit_a", set.endCurrent}, {"hours_a_day", held * 24}});
        if (look.usual.offHoursToFull)
            f.numbers["off_hours"] = *look.usual.offHoursToFull;
        if (never && !hasPowerPath(s.project, s.project.stages[b.charger].id))
            f.fix = pathFix(s.project.stages[b.charger].id);
        out.push_back(std::move(f));
    });
}

void chargeHeat(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        if (!look.hot || b.limits.converter().theta <= 0)
            return;
        const Stage& stage = s.project.stages[b.charger];
        const double most = maxPartOf(stage.part);
        const bool folds = look.hot->hoursLimitedBy(ChargeLimit::heat) > 0;
        const bool past = overSet(look.hot->peakPart, most);
        if (!folds && !past)
            return;
        const double limit = folds ? b.settings.foldBack : most;
        const double air = s.project.brief.air().high.value_or(b.ambient).value();
        // In proportion to the loss: what comes in, less the pack, stays the same.
        double peak = 0;
        double atPeak = 0;
        for (const ChargePoint& p : look.hot->curve)
            if (p.loss > peak) {
                peak = p.loss;
                atPeak = p.packAmps;
            }
        const double may = (limit - air) / b.limits.converter().theta;
        const double allowed = peak > 0 ? kSafely * atPeak * std::min(1.0, may / peak) : 0;
        Finding f = finding(
            "charge_heat", past && !folds ? Severity::stop : Severity::care, stage.id,
            folds ? nameOf(stage) + " folds back" : nameOf(stage) + " gets too warm",
            folds ? fmt::format("In air of {:.0f} °C it holds its loss at {} for {}: {} would stay "
                                "under {:.0f} °C.",
                                air, writeQuantity(may, Unit::watt),
                                writeHours(look.hot->hoursLimitedBy(ChargeLimit::heat)),
                                amps(allowed), limit)
                  : fmt::format("In air of {:.0f} °C it reaches {:.0f} °C and may have {:.0f} °C: "
                                "{} would stay under it.",
                                air, look.hot->peakPart, limit, amps(allowed)),
            {{"part_c", look.hot->peakPart}, {"limit_c", limit}, {"allowed_a", allowed}});
        if (allowed > 0 && allowed < b.settings.current)
            f.fix = currentFix(stage, std::floor(allowed * 100) / 100);
        out.push_back(std::move(f));
    });
}

void chargeLimited(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        if (!look.lift || !look.usual.hoursToFull || look.lift->relaxed == ChargeLimit::cc ||
            !look.lift->hours || look.lift->saved < kWorthLifting * *look.usual.hoursToFull)
            return;
        const Part& source = s.project.stages[b.source].part;
        const auto from = std::find_if(
            look.usual.phases.begin(), look.usual.phases.end(),
            [&](const ChargePhase& phase) { return phase.limit == look.lift->relaxed; });
        const std::string next =
            look.lift->next ? limitNamed(*look.lift->next, source) : std::string("nothing");
        out.push_back(finding(
            "charge_limited", Severity::note, s.project.stages[b.charger].id,
            fmt::format("{} holds the charge back",
                        [&] {
                            std::string who = limitNamed(look.lift->relaxed, source);
                            who[0] =
                                static_cast<char>(std::toupper(static_cast<unsigned char>(who[0])));
                            return who;
                        }()),
            fmt::format("From {} on, and it costs {}: without it {} is next, and full after {}.",
                        from->from > 0 ? writeHours(from->from) : std::string("the start"),
                        writeHours(look.lift->saved), next, writeHours(*look.lift->hours)),
            {{"hours_lost", look.lift->saved}, {"hours", *look.usual.hoursToFull}}));
    });
}

void dumbCharger(const RuleInput& s, std::vector<Finding>& out) {
    eachCharge(s, [&](const ChargeContext& b, const ChargeAnalysis& look) {
        const bool open = b.limits.converter().topology == Topology::direct;
        if (!open || !look.usual.hoursToFull)
            return;
        const Stage& stage = s.project.stages[b.charger];
        const double ampHours = b.pack.cell.capacity.value() * b.pack.parallel;
        const double rate = look.usual.afterAmps / ampHours;
        const bool lithium = isRechargeableLithium(b.pack.cell.chemistry);
        const bool harms = lithium || rate > kHarmless;
        out.push_back(finding(
            "dumb_charger",
            lithium ? Severity::stop
            : harms ? Severity::care
                    : Severity::note,
            stage.id, "Nothing ends this charge but you",
            lithium
                ? fmt::format("{} goes on pushing into full lithium cells until they burn. They "
                              "take a charger that ends.",
                              nameOf(stage))
                : fmt::format("From empty it is full after {}, then {} go on into it, {} of its "
                              "capacity an hour{}. Take it off after {}.",
                              writeHours(*look.usual.hoursToFull / (1 - look.usual.from)),
                              amps(look.usual.afterAmps), writeShare(rate),
                              harms ? ": that cooks it" : "",
                              writeHours(*look.usual.hoursToFull / (1 - look.usual.from))),
            {{"after_a", look.usual.afterAmps}, {"hours", *look.usual.hoursToFull}}));
    });
}

} // namespace sipper::rules
