// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/controls.hpp"

#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"

#include <QCheckBox>
#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

template <class Box>
Box* newBox(QWidget* parent, std::optional<double> spacing, const std::optional<Margins>& margins) {
    const Theme& t = Theme::now();
    auto* box = parent ? new Box(parent) : new Box;
    if (margins)
        box->setContentsMargins(t.ipx(margins->left), t.ipx(margins->top), t.ipx(margins->right),
                                t.ipx(margins->bottom));
    if (spacing)
        box->setSpacing(t.ipx(*spacing));
    return box;
}

void describe(QWidget& control, const QString& name, const QString& accessible,
              const QString& help) {
    control.setObjectName(name);
    if (!accessible.isEmpty())
        control.setAccessibleName(accessible);
    if (!help.isEmpty())
        control.setToolTip(help);
}

} // namespace

QHBoxLayout* newRow(QWidget* parent, std::optional<double> spacing,
                    std::optional<Margins> margins) {
    return newBox<QHBoxLayout>(parent, spacing, margins);
}

QVBoxLayout* newColumn(QWidget* parent, std::optional<double> spacing,
                       std::optional<Margins> margins) {
    return newBox<QVBoxLayout>(parent, spacing, margins);
}

QFrame* newCard(QWidget* parent, const QString& name, const QString& accessible) {
    auto* card = new QFrame(parent);
    makeCard(*card, name, accessible);
    return card;
}

QLabel* textLabel(QWidget* parent, const QString& text, const TextLook& look) {
    auto* label = new QLabel(text, parent);
    label->setObjectName(look.name);
    label->setFont(Theme::now().font(look.size, look.bold));
    label->setWordWrap(look.wrap);
    if (look.ink)
        label->setStyleSheet(inkOf(*look.ink));
    return label;
}

QPushButton* pushButton(QWidget* parent, const QString& name, const QString& text,
                        const QString& help) {
    auto* button = new QPushButton(text, parent);
    describe(*button, name, {}, help);
    return button;
}

QCheckBox* checkBox(QWidget* parent, const QString& name, const QString& text,
                    const QString& help) {
    auto* box = new QCheckBox(text, parent);
    describe(*box, name, {}, help);
    return box;
}

PlainCombo* choiceField(QWidget* parent, const QString& name, const QString& accessible,
                        const QString& help) {
    auto* combo = new PlainCombo(parent);
    describe(*combo, name, accessible, help);
    return combo;
}

QLineEdit* lineField(QWidget* parent, const QString& name, const QString& accessible,
                     const QString& help) {
    auto* edit = new QLineEdit(parent);
    describe(*edit, name, accessible, help);
    return edit;
}

QuantityEdit* quantityField(QWidget* parent, const QString& name, const FieldFacts& facts,
                            double width) {
    auto* edit = new QuantityEdit(facts, parent);
    edit->setObjectName(name);
    if (width > 0)
        edit->setFixedWidth(Theme::now().ipx(width));
    return edit;
}

} // namespace sipper::app
