// What would lengthen the run, ranked; beside it, on pages of their own, what runpages.hpp says.
#pragma once

#include "session/session.hpp"
#include "views/runtime/runpages.hpp"

#include "find/levers.hpp"

#include <QFrame>

class QHBoxLayout;
class QLabel;
class QPushButton;
class QVBoxLayout;

namespace sipper::app {

class LeversCard : public QFrame {
    Q_OBJECT
  public:
    explicit LeversCard(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] const std::vector<Lever>& levers() const { return m_levers; }
    bool settle() { return m_session.jobs().settle(kJob); }

  private:
    static constexpr const char* kJob = "levers";
    enum class Page { levers, envelope, range, units, wear };
    void addPage(QHBoxLayout* head, const QString& text, const char* name, const QString& help,
                 Page which);
    void choose(Page page);
    void showPage();
    void showLevers();
    void solve();
    [[nodiscard]] bool isOfNow() const; ///< the levers are of the project that is open
    void addTexts(const std::vector<PageText>& page, const QString& none);
    QLabel* addText(const QString& name, const QString& richText);
    void addLever(const Lever& lever, std::size_t number);
    [[nodiscard]] static QString costsOf(const Lever& lever);
    QPushButton* leverButton(std::size_t number, const char* name, const QString& text,
                             const QString& help,
                             std::optional<Error> (LeversCard::*act)(const Lever&));
    [[nodiscard]] std::optional<Error> use(const Lever& lever);
    [[nodiscard]] std::optional<Error> attempt(const Lever& lever);

    Session& m_session;
    QList<QPushButton*> m_pages; ///< in the order of Page
    QLabel* m_state;
    QWidget* m_body;
    QVBoxLayout* m_rows;
    std::vector<Lever> m_levers;         ///< with the pairs behind them
    std::shared_ptr<const Project> m_of; ///< the project that they belong to
    Page m_page = Page::levers;
    DeviceRow::Device m_device; ///< the other device's battery, as last asked for
};

} // namespace sipper::app
