// Rules about the voltage that a load sees.
#include "advice/rules.hpp"

#include "advice/words.hpp"
#include "line/wiring.hpp"
#include "parts/figures.hpp"
#include "quantity/slack.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kLeadShare = 0.03; ///< of the voltage that a lead may take, the usual rule

/// A lead that takes more than its share, thick enough to keep to it.
std::optional<Cure> leadCure(const Project& p, const Survey& survey, const Load& load) {
    for (const Stage* stage : wayBack(p, load.id)) {
        const Wire* wire = std::get_if<Wire>(&stage->part);
        if (!wire)
            continue;
        const auto index = stageIndex(p, stage->id);
        const Celsius air = p.brief.air().usual();
        const double current = survey.mostOut[index].value;
        const double allowed = load.window.middle().value() * kLeadShare;
        if (wireOhms(*wire, air) * current <= allowed)
            continue;
        const auto keeps = [&](double area) {
            Wire thicker = *wire;
            thicker.awg.reset();
            thicker.area = SquareMillimetres{area};
            return wireOhms(thicker, air) * current <= allowed;
        };
        if (const auto area = thickerLead(areaOf(*wire), keeps))
            return areaCure(*stage, *area);
    }
    return std::nullopt;
}

/// A thicker lead where one takes more than its share; else a higher set-point before the load, by
/// what is missing, where its window has that room.
std::optional<Cure> raiseCure(const Project& p, const Survey& survey, std::size_t load,
                              double missing) {
    const Load& l = p.loads[load];
    if (auto cure = leadCure(p, survey, l))
        return cure;
    const Stage* regulator = regulatorBefore(p, l.id);
    if (!regulator || survey.loads[load].high + missing > l.window.max.value())
        return std::nullopt;
    const auto index = stageIndex(p, regulator->id);
    if (survey.dropsAt[index].seen)
        return std::nullopt;
    const double step = std::max(0.05, std::ceil((missing + 0.01) * 20) / 20);
    return setPointCure(*regulator, plain(setPointOf(regulator->part)) + step);
}

bool dropsOnTheWay(const Project& p, const Survey& survey, const std::string& id) {
    for (const Stage* stage : wayBack(p, id))
        if (survey.dropsAt[stageIndex(p, stage->id)].seen)
            return true;
    return false;
}

} // namespace

void windowLow(const Solved& s, std::vector<Finding>& out) {
    if (!s.survey)
        return;
    for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
        const Load& load = s.project.loads[i];
        const Sighting& low = s.survey->loadLow[i];
        const double min = load.window.min.value();
        if (!low.seen || !under(low.value, min))
            continue;
        const Sighting& leaves = s.survey->leavesAt[i];
        const bool cut = dropsOnTheWay(s.project, *s.survey, load.id);
        Finding f;
        f.rule = "window_low";
        // Where a regulator's drop-out is the cause, that finding speaks and this one stands under
        // it.
        f.severity = cut ? Severity::note : Severity::stop;
        f.subject = load.id;
        f.title = nameOf(load) + " gets too little";
        f.says = fmt::format("It sees {} {} and needs {}; it is short from {} of the charge down.",
                             voltsBeside(low.value, min), momentText(s.project, low), volts(min),
                             writeShare(leaves.charge));
        f.numbers = {{"v", low.value}, {"min_v", min}, {"from_charge", leaves.charge}};
        if (!cut)
            f.cure = raiseCure(s.project, *s.survey, i, min - low.value);
        out.push_back(std::move(f));
    }
}

