// SPDX-License-Identifier: GPL-3.0-or-later
// The dark strip on top: always a verdict.
#pragma once

#include "session/session.hpp"

#include <QAbstractButton>
#include <QWidget>

class QLabel;

namespace sipper::app {

/// One figure of the strip: caption, figure, note. Opens the view that explains it.
class VerdictFigure : public QAbstractButton {
    Q_OBJECT
  public:
    enum class Tone { plain, good, bad };
    VerdictFigure(const QString& name, const QString& caption, QWidget* parent);
    void show3(const QString& figure, const QString& note, Tone tone = Tone::plain,
               bool old = false);
    void setCaption(const QString& caption) { m_caption = caption; }
    /// The figure is that of before; it is drawn pale.
    void setStale(bool stale) {
        m_stale = stale;
        update();
    }
    [[nodiscard]] bool stale() const { return m_stale; }
    [[nodiscard]] const QString& caption() const { return m_caption; }
    [[nodiscard]] const QString& figure() const { return m_figure; }
    [[nodiscard]] const QString& note() const { return m_note; }
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override { return sizeHint(); }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    QString m_caption;
    QString m_figure;
    QString m_note;
    Tone m_tone = Tone::plain;
    bool m_old = false; ///< a better note is being computed
    bool m_stale = false;
};

class VariantTabs;

class VerdictStrip : public QWidget {
    Q_OBJECT
  public:
    explicit VerdictStrip(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] VariantTabs& tabs() { return *m_tabs; }

  signals:
    void asked(const QString& view);
    void adviceAsked();

  protected:
    bool event(QEvent* event) override;
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;

  private:
    void refresh();
    void showCells();
    void showRefill(); ///< hours, target, worst draw: what cells are asked
    void
    showExternalLoads(); ///< amps, watts, heat: what a source is asked, where there are no cells
    void fit();

    Session& m_session;
    QLabel* m_name;
    QLabel* m_state;
    QWidget* m_titleBox;
    VariantTabs* m_tabs;
    VerdictFigure* m_runtime;
    VerdictFigure* m_target;
    VerdictFigure* m_worst;
    VerdictFigure* m_refill;
    VerdictFigure* m_weight;
    VerdictFigure* m_advice;
};

} // namespace sipper::app
