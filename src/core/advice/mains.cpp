// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about adapters, sockets and vehicles.
#include "advice/fixes.hpp"
#include "advice/rules.hpp"
#include "base/tolerance.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "protect/currents.hpp"

#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kLabelShare = 0.8; ///< of a module's label, for good
constexpr double kRatingStep = 0.5; ///< A in which adapters come

const Stage& sourceOf(const RuleInput& s, const ExternalLoad& t) {
    return s.project.stages[t.source];
}

std::string from(const RuleInput& s, const ExternalLoad& t) {
    return "From " + nameOf(sourceOf(s, t));
}

std::optional<Fix> largerAdapter(const Stage& source, double amps) {
    if (!std::holds_alternative<Adapter>(source.part))
        return std::nullopt;
    const double rating = std::ceil(amps / kRatingStep - kRelTol) * kRatingStep;
    const auto& adapter = std::get<Adapter>(source.part);
    const auto key = adapter.limit || adapter.set ? &Adapter::limit : &Adapter::ratedCurrent;
    return figureFix(
        source, key, Amps{rating}, "Use one for " + writeQuantity(rating, Unit::ampere),
        fmt::format("use {} for {}", nameOf(source), writeQuantity(rating, Unit::ampere)));
}

bool isUnregulated(const Stage& source) {
    const auto* adapter = std::get_if<Adapter>(&source.part);
    return adapter && !adapter->set;
}

/// Inputs over what they survive, set-points lost or passed.
void stagesFrom(const RuleInput& s, const ExternalLoad& t, const Flows& idle,
                std::vector<Finding>& out) {
    const OperatingSweep& seen = t.seen;
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        if (i == t.source || !seen.stageIn[i].valid)
            continue;
        const double high = std::max(idle.stages[i].vIn, seen.stageIn[i].high);
        const double limit = neverAboveOf(stage.part);
        // An unregulated adapter's own rule says it.
        if (limit > 0 && exceeds(high, limit) && !isUnregulated(sourceOf(s, t)))
            out.push_back(finding(
                "never_above", Severity::stop, stage.id, nameOf(stage) + " would be damaged",
                fmt::format("{} it can see {}; it survives {} at most.", from(s, t),
                            voltsBeside(high, limit), volts(limit)),
                {{"v", high}, {"sees_v", high}, {"never_above_v", limit}, {"limit_v", limit}}));
        if (seen.firstDropout[i].valid)
            out.push_back(finding("drop_out", Severity::care, stage.id,
                                  nameOf(stage) + " loses its set-point",
                                  fmt::format("{} its input goes down to {} {}: no room is left "
                                              "for {}.",
                                              from(s, t), volts(seen.firstDropout[i].value),
                                              momentText(s.project, seen.firstDropout[i]),
                                              volts(orZero(setPointOf(stage.part)))),
                                  {{"input_v", seen.firstDropout[i].value}}));
        const auto* boost = std::get_if<Switcher>(&stage.part);
        if (boost && boost->topology == Topology::boost && !boost->holdsWhenAbove.value_or(false) &&
            high > boost->set.value())
            out.push_back(finding(
                "passes_through", Severity::stop, stage.id,
                nameOf(stage) + " lets its input through",
                fmt::format("{} its input reaches {}, over the set-point of {}: a boost can't "
                            "step down.",
                            from(s, t), volts(high), volts(boost->set.value())),
                {{"input_v", high}, {"set_v", boost->set.value()}}));
    }
}

/// A load that gets more than it takes or survives.
void tooMuch(const RuleInput& s, const ExternalLoad& t, const Load& load, double high,
             std::vector<Finding>& out) {
    const auto never = load.window.neverAbove;
    if (isUnregulated(sourceOf(s, t)) && exceeds(high, load.window.max.value())) {
        // Its own rule says it.
    } else if (never && exceeds(high, never->value())) {
        out.push_back(finding("never_above", Severity::stop, load.id,
                              nameOf(load) + " would be damaged",
                              fmt::format("{} it can see {}; it survives {} at most.", from(s, t),
                                          voltsBeside(high, never->value()), volts(never->value())),
                              {{"v", high},
                               {"sees_v", high},
                               {"never_above_v", never->value()},
                               {"limit_v", never->value()}}));
    } else if (exceeds(high, load.window.max.value())) {
        out.push_back(finding(
            "window_high", Severity::stop, load.id, nameOf(load) + " gets too much",
            fmt::format("{} it sees up to {} and takes {} at most.", from(s, t),
                        voltsBeside(high, load.window.max.value()), volts(load.window.max.value())),
            {{"v", high},
             {"sees_v", high},
             {"max_v", load.window.max.value()},
             {"limit_v", load.window.max.value()}}));
    }
}

