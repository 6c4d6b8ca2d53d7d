// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about currents.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "base/tolerance.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "protect/currents.hpp"

#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

/// A limit of a part's current, in the words of its finding.
struct Limit {
    double amps;
    const char* what;
    bool inductor;
};
std::vector<Limit> limitsInWords(const Part& part) {
    const OutputLimits l = limitsOf(part);
    const auto* guard = std::get_if<Guard>(&part);
    return {{guard ? orZero(guard->maxCurrent) : 0, "it trips at", false},
            {l.amps, "its output is limited to", false},
            {l.rated, "it is rated for", false},
            {l.inductor, "its switch is limited to", true}};
}

/// Where a step-up runs into its switch's limit another rule speaks: it names what is left at the
/// output.
bool stepsUp(const Stage& stage) {
    const auto* s = std::get_if<Switcher>(&stage.part);
    return s && s->topology != Topology::buck;
}

/// The surveys of the cells and of every other source.
std::vector<const OperatingSweep*> surveys(const RuleInput& s) {
    std::vector<const OperatingSweep*> list;
    if (s.sweep)
        list.push_back(s.sweep);
    for (const ExternalLoad& t : s.externalLoads)
        list.push_back(&t.seen);
    return list;
}

/// Largest output current of a step-up at an input, within its switch limit, in closed form.
double outputAtSwitchLimit(const Switcher& s, double in) {
    const double j = s.switchLimit->value();
    const double loss = s.fixed.value_or(Watts{0}).value() + s.drop.value_or(Volts{0}).value() * j +
                        s.resistance.value_or(Ohms{0}).value() * j * j + orZero(s.switching) * in;
    return std::max(0.0, (in * j - loss) / s.set.value());
}

constexpr double kLongBurst = 5; ///< s from which a burst counts as lasting

void pack(const RuleInput& s, std::vector<Finding>& out) {
    const Stage& stage = *s.project.packStage();
    const Pack& pack = *s.project.pack();
    const Occurrence& most = s.sweep->maxPack;
    if (!pack.cell.maxDischarge || !most.valid)
        return;
    const double lasting = pack.cell.maxDischarge->value() * pack.parallel;
    const CurrentDemand need = currentDemandOf(
        s.project, packIndex(s.project), ObservedCurrents{s.sweep, s.externalLoads, s.charges});
    // A short burst has a limit of its own.
    const bool brief = most.inBurst && need.seconds < kLongBurst;
    const double limit =
        brief && pack.cell.maxBurst ? pack.cell.maxBurst->value() * pack.parallel : lasting;
    const bool steady = exceeds(need.continuous, lasting);
    if (!exceeds(most.value, limit) && !steady)
        return;
    const double worst = exceeds(most.value, limit) ? most.value : need.continuous;
    const double may = exceeds(most.value, limit) ? limit : lasting;
    const ChargeInterval spell =
        s.intervalOf([&](const Flows& f, std::size_t, bool) { return exceeds(f.sourceAmps, may); });
    Finding f;
    f.rule = "over_current";
    f.severity = spell.share < kSliver ? Severity::care : Severity::stop;
    f.subject = stage.id;
    f.title = "More than the cells may give";
    f.says = fmt::format("The worst draw is {} {}; {:.0f} in parallel may give {}{}{}.",
                         amps(worst), momentText(s.project, most), pack.parallel, amps(may),
                         brief && !steady ? " in a burst" : "", fromCharge(spell));
    f.numbers = {{"a", worst},
                 {"worst_a", worst},
                 {"limit_a", may},
                 {"at_charge", spell.first.charge},
                 {"charge_share", spell.share}};
    if (s.seekFixes && brief && !steady && wantsCapacitor(pack)) {
        const Load* load = burstingLoad(s.project);
        double farad = 0;
        if (load)
            f.fix = rules::capacitorFix(
                s.project, load->id,
                [&](const Project& with) { return isSilentOn(s, with, overCurrent, stage.id); },
                farad);
        if (f.fix)
            f.numbers["farad"] = farad;
    }
    if (!f.fix) {
        const double needed = std::ceil(worst / (may / pack.parallel));
        f.fix =
            figureFix(stage, &Pack::parallel, needed, fmt::format("Use {:.0f} in parallel", needed),
                      fmt::format("put {:.0f} cells in parallel", needed));
    }
    out.push_back(std::move(f));
}

