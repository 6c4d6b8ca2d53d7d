#include "session/results.hpp"

namespace sipper::app {

Results computeAtOnce(const Project& project) {
    Results r;
    r.runtime = predictRuntime(project);
    r.tail = r.runtime;
    if (project.pack()) {
        r.survey = survey(project, typicalConditions(project));
        const EndReason reason = r.runtime.ending.reason;
        if (reason == EndReason::belowWindow || reason == EndReason::aboveWindow) {
            Project lenient = project;
            for (Load& load : lenient.loads)
                load.critical = false;
            r.tail = predictRuntime(lenient);
        }
    }
    r.findings = advise({project, r.runtime, r.range, r.survey ? &*r.survey : nullptr});
    return r;
}

std::optional<Results> computeInDepth(const Project& project, Results r,
                                      const std::stop_token& stop) {
    r.range = predictRange(project, r.runtime, stop);
    if (stop.stop_requested())
        return std::nullopt;
    r.findings = advise({project, r.runtime, r.range, r.survey ? &*r.survey : nullptr});
    weighCures(project, r.runtime, r.findings, stop);
    if (stop.stop_requested())
        return std::nullopt;
    return r;
}

} // namespace sipper::app
