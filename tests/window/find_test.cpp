// SPDX-License-Identifier: GPL-3.0-or-later
// Finding a supply in the window, by keyboard.
#include "driven.hpp"
#include "views/find/findview.hpp"
#include "views/find/rejectreasonbars.hpp"

using namespace sipper;
using namespace sipper::app;

TEST_CASE("a supply is found, chosen and taken as a variant by keyboard", "[find]") {
    Driven d;
    Project p = d.session.project();
    // One voltage and a tight weight: a small search.
    std::erase_if(p.loads, [](const Load& l) { return l.window.max.value() > 4; });
    p.brief.weightLimit = Grams{120};
    REQUIRE_FALSE(d.session.edit("a lighter one", p));
    const std::size_t before = variantCount(d.session.document());
    d.window.showView("find");
    auto* view = d.find<FindView>("find");
    REQUIRE(view->settle());
    QApplication::processEvents();
    REQUIRE(view->found());
    const Search& s = *view->found();
    REQUIRE_FALSE(s.shortList.empty());
    // Every point is on the axes; near the short list, the short list is.
    const auto* plot = d.find<QCustomPlot>("find.plot");
    const auto shown = [&](const Candidate& c) {
        return plot->xAxis->range().contains(c.grams) && plot->yAxis->range().contains(c.hours);
    };
    CHECK(std::all_of(s.feasible.begin(), s.feasible.end(), shown));
    auto* near = d.find<QPushButton>("find.near");
    const double wide = plot->xAxis->range().upper;
    near->click();
    CHECK(plot->xAxis->range().upper <= wide);
    for (const std::size_t i : s.shortList)
        CHECK(shown(s.feasible[i]));
    near->click();
    CHECK(plot->xAxis->range().upper == wide);
    auto* list = d.find<QTableWidget>("find.list");
    REQUIRE(list->rowCount() == static_cast<int>(s.shortList.size()));
    list->setFocus();
    list->setCurrentCell(0, 0);
    CHECK_THAT(d.find<QLabel>("find.chosen")->text().toStdString(), Catch::Contains("·"));
    const Candidate chosen = s.feasible[s.shortList[0]];
    QTest::keyClick(list, Qt::Key_Return);
    REQUIRE(view->settle());
    QApplication::processEvents();
    REQUIRE(variantCount(d.session.document()) == before + 1);
    // The variant that is open now runs as was said.
    CHECK(d.session.results().runtime.hours->value() == Approx(chosen.hours).epsilon(1e-4));
    CHECK(d.session.project().massGrams() == Approx(chosen.grams));
    d.act("action.undo");
    CHECK(variantCount(d.session.document()) == before);
}

TEST_CASE("reasons tell what would let candidates in, and nothing found is said", "[find]") {
    Driven d;
    Project p = d.session.project();
    std::erase_if(p.loads, [](const Load& l) { return l.window.max.value() > 4; });
    p.brief.weightLimit = Grams{60};
    REQUIRE_FALSE(d.session.edit("a lighter one", p));
    d.window.showView("find");
    auto* view = d.find<FindView>("find");
    REQUIRE(view->settle());
    QApplication::processEvents();
    auto* bars = d.find<RejectReasonBars>("find.fell");
    REQUIRE_FALSE(bars->shown().empty());
    bars->setFocus();
    for (std::size_t i = 0; i < bars->shown().size(); ++i) {
        QTest::keyClick(bars, Qt::Key_Down);
        CHECK_FALSE(d.find<QLabel>("find.misses")->text().isEmpty());
    }
    // A limit that nothing keeps.
    auto* grams = d.find<QuantityEdit>("find.grams");
    grams->setFocus();
    grams->setText("0.2");
    QTest::keyClick(grams, Qt::Key_Return);
    REQUIRE(view->settle());
    QApplication::processEvents();
    REQUIRE(view->found());
    CHECK(view->found()->feasible.empty());
    CHECK_THAT(d.find<QLabel>("find.says")->text().toStdString(),
               Catch::Contains("Nothing does it"));
    CHECK_FALSE(d.find<QPushButton>("find.take")->isEnabled());
    // No cells in the drawer: said, nothing searched.
    QFile::remove(Session::drawerPath());
    auto* cells = d.find<QComboBox>("find.cells");
    cells->setCurrentIndex(1);
    emit cells->activated(1);
    CHECK(d.find<QLabel>("find.complaint")->isVisible());
}

TEST_CASE("while it searches the scatter fills, nothing can be taken, and it stops when asked",
          "[find]") {
    Driven d;
    d.window.showView("find");
    auto* view = d.find<FindView>("find");
    auto* plot = d.find<QCustomPlot>("find.plot");
    // Three voltages of the whole library: it takes a while.
    REQUIRE(QTest::qWaitFor([&] { return plot->graph(0)->dataCount() > 0; }, 60'000));
    CHECK_FALSE(view->found());
    CHECK_FALSE(d.find<QPushButton>("find.take")->isEnabled());
    CHECK_THAT(d.find<QLabel>("find.says")->text().toStdString(), Catch::Contains("do it so far"));
    const auto pointOf = [&] {
        return QPoint(
            static_cast<int>(plot->xAxis->coordToPixel(plot->graph(0)->data()->at(0)->key)),
            static_cast<int>(plot->yAxis->coordToPixel(plot->graph(0)->data()->at(0)->value)));
    };
    QTest::mouseClick(plot, Qt::LeftButton, {}, pointOf());
    CHECK(plot->graph(4)->dataCount() == 0); // nothing is marked
    QTest::mouseClick(d.find<QPushButton>("find.go"), Qt::LeftButton);
    REQUIRE(view->settle());
    QApplication::processEvents();
    REQUIRE(view->found());
    CHECK(view->found()->stopped);
    for (const std::uint64_t fell : view->found()->counts.rejected)
        CHECK(fell <= view->found()->counts.tried);
    CHECK_THAT(d.find<QLabel>("find.says")->text().toStdString(), Catch::Contains("stopped"));
    CHECK(plot->graph(0)->dataCount() == static_cast<int>(view->found()->feasible.size()));
    QTest::mouseClick(plot, Qt::LeftButton, {}, pointOf());
    CHECK(plot->graph(4)->dataCount() == 1);
    CHECK(d.find<QPushButton>("find.take")->isEnabled());
}
