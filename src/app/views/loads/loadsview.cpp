#include "views/loads/loadsview.hpp"

#include "theme/theme.hpp"
#include "views/loads/loadgrid.hpp"
#include "views/loads/modebar.hpp"
#include "views/loads/skyline.hpp"
#include "views/supplyline/inspector.hpp"
#include "widgets/viewtitle.hpp"

#include <QVBoxLayout>

namespace sipper::app {

LoadsView::LoadsView(Session& session, QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("loads"));
    const Theme& t = Theme::now();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(t.ipx(16), t.ipx(8), t.ipx(16), t.ipx(12));
    column->setSpacing(t.ipx(6));
    column->addLayout(viewTitle(this, tr("Loads"), tr("what your project draws, and when")));
    const auto caption = [&](const QString& text) {
        auto* label = new QLabel(text, this);
        label->setFont(t.font(12, true));
        label->setStyleSheet(QStringLiteral("color: %1").arg(colour(Role::muted).name()));
        column->addWidget(label);
    };
    caption(tr("A day, at the cells"));
    column->addWidget(new Skyline(session, true, this), 3);
    caption(tr("One cycle"));
    column->addWidget(new Skyline(session, false, this), 2);
    column->addWidget(new ModeBar(session, this));
    column->addWidget(new LoadGrid(session, this), 4);
    auto* inspector = new Inspector(session, this);
    inspector->setFixedHeight(t.ipx(122));
    column->addWidget(inspector);
}

} // namespace sipper::app
