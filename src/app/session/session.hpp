// SPDX-License-Identifier: GPL-3.0-or-later
// What the views see of a document: its project, its results and the moment shown. It joins the
// three owners of state; views show and ask for edits, and never compute.
#pragma once

#include "session/displayedpoint.hpp"
#include "session/document.hpp"
#include "session/jobs.hpp"
#include "session/recoverykeeper.hpp"
#include "session/results.hpp"
#include "session/tracework.hpp"

#include <chrono>
#include <functional>

namespace sipper::app {

class Session : public QObject {
    Q_OBJECT
  public:
    explicit Session(QObject* parent = nullptr);
    ~Session() override;

    [[nodiscard]] Document& file() { return m_document; }
    [[nodiscard]] const Document& file() const { return m_document; }
    [[nodiscard]] Jobs& jobs() { return m_jobs; }
    [[nodiscard]] RecoveryKeeper& recovery() { return m_recovery; }
    /// The measured trace that lies on the bench, if any; it outlives the document.
    [[nodiscard]] TraceWork& traceWork() { return m_traceWork; }

    [[nodiscard]] const Project& project() const { return m_document.project(); }
    [[nodiscard]] const Project& document() const { return m_document.whole(); }
    [[nodiscard]] std::size_t variant() const { return m_document.variant(); }
    [[nodiscard]] const Results& results() const { return m_results; }
    /// Range and gains belong to this project.
    [[nodiscard]] bool resultsCurrent() const { return m_settled; }
    /// What an edit shows at once is late: the figures are those of before, as far as they still
    /// have their places, and are shown as such.
    [[nodiscard]] bool late() const { return m_late; }
    /// Late for good: the analysis of this project broke off.
    [[nodiscard]] bool brokenOff() const { return m_brokenOff; }
    /// How long the window's thread waits for what an edit shows at once.
    static constexpr std::chrono::milliseconds kWaits{14};
    /// Another patience for sessions made from now on; for tests on a busy machine.
    static void setPatience(std::chrono::milliseconds patience) { s_patience = patience; }
    /// Another for this session, from its next edit on.
    void setOwnPatience(std::chrono::milliseconds patience) { m_patience = patience; }
    /// What works it out, beside the window; tests put their own here.
    using Analyse = std::function<QuickAnalysis(const Project&, const std::stop_token&)>;
    void setAnalysis(Analyse analyse) { m_analyse = std::move(analyse); }
    /// Of how many builds the range is made; fewer are told sooner, and less surely.
    void setRangeBuilds(int builds) { m_rangeBuilds = builds; }
    /// Something was opened or made: not the blank page that a session begins with.
    [[nodiscard]] bool hasProject() const {
        return !path().isEmpty() || !origin().isEmpty() || modified() ||
               !project().stages.empty() || !project().loads.empty();
    }
    [[nodiscard]] const QString& path() const { return m_document.path(); }
    [[nodiscard]] const QString& origin() const { return m_document.origin(); }
    [[nodiscard]] bool modified() const { return m_document.modified(); }
    [[nodiscard]] QUndoStack& undoStack() { return m_document.undoStack(); }

    [[nodiscard]] std::optional<Error> open(const QString& path);
    [[nodiscard]] std::optional<Error> openExample(const QString& name);
    [[nodiscard]] std::optional<Error> openRecipe(const QString& name);
    /// A document that was made from what somebody needs.
    void openMade(Project document, const QString& origin) {
        m_document.openMade(std::move(document), origin);
    }
    [[nodiscard]] std::optional<Error> save(const QString& path);

    /// As Document has it: refused edits come back as the reason.
    [[nodiscard]] std::optional<Error> edit(const QString& name, Project after,
                                            const QString& key = {}) {
        return m_document.edit(name, std::move(after), key);
    }
    /// The same where there is no place of its own for the reason: the window says it.
    void apply(const QString& name, Project after, const QString& key = {});
    void endGesture() { m_document.endGesture(); }
    void showVariant(std::size_t number) { m_document.showVariant(number); }
    [[nodiscard]] std::optional<Error> addVariant(const QString& name, const Project& supply) {
        return m_document.addVariant(name, supply);
    }
    [[nodiscard]] std::optional<Error> renameVariant(std::size_t number, const QString& name) {
        return m_document.renameVariant(number, name);
    }
    [[nodiscard]] std::optional<Error> removeVariant(std::size_t number) {
        return m_document.removeVariant(number);
    }

    [[nodiscard]] double charge() const { return m_moment.charge(); }
    [[nodiscard]] std::size_t mode() const { return m_moment.mode(); }
    [[nodiscard]] const OperatingPoint& moment() const { return m_moment.point(); }
    [[nodiscard]] const QStringList& plugged() const { return m_moment.plugged(); }
    [[nodiscard]] const QString& selected() const { return m_moment.selected(); }
    [[nodiscard]] const QString& highlighted() const { return m_moment.highlighted(); }
    void setDisplayedPoint(double charge, std::size_t mode) {
        m_moment.set(project(), charge, mode);
    }
    [[nodiscard]] double light() const { return m_moment.light(); }
    [[nodiscard]] std::optional<double> lightAir() const { return m_moment.lightAir(); }
    void setLight(double light, std::optional<double> air) {
        m_moment.setLight(project(), light, air);
    }
    void plug(const QString& source, bool in) { m_moment.plug(project(), source, in); }
    void select(const QString& id) { m_moment.select(id); }
    void highlight(const QString& id) { m_moment.highlight(id); }

    /// Waits for everything in the pool; for tests and pictures.
    void waitForIdle();

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
    /// Where the user's own cells are kept.
    [[nodiscard]] static QString drawerPath();
    [[nodiscard]] static QStringList exampleNames();
    [[nodiscard]] static QStringList recentFiles();

  signals:
    void viewAsked(const QString& view); ///< by what leads on from where it stands
    void documentChanged();              ///< another document, or a name, path or modified mark
    void variantsChanged();              ///< their number, names, or which is open
    void projectChanged();       ///< the project's value; its quick results are already there
    void resultsUpdated();       ///< range and gains have arrived
    void lateChanged(bool late); ///< see `late`
    void momentChanged();
    void selectionChanged();
    void highlightChanged();
    void refused(const sipper::Error& error); ///< an edit or a piece of work came to nothing

  private:
    void begin();
    void follow();
    void compute(bool anew);
    void takeQuick(QuickAnalysis quick);
    enum class Arrival { opened, openedLate, edited };
    void arrived(Arrival arrival);
    void computeDeep();
    void setLate(bool late);
    void breakOff(const std::string& why);
    static void remember(const QString& path);

    Jobs m_jobs;
    Document m_document;
    DisplayedPoint m_moment;
    RecoveryKeeper m_recovery;
    TraceWork m_traceWork;
    Results m_results;
    bool m_settled = true; ///< nothing is being computed
    bool m_late = false;
    bool m_brokenOff = false;
    Project m_shape; ///< whose places the results have
    Analyse m_analyse;
    int m_rangeBuilds = kSamples;
    std::chrono::milliseconds m_patience{s_patience};
    static inline std::chrono::milliseconds s_patience{kWaits};
};

} // namespace sipper::app
