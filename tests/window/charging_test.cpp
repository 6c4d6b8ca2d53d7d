// SPDX-License-Identifier: GPL-3.0-or-later
// The Charging view in a real window, by keyboard and mouse.
#include "charge/choices.hpp"
#include "driven.hpp"
#include "parts/chemistry.hpp"
#include "project/build.hpp"
#include "protect/rebound.hpp"
#include "views/charging/chargeplot.hpp"
#include "views/charging/chargingview.hpp"
#include "views/charging/choicescard.hpp"
#include "views/charging/fillcard.hpp"
#include "views/charging/ladder.hpp"
#include "views/supplyline/buildbar.hpp"
#include "widgets/energystream.hpp"

using namespace sipper;
using namespace sipper::app;

namespace {

struct Charging : Driven {
    Charging() {
        REQUIRE(window.openExample("moth-counter"));
        QTest::keyClick(&window, Qt::Key_5, Qt::ControlModifier);
        settle();
    }
    void settle() {
        for (int i = 0; i < 3; ++i) {
            session.waitForIdle();
            QApplication::processEvents();
        }
    }
    ChargingView* view() { return find<ChargingView>("charging"); }
    QString answer() { return find<QLabel>("charging.answer")->text(); }
    QString why() { return find<QLabel>("charging.why")->text(); }
    LadderCard* ladder() { return find<LadderCard>("chargeLadder"); }
    ChargePlot* plot() { return find<ChargePlot>("charge.plot"); }
};

/// Opens the bar's add menu and takes its charger; false where that is greyed.
bool addCharger(Driven& d) {
    auto* bar = d.find<BuildBar>("buildBar"); // runs events: before the timer
    bool enabled = false;
    QTimer::singleShot(0, [&enabled] {
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        REQUIRE(menu);
        auto* found = menu->findChild<QAction*>("add.charger");
        REQUIRE(found);
        enabled = found->isEnabled();
        CHECK_FALSE(found->toolTip().isEmpty());
        found->trigger();
        menu->close();
    });
    bar->showAdd();
    return enabled;
}

} // namespace

TEST_CASE("the charging view says hours and who holds it back", "[charging]") {
    Charging d;
    const ChargeRun expected = chargeOf(d.session.project(), {}).value();
    CHECK(d.answer().toStdString() == writeHours(*expected.hoursToFull));
    CHECK_THAT(d.why().toStdString(), Catch::Contains("Held back by the socket") &&
                                          Catch::Contains(writeHours(*expected.hoursTo80)));
    // The same figure in the verdict and in the steps.
    CHECK_THAT(d.find<VerdictFigure>("verdict.refill")->figure().toStdString(),
               Catch::Contains(writeHours(*expected.hoursToFull)));
    CHECK(d.ladder()->least() == ChargeLimit::source);
    CHECK(d.ladder()->rowText(ChargeLimit::powerLimit) == "none set");
    CHECK(d.ladder()->rowText(ChargeLimit::cell) == "3.00 A");
    CHECK_THAT(d.ladder()->sentence().toStdString(),
               Catch::Contains("Lift the socket and the set current is next"));
}

TEST_CASE("the marker walks through the charge by key and mouse", "[charging]") {
    Charging d;
    d.plot()->setFocus();
    QTest::keyClick(d.plot(), Qt::Key_End);
    CHECK(d.plot()->marker() == Approx(*d.view()->charge()->hoursToFull));
    CHECK(d.ladder()->least() == ChargeLimit::cv);
    QTest::keyClick(d.plot(), Qt::Key_Home);
    CHECK(d.plot()->marker() == 0);
    CHECK(d.ladder()->least() == ChargeLimit::source);
    const QPoint middle = d.plot()->axisRect()->rect().center();
    QTest::mouseClick(d.plot(), Qt::LeftButton, Qt::NoModifier, middle);
    CHECK(d.plot()->marker() == Approx(d.plot()->xAxis->pixelToCoord(middle.x())).epsilon(0.01));
}

