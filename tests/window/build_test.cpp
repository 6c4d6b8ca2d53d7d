// SPDX-License-Identifier: GPL-3.0-or-later
// Building the line in the window, the library, and what is plugged in.
#include "driven.hpp"
#include "views/library/librarydialog.hpp"
#include "views/library/librarymodel.hpp"
#include "views/supplyline/buildbar.hpp"
#include "views/supplyline/curvescard.hpp"
#include "views/supplyline/lossfitdialog.hpp"

using namespace sipper;
using namespace sipper::app;
namespace core = sipper::test;

namespace {

/// Opens the bar's add menu and triggers one of its actions.
void addBy(Driven& d, const char* action) {
    auto* bar = d.find<BuildBar>("buildBar");
    QTimer::singleShot(0, [action] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        REQUIRE(menu);
        auto* found = menu->findChild<QAction*>(QLatin1String(action));
        REQUIRE(found);
        CHECK(found->isEnabled());
        found->trigger();
        menu->close();
    });
    bar->showAdd();
}

QString recipe(const char* name) {
    return QString::fromLatin1(SIPPER_SOURCE) + "/data/recipes/" + name + ".sipper";
}

} // namespace

TEST_CASE("the line is built in place: behind, before, branch, load, each one undo", "[build]") {
    Driven d;
    d.window.showView("supply-line");
    const Project before = d.session.project();
    d.session.select("guard");
    addBy(d, "behind.switch");
    CHECK(d.session.project().stage("switch")->fedBy.front() == "guard");
    CHECK(d.session.project().stage("boost5")->fedBy.front() == "switch");
    CHECK(d.session.selected() == "switch");
    CHECK(d.find<PartWidget>("stage.switch")->isVisible());
    CHECK(d.session.undoStack().undoText() == "add a switch behind Guard");
    d.session.select("recorder");
    addBy(d, "before.filter");
    CHECK(d.session.project().load("recorder")->fedBy == "filter");
    d.session.select("guard");
    addBy(d, "branch.linear");
    CHECK(test::figureOf(d.session.project().stage("linear")->part, "set_v") > 0);
    addBy(d, "add.load");
    CHECK(d.session.project().loads.back().fedBy == "linear");
    for (int i = 0; i < 4; ++i)
        d.act("action.undo");
    CHECK(d.session.project() == before);
}

TEST_CASE("what can't be built is not offered and says why", "[build]") {
    Driven d;
    d.window.showView("supply-line");
    d.session.select("cells");
    CHECK_FALSE(d.find<QToolButton>("build.left")->isEnabled());
    CHECK(d.find<QToolButton>("build.left")->toolTip() == "A source stays at the beginning.");
    CHECK_FALSE(d.find<QPushButton>("build.remove")->isEnabled());
    CHECK_THAT(d.find<QPushButton>("build.remove")->toolTip().toStdString(),
               Catch::Contains("the only source"));
    d.session.select("recorder");
    CHECK_FALSE(d.find<QPushButton>("build.swap")->isEnabled());
    d.session.select("");
    CHECK_FALSE(d.find<QPushButton>("build.feed")->isEnabled());
    CHECK_FALSE(d.find<QLineEdit>("build.name")->isEnabled());
}

TEST_CASE("stages are renamed, moved and taken out from the keyboard", "[build]") {
    Driven d;
    d.window.showView("supply-line");
    d.find<PartWidget>("stage.lead5")->setFocus();
    d.press(Qt::Key_F2);
    auto* name = d.find<QLineEdit>("build.name");
    CHECK(QApplication::focusWidget() == name);
    QTest::keyClicks(name, "Long lead");
    QTest::keyClick(name, Qt::Key_Return);
    CHECK(d.session.project().stage("lead5")->label == "Long lead");
    d.find<PartWidget>("stage.lead5")->setFocus();
    d.press(Qt::Key_Left, Qt::AltModifier);
    CHECK(d.session.project().stage("boost5")->fedBy.front() == "lead5");
    d.find<PartWidget>("stage.lead5")->setFocus();
    d.press(Qt::Key_Delete);
    CHECK(d.session.project().stage("lead5") == nullptr);
    CHECK(d.session.undoStack().undoText() == "take out Long lead");
    d.act("action.undo");
    d.act("action.undo");
    d.act("action.undo");
    CHECK(d.session.project() == core::example("nest-box-listener"));
}

