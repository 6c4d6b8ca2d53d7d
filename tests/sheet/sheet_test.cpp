// SPDX-License-Identifier: GPL-3.0-or-later
// The build sheet: figures that are the project's, rows for everything, markup that nothing breaks.
#include "measure/text.hpp"
#include "project/variants.hpp"
#include "quantity/write.hpp"
#include "sheet/drawing.hpp"
#include "sheet/escape.hpp"
#include "sheet/report.hpp"
#include "support.hpp"

#include <nlohmann/json.hpp>

using namespace sipper;

namespace {

std::vector<std::string> exampleNames() {
    std::vector<std::string> names;
    for (const auto& entry : std::filesystem::directory_iterator(
             std::filesystem::path(SIPPER_SOURCE) / "data/examples"))
        names.push_back(entry.path().stem().string());
    return names;
}

Sheet sheetFor(const Project& p) {
    return sheetOf(p, analyseQuick(p), nullptr);
}

const SheetWire* wireTo(const Sheet& sheet, const std::string& id) {
    const auto at = std::find_if(sheet.wires.begin(), sheet.wires.end(),
                                 [&](const SheetWire& w) { return w.id == id; });
    return at == sheet.wires.end() ? nullptr : &*at;
}

std::size_t countOf(const std::string& text, const std::string& piece) {
    std::size_t count = 0;
    for (auto at = text.find(piece); at != std::string::npos; at = text.find(piece, at + 1))
        ++count;
    return count;
}

} // namespace

TEST_CASE("sums, parts and connections of every example add up", "[sheet]") {
    std::size_t number = 0;
    for (const std::string& name : exampleNames()) {
        if (test::kSanitized && number++ % 3 != 0)
            continue;
        INFO(name);
        const Project p = test::example(name);
        const Sheet sheet = sheetFor(p);
        double grams = 0;
        double price = 0;
        for (const SheetPart& part : sheet.parts) {
            grams += part.grams.value_or(0);
            price += part.price.value_or(0);
        }
        CHECK(grams == Approx(p.massGrams()));
        CHECK(price == Approx(p.totalPrice()));
        CHECK(sheet.grams == p.massGrams());
        // Every stage and load is reached by a lead, but for sources, and every stage is bought.
        std::set<std::string> reached;
        std::set<std::string> bought;
        for (const SheetPart& part : sheet.parts)
            bought.insert(part.id);
        for (const Stage& stage : p.stages) {
            CHECK(bought.contains(stage.id));
            for (const std::string& feed : stage.fedBy)
                CHECK(p.stage(feed));
            if (!isSource(stage.part) && !std::holds_alternative<Wire>(stage.part)) {
                const Stage* feeder = p.stage(stage.fedBy.front());
                const bool byLead = std::holds_alternative<Wire>(feeder->part);
                CHECK(wireTo(sheet, byLead ? feeder->id : stage.id));
            }
            if (std::holds_alternative<Wire>(stage.part))
                CHECK(wireTo(sheet, stage.id));
        }
        // The bench's checks, word for word.
        std::size_t checks = 0;
        for (const BenchCheck& check : analyseBench(p).checks)
            if (check.kind != CheckKind::point) {
                REQUIRE(checks < sheet.checks.size());
                CHECK(sheet.checks[checks].band == checkBand(check));
                ++checks;
            }
        CHECK(checks == sheet.checks.size());
        // What flows in a lead is what the survey saw, to the last digit.
        const QuickAnalysis quick = analyseQuick(p);
        for (std::size_t l = 0; l < p.loads.size(); ++l)
            if (const SheetWire* w = wireTo(sheet, p.loads[l].id); w && quick.sweep)
                CHECK(w->amps >= quick.sweep->maxLoad[l].value);
        const Drawing d = lineDrawing(p, sheet);
        CHECK(d.places.size() == p.stages.size() + p.loads.size());
        for (const auto& [id, box] : d.places) {
            CHECK(box.x >= 0);
            CHECK(box.x + box.w <= d.width);
            CHECK(box.y + box.h <= d.height);
            // Boxes do not cover each other.
            for (const auto& [other, there] : d.places)
                if (other != id)
                    CHECK_FALSE((box.x < there.x + there.w && there.x < box.x + box.w &&
                                 box.y < there.y + there.h && there.y < box.y + box.h));
        }
    }
}

TEST_CASE("what the sheet says it runs is what the run says", "[sheet]") {
    const Project p = test::example("nest-box-listener");
    const QuickAnalysis quick = analyseQuick(p);
    DeepOptions depth;
    depth.gains = depth.consequences = depth.cutoffPolicies = depth.sun = false;
    const auto deep = analyseDeep(p, quick, {}, depth);
    const Sheet sheet = sheetOf(p, quick, deep.get());
    CHECK_THAT(sheet.said, Catch::Contains(writeHours(quick.runtime.hours->value())));
    CHECK_THAT(sheet.said, Catch::Contains(writeHours(deep->range->range.p10) + " to " +
                                           writeHours(deep->range->range.p90)));
    CHECK_THAT(sheet.said,
               Catch::Contains(writeQuantity(quick.runtime.worstCurrent.value(), Unit::ampere)));
    for (const Finding& f : deep->findings)
        if (f.severity != Severity::note)
            CHECK(std::any_of(sheet.open.begin(), sheet.open.end(),
                              [&](const SheetOpen& o) { return o.says == f.says; }));
}

