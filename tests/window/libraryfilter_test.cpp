// SPDX-License-Identifier: GPL-3.0-or-later
// Each test of the library's filter lets pass what its words promise, and nothing is lost.
#include "driven.hpp"
#include "project/library.hpp"
#include "views/library/librarymodel.hpp"

using namespace sipper;
using namespace sipper::app;

namespace {

struct Shelves {
    LibraryModel model;
    LibraryFilter filter;
    Shelves() {
        auto read = std::make_shared<Library>(loadLibrary());
        REQUIRE(read->parts.size() > 100);
        model.setLibrary(std::move(read));
        filter.setSourceModel(&model);
    }
    /// Which rows of the library pass.
    std::vector<int> passing(const LibraryFilter::Wanted& wanted) {
        filter.setWanted(wanted);
        std::vector<int> rows;
        for (int row = 0; row < filter.rowCount(); ++row)
            rows.push_back(filter.mapToSource(filter.index(row, 0)).row());
        std::sort(rows.begin(), rows.end());
        return rows;
    }
    double figure(int row, int column) const {
        const QVariant v = model.index(row, column).data(LibraryModel::kSort);
        return v.isValid() ? v.toDouble() : std::nan("");
    }
};

} // namespace

TEST_CASE("the library's filter by figures: exactly what is inside passes", "[library]") {
    Shelves shelf;
    struct Row {
        const char* what;
        int column;
        double least, most;
        LibraryFilter::Wanted wanted;
    };
    const double far = 1e300;
    for (const Row& r :
         {Row{"at least 5 V", LibraryModel::volts, 5, far, {.leastVolts = 5}},
          Row{"at most 3.6 V", LibraryModel::volts, -far, 3.6, {.mostVolts = 3.6}},
          Row{"3 to 5 V", LibraryModel::volts, 3, 5, {.leastVolts = 3, .mostVolts = 5}},
          Row{"at least 1 A", LibraryModel::amps, 1, far, {.leastAmps = 1}},
          Row{"at most 20 g", LibraryModel::grams, -far, 20, {.mostGrams = 20}},
          Row{"at most 2.5", LibraryModel::price, -far, 2.5, {.mostPrice = 2.5}}}) {
        INFO(r.what);
        const std::vector<int> passed = shelf.passing(r.wanted);
        std::vector<int> expected;
        for (int row = 0; row < shelf.model.rowCount(); ++row)
            if (const double v = shelf.figure(row, r.column); v >= r.least && v <= r.most)
                expected.push_back(row);
        CHECK(passed == expected);
        CHECK(passed.size() < static_cast<std::size_t>(shelf.model.rowCount()));
    }
}

TEST_CASE("the library's filter by trade: every part on one shelf", "[library]") {
    Shelves shelf;
    std::size_t all = 0;
    std::set<QString> trades;
    for (int row = 0; row < shelf.model.rowCount(); ++row)
        trades.insert(sectionOf(shelf.model.part(row).stage.part));
    for (const QString& trade : trades) {
        INFO(trade.toStdString());
        const auto passed = shelf.passing({.trade = trade});
        CHECK_FALSE(passed.empty());
        all += passed.size();
        for (const int row : passed)
            CHECK(sectionOf(shelf.model.part(row).stage.part) == trade);
    }
    CHECK(all == static_cast<std::size_t>(shelf.model.rowCount()));
    CHECK(shelf.passing({.trade = "nosuch"}).empty());
}

TEST_CASE("the library's filter by words: all of them, in any case and order", "[library]") {
    Shelves shelf;
    const auto one = shelf.passing({.words = "buck"});
    const auto both = shelf.passing({.words = "buck boost"});
    CHECK(both == shelf.passing({.words = "  BOOST   Buck "}));
    CHECK_FALSE(both.empty());
    CHECK(both.size() < one.size());
    CHECK(std::includes(one.begin(), one.end(), both.begin(), both.end()));
    CHECK_FALSE(shelf.passing({.words = "18650"}).empty());
    CHECK(shelf.passing({.words = "no such part at all"}).empty());
    CHECK(shelf.passing({}).size() == static_cast<std::size_t>(shelf.model.rowCount()));
    // Nothing has been tried in a stage's place, nothing is the user's own.
    CHECK(shelf.passing({.fitting = true}).empty());
    CHECK(shelf.passing({.own = true}).empty());
}
