// SPDX-License-Identifier: GPL-3.0-or-later
// Where a day's charge goes, by mode: widths are charge, which heights on a logarithmic axis can't
// be.
#pragma once

#include "session/session.hpp"

#include <QWidget>

namespace sipper::app {

/// The colour of a mode wherever modes are told apart.
[[nodiscard]] QColor modeColour(const Mode& mode);

class ChargeBar : public QWidget {
    Q_OBJECT
  public:
    explicit ChargeBar(Session& session, QWidget* parent = nullptr);

    struct Part {
        std::size_t mode;
        double share; ///< of the day's charge, 0–1
        QString text; ///< name, share and charge, as far as there is room for it
    };
    [[nodiscard]] const QList<Part>& parts() const { return m_parts; }

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    bool event(QEvent* event) override;

  private:
    void refresh();
    [[nodiscard]] const Part* at(double x) const;
    [[nodiscard]] QRectF bar() const;

    Session& m_session;
    QList<Part> m_parts;
};

} // namespace sipper::app
