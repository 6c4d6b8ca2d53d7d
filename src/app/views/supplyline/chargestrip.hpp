// SPDX-License-Identifier: GPL-3.0-or-later
// The discharge curve under the line, with the marker of the moment on it.
#pragma once

#include "session/session.hpp"

#include <QFrame>

class QComboBox;
class QCustomPlot;
class QLabel;
class QSlider;
class QCPItemStraightLine;
class QCPItemText;
class QCPItemRect;
class QCPItemTracer;

namespace sipper::app {

class QuantityEdit;

/// Drag or use the arrow keys to move the marker; Home is full, End the stop.
class ChargeStrip : public QFrame {
    Q_OBJECT
  public:
    explicit ChargeStrip(Session& session, QWidget* parent = nullptr);

    /// Hours into the run at which this charge is left, and back; along the longer curve.
    [[nodiscard]] double hoursAt(double charge) const;
    [[nodiscard]] double chargeAt(double hours) const;

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    [[nodiscard]] QWidget* choice();
    [[nodiscard]] QWidget* lightBox();
    void showLight();
    void addMarks();
    [[nodiscard]] QString ampsText() const;
    void rebuild();
    void place();
    void fillModes();

    Session& m_session;
    QComboBox* m_modes;
    QCustomPlot* m_plot;
    QWidget* m_lightBox;
    QLabel* m_lightSays;
    QSlider* m_light;
    QuantityEdit* m_air;
    QCPItemStraightLine* m_line;
    QCPItemText* m_bubble;
    QCPItemRect* m_out;
    QCPItemText* m_outText;
    QCPItemTracer* m_tracer;
};

} // namespace sipper::app
