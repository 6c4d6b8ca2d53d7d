// SPDX-License-Identifier: GPL-3.0-or-later
// The bench in the window: figures typed into the marked check, kept, corrected, never taken out.
#include "driven.hpp"
#include "measure/logbook.hpp"
#include "measure/plantedfault.hpp"
#include "project/file.hpp"
#include "quantity/read.hpp"
#include "views/bench/benchlist.hpp"
#include "views/bench/benchview.hpp"
#include "views/bench/calibrationcard.hpp"
#include "views/bench/instrumentcard.hpp"
#include "views/bench/inventorypage.hpp"
#include "views/bench/pinspairspage.hpp"
#include "views/bench/readingcard.hpp"
#include "views/bench/supplybox.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/text.hpp"

#include <QProcess>
#include <QTcpSocket>
#include <nlohmann/json.hpp>

using namespace sipper;
using namespace sipper::app;

namespace {

BenchView& benchView(Driven& d) {
    d.window.showView("bench");
    d.session.waitForIdle();
    auto* view = d.find<BenchView>("bench");
    QApplication::processEvents();
    return *view;
}

void typeReading(Driven& d, const char* figure) {
    auto* list = d.find<BenchList>("bench.list");
    list->setFocus();
    QTest::keyClick(list, Qt::Key_Return);
    QuantityEdit* field = list->field();
    REQUIRE(field);
    QTest::keyClicks(field, figure);
    QTest::keyClick(field, Qt::Key_Return);
    QApplication::processEvents();
}

} // namespace

TEST_CASE("a charge by a panel is read with the light that there was", "[bench]") {
    Driven d;
    REQUIRE(d.window.openExample("greenhouse-vent-opener"));
    benchView(d);
    auto* list = d.find<BenchList>("bench.list");
    auto* light = d.find<QuantityEdit>("reading.light");
    CHECK(light->isHidden()); // of no other check
    const BenchAnalysis look = analyseBench(d.session.project());
    const auto charge =
        std::find_if(look.checks.begin(), look.checks.end(),
                     [](const BenchCheck& c) { return c.kind == CheckKind::chargeCurrent; });
    REQUIRE(charge != look.checks.end());
    list->mark(static_cast<int>(charge - look.checks.begin()));
    QApplication::processEvents();
    REQUIRE_FALSE(light->isHidden());
    // What can't be read there stops the reading, and is not taken for the last good figure.
    light->setFocus();
    light->setText("bright");
    QTest::keyClick(light, Qt::Key_Return);
    REQUIRE_FALSE(light->complaint().isEmpty());
    typeReading(d, "50 mA");
    CHECK(d.session.project().readings.all().empty());
    CHECK_THAT(d.find<QLabel>("bench.complaint")->text().toStdString(),
               Catch::StartsWith("Light: "));
    CHECK(light->placeholderText() == QString::fromUtf8("800 W/m²"));
    light->setFocus();
    light->setText("300");
    QTest::keyClick(light, Qt::Key_Return);
    typeReading(d, "50 mA");
    REQUIRE(d.session.project().readings.all().size() == 1);
    CHECK(d.session.project().readings.all()[0].light == 300);
    CHECK(light->value() == std::nullopt); // the next reading may have another
}

