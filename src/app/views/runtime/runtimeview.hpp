// SPDX-License-Identifier: GPL-3.0-or-later
// How long it runs: the discharge with its target, its end and the reason, and where the energy
// goes.
#pragma once

#include "session/session.hpp"

#include "runtime/whatif.hpp"

#include <QWidget>

class QCheckBox;
class QSlider;
class QLabel;
class QLayout;

namespace sipper::app {

class DischargePlot;

class RuntimeView : public QWidget {
    Q_OBJECT
  public:
    explicit RuntimeView(Session& session, QWidget* parent = nullptr);

    /// Waits for the runs at the sliders; for tests and pictures.
    bool settle() { return m_session.jobs().waitForIdle(kWhatIf); }

  private:
    static constexpr const char* kWhatIf = "what-if";
    void refresh();
    QLayout* buildVerdict();
    QLayout* buildWhatIf();
    [[nodiscard]] QString why() const;
    /// The sliders stand where it is planned, where another project or plan is open.
    void settleSliders();
    void askWhatIf(); ///< the run at the sliders' air and age, and at five temperatures
    void sayWhatIf(const WhatIf* other);

    Session& m_session;
    QLabel* m_answer;
    QLabel* m_why;
    QWidget* m_body; ///< what there is to show of a run
    DischargePlot* m_plot;
    QSlider* m_air;
    QSlider* m_age;
    QCheckBox* m_five;
    QLabel* m_whatIf;
    /// What is planned: °C, per cent, of which cells, in which of the documents opened.
    struct Planned {
        int air = 0;
        int age = 0;
        std::string cell;
        int document = 0;
        bool operator==(const Planned&) const = default;
    };
    [[nodiscard]] Planned planned() const;
    Planned m_planned; ///< what the sliders were last set to
};

} // namespace sipper::app
