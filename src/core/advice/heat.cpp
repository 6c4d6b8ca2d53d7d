// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about heat.
#include "advice/rules.hpp"
#include "line/partcurves.hpp"
#include "parts/figures.hpp"

#include "advice/fixes.hpp"
#include "base/tolerance.hpp"
#include "line/operating.hpp"

#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kStopOver = 10;    ///< kelvin past the limit from which it is not softened
constexpr double kBurnShare = 0.30; ///< of what a linear regulator passes
constexpr double kBurnWatts = 1.0;
constexpr double kWorthCare = 0.01; ///< W under which a burnt share is only noted
constexpr int kRounds = 50;
constexpr double kTwice = 2; ///< of the current at which it would stay cool

/// Watts that the stage burns when it passes `out` amps at this input.
double lossAtCurrent(const Stage& stage, const StageFlow& now, double out) {
    const double ratio = now.iOut > 0 ? now.inductor / now.iOut : 1;
    return lossAt(stage.part, now.vIn, now.vOut, out, out * ratio).total();
}

void hot(const RuleInput& s, const OperatingSweep& seen, std::vector<Finding>& out) {
    const double air = s.project.brief.air().warmest().value() +
                       (&seen == s.sweep ? enclosureRise(s.project, s.runtime) : 0);
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        const double most = maxPartOf(stage.part);
        const double theta = thetaOf(stage.part);
        const Occurrence& loss = seen.maxLoss[i];
        if (most <= 0 || theta <= 0 || !loss.valid)
            continue;
        const double c = partTemperature(stage.part, loss.value, air);
        if (c <= most)
            continue;
        const StageFlow& now = seen.atMaxLoss[i];
        const double allowed = std::max(0.0, (most - air) / theta);
        const double cool = bisect(0, now.iOut, kRounds, [&](double amps) {
            return lossAtCurrent(stage, now, amps) <= allowed;
        });
        Finding f = finding(
            "too_hot", c > most + kStopOver ? Severity::stop : Severity::care, stage.id,
            nameOf(stage) + " gets too hot",
            fmt::format("It burns {} {}: in air of {} it reaches {}, and {} is its limit. Under {} "
                        "it would stay cool enough.",
                        writeQuantity(loss.value, Unit::watt), momentText(s.project, loss),
                        writeQuantity(air, Unit::celsius), writeQuantity(c, Unit::celsius),
                        writeQuantity(most, Unit::celsius), amps(cool)),
            {{"part_c", c}, {"limit_c", most}, {"loss_w", loss.value}, {"allowed_a", cool}});
        Part cooled = stage.part;
        active(cooled)->fan = true;
        // Blown at, a part that is asked for twice what it can shed is still the wrong one.
        const bool far = now.iOut > kTwice * cool;
        if (far)
            f.fix = std::holds_alternative<Linear>(stage.part)
                        ? switcherFix(s, stage, tooHot)
                        : largerPartFix(s, stage, now.iOut, tooHot);
        if (!f.fix && !hasFan(stage.part) && partTemperature(cooled, loss.value, air) <= most)
            f.fix = editFix("Blow air over it", "blow air over " + nameOf(stage),
                            [id = stage.id](const Project& project) {
                                Project after = project;
                                if (Stage* blown = after.stage(id))
                                    if (ActivePart* part = active(blown->part))
                                        part->fan = true;
                                return after;
                            });
        out.push_back(std::move(f));
    }
}

void burns(const RuleInput& s, const OperatingSweep& seen, std::vector<Finding>& out) {
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        if (!std::holds_alternative<Linear>(stage.part) || !seen.maxLoss[i].valid)
            continue;
        const StageFlow& now = seen.atMaxLoss[i];
        const double in = now.vIn * now.iIn;
        const double loss = seen.maxLoss[i].value;
        if (in <= 0 || now.state != StageState::regulating ||
            (loss <= kBurnShare * in && loss <= kBurnWatts))
            continue;
        Finding f = finding(
            "linear_burns", loss < kWorthCare ? Severity::note : Severity::care, stage.id,
            nameOf(stage) + " burns what it takes",
            fmt::format("Of {} {} it burns {}, {} of what it takes: from {} down to {} a linear "
                        "regulator has no other way. A buck burns a tenth, and makes noise.",
                        writeQuantity(in, Unit::watt), momentText(s.project, seen.maxLoss[i]),
                        writeQuantity(loss, Unit::watt), writeShare(loss / in), volts(now.vIn),
                        volts(now.vOut)),
            {{"loss_w", loss}, {"share", loss / in}});
        if (loss >= kWorthCare)
            f.fix = switcherFix(s, stage, linearBurns);
        if (f.fix)
            f.fix->forHours = s.project.pack() != nullptr;
        out.push_back(std::move(f));
    }
}

} // namespace

void tooHot(const RuleInput& s, std::vector<Finding>& out) {
    if (s.sweep)
        hot(s, *s.sweep, out);
    for (const ExternalLoad& t : s.externalLoads)
        hot(s, t.seen, out);
}

void linearBurns(const RuleInput& s, std::vector<Finding>& out) {
    if (s.sweep)
        burns(s, *s.sweep, out);
    for (const ExternalLoad& t : s.externalLoads)
        burns(s, t.seen, out);
}

} // namespace sipper::rules