TEST_CASE("a second source takes over where it is plugged in", "[build]") {
    Driven d;
    d.window.showView("supply-line");
    d.session.select("boost5");
    addBy(d, "takes.usb");
    const Project& p = d.session.project();
    REQUIRE(p.stage("usb"));
    const std::string select = p.stage("boost5")->fedBy.front();
    CHECK(kindName(p.stage(select)->part) == "select");
    CHECK(d.find<PartWidget>("stage.usb")->isVisible());
    const auto packAmps = [&] { return d.session.moment().flows.sourceAmps; };
    const double alone = packAmps();
    auto* plug = d.find<QPushButton>("plug.usb");
    CHECK_FALSE(plug->isChecked());
    plug->click();
    CHECK(packAmps() < alone);
    CHECK(d.session.plugged() == QStringList{"usb"});
    d.find<QPushButton>("plug.usb")->click();
    CHECK(packAmps() == Approx(alone));
    CHECK_FALSE(d.window.grab().isNull());
}

TEST_CASE("a tethered project has its verdict in amps, headroom and heat", "[build]") {
    Driven d;
    REQUIRE(d.window.openPath(recipe("adapter-and-buck")));
    d.window.showView("supply-line");
    const ExternalLoad t = externalLoadsOf(d.session.project()).front();
    CHECK(d.find<VerdictFigure>("verdict.runtime")->caption() == "Worst draw");
    CHECK(d.find<VerdictFigure>("verdict.runtime")->figure().toStdString() ==
          writeQuantity(t.worst.value, Unit::ampere));
    CHECK(d.find<VerdictFigure>("verdict.target")->caption() == "Headroom");
    CHECK(d.find<VerdictFigure>("verdict.worst")->figure().toStdString() ==
          writeQuantity(t.heatWatts, Unit::watt));
    CHECK(d.find<VerdictFigure>("verdict.advice")->figure() == "all fine");
    CHECK(d.find<PartWidget>("stage.brick")->isVisible());
    CHECK(d.session.plugged() == QStringList{"brick"});
    auto* mode = d.find<QComboBox>("build.mode");
    CHECK(mode->isVisible());
    mode->setCurrentIndex(1);
    emit mode->activated(1);
    CHECK(d.session.mode() == 1);
    // Its limit is typed too low: it trips, and one click mends it.
    d.session.select("brick");
    d.type(d.find<QuantityEdit>("field.limit_a"), "100 mA");
    CHECK(d.find<VerdictFigure>("verdict.advice")->figure() == "1 to mend");
    CHECK(d.session.results().findings.front().rule == "trips");
}

TEST_CASE("the library shows what each part would do here, and puts one in", "[library]") {
    Driven d;
    d.window.showView("supply-line");
    LibraryDialog dialog(d.session, "logic33", &d.window);
    REQUIRE(dialog.waitForIdle());
    auto* table = dialog.findChild<QTableView*>("library.table");
    REQUIRE(table->model()->rowCount() > 20);
    CHECK_THAT(dialog.findChild<QLabel*>("library.state")->text().toStdString(),
               Catch::Contains("would work here"));
    // Sorted by what it gains, the best first.
    double before = 1e9;
    for (int row = 0; row < 5; ++row) {
        const double gain =
            table->model()->index(row, LibraryModel::gain).data(LibraryModel::kSort).toDouble();
        CHECK(gain <= before);
        before = gain;
    }
    // What does not fit says why; a tick hides it.
    const int all = table->model()->rowCount();
    dialog.findChild<QCheckBox*>("library.fitting")->setChecked(true);
    CHECK(table->model()->rowCount() < all);
    dialog.findChild<QLineEdit*>("library.words")->setText("buck-boost nanoamp");
    REQUIRE(table->model()->rowCount() == 1);
    table->selectRow(0);
    const double hours =
        table->model()->index(0, LibraryModel::wouldRun).data(LibraryModel::kSort).toDouble();
    dialog.findChild<QPushButton*>("library.use")->click();
    CHECK(kindName(d.session.project().stage("logic33")->part) == "buck_boost");
    CHECK(d.session.results().runtime.hours->value() == Approx(hours).epsilon(0.005));
    CHECK_THAT(d.session.undoStack().undoText().toStdString(),
               Catch::Contains("in place of Linear 3.3"));
    d.act("action.undo");
    CHECK(d.session.project() == core::example("nest-box-listener"));
}

