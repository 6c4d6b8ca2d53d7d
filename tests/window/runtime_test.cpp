// The Runtime view: levers and the envelope.
#include "driven.hpp"
#include "runtime/envelope.hpp"
#include "views/runtime/leverscard.hpp"

using namespace sipper;
using namespace sipper::app;
namespace core = sipper::test;

TEST_CASE("levers are ranked in the view, and one click takes the step", "[levers]") {
    Driven d;
    d.window.showView("runtime");
    auto* card = d.find<LeversCard>("leversCard");
    REQUIRE(card->settle());
    QApplication::processEvents();
    REQUIRE(card->levers().size() > 5);
    const Lever first = card->levers().front();
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
    for (const Envelope& e : envelopes(d.session.project(), r.runtime, r.budget)) {
        const std::string text =
            d.find<QLabel>(("envelope." + e.rule).c_str())->text().toStdString();
        CHECK_THAT(text, Catch::Contains(writeHours(e.hours)) &&
                             Catch::Contains("= " + writeHours(r.runtime.hours->value())));
    }
    d.find<QPushButton>("levers.show")->click();
    REQUIRE(d.find<LeversCard>("leversCard")->settle());
    CHECK(d.find<QLabel>("lever.0.gain")->isVisible());
}
