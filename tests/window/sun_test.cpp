// SPDX-License-Identifier: GPL-3.0-or-later
// The page Sun in a real window.
#include "driven.hpp"
#include "solar/text.hpp"
#include "views/charging/choicescard.hpp"
#include "views/charging/suncard.hpp"
#include "views/charging/sunkneeplot.hpp"
#include "views/charging/sunmapplot.hpp"
#include "views/charging/sunpage.hpp"
#include "views/charging/sunyearplot.hpp"

using namespace sipper;
using namespace sipper::app;

namespace {

/// On the mast, with one year of weather, so that a test does not wait for ten.
struct Sunny : Driven {
    Sunny() {
        REQUIRE(window.openExample("ridge-weather-mast"));
        QTest::keyClick(&window, Qt::Key_5, Qt::ControlModifier);
        QApplication::processEvents();
        auto* years = find<QComboBox>("sun.years");
        years->setCurrentIndex(0);
        emit years->activated(0);
        ready();
    }
    /// The year is there; map and the rest may go on.
    void ready() {
        session.jobs().waitForIdle(QStringLiteral("sun-year"));
        QApplication::processEvents();
    }
    SunPage* page() { return find<SunPage>("sun"); }
    SunYearPlot* plot() { return find<SunYearPlot>("sun.year"); }
    QString answer() { return find<QLabel>("charging.answer")->text(); }
    QString why() { return find<QLabel>("charging.why")->text(); }
    /// The same year by the core alone.
    SolarYear expected() {
        const auto weather = usualWeather(session.project(), 1, kSunYears);
        REQUIRE(weather);
        return sunYear(session.project(), weather.value()).value();
    }
};

} // namespace

TEST_CASE("the sun's page says what the core says", "[sun]") {
    Sunny d;
    REQUIRE(d.page()->year());
    const SolarYear y = d.expected();
    CHECK(d.page()->year()->all == y.all);
    CHECK_THAT(d.why().toStdString(), Catch::Contains(sunHeadline(y)));
    CHECK(d.answer().toStdString() ==
          (y.all.lossOfLoadHours > 0 ? writeHours(y.all.lossOfLoadHours) : "Nothing"));
    // What belongs to a charge from a socket is not asked of a panel.
    CHECK_FALSE(d.window.findChild<QWidget*>("charging.from")->isVisible());
    CHECK(d.find<QLabel>("sun.rule")->text().contains("Rule of thumb"));
}

TEST_CASE("hours of the year are read by key, and the line goes to their charge", "[sun]") {
    Sunny d;
    d.plot()->setFocus();
    QTest::keyClick(d.plot(), Qt::Key_Right);
    QTest::keyClick(d.plot(), Qt::Key_Up);
    REQUIRE(d.plot()->marked());
    CHECK(*d.plot()->marked() == 25);
    CHECK_THAT(d.find<QLabel>("sun.reading")->text().toStdString(),
               Catch::StartsWith("2 January, 01:00: charge "));
    QTest::keyClick(d.plot(), Qt::Key_Return);
    CHECK(d.session.charge() ==
          Approx(static_cast<double>(d.page()->year()->worstCharge[25])).margin(1e-6));
    CHECK(d.session.light() == 0); // at one in the night
    const QPoint middle = d.plot()->axisRect()->rect().center();
    QTest::mouseMove(d.plot(), middle);
    QTest::mouseClick(d.plot(), Qt::LeftButton, {}, middle);
    CHECK(*d.plot()->marked() % 24 == 12);
    CHECK(d.session.light() > 50); // a noon in summer, with its light
    CHECK(*d.session.lightAir() > 5);
    CHECK(d.session.charge() ==
          Approx(static_cast<double>(d.page()->year()->worstCharge[*d.plot()->marked()])));
}

