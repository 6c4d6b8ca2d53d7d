// SPDX-License-Identifier: GPL-3.0-or-later
// Nothing is lost: what is not saved yet goes to a file of its own in the state folder, and what an
// earlier program left there is offered.
#pragma once

#include "session/document.hpp"
#include "session/jobs.hpp"

#include <QElapsedTimer>
#include <QLockFile>
#include <QTimer>
#include <chrono>
#include <filesystem>

namespace sipper::app {

class RecoveryKeeper : public QObject {
    Q_OBJECT
  public:
    /// An edit is on disk within this time.
    static constexpr std::chrono::milliseconds kWithin{4000};

    RecoveryKeeper(Document& document, Jobs& jobs, QObject* parent = nullptr);
    /// A window that closes has saved or was told to let go.
    ~RecoveryKeeper() override;

    /// Before a step after which the program may not be there any more: written at once.
    void writeNow();
    void setInterval(std::chrono::milliseconds interval);

    /// What a program that ended without saving has left, the newest first.
    struct UnsavedDocument {
        std::filesystem::path file;
        Recovery recovery;            ///< what could be read of it
        std::optional<Error> trouble; ///< why it can't be read as it stands
        bool any = true;              ///< false: nothing of it can be read
    };
    [[nodiscard]] static std::vector<UnsavedDocument> left();
    /// Opens it as a document that is not saved; its file goes once this program keeps it itself.
    void take(const UnsavedDocument& left);
    /// Does not want it: it stays on disk until the next clean save and is not offered any more.
    void decline(const UnsavedDocument& left);
    [[nodiscard]] bool declined(const UnsavedDocument& left) const;

    /// Where recoveries lie: XDG_STATE_HOME, or ~/.local/state, and there `sipper`.
    [[nodiscard]] static std::filesystem::path folder();

  private:
    void follow();
    void write(bool wait);
    void forget();
    [[nodiscard]] std::filesystem::path file() const;
    [[nodiscard]] Recovery snapshot() const;

    Document& m_document;
    Jobs& m_jobs;
    QString m_name; ///< of this document's files: process and a number
    std::unique_ptr<QLockFile> m_lock;
    QTimer m_timer;
    std::vector<std::filesystem::path> m_declined;
    std::shared_ptr<const Project> m_written;
};

} // namespace sipper::app
