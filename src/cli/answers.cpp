#include "answers.hpp"

#include "project/json.hpp"
#include "quantity/write.hpp"

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

Json worthJson(const Worth& w) {
    Json out{{"rated_ah", w.ratedAh},
             {"rated_v", w.ratedVolts},
             {"rated_wh", w.ratedWh},
             {"delivered_wh", w.deliveredWh},
             {"loads", Json::object()}};
    for (const Worth::AtLoad& load : w.loads)
        out["loads"][load.id] = {{"v", load.volts}, {"ah", load.ah}, {"wh", load.wh}};
    return out;
}

/// Months; null for ever.
Json monthsJson(const std::optional<double>& months) {
    return months && std::isfinite(*months) ? Json(*months) : Json(nullptr);
}

Json shelfJson(const Shelf& s) {
    return {{"off_a", s.offAmps},
            {"self_a", s.selfAmps},
            {"starts_for_months", monthsJson(s.startsFor)},
            {"guard", s.guard.empty() ? Json(nullptr) : Json(s.guard)},
            {"opens_after_months", monthsJson(s.opens)},
            {"ruined_after_months", monthsJson(s.ruin)}};
}

Json lifeJson(const CycleLife& life) {
    return {{"rule_of_thumb", true}, {"low", life.low},        {"high", life.high},
            {"depth", life.depth},   {"top_v", life.topVolts}, {"rate_per_h", life.rate}};
}

std::string endText(const Project& p, const Ending& e) {
    const Stage* stage = p.stage(e.at);
    const Load* load = p.load(e.at);
    const std::string at = stage ? nameOf(*stage) : load ? nameOf(*load) : e.at;
    const Mode* mode = p.mode(e.mode);
    const std::string when =
        mode ? fmt::format(" in mode {}{}", nameOf(*mode), e.inBurst ? ", in a burst" : "") : "";
    switch (e.reason) {
    case EndReason::collapse:
        return "the supply collapses" + when;
    case EndReason::limit:
        return at + " reaches its limit" + when;
    case EndReason::cutoff:
        return at + " opens" + when;
    case EndReason::aboveWindow:
        return at + " gets too much" + when;
    case EndReason::belowWindow:
        return at + " gets too little" + when;
    case EndReason::empty:
        return "the cells are empty";
    case EndReason::mains:
        return "no cells: nothing runs down";
    case EndReason::never:
        return "nothing draws: it does not run down";
    }
    return {};
}

} // namespace

