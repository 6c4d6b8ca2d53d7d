// SPDX-License-Identifier: GPL-3.0-or-later
// The window around the views: its table, what comes back, themes, keys, what a program refuses.
#include "driven.hpp"

#include "shell/viewtable.hpp"
#include "views/library/librarydialog.hpp"
#include "views/runtime/runtimeview.hpp"
#include "views/supplyline/supplylineview.hpp"

using namespace sipper;
using namespace sipper::app;

namespace {

struct Ran {
    int exit;
    QByteArray err;
    QByteArray out;
};

Ran program(const QStringList& arguments, const QStringList& without = {}) {
    QProcess p;
    QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
    for (const QString& name : without)
        environment.remove(name);
    p.setProcessEnvironment(environment);
    p.start(SIPPER_APP, arguments);
    p.waitForFinished(30000);
    return {p.exitStatus() == QProcess::NormalExit ? p.exitCode() : -1, p.readAllStandardError(),
            p.readAllStandardOutput()};
}

} // namespace

TEST_CASE("window, steps, menus and options read one table of views", "[shell]") {
    Driven d;
    QSet<QString> names;
    int step = 0;
    for (const ViewEntry& entry : viewTable()) {
        const QString name = QString::fromLatin1(entry.name);
        INFO(entry.name);
        CHECK_FALSE(names.contains(name));
        names << name;
        if (entry.step > 0)
            CHECK(entry.step == ++step);
        CHECK((entry.line != nullptr) == (entry.step > 0));
        CHECK_FALSE(entry.shots.empty());
        d.act((std::string("action.view.") + entry.name).c_str());
        CHECK(d.window.currentView() == name);
        if (entry.step > 0)
            CHECK(d.find<StepButton>(("step." + name).toLatin1())->line() ==
                  entry.line(d.session).text);
    }
    CHECK(viewNamed("loads"));
    CHECK_FALSE(viewNamed("nothing"));
    CHECK_THAT(viewNames().toStdString(), Catch::StartsWith("start, brief"));
    const Ran shots = program({"--list-shots"});
    CHECK(shots.exit == 0);
    CHECK(shots.out.count('\n') < 20);
    CHECK(shots.out.contains("supply-line --view supply-line --example nest-box-listener"));
}

TEST_CASE("the steps' keys work before anything was clicked", "[shell]") {
    Session session;
    MainWindow window(session);
    REQUIRE(window.openExample("nest-box-listener"));
    window.show();
    QApplication::processEvents();
    for (const ViewEntry& entry : viewTable()) {
        QWidget* at = QApplication::focusWidget() ? QApplication::focusWidget() : &window;
        const QKeySequence keys(QString::fromLatin1(entry.keys));
        QTest::keyClick(at, keys[0].key(), keys[0].keyboardModifiers());
        CHECK(window.currentView() == entry.name);
    }
    CHECK(QApplication::focusWidget() != nullptr);
}

TEST_CASE("a view that is not seen does not refresh, and is right when it is shown", "[shell]") {
    Driven d;
    d.window.showView("brief");
    auto* plot = d.window.findChild<QCustomPlot*>("discharge");
    REQUIRE(plot);
    const double before = plot->xAxis->range().upper;
    d.window.showView("runtime");
    QApplication::processEvents();
    const double shown = plot->xAxis->range().upper;
    CHECK(shown > before);
    d.window.showView("brief");
    Project p = d.session.project();
    test::packOf(p).parallel = 9;
    REQUIRE_FALSE(d.session.edit("nine", p));
    CHECK(plot->xAxis->range().upper == shown);
    d.window.showView("runtime");
    QApplication::processEvents();
    CHECK(plot->xAxis->range().upper > shown * 1.5);
    CHECK(d.find<QLabel>("runtime.answer")->text().toStdString() ==
          writeHours(d.session.results().runtime.hours->value()));
}

TEST_CASE("a theme switch keeps what was set: page, sliders, ticks, typed sums", "[shell]") {
    Driven d;
    d.window.showView("runtime");
    d.find<QPushButton>("wear.show")->click();
    d.find<QSlider>("whatIf.air")->setValue(-7);
    d.find<QCheckBox>("whatIf.five")->setChecked(true);
    d.act("action.sums");
    d.session.select("guard");
    d.act("action.night");
    QApplication::processEvents();
    CHECK(d.window.currentView() == "runtime");
    CHECK(d.find<QPushButton>("wear.show")->isChecked());
    CHECK(d.find<QLabel>("wear.cycles")->isVisibleTo(&d.window));
    CHECK(d.find<QSlider>("whatIf.air")->value() == -7);
    CHECK(d.find<QCheckBox>("whatIf.five")->isChecked());
    CHECK(d.find<QFrame>("sums")->isVisibleTo(&d.window));
    CHECK(d.session.selected() == "guard");
    d.act("action.night");
    QApplication::processEvents();
    CHECK(d.find<QSlider>("whatIf.air")->value() == -7);
    d.session.waitForIdle();
}

