// Work beside the window: the newest wins, what is stopped is not heard of.
#include "driven.hpp"
#include "session/background.hpp"
#include "session/tracework.hpp"

#include <atomic>

using namespace sipper;
using namespace sipper::app;

TEST_CASE("the newest request wins and the old one's result is dropped", "[background]") {
    Background background;
    std::atomic<bool> release = false;
    std::atomic<int> started = 0;
    QList<int> heard;
    const auto work = [&](int number, bool waits) {
        return [&, number, waits](const std::stop_token& stop) -> std::function<void()> {
            ++started;
            while (waits && !release && !stop.stop_requested())
                QThread::msleep(1);
            return [&, number] { heard << number; };
        };
    };
    background.run(work(1, true));
    CHECK(background.busy());
    background.run(work(2, false)); // asks the first to stop
    background.run(work(3, false)); // and takes the second's place before it has begun
    REQUIRE(background.settle(5000));
    CHECK(heard == QList<int>{3});
    CHECK(started == 2);
    CHECK_FALSE(background.busy());
    background.run(work(4, true));
    background.stop();
    REQUIRE(background.settle(5000));
    CHECK(heard == QList<int>{3});
    background.run(work(5, false));
    REQUIRE(background.settle(5000));
    CHECK(heard == QList<int>{3, 5});
}

TEST_CASE("work that goes away with its owner is not waited for in vain", "[background]") {
    std::atomic<bool> ended = false;
    {
        Background background;
        background.run([&](const std::stop_token& stop) -> std::function<void()> {
            while (!stop.stop_requested())
                QThread::msleep(1);
            ended = true;
            return [] { FAIL("its owner is gone"); };
        });
    }
    CHECK(ended);
    QApplication::processEvents();
}

TEST_CASE("levels keep their order, names follow them, and the last cut counts", "[background]") {
    TraceWork work;
    const QString night = QString::fromLatin1(SIPPER_SOURCE) + "/data/traces/listener-night.csv";
    work.open(night, {});
    REQUIRE(work.settle());
    REQUIRE(work.levels().size() == 3);
    work.rename(2, "Lamp");
    // A level can't pass its neighbours.
    work.moveLevel(1, 10);
    CHECK(work.levels()[1] < work.levels()[2]);
    work.moveLevel(1, 1e-9);
    CHECK(work.levels()[1] > work.levels()[0]);
    work.moveLevel(1, 0.1);
    REQUIRE(work.settle());
    CHECK(work.cut().modes[1].level == Approx(0.1));
    CHECK(work.names()[2] == "Lamp");
    work.merge(1);
    REQUIRE(work.settle());
    REQUIRE(work.names().size() == 2);
    CHECK(work.names()[1] == "Lamp");
    work.merge(0); // nothing under the lowest
    work.split(9);
    CHECK(work.levels().size() == 2);
    // A file that is not there leaves what was.
    QSignalSpy failed(&work, &TraceWork::failed);
    work.open(night + ".none", {});
    REQUIRE(work.settle());
    CHECK(failed.count() == 1);
    CHECK(work.levels().size() == 2);
    work.close();
    CHECK(work.trace() == nullptr);
}
