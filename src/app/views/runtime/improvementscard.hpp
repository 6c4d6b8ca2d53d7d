// SPDX-License-Identifier: GPL-3.0-or-later
// What would lengthen the run, ranked; beside it, on pages of their own, what runpages.hpp says.
#pragma once

#include "session/session.hpp"
#include "views/runtime/runpages.hpp"

#include "improve/improvements.hpp"
#include "widgets/pagedcard.hpp"

class QLabel;
class QPushButton;

namespace sipper::app {

class ImprovementsCard : public PagedCard {
    Q_OBJECT
  public:
    explicit ImprovementsCard(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] const std::vector<Improvement>& levers() const { return m_improvements; }
    bool settle() { return m_session.jobs().waitForIdle(kJob); }

  private:
    static constexpr const char* kJob = "levers";
    enum class Page { levers, envelope, range, units, wear };
    [[nodiscard]] Page which() const { return static_cast<Page>(page()); }
    void fillPage() override;
    void showImprovements();
    void solve();
    [[nodiscard]] bool isOfNow() const; ///< the levers are of the project that is open
    void addTexts(const std::vector<PageText>& page, const QString& none);
    QLabel* addText(const QString& name, const QString& richText);
    void addImprovement(const Improvement& lever, std::size_t number);
    [[nodiscard]] static QString costsOf(const Improvement& lever);
    QPushButton*
    improvementButton(std::size_t number, const char* name, const QString& text,
                      const QString& help,
                      std::optional<Error> (ImprovementsCard::*act)(const Improvement&));
    [[nodiscard]] std::optional<Error> use(const Improvement& lever);
    [[nodiscard]] std::optional<Error> attempt(const Improvement& lever);

    Session& m_session;
    std::vector<Improvement> m_improvements; ///< with the pairs behind them
    std::shared_ptr<const Project> m_of;     ///< the project that they belong to
    DeviceRow::Device m_device;              ///< the other device's battery, as last asked for
};

} // namespace sipper::app
