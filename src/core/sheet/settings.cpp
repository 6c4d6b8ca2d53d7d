// SPDX-License-Identifier: GPL-3.0-or-later
// What to set before anything hangs on it, in which order to bring it up, and what to beware of.
#include "sheet/sheet.hpp"

#include "charge/limits.hpp"
#include "line/sources.hpp"
#include "parts/chemistry.hpp"
#include "parts/eseries.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "protect/dividers.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kRoomy = 1.5;       ///< times the worst draw, for a supply's limit
constexpr double kCarefulAmps = 0.1; ///< of a bench supply, the first time

std::string exactVolts(double v) {
    return writeExact(std::round(v * 1000) / 1000, Unit::volt);
}

std::string dividerText(double upper, double lower, const std::optional<double>& feedback,
                        double reference) {
    std::string out =
        fmt::format("{} over {}", writeExact(upper, Unit::ohm), writeExact(lower, Unit::ohm));
    if (feedback)
        out += fmt::format(", {} back from the output", writeExact(*feedback, Unit::ohm));
    if (reference > 0)
        out += fmt::format(", reference {}", exactVolts(reference));
    return out;
}

/// The stages from the sources outwards, each once: the order in which things are set.
std::vector<const Stage*> outwardsFromSources(const Project& p) {
    std::vector<const Stage*> list;
    std::set<std::string> seen;
    const auto take = [&](const Stage& stage) {
        if (seen.insert(stage.id).second)
            list.push_back(&stage);
    };
    // The cells first: what they feed is set from them.
    for (const bool cells : {true, false})
        for (const Stage& source : p.stages)
            if (isSource(source.part) && std::holds_alternative<Pack>(source.part) == cells) {
                take(source);
                for (const std::size_t i : downstreamStages(p, source.id))
                    take(p.stages[i]);
            }
    return list;
}

class Sets {
  public:
    Sets(const Project& project, const QuickAnalysis& quick) : m_project(project), m_quick(quick) {}

    std::vector<SheetSet> all() {
        for (const Stage* stage : outwardsFromSources(m_project)) {
            if (std::holds_alternative<Usb>(stage->part))
                socket(*stage);
            else if (std::holds_alternative<Guard>(stage->part))
                guard(*stage);
            else if (isRegulator(stage->part))
                regulator(*stage);
            else if (std::holds_alternative<Charger>(stage->part))
                charger(*stage);
            else if (const auto* watch = std::get_if<Watch>(&stage->part))
                add(*stage, nameOf(*stage) + ": to the input that reads it",
                    dividerText(watch->upper.value(), watch->lower.value(), {}, 0));
        }
        return std::move(m_list);
    }

  private:
    void add(const Stage& stage, std::string what, std::string how, bool proposal = false) {
        m_list.push_back({stage.id, std::move(what), std::move(how), proposal});
    }
    /// The resistors that the part has, else the best that the protection step finds.
    [[nodiscard]] std::pair<std::string, bool> resistors(const Stage& stage,
                                                         const SetByDivider& by) const {
        if (by.upper && by.lower)
            return {dividerText(by.upper->value(), by.lower->value(),
                                by.feedback ? std::optional(by.feedback->value()) : std::nullopt,
                                orZero(by.reference)),
                    false};
        if (!m_quick.protect || !by.reference)
            return {};
        for (const DividerPlace& place : m_quick.protect->dividers) {
            if (place.id != stage.id)
                continue;
            const auto best = dividersFor(place.ask, 1);
            if (!best.empty())
                return {dividerText(best.front().upper, best.front().lower, best.front().feedback,
                                    place.ask.reference) +
                            " (" + place.ask.series + ")",
                        true};
        }
        return {};
    }
    void socket(const Stage& stage) {
        const auto& usb = std::get<Usb>(stage.part);
        const std::string says = socketText(usb);
        add(stage, fmt::format("{}: what it advertises", nameOf(stage)),
            says.substr(0, says.find("; a sink")));
        add(stage, "The device's own socket, where it is of type C",
            "5.1 kΩ from each of the two configuration lines to ground");
    }
    void guard(const Stage& stage) {
        const auto& g = std::get<Guard>(stage.part);
        const auto [how, proposal] = resistors(stage, g);
        add(stage, fmt::format("{}: off at {}", nameOf(stage), exactVolts(g.cutoff.value())),
            how.empty() ? "as it comes, or by its trimmer" : how, proposal);
        if (g.reconnect)
            add(stage,
                fmt::format("{}: on again at {}", nameOf(stage), exactVolts(g.reconnect->value())),
                fmt::format("{} apart",
                            writeQuantity(g.reconnect->value() - g.cutoff.value(), Unit::volt)));
    }
    void regulator(const Stage& stage) {
        const ActivePart& own = *active(stage.part);
        if (const auto amps = setCurrentOf(stage.part)) {
            add(stage,
                fmt::format("{}: {} through its strings", nameOf(stage),
                            writeQuantity(amps->value(), Unit::ampere)),
                "fixed: read only, strings on it");
            return;
        }
        auto [how, proposal] = resistors(stage, own);
        if (how.empty())
            how = own.adjustable.value_or(false)
                      ? "trimmer: down first, then up to it" +
                            (endStopOf(stage.part) > 0
                                 ? fmt::format("; it goes to {}", exactVolts(endStopOf(stage.part)))
                                 : std::string())
                      : "fixed: read only";
        add(stage,
            fmt::format("{}: {} at its output, nothing connected", nameOf(stage),
                        exactVolts(setPointOf(stage.part)->value())),
            how, proposal);
    }
    void charger(const Stage& stage) {
        const auto& c = std::get<Charger>(stage.part);
        const Stage* pack = m_project.stage(c.charges);
        if (!pack || !std::holds_alternative<Pack>(pack->part))
            return;
        const ChargeSettings set(c, std::get<Pack>(pack->part));
        if (set.volts > 0)
            add(stage,
                fmt::format("{}: {} at its output, no cells on it", nameOf(stage),
                            exactVolts(set.volts)),
                c.adjustable.value_or(false) ? "trimmer: down first, then up to it"
                                             : "fixed: read only");
        if (set.current <= 0)
            return;
        std::string how = "as it comes, or by its trimmer into a short";
        if (c.programOhm)
            how = "programming resistor " + writeExact(c.programOhm->value(), Unit::ohm);
        else if (c.programK && *c.programK > 0) {
            const double ohms = *c.programK / set.current;
            const double value = seriesAtOrOver("E24", ohms);
            how = fmt::format("programming resistor {} (E24: {} charge at {})",
                              writeQuantity(ohms, Unit::ohm), writeExact(value, Unit::ohm),
                              writeQuantity(*c.programK / value, Unit::ampere));
        }
        add(stage,
            fmt::format("{}: charges at {}", nameOf(stage),
                        writeQuantity(set.current, Unit::ampere)),
            how, c.programK && !c.programOhm);
    }

