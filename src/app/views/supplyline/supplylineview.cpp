#include "views/supplyline/supplylineview.hpp"

#include "theme/theme.hpp"
#include "views/supplyline/chargestrip.hpp"
#include "views/supplyline/inspector.hpp"
#include "views/supplyline/linecanvas.hpp"
#include "widgets/viewtitle.hpp"

#include <QVBoxLayout>

namespace sipper::app {

SupplyLineView::SupplyLineView(Session& session, QWidget* parent)
    : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("supply-line"));
    const Theme& theme = Theme::now();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(theme.ipx(16), theme.ipx(8), theme.ipx(16), theme.ipx(12));
    column->setSpacing(theme.ipx(8));
    auto* title =
        viewTitle(this, tr("Supply line"),
                  tr("every voltage on its way from cell to load, over one whole charge"));
    column->addLayout(title);
    m_canvas = new LineCanvas(session, this);
    column->addWidget(m_canvas, 1);
    m_inspector = new Inspector(session, this);
    column->addWidget(m_inspector);
    auto* strip = m_strip = new ChargeStrip(session, this);
    column->addWidget(strip);
    connect(m_canvas, &LineCanvas::opened, m_inspector, &Inspector::enter);
    const auto hideWithoutCells = [this, strip] {
        const bool any = m_session.results().survey.has_value();
        m_inspector->setVisible(any);
        strip->setVisible(any);
    };
    connect(&session, &Session::projectChanged, this, hideWithoutCells);
    hideWithoutCells();
}

/// Figures and charge give way to the line where the window is low.
void SupplyLineView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    const Theme& t = Theme::now();
    m_inspector->setFixedHeight(std::clamp(height() / 5, t.ipx(116), t.ipx(140)));
    m_strip->setFixedHeight(std::clamp(height() / 6, t.ipx(92), t.ipx(114)));
}

} // namespace sipper::app
