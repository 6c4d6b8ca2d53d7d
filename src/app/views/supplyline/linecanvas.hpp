// SPDX-License-Identifier: GPL-3.0-or-later
// The drawn supply line.
#pragma once

#include "session/session.hpp"
#include "views/supplyline/linelayout.hpp"
#include "views/supplyline/partwidgets.hpp"

#include <QMap>

namespace sipper::app {

class LineCanvas : public QWidget {
    Q_OBJECT
  public:
    explicit LineCanvas(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] const LineLayout& layoutNow() const { return m_layout; }
    [[nodiscard]] QSize minimumSizeHint() const override;

  signals:
    void menuAsked(const QPoint& at); ///< on the screen, for the part that is chosen
    void opened(const QString& id);   ///< the user wants to edit this part's figures

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;

  private:
    void rebuild();  ///< after the project changed: widgets for every part
    void relayout(); ///< after the moment or the size changed
    PartWidget* widgetFor(const QString& key, const QString& id);
    void dragTo(const QString& id, double y);
    void nudge(const QString& id, int steps);
    void setVolts(const QString& id, double volts, bool dragging);
    void walk(const QString& id, int key);

    Session& m_session;
    LineLayout m_layout;
    QMap<QString, PartWidget*> m_widgets;
    std::optional<VoltAxis> m_frozen; ///< while something is dragged
};

} // namespace sipper::app
