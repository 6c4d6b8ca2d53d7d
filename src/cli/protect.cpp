// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "analysis/analysis.hpp"
#include "protect/text.hpp"
#include "quantity/write.hpp"

#include <cmath>

namespace sipper::cli {
namespace {

Json known(const std::optional<double>& figure) {
    return figure && std::isfinite(*figure) ? Json(*figure) : Json();
}

Json proofJson(const DrainTest& p) {
    Json marks = Json::array();
    for (const DrainTest::Mark& m : p.marks)
        marks.push_back({{"v", m.volts}, {"h", m.hours}});
    return {{"load_ohm", p.ohms},
            {"load_w", p.watts},
            {"load_a", p.amps},
            {"hours", p.hours},
            {"from_fifth_h", p.fromFifthHours},
            {"marks", std::move(marks)},
            {"open_by_v", p.mustOpenBy},
            {"at_once_v", p.atOnceVolts},
            {"minute_v", p.minuteVolts},
            {"settled_v", p.settledVolts}};
}

Json guardJson(const Project& project, const GuardAnalysis& g) {
    const Rebound& r = g.usual;
    Json out{{"id", g.id},
             {"acts", r.acts},
             {"chatters", r.chatters},
             {"ends_run", g.endsRun},
             {"mode", g.mode},
             {"cutoff_v", g.cutoff},
             {"reconnect_v", g.reconnect},
             {"never_reconnects", g.latches},
             {"reaches_v", g.reaches},
             {"verdict", guardVerdict(project, g).word}};
    if (!r.acts) {
        out["stops_first"] = r.before;
        for (const char* key : {"period_s", "rebound_v", "least_difference_v"})
            out[key] = nullptr;
        return out;
    }
    out["rebound_v"] = r.settledVolts;
    out["least_difference_v"] = g.minHysteresis;
    out["least_difference_when"] = g.leastWhen;
    out["cut_h"] = r.cutHours;
    out["cut_charge"] = r.cutCharge;
    out["cut_v"] = r.cutVolts;
    out["at_once_v"] = r.atOnceVolts;
    out["period_s"] = r.chatters ? Json(r.period()) : Json();
    if (r.chatters) {
        out["off_s"] = r.offSeconds;
        out["on_s"] = r.onSeconds;
        out["sag_v"] = r.sagVolts;
    }
    Json chargers = Json::array();
    for (const ChargerRestart& f : g.chargers)
        chargers.push_back({{"charger", f.charger},
                            {"finds", f.finds},
                            {"recovers", f.recovers},
                            {"rests_v", f.restVolts},
                            {"threshold_v", f.threshold},
                            {"lost_after_months", known(f.undetectedAfter)}});
    out["after"] = {{"draws_a", g.openAmps},
                    {"ruined_after_months", known(g.ruinMonths)},
                    {"chargers", std::move(chargers)}};
    if (g.proof)
        out["proof"] = proofJson(*g.proof);
    return out;
}

Json faultJson(const Project& project, const Fault& f) {
    Json loads = Json::object();
    Json over = Json::array();
    if (f.onPack && f.onPack->over)
        over.push_back(f.onPack->id);
    for (std::size_t i = 0; i < project.loads.size(); ++i) {
        loads[project.loads[i].id] = f.volts[i];
        if (f.harmed[i])
            over.push_back(project.loads[i].id);
    }
    return {{"stage", f.stage},          {"fault", faultName(f.kind)},
            {"loads", std::move(loads)}, {"over", std::move(over)},
            {"fail_too", f.alsoFailed},  {"clears", clearingText(project, f)},
            {"clears_by", f.by}};
}

Json stretchJson(const WireSegment& s) {
    return {{"id", s.id},
            {"from", s.from},
            {"name", s.name},
            {"draw_a", s.need.continuous},
            {"burst_a", s.need.burst},
            {"burst_a2s", burstHeat(s.need)},
            {"fuse", s.fuseId},
            {"fuse_a", known(s.fuse)},
            {"lead_a", known(s.lead)},
            {"source_a", known(s.source)},
            {"short_a", known(s.shortCircuit)},
            {"first", weakestElementText(s)}};
}

Json dividerJson(const Divider& d) {
    Json out{{"upper_ohm", d.upper}, {"lower_ohm", d.lower}, {"gives_v", d.actual},
             {"error", d.error},     {"least_v", d.least},   {"most_v", d.most},
             {"draws_a", d.draws},   {"tap_ohm", d.tapOhms}};
    if (d.feedback)
        out["feedback_ohm"] = *d.feedback;
    if (d.givesUpper)
        out["gives_upper_v"] = *d.givesUpper;
    return out;
}

Json schoolsJson(const Project& project) {
    Json schools = Json::array();
    for (const PolicyLife& s : policyLives(project))
        schools.push_back({{"school", nameOf(s.policy)},
                           {"cutoff_v", s.cutoff},
                           {"cell_v", s.cutoff / project.pack()->series},
                           {"runtime_h", s.hours},
                           {"cycles", {s.life.low, s.life.high}}});
    return schools;
}

Json protectJson(const Project& project, const ProtectionAnalysis& look,
                 const std::string& series) {
    Json out{{"guards", Json::array()},  {"fuses", Json::array()},    {"faults", Json::array()},
             {"also", Json::array()},    {"currents", Json::array()}, {"ways_back", Json::array()},
             {"dividers", Json::array()}};
    for (const GuardAnalysis& g : look.guards)
        out["guards"].push_back(guardJson(project, g));
    for (const FuseWindow& f : look.fuses)
        out["fuses"].push_back({{"id", f.id},
                                {"least_a", f.least},
                                {"most_a", known(f.most)},
                                {"choose_a", known(f.choose)}});
    for (const Fault& f : look.faults.parts)
        out["faults"].push_back(faultJson(project, f));
    for (const Fault& f : look.faults.systemFaults)
        out["also"].push_back(faultJson(project, f));
    for (const WireSegment& s : look.segments)
        out["currents"].push_back(stretchJson(s));
    for (const BackfeedPath& push : look.backfeeds)
        out["ways_back"].push_back({{"from", push.from},
                                    {"into", push.into},
                                    {"meet", push.meet},
                                    {"way", push.way},
                                    {"v", push.volts},
                                    {"a", push.unlimited ? Json() : Json(push.amps)},
                                    {"says", pushText(project, push)}});
    for (const DividerPlace& place : look.dividers) {
        DividerOptions ask = place.ask;
        ask.series = series;
        Json best = Json::array();
        for (const Divider& d : dividersFor(ask))
            best.push_back(dividerJson(d));
        Json one{{"id", place.id},
                 {"says", place.says},
                 {"target_v", ask.target},
                 {"reference_v", ask.reference},
                 {"best", std::move(best)}};
        if (place.has)
            one["has"] = dividerJson(*place.has);
        out["dividers"].push_back(std::move(one));
    }
    const ProtectVerdict verdict = protectVerdict(project, look);
    out["schools"] = schoolsJson(project);
    out["verdict"] = {{"word", verdict.word}, {"says", verdict.says}};
    return out;
}

Outcome<Answer> answerProtect(const Asked& asked) {
    const auto project = askedProject(asked);
    if (!project)
        return project.error();
    if (asked.series != "E12" && asked.series != "E24" && asked.series != "E96")
        return badOption("--series", asked.series, "E12, E24 or E96");
    const Project& p = project.value();
    const QuickAnalysis quick = analyseQuick(p, {.rules = false, .bench = false});
    return Answer{protectJson(p, *quick.protect, asked.series), protectText(p, *quick.protect)};
}

void optionsProtect(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    addVariant(app, asked);
    app.add_option("--series", asked.series,
                   "resistors of the dividers: E12, E24 (default) or E96");
}

} // namespace

const Command kProtect{"protect",
                       "guards and their rebound, fuses, one fault at a time, ways back, dividers",
                       optionsProtect, answerProtect};

} // namespace sipper::cli
