// SPDX-License-Identifier: GPL-3.0-or-later
// The real window, driven by keyboard and mouse: what is shown, and what the document became.
#include "driven.hpp"
#include "text/text.hpp"

using namespace sipper;
using namespace sipper::app;
namespace core = sipper::test;

TEST_CASE("the face is B612 and not fixed-pitch", "[window]") {
    const QFontInfo info(Theme::now().font());
    CHECK(info.family() == "B612");
    CHECK_FALSE(info.fixedPitch());
    const QFontMetricsF metrics(Theme::now().font());
    CHECK(metrics.horizontalAdvance("iiii") < metrics.horizontalAdvance("mmmm") * 0.7);
    CHECK(metrics.horizontalAdvance("1") == Approx(metrics.horizontalAdvance("8"))); // digits align
}

TEST_CASE("the verdict, the steps and the core tell the same", "[window]") {
    Driven d{kSamples};
    const Runtime r = d.fresh();
    CHECK(d.find<VerdictFigure>("verdict.runtime")->figure().toStdString() ==
          writeHours(r.hours->value()));
    CHECK(d.find<VerdictFigure>("verdict.worst")->figure().toStdString() ==
          writeQuantity(r.worstCurrent.value(), Unit::ampere));
    CHECK(d.find<VerdictFigure>("verdict.target")->note() == "17 h short");
    CHECK(d.find<VerdictFigure>("verdict.advice")->figure() == "1 to mend");
    CHECK(d.find<VerdictFigure>("verdict.weight")->figure() == "166 g");
    const auto range = predictRange(d.session.project(), r);
    // The lamp's window is caught or missed: two humps, and no band between them is pretended.
    const auto humps = humpsOf(*range);
    REQUIRE(humps);
    CHECK(d.find<VerdictFigure>("verdict.runtime")->note().toStdString() ==
          writeHours(humps->low) + " or " + writeHours(humps->high));
    CHECK(d.find<StepButton>("step.supply-line")->line() == "1 to mend");
    CHECK(d.find<StepButton>("step.runtime")->line() == "31 h of 48 h");
    double sum = 0;
    for (const auto& e :
         LedgerStream::entries(d.session.project(), d.session.results().runtime.ledger))
        sum += e.wattHours;
    CHECK(sum == Approx(r.ledger.nameplate).epsilon(1e-3));
}

TEST_CASE("a figure typed in place changes the answer at once, and can be undone by name",
          "[window]") {
    Driven d;
    d.session.select("logic33");
    auto* edit = d.find<QuantityEdit>("field.dropout_v");
    const QString before = d.find<VerdictFigure>("verdict.runtime")->figure();
    d.type(edit, "45 mV");
    CHECK(d.figure("logic33", "dropout_v") == Approx(0.045));
    CHECK(d.session.results().runtime.hours->value() > 48);
    CHECK(d.find<VerdictFigure>("verdict.runtime")->figure().toStdString() ==
          writeHours(d.fresh().hours->value()));
    CHECK(d.window.isWindowModified());
    CHECK(d.find<QAction>("action.undo")->text() == "Undo Linear 3.3: drop-out 45 mV");
    d.act("action.undo");
    CHECK(d.figure("logic33", "dropout_v") == Approx(0.3));
    CHECK(d.find<VerdictFigure>("verdict.runtime")->figure() == before);
    CHECK_FALSE(d.window.isWindowModified());
    CHECK(edit->text() == "300 mV");
    d.act("action.redo");
    CHECK(d.figure("logic33", "dropout_v") == Approx(0.045));
}

TEST_CASE("what can't be read stays in its field with what was expected; nothing changes",
          "[window]") {
    Driven d;
    d.session.select("boost5");
    const Project before = d.session.project();
    auto* edit = d.find<QuantityEdit>("field.set_v");
    d.type(edit, "five");
    CHECK(d.session.project() == before);
    CHECK_THAT(edit->complaint().toStdString(), Catch::Contains("expected volts, such as 3.3 V"));
    CHECK(d.find<QLabel>("inspector.complaint")->isVisibleTo(&d.window));
    CHECK(edit->text() == "five");
    d.type(edit, "-3");
    CHECK_THAT(edit->complaint().toStdString(), Catch::Contains("above 0"));
    QTest::keyClicks(edit, "9");
    QTest::keyClick(edit, Qt::Key_Escape);
    CHECK(edit->complaint().isEmpty());
    CHECK(edit->text() == "5.05 V");
    d.type(edit, "5v1");
    CHECK(d.figure("boost5", "set_v") == Approx(5.1));
    d.session.select("cells");
    d.type(d.find<QuantityEdit>("field.series"), "1.5");
    CHECK(d.figure("cells", "series") == 1);
    d.type(d.find<QuantityEdit>("field.parallel"), "4");
    CHECK(d.figure("cells", "parallel") == 4);
    CHECK(d.find<VerdictFigure>("verdict.weight")->figure() == "213 g");
}

