// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "project/file.hpp"
#include "sheet/report.hpp"

#include <ctime>
#include <fmt/chrono.h>
#include <fmt/format.h>

namespace sipper::cli {
namespace {

std::string today() {
    return fmt::format("{:%Y-%m-%d}", fmt::localtime(std::time(nullptr)));
}

Outcome<Answer> answerReport(const Asked& asked) {
    const auto project = askedProject(asked);
    if (!project)
        return project.error();
    const Project& p = project.value();
    const auto kind = reportKindOf(asked.output);
    if (!kind || *kind == ReportKind::pdf || *kind == ReportKind::png)
        return badOption("--output", asked.output,
                         "a file that ends in .html, .csv, .svg or .json (sipper --report prints "
                         ".pdf and .png)");
    const QuickAnalysis quick = analyseQuick(p);
    DeepOptions depth;
    depth.consequences = false;
    depth.cutoffPolicies = false;
    const auto deep = analyseDeep(p, quick, {}, depth);
    SheetOptions ask;
    ask.date = today();
    const Sheet sheet = sheetOf(p, quick, deep.get(), ask);
    if (auto trouble = writeFile(asked.output, reportText(*kind, p, sheet)))
        return *trouble;
    return Answer{Json{{"written", asked.output}, {"code", sheet.code}},
                  fmt::format("{}: build sheet {} of {}\n", asked.output, sheet.code, sheet.title)};
}

void optionsReport(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    addVariant(app, asked);
    app.add_option("-o,--output", asked.output, "OUT.html, .csv (parts), .svg (drawing) or .json")
        ->required();
}

} // namespace

const Command kReport{"report", "The build sheet: what to buy, wire, set and check", optionsReport,
                      answerReport};

} // namespace sipper::cli
