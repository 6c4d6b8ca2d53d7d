// SPDX-License-Identifier: GPL-3.0-or-later
// The document's undo, and that nothing is lost: recoveries, changed files, dropped files.
#include "driven.hpp"

#include "project/build.hpp"
#include "views/start/startpage.hpp"

#include <csignal>
#include <random>
#include <sys/wait.h>

using namespace sipper;
using namespace sipper::app;

namespace {

Project withCutoff(const Project& p, double volts) {
    return withThreshold(p, "guard", Threshold::cutoff, Volts{volts}, Volts{0.05});
}

/// One edit of the document, named by its number and told by the project's notes.
void count(Session& session, int number) {
    Project p = session.project();
    p.notes = std::to_string(number);
    REQUIRE_FALSE(session.edit(QString::number(number), std::move(p)));
}

} // namespace

TEST_CASE("a drag is one edit under its last name; separate drags are two", "[document]") {
    Session s;
    REQUIRE_FALSE(s.openExample("nest-box-listener"));
    const Project before = s.project();
    for (const double v : {3.1, 3.15, 3.2})
        REQUIRE_FALSE(
            s.edit(QStringLiteral("cut at %1").arg(v), withCutoff(s.project(), v), "drag"));
    CHECK(s.undoStack().count() == 1);
    CHECK(s.undoStack().undoText() == "cut at 3.2");
    s.endGesture();
    REQUIRE_FALSE(s.edit("cut at 3", withCutoff(s.project(), 3.0), "drag"));
    CHECK(s.undoStack().count() == 2);
    s.undoStack().undo();
    CHECK(std::get<Guard>(s.project().stage("guard")->part).cutoff.value() == Approx(3.2));
    s.undoStack().undo();
    CHECK(s.project() == before);
    CHECK_FALSE(s.modified());
}

TEST_CASE("a drag back to where it began is no edit", "[document]") {
    Session s;
    REQUIRE_FALSE(s.openExample("nest-box-listener"));
    const double start = std::get<Guard>(s.project().stage("guard")->part).cutoff.value();
    for (const double v : {3.1, 3.2, start})
        REQUIRE_FALSE(s.edit("drag", withCutoff(s.project(), v), "drag"));
    CHECK(s.undoStack().count() == 0);
    CHECK_FALSE(s.modified());
    // What was saved in between is an edit all the same.
    QTemporaryDir folder;
    REQUIRE_FALSE(s.edit("drag", withCutoff(s.project(), 3.1), "drag"));
    REQUIRE_FALSE(s.save(folder.filePath("a.sipper")));
    REQUIRE_FALSE(s.edit("drag", withCutoff(s.project(), start), "drag"));
    CHECK(s.modified());
}

TEST_CASE("dragging on the line with the mouse: two drags are two edits, each by its end",
          "[document]") {
    Driven d;
    auto* line = d.find<LineCanvas>("line");
    const auto dragBy = [&](int dy) {
        auto* handle = d.find<QWidget>("guard.guard.reconnect_v");
        const QPoint at = handle->rect().center();
        QTest::mousePress(handle, Qt::LeftButton, {}, at);
        for (int i = 1; i <= 6; ++i) {
            const QPoint to = at + QPoint(0, dy * i / 6);
            QMouseEvent move(QEvent::MouseMove, to, handle->mapToGlobal(to), Qt::NoButton,
                             Qt::LeftButton, {});
            QApplication::sendEvent(handle, &move);
        }
        QTest::mouseRelease(handle, Qt::LeftButton, {}, at + QPoint(0, dy));
        QApplication::processEvents();
    };
    dragBy(-24);
    CHECK(d.session.undoStack().count() == 1);
    const double first = d.figure("guard", "reconnect_v");
    CHECK_THAT(d.session.undoStack().undoText().toStdString(),
               Catch::Contains(writeQuantity(first, Unit::volt)));
    dragBy(-24);
    CHECK(d.session.undoStack().count() == 2);
    d.act("action.undo");
    CHECK(d.figure("guard", "reconnect_v") == first);
    CHECK(line->isVisible());
}

