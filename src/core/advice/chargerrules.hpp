// SPDX-License-Identifier: GPL-3.0-or-later
// What the rules about charging share: a charger with its place, and usual fixes.
#pragma once

#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "base/tolerance.hpp"
#include "charge/context.hpp"
#include "charge/text.hpp"
#include "parts/chemistry.hpp"
#include "parts/eseries.hpp"
#include "parts/figures.hpp"
#include "parts/typical.hpp"
#include "solar/simulation.hpp"

#include <cmath>
#include <fmt/format.h>
#include <map>
#include <numeric>

namespace sipper::rules {

/// A charger with its pack and place, where the file has them all.
struct ChargerPlace {
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
                look(ChargerPlace{stage, *charger, *pack, std::get<Pack>(pack->part),
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
inline Fix currentFix(const Stage& stage, double amps) {
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

inline Fix pathFix(const std::string& charger) {
    return editFix("Add a power path", "add a power path", [charger](const Project& project) {
        return withPowerPath(project, charger, Volts{0}, kTypicalFet);
    });
}

inline double fullOf(const Pack& pack) {
    return pack.series * pack.cell.full.value_or(Volts{voltsOf(pack.cell.chemistry).fresh}).value();
}

/// Modes that the device stays in: the base, and what a window of the day holds.
inline std::vector<std::size_t> lastingModes(const Project& p) {
    std::vector<std::size_t> modes{p.baseMode()};
    for (std::size_t i = 0; i < p.modes.size(); ++i)
        if (p.modes[i].isWindowed())
            modes.push_back(i);
    return modes;
}

/// What the device takes at a voltage of the node in the hungriest of those, and in which.
inline std::pair<double, std::size_t> hungriest(const RuleInput& s, const ChargeContext& b,
                                                double volts) {
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

} // namespace sipper::rules