TEST_CASE("the sliders stand as planned again for other cells and another document", "[shell]") {
    Driven d;
    d.window.showView("runtime");
    auto* age = d.find<QSlider>("whatIf.age");
    auto* air = d.find<QSlider>("whatIf.air");
    age->setValue(70);
    air->setValue(-9);
    // The same air, other health: they follow.
    Project p = d.session.project();
    test::packOf(p).health = 0.9;
    REQUIRE_FALSE(d.session.edit("older", p));
    CHECK(age->value() == 90);
    CHECK(air->value() == std::lround(p.brief.air().usual().value()));
    // Another document with the same air.
    age->setValue(60);
    REQUIRE(d.window.openExample("nest-box-listener"));
    d.window.showView("runtime");
    CHECK(d.find<QSlider>("whatIf.age")->value() == 100);
    // An edit of something else leaves them where they are.
    age->setValue(65);
    Project q = d.session.project();
    q.loads[0].label = "Other";
    REQUIRE_FALSE(d.session.edit("name", q));
    CHECK(age->value() == 65);
    d.session.waitForIdle();
}

TEST_CASE("size, view and folded advice come back", "[shell]") {
    {
        Driven d;
        d.window.resize(1211, 777);
        d.window.showView("loads");
        d.act("action.fold");
        REQUIRE(d.find<AdvicePanel>("advice")->folded());
        d.window.close();
    }
    Session session;
    MainWindow window(session);
    window.restoreLayout();
    CHECK(window.size() == QSize(1211, 777));
    CHECK(window.currentView() == "loads");
    CHECK(window.findChild<AdvicePanel*>("advice")->folded());
    QSettings().remove("window");
}

TEST_CASE("at any font and height the line keeps its share of the work area", "[shell]") {
    for (const double scale : {1.0, 1.5, 2.0}) {
        Theme::use(false, scale);
        Driven d;
        for (const QSize size : {QSize(1280, 800), QSize(1000, 700), QSize(1600, 1000)}) {
            d.window.resize(size);
            d.window.showView("supply-line");
            QApplication::processEvents();
            INFO(scale << " " << size.width() << "x" << size.height());
            const auto* view = d.window.findChild<SupplyLineView*>();
            const auto* line = d.window.findChild<LineCanvas*>("line");
            CHECK(line->height() >= 0.45 * view->height());
        }
    }
    Theme::use(false, 1.0);
}

TEST_CASE("a part that is kept says what it rests on", "[library]") {
    Driven d;
    const auto keep = [&](const char* stage) {
        LibraryDialog dialog(d.session, stage, &d.window);
        REQUIRE(dialog.waitForIdle());
        QTest::mouseClick(dialog.findChild<QPushButton*>("library.keep"), Qt::LeftButton);
        REQUIRE(dialog.waitForIdle());
        const Library own = loadLibrary(Session::partsFolder().toStdString());
        std::string basis;
        for (const LibraryPart& part : own.parts)
            if (part.own)
                basis = part.basis;
        QDir(Session::partsFolder()).removeRecursively();
        return basis;
    };
    CHECK(keep("boost5") == "data_sheet");
    Project p = d.session.project();
    test::packOf(p).measuredResistance = Ohms{0.06};
    p.stages[0].id = "cells";
    REQUIRE_FALSE(d.session.edit("measured", p));
    CHECK(keep("cells") != "");
}

TEST_CASE("the program refuses what is not there, with one line and exit 2", "[program]") {
    const QString shot = QDir::tempPath() + "/never.png";
    const QStringList box{"--screenshot", shot, "--example", "nest-box-listener"};
    struct Case {
        QStringList more;
        const char* says;
    };
    for (const Case& c : {Case{{"--trace", "/nonexistent.csv"}, "--trace: found /nonexistent.csv"},
                          Case{{"--select", "nosuch"}, "--select: found nosuch"},
                          Case{{"--mode", "nosuch"}, "--mode: found nosuch"},
                          Case{{"--view", "nosuch"}, "--view: found nosuch"},
                          Case{{"--variant", "9"}, "--variant: found 9"},
                          Case{{"--size", "big"}, "--size: found big"}}) {
        INFO(c.says);
        const Ran r = program(box + c.more);
        CHECK(r.exit == 2);
        CHECK_THAT(r.err.toStdString(), Catch::StartsWith("sipper: ") && Catch::Contains(c.says));
        CHECK(r.err.count('\n') == 1);
        CHECK_FALSE(QFile::exists(shot));
    }
    const QStringList displays{"DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"};
    const Ran none = program({}, displays);
    CHECK(none.exit == 2);
    CHECK(none.err.count('\n') == 1);
    CHECK(none.err.contains("no display"));
    QProcess wrong;
    QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
    environment.remove("QT_QPA_PLATFORM");
    environment.insert("DISPLAY", ":987");
    wrong.setProcessEnvironment(environment);
    wrong.start(SIPPER_APP, QStringList());
    REQUIRE(wrong.waitForFinished(20000));
    CHECK(wrong.exitStatus() == QProcess::NormalExit);
    CHECK(wrong.exitCode() == 2);
}

TEST_CASE("a control character in a name stays out of the window's title", "[shell]") {
    Driven d;
    Project p = d.session.project();
    p.name = "Box\n\x1b]0;evil\x07";
    REQUIRE_FALSE(d.session.edit("name", p));
    CHECK(d.window.windowTitle().startsWith("Box\\n\\x1b]0;evil\\x07"));
    CHECK_FALSE(d.find<QLabel>("verdict.name")->text().contains('\n'));
}
