// SPDX-License-Identifier: GPL-3.0-or-later
#include "protect/text.hpp"

#include "base/tolerance.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "quantity/write.hpp"
#include "runtime/shelf.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kMinuteSeconds = 60;
constexpr double kHourSeconds = 3600;
constexpr double kDaySeconds = 24 * kHourSeconds;
constexpr double kMonthSeconds = kHoursPerMonth * kHourSeconds;
constexpr double kSameVolts = 0.02;
constexpr double kHotWatts = 3; ///< from which a resistor burns fingers

std::string v(double volts) {
    return writeQuantity(volts, Unit::volt);
}
std::string a(double amps) {
    return writeQuantity(amps, Unit::ampere);
}
/// As fine as it takes to tell it from another.
std::string beside(double volts, double other) {
    return std::abs(volts - other) < kSameVolts ? fmt::format("{:.3f} V", volts)
                                                : fmt::format("{:.2f} V", volts);
}
/// Hundredths where tenths would hide what is meant.
std::string fine(double volts) {
    return fmt::format("{:.2f} V", volts);
}

std::string loadsText(const Project& p, const Fault& f) {
    std::string text;
    for (std::size_t i = 0; i < p.loads.size(); ++i)
        text += fmt::format("{}{} {}", i > 0 ? ", " : "", nameOf(p.loads[i]),
                            f.volts[i] == 0 ? "off" : fine(f.volts[i]) + (f.harmed[i] ? " !" : ""));
    return text;
}

} // namespace

std::string longText(double s) {
    const auto round = [](double n) { return n < 10 ? std::round(n * 10) / 10 : std::round(n); };
    if (s < 2 * kMinuteSeconds)
        return fmt::format("{:g} s", round(s));
    if (s < 2 * kHourSeconds)
        return fmt::format("{:g} min", round(s / kMinuteSeconds));
    if (s < 3 * kDaySeconds)
        return fmt::format("{:g} h", round(s / kHourSeconds));
    if (s < 2 * kMonthSeconds)
        return fmt::format("{:g} days", round(s / kDaySeconds));
    if (s < 36 * kMonthSeconds)
        return fmt::format("{:g} months", round(s / kMonthSeconds));
    return fmt::format("{:g} years", round(s / kMonthSeconds / 12));
}

ProtectVerdict guardVerdict(const Project& p, const GuardAnalysis& g) {
    const Rebound& r = g.usual;
    if (!r.acts)
        return {"never acts",
                fmt::format("{} gives up before the cells are down to {}.",
                            r.before.empty() ? "The line" : nameAt(p, r.before), v(g.cutoff)),
                false};
    if (r.chatters)
        return {"chatters",
                fmt::format("Off at {}, back at {}: the cells come back to {} by themselves, every "
                            "{}. {:.2f} V apart would hold.",
                            v(g.cutoff), v(g.reconnect), beside(r.settledVolts, g.reconnect),
                            longText(r.period()), std::ceil(g.minHysteresis * 100) / 100),
                true};
    if (g.latches)
        return {"stays open",
                fmt::format("It waits for {}, and the pack reaches {} at most: once open, it stays "
                            "open.",
                            v(g.reconnect), v(g.reaches)),
                true};
    if (!g.endsRun && !g.stopsFirst.empty())
        return {"last line",
                fmt::format("{} gives up first; the guard opens at {} all the same, and holds.",
                            nameAt(p, g.stopsFirst), v(g.cutoff)),
                false};
    const double room = g.reconnect - r.settledVolts;
    return {
        g.hysteresisTooSmall || g.cutoff + g.minHysteresis > g.reconnect ? "narrow" : "holds",
        g.cutoff + g.minHysteresis > g.reconnect
            ? fmt::format("Off at {}, back at {}. Now it holds; {} the cells come back {:.2f} V.",
                          v(g.cutoff), v(g.reconnect),
                          g.leastWhen == "cold and aged" ? "in the cold and aged"
                          : g.leastWhen == "cold"        ? "in the cold"
                                                         : "aged",
                          g.minHysteresis)
            : fmt::format("Off at {}, back at {}. The cells come back to {}: {:.2f} V to spare{}.",
                          v(g.cutoff), v(g.reconnect), fine(r.settledVolts), room,
                          g.hysteresisTooSmall
                              ? fmt::format("; under {:g} V a cell is little for noise and "
                                            "tolerance",
                                            kNarrowPerCell)
                              : ""),
        g.cutoff + g.minHysteresis > g.reconnect};
}

