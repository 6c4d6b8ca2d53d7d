// SPDX-License-Identifier: GPL-3.0-or-later
// The Protection view in a real window, by keyboard and mouse.
#include "driven.hpp"
#include "project/build.hpp"
#include "protect/text.hpp"
#include "shell/viewtable.hpp"
#include "views/protection/currentscard.hpp"
#include "views/protection/currentsplot.hpp"
#include "views/protection/dividercard.hpp"
#include "views/protection/faultcard.hpp"
#include "views/protection/guardcard.hpp"
#include "views/protection/protectionview.hpp"
#include "views/protection/reboundplot.hpp"
#include "views/protection/thresholdplot.hpp"

using namespace sipper;
using namespace sipper::app;

namespace {

struct Protection : Driven {
    explicit Protection(const char* example = "stage-theremin") {
        REQUIRE(window.openExample(QString::fromLatin1(example)));
        QTest::keyClick(&window, Qt::Key_6, Qt::ControlModifier);
        settle();
    }
    void settle() {
        for (int i = 0; i < 3; ++i) {
            session.waitForIdle();
            QApplication::processEvents();
        }
    }
    QString word() { return find<QLabel>("protection.answer")->text(); }
    QString says() { return find<QLabel>("protection.says")->text(); }
    ThresholdPlot* plot() { return find<ThresholdPlot>("threshold.plot"); }
    ReboundPlot* rebound() { return find<ReboundPlot>("rebound.plot"); }
    Guard& guard(Project& p, const char* id = "guard") {
        return std::get<Guard>(p.stage(id)->part);
    }
    double cutoff() { return figure("guard", "cutoff_v"); }
    double reconnect() { return figure("guard", "reconnect_v"); }
    void reconnectAt(double volts) {
        Project p = session.project();
        guard(p).reconnect = Volts{volts};
        REQUIRE_FALSE(session.edit("bend", p));
        settle();
    }
};

} // namespace

TEST_CASE("the protection view says whether the cut-off holds, as the core does", "[protection]") {
    Protection d;
    CHECK(d.word() == "holds");
    const auto verdict = protectVerdict(d.session.project(), *d.session.results().protect);
    CHECK(d.says().toStdString() == verdict.says);
    // The step says the same word.
    CHECK(viewNamed("protection")->line(d.session).text == d.word());
    // Reconnect a hair over the cut-off: it chatters, in the view, in the advice and as a button.
    d.reconnectAt(d.cutoff() + 0.05);
    CHECK(d.word() == "chatters");
    const Finding* found = nullptr;
    for (const Finding& f : d.session.results().findings)
        if (f.rule == "chatter")
            found = &f;
    REQUIRE(found);
    REQUIRE(found->fix);
    d.session.apply("cure", found->fix->apply(d.session.project()));
    d.settle();
    CHECK(d.word() == "holds");
    // Over what the pack ever reaches: it stays open.
    d.reconnectAt(20);
    CHECK(d.word() == "stays open");
}

TEST_CASE("thresholds are moved by key and by mouse, each drag one step of undo", "[protection]") {
    Protection d;
    const Project before = d.session.project();
    const double off = d.cutoff();
    const double on = d.reconnect();
    d.plot()->setFocus();
    QTest::keyClick(d.plot(), Qt::Key_Up);
    CHECK(d.cutoff() == Approx(off + 0.05));
    QTest::keyClick(d.plot(), Qt::Key_Right); // the other one
    QTest::keyClick(d.plot(), Qt::Key_Down);
    CHECK(d.reconnect() == Approx(on - 0.05));
    QTest::keyClick(d.plot(), Qt::Key_PageDown);
    CHECK(d.reconnect() == Approx(on - 0.55));
    CHECK(d.cutoff() == Approx(off + 0.05));
    for (int i = 0; i < 3; ++i)
        d.session.undoStack().undo();
    CHECK(d.session.project() == before);
    // By mouse: from the line to half a volt higher, in several moves.
    d.settle();
    ThresholdPlot* plot = d.plot();
    const auto at = [&](double volts) {
        return QPoint(static_cast<int>(plot->xAxis->coordToPixel(0.5)),
                      static_cast<int>(std::lround(plot->yAxis->coordToPixel(volts))));
    };
    QTest::mousePress(plot, Qt::LeftButton, {}, at(off));
    for (const double v : {off + 0.1, off + 0.3, off + 0.5}) {
        QMouseEvent move(QEvent::MouseMove, at(v), plot->mapToGlobal(at(v)), Qt::LeftButton,
                         Qt::LeftButton, {});
        QApplication::sendEvent(plot, &move);
    }
    QTest::mouseRelease(plot, Qt::LeftButton, {}, at(off + 0.5));
    CHECK(d.cutoff() == Approx(off + 0.5).margin(0.08));
    d.session.undoStack().undo();
    CHECK(d.session.project() == before);
    // The cut-off does not pass the reconnect.
    plot->setFocus();
    QTest::keyClick(plot, Qt::Key_Left);
    for (int i = 0; i < 30; ++i)
        QTest::keyClick(plot, Qt::Key_PageUp);
    CHECK(d.cutoff() <= d.reconnect());
}