TEST_CASE("start, air and the device's mode are asked for in the row", "[charging]") {
    Charging d;
    const double before = *d.view()->charge()->hoursToFull;
    d.type(d.find<QuantityEdit>("charging.from"), "60 %");
    d.settle();
    CHECK(*d.view()->charge()->hoursToFull < 0.6 * before);
    CHECK(d.view()->charge()->curve.front().charge == Approx(0.6));
    d.type(d.find<QuantityEdit>("charging.air"), "-4");
    d.settle();
    CHECK(d.answer() == "Never");
    CHECK_THAT(d.why().toStdString(), Catch::Contains("colder than these cells may be charged"));
    CHECK_FALSE(d.plot()->yAxis->tickLabels()); // no scale without a curve
    d.type(d.find<QuantityEdit>("charging.air"), "");
    d.type(d.find<QuantityEdit>("charging.from"), "120 %");
    CHECK_FALSE(d.find<QuantityEdit>("charging.from")->complaint().isEmpty());
}

TEST_CASE("a choice opens as another variant, and undo takes it back", "[charging]") {
    Charging d;
    const std::size_t variants = d.session.document().variants.size();
    QAbstractButton* better = nullptr;
    for (auto* row : d.window.findChildren<ChoiceRow*>())
        if (!row->look().yours && row->look().hours && !better)
            better = row;
    REQUIRE(better);
    const double hours = *static_cast<ChoiceRow*>(better)->look().hours;
    better->setFocus();
    QTest::keyClick(better, Qt::Key_Space);
    d.settle();
    CHECK(d.session.document().variants.size() == variants + 1);
    CHECK(*d.view()->charge()->hoursToFull == Approx(hours));
    d.session.undoStack().undo();
    d.settle();
    CHECK(d.session.document().variants.size() == variants);
}

TEST_CASE("the schools of rate say what they cost, and refusals stand by reason", "[charging]") {
    Charging d;
    d.find<QPushButton>("choices.rates.show")->click();
    QStringList names;
    for (auto* row : d.window.findChildren<ChoiceRow*>())
        if (!row->objectName().isEmpty()) // what is on its way out has lost its name
            names << row->look().name;
    CHECK(names.join(", ").toStdString() == "0.3 C, 0.5 C, the cells' limit");
    d.find<QPushButton>("choices.sources.show")->click();
    // What is over the linear charger's input comes with a buck in its place.
    int bucks = 0;
    for (auto* row : d.window.findChildren<ChoiceRow*>())
        if (!row->objectName().isEmpty() && row->look().name.endsWith("through a buck")) {
            ++bucks;
            CHECK(row->look().hours);
        }
    CHECK(bucks > 3);
    d.find<QPushButton>("choices.paths.show")->click();
    QStringList says;
    for (auto* label : d.find<QWidget>("choicesBody")->findChildren<QLabel*>())
        says << label->text();
    CHECK(says.join(' ').contains("has a power path already"));
    REQUIRE(d.window.openExample("hedge-lantern"));
    d.settle();
    d.find<QPushButton>("choices.sources.show")->click();
    CHECK_THAT(d.find<QLabel>("choice.refused.wrong_topology")->text().toStdString(),
               Catch::Contains("can't get from there to the pack") &&
                   Catch::Contains("5 V socket, 0.5 A"));
}

TEST_CASE("without a charger the view says how to come by one", "[charging]") {
    Charging d;
    REQUIRE(d.window.openExample("nest-box-listener"));
    QTest::keyClick(&d.window, Qt::Key_5, Qt::ControlModifier);
    d.settle();
    CHECK(d.answer() == "No charger");
    CHECK_FALSE(d.window.findChild<QAbstractButton*>("verdict.refill")->isVisibleTo(&d.window));
}

