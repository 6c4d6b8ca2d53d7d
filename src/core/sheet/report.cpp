// SPDX-License-Identifier: GPL-3.0-or-later
#include "sheet/report.hpp"

#include "sheet/drawing.hpp"
#include "sheet/escape.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <csv.h>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace sipper {
namespace {

constexpr double kLetterWidth = 0.56; ///< of its size, on average

constexpr const char* kStyle = R"(
:root{--ink:#23282E;--muted:#6B655B;--line:#D8D1C3;--copper:#B85F2B;--stop:#B3261E}
*{box-sizing:border-box}
body{margin:0 auto;max-width:52rem;padding:1.2rem;font:15px/1.45 system-ui,sans-serif;color:var(--ink);background:#fff}
header{display:flex;flex-wrap:wrap;gap:.2rem 1rem;align-items:baseline;justify-content:space-between}
h1{font-size:1.5rem;margin:0;overflow-wrap:anywhere}
h2{font-size:1.05rem;margin:1.4rem 0 .4rem;break-after:avoid}
p{margin:.3rem 0;overflow-wrap:anywhere}
.muted{color:var(--muted);font-size:.87rem}
.drawing{border:1px solid var(--line);border-radius:6px;padding:.6rem;margin:.8rem 0;overflow-x:auto;break-inside:avoid}
.drawing svg{max-width:100%;height:auto;min-width:26rem}
.plugs{display:flex;flex-wrap:wrap;gap:.4rem 1.4rem}
.plugs figure{margin:0;break-inside:avoid}
table{border-collapse:collapse;width:100%}
td,th{padding:.22rem .5rem .22rem 0;vertical-align:top;text-align:left;overflow-wrap:anywhere}
th{color:var(--muted);font-weight:normal;font-size:.87rem}
tr{break-inside:avoid;border-bottom:1px solid #eee8dc}
.r{text-align:right;white-space:nowrap}
.b{font-weight:bold}
.quiet{color:var(--muted);font-size:.87rem}
.box{display:inline-block;width:.85rem;height:.85rem;border:1.5px solid var(--ink);border-radius:2px;margin-right:.45rem;vertical-align:-.1rem}
.box.on{background:var(--ink)}
.line{border-bottom:1.5px solid var(--muted);min-width:5rem}
.open-mend{color:var(--stop)}
@media(max-width:34rem){body{font-size:16px;padding:.8rem}td,th{padding-right:.3rem}}
@media print{body{max-width:none;padding:0;font-size:10.5pt}@page{margin:14mm}}
)";

void addCell(std::string& out, const SheetSection& s, const SheetRow& row, std::size_t i,
             bool have) {
    std::string classes;
    if (i < s.right.size() && s.right[i])
        classes += " r";
    if (row.sum || (i < s.bold.size() && s.bold[i]))
        classes += " b";
    if (row.quiet)
        classes += " quiet";
    out += classes.empty() ? "<td dir=\"auto\">"
                           : fmt::format("<td dir=\"auto\" class=\"{}\">", classes.substr(1));
    const bool boxed = i == 0 && (s.mark == SheetSection::Mark::box ||
                                  (s.mark == SheetSection::Mark::have && !row.key.empty()));
    if (boxed)
        out += have ? "<span class=\"box on\"></span>" : "<span class=\"box\"></span>";
    out += escaped(row.cells[i]);
    out += "</td>";
}

void addSection(std::string& out, const Sheet& sheet, const SheetSection& s) {
    out += fmt::format("<section id=\"{}\"><h2>{}</h2>\n<table>\n", s.name, escaped(s.title));
    if (!s.headings.empty()) {
        out += "<tr>";
        for (std::size_t i = 0; i < s.headings.size(); ++i)
            out +=
                fmt::format("<th{}>{}</th>", i < s.right.size() && s.right[i] ? " class=\"r\"" : "",
                            escaped(s.headings[i]));
        out += "</tr>\n";
    }
    for (const SheetRow& row : s.rows) {
        out += "<tr>";
        const auto part =
            std::find_if(sheet.parts.begin(), sheet.parts.end(),
                         [&](const SheetPart& p) { return !row.key.empty() && p.key == row.key; });
        const bool have = part != sheet.parts.end() && part->have;
        for (std::size_t i = 0; i < row.cells.size(); ++i)
            addCell(out, s, row, i, have);
        if (s.blank)
            out += "<td class=\"line\">&#160;</td>";
        out += "</tr>\n";
    }
    out += "</table>\n";
    if (!s.note.empty())
        out += "<p class=\"muted\">" + escaped(s.note) + "</p>\n";
    out += "</section>\n";
}

Json numberOrNull(const std::optional<double>& v) {
    return v ? Json(*v) : Json();
}

std::string figureText(const std::optional<double>& v) {
    return v ? fmt::format("{:.10g}", *v) : std::string();
}

} // namespace

void appendCsvField(std::string& out, std::string_view text, bool last) {
    std::string quoted(csv_write(nullptr, 0, text.data(), text.size()), '\0');
    csv_write(quoted.data(), quoted.size(), text.data(), text.size());
    out += quoted + (last ? "\r\n" : ",");
}

std::string escaped(std::string_view text) {
    std::string out;
    for (const char c : text) {
        switch (c) {
        case '&':
            out += "&amp;";
            break;
        case '<':
            out += "&lt;";
            break;
        case '>':
            out += "&gt;";
            break;
        case '"':
            out += "&quot;";
            break;
        case '\'':
            out += "&#39;";
            break;
        default:
            if (static_cast<unsigned char>(c) >= 0x20 || c == '\n' || c == '\t')
                out += c;
        }
    }
    return out;
}

std::string shortened(const std::string& text, double room, double size) {
    if (room <= 0)
        return text;
    const auto most = static_cast<std::size_t>(std::max(1.0, room / (size * kLetterWidth)));
    std::size_t letters = 0;
    std::size_t cut = text.size();
    for (std::size_t i = 0; i < text.size(); ++i) {
        if ((static_cast<unsigned char>(text[i]) & 0xC0U) == 0x80U)
            continue; // the rest of a letter
        if (++letters == most)
            cut = i;
    }
    return letters > most ? text.substr(0, cut) + "…" : text;
}

std::string htmlText(const Project& project, const Sheet& sheet) {
    std::string out = fmt::format(
        "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n<meta "
        "name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n<title>{} – build "
        "sheet</title>\n<style>{}</style>\n</head>\n<body>\n",
        escaped(sheet.title), kStyle);
    out += fmt::format("<header><h1 dir=\"auto\">{}</h1><span class=\"muted\">variant {}{} · {}"
                       "</span></header>\n<p dir=\"auto\">{}.</p>\n<p>{}</p>\n",
                       escaped(sheet.title), escaped(sheet.variant),
                       sheet.date.empty() ? "" : " · " + escaped(sheet.date), sheet.code,
                       escaped(sheet.summary), escaped(sheet.said));
    if (!sheet.notes.empty())
        out += "<p dir=\"auto\" class=\"muted\">" + escaped(sheet.notes) + "</p>\n";
    out += "<div class=\"drawing\">" +
           svgText(lineDrawing(project, sheet), "Supply line of " + sheet.title) + "</div>\n";
    for (const SheetSection& s : sectionsOf(sheet)) {
        addSection(out, sheet, s);
        if (s.name != "wiring" || sheet.plugs.empty())
            continue;
        out += "<div class=\"plugs\">";
        for (const SheetPlug& plug : sheet.plugs)
            out += "<figure>" + svgText(plugDrawing(plug), plug.name) +
                   "<figcaption class=\"muted\" dir=\"auto\">" + escaped(plug.name) +
                   "</figcaption></figure>\n";
        out += "</div>\n";
    }
    return out + "</body>\n</html>\n";
}

std::string csvText(const Sheet& sheet) {
    std::string out = "count,unit,name,figures,mass_g,price,have,id\r\n";
    for (const SheetPart& part : sheet.parts) {
        appendCsvField(out, fmt::format("{:.10g}", part.count), false);
        appendCsvField(out, part.metres ? "m" : "piece", false);
        appendCsvField(out, part.name, false);
        appendCsvField(out, part.figures, false);
        appendCsvField(out, figureText(part.grams), false);
        appendCsvField(out, figureText(part.price), false);
        appendCsvField(out, part.have ? "yes" : "no", false);
        appendCsvField(out, part.key, true);
    }
    return out;
}

Json sheetJson(const Sheet& sheet) {
    Json out{
        {"title", sheet.title},        {"variant", sheet.variant}, {"date", sheet.date},
        {"code", sheet.code},          {"summary", sheet.summary}, {"said", sheet.said},
        {"mass_g", sheet.grams},       {"price", sheet.price},     {"price_left", sheet.priceLeft},
        {"parts", Json::array()},      {"wiring", Json::array()},  {"plugs", Json::array()},
        {"set_points", Json::array()}, {"steps", Json::array()},   {"checks", Json::array()},
        {"cautions", Json::array()},   {"open", Json::array()}};
    for (const SheetPart& p : sheet.parts)
        out["parts"].push_back({{"key", p.key},
                                {"id", p.id},
                                {p.metres ? "length_m" : "count", p.count},
                                {"name", p.name},
                                {"place", p.place},
                                {"figures", p.figures},
                                {"mass_g", numberOrNull(p.grams)},
                                {"price", numberOrNull(p.price)},
                                {"have", p.have}});
    for (const SheetWire& w : sheet.wires)
        out["wiring"].push_back({{"label", w.label},
                                 {"id", w.id},
                                 {"from", w.from},
                                 {"to", w.to},
                                 {"size", w.size},
                                 {"proposed", w.proposed},
                                 {"area_mm2", w.areaMm2},
                                 {"fuse_a", w.fuseAmps},
                                 {"fuse_proposed", w.fuseProposed},
                                 {"short_a", w.shortAmps},
                                 {"colours", w.colours},
                                 {"length_m", numberOrNull(w.metres)},
                                 {"plug", w.plug},
                                 {"polarity_asked", w.askPlug},
                                 {"current_a", w.amps},
                                 {"drop_v", w.dropVolts},
                                 {"remark", w.remark}});
    for (const SheetPlug& p : sheet.plugs)
        out["plugs"].push_back(
            {{"id", p.id},
             {"name", p.name},
             {"centre", p.shape == SheetPlug::Shape::holder ? Json() : Json(nameOf(p.centre))}});
    for (const SheetSet& s : sheet.sets)
        out["set_points"].push_back(
            {{"id", s.id}, {"what", s.what}, {"how", s.how}, {"proposal", s.proposal}});
    for (const SheetStep& s : sheet.steps)
        out["steps"].push_back({{"id", s.id}, {"text", s.text}});
    for (const SheetCheck& c : sheet.checks)
        out["checks"].push_back({{"id", c.check.id()},
                                 {"what", c.what},
                                 {"where", c.where},
                                 {"band", c.band},
                                 {"expect", numberOrNull(c.check.expect)},
                                 {"low", c.check.expect ? Json(c.check.coverageLow) : Json()},
                                 {"high", c.check.expect ? Json(c.check.coverageHigh) : Json()},
                                 {"value", numberOrNull(c.check.value)},
                                 {"verdict", verdictName(c.check.verdict)}});
    for (const SheetCaution& c : sheet.cautions)
        out["cautions"].push_back({{"title", c.title}, {"text", c.text}});
    for (const SheetOpen& o : sheet.open)
        out["open"].push_back({{"rule", o.rule},
                               {"subject", o.subject},
                               {"severity", severityName(o.severity)},
                               {"title", o.title},
                               {"says", o.says}});
    return out;
}

std::optional<ReportKind> reportKindOf(std::string_view path) {
    const auto dot = path.rfind('.');
    if (dot == std::string_view::npos)
        return std::nullopt;
    std::string ending(path.substr(dot + 1));
    std::transform(ending.begin(), ending.end(), ending.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    static constexpr std::array kinds{
        std::pair{"html", ReportKind::html}, std::pair{"csv", ReportKind::csv},
        std::pair{"svg", ReportKind::svg},   std::pair{"json", ReportKind::json},
        std::pair{"pdf", ReportKind::pdf},   std::pair{"png", ReportKind::png}};
    for (const auto& [name, kind] : kinds)
        if (ending == name)
            return kind;
    return std::nullopt;
}

std::string reportText(ReportKind kind, const Project& project, const Sheet& sheet) {
    switch (kind) {
    case ReportKind::html:
        return htmlText(project, sheet);
    case ReportKind::csv:
        return csvText(sheet);
    case ReportKind::svg:
        return svgText(lineDrawing(project, sheet), "Supply line of " + sheet.title);
    case ReportKind::json:
        return sheetJson(sheet).dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
    case ReportKind::pdf:
    case ReportKind::png:
        break;
    }
    return {};
}

} // namespace sipper
