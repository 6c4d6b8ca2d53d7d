// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/viewtitle.hpp"

#include "theme/theme.hpp"
#include "widgets/controls.hpp"

namespace sipper::app {
namespace {

/// Said whole, or not at all.
class WholeLabel : public QLabel {
  public:
    using QLabel::QLabel;

  protected:
    void paintEvent(QPaintEvent* event) override {
        if (width() >= sizeHint().width())
            QLabel::paintEvent(event);
    }
};

} // namespace

QHBoxLayout* viewTitle(QWidget* parent, const QString& title, const QString& about) {
    auto* row = newRow(nullptr, 16);
    auto* name = textLabel(parent, title, {.size = 15, .bold = true});
    auto* text = new WholeLabel(about, parent);
    text->setFont(Theme::now().font(12));
    text->setStyleSheet(QStringLiteral("color: %1").arg(colour(Role::muted).name()));
    text->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    row->addWidget(name);
    row->addWidget(text, 1);
    return row;
}

QHBoxLayout* answerRow(QWidget* parent, const QString& name, QLabel*& word, QLabel*& says) {
    auto* row = newRow(nullptr, 14);
    word =
        textLabel(parent, {}, {.size = 24, .bold = true, .name = name + QStringLiteral(".answer")});
    says = textLabel(
        parent, {},
        {.size = 13, .wrap = true, .ink = Role::muted, .name = name + QStringLiteral(".says")});
    row->addWidget(word);
    row->addWidget(says, 1);
    return row;
}

} // namespace sipper::app