TEST_CASE("readings are typed down the list, and each is judged", "[bench]") {
    Driven d;
    benchView(d);
    auto* list = d.find<BenchList>("bench.list");
    const BenchAnalysis before = analyseBench(d.session.project());
    const auto all = static_cast<int>(before.checks.size());
    CHECK(d.find<QLabel>("bench.answer")->text() == QString("0 of %1").arg(all));
    CHECK(d.find<StepButton>("step.bench")->line() == QString("0 of %1 read").arg(all));
    REQUIRE(list->marked() == 0);
    REQUIRE(before.checks[0].kind == CheckKind::openCircuit);
    typeReading(d, "4.18");
    REQUIRE(d.session.project().readings.all().size() == 1);
    const Reading& first = d.session.project().readings.all()[0];
    CHECK(first.volts == Volts{4.18});
    CHECK(first.at == "cells");
    CHECK_FALSE(first.when.empty());
    // On to the next by itself; the first is judged.
    CHECK(list->marked() == 1);
    CHECK(d.find<QLabel>("bench.answer")->text() == QString("1 of %1").arg(all));
    CHECK_THAT(d.find<QLabel>("bench.says")->text().toStdString(), Catch::Contains("all inside"));
    CHECK(d.session.selected() == qs(before.checks[1].at));
    // A set-point far off: outside, and said what would move it there.
    typeReading(d, "13.5");
    CHECK_THAT(d.find<QLabel>("bench.says")->text().toStdString(), Catch::Contains("one outside"));
    list->setFocus();
    QTest::keyClick(list, Qt::Key_Up);
    CHECK(list->marked() == 1);
    CHECK_THAT(d.find<QLabel>("reading.moves")->text().toStdString(),
               Catch::Contains("more than expected"));
    // Put right: the old one stays, struck through, and no longer counts.
    d.find<QCheckBox>("reading.corrects")->click();
    typeReading(d, "12.02");
    const auto& readings = d.session.project().readings.all();
    REQUIRE(readings.size() == 3);
    CHECK(readings[2].supersedes == readings[1].id);
    CHECK_THAT(d.find<QLabel>("bench.says")->text().toStdString(), Catch::Contains("all inside"));
    list->mark(1);
    QApplication::processEvents();
    int struck = 0;
    for (QLabel* label : d.window.findChildren<QLabel*>("reading.one"))
        struck += label->font().strikeOut() ? 1 : 0;
    CHECK(struck == 1);
    // One undoable edit each.
    d.act("action.undo");
    CHECK(d.session.project().readings.all().size() == 2);
}

TEST_CASE("what can't be a reading is refused in its field", "[bench]") {
    Driven d;
    benchView(d);
    auto* list = d.find<BenchList>("bench.list");
    typeReading(d, "four");
    CHECK(d.session.project().readings.all().empty());
    CHECK_FALSE(list->field()->complaint().isEmpty());
    QTest::keyClick(list->field(), Qt::Key_Escape);
    // Mouse: a row is marked, and its field has the focus.
    QTest::mouseClick(list, Qt::LeftButton, {}, list->rowBox(2).center().toPoint());
    CHECK(list->marked() == 2);
    CHECK(list->field()->hasFocus());
}

TEST_CASE("readings teach, and what they taught is taken over as one edit", "[bench]") {
    Driven d;
    REQUIRE(d.window.openPath(
        QString::fromStdString(test::file("reference/orrery-drive.sipper").string())));
    BenchView& view = benchView(d);
    REQUIRE(view.settle());
    QApplication::processEvents();
    auto* card = d.find<CalibrationCard>("learnCard");
    REQUIRE(card->learned());
    CHECK(card->learned()->parameters.size() == 4);
    CHECK_THAT(d.find<QLabel>("learn.left")->text().toStdString(), Catch::Contains("Left alone"));
    CHECK_THAT(d.find<QLabel>("learn.hours")->text().toStdString(), Catch::Contains("52 h"));
    d.find<QPushButton>("learn.take")->click();
    const Project& p = d.session.project();
    const auto turn = std::find_if(p.load("motor")->draws.begin(), p.load("motor")->draws.end(),
                                   [](const Draw& draw) { return draw.mode == "turn"; });
    CHECK(turn->power->value() == Approx(2.4 * 1.241).epsilon(0.01));
    CHECK(turn->basis == Basis::measured);
    CHECK(p.stage("rail5")->basis == Basis::measured);
    CHECK(d.session.undoStack().undoText() == "take over what was learned");
    d.act("action.undo");
    CHECK(d.session.project().load("motor")->draws[1].power->value() == Approx(2.4));
}

