// SPDX-License-Identifier: GPL-3.0-or-later
// The pictures that lead the pages beside the checks: a connector with its volts, two rows of
// readings with their overlap, the cells of the drawer as bars. Before there is anything they show,
// faintly, what of this project will stand there.
#pragma once

#include "inventory/inventory.hpp"
#include "measure/pairs.hpp"
#include "measure/pins.hpp"

#include <QWidget>

namespace sipper::app {

/// A connector seen on its face, its pins with the volts written at them.
class PinDrawing : public QWidget {
    Q_OBJECT
  public:
    explicit PinDrawing(QWidget* parent = nullptr);
    /// What was found; `faint`: what is to be expected, before anything was read.
    void show(const PinAnalysis& look, const QString& title, bool faint);

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    PinAnalysis m_look;
    QString m_title;
    bool m_faint = false;
};

/// Readings on the cells over those on the supply, on one scale; where the rows overlap is shaded.
class PairDots : public QWidget {
    Q_OBJECT
  public:
    explicit PairDots(QWidget* parent = nullptr);
    void show(const ReadingPair& pair, bool faint);

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    ReadingPair m_pair;
    bool m_faint = false;
};

/// Cells as bars of what they hold, the fullest first, with what they resist as a tick under it.
class CellBars : public QWidget {
    Q_OBJECT
  public:
    explicit CellBars(QWidget* parent = nullptr);
    /// `faint`: the cells of the project, before any was measured.
    void show(std::vector<OwnedCell> cells, bool faint);
    [[nodiscard]] QSize sizeHint() const override;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    std::vector<OwnedCell> m_cells;
    bool m_faint = false;
};

} // namespace sipper::app
