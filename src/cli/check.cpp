// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "project/json.hpp"

#include "analysis/analysis.hpp"
#include "quantity/write.hpp"
#include "text/text.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

Json findingsJson(const std::vector<Finding>& findings) {
    Json out{{"findings", Json::array()}};
    for (const Finding& f : findings) {
        Json numbers = Json::object();
        for (const auto& [key, value] : f.numbers)
            numbers[key] = number(value);
        Json one{{"rule", f.rule},       {"severity", severityName(f.severity)},
                 {"subject", f.subject}, {"title", f.title},
                 {"says", f.says},       {"numbers", numbers}};
        if (f.fix)
            one["cure"] = f.fix->label;
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
        if (f.fix)
            out += fmt::format("      {}{}\n", f.fix->label,
                               f.gainHours ? fmt::format(": {}{}", *f.gainHours >= 0 ? "+" : "",
                                                         writeHours(*f.gainHours))
                                           : "");
    }
    return out;
}

Outcome<Answer> answerCheck(const Asked& asked) {
    const auto project = askedProject(asked);
    if (!project)
        return project.error();
    const QuickAnalysis quick = analyseQuick(project.value(), {.bench = false});
    DeepOptions depth;
    depth.consequences = depth.cutoffPolicies = false;
    const auto deep = analyseDeep(project.value(), quick, {}, depth);
    Answer a{findingsJson(deep->findings), findingsText(deep->findings)};
    a.exit = countOf(deep->findings, Severity::stop) > 0 ? kStop : kDone;
    return a;
}

void optionsCheck(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    addVariant(app, asked);
}

} // namespace

const Command kCheck{"check",
                     "what is wrong or worth weighing; exit 1 when something must be mended",
                     optionsCheck, answerCheck};

} // namespace sipper::cli
