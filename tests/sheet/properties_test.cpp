// SPDX-License-Identifier: GPL-3.0-or-later
// Sheets of random projects: everything that is built is on them once, sums are those of the
// project, no connection that fails its own check goes without a word, and every way out says the
// same.
#include "randomprojects.hpp"
#include "sheet/report.hpp"

#include <csv.h>

using namespace sipper;

namespace {

constexpr int kProjects = test::kSanitized ? 10 : 60;

/// The rows of a CSV text, by libcsv as the program reads its own.
std::vector<std::vector<std::string>> rowsOf(const std::string& text) {
    struct Reading {
        std::vector<std::vector<std::string>> rows;
        std::vector<std::string> row;
    } reading;
    csv_parser parser;
    REQUIRE(csv_init(&parser, CSV_STRICT) == 0);
    const auto field = [](void* s, std::size_t n, void* to) {
        static_cast<Reading*>(to)->row.emplace_back(static_cast<const char*>(s), n);
    };
    const auto row = [](int, void* to) {
        auto* all = static_cast<Reading*>(to);
        all->rows.push_back(std::move(all->row));
        all->row.clear();
    };
    REQUIRE(csv_parse(&parser, text.data(), text.size(), field, row, &reading) == text.size());
    csv_fini(&parser, field, row, &reading);
    csv_free(&parser);
    return reading.rows;
}

} // namespace

TEST_CASE("what a random project is built of stands on its sheet once", "[sheet][properties]") {
    test::RandomProjects random(41);
    for (int i = 0; i < kProjects; ++i) {
        const Project p = random.next();
        INFO(i << " from " << random.from());
        const QuickAnalysis quick = analyseQuick(p);
        const Sheet sheet = sheetOf(p, quick, nullptr);
        CHECK(sheet.title == p.name);
        CHECK(sheet.code == contentCode(p));
        CHECK(sheet.code.size() == 9); // four and four
        std::set<std::string> keys;
        double grams = 0;
        double price = 0;
        for (const SheetPart& part : sheet.parts) {
            INFO(part.key);
            CHECK(keys.insert(part.key).second);
            CHECK(part.count > 0);
            CHECK_FALSE(part.name.empty());
            grams += part.grams.value_or(0);
            price += part.price.value_or(0);
        }
        CHECK(sheet.grams == Approx(p.massGrams()));
        CHECK(sheet.price == Approx(p.totalPrice()));
        CHECK(grams <= sheet.grams * (1 + 1e-9) + 1e-9);
        CHECK(price <= sheet.price * (1 + 1e-9) + 1e-9);
        for (const Stage& s : p.stages)
            CHECK(std::any_of(sheet.parts.begin(), sheet.parts.end(),
                              [&](const SheetPart& part) { return part.id == s.id; }));
        // Each load hangs on something.
        for (const Load& l : p.loads)
            CHECK(std::any_of(sheet.wires.begin(), sheet.wires.end(), [&](const SheetWire& w) {
                return w.id == l.id ||
                       w.to.find(l.label.empty() ? l.id : l.label) != std::string::npos;
            }));
        std::set<std::string> labels;
        for (const SheetWire& w : sheet.wires) {
            INFO(w.label << " " << w.id);
            CHECK(labels.insert(w.label).second);
            CHECK(w.amps >= 0);
            CHECK(w.dropVolts >= 0);
            // A lead that must not be built so is said on the paper itself.
            if (const std::string fault = wireFault(w); !fault.empty() && !w.proposed)
                CHECK(std::any_of(sheet.open.begin(), sheet.open.end(), [](const SheetOpen& o) {
                    return o.rule == "no_fuse" || o.rule == "fuse_window" ||
                           o.rule == "wire_ampacity" || o.rule == "lead_burns";
                }));
            if (w.proposed)
                CHECK(wireFault(w).empty());
        }
        // What must be mended comes before what is only noted.
        for (std::size_t o = 1; o < sheet.open.size(); ++o)
            CHECK(sheet.open[o - 1].severity <= sheet.open[o].severity);
    }
}

TEST_CASE("every way out of a sheet is whole", "[sheet][properties]") {
    test::RandomProjects random(42);
    for (int i = 0; i < kProjects / 2; ++i) {
        Project p = random.next();
        p.name = "Wild <b>\"name\"</b> & 5 > 3, Ω";
        p.notes = "one\ntwo, \"three\"\n</script>";
        INFO(i << " from " << random.from());
        const Sheet sheet = sheetOf(p, analyseQuick(p), nullptr);
        const std::string html = htmlText(p, sheet);
        CHECK(html.find("<b>\"name\"") == std::string::npos);
        CHECK(html.find("</script>") == std::string::npos);
        CHECK(html.find("&lt;b&gt;") != std::string::npos);
        for (const char* never : {"nan", "-nan", "inf\"", "http://", "https://"}) {
            INFO(never);
            // The names of SVG and XML are the only addresses in it.
            std::size_t at = html.find(never);
            while (at != std::string::npos && html.compare(at, 18, "http://www.w3.org/") == 0)
                at = html.find(never, at + 1);
            if (std::string_view(never) != "nan") // as in "nanoamp"
                CHECK(at == std::string::npos);
        }
        const auto rows = rowsOf(csvText(sheet));
        REQUIRE(rows.size() == sheet.parts.size() + 1);
        for (const auto& row : rows)
            CHECK(row.size() == rows.front().size());
        for (const SheetSection& section : sectionsOf(sheet)) {
            INFO(section.name);
            CHECK_FALSE(section.title.empty());
            for (const SheetRow& row : section.rows)
                if (!section.headings.empty() && !row.quiet && !row.sum)
                    CHECK(row.cells.size() == section.headings.size());
        }
    }
}

TEST_CASE("the code of a supply is its own, whatever is read, ticked or named",
          "[sheet][properties]") {
    test::RandomProjects random(43);
    std::map<std::string, Project> seen;
    for (int i = 0; i < kProjects; ++i) {
        const Project p = random.next();
        INFO(i << " from " << random.from());
        const std::string code = contentCode(p);
        CHECK(code.find_first_not_of("0123456789ABCDEFGHJKMNPQRSTVWXYZ-") == std::string::npos);
        CHECK(code.find('-') == 4);
        if (!p.stages.empty())
            CHECK(contentCode(withHave(p, p.stages[0].id, true)) == code);
        Project noted = p;
        noted.notes += " and a word";
        noted.variants.clear();
        CHECK(contentCode(noted) == code);
        Project other = p;
        if (!other.loads.empty() && !other.loads[0].draws.empty()) {
            other.loads[0].window.min = Volts{other.loads[0].window.min.value() * 0.999};
            CHECK(contentCode(other) != code);
        }
    }
}

TEST_CASE("ticks are kept, told and taken off again", "[sheet][properties]") {
    const Project p = test::example("nest-box-listener");
    CHECK(haveOf(p).empty());
    Project ticked = p;
    for (const SheetPart& part : partsFor(p))
        ticked = withHave(ticked, part.key, true);
    CHECK(haveOf(ticked).size() == partsFor(p).size());
    const Sheet sheet = sheetOf(ticked, analyseQuick(ticked), nullptr);
    CHECK(sheet.priceLeft == Approx(0).margin(1e-9));
    for (const SheetPart& part : partsFor(p))
        ticked = withHave(ticked, part.key, false);
    CHECK(haveOf(ticked).empty());
}
