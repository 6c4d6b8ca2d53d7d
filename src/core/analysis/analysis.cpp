#include "analysis/analysis.hpp"

#include "charge/choices.hpp"

namespace sipper {

Quick quickOf(const Project& project, const QuickDepth& depth, const std::stop_token& stop) {
    Quick q;
    Stepping whole;
    whole.tail = true;
    q.runtime = predictRuntime(project, typicalConditions(project), whole);
    q.discharge = q.runtime.curve;
    q.discharge.insert(q.discharge.end(), q.runtime.tail.begin(), q.runtime.tail.end());
    q.budget = budgetOf(project);
    q.envelope = envelopes(project, q.runtime, q.budget);
    q.worth = worthOf(project, q.runtime);
    if (depth.advice) {
        Looked looked = lookAt(project, q.runtime, stop);
        if (depth.rules && !stop.stop_requested())
            q.findings = advise(solved(project, q.runtime, std::nullopt, looked), stop);
        q.survey = std::move(looked.survey);
        q.tethers = std::move(looked.tethers);
        q.charges = std::move(looked.charges);
        q.protect = std::make_shared<const ProtectLook>(std::move(looked.protect));
    } else {
        if (project.pack()) {
            q.survey = survey(project, typicalConditions(project));
            q.survey->include(project, q.runtime);
        }
        q.tethers = tethersWithChargers(project);
    }
    if (q.survey)
        q.shelf = shelfOf(project, q.survey->stopCharge);
    q.cycles = cycleLife(project, q.runtime);
    if (depth.bench && !stop.stop_requested())
        q.bench = std::make_shared<const BenchLook>(lookAtBench(project));
    return q;
}

std::shared_ptr<const Deep> deepOf(const Project& project, const Quick& quick,
                                   const std::stop_token& stop, const Depth& depth,
                                   const Crew& crew) {
    auto deep = std::make_shared<Deep>();
    deep->range = predictRange(project, quick.runtime, stop, depth.builds, crew);
    if (stop.stop_requested())
        return nullptr;
    if (depth.sun)
        if (auto look = lookAtSun(project, stop))
            deep->sun = std::make_shared<const SunLook>(std::move(*look));
    if (stop.stop_requested())
        return nullptr;
    if (depth.findings)
        deep->findings =
            advise({project, quick.runtime, deep->range, quick.survey ? &*quick.survey : nullptr,
                    quick.tethers, quick.charges, deep->sun.get(), quick.protect.get()},
                   stop);
    if (depth.gains)
        weighCures(project, quick.runtime, deep->findings, stop);
    if (depth.schools && !stop.stop_requested())
        deep->schools = schoolLives(project);
    if (depth.consequences && !stop.stop_requested())
        deep->consequences = consequencesOf(project, quick.runtime, deep->range, stop);
    if (stop.stop_requested())
        return nullptr;
    return deep;
}

} // namespace sipper