TEST_CASE("refused edits are said: on the line, in a cure, under a reading", "[document]") {
    Driven d;
    Project broken = d.session.project();
    broken.loads[0].fedBy = "nowhere";
    d.session.apply("break it", broken);
    CHECK(d.find<QLabel>("message.text")->isVisibleTo(&d.window));
    CHECK_THAT(d.find<QLabel>("message.text")->text().toStdString(), Catch::Contains("nowhere"));
    CHECK_FALSE(d.session.modified());
    // The next edit that holds takes the message away.
    count(d.session, 1);
    CHECK_FALSE(d.find<QLabel>("message.text")->isVisibleTo(&d.window));
    // A part with readings stays.
    Project measured = d.session.project();
    Reading r;
    r.id = "r1";
    r.checks = CheckKind::setPoint;
    r.at = "boost5";
    r.volts = Volts{5.02};
    measured.readings = measured.readings.with(r);
    REQUIRE_FALSE(d.session.edit("read", measured));
    const auto why = d.session.edit("take out", withoutStage(d.session.project(), "boost5"));
    REQUIRE(why);
    CHECK(why->where == "/readings/0/at");
}

TEST_CASE("the mode shown is kept by its id through another order, undo and loss", "[document]") {
    Session s;
    REQUIRE_FALSE(s.openExample("nest-box-listener"));
    const std::size_t at = s.project().modes.size() - 1;
    const std::string id = s.project().modes[at].id;
    s.setDisplayedPoint(0.5, at);
    REQUIRE_FALSE(s.edit("up", withModeMoved(s.project(), id, -1)));
    CHECK(s.project().modes[s.mode()].id == id);
    CHECK(s.mode() == at - 1);
    s.undoStack().undo();
    CHECK(s.mode() == at);
    REQUIRE_FALSE(s.edit("away", withoutMode(s.project(), id)));
    CHECK(s.project().modes[s.mode()].isBase());
}

TEST_CASE("a thousand edits typed, dragged and undone lead back to where they began",
          "[document][sanitize]") {
    Driven d;
    const Project before = d.session.document();
    const std::string text = projectText(before);
    std::mt19937 random(77);
    const auto pick = [&](int n) { return std::uniform_int_distribution<int>(0, n - 1)(random); };
    int refused = 0;
    for (int i = 0; i < 1000; ++i) {
        // Nine in ten edits overtake the analysis of the one before, as quick hands do.
        d.session.setOwnPatience(i % 10 == 0 ? std::chrono::seconds(20) : std::chrono::seconds(0));
        const Project& p = d.session.project();
        const QString key = pick(2) ? QStringLiteral("drag") : QString();
        switch (pick(7)) {
        case 0:
            refused += d.session.edit("cut", withCutoff(p, 2.6 + 0.01 * pick(60)), key).has_value();
            break;
        case 1: {
            Project q = p;
            q.loads[0].window.min = Volts{3.0 + 0.1 * pick(30)};
            if (pick(3) == 0)
                q.loads[0].fedBy = "nowhere";
            refused += d.session.edit("window", std::move(q), key).has_value();
            break;
        }
        case 2:
            d.session.undoStack().undo();
            break;
        case 3:
            d.session.undoStack().redo();
            break;
        case 4:
            d.session.endGesture();
            d.session.setDisplayedPoint(0.01 * pick(100), static_cast<std::size_t>(pick(3)));
            break;
        case 5:
            refused +=
                d.session
                    .edit("lead", withStageBetween(p, freshStage(p, Kind::wire, "guard"), "guard"))
                    .has_value();
            break;
        default:
            if (p.stages.size() > 8)
                refused += d.session.edit("out", withoutStage(p, p.stages.back().id)).has_value();
        }
        if (i % 100 == 0)
            QApplication::processEvents();
    }
    CHECK(refused > 0);
    while (d.session.undoStack().canUndo())
        d.session.undoStack().undo();
    CHECK(d.session.document() == before);
    CHECK(projectText(d.session.document()) == text);
    CHECK_FALSE(d.session.modified());
    d.session.waitForIdle();
}

