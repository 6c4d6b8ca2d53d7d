// Everything that is computed of one project, so that window, comparison and command line show the
// same figures by construction.
#pragma once

#include "advice/advice.hpp"
#include "advice/consequences.hpp"
#include "base/parallelfor.hpp"
#include "charge/choices.hpp"
#include "measure/checks.hpp"
#include "runtime/budget.hpp"
#include "runtime/energyequivalents.hpp"
#include "runtime/handestimate.hpp"
#include "runtime/shelf.hpp"

#include <memory>

namespace sipper {

/// What an edit must show at once.
struct Quick {
    Runtime runtime;
    std::vector<CurvePoint> discharge; ///< the run, and on to what stops the pack itself
    Budget budget;
    std::vector<Envelope> envelope; ///< what people reckon, and why it differs
    std::optional<Worth> worth;
    std::optional<Survey> survey; ///< nothing without cells
    std::vector<Tether> tethers;  ///< of the sources that can be plugged in
    std::optional<Shelf> shelf;
    std::optional<CycleLife> cycles;
    std::vector<ChargeLook> charges; ///< a refill by each charger
    std::shared_ptr<const ProtectLook> protect;
    std::shared_ptr<const BenchLook> bench; ///< what a meter should say
    std::vector<Finding> findings; ///< without what only the range tells, and without gains

    /// The refill that people mean: by the first charger; null without one.
    [[nodiscard]] const Charge* refill() const {
        return charges.empty() ? nullptr : &charges.front().usual;
    }
};

/// What takes longer.
struct Deep {
    std::optional<RangeResult> range;
    std::vector<Finding> findings;         ///< with the range, and with what each cure gains
    std::vector<Consequence> consequences; ///< of the brief
    std::vector<SchoolLife> schools;       ///< of the guard's cut-off
    std::shared_ptr<const SunLook> sun;    ///< ten years of a panel; null without one
};

/// How far to go. What is left out stays empty.
struct Depth {
    bool findings = true; ///< advice that looks at the range
    bool gains = true;    ///< of the cures
    bool consequences = true;
    bool schools = true;
    bool sun = true;
    int builds = kBuilds; ///< of the range
};

/// How much of it: what is left out stays empty.
struct QuickDepth {
    bool advice = true; ///< sources, charges, protection, and what the rules say of all
    bool rules = true;  ///< with the rules themselves
    bool bench = true;
};
/// `stop` is looked at between its parts, none of which is long; what is known by then is answered.
[[nodiscard]] Quick quickOf(const Project& project, const QuickDepth& depth = {},
                            const std::stop_token& stop = {});

/// Nothing when `stop` was asked for. `crew` shares out the builds of the range.
[[nodiscard]] std::shared_ptr<const Deep> deepOf(const Project& project, const Quick& quick,
                                                 const std::stop_token& stop = {},
                                                 const Depth& depth = {}, const Crew& crew = inTwo);

} // namespace sipper
