// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/viewtitle.hpp"

#include "theme/theme.hpp"

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
    auto* row = new QHBoxLayout;
    row->setSpacing(Theme::now().ipx(16));
    auto* name = new QLabel(title, parent);
    name->setFont(Theme::now().font(15, true));
    auto* text = new WholeLabel(about, parent);
    text->setFont(Theme::now().font(12));
    text->setStyleSheet(QStringLiteral("color: %1").arg(colour(Role::muted).name()));
    text->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    row->addWidget(name);
    row->addWidget(text, 1);
    return row;
}

QHBoxLayout* answerRow(QWidget* parent, const QString& name, QLabel*& word, QLabel*& says) {
    const Theme& t = Theme::now();
    auto* row = new QHBoxLayout;
    row->setSpacing(t.ipx(14));
    word = new QLabel(parent);
    word->setObjectName(name + QStringLiteral(".answer"));
    word->setFont(t.font(24, true));
    says = new QLabel(parent);
    says->setObjectName(name + QStringLiteral(".says"));
    says->setFont(t.font(13));
    says->setStyleSheet(QStringLiteral("color: %1").arg(colour(Role::muted).name()));
    says->setWordWrap(true);
    row->addWidget(word);
    row->addWidget(says, 1);
    return row;
}

} // namespace sipper::app
