// The open document: a project, its undo stack, its file and its results. The only owner of state;
// views show it and ask it for edits.
#pragma once

#include "session/results.hpp"
#include "session/tracework.hpp"

#include "line/operating.hpp"

#include <QObject>
#include <QString>
#include <QUndoStack>
#include <memory>
#include <thread>

namespace sipper::app {

class Session : public QObject {
    Q_OBJECT
  public:
    explicit Session(QObject* parent = nullptr);
    ~Session() override;

    [[nodiscard]] const Project& project() const { return m_project; }
    [[nodiscard]] const Results& results() const { return m_results; }
    [[nodiscard]] bool settled() const {
        return m_settled;
    } ///< range and gains belong to this project
    /// `example`, `recipe` or nothing: where a document without a file comes from.
    [[nodiscard]] const QString& origin() const { return m_origin; }
    [[nodiscard]] const QString& path() const {
        return m_path;
    } ///< empty for an example or a new one
    [[nodiscard]] bool modified() const { return !m_undo.isClean(); }
    [[nodiscard]] QUndoStack& undoStack() { return m_undo; }

    /// The moment that the copper line shows.
    [[nodiscard]] double charge() const { return m_charge; }
    [[nodiscard]] std::size_t mode() const { return m_mode; }
    [[nodiscard]] const OperatingPoint& moment() const { return m_moment; }
    /// Ids of the sources besides the pack that are plugged in at the moment shown.
    [[nodiscard]] const QStringList& plugged() const { return m_plugged; }
    void plug(const QString& source, bool in);
    [[nodiscard]] const QString& selected() const { return m_selected; }
    [[nodiscard]] const QString& highlighted() const { return m_highlighted; }

    /// Replaces the document. On failure the open one stays and the error comes back.
    [[nodiscard]] std::optional<Error> open(const QString& path);
    [[nodiscard]] std::optional<Error> openExample(const QString& name);
    [[nodiscard]] std::optional<Error> openRecipe(const QString& name);
    [[nodiscard]] std::optional<Error> save(const QString& path);

    /// The measured trace that lies on the bench, if any; it outlives the document.
    [[nodiscard]] TraceWork& traceWork() { return m_traceWork; }

    /// The whole document: the variant that is open and the others.
    [[nodiscard]] const Project& document() const { return m_document; }
    /// Number of the variant that `project` is, the one at the top being 0.
    [[nodiscard]] std::size_t variant() const { return m_variant; }
    /// Opens another variant. Not an edit: nothing changes in the document.
    void showVariant(std::size_t number);
    /// `supply` as another variant behind the last, which is then open; one undoable edit.
    std::optional<Error> addVariant(const QString& name, const Project& supply);
    std::optional<Error> renameVariant(std::size_t number, const QString& name);
    /// The last one stays.
    std::optional<Error> removeVariant(std::size_t number);

    /// One named, undoable edit. Edits of the same `key` that follow each other merge (a drag). An
    /// edit that leaves an invalid document is refused and comes back as the reason.
    std::optional<Error> edit(const QString& name, Project after, const QString& key = {});

    void setMoment(double charge, std::size_t mode);
    void select(const QString& id);
    void highlight(const QString& id);

    /// Waits for the work in the background; for tests and pictures.
    void settle();

    /// A project that ships, with the sentence that says what it is for.
    struct Shipped {
        QString name; ///< of its file
        QString title;
        QString about;
    };
    /// The recipes of data/recipes; one that can't be read is left out.
    [[nodiscard]] static QList<Shipped> recipes();
    /// Where the user's own parts are kept.
    [[nodiscard]] static QString partsFolder();
    [[nodiscard]] static QStringList exampleNames();
    [[nodiscard]] static QStringList recentFiles();

  signals:
    void documentChanged(); ///< another document, or a name, path or modified mark
    void variantsChanged(); ///< their number, names, or which is open
    void projectChanged();  ///< the project's value; its quick results are already there
    void resultsSettled();  ///< range and gains have arrived
    void momentChanged();
    void selectionChanged();
    void highlightChanged();
    void askedFor(const QString& view);

  private:
    friend class ProjectCommand;
    std::optional<Error> openShipped(const char* folder, const QString& name,
                                     const QString& origin);
    void replace(Project project, const QString& path);
    /// Puts a checked document on the undo stack.
    void push(const QString& name, Project document, std::size_t variant, const QString& key = {});
    /// The same for one that may be refused.
    std::optional<Error> take(const QString& name, Project document, std::size_t variant);
    void put(const Project& document, std::size_t variant);
    void compute();
    void solveMoment();
    void plugWhatIsNeeded();
    void startInDepth();
    void remember(const QString& path);

    Project m_document;
    std::size_t m_variant = 0;
    Project m_project; ///< the variant that is open, as a project of its own
    Results m_results;
    bool m_settled = true; ///< nothing is being computed
    QString m_path;
    QString m_origin;
    QUndoStack m_undo;
    double m_charge = 1;
    std::size_t m_mode = 0;
    OperatingPoint m_moment;
    QStringList m_plugged;
    QString m_selected;
    QString m_highlighted;
    TraceWork m_traceWork;
    std::jthread m_worker;
    std::uint64_t m_generation = 0;
};

} // namespace sipper::app
