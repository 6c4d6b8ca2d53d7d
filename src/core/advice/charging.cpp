// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about chargers: what they are set to, what feeds them, and what the device does meanwhile.
#include "advice/chargerrules.hpp"
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

constexpr double kOverFull = 0.005; ///< share by which a set voltage may be off the full one
constexpr double kMostlyFull = 0.8; ///< charge that a set voltage has to reach at least
constexpr double kLeadMost = 2.5;   ///< V a cell; more gasses
constexpr double kColdAir = 10;     ///< degC under which half C is fast
constexpr double kColdRate = 0.5;   ///< 1/h

} // namespace

void notRechargeable(const RuleInput& s, std::vector<Finding>& out) {
    eachCharger(s, [&](const ChargerPlace& c) {
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
    eachCharger(s, [&](const ChargerPlace& c) {
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
    eachCharger(s, [&](const ChargerPlace& c) {
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
    eachCharger(s, [&](const ChargerPlace& c) {
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

} // namespace sipper::rules
