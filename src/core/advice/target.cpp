// Rules about the brief's target.
#include "advice/rules.hpp"

#include "advice/words.hpp"
#include "sun/sun.hpp"

#include <fmt/format.h>

namespace sipper::rules {

void shortOfTarget(const Solved& s, std::vector<Finding>& out) {
    if (!s.project.brief.targetRuntime || !s.runtime.hours || !s.project.pack())
        return;
    if (byTheSun(s.project))
        return; // the year says what is missed
    const double target = s.project.brief.targetRuntime->value();
    const double typical = s.runtime.hours->value();
    const double low = s.range ? s.range->range.p10 : typical;
    if (low >= target)
        return;
    const Stage& stage = *s.project.packStage();
    Finding f;
    f.rule = "short_of_target";
    f.severity = Severity::care;
    f.subject = "project";
    f.title = typical < target ? "Short of the target" : "Some builds fall short";
    f.says =
        typical < target
            ? fmt::format("It runs {} and you ask for {}: {} are missing.", writeHours(typical),
                          writeHours(target), writeHours(target - typical))
            : fmt::format("It runs {} as planned, but one build in ten stops before {}; you ask "
                          "for {}.",
                          writeHours(typical), writeHours(low), writeHours(target));
    f.numbers = {{"target_h", target}, {"runtime_h", typical}, {"p10_h", low}};
    Stage more = stage;
    auto& pack = std::get<Pack>(more.part);
    countCells(pack, pack.series, pack.parallel + 1);
    f.cure = replaceCure(more, "One more in parallel", "add a cell in parallel");
    f.cure->forHours = true;
    out.push_back(std::move(f));
}

} // namespace sipper::rules
