// SPDX-License-Identifier: GPL-3.0-or-later
// The year as days by hours: charge as shade, missed hours marked; under it the months, what the
// panel could give against what is needed.
#pragma once

#include "solar/look.hpp"
#include "theme/theme.hpp"

#include <qcustomplot.h>

namespace sipper::app {

class SunYearPlot : public QCustomPlot {
    Q_OBJECT
  public:
    explicit SunYearPlot(QWidget* parent = nullptr);

    /// The year that missed most.
    void show(const SolarYear& year);
    void clearYear();
    /// Hour of the year under the cursor or the keys' marker; nothing: none.
    [[nodiscard]] std::optional<std::size_t> marked() const { return m_marked; }
    /// `14 January, 07:00: charge 31 %, missed`.
    [[nodiscard]] QString reading() const;

  signals:
    void markedChanged(const QString& reading);
    void picked(std::size_t hour, double charge);

  protected:
    void mouseMoveEvent(QMouseEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void makeYear();
    void makeMonths();
    void mark(std::optional<std::size_t> hour);
    [[nodiscard]] std::optional<std::size_t> hourAt(const QPointF& at) const;

    QCPColorMap* m_charge;
    QCPColorMap* m_missed;
    QCPAxisRect* m_months;
    QCPBars* m_could;
    QCPBars* m_need;
    QCPItemRect* m_cursor;
    std::vector<float> m_chargeOf;
    std::vector<float> m_missedOf;
    std::optional<std::size_t> m_marked;
};

} // namespace sipper::app