TEST_CASE("the library is browsed by figures, and keeps parts of one's own", "[library]") {
    Driven d;
    QDir(Session::partsFolder()).removeRecursively();
    d.session.select("boost5");
    LibraryDialog dialog(d.session, {}, &d.window);
    auto* table = dialog.findChild<QTableView*>("library.table");
    const int shipped = table->model()->rowCount();
    CHECK(shipped >= 80);
    auto* trade = dialog.findChild<QComboBox*>("library.trade");
    trade->setCurrentIndex(trade->findData("cells"));
    const int cells = table->model()->rowCount();
    CHECK(cells >= 40);
    auto* least = dialog.findChild<QuantityEdit*>("library.leastAmps");
    d.type(least, "10 A");
    const int strong = table->model()->rowCount();
    CHECK(strong > 3);
    CHECK(strong < cells);
    for (int row = 0; row < strong; ++row)
        CHECK(table->model()->index(row, LibraryModel::amps).data(LibraryModel::kSort).toDouble() >=
              10);
    least->clear();
    QTest::keyClick(least, Qt::Key_Return);
    CHECK(table->model()->rowCount() == cells);
    dialog.findChild<QLineEdit*>("library.words")->setText("18650 phosphate");
    CHECK(table->model()->rowCount() == 1);
    dialog.findChild<QLineEdit*>("library.words")->clear();
    trade->setCurrentIndex(0);
    // Kept, exported, removed, imported.
    dialog.findChild<QPushButton*>("library.keep")->click();
    dialog.findChild<QCheckBox*>("library.own")->setChecked(true);
    REQUIRE(table->model()->rowCount() == 1);
    table->selectRow(0);
    const QString file = d.folder.filePath("mine.json");
    dialog.askWhereToExport = [&](const QString&) { return file; };
    dialog.findChild<QPushButton*>("library.export")->click();
    CHECK(QFile::exists(file));
    dialog.findChild<QPushButton*>("library.remove")->click();
    CHECK(table->model()->rowCount() == 0);
    dialog.askWhatToImport = [&] { return file; };
    dialog.findChild<QPushButton*>("library.import")->click();
    REQUIRE(table->model()->rowCount() == 1);
    const auto back = loadPart((Session::partsFolder() + "/mine.json").toStdString());
    REQUIRE(back);
    CHECK(back.value().stage.part == d.session.project().stage("boost5")->part);
    // A bad file is named, and nothing is taken over.
    QFile bad(d.folder.filePath("bad.json"));
    REQUIRE(bad.open(QIODevice::WriteOnly));
    bad.write("{\"kind\": \"flux\"}");
    bad.close();
    dialog.askWhatToImport = [&] { return bad.fileName(); };
    dialog.findChild<QPushButton*>("library.import")->click();
    CHECK_THAT(dialog.findChild<QLabel*>("library.complaint")->text().toStdString(),
               Catch::Contains("bad.json") && Catch::Contains("expected"));
    QDir(Session::partsFolder()).removeRecursively();
}

