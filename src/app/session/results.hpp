// Everything that is computed of one project, for all views to show the same figures.
#pragma once

#include "advice/consequences.hpp"
#include "runtime/budget.hpp"
#include "runtime/shelf.hpp"

namespace sipper::app {

struct Results {
    Runtime runtime;
    std::vector<CurvePoint> discharge; ///< the run, and on to what stops the pack itself
    Budget budget;
    std::optional<Survey> survey;
    std::vector<Tether> tethers;      ///< of the sources that can be plugged in
    std::optional<RangeResult> range; ///< nothing while it is being computed
    std::vector<Finding> findings;
    std::vector<Consequence> consequences; ///< of the brief; in depth
    std::optional<Shelf> shelf;
    std::optional<CycleLife> cycles;
    std::vector<SchoolLife> schools; ///< of the guard's cut-off; in depth
};

/// What an edit must show at once: runtime, survey and advice, without range and gains.
[[nodiscard]] Results computeAtOnce(const Project& project);

/// What takes longer: the range, advice that looks at it, and what each cure gains. Nothing when
/// `stop` was asked for.
[[nodiscard]] std::optional<Results> computeInDepth(const Project& project, Results quick,
                                                    const std::stop_token& stop);

} // namespace sipper::app