TEST_CASE("the rebound is played: climb, reconnect, cut, and over again", "[protection]") {
    Protection d("nest-box-listener");
    Project p = d.session.project();
    d.guard(p).reconnect = d.guard(p).cutoff + Volts{0.06};
    REQUIRE_FALSE(d.session.edit("bend", p));
    d.settle();
    REQUIRE(d.word() == "chatters");
    ReboundPlot* plot = d.rebound();
    auto* button = d.find<QPushButton>("rebound.play");
    CHECK_FALSE(plot->playing());
    QTest::mouseClick(button, Qt::LeftButton);
    CHECK(plot->playing());
    CHECK_THAT(button->text().toStdString(), Catch::Contains("stop"));
    const auto marker = [&] {
        for (int i = 0; i < plot->itemCount(); ++i)
            if (auto* t = qobject_cast<QCPItemTracer*>(plot->item(i)))
                return t->position->coords();
        return QPointF();
    };
    plot->setWalk(0);
    const double start = marker().y();
    plot->setWalk(0.49);
    const double up = marker().y();
    plot->setWalk(0.99);
    const double down = marker().y();
    CHECK(up > start);
    CHECK(down < up);
    QTest::mouseClick(button, Qt::LeftButton);
    CHECK_FALSE(plot->playing());
}

TEST_CASE("a fuse that fits is taken from the card of currents", "[protection]") {
    Protection d("lake-parade-lantern");
    auto* card = d.find<CurrentsCard>("currentsCard");
    auto* plot = d.find<CurrentsPlot>("currents.plot");
    plot->setFocus();
    const std::size_t before = d.session.project().stages.size();
    // Down to the last row and up to the first: what is chosen is chosen everywhere.
    for (int i = 0; i < 6; ++i)
        QTest::keyClick(plot, Qt::Key_Down);
    const auto rows = d.session.results().protect->segments; // a copy: the results change
    CHECK(d.session.selected().toStdString() == rows.back().id);
    QPushButton* fits = nullptr;
    for (auto* b : card->findChildren<QPushButton*>())
        if (b->isEnabled() && b->objectName().startsWith("currents.fuse"))
            fits = b;
    REQUIRE(fits);
    CHECK_FALSE(fits->toolTip().isEmpty());
    QTest::mouseClick(fits, Qt::LeftButton);
    d.settle();
    CHECK(d.session.project().stages.size() == before + 1);
    CHECK(d.session.results().protect->segments.size() == rows.size());
    for (const Finding& f : d.session.results().findings)
        CHECK(f.rule != "fuse_window");
    d.session.undoStack().undo();
    CHECK(d.session.project().stages.size() == before);
}

TEST_CASE("a red field shows what would keep the fault off, and adds it", "[protection]") {
    Protection d;
    auto* card = d.find<FaultCard>("faultCard");
    auto* cell = d.find<QPushButton>("faults.buck5.short.oscillators");
    CHECK_THAT(cell->text().toStdString(), Catch::Contains("11.6"));
    QTest::mouseClick(cell, Qt::LeftButton);
    REQUIRE(card->settle());
    QApplication::processEvents();
    auto* cure = d.find<QPushButton>("faults.cure.0");
    CHECK_THAT(cure->text().toStdString(), Catch::Contains("Crowbar") && Catch::Contains("off"));
    QTest::mouseClick(cure, Qt::LeftButton);
    d.settle();
    bool crowbar = false;
    for (const Stage& s : d.session.project().stages)
        crowbar = crowbar || std::holds_alternative<Crowbar>(s.part);
    CHECK(crowbar);
    CHECK(d.find<QPushButton>("faults.buck5.short.oscillators")->text() == "off");
    // All parts: more rows, the same columns.
    const auto count = [&] {
        QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        int n = 0;
        for (auto* b : card->findChildren<QPushButton*>())
            n += b->objectName().startsWith("faults.") && !b->objectName().contains("cure") ? 1 : 0;
        return n;
    };
    const int some = count();
    QTest::mouseClick(d.find<QCheckBox>("faults.all"), Qt::LeftButton, {}, QPoint(6, 8));
    CHECK(count() > some);
    CHECK(count() % static_cast<int>(d.session.project().loads.size()) == 0);
}

