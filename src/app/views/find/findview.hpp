// Every supply that the parts can make for these loads and this brief, and the few that none beats.
#pragma once

#include "search/search.hpp"
#include "session/session.hpp"

#include <QTimer>
#include <QWidget>
#include <memory>
#include <mutex>

class QComboBox;
class QLabel;
class QPushButton;
class QTableWidget;
class QCustomPlot;
class QCPGraph;
class QBoxLayout;

namespace sipper::app {

class FellBars;
class QuantityEdit;

class FindView : public QWidget {
    Q_OBJECT
  public:
    explicit FindView(Session& session, QWidget* parent = nullptr);

    /// Waits for the search; for tests and pictures.
    bool settle() { return m_session.jobs().settle(kJob) && m_session.jobs().settle(kTakeJob); }
    [[nodiscard]] const Search* found() const { return m_found.get(); }
    /// Takes a candidate as a new variant of the project.
    void take(std::uint64_t number);

  protected:
    void resizeEvent(QResizeEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    enum class Axis { hours, grams, price, size, worst, refill };
    static inline const QString kJob = QStringLiteral("find");
    static inline const QString kTakeJob = QStringLiteral("find.take");
    struct Live {
        std::mutex mutex;
        SearchCounts counts;
    };

    QLayout* buildLimits();
    QWidget* buildScatter();
    QWidget* buildFell();
    QWidget* buildList();
    void refresh();
    void start();
    void stop();
    void poll();
    void showAll();
    void showScatter();
    void showList();
    void showMisses(Fell fell);
    void choose(int index);
    /// Index of the one under the pointer; -1: none.
    [[nodiscard]] int nearest(const QPoint& at) const;
    void say(int index);
    void pick(const QPoint& at);
    [[nodiscard]] static double valueOn(const Candidate& c, Axis axis);
    [[nodiscard]] QString axisText(Axis axis) const;
    [[nodiscard]] SearchAsk ask() const;
    [[nodiscard]] bool inCorner(const Candidate& c) const;

    Session& m_session;
    SearchAsk m_asked; ///< of what is shown
    std::shared_ptr<const Search> m_found;
    std::shared_ptr<const Project> m_of; ///< what it was found for
    std::shared_ptr<Live> m_live;
    std::stop_source m_stop;
    QTimer m_poll;
    bool m_running = false;
    std::optional<double> m_grams;
    std::optional<double> m_price;
    std::optional<double> m_hours;
    Axis m_x = Axis::grams;
    Axis m_y = Axis::hours;
    std::vector<bool> m_onEdge;     ///< of what was kept
    int m_chosen = -1;              ///< index into what was kept
    std::optional<QRectF> m_corner; ///< in the units of the axes
    QLabel* m_word;
    QLabel* m_says;
    QLabel* m_complaint;
    QuantityEdit* m_gramsField;
    QuantityEdit* m_priceField;
    QuantityEdit* m_hoursField;
    QComboBox* m_cells;
    QPushButton* m_go;
    QCustomPlot* m_plot;
    QCPGraph* m_all = nullptr;
    QCPGraph* m_own = nullptr; ///< of parts of the user's own
    QCPGraph* m_edge = nullptr;
    QCPGraph* m_yours = nullptr;
    QCPGraph* m_mark = nullptr;
    QLabel* m_hover;
    QComboBox* m_xBox;
    QComboBox* m_yBox;
    QPushButton* m_takeButton;
    QPushButton* m_wide;
    bool m_showAll = false; ///< the whole scatter, far past the short list
    FellBars* m_bars;
    QLabel* m_misses;
    QTableWidget* m_list;
    QBoxLayout* m_row;
};

} // namespace sipper::app