TEST_CASE("logs of discharges teach health and resistance", "[bench]") {
    Driven d;
    REQUIRE(d.window.openPath(
        QString::fromStdString(test::file("reference/paper-bellows.sipper").string())));
    BenchView& view = benchView(d);
    REQUIRE(view.settle());
    auto* card = d.find<CalibrationCard>("learnCard");
    CHECK_FALSE(card->learned());
    card->askLogs = [] {
        QStringList paths;
        for (const char* n : {"1", "3"})
            paths << QString::fromStdString(
                test::file(std::string("reference/paper-bellows-") + n + ".csv").string());
        return paths;
    };
    d.find<QPushButton>("learn.logs")->click();
    REQUIRE(view.settle());
    QApplication::processEvents();
    REQUIRE(card->learned());
    CHECK(card->learned()->parameters.size() == 2);
    CHECK_THAT(d.find<QLabel>("learn.hours")->text().toStdString(), Catch::Contains("It ran"));
    d.find<QPushButton>("learn.take")->click();
    CHECK(d.session.project().pack()->health.value() < 0.96);
    // A file that is no log is refused, with its name.
    card->askLogs = [] {
        return QStringList{
            QString::fromStdString(test::file("reference/paper-bellows.sipper").string())};
    };
    d.find<QPushButton>("learn.logs")->click();
    CHECK_THAT(d.find<QLabel>("bench.complaint")->text().toStdString(),
               Catch::Contains("paper-bellows.sipper"));
}

TEST_CASE("against the stand-ins a meter is read, and a whole discharge is run and learned from",
          "[bench]") {
    Driven d;
    const std::string file = test::file("reference/paper-bellows.sipper").string();
    REQUIRE(d.window.openPath(QString::fromStdString(file)));
    // The stand-ins have a weaker pack than the project says: that is what is to be learned.
    Project truth = d.session.project();
    std::get<Pack>(truth.stage("cells")->part).health = 0.9;
    const QString weak = d.folder.filePath("weak.sipper");
    REQUIRE_FALSE(saveProject(weak.toStdString(), truth));
    QProcess instruments;
    instruments.start(SIPPER_INSTRUMENTS, {weak, "--speed", "3600", "--seed", "2"});
    REQUIRE(instruments.waitForReadyRead(5000));
    const auto ports = nlohmann::json::parse(instruments.readLine().toStdString());
    benchView(d);
    auto* card = d.find<InstrumentCard>("instrumentCard");
    const auto join = [&](const char* which) {
        const std::string key = std::string("instrument.") + which;
        d.find<QLineEdit>(key.c_str())->setText(QString::number(ports[which].get<int>()));
        d.find<QPushButton>((key + ".connect").c_str())->click();
        auto* state = d.find<QLabel>((key + ".state").c_str());
        CHECK(QTest::qWaitFor([&] { return state->text().startsWith("Sipper,simulated"); }, 5000));
    };
    // Without an instrument it says what is missing.
    d.find<QPushButton>("discharge.start")->click();
    CHECK_THAT(d.find<QLabel>("bench.complaint")->text().toStdString(),
               Catch::Contains("No electronic load"));
    join("meter");
    join("load");
    d.find<BenchList>("bench.list")->setFocus();
    d.act("action.readMeter");
    CHECK(QTest::qWaitFor([&] { return d.session.project().readings.all().size() == 1; }, 5000));
    CHECK(d.session.project().readings.all()[0].volts->value() == Approx(8.38).epsilon(0.01));
    d.type(d.find<QuantityEdit>("discharge.watts"), "20 W");
    d.type(d.find<QuantityEdit>("discharge.cut"), "6 V");
    d.find<QPushButton>("discharge.start")->click();
    CHECK(card->running());
    CHECK(QTest::qWaitFor([&] { return !card->running(); }, 15000));
    CHECK(QFileInfo(card->logPath()).size() > 500);
    auto* learn = d.find<CalibrationCard>("learnCard");
    REQUIRE(d.find<BenchView>("bench")->settle());
    QApplication::processEvents();
    REQUIRE(learn->learned());
    REQUIRE_FALSE(learn->learned()->parameters.empty());
    CHECK(learn->learned()->parameters[0].id == "health");
    CHECK(learn->learned()->parameters[0].after == Approx(0.9).margin(0.02));
    // An instrument that vanishes in a run is said, and the log is kept.
    d.find<QPushButton>("discharge.start")->click();
    CHECK(card->running());
    instruments.kill();
    instruments.waitForFinished(5000);
    CHECK(QTest::qWaitFor([&] { return !card->running(); }, 8000));
    CHECK_THAT(d.find<QLabel>("discharge.says")->text().toStdString(), Catch::Contains("kept"));
    CHECK(QFile::exists(card->logPath()));
    // Nobody there, and no address.
    d.find<QPushButton>("instrument.load.connect")->click();
    auto* state = d.find<QLabel>("instrument.load.state");
    CHECK(QTest::qWaitFor([&] { return !state->text().contains("asking"); }, 5000));
    CHECK_FALSE(state->text().startsWith("Sipper"));
    d.find<QLineEdit>("instrument.load")->setText("nonsense");
    d.find<QPushButton>("instrument.load.connect")->click();
    CHECK_THAT(state->text().toStdString(), Catch::Contains("no address"));
    QSettings().remove("instrument.meter");
    QSettings().remove("instrument.load");
}

