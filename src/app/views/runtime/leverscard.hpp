// What would lengthen the run, ranked; and what people reckon on an envelope, with why it differs.
#pragma once

#include "session/background.hpp"
#include "session/session.hpp"

#include "find/levers.hpp"

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
    void choose(bool envelope);
    void clear();
    void showLevers();
    void showEnvelope();
    void addLever(const Lever& lever, std::size_t number);

    Session& m_session;
    Background m_background;
    QPushButton* m_leversButton;
    QPushButton* m_envelopeButton;
    QLabel* m_state;
    QScrollArea* m_scroll;
    QWidget* m_body;
    QVBoxLayout* m_rows;
    std::vector<Lever> m_levers; ///< with the pairs behind them
    Project m_of;                ///< the project that they belong to
    bool m_envelope = false;
};

} // namespace sipper::app
