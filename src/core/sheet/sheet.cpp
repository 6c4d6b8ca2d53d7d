// SPDX-License-Identifier: GPL-3.0-or-later
#include "sheet/sheet.hpp"

#include "charge/text.hpp"
#include "measure/text.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "project/writer.hpp"
#include "quantity/write.hpp"
#include "text/text.hpp"

#include <algorithm>
#include <cstdint>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace sipper {
namespace {

constexpr const char* kHaveKey = "x-have";
constexpr std::uint64_t kFnvOffset = 14695981039346656037ULL;
constexpr std::uint64_t kFnvPrime = 1099511628211ULL;
constexpr std::size_t kCodeLetters = 8;

/// The way from the cells, else from the first feed of each, to a load; the source first.
std::vector<const Stage*> mainWay(const Project& p, const Load& load) {
    const std::string pack = p.packStage() ? p.packStage()->id : std::string();
    const std::set<std::string> fed =
        pack.empty() ? std::set<std::string>() : downstreamIds(p, pack);
    std::vector<const Stage*> way;
    std::string at = load.fedBy;
    while (!at.empty() && way.size() < p.stages.size()) {
        const Stage* stage = p.stage(at);
        if (!stage)
            break;
        way.push_back(stage);
        at.clear();
        for (const std::string& feed : stage->fedBy)
            if (at.empty() || (fed.contains(feed) && !fed.contains(at)))
                at = feed;
    }
    std::reverse(way.begin(), way.end());
    return way;
}

/// `Five-cell pack, guard, buck to 12.0 V`: the way to the first load.
std::string chainText(const Project& p) {
    if (p.loads.empty())
        return p.stages.empty() ? "Nothing yet" : nameOf(p.stages.front());
    std::string out;
    for (const Stage* stage : mainWay(p, p.loads.front())) {
        if (std::holds_alternative<Wire>(stage->part))
            continue;
        const std::string word =
            isSource(stage->part) ? nameOf(*stage)
            : isRegulator(stage->part)
                ? fmt::format("{} to {}", kindText(stage->part),
                              setCurrentOf(stage->part)
                                  ? writeQuantity(setCurrentOf(stage->part)->value(), Unit::ampere)
                                  : writeQuantity(orZero(setPointOf(stage->part)), Unit::volt))
                : kindText(stage->part);
        out += (out.empty() ? "" : ", ") + word;
    }
    for (const Stage& stage : p.stages)
        if (isCharger(stage.part)) {
            const auto sources = sourcesOf(p, stage);
            if (!sources.empty())
                out += ", charged from " + nameAt(p, sources.front());
            break;
        }
    return out;
}

std::string saidText(const Project& p, const QuickAnalysis& quick, const DeepAnalysis* deep) {
    const Runtime& r = quick.runtime;
    std::string out;
    if (p.pack()) {
        out = r.hours ? "Runs " + runText(r) : "It does not run down";
        if (r.hours && r.hours->value() > 0 && deep && deep->range)
            out +=
                fmt::format(" ({} to {}, eight builds in ten)", writeHours(deep->range->range.p10),
                            writeHours(deep->range->range.p90));
        out += ".";
        if (r.hours)
            out += fmt::format(" It ends when {}.", endText(p, r.ending));
        if (const Mode* mode = p.mode(r.worstMode); mode && r.worstCurrent.value() > 0)
            out += fmt::format(" Worst draw {} in mode “{}”.",
                               writeQuantity(r.worstCurrent.value(), Unit::ampere), nameOf(*mode));
    }
    for (const ExternalLoad& t : quick.externalLoads)
        out += fmt::format("{}Worst draw from {}: {}.", out.empty() ? "" : " ",
                           nameOf(p.stages[t.source]), writeQuantity(t.worst.value, Unit::ampere));
    if (const ChargeRun* refill = quick.refill())
        out += " Refill: " + chargeHeadline(p, *refill);
    return out;
}

} // namespace

std::string contentCode(const Project& project) {
    Project bare = project;
    bare.readings = {};
    bare.variants.clear();
    bare.variant.clear();
    bare.notes.clear();
    bare.extras.clear();
    std::uint64_t hash = kFnvOffset;
    for (const char c : projectText(bare)) {
        hash ^= static_cast<unsigned char>(c);
        hash *= kFnvPrime;
    }
    static constexpr std::string_view letters = "0123456789ABCDEFGHJKMNPQRSTVWXYZ";
    std::string code;
    for (std::size_t i = 0; i < kCodeLetters; ++i) {
        code += letters[hash & 31U];
        hash >>= 5U;
        if (i + 1 == kCodeLetters / 2)
            code += '-';
    }
    return code;
}

std::set<std::string> haveOf(const Project& p) {
    std::set<std::string> have;
    for (const auto& [key, text] : p.extras) {
        if (key != kHaveKey)
            continue;
        const auto list = nlohmann::json::parse(text, nullptr, false);
        if (list.is_array())
            for (const auto& entry : list)
                if (entry.is_string())
                    have.insert(entry.get<std::string>());
    }
    return have;
}

Project withHave(Project p, const std::string& key, bool have) {
    std::set<std::string> all = haveOf(p);
    if (have)
        all.insert(key);
    else
        all.erase(key);
    const auto at = std::find_if(p.extras.begin(), p.extras.end(),
                                 [](const auto& extra) { return extra.first == kHaveKey; });
    const std::string text = nlohmann::json(all).dump();
    if (all.empty() && at != p.extras.end())
        p.extras.erase(at);
    else if (at != p.extras.end())
        at->second = text;
    else if (!all.empty())
        p.extras.emplace_back(kHaveKey, text);
    return p;
}

Sheet sheetOf(const Project& p, const QuickAnalysis& quick, const DeepAnalysis* deep,
              const SheetOptions& ask) {
    Sheet sheet;
    sheet.title = p.name.empty() ? "Untitled" : p.name;
    sheet.variant = p.variant.empty() ? "A" : p.variant;
    sheet.date = ask.date;
    sheet.code = contentCode(p);
    sheet.summary = chainText(p);
    sheet.said = saidText(p, quick, deep);
    sheet.notes = p.notes;
    sheet.parts = partsFor(p);
    sheet.grams = p.massGrams();
    sheet.price = p.totalPrice();
    for (const SheetPart& part : sheet.parts)
        if (!part.have)
            sheet.priceLeft += part.price.value_or(0);
    sheet.wires = wiresFor(p, quick, ask.colours);
    sheet.plugs = plugsFor(p);
    sheet.sets = setsFor(p, quick);
    sheet.steps = stepsFor(p, quick.runtime.worstCurrent.value());
    for (const BenchCheck& check : quick.bench->checks)
        if (check.kind != CheckKind::point)
            sheet.checks.push_back(
                {check, checkTitle(p, check), checkWhere(p, check), checkBand(check)});
    sheet.cautions = cautionsFor(p);
    for (const Finding& f : deep ? deep->findings : quick.findings)
        if (f.severity != Severity::note)
            sheet.open.push_back({f.rule, f.subject, f.severity, f.title, f.says});
    return sheet;
}

} // namespace sipper
