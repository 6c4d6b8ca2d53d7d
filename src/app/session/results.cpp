#include "session/results.hpp"

namespace sipper::app {

Results computeAtOnce(const Project& project) {
    Results r;
    Stepping whole;
    whole.tail = true;
    r.runtime = predictRuntime(project, typicalConditions(project), whole);
    r.discharge = r.runtime.curve;
    r.discharge.insert(r.discharge.end(), r.runtime.tail.begin(), r.runtime.tail.end());
    r.budget = budgetOf(project);
    Looked looked = lookAt(project);
    r.findings = advise(solved(project, r.runtime, r.range, looked));
    r.survey = std::move(looked.survey);
    r.tethers = std::move(looked.tethers);
    if (r.survey)
        r.shelf = shelfOf(project, r.survey->stopCharge);
    r.cycles = cycleLife(project, r.runtime);
    return r;
}

std::optional<Results> computeInDepth(const Project& project, Results r,
                                      const std::stop_token& stop) {
    r.range = predictRange(project, r.runtime, stop);
    if (stop.stop_requested())
        return std::nullopt;
    r.findings = advise({project, r.runtime, r.range, r.survey ? &*r.survey : nullptr, r.tethers});
    weighCures(project, r.runtime, r.findings, stop);
    r.schools = schoolLives(project);
    r.consequences = consequencesOf(project, r.runtime, r.range, stop);
    if (stop.stop_requested())
        return std::nullopt;
    return r;
}

} // namespace sipper::app