TEST_CASE("a file that somebody else has changed is not overwritten without a word", "[document]") {
    Driven d;
    const QString path = d.folder.filePath("box.sipper");
    REQUIRE_FALSE(d.session.save(path));
    count(d.session, 1);
    Project theirs = d.session.document();
    theirs.notes = "theirs";
    std::get<Guard>(theirs.stage("guard")->part).cutoff = Volts{3.11};
    QThread::msleep(20);
    REQUIRE_FALSE(saveProject(path.toStdString(), theirs));
    CHECK(d.session.file().changedOnDisk());
    QList<MainWindow::Overwrite> answers{MainWindow::Overwrite::differences,
                                         MainWindow::Overwrite::cancel};
    QString seen;
    d.window.askBeforeOverwriting = [&](const QString&) { return answers.takeFirst(); };
    d.window.showDifferences = [&](const QString& text) { seen = text; };
    CHECK_FALSE(d.window.save());
    CHECK_THAT(seen.toStdString(), Catch::Contains("3.11 V in the file, 3.05 V here"));
    CHECK(test::load(path.toStdString()).notes == "theirs");
    CHECK(d.session.modified());
    answers = {MainWindow::Overwrite::saveAs};
    d.where = d.folder.filePath("mine.sipper");
    CHECK(d.window.save());
    CHECK(test::load(path.toStdString()).notes == "theirs");
    CHECK(test::load(d.where.toStdString()).notes == "1");
    // Back on the first file: overwriting it is the user's to say.
    REQUIRE(d.window.openPath(path));
    count(d.session, 2);
    QThread::msleep(20);
    REQUIRE_FALSE(saveProject(path.toStdString(), theirs));
    answers = {MainWindow::Overwrite::overwrite};
    CHECK(d.window.save());
    CHECK(test::load(path.toStdString()).notes == "2");
    CHECK_FALSE(d.session.file().changedOnDisk());
    // One that is gone is written anew.
    QFile::remove(path);
    count(d.session, 3);
    CHECK(d.window.save());
    CHECK(test::load(path.toStdString()).notes == "3");
}

TEST_CASE("a save that can't be done says why and leaves the document changed", "[document]") {
    Driven d;
    count(d.session, 1);
    REQUIRE(QDir(d.folder.path()).mkdir("dir.sipper"));
    struct Case {
        QString path;
        const char* says;
    };
    for (const Case& c :
         {Case{d.folder.filePath("dir.sipper"), "found a folder, expected the name of a file"},
          Case{d.folder.filePath("gone/box.sipper"), "found a folder that is not there"},
          Case{QStringLiteral("/dev/full/x.sipper"), "expected a place that can be written"}}) {
        d.where = c.path;
        INFO(c.path.toStdString());
        CHECK_FALSE(d.window.saveAs());
        CHECK_THAT(d.find<QLabel>("message.text")->text().toStdString(), Catch::Contains(c.says));
        CHECK(d.session.modified());
    }
}

