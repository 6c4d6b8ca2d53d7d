// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "analysis/analysis.hpp"
#include "pieces.hpp"
#include "project/tree.hpp"
#include "quantity/write.hpp"
#include "runtime/shelf.hpp"
#include "text/text.hpp"

#include <cmath>
#include <fmt/format.h>

namespace sipper::cli {
namespace {

constexpr std::size_t kMostCurvePoints = 2000;

Json curveJson(const Runtime& r) {
    Json list = Json::array();
    const std::size_t step = r.curve.size() / kMostCurvePoints + 1;
    for (std::size_t i = 0; i < r.curve.size(); ++i) {
        // Where the stretch changes two points share an hour; both stay.
        const bool edge = (i > 0 && r.curve[i].hours == r.curve[i - 1].hours) ||
                          (i + 1 < r.curve.size() && r.curve[i].hours == r.curve[i + 1].hours);
        if (i % step == 0 || i + 1 == r.curve.size() || (edge && step < 8))
            list.push_back(
                Json::array({r.curve[i].hours, r.curve[i].charge, r.curve[i].packVolts}));
    }
    return list;
}

Json ledgerJson(const Ledger& l) {
    Json out{{"nameplate", l.nameplate},
             {"cold_and_age", l.coldAndAge},
             {"left_in_pack", l.leftInPack},
             {"pack_loss", l.packLoss},
             {"self_discharge", l.selfDischarge},
             {"stages", Json::object()},
             {"loads", Json::object()}};
    if (l.notCharged != 0)
        out["not_charged"] = l.notCharged;
    for (const auto& [id, wh] : l.stages)
        out["stages"][id] = wh;
    for (const auto& [id, wh] : l.loads)
        out["loads"][id] = wh;
    return out;
}

Json worthJson(const EnergyEquivalents& w) {
    Json out{{"rated_ah", w.ratedAh},
             {"rated_v", w.ratedVolts},
             {"rated_wh", w.ratedWh},
             {"delivered_wh", w.deliveredWh},
             {"loads", Json::object()}};
    for (const EnergyEquivalents::AtLoad& load : w.loads)
        out["loads"][load.id] = {{"v", load.volts}, {"ah", load.ah}, {"wh", load.wh}};
    return out;
}

/// Months; null for ever.
Json monthsJson(const std::optional<double>& months) {
    return months && std::isfinite(*months) ? Json(*months) : Json(nullptr);
}

Json shelfJson(const ShelfLife& s) {
    return {{"off_a", s.offAmps},
            {"self_a", s.selfAmps},
            {"starts_for_months", monthsJson(s.noStartMonths)},
            {"guard", s.guard.empty() ? Json(nullptr) : Json(s.guard)},
            {"opens_after_months", monthsJson(s.cutoffMonths)},
            {"ruined_after_months", monthsJson(s.damageMonths)}};
}

Json lifeJson(const CycleLife& life) {
    return {{"rule_of_thumb", true}, {"low", life.low},        {"high", life.high},
            {"depth", life.depth},   {"top_v", life.topVolts}, {"rate_per_h", life.rate}};
}

Json budgetJson(const Project& p, const Budget& b) {
    Json out{{"mean_a", b.meanAmps},     {"mean_w", b.meanWatts},   {"ah_per_day", b.ahPerDay},
             {"wh_per_day", b.whPerDay}, {"modes", Json::object()}, {"loads", Json::object()}};
    for (std::size_t m = 0; m < p.modes.size(); ++m)
        out["modes"][p.modes[m].id] = {{"s_per_day", b.modes[m].secondsPerDay},
                                       {"pack_a", b.modes[m].packAmps},
                                       {"ah_per_day", b.modes[m].ahPerDay},
                                       {"share_of_charge", b.modes[m].shareOfCharge}};
    for (std::size_t i = 0; i < p.loads.size(); ++i)
        out["loads"][p.loads[i].id] = {{"wh_per_day", b.loadWhPerDay[i]},
                                       {"share", b.loadShare[i]}};
    return out;
}

Json envelopeJson(const std::vector<HandEstimate>& envelopes) {
    Json list = Json::array();
    for (const HandEstimate& e : envelopes) {
        Json terms = Json::object();
        for (const EnvelopeTerm& t : e.terms)
            terms[t.key] = t.hours;
        list.push_back(
            {{"rule", e.rule}, {"hours", e.hours}, {"formula", e.formula}, {"terms_h", terms}});
    }
    return list;
}

Json runtimeJson(const Project& p, const QuickAnalysis& quick, const RuntimeUncertainty* range) {
    const Runtime& r = quick.runtime;
    Json out = Json::object();
    out["runtime_h"] = r.hours ? Json(r.hours->value()) : Json(nullptr);
    if (range) {
        out["range_h"] = {range->range.p10, range->range.p50, range->range.p90};
        if (const auto humps = humpsOf(*range))
            out["humps"] = {
                {"low_h", humps->low}, {"high_h", humps->high}, {"share", humps->share}};
        out["range_causes"] = Json::array();
        for (const Sensitivity& s : range->sensitivities)
            out["range_causes"].push_back(
                {{"about", s.about}, {"low_h", s.low}, {"high_h", s.high}});
    }
    out["ended_by"] = endingJson(r.ending);
    out["mean_pack_power_w"] = r.meanPower.value();
    out["worst"] = {{"mode", r.worstMode.empty() ? Json(nullptr) : Json(r.worstMode)},
                    {"pack_current_a", r.worstCurrent.value()}};
    out["ledger_wh"] = ledgerJson(r.ledger);
    out["load_modes_wh"] = Json::object();
    for (const auto& [load, modes] : r.ledger.loadModes)
        for (const auto& [mode, wh] : modes)
            out["load_modes_wh"][load][mode] = wh;
    out["budget"] = budgetJson(p, quick.budget);
    out["envelope"] = envelopeJson(quick.handEstimate);
    if (!quick.externalLoads.empty())
        out["sources"] = sourcesJson(p, quick.externalLoads);
    if (quick.equivalents)
        out["worth"] = worthJson(*quick.equivalents);
    if (quick.shelf)
        out["shelf"] = shelfJson(*quick.shelf);
    if (quick.cycles)
        out["cycle_life"] = lifeJson(*quick.cycles);
    out["curve"] = curveJson(r);
    return out;
}

std::string ledgerText(const Project& p, const Ledger& l) {
    std::string out = "where the energy goes\n";
    const auto row = [&](const std::string& name, double wh) {
        out += fmt::format("  {:<24}{:>10}  {:>6}\n", name, writeQuantity(wh, Unit::wattHour),
                           writeShare(l.nameplate > 0 ? wh / l.nameplate : 0));
    };
    row("nameplate", l.nameplate);
    row("cold and age", l.coldAndAge);
    if (l.notCharged != 0)
        row("not charged", l.notCharged);
    row("left in the pack", l.leftInPack);
    row("lost in the pack", l.packLoss);
    row("self-discharge", l.selfDischarge);
    for (const auto& [id, wh] : l.stages)
        if (wh != 0) // what is not fed by the cells loses nothing of theirs
            row("lost in " + nameAt(p, id), wh);
    for (const auto& [id, wh] : l.loads)
        row(nameAt(p, id), wh);
    return out;
}

std::string runtimeText(const Project& p, const QuickAnalysis& quick,
                        const RuntimeUncertainty* range) {
    const Runtime& r = quick.runtime;
    std::string out = fmt::format("{}\n", p.name);
    if (r.hours)
        out += fmt::format("runs for   {}{}\n", writeHours(r.hours->value()),
                           range ? fmt::format("   ({} to {} for eight builds in ten)",
                                               writeHours(range->range.p10),
                                               writeHours(range->range.p90))
                                 : "");
    if (const auto humps = range ? humpsOf(*range) : std::nullopt)
        out += fmt::format("or         {}\n", humpsText(*humps));
    if (r.hours)
        if (const std::string age = ageText(p, r.hours->value()); !age.empty())
            out += fmt::format("but        {}\n", age);
    out += fmt::format("ends       {}\n", endText(p, r.ending));
    for (const ExternalLoad& t : quick.externalLoads)
        out += fmt::format("from {}: worst {}, {}{}; {} of heat\n", nameOf(p.stages[t.source]),
                           writeQuantity(t.asked(), Unit::ampere),
                           writeQuantity(t.worstWatts, Unit::watt),
                           t.margin() > 0 ? fmt::format(", {:.2g} times in hand", t.margin()) : "",
                           writeQuantity(t.heatWatts, Unit::watt));
    if (!r.hours)
        return out;
    out += fmt::format("mean draw  {}\n", writeQuantity(r.meanPower.value(), Unit::watt));
    out += fmt::format("each day   {}, {} at the cells\n",
                       writeQuantity(quick.budget.ahPerDay, Unit::ampereHour),
                       writeQuantity(quick.budget.whPerDay, Unit::wattHour));
    out += fmt::format("worst draw {} in mode {}\n",
                       writeQuantity(r.worstCurrent.value(), Unit::ampere), r.worstMode);
    if (quick.equivalents)
        out += fmt::format("label      {} at {}, of which {} reach the loads\n",
                           writeQuantity(quick.equivalents->ratedAh, Unit::ampereHour),
                           writeQuantity(quick.equivalents->ratedVolts, Unit::volt),
                           writeQuantity(quick.equivalents->deliveredWh, Unit::wattHour));
    if (const auto& lies = quick.shelf; lies && p.pack() && r.hours && r.hours->value() > 0) {
        const Chemistry c = p.pack()->cell.chemistry;
        out += fmt::format(
            "unused     starts after {}{}\n", lastsText(lies->noStartMonths, c),
            lies->damageMonths ? "; cells ruined after " + lastsText(*lies->damageMonths, c) : "");
    }
    if (quick.cycles)
        out += fmt::format("cells last {} cycles ({})\n", writeCycles(*quick.cycles),
                           quick.cycles->byAge ? "then they are too old" : "rule of thumb");
    return out + ledgerText(p, r.ledger);
}

Outcome<Answer> answerRuntime(const Asked& asked) {
    const auto project = askedProject(asked);
    if (!project)
        return project.error();
    const Project& p = project.value();
    const QuickAnalysis quick = analyseQuick(p, {.advice = false, .bench = false});
    const auto range = asked.noRange ? std::nullopt : predictRange(p, quick.runtime);
    const RuntimeUncertainty* known = range ? &*range : nullptr;
    return Answer{runtimeJson(p, quick, known), runtimeText(p, quick, known)};
}

void optionsRuntime(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    addVariant(app, asked);
    app.add_flag("--no-range", asked.noRange, "leave out the range");
}

} // namespace

const Command kRuntime{"runtime", "how long it runs, what ends it, where the energy goes",
                       optionsRuntime, answerRuntime};

} // namespace sipper::cli
