// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/jobs.hpp"

#include <QCoreApplication>
#include <QElapsedTimer>
#include <algorithm>
#include <atomic>

namespace sipper::app {
namespace {

constexpr unsigned kFewestThreads = 2;
constexpr unsigned kMostThreads = 4;

/// A loop whose pieces several threads take from; it outlives the helper that comes too late.
struct Loop {
    std::atomic<std::size_t> next{0};
    std::atomic<std::size_t> inside{0}; ///< helpers that are at it
    std::size_t pieces = 0;
    const std::function<void(std::size_t)>* piece = nullptr;
    std::mutex mutex;
    std::condition_variable left;
    bool closed = false;
    std::exception_ptr trouble;

    void work() {
        try {
            for (std::size_t i = next++; i < pieces; i = next++)
                (*piece)(i);
        } catch (...) {
            const std::scoped_lock lock(mutex);
            trouble = std::current_exception();
            next = pieces;
        }
    }
};

} // namespace

Jobs::Jobs(QObject* parent) : QObject(parent) {
    const unsigned count =
        std::clamp(std::thread::hardware_concurrency(), kFewestThreads, kMostThreads);
    for (unsigned i = 0; i < count; ++i)
        m_threads.emplace_back([this](const std::stop_token& ended) { serve(ended); });
}

Jobs::~Jobs() {
    for (const auto& [name, job] : m_wanted)
        job->stop.request_stop();
    for (std::jthread& thread : m_threads)
        thread.request_stop();
    m_woken.notify_all();
    m_threads.clear();
}

void Jobs::run(const QString& name, Priority priority, Work work, QObject* context) {
    start(name, priority, std::move(work), false, context);
}

void Jobs::runOnProject(const QString& name, Priority priority, Work work, QObject* context) {
    start(name, priority, std::move(work), true, context);
}

void Jobs::start(const QString& name, Priority priority, Work work, bool onProject,
                 QObject* context) {
    const bool before = m_wanted.contains(name);
    if (before)
        forget(name);
    auto job = std::make_shared<Job>();
    job->name = name;
    job->work = std::move(work);
    job->number = ++m_next;
    job->onProject = onProject;
    job->bound = context != nullptr;
    job->context = context;
    m_wanted[name] = job;
    {
        const std::scoped_lock lock(m_mutex);
        m_queue.emplace(std::pair(static_cast<int>(priority), job->number), job);
    }
    m_woken.notify_one();
    if (!before)
        emit busyChanged(name, true);
}

/// Neither waits for it nor tells: whoever asks for it again, or no more, does.
void Jobs::forget(const QString& name) {
    const auto at = m_wanted.find(name);
    if (at == m_wanted.end())
        return;
    at->second->stop.request_stop();
    {
        const std::scoped_lock lock(m_mutex);
        std::erase_if(m_queue, [&](const auto& entry) { return entry.second == at->second; });
    }
    m_wanted.erase(at);
}

void Jobs::stop(const QString& name) {
    if (!m_wanted.contains(name))
        return;
    forget(name);
    emit busyChanged(name, false);
}

void Jobs::projectChanged() {
    std::vector<QString> old;
    for (const auto& [name, job] : m_wanted)
        if (job->onProject)
            old.push_back(name);
    for (const QString& name : old)
        stop(name);
}

void Jobs::serve(const std::stop_token& ended) {
    while (!ended.stop_requested()) {
        std::function<void()> help;
        std::shared_ptr<Job> job;
        {
            std::unique_lock lock(m_mutex);
            if (!m_woken.wait(lock, ended,
                              [this] { return !m_queue.empty() || !m_helpers.empty(); }))
                return;
            if (!m_helpers.empty()) {
                help = std::move(m_helpers.front());
                m_helpers.pop_front();
            } else {
                job = m_queue.begin()->second;
                m_queue.erase(m_queue.begin());
            }
        }
        if (help) {
            help();
            continue;
        }
        Deliver deliver;
        std::shared_ptr<const Error> trouble;
        const auto failedBy = [&](const std::string& what) {
            trouble = std::make_shared<const Error>(
                Error{"failed", job->name.toStdString(), what, "a result", ""});
        };
        try {
            deliver =
                job->work(job->stop.get_token(), [this, job](std::size_t done, std::size_t all) {
                    QMetaObject::invokeMethod(
                        this,
                        [this, job, done, all] {
                            const auto at = m_wanted.find(job->name);
                            if (at != m_wanted.end() && at->second == job)
                                emit progressed(job->name, done, all);
                        },
                        Qt::QueuedConnection);
                });
        } catch (const std::exception& e) {
            failedBy(e.what());
        } catch (...) {
            failedBy("an error without a name");
        }
        QMetaObject::invokeMethod(
            this, [this, job, deliver, trouble] { finish(job, deliver, trouble); },
            Qt::QueuedConnection);
    }
}

/// In the window's thread. What is not wanted any more is dropped.
void Jobs::finish(const std::shared_ptr<Job>& job, const Deliver& deliver,
                  const std::shared_ptr<const Error>& trouble) {
    const auto at = m_wanted.find(job->name);
    if (at == m_wanted.end() || at->second != job)
        return;
    m_wanted.erase(at);
    const QString name = job->name;
    if (trouble)
        emit failed(*trouble);
    else if (deliver && !(job->bound && !job->context))
        deliver();
    if (!m_wanted.contains(name)) // it may have asked for more of the same
        emit busyChanged(name, false);
}

bool Jobs::waitForIdle(const QString& name, int milliseconds) {
    QElapsedTimer timer;
    timer.start();
    const auto waiting = [&] { return name.isEmpty() ? busy() : busy(name); };
    while (waiting() && timer.elapsed() < milliseconds)
        QCoreApplication::processEvents(QEventLoop::AllEvents | QEventLoop::WaitForMoreEvents, 20);
    return !waiting();
}

ParallelFor Jobs::parallelFor() {
    return [this](std::size_t pieces, const std::function<void(std::size_t)>& piece) {
        auto loop = std::make_shared<Loop>();
        loop->pieces = pieces;
        loop->piece = &piece;
        {
            const std::scoped_lock lock(m_mutex);
            for (std::size_t i = 1; i < std::min(pieces, m_threads.size()); ++i)
                m_helpers.emplace_back([loop] {
                    {
                        const std::scoped_lock entry(loop->mutex);
                        if (loop->closed)
                            return;
                        ++loop->inside;
                    }
                    loop->work();
                    const std::scoped_lock exit(loop->mutex);
                    --loop->inside;
                    loop->left.notify_all();
                });
        }
        m_woken.notify_all();
        loop->work();
        std::unique_lock lock(loop->mutex);
        loop->closed = true;
        loop->left.wait(lock, [&] { return loop->inside == 0; });
        if (loop->trouble)
            std::rethrow_exception(loop->trouble);
    };
}

} // namespace sipper::app