/// Does a burst reset the load though its own input capacitor carries a part of it?
bool holdsNot(const RuleInput& s, const ExternalLoad& t, std::size_t load) {
    const Load& l = s.project.loads[load];
    if (!l.inputCap)
        return true;
    const Project held = withInputCapacitor(s.project, l);
    const std::string& source = sourceOf(s, t).id;
    for (const ExternalLoad& with : externalLoadsOf(held))
        if (held.stages[with.source].id == source)
            return with.seen.loadBurst[load].valid &&
                   fallsBelow(with.seen.loadBurst[load].value, l.window.min.value());
    return true;
}

/// A load that gets too little, all the time or in a burst.
void tooLittle(const RuleInput& s, const ExternalLoad& t, std::size_t i,
               std::vector<Finding>& out) {
    const OperatingSweep& seen = t.seen;
    const Load& load = s.project.loads[i];
    const double min = load.window.min.value();
    const Occurrence& low = seen.loadLow[i];
    const Occurrence& burst = seen.loadBurst[i];
    if (low.valid && fallsBelow(low.value, min))
        out.push_back(finding(
            "window_low", Severity::stop, load.id, nameOf(load) + " gets too little",
            fmt::format("{} it sees {} {} and needs {}.", from(s, t), voltsBeside(low.value, min),
                        momentText(s.project, low), volts(min)),
            {{"v", low.value}, {"sees_v", low.value}, {"min_v", min}, {"limit_v", min}}));
    else if (burst.valid && !load.resets() && fallsBelow(burst.value, min))
        out.push_back(finding(
            "window_low", Severity::care, load.id, nameOf(load) + " gets too little in bursts",
            fmt::format("{} it sees {} {} and needs {}.", from(s, t), voltsBeside(burst.value, min),
                        momentText(s.project, burst), volts(min)),
            {{"v", burst.value}, {"sees_v", burst.value}, {"min_v", min}, {"limit_v", min}}));
    else if (burst.valid && load.resets() && fallsBelow(burst.value, min) && holdsNot(s, t, i))
        out.push_back(finding(
            "burst_reset", Severity::stop, load.id, "A burst resets " + nameOf(load),
            fmt::format("{} a burst pulls it down to {} {}; it needs {}.", from(s, t),
                        voltsBeside(burst.value, min), momentText(s.project, burst), volts(min)),
            {{"v", burst.value}, {"sees_v", burst.value}, {"min_v", min}, {"limit_v", min}}));
}

/// Modules that are worked, for good, near the figure on their label.
void moduleHeadroom(const RuleInput& s, std::vector<Finding>& out) {
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const Stage& stage = s.project.stages[i];
        const OutputLimits limits = limitsOf(stage.part);
        const double label = limits.amps > 0 ? limits.amps : limits.rated;
        if (label <= 0 || isCharger(stage.part) || isSource(stage.part))
            continue;
        const double worst =
            currentDemandOf(s.project, i, {s.sweep, s.externalLoads, s.charges}).continuous;
        if (!exceeds(worst, kLabelShare * label) || exceeds(worst, label))
            continue; // past it another rule speaks
        Finding f = finding(
            "headroom", Severity::care, stage.id, nameOf(stage) + " works near its limit",
            fmt::format("{} flow for good and its label says {}: {}. Labels of modules are the "
                        "best case, without heat and dust; four fifths are what lasts.",
                        amps(worst), amps(label), writeShare(worst / label)),
            {{"worst_a", worst}, {"rated_a", label}, {"limit_a", label}});
        f.fix = largerPartFix(s, stage, worst / kLabelShare, headroom);
        out.push_back(std::move(f));
    }
}

} // namespace

/// The windows, limits and set-points of the rules for cells, looked at from each source.
void externalWindows(const RuleInput& s, std::vector<Finding>& out) {
    for (const ExternalLoad& t : s.externalLoads) {
        const Flows idle = unloadedFrom(s.project, t.source);
        stagesFrom(s, t, idle, out);
        for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
            if (!t.reachesLoad[i] || !t.seen.loads[i].valid)
                continue;
            tooMuch(s, t, s.project.loads[i], std::max(idle.loads[i].v, t.seen.loadHigh[i].value),
                    out);
            tooLittle(s, t, i, out);
        }
    }
}

