// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/session.hpp"

#include "analysis/pending.hpp"
#include "project/file.hpp"

#include <QDir>
#include <QFileInfo>
#include <QSettings>
#include <QStandardPaths>
#include <condition_variable>
#include <mutex>

namespace sipper::app {
namespace {

constexpr int kMostRecent = 8;
constexpr const char* kDeep = "deep";
constexpr const char* kQuick = "quick";

/// Have all figures their places still? What is late may then stay as it was.
bool sameShape(const Project& a, const Project& b) {
    const auto ids = [](const auto& x, const auto& y) {
        return x.size() == y.size() &&
               std::equal(x.begin(), x.end(), y.begin(),
                          [](const auto& l, const auto& r) { return l.id == r.id; });
    };
    return ids(a.stages, b.stages) && ids(a.loads, b.loads) && ids(a.modes, b.modes) &&
           std::equal(a.stages.begin(), a.stages.end(), b.stages.begin(),
                      [](const Stage& l, const Stage& r) {
                          return l.part.index() == r.part.index() && l.fedBy == r.fedBy;
                      });
}

/// An answer that is on its way, between the thread that works it out and the window's.
struct Underway {
    std::mutex mutex;
    std::condition_variable there;
    std::optional<QuickAnalysis> answer;
    bool taken = false; ///< by the window, which had waited for it
};

} // namespace

Session::Session(QObject* parent)
    : QObject(parent), m_recovery(m_document, m_jobs), m_traceWork(m_jobs) {
    m_analyse = [pieces = m_jobs.parallelFor()](const Project& project,
                                                const std::stop_token& stop) {
        return analyseQuick(project, {}, stop, pieces);
    };
    takeQuick(analyseQuick(project())); // of the blank page
    m_moment.begin(project(), m_results);
    connect(&m_document, &Document::replaced, this, &Session::begin);
    connect(&m_document, &Document::changed, this, &Session::follow);
    connect(&m_document, &Document::variantsChanged, this, &Session::variantsChanged);
    connect(&m_document, &Document::fileChanged, this, &Session::documentChanged);
    connect(&m_moment, &DisplayedPoint::changed, this, &Session::momentChanged);
    connect(&m_moment, &DisplayedPoint::selectionChanged, this, &Session::selectionChanged);
    connect(&m_moment, &DisplayedPoint::highlightChanged, this, &Session::highlightChanged);
    connect(&m_jobs, &Jobs::failed, this, &Session::refused);
}

Session::~Session() = default;

std::optional<Error> Session::open(const QString& path) {
    if (auto trouble = m_document.open(path))
        return trouble;
    remember(m_document.path());
    return std::nullopt;
}

std::optional<Error> Session::openExample(const QString& name) {
    return m_document.openShipped("examples", name, tr("example"));
}

std::optional<Error> Session::openRecipe(const QString& name) {
    return m_document.openShipped("recipes", name, tr("recipe, not saved"));
}

std::optional<Error> Session::save(const QString& path) {
    if (auto trouble = m_document.save(path))
        return trouble;
    remember(m_document.path());
    return std::nullopt;
}

void Session::apply(const QString& name, Project after, const QString& key) {
    if (const auto trouble = edit(name, std::move(after), key))
        emit refused(*trouble);
}

void Session::begin() {
    m_results.deep.reset();
    compute(true);
}

void Session::follow() {
    compute(false);
}

void Session::setLate(bool late) {
    if (m_late == late)
        return;
    m_late = late;
    emit lateChanged(late);
}

/// The figures of before stay pale; why is said, and the next edit tries anew.
void Session::breakOff(const std::string& why) {
    m_brokenOff = true;
    m_late = true;
    emit lateChanged(true);
    emit refused(Error{"analysis", "", why, "figures", "the analysis broke off"});
}

void Session::takeQuick(QuickAnalysis quick) {
    static_cast<QuickAnalysis&>(m_results) = std::move(quick);
    m_shape = project();
}

/// The quick figures stand; tells the views.
void Session::arrived(Arrival arrival) {
    switch (arrival) {
    case Arrival::opened:
        m_moment.begin(project(), m_results);
        break;
    case Arrival::openedLate:
        m_moment.beginLate(project(), m_results);
        break;
    case Arrival::edited:
        m_moment.follow(project());
    }
    emit projectChanged();
    if (arrival != Arrival::edited)
        emit selectionChanged();
}

/// What must be there at once is worked out beside the window, which waits a frame for it and then
/// goes on without.
void Session::compute(bool anew) {
    m_jobs.projectChanged();
    m_settled = false;
    m_brokenOff = false;
    const auto underway = std::make_shared<Underway>();
    m_jobs.runOnProject(kQuick, Jobs::Priority::shown,
                        [this, underway, anew, analyse = m_analyse,
                         project = std::make_shared<const Project>(project())](
                            const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
                            QuickAnalysis quick;
                            try {
                                quick = analyse(*project, stop);
                            } catch (const std::exception& trouble) {
                                return
                                    [this, what = std::string(trouble.what())] { breakOff(what); };
                            }
                            const std::scoped_lock lock(underway->mutex);
                            if (underway->taken || stop.stop_requested())
                                return {};
                            underway->answer = std::move(quick);
                            underway->there.notify_all();
                            return [this, underway, anew] {
                                {
                                    const std::scoped_lock late(underway->mutex);
                                    if (underway->taken || !underway->answer)
                                        return;
                                    underway->taken = true;
                                }
                                takeQuick(std::move(*underway->answer));
                                setLate(false);
                                arrived(anew ? Arrival::openedLate : Arrival::edited);
                                computeDeep();
                            };
                        });
    std::unique_lock lock(underway->mutex);
    underway->there.wait_for(lock, m_patience, [&] { return underway->answer.has_value(); });
    if (underway->answer) {
        underway->taken = true;
        takeQuick(std::move(*underway->answer));
        lock.unlock();
        setLate(false);
        arrived(anew ? Arrival::opened : Arrival::edited);
        computeDeep();
        return;
    }
    lock.unlock();
    if (anew || !sameShape(m_shape, project())) {
        takeQuick(pendingQuick(project()));
        m_results.deep.reset();
    }
    setLate(true);
    arrived(anew ? Arrival::opened : Arrival::edited);
}

void Session::computeDeep() {
    m_jobs.runOnProject(kDeep, Jobs::Priority::soon,
                        [this, project = std::make_shared<const Project>(project()),
                         quick = std::make_shared<const QuickAnalysis>(m_results),
                         builds = m_rangeBuilds, pieces = m_jobs.parallelFor()](
                            const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
                            DeepOptions depth;
                            depth.builds = builds;
                            auto deep = analyseDeep(*project, *quick, stop, depth, pieces);
                            if (!deep)
                                return {};
                            return [this, deep] {
                                m_results.findings = deep->findings;
                                m_results.deep = deep;
                                m_settled = true;
                                emit resultsUpdated();
                            };
                        });
}

void Session::waitForIdle() {
    m_jobs.waitForIdle();
}

QList<Session::Shipped> Session::recipes() {
    const QDir folder(QString::fromStdString((dataFolder() / "recipes").string()));
    QList<Shipped> list;
    for (const QString& file :
         folder.entryList({QStringLiteral("*.sipper")}, QDir::Files, QDir::Name))
        if (const auto read = loadProject(folder.filePath(file).toStdString()))
            list.append({QFileInfo(file).completeBaseName(),
                         QString::fromStdString(read.value().project.name),
                         QString::fromStdString(read.value().project.notes)});
    return list;
}

QString Session::partsFolder() {
    return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) +
           QStringLiteral("/parts");
}

QString Session::drawerPath() {
    return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) +
           QStringLiteral("/cells-to-hand.json");
}

QStringList Session::exampleNames() {
    const QDir folder(QString::fromStdString((dataFolder() / "examples").string()));
    QStringList names;
    for (const QString& file :
         folder.entryList({QStringLiteral("*.sipper")}, QDir::Files, QDir::Name))
        names << QFileInfo(file).completeBaseName();
    return names;
}

QStringList Session::recentFiles() {
    return QSettings().value(QStringLiteral("recent")).toStringList();
}

void Session::remember(const QString& path) {
    QStringList recent = recentFiles();
    recent.removeAll(path);
    recent.prepend(path);
    while (recent.size() > kMostRecent)
        recent.removeLast();
    QSettings().setValue(QStringLiteral("recent"), recent);
}

} // namespace sipper::app
