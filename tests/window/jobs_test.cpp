// SPDX-License-Identifier: GPL-3.0-or-later
// Work beside the window: the newest wins, what is stopped or of an older project is not heard of.
#include "driven.hpp"
#include "session/jobs.hpp"
#include "session/tracework.hpp"

#include <atomic>

using namespace sipper;
using namespace sipper::app;

TEST_CASE("the newest request wins and the old one's result is dropped", "[jobs]") {
    Jobs jobs;
    std::atomic<bool> release = false;
    QList<int> heard;
    const auto ask = [&](int number, bool waits) {
        jobs.run("sum", Jobs::Priority::soon,
                 [&, number, waits](const std::stop_token& stop,
                                    const Jobs::Progress&) -> Jobs::Deliver {
                     while (waits && !release && !stop.stop_requested())
                         QThread::msleep(1);
                     return [&, number] { heard << number; };
                 });
    };
    ask(1, true);
    CHECK(jobs.busy("sum"));
    ask(2, false); // asks the first to stop
    ask(3, false);
    REQUIRE(jobs.waitForIdle("sum", 5000));
    CHECK(heard == QList<int>{3});
    CHECK_FALSE(jobs.busy());
    ask(4, true);
    jobs.stop("sum");
    CHECK_FALSE(jobs.busy("sum"));
    REQUIRE(jobs.waitForIdle("sum", 5000));
    ask(5, false);
    REQUIRE(jobs.waitForIdle("sum", 5000));
    CHECK(heard == QList<int>{3, 5});
}

TEST_CASE("what belongs to an older project is dropped, what belongs to none stays", "[jobs]") {
    Jobs jobs;
    QStringList heard;
    const auto work = [&](const char* name) {
        return [&heard, name](const std::stop_token&, const Jobs::Progress&) -> Jobs::Deliver {
            return [&heard, name] { heard << name; };
        };
    };
    jobs.runOnProject("range", Jobs::Priority::soon, work("range"));
    jobs.run("trace", Jobs::Priority::soon, work("trace"));
    jobs.projectChanged();
    REQUIRE(jobs.waitForIdle({}, 5000));
    CHECK(heard == QStringList{"trace"});
    // Nothing reaches what is gone.
    auto owner = std::make_unique<QObject>();
    jobs.run("gone", Jobs::Priority::soon, work("gone"), owner.get());
    owner.reset();
    REQUIRE(jobs.waitForIdle({}, 5000));
    CHECK(heard == QStringList{"trace"});
}

TEST_CASE("an exception in a piece of work becomes an error, and the pool goes on", "[jobs]") {
    Jobs jobs;
    std::vector<Error> errors;
    QObject::connect(&jobs, &Jobs::failed, &jobs, [&](const Error& e) { errors.push_back(e); });
    jobs.run("bad", Jobs::Priority::shown,
             [](const std::stop_token&, const Jobs::Progress&) -> Jobs::Deliver {
                 throw std::runtime_error("no such weather");
             });
    REQUIRE(jobs.waitForIdle({}, 5000));
    REQUIRE(errors.size() == 1);
    CHECK(errors.front().message() == "bad: found no such weather, expected a result");
    bool delivered = false;
    jobs.run("good", Jobs::Priority::shown,
             [&](const std::stop_token&, const Jobs::Progress& progress) -> Jobs::Deliver {
                 progress(1, 2);
                 return [&] { delivered = true; };
             });
    std::size_t seen = 0;
    QObject::connect(&jobs, &Jobs::progressed, &jobs,
                     [&](const QString& name, std::size_t done, std::size_t all) {
                         seen += name == "good" && done == 1 && all == 2;
                     });
    REQUIRE(jobs.waitForIdle({}, 5000));
    CHECK(delivered);
    CHECK(seen == 1);
}

TEST_CASE("a loop is shared out, each piece once, also inside a piece of work", "[jobs]") {
    Jobs jobs;
    const ParallelFor parallelFor = jobs.parallelFor();
    std::vector<std::atomic<int>> hits(1000);
    std::set<std::thread::id> threads;
    std::mutex mutex;
    parallelFor(hits.size(), [&](std::size_t i) {
        ++hits[i];
        const std::scoped_lock lock(mutex);
        threads.insert(std::this_thread::get_id());
    });
    CHECK(std::all_of(hits.begin(), hits.end(), [](const auto& h) { return h == 1; }));
    // All threads of the pool at loops of their own: none waits for another for ever.
    std::atomic<int> sum = 0;
    for (int job = 0; job < 8; ++job)
        jobs.run(QString::number(job), Jobs::Priority::idle,
                 [&, parallelFor](const std::stop_token&, const Jobs::Progress&) -> Jobs::Deliver {
                     parallelFor(100, [&](std::size_t) { ++sum; });
                     return {};
                 });
    REQUIRE(jobs.waitForIdle({}, 20000));
    CHECK(sum == 800);
    CHECK_THROWS_AS(parallelFor(4,
                                [](std::size_t i) {
                                    if (i == 2)
                                        throw std::runtime_error("two");
                                }),
                    std::runtime_error);
}

TEST_CASE("work that goes away with its pool is asked to stop", "[jobs]") {
    std::atomic<bool> ended = false;
    {
        Jobs jobs;
        jobs.run("long", Jobs::Priority::idle,
                 [&](const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
                     while (!stop.stop_requested())
                         QThread::msleep(1);
                     ended = true;
                     return [] { FAIL("its pool is gone"); };
                 });
        QThread::msleep(20);
    }
    QApplication::processEvents();
    CHECK(ended);
}

TEST_CASE("levels keep their order, names follow them, and the last cut counts", "[jobs]") {
    Jobs jobs;
    TraceWork work(jobs);
    const QString night = QString::fromLatin1(SIPPER_SOURCE) + "/data/traces/listener-night.csv";
    work.open(night, {});
    REQUIRE(work.waitForIdle());
    REQUIRE(work.levels().size() == 3);
    work.rename(2, "Lamp");
    // A level can't pass its neighbours.
    work.moveLevel(1, 10);
    CHECK(work.levels()[1] < work.levels()[2]);
    work.moveLevel(1, 1e-9);
    CHECK(work.levels()[1] > work.levels()[0]);
    work.moveLevel(1, 0.1);
    REQUIRE(work.waitForIdle());
    CHECK(work.cut().modes[1].level == Approx(0.1));
    CHECK(work.names()[2] == "Lamp");
    work.merge(1);
    REQUIRE(work.waitForIdle());
    REQUIRE(work.names().size() == 2);
    CHECK(work.names()[1] == "Lamp");
    work.merge(0); // nothing under the lowest
    work.split(9);
    CHECK(work.levels().size() == 2);
    // A file that is not there leaves what was.
    QSignalSpy failed(&work, &TraceWork::failed);
    work.open(night + ".none", {});
    REQUIRE(work.waitForIdle());
    CHECK(failed.count() == 1);
    CHECK(work.levels().size() == 2);
    work.close();
    CHECK(work.trace() == nullptr);
}