ProtectVerdict protectVerdict(const Project& p, const ProtectionAnalysis& look) {
    if (!p.pack())
        return {"nothing to cut off", "No cells: fuses, faults and dividers are what counts.",
                false};
    if (look.guards.empty()) {
        const Pack& pack = *p.pack();
        const double floor = damageVolts(pack);
        if (floor <= 0)
            return {"no guard",
                    !canRecharge(pack.cell) ? "These cells are used once: nothing has to stop them."
                    : isNickel(pack.cell.chemistry) && pack.series >= 2
                        ? "Lying empty does not harm these cells; a load that goes on reverses the "
                          "weakest of them."
                        : "Being empty does not harm these cells.",
                    false};
        if (pack.cell.protectedCell.value_or(false))
            return {"no guard", "Each cell has its own protection; it is the last line.", false};
        return {"no guard",
                fmt::format("Nothing on the line keeps the cells over {}, {} a cell.", v(floor),
                            v(floor / pack.series)),
                true};
    }
    // The gravest of the guards speaks.
    ProtectVerdict first = guardVerdict(p, look.guards.front());
    for (const GuardAnalysis& g : look.guards)
        if (ProtectVerdict each = guardVerdict(p, g); each.bad && !first.bad)
            first = each;
    return first;
}

std::string afterCutText(const Project& p, const GuardAnalysis& g) {
    if (!g.usual.acts)
        return {};
    const std::string draws =
        g.openAmps <= 0 ? std::string("After the cut nothing flows but the cells' own leakage")
        : g.openShare < 0.5
            ? fmt::format("After the cut {} go on flowing, and the cells leak more than that",
                          a(g.openAmps))
            : fmt::format("After the cut {} go on flowing", a(g.openAmps));
    if (!g.ruinMonths)
        return draws + ".";
    if (*g.ruinMonths <= 0)
        return draws + ", and the cells already rest under their floor.";
    return fmt::format("{}: the cells are ruined after {}{}.", draws,
                       lastsText(*g.ruinMonths, p.pack()->cell.chemistry),
                       p.brief.shelfMonths && *g.ruinMonths < *p.brief.shelfMonths
                           ? fmt::format(", you ask for {:g} months", *p.brief.shelfMonths)
                           : "");
}

std::string foundAgainText(const Project& p, const ChargerRestart& f) {
    const std::string name = nameAt(p, f.charger);
    if (!f.finds)
        return fmt::format("{} does not find the pack again: it rests at {}, under the {} that it "
                           "needs, and what it trickles is drawn.",
                           name, v(f.restVolts), v(f.threshold));
    std::string text =
        f.recovers
            ? fmt::format("{} finds it, and trickles up to {} first", name, v(f.threshold))
            : fmt::format("{} finds the pack at {} and charges it at once", name, v(f.restVolts));
    if (f.undetectedAfter)
        text += fmt::format("; left lying for {}, it no longer does",
                            longText(*f.undetectedAfter * kMonthSeconds));
    return text + ".";
}

std::string proofLoadText(const DrainTest& proof) {
    return fmt::format("{}, {}", writeQuantity(proof.ohms, Unit::ohm),
                       writeQuantity(proof.watts, Unit::watt));
}

std::string proofText(const GuardAnalysis& g, const DrainTest& proof) {
    std::string text = fmt::format(
        "In minutes: a bench supply in the cells' place, turned down slowly from {}: the output "
        "goes at {}; turned up again, it comes back at {}. With cells: {} across the output "
        "(it burns {}) take {} from full",
        v(g.cutoff + 1), v(g.cutoff), v(g.reconnect), writeQuantity(proof.ohms, Unit::ohm),
        writeQuantity(proof.watts, Unit::watt), longText(proof.hours * kHourSeconds));
    if (proof.fromFifthHours > 0)
        text += fmt::format(", {} from a fifth", longText(proof.fromFifthHours * kHourSeconds));
    text +=
        fmt::format(". If the meter at the cells says {} and the output is still there, stop: it "
                    "does not work. Open, the cells say {} at once, {} a minute later, {} in the "
                    "end.",
                    fine(proof.mustOpenBy), fine(proof.atOnceVolts), fine(proof.minuteVolts),
                    fine(proof.settledVolts));
    if (proof.watts > kHotWatts)
        text += " The resistor gets hot enough to burn: on something that minds nothing, twice the "
                "watts at least, and stay beside it.";
    return text;
}

std::string faultText(FaultKind kind) {
    static constexpr std::array<std::string_view, 7> words{
        "fails short",      "fails open",        "turned to its end", "wrong way round",
        "one cell shorted", "one cell reversed", "all plugged in"};
    return std::string(words[static_cast<std::size_t>(kind)]);
}

