// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "project/file.hpp"
#include "quantity/write.hpp"
#include "text/text.hpp"
#include "trace/segments.hpp"
#include "trace/tracefile.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

Json traceJson(const Trace& trace, const TraceSegments& cut) {
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

std::string traceText(const Trace& trace, const TraceSegments& cut) {
    std::string out =
        fmt::format("{} rows over {}, mean {}, peak {}\n", trace.seconds.size(),
                    writeHours(trace.span() / 3600), writeQuantity(cut.meanAmps, Unit::ampere),
                    writeQuantity(cut.peakAmps, Unit::ampere));
    if (trace.badRows + trace.outOfOrder + trace.negative > 0) {
        out += fmt::format("{} rows passed over, {} not in order, {} negative\n", trace.badRows,
                           trace.outOfOrder, trace.negative);
        for (const TraceRemark& r : trace.remarks)
            out += fmt::format("  row {}: {}\n", r.row, escapeForTerminal(r.what));
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

Outcome<Answer> answerTrace(const Asked& asked) {
    TraceFormat format;
    if (!asked.timeUnit.empty() && !(format.timeScale = timeUnit(asked.timeUnit)))
        return badOption("--time-unit", asked.timeUnit, "s, ms, us, min or h");
    if (!asked.currentUnit.empty() && !(format.currentScale = currentUnit(asked.currentUnit)))
        return badOption("--current-unit", asked.currentUnit, "A, mA, uA or nA");
    if (asked.timeColumn > 0)
        format.time = asked.timeColumn - 1;
    if (asked.currentColumn > 0)
        format.current = asked.currentColumn - 1;
    const auto text = readFile(asked.file);
    if (!text)
        return text.error();
    const auto read = readTrace(text.value(), format);
    if (!read) {
        Error error = read.error();
        error.file = asked.file;
        return error;
    }
    const TraceSegments cut = segmentTrace(read.value());
    return Answer{traceJson(read.value(), cut), traceText(read.value(), cut)};
}

void optionsTrace(CLI::App& app, Asked& asked) {
    app.add_option("CSV", asked.file, "time and current, any separator")->required();
    app.add_option("--time-unit", asked.timeUnit,
                   "where the header does not say: s, ms, us, min, h");
    app.add_option("--current-unit", asked.currentUnit,
                   "where the header does not say: A, mA, uA, nA");
    app.add_option("--time-column", asked.timeColumn, "from 1");
    app.add_option("--current-column", asked.currentColumn, "from 1");
}

} // namespace

const Command kTrace{"trace", "cut a measured current (CSV) into modes", optionsTrace, answerTrace};

} // namespace sipper::cli