TEST_CASE("a supply in the cells' place is set, limited, read back and let go", "[bench]") {
    Driven d; // the nest-box listener
    const QString file = d.folder.filePath("box.sipper");
    REQUIRE_FALSE(saveProject(file.toStdString(), d.session.project()));
    QProcess instruments;
    instruments.start(SIPPER_INSTRUMENTS, {file, "--speed", "60", "--seed", "5"});
    REQUIRE(instruments.waitForReadyRead(5000));
    const int port = nlohmann::json::parse(instruments.readLine().toStdString())["supply"];
    BenchView& view = benchView(d);
    REQUIRE(view.settle());
    SupplyBox& supply = d.find<InstrumentCard>("instrumentCard")->supply();
    CHECK_FALSE(d.find<QPushButton>("supply.switch")->isVisible());
    d.find<QLineEdit>("instrument.supply")->setText(QString::number(port));
    d.find<QPushButton>("instrument.supply.connect")->click();
    auto* state = d.find<QLabel>("instrument.supply.state");
    REQUIRE(QTest::qWaitFor([&] { return state->text().contains("simulated supply"); }, 5000));
    auto* volts = d.find<QuantityEdit>("supply.volts");
    auto* says = d.find<QLabel>("supply.says");
    auto* complaint = d.find<QLabel>("bench.complaint");
    // It stands at what the cells rest at, before anybody typed.
    const auto look = d.session.results().bench;
    REQUIRE(look);
    const auto shown = [&] {
        return readQuantity(volts->text().toStdString(), Unit::volt).value();
    };
    CHECK(shown() == Approx(*look->checks.front().expect).margin(0.006));
    CHECK(d.find<PlainCombo>("supply.mode")->isVisible());
    // More than an input bears is not set, nor forgotten.
    d.type(volts, "20 V");
    CHECK_THAT(complaint->text().toStdString(), Catch::Contains("bears 6.00 V at the most"));
    CHECK(shown() < 5);
    d.type(volts, "4 V");
    CHECK(complaint->text().isEmpty());
    d.find<QPushButton>("supply.switch")->click();
    REQUIRE(supply.on());
    REQUIRE(QTest::qWaitFor([&] { return state->text().startsWith("gives"); }, 5000));
    CHECK_THAT(state->text().toStdString(), Catch::Contains("gives 4"));
    // What it reads goes into a check of what the cells give, and nowhere else.
    auto* list = d.find<BenchList>("bench.list");
    const auto place = [&](CheckKind kind) {
        for (std::size_t i = 0; i < look->checks.size(); ++i)
            if (look->checks[i].kind == kind)
                return static_cast<int>(i);
        return -1;
    };
    list->mark(place(CheckKind::setPoint));
    d.find<QPushButton>("supply.take")->click();
    CHECK_THAT(complaint->text().toStdString(), Catch::Contains("in the cells' place"));
    CHECK(d.session.project().readings.all().empty());
    const int draw = place(CheckKind::draw);
    list->mark(draw);
    const BenchCheck& check = look->checks[static_cast<std::size_t>(draw)];
    CHECK(d.find<PlainCombo>("supply.mode")->currentData().toString().toStdString() == check.mode);
    CHECK(QTest::qWaitFor(
        [&] {
            d.find<QPushButton>("supply.take")->click();
            const auto& all = d.session.project().readings.all();
            d.find<BenchList>("bench.list")->mark(draw);
            return !all.empty() && all.back().amps &&
                   all.back().amps->value() == Approx(*check.expect).epsilon(0.2);
        },
        5000));
    // Limited to less than the line wants, it says so.
    d.type(d.find<QuantityEdit>("supply.limit"), "1 mA");
    CHECK(
        QTest::qWaitFor([&] { return says->text().startsWith("At its limit of 1.00 mA"); }, 5000));
    // Who leaves it leaves it off.
    d.find<QPushButton>("instrument.supply.connect")->click();
    CHECK_FALSE(supply.on());
    QTcpSocket other;
    other.connectToHost(QStringLiteral("127.0.0.1"), static_cast<quint16>(port));
    REQUIRE(other.waitForConnected(5000));
    other.write("OUTP?\n");
    REQUIRE(other.waitForReadyRead(5000));
    CHECK(other.readAll().trimmed() == "0");
    // One that vanishes while on is said to be perhaps still on.
    d.find<QPushButton>("instrument.supply.connect")->click();
    REQUIRE(QTest::qWaitFor([&] { return state->text().contains("simulated supply"); }, 5000));
    d.type(d.find<QuantityEdit>("supply.limit"), "2 A");
    d.find<QPushButton>("supply.switch")->click();
    REQUIRE(QTest::qWaitFor([&] { return state->text().startsWith("gives"); }, 5000));
    instruments.kill();
    instruments.waitForFinished(5000);
    CHECK(QTest::qWaitFor([&] { return !supply.on(); }, 8000));
    CHECK_THAT(complaint->text().toStdString(), Catch::Contains("may still be on"));
    QSettings().remove("instrument.supply");
}

