#include "compare/compare.hpp"

#include "line/operating.hpp"
#include "parts/fields.hpp"
#include "project/variants.hpp"
#include "runtime/worth.hpp"

#include <algorithm>
#include <numeric>

namespace sipper {
namespace {

/// The warmest part in the warmest air, over the whole charge.
void takeHeat(Weighed& w, const Survey& survey) {
    const double air = w.project.brief.air().warmest().value();
    for (std::size_t i = 0; i < w.project.stages.size(); ++i) {
        if (!survey.mostLoss[i].seen || thetaOf(w.project.stages[i].part) <= 0)
            continue;
        const double c = partTemperature(w.project.stages[i].part, survey.mostLoss[i].value, air);
        if (!w.hottest.empty() && c <= w.hottestC)
            continue;
        w.hottest = w.project.stages[i].id;
        w.hottestC = c;
    }
}

} // namespace

int Weighed::count(Severity severity) const {
    return static_cast<int>(std::count_if(findings.begin(), findings.end(), [&](const Finding& f) {
        return f.severity == severity;
    }));
}

std::optional<Weighed> weigh(const Project& project, const std::stop_token& stop, int builds) {
    Weighed w;
    w.name = variantName(project, 0);
    w.project = project;
    w.runtime = predictRuntime(project);
    w.grams = project.massGrams();
    w.price = project.totalPrice();
    if (const auto worth = worthOf(project, w.runtime))
        w.deliveredShare = worth->share();
    if (const Pack* pack = project.pack(); pack && pack->cell.maxDischarge)
        w.allowedAmps = pack->parallel * pack->cell.maxDischarge->value();
    const auto range = predictRange(project, w.runtime, stop, builds);
    if (stop.stop_requested())
        return std::nullopt;
    if (range)
        w.range = range->range;
    const Looked looked = lookAt(project);
    w.findings = advise(solved(project, w.runtime, range, looked));
    w.tethers = looked.tethers;
    if (looked.survey)
        takeHeat(w, *looked.survey);
    for (const Tether& t : w.tethers)
        if (!looked.survey && t.hottestC > w.hottestC) {
            w.hottest = project.stages[t.hottest].id;
            w.hottestC = t.hottestC;
        }
    return w;
}

std::optional<Comparison> compareVariants(const Project& document, std::vector<std::size_t> numbers,
                                          const std::stop_token& stop) {
    if (numbers.empty()) {
        numbers.resize(variantCount(document));
        std::iota(numbers.begin(), numbers.end(), std::size_t{0});
    }
    Comparison c;
    std::vector<Project> projects;
    for (const std::size_t number : numbers) {
        projects.push_back(variantProject(document, number));
        auto weighed = weigh(projects.back(), stop);
        if (!weighed)
            return std::nullopt;
        c.variants.push_back(std::move(*weighed));
    }
    c.differences = differencesOf(projects);
    return c;
}

} // namespace sipper