    const Project& m_project;
    const QuickAnalysis& m_quick;
    std::vector<SheetSet> m_list;
};

bool anyPart(const Project& p, const std::function<bool(const Part&)>& is) {
    return std::any_of(p.stages.begin(), p.stages.end(),
                       [&](const Stage& s) { return is(s.part); });
}

template <class P>
bool hasPart(const Project& p) {
    return anyPart(p, [](const Part& part) { return std::holds_alternative<P>(part); });
}

} // namespace

std::vector<SheetSet> setsFor(const Project& project, const QuickAnalysis& quick) {
    return Sets(project, quick).all();
}

namespace {

/// Half as much again, in steps of a tenth of an ampere.
double roomyAmps(double amps) {
    return std::ceil(amps * kRoomy * 10) / 10;
}

} // namespace

std::vector<SheetStep> stepsFor(const Project& p, double worstAmps) {
    std::vector<SheetStep> steps;
    const auto say = [&](const std::string& id, std::string text) {
        steps.push_back({id, std::move(text)});
    };
    const Stage* pack = p.packStage();
    if (pack) {
        const Cell& cell = p.pack()->cell;
        const double volts = p.pack()->series *
                             cell.nominal.value_or(Volts{voltsOf(cell.chemistry).nominal}).value();
        say(pack->id, fmt::format("Cells out, their volts read. A bench supply in their place: {}, "
                                  "limited to {}.",
                                  exactVolts(volts), writeExact(kCarefulAmps, Unit::ampere)));
    } else {
        for (const Stage& stage : p.stages)
            if (const auto* adapter = std::get_if<Adapter>(&stage.part);
                adapter && adapter->adjustable.value_or(false) && adapter->set)
                say(stage.id,
                    fmt::format("{} alone first: its knob to {}, measured at the plug with "
                                "its polarity, before anything is plugged in.",
                                nameOf(stage), exactVolts(adapter->set->value())));
            else if (isSource(stage.part))
                say(stage.id, fmt::format("{} alone first: its volts and its polarity, before "
                                          "anything is plugged in.",
                                          nameOf(stage)));
    }
    for (const Stage* stage : outwardsFromSources(p)) {
        const std::string name = nameOf(*stage);
        if (const auto* guard = std::get_if<Guard>(&stage->part)) {
            say(stage->id,
                fmt::format("{}: lower the supply until it opens ({}){}.", name,
                            exactVolts(guard->cutoff.value()),
                            guard->reconnect ? fmt::format(", raise it until it closes ({})",
                                                           exactVolts(guard->reconnect->value()))
                                             : ""));
        } else if (isRegulator(stage->part)) {
            if (const auto amps = setCurrentOf(stage->part)) {
                const double open = orZero(active(stage->part)->outputMax);
                say(stage->id,
                    fmt::format("{}: its strings on it first{}; it pushes {} through them.", name,
                                open > 0 ? fmt::format(" (open it stands at {}, and what is put "
                                                       "on it then gets that)",
                                                       exactVolts(open))
                                         : std::string(),
                                writeQuantity(amps->value(), Unit::ampere)));
                continue;
            }
            const bool trims = active(stage->part)->adjustable.value_or(false);
            say(stage->id, fmt::format("{}: nothing on its output; {} {}.", name,
                                       trims ? "set it to" : "it shows",
                                       exactVolts(setPointOf(stage->part)->value())));
        } else if (isCharger(stage->part)) {
            say(stage->id, fmt::format("{}: set before the cells are on it; then watch the first "
                                       "charge to its end.",
                                       name));
        }
    }
    for (const Load& load : p.loads)
        if (load.precious.value_or(false))
            say(load.id,
                fmt::format("Not {} yet: a lamp or a resistor in its place first.", nameOf(load)));
    if (!p.loads.empty())
        say(p.loads.front().id,
            pack && worstAmps > 0
                ? fmt::format("Raise the supply's limit to {}: {} flow at the most. Then the "
                              "loads, one by one.",
                              writeQuantity(roomyAmps(worstAmps), Unit::ampere),
                              writeQuantity(worstAmps, Unit::ampere))
                : std::string("Then the loads, one by one, with the checks below."));
    if (pack) {
        const bool fused = hasPart<Fuse>(p);
        say(pack->id, fmt::format("The cells last: polarity checked at the plug{}. Then the checks "
                                  "below, in their order.",
                                  fused ? ", fuse out, then in" : ""));
    }
    return steps;
}

