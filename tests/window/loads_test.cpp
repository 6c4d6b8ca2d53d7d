// SPDX-License-Identifier: GPL-3.0-or-later
// The Loads view: grid, skyline, mode times, traces, windows; by mouse and by keyboard.
#include "driven.hpp"

using namespace sipper;
using namespace sipper::app;
namespace core = sipper::test;

TEST_CASE("draws are typed into the grid as people write them", "[loads]") {
    Driven d;
    d.window.showView("loads");
    const auto typed = [&](const char* cell, const char* text) {
        auto* edit = d.find<DrawEdit>(cell);
        edit->setFocus();
        edit->selectAll();
        QTest::keyClicks(edit, text);
        QTest::keyClick(edit, Qt::Key_Return);
        return d.find<DrawEdit>(cell);
    };
    typed("draw.recorder.listen", "3m8");
    CHECK(d.session.project().load("recorder")->draws[1].current->value() == Approx(0.0038));
    CHECK(d.session.project().load("recorder")->draws[1].burst->value() ==
          Approx(0.31)); // bursts stay
    typed("draw.recorder.lamp", "0.6 W");
    CHECK(d.session.project().load("recorder")->draws[2].power->value() == Approx(0.6));
    // A mode without a draw of its own shows the base draw, and gets its own when one is typed.
    CHECK(d.find<DrawEdit>("draw.recorder.blink")->text() == "400 µA");
    typed("draw.recorder.blink", "47 ohm");
    CHECK(d.session.project().load("recorder")->draws.size() == 4);
    typed("draw.recorder.blink", "");
    auto* edit = d.find<DrawEdit>("draw.recorder.blink");
    edit->setFocus();
    edit->selectAll();
    QTest::keyClick(edit, Qt::Key_Delete);
    QTest::keyClick(edit, Qt::Key_Return);
    CHECK(d.session.project().load("recorder")->draws.size() == 3);
    const Project before = d.session.project();
    CHECK_THAT(typed("draw.recorder.rest", "5 V")->complaint().toStdString(),
               Catch::Contains("3m8, 120 mA, 0.6 W, 47 ohm or 20 mA over 2.8 V"));
    CHECK(d.session.project() == before);
    CHECK(d.find<QLabel>("loads.complaint")->isVisibleTo(&d.window));
    d.find<QAbstractButton>("basis.recorder.listen")->click();
    CHECK(d.session.project().load("recorder")->draws[1].basis == Basis::dataSheet);
    CHECK(d.session.undoStack().undoText() == "basis of Recorder: data sheet");
}

TEST_CASE("the budget is one figure in grid, skyline, step, command line and core", "[loads]") {
    Driven d;
    for (const QString& example : Session::exampleNames()) {
        INFO(example.toStdString());
        REQUIRE(d.window.openExample(example));
        d.window.showView("loads");
        const Project& p = d.session.project();
        const Budget b = budgetOf(p);
        QProcess cli;
        cli.start(SIPPER_CLI,
                  {"runtime",
                   QString::fromLatin1(SIPPER_SOURCE) + "/data/examples/" + example + ".sipper",
                   "--json", "--no-range"});
        REQUIRE(cli.waitForFinished());
        const Json told = Json::parse(cli.readAllStandardOutput().toStdString())["budget"];
        const auto written = [](const Json& figure, Unit unit) {
            return writeQuantity(figure.get<double>(), unit);
        };
        const std::string total = d.find<QLabel>("loadTotals")->text().toStdString();
        CHECK(total == written(told["mean_a"], Unit::ampere) + " · " +
                           written(told["mean_w"], Unit::watt) + " mean · " +
                           written(told["ah_per_day"], Unit::ampereHour) + " · " +
                           written(told["wh_per_day"], Unit::wattHour) + " a day");
        CHECK_THAT(d.find<StepButton>("step.loads")->line().toStdString(),
                   Catch::Contains(written(told["mean_w"], Unit::watt)));
        const auto* day = d.find<LoadProfilePlot>("skyline.day");
        REQUIRE_FALSE(day->blocks().isEmpty());
        std::set<std::size_t> modes;
        for (const auto& block : day->blocks()) {
            modes.insert(block.mode);
            const Json& mode = told["modes"][p.modes[block.mode].id];
            CHECK_THAT(block.text.toStdString(),
                       Catch::Contains(written(mode["pack_a"], Unit::ampere)) &&
                           Catch::Contains(writeShare(mode["share_of_charge"].get<double>())));
        }
        CHECK(modes.size() == p.modes.size());
        for (std::size_t m = 0; m < p.modes.size(); ++m)
            CHECK_THAT(d.find<QPushButton>(("mode." + p.modes[m].id).c_str())->text().toStdString(),
                       Catch::Contains(writeShare(b.modes[m].secondsPerDay / 86400)));
        double sum = 0;
        for (const Load& load : p.loads)
            sum += told["loads"][load.id]["share"].get<double>();
        CHECK(sum == Approx(1));
    }
}

