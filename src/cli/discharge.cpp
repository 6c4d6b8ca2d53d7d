// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "measure/discharge.hpp"
#include "measure/totals.hpp"
#include "pieces.hpp"
#include "project/file.hpp"
#include "quantity/read.hpp"
#include "quantity/write.hpp"

#include <filesystem>
#include <fmt/format.h>

namespace sipper::cli {
namespace {

Json figureOrNull(const std::optional<double>& v) {
    return v ? Json(*v) : Json();
}

/// A figure of a log; of a table's row null.
template <class T>
Json logged(const DischargeRun& r, const T& value) {
    return r.fromTotals ? Json() : Json(value);
}
/// A figure that a table's row may not have.
Json total(const DischargeRun& r, double value) {
    return r.fromTotals && value <= 0 ? Json() : Json(value);
}

Json runJson(const DischargeRun& r) {
    Json gaps = Json::array();
    for (const auto& [from, to] : r.gaps)
        gaps.push_back({from, to});
    return {{"file", r.file},
            {"rows", logged(r, r.rows)},
            {"bad_rows", logged(r, r.badRows)},
            {"out_of_order", logged(r, r.outOfOrder)},
            {"clock_set_back", logged(r, r.clockSetBack)},
            {"gaps", logged(r, gaps)},
            {"warmest_c", figureOrNull(r.warmest)},
            {"ah", total(r, r.ah)},
            {"wh", total(r, r.wh)},
            {"own_ah", r.fromTotals && r.meanVolts <= 0 ? Json() : Json(r.ownAh)},
            {"own_wh", r.fromTotals && r.hours <= 0 ? Json() : Json(r.ownWh)},
            {"gap_ah", logged(r, r.gapAh)},
            {"runtime_h", total(r, r.hours)},
            {"mean_v", total(r, r.meanVolts)},
            {"mean_a", total(r, r.meanAmps)},
            {"mean_w", total(r, r.meanWatts)},
            {"rest_v", figureOrNull(r.restVolts)},
            {"start_v", logged(r, r.startVolts)},
            {"end_v", logged(r, r.endVolts)},
            {"ended_by", r.cut || r.fromTotals ? "cut" : "end_of_log"},
            {"ohm", figureOrNull(r.ohms)},
            {"ohm_steps", logged(r, r.ohmSteps)},
            {"recovery_v", figureOrNull(r.recoveryVolts)},
            {"recovery_s", figureOrNull(r.recoverySeconds)},
            {"efficiency", figureOrNull(r.efficiency)}};
}

Json dischargesJson(const Discharges& all) {
    Json out{{"runs", Json::array()},
             {"groups", Json::array()},
             {"gap_wh", figureOrNull(all.gapWh)},
             {"gap_share", figureOrNull(all.gapShare)},
             {"peukert", figureOrNull(all.peukert)},
             {"two_well", Json()},
             {"left_alone", Json::array()}};
    for (const DischargeRun& r : all.runs)
        out["runs"].push_back(runJson(r));
    for (const DischargeGroup& g : all.groups)
        out["groups"].push_back({{"runs", g.runs},
                                 {"mean_w", g.meanWatts},
                                 {"mean_a", g.meanAmps},
                                 {"ah", g.ah},
                                 {"wh", g.wh},
                                 {"efficiency", figureOrNull(g.efficiency)},
                                 {"spread", figureOrNull(g.spread)}});
    if (all.twoWell)
        out["two_well"] = {{"capacity_ah", all.twoWell->capacityAh},
                           {"available_fraction", all.twoWell->availableFraction},
                           {"well_rate_per_h", all.twoWell->wellRate},
                           {"sigma_fraction", all.twoWell->sigmaFraction},
                           {"sigma_ln_rate", all.twoWell->sigmaLnRate}};
    for (const auto& [id, why, row] : all.leftAlone)
        out["left_alone"].push_back({{"id", id}, {"why", why}});
    return out;
}

/// `runs.csv: 4.20 W, 7.20 V, 583 mA, 3 h 11, 13.4 Wh, 1.86 Ah`, what is not known left out.
std::string totalsText(const DischargeRun& r) {
    std::string out;
    const auto add = [&](double value, const std::string& text) {
        if (value > 0)
            out += (out.empty() ? "" : ", ") + text;
    };
    add(r.meanWatts, writeQuantity(r.meanWatts, Unit::watt));
    add(r.meanVolts, writeQuantity(r.meanVolts, Unit::volt));
    add(r.meanAmps, writeQuantity(r.meanAmps, Unit::ampere));
    add(r.hours, writeHours(r.hours));
    add(r.wh, writeQuantity(r.wh, Unit::wattHour));
    add(r.ah, writeQuantity(r.ah, Unit::ampereHour));
    return r.file + ": " + out + "\n";
}

std::string dischargesText(const Discharges& all) {
    std::string out;
    for (const DischargeRun& r : all.runs) {
        if (r.fromTotals) {
            out += totalsText(r);
            continue;
        }
        out +=
            fmt::format("{}: {} and {} in {}, mean {} at {}, {}\n", r.file,
                        writeQuantity(r.ah, Unit::ampereHour), writeQuantity(r.wh, Unit::wattHour),
                        writeHours(r.hours), writeQuantity(r.meanWatts, Unit::watt),
                        writeQuantity(r.meanVolts, Unit::volt),
                        r.cut ? "ended by a cut" : "the log ends first");
        if (r.badRows + r.outOfOrder + r.clockSetBack + r.gaps.size() > 0)
            out += fmt::format("  {} bad rows, {} out of order, clock set back {} times, {} gaps "
                               "({} bridged)\n",
                               r.badRows, r.outOfOrder, r.clockSetBack, r.gaps.size(),
                               writeQuantity(r.gapAh, Unit::ampereHour));
        if (r.ohms)
            out += fmt::format("  {} by {} steps\n", writeQuantity(*r.ohms, Unit::ohm), r.ohmSteps);
    }
    for (const DischargeGroup& g : all.groups)
        out += fmt::format(
            "at {}: {}{}{}\n", writeQuantity(g.meanWatts, Unit::watt),
            writeQuantity(g.wh, Unit::wattHour),
            g.efficiency ? ", " + writeShare(*g.efficiency) + " of the label" : "",
            g.spread ? fmt::format(", {} runs within {}", g.runs.size(), writeShare(*g.spread))
                     : "");
    if (all.peukert)
        out += fmt::format("Peukert exponent {:.3f}\n", *all.peukert);
    if (all.twoWell)
        out += fmt::format("two wells: {}, {} at hand, {:.2g} an hour\n",
                           writeQuantity(all.twoWell->capacityAh, Unit::ampereHour),
                           writeShare(all.twoWell->availableFraction), all.twoWell->wellRate);
    for (const auto& [what, why, row] : all.leftAlone)
        if (row)
            out += fmt::format("left alone: {}: {}\n", what, why);
    return out;
}

Outcome<DischargeTable> askedTable(const Asked& asked, const DischargeOptions& ask) {
    DischargeTable all;
    for (const std::string& path : asked.logs) {
        const auto text = readFile(path);
        if (!text)
            return text.error();
        auto table = readTotals(text.value(), std::filesystem::path(path).filename().string(), ask);
        if (!table) {
            Error trouble = table.error();
            trouble.file = path;
            return trouble;
        }
        const DischargeTable& t = table.value();
        all.runs.insert(all.runs.end(), t.runs.begin(), t.runs.end());
        all.leftAlone.insert(all.leftAlone.end(), t.leftAlone.begin(), t.leftAlone.end());
    }
    return all;
}

Outcome<Answer> answerDischarge(const Asked& asked) {
    const auto ask = askedTester(asked);
    if (!ask)
        return ask.error();
    if (asked.totals) {
        if (!asked.cutVolts.empty())
            return badOption("--cut", asked.cutVolts, "a log: totals do not say where a run ended");
        const auto table = askedTable(asked, ask.value());
        if (!table)
            return table.error();
        const Discharges all = dischargesOf(table.value());
        return Answer{dischargesJson(all), dischargesText(all)};
    }
    const auto logs = askedLogs(asked);
    if (!logs)
        return logs.error();
    const Discharges all = dischargesOf(logs.value(), ask.value());
    return Answer{dischargesJson(all), dischargesText(all)};
}

void optionsDischarge(CLI::App& app, Asked& asked) {
    app.add_option("CSV", asked.logs, "logs with a header: time, volts, amps or watts")->required();
    app.add_flag("--totals", asked.totals,
                 "tables of totals, a run a row: two or more of W, V, A, duration, Wh, Ah");
    app.add_option("--own-w", asked.ownWatts, "what the tester takes itself, in W (default 0)");
    app.add_option("--label-wh", asked.labelWh, "what the label promises, in Wh");
    app.add_option("--cut", asked.cutVolts, "where the run was to end, in V");
}

} // namespace

Outcome<DischargeOptions> askedTester(const Asked& asked) {
    const auto figure = [](const char* name, const std::string& text, Unit unit,
                           double most) -> Outcome<double> {
        const auto read = readQuantity(text, unit);
        if (!read || read.value() < 0 || read.value() > most)
            return badOption(name, text, fmt::format("0 to {:g} {}", most, unitSymbol(unit)));
        return read.value();
    };
    DischargeOptions ask;
    const auto own = figure("--own-w", asked.ownWatts, Unit::watt, 1000);
    if (!own)
        return own.error();
    ask.ownWatts = own.value();
    if (!asked.labelWh.empty()) {
        const auto label = figure("--label-wh", asked.labelWh, Unit::wattHour, 1e6);
        if (!label)
            return label.error();
        ask.labelWh = label.value();
    }
    if (!asked.cutVolts.empty()) {
        const auto cut = figure("--cut", asked.cutVolts, Unit::volt, 1000);
        if (!cut)
            return cut.error();
        ask.cutVolts = cut.value();
    }
    return ask;
}

Outcome<std::vector<DischargeLog>> askedLogs(const Asked& asked) {
    std::vector<DischargeLog> logs;
    for (const std::string& path : asked.logs) {
        const auto text = readFile(path);
        if (!text)
            return text.error();
        auto log = readDischarge(text.value(), std::filesystem::path(path).filename().string());
        if (!log) {
            Error trouble = log.error();
            trouble.file = path;
            return trouble;
        }
        logs.push_back(std::move(log).value());
    }
    return logs;
}

const Command kDischarge{"discharge", "What packs gave that were run down, from their logs",
                         optionsDischarge, answerDischarge};

} // namespace sipper::cli
