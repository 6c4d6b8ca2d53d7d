#include "session/session.hpp"

#include "project/file.hpp"

#include <QDir>
#include <QFileInfo>
#include <QSettings>
#include <QStandardPaths>

namespace sipper::app {
namespace {

constexpr int kMostRecent = 8;
constexpr const char* kDeep = "deep";

} // namespace

Session::Session(QObject* parent)
    : QObject(parent), m_recovery(m_document, m_jobs), m_traceWork(m_jobs) {
    static_cast<Quick&>(m_results) = quickOf(project());
    m_moment.begin(project(), m_results);
    connect(&m_document, &Document::replaced, this, &Session::begin);
    connect(&m_document, &Document::changed, this, &Session::follow);
    connect(&m_document, &Document::variantsChanged, this, &Session::variantsChanged);
    connect(&m_document, &Document::fileChanged, this, &Session::documentChanged);
    connect(&m_moment, &Moment::changed, this, &Session::momentChanged);
    connect(&m_moment, &Moment::selectionChanged, this, &Session::selectionChanged);
    connect(&m_moment, &Moment::highlightChanged, this, &Session::highlightChanged);
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
    compute();
    m_moment.begin(project(), m_results);
    emit projectChanged();
    emit selectionChanged();
}

void Session::follow() {
    compute();
    m_moment.follow(project());
    emit projectChanged();
}

/// What must be there at once, here; the rest beside the window. Never waits.
void Session::compute() {
    m_jobs.projectChanged();
    static_cast<Quick&>(m_results) = quickOf(project());
    m_settled = false;
    m_jobs.runOnProject(kDeep, Jobs::Priority::soon,
                        [this, project = std::make_shared<const Project>(project()),
                         quick = std::make_shared<const Quick>(m_results), crew = m_jobs.crew()](
                            const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
                            auto deep = deepOf(*project, *quick, stop, {}, crew);
                            if (!deep)
                                return {};
                            return [this, deep] {
                                m_results.findings = deep->findings;
                                m_results.deep = deep;
                                m_settled = true;
                                emit resultsSettled();
                            };
                        });
}

void Session::settle() {
    m_jobs.settle();
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