TEST_CASE("a charger is added on the line, drawn, fed and taken out again", "[charging]") {
    Driven d;
    REQUIRE(d.window.openExample("nest-box-listener"));
    QTest::keyClick(&d.window, Qt::Key_3, Qt::ControlModifier);
    Project with = d.session.project();
    Stage wall;
    wall.id = "wall";
    Adapter adapter;
    adapter.set = Volts{9};
    adapter.limit = Amps{2};
    wall.part = adapter;
    REQUIRE_FALSE(d.session.edit("a source", withSource(with, wall)));
    d.session.select("wall");
    CHECK(addCharger(d));
    CHECK(d.session.selected() == "charger");
    CHECK(d.session.project().stage("charger")->fedBy == std::vector<std::string>{"wall"});
    CHECK(d.find<QLabel>("inspector.title")->text() == "Charger");
    // Plugged in, the cells take what the charger gives.
    d.session.plug("wall", true);
    CHECK(d.session.moment().flows.sourceAmps < 0);
    d.session.plug("wall", false);
    CHECK(d.session.moment().flows.sourceAmps > 0);
    d.find<QPushButton>("build.remove")->click();
    CHECK_FALSE(d.session.project().stage("charger"));
    // On what the pack feeds it can't hang, and says why.
    d.session.select(QString::fromStdString(d.session.project().stages[2].id));
    CHECK_FALSE(addCharger(d));
}

TEST_CASE("packs to be joined and the order on the bench have pages of their own", "[charging]") {
    Charging d;
    d.find<QPushButton>("choices.packs.show")->click();
    auto* volts = d.find<QLineEdit>("packs.volts");
    auto* answer = d.find<QLabel>("packs.answer");
    volts->setFocus();
    volts->selectAll();
    QTest::keyClicks(volts, "4.1 V, 3.7 V");
    CHECK_THAT(answer->text().toStdString(), Catch::Contains("they meet at 3.90 V"));
    CHECK_THAT(answer->text().toStdString(), Catch::Contains("Charge pack 2 first"));
    volts->selectAll();
    QTest::keyClicks(volts, "3,71 V, 3,70 V");
    CHECK_THAT(answer->text().toStdString(), Catch::Contains("within what the cells take"));
    volts->selectAll();
    QTest::keyClicks(volts, "4.1 V, full");
    CHECK_THAT(answer->text().toStdString(), Catch::Contains("Found “full”"));
    d.find<QPushButton>("choices.setup.show")->click();
    CHECK_THAT(d.find<QLabel>("setup.1")->text().toStdString(), Catch::Contains("Source alone"));
    REQUIRE(d.window.openExample("hedge-lantern"));
    d.settle();
    QStringList says;
    for (auto* label : d.find<QWidget>("choicesBody")->findChildren<QLabel*>())
        says << label->text();
    CHECK_THAT(says.join(' ').toStdString(), Catch::Contains("no safety device"));
}

TEST_CASE("the energy of a charge is one stream that adds up", "[charging]") {
    Charging d;
    const ChargeRun c = chargeOf(d.session.project(), {}).value();
    double sum = 0;
    for (const auto& e : ChoicesCard::energyOf(d.session.project(), c.ledger))
        sum += e.wattHours;
    CHECK(sum == Approx(c.ledger.input).epsilon(1e-6));
    d.find<QPushButton>("choices.energy.show")->click();
    auto* stream = d.find<EnergyStream>("charge.energy");
    CHECK(stream->entriesShown().size() >= 3);
    stream->setFocus();
    QTest::keyClick(stream, Qt::Key_Right);
    CHECK_THAT(stream->reading().toStdString(), Catch::Contains("Wh"));
}