std::string clearingText(const Project& p, const Fault& f) {
    const std::string by = f.by.empty() ? "" : nameAt(p, f.by);
    switch (f.clearing) {
    case Clearing::notNeeded:
        return harmlessText(p, f);
    case Clearing::nothing: {
        if (f.onPack && f.onPack->over) // the cells before the loads
            return harmlessText(p, f);
        if (f.kind == FaultKind::reversed)
            return "nothing; a reversal guard would";
        for (const Stage* s : pathToSource(p, f.stage))
            if (std::holds_alternative<Fuse>(s->part))
                return "nothing; a crowbar and " + nameOf(*s) + " would";
        return "nothing; a crowbar with a fuse would";
    }
    case Clearing::crowbarFuse:
        return by + ", after the crowbar";
    case Clearing::crowbarLimit:
        return "the crowbar holds it down, " + by + " limits";
    case Clearing::crowbarBurns:
        return "the crowbar, until it burns: no fuse";
    case Clearing::clampFuse:
        return by + ", after the clamp";
    case Clearing::clampHolds:
        return by + " holds it";
    case Clearing::clampBurns:
        return "the clamp, until it burns";
    case Clearing::blocked:
        return by + " blocks it";
    }
    return {};
}

namespace {

/// `the pack is charged without end, up to 6.60 V a cell: `
std::string onPackText(const Fault& f) {
    if (!f.onPack || !f.onPack->over)
        return "the pack is charged without end: ";
    return fmt::format("the pack is pushed to {}, {} a cell{}: ", v(f.onPack->volts),
                       v(f.onPack->perCell),
                       f.onPack->amps > 0 ? ", with up to " + a(f.onPack->amps) : std::string());
}

} // namespace

std::string harmlessText(const Project& p, const Fault& f) {
    const Stage* stage = p.stage(f.stage);
    if (!stage)
        return {};
    const Part& part = stage->part;
    const bool off = std::all_of(f.volts.begin(), f.volts.end(), [](double x) { return x == 0; });
    switch (f.kind) {
    case FaultKind::failsShort:
        if (std::holds_alternative<Guard>(part))
            return "nothing stops the cells from running flat";
        if (std::holds_alternative<Fuse>(part))
            return "nothing opens in a short";
        if (std::holds_alternative<Diode>(part) || std::holds_alternative<IdealDiode>(part) ||
            std::holds_alternative<Select>(part))
            return "nothing blocks any more";
        if (std::holds_alternative<Switch>(part))
            return "it can't be switched off";
        if (std::holds_alternative<Wire>(part) || std::holds_alternative<Filter>(part) ||
            std::holds_alternative<Watch>(part))
            return "nothing changes";
        if (std::holds_alternative<Capacitor>(part) || std::holds_alternative<Crowbar>(part) ||
            std::holds_alternative<Clamp>(part))
            return "it is bridged, not joined to ground";
        if (isCharger(part))
            return onPackText(f) + "its own protection is what is left";
        return off ? "off" : "inside what the loads survive";
    case FaultKind::failsOpen:
        return off ? "off" : "what hangs on it is off";
    case FaultKind::misSet:
        return !isCharger(part) ? "inside what the loads survive"
               : f.onPack && f.onPack->over
                   ? fmt::format("the cells are charged up to {}, {} a cell", v(f.onPack->volts),
                                 v(f.onPack->perCell))
                   : std::string("the cells are charged to no more than full");
    case FaultKind::reversed:
        if (isCharger(part))
            return "the charger dies, the pack holds its node";
        if (isExternalSource(part) && !off)
            return "what it feeds first dies or blocks";
        return off ? "off" : "nothing reaches a load";
    case FaultKind::cellShort:
        return std::any_of(p.stages.begin(), p.stages.end(),
                           [](const Stage& s) { return isCharger(s.part); })
                   ? "runs on fewer cells; the charger overcharges the others"
                   : "runs on fewer cells";
    case FaultKind::cellReversed:
        return "it weakens the rest and is itself reversed further";
    case FaultKind::twoSources:
        return "the higher one feeds";
    }
    return {};
}

bool worthARow(const Project& p, const Fault& f, const std::vector<double>& healthy) {
    if (f.harms() || f.clearing != Clearing::notNeeded)
        return true;
    const Stage* stage = p.stage(f.stage);
    if (!stage)
        return false;
    const Part& part = stage->part;
    if (f.kind == FaultKind::failsShort)
        return std::holds_alternative<Guard>(part) || isRegulator(part) || isCharger(part);
    if (f.kind == FaultKind::failsOpen)
        return isRegulator(part);
    if (f.kind == FaultKind::misSet)
        return true;
    if (f.kind == FaultKind::reversed) {
        bool moved = false;
        for (std::size_t i = 0; i < f.volts.size() && i < healthy.size(); ++i)
            moved = moved || std::abs(f.volts[i] - healthy[i]) > kSameVolts;
        return moved && !std::holds_alternative<Diode>(part) &&
               !std::holds_alternative<IdealDiode>(part);
    }
    return true;
}