/// Past what the cells' resistance lets through at all.
void collapse(const RuleInput& s, std::vector<Finding>& out) {
    const OperatingSweep& survey = *s.sweep;
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

void overCurrent(const RuleInput& s, std::vector<Finding>& out) {
    if (s.sweep) {
        pack(s, out);
        collapse(s, out);
    }
    for (const OperatingSweep* seenBy : surveys(s))
        for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
            const Stage& stage = s.project.stages[i];
            if (isSource(stage.part))
                continue;
            for (const Limit& limit : limitsInWords(stage.part)) {
                if (limit.inductor && stepsUp(stage))
                    continue;
                const double most = limit.amps;
                const Occurrence& seen =
                    limit.inductor ? seenBy->maxInductor[i] : seenBy->maxOut[i];
                if (most <= 0 || !seen.valid || !exceeds(seen.value, most))
                    continue;
                ChargeInterval spell;
                if (seenBy == s.sweep)
                    spell = s.intervalOf([&](const Flows& f, std::size_t, bool) {
                        return exceeds(limit.inductor ? f.stages[i].inductor : f.stages[i].iOut,
                                       most);
                    });
                Finding f;
                f.rule = "over_current";
                f.severity =
                    spell.valid() && spell.share < kSliver ? Severity::care : Severity::stop;
                f.subject = stage.id;
                f.title = nameOf(stage) + " is asked for too much";
                f.says = fmt::format("{} flow {}; {} {}{}.", amps(seen.value),
                                     momentText(s.project, seen), limit.what, amps(most),
                                     fromCharge(spell));
                f.numbers = {{"a", seen.value},
                             {"worst_a", seen.value},
                             {"limit_a", most},
                             {"at_charge", spell.valid() ? spell.first.charge : seen.charge}};
                if (spell.valid())
                    f.numbers["charge_share"] = spell.share;
                f.fix = largerPartFix(s, stage, seen.value, overCurrent);
                out.push_back(std::move(f));
                break;
            }
        }
}

void outputLimitAtLowInput(const RuleInput& s, std::vector<Finding>& out) {
    for (const OperatingSweep* seenBy : surveys(s))
        for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
            const Stage& stage = s.project.stages[i];
            if (!stepsUp(stage))
                continue;
            const auto& part = std::get<Switcher>(stage.part);
            const Occurrence& seen = seenBy->maxInductor[i];
            if (!part.switchLimit || !seen.valid || !exceeds(seen.value, part.switchLimit->value()))
                continue;
            const double in = seenBy->stageIn[i].low;
            const double gives = outputAtSwitchLimit(part, in);
            const double asked = seenBy->maxOut[i].value;
            Finding f = finding(
                "output_limit_at_low_input", Severity::stop, stage.id,
                nameOf(stage) + " gives less at a low input",
                fmt::format("Its switch carries {}. At {} in, that leaves {} at {}; {} asks for "
                            "{}. A label quotes the switch or the best case.",
                            amps(part.switchLimit->value()), volts(in), amps(gives),
                            volts(part.set.value()),
                            fmt::format("mode “{}”{}", nameOf(s.project.modes[seen.mode]),
                                        seen.inBurst ? ", in a burst," : ""),
                            amps(asked)),
                {{"switch_a", seen.value},
                 {"limit_a", part.switchLimit->value()},
                 {"output_limit_a", gives},
                 {"output_a", asked},
                 {"input_v", in}});
            f.fix = largerPartFix(s, stage, seen.value, outputLimitAtLowInput);
            if (const Stage* pack = s.project.packStage();
                !f.fix && pack && seenBy == s.sweep &&
                fullVolts(*s.project.pack()) * 2 < part.set.value())
                f.fix = figureFix(*pack, &Pack::series, std::get<Pack>(pack->part).series * 2,
                                  "Twice the cells in series", "put twice the cells in series");
            out.push_back(std::move(f));
        }
}

void powerLimit(const RuleInput& s, std::vector<Finding>& out) {
    for (const OperatingSweep* seenBy : surveys(s))
        for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
            const Stage& stage = s.project.stages[i];
            const double limit = limitsOf(stage.part).watts;
            const Occurrence& seen = seenBy->maxWatts[i];
            if (limit <= 0 || isCharger(stage.part) || !seen.valid || !exceeds(seen.value, limit))
                continue;
            Finding f = finding(
                "power_limit", Severity::stop, stage.id, nameOf(stage) + " is past its watts",
                fmt::format("It gives {} {}; its label allows {}.",
                            writeQuantity(seen.value, Unit::watt), momentText(s.project, seen),
                            writeQuantity(limit, Unit::watt)),
                {{"w", seen.value}, {"limit_w", limit}});
            f.fix = largerPartFix(s, stage, seenBy->maxOut[i].value, powerLimit);
            out.push_back(std::move(f));
        }
}

} // namespace sipper::rules
