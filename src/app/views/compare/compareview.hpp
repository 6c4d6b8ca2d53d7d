// SPDX-License-Identifier: GPL-3.0-or-later
// Variants side by side: what they come to, and what tells them apart.
#pragma once

#include "session/session.hpp"

#include "compare/compare.hpp"

#include <QSet>
#include <QWidget>
#include <memory>

class QGridLayout;
class QHBoxLayout;
class QLabel;
class QScrollArea;

namespace sipper::app {

/// Hours as a bar from nothing, with the range as a line across its end and the target as a mark.
class RunBar : public QWidget {
    Q_OBJECT
  public:
    RunBar(double hours, std::optional<RuntimeQuantiles> range, double target, double scale,
           QWidget* parent);
    [[nodiscard]] QSize sizeHint() const override;

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    double m_hours;
    std::optional<RuntimeQuantiles> m_range;
    double m_target; ///< 0: none
    double m_scale;  ///< hours of the whole width
};

class CompareView : public QWidget {
    Q_OBJECT
  public:
    explicit CompareView(Session& session, QWidget* parent = nullptr);

    /// What is shown; null before anything has been compared.
    [[nodiscard]] const Comparison* shown() const { return m_shown.get(); }
    bool settle() { return m_session.jobs().waitForIdle(kJob); }

  private:
    static constexpr const char* kJob = "compare";
    struct Row;
    [[nodiscard]] std::vector<std::size_t> chosen() const;
    [[nodiscard]] std::vector<Row> figures() const;
    void refresh(); ///< the choice of variants, and then what they come to
    void fillChoice();
    void solve();
    void fill();
    void addHeads();
    void addRow(const Row& row);
    void addSection(const QString& title);
    QLabel* cell(const QString& text, const QString& name);

    Session& m_session;
    QHBoxLayout* m_choice;
    QLabel* m_state;
    QScrollArea* m_scroll;
    QGridLayout* m_grid = nullptr;
    QSet<QString> m_left; ///< names that are left out by hand
    std::shared_ptr<const Comparison> m_shown;
    std::vector<std::size_t> m_numbers;  ///< of the columns shown
    std::shared_ptr<const Project> m_of; ///< the document that they belong to
};

} // namespace sipper::app