TEST_CASE("one click sets the charger to the panel's knee", "[sun]") {
    Sunny d;
    CHECK_THAT(d.find<SunKneePlot>("sun.knee")->standText().toStdString(),
               Catch::Contains("asks 500 mA"));
    auto* set = d.find<QPushButton>("sun.setKnee");
    REQUIRE(set->isVisible());
    const QString says = set->text();
    set->click();
    const auto& charger = std::get<Charger>(d.session.project().stage("topper")->part);
    CHECK_THAT(says.toStdString(),
               Catch::Contains(writeQuantity(charger.programOhm->value(), Unit::ohm)));
    CHECK(charger.chargeCurrent->value() == Approx(1000.0 / charger.programOhm->value()));
    CHECK(charger.chargeCurrent->value() < 0.13);
    d.ready();
    CHECK_FALSE(d.window.findChild<QPushButton*>("sun.setKnee")->isVisible());
    CHECK(d.session.undoStack().undoText().contains("knee"));
}

TEST_CASE("place, climate and seed change the weather", "[sun]") {
    Sunny d;
    const double before = d.page()->year()->all.availableWh;
    auto* seed = d.find<QuantityEdit>("sun.seed");
    seed->setFocus();
    seed->selectAll();
    QTest::keyClicks(seed, "7");
    QTest::keyClick(seed, Qt::Key_Return);
    d.ready();
    CHECK(d.page()->year()->all.availableWh != before);
    auto* latitude = d.find<QuantityEdit>("sun.latitude");
    latitude->setFocus();
    latitude->selectAll();
    QTest::keyClicks(latitude, "-47.2");
    QTest::keyClick(latitude, Qt::Key_Return);
    d.ready();
    CHECK(d.session.project().brief.latitude->value() == Approx(-47.2));
    // A panel turned south sees little there in its winter.
    CHECK(d.page()->year()->all.availableWh < before);
    auto* climate = d.find<QComboBox>("sun.climate");
    climate->setCurrentIndex(climate->findData("desert"));
    emit climate->activated(climate->currentIndex());
    d.ready();
    CHECK(d.session.project().brief.climate == "desert");
}

TEST_CASE("weather from a file takes the stand-in's place; a bad one says its row", "[sun]") {
    Sunny d;
    d.page()->openWeather(
        QString::fromStdString(test::file("reference/toad-lane.weather.csv").string()));
    d.session.jobs().waitForIdle(QStringLiteral("sun-weather"));
    d.ready();
    CHECK(d.find<QLabel>("sun.weather")->text() == "toad-lane.weather.csv");
    CHECK_FALSE(d.find<QuantityEdit>("sun.seed")->isEnabled());
    const auto held = d.page()->year()->all;
    const test::Folder folder;
    std::ofstream(folder.file("bad.csv")) << "time,ghi_w_m2\n2001-01-01T00:00,dim\n";
    d.page()->openWeather(QString::fromStdString(folder.file("bad.csv").string()));
    d.session.jobs().waitForIdle(QStringLiteral("sun-weather"));
    QApplication::processEvents();
    CHECK_THAT(d.find<QLabel>("sun.complaint")->text().toStdString(),
               Catch::Contains("row 2: found \"dim\""));
    CHECK(d.page()->year()->all == held);
}

TEST_CASE("levers, need and watch are shown as they were run", "[sun]") {
    Sunny d;
    d.session.jobs().waitForIdle(QStringLiteral("sun-beside"), 60000);
    QApplication::processEvents();
    d.find<QPushButton>("beside.levers.show")->click();
    const auto weather = usualWeather(d.session.project(), 1, kSunYears);
    REQUIRE(weather);
    const auto levers =
        solarImprovements(d.session.project(), weather.value(), "", 1, loadLibrary());
    REQUIRE(levers.size() >= 4);
    for (std::size_t i = 0; i < levers.size(); ++i) {
        auto* row = d.find<ChoiceRow>(("sun.lever." + std::to_string(i)).c_str());
        CHECK(row->look().name.toStdString() == levers[i].says);
    }
    d.find<ChoiceRow>("sun.lever.0")->click();
    QApplication::processEvents();
    CHECK(d.session.document().variants.size() == 1);
    CHECK(d.session.project().stages == levers[0].project.stages);
}

