// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/text.hpp"

#include "parts/figures.hpp"
#include "quantity/write.hpp"

#include <fmt/format.h>

namespace sipper {
namespace {

const Part& sourceOf(const Project& p, const ChargeRun& c) {
    return p.stage(c.source)->part;
}

std::string percent(double share) {
    return fmt::format("{:.0f} %", share * 100);
}

} // namespace

std::string sourceWord(const Part& part) {
    if (std::holds_alternative<Usb>(part))
        return "socket";
    if (std::holds_alternative<Adapter>(part))
        return "adapter";
    if (std::holds_alternative<Vehicle>(part))
        return "vehicle";
    return std::holds_alternative<Panel>(part) ? "panel" : "other pack";
}

std::string limitShort(ChargeLimit limit, const Part& source) {
    switch (limit) {
    case ChargeLimit::source:
        return "the " + sourceWord(source);
    case ChargeLimit::inputLimit:
        return "input limit";
    case ChargeLimit::outputLimit:
        return "output limit";
    case ChargeLimit::powerLimit:
        return "power limit";
    case ChargeLimit::heat:
        return "heat";
    case ChargeLimit::cc:
        return "set current";
    case ChargeLimit::cv:
        return "set voltage";
    case ChargeLimit::cell:
        return "cells' own limit";
    case ChargeLimit::recovery:
        return "recovery";
    }
    return "";
}

std::string limitNamed(ChargeLimit limit, const Part& source) {
    const std::string name = limitShort(limit, source);
    const bool bare = limit == ChargeLimit::heat || limit == ChargeLimit::source;
    return bare ? name : "the " + name;
}

std::string limitText(const Project& p, const ChargeRun& c, ChargeLimit limit) {
    switch (limit) {
    case ChargeLimit::source:
        return fmt::format("the {} gives no more", sourceWord(sourceOf(p, c)));
    case ChargeLimit::inputLimit:
        return "the input limit";
    case ChargeLimit::outputLimit:
        return "the output limit";
    case ChargeLimit::powerLimit:
        return "the power limit";
    case ChargeLimit::heat:
        return "it folds back, too warm";
    case ChargeLimit::cc:
        return "set current";
    case ChargeLimit::cv:
        return "voltage reached";
    case ChargeLimit::cell:
        return "the cells take no more";
    case ChargeLimit::recovery:
        return "recovery";
    }
    return "";
}

std::string neverText(const Project& p, const ChargeRun& c) {
    if (!c.failure)
        return "";
    const Stage& charger = *p.stage(c.charger);
    const auto& part = std::get<Charger>(charger.part);
    const std::string name = nameOf(charger);
    switch (*c.failure) {
    case ChargeFailure::notRechargeable:
        return "Never: these cells are used once. A charger on them is a fire risk.";
    case ChargeFailure::tooCold:
        return "Never in this air: it is colder than these cells may be charged.";
    case ChargeFailure::wrongTopology:
        return fmt::format("Never: {} can't get from what comes in to what the pack needs.", name);
    case ChargeFailure::inputTooHigh:
        return fmt::format("Never: {} would be damaged. What comes in passes the {} it survives.",
                           name, writeQuantity(orZero(part.inputNeverAbove), Unit::volt));
    case ChargeFailure::sourceTooWeak:
        return fmt::format("Never: the {} is asked for more than it gives and lets go. An input "
                           "limit or a hold voltage keeps it up.",
                           sourceWord(sourceOf(p, c)));
    case ChargeFailure::recoveryTrap:
        return fmt::format("Never: under {} the charger gives {} and the device takes all of it.",
                           writeQuantity(orZero(part.recoveryBelow), Unit::volt),
                           writeQuantity(orZero(part.recoveryCurrent), Unit::ampere));
    case ChargeFailure::endTrap:
        return fmt::format("It never ends: at the set voltage the device takes more than the end "
                           "current{}.",
                           c.hoursTo80 ? ", though 80 % come after " + writeHours(*c.hoursTo80)
                                       : "");
    case ChargeFailure::deviceTakesMore:
        return fmt::format("Never: the device takes {} at the cells, {} gives {}. {}",
                           writeQuantity(c.takesAmps, Unit::ampere), name,
                           writeQuantity(c.givesAmps, Unit::ampere), offText(c));
    case ChargeFailure::tooSlow:
        return fmt::format("Too slow: the device takes {} at the cells of the {} that {} gives; it "
                           "is not full after 60 days. {}",
                           writeQuantity(c.takesAmps, Unit::ampere),
                           writeQuantity(c.givesAmps, Unit::ampere), name, offText(c));
    case ChargeFailure::endsEarly:
        return fmt::format("Not full: {} ends at {} of the charge, after {}. {}", name,
                           percent(c.endsAtCharge.value_or(0)),
                           writeHours(c.endsAtHours.value_or(0)),
                           c.endAmps >= c.setAmps && c.setAmps > 0
                               ? fmt::format("Its end current of {} is not under the {} that it is "
                                             "set to.",
                                             writeQuantity(c.endAmps, Unit::ampere),
                                             writeQuantity(c.setAmps, Unit::ampere))
                               : fmt::format("At its set {} what reaches the pack has fallen to "
                                             "the end current of {} by then.",
                                             writeQuantity(orZero(part.chargeVoltage), Unit::volt),
                                             writeQuantity(c.endAmps, Unit::ampere)));
    }
    return "";
}

std::string neverShort(const ChargeRun& c) {
    if (c.failure == ChargeFailure::endTrap)
        return "No end";
    if (c.failure == ChargeFailure::endsEarly)
        return "Not full";
    if (c.failure == ChargeFailure::tooSlow)
        return "Too slow";
    return c.failure ? "Never" : "Not known";
}

std::string offText(const ChargeRun& c) {
    return c.offHoursToFull ? fmt::format("Switch the output off while it charges: {} with it off.",
                                          writeHours(*c.offHoursToFull))
                            : "It is not filled with the output off either.";
}

std::string chargeHeadline(const Project& p, const ChargeRun& c) {
    if (c.failure)
        return neverText(p, c);
    if (!c.hoursToFull)
        return "Not worked out to its end.";
    std::string text =
        fmt::format("{} to full from {}", writeHours(*c.hoursToFull), percent(c.from));
    if (c.hoursTo80 && c.from < 0.8)
        text += fmt::format(", {} to 80 %", writeHours(*c.hoursTo80));
    text += ".";
    const auto held = c.bindingLimit();
    if (held && *held == ChargeLimit::cc)
        text += fmt::format(" It runs at its set current for {} of it.",
                            writeHours(c.hoursLimitedBy(*held)));
    else if (held && *held != ChargeLimit::cv)
        text += fmt::format(" Held back by {} for {} of it.", limitNamed(*held, sourceOf(p, c)),
                            writeHours(c.hoursLimitedBy(*held)));
    return text;
}

} // namespace sipper
