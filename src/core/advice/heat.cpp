// Rules about heat.
#include "advice/rules.hpp"

#include "advice/words.hpp"
#include "line/operating.hpp"
#include "project/library.hpp"

#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kStopOver = 10;    ///< kelvin past the limit from which it is not softened
constexpr double kBurnShare = 0.30; ///< of what a linear regulator passes
constexpr double kBurnWatts = 1.0;
constexpr double kWorthCare = 0.01; ///< W under which a burnt share is only noted
constexpr int kRounds = 50;

/// Watts that the stage burns when it passes `out` amps at this input: the loss terms of its kind.
double lossAt(const Stage& stage, const StageFlow& now, double out) {
    if (std::holds_alternative<Linear>(stage.part))
        return (now.vIn - now.vOut) * out + now.vIn * figureOf(stage.part, "ground_a");
    const double ratio = now.iOut > 0 ? now.inductor / now.iOut : 1;
    const double inductor = out * ratio;
    return now.vIn * figureOf(stage.part, "quiescent_a") + figureOf(stage.part, "fixed_w") +
           figureOf(stage.part, "drop_v") * inductor +
           figureOf(stage.part, "resistance_ohm") * inductor * inductor;
}

void hot(const Solved& s, const Survey& seen, std::vector<Finding>& out) {
    const double air = s.project.brief.air().warmest().value();
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        const double most = figureOf(stage.part, "max_part_c");
        const double theta = thetaOf(stage.part);
        const Sighting& loss = seen.mostLoss[i];
        if (most <= 0 || theta <= 0 || !loss.seen)
            continue;
        const double c = partTemperature(stage.part, loss.value, air);
        if (c <= most)
            continue;
        const StageFlow& now = seen.atMostLoss[i];
        const double allowed = std::max(0.0, (most - air) / theta);
        double low = 0;
        double high = now.iOut;
        for (int round = 0; round < kRounds; ++round) {
            const double middle = (low + high) / 2;
            (lossAt(stage, now, middle) <= allowed ? low : high) = middle;
        }
        Finding f = finding(
            "too_hot", c > most + kStopOver ? Severity::stop : Severity::care, stage.id,
            nameOf(stage) + " gets too hot",
            fmt::format("It burns {} {}: in air of {} it reaches {}, and {} is its limit. Under {} "
                        "it would stay cool enough.",
                        writeQuantity(loss.value, Unit::watt), momentText(s.project, loss),
                        writeQuantity(air, Unit::celsius), writeQuantity(c, Unit::celsius),
                        writeQuantity(most, Unit::celsius), amps(low)),
            {{"part_c", c}, {"limit_c", most}, {"loss_w", loss.value}, {"cool_under_a", low}});
        const FieldValue fan = valueOf(stage.part, "fan");
        const bool blown = std::get_if<bool>(&fan) && std::get<bool>(fan);
        Part cooled = stage.part;
        setValue(cooled, "fan", true);
        if (!blown && partTemperature(cooled, loss.value, air) <= most)
            f.cure = figureCure(stage, "fan", true, "Blow air over it",
                                "blow air over " + nameOf(stage));
        out.push_back(std::move(f));
    }
}

void burns(const Solved& s, const Survey& seen, std::vector<Finding>& out) {
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        if (!std::holds_alternative<Linear>(stage.part) || !seen.mostLoss[i].seen)
            continue;
        const StageFlow& now = seen.atMostLoss[i];
        const double in = now.vIn * now.iIn;
        const double loss = seen.mostLoss[i].value;
        if (in <= 0 || now.state != StageState::regulating ||
            (loss <= kBurnShare * in && loss <= kBurnWatts))
            continue;
        Finding f = finding(
            "linear_burns", loss < kWorthCare ? Severity::note : Severity::care, stage.id,
            nameOf(stage) + " burns what it takes",
            fmt::format("Of {} {} it burns {}, {} of what it takes: from {} down to {} a linear "
                        "regulator has no other way. A buck burns a tenth, and makes noise.",
                        writeQuantity(in, Unit::watt), momentText(s.project, seen.mostLoss[i]),
                        writeQuantity(loss, Unit::watt), writeShare(loss / in), volts(now.vIn),
                        volts(now.vOut)),
            {{"loss_w", loss}, {"share", loss / in}});
        auto buck = shippedPart("buck-2a-low-quiescent", stage.id, stage.fedBy.front());
        if (buck && loss >= kWorthCare) {
            Stage swapped = std::move(buck).value();
            setValue(swapped.part, "set_v", figureOf(stage.part, "set_v"));
            swapped.connector = stage.connector;
            f.cure = replaceCure(swapped, "Use a buck", "use a buck for " + nameOf(stage));
            f.cure->forHours = s.project.pack() != nullptr;
        }
        out.push_back(std::move(f));
    }
}

} // namespace

void tooHot(const Solved& s, std::vector<Finding>& out) {
    if (s.survey)
        hot(s, *s.survey, out);
    for (const Tether& t : s.tethers)
        hot(s, t.seen, out);
}

void linearBurns(const Solved& s, std::vector<Finding>& out) {
    if (s.survey)
        burns(s, *s.survey, out);
    for (const Tether& t : s.tethers)
        burns(s, t.seen, out);
}

} // namespace sipper::rules
