// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "compare/compare.hpp"
#include "pieces.hpp"
#include "project/variants.hpp"
#include "quantity/write.hpp"
#include "text/text.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

Json compareJson(const Comparison& c) {
    Json out{{"variants", Json::array()}, {"differences", Json::array()}};
    for (const EvaluatedVariant& w : c.variants) {
        const Runtime& r = w.runtime;
        Json one{{"name", w.name}, {"runtime_h", r.hours ? Json(r.hours->value()) : Json(nullptr)}};
        if (w.range)
            one["range_h"] = {w.range->p10, w.range->p50, w.range->p90};
        if (w.project.brief.targetRuntime && r.hours)
            one["spare_h"] = r.hours->value() - w.project.brief.targetRuntime->value();
        one["ended_by"] = endingJson(r.ending);
        one["worst"] = {{"mode", r.worstMode.empty() ? Json(nullptr) : Json(r.worstMode)},
                        {"pack_current_a", r.worstCurrent.value()},
                        {"allowed_a", w.allowedAmps > 0 ? Json(w.allowedAmps) : Json(nullptr)}};
        one["mass_g"] = w.grams;
        one["price"] = w.price;
        one["delivered_share"] = w.deliveredShare;
        one["hottest"] = {{"stage", w.hottest.empty() ? Json(nullptr) : Json(w.hottest)},
                          {"part_c", w.hottest.empty() ? Json(nullptr) : Json(w.hottestC)}};
        if (!w.externalLoads.empty())
            one["sources"] = sourcesJson(w.project, w.externalLoads);
        one["advice"] = {{"stop", w.count(Severity::stop)},
                         {"care", w.count(Severity::care)},
                         {"note", w.count(Severity::note)}};
        out["variants"].push_back(std::move(one));
    }
    for (const Difference& d : c.differences) {
        Json values = Json::object();
        for (std::size_t i = 0; i < d.values.size(); ++i)
            values[c.variants[i].name] = d.values[i];
        out["differences"].push_back({{"subject", d.subject},
                                      {"where", d.where},
                                      {"key", d.key},
                                      {"what", d.what},
                                      {"values", values}});
    }
    return out;
}

std::string compareText(const Comparison& c) {
    std::string out;
    const auto row = [&](const std::string& head, auto text) {
        out += fmt::format("{:<28}", head);
        for (std::size_t i = 0; i < c.variants.size(); ++i)
            out += fmt::format("  {:<22}", text(i));
        out.erase(out.find_last_not_of(' ') + 1);
        out += "\n";
    };
    const auto each = [&](const std::string& head, auto text) {
        row(head, [&](std::size_t i) { return text(c.variants[i]); });
    };
    each("", [](const EvaluatedVariant& w) { return w.name; });
    each("runs for", [](const EvaluatedVariant& w) {
        return w.runtime.hours ? writeHours(w.runtime.hours->value()) : std::string("–");
    });
    each("eight builds in ten", [](const EvaluatedVariant& w) {
        return w.range ? writeHours(w.range->p10) + " to " + writeHours(w.range->p90)
                       : std::string("–");
    });
    each("ends by", [](const EvaluatedVariant& w) {
        return std::string(reasonName(w.runtime.ending.reason));
    });
    each("worst draw", [](const EvaluatedVariant& w) { return write(w.runtime.worstCurrent); });
    each("warmest part", [](const EvaluatedVariant& w) {
        return w.hottest.empty() ? "–"
                                 : writeQuantity(w.hottestC, Unit::celsius) + " " +
                                       nameOf(*w.project.stage(w.hottest));
    });
    each("reaches the loads",
         [](const EvaluatedVariant& w) { return writeShare(w.deliveredShare); });
    each("weight", [](const EvaluatedVariant& w) { return writeQuantity(w.grams, Unit::gram); });
    each("price", [](const EvaluatedVariant& w) { return fmt::format("{:.2f}", w.price); });
    each("to mend, to weigh", [](const EvaluatedVariant& w) {
        return fmt::format("{}, {}", w.count(Severity::stop), w.count(Severity::care));
    });
    out += c.differences.empty() ? "no difference between them\n" : "what tells them apart\n";
    for (const Difference& d : c.differences)
        row(fmt::format("  {}: {}", d.where, d.what), [&](std::size_t i) { return d.values[i]; });
    return out;
}

Outcome<Answer> answerCompare(const Asked& asked) {
    const auto document = askedDocument(asked);
    if (!document)
        return document.error();
    std::vector<std::size_t> numbers;
    for (const std::string& name : asked.only) {
        std::string names;
        std::optional<std::size_t> found;
        for (std::size_t number = 0; number < variantCount(document.value()); ++number) {
            const std::string own = variantName(document.value(), number);
            names += (names.empty() ? "" : ", ") + own;
            if (own == name)
                found = number;
        }
        if (!found)
            return badOption("--only", name, "one of " + names);
        numbers.push_back(*found);
    }
    const auto comparison = compareVariants(document.value(), numbers);
    return Answer{compareJson(*comparison), compareText(*comparison)};
}

void optionsCompare(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    app.add_option("--only", asked.only, "names of the variants, such as A C (default: all)");
}

} // namespace

const Command kCompare{"compare", "the document's variants side by side", optionsCompare,
                       answerCompare};

} // namespace sipper::cli
