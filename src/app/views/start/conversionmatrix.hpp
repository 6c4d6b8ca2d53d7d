// SPDX-License-Identifier: GPL-3.0-or-later
// Have against need: sources across, wanted volts down, and in each field what stands between.
#pragma once

#include "request/conversion.hpp"

#include <QWidget>
#include <optional>

class QLabel;

namespace sipper::app {

class ConversionMatrix : public QWidget {
    Q_OBJECT
  public:
    explicit ConversionMatrix(QWidget* parent = nullptr);

    struct Field {
        int have = 0;
        int want = 0;
        bool operator==(const Field&) const = default;
    };
    [[nodiscard]] QRectF box(Field field) const;
    [[nodiscard]] Field at() const { return m_at; }
    [[nodiscard]] const ConversionAdvice& between(Field field) const;

  signals:
    void pointed(const QString& why); ///< of the field under pointer or keys
    void chosen(sipper::SourceKind have, double volts);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    void leaveEvent(QEvent* event) override;

  private:
    [[nodiscard]] std::optional<Field> under(const QPointF& at) const;
    void point(Field field);
    void choose(Field field);

    std::array<std::array<ConversionAdvice, kTargetVolts.size()>, kHaves> m_all;
    Field m_at;
    bool m_lit = false; ///< the pointer or the keys are in it
};

} // namespace sipper::app
