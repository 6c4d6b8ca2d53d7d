// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/supplyline/supplylineview.hpp"

#include "theme/theme.hpp"
#include "views/supplyline/buildbar.hpp"
#include "views/supplyline/chargestrip.hpp"
#include "views/supplyline/curvescard.hpp"
#include "views/supplyline/linecanvas.hpp"
#include "widgets/controls.hpp"
#include "widgets/inspector.hpp"
#include "widgets/refresher.hpp"
#include "widgets/viewtitle.hpp"

#include <QShortcut>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

constexpr double kLineShare = 0.48; ///< of the work area, at the least
constexpr int kAround = 48;         ///< px of title and margins
constexpr int kLeastFigures = 64;   ///< px of the figures: a row, the rest scrolls
constexpr int kLeastStrip = 84;     ///< px of the charge: lower, and it folds away

} // namespace

SupplyLineView::SupplyLineView(Session& session, QWidget* parent)
    : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("supply-line"));
    auto* column = newColumn(this, 8, Margins{16, 8, 16, 12});
    auto* title =
        viewTitle(this, tr("Supply line"), tr("every voltage on its way from source to load"));
    column->addLayout(title);
    m_canvas = new LineCanvas(session, this);
    column->addWidget(m_canvas, 1);
    m_build = new BuildBar(session, this);
    column->addWidget(m_build);
    m_inspector = new Inspector(session, this);
    column->addWidget(m_inspector);
    auto* strip = m_strip = new ChargeStrip(session, this);
    column->addWidget(strip);
    m_curves = new CurvesCard(session, this);
    column->addWidget(m_curves);
    connect(m_canvas, &LineCanvas::opened, m_inspector, &Inspector::enter);
    connect(m_canvas, &LineCanvas::menuAsked, m_build, &BuildBar::showMenu);
    const auto key = [this](const QKeySequence& keys, auto act) {
        auto* shortcut = new QShortcut(keys, this);
        shortcut->setContext(Qt::WidgetWithChildrenShortcut);
        connect(shortcut, &QShortcut::activated, m_build, act);
    };
    key(Qt::Key_Delete, [this] { m_build->remove(); });
    key(Qt::Key_Insert, [this] { m_build->showAdd(); });
    key(Qt::Key_F2, [this] { m_build->rename(); });
    key(Qt::Key_F4, [this] { m_build->swap(); });
    key(QKeySequence(Qt::ALT | Qt::Key_Left), [this] { m_build->move(-1); });
    key(QKeySequence(Qt::ALT | Qt::Key_Right), [this] { m_build->move(1); });
    connect(m_build, &BuildBar::curvesAsked, this, [this](bool on) {
        m_curvesOn = on;
        share();
    });
    new Refresher(this, session, {&Session::selectionChanged, &Session::projectChanged},
                  [this] { share(); });
    share();
}

/// Curves of the chosen regulator take the room of the figures and the charge; where the window is
/// low, figures and charge give way to the line, which keeps the larger part.
void SupplyLineView::share() {
    const Theme& t = Theme::now();
    const Project& p = m_session.project();
    const bool curves = m_curvesOn && CurvesCard::has(p, m_session.selected().toStdString());
    const int gaps = layout()->spacing() * 4 + t.ipx(kAround);
    const int besides =
        static_cast<int>(height() * (1 - kLineShare)) - m_build->sizeHint().height() - gaps;
    const bool strip = !curves && m_session.results().sweep.has_value() &&
                       besides >= t.ipx(kLeastFigures + kLeastStrip);
    const int stripHeight = std::clamp(height() / 6, t.ipx(kLeastStrip), t.ipx(114));
    const int left = besides - (strip ? stripHeight : 0);
    m_curves->setFixedHeight(std::clamp(height() * 2 / 5, std::min(besides, t.ipx(230)),
                                        std::min(std::max(besides, 1), t.ipx(330))));
    m_strip->setFixedHeight(stripHeight);
    // Whole rows: none is cut through.
    const int figures = std::clamp(std::min(height() / 5, left), 1, t.ipx(140));
    m_inspector->setFixedHeight(Inspector::heightOf(Inspector::heightOf(2) <= figures ? 2 : 1) +
                                m_inspector->cautionHeight());
    m_curves->setVisible(curves);
    m_inspector->setVisible(!curves && !p.stages.empty() && left >= t.ipx(kLeastFigures));
    m_strip->setVisible(strip);
}

void SupplyLineView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    share();
}

} // namespace sipper::app
