// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/document.hpp"

#include "project/file.hpp"
#include "project/roles.hpp"

#include <QFileInfo>
#include <QUndoCommand>

namespace sipper::app {

/// Before and after are shared with the edits around it: a long log of them costs what changed.
class Document::Edit : public QUndoCommand {
  public:
    Edit(Document& document, std::shared_ptr<const Project> after, std::size_t variant,
         const QString& name, QString key)
        : m_document(document), m_before(document.m_whole), m_after(std::move(after)),
          m_variantBefore(document.m_variant), m_variantAfter(variant), m_key(std::move(key)),
          m_gesture(document.m_gesture) {
        setText(name);
    }
    int id() const override { return m_key.isEmpty() ? -1 : 1; }
    bool mergeWith(const QUndoCommand* other) override {
        const auto* next = static_cast<const Edit*>(other);
        if (next->m_key != m_key || next->m_gesture != m_gesture ||
            next->m_variantAfter != m_variantAfter)
            return false;
        m_after = next->m_after;
        setText(next->text());
        setObsolete(m_variantBefore == m_variantAfter && *m_before == *m_after);
        return true;
    }
    void undo() override { m_document.put(m_before, m_variantBefore); }
    void redo() override { m_document.put(m_after, m_variantAfter); }

  private:
    Document& m_document;
    std::shared_ptr<const Project> m_before;
    std::shared_ptr<const Project> m_after;
    std::size_t m_variantBefore;
    std::size_t m_variantAfter;
    QString m_key;
    std::uint64_t m_gesture;
};

Document::Document(QObject* parent) : QObject(parent) {
    Project blank;
    Mode& base = blank.modes.emplace_back();
    base.id = "on";
    base.base = true;
    m_project = blank;
    m_whole = std::make_shared<const Project>(std::move(blank));
    connect(&m_undo, &QUndoStack::cleanChanged, this, [this](bool clean) {
        if (clean)
            m_edits = 0;
        emit fileChanged();
    });
}

Document::~Document() {
    m_undo.disconnect(this);
}

std::optional<Error> Document::open(const QString& path) {
    const FileStamp stamp = stampOf(path.toStdString());
    auto read = loadProject(path.toStdString());
    if (!read)
        return read.error();
    m_stamp = stamp;
    m_keepOld = read.value().version < kFormatVersion;
    replace(std::make_shared<const Project>(std::move(read).value().project), 0,
            QFileInfo(path).absoluteFilePath(), {});
    return std::nullopt;
}

std::optional<Error> Document::openShipped(const char* folder, const QString& name,
                                           const QString& origin) {
    auto read = loadProject(dataFolder() / folder / (name.toStdString() + ".sipper"));
    if (!read)
        return read.error();
    m_stamp = {};
    m_keepOld = false;
    replace(std::make_shared<const Project>(std::move(read).value().project), 0, {}, origin);
    return std::nullopt;
}

void Document::openMade(Project document, const QString& origin) {
    m_stamp = {};
    m_keepOld = false;
    replace(std::make_shared<const Project>(std::move(document)), 0, {}, origin);
}

void Document::openRecovery(Recovery recovery) {
    m_stamp = recovery.stamp;
    m_keepOld = false;
    replace(std::make_shared<const Project>(std::move(recovery.document)), recovery.variant,
            QString::fromStdString(recovery.path), QString::fromStdString(recovery.origin));
    m_undo.resetClean();
    m_edits = std::max(1, recovery.edits);
    emit fileChanged();
}

std::optional<Error> Document::save(const QString& path) {
    if (auto trouble = saveProject(path.toStdString(), *m_whole, m_keepOld))
        return trouble;
    m_keepOld = false;
    m_path = QFileInfo(path).absoluteFilePath();
    m_stamp = stampOf(m_path.toStdString());
    m_edits = 0;
    m_undo.setClean();
    emit fileChanged();
    return std::nullopt;
}

bool Document::changedOnDisk() const {
    const FileStamp now = stampOf(m_path.toStdString());
    return now != FileStamp{} && now != m_stamp;
}

void Document::replace(std::shared_ptr<const Project> whole, std::size_t variant,
                       const QString& path, const QString& origin) {
    m_undo.clear();
    ++m_number;
    m_edits = 0;
    m_path = path;
    m_origin = origin;
    m_whole = std::move(whole);
    m_variant = variant;
    m_project = variantProject(*m_whole, m_variant);
    emit replaced();
    emit fileChanged();
    emit variantsChanged();
}

// Callers hand the project over. NOLINTNEXTLINE(performance-unnecessary-value-param)
std::optional<Error> Document::edit(const QString& name, Project after, const QString& key) {
    if (after == m_project)
        return std::nullopt;
    after = withRolesFollowing(m_project, std::move(after));
    // The other variants are as they were: only this one can have come to harm.
    if (auto trouble = checkSupply(after))
        return trouble;
    Project whole = withVariant(*m_whole, m_variant, after);
    if (auto trouble = checkReadings(whole))
        return trouble;
    push(name, std::move(whole), m_variant, key);
    return std::nullopt;
}

void Document::push(const QString& name, Project whole, std::size_t variant, const QString& key) {
    ++m_edits;
    m_undo.push(
        new Edit(*this, std::make_shared<const Project>(std::move(whole)), variant, name, key));
}

std::optional<Error> Document::take(const QString& name, Project whole, std::size_t variant) {
    if (auto trouble = checkProject(whole))
        return trouble;
    push(name, std::move(whole), variant);
    return std::nullopt;
}

void Document::showVariant(std::size_t number) {
    if (number != m_variant && number < variantCount(*m_whole))
        put(m_whole, number);
}

std::optional<Error> Document::addVariant(const QString& name, const Project& supply) {
    return take(name, withVariantAdded(*m_whole, supply), variantCount(*m_whole));
}

std::optional<Error> Document::renameVariant(std::size_t number, const QString& name) {
    return take(
        tr("call variant %1 %2").arg(QString::fromStdString(variantName(*m_whole, number)), name),
        withVariantNamed(*m_whole, number, name.toStdString()), m_variant);
}

std::optional<Error> Document::removeVariant(std::size_t number) {
    if (variantCount(*m_whole) == 1)
        return Error{"variant", "", "the only variant", "another one to be left", ""};
    const bool before = m_variant > number || m_variant + 1 == variantCount(*m_whole);
    const std::size_t open = before && m_variant > 0 ? m_variant - 1 : m_variant;
    return take(tr("remove variant %1").arg(QString::fromStdString(variantName(*m_whole, number))),
                withoutVariant(*m_whole, number), open);
}

void Document::put(std::shared_ptr<const Project> whole, std::size_t variant) {
    const bool others = variant != m_variant || whole->variants != m_whole->variants ||
                        whole->variant != m_whole->variant;
    const bool renamed = whole->name != m_whole->name;
    m_whole = std::move(whole);
    m_variant = variant;
    m_project = variantProject(*m_whole, variant);
    emit changed();
    if (others)
        emit variantsChanged();
    if (renamed)
        emit fileChanged();
}

} // namespace sipper::app
