// SPDX-License-Identifier: GPL-3.0-or-later
// Beside a guard: the schools of its cut-off, how to prove it, what follows the cut, ways back.
#pragma once

#include "session/session.hpp"
#include "widgets/pagedcard.hpp"

class QLabel;

namespace sipper::app {

class GuardCard : public PagedCard {
    Q_OBJECT
  public:
    explicit GuardCard(Session& session, QWidget* parent = nullptr);

    void show(const std::shared_ptr<const ProtectionAnalysis>& look, std::size_t guard);

  signals:
    void refused(const QString& says);

  private:
    enum class Page { policies, proof, after, ways };
    void fillPage() override;
    void addPolicies();
    void addProof();
    void addAfter();
    void addWays();
    QLabel* addText(const QString& text, const QString& name = {});
    [[nodiscard]] const GuardAnalysis* guard() const;

    Session& m_session;
    std::shared_ptr<const ProtectionAnalysis> m_look;
    std::size_t m_guard = 0;
};

} // namespace sipper::app
