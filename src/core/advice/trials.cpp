// SPDX-License-Identifier: GPL-3.0-or-later
// Fixes that are tried before they are offered.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "charge/choices.hpp"
#include "line/wiring.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/build.hpp"
#include "project/library.hpp"
#include "project/roles.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kEnoughOver = 1.1; ///< of what it has to give: a larger part's label
constexpr double kSameVolts = 0.02;
constexpr std::size_t kTried = 6; ///< parts, the smallest first

bool sameKind(const Stage& a, const Stage& b) {
    if (a.part.index() != b.part.index())
        return false;
    const auto* one = std::get_if<Switcher>(&a.part);
    const auto* other = std::get_if<Switcher>(&b.part);
    return !one || one->topology == other->topology;
}

/// Can a part give these volts: within its trimmer's range, or as it comes?
bool reaches(const Part& part, double volts) {
    const ActivePart* a = active(part);
    if (a && a->adjustMin && a->adjustMax)
        return volts >= a->adjustMin->value() && volts <= a->adjustMax->value();
    return std::abs(orZero(setPointOf(part)) - volts) <= kSameVolts * std::max(volts, 0.1);
}

Stage inPlace(const Project& project, const Stage& stage, Stage fresh) {
    fresh.id = stage.id;
    fresh.fedBy = stage.fedBy;
    fresh.connector = stage.connector;
    if (const auto set = setPointOf(stage.part))
        static_cast<void>(setPointTo(fresh.part, *set));
    return placedInstead(project, stage, std::move(fresh));
}

} // namespace

Trial::Trial(const RuleInput& before, Project changed)
    : m_before(before), m_project(std::move(changed)) {
    if (m_project.pack())
        m_sweep = sweepOperation(m_project, typicalConditions(m_project));
}

bool Trial::stopsEarlier() const {
    const OperatingSweep* now = m_before.sweep;
    return now && m_sweep &&
           ((m_sweep->neverRuns && !now->neverRuns) ||
            m_sweep->stopCharge > now->stopCharge + kSliver);
}

bool Trial::isSilent(RuleFunction rule, const std::string& subject) {
    if (!m_externalLoads)
        m_externalLoads = externalLoadsWithChargers(m_project);
    RuleInput tried{m_project, m_before.runtime, m_before.range, m_sweep ? &*m_sweep : nullptr,
                    *m_externalLoads};
    tried.library = m_before.library;
    tried.seekFixes = false;
    std::vector<Finding> says;
    rule(tried, says);
    return std::none_of(says.begin(), says.end(),
                        [&](const Finding& f) { return f.subject == subject; });
}

bool isSilentOn(const RuleInput& s, const Project& changed, RuleFunction rule,
                const std::string& subject) {
    return Trial(s, changed).isSilent(rule, subject);
}

std::optional<Fix> largerPartFix(const RuleInput& s, const Stage& stage, double amps,
                                 RuleFunction rule) {
    if (!s.seekFixes)
        return std::nullopt;
    const double set = orZero(setPointOf(stage.part));
    const double sees = neverAboveOf(stage.part);
    std::vector<std::pair<double, const LibraryPart*>> list;
    for (const LibraryPart& part : s.library().parts) {
        const double gives = labelAmps(part.stage.part).value_or(0);
        if (sameKind(part.stage, stage) && gives >= kEnoughOver * amps &&
            reaches(part.stage.part, set) && neverAboveOf(part.stage.part) >= sees)
            list.emplace_back(gives, &part);
    }
    std::stable_sort(list.begin(), list.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    if (list.size() > kTried)
        list.resize(kTried);
    for (const auto& [gives, part] : list) {
        const Stage fresh = inPlace(s.project, stage, part->stage);
        Fix cure = replaceFix(fresh, "Use " + nameOf(part->stage),
                              fmt::format("use a larger part for {}", nameOf(stage)));
        Trial with(s, cure.apply(s.project));
        if (!with.stopsEarlier() && with.isSilent(rule, stage.id))
            return cure;
    }
    return std::nullopt;
}

std::optional<Fix> switcherFix(const RuleInput& s, const Stage& stage, RuleFunction rule) {
    if (!s.seekFixes)
        return std::nullopt;
    struct Offer {
        const char* part;
        const char* label;
        const char* name;
    };
    constexpr std::array offers{
        Offer{"buck-2a-low-quiescent", "Use a buck", "use a buck for "},
        Offer{"buck-3a-module", "Use a buck", "use a buck for "},
        Offer{"buck-boost-small", "Use a buck-boost", "use a buck-boost for "},
        Offer{"buck-boost-wide", "Use a buck-boost", "use a buck-boost for "}};
    const double full = s.project.pack() ? fullVolts(*s.project.pack()) : 0;
    const auto* now = std::get_if<Switcher>(&stage.part);
    for (const Offer& offer : offers) {
        const auto part = shippedPart(offer.part, stage.id, stage.fedBy.front());
        if (!part || neverAboveOf(part.value().part) < full)
            continue;
        const auto* fresh = std::get_if<Switcher>(&part.value().part);
        if (now && fresh && now->topology == fresh->topology)
            continue;
        Stage swapped = inPlace(s.project, stage, part.value());
        Fix cure = replaceFix(swapped, offer.label, offer.name + nameOf(stage));
        Trial with(s, cure.apply(s.project));
        if (!with.stopsEarlier() && with.isSilent(rule, stage.id) &&
            with.isSilent(dropOut, stage.id) && with.isSilent(passesThrough, stage.id))
            return cure;
    }
    return std::nullopt;
}

std::optional<Fix> otherCellFix(const RuleInput& s, RuleFunction rule) {
    const Stage* stage = s.project.packStage();
    const Pack* pack = s.project.pack();
    if (!s.seekFixes || !stage || !pack)
        return std::nullopt;
    for (const Chemistry wanted : {Chemistry::nickelMetalHydride, Chemistry::ironDisulphide})
        for (const LibraryPart& part : s.library().parts) {
            const auto* other = std::get_if<Pack>(&part.stage.part);
            if (!other || other->cell.chemistry != wanted || other->cell.size != pack->cell.size ||
                other->series * other->parallel > 1)
                continue;
            Stage swapped = *stage;
            auto& fresh = std::get<Pack>(swapped.part);
            fresh.cell = other->cell;
            fresh.measuredResistance.reset();
            std::string kind = chemistryText(wanted);
            kind.front() = static_cast<char>(std::tolower(kind.front()));
            Fix cure = replaceFix(swapped, "Use " + kind, "use other cells for " + nameOf(*stage));
            if (isSilentOn(s, cure.apply(s.project), rule, stage->id))
                return cure;
        }
    return std::nullopt;
}

std::string fromCharge(const ChargeInterval& spell) {
    if (!spell.valid() || spell.first.charge >= 1)
        return {};
    return fmt::format(", from {} of the charge down", writeShare(spell.first.charge));
}

} // namespace sipper::rules
