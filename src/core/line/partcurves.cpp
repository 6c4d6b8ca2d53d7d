// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/partcurves.hpp"

#include "base/tolerance.hpp"
#include "line/sources.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "quantity/read.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace sipper {
namespace {

constexpr double kHolds = 0.995; ///< of the set-point: less is lost
constexpr int kRounds = 50;

/// The largest current up to `most` at which `good` holds; it holds below and not above.
template <class Good>
double largest(double most, Good good) {
    if (good(most))
        return most;
    return bisect(0, most, kRounds, good);
}

} // namespace

PartPoint partAt(const Stage& stage, double volts, double amps) {
    Project p;
    Mode& mode = p.modes.emplace_back();
    mode.id = "on";
    mode.base = true;
    Stage& source = p.stages.emplace_back();
    source.id = "source";
    Adapter adapter;
    adapter.set = Volts{volts};
    source.part = adapter;
    Stage part = stage;
    if (ActivePart* own = active(part.part)) // a light driver: at the volts that it is made for
        own->regulates.reset();
    part.id = "part";
    part.fedBy = {"source"};
    p.stages.push_back(std::move(part));
    Load& load = p.loads.emplace_back();
    load.id = "load";
    load.fedBy = "part";
    Draw& draw = load.draws.emplace_back();
    draw.mode = "on";
    draw.current = Amps{amps};
    SourceLine line(p, 0, {0}, Celsius{25});
    const auto answer = line.solve(0, Network::kNoBurst, volts, 1);
    PartPoint point;
    point.flow = answer.flows.stages[1];
    point.works = !answer.collapsed && point.flow.state != StageState::off;
    return point;
}

LossSplit lossAt(const Part& part, double vIn, double vOut, double out, double inductor) {
    LossSplit s;
    const LossTerms terms = lossTermsOf(part);
    switch (kindFacts(part).losses) {
    case LossRule::none:
        break;
    case LossRule::series:
    case LossRule::dropped:
        s.quiescent = vIn * quiescentOf(part);
        s.drop = (vIn - vOut) * out;
        break;
    case LossRule::converter:
        s.quiescent = vIn * terms.quiescent;
        s.fixed = terms.fixed + terms.switching * vIn;
        s.drop = terms.drop * inductor;
        s.resistance = terms.resistance * inductor * inductor;
        break;
    }
    return s;
}

LossSplit lossSplit(const Stage& stage, const StageFlow& f) {
    if (f.state == StageState::off)
        return {};
    LossSplit s = lossAt(stage.part, f.vIn, f.vOut, f.iOut, f.inductor);
    // The fixed loss is scaled as it skips; a boost that holds burns the rest there.
    if (kindFacts(stage.part).losses == LossRule::converter)
        s.fixed = std::max(0.0, f.loss() - s.quiescent - s.drop - s.resistance);
    return s;
}

double mostOutput(const Stage& stage, double volts, double searchUpTo) {
    const double set = orZero(setPointOf(stage.part));
    const OutputLimits limits = limitsOf(stage.part);
    return largest(searchUpTo, [&](double amps) {
        if ((limits.amps > 0 && amps > limits.amps) || (limits.rated > 0 && amps > limits.rated))
            return false;
        const PartPoint p = partAt(stage, volts, amps);
        return p.works && p.flow.vOut >= kHolds * set &&
               !(limits.watts > 0 && p.flow.vOut * amps > limits.watts) &&
               !(limits.inductor > 0 && p.flow.inductor > limits.inductor);
    });
}

double coolUpTo(const Stage& stage, double volts, Celsius ambient, double searchUpTo) {
    const double limit = maxPartOf(stage.part);
    const double theta = thetaOf(stage.part);
    if (limit <= 0 || theta <= 0)
        return std::numeric_limits<double>::infinity();
    const double amps = largest(searchUpTo, [&](double a) {
        const PartPoint p = partAt(stage, volts, a);
        return p.works && partTemperature(stage.part, p.flow.loss(), ambient.value()) <= limit;
    });
    return amps >= searchUpTo ? std::numeric_limits<double>::infinity() : amps;
}

