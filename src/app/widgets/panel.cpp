// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/panel.hpp"

#include "widgets/controls.hpp"

#include <QHeaderView>
#include <QTableView>

#include <QScrollArea>
#include <QStyle>
#include <QVBoxLayout>

namespace sipper::app {

void makeCard(QFrame& frame, const QString& name, const QString& accessible) {
    frame.setObjectName(name);
    frame.setAccessibleName(accessible);
    frame.setStyleSheet(
        QStringLiteral("#%1 { background: %2; border: 1px solid %3; border-radius: 4px; }")
            .arg(name, colour(Role::card).name(), colour(Role::hairline).name()));
}

QLabel* mutedLabel(const QString& text, QWidget* parent, double size) {
    return textLabel(parent, text, {.size = size, .ink = Role::muted});
}

QLabel* complaintLabel(const QString& name, QWidget* parent) {
    auto* label = new QLabel(parent);
    label->setObjectName(name);
    label->setFont(Theme::now().font(11));
    label->setStyleSheet(inkOf(Role::stop));
    label->setWordWrap(true);
    label->hide();
    return label;
}

void complain(QLabel& label, const QString& text) {
    label.setText(text);
    label.setVisible(!text.isEmpty());
}

QWidget* scrollingPage(QWidget* owner, const QString& name) {
    auto* outer = new QVBoxLayout(owner);
    outer->setContentsMargins(0, 0, 0, 0);
    auto* scroll = new QScrollArea(owner);
    scroll->setObjectName(name);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* page = new QWidget;
    scroll->setWidget(page);
    outer->addWidget(scroll);
    return page;
}

void styleTable(QTableView& table) {
    const Theme& t = Theme::now();
    table.verticalHeader()->hide();
    table.verticalHeader()->setDefaultSectionSize(t.ipx(24));
    table.setShowGrid(false);
    table.setWordWrap(false);
    table.setFrameShape(QFrame::NoFrame);
    table.setFont(t.font(12));
    QHeaderView* head = table.horizontalHeader();
    head->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    head->setFont(t.font(11));
    head->setHighlightSections(false);
    table.setStyleSheet(
        QStringLiteral("QTableView { background: transparent; border: none; color: %1; "
                       "selection-background-color: %2; selection-color: %1; }"
                       "QHeaderView { background: transparent; border: none; }"
                       "QHeaderView::section { background: transparent; border: none; "
                       "border-bottom: 1px solid %3; color: %4; padding: 3px; }")
            .arg(colour(Role::ink).name(), onCard(Role::copper, 0.18).name(),
                 colour(Role::hairline).name(), colour(Role::muted).name()));
}

void clearLayout(QLayout& layout) {
    while (QLayoutItem* item = layout.takeAt(0)) {
        if (QWidget* w = item->widget()) {
            w->hide();
            w->setObjectName({});
            w->deleteLater();
        }
        delete item;
    }
}

void accentButton(QWidget& button, bool on) {
    button.setProperty("accent", on);
    button.style()->unpolish(&button);
    button.style()->polish(&button);
}

QString inkOf(Role role) {
    return QStringLiteral("color: %1").arg(colour(role).name());
}

} // namespace sipper::app