std::vector<SheetCaution> cautionsFor(const Project& p) {
    std::vector<SheetCaution> list;
    const auto pack = [&](const std::function<bool(const Pack&)>& is) {
        return anyPart(p, [&](const Part& part) {
            const auto* held = std::get_if<Pack>(&part);
            return held && is(*held);
        });
    };
    const bool rechargeable =
        pack([](const Pack& c) { return isRechargeableLithium(c.cell.chemistry); });
    const bool primary = pack([](const Pack& c) {
        const Chemistry k = c.cell.chemistry;
        return k == Chemistry::ironDisulphide || k == Chemistry::manganeseDioxide ||
               k == Chemistry::thionylChloride;
    });
    if (rechargeable)
        list.push_back({"Lithium cells",
                        "Never short, crush, pierce or heat them; never charge them over their "
                        "volts or let them lie empty; never charge them unattended or in the "
                        "frost. A cell that is swollen, warm by itself or dented is not used."});
    if (primary)
        list.push_back({"Lithium primary cells",
                        "They are used once: no charger may ever reach them. Never short or heat "
                        "them; old and new ones are not mixed."});
    if (pack([](const Pack& c) { return c.cell.chemistry == Chemistry::leadAcid; }))
        list.push_back({"Lead",
                        "It gives gas when charged: air around it, no sparks. Its acid burns; "
                        "a short across it melts tools."});
    if (pack([](const Pack& c) { return isNickel(c.cell.chemistry); }))
        list.push_back({"Nickel cells", "They push large currents into a short. In series the "
                                        "weakest is reversed when run empty: stop before that."});
    if (pack([](const Pack& c) {
            return c.cell.chemistry == Chemistry::alkaline ||
                   c.cell.chemistry == Chemistry::zincCarbon;
        }))
        list.push_back({"Cells that are used once", "Not to be charged. Old and new ones are not "
                                                    "mixed, and empty ones leak: out with them."});
    if (pack([](const Pack& c) { return c.origin == Origin::salvaged; }))
        list.push_back({"Salvaged cells",
                        "Measure capacity and resistance of each, leave out what is damaged, warm "
                        "or weak, bring them to the same volts before they are joined, and fuse "
                        "each where they stand side by side."});
    if (hasPart<Fuse>(p))
        list.push_back({"The fuse", "It sits at the cells, on plus, before anything else: the lead "
                                    "up to it is protected by nothing. Replace it by the same "
                                    "rating, and find out first why it opened."});
    if (hasPart<Adapter>(p))
        list.push_back({"Mains adapter",
                        "It stays closed. Measure its volts and its polarity before "
                        "anything is plugged in. What is wired to the wall belongs "
                        "to local codes and licensed people."});
    if (hasPart<Vehicle>(p))
        list.push_back({"Vehicle", "Its supply is dirty: 9 V while cranking, 16 V while charging, "
                                   "spikes beyond. Fuse at its battery, clamp at the device; fixed "
                                   "wiring is for licensed people."});
    if (hasPart<Panel>(p))
        list.push_back({"Panel", "It gives its volts as long as there is light: cover it while "
                                 "wiring, and connect the cells first."});
    if (anyPart(p, [](const Part& part) {
            const auto* store = std::get_if<Capacitor>(&part);
            return store && store->farad.value() >= 0.1;
        }))
        list.push_back({"Large capacitor",
                        "It keeps its charge with everything off and pushes tens "
                        "of amps into a short: discharge it through a resistor "
                        "before touching it."});
    if (anyPart(p, [](const Part& part) {
            const ActivePart* a = active(part);
            return a && a->adjustable.value_or(false);
        }))
        list.push_back({"Adjustable parts",
                        "Set and measured with nothing connected: a trimmer turned the "
                        "wrong way puts its end stop on what hangs there."});
    return list;
}

} // namespace sipper
