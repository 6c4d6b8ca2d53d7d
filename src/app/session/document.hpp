// SPDX-License-Identifier: GPL-3.0-or-later
// The open document: its value, the variant that is open, undo, and the file that it belongs to.
#pragma once

#include "project/recovery.hpp"
#include "project/variants.hpp"

#include <QObject>
#include <QString>
#include <QUndoStack>
#include <memory>

namespace sipper::app {

class Document : public QObject {
    Q_OBJECT
  public:
    /// The blank page: a valid document with one base mode and nothing on it.
    explicit Document(QObject* parent = nullptr);
    ~Document() override;

    /// The variant that is open, as a project of its own, and the whole document with the others.
    [[nodiscard]] const Project& project() const { return m_project; }
    [[nodiscard]] const Project& whole() const { return *m_whole; }
    [[nodiscard]] std::shared_ptr<const Project> shared() const { return m_whole; }
    [[nodiscard]] std::size_t variant() const { return m_variant; }

    [[nodiscard]] const QString& path() const { return m_path; } ///< empty: no file yet
    /// `example`, `recipe` or nothing: where a document without a file comes from.
    [[nodiscard]] const QString& origin() const { return m_origin; }
    [[nodiscard]] const FileStamp& stamp() const { return m_stamp; }
    [[nodiscard]] bool modified() const { return !m_undo.isClean(); }
    [[nodiscard]] int editsSinceSave() const { return m_edits; }
    /// Counts the documents that were opened here: another number, another document.
    [[nodiscard]] int number() const { return m_number; }
    [[nodiscard]] QUndoStack& undoStack() { return m_undo; }

    /// Replaces the document. On failure the open one stays and the error comes back.
    [[nodiscard]] std::optional<Error> open(const QString& path);
    /// A project of the shipped data, without a file of its own.
    [[nodiscard]] std::optional<Error> openShipped(const char* folder, const QString& name,
                                                   const QString& origin);
    /// A document that was made here, without a file of its own.
    void openMade(Project document, const QString& origin);
    /// What was not saved, as a document that is not saved.
    void openRecovery(Recovery recovery);
    [[nodiscard]] std::optional<Error> save(const QString& path);
    /// Has somebody else written the file since it was read or saved here? False where it is gone.
    [[nodiscard]] bool changedOnDisk() const;

    /// One named, undoable edit of the open variant. Edits of the same `key` that follow each other
    /// in one gesture merge, under the last one's name; one that leads back to where the gesture
    /// began is none. An edit that leaves an invalid document is refused, with the reason.
    [[nodiscard]] std::optional<Error> edit(const QString& name, Project after,
                                            const QString& key = {});
    /// The mouse or key was let go: what follows is another edit.
    void endGesture() { ++m_gesture; }

    /// Opens another variant. Not an edit: nothing changes in the document.
    void showVariant(std::size_t number);
    /// `supply` as another variant behind the last, which is then open.
    [[nodiscard]] std::optional<Error> addVariant(const QString& name, const Project& supply);
    [[nodiscard]] std::optional<Error> renameVariant(std::size_t number, const QString& name);
    /// The last one stays.
    [[nodiscard]] std::optional<Error> removeVariant(std::size_t number);

  signals:
    void replaced();        ///< another document is open
    void changed();         ///< its value, or which variant is open
    void variantsChanged(); ///< their number, names, or which is open
    void fileChanged();     ///< path, name or modified mark

  private:
    class Edit;
    void replace(std::shared_ptr<const Project> whole, std::size_t variant, const QString& path,
                 const QString& origin);
    void push(const QString& name, Project whole, std::size_t variant, const QString& key = {});
    [[nodiscard]] std::optional<Error> take(const QString& name, Project whole,
                                            std::size_t variant);
    void put(std::shared_ptr<const Project> whole, std::size_t variant);

    std::shared_ptr<const Project> m_whole;
    std::size_t m_variant = 0;
    Project m_project;
    QString m_path;
    QString m_origin;
    FileStamp m_stamp;
    bool m_keepOld = false; ///< the file is of an older version: the first save keeps it as .bak
    QUndoStack m_undo;
    std::uint64_t m_gesture = 0;
    int m_edits = 0;
    int m_number = 0;
};

} // namespace sipper::app
