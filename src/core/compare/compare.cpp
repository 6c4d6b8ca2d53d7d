// SPDX-License-Identifier: GPL-3.0-or-later
#include "compare/compare.hpp"

#include "analysis/analysis.hpp"
#include "line/operating.hpp"
#include "parts/figures.hpp"
#include "project/variants.hpp"
#include "text/text.hpp"

#include <algorithm>
#include <numeric>

namespace sipper {
namespace {

/// The warmest part in the warmest air, over the whole charge.
void takeHeat(EvaluatedVariant& w, const OperatingSweep& survey) {
    const double air = w.project.brief.air().warmest().value();
    for (std::size_t i = 0; i < w.project.stages.size(); ++i) {
        if (!survey.maxLoss[i].valid || thetaOf(w.project.stages[i].part) <= 0)
            continue;
        const double c = partTemperature(w.project.stages[i].part, survey.maxLoss[i].value, air);
        if (!w.hottest.empty() && c <= w.hottestC)
            continue;
        w.hottest = w.project.stages[i].id;
        w.hottestC = c;
    }
}

} // namespace

int EvaluatedVariant::count(Severity severity) const {
    return countOf(findings, severity);
}

std::optional<EvaluatedVariant> evaluateVariant(const Project& project, const std::stop_token& stop,
                                                int builds, const ParallelFor& parallelFor) {
    EvaluatedVariant w;
    w.name = variantName(project, 0);
    w.project = project;
    QuickAnalysis quick = analyseQuick(project);
    DeepOptions depth;
    depth.gains = depth.consequences = depth.cutoffPolicies = false;
    depth.builds = builds;
    const auto deep = analyseDeep(project, quick, stop, depth, parallelFor);
    if (!deep)
        return std::nullopt;
    w.grams = project.massGrams();
    w.price = project.totalPrice();
    if (quick.equivalents)
        w.deliveredShare = quick.equivalents->share();
    if (const Pack* pack = project.pack(); pack && pack->cell.maxDischarge)
        w.allowedAmps = pack->parallel * pack->cell.maxDischarge->value();
    if (deep->range)
        w.range = deep->range->range;
    w.findings = deep->findings;
    if (quick.sweep)
        takeHeat(w, *quick.sweep);
    for (const ExternalLoad& t : quick.externalLoads)
        if (!quick.sweep && t.hottestC > w.hottestC) {
            w.hottest = project.stages[t.hottest].id;
            w.hottestC = t.hottestC;
        }
    w.externalLoads = std::move(quick.externalLoads);
    w.runtime = std::move(quick.runtime);
    w.runtime.tail.clear();
    return w;
}

std::optional<Comparison> compareVariants(const Project& document, std::vector<std::size_t> numbers,
                                          const std::stop_token& stop,
                                          const ParallelFor& parallelFor) {
    if (numbers.empty()) {
        numbers.resize(variantCount(document));
        std::iota(numbers.begin(), numbers.end(), std::size_t{0});
    }
    Comparison c;
    std::vector<Project> projects;
    for (const std::size_t number : numbers) {
        projects.push_back(variantProject(document, number));
        auto weighed = evaluateVariant(projects.back(), stop, kSamples, parallelFor);
        if (!weighed)
            return std::nullopt;
        c.variants.push_back(std::move(*weighed));
    }
    c.differences = differencesOf(projects);
    return c;
}

} // namespace sipper
