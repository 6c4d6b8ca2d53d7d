// SPDX-License-Identifier: GPL-3.0-or-later
// The page where a session begins: one line that is typed, have against need, drawn lines.
#include "fresh.hpp"
#include "project/file.hpp"
#include "project/variants.hpp"
#include "views/find/findview.hpp"
#include "views/start/conversionmatrix.hpp"
#include "views/start/linetile.hpp"
#include "views/start/requestline.hpp"
#include "widgets/text.hpp"

using namespace sipper;
using namespace sipper::app;

TEST_CASE("before there is a project its verdict, steps and advice stay away", "[start]") {
    Fresh f;
    CHECK_FALSE(f.session.hasProject());
    CHECK_FALSE(f.find<VerdictStrip>("verdict")->isVisible());
    CHECK_FALSE(f.find("steps")->isVisible());
    CHECK_FALSE(f.find<AdvicePanel>("advice")->isVisible());
    REQUIRE(f.window.openExample("nest-box-listener"));
    CHECK(f.find<VerdictStrip>("verdict")->isVisible());
    CHECK(f.find("steps")->isVisible());
    CHECK(f.find<AdvicePanel>("advice")->isVisible());
    // Back at the start: the project is there, and can be gone back to.
    f.window.showView(QString::fromLatin1(kStartPage));
    CHECK(f.find("steps")->isVisible());
    CHECK_FALSE(f.find<AdvicePanel>("advice")->isVisible());
    // A blank page is a project from its first view on.
    Fresh blank;
    blank.find<QPushButton>("start.blank")->click();
    CHECK(blank.window.currentView() == "brief");
    CHECK(blank.find<VerdictStrip>("verdict")->isVisible());
}

TEST_CASE("a newcomer gets by keys alone from the start to a saved variant of the short list",
          "[start]") {
    Fresh f;
    // The first field has the focus, and what it holds is marked.
    REQUIRE(QApplication::focusWidget());
    CHECK(QApplication::focusWidget()->objectName() == "wish.volts.0");
    f.type("5");
    f.key(Qt::Key_Tab);
    f.type("300m");
    f.key(Qt::Key_Tab);
    f.key(Qt::Key_Tab); // past the +
    CHECK(QApplication::focusWidget()->objectName() == "wish.hours");
    f.type("6");
    f.key(Qt::Key_Return);
    QApplication::processEvents();
    f.settle();
    REQUIRE(f.session.hasProject());
    REQUIRE(variantCount(f.session.document()) == 3);
    CHECK(f.session.project().loads[0].draws[0].current->value() == Approx(0.3));
    CHECK(f.session.project().brief.targetRuntime->value() == 6);
    CHECK(f.session.results().runtime.hours->value() >= 6);
    CHECK(f.window.currentView() == "supply-line");
    CHECK(f.find<VerdictStrip>("verdict")->isVisible());
    // Which of the three is what.
    CHECK(f.find<QLabel>("message.text")->isVisible());
    CHECK_THAT(f.find<QLabel>("message.text")->text().toStdString(), Catch::StartsWith("Lightest"));
    // To the finder, down its short list, and one of it taken.
    f.key(Qt::Key_F, Qt::ControlModifier);
    auto* finder = f.find<FindView>("find");
    REQUIRE(finder->settle());
    QApplication::processEvents();
    REQUIRE(finder->found());
    REQUIRE_FALSE(finder->found()->shortList.empty());
    f.key(Qt::Key_Down);
    f.key(Qt::Key_Return);
    REQUIRE(finder->settle());
    f.session.waitForIdle();
    REQUIRE(variantCount(f.session.document()) == 4);
    f.key(Qt::Key_S, Qt::ControlModifier);
    INFO(f.keys);
    CHECK(f.keys < 30);
    const auto saved = loadProject(f.folder.filePath("mine.sipper").toStdString());
    REQUIRE(saved);
    CHECK(variantCount(saved.value().project) == 4);
    CHECK_FALSE(f.session.modified());
}

TEST_CASE("the line takes more voltages, says what follows, and what it can't read", "[start]") {
    Fresh f;
    auto* line = f.find<RequestLine>("wish");
    auto* says = f.find<QLabel>("wish.says");
    f.type("+");
    QTest::qWait(10);
    REQUIRE(line->wish().needs.size() == 2);
    CHECK(QApplication::focusWidget()->objectName() == "wish.volts.1");
    f.type("3.3");
    f.key(Qt::Key_Tab);
    f.type("20m");
    f.key(Qt::Key_Tab);
    CHECK(line->wish().needs[1].volts == Approx(3.3));
    CHECK(line->wish().needs[1].amps == Approx(0.02));
    auto* from = f.find<QComboBox>("wish.from");
    from->setCurrentIndex(static_cast<int>(RequestedSource::socket));
    CHECK_THAT(says->text().toStdString(), Catch::Contains("refilled there"));
    f.find<QComboBox>("wish.setting")->setCurrentIndex(2);
    CHECK(line->wish().setting == Setting::desk);
    CHECK_THAT(says->text().toStdString(), Catch::Contains("no cells"));
    f.find<QPushButton>("wish.less")->click();
    CHECK(line->wish().needs.size() == 1);
    // Out of range it is kept in its field, with what was expected, and nothing is asked.
    auto* volts = f.find<QuantityEdit>("wish.volts.0");
    volts->setFocus();
    volts->selectAll();
    f.type("230");
    f.key(Qt::Key_Return);
    QTest::qWait(20);
    CHECK_FALSE(volts->complaint().isEmpty());
    CHECK_FALSE(f.session.hasProject());
    // An empty drawer is said.
    volts->selectAll();
    f.type("5");
    from = f.find<QComboBox>("wish.from");
    from->setCurrentIndex(static_cast<int>(RequestedSource::hand));
    f.find<QPushButton>("wish.go")->click();
    f.settle();
    CHECK_THAT(f.find<QLabel>("wish.complaint")->text().toStdString(),
               Catch::Contains("cells to hand"));
    CHECK_FALSE(f.session.hasProject());
}

