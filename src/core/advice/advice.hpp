// The list of all rules, and running them.
#pragma once

#include "advice/finding.hpp"
#include "charge/choices.hpp"
#include "protect/protect.hpp"
#include "runtime/externalload.hpp"
#include "runtime/operatingsweep.hpp"
#include "runtime/uncertainty.hpp"
#include "solar/look.hpp"

#include <span>
#include <stop_token>

namespace sipper {

/// A project with what was computed of it, for the rules to look at.
struct Solved {
    const Project& project;
    const Runtime& runtime;
    const std::optional<RangeResult>& range; ///< nothing while it is still being computed
    const Survey* survey;                    ///< null without a pack
    std::span<const Tether> tethers = {};    ///< of the sources that can be plugged in
    std::span<const ChargeLook> charges = {};
    const SunLook* sun = nullptr; ///< null while it is being run, and without a panel
    const ProtectLook* protect = nullptr;
    bool cures = true; ///< false while a cure is being tried: none is looked for then
    std::shared_ptr<const Spells> spells = {}; ///< of project and survey, while rules are asked

    /// From where to where something holds over the charge; needs a survey.
    [[nodiscard]] Spell spellOf(const SeenIn& holds) const {
        return spells ? spells->of(holds) : Spells(project, *survey).of(holds);
    }
};

/// What the rules look at besides runtime and range.
struct Looked {
    std::optional<Survey> survey;
    std::vector<Tether> tethers;
    std::vector<ChargeLook> charges;
    ProtectLook protect;
};
[[nodiscard]] Looked lookAt(const Project& project, const Runtime& runtime,
                            const std::stop_token& stop = {});
[[nodiscard]] inline Solved solved(const Project& project, const Runtime& runtime,
                                   const std::optional<RangeResult>& range, const Looked& looked) {
    return {project,        runtime,        range,   looked.survey ? &*looked.survey : nullptr,
            looked.tethers, looked.charges, nullptr, &looked.protect};
}

/// One rule: looks at a solved project and says nothing, or one finding for each subject.
struct Rule {
    std::string_view name;
    void (*look)(const Solved&, std::vector<Finding>&);
};

[[nodiscard]] std::span<const Rule> allRules();

/// All findings, the gravest first; within a severity in the order of the rules. Once `stop` is
/// asked for, those that were found by then.
[[nodiscard]] std::vector<Finding> advise(const Solved& solved, const std::stop_token& stop = {});

/// Fills `gainHours` of every finding that has a cure, by running the cured project.
void weighCures(const Project& project, const Runtime& runtime, std::vector<Finding>& findings,
                const std::stop_token& stop = {});

} // namespace sipper