TEST_CASE("a divider is asked for and taken into the project", "[protection]") {
    Protection d;
    auto* card = d.find<DividerCard>("dividerCard");
    REQUIRE(card->settle());
    QApplication::processEvents();
    auto* first = d.find<QPushButton>("divider.take.0");
    CHECK_FALSE(first->text().isEmpty());
    QTest::mouseClick(first, Qt::LeftButton);
    d.settle();
    const auto& guard = std::get<Guard>(d.session.project().stage("guard")->part);
    REQUIRE(guard.upper);
    REQUIRE(guard.lower);
    CHECK(guard.cutoff.value() == Approx(8).epsilon(0.02));
    // Less draw than any tap allows: said, nothing offered.
    d.type(d.find<QuantityEdit>("divider.draw"), "10 nA");
    REQUIRE(card->settle());
    QApplication::processEvents();
    CHECK_THAT(d.find<QLabel>("divider.says")->text().toStdString(),
               Catch::Contains("allow more of one"));
    d.session.undoStack().undo();
    CHECK_FALSE(std::get<Guard>(d.session.project().stage("guard")->part).upper);
}

TEST_CASE("what does not apply says so, and a guard is one click away", "[protection]") {
    Protection d;
    // Without the guard.
    Project p = withoutStage(d.session.project(), "guard");
    REQUIRE_FALSE(d.session.edit("take out", p));
    d.settle();
    CHECK(d.word() == "no guard");
    REQUIRE(d.find<ProtectionView>("protection")->settle());
    d.settle();
    // What the usual one would do stands there faintly, and the button brings that one.
    const auto* expects = d.find<QLabel>("rebound.expects");
    CHECK(expects->isVisible());
    CHECK(d.rebound()->isVisible());
    CHECK_FALSE(d.find<QLabel>("rebound.none")->isVisible());
    CHECK_FALSE(d.find<QPushButton>("rebound.play")->isVisible());
    const QString faint = d.rebound()->accessibleDescription();
    auto* add = d.find<QPushButton>("protection.addGuard");
    CHECK(add->isVisible());
    QTest::mouseClick(add, Qt::LeftButton);
    d.settle();
    CHECK(d.word() == "holds");
    CHECK_FALSE(expects->isVisible());
    CHECK(d.rebound()->graphicsEffect() == nullptr);
    CHECK(d.rebound()->accessibleDescription() == faint);
    // No cells at all.
    REQUIRE_FALSE(d.session.openRecipe("adapter-and-buck"));
    d.settle();
    CHECK(d.word() == "nothing to cut off");
    CHECK(d.find<QLabel>("threshold.none")->isVisible());
    CHECK_FALSE(d.find<QPushButton>("protection.addGuard")->isVisible());
    // The pages beside it, each with words.
    for (const char* page :
         {"guard.schools.show", "guard.proof.show", "guard.after.show", "guard.ways.show"}) {
        QTest::mouseClick(d.find<QPushButton>(page), Qt::LeftButton);
        QApplication::processEvents();
        bool words = false;
        for (auto* label : d.find<GuardCard>("guardCard")->findChildren<QLabel*>())
            words = words || label->text().size() > 20;
        CHECK(words);
    }
}

TEST_CASE("schools and proof read as the core has them", "[protection]") {
    Protection d;
    QTest::mouseClick(d.find<QPushButton>("guard.proof.show"), Qt::LeftButton);
    const GuardAnalysis& g = d.session.results().protect->guards.front();
    CHECK(d.find<QLabel>("guard.proof")->text().toStdString() == proofText(g, *g.proof));
    QTest::mouseClick(d.find<QPushButton>("guard.schools.show"), Qt::LeftButton);
    QTest::mouseClick(d.find<QPushButton>("guard.school.gentle"), Qt::LeftButton);
    d.settle();
    CHECK(d.cutoff() == Approx(8.8));
}
