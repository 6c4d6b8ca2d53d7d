// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "explain/sweeptext.hpp"
#include "pieces.hpp"
#include "project/file.hpp"
#include "project/json.hpp"
#include "quantity/read.hpp"
#include "quantity/write.hpp"
#include "sheet/report.hpp"
#include "text/text.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

Json optionalJson(const std::optional<double>& value) {
    return value ? number(*value) : Json(nullptr);
}

Json pointJson(const SweepPoint& p, const std::set<SweepKey>& keys) {
    if (p.refused)
        return {{"x", p.x}, {"refused", *p.refused}};
    Json out{{"x", p.x}};
    for (const SweepKey key : keys) {
        const std::string name(nameOfKey(key));
        if (key == SweepKey::stops || key == SweepKey::cares)
            out[name] = key == SweepKey::stops ? p.stops : p.cares;
        else
            out[name] = optionalJson(figureOf(p, key));
        if (key == SweepKey::runtimeHours)
            out["ended_by"] = endingJson(p.ending);
    }
    return out;
}

Json sweepJson(const Sweep& s, const std::set<SweepKey>& keys) {
    Json out{{"field", s.field.pointer},
             {"says", s.field.says},
             {"unit", unitSymbol(s.field.facts.unit)},
             {"now", optionalJson(s.field.now)},
             {"points", Json::array()},
             {"breaks", Json::array()}};
    if (s.field.isDefault && s.field.now)
        out["default"] = true;
    for (const SweepPoint& p : s.points)
        out["points"].push_back(pointJson(p, keys));
    for (const SweepBreak& b : s.breaks)
        out["breaks"].push_back(
            {{"x", b.x}, {"what", b.what}, {"before", b.before}, {"after", b.after}});
    return out;
}

std::string sweepText(const Sweep& s, const std::set<SweepKey>& keys) {
    const Unit unit = s.field.facts.unit;
    std::string out =
        fmt::format("{}{}\n{:>12}", s.field.says,
                    s.field.now ? ", now " + writeExact(*s.field.now, unit) : "", "x");
    for (const SweepKey key : keys)
        out += fmt::format("{:>13}", nameOfKey(key));
    out += "   ends\n";
    for (const SweepPoint& p : s.points) {
        out += fmt::format("{:>12}", writeQuantity(p.x, unit));
        if (p.refused) {
            out += "   refused: " + *p.refused + "\n";
            continue;
        }
        for (const SweepKey key : keys) {
            const auto figure = figureOf(p, key);
            out += fmt::format("{:>13}",
                               !figure ? "–"
                               : key == SweepKey::runtimeHours || key == SweepKey::refillHours
                                   ? writeHours(*figure)
                                   : fmt::format("{:.4g}", *figure));
        }
        out += "   " + p.endSays + "\n";
    }
    for (const SweepBreak& b : s.breaks)
        out += breakText(s.field, b) + "\n";
    return out;
}

Outcome<SweepOptions> optionsOf(const Asked& asked, Unit unit) {
    SweepOptions ask;
    for (const auto& [name, text, into] : {std::tuple("--from", &asked.from, &ask.from),
                                           std::tuple("--to", &asked.sweepTo, &ask.to)}) {
        const auto value = readQuantity(*text, unit);
        if (!value)
            return badOption(name, *text, value.error().expected);
        *into = value.value();
    }
    ask.points = asked.points;
    ask.logarithmic = asked.logarithmic;
    if (!asked.show.empty()) {
        ask.keys = {SweepKey::runtimeHours};
        for (const std::string& name : asked.show) {
            const auto key = sweepKeyOf(name);
            if (!key)
                return badOption("--show", name,
                                 "runtime_h, worst_a, mean_pack_w, mass_g, price, refill_h, stop "
                                 "or care");
            ask.keys.insert(*key);
        }
    }
    return ask;
}

Outcome<Answer> answerSweep(const Asked& asked) {
    const auto project = askedProject(asked);
    if (!project)
        return project.error();
    const auto field = fieldAt(project.value(), asked.field);
    if (!field)
        return field.error();
    const auto ask = optionsOf(asked, field.value().facts.unit);
    if (!ask)
        return ask.error();
    const bool csv = asked.output.ends_with(".csv");
    if (!asked.output.empty() && !csv && !asked.output.ends_with(".svg"))
        return badOption("--output", asked.output, "a file that ends in .csv or .svg");
    const auto sweep = sweepOf(project.value(), asked.field, ask.value());
    if (!sweep)
        return sweep.error();
    const Sweep& s = sweep.value();
    if (!asked.output.empty()) {
        const std::string text = csv ? sweepCsv(s, ask.value().keys)
                                     : svgText(sweepDrawing(s, ask.value().logarithmic),
                                               project.value().name + ": " + s.field.says);
        if (auto trouble = writeFile(asked.output, text))
            return *trouble;
    }
    return Answer{sweepJson(s, ask.value().keys),
                  asked.output.empty() ? sweepText(s, ask.value().keys)
                                       : fmt::format("{}: {} points of {}\n", asked.output,
                                                     s.points.size(), s.field.says)};
}

void optionsSweep(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    app.add_option("FIELD", asked.field,
                   "where the figure stands in the file, ids in place of numbers: "
                   "/stages/boost5/set_v, /loads/lamp/draws/lit/current_a")
        ->required();
    addVariant(app, asked);
    app.add_option("--from", asked.from, "its first value, as in \"100 mA\"")->required();
    app.add_option("--to", asked.sweepTo, "its last value")->required();
    app.add_option("--points", asked.points, "how many, 2 to 2001 (default 41)");
    app.add_flag("--log", asked.logarithmic, "in equal ratios in place of equal steps");
    app.add_option("--show", asked.show,
                   "what to work out: runtime_h, worst_a, mean_pack_w, mass_g, price, refill_h, "
                   "stop, care (default: all)");
    app.add_option("-o,--output", asked.output, "OUT.csv, or .svg for a picture");
}

} // namespace

const Command kSweep{"sweep",
                     "what if one figure were another: hours over it, and what breaks where",
                     optionsSweep, answerSweep};

} // namespace sipper::cli
