// SPDX-License-Identifier: GPL-3.0-or-later
// A measured trace on its way into the project: read, cut, adjusted. Not part of the document until
// it is used.
#pragma once

#include "session/jobs.hpp"

#include "trace/import.hpp"

#include <QString>
#include <memory>

namespace sipper::app {

class TraceWork : public QObject {
    Q_OBJECT
  public:
    explicit TraceWork(Jobs& jobs, QObject* parent = nullptr);

    /// Reads and cuts the file beside the window. On failure `failed` says why and what was there
    /// stays.
    void open(const QString& path, const TraceFormat& format);
    void close();
    /// Gives up reading or cutting.
    void stop();
    [[nodiscard]] bool busy() const { return m_jobs.busy(kJob); }
    bool waitForIdle() { return m_jobs.waitForIdle(kJob); }

    [[nodiscard]] const QString& path() const { return m_path; }
    [[nodiscard]] const Trace* trace() const { return m_trace.get(); } ///< null: none
    [[nodiscard]] const TraceSegments& cut() const { return m_cut; }
    /// Amps, rising; while a level moves, ahead of the cut.
    [[nodiscard]] const std::vector<double>& levels() const { return m_levels; }
    /// As given; empty where nothing was.
    [[nodiscard]] const std::vector<std::string>& names() const { return m_names; }

    /// Kept between its neighbours.
    void moveLevel(std::size_t index, double amps);
    void merge(std::size_t index); ///< with the one under it
    void split(std::size_t index);
    void rename(std::size_t index, const std::string& name);

  signals:
    void changed();    ///< trace, cut, levels or names
    void levelMoved(); ///< a line, ahead of the cut
    void busyChanged();
    void failed(const Error& error);

  private:
    void cutAgain(std::vector<double> levels, std::vector<std::string> names);
    void take(TraceSegments cut, const std::vector<double>& levels, std::vector<std::string> names);

    static constexpr const char* kJob = "trace";
    Jobs& m_jobs;
    QString m_path;
    std::shared_ptr<const Trace> m_trace;
    TraceSegments m_cut;
    std::vector<double> m_levels;
    std::vector<std::string> m_names;
};

} // namespace sipper::app