TEST_CASE("what was not saved is offered after a crash, taken as changed or declined",
          "[recovery]") {
    const auto folder = RecoveryKeeper::folder();
    std::filesystem::remove_all(folder);
    QTemporaryDir files;
    const QString path = files.filePath("box.sipper");
    std::filesystem::path file;
    {
        Session s;
        REQUIRE_FALSE(s.openExample("nest-box-listener"));
        REQUIRE_FALSE(s.save(path));
        s.recovery().setInterval(std::chrono::milliseconds(30));
        count(s, 1);
        count(s, 2);
        QTest::qWait(120);
        s.waitForIdle();
        for (const auto& entry : std::filesystem::directory_iterator(folder))
            if (entry.path().extension() == ".recovery")
                file = entry.path();
        REQUIRE_FALSE(file.empty());
        // A living program keeps its own.
        CHECK(RecoveryKeeper::left().empty());
        // The crash: its files stay, its lock does not.
        std::filesystem::copy_file(file, folder / "1-1.recovery");
    }
    CHECK_FALSE(std::filesystem::exists(file)); // an orderly end leaves nothing
    auto left = RecoveryKeeper::left();
    REQUIRE(left.size() == 1);
    CHECK(left[0].recovery.edits == 2);
    CHECK(left[0].recovery.path == path.toStdString());

    Driven d;
    d.window.showView("start");
    CHECK_THAT(d.find<QLabel>("left.0.says")->text().toStdString(),
               Catch::Contains("2 edits") && Catch::Contains("box.sipper") &&
                   Catch::Contains("Nest-box"));
    SECTION("taken: it opens as changed, and this program keeps it from then on") {
        d.find<QPushButton>("left.0.take")->click();
        CHECK(d.session.project().notes == "2");
        CHECK(d.session.modified());
        CHECK(d.session.path() == path);
        CHECK(test::load(path.toStdString()).notes != "2");
        CHECK_FALSE(std::filesystem::exists(left[0].file));
        CHECK(RecoveryKeeper::left().empty());
        CHECK(d.window.save());
        CHECK(test::load(path.toStdString()).notes == "2");
    }
    SECTION("declined: it is kept until the next clean save and not offered again") {
        d.find<QPushButton>("left.0.decline")->click();
        QApplication::processEvents();
        for (const QLabel* says : d.window.findChildren<QLabel*>("left.0.says"))
            CHECK_FALSE(says->isVisibleTo(&d.window));
        CHECK(std::filesystem::exists(left[0].file));
        count(d.session, 5);
        d.where = d.folder.filePath("other.sipper");
        CHECK(d.window.save());
        CHECK_FALSE(std::filesystem::exists(left[0].file));
    }
    SECTION("a damaged one is named behind it and offers nothing") {
        std::ofstream(folder / "2-1.recovery") << "{\"format\": \"sipper-rec";
        const auto both = RecoveryKeeper::left();
        REQUIRE(both.size() == 2);
        CHECK(both[0].any);
        CHECK_FALSE(both[1].any);
        REQUIRE(both[1].trouble);
        CHECK(both[1].file.filename() == "2-1.recovery");
        d.find<QPushButton>("left.0.take")->click();
        CHECK(d.session.project().notes == "2");
    }
}

