// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/tracework.hpp"

#include "project/file.hpp"

#include <algorithm>

namespace sipper::app {
namespace {

constexpr double kApart = 1.02; ///< ratio that two levels keep

} // namespace

TraceWork::TraceWork(Jobs& jobs, QObject* parent) : QObject(parent), m_jobs(jobs) {
    connect(&jobs, &Jobs::busyChanged, this, [this](const QString& name) {
        if (name == QLatin1String(kJob))
            emit busyChanged();
    });
}

void TraceWork::open(const QString& path, const TraceFormat& format) {
    m_jobs.run(
        kJob, Jobs::Priority::shown,
        [this, path, format](const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
            const auto text = readFile(path.toStdString());
            if (!text)
                return [this, error = text.error()] { emit failed(error); };
            auto read = readTrace(text.value(), format);
            if (!read) {
                Error error = read.error();
                error.file = path.toStdString();
                return [this, error] { emit failed(error); };
            }
            if (stop.stop_requested())
                return {};
            auto trace = std::make_shared<const Trace>(std::move(read).value());
            auto cut = std::make_shared<TraceSegments>(segmentTrace(*trace));
            return [this, path, trace, cut] {
                m_path = path;
                m_trace = trace;
                take(std::move(*cut), {}, {});
            };
        });
}

void TraceWork::close() {
    stop();
    m_path.clear();
    m_trace.reset();
    m_cut = {};
    m_levels.clear();
    m_names.clear();
    emit changed();
}

void TraceWork::stop() {
    m_jobs.stop(kJob);
}

void TraceWork::moveLevel(std::size_t index, double amps) {
    if (index >= m_levels.size())
        return;
    const double low = index > 0 ? m_levels[index - 1] * kApart : 1e-9;
    const double high = index + 1 < m_levels.size() ? m_levels[index + 1] / kApart : 1e4;
    if (low > high)
        return;
    m_levels[index] = std::clamp(amps, low, high);
    emit levelMoved();
    cutAgain(m_levels, m_names);
}

void TraceWork::merge(std::size_t index) {
    if (index == 0 || index >= m_cut.modes.size())
        return;
    std::vector<std::string> names = m_names;
    names.erase(names.begin() + static_cast<std::ptrdiff_t>(index));
    cutAgain(mergedLevels(m_cut, index), std::move(names));
}

void TraceWork::split(std::size_t index) {
    if (!m_trace || index >= m_cut.modes.size())
        return;
    std::vector<double> levels = splitLevels(*m_trace, m_cut, index);
    if (levels.size() == m_levels.size())
        return;
    std::vector<std::string> names = m_names;
    names.insert(names.begin() + static_cast<std::ptrdiff_t>(index) + 1, std::string());
    cutAgain(std::move(levels), std::move(names));
}

void TraceWork::rename(std::size_t index, const std::string& name) {
    if (index >= m_names.size() || m_names[index] == name)
        return;
    m_names[index] = name;
    emit changed();
}

void TraceWork::cutAgain(std::vector<double> levels, std::vector<std::string> names) {
    m_jobs.run(kJob, Jobs::Priority::shown,
               [this, trace = m_trace, levels = std::move(levels), names = std::move(names)](
                   const std::stop_token&, const Jobs::Progress&) -> Jobs::Deliver {
                   auto cut = std::make_shared<TraceSegments>(segmentTrace(*trace, levels));
                   return [this, cut, levels, names] {
                       // A name given meanwhile is kept.
                       take(std::move(*cut), levels,
                            m_names.size() == names.size() ? m_names : names);
                   };
               });
}

/// The cut may leave out a level at which nothing stays: its name goes with it.
void TraceWork::take(TraceSegments cut, const std::vector<double>& levels,
                     std::vector<std::string> names) {
    m_cut = std::move(cut);
    m_levels.clear();
    m_names.clear();
    for (const TraceMode& mode : m_cut.modes) {
        m_levels.push_back(mode.level);
        const auto at = std::find(levels.begin(), levels.end(), mode.level);
        m_names.push_back(at == levels.end()
                              ? std::string()
                              : std::move(names[static_cast<std::size_t>(at - levels.begin())]));
    }
    emit changed();
}

} // namespace sipper::app
