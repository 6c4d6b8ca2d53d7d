// Rules about currents.
#include "advice/rules.hpp"

#include "advice/words.hpp"
#include "parts/fields.hpp"

#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kSlack = 1e-9;

struct Limit {
    const char* key;
    const char* what;
    bool inductor;
};
constexpr std::array kLimits{Limit{"max_current_a", "it trips at", false},
                             Limit{"output_limit_a", "its output is limited to", false},
                             Limit{"rated_current_a", "it is rated for", false},
                             Limit{"switch_limit_a", "its switch is limited to", true}};

void pack(const Solved& s, std::vector<Finding>& out) {
    const Stage& stage = *s.project.packStage();
    const Pack& pack = *s.project.pack();
    const Sighting& most = s.survey->mostPack;
    if (!pack.cell.maxDischarge || !most.seen)
        return;
    const double limit = pack.cell.maxDischarge->value() * pack.parallel;
    if (most.value <= limit * (1 + kSlack))
        return;
    Finding f;
    f.rule = "over_current";
    f.severity = Severity::stop;
    f.subject = stage.id;
    f.title = "More than the cells may give";
    f.says = fmt::format("The worst draw is {} {}; {:.0f} in parallel may give {}.",
                         amps(most.value), momentText(s.project, most), pack.parallel, amps(limit));
    f.numbers = {{"a", most.value}, {"limit_a", limit}};
    const double needed = std::ceil(most.value / pack.cell.maxDischarge->value());
    Cure cure;
    cure.label = fmt::format("Use {:.0f} in parallel", needed);
    cure.name = fmt::format("put {:.0f} cells in parallel", needed);
    cure.apply = [id = stage.id, needed](const Project& project) {
        Project next = project;
        if (Stage* st = next.stage(id))
            setValue(st->part, "parallel", needed);
        return next;
    };
    f.cure = cure;
    out.push_back(std::move(f));
}

/// Past what the cells' resistance lets through at all.
void collapse(const Solved& s, std::vector<Finding>& out) {
    const Survey& survey = *s.survey;
    if (!survey.stop || survey.stop->reason != EndReason::collapse)
        return;
    const Mode* mode = s.project.mode(survey.stop->mode);
    Finding f;
    f.rule = "over_current";
    f.severity = Severity::stop;
    f.subject = s.project.packStage()->id;
    f.title = "The supply collapses";
    f.says = fmt::format(
        "In mode “{}”{} the cells can't give what is asked for at {} of the charge: the more the "
        "voltage sags, the more current the regulators take.",
        mode ? nameOf(*mode) : survey.stop->mode, survey.stop->inBurst ? ", in a burst," : "",
        survey.neverRuns ? "100 %" : writeShare(survey.stopCharge));
    f.numbers = {{"at_charge", survey.stopCharge}};
    out.push_back(std::move(f));
}

} // namespace

void overCurrent(const Solved& s, std::vector<Finding>& out) {
    if (!s.survey)
        return;
    pack(s, out);
    collapse(s, out);
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        if (isSource(stage.part))
            continue;
        for (const Limit& limit : kLimits) {
            const double most = figureOf(stage.part, limit.key);
            const Sighting& seen =
                limit.inductor ? s.survey->mostInductor[i] : s.survey->mostOut[i];
            if (most <= 0 || !seen.seen || seen.value <= most * (1 + kSlack))
                continue;
            Finding f;
            f.rule = "over_current";
            f.severity = Severity::stop;
            f.subject = stage.id;
            f.title = nameOf(stage) + " is asked for too much";
            f.says = fmt::format("{} flow {} at {} of the charge; {} {}.", amps(seen.value),
                                 momentText(s.project, seen), writeShare(seen.charge), limit.what,
                                 amps(most));
            f.numbers = {{"a", seen.value}, {"limit_a", most}, {"at_charge", seen.charge}};
            out.push_back(std::move(f));
            break;
        }
    }
}

} // namespace sipper::rules