TEST_CASE("without anything to check the bench says so", "[bench]") {
    Driven d;
    Project bare = d.session.project();
    bare.stages.clear();
    bare.loads.clear();
    REQUIRE_FALSE(d.session.edit("empty", bare));
    BenchView& view = benchView(d);
    CHECK(view.isVisible());
    CHECK(d.find<QLabel>("bench.answer")->text() == "0 of 0");
    CHECK(d.find<QLabel>("reading.title")->text() == "Nothing to check yet");
}

TEST_CASE("logs lie over their prediction, are kept and taken over", "[bench]") {
    Driven d;
    REQUIRE(d.window.openPath(
        QString::fromStdString(test::file("reference/paper-bellows.sipper").string())));
    BenchView& view = benchView(d);
    d.find<QPushButton>("bench.runs.show")->click();
    REQUIRE(view.settle());
    CHECK(d.find<QLabel>("runs.none")->isVisible());
    auto* card = d.find<CalibrationCard>("learnCard");
    card->askLogs = [] {
        QStringList paths;
        for (const char* n : {"1", "2", "3"})
            paths << QString::fromStdString(
                test::file(std::string("reference/paper-bellows-") + n + ".csv").string());
        return paths;
    };
    d.find<QPushButton>("learn.logs")->click();
    REQUIRE(view.settle());
    QApplication::processEvents();
    REQUIRE(card->lesson().runs.size() == 3);
    const RunComparison& run = card->lesson().runs[0];
    CHECK(d.find<QLabel>("bench.answer")->text() == hours(run.measuredHours));
    CHECK_THAT(d.find<QLabel>("bench.says")->text().toStdString(), Catch::Contains("predicted"));
    CHECK_THAT(d.find<QLabel>("runs.because")->text().toStdString(),
               Catch::Contains("People reckon"));
    CHECK_THAT(d.find<QLabel>("runs.rateNote")->text().toStdString(), Catch::Contains("3 runs"));
    // The tester's own watts count: more comes out, and it is said.
    const double before = card->lesson().sums.runs[0].wh;
    auto* own = d.find<QuantityEdit>("runs.own");
    own->setFocus();
    own->setText("0.2W");
    QTest::keyClick(own, Qt::Key_Return);
    REQUIRE(view.settle());
    QApplication::processEvents();
    CHECK(card->lesson().sums.runs[0].wh > before);
    CHECK_THAT(d.find<QLabel>("runs.rateNote")->text().toStdString(),
               Catch::Contains("added back"));
    d.find<QPushButton>("runs.keep")->click();
    CHECK(logEntries(d.session.project()).size() == 3);
    d.act("action.undo");
    CHECK(logEntries(d.session.project()).empty());
    REQUIRE(view.settle());
    QApplication::processEvents();
    // Taken over: one edit holds cells, basis and the book.
    d.find<QPushButton>("learn.take")->click();
    CHECK(logEntries(d.session.project()).size() == 4);
    CHECK(d.session.project().packStage()->basis == Basis::measured);
    d.find<QPushButton>("bench.logbook.show")->click();
    QApplication::processEvents();
    CHECK(d.find<QTableWidget>("logbook.table")->rowCount() >= 4);
    d.act("action.undo");
    CHECK(logEntries(d.session.project()).empty());
}

