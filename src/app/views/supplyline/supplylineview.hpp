// The Supply line: the drawn line, the chosen part's figures, and the charge under it.
#pragma once

#include "session/session.hpp"

#include <QWidget>

namespace sipper::app {

class ChargeStrip;
class Inspector;
class LineCanvas;

class SupplyLineView : public QWidget {
    Q_OBJECT
  public:
    explicit SupplyLineView(Session& session, QWidget* parent = nullptr);

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    Session& m_session;
    LineCanvas* m_canvas;
    Inspector* m_inspector;
    ChargeStrip* m_strip;
};

} // namespace sipper::app