TEST_CASE("killed at any moment, no more than the last moments are lost and no saved file",
          "[recovery]") {
    std::filesystem::remove_all(RecoveryKeeper::folder());
    QTemporaryDir files;
    const QString path = files.filePath("killed.sipper");
    const int rounds = qEnvironmentVariableIntValue("SIPPER_KILLS") > 0
                           ? qEnvironmentVariableIntValue("SIPPER_KILLS")
                           : 6;
    constexpr int kInterval = 40; // ms in place of the usual seconds: the rule is the same
    std::mt19937 random(5);
    for (int round = 0; round < rounds; ++round) {
        INFO(round);
        QFile::remove(path);
        QProcess child;
        QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
        environment.insert("SIPPER_EDITOR", path);
        child.setProcessEnvironment(environment);
        child.start(QCoreApplication::applicationFilePath(), {"[.editor]"});
        REQUIRE(child.waitForStarted());
        QElapsedTimer timer;
        timer.start();
        QByteArray log;
        const int life = 250 + static_cast<int>(random() % 500);
        while (timer.elapsed() < life || !log.contains("edit 3 ")) {
            child.waitForReadyRead(5);
            log += child.readAllStandardOutput();
            REQUIRE(timer.elapsed() < 20000);
        }
        child.kill();
        child.waitForFinished();
        log += child.readAllStandardOutput();
        // What it told: each edit with its time, each save once it was done.
        qint64 last = 0;
        int lastEdit = 0;
        int saved = 0;
        QMap<int, qint64> when;
        for (const QByteArray& line : log.split('\n')) {
            const QList<QByteArray> words = line.split(' ');
            if (words.size() == 3 && words[0] == "edit") {
                lastEdit = words[1].toInt();
                last = words[2].toLongLong();
                when[lastEdit] = last;
            } else if (words.size() == 2 && words[0] == "saved") {
                saved = words[1].toInt();
            }
        }
        REQUIRE(lastEdit > 0);
        int kept = 0;
        if (QFile::exists(path)) {
            kept = std::stoi(test::load(path.toStdString()).notes); // whole, whatever happened
            CHECK(kept >= saved);
        }
        for (const auto& left : RecoveryKeeper::left()) {
            kept = std::max(kept, std::stoi(left.recovery.document.notes));
            std::filesystem::remove(left.file);
        }
        // The same rule as 5 s: one interval and the writing, on a busy machine.
        if (kept < lastEdit)
            CHECK(last - when.value(kept + 1) <= kInterval + 1000);
    }
}

/// Run by the test above as a program of its own: edits until it is killed.
TEST_CASE("an editor that never rests", "[.editor]") {
    const QString path = qEnvironmentVariable("SIPPER_EDITOR");
    REQUIRE_FALSE(path.isEmpty());
    Session s;
    REQUIRE_FALSE(s.openExample("nest-box-listener"));
    s.recovery().setInterval(std::chrono::milliseconds(40));
    for (int i = 1;; ++i) {
        count(s, i);
        std::printf("edit %d %lld\n", i,
                    static_cast<long long>(QDateTime::currentMSecsSinceEpoch()));
        std::fflush(stdout);
        if (i % 17 == 0) {
            REQUIRE_FALSE(s.save(path));
            std::printf("saved %d\n", i);
            std::fflush(stdout);
        }
        QTest::qWait(5);
    }
}

TEST_CASE("a project is dropped on the window to open it, a CSV to lay it on Loads", "[document]") {
    Driven d;
    const auto drop = [&](const QString& path) {
        QMimeData mime;
        mime.setUrls({QUrl::fromLocalFile(path)});
        QDragEnterEvent enter(QPoint(400, 400), Qt::CopyAction, &mime, Qt::LeftButton, {});
        QApplication::sendEvent(&d.window, &enter);
        if (!enter.isAccepted())
            return false;
        QDropEvent event(QPointF(400, 400), Qt::CopyAction, &mime, Qt::LeftButton, {});
        QApplication::sendEvent(&d.window, &event);
        return true;
    };
    const QString source = QString::fromLatin1(SIPPER_SOURCE);
    CHECK(drop(source + "/data/examples/lake-parade-lantern.sipper"));
    CHECK(d.session.path().endsWith("lake-parade-lantern.sipper"));
    CHECK_FALSE(drop(source + "/README.md"));
    d.find<LoadsView>("loads")->askFormat = [](const QString&, const std::string&) {
        return std::optional(TraceFormat{});
    };
    CHECK(drop(source + "/data/traces/vent-motor.csv"));
    CHECK(d.window.currentView() == "loads");
    REQUIRE(d.session.traceWork().waitForIdle());
    CHECK(d.session.traceWork().trace());
    // A bad file is said, and the open one stays.
    CHECK(drop(QString::fromLatin1(SIPPER_TEST_FILES) + "/bad/loop.sipper"));
    CHECK(d.session.path().endsWith("lake-parade-lantern.sipper"));
    CHECK(d.find<QLabel>("message.text")->isVisibleTo(&d.window));
}
