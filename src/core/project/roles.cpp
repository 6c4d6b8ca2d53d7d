// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/roles.hpp"

#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "parts/madeas.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

std::string withVolts(const char* word, const Part& part) {
    const auto set = setPointOf(part);
    if (!set || set->value() <= 0)
        return word;
    return std::string(word) + " " + writeExact(std::round(set->value() * 100) / 100, Unit::none);
}

/// The role without a number.
std::string baseRole(const Stage& stage) {
    switch (kindOf(stage.part)) {
    case Kind::pack:
        return "Cells";
    case Kind::adapter:
        return "Adapter";
    case Kind::usb:
        return "Socket";
    case Kind::vehicle:
        return "Vehicle";
    case Kind::panel:
        return "Panel";
    case Kind::guard:
        return "Guard";
    case Kind::fuse:
        return "Fuse";
    case Kind::switchgear:
        return "Switch";
    case Kind::wire:
        return "Lead";
    case Kind::diode:
        return "Diode";
    case Kind::idealDiode:
        return "FET diode";
    case Kind::filter:
        return "Filter";
    case Kind::capacitor:
        return "Capacitor";
    case Kind::crowbar:
        return "Crowbar";
    case Kind::clamp:
        return "Clamp";
    case Kind::watch:
        return "Watch";
    case Kind::select:
        return "Power path";
    case Kind::charger:
        return "Charger";
    case Kind::linear:
    case Kind::buckBoost:
        return regulatesCurrent(stage.part) ? "Light driver" : withVolts("Rail", stage.part);
    case Kind::buck:
        return regulatesCurrent(stage.part) ? "Light driver" : withVolts("Buck", stage.part);
    case Kind::boost:
        return regulatesCurrent(stage.part) ? "Light driver" : withVolts("Boost", stage.part);
    }
    return std::string(kindText(stage.part));
}

/// `Fuse 2`, but `Boost 12 (2)`: a bare number would read as volts.
std::string numbered(const std::string& base, int n) {
    const bool volts = !base.empty() && base.back() >= '0' && base.back() <= '9';
    return base + (volts ? " (" + std::to_string(n) + ")" : " " + std::to_string(n));
}

/// Behind `base` nothing, or a number as `numbered` writes it?
bool isNumbered(const std::string& label, const std::string& base) {
    if (label == base)
        return true;
    if (!label.starts_with(base + " "))
        return false;
    std::string rest = label.substr(base.size() + 1);
    if (rest.size() > 2 && rest.front() == '(' && rest.back() == ')')
        rest = rest.substr(1, rest.size() - 2);
    return !rest.empty() &&
           std::all_of(rest.begin(), rest.end(), [](char c) { return c >= '0' && c <= '9'; });
}

} // namespace

std::string roleName(const Project& project, const Stage& stage) {
    const std::string base = baseRole(stage);
    const auto taken = [&](const std::string& name) {
        return std::any_of(project.stages.begin(), project.stages.end(),
                           [&](const Stage& s) { return s.id != stage.id && s.label == name; });
    };
    std::string name = base;
    for (int n = 2; taken(name); ++n)
        name = numbered(base, n);
    return name;
}

bool namedByRole(const Stage& stage) {
    return isNumbered(stage.label, baseRole(stage));
}

Stage placedPart(const Project& project, Stage part) {
    part.label = roleName(project, part);
    return part;
}

Stage placedInstead(const Project& project, const Stage& old, Stage part) {
    const bool given =
        !old.label.empty() && old.label != makeOf(old) && old.label != old.id && !namedByRole(old);
    part.id = old.id;
    part = placedPart(project, std::move(part));
    if (given)
        part.label = old.label;
    return part;
}

Project withRolesFollowing(const Project& before, Project after) {
    for (Stage& stage : after.stages) {
        const Stage* old = before.stage(stage.id);
        if (old && old->label == stage.label && !(old->part == stage.part) && namedByRole(*old) &&
            !namedByRole(stage))
            stage.label = roleName(after, stage);
    }
    return after;
}

std::string makeOf(const Stage& stage) {
    const auto* pack = std::get_if<Pack>(&stage.part);
    return pack ? pack->cell.label : stage.make;
}

} // namespace sipper