TEST_CASE("a regulator's curves carry the modes' working points and its limits", "[curves]") {
    Driven d;
    d.window.showView("supply-line");
    d.session.select("boost5");
    auto* button = d.find<QPushButton>("build.curves");
    button->click();
    auto* efficiency = d.find<QCustomPlot>("curves.efficiency");
    CHECK(efficiency->isVisible());
    REQUIRE(d.window.findChild<CurvesCard*>()->settle());
    CHECK_FALSE(d.find<QWidget>("inspector")->isVisibleTo(&d.window));
    // Three inputs, and a point for each mode that draws.
    REQUIRE(efficiency->graphCount() == 3 + 4);
    const OperatingPoint now =
        operate(d.session.project(), typicalConditions(d.session.project()), d.session.charge(), 1);
    const StageFlow& f = now.flows.stages[static_cast<std::size_t>(
        d.session.project().stage("boost5") - d.session.project().stages.data())];
    const QCPGraphData point = *efficiency->graph(4)->data()->constBegin();
    CHECK(point.key == Approx(f.iOut));
    CHECK(point.value == Approx(100 * f.vOut * f.iOut / (f.vIn * f.iIn)));
    CHECK_THAT(d.find<QLabel>("curves.split")->text().toStdString(),
               Catch::StartsWith("Lost now: ") && Catch::Contains("own use"));
    auto* label = d.find<QLineEdit>("curves.label");
    label->setText("3 A, 15 W");
    CHECK_THAT(d.find<QLabel>("curves.means")->text().toStdString(),
               Catch::Contains("what its switch carries"));
    label->setText("strong");
    CHECK_THAT(d.find<QLabel>("curves.means")->text().toStdString(), Catch::Contains("expected"));
    // Another kind of stage has none: its figures are back.
    d.session.select("guard");
    CHECK(d.find<QWidget>("inspector")->isVisibleTo(&d.window));
}

TEST_CASE("losses are fitted from pasted points, as one undo", "[curves]") {
    Driven d;
    LossFitDialog dialog(d.session, "boost5", &d.window);
    auto* points = dialog.findChild<QPlainTextEdit*>("lossFit.points");
    CHECK_FALSE(dialog.findChild<QPushButton*>("lossFit.use")->isEnabled());
    points->setPlainText("3.6, 5, 0.05, 80 %\n3.6, 5, 0.3, 90 %\n3.6, 5, 0.8, 86 %\n3.0, 5, 0.5, "
                         "85 %");
    REQUIRE(dialog.fit());
    CHECK(dialog.fit()->worst < 0.05);
    CHECK_THAT(dialog.findChild<QLabel*>("lossFit.terms")->text().toStdString(),
               Catch::Contains("worst error"));
    points->setPlainText("3.6, 5, 0.05");
    CHECK_FALSE(dialog.fit());
    CHECK_THAT(dialog.findChild<QLabel*>("lossFit.complaint")->text().toStdString(),
               Catch::Contains("row 1"));
    points->setPlainText("3.6, 5, 0.05, 80 %\n3.6, 5, 0.3, 90 %\n3.6, 5, 0.8, 86 %");
    const Project before = d.session.project();
    dialog.findChild<QPushButton*>("lossFit.use")->click();
    CHECK(d.session.undoStack().undoText() == "fit the losses of Boost 5");
    CHECK(d.figure("boost5", "fixed_w") != test::figureOf(before.stage("boost5")->part, "fixed_w"));
    d.act("action.undo");
    CHECK(d.session.project() == before);
}

TEST_CASE("a pack shows its sums, a socket how it says what it gives", "[build]") {
    Driven d;
    d.window.showView("supply-line");
    d.session.select("cells");
    CHECK(d.find<QLabel>("fact.sums")->text() == "3.60 V · 9.00 Ah · 32.4 Wh");
    d.type(d.find<QuantityEdit>("field.parallel"), "4");
    CHECK(d.find<QLabel>("fact.sums")->text() == "3.60 V · 12.0 Ah · 43.2 Wh");
    d.act("action.undo");
    REQUIRE(d.window.openPath(recipe("socket-cell-power-path")));
    d.session.select("socket");
    const auto labels = d.find<QFrame>("inspector")->findChildren<QLabel*>();
    CHECK(std::any_of(labels.begin(), labels.end(),
                      [](const QLabel* l) { return l->text().contains("5.1k to ground"); }));
}