TEST_CASE("cells in the drawer are matched into the project's pack", "[bench][drawer]") {
    Driven d;
    QFile::remove(Session::drawerPath());
    REQUIRE(d.window.openPath(
        QString::fromStdString(test::file("reference/paper-bellows.sipper").string())));
    benchView(d);
    d.find<QPushButton>("bench.cells.show")->click();
    auto* page = d.find<InventoryPage>("cells");
    CHECK(page->cells().empty());
    // Typed: a cell like the project's, and what it holds.
    d.find<QPushButton>("cells.add")->click();
    REQUIRE(page->cells().size() == 1);
    CHECK(page->cells()[0].chemistry == d.session.project().pack()->cell.chemistry);
    auto* ah = d.find<QuantityEdit>("cells.ah");
    ah->setFocus();
    ah->setText("2.4");
    QTest::keyClick(ah, Qt::Key_Return);
    CHECK(page->cells()[0].ah == 2.4);
    CHECK_FALSE(page->cells()[0].when.empty());
    // Taken in beside it; one of the same name replaces the old one.
    test::Folder folder;
    std::string csv = "id,size,chemistry,label_ah,capacity_ah,ohm\n";
    for (int i = 1; i <= 8; ++i)
        csv += "cell " + std::to_string(i) + "," + page->cells()[0].size + "," +
               std::string(nameOf(page->cells()[0].chemistry)) + ",3," +
               std::to_string(2.2 + 0.05 * i) + ",0.03\n";
    REQUIRE_FALSE(writeFile(folder.file("mine.csv"), csv));
    page->takeIn(QString::fromStdString(folder.file("mine.csv").string()));
    REQUIRE(page->cells().size() == 8);
    CHECK(page->cells()[0].ah == Approx(2.25));
    d.find<QSpinBox>("cells.series")->setValue(2);
    d.find<QSpinBox>("cells.parallel")->setValue(3);
    REQUIRE(page->match());
    d.find<QPushButton>("cells.take")->click();
    const Pack* pack = d.session.project().pack();
    CHECK(pack->series == 2);
    CHECK(pack->parallel == 3);
    REQUIRE(pack->weakestGroup);
    CHECK(pack->weakestGroup->value() == Approx(page->match()->packAh));
    CHECK(d.session.project().packStage()->basis == Basis::measured);
    // More than there are: said, and no button.
    d.find<QSpinBox>("cells.parallel")->setValue(9);
    CHECK_FALSE(d.find<QPushButton>("cells.take")->isEnabled());
    CHECK_THAT(d.find<QLabel>("cells.cost")->text().toStdString(), Catch::Contains("take 18"));
    // Kept on disk, and a file that can't be read is not written over.
    CHECK(readCells(readFile(Session::drawerPath().toStdString()).value()).value() ==
          page->cells());
    QFile broken(Session::drawerPath());
    REQUIRE(broken.open(QIODevice::WriteOnly));
    broken.write("no drawer");
    broken.close();
    {
        Driven other;
        benchView(other);
        other.find<QPushButton>("bench.cells.show")->click();
        other.find<QPushButton>("cells.add")->click();
    }
    CHECK(readFile(Session::drawerPath().toStdString()).value() == "no drawer");
    QFile::remove(Session::drawerPath());
}