TEST_CASE("an optional figure that is emptied is left out of the file", "[window]") {
    Driven d;
    d.session.select("guard");
    auto* edit = d.find<QuantityEdit>("field.delay_s");
    edit->setFocus();
    edit->selectAll();
    QTest::keyClick(edit, Qt::Key_Delete);
    QTest::keyClick(edit, Qt::Key_Return);
    CHECK_FALSE(std::get<Guard>(d.session.project().stage("guard")->part).delay);
    CHECK(projectText(d.session.project()).find("delay_s") == std::string::npos);
    CHECK(edit->placeholderText() == "0 s");
}

TEST_CASE("loads are edited for the mode shown", "[window]") {
    Driven d;
    d.session.setDisplayedPoint(0.5, 1); // listening
    d.session.select("logic");
    d.type(d.find<QuantityEdit>("field.current_a"), "20 mA");
    CHECK(d.session.project().load("logic")->draws[1].current->value() == Approx(0.02));
    CHECK(d.session.project().load("logic")->draws[0].current->value() == Approx(3.8e-5));
    d.find<QCheckBox>("inspector.all")->setChecked(true);
    d.type(d.find<QuantityEdit>("field.power_w"), "0.1");
    CHECK_FALSE(d.session.project().load("logic")->draws[1].current);
    CHECK(d.session.project().load("logic")->draws[1].power->value() == Approx(0.1));
    // A window turned upside down is refused with the reason, and the document stays.
    const Project before = d.session.project();
    d.type(d.find<QuantityEdit>("field.min_v"), "5");
    CHECK(d.session.project() == before);
    CHECK_THAT(d.find<QLabel>("inspector.complaint")->text().toStdString(),
               Catch::Contains("no more than max_v"));
    d.find<QCheckBox>("field.critical")->click();
    CHECK_FALSE(d.session.project().load("logic")->isCritical());
}

TEST_CASE("a regulator's level is dragged, snaps, and is one undo", "[window]") {
    Driven d;
    auto* card = d.find<PartWidget>("stage.boost5");
    const QPoint from = card->rect().center();
    QTest::mousePress(card, Qt::LeftButton, {}, from);
    CHECK(d.session.selected() == "boost5");
    for (int step = 1; step <= 8; ++step) {
        QMouseEvent move(QEvent::MouseMove, from - QPoint(0, 3 * step),
                         card->mapToGlobal(from - QPoint(0, 3 * step)), Qt::NoButton,
                         Qt::LeftButton, {});
        QApplication::sendEvent(card, &move);
    }
    QTest::mouseRelease(card, Qt::LeftButton, {}, from);
    const double dragged = d.figure("boost5", "set_v");
    CHECK(dragged > 5.3);
    CHECK(std::abs(dragged / 0.05 - std::round(dragged / 0.05)) < 1e-9);
    CHECK(d.session.undoStack().count() == 1);
    d.act("action.undo");
    CHECK(d.figure("boost5", "set_v") == Approx(5.05));
}

