// SPDX-License-Identifier: GPL-3.0-or-later
// What cards are built of: layouts in the theme's pixels, and controls with a name, a label for
// screen readers and a tooltip. Lengths are px at the ordinary font size.
#pragma once

#include "parts/fields.hpp"
#include "theme/theme.hpp"

#include <QString>
#include <optional>

class QCheckBox;
class QFrame;
class QHBoxLayout;
class QLabel;
class QLineEdit;
class QPushButton;
class QVBoxLayout;
class QWidget;

namespace sipper::app {

class PlainCombo;
class QuantityEdit;

struct Margins {
    double left = 0, top = 0, right = 0, bottom = 0;
};

/// A layout of `parent`, or one to be put into another; where no margins or no spacing is said, the
/// style's stay.
[[nodiscard]] QHBoxLayout* newRow(QWidget* parent, std::optional<double> spacing = {},
                                  std::optional<Margins> margins = {});
[[nodiscard]] QVBoxLayout* newColumn(QWidget* parent, std::optional<double> spacing = {},
                                     std::optional<Margins> margins = {});

/// A frame with a card's ground and border.
[[nodiscard]] QFrame* newCard(QWidget* parent, const QString& name, const QString& accessible);

struct TextLook {
    double size = 13;
    bool bold = false;
    bool wrap = false;
    std::optional<Role> ink{};
    QString name{};
};
[[nodiscard]] QLabel* textLabel(QWidget* parent, const QString& text, const TextLook& look);

[[nodiscard]] QPushButton* pushButton(QWidget* parent, const QString& name, const QString& text,
                                      const QString& help = {});
[[nodiscard]] QCheckBox* checkBox(QWidget* parent, const QString& name, const QString& text,
                                  const QString& help = {});
[[nodiscard]] PlainCombo* choiceField(QWidget* parent, const QString& name,
                                      const QString& accessible, const QString& help = {});
[[nodiscard]] QLineEdit* lineField(QWidget* parent, const QString& name, const QString& accessible,
                                   const QString& help = {});
/// `width` 0: as wide as its layout lets it.
[[nodiscard]] QuantityEdit* quantityField(QWidget* parent, const QString& name,
                                          const FieldFacts& facts, double width = 0);

} // namespace sipper::app
