// SPDX-License-Identifier: GPL-3.0-or-later
// Variants as tabs, side by side, and made from a lever; wear and other units beside the discharge.
#include "driven.hpp"
#include "project/variants.hpp"
#include "shell/varianttabs.hpp"
#include "views/compare/compareview.hpp"
#include "views/runtime/improvementscard.hpp"

using namespace sipper;
using namespace sipper::app;
namespace core = sipper::test;

namespace {

Project moreCells(const Session& session) {
    Project after = session.project();
    std::get<Pack>(after.stage("cells")->part).parallel = 5;
    return after;
}

} // namespace

TEST_CASE("a copy becomes a variant, is edited by itself, and undo goes back to it", "[variants]") {
    Driven d;
    const Project a = d.session.project();
    CHECK(d.find<QToolButton>("variant.0")->isChecked());
    d.find<QToolButton>("variant.add")->click();
    CHECK(d.session.variant() == 1);
    CHECK(d.find<QToolButton>("variant.1")->isChecked());
    CHECK(d.find<QToolButton>("variant.1")->text() == "B");
    CHECK(d.session.modified());
    CHECK_FALSE(d.session.edit("five in parallel", moreCells(d.session)));
    const double longer = d.session.results().runtime.hours->value();
    d.find<QToolButton>("variant.0")->click();
    CHECK(d.session.project() == a);
    CHECK(d.session.results().runtime.hours->value() < longer);
    CHECK_THAT(d.find<VerdictFigure>("verdict.runtime")->figure().toStdString(),
               Catch::Contains(writeHours(d.session.results().runtime.hours->value())));
    // Opening a tab is no edit; undo takes back the edit of B and shows it.
    CHECK(d.session.undoStack().undoText() == "five in parallel");
    d.act("action.undo");
    CHECK(d.session.variant() == 1);
    CHECK(d.session.project().pack()->parallel == 3);
    d.act("action.undo");
    CHECK(variantCount(d.session.document()) == 1);
    CHECK(d.session.variant() == 0);
    CHECK_FALSE(d.session.modified());
    d.act("action.redo");
    CHECK(d.session.variant() == 1);

    // Named, walked and removed; a name that is taken is refused.
    auto* tabs = d.find<VariantTabs>("variants");
    tabs->askForName = [](const QString&) { return QStringLiteral(" Heavy "); };
    d.act("action.variant.rename");
    CHECK(d.find<QToolButton>("variant.1")->text() == "Heavy");
    tabs->askForName = [](const QString&) { return QStringLiteral("A"); };
    d.act("action.variant.rename");
    CHECK_THAT(d.find<QLabel>("message.text")->text().toStdString(),
               Catch::Contains("\"A\" again"));
    CHECK(variantName(d.session.document(), 1) == "Heavy");
    d.act("action.variant.next");
    CHECK(d.session.variant() == 0);
    d.act("action.variant.next");
    CHECK(d.session.variant() == 1);
    d.act("action.variant.remove");
    CHECK(variantCount(d.session.document()) == 1);
    d.act("action.variant.remove");
    CHECK_THAT(d.find<QLabel>("message.text")->text().toStdString(),
               Catch::Contains("only variant"));
}

TEST_CASE("all variants are saved and come back", "[variants]") {
    Driven d;
    d.find<QToolButton>("variant.add")->click();
    REQUIRE_FALSE(d.session.edit("five", moreCells(d.session)));
    d.where = d.folder.filePath("two.sipper");
    d.act("action.save");
    CHECK_FALSE(d.session.modified());
    const Project saved = core::load(d.where.toStdString());
    CHECK(saved == d.session.document());
    REQUIRE(saved.variants.size() == 1);
    REQUIRE(d.window.openExample("lake-parade-lantern"));
    CHECK(d.find<VariantTabs>("variants")->findChildren<QToolButton*>("variant.1").isEmpty());
    REQUIRE(d.window.openPath(d.where));
    CHECK(d.session.variant() == 0);
    CHECK(d.find<QToolButton>("variant.1")->text() == "B");
}