void headroom(const RuleInput& s, std::vector<Finding>& out) {
    const double policy = s.project.brief.headroom.value_or(kUsualHeadroom);
    for (const ExternalLoad& t : s.externalLoads) {
        const Stage& source = sourceOf(s, t);
        if (!std::holds_alternative<Adapter>(source.part) || t.margin() <= 0 || t.trips ||
            !fallsBelow(t.margin(), policy))
            continue;
        Finding f = finding(
            "headroom", Severity::care, source.id, "Little headroom in " + nameOf(source),
            fmt::format("It is rated for {} and the worst draw is {}: {:.2g} times, where you ask "
                        "for {:g}. Some are content with 1.2, some take 2; it costs weight and "
                        "price only.",
                        amps(t.model.limit), amps(t.asked()), t.margin(), policy),
            {{"limit_a", t.model.limit},
             {"rated_a", t.model.limit},
             {"worst_a", t.asked()},
             {"headroom", t.margin()}});
        f.fix = largerAdapter(source, t.asked() * policy);
        out.push_back(std::move(f));
    }
    moduleHeadroom(s, out);
}

void unregulated(const RuleInput& s, std::vector<Finding>& out) {
    for (const ExternalLoad& t : s.externalLoads) {
        const Stage& source = sourceOf(s, t);
        if (!isUnregulated(source))
            continue;
        const Flows idle = unloadedFrom(s.project, t.source);
        std::string who;
        double seen = 0;
        double limit = 0;
        for (std::size_t i = 0; i < s.project.loads.size() && who.empty(); ++i) {
            const Window& w = s.project.loads[i].window;
            const double most = w.max.value();
            const double v = t.reachesLoad[i] ? idle.loads[i].v : 0;
            if (exceeds(v, most)) {
                who = nameOf(s.project.loads[i]);
                seen = v;
                limit = most;
            }
        }
        for (std::size_t i = 0; i < s.project.stages.size() && who.empty(); ++i) {
            const double most = neverAboveOf(s.project.stages[i].part);
            if (t.seen.stageIn[i].valid && most > 0 && exceeds(idle.stages[i].vIn, most)) {
                who = nameOf(s.project.stages[i]);
                seen = idle.stages[i].vIn;
                limit = most;
            }
        }
        if (who.empty())
            continue;
        const auto& adapter = std::get<Adapter>(source.part);
        Finding f = finding(
            "unregulated", Severity::stop, source.id, nameOf(source) + " is not regulated",
            fmt::format("With nothing drawn it gives {}{}: {} then sees {} and takes {} at most. "
                        "Its label holds at the rated current only.",
                        volts(t.model.high),
                        adapter.noLoad ? "" : ", by the rule of thumb of 1.5 times its label", who,
                        voltsBeside(seen, limit), volts(limit)),
            {{"no_load_v", t.model.high}, {"v", seen}, {"limit_v", limit}});
        if (adapter.rated) {
            Stage regulated = source;
            Adapter fresh;
            fresh.set = adapter.rated;
            fresh.tolerance = 0.05;
            fresh.limit = adapter.ratedCurrent;
            fresh.beyondLimit = BeyondLimit::hiccup;
            regulated.part = fresh;
            f.fix = replaceFix(regulated, "Use a regulated one",
                               "use a regulated adapter for " + nameOf(source));
        }
        out.push_back(std::move(f));
    }
}

namespace {

/// A plain transformer beyond its rating: its volts sag on along their line, and it gets hot.
void overloaded(const RuleInput& s, const ExternalLoad& t, const Stage& source,
                std::vector<Finding>& out) {
    const double asks = t.seen.maxPack.value;
    const double sags = t.model.volts - t.model.ohms * asks;
    Finding f = finding(
        "trips", t.collapses ? Severity::stop : Severity::care, source.id,
        t.collapses ? nameOf(source) + " can't carry it" : nameOf(source) + " is overloaded",
        t.collapses
            ? fmt::format("In mode “{}” more is asked of it than its coils can give.",
                          nameOf(s.project.modes[t.tripMode]))
            : fmt::format("In mode “{}”{} {} are asked of it and its label says {}: it sags to {} "
                          "and gets hot; it does not let go.",
                          nameOf(s.project.modes[t.tripMode]),
                          t.tripsInBurst ? ", in a burst," : "", amps(asks), amps(t.model.limit),
                          volts(sags)),
        {{"worst_a", asks}, {"limit_a", t.model.limit}, {"sags_v", sags}});
    out.push_back(std::move(f));
}

} // namespace