TEST_CASE("pins and a comparison are typed and kept with the project", "[bench][pins]") {
    Driven d;
    benchView(d);
    d.find<QPushButton>("bench.aside.show")->click();
    d.find<QPushButton>("aside.newPins")->click();
    auto* pins = d.find<QTableWidget>("aside.pins");
    REQUIRE(pins->rowCount() == 4);
    pins->item(1, 1)->setText("4.1");
    pins->item(2, 1)->setText("0");
    pins->item(2, 2)->setText("10k");
    const auto kept = pinSurveysOf(d.session.project());
    REQUIRE(kept.size() == 1);
    CHECK(kept[0].pins[0].volts == 4.1);
    CHECK(kept[0].pins[1].ohms == 10000);
    CHECK_THAT(pins->item(1, 3)->text().toStdString(), Catch::Contains("plus"));
    CHECK_THAT(pins->item(2, 3)->text().toStdString(), Catch::Contains("thermistor"));
    // Nonsense is refused, and nothing is lost.
    pins->item(1, 1)->setText("much");
    CHECK(d.find<QLabel>("bench.complaint")->isVisible());
    CHECK(pinSurveysOf(d.session.project())[0].pins[0].volts == 4.1);
    d.find<QPushButton>("aside.newPair")->click();
    const auto type = [&](const char* name, const char* text) {
        auto* edit = d.find<QLineEdit>(name);
        edit->setFocus();
        edit->setText(text);
        QTest::keyClick(edit, Qt::Key_Return);
    };
    type("aside.cells", "3.31 3.32 3.30");
    type("aside.supply", "3.31 3.30 3.32");
    CHECK_THAT(d.find<QLabel>("aside.pairSays")->text().toStdString(),
               Catch::Contains("No difference that this meter can see"));
    type("aside.supply", "3.51 loud");
    CHECK(d.find<QLabel>("bench.complaint")->isVisible());
    CHECK(pairsOf(d.session.project())[0].supply.size() == 3);
    // Each step can be undone.
    d.act("action.undo");
    d.act("action.undo");
    CHECK(pairsOf(d.session.project())[0].cells.empty());
}

