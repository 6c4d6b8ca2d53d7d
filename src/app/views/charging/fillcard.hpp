// SPDX-License-Identifier: GPL-3.0-or-later
// What could fill the cells that nothing fills yet: each charger and source of the library, solved
// on this pack; a click puts both on the line. In place of cells that must not be charged, those
// that can be.
#pragma once

#include "search/chargerchoice.hpp"
#include "session/session.hpp"

#include <QFrame>

class QLabel;
class QVBoxLayout;

namespace sipper::app {

/// The project with the charger and what feeds it on the line, and in its brief.
[[nodiscard]] Project filledBy(const Project& project, const FillChoice& fill);

class FillCard : public QFrame {
    Q_OBJECT
  public:
    explicit FillCard(Session& session, QWidget* parent = nullptr);
    /// Solves for the session's project, unless that is what it shows.
    void refresh();
    bool settle() { return m_session.jobs().waitForIdle(kJob); }
    [[nodiscard]] const std::vector<FillChoice>& choices() const { return m_choices; }
    [[nodiscard]] const std::vector<CellChoice>& cells() const { return m_cells; }

  signals:
    void answered(const QString& word, const QString& says); ///< the head of the page
    void refused(const QString& says);
    void taken();

  private:
    void show();
    void showChoices();
    void showCells();
    void showNone();
    void take(std::size_t at);
    void takeCells(std::size_t at);

    static inline const QString kJob = QStringLiteral("fill");
    Session& m_session;
    std::vector<FillChoice> m_choices;
    std::vector<CellChoice> m_cells;
    std::optional<Project> m_of;
    QLabel* m_title;
    QLabel* m_note;
    QWidget* m_list;
    QVBoxLayout* m_rows;
};

} // namespace sipper::app