TEST_CASE("the map fills in, is read by key, and a pair opens as a variant", "[sun]") {
    Sunny d;
    REQUIRE(d.session.jobs().waitForIdle(QStringLiteral("sun-map"), 120000));
    QApplication::processEvents();
    auto* map = d.find<SunMapPlot>("sun.map");
    map->setFocus();
    QTest::keyClick(map, Qt::Key_Right);
    CHECK_THAT(map->reading().toStdString(), Catch::Contains("1.12 W and "));
    CHECK(d.find<QLabel>("beside.mapReading")->text() == map->reading());
    for (int i = 0; i < 5; ++i)
        QTest::keyClick(map, Qt::Key_Right);
    for (int i = 0; i < 6; ++i)
        QTest::keyClick(map, Qt::Key_Up);
    CHECK_THAT(map->reading().toStdString(), Catch::Contains("2.00 W and 21.6 Wh: nothing missed"));
    QTest::keyClick(map, Qt::Key_Return);
    QApplication::processEvents();
    REQUIRE(d.session.document().variants.size() == 1);
    CHECK(d.session.project().pack()->parallel == 2);
    CHECK(*std::get<sipper::Panel>(d.session.project().stage("panel")->part).countParallel ==
          Approx(2));
}

TEST_CASE("whatever pair of the map is taken can be saved and opened again", "[sun]") {
    Sunny d;
    REQUIRE(d.session.jobs().waitForIdle(QStringLiteral("sun-map"), 120000));
    QApplication::processEvents();
    auto* map = d.find<SunMapPlot>("sun.map");
    map->setFocus();
    for (int i = 0; i < 8; ++i)
        QTest::keyClick(map, Qt::Key_Right);
    QTest::keyClick(map, Qt::Key_Return);
    QApplication::processEvents();
    const double count =
        *std::get<sipper::Panel>(d.session.project().stage("panel")->part).countParallel;
    CHECK(count == std::round(count));
    const QString file = d.folder.filePath("pair.sipper");
    REQUIRE_FALSE(d.session.save(file));
    CHECK(loadProject(file.toStdString()));
}

TEST_CASE("a reading at noon sets the field factor", "[sun]") {
    Sunny d;
    d.find<QPushButton>("beside.reading.show")->click();
    auto* amps = d.find<QuantityEdit>("reading.amps");
    amps->setFocus();
    QTest::keyClicks(amps, "140 mA");
    QTest::keyClick(amps, Qt::Key_Return);
    const auto& panel = std::get<sipper::Panel>(d.session.project().stage("panel")->part);
    const double factor = *fieldFactorFrom(panel, 47.2, 172, 12, 0.14);
    CHECK_THAT(d.find<QLabel>("reading.answer")->text().toStdString(),
               Catch::Contains(writeShare(factor)));
    auto* watts = d.find<QuantityEdit>("reading.watts");
    amps->setFocus();
    amps->selectAll();
    QTest::keyClick(amps, Qt::Key_Delete);
    QTest::keyClick(amps, Qt::Key_Return);
    watts->setFocus();
    QTest::keyClicks(watts, "0.6 W");
    QTest::keyClick(watts, Qt::Key_Return);
    CHECK_THAT(d.find<QLabel>("reading.answer")->text().toStdString(),
               Catch::Contains(writeShare(*fieldFactorFromWatts(panel, 47.2, 172, 12, 6, 0.6))));
    amps->setFocus();
    QTest::keyClicks(amps, "140 mA");
    QTest::keyClick(amps, Qt::Key_Return);
    d.find<QPushButton>("reading.take")->click();
    CHECK(*std::get<sipper::Panel>(d.session.project().stage("panel")->part).fieldFactor ==
          Approx(factor));
}

TEST_CASE("verdict and steps speak of the year where the sun refills", "[sun]") {
    Driven d;
    REQUIRE(d.window.openExample("ridge-weather-mast"));
    d.session.waitForIdle();
    QApplication::processEvents();
    const SolarAnalysis* sun = d.session.results().sun();
    REQUIRE(sun);
    CHECK(d.find<VerdictFigure>("verdict.target")->figure() == "all year");
    CHECK(d.find<VerdictFigure>("verdict.refill")->figure().contains("× need"));
    bool knee = false;
    for (const Finding& f : d.session.results().deep->findings)
        knee = knee || f.rule == "panel_knee";
    CHECK(knee);
}