TEST_CASE("a bigger pack and several chargers on one supply are told from the charge",
          "[charging]") {
    Charging d;
    d.find<QPushButton>("choices.packs.show")->click();
    d.settle();
    const ChargeRun c = chargeOf(d.session.project(), {}).value();
    const double wh = benchPackOf(d.session.project(), c.charger).wattHours;
    auto* big = d.find<QuantityEdit>("packs.big");
    big->setFocus();
    big->selectAll();
    QTest::keyClicks(big, "100 Wh");
    QTest::keyClick(big, Qt::Key_Return);
    const double times = fillsFrom(100, 0.85, wh, c.storedWh / c.ledger.input);
    CHECK_THAT(d.find<QLabel>("packs.fills")->text().toStdString(),
               Catch::Contains(QString::number(times, 'f', 1).toStdString() + " times"));
    const auto shared = sharedSupply(d.session.project(), {}, 4);
    REQUIRE(shared.size() == 4);
    for (std::size_t i = 0; i < shared.size(); ++i) {
        auto* row = d.find<ChoiceRow>(("choice.shared." + std::to_string(i)).c_str());
        CHECK(row->look().hours.has_value() == shared[i].hours.has_value());
        if (shared[i].hours)
            CHECK(*row->look().hours == Approx(*shared[i].hours));
    }
}

TEST_CASE("cells that nothing fills are filled by a click, source and charger as one edit",
          "[charging][fill]") {
    Driven d;
    d.window.showView("charging");
    for (int i = 0; i < 3; ++i) {
        d.session.waitForIdle();
        QApplication::processEvents();
    }
    auto* card = d.find<FillCard>("fillCard");
    REQUIRE(card->isVisibleTo(&d.window));
    REQUIRE(card->choices().size() > 3);
    CHECK(d.find<QLabel>("charging.answer")->text() == "No charger");
    CHECK_THAT(d.find<QLabel>("charging.why")->text().toStdString(),
               Catch::StartsWith("Nothing fills these cells yet"));
    const Project before = d.session.project();
    const FillChoice first = card->choices().front();
    REQUIRE(first.choice.hours);
    auto* row = d.find<ChoiceRow>("fill.0");
    row->setFocus();
    QTest::keyClick(row, Qt::Key_Space);
    for (int i = 0; i < 3; ++i) {
        d.session.waitForIdle();
        QApplication::processEvents();
    }
    CHECK(d.session.project() == filledBy(before, first));
    CHECK_FALSE(chargersOf(d.session.project()).empty());
    CHECK_FALSE(card->isVisibleTo(&d.window));
    CHECK(d.find<QLabel>("charging.answer")->text() != "No charger");
    d.session.undoStack().undo();
    CHECK(d.session.project() == before);
}

TEST_CASE("in place of cells that are thrown away stand those that can be charged",
          "[charging][fill]") {
    Driven d;
    REQUIRE(d.window.openExample("model-ferry-winch"));
    d.window.showView("charging");
    const auto settle = [&d] {
        for (int i = 0; i < 3; ++i) {
            d.session.waitForIdle();
            QApplication::processEvents();
        }
    };
    settle();
    auto* card = d.find<FillCard>("fillCard");
    REQUIRE(card->isVisibleTo(&d.window));
    CHECK(card->choices().empty());
    REQUIRE(card->cells().size() > 1);
    CHECK_THAT(d.find<QLabel>("charging.why")->text().toStdString(),
               Catch::StartsWith("These cells must not be charged"));
    const Project before = d.session.project();
    const CellChoice first = card->cells().front();
    REQUIRE(first.hours);
    d.find<ChoiceRow>("fill.cells.0")->click();
    settle();
    const Project& after = d.session.project();
    CHECK(canRecharge(after.pack()->cell));
    // Cells that can be charged can be ruined: they come with a guard at their own volts.
    const auto guards = guardsOf(after, predictRuntime(after), {});
    REQUIRE_FALSE(guards.empty());
    CHECK(guards.front().cutoff ==
          Approx(after.pack()->series *
                 policyCutoff(after.pack()->cell.chemistry, CellCare::balanced)));
    CHECK(predictRuntime(after).hours->value() == Approx(*first.hours).epsilon(1e-3));
    CHECK_FALSE(card->choices().empty()); // and what fills them
    d.session.undoStack().undo();
    CHECK(d.session.project() == before);
}
