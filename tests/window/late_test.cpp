// SPDX-License-Identifier: GPL-3.0-or-later
// An analysis that does not come: the window goes on, and nothing is lost.
#include "driven.hpp"

#include "project/recovery.hpp"
#include "project/tree.hpp"
#include "shell/viewtable.hpp"
#include "views/start/startpage.hpp"

#include <atomic>
#include <fstream>

using namespace sipper;
using namespace sipper::app;

namespace {

/// Sessions made while it stands wait no longer than a window does.
struct Impatient {
    Impatient() { Session::setPatience(Session::kWaits); }
    ~Impatient() { Session::setPatience(std::chrono::seconds(20)); }
};

/// Never ends but by being asked to stop.
void plantEndless(Session& session, std::atomic<int>& asked) {
    session.setAnalysis([&asked](const Project&, const std::stop_token& stop) {
        ++asked;
        while (!stop.stop_requested())
            std::this_thread::sleep_for(std::chrono::milliseconds(2));
        return QuickAnalysis{};
    });
}

/// The real analysis, once it is let.
Session::Analyse heldUntil(const std::atomic<bool>& let) {
    return [&let](const Project& project, const std::stop_token& stop) {
        while (!let && !stop.stop_requested())
            std::this_thread::sleep_for(std::chrono::milliseconds(1));
        return analyseQuick(project, {}, stop);
    };
}

} // namespace

TEST_CASE("while an analysis never ends the window saves, undoes and closes", "[late]") {
    const Impatient impatient;
    std::atomic<int> asked{0};
    auto d = std::make_unique<Driven>();
    const double before = d->session.results().runtime.hours->value();
    plantEndless(d->session, asked);
    Project p = d->session.project();
    std::get<Pack>(p.stage("cells")->part).parallel += 1;
    QElapsedTimer timer;
    timer.start();
    REQUIRE_FALSE(d->session.edit("one more cell", p));
    CHECK(d->session.late());
    QApplication::processEvents();
    // The figures of before stay, pale, and it is said.
    CHECK(d->session.results().runtime.hours->value() == before);
    CHECK(d->find<VerdictFigure>("verdict.runtime")->stale());
    CHECK(d->find<QLabel>("verdict.state")->text() == "computing …");
    // It saves.
    const QString file = d->folder.filePath("late.sipper");
    REQUIRE_FALSE(d->session.save(file));
    CHECK(test::load(file.toStdString()).pack()->parallel == p.pack()->parallel);
    // It undoes, twice asked and twice not answered.
    d->session.undoStack().undo();
    CHECK(d->session.project().pack()->parallel == p.pack()->parallel - 1);
    CHECK(d->session.late());
    // A stage more: places without figures, in every view.
    Project more = d->session.project();
    Stage lead = test::stageOf("extra", Wire{}, "cells");
    std::get<Wire>(lead.part).length = Metres{0.1};
    std::get<Wire>(lead.part).area = SquareMillimetres{0.5};
    more.stages.push_back(lead);
    REQUIRE_FALSE(d->session.edit("a lead", more));
    for (const ViewEntry& entry : viewTable()) {
        d->window.showView(entry.name);
        QApplication::processEvents();
        d->window.grab();
    }
    // And it closes.
    d->answer = MainWindow::Answer::discard;
    CHECK(d->window.close());
    d.reset();
    CHECK(asked >= 3);
}

TEST_CASE("an analysis that breaks off says so, and the next edit computes", "[late]") {
    const Impatient impatient;
    Driven d;
    bool breaks = true;
    d.session.setAnalysis(
        [&breaks](const Project& p, const std::stop_token& stop) -> QuickAnalysis {
            if (breaks)
                throw std::runtime_error("a root that is not there");
            return analyseQuick(p, {}, stop);
        });
    std::optional<Error> said;
    QObject::connect(&d.session, &Session::refused, [&said](const Error& error) { said = error; });
    Project p = d.session.project();
    std::get<Pack>(p.stage("cells")->part).parallel += 1;
    REQUIRE_FALSE(d.session.edit("one more cell", p));
    QElapsedTimer timer;
    timer.start();
    while (!d.session.brokenOff() && timer.elapsed() < 20000)
        QApplication::processEvents(QEventLoop::AllEvents, 10);
    REQUIRE(d.session.brokenOff());
    CHECK(d.find<QLabel>("verdict.state")->text() == "not computed");
    REQUIRE(said);
    CHECK(said->found == "a root that is not there");
    breaks = false;
    std::get<Pack>(p.stage("cells")->part).parallel += 1;
    REQUIRE_FALSE(d.session.edit("another", p));
    while (d.session.late() && timer.elapsed() < 20000)
        QApplication::processEvents(QEventLoop::AllEvents, 10);
    CHECK_FALSE(d.session.late());
    CHECK_FALSE(d.session.brokenOff());
}

