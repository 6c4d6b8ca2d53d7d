// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/recoverykeeper.hpp"

#include "project/file.hpp"

#include <QCoreApplication>
#include <QDateTime>
#include <algorithm>
#include <atomic>
#include <mutex>

namespace sipper::app {
namespace {

constexpr const char* kEnding = ".recovery";
constexpr const char* kJob = "recovery";

/// Two writes of one file never cross: the later snapshot is the one that stays.
std::mutex& writing() {
    static std::mutex mutex;
    return mutex;
}

} // namespace

std::filesystem::path RecoveryKeeper::folder() {
    const QByteArray state = qgetenv("XDG_STATE_HOME");
    const std::filesystem::path base =
        !state.isEmpty() ? std::filesystem::path(state.toStdString())
                         : std::filesystem::path(qgetenv("HOME").toStdString()) / ".local/state";
    return base / "sipper";
}

RecoveryKeeper::RecoveryKeeper(Document& document, Jobs& jobs, QObject* parent)
    : QObject(parent), m_document(document), m_jobs(jobs) {
    static std::atomic<int> count{0};
    m_name = QStringLiteral("%1-%2").arg(QCoreApplication::applicationPid()).arg(++count);
    m_timer.setSingleShot(true);
    m_timer.setInterval(kWithin);
    connect(&m_timer, &QTimer::timeout, this, [this] { write(false); });
    connect(&document, &Document::changed, this, &RecoveryKeeper::follow);
    connect(&document, &Document::fileChanged, this, &RecoveryKeeper::follow);
    connect(&document, &Document::replaced, this, &RecoveryKeeper::forget);
}

RecoveryKeeper::~RecoveryKeeper() {
    forget();
}

void RecoveryKeeper::setInterval(std::chrono::milliseconds interval) {
    m_timer.setInterval(interval);
}

std::filesystem::path RecoveryKeeper::file() const {
    return folder() / (m_name.toStdString() + kEnding);
}

/// The first edit after a write starts the clock; those that follow do not put it off.
void RecoveryKeeper::follow() {
    if (!m_document.modified()) {
        const bool saved = m_written || m_lock;
        forget();
        if (saved || !m_declined.empty()) {
            for (const auto& gone : m_declined) {
                std::error_code code;
                std::filesystem::remove(gone, code);
            }
            m_declined.clear();
        }
        return;
    }
    if (m_document.shared() != m_written && !m_timer.isActive())
        m_timer.start();
}

Recovery RecoveryKeeper::snapshot() const {
    Recovery r;
    r.path = m_document.path().toStdString();
    r.stamp = m_document.stamp();
    r.origin = m_document.origin().toStdString();
    r.when = QDateTime::currentDateTime().toString("yyyy-MM-dd HH:mm:ss").toStdString();
    r.edits = m_document.editsSinceSave();
    r.variant = m_document.variant();
    return r;
}

void RecoveryKeeper::writeNow() {
    if (m_document.modified() && m_document.shared() != m_written)
        write(true);
}

void RecoveryKeeper::write(bool wait) {
    m_timer.stop();
    if (!m_document.modified())
        return;
    std::error_code code;
    std::filesystem::create_directories(folder(), code);
    std::filesystem::permissions(folder(), std::filesystem::perms::owner_all, code);
    if (!m_lock) {
        m_lock = std::make_unique<QLockFile>(
            QString::fromStdString((folder() / (m_name.toStdString() + ".lock")).string()));
        m_lock->setStaleLockTime(0); // as long as the process is there, it is held
        static_cast<void>(m_lock->tryLock());
    }
    m_written = m_document.shared();
    const auto work = [to = file(), kept = snapshot(),
                       whole = m_written](const std::stop_token& stop) -> std::optional<Error> {
        Recovery r = kept;
        r.document = *whole;
        const std::string text = recoveryText(r);
        const std::scoped_lock lock(writing());
        return stop.stop_requested() ? std::nullopt : writeFile(to, text);
    };
    if (wait) {
        m_jobs.stop(kJob);
        if (const auto trouble = work({}))
            emit m_jobs.failed(*trouble);
        return;
    }
    m_jobs.run(kJob, Jobs::Priority::soon,
               [this, work](const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
                   const auto trouble = work(stop);
                   if (!trouble)
                       return {};
                   return [this, error = *trouble] { emit m_jobs.failed(error); };
               });
}

/// Saved, closed or replaced: nothing of this document is left to offer.
void RecoveryKeeper::forget() {
    m_timer.stop();
    m_jobs.stop(kJob);
    if (!m_written)
        return;
    m_written.reset();
    const std::scoped_lock lock(writing());
    std::error_code code;
    std::filesystem::remove(file(), code);
    m_lock.reset();
}

std::vector<RecoveryKeeper::UnsavedDocument> RecoveryKeeper::left() {
    std::vector<UnsavedDocument> list;
    std::error_code code;
    for (std::filesystem::directory_iterator it(folder(), code), end; !code && it != end;
         it.increment(code)) {
        if (it->path().extension() != kEnding)
            continue;
        // Whoever still runs keeps its own.
        auto lockPath = it->path();
        lockPath.replace_extension(".lock");
        QLockFile lock(QString::fromStdString(lockPath.string()));
        lock.setStaleLockTime(0);
        if (!lock.tryLock(0))
            continue;
        const auto text = readFile(it->path());
        if (!text)
            continue;
        auto read = readRecovery(text.value());
        if (read) {
            list.push_back({it->path(), std::move(read).value(), std::nullopt, true});
            continue;
        }
        auto rescued = rescueRecovery(text.value());
        const bool any = static_cast<bool>(rescued);
        list.push_back(
            {it->path(), any ? std::move(rescued).value() : Recovery{}, read.error(), any});
    }
    std::sort(list.begin(), list.end(), [](const UnsavedDocument& a, const UnsavedDocument& b) {
        return a.recovery.when > b.recovery.when;
    });
    return list;
}

void RecoveryKeeper::take(const UnsavedDocument& left) {
    m_document.openRecovery(left.recovery);
    write(true);
    if (left.trouble) // what could not be read of it is still in it
        return decline(left);
    std::error_code code;
    std::filesystem::remove(left.file, code);
}

void RecoveryKeeper::decline(const UnsavedDocument& left) {
    if (!declined(left))
        m_declined.push_back(left.file);
}

bool RecoveryKeeper::declined(const UnsavedDocument& left) const {
    return std::find(m_declined.begin(), m_declined.end(), left.file) != m_declined.end();
}

} // namespace sipper::app