TEST_CASE("windows and durations are dragged on the skyline, and by key", "[loads]") {
    Driven d;
    d.window.showView("loads");
    QApplication::processEvents();
    auto* end = d.find<EdgeHandle>("window.lamp.0.end");
    const auto drag = [](EdgeHandle* h, int dx) {
        const QPoint from = h->rect().center();
        QTest::mousePress(h, Qt::LeftButton, {}, from);
        QMouseEvent move(QEvent::MouseMove, from + QPoint(dx, 0),
                         h->mapToGlobal(from + QPoint(dx, 0)), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(h, &move);
        QTest::mouseRelease(h, Qt::LeftButton, {}, from);
    };
    drag(end, 32); // about an hour
    const auto [start, stop] = d.session.project().mode("lamp")->daily[0];
    CHECK(start == "21:00");
    CHECK(clockMinutes(stop).value() > 100);
    CHECK(clockMinutes(stop).value() % 5 == 0);
    d.find<EdgeHandle>("window.lamp.0.start")->setFocus();
    d.press(Qt::Key_Left);
    CHECK(d.session.project().mode("lamp")->daily[0].first == "20:55");
    const double before = d.session.project().mode("listen")->duration->value();
    drag(d.find<EdgeHandle>("duration.listen"), 20);
    CHECK(d.session.project().mode("listen")->duration->value() > before);
    d.act("action.undo");
    CHECK(d.session.project().mode("listen")->duration->value() == before);
}

TEST_CASE("a mode's times are typed; what can't be is refused with the mode that overflows",
          "[loads]") {
    Driven d;
    d.window.showView("loads");
    d.find<QPushButton>("mode.listen")->click();
    d.type(d.find<QuantityEdit>("mode.every"), "30 s");
    CHECK(d.session.project().mode("listen")->every->value() == 30);
    const Project before = d.session.project();
    d.type(d.find<QuantityEdit>("mode.lasts"), "29.5 s");
    CHECK(d.session.project() == before);
    CHECK_THAT(d.find<QLabel>("mode.complaint")->text().toStdString(),
               Catch::Contains("mode \"blink\"") && Catch::Contains("no more than 100 %"));
    d.find<QPushButton>("mode.lamp")->click();
    CHECK(QApplication::focusWidget()->objectName() == "mode.name");
    d.find<QToolButton>("mode.earlier")->click();
    CHECK(d.session.project().modes[1].id == "lamp");
    CHECK(d.session.mode() == 1); // still the one shown
    d.act("action.undo");
    d.find<QPushButton>("mode.lamp")->click();
    auto* windows = d.find<QLineEdit>("mode.windows");
    windows->setFocus();
    windows->selectAll();
    QTest::keyClicks(windows, "20-22, 5:30-6:00");
    QTest::keyClick(windows, Qt::Key_Return);
    CHECK(windowsText(*d.session.project().mode("lamp")) == "20:00–22:00, 05:30–06:00");
    windows->selectAll();
    QTest::keyClicks(windows, "late");
    QTest::keyClick(windows, Qt::Key_Return);
    CHECK_THAT(d.find<QLabel>("mode.complaint")->text().toStdString(),
               Catch::Contains("21:00-01:00"));
    d.find<QPushButton>("mode.remove")->click();
    CHECK(d.session.project().modes.size() == 2);                 // the blink lived within it
    CHECK_FALSE(d.find<QPushButton>("mode.remove")->isVisible()); // the base mode stays
}

TEST_CASE("loads are added, named, moved and taken out", "[loads]") {
    Driven d;
    d.window.showView("loads");
    d.find<QPushButton>("addLoad")->click();
    d.find<QPushButton>("addMode")->click();
    QApplication::processEvents();
    CHECK(d.session.project().loads.size() == 4);
    CHECK(d.session.project().modes.size() == 5);
    auto* name = d.find<QLineEdit>("name.load");
    name->setFocus();
    name->selectAll();
    QTest::keyClicks(name, "Beeper");
    QTest::keyClick(name, Qt::Key_Return);
    CHECK(d.session.project().load("load")->label == "Beeper");
    QApplication::processEvents();
    d.find<QToolButton>("up.load")->click();
    CHECK(d.session.project().loads[2].id == "load");
    QApplication::processEvents();
    d.find<QToolButton>("remove.load")->click();
    CHECK(d.session.project().loads.size() == 3);
    CHECK(d.session.undoStack().undoText() == "Take out Beeper");
}

TEST_CASE("what stands in the grid and on the skyline follows when modes and loads go", "[loads]") {
    Driven d;
    d.window.showView("loads");
    // The last load's last cell has the cursor while its load is taken out, then its mode.
    d.find<DrawEdit>("draw.logic.blink")->setFocus();
    d.find<QToolButton>("remove.logic")->click();
    CHECK(d.session.project().loads.size() == 2);
    d.find<DrawEdit>("draw.recorder.blink")->setFocus();
    CHECK_FALSE(d.session.edit("take out listen", withoutMode(d.session.project(), "listen")));
    QApplication::processEvents();
    // The lamp has moved up in the list: its edge still moves the lamp.
    d.find<EdgeHandle>("window.lamp.0.start")->setFocus();
    d.press(Qt::Key_Left);
    CHECK(d.session.project().mode("lamp")->daily[0].first == "20:55");
    d.act("action.undo");
    d.act("action.undo");
    d.act("action.undo");
    CHECK(d.session.project() == core::example("nest-box-listener"));
}

namespace {

void drag(QWidget* h, QPoint by) {
    const QPoint from = h->rect().center();
    QTest::mousePress(h, Qt::LeftButton, {}, from);
    QMouseEvent move(QEvent::MouseMove, from + by, h->mapToGlobal(from + by), Qt::NoButton,
                     Qt::LeftButton, {});
    QApplication::sendEvent(h, &move);
    QTest::mouseRelease(h, Qt::LeftButton, {}, from);
}

QString shippedTrace(const char* name) {
    return QString::fromLatin1(SIPPER_SOURCE) + "/data/traces/" + name;
}

/// The listener's night, read and cut, in the Loads view.
void openNight(Driven& d) {
    d.window.showView("loads");
    auto* view = d.find<LoadsView>("loads");
    view->askFormat = [](const QString&, const std::string& start) { return guessFormat(start); };
    view->openTrace(shippedTrace("listener-night.csv"));
    REQUIRE(d.session.traceWork().waitForIdle());
    REQUIRE(d.session.traceWork().cut().modes.size() == 3);
}

} // namespace

TEST_CASE("currents and repetition are dragged on the skyline, and by key", "[loads]") {
    Driven d;
    d.window.showView("loads");
    QApplication::processEvents();
    const auto packAmps = [&](const char* mode) {
        const Project& p = d.session.project();
        return budgetOf(p).modes[static_cast<std::size_t>(p.mode(mode) - p.modes.data())].packAmps;
    };
    const double lamp = packAmps("lamp");
    drag(d.find<EdgeHandle>("current.lamp"), QPoint(0, 12));
    CHECK(packAmps("lamp") < lamp * 0.9);
    // The infra-red lamp draws most in that mode: its draw moved, nothing else.
    CHECK(d.session.project().load("lamp-ir") == nullptr);
    CHECK_THAT(d.session.undoStack().undoText().toStdString(),
               Catch::StartsWith("Infra-red lamp, Lamp lit: "));
    CHECK(drawIn(d.session.project(), d.session.project().loads[0], 2)->basis == Basis::guess);
    d.act("action.undo");
    CHECK(packAmps("lamp") == lamp);
    d.session.select("recorder");
    d.find<EdgeHandle>("current.listen")->setFocus();
    const double listen = packAmps("listen");
    d.press(Qt::Key_Up);
    CHECK(packAmps("listen") == Approx(listen * 1.05).epsilon(0.005));
    CHECK_THAT(d.session.undoStack().undoText().toStdString(), Catch::StartsWith("Recorder"));
    // Each handle says what it is.
    CHECK_THAT(d.find<EdgeHandle>("current.listen")->accessibleName().toStdString(),
               Catch::Contains("Recorder") && Catch::Contains("at the cells"));
    const double every = d.session.project().mode("listen")->every->value();
    drag(d.find<EdgeHandle>("every.listen"), QPoint(-60, 0));
    CHECK(d.session.project().mode("listen")->every->value() < every - 2);
    d.act("action.undo");
    d.find<EdgeHandle>("every.blink")->setFocus();
    d.press(Qt::Key_Right);
    CHECK(d.session.project().mode("blink")->every->value() == Approx(5.5));
}

TEST_CASE("the bar of charge is the budget's", "[loads]") {
    Driven d;
    d.window.showView("loads");
    const Budget b = budgetOf(d.session.project());
    const auto* bar = d.find<ChargeBar>("chargeBar");
    double sum = 0;
    for (const auto& part : bar->parts()) {
        sum += part.share;
        CHECK(part.share == b.modes[part.mode].shareOfCharge);
        CHECK_THAT(part.text.toStdString(),
                   Catch::Contains(writeQuantity(b.modes[part.mode].ahPerDay, Unit::ampereHour)));
    }
    CHECK(sum == Approx(1));
    QTest::mouseClick(d.find<ChargeBar>("chargeBar"), Qt::LeftButton, {}, QPoint(400, 5));
    CHECK(d.session.mode() == 2); // the lamp's part is the widest
}

TEST_CASE("a trace is read, cut, adjusted and taken over as one undoable edit", "[loads]") {
    Driven d;
    openNight(d);
    TraceWork& work = d.session.traceWork();
    CHECK(d.find<QFrame>("traceCard")->isVisibleTo(&d.window));
    CHECK_FALSE(d.find<LoadProfilePlot>("skyline.cycle")->isVisibleTo(&d.window));
    CHECK_THAT(d.find<QLabel>("trace.remarks")->text().toStdString(),
               Catch::Contains("60 000 rows over 10 min") &&
                   Catch::Contains("every row can be read"));
    // The plot holds two points a pixel column at the most, and the highest spike.
    auto* plot = d.find<QCustomPlot>("trace.plot");
    CHECK(plot->graph(0)->dataCount() < plot->axisRect()->width() * 2 + 10);
    double peak = 0;
    for (const QCPGraphData& point : *plot->graph(0)->data())
        peak = std::max(peak, point.value);
    CHECK(peak == Approx(work.cut().peakAmps));
    // A level moves by key and by mouse.
    const double level = work.levels()[1];
    auto* grip = d.find<LevelGrip>("level.1.grip");
    grip->setFocus();
    d.press(Qt::Key_Up);
    CHECK(work.levels()[1] == Approx(level * 1.02));
    drag(grip, QPoint(0, 6));
    CHECK(work.levels()[1] < level);
    REQUIRE(work.waitForIdle());
    CHECK(work.cut().modes[1].amps == Approx(0.12).epsilon(0.03)); // the mean is the samples'
    // Joined and split again.
    d.find<QToolButton>("level.2.join")->click();
    REQUIRE(work.waitForIdle());
    CHECK(work.levels().size() == 2);
    d.find<QToolButton>("level.1.split")->click();
    REQUIRE(work.waitForIdle());
    CHECK(work.levels().size() == 3);
    CHECK(work.cut().modes[2].amps == Approx(0.238).epsilon(0.03));
    // Named and used: the recorder's, in place of what was there.
    auto* loads = d.find<QComboBox>("trace.load");
    loads->setCurrentIndex(loads->findData("recorder"));
    auto* name = d.find<QLineEdit>("level.2.name");
    name->setFocus();
    name->selectAll();
    QTest::keyClicks(name, "Lamp lit");
    QTest::keyClick(name, Qt::Key_Return);
    CHECK(work.names()[2] == "Lamp lit");
    CHECK(d.find<QLineEdit>("level.1.name")->text() == "Listening");
    const Project before = d.session.project();
    d.find<QPushButton>("trace.use")->click();
    const Project& after = d.session.project();
    CHECK(after.modes.size() == 3);
    CHECK(after.mode("lamp")->daily == before.mode("lamp")->daily);
    for (const Draw& draw : after.load("recorder")->draws)
        CHECK(draw.basis == Basis::measured);
    CHECK(d.session.undoStack().undoText() == "modes from listener-night.csv");
    CHECK_FALSE(d.find<QFrame>("traceCard")->isVisibleTo(&d.window));
    d.act("action.undo");
    CHECK(d.session.project() == before);
    // It is still on the bench.
    d.find<QPushButton>("trace.show")->click();
    CHECK(d.find<QFrame>("traceCard")->isVisibleTo(&d.window));
    d.find<QToolButton>("trace.close")->click();
    CHECK(work.trace() == nullptr);
    CHECK(d.find<LoadProfilePlot>("skyline.cycle")->isVisibleTo(&d.window));
}

TEST_CASE("beside the modes there are, as power, until the shares overflow", "[loads]") {
    Driven d;
    const QString path = d.folder.filePath("power.csv");
    QFile file(path);
    REQUIRE(file.open(QIODevice::WriteOnly));
    file.write("time (s),voltage (V),current (mA)\n0,3,-1\n");
    for (int i = 1; i < 4000; ++i)
        file.write(
            QStringLiteral("%1,3.3,%2\n").arg(i * 0.01).arg(i % 1000 < 950 ? 80 : 2).toUtf8());
    file.write("x,3.3,2\n39,3.3,2\n");
    file.close();
    d.window.showView("loads");
    auto* view = d.find<LoadsView>("loads");
    view->askFormat = [](const QString&, const std::string& start) { return guessFormat(start); };
    view->openTrace(path);
    REQUIRE(d.session.traceWork().waitForIdle());
    CHECK_THAT(d.find<QLabel>("trace.remarks")->text().toStdString(),
               Catch::Contains("1 row can't be read (row 4002)") &&
                   Catch::Contains("1 row goes back in time (row 4003)") &&
                   Catch::Contains("1 current is negative (row 2)"));
    d.find<QCheckBox>("trace.power")->setChecked(true);
    auto* loads = d.find<QComboBox>("trace.load");
    loads->setCurrentIndex(loads->count() - 1); // a new load
    d.find<QComboBox>("trace.how")->setCurrentIndex(1);
    const Project before = d.session.project();
    d.find<QPushButton>("trace.use")->click();
    CHECK(d.session.project() == before); // 95 % and what there was is more than a day
    CHECK_THAT(d.find<QLabel>("trace.complaint")->text().toStdString(),
               Catch::Contains("no more than 100 %"));
    d.find<QComboBox>("trace.how")->setCurrentIndex(0);
    d.find<QPushButton>("trace.use")->click();
    const Load& fresh = d.session.project().loads.back();
    CHECK(fresh.label == "Measured load");
    CHECK(fresh.draws.back().power->value() == Approx(0.264));
}

TEST_CASE("the trace dialog asks only what it can't tell", "[loads]") {
    TraceDialog known("a.csv", "time (s);current (mA)\n0;1,5\n1;2,5\n");
    CHECK_FALSE(known.missing());
    CHECK(known.findChild<QPushButton*>("traceDialog.read")->isEnabled());
    CHECK_FALSE(known.findChild<QComboBox*>("traceDialog.timeUnit")->isVisibleTo(&known));
    CHECK_THAT(known.findChild<QLabel*>("traceDialog.found")->text().toStdString(),
               Catch::Contains("semicolons") && Catch::Contains("decimal comma") &&
                   Catch::Contains("current in column 2, in mA"));
    auto* table = known.findChild<QTableWidget*>("traceDialog.rows");
    CHECK(table->rowCount() == 2);
    CHECK(table->item(1, 1)->text() == "2,5");
    CHECK(table->horizontalHeaderItem(0)->text() == "time (s)");
    known.findChild<QPushButton*>("traceDialog.more")->click();
    CHECK(known.findChild<QComboBox*>("traceDialog.separator")->isVisibleTo(&known));

    TraceDialog bare("b.csv", "5,12,1\n6,15,1\n7,11,2\n");
    REQUIRE(bare.missing());
    CHECK_FALSE(bare.findChild<QPushButton*>("traceDialog.read")->isEnabled());
    CHECK_THAT(bare.findChild<QLabel*>("traceDialog.missing")->text().toStdString(),
               Catch::Contains("which column is the time"));
    const auto choose = [&](const char* box, int index) {
        auto* combo = bare.findChild<QComboBox*>(box);
        REQUIRE(combo->isVisibleTo(&bare));
        combo->setFocus();
        combo->setCurrentIndex(index);
        emit combo->activated(index);
    };
    choose("traceDialog.time", 1);
    choose("traceDialog.timeUnit", 2); // ms
    choose("traceDialog.current", 2);
    choose("traceDialog.currentUnit", 3); // µA
    CHECK_FALSE(bare.missing());
    CHECK(bare.format().timeScale == Approx(1e-3));
    CHECK(bare.format().currentScale == Approx(1e-6));
    CHECK(bare.findChild<QPushButton*>("traceDialog.read")->isEnabled());
}

TEST_CASE("a trace that can't be read says why; a dropped file is read", "[loads]") {
    Driven d;
    d.window.showView("loads");
    auto* view = d.find<LoadsView>("loads");
    view->askFormat = [](const QString&, const std::string&) { return TraceFormat{}; };
    view->openTrace(d.folder.filePath("none.csv"));
    CHECK_THAT(d.find<QLabel>("message.text")->text().toStdString(),
               Catch::Contains("none.csv") && Catch::Contains("a file that can be read"));
    QFile file(d.folder.filePath("bare.csv"));
    REQUIRE(file.open(QIODevice::WriteOnly));
    file.write("0,1\n1,1\n");
    file.close();
    view->openTrace(file.fileName());
    d.session.traceWork().waitForIdle();
    CHECK_THAT(d.find<QLabel>("message.text")->text().toStdString(),
               Catch::Contains("the unit of the time in column 1"));
    CHECK_FALSE(d.find<QFrame>("traceCard")->isVisibleTo(&d.window));
    QMimeData mime;
    mime.setUrls({QUrl::fromLocalFile(shippedTrace("vent-motor.csv"))});
    QDragEnterEvent enter(QPoint(9, 9), Qt::CopyAction, &mime, Qt::LeftButton, {});
    QApplication::sendEvent(view, &enter);
    CHECK(enter.isAccepted());
    QDropEvent drop(QPointF(9, 9), Qt::CopyAction, &mime, Qt::LeftButton, {});
    QApplication::sendEvent(view, &drop);
    REQUIRE(d.session.traceWork().waitForIdle());
    CHECK(d.session.traceWork().path().endsWith("vent-motor.csv"));
    CHECK(d.find<QFrame>("traceCard")->isVisibleTo(&d.window));
}

TEST_CASE("a window is derived from what the load was made for", "[loads]") {
    Driven d;
    d.window.showView("loads");
    d.session.select("recorder");
    auto* derive = d.find<QPushButton>("window.derive");
    // The dialog is modal: a timer answers it.
    QTimer::singleShot(0, [] {
        auto* dialog = qobject_cast<MadeForDialog*>(QApplication::activeModalWidget());
        REQUIRE(dialog);
        auto* kind = dialog->findChild<QComboBox*>("madeFor.kind");
        kind->setCurrentIndex(2); // cells
        dialog->findChild<QSpinBox*>("madeFor.count")->setValue(3);
        CHECK(dialog->findChild<QLabel*>("madeFor.window")->text() ==
              "2.70 V to 4.80 V, never above 5.76 V");
        CHECK_THAT(dialog->findChild<QLabel*>("madeFor.assumed")->text().toStdString(),
                   Catch::Contains("3 alkaline cells in series"));
        dialog->findChild<QPushButton*>("madeFor.use")->click();
    });
    derive->click();
    const Window& w = d.session.project().load("recorder")->window;
    CHECK(w.min.value() == Approx(2.7));
    CHECK(w.neverAbove->value() == Approx(5.76));
    CHECK(d.session.undoStack().undoText() == "Recorder: window derived");
    d.act("action.undo");
    CHECK(d.session.project() == core::example("nest-box-listener"));
}

TEST_CASE("a draw is derived from a run that is known", "[loads]") {
    Driven d;
    d.window.showView("loads");
    d.session.select("recorder");
    const std::string base = d.session.project().modes[d.session.project().baseMode()].id;
    auto* derive = d.find<QPushButton>("window.derive");
    QTimer::singleShot(0, [] {
        auto* dialog = qobject_cast<MadeForDialog*>(QApplication::activeModalWidget());
        REQUIRE(dialog);
        dialog->show();
        CHECK_FALSE(dialog->findChild<QLabel*>("madeFor.drawn")->isVisibleTo(dialog));
        dialog->findChild<QCheckBox*>("madeFor.known")->click();
        const auto type = [&](const char* name, const char* text) {
            auto* edit = dialog->findChild<QLineEdit*>(name);
            edit->setText(text);
            QFocusEvent left(QEvent::FocusOut);
            QApplication::sendEvent(edit, &left);
        };
        type("madeFor.capacity", "0");
        CHECK_FALSE(dialog->findChild<QPushButton*>("madeFor.use")->isEnabled());
        type("madeFor.capacity", "2 Ah");
        // A field with a complaint is not taken for its last good figure.
        type("madeFor.lasted", "a while");
        CHECK_FALSE(dialog->findChild<QPushButton*>("madeFor.use")->isEnabled());
        type("madeFor.runVolts", "6 V");
        type("madeFor.lasted", "5 h");
        CHECK_THAT(dialog->findChild<QLabel*>("madeFor.drawn")->text().toStdString(),
                   Catch::Contains("400 mA or 2.40 W"));
        dialog->findChild<QComboBox*>("madeFor.by")->setCurrentIndex(1);
        dialog->findChild<QPushButton*>("madeFor.use")->click();
    });
    derive->click();
    const Load& load = *d.session.project().load("recorder");
    const auto draw = std::find_if(load.draws.begin(), load.draws.end(),
                                   [&](const Draw& one) { return one.mode == base; });
    REQUIRE(draw != load.draws.end());
    CHECK(draw->current->value() == Approx(0.4));
    CHECK(draw->basis == Basis::guess);
    CHECK(d.session.undoStack().undoText() == "Recorder: window and draw derived");
    d.act("action.undo");
    CHECK(d.session.project() == core::example("nest-box-listener"));
}

namespace {

/// Only keys, as someone without a mouse would.
struct Keys {
    Driven& d;
    /// How often Tab is pressed that way until the field is reached.
    static int steps(const QString& name, QWidget* (QWidget::*next)() const) {
        QWidget* const from = QApplication::focusWidget();
        int count = 0;
        for (QWidget* w = from ? (from->*next)() : nullptr; w && w != from; w = (w->*next)()) {
            count += w->isVisible() && (w->focusPolicy() & Qt::TabFocus) != 0;
            if (w->objectName() == name)
                return count;
        }
        return std::numeric_limits<int>::max();
    }
    void tabTo(const QString& name) {
        constexpr int kMost = 400;
        QApplication::processEvents(); // what was just made is shown by an event
        const bool back =
            steps(name, &QWidget::previousInFocusChain) < steps(name, &QWidget::nextInFocusChain);
        for (int i = 0; i < kMost; ++i) {
            QWidget* at = QApplication::focusWidget();
            if (at && at->objectName() == name)
                return;
            // Nobody looks on the way.
            QTest::keyClick(at ? at : &d.window, back ? Qt::Key_Backtab : Qt::Key_Tab);
        }
        QStringList seen;
        for (int i = 0; i < 60; ++i) {
            d.press(Qt::Key_Tab);
            seen << (QApplication::focusWidget() ? QApplication::focusWidget()->objectName() : "-");
        }
        FAIL("Tab never comes to " << name.toStdString() << " but to "
                                   << seen.join(", ").toStdString());
    }
    void type(const QString& name, const QString& text) {
        tabTo(name);
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_A, Qt::ControlModifier);
        QTest::keyClicks(QApplication::focusWidget(), text);
        d.press(Qt::Key_Return);
    }
    void shortcut(Qt::Key key) {
        QTest::keyClick(&d.window, key, Qt::ControlModifier);
        QApplication::processEvents();
    }
};

} // namespace

