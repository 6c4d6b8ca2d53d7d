// SPDX-License-Identifier: GPL-3.0-or-later
// The sheet as tables of text, in the order of the paper.
#include "sheet/sheet.hpp"

#include "measure/text.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

using Cells = std::vector<std::string>;

constexpr double kNoDrop = 1e-3; ///< V, under which a lead of this table drops nothing

std::string moneyText(double v) {
    return fmt::format("{:.2f}", v);
}
std::string gramsText(double g) {
    return g >= 1000 ? fmt::format("{:.2f} kg", g / 1000) : fmt::format("{:.4g} g", g);
}
std::string countText(const SheetPart& part) {
    return part.metres ? fmt::format("{:g} m", part.count) : fmt::format("{:g}", part.count);
}

SheetSection partsSection(const Sheet& sheet) {
    SheetSection s;
    s.name = "parts";
    s.title = "Parts";
    s.widths = {0.08, 0.37, 0.35, 0.1, 0.1};
    s.right = {false, false, false, true, true};
    s.mark = SheetSection::Mark::have;
    double ticked = 0;
    for (const SheetPart& part : sheet.parts) {
        s.rows.push_back(
            {part.id, part.key,
             Cells{countText(part), part.place.empty() ? part.name : part.place + ": " + part.name,
                   part.figures, part.grams ? gramsText(*part.grams) : "",
                   part.price ? moneyText(*part.price) : ""}});
        ticked += part.have ? part.price.value_or(0) : 0;
    }
    if (sheet.parts.empty())
        return s;
    const auto sum = [&](const char* words, const std::string& grams, double price) {
        SheetRow row{"", "", Cells{"", words, "", grams, moneyText(price)}};
        row.sum = true;
        s.rows.push_back(std::move(row));
    };
    sum("Together", gramsText(sheet.grams), sheet.price);
    if (ticked > 0)
        sum("Still to buy", "", sheet.priceLeft);
    return s;
}

SheetSection wiresSection(const Sheet& sheet) {
    SheetSection s;
    s.name = "wiring";
    s.title = "Wiring";
    s.headings = {"", "from → to", "lead", "most", "drop", "plug"};
    s.widths = {0.06, 0.29, 0.28, 0.1, 0.1, 0.17};
    s.right = {false, false, false, true, true, false};
    bool proposed = false;
    for (const SheetWire& w : sheet.wires) {
        std::string lead = w.colours + " " + w.size;
        if (w.metres)
            lead += fmt::format(" · {:g} m", *w.metres);
        if (w.proposed)
            lead += " *";
        proposed = proposed || w.proposed;
        s.rows.push_back({w.id, "",
                          Cells{w.label, w.from + " → " + w.to, lead,
                                w.amps > 0 ? writeQuantity(w.amps, Unit::ampere) : "–",
                                w.amps <= 0             ? "–"
                                : w.dropVolts < kNoDrop ? "none"
                                                        : writeQuantity(w.dropVolts, Unit::volt),
                                w.plug}});
        if (!w.remark.empty()) {
            SheetRow row{w.id, "", Cells{"", w.remark, "", "", "", ""}};
            row.quiet = true;
            s.rows.push_back(std::move(row));
        }
    }
    if (proposed)
        s.note = "* a proposal for 0.2 m: the project has no lead there. Where a fuse stands "
                 "before it, it "
                 "carries what that lets through.";
    return s;
}

SheetSection setsSection(const Sheet& sheet) {
    SheetSection s;
    s.name = "sets";
    s.title = "Set, before anything hangs on it";
    s.widths = {0.55, 0.45};
    s.mark = SheetSection::Mark::box;
    for (const SheetSet& set : sheet.sets)
        s.rows.push_back(
            {set.id, "", Cells{set.what, set.how + (set.proposal ? " – a proposal" : "")}});
    return s;
}

SheetSection stepsSection(const Sheet& sheet) {
    SheetSection s;
    s.name = "steps";
    s.title = "Bring it up, in this order";
    s.widths = {0.05, 0.95};
    int number = 0;
    for (const SheetStep& step : sheet.steps)
        s.rows.push_back({step.id, "", Cells{fmt::format("{}", ++number), step.text}});
    return s;
}

SheetSection checksSection(const Sheet& sheet) {
    SheetSection s;
    s.name = "checks";
    s.title = "Check, in this order";
    s.widths = {0.31, 0.37, 0.21, 0.11};
    s.bold = {false, false, true, false};
    s.mark = SheetSection::Mark::box;
    s.blank = true;
    for (const SheetCheck& check : sheet.checks)
        s.rows.push_back(
            {check.check.at, "",
             Cells{check.what, check.where, check.band,
                   check.check.value ? readingFigure(check.check, *check.check.value) : ""}});
    return s;
}

} // namespace

std::vector<SheetSection> sectionsOf(const Sheet& sheet) {
    std::vector<SheetSection> all{partsSection(sheet), wiresSection(sheet), setsSection(sheet),
                                  stepsSection(sheet), checksSection(sheet)};
    SheetSection cautions;
    cautions.name = "cautions";
    cautions.title = "Cautions";
    cautions.widths = {0.2, 0.8};
    cautions.bold = {true, false};
    for (const SheetCaution& c : sheet.cautions)
        cautions.rows.push_back({"", "", Cells{c.title, c.text}});
    if (!cautions.rows.empty())
        cautions.note =
            "Where local codes or a licensed person have a say, they have the last word.";
    all.push_back(std::move(cautions));
    SheetSection open;
    open.name = "open";
    open.title = "Still open";
    open.widths = {0.1, 0.27, 0.63};
    open.bold = {true, true, false};
    for (const SheetOpen& o : sheet.open)
        open.rows.push_back(
            {o.subject, "",
             Cells{o.severity == Severity::stop ? "mend" : "weigh", o.title, o.says}});
    all.push_back(std::move(open));
    std::erase_if(all, [](const SheetSection& s) { return s.rows.empty(); });
    return all;
}

} // namespace sipper
