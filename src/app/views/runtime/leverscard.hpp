// What would lengthen the run, ranked; what people reckon on an envelope, and why it differs; what
// the range rests on; the same charge in other units; and how the cells age in use and unused.
#pragma once

#include "session/background.hpp"
#include "session/session.hpp"

#include "find/levers.hpp"
#include "runtime/worth.hpp"

#include <QFrame>

class QLabel;
class QPushButton;
class QScrollArea;
class QVBoxLayout;

namespace sipper::app {

class LeversCard : public QFrame {
    Q_OBJECT
  public:
    explicit LeversCard(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] const std::vector<Lever>& levers() const { return m_levers; }
    bool settle() { return m_background.settle(); }

  protected:
    void showEvent(QShowEvent* event) override;

  private:
    void solve();
    enum class Page { levers, envelope, range, units, wear };
    void choose(Page page);
    void showPage();
    void showLevers();
    void showEnvelope();
    void showRange();
    void showUnits();
    void showWear();
    QWidget* deviceRow(const Worth& worth); ///< refills of another device
    QLabel* addText(const QString& name, const QString& richText);
    void addLever(const Lever& lever, std::size_t number);

    Session& m_session;
    Background m_background;
    QList<QPushButton*> m_pages; ///< in the order of Page
    QLabel* m_state;
    QScrollArea* m_scroll;
    QWidget* m_body;
    QVBoxLayout* m_rows;
    std::vector<Lever> m_levers; ///< with the pairs behind them
    Project m_of;                ///< the project that they belong to
    Page m_page = Page::levers;
    double m_deviceAh = 3; ///< the other device's battery, as last asked for
    double m_deviceVolts = 3.7;
};

} // namespace sipper::app
