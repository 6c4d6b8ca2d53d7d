// SPDX-License-Identifier: GPL-3.0-or-later
#include "protect/dividers.hpp"

#include "line/unloaded.hpp"
#include "parts/eseries.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/build.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kTie = 1e-9; ///< of the target: as good as equal
constexpr double kUsualReference = 1.25;
constexpr double kFeedbackReference = 0.6; ///< V, of most small converters
constexpr double kWatchScale = 3.3;        ///< V, of the usual converter input
constexpr double kWatchHeadroom = 1.05;    ///< full scale over the full pack
constexpr double kThresholdDraw = 2e-5;    ///< A: it draws for ever
constexpr double kSetPointDraw = 2e-4;     ///< A: it draws while the regulator works
constexpr double kWatchDraw = 5e-6;
constexpr double kTapOhms = 2e5;
constexpr double kWatchTapOhms = 1e6;

/// Volts that reach the reference at the tap, from `(v - ref)/upper + (out - ref)/feedback =
/// ref/lower`; with `follows`, out is v.
double threshold(double reference, double upper, double lower, std::optional<double> feedback,
                 double out, bool follows) {
    if (!feedback)
        return reference * (1 + upper / lower);
    if (follows)
        return reference + reference / lower / (1 / upper + 1 / *feedback);
    return reference + upper * (reference / lower - (out - reference) / *feedback);
}

void tolerances(const DividerOptions& ask, Divider& d) {
    d.least = std::numeric_limits<double>::infinity();
    d.most = 0;
    const double t = ask.tolerance;
    for (const double u : {1 - t, 1 + t})
        for (const double l : {1 - t, 1 + t})
            for (const double f : {1 - t, 1 + t})
                for (const double r : {1 - ask.referenceTolerance, 1 + ask.referenceTolerance}) {
                    const double v =
                        threshold(ask.reference * r, d.upper * u, d.lower * l,
                                  d.feedback ? std::optional(*d.feedback * f) : std::nullopt,
                                  ask.outputVolts, ask.outputFollows);
                    d.least = std::min(d.least, v);
                    d.most = std::max(d.most, v);
                }
}

bool allowed(const DividerOptions& ask, double upper, double lower) {
    return ask.target / (upper + lower) <= ask.drawsAtMost * (1 + kTie) &&
           upper * lower / (upper + lower) <= ask.tapOhmsAtMost * (1 + kTie);
}

Divider dividerOf(const DividerOptions& ask, double upper, double lower,
                  std::optional<double> feedback) {
    Divider d;
    d.upper = upper;
    d.lower = lower;
    d.feedback = feedback;
    d.actual = threshold(ask.reference, upper, lower, feedback, ask.outputVolts, ask.outputFollows);
    d.error = (d.actual - ask.target) / ask.target;
    if (feedback)
        d.givesUpper = threshold(ask.reference, upper, lower, feedback, 0, false);
    d.draws = ask.target / (upper + lower);
    d.tapOhms = upper * lower / (upper + lower);
    d.voltsPerCount = d.actual / 1024;
    tolerances(ask, d);
    return d;
}

/// The largest miss of both thresholds, relative.
double miss(const DividerOptions& ask, const Divider& d) {
    const double low = std::abs(d.error);
    return d.givesUpper && ask.upper
               ? std::max(low, std::abs(*d.givesUpper - *ask.upper) / *ask.upper)
               : low;
}

void keepBest(const DividerOptions& ask, std::vector<Divider>& list, std::size_t count) {
    std::sort(list.begin(), list.end(), [&](const Divider& a, const Divider& b) {
        const double missA = miss(ask, a);
        const double missB = miss(ask, b);
        if (std::abs(missA - missB) > kTie)
            return missA < missB;
        return a.upper + a.lower > b.upper + b.lower;
    });
    if (list.size() > count)
        list.resize(count);
}

/// Pairs, for each lower resistor the two uppers beside the exact one.
void pairs(const DividerOptions& ask, const std::vector<double>& all, std::vector<Divider>& out) {
    for (const double lower : all) {
        const double exact = lower * (ask.target / ask.reference - 1);
        const auto at = std::lower_bound(all.begin(), all.end(), exact);
        for (const auto here : {at, at == all.begin() ? at : at - 1})
            if (here != all.end() && allowed(ask, *here, lower)) {
                out.push_back(dividerOf(ask, *here, lower, std::nullopt));
                if (at == all.begin())
                    break;
            }
    }
}

