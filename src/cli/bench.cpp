// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "measure/text.hpp"
#include "quantity/read.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

Json checkJson(const Project& p, const BenchCheck& c) {
    const auto known = [&](double figure) { return c.expect ? Json(figure) : Json(); };
    return {{"id", c.id()},
            {"check", nameOf(c.kind)},
            {"at", c.at},
            {"quantity", nameOf(c.quantity)},
            {"mode", c.mode.empty() ? Json() : Json(c.mode)},
            {"expect", c.expect ? Json(*c.expect) : Json()},
            {"low", known(c.coverageLow)},
            {"high", known(c.coverageHigh)},
            {"verdict", verdictName(c.verdict)},
            {"value", c.value ? Json(*c.value) : Json()},
            {"reading", c.reading.empty() ? Json() : Json(c.reading)},
            {"says", checkTitle(p, c)},
            {"where", checkWhere(p, c)}};
}

Outcome<Answer> answerBench(const Asked& asked) {
    const auto project = askedProject(asked);
    if (!project)
        return project.error();
    const Project& p = project.value();
    BenchOptions ask;
    if (!asked.benchCharge.empty()) {
        const auto charge = askedShare("--charge", asked.benchCharge);
        if (!charge)
            return charge.error();
        ask.charge = charge.value();
    }
    const auto ambient = askedAmbient(asked);
    if (!ambient)
        return ambient.error();
    ask.ambient = ambient.value();
    const BenchAnalysis look = analyseBench(p, ask);
    Json out{{"checks", Json::array()},
             {"charge", look.charge},
             {"superseded", look.superseded},
             {"unmatched", look.unmatched}};
    std::string text =
        fmt::format("{} of {} read, {} outside\n",
                    static_cast<int>(look.checks.size()) - look.count(CheckVerdict::untested),
                    look.checks.size(), look.count(CheckVerdict::outside));
    for (const BenchCheck& c : look.checks) {
        out["checks"].push_back(checkJson(p, c));
        text +=
            fmt::format("{:<9} {:<48} {:<20} {}\n",
                        c.verdict == CheckVerdict::untested ? "" : verdictName(c.verdict),
                        checkTitle(p, c), checkBand(c), c.value ? readingFigure(c, *c.value) : "");
    }
    for (const std::string& id : look.unmatched)
        text += "reading " + id + " belongs to no check\n";
    return Answer{std::move(out), std::move(text)};
}

void optionsBench(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    addVariant(app, asked);
    app.add_option("--charge", asked.benchCharge,
                   "charge left, 0 to 1 or per cent (default: as the pack says)");
    app.add_option("--ambient", asked.ambient, "degrees Celsius of the bench (default 20)");
}

} // namespace

const Command kBench{"bench", "What a meter should say, in the order of the bench, and what it did",
                     optionsBench, answerBench};

} // namespace sipper::cli