TEST_CASE("variants stand side by side, what differs first", "[variants]") {
    Driven d;
    d.find<QToolButton>("variant.add")->click();
    REQUIRE_FALSE(d.session.edit("five", moreCells(d.session)));
    const double b = d.session.results().runtime.hours->value();
    d.find<QToolButton>("variant.0")->click();
    const double a = d.session.results().runtime.hours->value();
    d.find<QToolButton>("variant.compare")->click();
    CHECK(d.window.currentView() == "compare");
    auto* view = d.find<CompareView>("compare");
    REQUIRE(view->settle());
    CHECK(d.find<QLabel>("compare.0.runs")->text().toStdString() == writeHours(a));
    CHECK(d.find<QLabel>("compare.1.runs")->text().toStdString() == writeHours(b));
    CHECK(d.find<QLabel>("compare.0.cells.parallel")->text() == "3");
    CHECK(d.find<QLabel>("compare.1.cells.parallel")->text() == "5");
    CHECK(d.find<QLabel>("compare.1.weight")->text().toStdString() ==
          writeQuantity(view->shown()->variants[1].grams, Unit::gram));
    CHECK(d.find<QLabel>("compare.0.weight")->toolTip() == "the best of them");
    // What is the same in all is said in one line, not in a row.
    CHECK(view->findChildren<QLabel*>("compare.0.heat").size() +
              static_cast<qsizetype>(d.find<QLabel>("compare.alike")->text().contains("warmest")) ==
          1);
    d.find<QPushButton>("compare.1.open")->click();
    CHECK(d.session.variant() == 1);
    CHECK(d.window.currentView() == "compare");
    CHECK(d.find<QPushButton>("compare.1.open")->text() == "B, open");
    CHECK(d.find<QPushButton>("compare.0.open")->text() == "A");
    // It follows an edit, and a third can be left out.
    REQUIRE_FALSE(d.session.addVariant("third", core::example("nest-box-listener")));
    REQUIRE(view->settle());
    REQUIRE(view->shown()->variants.size() == 3);
    d.find<QCheckBox>("compare.take.1")->click();
    REQUIRE(view->settle());
    REQUIRE(view->shown()->variants.size() == 2);
    CHECK(view->shown()->variants[1].name == "C");
    CHECK(view->shown()->differences.empty());
    CHECK_FALSE(d.find<QCheckBox>("compare.take.0")->isEnabled()); // two at the least
    CHECK_FALSE(d.window.grab().isNull());
}

TEST_CASE("one variant alone is shown with the way to another", "[variants]") {
    Driven d;
    d.act("action.view.compare");
    auto* view = d.find<CompareView>("compare");
    REQUIRE(view->settle());
    CHECK(view->shown()->variants.size() == 1);
    bool said = false;
    for (const QLabel* label : view->findChildren<QLabel*>())
        said = said || label->text().contains("Ctrl+T");
    CHECK(said);
}

TEST_CASE("a lever is tried as a variant, and the one that was open stays", "[variants]") {
    Driven d;
    d.window.showView("runtime");
    auto* card = d.find<ImprovementsCard>("leversCard");
    REQUIRE(card->settle());
    const Improvement first = card->levers().front();
    const Project a = d.session.project();
    d.find<QPushButton>("lever.0.try")->click();
    CHECK(d.session.variant() == 1);
    CHECK(d.session.project().stages == first.project.stages);
    CHECK(d.session.project().modes == first.project.modes);
    CHECK(variantProject(d.session.document(), 0) == a);
    CHECK_THAT(d.session.undoStack().undoText().toStdString(), Catch::Contains(first.name));
    // While the steps belong to the other one, none can be taken.
    CHECK_FALSE(d.find<QPushButton>("lever.0.use")->isEnabled());
    REQUIRE(card->settle());
    CHECK(d.find<QPushButton>("lever.0.use")->isEnabled());
}

TEST_CASE("wear is said by shelf and cycles, and refills follow the device", "[levers]") {
    Driven d;
    d.window.showView("runtime");
    d.find<QPushButton>("wear.show")->click();
    const Results& r = d.session.results();
    REQUIRE(r.cycles);
    REQUIRE(r.cutoffPolicies().size() == 3);
    const std::string cycles = d.find<QLabel>("wear.cycles")->text().toStdString();
    CHECK_THAT(cycles,
               Catch::Contains("rule of thumb") &&
                   Catch::Contains(writeHours(r.cutoffPolicies()[2].hours)) &&
                   Catch::Contains(writeQuantity(r.cutoffPolicies()[0].cutoff, Unit::volt)));
    const std::string shelf = d.find<QLabel>("wear.shelf")->text().toStdString();
    CHECK_THAT(shelf, Catch::Contains(writeQuantity(r.shelf->offAmps, Unit::ampere)) &&
                          Catch::Contains("ruined after"));
    d.find<QPushButton>("units.show")->click();
    auto* capacity = d.find<QuantityEdit>("units.deviceAh");
    const QString before = d.find<QLabel>("units.refills")->text();
    d.type(capacity, "1.5 Ah");
    const double wh = energyEquivalentsOf(d.session.project(), r.runtime)->deliveredWh;
    const QString expected = QStringLiteral("%1 refills").arg(wh / 1.5 / 3.7, 0, 'g', 2);
    CHECK(d.find<QLabel>("units.refills")->text() == expected);
    CHECK(before != expected);
    d.type(capacity, "nonsense");
    CHECK_FALSE(capacity->complaint().isEmpty());
    CHECK(d.find<QLabel>("units.refills")->text() == expected);
}