/// Three resistors: the spread of the thresholds is `upper (out)/feedback`, which fixes the
/// feedback resistor for each upper one, and then the lower one.
void triples(const DividerOptions& ask, const std::vector<double>& all, std::vector<Divider>& out) {
    const double spread = *ask.upper - ask.target;
    const auto beside = [&](double exact) {
        std::array<double, 2> two{0, 0};
        const auto at = std::lower_bound(all.begin(), all.end(), exact);
        if (at != all.end())
            two[0] = *at;
        if (at != all.begin())
            two[1] = *(at - 1);
        return two;
    };
    for (const double upper : all)
        for (const double feedback : beside(upper * ask.outputVolts / spread)) {
            if (feedback <= 0)
                continue;
            // Rising, the output is low: (v - ref)/upper - ref/feedback = ref/lower.
            const double tap = (*ask.upper - ask.reference) / upper - ask.reference / feedback;
            if (tap <= 0)
                continue;
            for (const double lower : beside(ask.reference / tap))
                if (lower > 0 && allowed(ask, upper, lower))
                    out.push_back(dividerOf(ask, upper, lower, feedback));
        }
}

} // namespace

std::vector<Divider> dividersFor(const DividerOptions& ask, std::size_t count) {
    std::vector<Divider> list;
    if (!whyNoDivider(ask).empty())
        return list;
    const std::vector<double> all = seriesValues(ask.series);
    if (ask.upper)
        triples(ask, all, list);
    else
        pairs(ask, all, list);
    keepBest(ask, list, count);
    return list;
}

std::string whyNoDivider(const DividerOptions& ask) {
    if (seriesDecade(ask.series).empty())
        return "there is no series " + ask.series + ": E12, E24 or E96";
    if (!(ask.reference > 0))
        return "the reference has to be over 0 V";
    if (ask.target <= ask.reference)
        return fmt::format("the target, {}, has to lie over the reference, {}",
                           writeQuantity(ask.target, Unit::volt),
                           writeQuantity(ask.reference, Unit::volt));
    if (ask.upper && *ask.upper <= ask.target)
        return "switching back has to lie over switching off";
    if (ask.upper && ask.outputVolts <= 0)
        return "the output that feeds back has to give some volts";
    if (!(ask.drawsAtMost > 0) || !(ask.tapOhmsAtMost > 0))
        return "draw and tap resistance have to be over 0";
    // Least total by the draw, most by the tap: they may exclude each other.
    const double ratio = ask.reference / ask.target;
    const double total = ask.target / ask.drawsAtMost;
    if (total * ratio * (1 - ratio) > ask.tapOhmsAtMost * 1.2)
        return fmt::format("to draw {} at most, its tap shows {} or more: allow more of one",
                           writeQuantity(ask.drawsAtMost, Unit::ampere),
                           writeQuantity(total * ratio * (1 - ratio), Unit::ohm));
    return {};
}

std::vector<bool> undominated(const std::vector<Divider>& list) {
    std::vector<bool> good;
    good.reserve(list.size());
    for (const Divider& d : list)
        good.push_back(std::none_of(list.begin(), list.end(), [&](const Divider& o) {
            return std::abs(o.error) <= std::abs(d.error) && o.draws <= d.draws &&
                   (std::abs(o.error) < std::abs(d.error) || o.draws < d.draws);
        }));
    return good;
}