TEST_CASE("what nothing does is opened with its loads, and said", "[start]") {
    Fresh f;
    SupplyRequest w;
    w.needs = {{48, 20}};
    w.hours = 80000;
    f.find<RequestLine>("wish")->setWish(w);
    f.find<QPushButton>("wish.go")->click();
    f.settle();
    REQUIRE(f.session.hasProject());
    CHECK(variantCount(f.session.document()) == 1);
    CHECK(f.session.project().loads.size() == 1);
    CHECK(f.window.currentView() == "find");
    CHECK_THAT(f.find<QLabel>("message.text")->text().toStdString(),
               Catch::Contains("None of") && Catch::Contains("does it"));
    f.find<FindView>("find")->settle();
}

TEST_CASE("have against need is walked by keys and opens its recipe", "[start]") {
    Fresh f;
    auto* matrix = f.find<ConversionMatrix>("haveMatrix");
    auto* why = f.find<QLabel>("matrix.why");
    const QString rest = why->text();
    matrix->setFocus();
    CHECK(why->text() != rest);
    for (int i = 0; i < 20; ++i)
        f.key(Qt::Key_Right);
    CHECK(matrix->at() == ConversionMatrix::Field{static_cast<int>(kHaves) - 1, 0});
    CHECK_THAT(why->text().toStdString(), Catch::Contains("night"));
    for (int i = 0; i < 20; ++i)
        f.key(Qt::Key_Left);
    f.key(Qt::Key_Down);
    CHECK(matrix->between(matrix->at()).text == "boost");
    CHECK_THAT(why->text().toStdString(), Catch::Contains("One lithium cell gives"));
    f.key(Qt::Key_Return);
    f.session.waitForIdle();
    REQUIRE(f.session.hasProject());
    CHECK(f.session.project().pack()->series == 1);
    CHECK(f.session.project().loads[0].window.middle().value() == 5);
    CHECK(f.window.currentView() == "supply-line");
    // By the pointer: a tool pack, for 12 V.
    f.window.showView(QString::fromLatin1(kStartPage));
    const ConversionMatrix::Field field{static_cast<int>(SourceKind::toolPack), 4};
    QTest::mouseMove(matrix, matrix->box(field).center().toPoint());
    QTest::mouseClick(matrix, Qt::LeftButton, {}, matrix->box(field).center().toPoint());
    CHECK(f.session.project().pack()->series == 5);
    CHECK(f.session.project().loads[0].window.middle().value() == 12);
}

TEST_CASE("recipes, examples and recent files are drawn lines with hours and a sentence",
          "[start]") {
    Fresh f;
    f.settle();
    const auto* recipe = f.find<LineTile>("recipe.cells-and-boost");
    REQUIRE(recipe->look());
    CHECK(recipe->look()->runs == hours(recipe->look()->results.runtime.hours->value()));
    CHECK_THAT(recipe->sentence().toStdString(), Catch::Contains("Cells in parallel"));
    // Examples say what is wrong in them.
    const auto* example = f.find<LineTile>("example.nest-box-listener");
    REQUIRE(example->look());
    CHECK(example->look()->runs == "31 h");
    REQUIRE(example->look()->severity);
    CHECK(example->sentence() == example->look()->trouble);
    for (const LineTile* tile : f.window.findChildren<LineTile*>()) {
        INFO(tile->objectName().toStdString());
        if (tile->objectName().startsWith("recent."))
            continue; // of other tests
        CHECK(tile->look());
        CHECK_FALSE(tile->sentence().isEmpty());
        CHECK_FALSE(tile->accessibleName().isEmpty());
    }
    // The line is really drawn: copper in the picture.
    const QImage picture = const_cast<LineTile*>(recipe)->grab().toImage();
    int copper = 0;
    const QColor want = colour(Role::copper);
    for (int y = 0; y < picture.height(); ++y)
        for (int x = 0; x < 100; ++x) {
            const QColor c = picture.pixelColor(x, y);
            copper += std::abs(c.red() - want.red()) + std::abs(c.green() - want.green()) +
                                  std::abs(c.blue() - want.blue()) <
                              60
                          ? 1
                          : 0;
        }
    CHECK(copper > 30);
    // A recent file with its verdict and when; one that is gone, or broken, says so.
    REQUIRE(f.window.openExample("stage-theremin"));
    REQUIRE(f.window.save());
    const QString mine = f.folder.filePath("mine.sipper");
    const QString bad = f.folder.filePath("bad.sipper");
    {
        QFile file(bad);
        REQUIRE(file.open(QIODevice::WriteOnly));
        file.write("{");
    }
    QSettings().setValue("recent", QStringList{mine, bad, f.folder.filePath("gone.sipper")});
    f.window.showView(QString::fromLatin1(kStartPage));
    f.settle();
    const auto* recent = f.find<LineTile>(("recent." + mine).toUtf8().constData());
    REQUIRE(recent->look());
    CHECK(recent->look()->runs == hours(f.session.results().runtime.hours->value()));
    CHECK_FALSE(f.find<LineTile>(("recent." + bad).toUtf8().constData())->look());
    CHECK_THAT(f.find<LineTile>(("recent." + bad).toUtf8().constData())->sentence().toStdString(),
               Catch::Contains("bad.sipper"));
    QSettings().remove("recent");
}
