// SPDX-License-Identifier: GPL-3.0-or-later
// The one pool of work beside the window: by priority, to be stopped, with progress; the newest
// request of a name wins, what belongs to an older project is dropped, and an exception becomes an
// error on the screen.
#pragma once

#include "base/outcome.hpp"
#include "base/parallelfor.hpp"

#include <QObject>
#include <QPointer>
#include <QString>
#include <condition_variable>
#include <cstdint>
#include <deque>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <stop_token>
#include <thread>
#include <vector>

namespace sipper::app {

class Jobs : public QObject {
    Q_OBJECT
  public:
    enum class Priority { shown, soon, idle }; ///< what the eye waits for comes first
    /// Runs in the window's thread when the work is done; may be empty.
    using Deliver = std::function<void()>;
    using Progress = std::function<void(std::size_t done, std::size_t all)>;
    using Work = std::function<Deliver(const std::stop_token& stop, const Progress& progress)>;

    explicit Jobs(QObject* parent = nullptr);
    /// Asks everything to stop and waits for it: nothing is delivered any more.
    ~Jobs() override;

    /// Work that no project is behind: a file to read, a recovery to write. Nothing is delivered
    /// once `context` is gone, where one is given.
    void run(const QString& name, Priority priority, Work work, QObject* context = nullptr);
    /// Work on the project of the present revision; dropped once there is another.
    void runOnProject(const QString& name, Priority priority, Work work,
                      QObject* context = nullptr);
    /// Another project: what was asked for of the one before is asked to stop, never waited for.
    void projectChanged();

    /// Gives up what waits and what is under way of this name.
    void stop(const QString& name);
    [[nodiscard]] bool busy(const QString& name) const { return m_wanted.contains(name); }
    [[nodiscard]] bool busy() const { return !m_wanted.empty(); }
    /// Waits, with events running, until nothing (of this name) is under way, for at most so many
    /// milliseconds; for tests and pictures.
    bool waitForIdle(const QString& name = {}, int milliseconds = 30000);

    /// Shares a loop with the pool's threads; for work that runs in the pool or beside it.
    [[nodiscard]] ParallelFor parallelFor();

  signals:
    void busyChanged(const QString& name, bool busy);
    void progressed(const QString& name, std::size_t done, std::size_t all);
    void failed(const sipper::Error& error);

  private:
    struct Job {
        QString name;
        Work work;
        std::stop_source stop;
        std::uint64_t number = 0;
        bool onProject = false;
        bool bound = false; ///< to a context
        QPointer<QObject> context;
    };
    void start(const QString& name, Priority priority, Work work, bool onProject, QObject* context);
    void serve(const std::stop_token& ended);
    void finish(const std::shared_ptr<Job>& job, const Deliver& deliver,
                const std::shared_ptr<const Error>& trouble);
    void forget(const QString& name);

    std::mutex m_mutex; ///< of what the threads take from: the two below
    std::map<std::pair<int, std::uint64_t>, std::shared_ptr<Job>> m_queue;
    std::deque<std::function<void()>> m_helpers; ///< shares of a loop: before any job
    std::condition_variable_any m_woken;
    std::map<QString, std::shared_ptr<Job>> m_wanted; ///< the newest of each name
    std::uint64_t m_next = 0;
    std::vector<std::jthread> m_threads; ///< last: they go before what they use
};

} // namespace sipper::app