void trips(const RuleInput& s, std::vector<Finding>& out) {
    for (const ExternalLoad& t : s.externalLoads) {
        const Stage& source = sourceOf(s, t);
        const auto* adapter = std::get_if<Adapter>(&source.part);
        if (!adapter || !(t.trips || t.collapses))
            continue;
        if (isUnregulated(source) && !adapter->beyondLimit) { // it has nothing to let go with
            overloaded(s, t, source, out);
            continue;
        }
        const BeyondLimit beyond = adapter->beyondLimit.value_or(BeyondLimit::hiccup);
        const char* does = beyond == BeyondLimit::hiccup  ? "it gives up, tries again and gives up "
                                                            "again: the device cycles on and off"
                           : beyond == BeyondLimit::latch ? "it switches off until it is pulled out"
                           : beyond == BeyondLimit::fold
                               ? "it folds back and does not come up again under this load"
                               : "it holds the current and lets the voltage sink";
        Finding f = finding(
            "trips", Severity::stop, source.id,
            t.collapses ? nameOf(source) + " can't carry it" : nameOf(source) + " trips",
            fmt::format("In mode “{}”{} {} of it{}{}. Beyond that {}.",
                        nameOf(s.project.modes[t.tripMode]), t.tripsInBurst ? ", in a burst," : "",
                        t.collapses ? "more is asked" : amps(t.seen.maxPack.value) + " are asked",
                        t.model.limit > 0 ? "; its limit is " + amps(t.model.limit) : "",
                        adapter->beyondLimit ? "" : " (what it does then is not stated)", does),
            {{"worst_a", t.seen.maxPack.value}, {"limit_a", t.model.limit}});
        if (!t.collapses)
            f.fix = largerAdapter(source, t.seen.maxPack.value *
                                              s.project.brief.headroom.value_or(kUsualHeadroom));
        out.push_back(std::move(f));
    }
}

/// Charger and device together against what a source gives.
void sourceBudget(const RuleInput& s, std::vector<Finding>& out) {
    for (const ExternalLoad& t : s.externalLoads) {
        const Stage& source = sourceOf(s, t);
        const double device = t.worst.value;
        if (t.chargerAmps <= 0 || t.chargersYield || t.model.limit <= 0 ||
            exceeds(device, t.model.limit) || !exceeds(device + t.chargerAmps, t.model.limit))
            continue;
        const auto* adapter = std::get_if<Adapter>(&source.part);
        const bool holds = adapter && adapter->beyondLimit == BeyondLimit::hold;
        const bool letsGo = !holds && !std::holds_alternative<Vehicle>(source.part) &&
                            !(adapter && t.model.ohms > 0);
        const double left = std::floor((t.model.limit - device) * 20) / 20;
        Finding f = finding(
            "source_budget", letsGo ? Severity::stop : Severity::care, source.id,
            "Device and charger are too much for " + nameOf(source),
            fmt::format(
                "The charger takes {}{}; {} gives {}{}.", amps(t.chargerAmps),
                device > 0 ? fmt::format(" and the device {} in mode “{}”, {} together",
                                         amps(device), nameOf(s.project.modes[t.worst.mode]),
                                         amps(device + t.chargerAmps))
                           : std::string(),
                nameOf(source), amps(t.model.limit), letsGo ? " and lets go beyond that" : ""),
            {{"worst_a", device + t.chargerAmps},
             {"gives_a", t.model.limit},
             {"charger_a", t.chargerAmps},
             {"device_a", device}});
        for (const Stage& stage : s.project.stages) {
            const auto* charger = std::get_if<Charger>(&stage.part);
            const auto sources = charger ? sourcesOf(s.project, stage) : std::vector<std::string>{};
            if (f.fix || left <= 0 ||
                std::find(sources.begin(), sources.end(), source.id) == sources.end())
                continue;
            f.fix = figureFix(stage, &Charger::inputLimit, Amps{left},
                              "Limit its input to " + amps(left),
                              fmt::format("limit the input of {}", nameOf(stage)));
        }
        out.push_back(std::move(f));
    }
}

void socketClass(const RuleInput& s, std::vector<Finding>& out) {
    for (const ExternalLoad& t : s.externalLoads) {
        const Stage& source = sourceOf(s, t);
        const auto* usb = std::get_if<Usb>(&source.part);
        if (!usb || !exceeds(t.seen.maxPack.value, t.model.limit))
            continue;
        const double worst = t.seen.maxPack.value;
        Finding f = finding("socket_class", Severity::care, source.id,
                            "The socket gives less than is asked",
                            fmt::format("{} are asked {} and this socket gives {}: {}.",
                                        amps(worst), momentText(s.project, t.seen.maxPack),
                                        amps(t.model.limit), socketText(*usb)),
                            {{"worst_a", worst}, {"limit_a", t.model.limit}});
        for (const double next : {0.9, 1.5, 3.0})
            if (next >= worst && !f.fix)
                f.fix =
                    figureFix(source, &Usb::advertises, Amps{next},
                              "Use one that says " + writeQuantity(next, Unit::ampere),
                              "use a socket that advertises " + writeQuantity(next, Unit::ampere));
        out.push_back(std::move(f));
    }
}

} // namespace sipper::rules