Json budgetJson(const Project& p) {
    const Budget b = budgetOf(p);
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

Json tetherJson(const Project& p, const Tether& t) {
    return {{"mode", t.worst.seen ? Json(p.modes[t.worst.mode].id) : Json(nullptr)},
            {"worst_a", t.worst.value},
            {"worst_w", t.worstWatts},
            {"mean_w", t.meanWatts},
            {"limit_a", t.model.limit > 0 ? Json(t.model.limit) : Json(nullptr)},
            {"headroom", t.margin() > 0 ? Json(t.margin()) : Json(nullptr)},
            {"heat_w", t.heatWatts},
            {"hottest_c", t.hottestC},
            {"trips", t.trips || t.collapses}};
}

Json runtimeJson(const Project& p, const Runtime& r, const std::optional<RangeResult>& range) {
    Json out = Json::object();
    out["runtime_h"] = r.hours ? Json(r.hours->value()) : Json(nullptr);
    if (range) {
        out["range_h"] = {range->range.p10, range->range.p50, range->range.p90};
        out["range_causes"] = Json::array();
        for (const Spread& s : range->spreads)
            out["range_causes"].push_back(
                {{"about", s.about}, {"low_h", s.low}, {"high_h", s.high}});
    }
    const bool none = r.ending.at.empty();
    out["ended_by"] = {{"at", none ? Json(nullptr) : Json(r.ending.at)},
                       {"mode", none ? Json(nullptr) : Json(r.ending.mode)},
                       {"reason", reasonName(r.ending.reason)}};
    out["mean_pack_power_w"] = r.meanPower.value();
    out["worst"] = {{"mode", r.worstMode.empty() ? Json(nullptr) : Json(r.worstMode)},
                    {"pack_current_a", r.worstCurrent.value()}};
    out["ledger_wh"] = ledgerJson(r.ledger);
    out["load_modes_wh"] = Json::object();
    for (const auto& [load, modes] : r.ledger.loadModes)
        for (const auto& [mode, wh] : modes)
            out["load_modes_wh"][load][mode] = wh;
    out["budget"] = budgetJson(p);
    out["envelope"] = Json::array();
    for (const Envelope& e : envelopes(p, r, budgetOf(p))) {
        Json terms = Json::object();
        for (const EnvelopeTerm& t : e.terms)
            terms[t.key] = t.hours;
        out["envelope"].push_back(
            {{"rule", e.rule}, {"hours", e.hours}, {"formula", e.formula}, {"terms_h", terms}});
    }
    if (const auto tethers = tethersOf(p); !tethers.empty()) {
        out["sources"] = Json::object();
        for (const Tether& t : tethers)
            out["sources"][p.stages[t.source].id] = tetherJson(p, t);
    }
    if (const auto worth = worthOf(p, r))
        out["worth"] = worthJson(*worth);
    if (p.pack())
        if (const auto lies = shelfOf(p, survey(p, typicalConditions(p)).stopCharge))
            out["shelf"] = shelfJson(*lies);
    if (const auto life = cycleLife(p, r))
        out["cycle_life"] = lifeJson(*life);
    out["curve"] = curveJson(r);
    return out;
}

std::string runtimeText(const Project& p, const Runtime& r,
                        const std::optional<RangeResult>& range) {
    std::string out = fmt::format("{}\n", p.name);
    if (r.hours)
        out += fmt::format("runs for   {}{}\n", writeHours(r.hours->value()),
                           range ? fmt::format("   ({} to {} for eight builds in ten)",
                                               writeHours(range->range.p10),
                                               writeHours(range->range.p90))
                                 : "");
    out += fmt::format("ends       {}\n", endText(p, r.ending));
    for (const Tether& t : tethersOf(p))
        out += fmt::format("from {}: worst {}, {}{}; {} of heat\n", nameOf(p.stages[t.source]),
                           writeQuantity(t.worst.value, Unit::ampere),
                           writeQuantity(t.worstWatts, Unit::watt),
                           t.margin() > 0 ? fmt::format(", {:.2g} times in hand", t.margin()) : "",
                           writeQuantity(t.heatWatts, Unit::watt));
    if (!r.hours)
        return out;
    out += fmt::format("mean draw  {}\n", writeQuantity(r.meanPower.value(), Unit::watt));
    const Budget budget = budgetOf(p);
    out += fmt::format("each day   {}, {} at the cells\n",
                       writeQuantity(budget.ahPerDay, Unit::ampereHour),
                       writeQuantity(budget.whPerDay, Unit::wattHour));
    out += fmt::format("worst draw {} in mode {}\n",
                       writeQuantity(r.worstCurrent.value(), Unit::ampere), r.worstMode);
    const auto row = [&](const std::string& name, double wh) {
        out += fmt::format("  {:<24}{:>10}  {:>6}\n", name, writeQuantity(wh, Unit::wattHour),
                           writeShare(r.ledger.nameplate > 0 ? wh / r.ledger.nameplate : 0));
    };
    if (const auto worth = worthOf(p, r))
        out += fmt::format("label      {} at {}, of which {} reach the loads\n",
                           writeQuantity(worth->ratedAh, Unit::ampereHour),
                           writeQuantity(worth->ratedVolts, Unit::volt),
                           writeQuantity(worth->deliveredWh, Unit::wattHour));
    const auto lies = shelfOf(p, survey(p, typicalConditions(p)).stopCharge);
    if (lies && std::isfinite(lies->startsFor))
        out += fmt::format("unused     starts for {:.0f} months{}\n", lies->startsFor,
                           lies->ruin && std::isfinite(*lies->ruin)
                               ? fmt::format(", cells ruined after {:.0f}", *lies->ruin)
                               : "");
    if (const auto life = cycleLife(p, r))
        out += fmt::format("cells last {} cycles (rule of thumb)\n", writeCycles(*life));
    out += "where the energy goes\n";
    row("nameplate", r.ledger.nameplate);
    row("cold and age", r.ledger.coldAndAge);
    if (r.ledger.notCharged != 0)
        row("not charged", r.ledger.notCharged);
    row("left in the pack", r.ledger.leftInPack);
    row("lost in the pack", r.ledger.packLoss);
    row("self-discharge", r.ledger.selfDischarge);
    for (const auto& [id, wh] : r.ledger.stages)
        if (wh != 0) // what is not fed by the cells loses nothing of theirs
            row("lost in " + nameOf(*p.stage(id)), wh);
    for (const auto& [id, wh] : r.ledger.loads)
        row(nameOf(*p.load(id)), wh);
    return out;
}

Json operateJson(const Project& p, const OperatingPoint& point) {
    Json out{{"stages", Json::object()}, {"loads", Json::object()}};
    if (point.collapse) {
        out["collapse"] = true;
        return out;
    }
    for (std::size_t i = 0; i < p.stages.size(); ++i) {
        const StageFlow& f = point.flows.stages[i];
        out["stages"][p.stages[i].id] = {{"v_in", f.vIn},
                                         {"i_in", f.iIn},
                                         {"v_out", f.vOut},
                                         {"i_out", f.iOut},
                                         {"loss_w", f.loss()},
                                         {"part_c", point.partC[i]},
                                         {"state", stateName(f.state)}};
    }
    for (std::size_t i = 0; i < p.loads.size(); ++i)
        out["loads"][p.loads[i].id] = {{"v", point.flows.loads[i].v},
                                       {"i", point.flows.loads[i].i},
                                       {"inside", static_cast<bool>(point.inside[i])}};
    return out;
}

std::string operateText(const Project& p, const OperatingPoint& point) {
    if (point.collapse)
        return "the supply collapses: the cells can't give what is asked for\n";
    std::string out = fmt::format("{:<20}{:>10}{:>10}{:>10}{:>10}{:>10}{:>8}  {}\n", "stage",
                                  "V in", "I in", "V out", "I out", "loss", "part", "state");
    for (std::size_t i = 0; i < p.stages.size(); ++i) {
        const StageFlow& f = point.flows.stages[i];
        out += fmt::format("{:<20}{:>10}{:>10}{:>10}{:>10}{:>10}{:>5.0f} °C  {}\n",
                           nameOf(p.stages[i]), writeQuantity(f.vIn, Unit::volt),
                           writeQuantity(f.iIn, Unit::ampere), writeQuantity(f.vOut, Unit::volt),
                           writeQuantity(f.iOut, Unit::ampere), writeQuantity(f.loss(), Unit::watt),
                           point.partC[i], stateName(f.state));
    }
    for (std::size_t i = 0; i < p.loads.size(); ++i)
        out += fmt::format("{:<20}{:>10}{:>10}  {}\n", nameOf(p.loads[i]),
                           writeQuantity(point.flows.loads[i].v, Unit::volt),
                           writeQuantity(point.flows.loads[i].i, Unit::ampere),
                           point.inside[i] ? "inside its window" : "outside its window");
    return out;
}

Json findingsJson(const std::vector<Finding>& findings) {
    Json out{{"findings", Json::array()}};
    for (const Finding& f : findings) {
        Json numbers = Json::object();
        for (const auto& [key, value] : f.numbers)
            numbers[key] = value;
        Json one{{"rule", f.rule},       {"severity", severityName(f.severity)},
                 {"subject", f.subject}, {"title", f.title},
                 {"says", f.says},       {"numbers", numbers}};
        if (f.cure)
            one["cure"] = f.cure->label;
        if (f.gainHours)
            one["gain_h"] = *f.gainHours;
        out["findings"].push_back(one);
    }
    return out;
}

std::string findingsText(const std::vector<Finding>& findings) {
    if (findings.empty())
        return "nothing to mend, nothing to weigh\n";
    std::string out;
    for (const Finding& f : findings) {
        out += fmt::format("{:<5} {} ({}): {}\n", severityName(f.severity), f.title, f.subject,
                           f.says);
        if (f.cure)
            out += fmt::format("      {}{}\n", f.cure->label,
                               f.gainHours ? fmt::format(": {}{}", *f.gainHours >= 0 ? "+" : "",
                                                         writeHours(*f.gainHours))
                                           : "");
    }
    return out;
}

Json traceJson(const Trace& trace, const TraceCut& cut) {
    Json modes = Json::array();
    for (const TraceMode& m : cut.modes) {
        Json one{{"current_a", m.amps},
                 {"spread_a", m.spread},
                 {"peak_a", m.peak},
                 {"share", m.share},
                 {"typical_duration_s", m.typicalSeconds},
                 {"every_s", m.everySeconds > 0 ? Json(m.everySeconds) : Json(nullptr)},
                 {"charge_share", m.chargeShare}};
        if (!trace.volts.empty())
            one["power_w"] = m.watts;
        if (m.burstAmps > 0) {
            one["burst_a"] = m.burstAmps;
            one["burst_s"] = m.burstSeconds;
            one["bursts_per_s"] = m.burstsPerSecond;
        }
        modes.push_back(one);
    }
    return {{"rows", trace.seconds.size()},
            {"span_s", trace.span()},
            {"mean_a", cut.meanAmps},
            {"peak_a", cut.peakAmps},
            {"sleep_charge_share", cut.sleepCharge},
            {"bad_rows", trace.badRows},
            {"negative_rows", trace.negative},
            {"out_of_order_rows", trace.outOfOrder},
            {"modes", modes}};
}

std::string traceText(const Trace& trace, const TraceCut& cut) {
    std::string out =
        fmt::format("{} rows over {}, mean {}, peak {}\n", trace.seconds.size(),
                    writeHours(trace.span() / 3600), writeQuantity(cut.meanAmps, Unit::ampere),
                    writeQuantity(cut.peakAmps, Unit::ampere));
    if (trace.badRows + trace.outOfOrder + trace.negative > 0) {
        out += fmt::format("{} rows passed over, {} not in order, {} negative\n", trace.badRows,
                           trace.outOfOrder, trace.negative);
        for (const TraceRemark& r : trace.remarks)
            out += fmt::format("  row {}: {}\n", r.row, r.what);
    }
    out += fmt::format("{:>12}{:>12}{:>10}{:>12}{:>12}{:>10}\n", "current", "peak", "time", "lasts",
                       "every", "charge");
    for (const TraceMode& m : cut.modes) {
        out += fmt::format("{:>12}{:>12}{:>10}{:>12}{:>12}{:>10}\n",
                           writeQuantity(m.amps, Unit::ampere), writeQuantity(m.peak, Unit::ampere),
                           writeShare(m.share), writeQuantity(m.typicalSeconds, Unit::second),
                           m.everySeconds > 0 ? writeQuantity(m.everySeconds, Unit::second) : "–",
                           writeShare(m.chargeShare));
        if (m.burstAmps > 0)
            out += fmt::format("{:>12}bursts of {} for {}, {:.2g} a second\n", "",
                               writeQuantity(m.burstAmps, Unit::ampere),
                               writeQuantity(m.burstSeconds, Unit::second), m.burstsPerSecond);
    }
    return out;
}

namespace {

Json leverList(const std::vector<Lever>& levers) {
    Json list = Json::array();
    for (const Lever& l : levers)
        list.push_back({{"name", l.name},
                        {"subject", l.subject},
                        {"runtime_h", l.hours},
                        {"gain_h", l.gainHours},
                        {"mass_g", l.gramsMore},
                        {"price", l.priceMore}});
    return list;
}

} // namespace

Json leversJson(const std::vector<Lever>& levers, const std::vector<Lever>& pairs) {
    return {{"levers", leverList(levers)}, {"pairs", leverList(pairs)}};
}

std::string leversText(const std::vector<Lever>& levers, const std::vector<Lever>& pairs) {
    if (levers.empty())
        return "nothing that one step would lengthen\n";
    std::string out;
    for (const auto* list : {&levers, &pairs})
        for (const Lever& l : *list)
            out += fmt::format("{:>10}  {:>+8.1f} g  {:>+7.2f}  {}\n",
                               "+" + writeHours(l.gainHours), l.gramsMore, l.priceMore, l.name);
    return out;
}

Json compareJson(const Comparison& c) {
    Json out{{"variants", Json::array()}, {"differences", Json::array()}};
    for (const Weighed& w : c.variants) {
        const Runtime& r = w.runtime;
        const bool none = r.ending.at.empty();
        Json one{{"name", w.name}, {"runtime_h", r.hours ? Json(r.hours->value()) : Json(nullptr)}};
        if (w.range)
            one["range_h"] = {w.range->p10, w.range->p50, w.range->p90};
        if (w.project.brief.targetRuntime && r.hours)
            one["spare_h"] = r.hours->value() - w.project.brief.targetRuntime->value();
        one["ended_by"] = {{"at", none ? Json(nullptr) : Json(r.ending.at)},
                           {"mode", none ? Json(nullptr) : Json(r.ending.mode)},
                           {"reason", reasonName(r.ending.reason)}};
        one["worst"] = {{"mode", r.worstMode.empty() ? Json(nullptr) : Json(r.worstMode)},
                        {"pack_current_a", r.worstCurrent.value()},
                        {"allowed_a", w.allowedAmps > 0 ? Json(w.allowedAmps) : Json(nullptr)}};
        one["mass_g"] = w.grams;
        one["price"] = w.price;
        one["delivered_share"] = w.deliveredShare;
        one["hottest"] = {{"stage", w.hottest.empty() ? Json(nullptr) : Json(w.hottest)},
                          {"part_c", w.hottest.empty() ? Json(nullptr) : Json(w.hottestC)}};
        if (!w.tethers.empty()) {
            one["sources"] = Json::object();
            for (const Tether& t : w.tethers)
                one["sources"][w.project.stages[t.source].id] = tetherJson(w.project, t);
        }
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
    each("", [](const Weighed& w) { return w.name; });
    each("runs for", [](const Weighed& w) {
        return w.runtime.hours ? writeHours(w.runtime.hours->value()) : std::string("–");
    });
    each("eight builds in ten", [](const Weighed& w) {
        return w.range ? writeHours(w.range->p10) + " to " + writeHours(w.range->p90)
                       : std::string("–");
    });
    each("ends by",
         [](const Weighed& w) { return std::string(reasonName(w.runtime.ending.reason)); });
    each("worst draw", [](const Weighed& w) { return write(w.runtime.worstCurrent); });
    each("warmest part", [](const Weighed& w) {
        return w.hottest.empty() ? "–"
                                 : writeQuantity(w.hottestC, Unit::celsius) + " " +
                                       nameOf(*w.project.stage(w.hottest));
    });
    each("reaches the loads", [](const Weighed& w) { return writeShare(w.deliveredShare); });
    each("weight", [](const Weighed& w) { return writeQuantity(w.grams, Unit::gram); });
    each("price", [](const Weighed& w) { return fmt::format("{:.2f}", w.price); });
    each("to mend, to weigh", [](const Weighed& w) {
        return fmt::format("{}, {}", w.count(Severity::stop), w.count(Severity::care));
    });
    out += c.differences.empty() ? "no difference between them\n" : "what tells them apart\n";
    for (const Difference& d : c.differences)
        row(fmt::format("  {}: {}", d.where, d.what), [&](std::size_t i) { return d.values[i]; });
    return out;
}

Json sumJson(const std::vector<SumResult>& results) {
    Json out = Json::object();
    for (const SumResult& r : results)
        std::visit([&](const auto& value) { out[r.key] = value; }, r.value);
    return out;
}

std::string sumText(const std::vector<SumResult>& results) {
    std::string out;
    for (const SumResult& r : results) {
        const auto* figure = std::get_if<double>(&r.value);
        const std::string value =
            figure ? r.unit == Unit::fraction ? writeShare(*figure) : writeQuantity(*figure, r.unit)
                   : std::get<std::string>(r.value);
        out += fmt::format("{:<30} {:>12}   {}\n", r.label, value, r.formula);
    }
    return out;
}

} // namespace sipper::cli