TEST_CASE("the guard's thresholds are dragged and never cross", "[window]") {
    Driven d;
    auto* handle = d.find<PartWidget>("guard.guard.cutoff_v");
    CHECK(handle->accessibleName() == "Guard cuts off");
    const auto drag = [&](int dy) {
        const QPoint from = handle->rect().center();
        QTest::mousePress(handle, Qt::LeftButton, {}, from);
        for (int step = 1; step <= 10; ++step) {
            const QPoint to = from + QPoint(0, dy * step / 10);
            QMouseEvent move(QEvent::MouseMove, handle->mapFromGlobal(handle->mapToGlobal(to)),
                             handle->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(handle, &move);
        }
        QTest::mouseRelease(handle, Qt::LeftButton, {}, from);
    };
    drag(-6);
    const double raised = d.figure("guard", "cutoff_v");
    CHECK(raised > 3.05);
    drag(-300);
    CHECK(d.figure("guard", "cutoff_v") == Approx(3.4));
    d.find<PartWidget>("guard.guard.reconnect_v")->setFocus();
    d.press(Qt::Key_Up, Qt::ControlModifier);
    CHECK(d.figure("guard", "reconnect_v") == Approx(3.45));
}

TEST_CASE("arrows walk the line and Enter opens the figures", "[window]") {
    Driven d;
    d.find<PartWidget>("stage.cells")->setFocus();
    CHECK(d.session.selected() == "cells");
    d.press(Qt::Key_Right);
    CHECK(d.session.selected() == "fuse");
    d.press(Qt::Key_Right);
    CHECK(d.session.selected() == "guard");
    d.press(Qt::Key_Right);
    CHECK(d.session.selected() == "logic33"); // the nearest in height
    d.press(Qt::Key_Up);
    CHECK(d.session.selected() == "boost5");
    d.press(Qt::Key_Up, Qt::ControlModifier);
    CHECK(d.figure("boost5", "set_v") == Approx(5.10));
    d.press(Qt::Key_Right);
    d.press(Qt::Key_Right);
    CHECK(d.session.selected() == "recorder");
    CHECK(d.find<QLabel>("inspector.title")->text() == "Recorder");
    d.press(Qt::Key_Left);
    d.press(Qt::Key_Left);
    d.press(Qt::Key_Return);
    CHECK(QApplication::focusWidget()->objectName() == "field.set_v");
}

TEST_CASE("the charge marker moves by key and mouse, along the discharge", "[window]") {
    Driven d;
    auto* plot = d.find<QCustomPlot>("chargeMarker");
    plot->setFocus();
    d.press(Qt::Key_Home);
    CHECK(d.session.charge() == 1);
    d.press(Qt::Key_Right);
    CHECK(d.session.charge() == Approx(0.99));
    d.press(Qt::Key_End);
    CHECK(d.session.charge() == Approx(d.session.results().sweep->stopCharge));
    CHECK_FALSE(d.session.moment().inside[2]); // the logic is out before the stop
    auto* strip = d.find<ChargeStrip>("chargeStrip");
    for (const double h : {1.0, 10.0, 30.0})
        CHECK(strip->hoursAt(strip->chargeAt(h)) == Approx(h).epsilon(1e-6));
    const QPoint at(static_cast<int>(plot->xAxis->coordToPixel(20)), plot->height() / 2);
    QTest::mouseClick(plot, Qt::LeftButton, {}, at);
    CHECK(strip->hoursAt(d.session.charge()) == Approx(20).margin(0.2));
    CHECK_THAT(plot->accessibleDescription().toStdString(), Catch::Contains("20 h in"));
}

TEST_CASE("the mode chooser changes the moment", "[window]") {
    Driven d;
    auto* modes = d.find<QComboBox>("mode");
    REQUIRE(modes->count() == 4);
    modes->setFocus();
    modes->setCurrentIndex(0);
    emit modes->activated(0);
    CHECK(d.session.mode() == 0);
    CHECK(d.session.moment().flows.sourceAmps < 0.001);
}

TEST_CASE("advice says what is wrong, cures it in one undoable edit, and F8 walks it", "[window]") {
    Driven d;
    d.act("action.nextAdvice");
    auto* card = d.find<AdviceCard>("advice.drop_out.logic33");
    CHECK(d.window.focusWidget() == card);
    CHECK(d.session.highlighted() == "logic33");
    d.find<QPushButton>("advice.drop_out.logic33.cure")->click();
    QApplication::processEvents();
    CHECK(kindName(d.session.project().stage("logic33")->part) == "buck_boost");
    CHECK(d.session.undoStack().undoText() == "use a buck-boost for Linear 3.3");
    d.session.waitForIdle();
    CHECK(d.find<VerdictFigure>("verdict.advice")->figure() != "1 to mend");
    CHECK_FALSE(d.window.findChild<AdviceCard*>("advice.drop_out.logic33"));
    d.act("action.undo");
    CHECK(kindName(d.session.project().stage("logic33")->part) == "linear");
}

TEST_CASE("hovering a part lights it up; a click on the paper chooses nothing", "[window]") {
    Driven d;
    auto* card = d.find<PartWidget>("stage.boost12");
    QEnterEvent enter(QPointF(1, 1), QPointF(1, 1), QPointF(1, 1));
    QApplication::sendEvent(card, &enter);
    CHECK(d.session.highlighted() == "boost12");
    QTest::mouseClick(d.find("line"), Qt::LeftButton, {}, QPoint(300, 60));
    CHECK(d.session.selected().isEmpty());
    CHECK(d.find<QLabel>("inspector.title")->text() == "Nothing chosen");
}

TEST_CASE("save, open and the one question before work is lost", "[window]") {
    Driven d;
    CHECK(d.window.close()); // nothing changed: nothing asked
    CHECK(d.asked == 0);
    d.window.show();
    d.session.select("guard");
    d.type(d.find<QuantityEdit>("field.cutoff_v"), "3.1");
    SECTION("cancel keeps the window") {
        CHECK_FALSE(d.window.close());
        CHECK(d.asked == 1);
        CHECK_THAT(d.question.toStdString(), Catch::Contains("Nest-box listener"));
        d.answer = MainWindow::Answer::discard;
        CHECK(d.window.close());
    }
    SECTION("a save that fails cancels the close and says why") {
        d.answer = MainWindow::Answer::save;
        d.where = "/no/such/folder/a.sipper";
        CHECK_FALSE(d.window.close());
        CHECK_THAT(d.find<QLabel>("message.text")->text().toStdString(),
                   Catch::Contains("/no/such/folder/a.sipper"));
        CHECK(d.session.modified());
    }
    SECTION("saved: a file that gives the same figures, a name in the strip, a place among the "
            "recent") {
        d.where = d.folder.filePath("box"); // the suffix is added
        CHECK(d.window.save());
        const QString path = d.folder.filePath("box.sipper");
        CHECK(d.find<QLabel>("verdict.state")->text() == "box.sipper");
        CHECK_FALSE(d.window.isWindowModified());
        CHECK(Session::recentFiles().front() == path);
        const Project saved = core::load(path.toStdString());
        CHECK(saved == d.session.project());
        CHECK(predictRuntime(saved).hours->value() == d.session.results().runtime.hours->value());
        // Undoing past the save marks it changed again.
        d.act("action.undo");
        CHECK(d.window.isWindowModified());
        d.act("action.redo");
        CHECK_FALSE(d.window.isWindowModified());
    }
    d.session.undoStack().setClean();
}

TEST_CASE("a bad file leaves the open project as it was and says where the trouble is",
          "[window]") {
    Driven d;
    const Project before = d.session.project();
    CHECK_FALSE(
        d.window.openPath(QString::fromStdString(test::file("bad/negative.sipper").string())));
    CHECK(d.session.project() == before);
    const std::string text = d.find<QLabel>("message.text")->text().toStdString();
    CHECK_THAT(text, Catch::Contains("/stages/2/resistance_ohm") &&
                         Catch::Contains("found -0.03") && Catch::Contains("at least 0"));
    d.find<QPushButton>("message.dismiss")->click();
    CHECK_FALSE(d.find("message")->isVisible());
}

TEST_CASE("views change by key, and the runtime view explains the end", "[window]") {
    Driven d{kSamples};
    d.act("action.view.runtime");
    CHECK(d.window.currentView() == "runtime");
    CHECK(d.find<QLabel>("runtime.answer")->text() == "31 h");
    CHECK_THAT(d.find<QLabel>("runtime.why")->text().toStdString(),
               Catch::Contains("Logic and clock gets too little in mode “Lamp lit”") &&
                   Catch::Contains(humpsText(*humpsOf(*d.session.results().range()))));
    const auto* plot = d.find<QCustomPlot>("discharge");
    CHECK(plot->graph(3)->data()->size() ==
          static_cast<int>(d.session.results().runtime.curve.size()));
    CHECK_THAT(plotCsv(*plot).toStdString(), Catch::Contains("volts at the cells"));
    QTest::mouseClick(d.find<StepButton>("step.supply-line"), Qt::LeftButton);
    CHECK(d.window.currentView() == "supply-line");
}

TEST_CASE("the brief is changed in its sentences, and what follows changes with it", "[brief]") {
    Driven d;
    d.window.showView("brief");
    d.type(d.find<QuantityEdit>("brief.target_runtime_h"), "1 d");
    CHECK(d.session.project().brief.targetRuntime->value() == 24);
    CHECK(d.find<VerdictFigure>("verdict.target")->figure() == "24 h");
    d.type(d.find<QuantityEdit>("brief.low"), "-10");
    CHECK(d.session.project().brief.air().coldest().value() == -10);
    d.session.waitForIdle();
    CHECK_THAT(d.find<QLabel>("follows.ambient_c")->text().toStdString(),
               Catch::Contains("From -10 °C to 30 °C"));
    d.type(d.find<QuantityEdit>("brief.high"), "5"); // under the usual: that follows
    CHECK(d.session.project().brief.air().usual().value() == 5);
    auto* setting = d.find<QComboBox>("brief.setting");
    setting->setCurrentIndex(setting->findData("worn"));
    emit setting->activated(setting->currentIndex());
    CHECK(d.session.project().brief.setting == Setting::worn);
    d.session.waitForIdle();
    CHECK_THAT(d.find<QLabel>("follows.setting")->text().toStdString(),
               Catch::Contains("protected cells"));
    d.find<QAction>("refill.sun")->trigger();
    CHECK(d.session.project().brief.refilledBy->size() == 2);
    CHECK(d.find<QToolButton>("brief.refilled_by")->text() == "swap and sun");
    auto* start = d.find<QLineEdit>("brief.start_time");
    const auto enter = [&](const char* text) {
        start->setFocus();
        start->selectAll();
        QTest::keyClicks(start, text);
        QTest::keyClick(start, Qt::Key_Return);
    };
    enter("noon");
    CHECK(d.find<QLabel>("brief.complaint")->isVisibleTo(&d.window));
    enter("12:30");
    CHECK(d.session.project().brief.startTime == "12:30");
    auto* noise = d.find<QToolButton>("brief.noise");
    CHECK(noise->text() == "nothing here");
    emit noise->menu()->aboutToShow();
    d.find<QAction>("noise.recorder")->trigger();
    CHECK(d.session.project().load("recorder")->noiseSensitive == true);
    CHECK(noise->text() == "Recorder");
    CHECK(d.session.undoStack().undoText() == "noise matters to Recorder");
    d.session.waitForIdle();
    CHECK_THAT(d.find<QLabel>("follows.noise")->text().toStdString(),
               Catch::Contains("dislikes switching noise"));
    const Project before = d.session.project();
    d.type(d.find<QuantityEdit>("brief.headroom"), "zero");
    CHECK(d.session.project() == before);
}

TEST_CASE("the start page opens recipes, examples and recent files", "[start]") {
    Driven d;
    d.act("action.start");
    CHECK(d.window.currentView() == "start");
    CHECK(Session::recipes().size() == 17);
    d.find<QAbstractButton>("recipe.cells-and-boost")->click();
    CHECK(d.window.currentView() == "brief");
    CHECK(d.session.project().name == "Cells and boost");
    CHECK(d.find<QLabel>("verdict.state")->text() == "recipe, not saved");
    d.where = d.folder.filePath("mine.sipper");
    REQUIRE(d.window.save());
    d.act("action.start");
    d.find<QAbstractButton>("example.lake-parade-lantern")->click();
    CHECK(d.session.project().name == "Lake-parade lantern");
    d.act("action.start");
    d.find<QAbstractButton>(("recent." + d.folder.filePath("mine.sipper")).toUtf8().constData())
        ->click();
    CHECK(d.session.project().name == "Cells and boost");
    CHECK(d.window.currentView() == "supply-line");
}

TEST_CASE("broken and empty projects are shown, not crashed on", "[window]") {
    Driven d;
    d.session.select("cells");
    d.find<QCheckBox>("inspector.all")->setChecked(true);
    d.type(d.find<QuantityEdit>("field.cell.resistance_ohm"), "9");
    CHECK(d.session.results().runtime.ending.reason == EndReason::collapse);
    CHECK(d.find<VerdictFigure>("verdict.advice")->figure() == "1 to mend");
    for (const double charge : {1.0, 0.5, 0.0})
        for (std::size_t mode = 0; mode < 4; ++mode) {
            d.session.setDisplayedPoint(charge, mode);
            CHECK_FALSE(d.window.grab().isNull());
        }
    const QString path = d.folder.filePath("empty.sipper");
    QFile file(path);
    REQUIRE(file.open(QIODevice::WriteOnly));
    file.write(
        R"({"format":"sipper","version":1,"modes":[{"id":"on","base":true}],"stages":[],"loads":[]})");
    file.close();
    REQUIRE(d.window.openPath(path));
    CHECK(d.find<StepButton>("step.supply-line")->line() == "no source yet");
    CHECK_FALSE(d.window.grab().isNull());
    d.act("action.view.runtime");
    CHECK_THAT(d.find<QLabel>("runtime.why")->text().toStdString(), Catch::Contains("no cells"));
}

TEST_CASE("the night theme has the same roles and text that can be read", "[theme]") {
    const auto luminance = [](const QColor& c) {
        const auto linear = [](double v) {
            return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
        };
        return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
    };
    const auto contrast = [&](Role a, Role b) {
        const double x = luminance(colour(a)) + 0.05;
        const double y = luminance(colour(b)) + 0.05;
        return std::max(x, y) / std::min(x, y);
    };
    for (const bool night : {false, true}) {
        Theme::use(night, 1.0);
        for (const Role text :
             {Role::ink, Role::muted, Role::stop, Role::fine, Role::charging, Role::accepts})
            for (const Role ground : {Role::paper, Role::card}) {
                INFO(night << " " << static_cast<int>(text) << " on " << static_cast<int>(ground));
                CHECK(contrast(text, ground) >= 4.5);
            }
        CHECK(contrast(Role::muted, Role::shelf) >= 4.5);
        CHECK(contrast(Role::copperInk, Role::copper) >= 4.4);
        for (const Role text :
             {Role::headerInk, Role::headerMuted, Role::headerFine, Role::headerStop})
            CHECK(contrast(text, Role::header) >= 4.5);
    }
    Theme::use(false, 1.0);
}

TEST_CASE("every part and control has a name for assistive technology", "[window]") {
    Driven d;
    for (const QWidget* w : d.window.findChildren<QWidget*>()) {
        if (w->focusPolicy() == Qt::NoFocus || !w->isVisible() ||
            qobject_cast<const QMenuBar*>(w) || w->objectName().startsWith("qt_") ||
            qobject_cast<const QScrollArea*>(w))
            continue;
        const auto* button = qobject_cast<const QAbstractButton*>(w);
        INFO(w->metaObject()->className() << " " << w->objectName().toStdString());
        CHECK((!w->accessibleName().isEmpty() || (button && !button->text().isEmpty())));
        if (!qobject_cast<const AdviceCard*>(w))
            CHECK(!w->toolTip().isEmpty());
    }
}

TEST_CASE("the program writes a picture and refuses what it can't do", "[program]") {
    QTemporaryDir folder;
    const auto run = [&](const QStringList& arguments) {
        QProcess process;
        process.start(SIPPER_APP, arguments);
        REQUIRE(process.waitForFinished(60000));
        return std::pair(process.exitCode(), process.readAllStandardError().toStdString());
    };
    const QString shot = folder.filePath("shot.png");
    CHECK(run({"--example", "lake-parade-lantern", "--screenshot", shot, "--view", "runtime",
               "--size", "1000x700", "--theme", "night"})
              .first == 0);
    CHECK(QImage(shot).size() == QSize(1000, 700));
    CHECK(run({"--screenshot", shot, "--size", "huge"}).first == 2);
    CHECK(run({"--screenshot", shot, "--view", "kitchen"}).first == 2);
    CHECK(run({"--example", "toaster", "--screenshot", shot}).first == 2);
    const auto bad =
        run({"--screenshot", shot, QString::fromStdString(test::file("bad/loop.sipper").string())});
    CHECK(bad.first == 2);
    CHECK_THAT(bad.second, Catch::Contains("fed by it in turn"));
}

TEST_CASE("the inspector cuts no row of figures through", "[window]") {
    const auto [example, parts] =
        GENERATE(std::pair("nest-box-listener", std::vector{"guard", "boost5", "recorder"}),
                 std::pair("moth-counter", std::vector{"cells", "topper"})); // a caution under them
    Driven d;
    REQUIRE(d.window.openExample(example));
    d.session.waitForIdle();
    for (const QSize size : {QSize(1280, 800), QSize(1000, 700), QSize(1600, 1000)}) {
        d.window.resize(size);
        for (const char* chosen : parts) {
            d.session.select(QString::fromLatin1(chosen));
            QApplication::processEvents();
            auto* area = d.find<QFrame>("inspector")->findChild<QScrollArea*>();
            REQUIRE(area);
            int whole = 0;
            for (const auto* edit : area->findChildren<QuantityEdit*>()) {
                const int top = edit->mapTo(area->viewport(), QPoint(0, 0)).y();
                const int bottom = top + edit->height();
                INFO(size.width() << " " << chosen << " " << edit->objectName().toStdString()
                                  << " from " << top << " to " << bottom << " of "
                                  << area->viewport()->height());
                CHECK((bottom <= area->viewport()->height() || top >= area->viewport()->height()));
                whole += bottom <= area->viewport()->height() ? 1 : 0;
            }
            CHECK(whole > 0);
        }
    }
}
