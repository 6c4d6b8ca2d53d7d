#include "widgets/viewtitle.hpp"

#include "theme/theme.hpp"

namespace sipper::app {

QHBoxLayout* viewTitle(QWidget* parent, const QString& title, const QString& about) {
    auto* row = new QHBoxLayout;
    row->setSpacing(Theme::now().ipx(16));
    auto* name = new QLabel(title, parent);
    name->setFont(Theme::now().font(15, true));
    auto* text = new QLabel(about, parent);
    text->setFont(Theme::now().font(12));
    text->setStyleSheet(QStringLiteral("color: %1").arg(colour(Role::muted).name()));
    text->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    row->addWidget(name);
    row->addWidget(text, 1);
    return row;
}

} // namespace sipper::app