TEST_CASE("the code names what is built, not what was read or ticked", "[sheet]") {
    Project p = test::example("moth-counter");
    const std::string code = contentCode(p);
    CHECK(code.size() == 9);
    Project ticked = withHave(p, "charger", true);
    CHECK(contentCode(ticked) == code);
    Reading r;
    r.id = "r1";
    p.readings = p.readings.with(r);
    CHECK(contentCode(p) == code);
    p.stages[0].label = "Another";
    CHECK(contentCode(p) != code);
}

TEST_CASE("ticks are kept in the project and shorten the list to buy", "[sheet]") {
    Project p = test::example("moth-counter");
    const Sheet whole = sheetFor(p);
    CHECK(whole.priceLeft == Approx(whole.price));
    const auto part = std::find_if(whole.parts.begin(), whole.parts.end(),
                                   [](const SheetPart& s) { return s.price.value_or(0) > 1; });
    REQUIRE(part != whole.parts.end());
    p = withHave(p, part->key, true);
    CHECK(haveOf(p) == std::set<std::string>{part->key});
    const Sheet less = sheetFor(p);
    CHECK(less.priceLeft == Approx(whole.price - *part->price));
    // Through the file and back.
    test::Folder folder;
    REQUIRE_FALSE(saveProject(folder.file("m.sipper"), p));
    const Project again = test::load(folder.file("m.sipper"));
    CHECK(haveOf(again) == haveOf(p));
    CHECK(withHave(again, part->key, false).extras == test::example("moth-counter").extras);
    // What is not a list of names is no tick, and does no harm.
    Project odd = test::example("moth-counter");
    odd.extras.emplace_back("x-have", "{\"a\":[1,null]}");
    CHECK(haveOf(odd).empty());
}

TEST_CASE(
    "leads are red, orange behind a guard, red again behind a regulator, green when they charge",
    "[sheet]") {
    const Project p = test::example("moth-counter");
    LeadColours mine;
    mine.plus = "yellow";
    SheetOptions ask;
    ask.colours = mine;
    const Sheet sheet = sheetOf(p, analyseQuick(p), nullptr, ask);
    const SheetWire* behindGuard = nullptr;
    for (const SheetWire& w : sheet.wires)
        if (w.from == nameOf(*p.stage("guard")))
            behindGuard = &w;
    REQUIRE(behindGuard);
    CHECK(behindGuard->colours == "orange/black");
    CHECK(std::any_of(sheet.wires.begin(), sheet.wires.end(),
                      [](const SheetWire& w) { return w.colours == "yellow/black"; }));
    CHECK(std::any_of(sheet.wires.begin(), sheet.wires.end(),
                      [](const SheetWire& w) { return w.colours == "green/black"; }));
}

TEST_CASE("a proposed lead carries what the fuse before it lets through", "[sheet]") {
    Project p = test::idealProject(12, 5);
    Fuse fuse;
    fuse.rating = Amps{15};
    p.stages.push_back(test::stageOf("fuse", fuse, "cells"));
    p.loads.push_back(test::loadOf("load", "fuse", 9, 15));
    p.loads[0].draws.push_back(test::currentDraw("on", 0.5));
    const Sheet sheet = sheetFor(p);
    REQUIRE(wireTo(sheet, "load"));
    CHECK(wireTo(sheet, "load")->proposed);
    CHECK(wireTo(sheet, "load")->size == "1.5 mm²"); // 10 A/mm2
    CHECK_THAT(wireTo(sheet, "fuse")->remark, Catch::Contains("as short as can be"));
    CHECK(wireTo(sheet, "load")->remark.empty());
}

TEST_CASE("cautions are those of this project alone", "[sheet]") {
    const auto titles = [](const std::string& name) {
        std::set<std::string> all;
        for (const SheetCaution& c : cautionsFor(test::example(name)))
            all.insert(c.title);
        return all;
    };
    CHECK(titles("moth-counter").contains("Lithium cells"));
    CHECK_FALSE(titles("moth-counter").contains("Mains adapter"));
    CHECK(titles("stage-theremin").contains("Mains adapter"));
    CHECK(titles("stage-theremin").contains("Nickel cells"));
    CHECK_FALSE(titles("stage-theremin").contains("Lithium cells"));
    CHECK(titles("ridge-weather-mast").contains("Panel"));
    CHECK(titles("model-ferry-winch").contains("Cells that are used once"));
}