TEST_CASE("the band of eight builds in ten lies under the run", "[range]") {
    Driven d;
    d.window.showView("runtime");
    auto* plot = d.find<QCustomPlot>("discharge");
    const auto& band = d.session.results().range()->band;
    REQUIRE(plot->graph(0)->data()->size() == static_cast<int>(band.size()));
    CHECK((plot->graph(1)->data()->constEnd() - 1)->key ==
          Approx(d.session.results().range()->range.p90));
    CHECK((plot->graph(0)->data()->constEnd() - 1)->value == Approx(band.back().low));
    CHECK(plot->graph(1)->channelFillGraph() == plot->graph(0));
    CHECK_THAT(plotCsv(*plot).toStdString(), Catch::StartsWith("time (h),one build in ten"));
}

TEST_CASE("a tethered project says what its source carries in place of a run", "[runtime]") {
    Driven d;
    REQUIRE(d.window.openRecipe("adapter-and-buck"));
    d.window.showView("runtime");
    const ExternalLoad& t = d.session.results().externalLoads.front();
    CHECK(d.find<QLabel>("runtime.answer")->text() == "plugged in");
    CHECK_THAT(d.find<QLabel>("runtime.why")->text().toStdString(),
               Catch::Contains(writeQuantity(t.worstWatts, Unit::watt)) &&
                   Catch::Contains(writeQuantity(t.meanWatts, Unit::watt)));
    CHECK_FALSE(d.find<QCustomPlot>("discharge")->isVisible());
    REQUIRE(d.window.openExample("stage-theremin"));
    CHECK(d.find<QCustomPlot>("discharge")->isVisible());
}

TEST_CASE("tabs keep their names; what matters least steps back for them", "[variants]") {
    Driven d;
    d.window.resize(800, 600);
    REQUIRE(d.window.openExample("model-ferry-winch"));
    const auto settles = [&] { // layouts are made by events, one after the other
        for (int i = 0; i < 5; ++i)
            QApplication::processEvents();
    };
    settles();
    for (const char* name : {"variant.0", "variant.1", "variant.2"}) {
        const auto* tab = d.find<QToolButton>(name);
        CHECK(tab->width() >= tab->sizeHint().width());
    }
    CHECK(d.find<VerdictFigure>("verdict.runtime")->isVisible());
    CHECK(d.find<VerdictFigure>("verdict.advice")->isVisible());
    CHECK_FALSE(d.find<VerdictFigure>("verdict.weight")->isVisible());
    d.window.resize(1280, 800);
    settles();
    CHECK(d.find<VerdictFigure>("verdict.weight")->isVisible());
}

TEST_CASE("variants by keyboard alone", "[variants]") {
    Driven d;
    d.press(Qt::Key_T, Qt::ControlModifier);
    CHECK(variantCount(d.session.document()) == 2);
    CHECK(d.session.variant() == 1);
    d.press(Qt::Key_Tab, Qt::ControlModifier);
    CHECK(d.session.variant() == 0);
    d.press(Qt::Key_E, Qt::ControlModifier);
    CHECK(d.window.currentView() == "compare");
    auto* view = d.find<CompareView>("compare");
    REQUIRE(view->settle());
    CHECK(view->shown()->differences.empty());
    auto* open = d.find<QPushButton>("compare.1.open");
    open->setFocus();
    d.press(Qt::Key_Space);
    CHECK(d.session.variant() == 1);
    CHECK(d.find<QPushButton>("compare.1.open")->hasFocus());
    auto* first = d.find<QToolButton>("variant.0");
    first->setFocus();
    d.press(Qt::Key_Space);
    CHECK(d.session.variant() == 0);
    CHECK(first->hasFocus()); // the tabs are still the same
    d.find<QToolButton>("variant.1")->click();
    // Every control says what it is.
    for (const char* name : {"variant.0", "variant.1", "variant.add", "variant.compare"}) {
        const auto* tab = d.find<QToolButton>(name);
        CHECK_FALSE(tab->accessibleName().isEmpty());
        CHECK_FALSE(tab->toolTip().isEmpty());
        CHECK(tab->focusPolicy() == Qt::TabFocus);
    }
    // The brief is everyone's: a target set in B stands in A.
    d.window.showView("brief");
    d.type(d.find<QuantityEdit>("brief.target_runtime_h"), "20 h");
    d.press(Qt::Key_Tab, Qt::ControlModifier);
    CHECK(d.session.variant() == 0);
    CHECK(d.session.project().brief.targetRuntime->value() == 20);
}
