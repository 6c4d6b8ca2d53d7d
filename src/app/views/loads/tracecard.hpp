// SPDX-License-Identifier: GPL-3.0-or-later
// The trace card: the cut, its levels to drag, name, join and split, and taking it over.
#pragma once

#include "session/session.hpp"

#include <QFrame>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QToolButton;

namespace sipper::app {

class TracePlot;

/// Moves a level up and down: by mouse, and by the arrow keys.
class LevelGrip : public QWidget {
    Q_OBJECT
  public:
    LevelGrip(std::size_t level, QWidget* parent);

  signals:
    void dragged(double byPixels);
    void nudged(int steps);
    void join();

  protected:
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void paintEvent(QPaintEvent*) override;

  private:
    std::size_t m_level;
    double m_last = 0;
};

/// One level: grip, name, what it is, and what can be done with it.
class LevelRow : public QWidget {
    Q_OBJECT
  public:
    LevelRow(TraceWork& work, TracePlot& plot, std::size_t level, QWidget* parent);
    void refresh(const QString& proposedName);
    [[nodiscard]] QString figures() const;

  private:
    TraceWork& m_work;
    std::size_t m_level;
    QLineEdit* m_name;
    QLabel* m_figures;
    QToolButton* m_join;
    QToolButton* m_split;
};

class TraceCard : public QFrame {
    Q_OBJECT
  public:
    TraceCard(Session& session, QWidget* parent = nullptr);

  signals:
    void used();
    void hideAsked();

  private:
    void refresh();
    void rebuildRows();
    void arrangeRows();
    void fillLoads();
    void use();
    [[nodiscard]] QString remarks() const;

    Session& m_session;
    TraceWork& m_work;
    QLabel* m_title;
    QLabel* m_about;
    QLabel* m_remarks;
    QComboBox* m_load;
    bool m_loadChosen = false; ///< by hand; else it follows what is selected
    QComboBox* m_how;
    QCheckBox* m_power;
    QPushButton* m_use;
    TracePlot* m_plot;
    QWidget* m_levels;
    QList<LevelRow*> m_rows;
    QLabel* m_complaint;
};

} // namespace sipper::app