TEST_CASE("plugs are drawn as they are stated, and asked for where they are not", "[sheet]") {
    Project p = test::example("stage-theremin");
    const Sheet asked = sheetFor(p);
    CHECK(std::any_of(asked.wires.begin(), asked.wires.end(),
                      [](const SheetWire& w) { return w.askPlug; }));
    for (Stage& stage : p.stages)
        if (std::holds_alternative<Adapter>(stage.part))
            stage.connector = Connector{"barrel 5.5 × 2.1", Polarity::negative, {}};
    const Sheet stated = sheetFor(p);
    CHECK_FALSE(std::any_of(stated.wires.begin(), stated.wires.end(),
                            [](const SheetWire& w) { return w.askPlug; }));
    REQUIRE(stated.plugs.size() == 1);
    CHECK(stated.plugs[0].shape == SheetPlug::Shape::barrel);
    const std::string svg = svgText(plugDrawing(stated.plugs[0]), "plug");
    CHECK_THAT(svg, Catch::Contains("centre −"));
    CHECK_THAT(svg, Catch::Contains("sleeve +"));
}

TEST_CASE("names with markup, of any length and script, break nothing", "[sheet]") {
    Project p = test::example("moth-counter");
    p.name = "<b>\"Jar\" & 'hedge'</b>\x01";
    p.stages[1].label = std::string(300, 'x') + "</td><script>alert(1)</script>";
    p.loads[0].label = "\xD7\xA0\xD7\xA8, \"a\", b\r\nc";
    const Sheet sheet = sheetFor(p);
    const std::string html = htmlText(p, sheet);
    CHECK(countOf(html, "<script") == 0);
    CHECK(countOf(html, "<b>") == 0);
    CHECK_THAT(html, Catch::Contains("&lt;b&gt;&quot;Jar&quot; &amp; &#39;hedge&#39;&lt;/b&gt;"));
    CHECK(html.find('\x01') == std::string::npos);
    CHECK_THAT(html, Catch::Contains("\xD7\xA0\xD7\xA8"));
    // Every tag that is opened is closed.
    for (const char* tag : {"table", "tr", "td", "svg", "section", "text", "title"}) {
        INFO(tag);
        CHECK(countOf(html, std::string("<") + tag + ">") +
                  countOf(html, std::string("<") + tag + " ") ==
              countOf(html, std::string("</") + tag + ">"));
    }
    // Nothing points outside.
    CHECK(countOf(html, "href") == 0);
    CHECK(countOf(html, "src=") == 0);
    CHECK(countOf(html, "url(") == 0);
    CHECK(shortened("\xD7\xA0\xD7\xA8\xD7\x9D\xD7\xA0", 20, 11) == "\xD7\xA0\xD7\xA8…");
    CHECK(reportText(ReportKind::json, p, sheet).front() == '{');
}

TEST_CASE("the list to buy is read back field by field", "[sheet]") {
    Project p = test::example("hand-cart-organ");
    p.stages[1].label = "Guard, \"loud\"";
    const Sheet sheet = sheetFor(p);
    const std::string csv = csvText(sheet);
    CHECK(csv.rfind("count,unit,name,figures,mass_g,price,have,id\r\n", 0) == 0);
    CHECK(countOf(csv, "\r\n") == sheet.parts.size() + 1);
    CHECK_THAT(csv, Catch::Contains("\"Guard, \"\"loud\"\"\""));
    CHECK_THAT(csv, Catch::Contains("\"22.5\""));
}

TEST_CASE("an empty project makes a sheet that says so", "[sheet]") {
    Project p;
    p.modes.push_back({});
    p.modes[0].id = "on";
    p.modes[0].base = true;
    const Sheet sheet = sheetFor(p);
    CHECK(sheet.parts.empty());
    CHECK(sheet.summary == "Nothing yet");
    CHECK_FALSE(htmlText(p, sheet).empty());
    CHECK(reportKindOf("a/b.PDF") == ReportKind::pdf);
    CHECK_FALSE(reportKindOf("a/b"));
    CHECK_FALSE(reportKindOf("a.txt"));
}

TEST_CASE("no wire of a drawing goes through a part that is not on it", "[sheet][drawing]") {
    int drawn = 0;
    for (const char* folder : {"data/examples", "data/recipes"})
        for (const auto& entry :
             std::filesystem::directory_iterator(std::filesystem::path(SIPPER_SOURCE) / folder)) {
            const Project p = test::load(entry.path());
            const Drawing drawing = lineDrawing(p, sheetFor(p));
            INFO(entry.path().filename());
            for (const DrawnLine& line : drawing.lines)
                for (std::size_t i = 1; i < line.points.size(); ++i) {
                    const auto [x0, y0] = line.points[i - 1];
                    const auto [x1, y1] = line.points[i];
                    if (y0 != y1)
                        continue;
                    for (const auto& [id, box] : drawing.places) {
                        INFO(id);
                        const bool level = y0 > box.y + 1 && y0 < box.y + box.h - 1;
                        const bool through =
                            std::min(x0, x1) < box.x + 1 && std::max(x0, x1) > box.x + box.w - 1;
                        CHECK_FALSE((level && through));
                    }
                    ++drawn;
                }
        }
    CHECK(drawn > 100);
}
