// SPDX-License-Identifier: GPL-3.0-or-later
// The drawer of cells: what is thrown away, and which belong together.
#include "inventory/inventory.hpp"
#include "support.hpp"

#include <algorithm>
#include <numeric>
#include <random>

using namespace sipper;

namespace {

std::vector<OwnedCell> measured(const std::vector<double>& ah, double ohms = 0.03) {
    std::vector<OwnedCell> cells;
    for (const double a : ah) {
        OwnedCell c;
        c.id = "c" + std::to_string(cells.size() + 1);
        c.size = "18650";
        c.chemistry = Chemistry::nickelCobalt;
        c.labelAh = 3;
        c.ah = a;
        c.ohms = ohms;
        cells.push_back(c);
    }
    return cells;
}

std::vector<std::size_t> all(const std::vector<OwnedCell>& cells) {
    std::vector<std::size_t> list(cells.size());
    std::iota(list.begin(), list.end(), std::size_t{0});
    return list;
}

/// The best weakest group that any deal of the cells has, by trying every one.
double bestWeakest(const std::vector<double>& ah, std::size_t series, std::size_t parallel) {
    double best = 0;
    std::vector<double> sums(series, 0);
    std::vector<std::size_t> counts(series, 0);
    const auto deal = [&](const auto& self, std::size_t at) -> void {
        if (at == ah.size()) {
            best = std::max(best, *std::min_element(sums.begin(), sums.end()));
            return;
        }
        for (std::size_t g = 0; g < series; ++g) {
            if (counts[g] == parallel)
                continue;
            sums[g] += ah[at];
            ++counts[g];
            self(self, at + 1);
            sums[g] -= ah[at];
            --counts[g];
            if (counts[g] == 0)
                break; // empty groups are alike
        }
    };
    deal(deal, 0);
    return best;
}

} // namespace

TEST_CASE("a drawer comes back as it was, as JSON and as CSV", "[bench][drawer]") {
    auto cells = measured({2.5, 2.25});
    cells[0].note = "from the \"old\" lamp, 2 of 3; dented";
    cells[0].rests = {{"2031-04-02", 4.1}, {"2031-05-02", 4.05}};
    cells[1].warm = true;
    cells[1].ohms.reset();
    cells[1].when = "2031-04-03";
    const auto json = readDrawer(drawerText(cells));
    REQUIRE(json);
    CHECK(json.value() == cells);
    const auto csv = readCells(drawerCsv(cells));
    REQUIRE(csv);
    CHECK(csv.value() == cells);
    // As a spreadsheet of another country writes it.
    const auto other = readDrawerCsv("id;chemistry;capacity_ah\na;lithium-nickel-cobalt;2,5\n\n");
    REQUIRE(other);
    CHECK(other.value().at(0).ah == 2.5);
}

TEST_CASE("what can't be a cell says where", "[bench][drawer]") {
    const auto where = [](const char* text) {
        const auto read = readCells(text);
        REQUIRE_FALSE(read);
        return read.error().where;
    };
    CHECK(where(R"({"cells": [{"id": "a", "capacity_ah": -1}]})") == "/cells/0/capacity_ah");
    CHECK(where(R"({"cells": [{"id": "a"}, {"id": "a"}]})") == "/cells/1/id");
    CHECK(where(R"({"cells": [{"id": "a", "chemistry": "plutonium"}]})") == "/cells/0/chemistry");
    CHECK(where(R"({"cells": 4})").empty());
    CHECK(where("size,capacity_ah\nAA,2\n") == "row 1");
    CHECK(where("id,capacity_ah\na,much\n") == "row 2, capacity_ah");
    CHECK(where("id,rest_v,rest_when\na,4.1,yesterday\n") == "cell 0/rests");
}

