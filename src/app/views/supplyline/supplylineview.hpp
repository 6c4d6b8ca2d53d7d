// SPDX-License-Identifier: GPL-3.0-or-later
// The Supply line: the drawn line, the chosen part's figures, and the charge under it.
#pragma once

#include "session/session.hpp"

#include <QWidget>

namespace sipper::app {

class BuildBar;
class ChargeStrip;
class CurvesCard;
class Inspector;
class LineCanvas;

class SupplyLineView : public QWidget {
    Q_OBJECT
  public:
    explicit SupplyLineView(Session& session, QWidget* parent = nullptr);

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    void share();

    Session& m_session;
    LineCanvas* m_canvas;
    BuildBar* m_build;
    Inspector* m_inspector;
    ChargeStrip* m_strip;
    CurvesCard* m_curves;
    bool m_curvesOn = false;
};

} // namespace sipper::app