void burstReset(const Solved& s, std::vector<Finding>& out) {
    if (!s.survey)
        return;
    for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
        const Load& load = s.project.loads[i];
        const Sighting& burst = s.survey->loadBurst[i];
        const double min = load.window.min.value();
        if (!load.resets() || !burst.seen || !under(burst.value, min) ||
            (s.survey->loadLow[i].seen && under(s.survey->loadLow[i].value, min)))
            continue;
        Finding f;
        f.rule = "burst_reset";
        f.severity = Severity::stop;
        f.subject = load.id;
        f.title = "A burst resets " + nameOf(load);
        f.says =
            fmt::format("At {} of the charge a burst {} pulls it down to {}; it needs {}. A "
                        "thicker lead, a capacitor at the load or cells of lower resistance hold "
                        "it up.",
                        writeShare(burst.charge),
                        fmt::format("in mode “{}”", nameOf(s.project.modes[burst.mode])),
                        voltsBeside(burst.value, min), volts(min));
        f.numbers = {{"v", burst.value},
                     {"sees_v", burst.value},
                     {"min_v", min},
                     {"limit_v", min},
                     {"at_charge", burst.charge}};
        const Pack* pack = s.project.pack();
        if (pack && (pack->cell.chemistry == Chemistry::thionylChloride ||
                     plain(pack->cell.resistance) > 1)) {
            double farad = 0;
            f.cure = capacitorCure(
                s.project, load.id,
                [&](const Survey& with) { return !under(with.loadBurst[i].value, min); }, farad);
            if (f.cure)
                f.numbers["farad"] = farad;
        }
        if (!f.cure)
            f.cure = raiseCure(s.project, *s.survey, i, min - burst.value);
        out.push_back(std::move(f));
    }
}

void windowHigh(const Solved& s, std::vector<Finding>& out) {
    if (!s.survey)
        return;
    const Flows idle = unloadedAtFull(s.project);
    for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
        const Load& load = s.project.loads[i];
        const double max = load.window.max.value();
        const double seen =
            std::max(s.survey->loadHigh[i].value, idle.loads.empty() ? 0 : idle.loads[i].v);
        if (!over(seen, max))
            continue;
        Finding f;
        f.rule = "window_high";
        f.severity = Severity::stop;
        f.subject = load.id;
        f.title = nameOf(load) + " gets too much";
        f.says = fmt::format("It sees up to {} with full cells and takes {} at most.", volts(seen),
                             volts(max));
        f.numbers = {{"v", seen}, {"max_v", max}};
        if (const Stage* regulator = regulatorBefore(s.project, load.id)) {
            const double set = plain(setPointOf(regulator->part));
            const double wanted = std::min(set, load.window.middle().value());
            if (seen <= set * 1.001 && wanted < set)
                f.cure = setPointCure(*regulator, wanted);
        }
        out.push_back(std::move(f));
    }
}

void neverAbove(const Solved& s, std::vector<Finding>& out) {
    if (!s.survey)
        return;
    const Flows idle = unloadedAtFull(s.project);
    const auto say = [&](const std::string& id, const std::string& name, double seen,
                         double limit) {
        Finding f;
        f.rule = "never_above";
        f.severity = Severity::stop;
        f.subject = id;
        f.title = name + " would be damaged";
        f.says =
            fmt::format("With full cells and nothing drawn it sees {}; it survives {} at most.",
                        voltsBeside(seen, limit), volts(limit));
        f.numbers = {{"v", seen}, {"never_above_v", limit}};
        out.push_back(std::move(f));
    };
    for (std::size_t i = 0; i < s.project.stages.size(); ++i) {
        const double limit = neverAboveOf(s.project.stages[i].part);
        const double seen = std::max(idle.stages[i].vIn, s.survey->stageIn[i].high);
        if (limit > 0 && over(seen, limit))
            say(s.project.stages[i].id, nameOf(s.project.stages[i]), seen, limit);
    }
    for (std::size_t i = 0; i < s.project.loads.size(); ++i) {
        const auto limit = s.project.loads[i].window.neverAbove;
        const double seen = std::max(idle.loads[i].v, s.survey->loadHigh[i].value);
        if (limit && over(seen, limit->value()))
            say(s.project.loads[i].id, nameOf(s.project.loads[i]), seen, limit->value());
    }
}

} // namespace sipper::rules
