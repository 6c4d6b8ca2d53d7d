// SPDX-License-Identifier: GPL-3.0-or-later
// The Runtime view: levers and the envelope.
#include "driven.hpp"

#include "runtime/handestimate.hpp"
#include "views/runtime/improvementscard.hpp"
#include "views/runtime/ledgerstream.hpp"
#include "views/runtime/runtimeview.hpp"

using namespace sipper;
using namespace sipper::app;
namespace core = sipper::test;

TEST_CASE("levers are ranked in the view, and one click takes the step", "[levers]") {
    Driven d;
    d.window.showView("runtime");
    auto* card = d.find<ImprovementsCard>("leversCard");
    REQUIRE(card->settle());
    QApplication::processEvents();
    REQUIRE(card->levers().size() > 5);
    const Improvement first = card->levers().front();
    CHECK(d.find<QLabel>("lever.0.gain")->text().toStdString() ==
          "+" + writeHours(first.gainHours));
    const double now = d.session.results().runtime.hours->value();
    d.find<QPushButton>("lever.0.use")->click();
    CHECK(d.session.project() == first.project);
    CHECK(d.session.results().runtime.hours->value() ==
          Approx(now + first.gainHours).epsilon(1e-3));
    CHECK(d.session.undoStack().undoText().toStdString() == first.name);
    // The list follows the project.
    REQUIRE(card->settle());
    CHECK(card->levers().front().hours > first.hours);
    d.act("action.undo");
    CHECK(d.session.project() == core::example("nest-box-listener"));
}

TEST_CASE("the envelope's figures and the run stand together", "[levers]") {
    Driven d;
    d.window.showView("runtime");
    d.find<QPushButton>("envelope.show")->click();
    const Results& r = d.session.results();
    for (const HandEstimate& e : handEstimates(d.session.project(), r.runtime, r.budget)) {
        const std::string text =
            d.find<QLabel>(("envelope." + e.rule).c_str())->text().toStdString();
        CHECK_THAT(text, Catch::Contains(writeHours(e.hours)) &&
                             Catch::Contains("= " + writeHours(r.runtime.hours->value())));
    }
    d.find<QPushButton>("levers.show")->click();
    REQUIRE(d.find<ImprovementsCard>("leversCard")->settle());
    CHECK(d.find<QLabel>("lever.0.gain")->isVisible());
}

TEST_CASE("the range is explained, and the charge said in other units", "[levers]") {
    Driven d{kSamples};
    d.window.showView("runtime");
    d.find<QPushButton>("range.show")->click();
    d.session.waitForIdle();
    QApplication::processEvents();
    const auto& range = *d.session.results().range();
    const std::string causes = d.find<QLabel>("range.causes")->text().toStdString();
    CHECK_THAT(causes, Catch::Contains(writeHours(range.range.p10)) &&
                           Catch::Contains(range.sensitivities.front().about) &&
                           Catch::Contains("Of 400 builds"));
    // The widest first.
    CHECK(causes.find(range.sensitivities[0].about) < causes.find(range.sensitivities[1].about));
    d.find<QPushButton>("units.show")->click();
    const Runtime& r = d.session.results().runtime;
    CHECK_THAT(
        d.find<QLabel>("units.text")->text().toStdString(),
        Catch::Contains("9.00 Ah") &&
            Catch::Contains(writeQuantity(r.ledger.loads.at("recorder") / 5.0, Unit::ampereHour)));
}

TEST_CASE("the stream balances, and is read by key and by mouse", "[ledger]") {
    Driven d;
    d.window.showView("runtime");
    const Ledger& ledger = d.session.results().runtime.ledger;
    for (const QString& example : Session::exampleNames()) {
        INFO(example.toStdString());
        const Project p = core::example(example.toStdString());
        const Ledger l = predictRuntime(p).ledger;
        for (const bool byMode : {false, true}) {
            double sum = 0;
            for (const auto& e : LedgerStream::entries(p, l, byMode))
                sum += e.wattHours;
            CHECK(sum == Approx(l.nameplate).epsilon(1e-3));
        }
    }
    auto* stream = d.find<LedgerStream>("ledger");
    CHECK(stream->reading().isEmpty());
    stream->setFocus();
    d.press(Qt::Key_Right);
    CHECK(stream->reading().toStdString() ==
          "cold and age: " + writeQuantity(ledger.coldAndAge, Unit::wattHour) + ", " +
              writeShare(ledger.coldAndAge / ledger.nameplate));
    for (int i = 0; i < 40; ++i)
        d.press(Qt::Key_Down);
    CHECK_THAT(stream->reading().toStdString(), Catch::StartsWith("Logic and clock: "));
    // A load's block under the mouse, at the right end.
    QMouseEvent over(QEvent::MouseMove, QPointF(stream->width() - 100, 60),
                     stream->mapToGlobal(QPointF(stream->width() - 100, 60)), Qt::NoButton,
                     Qt::NoButton, {});
    QApplication::sendEvent(stream, &over);
    d.find<QCheckBox>("ledger.byMode")->setChecked(true);
    CHECK_THAT(stream->accessibleDescription().toStdString(),
               Catch::Contains("Infra-red lamp, Lamp lit"));
    CHECK_FALSE(d.window.grab().isNull());
}

TEST_CASE("air and age are tried on sliders, and five temperatures at once", "[whatif]") {
    Driven d;
    d.window.showView("runtime");
    auto* plot = d.find<QCustomPlot>("discharge");
    auto* air = d.find<QSlider>("whatIf.air");
    CHECK(air->value() == 10); // as the brief has it
    CHECK(plot->graph(4)->data()->isEmpty());
    const QString answer = d.find<QLabel>("runtime.answer")->text();
    air->setValue(-15);
    d.find<QSlider>("whatIf.age")->setValue(80);
    REQUIRE(d.find<RuntimeView>("runtime")->settle());
    Conditions c = typicalConditions(d.session.project());
    c.ambient = Celsius{-15};
    c.health = 0.8;
    const Runtime r = predictRuntime(d.session.project(), c);
    CHECK_THAT(d.find<QLabel>("whatIf.says")->text().toStdString(),
               Catch::Contains(writeHours(r.hours->value())) && Catch::Contains("80 %"));
    CHECK((plot->graph(4)->data()->constEnd() - 1)->key == Approx(r.hours->value()));
    // The plan itself is what it was.
    CHECK(d.find<QLabel>("runtime.answer")->text() == answer);
    CHECK_FALSE(d.session.modified());
    d.find<QCheckBox>("whatIf.five")->setChecked(true);
    REQUIRE(d.find<RuntimeView>("runtime")->settle());
    double before = 0;
    for (int i = 5; i < 10; ++i) {
        REQUIRE_FALSE(plot->graph(i)->data()->isEmpty());
        const double hours = (plot->graph(i)->data()->constEnd() - 1)->key;
        CHECK(hours >= before); // warmer runs longer
        before = hours;
    }
    air->setValue(10);
    d.find<QSlider>("whatIf.age")->setValue(100);
    REQUIRE(d.find<RuntimeView>("runtime")->settle());
    CHECK(plot->graph(4)->data()->isEmpty());
}
