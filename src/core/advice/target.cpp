// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about the brief's target.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "base/tolerance.hpp"
#include "improve/improvements.hpp"
#include "parts/chemistry.hpp"
#include "parts/kinds.hpp"
#include "solar/solar.hpp"

#include <algorithm>
#include <cctype>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

constexpr double kLeastCost = 0.02; ///< of weight and price: nothing is had for nothing

/// Would a guard open lower than the brief's care of the cells asks for?
bool underThePolicy(const Project& before, const Project& with) {
    const Pack& pack = *with.pack();
    const double school =
        pack.series *
        policyCutoff(pack.cell.chemistry, with.brief.cellCare.value_or(CellCare::balanced));
    return std::any_of(with.stages.begin(), with.stages.end(), [&](const Stage& stage) {
        const auto* guard = std::get_if<Guard>(&stage.part);
        const Stage* was = guard ? before.stage(stage.id) : nullptr;
        const auto* old = was ? std::get_if<Guard>(&was->part) : nullptr;
        return old && guard->cutoff < old->cutoff && fallsBelow(guard->cutoff.value(), school);
    });
}

} // namespace

void noRefill(const RuleInput& s, std::vector<Finding>& out) {
    const Pack* pack = s.project.pack();
    const auto& by = s.project.brief.refilledBy;
    if (!pack || !by || !canRecharge(pack->cell))
        return;
    const bool asked =
        std::any_of(by->begin(), by->end(), [](const std::string& way) { return way != "swap"; });
    const bool charged = std::any_of(s.project.stages.begin(), s.project.stages.end(),
                                     [](const Stage& stage) { return isCharger(stage.part); });
    if (!asked || charged)
        return;
    Finding f;
    f.rule = "no_refill";
    f.severity = Severity::note;
    f.subject = s.project.packStage()->id;
    f.title = "Nothing refills the cells";
    f.says = "The brief asks for a refill and the line has no charger: Charging shows what could "
             "fill these cells, each solved on them.";
    out.push_back(std::move(f));
}

void shortOfTarget(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.project.brief.targetRuntime || !s.runtime.hours || !s.project.pack())
        return;
    if (byTheSun(s.project))
        return; // the year says what is missed
    const double target = s.project.brief.targetRuntime->value();
    const double typical = s.runtime.hours->value();
    const double low = s.range ? s.range->range.p10 : typical;
    if (low >= target)
        return;
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
    out.push_back(std::move(f));
}

std::vector<TargetFix> targetFixes(const Project& p, const Library& library,
                                   const std::stop_token& stop) {
    std::vector<TargetFix> cures;
    if (!p.pack())
        return cures;
    std::vector<std::pair<double, Improvement>> list;
    const double grams = std::max(1.0, p.massGrams());
    const double price = std::max(1.0, p.totalPrice());
    for (Improvement& lever : improvementsOf(p, library, stop, {}, ImprovementScope::builds)) {
        if (underThePolicy(p, lever.project))
            continue;
        const double costs = kLeastCost + std::max(0.0, lever.gramsMore) / grams +
                             std::max(0.0, lever.priceMore) / price;
        list.emplace_back(lever.gainHours / costs, std::move(lever));
    }
    std::stable_sort(list.begin(), list.end(),
                     [](const auto& a, const auto& b) { return a.first > b.first; });
    for (const auto& [worth, lever] : list) {
        std::string label = lever.name;
        label.front() = static_cast<char>(std::toupper(static_cast<unsigned char>(label.front())));
        Fix cure = editFix(label, lever.name, [step = lever.step](const Project& project) {
            Project with = project;
            step(with);
            return with;
        });
        cure.forHours = true;
        cures.push_back({lever.subject, std::move(cure)});
    }
    return cures;
}

} // namespace sipper::rules
