// SPDX-License-Identifier: GPL-3.0-or-later
// A field that takes a quantity as people type it.
#pragma once

#include "parts/fields.hpp"

#include <QLineEdit>

namespace sipper::app {

/// Facts of a field that belongs to no part: texts must outlive it (literals do); it may be left
/// empty, and takes `low` to `high`.
[[nodiscard]] FieldFacts typedFacts(const char* key, const char* label, const char* help, Unit unit,
                                    double low, double high);

/// Shows a figure in its unit; takes `3v3`, `150mA`, `22 AWG`. Enter or leaving the field commits.
/// What can't be read or is out of range stays in the field, marked, with what was expected in
/// `complaint()` and in the tooltip; nothing is committed then. Escape restores. Arrow up and down
/// move the last digit.
class QuantityEdit : public QLineEdit {
    Q_OBJECT
  public:
    explicit QuantityEdit(const FieldFacts& facts, QWidget* parent = nullptr);

    /// Nothing shows the preset, greyed.
    void setValue(std::optional<double> value);
    /// As last committed or set.
    [[nodiscard]] std::optional<double> value() const { return m_value; }
    [[nodiscard]] const QString& complaint() const { return m_complaint; }

  signals:
    void committed(std::optional<double> value); ///< nothing: left out
    void complained(const QString& complaint);   ///< empty when it is mended

  protected:
    void keyPressEvent(QKeyEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

  private:
    void commit();
    void show(const QString& complaint);
    [[nodiscard]] QString shown() const;

    FieldFacts m_facts;
    std::optional<double> m_value;
    QString m_complaint;
    QString m_help;
};

} // namespace sipper::app
