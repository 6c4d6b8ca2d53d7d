// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/sheet/sheetcanvas.hpp"

#include "theme/theme.hpp"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kWidest =
    900; ///< px of a page: beyond that it only grows, it does not read better
constexpr double kBetween = 16; ///< px between pages
constexpr double kDim = 0.14;   ///< of the paper's light that the night theme takes

} // namespace

SheetCanvas::SheetCanvas(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("sheet.paper"));
    setAccessibleName(tr("The build sheet"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    QSizePolicy policy(QSizePolicy::Expanding, QSizePolicy::Minimum);
    policy.setHeightForWidth(true);
    setSizePolicy(policy);
}

void SheetCanvas::show(SheetPaper paper) {
    m_paper = std::move(paper);
    m_row = std::min(m_row, static_cast<int>(m_paper.rows().size()) - 1);
    setMinimumHeight(heightForWidth(width()));
    updateGeometry();
    update();
}

void SheetCanvas::choose(const QString& id) {
    if (m_chosen == id)
        return;
    m_chosen = id;
    update();
}

double SheetCanvas::scale() const {
    if (m_paper.size().isEmpty())
        return 1;
    return std::min<double>(width() - 4, Theme::now().px(kWidest)) / m_paper.size().width();
}

QPointF SheetCanvas::corner(int page) const {
    const double s = scale();
    return {(width() - m_paper.size().width() * s) / 2,
            2 + page * (m_paper.size().height() * s + Theme::now().px(kBetween))};
}

QRectF SheetCanvas::onWidget(int page, const QRectF& box) const {
    const double s = scale();
    const QPointF at = corner(page);
    return {at.x() + box.x() * s, at.y() + box.y() * s, box.width() * s, box.height() * s};
}

QRectF SheetCanvas::placeOf(const SheetPaper::Row& row) const {
    return onWidget(row.page, row.box);
}
QRectF SheetCanvas::tickOf(const SheetPaper::Row& row) const {
    return row.tick.isEmpty() ? QRectF() : onWidget(row.page, row.tick);
}

int SheetCanvas::heightForWidth(int wide) const {
    if (m_paper.pages() == 0)
        return 10;
    const double s = std::min<double>(wide - 4, Theme::now().px(kWidest)) / m_paper.size().width();
    return static_cast<int>(
        std::ceil(4 + m_paper.pages() * (m_paper.size().height() * s + Theme::now().px(kBetween))));
}

QSize SheetCanvas::sizeHint() const {
    const int wide = Theme::now().ipx(640);
    return {wide, heightForWidth(wide)};
}

void SheetCanvas::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    setMinimumHeight(heightForWidth(width()));
}

void SheetCanvas::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const double s = scale();
    for (int page = 0; page < m_paper.pages(); ++page) {
        const QRectF sheet = onWidget(page, QRectF(QPointF(0, 0), m_paper.size()));
        if (!visibleRegion().boundingRect().toRectF().intersects(sheet))
            continue;
        p.fillRect(sheet, Qt::white);
        p.save();
        p.translate(sheet.topLeft());
        p.scale(s, s);
        m_paper.paint(p, page, m_chosen);
        p.restore();
        if (Theme::now().night()) {
            QColor dark = Qt::black;
            dark.setAlphaF(static_cast<float>(kDim));
            p.fillRect(sheet, dark);
        }
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(colour(Role::hairline), 1));
        p.drawRect(sheet);
    }
    if (hasFocus() && m_row >= 0) {
        p.setPen(QPen(colour(Role::copper), Theme::now().px(1.5)));
        p.drawRoundedRect(
            placeOf(m_paper.rows()[static_cast<std::size_t>(m_row)]).adjusted(-4, -2, 4, 2), 3, 3);
    }
}

int SheetCanvas::rowAt(const QPointF& at) const {
    const auto& rows = m_paper.rows();
    for (std::size_t i = 0; i < rows.size(); ++i)
        if (placeOf(rows[i]).contains(at))
            return static_cast<int>(i);
    return -1;
}

void SheetCanvas::mousePressEvent(QMouseEvent* event) {
    setFocus();
    const int at = rowAt(event->position());
    if (at < 0)
        return;
    m_row = at;
    const SheetPaper::Row row = m_paper.rows()[static_cast<std::size_t>(at)];
    const double near = Theme::now().px(5);
    if (tickOf(row).adjusted(-near, -near, near, near).contains(event->position()))
        emit ticked(row.key, !row.have);
    else if (!row.id.isEmpty())
        emit chosen(row.id);
    update();
}

void SheetCanvas::mouseMoveEvent(QMouseEvent* event) {
    setCursor(rowAt(event->position()) >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
}

bool SheetCanvas::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const int at = rowAt(help->pos());
        if (at >= 0 && !tickOf(m_paper.rows()[static_cast<std::size_t>(at)]).isEmpty())
            QToolTip::showText(
                help->globalPos(),
                tr("Click the box when it is bought; click the row to choose the part"), this);
        else
            QToolTip::hideText();
        return true;
    }
    return QWidget::event(event);
}

void SheetCanvas::goTo(int row) {
    const auto& rows = m_paper.rows();
    if (rows.empty())
        return;
    m_row = std::clamp(row, 0, static_cast<int>(rows.size()) - 1);
    const SheetPaper::Row& at = rows[static_cast<std::size_t>(m_row)];
    setAccessibleDescription(at.text);
    emit wants(placeOf(at).toAlignedRect());
    update();
}

void SheetCanvas::keyPressEvent(QKeyEvent* event) {
    const auto& rows = m_paper.rows();
    switch (event->key()) {
    case Qt::Key_Down:
        goTo(m_row + 1);
        return;
    case Qt::Key_Up:
        goTo(m_row - 1);
        return;
    case Qt::Key_Home:
        goTo(0);
        return;
    case Qt::Key_End:
        goTo(static_cast<int>(rows.size()) - 1);
        return;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        if (m_row >= 0 && !rows[static_cast<std::size_t>(m_row)].id.isEmpty())
            emit chosen(rows[static_cast<std::size_t>(m_row)].id);
        return;
    case Qt::Key_Space:
        if (m_row >= 0 && !rows[static_cast<std::size_t>(m_row)].tick.isEmpty()) {
            const SheetPaper::Row row = rows[static_cast<std::size_t>(m_row)];
            emit ticked(row.key, !row.have);
        }
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

} // namespace sipper::app