std::vector<DividerPlace> dividerPlaces(const Project& p) {
    std::vector<DividerPlace> places;
    const auto add = [&](const Stage& stage, DividerUse use, const SetByDivider* by, double target,
                         double reference, double draws, double tap, std::string says) {
        DividerPlace place;
        place.id = stage.id;
        place.use = use;
        place.says = std::move(says);
        place.ask.use = use;
        place.ask.reference = by && by->reference ? by->reference->value() : reference;
        place.ask.target = target;
        place.ask.drawsAtMost = draws;
        place.ask.tapOhmsAtMost = tap;
        if (by && by->upper && by->lower) {
            place.ask.outputVolts = target;
            place.ask.outputFollows = use == DividerUse::threshold;
            place.has =
                dividerOf(place.ask, by->upper->value(), by->lower->value(),
                          by->feedback ? std::optional(by->feedback->value()) : std::nullopt);
        }
        places.push_back(std::move(place));
        return &places.back();
    };
    const auto say = [](const Stage& s, std::string_view what, double volts) {
        return fmt::format("{} {} {}", nameOf(s), what, writeQuantity(volts, Unit::volt));
    };
    bool watched = false;
    for (const Stage& stage : p.stages) {
        if (const auto* guard = std::get_if<Guard>(&stage.part)) {
            const double cutoff = guard->cutoff.value();
            DividerPlace* place = add(stage, DividerUse::threshold, guard, cutoff, kUsualReference,
                                      kThresholdDraw, kTapOhms, say(stage, "opens at", cutoff));
            // A guard with a reconnect of its own: a feedback resistor from its output.
            if (guard->reconnect && guard->reconnect->value() > cutoff) {
                place->ask.upper = guard->reconnect->value();
                place->ask.outputVolts = cutoff;
                place->ask.outputFollows = true;
            }
        } else if (const auto* watch = std::get_if<Watch>(&stage.part)) {
            watched = true;
            const double scale = watch->fullScale ? watch->fullScale->value() : kWatchScale;
            DividerPlace* place = add(stage, DividerUse::watch, nullptr,
                                      scale * (1 + watch->upper.value() / watch->lower.value()),
                                      scale, kWatchDraw, kWatchTapOhms, nameOf(stage));
            if (p.pack())
                place->ask.target = std::ceil(fullVolts(*p.pack()) * kWatchHeadroom * 10) / 10;
            place->says = say(stage, "reads up to", place->ask.target);
            place->has = dividerOf(place->ask, watch->upper.value(), watch->lower.value(), {});
        } else if (isRegulator(stage.part)) {
            const double set = orZero(setPointOf(stage.part));
            add(stage, DividerUse::setPoint, active(stage.part), set, kFeedbackReference,
                kSetPointDraw, kTapOhms, say(stage, "is set to", set));
            const double locks = inputMinOf(stage.part);
            const double starts = startMinOf(stage.part);
            if (locks > kUsualReference && starts > locks) {
                // Its lock-out, with hysteresis from its own output.
                DividerPlace* place =
                    add(stage, DividerUse::threshold, nullptr, locks, kUsualReference,
                        kThresholdDraw, kTapOhms, say(stage, "stops at", locks));
                place->ask.upper = starts;
                place->ask.outputVolts = set;
            }
        }
    }
    if (!watched && p.packStage()) {
        const double target = std::ceil(fullVolts(*p.pack()) * kWatchHeadroom * 10) / 10;
        add(*p.packStage(), DividerUse::watch, nullptr, target, kWatchScale, kWatchDraw,
            kWatchTapOhms, say(*p.packStage(), "read up to", target));
    }
    return places;
}

Project withDivider(const Project& p, const DividerPlace& place, const Divider& d) {
    Project out = p;
    Stage* stage = out.stage(place.id);
    if (!stage)
        return out;
    const auto take = [&](SetByDivider& by) {
        by.reference = Volts{place.ask.reference};
        by.upper = Ohms{d.upper};
        by.lower = Ohms{d.lower};
        by.feedback = d.feedback ? std::optional(Ohms{*d.feedback}) : std::nullopt;
    };
    const double gives = std::round(d.actual * 1000) / 1000;
    if (place.use == DividerUse::watch) {
        if (isPack(stage->part)) {
            Stage watch = freshStage(out, Kind::watch, stage->id);
            watch.part = Watch{Ohms{d.upper}, Ohms{d.lower}, Volts{place.ask.reference}};
            return withStageBetween(out, watch, stage->id);
        }
        stage->part = Watch{Ohms{d.upper}, Ohms{d.lower}, Volts{place.ask.reference}};
    } else if (auto* guard = std::get_if<Guard>(&stage->part)) {
        take(*guard);
        guard->cutoff = Volts{gives};
        if (d.givesUpper)
            guard->reconnect = Volts{std::round(*d.givesUpper * 1000) / 1000};
    } else if (ActivePart* part = active(stage->part)) {
        if (place.use == DividerUse::setPoint) {
            take(*part);
            static_cast<void>(setPointTo(stage->part, Volts{gives}));
        } else {
            part->inputMin = Volts{gives};
            if (d.givesUpper)
                part->startMin = Volts{std::round(*d.givesUpper * 1000) / 1000};
        }
    }
    return out;
}

} // namespace sipper
