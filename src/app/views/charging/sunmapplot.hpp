// SPDX-License-Identifier: GPL-3.0-or-later
// Panel against pack: what each pair misses as shade, and the lines from where on nothing is.
#pragma once

#include "solar/map.hpp"
#include "theme/theme.hpp"

#include <qcustomplot.h>

namespace sipper::app {

class SunMapPlot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit SunMapPlot(QWidget* parent = nullptr);
    /// As far as it is known; fields that are not stay paper.
    void show(const SizingMap& map);
    /// Words for the field under the cursor; empty for none.
    [[nodiscard]] QString reading() const;

  signals:
    void readingChanged(const QString& reading);
    void picked(std::size_t panel, std::size_t pack);

  protected:
    void mouseMoveEvent(QMouseEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    using Field = std::pair<std::size_t, std::size_t>; ///< panel, pack
    [[nodiscard]] std::optional<Field> fieldAt(const QPointF& at) const;
    void mark(std::optional<Field> field);
    void showLines(const SizingMap& map);
    [[nodiscard]] static std::size_t lineBefore(const SizingMap& map, std::size_t years);

    QCPColorMap* m_missed;
    std::map<std::size_t, QCPCurve*> m_lines;
    std::map<std::size_t, QCPItemText*> m_names;
    QCPItemTracer* m_own;
    QCPItemText* m_ownText;
    QCPItemRect* m_cursor;
    QCPItemText* m_fineText;
    SizingMap m_map;
    bool m_any = false;
    std::optional<Field> m_marked;
};

} // namespace sipper::app
