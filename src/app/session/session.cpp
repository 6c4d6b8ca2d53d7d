#include "session/session.hpp"

#include "line/sources.hpp"
#include "project/file.hpp"
#include "project/variants.hpp"

#include <QDir>
#include <QFileInfo>
#include <QSettings>
#include <QStandardPaths>
#include <QTimer>
#include <QUndoCommand>

namespace sipper::app {

constexpr int kMostRecent = 8;
constexpr double kFirstCharge = 0.6; ///< where the marker stands when a document opens

class ProjectCommand : public QUndoCommand {
  public:
    ProjectCommand(Session& session, Project after, std::size_t variant, const QString& name,
                   QString key)
        : m_session(session), m_before(session.document()), m_after(std::move(after)),
          m_variantBefore(session.variant()), m_variantAfter(variant), m_key(std::move(key)) {
        setText(name);
    }
    int id() const override { return m_key.isEmpty() ? -1 : 1; }
    bool mergeWith(const QUndoCommand* other) override {
        const auto* next = static_cast<const ProjectCommand*>(other);
        if (next->m_key != m_key || next->m_variantAfter != m_variantAfter)
            return false;
        m_after = next->m_after;
        return true;
    }
    void undo() override { m_session.put(m_before, m_variantBefore); }
    void redo() override { m_session.put(m_after, m_variantAfter); }