TEST_CASE("a stand-in is begun from the window, and F9 reads every check inside its band",
          "[bench][practice]") {
    Driven d;
    benchView(d);
    auto* card = d.find<InstrumentCard>("instrumentCard");
    CHECK_FALSE(card->practising());
    d.find<QAction>("practise.right")->trigger();
    auto* state = d.find<QLabel>("instrument.meter.state");
    REQUIRE(QTest::qWaitFor([&] { return state->text().contains("simulated"); }, 10000));
    CHECK(card->practising());
    CHECK_THAT(d.find<QLabel>("practise.says")->text().toStdString(),
               Catch::StartsWith("Practice: meter, load and supply play"));
    const auto all = analyseBench(d.session.project()).checks.size();
    for (std::size_t i = 0; i < all; ++i) {
        d.find<QAction>("action.readMeter")->trigger();
        REQUIRE(QTest::qWaitFor([&] { return d.session.project().readings.all().size() == i + 1; },
                                5000));
        d.session.waitForIdle();
        QApplication::processEvents();
    }
    const BenchAnalysis bench = analyseBench(d.session.project());
    CHECK(bench.count(CheckVerdict::inside) == static_cast<int>(all));
    CHECK(bench.count(CheckVerdict::outside) == 0);
    // In a field with nothing of its own to take back, Ctrl+Z takes the last reading back.
    auto* list = d.find<BenchList>("bench.list");
    list->setFocus();
    QTest::keyClick(list, Qt::Key_Return);
    REQUIRE(list->field());
    REQUIRE(list->field()->hasFocus());
    QTest::keyClick(list->field(), Qt::Key_Z, Qt::ControlModifier);
    CHECK(d.session.project().readings.all().size() == all - 1);
    d.find<QAction>("practise.end")->trigger();
    CHECK_FALSE(card->practising());
    CHECK(d.find<QLabel>("instrument.meter.state")->text() == "not there");
}

TEST_CASE("readings of a faulty build point at the part, and nothing is learned of them",
          "[bench][practice]") {
    Driven d;
    benchView(d);
    // The guard open: nothing is read behind it.
    Project p = d.session.project();
    const FaultyBench faulty(p, {{"guard", FaultKind::failsOpen, {}}});
    for (const BenchCheck& c : analyseBench(p).checks) {
        if (unitRead(c.kind, c.quantity) != Unit::volt || c.kind == CheckKind::point)
            continue;
        Reading r;
        r.id = "f" + std::to_string(p.readings.all().size());
        r.checks = c.kind;
        r.at = c.at;
        r.mode = c.mode;
        r.volts = Volts{faulty.read(c, 1, Celsius{20}).value_or(0)};
        r.when = "2026-01-01T10:00";
        p.readings = p.readings.with(std::move(r));
    }
    REQUIRE_FALSE(d.session.edit("read", std::move(p)));
    for (int i = 0; i < 3; ++i) {
        d.session.waitForIdle();
        QApplication::processEvents();
    }
    CHECK_THAT(d.find<QLabel>("learn.fault")->text().toStdString(),
               Catch::Contains("Guard is open"));
    CHECK_FALSE(d.find<QPushButton>("learn.take")->isVisibleTo(&d.window));
}

TEST_CASE("pages of the bench without anything on them show what will stand there", "[bench]") {
    Driven d(100);
    benchView(d);
    d.find<QPushButton>("bench.runs.show")->click();
    for (int i = 0; i < 3; ++i) {
        d.session.waitForIdle();
        QApplication::processEvents();
    }
    CHECK(d.find<QCustomPlot>("runs.plot")->isVisibleTo(&d.window));
    CHECK_THAT(d.find<QLabel>("bench.answer")->text().toStdString(), Catch::StartsWith("±"));
    d.find<QPushButton>("bench.aside.show")->click();
    CHECK(d.find<QLabel>("bench.answer")->text() != "unknown");
    CHECK(d.find<QWidget>("aside.pinDrawing")->isVisibleTo(&d.window));
    CHECK(d.find<QWidget>("aside.pairDots")->isVisibleTo(&d.window));
    d.find<QPushButton>("bench.cells.show")->click();
    CHECK(d.find<QWidget>("cells.bars")->isVisibleTo(&d.window));
}
