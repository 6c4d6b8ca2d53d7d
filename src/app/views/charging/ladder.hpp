// SPDX-License-Identifier: GPL-3.0-or-later
// What each limit would allow at the marker's moment: bars on one axis of amps, the least one lit.
#pragma once

#include "charge/choices.hpp"

#include <QFrame>
#include <vector>

namespace sipper::app {

class LadderCard : public QFrame {
    Q_OBJECT
  public:
    explicit LadderCard(QWidget* parent = nullptr);

    /// `hours` is the marker's; `sentence` says what lifting the first one would give.
    void show(const LimitCurrents& ladder, double hours, const Part& source,
              const QString& sentence);
    void clear();
    /// What a row says: `0.41 A`, `none set`; empty where the row is not shown.
    [[nodiscard]] QString rowText(ChargeLimit limit) const;
    [[nodiscard]] std::optional<ChargeLimit> least() const { return m_least; }
    [[nodiscard]] const QString& sentence() const { return m_sentence; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    struct Row {
        ChargeLimit limit = ChargeLimit::cc;
        QString name;
        std::optional<double> amps; ///< nothing: none set; infinite: it never bites
    };
    void paintRow(QPainter& p, const Row& row, double top, double tall) const;
    void paintAxis(QPainter& p, double y) const;
    [[nodiscard]] double x(double amps) const;

    std::vector<Row> m_rows;
    std::optional<ChargeLimit> m_least;
    double m_hours = 0;
    double m_low = 0.1;
    double m_high = 10;
    QString m_sentence;
};

} // namespace sipper::app