std::string weakestElementText(const WireSegment& s) {
    switch (s.first) {
    case WeakestElement::fuse:
        return s.need.continuous > 0 && s.fuse && *s.fuse < s.need.continuous
                   ? "the fuse opens in normal use"
               : s.fuse && s.lead && exceeds(*s.fuse, *s.lead) ? "the fuse, in a short"
                                                               : "the fuse, as it should";
    case WeakestElement::source:
        return "what feeds it limits first";
    case WeakestElement::lead:
        return s.fuse ? "this lead burns before the fuse" : "this lead burns first";
    case WeakestElement::cells:
        return s.fuse ? "the cells take it before the fuse"
                      : "no lead is stated: the cells take it";
    case WeakestElement::unknown:
        return s.lead ? "what its source may give is not stated" : "no lead and no limit is stated";
    }
    return {};
}

std::string pushText(const Project& p, const BackfeedPath& push) {
    const std::string from = nameAt(p, push.from);
    const std::string into = nameAt(p, push.into);
    const std::string amps = push.unlimited ? "a current that nothing stated limits" : a(push.amps);
    switch (push.kind) {
    case BackfeedKind::night:
        return push.amps > 0
                   ? fmt::format("{} pushes {} into {} in the dark.", from, amps, into)
                   : fmt::format("{} stands on {} in the dark: a leak, as {} is the higher.", from,
                                 into, into);
    case BackfeedKind::socket:
        return fmt::format("{} puts {} on the contacts of {} when it is unplugged.", from,
                           v(push.volts), into);
    case BackfeedKind::packs:
    case BackfeedKind::sources:
        return fmt::format("{} pushes {} into {}: they stand {} apart at worst.", from, amps, into,
                           v(push.volts));
    }
    return {};
}

std::string protectText(const Project& p, const ProtectionAnalysis& look) {
    const ProtectVerdict verdict = protectVerdict(p, look);
    std::string text = fmt::format("{}: {}\n", verdict.word, verdict.says);
    for (const GuardAnalysis& g : look.guards) {
        const ProtectVerdict each = guardVerdict(p, g);
        text += fmt::format("\n{}: {}. {}\n", nameAt(p, g.id), each.word, each.says);
        if (!g.usual.acts)
            continue;
        text +=
            fmt::format("  after {} from full in mode “{}”, {:.0f} % of the charge left\n",
                        writeHours(g.usual.cutHours), nameAt(p, g.mode), g.usual.cutCharge * 100);
        text += fmt::format("  at once {}, in the end {}; apart at least {:.3f} V ({})\n",
                            fine(g.usual.atOnceVolts), fine(g.usual.settledVolts), g.minHysteresis,
                            g.leastWhen.empty() ? "now" : g.leastWhen);
        text += "  " + afterCutText(p, g) + "\n";
        for (const ChargerRestart& f : g.chargers)
            text += "  " + foundAgainText(p, f) + "\n";
        if (g.proof)
            text += "  proof: " + proofText(g, *g.proof) + "\n";
    }
    if (!look.segments.empty())
        text += "\nCurrents in order\n";
    for (const WireSegment& s : look.segments) {
        text += fmt::format("  {}: draws {}", s.name, a(s.need.continuous));
        if (s.need.burst > 0)
            text += fmt::format(", {} in a burst", a(s.need.burst));
        if (s.fuse)
            text += fmt::format(", fuse {}", a(*s.fuse));
        if (s.lead)
            text += fmt::format(", lead {}", a(*s.lead));
        if (s.source)
            text += fmt::format(", source {}", a(*s.source));
        text += ": " + weakestElementText(s) + "\n";
    }
    text += "\nOne fault at a time, cells full\n";
    for (const auto* list : {&look.faults.parts, &look.faults.systemFaults})
        for (const Fault& f : *list)
            if (worthARow(p, f, look.faults.healthy))
                text += fmt::format("  {} {}: {}: {}\n", nameAt(p, f.stage), faultText(f.kind),
                                    loadsText(p, f), clearingText(p, f));
    if (!look.backfeeds.empty())
        text += "\nWays back\n";
    for (const BackfeedPath& push : look.backfeeds)
        text += "  " + pushText(p, push) + "\n";
    return text;
}

} // namespace sipper