Outcome<Label> readLabel(std::string_view text) {
    Label label;
    std::string rest(text);
    std::replace(rest.begin(), rest.end(), ';', ',');
    std::size_t from = 0;
    bool any = false;
    while (from <= rest.size()) {
        const auto comma = rest.find(", ", from);
        std::string word =
            rest.substr(from, comma == std::string::npos ? std::string::npos : comma - from);
        from = comma == std::string::npos ? rest.size() + 1 : comma + 2;
        if (word.find_first_not_of(' ') == std::string::npos)
            continue;
        any = true;
        const bool unitless = word.find_first_not_of("0123456789.,+- ") == std::string::npos;
        if (const auto a = readQuantity(word, Unit::ampere); a && !unitless && a.value() > 0)
            label.amps = a.value();
        else if (const auto w = readQuantity(word, Unit::watt); w && !unitless && w.value() > 0)
            label.watts = w.value();
        else if (const auto e = readQuantity(word, Unit::percent);
                 e && !unitless && e.value() > 0 && e.value() <= 1)
            label.efficiency = e.value();
        else
            return Error{"label", "", "\"" + word + "\"",
                         "amps, watts or per cent, such as 5 A, 40 W, 95 %", ""};
    }
    if (!any)
        return Error{"label", "", "nothing", "what is printed, such as 5 A, 40 W, 95 %", ""};
    return label;
}

std::string labelMeans(const Stage& stage, const Label& label, double volts) {
    const double set = orZero(setPointOf(stage.part));
    const auto* s = std::get_if<Switcher>(&stage.part);
    std::string text;
    const auto say = [&](std::string sentence) { text += (text.empty() ? "" : " ") + sentence; };
    double most = std::numeric_limits<double>::infinity();
    if (label.amps) {
        const double amps = *label.amps;
        if (s && s->topology != Topology::buck && set > volts) {
            // On a step-up the amps of a label are its switch's.
            const double efficiency = label.efficiency.value_or(0.9);
            const double out = amps * volts / set * efficiency;
            say(fmt::format("{} on a step-up is what its switch carries: from {} in that leaves "
                            "{} at {}.",
                            writeQuantity(amps, Unit::ampere), writeQuantity(volts, Unit::volt),
                            writeQuantity(out, Unit::ampere), writeQuantity(set, Unit::volt)));
            most = out;
        } else {
            say(fmt::format("{} is the most for moments or with air over it; half of that for "
                            "good.",
                            writeQuantity(amps, Unit::ampere)));
            most = amps;
        }
    }
    if (label.watts && set > 0) {
        const double out = *label.watts / set;
        say(fmt::format("{} are {} at {}{}.", writeQuantity(*label.watts, Unit::watt),
                        writeQuantity(out, Unit::ampere), writeQuantity(set, Unit::volt),
                        out < most ? ": that bites first" : ", so the amps bite first"));
        most = std::min(most, out);
    }
    if (label.efficiency) {
        const double at = std::isfinite(most) ? most : mostOutput(stage, volts);
        const PartPoint best = partAt(stage, volts, at / 2);
        say(fmt::format("{} is its best point. {}", writeShare(*label.efficiency),
                        best.works ? fmt::format("With the losses entered here it is {} at {} in "
                                                 "and {} out.",
                                                 writeShare(best.efficiency()),
                                                 writeQuantity(volts, Unit::volt),
                                                 writeQuantity(at / 2, Unit::ampere))
                                   : "Here it does not reach its set-point."));
        if (std::isfinite(most)) {
            const double heat = set * most * (1 / *label.efficiency - 1);
            say(fmt::format("Even so {} out leave {} of heat in it.",
                            writeQuantity(most, Unit::ampere), writeQuantity(heat, Unit::watt)));
        }
    }
    return text;
}

} // namespace sipper