  private:
    Session& m_session;
    Project m_before;
    Project m_after;
    std::size_t m_variantBefore;
    std::size_t m_variantAfter;
    QString m_key;
};

Session::Session(QObject* parent) : QObject(parent) {
    // The blank page: a valid document with one base mode and nothing on it.
    Mode& base = m_project.modes.emplace_back();
    base.id = "on";
    base.base = true;
    m_document = m_project;
    m_results = computeAtOnce(m_project);
    connect(&m_undo, &QUndoStack::cleanChanged, this, &Session::documentChanged);
}

Session::~Session() {
    m_undo.disconnect(this);
    m_worker.request_stop();
}

std::optional<Error> Session::open(const QString& path) {
    auto read = loadProject(path.toStdString());
    if (!read)
        return read.error();
    const QString full = QFileInfo(path).absoluteFilePath();
    replace(std::move(read).value().project, full);
    remember(full);
    return std::nullopt;
}

std::optional<Error> Session::openExample(const QString& name) {
    return openShipped("examples", name, tr("example"));
}

std::optional<Error> Session::openRecipe(const QString& name) {
    return openShipped("recipes", name, tr("recipe, not saved"));
}

std::optional<Error> Session::openShipped(const char* folder, const QString& name,
                                          const QString& origin) {
    auto read = loadProject(dataFolder() / folder / (name.toStdString() + ".sipper"));
    if (!read)
        return read.error();
    m_origin = origin;
    replace(std::move(read).value().project, {});
    return std::nullopt;
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

std::optional<Error> Session::save(const QString& path) {
    if (auto trouble = saveProject(path.toStdString(), m_document))
        return trouble;
    m_path = QFileInfo(path).absoluteFilePath();
    m_undo.setClean();
    remember(m_path);
    emit documentChanged();
    return std::nullopt;
}

void Session::replace(Project project, const QString& path) {
    m_undo.clear();
    m_path = path;
    m_document = std::move(project);
    m_variant = 0;
    m_project = variantProject(m_document, m_variant);
    m_selected.clear();
    m_highlighted.clear();
    m_mode = m_project.baseMode();
    for (std::size_t i = 0; i < m_project.modes.size(); ++i)
        if (m_project.modes[i].isWindowed())
            m_mode = i;
    m_charge = kFirstCharge;
    plugWhatIsNeeded();
    compute();
    // A moment at which it still runs.
    if (m_results.survey && m_results.survey->stopCharge >= m_charge) {
        m_charge = (1 + m_results.survey->stopCharge) / 2;
        solveMoment();
    }
    // What needs mending first is what is looked at first; else the cells.
    if (const Stage* pack = m_project.packStage())
        m_selected = QString::fromStdString(pack->id);
    else if (!m_project.stages.empty())
        m_selected = QString::fromStdString(m_project.stages.front().id);
    for (const Finding& f : m_results.findings)
        if (m_project.stage(f.subject) || m_project.load(f.subject)) {
            m_selected = QString::fromStdString(f.subject);
            break;
        }
    emit documentChanged();
    emit projectChanged();
    emit selectionChanged();
    emit variantsChanged();
}

std::optional<Error> Session::edit(const QString& name, Project after, const QString& key) {
    if (after == m_project)
        return std::nullopt;
    if (auto trouble = checkProject(after))
        return trouble;
    push(name, withVariant(m_document, m_variant, after), m_variant, key);
    return std::nullopt;
}

void Session::push(const QString& name, Project document, std::size_t variant, const QString& key) {
    m_undo.push(new ProjectCommand(*this, std::move(document), variant, name, key));
}

std::optional<Error> Session::take(const QString& name, Project document, std::size_t variant) {
    if (auto trouble = checkProject(document))
        return trouble;
    push(name, std::move(document), variant);
    return std::nullopt;
}

void Session::showVariant(std::size_t number) {
    if (number == m_variant || number >= variantCount(m_document))
        return;
    put(Project(m_document), number);
}

std::optional<Error> Session::addVariant(const QString& name, const Project& supply) {
    return take(name, withVariantAdded(m_document, supply), variantCount(m_document));
}

std::optional<Error> Session::renameVariant(std::size_t number, const QString& name) {
    return take(
        tr("call variant %1 %2").arg(QString::fromStdString(variantName(m_document, number)), name),
        withVariantNamed(m_document, number, name.toStdString()), m_variant);
}

std::optional<Error> Session::removeVariant(std::size_t number) {
    if (variantCount(m_document) == 1)
        return Error{"variant", "", "the only variant", "another one to be left", ""};
    const std::size_t open = m_variant > number || m_variant + 1 == variantCount(m_document)
                                 ? m_variant - (m_variant > 0 ? 1 : 0)
                                 : m_variant;
    return take(
        tr("remove variant %1").arg(QString::fromStdString(variantName(m_document, number))),
        withoutVariant(m_document, number), open);
}

void Session::put(const Project& document, std::size_t variant) {
    // A project that loses its cells is tethered from then on, and the other way round.
    const bool tethered = !m_project.pack();
    const bool others = variant != m_variant || document.variants != m_document.variants ||
                        document.variant != m_document.variant;
    m_document = document;
    m_variant = variant;
    m_project = variantProject(m_document, variant);
    if (tethered != !m_project.pack() || (tethered && m_plugged.isEmpty()))
        plugWhatIsNeeded();
    if (m_mode >= m_project.modes.size())
        m_mode = m_project.baseMode();
    const bool gone = !m_selected.isEmpty() && !m_project.stage(m_selected.toStdString()) &&
                      !m_project.load(m_selected.toStdString());
    if (gone)
        m_selected.clear();
    compute();
    emit projectChanged();
    if (gone)
        emit selectionChanged();
    if (others)
        emit variantsChanged();
}

void Session::compute() {
    ++m_generation;
    m_worker.request_stop();
    const std::optional<RangeResult> before = m_results.range;
    std::vector<Consequence> consequences = std::move(m_results.consequences);
    std::vector<SchoolLife> schools = std::move(m_results.schools);
    m_results = computeAtOnce(m_project);
    m_results.consequences = std::move(consequences);
    m_results.schools = std::move(schools);
    m_settled = false;
    // The old range stays on show, dimmed, until the new one is there.
    m_results.range = before;
    solveMoment();
    startInDepth();
}

void Session::solveMoment() {
    Conditions conditions = typicalConditions(m_project);
    for (const QString& id : m_plugged)
        if (const Stage* s = m_project.stage(id.toStdString()); s && isSource(s->part))
            conditions.present.push_back(s->id);
    m_moment = m_project.pack() || !conditions.present.empty()
                   ? operate(m_project, conditions, m_charge, m_mode)
                   : OperatingPoint{};
}

/// A tethered project is shown with its sources plugged in, one with cells on its cells.
void Session::plugWhatIsNeeded() {
    m_plugged.clear();
    if (!m_project.pack())
        for (const std::size_t i : mainsSources(m_project))
            m_plugged << QString::fromStdString(m_project.stages[i].id);
}

void Session::plug(const QString& source, bool in) {
    if (m_plugged.contains(source) == in)
        return;
    if (in)
        m_plugged << source;
    else
        m_plugged.removeAll(source);
    solveMoment();
    emit momentChanged();
}

void Session::startInDepth() {
    Results quick = m_results;
    m_worker = std::jthread([this, project = m_project, quick = std::move(quick),
                             generation = m_generation](const std::stop_token& stop) mutable {
        auto deep = computeInDepth(project, std::move(quick), stop);
        if (!deep)
            return;
        QMetaObject::invokeMethod(
            this,
            [this, generation, result = std::make_shared<Results>(std::move(*deep))] {
                if (generation != m_generation)
                    return;
                m_results = std::move(*result);
                m_settled = true;
                emit resultsSettled();
            },
            Qt::QueuedConnection);
    });
}

void Session::settle() {
    while (!m_settled && m_worker.joinable()) {
        m_worker.join();
        QCoreApplication::processEvents();
    }
}

void Session::setMoment(double charge, std::size_t mode) {
    charge = std::clamp(charge, 0.0, 1.0);
    if (charge == m_charge && mode == m_mode)
        return;
    m_charge = charge;
    m_mode = mode;
    solveMoment();
    emit momentChanged();
}

void Session::select(const QString& id) {
    if (id == m_selected)
        return;
    m_selected = id;
    emit selectionChanged();
}

void Session::highlight(const QString& id) {
    if (id == m_highlighted)
        return;
    m_highlighted = id;
    emit highlightChanged();
}

QString Session::partsFolder() {
    return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) +
           QStringLiteral("/parts");
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