TEST_CASE("self-discharge follows from two resting volts", "[bench][drawer]") {
    const Library library = loadLibrary();
    auto cells = measured({2.5});
    const LibraryPart* type = typeOf(cells[0], library);
    REQUIRE(type);
    const Pack& pack = std::get<Pack>(type->stage.part);
    CHECK(pack.cell.chemistry == Chemistry::nickelCobalt);
    CHECK(pack.cell.size == "18650");
    const PackModel model(pack, Celsius{20});
    // A tenth of the charge gone in two months.
    cells[0].rests = {{"2031-04-01", model.openCircuitAt(0.8)},
                      {"2031-06-01", model.openCircuitAt(0.7)}};
    const auto loss = selfDischargeOf(cells[0], type);
    REQUIRE(loss);
    CHECK(*loss == Approx(0.1 * 30.4375 / 61).epsilon(1e-6));
    CHECK(judge(cells[0], library).discardReasons.empty());
    cells[0].rests[1] = {"2031-04-15", model.openCircuitAt(0.7)};
    CHECK(judge(cells[0], library).discardReasons.size() == 1);
    // Too soon to say.
    cells[0].rests[1].when = "2031-04-04";
    CHECK_FALSE(selfDischargeOf(cells[0], type));
}

TEST_CASE("weak, warm and resistive cells go out", "[bench][drawer]") {
    const Library library = loadLibrary();
    auto cells = measured({1.7, 2.9, 2.9});
    cells[1].warm = true;
    cells[2].ohms = 0.4;
    for (const OwnedCell& c : cells)
        CHECK(judge(c, library).discardReasons.size() == 1);
    CHECK(judge(cells[0], library).health == Approx(1.7 / 3));
}

TEST_CASE("cells are dealt into groups as equal as any deal makes them", "[bench][drawer]") {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> spread(1.8, 3.0);
    for (int round = 0; round < 20; ++round) {
        std::vector<double> ah;
        for (int i = 0; i < 9; ++i)
            ah.push_back(spread(random));
        auto cells = measured(ah);
        const auto match = matchCells(cells, all(cells), 3, 3);
        REQUIRE(match);
        const CellMatch& m = match.value();
        // Every cell once, and the sums are the cells'.
        std::vector<std::size_t> seen;
        for (std::size_t g = 0; g < 3; ++g) {
            REQUIRE(m.groups[g].size() == 3);
            double sum = 0;
            for (const std::size_t i : m.groups[g]) {
                seen.push_back(i);
                sum += ah[i];
            }
            CHECK(m.ah[g] == Approx(sum));
        }
        std::sort(seen.begin(), seen.end());
        CHECK(std::unique(seen.begin(), seen.end()) == seen.end());
        CHECK(m.packAh == *std::min_element(m.ah.begin(), m.ah.end()));
        // Within two percent of the best of all deals: swaps of two, with half a percent to give.
        CHECK(m.packAh > 0.98 * bestWeakest(ah, 3, 3));
        CHECK(m.packAh <= bestWeakest(ah, 3, 3) * (1 + 1e-9));
    }
}

TEST_CASE("where capacities are equal, resistances are matched", "[bench][drawer]") {
    auto cells = measured({2.5, 2.5, 2.5, 2.5});
    cells[0].ohms = 0.02;
    cells[1].ohms = 0.02;
    cells[2].ohms = 0.08;
    cells[3].ohms = 0.08;
    const auto match = matchCells(cells, all(cells), 2, 2);
    REQUIRE(match);
    CHECK(match.value().ohms[0] == Approx(match.value().ohms[1]));
    const auto few = matchCells(cells, all(cells), 3, 2);
    REQUIRE_FALSE(few);
    CHECK(few.error().code == "too_few");
}

TEST_CASE("the weakest of more cells than are needed stay in the drawer", "[bench][drawer]") {
    auto cells = measured({2.0, 2.9, 2.1, 2.8, 2.85});
    const auto match = matchCells(cells, all(cells), 3, 1);
    REQUIRE(match);
    CHECK(match.value().packAh == Approx(2.8));
    const LibraryPart* type = nullptr;
    const Library library = loadLibrary();
    type = typeOf(cells[0], library);
    const Pack pack = packOf(cells, match.value(), *type);
    CHECK(pack.series == 3);
    CHECK(pack.parallel == 1);
    // The model then holds what the weakest group holds.
    CHECK(PackModel(pack, Celsius{25}).usable ==
          Approx(2.8 * PackModel(std::get<Pack>(type->stage.part), Celsius{25}).usable /
                 std::get<Pack>(type->stage.part).cell.capacity.value()));
    CHECK(pack.measuredResistance == Ohms{0.03});
}