TEST_CASE("an analysis that comes late is taken, and the next one at once", "[late]") {
    const Impatient impatient;
    Driven d;
    std::atomic<bool> let{false};
    d.session.setAnalysis(heldUntil(let));
    Project p = d.session.project();
    std::get<Pack>(p.stage("cells")->part).parallel += 2;
    REQUIRE_FALSE(d.session.edit("two more", p));
    CHECK(d.session.late());
    let = true;
    d.session.waitForIdle();
    CHECK_FALSE(d.session.late());
    CHECK(d.session.resultsCurrent());
    CHECK(d.session.results().runtime.hours->value() == Approx(predictRuntime(p).hours->value()));
    CHECK_FALSE(d.find<VerdictFigure>("verdict.runtime")->stale());
}

TEST_CASE("what is chosen while a document's first figures are on their way stays chosen",
          "[late]") {
    const Impatient impatient;
    Driven d;
    std::atomic<bool> let{false};
    d.session.setAnalysis(heldUntil(let));
    for (const bool chosen : {true, false}) {
        let = false;
        REQUIRE_FALSE(d.session.openExample("moth-counter"));
        REQUIRE(d.session.late());
        if (chosen) {
            d.session.select("cells");
            d.session.plug("socket", true);
        }
        let = true;
        d.session.waitForIdle();
        CHECK_FALSE(d.session.late());
        CHECK((d.session.selected() == "cells") == chosen);
        CHECK(d.session.plugged().contains("socket") == chosen);
    }
}

TEST_CASE("a recovery that can't be read is named, and what can be read of it offered", "[late]") {
    QTemporaryDir state;
    qputenv("XDG_STATE_HOME", state.path().toUtf8());
    std::filesystem::create_directories(RecoveryKeeper::folder());
    Recovery r;
    r.when = "2031-04-02 12:15:07";
    r.edits = 3;
    r.document = test::example("nest-box-listener");
    Json broken = Json::parse(recoveryText(r));
    for (Json& stage : broken["document"]["stages"])
        if (stage["id"] == "cells")
            stage["health"] = "good";
    std::ofstream(RecoveryKeeper::folder() / "77-1.recovery") << broken.dump(1);
    std::ofstream(RecoveryKeeper::folder() / "77-2.recovery") << "{ not json";
    const auto left = RecoveryKeeper::left();
    REQUIRE(left.size() == 2);
    const auto part = std::find_if(left.begin(), left.end(), [](const auto& l) { return l.any; });
    REQUIRE(part != left.end());
    REQUIRE(part->trouble);
    CHECK_THAT(part->trouble->where, Catch::EndsWith("/health"));
    CHECK(part->recovery.document.stages.size() == r.document.stages.size());
    Session session;
    StartPage page(session);
    page.show();
    QApplication::processEvents();
    QString all;
    for (const QLabel* label : page.findChildren<QLabel*>(QRegularExpression("left\\..*\\.says")))
        all += label->text();
    CHECK(all.contains("/health"));
    CHECK(all.contains("77-1.recovery"));
    CHECK(all.contains("77-2.recovery"));
    session.recovery().take(*part);
    CHECK(session.modified());
    CHECK(std::filesystem::exists(part->file)); // what was left out is still in it
    qunsetenv("XDG_STATE_HOME");
}

TEST_CASE("figures that arrive late take nothing from what is being typed", "[late]") {
    const Impatient impatient;
    Driven d;
    d.window.showView(QStringLiteral("loads"));
    std::atomic<bool> let{false};
    d.session.setAnalysis(heldUntil(let));
    Project p = d.session.project();
    p.loads[0].label = "Another name";
    REQUIRE_FALSE(d.session.edit("a name", p));
    REQUIRE(d.session.late());
    auto* cell = d.find<QLineEdit>("draw.recorder.rest");
    cell->setFocus();
    cell->selectAll();
    QTest::keyClicks(cell, "7 mA");
    let = true;
    d.session.waitForIdle();
    CHECK(cell->text() == "7 mA");
    QTest::keyClick(cell, Qt::Key_Return);
    const std::size_t rest = modeIndex(d.session.project(), "rest");
    CHECK(drawIn(d.session.project(), *d.session.project().load("recorder"), rest)
              ->current->value() == Approx(7e-3));
}
