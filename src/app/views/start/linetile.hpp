// SPDX-License-Identifier: GPL-3.0-or-later
// A supply as a small drawn line: what it is, how long it runs, and one sentence.
#pragma once

#include "project/project.hpp"
#include "session/results.hpp"
#include "views/supplyline/linelayout.hpp"

#include <QAbstractButton>
#include <memory>

namespace sipper::app {

/// What a tile shows of a project, worked out beside the window.
struct TileLook {
    Project project;
    Results results;
    OperatingPoint point;
    QString runs;    ///< `61 h`, `by a wire`
    QString trouble; ///< the gravest finding in a sentence; empty where there is none
    std::optional<Severity> severity;
};
[[nodiscard]] std::shared_ptr<const TileLook> tileLookOf(Project project);

class LineTile : public QAbstractButton {
    Q_OBJECT
  public:
    /// `says`: the sentence until a look says what is wrong; `troubles`: that is what it says then.
    LineTile(const QString& name, const QString& title, const QString& says, bool troubles,
             QWidget* parent);
    void setLook(std::shared_ptr<const TileLook> look);
    /// Instead of a look: a file that can't be read.
    void setBroken(const QString& why);
    [[nodiscard]] const TileLook* look() const { return m_look.get(); }
    [[nodiscard]] const QString& sentence() const { return m_says; }
    /// As wide as there is room, in place of the one width that tiles have.
    void stretch();
    /// When it was saved, for a file of the user's.
    void setWhen(const QString& when);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    void paintLine(QPainter& painter, const QRectF& box) const;
    void name();

    QString m_title;
    QString m_says;
    QString m_when;
    bool m_troubles;
    bool m_broken = false;
    std::shared_ptr<const TileLook> m_look;
};

} // namespace sipper::app
