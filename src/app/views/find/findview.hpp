// SPDX-License-Identifier: GPL-3.0-or-later
// Every supply that the parts can make for these loads and this brief, and the few that none beats.
#pragma once

#include "session/livesearch.hpp"
#include "session/session.hpp"

#include <QTimer>
#include <QWidget>
#include <memory>

class QComboBox;
class QLabel;
class QPushButton;
class QTableWidget;
class QBoxLayout;

namespace sipper::app {

class RejectReasonBars;
class FindScatter;
class QuantityEdit;

class FindView : public QWidget {
    Q_OBJECT
  public:
    explicit FindView(Session& session, QWidget* parent = nullptr);

    /// Waits for the search; for tests and pictures.
    bool settle() {
        return m_session.jobs().waitForIdle(kJob) && m_session.jobs().waitForIdle(kTakeJob);
    }
    [[nodiscard]] const Search* found() const { return m_found.get(); }
    /// Takes a candidate as a new variant of the project.
    void take(std::uint64_t number);

  protected:
    void resizeEvent(QResizeEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    static inline const QString kJob = QStringLiteral("find");
    static inline const QString kTakeJob = QStringLiteral("find.take");
    QLayout* buildLimits();
    QWidget* buildRejectReasons();
    QWidget* buildList();
    void refresh();
    void start();
    void stop();
    void poll();
    void showAll();
    void showScatter();
    void showList();
    void showMisses(RejectReason fell);
    void takeKept(int index);
    [[nodiscard]] SearchOptions ask() const;

    Session& m_session;
    SearchOptions m_asked; ///< of what is shown
    std::shared_ptr<const Search> m_found;
    std::shared_ptr<const Search> m_soFar; ///< while it runs: what does it, nothing else
    std::shared_ptr<const Project> m_of;   ///< what it was found for
    std::shared_ptr<LiveSearch> m_live;
    std::stop_source m_stop;
    QTimer m_poll;
    bool m_running = false;
    std::optional<double> m_grams;
    std::optional<double> m_price;
    std::optional<double> m_hours;
    QLabel* m_word;
    QLabel* m_says;
    QLabel* m_complaint;
    QuantityEdit* m_gramsField;
    QuantityEdit* m_priceField;
    QuantityEdit* m_hoursField;
    QComboBox* m_cells;
    QPushButton* m_go;
    FindScatter* m_scatter;
    RejectReasonBars* m_bars;
    QLabel* m_misses;
    QTableWidget* m_list;
    QBoxLayout* m_row;
};

} // namespace sipper::app