TEST_CASE("from every recipe a project of three loads and four modes is entered by keyboard alone",
          "[loads][keyboard]") {
    Driven d;
    d.window.setUpdatesEnabled(false); // without a mouse, and nobody looks
    Keys keys{d};
    for (const Session::Shipped& recipe : Session::recipes()) {
        INFO(recipe.name.toStdString());
        d.answer = MainWindow::Answer::discard;
        d.session.setOwnPatience(std::chrono::seconds(20));
        keys.shortcut(Qt::Key_N);
        REQUIRE(d.window.currentView() == "start");
        keys.tabTo("recipe." + recipe.name);
        d.press(Qt::Key_Space);
        REQUIRE(d.session.project().name == recipe.title.toStdString());
        keys.shortcut(Qt::Key_2);
        REQUIRE(d.window.currentView() == "loads");
        const auto& p = [&]() -> const Project& { return d.session.project(); };
        // A recipe may have more than is wanted: all that it brings is overwritten, the rest added.
        d.session.setOwnPatience(std::chrono::seconds(0)); // keys do not wait for figures
        for (int i = 0; i < 4 && p().modes.size() < 4; ++i) {
            keys.tabTo("addMode");
            d.press(Qt::Key_Space);
        }
        for (int i = 0; i < 3 && p().loads.size() < 3; ++i) {
            keys.tabTo("addLoad");
            d.press(Qt::Key_Space);
        }
        REQUIRE(p().modes.size() == 4);
        REQUIRE(p().loads.size() == 3);
        std::vector<std::string> repeating;
        for (const Mode& m : p().modes)
            if (!m.isBase())
                repeating.push_back(m.id);
        // The day's hours to one, times to the other two.
        for (std::size_t i = 0; i < repeating.size(); ++i) {
            const QString id = QString::fromStdString(repeating[i]);
            keys.tabTo("mode." + id);
            d.press(Qt::Key_Space);
            keys.type("mode.name", QStringLiteral("State %1").arg(i + 1));
            const bool windowed = p().mode(repeating[i])->isWindowed();
            if (i == 0) {
                if (!windowed) {
                    keys.tabTo("mode.kind");
                    d.press(Qt::Key_Down);
                }
                keys.type("mode.windows", "20:00-20:30");
            } else {
                if (windowed) {
                    keys.tabTo("mode.kind");
                    d.press(Qt::Key_Up);
                }
                keys.type("mode.lasts", "1");
                keys.type("mode.every", i == 1 ? "20" : "2 min");
                keys.type("mode.lasts", i == 1 ? "200 ms" : "3");
            }
        }
        for (std::size_t l = 0; l < 3; ++l) {
            const QString id = QString::fromStdString(p().loads[l].id);
            keys.type("name." + id, QStringLiteral("Thing %1").arg(l + 1));
            for (std::size_t m = 0; m < 4; ++m)
                keys.type(
                    QStringLiteral("draw.%1.%2").arg(id, QString::fromStdString(p().modes[m].id)),
                    m == 0   ? "90uA"
                    : m == 1 ? "3m8"
                    : m == 2 ? "11 mA"
                             : "0.02 W");
        }
        d.where = d.folder.filePath(recipe.name + ".sipper");
        keys.shortcut(Qt::Key_S);
        const Project saved = core::load(d.where.toStdString());
        CHECK(saved == p());
        for (std::size_t l = 0; l < 3; ++l) {
            CHECK(saved.loads[l].label == "Thing " + std::to_string(l + 1));
            CHECK(drawIn(saved, saved.loads[l], 0)->current->value() == Approx(90e-6));
            CHECK(drawIn(saved, saved.loads[l], 1)->current->value() == Approx(3.8e-3));
            CHECK(drawIn(saved, saved.loads[l], 3)->power->value() == Approx(0.02));
        }
        const Mode* first = saved.mode(repeating[0]);
        CHECK(first->label == "State 1");
        CHECK(first->daily.size() == 1);
        CHECK(saved.mode(repeating[1])->every->value() == 20);
        CHECK(saved.mode(repeating[2])->duration->value() == 3);
        d.session.waitForIdle();
        CHECK(d.session.results().runtime.ending.reason != EndReason::never);
    }
}
