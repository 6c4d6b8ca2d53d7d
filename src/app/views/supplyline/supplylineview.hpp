// The Supply line: the drawn line, the chosen part's figures, and the charge under it.
#pragma once

#include "session/session.hpp"

#include <QWidget>

class QComboBox;

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
    void fillModes();

    Session& m_session;
    QComboBox* m_modes;
    LineCanvas* m_canvas;
    Inspector* m_inspector;
    ChargeStrip* m_strip;
};

} // namespace sipper::app
